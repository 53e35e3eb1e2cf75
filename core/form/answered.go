package form

import (
	"fmt"
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// answered is an environment in which records are as they would be with the answers: the form's
// own, and those that go with it. New ones have ids that no record has, and so has the form's own:
// the record of the page is as it is.
type answered struct {
	expr.Env
	form    *Form
	records map[string]*pending // by their ids
	main    string              // id of the form's own
	lines   map[string][]string // ids of what goes with it, by the names by which answers have it
	gone    []string            // ids of what is removed
	// line is the id of the record about which a question is, and lineOf its name; "" for
	// those about the form's own.
	line, lineOf string
	row          expr.Value // the record in hand, where there is one
}

// pending is a record as it would be.
type pending struct {
	table  *blueprint.Table
	values map[string]expr.Value // by the ids of fields
	stored string                // id of the record as it is, or "" for a new one
}

// add makes a record known that is there, or a new one for "".
func (e *answered) add(record string, t *blueprint.Table) string {
	p := &pending{table: t, values: map[string]expr.Value{}, stored: record}
	if record == "" || len(e.records) == 0 { // which is the form's own
		record = fmt.Sprintf("00000000-0000-0000-0000-%012d", len(e.records)+1)
	}
	e.records[record] = p
	return record
}

// link makes a record that goes with the form and the form's own lead to each other.
func (e *answered) link(w *With, id string) {
	from, to := id, e.main
	if w.Leads {
		from, to = to, from
	}
	e.records[from].values[w.Link] = expr.RecordOf(to)
}

// of is the environment with another record in hand.
func (e *answered) of(row expr.Value) *answered {
	with := *e
	with.row = row
	return &with
}

// Start gives the record at a root.
func (e *answered) Start(root expr.Root) expr.Value {
	switch {
	case root == expr.RootAnswers:
		return expr.RecordOf(expr.AnswersTable)
	case root == expr.RootRow && !e.row.IsEmpty():
		return e.row
	}
	return e.Env.Start(root)
}

// Field gives a field of a record.
func (e *answered) Field(record expr.Value, f *expr.Field) expr.Value {
	if f.Table == expr.AnswersTable {
		return e.answer(f)
	}
	p := e.records[record.Text]
	if p == nil {
		return e.Env.Field(record, f)
	}
	v, known := p.values[f.ID]
	switch {
	case known:
		return v
	case f.Computed != nil:
		return expr.Eval(f.Computed, e.form.Catalog, e.of(record))
	case f.Type.Many && f.Of != nil:
		return e.led(record, p, f)
	case p.stored == "":
		return e.begins(p.table.Field(f.ID))
	}
	return e.Env.Field(expr.RecordOf(p.stored), f)
}

// answer gives what answers name: a value, or records that go with the form.
func (e *answered) answer(f *expr.Field) expr.Value {
	if f.Type.Kind != expr.Record || !e.form.withNamed(f.ID) {
		return e.records[e.main].values[f.ID]
	}
	if e.lineOf == f.ID {
		return expr.RecordOf(e.line)
	}
	var items []expr.Value
	for _, id := range e.lines[f.ID] {
		items = append(items, expr.RecordOf(id))
	}
	switch {
	case f.Type.Many:
		return expr.ListValue(items)
	case len(items) == 0:
		return expr.Empty()
	}
	return items[0]
}

// led gives the records that lead to one: those that are there and are not removed, and new ones.
func (e *answered) led(record expr.Value, p *pending, f *expr.Field) expr.Value {
	var items []expr.Value
	if p.stored != "" {
		for _, x := range e.Env.Field(expr.RecordOf(p.stored), f).Items {
			if !slices.Contains(e.gone, x.Text) {
				items = append(items, x)
			}
		}
	}
	if record.Text == e.main {
		for _, part := range e.form.Parts {
			if part.With == nil || part.With.Leads || part.With.Link != f.Of.ID {
				continue
			}
			for _, id := range e.lines[part.With.Name] {
				if e.records[id].stored == "" {
					items = append(items, expr.RecordOf(id))
				}
			}
		}
	}
	return expr.ListValue(items)
}

// begins gives the default of a field, which a new record has where nothing else is said.
func (e *answered) begins(f *blueprint.Field) expr.Value {
	if f == nil || f.Default == "" {
		return expr.Empty()
	}
	c, err := e.form.Blueprint.Beginning(f, e.form.Catalog)
	if err != nil {
		return expr.Empty() // as what cannot be computed is
	}
	return expr.Eval(c, e.form.Catalog, e.Env)
}

// Label gives the text by which a record is known.
func (e *answered) Label(table string, record expr.Value) expr.Value {
	t := e.form.Catalog.Tables[table]
	if e.records[record.Text] == nil || t == nil || t.Label == nil {
		return e.Env.Label(table, record)
	}
	return expr.Eval(t.Label, e.form.Catalog, e.of(record))
}

// withNamed tells whether answers have records that go with the form under a name.
func (f *Form) withNamed(name string) bool {
	return slices.ContainsFunc(f.Parts, func(p Part) bool { return p.With != nil && p.With.Name == name })
}
