package records

import (
	"context"
	"fmt"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
)

// New is a record to be added, with the id that it is to have.
type New struct {
	ID     string
	Values map[string]expr.Value // by the ids of the fields
}

// batch is how many records are added by one statement; PostgreSQL takes
// 65,535 parameters.
const batch = 200

// AddMany adds many records at once. It is for founders, who may do
// everything; values must fit their fields.
func (r Road) AddMany(ctx context.Context, s *Seat, t *blueprint.Table, list []New) error {
	if !s.Viewer.Founder {
		return ErrForbidden
	}
	for len(list) > 0 {
		n := min(batch, len(list))
		if err := r.addBatch(ctx, s, t, list[:n]); err != nil {
			return fmt.Errorf("add to %s: %w", t.Name, err)
		}
		list = list[n:]
	}
	return r.tell(ctx, s, t.ID)
}

func (r Road) addBatch(ctx context.Context, s *Seat, t *blueprint.Table, list []New) error {
	columns := []string{"id", "created_by", "changed_by"}
	fields := held(t)
	for _, f := range fields {
		columns = append(columns, query.Quote(f.Key))
	}
	args := []any{s.By, s.doer(ctx)}
	var rows []string
	for _, x := range list {
		args = append(args, x.ID)
		id := fmt.Sprintf("$%d::uuid", len(args))
		places := []string{id, "$1::text", "$1::text"}
		for _, f := range fields {
			args = append(args, argument(x.Values[f.ID]))
			places = append(places, fmt.Sprintf("$%d::%s", len(args), f.Type.Column()))
		}
		rows = append(rows, "("+strings.Join(places, ", ")+")")
	}
	var kept []string
	for _, f := range fields {
		kept = append(kept, "'"+f.ID+"'", "added."+query.Quote(f.Key))
	}
	sql := fmt.Sprintf(`WITH added AS (INSERT INTO %s (%s) VALUES %s RETURNING *)
		INSERT INTO %s.%s (table_id, record_id, made_by, made_by_id, after)
		SELECT '%s', added.id, $1, $2, jsonb_strip_nulls(jsonb_build_object(%s)) FROM added`,
		s.context().TableName(t), strings.Join(columns, ", "), strings.Join(rows, ", "),
		query.Quote(s.Schema), query.Quote(HistoryTable), t.ID, strings.Join(kept, ", "))
	if err := r.exec(ctx, sql, args...); err != nil {
		return s.taken(t, err)
	}
	return r.linkBatch(ctx, s, t, list)
}

// held lists the fields of a table that a column holds.
func held(t *blueprint.Table) []*blueprint.Field {
	var out []*blueprint.Field
	for i := range t.Fields {
		if t.Fields[i].Type.Column() != "" {
			out = append(out, &t.Fields[i])
		}
	}
	return out
}

// linkBatch adds the links to many of new records.
func (r Road) linkBatch(ctx context.Context, s *Seat, t *blueprint.Table, list []New) error {
	for _, f := range t.Fields {
		if f.Type != blueprint.Links || f.Of != "" {
			continue
		}
		var from, to []string
		for _, x := range list {
			for _, item := range x.Values[f.ID].Items {
				from, to = append(from, x.ID), append(to, item.Text)
			}
		}
		if len(from) == 0 {
			continue
		}
		sql := fmt.Sprintf("INSERT INTO %s (from_id, to_id) SELECT * FROM unnest($1::uuid[], $2::uuid[]) ON CONFLICT DO NOTHING",
			s.linkTable(f.ID))
		if err := r.exec(ctx, sql, from, to); err != nil {
			return fmt.Errorf("add links: %w", err)
		}
	}
	return nil
}
