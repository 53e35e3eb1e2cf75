package imports

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"

	"pinegate/core/blueprint"
	"pinegate/core/intake"
	"pinegate/core/query"
)

// missing is a record that is to be there because a column points to it.
type missing struct {
	id, name string
	cell     *cell
}

// findMissing finds what columns point to and is not there, where it was asked for
// that this is added. Rows can then point to it; it is added before they are
// written.
func (b *bringer) findMissing(sheet *intake.Sheet) error {
	var creating []*cell
	for _, c := range b.cells {
		if l := c.column.Link; l != nil && l.Unmatched == intake.Create && (l.Sheet < 0 || b.proposal.Sheets[l.Sheet].Mode != intake.Ignore) {
			creating = append(creating, c)
		}
	}
	if len(creating) == 0 {
		return nil
	}
	return sheet.Each(func(_ int, cells []string) error {
		for _, c := range creating {
			for _, part := range c.parts(cells[c.at]) {
				k := intake.Fold(part)
				if _, known := c.links[k]; known || k == "" {
					continue
				}
				id, err := uuid.NewV7()
				if err != nil {
					return fmt.Errorf("make record id: %w", err)
				}
				c.links[k] = id.String()
				b.missing = append(b.missing, missing{id.String(), strings.TrimSpace(part), c})
			}
		}
		return nil
	})
}

// addMissing adds the record of what a column points to: known by the column
// that is matched.
func (b *bringer) addMissing(ctx context.Context, m missing) error {
	l := m.cell.column.Link
	field := l.By
	if l.Sheet >= 0 {
		field = ""
		for j, other := range b.proposal.Sheets[l.Sheet].Columns {
			if other.Header == l.By {
				field = b.carried.Fields[l.Sheet][j]
			}
		}
	}
	if field == "" {
		_, err := b.road.AddNamedAs(ctx, b.seat, m.cell.target, m.id, m.name)
		return err
	}
	values, wrong, err := b.road.ReadTexts(ctx, b.seat, m.cell.target, map[string]string{field: m.name})
	if err != nil {
		return err
	}
	if len(wrong) > 0 {
		return wrong
	}
	_, err = b.road.AddAs(ctx, b.seat, m.cell.target, m.id, values, nil)
	return err
}

// afterwards fills in links that lead forward, links to many, auto numbers, and
// what is needed to undo.
func (b *bringer) afterwards(ctx context.Context) error {
	if err := b.forward(ctx); err != nil {
		return err
	}
	for _, field := range slices.Sorted(maps.Keys(b.links)) {
		if err := b.linkAll(ctx, field, b.links[field]); err != nil {
			return err
		}
	}
	if err := b.numbers(ctx); err != nil {
		return err
	}
	_, err := b.conn.CopyFrom(ctx, pgx.Identifier{"imports_added"}, []string{"import_id", "table_id", "record_id"},
		pgx.CopyFromSlice(len(b.added), func(i int) ([]any, error) {
			return []any{uuid.MustParse(b.id), b.table.ID, uuid.MustParse(b.added[i])}, nil
		}))
	if err != nil {
		return fmt.Errorf("note what was added: %w", err)
	}
	return b.road.Tell(ctx, b.seat, b.table.ID)
}

// forward writes the links that lead to sheets which were put in their place later, from where the rows were read.
func (b *bringer) forward(ctx context.Context) error {
	name := b.name()
	for i, c := range b.held() {
		if !c.forward {
			continue
		}
		sql := fmt.Sprintf("UPDATE %s.%s t SET %s = x.c%d FROM %s x WHERE t.id = x.id AND x.c%d IS NOT NULL", query.Quote(b.seat.Schema),
			query.Quote(b.table.Key), query.Quote(c.field.Key), i, name, i)
		if _, err := b.conn.Exec(ctx, sql); err != nil {
			return fmt.Errorf("link records: %w", err)
		}
	}
	if _, err := b.conn.Exec(ctx, "DROP TABLE "+name); err != nil {
		return fmt.Errorf("clear what was read: %w", err)
	}
	return nil
}

// lose counts a link to a row that was put aside among those that are not made.
func (b *bringer) lose(field string) {
	for _, c := range b.cells {
		if c.field.ID == field {
			c.made--
			c.empty++
		}
	}
}

// linkAll writes links of a field that the rows themselves could not hold.
func (b *bringer) linkAll(ctx context.Context, field string, pairs [][2]string) error {
	f := b.table.Field(field)
	seen := map[[2]string]bool{}
	var from, to []string
	for _, p := range pairs {
		if b.gone[p[1]] {
			b.lose(field)
		} else if !seen[p] {
			seen[p] = true
			from, to = append(from, p[0]), append(to, p[1])
		}
	}
	of, sql := b.seat.Blueprint.Table(f.Target).Field(f.Of), ""
	switch {
	case f.Type == blueprint.Link:
		sql = fmt.Sprintf("UPDATE %s.%s t SET %s = x.t FROM unnest($1::uuid[], $2::uuid[]) x(f, t) WHERE t.id = x.f",
			query.Quote(b.seat.Schema), query.Quote(b.table.Key), query.Quote(f.Key))
	case of == nil:
		sql = fmt.Sprintf("INSERT INTO %s.%s (from_id, to_id) SELECT * FROM unnest($1::uuid[], $2::uuid[]) ON CONFLICT DO NOTHING",
			query.Quote(b.seat.Schema), query.Quote(query.LinkTable(f.ID)))
	case of.Type == blueprint.Links:
		sql = fmt.Sprintf("INSERT INTO %s.%s (to_id, from_id) SELECT * FROM unnest($1::uuid[], $2::uuid[]) ON CONFLICT DO NOTHING",
			query.Quote(b.seat.Schema), query.Quote(query.LinkTable(of.ID)))
	default:
		sql = fmt.Sprintf("UPDATE %s.%s t SET %s = x.f FROM unnest($1::uuid[], $2::uuid[]) x(f, t) WHERE t.id = x.t",
			query.Quote(b.seat.Schema), query.Quote(b.seat.Blueprint.Table(f.Target).Key), query.Quote(of.Key))
	}
	if _, err := b.conn.Exec(ctx, sql, from, to); err != nil {
		return fmt.Errorf("link records: %w", err)
	}
	return nil
}

// numbers gives the new records the auto numbers that the file did not bring.
func (b *bringer) numbers(ctx context.Context) error {
	for i := range b.table.Fields {
		f := &b.table.Fields[i]
		if f.Type == blueprint.AutoNumber {
			if err := b.road.NumberAll(ctx, b.seat, b.table, f); err != nil {
				return err
			}
		}
	}
	return nil
}
