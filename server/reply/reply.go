// Package reply turns errors into answers: one JSON shape for all of them, RFC
// 9457 problem details.
package reply

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"sort"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// Error gives the answer to an error. What the person can do something about
// is told; all else is logged and answered with a plain apology.
func Error(ctx context.Context, err error) error {
	var problem *words.Problem
	var fields records.FieldErrors
	var status huma.StatusError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &status):
		return err
	case errors.Is(err, accounts.ErrOften):
		told := words.Say("answer-often", nil)
		if errors.As(err, &problem) {
			told = problem.Error()
		}
		return huma.Error429TooManyRequests(told)
	case errors.As(err, &problem):
		return &huma.ErrorModel{Status: http.StatusUnprocessableEntity, Title: words.Say("answer-cannot", nil), Detail: problem.Error(),
			Errors: mistakes(problem)}
	case errors.As(err, &fields):
		return Fields(fields)
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound(words.Say("answer-missing", nil))
	case errors.Is(err, records.ErrForbidden):
		return huma.Error403Forbidden(words.Say("answer-forbidden", nil))
	case errors.Is(err, records.ErrChanged):
		return huma.Error409Conflict(words.Say("answer-changed", nil))
	case errors.Is(err, accounts.ErrRefused):
		return huma.Error401Unauthorized(words.Say("answer-refused", nil))
	case errors.Is(err, context.Canceled), errors.Is(ctx.Err(), context.Canceled): // nobody waits for the answer any more
		return huma.NewError(499, words.Say("answer-stopped", nil))
	}
	slog.ErrorContext(ctx, "request failed", "error", err)
	if errors.Is(err, apps.ErrNewer) {
		return huma.Error503ServiceUnavailable(words.Say("answer-newer", nil))
	}
	if trouble := store.Trouble(err); trouble != nil && trouble != store.ErrRenamed {
		return huma.Error503ServiceUnavailable(troubled(trouble))
	}
	return huma.Error500InternalServerError(Broken(ctx))
}

// troubled says what is the matter with the database, as far as it is for whoever
// asked.
func troubled(trouble error) string {
	switch trouble {
	case store.ErrBusy:
		return words.Say("answer-busy", nil)
	case store.ErrLong:
		return words.Say("answer-long", nil)
	case store.ErrHeld:
		return words.Say("answer-held", nil)
	case store.ErrFull:
		return words.Say("answer-full", nil)
	}
	return words.Say("answer-no-database", nil)
}

// Broken says that something went wrong on our side, with the number under which
// it stands in the log.
func Broken(ctx context.Context) string {
	return words.Say("answer-broken", words.Args{"request": store.WorkOf(ctx).Request})
}

// Fields gives the answer that says at which fields something is wrong.
func Fields(fields records.FieldErrors) error {
	out := &huma.ErrorModel{Status: http.StatusUnprocessableEntity, Title: words.Say("answer-fields", nil),
		Detail: words.Say("answer-fields-text", nil)}
	for id, message := range fields {
		out.Errors = append(out.Errors, &huma.ErrorDetail{Location: id, Message: message.Error()})
	}
	sort.Slice(out.Errors, func(i, j int) bool { return out.Errors[i].Location < out.Errors[j].Location })
	return out
}

func mistakes(p *words.Problem) []*huma.ErrorDetail {
	var e *expr.Error
	if !errors.As(p, &e) {
		return nil
	}
	return []*huma.ErrorDetail{{Location: "expression", Message: e.Error(), Value: e.At}}
}
