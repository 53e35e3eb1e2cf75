package imports

import (
	"context"
	"encoding/binary"

	"pinegate/core/blueprint"
	"pinegate/core/intake"
)

// keyColumn is a column of a sheet by which its rows are known.
type keyColumn struct {
	sheet  int
	header string
}

// keys are the ids of records by what columns point to. A column is there from the begin where another one points to it.
type keys map[keyColumn]map[string]string

// recordID gives the id of the record that a row becomes: one of version 7 (RFC 9562), so that records lie in the order of
// their rows. It is known before the row is read, so that others can point to it. Behind the time and what is random it has the
// number of the sheet, in 13 bits, and that of the row, in 32.
func (r *run) recordID(sheet, row int) string {
	id := r.base
	low := binary.BigEndian.Uint64(id[8:])
	low = low&^(1<<45-1) | uint64(sheet)&(1<<13-1)<<32 | uint64(row)&(1<<32-1) //nolint:gosec // both are counted from 0
	binary.BigEndian.PutUint64(id[8:], low)
	return id.String()
}

// index reads the sheets to which others point, and remembers the ids of their rows by what they are known by: before any row
// is read that points there, so that none is taken for the only one of its name, and none is missed that comes later.
func (r *run) index(ctx context.Context, sheets []*intake.Sheet) error {
	for i := range r.proposal.Sheets {
		plan := &r.proposal.Sheets[i]
		at := map[int]map[string]string{}
		for j, c := range plan.Columns {
			if plan.Mode == intake.Ignore || !r.pointedTo(i, c.Header) {
				continue
			}
			known, err := r.there(ctx, i, j)
			if err != nil {
				return err
			}
			r.keys[keyColumn{i, c.Header}], at[j] = known, known
		}
		if len(at) == 0 || plan.Mode == intake.Update {
			continue
		}
		err := sheets[i].Each(func(n int, cells []string) error {
			for j, known := range at {
				if key := intake.Fold(cells[j]); key != "" {
					if _, twice := known[key]; twice {
						known[key] = ambiguous
					} else {
						known[key] = r.recordID(i, n)
					}
				}
			}
			return ctx.Err()
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// there gives the records that are there already in the table into which a sheet goes, by what the column fills.
func (r *run) there(ctx context.Context, sheet, column int) (map[string]string, error) {
	t := r.seat.Blueprint.Table(r.carried.Tables[sheet])
	if field := r.carried.Fields[sheet][column]; t != nil && field != "" && r.proposal.Sheets[sheet].Mode != intake.NewTable {
		if f := t.Field(field); f != nil && f.Type != blueprint.Link && f.Type != blueprint.Links {
			pairs, err := r.road.KeyedIDs(ctx, r.seat, t, field)
			return byKey(pairs), err
		}
	}
	return map[string]string{}, nil
}

// pointedTo tells whether a column points to the column of a sheet.
func (r *run) pointedTo(sheet int, header string) bool {
	for _, s := range r.proposal.Sheets {
		for _, c := range s.Columns {
			if s.Mode != intake.Ignore && c.Link != nil && !c.Skip && c.Link.Sheet == sheet && c.Link.By == header {
				return true
			}
		}
	}
	return false
}
