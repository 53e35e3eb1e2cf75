package run

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/query"
	"pinegate/core/report"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// do does what a step wants done.
func (d *doing) do(ctx context.Context, e flow.Effect) (flow.Outcome, error) {
	switch e := e.(type) {
	case *flow.Add:
		return d.add(ctx, e)
	case *flow.Change:
		return flow.Outcome{}, d.change(ctx, e)
	case *flow.Delete:
		return flow.Outcome{}, d.delete(ctx, e)
	case *flow.Find:
		return d.find(ctx, e)
	case *flow.Mail:
		return flow.Outcome{}, d.mail(ctx, e)
	case *flow.Show:
		d.result.Message, d.result.Tone = e.Text, e.Tone
		d.log.now().Text = e.Text
		return flow.Outcome{}, nil
	case *flow.Document:
		return flow.Outcome{}, d.document(ctx, e)
	case *flow.Keep:
		return flow.Outcome{}, d.keep(ctx, e)
	case *flow.Person:
		err := d.person(ctx, e)
		d.later.Forget() // the gate has roads of its own
		return flow.Outcome{}, err
	case *flow.Open:
		p := d.seat.Blueprint.Page(e.Page)
		d.result.Page, d.result.Record = p.Path, e.Record
		d.log.now().Text = p.Name
		return flow.Outcome{}, nil
	}
	return flow.Outcome{}, fmt.Errorf("run workflow %s: nobody knows what %T is", d.start.Workflow.Name, e)
}

func (d *doing) table(id string) *blueprint.Table { return d.seat.Blueprint.Table(id) }

func (d *doing) add(ctx context.Context, e *flow.Add) (out flow.Outcome, err error) {
	var list []records.Fresh
	for _, row := range e.Rows {
		entered, err := records.Entered(row.Values)
		if err != nil {
			return out, err
		}
		list = append(list, records.Fresh{Entered: entered})
	}
	writes, err := d.road.AddAll(ctx, d.seat, d.table(e.Table), list, func(int) string { return "" })
	if err != nil {
		return out, d.about(err, e.Table)
	}
	d.log.now().Writes = writes
	for _, w := range writes {
		out.Records = append(out.Records, w.Record)
	}
	return out, nil
}

func (d *doing) change(ctx context.Context, e *flow.Change) error {
	if len(e.Rows) > blueprint.MostRounds {
		return words.New("flow-rounds", "n", blueprint.MostRounds)
	}
	for _, row := range e.Rows {
		entered, err := records.Entered(row.Values)
		if err != nil {
			return err
		}
		w, err := d.road.Change(ctx, d.seat, d.table(e.Table), row.ID, records.AnyRevision, entered, nil)
		if err != nil {
			return d.about(err, e.Table)
		}
		d.log.now().Writes = append(d.log.now().Writes, w)
	}
	return nil
}

func (d *doing) delete(ctx context.Context, e *flow.Delete) error {
	for _, id := range e.Records {
		w, err := d.road.Delete(ctx, d.seat, d.table(e.Table), id, records.AnyRevision)
		if err != nil {
			return d.about(err, e.Table)
		}
		d.log.now().Writes = append(d.log.now().Writes, w)
	}
	return nil
}

func (d *doing) find(ctx context.Context, e *flow.Find) (out flow.Outcome, err error) {
	l := query.Selection{Table: d.table(e.Table), Filter: e.Where, Limit: e.Most}
	if e.Sort != "" {
		l.Sorts = []query.Sort{query.SortBy(e.Sort, e.Falling)}
	}
	if e.Count {
		out.Count, err = d.road.Count(ctx, d.seat, l)
		d.log.now().Found = &out.Count
		return out, err
	}
	if e.Total != "" {
		out.Number, err = d.total(ctx, l, e)
		return out, err
	}
	rows, _, err := d.road.List(ctx, d.seat, l)
	if err != nil {
		return out, err
	}
	for _, raw := range rows {
		id, err := idOf(raw)
		if err != nil {
			return out, err
		}
		out.Records = append(out.Records, id)
	}
	n := len(out.Records)
	d.log.now().Found = &n
	return out, nil
}

// total gives what the numbers of records come to: 0 is the sum of none, of which there is no average.
func (d *doing) total(ctx context.Context, l query.Selection, e *flow.Find) (expr.Value, error) {
	l.Limit = 0
	got, err := d.road.Batch(ctx, d.seat, []records.Read{{Report: &query.Report{Selection: l,
		Measures: []query.Measure{{Total: e.Total, Of: e.Of}}}}})
	if err != nil {
		return expr.Value{}, err
	}
	for _, raw := range got[0].Rows {
		var g query.Group
		if err := json.Unmarshal(raw, &g); err != nil {
			return expr.Value{}, fmt.Errorf("read what numbers come to: %w", err)
		}
		if g.Values[0] != nil {
			n, err := decimal.NewFromString(*g.Values[0])
			return expr.NumberOf(n), err
		}
	}
	if e.Total == report.Sum {
		return expr.NumberOf(decimal.Zero), nil
	}
	return expr.Empty(), nil
}

// idOf gives the id of a record that was read.
func idOf(raw records.Row) (string, error) {
	var row struct{ ID string }
	if err := json.Unmarshal(raw, &row); err != nil {
		return "", fmt.Errorf("read a record that was found: %w", err)
	}
	return row.ID, nil
}

// problem is what kept a step from being done, with the table that it is about.
type problem struct {
	table string
	err   error
}

func (p *problem) Error() string { return p.err.Error() }
func (p *problem) Unwrap() error { return p.err }

func (d *doing) about(err error, table string) error { return &problem{table, err} }

// why says what ended a run, for who builds the app; known tells that it is the workflow's doing.
func (d *doing) why(err error) (text string, known bool) {
	var at *problem
	table := &blueprint.Table{}
	if errors.As(err, &at) {
		table = d.table(at.table)
	}
	var wrong records.FieldErrors
	var told *words.Problem
	var stop *stopped
	switch {
	case errors.As(err, &stop):
		return stop.text, true
	case errors.As(err, &wrong):
		return d.wrong(wrong, table), true
	case errors.Is(err, records.ErrForbidden):
		return words.Say("flow-forbidden", words.Args{"table": table.Name}), true
	case errors.Is(err, store.ErrNotFound):
		return words.Say("flow-unseen", words.Args{"table": table.Name}), true
	case errors.As(err, &told):
		return told.Error(), true
	case errors.Is(err, context.DeadlineExceeded):
		return words.Say("flow-long", words.Args{"n": int(timeLimit.Seconds())}), true
	}
	return words.Say("flow-broke", nil), false
}

// wrong says what is wrong with values of a record.
func (d *doing) wrong(wrong records.FieldErrors, table *blueprint.Table) string {
	var out []string
	for _, id := range slices.Sorted(maps.Keys(wrong)) {
		name := id
		if f := table.Field(strings.TrimPrefix(id, "/")); f != nil {
			name = f.Name
		}
		out = append(out, words.Say("flow-field", words.Args{"field": name, "table": table.Name, "problem": wrong[id].Error()}))
	}
	return strings.Join(out, " ")
}
