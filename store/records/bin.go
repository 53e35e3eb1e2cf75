package records

import (
	"context"
	dbsql "database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
)

// Restore brings a record back from the bin, with the links that it had. It is
// for founders.
func (r Road) Restore(ctx context.Context, s *Seat, t *blueprint.Table, id string) (*Write, error) {
	if !s.Viewer.Founder {
		return nil, ErrForbidden
	}
	sql := fmt.Sprintf("SELECT revision FROM %s WHERE id = $1::uuid AND deleted_at IS NOT NULL FOR NO KEY UPDATE", s.context().TableName(t))
	if _, err := r.number(ctx, query.Statement{SQL: sql, Args: []any{id}}); errors.Is(err, dbsql.ErrNoRows) {
		return nil, store.ErrNotFound
	} else if err != nil {
		return nil, fmt.Errorf("look into the bin of %s: %w", t.Name, err)
	}
	if err := r.bin(ctx, s, t, id, false); err != nil {
		return nil, err
	}
	after, err := r.current(ctx, s, t, id, fieldIDs(t))
	if err != nil {
		return nil, err
	}
	if err := r.ownAddress(ctx, s, t, id, valuesOf(t, after)); err != nil {
		return nil, err
	}
	w := &Write{Table: t.ID, Record: id, After: after}
	return w, r.remember(ctx, s, w)
}

// Version is what a write made of a record.
type Version struct {
	ID     int64          `json:"id"`
	MadeAt time.Time      `json:"madeAt"`
	MadeBy string         `json:"madeBy"`
	Did    string         `json:"did" enum:"added,changed,deleted,restored"`
	Before map[string]any `json:"before"`
	After  map[string]any `json:"after"`

	ByID *string `json:"-"` // id of its maker, as [store.Work] has it, or nil
}

// historySQL reads the writes of a record. What gives it values that it did not
// have before adds it, if nothing was written earlier, and else restores it.
const historySQL = `SELECT row_to_json(q)::text FROM (
	SELECT id, made_at AS "madeAt", made_by AS "madeBy", made_by_id AS "byID", before, after, CASE
		WHEN after = 'null' THEN 'deleted'
		WHEN before <> 'null' THEN 'changed'
		WHEN EXISTS (SELECT FROM %[1]s e WHERE e.record_id = h.record_id AND e.table_id = h.table_id AND e.id < h.id) THEN 'restored'
		ELSE 'added' END AS did
	FROM %[1]s h WHERE record_id = $1::uuid AND table_id = $2 ORDER BY id DESC LIMIT 200) q`

// History lists what was written to a record, newest first, with the fields
// that the person sees in it now. Who does not see the record does not see its
// history.
func (r Road) History(ctx context.Context, s *Seat, t *blueprint.Table, id string) ([]Version, error) {
	seen, err := r.There(ctx, s, t, id)
	if err != nil {
		return nil, err
	}
	if !seen && !s.Viewer.Founder {
		return nil, store.ErrNotFound
	}
	history := query.Quote(s.Schema) + "." + query.Quote(HistoryTable)
	rows, err := r.rows(ctx, query.Statement{SQL: fmt.Sprintf(historySQL, history), Args: []any{id, t.ID}})
	if err != nil {
		return nil, fmt.Errorf("read history: %w", err)
	}
	sees, err := r.shown(ctx, s, t, id)
	if err != nil {
		return nil, err
	}
	out := make([]Version, len(rows))
	for i, raw := range rows {
		row := struct {
			*Version
			ByID *string `json:"byID"`
		}{Version: &out[i]}
		if err := json.Unmarshal(raw, &row); err != nil {
			return nil, fmt.Errorf("read history: %w", err)
		}
		out[i].ByID = row.ByID
		for _, side := range []map[string]any{out[i].Before, out[i].After} {
			for f := range side {
				if !sees[f] {
					delete(side, f)
				}
			}
		}
	}
	return out, nil
}

// shown tells which fields the person sees in a record.
func (r Road) shown(ctx context.Context, s *Seat, t *blueprint.Table, id string) (map[string]bool, error) {
	out := map[string]bool{}
	if s.Viewer.Founder {
		for _, f := range t.Fields {
			out[f.ID] = true
		}
		return out, nil
	}
	stmt, err := query.BuildShown(s.context(), t, id)
	if err != nil {
		return nil, err
	}
	rows, err := r.rows(ctx, stmt)
	if err != nil {
		return nil, fmt.Errorf("see which fields are shown: %w", err)
	}
	var fields []string
	if len(rows) == 1 {
		err = json.Unmarshal(rows[0], &fields)
	}
	for _, f := range fields {
		out[f] = true
	}
	return out, err
}

// BringBack gives a record the values that it had after the write with the
// number, as far as it has those fields still.
func (r Road) BringBack(ctx context.Context, s *Seat, t *blueprint.Table, id string, revision int, number int64) (*Write, error) {
	if !s.Viewer.Founder {
		return nil, ErrForbidden
	}
	if err := r.reach(ctx, s, t, id, revision, blueprint.Modify, nil); err != nil {
		return nil, err
	}
	versions, err := r.History(ctx, s, t, id)
	if err != nil {
		return nil, err
	}
	now, err := r.current(ctx, s, t, id, fieldIDs(t))
	if err != nil {
		return nil, err
	}
	then := map[string]any{}
	found := false
	for _, v := range versions { // newest first: what was before the next write is what was after this one
		if found = found || v.ID == number; found {
			break
		}
		for f, x := range v.Before {
			then[f] = x
		}
	}
	if !found {
		return nil, store.ErrNotFound
	}
	values := map[string]expr.Value{}
	w := &Write{Table: t.ID, Record: id, Before: map[string]any{}}
	for f, x := range then {
		field := t.Field(f)
		if field == nil || !field.Type.Entered() || field.Of != "" || sameJSON(now[f], x) {
			continue
		}
		values[f], w.Before[f] = fromPlain(field, x), now[f]
	}
	if len(values) == 0 {
		return nil, words.New("record-same")
	}
	if err := r.set(ctx, s, t, id, values); err != nil {
		return nil, err
	}
	if _, err := r.link(ctx, s, t, id, values, w.Before); err != nil {
		return nil, err
	}
	if err := r.ownAddress(ctx, s, t, id, values); err != nil {
		return nil, err
	}
	w.After = plainValues(values)
	return w, r.remember(ctx, s, w)
}

// valuesOf gives the values of fields from a history.
func valuesOf(t *blueprint.Table, plain map[string]any) map[string]expr.Value {
	out := map[string]expr.Value{}
	for id, v := range plain {
		out[id] = fromPlain(t.Field(id), v)
	}
	return out
}

func sameJSON(a, b any) bool {
	x, errA := json.Marshal(a)
	y, errB := json.Marshal(b)
	return errors.Join(errA, errB) == nil && string(x) == string(y)
}

// EmptyBin deletes the records in the bin of a table for good. It is for
// founders, and cannot be undone.
func (r Road) EmptyBin(ctx context.Context, s *Seat, t *blueprint.Table) (int, error) {
	if !s.Viewer.Founder {
		return 0, ErrForbidden
	}
	sql := fmt.Sprintf(`WITH gone AS (DELETE FROM %s WHERE deleted_at IS NOT NULL RETURNING id),
		past AS (DELETE FROM %s.%s WHERE record_id IN (SELECT id FROM gone)),
		files AS (UPDATE %s SET gone = true WHERE record_id IN (SELECT id FROM gone))
		SELECT count(*) FROM gone`, s.context().TableName(t), query.Quote(s.Schema), query.Quote(HistoryTable), s.filesTable())
	n, err := r.number(ctx, query.Statement{SQL: sql})
	if err != nil {
		return 0, fmt.Errorf("empty the bin of %s: %w", t.Name, err)
	}
	return n, nil
}
