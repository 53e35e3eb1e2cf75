package runtime

import (
	"context"
	"errors"
	"log/slog"
	"time"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/service"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
)

type serviceInput struct {
	PageInput
	Block string `path:"block"`
}

// ServiceRows are what a service answers.
type ServiceRows struct {
	Rows [][]any    `json:"rows" doc:"Texts, numbers as texts, times as RFC 3339, and yes or no; null for empty"`
	At   *time.Time `json:"at,omitempty" doc:"Since when that is known; none where it is a sample"`
	// Problem tells why there is nothing to show.
	Problem string `json:"problem,omitempty"`
}

// answer gives what a service answers that a block shows.
func (h *Handlers) answer(ctx context.Context, p *Place, in *serviceInput) (*output[ServiceRows], error) {
	v, err := p.open(ctx, h.Apps, in.Path, in.Record)
	if err != nil {
		return nil, err
	}
	x, given, err := v.Asked(ctx, in.Block)
	if err != nil {
		return nil, err
	}
	connection, call := p.Seat.Blueprint.CallOf(x.Call)
	if call == nil {
		return nil, store.ErrNotFound
	}
	rows, at, err := h.rows(ctx, p, connection, call, x, given)
	var told *words.Problem
	if errors.As(err, &told) { // which tells of how the app is made, and nothing to people
		body := ServiceRows{Rows: [][]any{}, Problem: words.Say("service-not-now", nil)}
		if p.Seat.Viewer.Founder {
			body.Problem = told.Error()
		}
		slog.WarnContext(ctx, "a service has no answer for a page", "app", p.App.ID, "service", connection.ID, "problem", told.Code)
		return &output[ServiceRows]{body}, nil
	}
	if err != nil {
		return nil, err
	}
	body := ServiceRows{Rows: [][]any{}, At: at}
	for _, row := range rows {
		one := []any{}
		for _, t := range x.Shown(call) {
			one = append(one, shownValue(row[t.ID]))
		}
		body.Rows = append(body.Rows, one)
	}
	return &output[ServiceRows]{body}, nil
}

// rows asks the service, or reads the sample of its answer where nothing goes out.
func (h *Handlers) rows(ctx context.Context, p *Place, connection *blueprint.Connection, call *blueprint.Call, x *blueprint.ServiceBlock,
	given map[string]expr.Value) ([]service.Row, *time.Time, error) {
	asked, err := service.Compose(call, func(id string) expr.Value { return given[id] })
	if err != nil {
		return nil, nil, err
	}
	if p.Seat.Schema != apps.SchemaName(p.App, apps.Live) && !connection.Real {
		rows, err := service.Sampled(connection, call)
		return rows, nil, err
	}
	minutes := x.Minutes
	if minutes == 0 {
		minutes = blueprint.ServiceMinutes
	}
	rows, at, err := h.Answers.Rows(ctx, p.App.ID, connection, call, asked, time.Duration(minutes)*time.Minute)
	return rows, &at, err
}

func shownValue(v expr.Value) any {
	switch {
	case v.IsEmpty():
		return nil
	case v.Kind == expr.YesNo:
		return v.True()
	}
	return v.String()
}
