package records

import (
	"context"
	"fmt"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/store"
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
	return nil
}

func (r Road) addBatch(ctx context.Context, s *Seat, t *blueprint.Table, list []New) error {
	columns := []string{"id", "created_by", "changed_by"}
	for _, f := range t.Fields {
		columns = append(columns, query.Quote(f.Key))
	}
	args := []any{s.By}
	var rows []string
	for _, x := range list {
		args = append(args, x.ID)
		id := fmt.Sprintf("$%d::uuid", len(args))
		places := []string{id, "$1::text", "$1::text"}
		for _, f := range t.Fields {
			args = append(args, argument(x.Values[f.ID]))
			places = append(places, fmt.Sprintf("$%d::%s", len(args), query.ColumnType(f.Type)))
		}
		rows = append(rows, "("+strings.Join(places, ", ")+")")
	}
	var kept []string
	for _, f := range t.Fields {
		kept = append(kept, "'"+f.ID+"'", "added."+query.Quote(f.Key))
	}
	sql := fmt.Sprintf(`WITH added AS (INSERT INTO %s (%s) VALUES %s RETURNING *)
		INSERT INTO %s.%s (table_id, record_id, made_by, after)
		SELECT '%s', added.id, $1, jsonb_strip_nulls(jsonb_build_object(%s)) FROM added`,
		s.context().TableName(t), strings.Join(columns, ", "), strings.Join(rows, ", "),
		query.Quote(s.Schema), query.Quote(HistoryTable), t.ID, strings.Join(kept, ", "))
	_, err := store.Conn(r.db).ExecContext(ctx, sql, args...)
	return err
}
