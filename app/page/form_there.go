package page

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"strconv"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/query"
	"pinegate/store/records"
)

// there are the records of a form as whoever looks sees them: the one that it changes, and those
// that go with it, by the ids of blocks.
type there struct {
	row  Row
	with map[string][]Row
}

// form gives what stands in the form for whoever looks, with its conditions, and the records that
// are there.
func (u Use) form(ctx context.Context) (*form.Form, there, error) {
	f, err := form.Of(u.Seat.Blueprint, u.spot(), u.Block, u.Seat.Catalog)
	if err != nil {
		return nil, there{}, fmt.Errorf("read the conditions of a form on %s: %w", u.Page.Name, err)
	}
	env := u.env(ctx)
	err = f.Each(func(p *form.Part, t *blueprint.Table) error {
		if p.Between() && p.When != nil {
			p.When = expr.OfPage(p.When) // the record in hand of words is that of the page
		}
		p.Bind(u.boundListed)
		if p.Question == nil || p.Free() {
			return nil
		}
		if p.Question.How().Skip && p.Start != nil {
			if v := expr.Eval(p.Start, u.Seat.Catalog, env); !v.IsEmpty() {
				p.Fixed = &v
			}
		}
		return u.asks(p, t)
	})
	err = errors.Join(err, env.Err())
	if err != nil {
		return nil, there{}, err
	}
	is, err := u.there(ctx, f)
	for i := range f.Parts {
		if p := &f.Parts[i]; p.With != nil {
			p.Unasked = p.Unasked || !u.goesWith(p.With, is.with[p.ID])
		}
	}
	return f, is, err
}

// asks finds out whether whoever looks is asked, or shown, what a question asks for.
func (u Use) asks(p *form.Part, t *blueprint.Table) error {
	if p.Shows() {
		sees, err := u.Seat.Sees(t.ID, p.Field.ID)
		p.Unasked, p.Unchanged = !sees, !sees
		return err
	}
	asks := func(a blueprint.Action) (bool, error) {
		return access.Asks(u.Seat.Blueprint, u.Seat.Catalog, u.Seat.Viewer, t.ID, p.Field.ID, a)
	}
	fresh, err := asks(blueprint.Add)
	if err != nil {
		return err
	}
	change, err := asks(blueprint.Modify)
	p.Unasked, p.Unchanged = !fresh, !change
	if err == nil && u.of != nil {
		return u.asksOfRole(p, change)
	}
	return err
}

// goesWith tells whether whoever looks is asked for anything of what goes with the form.
func (u Use) goesWith(w *form.With, rows []Row) bool {
	for _, p := range w.Parts {
		switch {
		case p.Question == nil || p.Shows():
		case w.Lines && (!p.Unasked || !p.Unchanged && len(rows) > 0),
			!w.Lines && len(rows) == 0 && !p.Unasked, !w.Lines && len(rows) > 0 && !p.Unchanged:
			return true
		}
	}
	return false
}

// there reads the records that are there already.
func (u Use) there(ctx context.Context, f *form.Form) (there, error) {
	out := there{with: map[string][]Row{}}
	var err error
	if out.row, err = u.row(); err != nil || !u.Block.Changes {
		return out, err
	}
	var reads []records.Read
	var of []string
	for i := range f.Parts {
		p := &f.Parts[i]
		if p.With == nil || !p.With.Leads && !p.With.Lines {
			continue
		}
		what, err := u.linkedTo(p, out.row)
		if err != nil {
			return out, err
		}
		if what != nil {
			reads, of = append(reads, records.Read{List: what}), append(of, p.ID)
		}
	}
	got, err := u.Road.Batch(ctx, u.Seat, reads)
	for i := 0; i < len(of) && err == nil; i++ {
		out.with[of[i]], err = Rows(got[i].Rows)
	}
	for i := 0; i < len(f.Parts) && err == nil; i++ { // what leads to a record that is hidden stays as it is
		if p := &f.Parts[i]; p.With != nil && p.With.Leads && len(out.with[p.ID]) == 0 {
			p.Unasked, err = u.Road.Holds(ctx, u.Seat, u.Table, u.Seat.Page, u.Table.Field(p.With.Link))
		}
	}
	return out, err
}

// linkedTo says which records that go with the form are there already; nil for none.
func (u Use) linkedTo(p *form.Part, row Row) (*query.Selection, error) {
	what := &query.Selection{Table: p.With.Table, Limit: p.With.MostSent()}
	for _, q := range p.With.Parts {
		if q.Question == nil || q.Shows() {
			continue
		}
		sees, err := u.Seat.Sees(p.With.Table.ID, q.Field.ID)
		if err != nil {
			return nil, err
		}
		if sees {
			what.Columns = append(what.Columns, q.Field.ID)
		}
	}
	if p.With.Leads {
		what.ID, _ = row[p.With.Link].(string)
		if what.ID == "" {
			return nil, nil
		}
		what.Limit = 1
		return what, nil
	}
	var err error
	what.Filter, err = u.Seat.Blueprint.LeadsHere(p.With.Table, p.With.Link, u.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read what goes with a form on %s: %w", u.Page.Name, err)
	}
	return what, nil
}

// known is what is there, for deciding how the form is.
func (is there) known(u Use, f *form.Form) form.Known {
	out := form.Known{Values: u.values(f.Parts, f.Table, is.row), With: map[string][]form.Known{}}
	if u.Block.Changes {
		out.Record = u.Seat.Page
	}
	for _, p := range f.Parts {
		for _, row := range is.with[p.ID] {
			id, _ := row["id"].(string)
			out.With[p.ID] = append(out.With[p.ID], form.Known{Record: id, Values: u.values(p.With.Parts, p.With.Table, row)})
		}
	}
	return out
}

// values are those of a row, as far as parts ask for them.
func (u Use) values(parts []form.Part, t *blueprint.Table, row Row) map[string]expr.Value {
	out := map[string]expr.Value{}
	for _, p := range parts {
		if p.Question != nil && !p.Free() && !p.Shows() {
			out[p.Field.ID] = records.ValueOf(u.Seat.Catalog, t.ID, p.Field.ID, row[p.Field.ID])
		}
	}
	return out
}

// firstLines adds to what was sent the answers with which what goes with the form begins.
func (u Use) firstLines(f *form.Form, known form.Known, sent map[string][]Line, env *records.Env) (map[string][]Line, error) {
	out := maps.Clone(sent)
	if out == nil {
		out = map[string][]Line{}
	}
	for _, p := range f.Parts {
		if _, is := sent[p.ID]; p.With == nil || is {
			continue
		}
		fresh, err := u.begun(p.With.Parts, env)
		if err != nil {
			return nil, err
		}
		out[p.ID] = []Line{}
		for i, l := range form.First(p.With, known.With[p.ID]) {
			l.Key = strconv.Itoa(i + 1)
			if l.Record == "" {
				l.Answers = fresh
			}
			out[p.ID] = append(out[p.ID], Line{Line: l})
		}
	}
	return out, nil
}

// env is what expressions of the form read, as whoever looks sees it.
func (u Use) env(ctx context.Context) *records.Env {
	b := u.Seat.Blueprint
	scope := b.ListScope(u.spot(), "", u.Seat.Catalog)
	return u.Road.Env(ctx, u.Seat, b.Table(scope.Me), b.Table(u.Page.Record)) // which is what a part is about, too
}
