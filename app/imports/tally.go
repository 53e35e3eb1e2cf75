package imports

import (
	"context"
	"fmt"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/intake"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
)

// tally counts what would come of a proposal: the files are read as the import reads them, and nothing is written.
func (s *Service) tally(ctx context.Context, app store.App, uploads []string, p *intake.Proposal) (*intake.Tally, error) {
	r := &run{service: s, app: app.ID, uploads: uploads, proposal: *p, dry: true}
	sheets, err := s.planned(ctx, app.ID, uploads, p)
	if err != nil {
		return nil, err
	}
	order, err := r.order()
	if err != nil {
		return nil, err
	}
	for range mostRenames { // of what the files point to while it is read
		if err = r.count(ctx, order, sheets); store.Trouble(err) != store.ErrRenamed {
			break
		}
	}
	if err != nil {
		return nil, err
	}
	return r.counted(sheets)
}

// count reads all sheets as they would be brought.
func (r *run) count(ctx context.Context, order []int, sheets []*intake.Sheet) error {
	r.aside = nil
	if err := r.plan(ctx); err != nil {
		return err
	}
	if err := r.bring(ctx, order, sheets); err != nil {
		return err
	}
	for i, plan := range r.proposal.Sheets {
		if plan.Mode == intake.Update {
			if err := r.update(ctx, i, sheets[i]); err != nil {
				return err
			}
		}
	}
	return nil
}

// counted gives what was counted while the rows were read.
func (r *run) counted(sheets []*intake.Sheet) (*intake.Tally, error) {
	out := r.none()
	for i, n := range r.updates {
		out.Sheets[i].Records = n
	}
	for i, b := range r.staged {
		t := &out.Sheets[i]
		t.Records, t.Rows = b.rows, append(b.samples, b.wrong...)
		lost, err := b.lost(sheets[i])
		if err != nil {
			return nil, err
		}
		for _, c := range b.pointing() {
			l := intake.LinkTally{Column: c.column.Header, Made: c.made - lost[c], Empty: c.empty + lost[c], Names: c.names}
			for _, m := range b.missingOf(c) {
				if l.Added++; len(l.Names) < mostSamples {
					l.Names = append(l.Names, m.name)
				}
			}
			t.Links = append(t.Links, l)
		}
	}
	for _, a := range r.aside {
		out.Sheets[a.sheet].Aside++
	}
	return out, nil
}

// none is a tally of nothing.
func (r *run) none() *intake.Tally {
	out := &intake.Tally{Sheets: make([]intake.SheetTally, len(r.proposal.Sheets))}
	for i := range out.Sheets {
		out.Sheets[i].Links = []intake.LinkTally{}
	}
	return out
}

// pointing lists the columns that point to records.
func (b *bringer) pointing() []*cell {
	var out []*cell
	for _, c := range b.cells {
		if c.column.Link != nil {
			out = append(out, c)
		}
	}
	return out
}

// missingOf lists the records that are added because a column points to them.
func (b *bringer) missingOf(c *cell) []missing {
	var out []missing
	for _, m := range b.missing {
		if m.cell == c {
			out = append(out, m)
		}
	}
	return out
}

// lost counts the links of each column that lead to rows which are put aside: which those are is known once all are read.
func (b *bringer) lost(sheet *intake.Sheet) (map[*cell]int, error) {
	out := map[*cell]int{}
	if len(b.gone) == 0 || len(b.pointing()) == 0 {
		return out, nil
	}
	return out, sheet.Each(func(n int, cells []string) error {
		if b.gone[b.recordID(b.sheet, n)] {
			return nil
		}
		for _, c := range b.pointing() {
			ids, _, _ := c.point(strings.TrimSpace(cells[c.at]))
			for _, id := range ids {
				if b.gone[id] {
					out[c]++
				}
			}
		}
		return nil
	})
}

// made counts what stands in the database of the rows of a sheet, once all is in its place.
func (b *bringer) made(ctx context.Context) (intake.SheetTally, error) {
	out := intake.SheetTally{Links: []intake.LinkTally{}}
	schema, from, to := query.Quote(b.seat.Schema), b.recordID(b.sheet, 0), b.recordID(b.sheet, 1<<32-1)
	table := schema + "." + query.Quote(b.table.Key)
	err := b.conn.QueryRow(ctx, "SELECT count(*) FROM "+table+" WHERE id BETWEEN $1 AND $2", from, to).Scan(&out.Records)
	if err != nil {
		return out, fmt.Errorf("count what was imported: %w", err)
	}
	for _, c := range b.pointing() {
		l := intake.LinkTally{Column: c.column.Header, Added: len(b.missingOf(c))}
		of := b.seat.Blueprint.Table(c.field.Target).Field(c.field.Of)
		sql := "SELECT count(" + query.Quote(c.field.Key) + ") FROM " + table + " WHERE id BETWEEN $1 AND $2"
		switch {
		case c.field.Type == blueprint.Link:
		case of == nil:
			sql = "SELECT count(*) FROM " + schema + "." + query.Quote(query.LinkTable(c.field.ID)) + " WHERE from_id BETWEEN $1 AND $2"
		case of.Type == blueprint.Links:
			sql = "SELECT count(*) FROM " + schema + "." + query.Quote(query.LinkTable(of.ID)) + " WHERE to_id BETWEEN $1 AND $2"
		default:
			sql = "SELECT count(*) FROM " + schema + "." + query.Quote(b.seat.Blueprint.Table(c.field.Target).Key) + " WHERE " +
				query.Quote(of.Key) + " BETWEEN $1 AND $2"
		}
		if err := b.conn.QueryRow(ctx, sql, from, to).Scan(&l.Made); err != nil {
			return out, fmt.Errorf("count links that were made: %w", err)
		}
		out.Links = append(out.Links, l)
	}
	return out, nil
}

// summary says what came of the import: how many records, rows to mend and links there are, what was added on the way, and what
// is otherwise than it was announced.
func (r *run) summary(ctx context.Context) (string, error) {
	out := []string{words.Say("import-done", words.Args{"imported": r.imported, "n": len(r.aside)})}
	for i := range r.proposal.Sheets {
		b := r.staged[i]
		if b == nil {
			continue
		}
		made, err := b.made(ctx)
		if err != nil {
			return "", err
		}
		for _, l := range made.Links {
			if l.Added > 0 {
				sheet := r.proposal.Sheets[i].Sheet
				out = append(out, words.Say("import-added", words.Args{"n": l.Added, "column": l.Column, "sheet": sheet}))
			}
		}
		told := b.readTally()
		if t := r.proposal.Tally; t != nil && i < len(t.Sheets) {
			told = t.Sheets[i]
		}
		out = append(out, otherwise(r.proposal.Sheets[i].Sheet, told, made)...)
	}
	return strings.Join(out, " "), nil
}

// readTally counts what was read of a sheet, for an import that began before anybody had it counted.
func (b *bringer) readTally() intake.SheetTally {
	out := intake.SheetTally{Records: b.rows}
	for _, c := range b.pointing() {
		out.Links = append(out.Links, intake.LinkTally{Column: c.column.Header, Made: c.made, Added: len(b.missingOf(c))})
	}
	return out
}

// otherwise says where what was made is not what was announced.
func otherwise(sheet string, told, made intake.SheetTally) []string {
	var out []string
	if told.Records != made.Records {
		out = append(out, words.Say("import-otherwise", words.Args{"sheet": sheet, "told": told.Records, "made": made.Records}))
	}
	for _, l := range made.Links {
		for _, t := range told.Links {
			if t.Column == l.Column && (t.Made != l.Made || t.Added != l.Added) {
				args := words.Args{"column": l.Column, "sheet": sheet, "told": t.Made, "made": l.Made}
				out = append(out, words.Say("import-otherwise-links", args))
			}
		}
	}
	return out
}
