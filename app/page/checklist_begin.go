package page

import (
	"cmp"
	"context"
	"fmt"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store/records"
)

// Begin makes a list of what is to be done from the steps as they are now: the first of its record, or another where Round is
// that of the last one. With Gained, it adds to the last list what the steps have gained. It is refused where somebody
// else did so meanwhile.
func (v *View) Begin(ctx context.Context, road records.Road, id string, round int, gained bool) ([]*records.Write, string, error) {
	in, x, err := At[*blueprint.ChecklistBlock](v, id)
	if err != nil {
		return nil, "", err
	}
	l := in.listed(x)
	if l.steps == nil {
		return nil, "", words.New("checklist-no-steps")
	}
	if may, err := l.begins(); err != nil || !may {
		return nil, "", cmp.Or(err, records.ErrForbidden)
	}
	if err := road.Hold(ctx, l.Seat, l.Seat.Blueprint.Table(l.Page.Record), l.Seat.Page); err != nil { // so that nobody else begins it
		return nil, "", err
	}
	rows, steps, err := l.now(ctx, road)
	if err != nil {
		return nil, "", err
	}
	last := 0
	for _, r := range l.rounds(rows) {
		last = max(last, r.Round)
	}
	switch {
	case last != round:
		return nil, "", words.New("checklist-begun")
	case gained && (x.From == "" || last == 0), !gained && last > 0 && x.Round == "":
		return nil, "", words.New("checklist-once")
	case gained:
		steps = l.gained(rows, steps, last)
	default:
		if last, err = l.lists(ctx, road); err != nil {
			return nil, "", err
		}
		last++
	}
	if len(steps) == 0 {
		return nil, "", words.New("checklist-no-steps")
	}
	fresh, err := l.made(ctx, road, steps, last)
	if err != nil {
		return nil, "", err
	}
	writes, err := road.AddAll(ctx, l.Seat, l.table, fresh, func(int) string { return "" })
	return writes, words.Say("checklist-made", words.Args{"table": l.table.Name}), err
}

// now reads what is to be done, and the steps, as they are in the unit of work.
func (l listed) now(ctx context.Context, road records.Road) (rows, steps []Row, err error) {
	items, err := l.items()
	if err != nil {
		return nil, nil, err
	}
	template, err := l.template()
	if err != nil {
		return nil, nil, err
	}
	if template.Columns, err = l.seen(l.steps.ID, l.named()); err != nil { // so that none has to be read by itself
		return nil, nil, err
	}
	got, err := road.Batch(ctx, l.Seat, []records.Read{{List: items}, {List: template}})
	if err != nil {
		return nil, nil, err
	}
	if got[1].Next != "" {
		return nil, nil, words.New("checklist-many", "n", blueprint.MostSteps)
	}
	if rows, err = Rows(got[0].Rows); err == nil {
		steps, err = Rows(got[1].Rows)
	}
	return rows, steps, err
}

// lists gives how many lists the record has had, also of those that whoever begins does not see, so that no number is given twice.
func (l listed) lists(ctx context.Context, road records.Road) (int, error) {
	if l.x.Round == "" {
		return 0, nil
	}
	items, err := l.items()
	if err != nil {
		return 0, err
	}
	items.Columns, items.Limit, items.Sorts = []string{l.x.Round}, 1, []query.Sort{query.SortBy(l.x.Round, true)}
	raw, _, err := road.List(ctx, l.Seat.AsApp(l.Seat.By), *items)
	if err != nil {
		return 0, err
	}
	rows, err := Rows(raw)
	if err != nil || len(rows) == 0 {
		return 0, err
	}
	return l.roundOf(rows[0]), nil
}

// made computes what is made of steps.
func (l listed) made(ctx context.Context, road records.Road, steps []Row, round int) ([]records.Fresh, error) {
	b := l.Seat.Blueprint
	_, values, err := b.ChecklistSteps(l.spot(), l.x, l.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read what a checklist on %s sets: %w", l.Page.Name, err)
	}
	scope := b.ListScope(l.spot(), "", l.Seat.Catalog)
	env := road.Env(ctx, l.Seat, b.Table(scope.Me), b.Table(l.Page.Record))
	var out []records.Fresh
	for _, s := range steps {
		id, _ := s["id"].(string)
		step := stepInHand{expr.Holding{Env: env, Record: expr.RecordOf(id)}, l.Seat.Catalog, s}
		set := map[string]expr.Value{l.x.Link: expr.RecordOf(l.Seat.Page)}
		for field, c := range values {
			if v := expr.Eval(l.boundListed(c), l.Seat.Catalog, step); !v.IsEmpty() {
				set[field] = v
			}
		}
		if l.x.Round != "" {
			set[l.x.Round] = expr.NumberOf(decimal.NewFromInt(int64(round)))
		}
		if l.x.From != "" {
			set[l.x.From] = step.Record
		}
		out = append(out, records.Fresh{Entered: records.Values{}, Presets: set})
	}
	return out, env.Err()
}

// named lists the fields of steps that hold one value.
func (l listed) named() []string {
	var out []string
	for _, f := range l.steps.Fields {
		if !l.Seat.Catalog.TypeOf(l.steps.ID, f.ID).Many {
			out = append(out, f.ID)
		}
	}
	return out
}

// stepInHand is an environment with a step in hand, of which is known what was read.
type stepInHand struct {
	expr.Holding
	catalog *expr.Catalog
	row     Row
}

// Field gives a field of a record.
func (s stepInHand) Field(record expr.Value, f *expr.Field) expr.Value {
	if v, read := s.row[f.ID]; read && record.Text == s.Record.Text {
		return records.ValueOf(s.catalog, f.Table, f.ID, v)
	}
	return s.Env.Field(record, f)
}
