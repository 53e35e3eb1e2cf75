package store

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5"
	"go.opentelemetry.io/otel"
	"go.opentelemetry.io/otel/attribute"
	"go.opentelemetry.io/otel/codes"
	"go.opentelemetry.io/otel/trace"
)

// Observer is told of every statement, or batch of statements, that was run, for
// whom it was, how long it took, and whether it failed.
type Observer func(w Work, took time.Duration, failed bool)

// slow is how long a statement takes that is written down, of work that somebody
// waits for.
const slow = 500 * time.Millisecond

// tracer watches statements. Values are never written down: they are what people
// keep.
type tracer struct{ observe Observer }

type running struct {
	began time.Time
	sql   string
	span  trace.Span
}

type runningKey struct{}

func (*tracer) begin(ctx context.Context, sql string) context.Context {
	w := WorkOf(ctx)
	ctx, span := otel.Tracer("pinegate/store").Start(ctx, "statement", trace.WithSpanKind(trace.SpanKindClient), trace.WithAttributes(
		attribute.String("db.system.name", "postgresql"), attribute.String("db.query.text", sql),
		attribute.String("pinegate.app", w.App), attribute.String("pinegate.page", w.Page),
		attribute.String("pinegate.kind", w.Kind.String())))
	return context.WithValue(ctx, runningKey{}, &running{time.Now(), sql, span})
}

func (t *tracer) end(ctx context.Context, err error) {
	r, ok := ctx.Value(runningKey{}).(*running)
	if !ok {
		return
	}
	took, w := time.Since(r.began), WorkOf(ctx)
	failed := err != nil && !errors.Is(err, pgx.ErrNoRows)
	if failed {
		r.span.SetStatus(codes.Error, err.Error())
	}
	r.span.End()
	if took >= slow && w.Kind != Bulk {
		slog.WarnContext(ctx, "slow statement", "took_ms", took.Milliseconds(), "kind", w.Kind.String(), "sql", shortened(r.sql))
	}
	if t.observe != nil {
		t.observe(w, took, failed)
	}
}

// longestLogged is how many bytes of a statement are written down.
const longestLogged = 2000

func shortened(sql string) string {
	if len(sql) > longestLogged {
		return sql[:longestLogged] + " …"
	}
	return sql
}

// TraceQueryStart is called by pgx before a statement.
func (t *tracer) TraceQueryStart(ctx context.Context, _ *pgx.Conn, d pgx.TraceQueryStartData) context.Context {
	return t.begin(ctx, d.SQL)
}

// TraceQueryEnd is called by pgx after a statement.
func (t *tracer) TraceQueryEnd(ctx context.Context, _ *pgx.Conn, d pgx.TraceQueryEndData) {
	t.end(ctx, d.Err)
}

// TraceBatchStart is called by pgx before statements that are sent together.
func (t *tracer) TraceBatchStart(ctx context.Context, _ *pgx.Conn, d pgx.TraceBatchStartData) context.Context {
	sql := ""
	for i, q := range d.Batch.QueuedQueries {
		if i > 0 {
			sql += ";\n"
		}
		sql += q.SQL
	}
	return t.begin(ctx, sql)
}

// TraceBatchQuery is called by pgx after each statement of a batch.
func (*tracer) TraceBatchQuery(context.Context, *pgx.Conn, pgx.TraceBatchQueryData) {}

// TraceBatchEnd is called by pgx after a batch.
func (t *tracer) TraceBatchEnd(ctx context.Context, _ *pgx.Conn, d pgx.TraceBatchEndData) {
	t.end(ctx, d.Err)
}
