package gate

import (
	"context"
	"log/slog"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"
)

// jobErrors logs jobs that fail; the queue tries them again.
type jobErrors struct{}

// HandleError logs an error.
func (*jobErrors) HandleError(ctx context.Context, job *rivertype.JobRow, err error) *river.ErrorHandlerResult {
	slog.ErrorContext(ctx, "job failed", "kind", job.Kind, "attempt", job.Attempt, "error", err)
	return nil
}

// HandlePanic logs a panic.
func (*jobErrors) HandlePanic(ctx context.Context, job *rivertype.JobRow, value any, trace string) *river.ErrorHandlerResult {
	slog.ErrorContext(ctx, "job panicked", "kind", job.Kind, "value", value, "trace", trace)
	return nil
}
