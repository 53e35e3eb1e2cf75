package records

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
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
	// reads are the fields that are read of a record at first, by tables; all where it is nil.
	reads map[string][]string
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

// Reading has of a record those fields read at first that expressions name: all of it is read where
// another one is asked for.
func (e *Env) Reading(fields map[string][]string) *Env {
	e.reads = fields
	return e
}

// Hold has nobody else change records until the unit of work is over, and reads them again when they are asked for.
func (e *Env) Hold(table string, ids ...string) {
	if t := e.seat.Blueprint.Table(table); t != nil {
		e.err = errors.Join(e.err, e.road.Hold(e.ctx, e.seat, t, ids...))
	}
	for _, id := range ids {
		delete(e.rows, table+" "+id)
		delete(e.rows, table+" "+id+" whole")
	}
}

// Err gives what went wrong while reading, if anything.
func (e *Env) Err() error { return e.err }

// Clock says what time it is.
func (e *Env) Clock() expr.Clock { return e.seat.Clock }

// person stands for the signed-in person where their table is not known.
const person = "person"

// Start gives the record at a root.
func (e *Env) Start(root expr.Root) expr.Value {
	id, ok := e.roots[root]
	switch {
	case root == expr.RootMe && !ok:
		id = person
	case root == expr.RootKept:
		id = expr.KeptTable
	}
	return expr.RecordOf(id)
}

// Field gives a field of a record.
func (e *Env) Field(record expr.Value, f *expr.Field) expr.Value {
	switch {
	case f.Table == expr.PersonTable && f.ID == "email":
		return expr.TextOf(e.seat.Viewer.Email)
	case f.Table == expr.PersonTable:
		return expr.TextOf(e.seat.Viewer.Name)
	case f.Table == expr.KeptTable:
		return keptValue(f, e.seat.Kept[f.ID])
	case f.Type.Many && f.Type.Kind == expr.Record:
		return e.records(query.BuildLinked(e.seat.context(), f, record.Text))
	}
	return valueOf(f, e.row(f.Table, record.Text, f.ID)[f.ID])
}

// Records lists the records of a table in the order of making.
func (e *Env) Records(table string) []expr.Value {
	return e.records(query.BuildIDs(e.seat.context(), e.seat.Blueprint.Table(table))).Items
}

// Label gives the text by which a record is known.
func (e *Env) Label(table string, record expr.Value) expr.Value {
	label, ok := e.row(table, record.Text, "")["label"].(string)
	if !ok {
		return expr.Empty()
	}
	return expr.TextOf(label)
}

func (e *Env) records(stmt query.Statement, err error) expr.Value {
	if err == nil {
		var ids []Row
		if ids, err = e.road.rows(e.ctx, stmt); err == nil {
			var out []expr.Value
			for _, id := range ids {
				out = append(out, expr.RecordOf(string(id)))
			}
			return expr.ListValue(out)
		}
	}
	e.err = errors.Join(e.err, fmt.Errorf("read records for an expression: %w", err))
	return expr.Empty()
}

// row reads a record, with the field that is asked for: "" for its label, which all have.
func (e *Env) row(table, id, field string) map[string]any {
	key, fields := table+" "+id, []string{}
	fields = append(fields, e.reads[table]...)
	if e.reads == nil || field != "" && !slices.Contains(fields, field) {
		key, fields = key+" whole", nil
	}
	if row, ok := e.rows[key]; ok {
		return row
	}
	row := map[string]any{}
	e.rows[key] = row
	var raw Row
	t := e.seat.Blueprint.Table(table)
	held, err := e.heldRow(t, id, field, fields)
	if held == nil && err == nil {
		if raw, err = e.road.get(e.ctx, e.seat, t, id, fields); err == nil {
			err = json.Unmarshal(raw, &row)
		}
	} else if err == nil {
		row = held
	}
	if err == nil {
		e.rows[key] = row
	}
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		e.err = errors.Join(e.err, fmt.Errorf("read a record for an expression: %w", err))
	}
	return row
}

// heldRow reads a record that is held by who may see all, if all that is wanted of it is what people enter: so it is read
// once for what it becomes, and for what it was. Nil tells that it is to be read as others are.
func (e *Env) heldRow(t *blueprint.Table, id, field string, fields []string) (map[string]any, error) {
	if e.road.later == nil || !e.road.later.held[id] || !e.seat.Viewer.Founder || field == "" || fields == nil {
		return nil, nil
	}
	for _, fid := range fields {
		if f := t.Field(fid); f == nil || !f.Type.Entered() || f.Type.Filed() || f.Type == blueprint.Links {
			return nil, nil
		}
	}
	return e.road.heldRow(e.ctx, e.seat, t, id, fields)
}

// keptValue gives a value that is kept for somebody.
func keptValue(f *expr.Field, text string) expr.Value {
	switch {
	case text == "":
		return expr.Empty()
	case f.Type.Kind == expr.YesNo:
		return expr.YesNoOf(text == "true")
	}
	return valueOf(f, text)
}

// ValueOf gives a field of a row that was read as a value.
func ValueOf(c *expr.Catalog, table, field string, v any) expr.Value {
	return valueOf(&expr.Field{ID: field, Table: table, Type: c.TypeOf(table, field)}, v)
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
	case map[string]any: // a linked record, as lists of them have it
		if id, ok := v["id"].(string); ok {
			return expr.RecordOf(id)
		}
	case []any:
		one := *f
		one.Type = f.Type.One()
		var items []expr.Value
		for _, x := range v {
			items = append(items, valueOf(&one, x))
		}
		return expr.ListValue(items)
	}
	return expr.Empty()
}
