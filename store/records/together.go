package records

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/google/uuid"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/query"
	"pinegate/core/schema"
	"pinegate/store"
)

// leastTogether is from how many writes on they are made together.
const leastTogether = 4

// together makes several writes of a founder in few statements, however many they
// are. Where anything is wrong with any of them, or they ask for what is written
// record by record, nothing is done, and they are to be made one after the other,
// which tells what is wrong with which.
func (r Road) together(ctx context.Context, s *Seat, t *blueprint.Table, edits []Edit) (writes []*Write, done bool, err error) {
	if !s.Viewer.Founder || len(edits) < leastTogether {
		return nil, false, nil
	}
	if _, inside := store.Tx(r.db); !inside {
		return nil, false, nil
	}
	g := &group{Road: r, seat: s, table: t}
	if ok, err := g.read(ctx, edits); err != nil || !ok {
		return nil, false, err
	}
	const before = "before_writing_together"
	if err := r.db.WithContext(ctx).SavePoint(before).Error; err != nil {
		return nil, false, fmt.Errorf("begin writing together: %w", err)
	}
	ok, err := g.write(ctx)
	if err == nil && ok {
		return g.writes, true, nil
	}
	if trouble := store.Trouble(err); trouble != nil {
		return nil, false, err
	}
	if err := r.db.WithContext(ctx).RollbackTo(before).Error; err != nil {
		return nil, false, fmt.Errorf("write one after the other: %w", err)
	}
	return nil, false, nil
}

// group is what is written together.
type group struct {
	Road
	seat  *Seat
	table *blueprint.Table

	planned []planned
	writes  []*Write
}

// planned is one of the writes.
type planned struct {
	id       string
	revision int // of the record that is there, or 0
	delete   bool
	values   map[string]expr.Value
	entered  Values
}

// fields names what is written, for those that can be written with one statement.
func (p planned) fields() string { return strings.Join(keys(p.values), " ") }

// read reads what is entered. It gives false where something is not right.
func (g *group) read(ctx context.Context, edits []Edit) (bool, error) {
	labels, err := g.labels(ctx, edits)
	if err != nil {
		return false, err
	}
	there := map[string]bool{}
	links := map[string]map[string]bool{} // ids that are pointed to, by table
	for _, e := range edits {
		p := planned{id: e.Record, revision: e.Revision, delete: e.Delete}
		if e.Record != "" && (there[e.Record] || !blueprint.IsRecordID(e.Record)) || e.Record == "" && e.Delete {
			return false, nil
		}
		there[e.Record] = e.Record != ""
		if !e.Delete {
			var ok bool
			if p.entered, ok = g.entered(ctx, e, labels); !ok || !g.accept(&p, links) {
				return false, nil
			}
		}
		g.planned = append(g.planned, p)
	}
	for table, wanted := range links {
		seen, err := g.seen(ctx, g.seat, g.seat.Blueprint.Table(table), slices.Sorted(maps.Keys(wanted)))
		if err != nil || len(seen) < len(wanted) {
			return false, err
		}
	}
	return true, nil
}

// labels finds the records that are named in texts, by table.
func (g *group) labels(ctx context.Context, edits []Edit) (map[string]map[string]labelled, error) {
	named := map[string]map[string]bool{}
	for _, e := range edits {
		for id, text := range e.Texts {
			f := g.table.Field(id)
			if text = strings.TrimSpace(text); f == nil || f.Type != blueprint.Link || text == "" {
				continue
			}
			if named[f.Target] == nil {
				named[f.Target] = map[string]bool{}
			}
			named[f.Target][text] = true
		}
	}
	out := map[string]map[string]labelled{}
	for table, texts := range named {
		var err error
		if out[table], err = g.byLabels(ctx, g.seat, g.seat.Blueprint.Table(table), slices.Sorted(maps.Keys(texts))); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// entered gives what is entered for an edit, with its texts read.
func (g *group) entered(ctx context.Context, e Edit, labels map[string]map[string]labelled) (Values, bool) {
	out := Values{}
	for id, text := range e.Texts {
		f := g.table.Field(id)
		if f == nil || f.Type == blueprint.Links {
			return nil, false
		}
		var v expr.Value
		if text = strings.TrimSpace(text); f.Type == blueprint.Link && text != "" {
			record := labels[f.Target][text]
			if record.Count != 1 {
				return nil, false
			}
			v = expr.RecordOf(record.ID)
		} else {
			read, problem, err := g.readText(ctx, g.seat, f, text)
			if problem != nil || err != nil {
				return nil, false
			}
			v = read
		}
		raw, err := json.Marshal(argument(v))
		if err != nil {
			return nil, false
		}
		out[id] = raw
	}
	maps.Copy(out, e.Values)
	return out, true
}

// accept reads the values of an edit, and notes the records to which they point.
func (g *group) accept(p *planned, links map[string]map[string]bool) bool {
	action := blueprint.Modify
	if p.id == "" {
		action = blueprint.Add
	}
	p.values = map[string]expr.Value{}
	for id, raw := range p.entered {
		f := g.table.Field(id)
		if f == nil || f.Type == blueprint.Links || f.Type.Filed() || len(g.seat.Blueprint.KnownBy(g.table.ID, id)) > 0 {
			return false
		}
		may, err := access.MaySet(g.seat.Blueprint, g.seat.Catalog, g.seat.Viewer, g.table.ID, id, action)
		if err != nil || !may {
			return false
		}
		v, problem := form.Accept(g.seat.Blueprint, f, raw)
		if problem != nil || f.Required && v.IsEmpty() {
			return false
		}
		if f.Type == blueprint.Link && !v.IsEmpty() {
			if links[f.Target] == nil {
				links[f.Target] = map[string]bool{}
			}
			links[f.Target][v.Text] = true
		}
		p.values[id] = v
	}
	return true
}

// write makes the writes. It gives false where a record is not as it was seen.
func (g *group) write(ctx context.Context) (bool, error) {
	if ok, err := g.hold(ctx); err != nil || !ok {
		return ok, err
	}
	if ok, err := g.begin(ctx); err != nil || !ok {
		return ok, err
	}
	byFields := map[string][]planned{}
	var gone []string
	for _, p := range g.planned {
		if p.delete {
			gone = append(gone, p.id)
			continue
		}
		kind := "change "
		if p.revision == 0 {
			kind = "add "
		}
		byFields[kind+p.fields()] = append(byFields[kind+p.fields()], p)
	}
	for _, kind := range slices.Sorted(maps.Keys(byFields)) {
		if err := g.put(ctx, byFields[kind]); err != nil {
			return false, err
		}
	}
	if err := g.throwAway(ctx, gone); err != nil {
		return false, err
	}
	return true, g.remember(ctx)
}

// hold locks the records that are there, in the order of their ids so that two who
// do so wait for each other once, and compares their revisions.
func (g *group) hold(ctx context.Context) (bool, error) {
	wanted := map[string]int{}
	for _, p := range g.planned {
		if p.id != "" {
			wanted[p.id] = p.revision
		}
	}
	if len(wanted) == 0 {
		return true, nil
	}
	sql := fmt.Sprintf("SELECT json_build_object('id', id, 'revision', revision)::text FROM (SELECT id, revision FROM %s"+
		" WHERE id = ANY ($1::uuid[]) AND deleted_at IS NULL ORDER BY id FOR NO KEY UPDATE) q", g.seat.context().TableName(g.table))
	rows, err := g.rows(ctx, query.Statement{SQL: sql, Args: []any{slices.Sorted(maps.Keys(wanted))}})
	if err != nil {
		return false, fmt.Errorf("hold records of %s: %w", g.table.Name, err)
	}
	for _, raw := range rows {
		var now struct {
			ID       string
			Revision int
		}
		if err := json.Unmarshal(raw, &now); err != nil {
			return false, fmt.Errorf("hold records of %s: %w", g.table.Name, err)
		}
		if wanted[now.ID] != now.Revision || now.Revision == 0 {
			return false, nil
		}
	}
	return len(rows) == len(wanted), nil
}

// begin notes what the records are before, and completes those that are new.
func (g *group) begin(ctx context.Context) (bool, error) {
	var ids []string
	fields := map[string]bool{}
	for _, p := range g.planned {
		if p.id != "" {
			ids = append(ids, p.id)
		}
		of := keys(p.values)
		if p.delete {
			of = fieldIDs(g.table)
		}
		for _, id := range of {
			fields[id] = true
		}
	}
	before := map[string]map[string]any{}
	if len(ids) > 0 {
		var err error
		if before, err = g.currents(ctx, g.seat, g.table, ids, slices.Sorted(maps.Keys(fields))); err != nil {
			return false, err
		}
	}
	for i := range g.planned {
		p := &g.planned[i]
		if p.id == "" {
			ok, err := g.complete(ctx, p)
			if err != nil || !ok {
				return false, err
			}
			g.writes = append(g.writes, &Write{Table: g.table.ID, Record: p.id, After: plainValues(p.values)})
			continue
		}
		w := &Write{Table: g.table.ID, Record: p.id, Before: map[string]any{}}
		of := fieldIDs(g.table)
		if !p.delete {
			of, w.After = keys(p.values), plainValues(p.values)
		}
		for _, id := range of {
			w.Before[id] = before[p.id][id]
		}
		g.writes = append(g.writes, w)
	}
	return true, g.giveNumbers(ctx)
}

// complete gives a new record its id and its defaults; false where something is
// missing.
func (g *group) complete(ctx context.Context, p *planned) (bool, error) {
	wrong := FieldErrors{}
	if err := g.seat.missing(g.table, p.values, nil, wrong); err != nil || len(wrong) > 0 {
		return false, err
	}
	id, err := uuid.NewV7()
	if err != nil {
		return false, fmt.Errorf("make record id: %w", err)
	}
	p.id = id.String()
	return true, g.defaults(ctx, g.seat, g.table, p.entered, p.values)
}

// giveNumbers gives new records their auto numbers.
func (g *group) giveNumbers(ctx context.Context) error {
	var fresh []int
	for i, p := range g.planned {
		if p.revision == 0 && !p.delete {
			fresh = append(fresh, i)
		}
	}
	if len(fresh) == 0 {
		return nil
	}
	for i := range g.table.Fields {
		f := &g.table.Fields[i]
		if f.Type != blueprint.AutoNumber {
			continue
		}
		first, err := g.takeNumbers(ctx, g.seat, f, len(fresh))
		if err != nil {
			return err
		}
		for n, at := range fresh {
			v := numberOf(f, first+n)
			g.planned[at].values[f.ID] = v
			g.writes[at].After[f.ID] = argument(v)
		}
	}
	return nil
}

// put writes records of which the same fields are written.
func (g *group) put(ctx context.Context, list []planned) error {
	columns, sets, selects, types := []string{}, []string{}, []string{}, []string{"id uuid"}
	ids := keys(list[0].values)
	for i, id := range ids {
		f := g.table.Field(id)
		columns = append(columns, query.Quote(f.Key))
		selects = append(selects, fmt.Sprintf("x.c%d", i))
		sets = append(sets, fmt.Sprintf("%s = x.c%d", query.Quote(f.Key), i))
		types = append(types, fmt.Sprintf("c%d %s", i, f.Type.Column()))
	}
	rows := make([]map[string]any, len(list))
	for n, p := range list {
		rows[n] = map[string]any{"id": p.id}
		for i, id := range ids {
			rows[n][fmt.Sprintf("c%d", i)] = argument(p.values[id])
		}
	}
	from := "jsonb_to_recordset($1::jsonb) x(" + strings.Join(types, ", ") + ")"
	sql := fmt.Sprintf("UPDATE %s t SET %s FROM %s WHERE t.id = x.id", g.seat.context().TableName(g.table),
		strings.Join(append([]string{"revision = revision + 1", "changed_at = now()", "changed_by = $2::text"}, sets...), ", "), from)
	if list[0].revision == 0 {
		sql = fmt.Sprintf("INSERT INTO %s (%s) SELECT %s FROM %s", g.seat.context().TableName(g.table),
			strings.Join(append([]string{"id", "created_by", "changed_by"}, columns...), ", "),
			strings.Join(append([]string{"x.id", "$2::text", "$2::text"}, selects...), ", "), from)
	}
	if list[0].revision == 0 && len(schema.UniqueIndexes(g.table)) == 0 {
		return g.send(ctx, g.gather, sql, rows, g.seat.By)
	}
	return g.send(ctx, g.exec, sql, rows, g.seat.By)
}

func (g *group) send(ctx context.Context, by func(context.Context, string, ...any) error, sql string, rows any, args ...any) error {
	raw, err := json.Marshal(rows)
	if err != nil {
		return fmt.Errorf("write to %s: %w", g.table.Name, err)
	}
	if err := by(ctx, sql, append([]any{string(raw)}, args...)...); err != nil {
		return fmt.Errorf("write to %s: %w", g.table.Name, err)
	}
	return nil
}

// throwAway moves records to the bin.
func (g *group) throwAway(ctx context.Context, ids []string) error {
	if len(ids) == 0 {
		return nil
	}
	sql := fmt.Sprintf("UPDATE %s SET deleted_at = now(), revision = revision + 1, changed_at = now(), changed_by = $2::text"+
		" WHERE id IN (SELECT value::uuid FROM jsonb_array_elements_text($1::jsonb))", g.seat.context().TableName(g.table))
	return g.send(ctx, g.exec, sql, ids, g.seat.By)
}

// remember keeps the writes in the history, in their order.
func (g *group) remember(ctx context.Context) error { return g.Road.remember(ctx, g.seat, g.writes...) }
