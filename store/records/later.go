package records

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"github.com/jackc/pgx/v5"

	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/store"
)

// HistoryTable is the name of the table, in each environment, that keeps every
// write.
const HistoryTable = "_history"

// Later gathers what is written, with its history and the news of it, until something is read or it is kept: so it is
// sent at once. It is for what is written whole or not at all, in a transaction; what is gathered is
// lost unless it is kept in the end.
type Later struct {
	statements []store.Statement
	history    history
	news       store.News
	there      map[string]bool           // records that were found by who may see all, so that they are not looked for again
	held       map[string]bool           // records that nobody else changes until the unit is over
	wrote      map[string]map[string]any // what records hold that were added in the unit, as far as it was given
	rows       map[string]map[string]any // of these, what was read of them since they were written last
}

// Also gathers a statement that is no record's: it goes with the others.
func (l *Later) Also(s store.Statement) { l.statements = append(l.statements, s) }

// Hold has nobody else change records until the unit of work is over. It waits for whoever changes them now: what is read
// of them afterwards is what they have then.
func (r Road) Hold(ctx context.Context, s *Seat, t *blueprint.Table, ids ...string) error {
	var fresh []string
	for _, id := range ids {
		if blueprint.IsRecordID(id) && (r.later == nil || !r.later.held[id]) {
			fresh = append(fresh, id)
		}
	}
	if len(fresh) == 0 {
		return nil
	}
	slices.Sort(fresh) // so that two who hold the same do not wait for each other
	r.holds(fresh...)
	sql := query.HoldSQL(s.context(), t)
	for _, id := range fresh {
		if err := r.gather(ctx, sql, id); err != nil {
			return err
		}
	}
	return nil
}

// holds notes that records are held, as those that were added are.
func (r Road) holds(ids ...string) {
	if r.later == nil {
		return
	}
	if r.later.held == nil {
		r.later.held = map[string]bool{}
	}
	for _, id := range ids {
		r.later.held[id] = true
	}
}

// heldRow reads fields of a record that is held, and keeps them for when it is changed; with its revision as ~.
// [store.ErrNotFound] tells that it is not there.
func (r Road) heldRow(ctx context.Context, s *Seat, t *blueprint.Table, id string, fields []string) (map[string]any, error) {
	if row := r.later.row(id); row != nil && !slices.ContainsFunc(fields, func(f string) bool { _, is := row[f]; return !is }) {
		return row, nil
	}
	stmt, err := query.BuildHeld(s.context(), t, id, fields)
	if err != nil {
		return nil, err
	}
	rows, err := r.rows(ctx, stmt)
	if err != nil {
		return nil, fmt.Errorf("read a record of %s: %w", t.Name, err)
	}
	if len(rows) == 0 {
		return nil, store.ErrNotFound
	}
	var row map[string]any
	if err := json.Unmarshal(rows[0], &row); err != nil {
		return nil, fmt.Errorf("read a record of %s: %w", t.Name, err)
	}
	if r.later != nil && r.later.held[id] {
		if r.later.rows == nil {
			r.later.rows = map[string]map[string]any{}
		}
		r.later.rows[id] = row
	}
	return row, nil
}

// Forget forgets what was read of records, as they were written on another road of the unit.
func (l *Later) Forget() {
	clear(l.rows)
	clear(l.wrote)
}

// writes notes what a record holds that is added in the unit, or was.
func (l *Later) writes(w *Write) {
	if l == nil {
		return
	}
	delete(l.rows, w.Record)
	known := l.wrote[w.Record]
	switch {
	case w.Before == nil && w.After != nil:
		known = map[string]any{}
	case w.After == nil || known == nil:
		delete(l.wrote, w.Record)
		return
	}
	if l.wrote == nil {
		l.wrote = map[string]map[string]any{}
	}
	maps.Copy(known, w.After)
	l.wrote[w.Record] = known
}

// given gives fields of a record that was added in the unit, or nil where not all of them were given.
func (l *Later) given(id string, fields []string) map[string]any {
	if l == nil || l.wrote[id] == nil {
		return nil
	}
	out := map[string]any{}
	for _, fid := range fields {
		v, is := l.wrote[id][fid]
		if !is {
			return nil
		}
		out[fid] = v
	}
	return out
}

func (l *Later) row(id string) map[string]any {
	if l == nil {
		return nil
	}
	return l.rows[id]
}

// Found notes that records are there.
func (r Road) Found(s *Seat, ids ...string) {
	if r.later == nil || !s.Viewer.Founder {
		return
	}
	if r.later.there == nil {
		r.later.there = map[string]bool{}
	}
	for _, id := range ids {
		r.later.there[id] = true
	}
}

// areFound tells whether all of some records were found, by who may see all.
func (r Road) areFound(s *Seat, ids []string) bool {
	if r.later == nil || !s.Viewer.Founder {
		return false
	}
	for _, id := range ids {
		if !r.later.there[id] {
			return false
		}
	}
	return true
}

// history are writes in their order.
type history struct{ tables, records, befores, afters []string }

// Later gives the road on which what is written is gathered; outside of a transaction nothing is.
func (r Road) Later(l *Later) Road {
	if _, inside := store.Tx(r.db); inside {
		r.later, r.news = l, &l.news
	}
	return r
}

// Keep sends what was gathered.
func (l *Later) Keep(ctx context.Context, r Road, s *Seat) error {
	if kept := l.history; len(kept.tables) > 0 {
		l.history = history{}
		l.statements = append(l.statements, kept.statement(ctx, s))
	}
	l.statements = append(l.statements, l.news.Statements()...)
	return r.Later(l).flush(ctx)
}

// flush sends statements that were gathered.
func (r Road) flush(ctx context.Context) error {
	if r.later == nil || len(r.later.statements) == 0 {
		return nil
	}
	list := r.later.statements
	r.later.statements = nil
	if err := store.Together(ctx, r.db, list); err != nil {
		return fmt.Errorf("write records: %w", err)
	}
	return nil
}

// textsAfter sends what was gathered together with a statement that reads it.
func (r Road) textsAfter(ctx context.Context, stmt query.Statement) (out []Row, err error) {
	list := r.later.statements
	r.later.statements = nil
	out = []Row{}
	err = store.TogetherWith(ctx, r.db, list, &store.Statement{SQL: stmt.SQL, Args: stmt.Args}, func(found pgx.Rows) error {
		for found.Next() {
			var text string
			if err := found.Scan(&text); err != nil {
				return err
			}
			out = append(out, Row(text))
		}
		return found.Err()
	})
	if err != nil {
		return nil, fmt.Errorf("write records, and read: %w", err)
	}
	return out, nil
}

// conn gives the connection for what reads what was written.
func (r Road) conn(ctx context.Context) (store.Querier, error) {
	return store.Conn(r.db), r.flush(ctx)
}

// exec runs a statement that writes.
func (r Road) exec(ctx context.Context, sql string, args ...any) error {
	c, err := r.conn(ctx)
	if err != nil {
		return err
	}
	_, err = c.ExecContext(ctx, sql, args...)
	return err
}

// gather is [Road.exec], by and by, of what cannot be refused for what people entered.
func (r Road) gather(ctx context.Context, sql string, args ...any) error {
	if r.later == nil {
		return r.exec(ctx, sql, args...)
	}
	r.later.statements = append(r.later.statements, store.Statement{SQL: sql, Args: args})
	return nil
}

// note adds a write.
func (h *history) note(w *Write) error {
	before, err := json.Marshal(w.Before)
	if err != nil {
		return fmt.Errorf("write history: %w", err)
	}
	after, err := json.Marshal(w.After)
	if err != nil {
		return fmt.Errorf("write history: %w", err)
	}
	h.tables, h.records = append(h.tables, w.Table), append(h.records, w.Record)
	h.befores, h.afters = append(h.befores, string(before)), append(h.afters, string(after))
	return nil
}

// statement writes them into the history of the environment.
func (h history) statement(ctx context.Context, s *Seat) store.Statement {
	return store.Statement{SQL: fmt.Sprintf("INSERT INTO %s.%s (table_id, record_id, made_by, made_by_id, before, after)"+
		" SELECT x.t, x.r, $5, $6, x.b::jsonb, x.a::jsonb FROM unnest($1::text[], $2::uuid[], $3::text[], $4::text[])"+
		" WITH ORDINALITY x(t, r, b, a) ORDER BY x.ordinality", query.Quote(s.Schema), query.Quote(HistoryTable)),
		Args: []any{h.tables, h.records, h.befores, h.afters, s.By, s.doer(ctx)}}
}

// remember keeps writes in the history, or gathers them, and tells of them.
func (r Road) remember(ctx context.Context, s *Seat, writes ...*Write) error {
	var own history
	h := &own
	if r.later != nil {
		h = &r.later.history
	}
	for i, w := range writes {
		if err := h.note(w); err != nil {
			return err
		}
		r.later.writes(w)
		if r.noted != nil {
			r.noted(s, w)
		}
		if i > 0 && writes[i-1].Table == w.Table { // which is told already
			continue
		}
		if err := r.tell(ctx, s, w.Table); err != nil {
			return err
		}
	}
	if len(own.tables) == 0 {
		return nil
	}
	all := own.statement(ctx, s)
	if err := r.exec(ctx, all.SQL, all.Args...); err != nil {
		return fmt.Errorf("write history: %w", err)
	}
	return nil
}
