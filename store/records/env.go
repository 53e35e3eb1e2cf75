package records

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/store"
)

// Env gives the evaluator the person's own record and that of the page, and
// reads the records that links lead to when they are asked for, all as the
// person sees them.
type Env struct {
	ctx   context.Context
	road  Road
	seat  *Seat
	roots map[expr.Root]string
	rows  map[string]map[string]any
	err   error
}

// Env makes the environment. Either table may be nil.
func (r Road) Env(ctx context.Context, s *Seat, me, page *blueprint.Table) *Env {
	e := &Env{ctx: ctx, road: r, seat: s, roots: map[expr.Root]string{}, rows: map[string]map[string]any{}}
	if me != nil {
		e.roots[expr.RootMe] = s.Viewer.Me(s.Blueprint, me.ID)
	}
	if page != nil {
		e.roots[expr.RootPage] = s.Page
	}
	return e
}

// Err gives what went wrong while reading, if anything.
func (e *Env) Err() error { return e.err }

// Today is the current date.
func (e *Env) Today() string { return e.seat.Today }

// Ref follows a path from one of the roots.
func (e *Env) Ref(root expr.Root, path []*expr.Field) expr.Value {
	id := e.roots[root]
	if len(path) > 0 && path[0].Table == expr.PersonTable {
		if path[0].ID == "email" {
			return expr.TextOf(e.seat.Viewer.Email)
		}
		return expr.TextOf(e.seat.Viewer.Name)
	}
	value := expr.RecordOf(id)
	for _, f := range path {
		if value.IsEmpty() {
			return value
		}
		value = valueOf(f, e.row(f.Table, value.Text)[f.ID])
	}
	return value
}

func (e *Env) row(table, id string) map[string]any {
	key := table + " " + id
	if row, ok := e.rows[key]; ok {
		return row
	}
	row := map[string]any{}
	e.rows[key] = row
	raw, err := e.road.Get(e.ctx, e.seat, e.seat.Blueprint.Table(table), id)
	if err == nil {
		err = json.Unmarshal(raw, &row)
		e.rows[key] = row
	}
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		e.err = errors.Join(e.err, fmt.Errorf("read a record for an expression: %w", err))
	}
	return row
}

// valueOf gives a field of a row that was read as a value.
func valueOf(f *expr.Field, v any) expr.Value {
	switch v := v.(type) {
	case bool:
		return expr.YesNoOf(v)
	case string:
		switch f.Type.Kind {
		case expr.Number:
			d, err := decimal.NewFromString(v)
			if err != nil {
				return expr.Empty()
			}
			return expr.NumberOf(d)
		case expr.Text:
			return expr.TextOf(v)
		}
		return expr.Value{Kind: f.Type.Kind, Text: v}
	}
	return expr.Empty()
}
