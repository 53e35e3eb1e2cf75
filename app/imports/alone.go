package imports

import (
	"context"
	"hash/maphash"
	"maps"
	"slices"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/schema"
	"pinegate/core/words"
)

// alone keeps the values of some columns from being in two records, where the table into which rows go wants that.
type alone struct {
	fields []string
	cells  []*cell
	email  []bool
	seed   maphash.Seed
	seen   map[uint64]string // the records of rows that were taken, by what they have
}

// aloneIn lists what must differ among the columns of a sheet. Where the sheet has not all of the fields, the rest is empty in
// new records, and what is empty differs.
func (b *bringer) aloneIn() []*alone {
	var out []*alone
	indexes := schema.UniqueIndexes(b.table)
	for _, name := range slices.Sorted(maps.Keys(indexes)) {
		a := &alone{seed: maphash.MakeSeed(), seen: map[uint64]string{}}
		for _, id := range indexes[name] {
			for _, c := range b.cells {
				if c.field.ID == id {
					a.fields, a.cells = append(a.fields, id), append(a.cells, c)
					a.email = append(a.email, c.field.Type == blueprint.Email)
				}
			}
		}
		if len(a.cells) == len(indexes[name]) {
			out = append(out, a)
		}
	}
	return out
}

// values gives what a row has there, by what it has in each column as it is stored; nil where one is empty.
func (a *alone) values(stored map[*cell]string) []string {
	out := make([]string, len(a.cells))
	for i, c := range a.cells {
		if out[i] = stored[c]; out[i] == "" {
			return nil
		}
	}
	return out
}

// twice tells whether another row that was taken has the values, and else remembers that this record has them.
func (a *alone) twice(values []string, record string) bool {
	var h maphash.Hash
	h.SetSeed(a.seed)
	for i, v := range values {
		if a.email[i] {
			v = strings.ToLower(v)
		}
		_, _ = h.WriteString(v) // it never fails
		_ = h.WriteByte(0)
	}
	other, known := a.seen[h.Sum64()]
	if known && other != record {
		return true
	}
	a.seen[h.Sum64()] = record
	return false
}

// say tells what is wrong with a row whose values are elsewhere already.
func (a *alone) say(code string) string {
	var names []string
	for _, c := range a.cells {
		names = append(names, c.column.Header)
	}
	return strings.Join(names, ", ") + ": " + words.Say(code, nil)
}

// taken says what is wrong with rows whose values another record has, which is looked for once for all of them. Those rows are
// new records, or the ones that are given.
func (b *bringer) taken(ctx context.Context, rows []map[*cell]string, records []string) ([]string, error) {
	wrong := make([]string, len(rows))
	for _, a := range b.alone {
		var at []int
		var values [][]string
		for n, row := range rows {
			if v := a.values(row); row != nil && v != nil {
				at, values = append(at, n), append(values, v)
			}
		}
		if len(at) == 0 {
			continue
		}
		found, err := b.road.TakenBy(ctx, b.seat, b.table, a.fields, values)
		if err != nil {
			return nil, err
		}
		code := "taken-alone"
		if len(a.fields) > 1 {
			code = "taken-together"
		}
		for i, record := range found {
			if record != "" && record != records[at[i]] {
				wrong[at[i]] = a.say(code)
			}
		}
	}
	return wrong, nil
}

// differ notes, of rows that are read and go into new records, which have what another record has.
func (b *bringer) differ(ctx context.Context, rows []*read) error {
	if len(b.alone) == 0 {
		return nil
	}
	held, stored := b.held(), make([]map[*cell]string, len(rows))
	for i, row := range rows {
		if row.wrong == "" {
			stored[i] = map[*cell]string{}
			for j, c := range held {
				stored[i][c] = row.out[j+1]
			}
			row.stored = stored[i]
		}
	}
	wrong, err := b.taken(ctx, stored, make([]string, len(rows)))
	for i := range wrong {
		if rows[i].wrong == "" {
			rows[i].wrong = wrong[i]
		}
	}
	return err
}

// first notes, of a row that is about to be taken, whether an earlier one has what it has.
func (b *bringer) first(stored map[*cell]string, record string) string {
	for _, a := range b.alone {
		if v := a.values(stored); v != nil && a.twice(v, record) {
			return a.say("import-twice")
		}
	}
	return ""
}
