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

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/records"
)

// Error gives the answer to an error. What the person can do something about
// is told; all else is logged and answered with a plain apology.
func Error(ctx context.Context, err error) error {
	var problem *blueprint.Problem
	var fields records.FieldErrors
	var status huma.StatusError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &status):
		return err
	case errors.As(err, &problem):
		return &huma.ErrorModel{Status: http.StatusUnprocessableEntity, Title: "This cannot be done", Detail: problem.Message, Errors: mistakes(problem)}
	case errors.As(err, &fields):
		return Fields(fields)
	case errors.Is(err, store.ErrNotFound):
		return huma.Error404NotFound("This is not there, or not for you.")
	case errors.Is(err, records.ErrForbidden):
		return huma.Error403Forbidden("You may not do this. Nothing was changed.")
	case errors.Is(err, records.ErrChanged):
		return huma.Error409Conflict("Someone changed this meanwhile. Nothing was overwritten; look at the new values and enter yours again if they are still right.")
	case errors.Is(err, accounts.ErrOften):
		return huma.Error429TooManyRequests("That was tried too often. Wait a quarter of an hour and try again.")
	case errors.Is(err, accounts.ErrRefused):
		return huma.Error401Unauthorized("That did not work. Check what you entered and try again.")
	case errors.Is(err, context.Canceled):
		return huma.NewError(499, "The request was given up.")
	}
	slog.ErrorContext(ctx, "request failed", "error", err)
	return huma.Error500InternalServerError("Something went wrong on our side. Nothing was saved; please try again.")
}

// Fields gives the answer that says at which fields something is wrong.
func Fields(fields records.FieldErrors) error {
	out := &huma.ErrorModel{Status: http.StatusUnprocessableEntity, Title: "Some answers need another look", Detail: "Some answers need another look. Nothing was saved yet."}
	for id, message := range fields {
		out.Errors = append(out.Errors, &huma.ErrorDetail{Location: id, Message: message})
	}
	sort.Slice(out.Errors, func(i, j int) bool { return out.Errors[i].Location < out.Errors[j].Location })
	return out
}

func mistakes(p *blueprint.Problem) []*huma.ErrorDetail {
	var e *expr.Error
	if !errors.As(p, &e) {
		return nil
	}
	return []*huma.ErrorDetail{{Location: "expression", Message: e.Error(), Value: e.At}}
}
