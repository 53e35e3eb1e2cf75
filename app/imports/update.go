package imports

import (
	"context"
	"errors"
	"slices"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/form"
	"pinegate/core/intake"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// mostUpdates is how many rows an update by a key may have.
const mostUpdates = 20_000

// update changes the records with the keys of the rows, and adds those that are
// not there.
func (r *run) update(ctx context.Context, i int, sheet *intake.Sheet) error {
	plan := &r.proposal.Sheets[i]
	t := r.seat.Blueprint.Table(r.carried.Tables[i])
	cells, err := r.cells(ctx, i, plan, t)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(cells, func(c *cell) bool { return c.column.Header == plan.Key })
	if at < 0 {
		return words.New("import-key", "sheet", plan.Sheet)
	}
	key := cells[at]
	if plan.Rows > mostUpdates {
		return words.New("import-updates", "most", mostUpdates, "sheet", plan.Sheet, "rows", plan.Rows)
	}
	pairs, err := r.road.KeyedIDs(ctx, r.seat, t, key.field.ID)
	if err != nil {
		return err
	}
	known := byKey(pairs)
	b := &bringer{run: r, sheet: i, table: t, cells: cells}
	b.alone = b.aloneIn()
	if b.lacking, err = b.lacks(ctx); err != nil {
		return err
	}
	return sheet.Each(func(n int, row []string) error {
		if err := r.progress(ctx, 1); err != nil {
			return err
		}
		return b.updateRow(ctx, n, row, known[intake.Fold(row[key.at])])
	})
}

// updateRow changes a record, or adds one where it is "". What the database would refuse is found before: it would refuse all
// that follows, too.
func (b *bringer) updateRow(ctx context.Context, n int, row []string, record string) error {
	if record == ambiguous {
		return b.setAside(b.sheet, n, words.Say("import-several-keyed", nil), row)
	}
	e, stored, wrong, err := b.edit(row)
	if err != nil {
		return err
	}
	if wrong == "" && record == "" && b.lacking != nil {
		wrong = b.lacking.Name + ": " + form.Missing(b.lacking).Error()
	}
	as := record
	if as == "" {
		as = b.recordID(b.sheet, n)
	}
	if wrong == "" {
		var clash []string
		if clash, err = b.taken(ctx, []map[*cell]string{stored}, []string{record}); err != nil {
			return err
		}
		if wrong = clash[0]; wrong == "" {
			wrong = b.first(stored, as)
		}
	}
	if wrong != "" {
		return b.setAside(b.sheet, n, wrong, row)
	}
	if b.dry {
		b.updates[b.sheet]++
		return nil
	}
	err = b.road.Put(ctx, b.seat, b.table, record, e.Texts, e.Values)
	var fields records.FieldErrors
	switch {
	case errors.As(err, &fields):
		for f, message := range fields {
			return b.setAside(b.sheet, n, b.table.Field(f).Name+": "+message.Error(), row)
		}
	case errors.Is(err, store.ErrNotFound):
		return b.setAside(b.sheet, n, words.Say("import-record-gone", nil), row)
	case err != nil:
		return err
	}
	b.imported++
	return nil
}

// edit gives what a row asks for, and how what must differ in it is stored; or says what is wrong with it.
func (b *bringer) edit(row []string) (e records.Edit, stored map[*cell]string, wrong string, err error) {
	e, stored = records.Edit{Texts: map[string]string{}, Values: records.Values{}}, map[*cell]string{}
	for _, c := range b.cells {
		stored[c], wrong, err = c.enter(&e, row[c.at])
		lost := c.target != nil && slices.ContainsFunc(strings.Split(stored[c], ","), func(id string) bool { return b.gone[id] })
		switch {
		case err != nil || wrong != "":
		case lost:
			wrong = c.needs(row[c.at])
		case c.field.Required && stored[c] == "":
			wrong = form.Missing(c.field).Error()
		}
		if err != nil || wrong != "" {
			return e, nil, c.column.Header + ": " + wrong, err
		}
	}
	return e, stored, "", nil
}

// lacks gives a field that each new record must have, and that no column and no default fills; nil where there is none.
func (b *bringer) lacks(ctx context.Context) (*blueprint.Field, error) {
	given, err := b.road.Defaults(ctx, b.seat, b.table)
	for i := range b.table.Fields {
		f := &b.table.Fields[i]
		if f.Required && given[f.ID].IsEmpty() && !b.fills(f.ID) {
			return f, err
		}
	}
	return nil, err
}

// fills tells whether a column fills a field.
func (b *bringer) fills(field string) bool {
	return slices.ContainsFunc(b.cells, func(c *cell) bool { return c.field.ID == field })
}
