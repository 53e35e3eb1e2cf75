package records

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/query"
	"pinegate/core/schema"
	"pinegate/core/words"
	"pinegate/store"
)

// Values are what is entered for fields, by their ids, as JSON.
type Values map[string]json.RawMessage

// Write is what a write did to a record: the values of the fields that it
// touched, before and after, by the ids of the fields; nil before it was
// there, and after it was deleted.
type Write struct {
	Table  string         `json:"table"`
	Record string         `json:"record"`
	Before map[string]any `json:"before"`
	After  map[string]any `json:"after"`
	Also   []*Write       `json:"also,omitempty"` // what was written to linked records
}

// refusedUnless gives the error with which it could not be told whether somebody may, or
// [ErrForbidden] where they may not.
func refusedUnless(ok bool, err error) error {
	if err == nil && !ok {
		err = ErrForbidden
	}
	return err
}

// AnyRevision is given where a record is written as it is now, whatever it was when it was read.
const AnyRevision = -1

// Entered gives values as they are entered.
func Entered(values map[string]expr.Value) (Values, error) {
	out := Values{}
	for id, v := range plainValues(values) {
		raw, err := json.Marshal(v)
		if err != nil {
			return nil, fmt.Errorf("write a value: %w", err)
		}
		out[id] = raw
	}
	return out, nil
}

// Change changes fields of a record. The revision is the one that was being
// edited; [ErrChanged] tells that there is a newer one.
func (r Road) Change(ctx context.Context, s *Seat, t *blueprint.Table, id string, revision int, entered Values,
	presets map[string]expr.Value) (*Write, error) {
	bound := !s.Viewer.Founder // whoever may do everything is bound by no rule
	var before map[string]any
	var err error
	if bound {
		err = r.reach(ctx, s, t, id, revision, blueprint.Modify, nil)
	} else {
		before, err = r.hold(ctx, s, t, id, revision, entered, presets)
	}
	if err != nil {
		return nil, err
	}
	values, wrong, err := r.accept(ctx, s, t, id, entered, blueprint.Modify)
	if err != nil {
		return nil, err
	}
	written := keys(values)
	if bound {
		if err := r.reach(ctx, s, t, id, revision, blueprint.Modify, written); err != nil {
			return nil, err
		}
	}
	for fid, v := range presets {
		values[fid] = v
	}
	for fid, v := range values {
		if f := t.Field(fid); f.Required && v.IsEmpty() {
			wrong[fid] = form.Missing(f)
		}
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	if err := r.keepFiles(ctx, s, t, id, values); err != nil {
		return nil, err
	}
	if bound {
		if before, err = r.current(ctx, s, t, id, keys(values)); err != nil {
			return nil, err
		}
	}
	w := &Write{Table: t.ID, Record: id, Before: before, After: plainValues(values)}
	if err := r.set(ctx, s, t, id, values); err != nil {
		return nil, err
	}
	if w.Also, err = r.link(ctx, s, t, id, values, w.Before); err != nil {
		return nil, err
	}
	if bound { // what the rules say of changing holds before and after
		if _, ok, err := r.permitted(ctx, s, t, id, blueprint.Modify, written); err != nil || !ok {
			return nil, refusedUnless(ok, err)
		}
	}
	if err := r.ownAddress(ctx, s, t, id, values); err != nil {
		return nil, err
	}
	return w, r.remember(ctx, s, w)
}

// Delete moves a record to the bin.
func (r Road) Delete(ctx context.Context, s *Seat, t *blueprint.Table, id string, revision int) (*Write, error) {
	if err := r.reach(ctx, s, t, id, revision, blueprint.Delete, nil); err != nil {
		return nil, err
	}
	w := &Write{Table: t.ID, Record: id}
	var err error
	if w.Before, err = r.current(ctx, s, t, id, fieldIDs(t)); err != nil {
		return nil, err
	}
	return w, errors.Join(r.bin(ctx, s, t, id, true), r.remember(ctx, s, w))
}

// reach checks that the action may be done to the record in the state that was
// seen.
func (r Road) reach(ctx context.Context, s *Seat, t *blueprint.Table, id string, revision int, action blueprint.Action,
	fields []string) error {
	now, ok, err := r.permitted(ctx, s, t, id, action, fields)
	if err != nil {
		return err
	}
	if !ok {
		seen, err := r.There(ctx, s, t, id)
		if err != nil {
			return err
		}
		if !seen {
			return store.ErrNotFound
		}
		return ErrForbidden
	}
	if now != revision && revision != AnyRevision {
		return ErrChanged
	}
	return nil
}

// hold is [Road.reach] for who may do everything: it locks the record, and reads what is written over.
func (r Road) hold(ctx context.Context, s *Seat, t *blueprint.Table, id string, revision int, entered Values,
	presets map[string]expr.Value) (map[string]any, error) {
	if !blueprint.IsRecordID(id) { // there is none
		return nil, store.ErrNotFound
	}
	var fields []string
	for _, f := range t.Fields {
		_, is := entered[f.ID]
		if _, preset := presets[f.ID]; is && !f.Type.Computed() && !f.Type.Recorded() || preset {
			fields = append(fields, f.ID)
		}
	}
	if revision == AnyRevision {
		if before := r.later.given(id, fields); before != nil {
			return before, nil
		}
	}
	row, err := r.heldRow(ctx, s, t, id, fields)
	if err != nil {
		return nil, err
	}
	now, _ := row["~"].(float64)
	if revision != AnyRevision && int(now) != revision {
		return nil, ErrChanged
	}
	before := map[string]any{}
	for _, fid := range fields {
		before[fid] = row[fid]
	}
	r.Found(s, id)
	return before, nil
}

// accept reads what was entered and says what is wrong with it: fields that are
// not there for the person, may not be set, or hold what they cannot. The id is that
// of the record, or "" for a new one.
func (r Road) accept(ctx context.Context, s *Seat, t *blueprint.Table, id string, entered Values, action blueprint.Action) (
	map[string]expr.Value, FieldErrors, error) {
	wrong := FieldErrors{}
	out := map[string]expr.Value{}
	for fid, raw := range entered {
		f := t.Field(fid)
		if f == nil {
			wrong[fid] = words.New("no-such-field")
			continue
		}
		may, err := access.MaySet(s.Blueprint, s.Catalog, s.Viewer, t.ID, fid, action)
		if err != nil {
			return nil, nil, err
		}
		if !may {
			sees, err := s.Sees(t.ID, fid)
			if err != nil {
				return nil, nil, err
			}
			wrong[fid] = s.notYours(t.ID, id, fid, sees)
			continue
		}
		v, message, err := r.acceptOne(ctx, s, t, id, f, raw)
		if err != nil {
			return nil, nil, err
		}
		if message != nil {
			wrong[fid] = message
			continue
		}
		out[fid] = v
	}
	return out, wrong, nil
}

// notYours says why somebody may not set a field.
func (s *Seat) notYours(table, id, field string, sees bool) *words.Problem {
	switch {
	case !sees:
		return words.New("no-such-field")
	case s.isSelf(table, id, field):
		return words.New("own-email")
	case id != "" && len(s.Blueprint.KnownBy(table, field)) > 0:
		return words.New("person-email")
	}
	return words.New("field-not-yours")
}

// acceptOne reads what was entered for a field.
func (r Road) acceptOne(ctx context.Context, s *Seat, t *blueprint.Table, id string, f *blueprint.Field, raw json.RawMessage) (expr.Value,
	*words.Problem, error) {
	if f.Type == blueprint.Links {
		return r.linked(ctx, s, t, id, f, raw)
	}
	v, wrong := form.Accept(s.Blueprint, f, raw)
	if wrong != nil {
		return v, wrong, nil
	}
	wrong, err := r.linkable(ctx, s, f, v)
	return v, wrong, err
}

// missing adds to what is wrong with a new record the required fields that are
// not filled in, as far as the person could fill them.
func (s *Seat) missing(t *blueprint.Table, values, presets map[string]expr.Value, wrong FieldErrors) error {
	for i := range t.Fields {
		f := &t.Fields[i]
		if !f.Required || !values[f.ID].IsEmpty() || wrong[f.ID] != nil {
			continue
		}
		if _, preset := presets[f.ID]; preset {
			continue
		}
		may, err := access.MaySet(s.Blueprint, s.Catalog, s.Viewer, t.ID, f.ID, blueprint.Add)
		if err != nil {
			return err
		}
		if may {
			wrong[f.ID] = form.Missing(f)
		}
	}
	return nil
}

// set writes values into a record and raises its revision.
func (r Road) set(ctx context.Context, s *Seat, t *blueprint.Table, id string, values map[string]expr.Value) error {
	sets, args := []string{"revision = revision + 1", "changed_at = now()", "changed_by = $2::text"}, []any{id, s.By}
	for _, fid := range keys(values) {
		f := t.Field(fid)
		if f.Type == blueprint.Links {
			continue
		}
		args = append(args, argument(values[fid]))
		sets = append(sets, fmt.Sprintf("%s = $%d::%s", query.Quote(f.Key), len(args), f.Type.Column()))
	}
	sql := fmt.Sprintf("UPDATE %s SET %s WHERE id = $1::uuid", s.context().TableName(t), strings.Join(sets, ", "))
	if len(schema.UniqueIndexes(t)) == 0 {
		return r.gather(ctx, sql, args...)
	}
	if err := r.exec(ctx, sql, args...); err != nil {
		return s.taken(t, fmt.Errorf("change a record of %s: %w", t.Name, err))
	}
	return nil
}

// bin moves a record to the bin, or back.
func (r Road) bin(ctx context.Context, s *Seat, t *blueprint.Table, id string, deleted bool) error {
	if r.later != nil {
		clear(r.later.there)
		r.later.Forget()
	}
	sql := fmt.Sprintf("UPDATE %s SET deleted_at = CASE WHEN $3 THEN now() END, revision = revision + 1, changed_at = now(), changed_by = $2::text WHERE id = $1::uuid", s.context().TableName(t))
	if err := r.exec(ctx, sql, id, s.By, deleted); err != nil {
		return s.taken(t, fmt.Errorf("move a record of %s: %w", t.Name, err))
	}
	return nil
}

// current reads fields of a record as they are, whoever asks.
func (r Road) current(ctx context.Context, s *Seat, t *blueprint.Table, id string, fields []string) (map[string]any, error) {
	all, err := r.currents(ctx, s, t, []string{id}, fields)
	if err == nil && all[id] == nil {
		err = store.ErrNotFound
	}
	return all[id], err
}

// currents reads fields of records as they are, by their ids, whoever asks.
func (r Road) currents(ctx context.Context, s *Seat, t *blueprint.Table, ids []string, fields []string) (map[string]map[string]any, error) {
	self := *s
	self.seeing, self.Viewer = nil, access.Viewer{Founder: true}
	stmt, err := query.BuildCurrent(self.context(), t, ids, fields)
	if err != nil {
		return nil, err
	}
	rows, err := r.rows(ctx, stmt)
	if err != nil {
		return nil, fmt.Errorf("read records of %s: %w", t.Name, err)
	}
	out := map[string]map[string]any{}
	for _, raw := range rows {
		var row map[string]any
		if err := json.Unmarshal(raw, &row); err != nil {
			return nil, fmt.Errorf("read a record of %s: %w", t.Name, err)
		}
		id := fmt.Sprint(row["~"])
		delete(row, "~")
		out[id] = row
	}
	return out, nil
}

func missingIf(missing bool) error {
	if missing {
		return store.ErrNotFound
	}
	return nil
}

// tell lets every server know, when the transaction is over, that records of a
// table were written.
func (r Road) tell(ctx context.Context, s *Seat, table string) error {
	if r.news != nil {
		r.news.Touch(s.Schema, table)
		return nil
	}
	var news store.News
	news.Touch(s.Schema, table)
	return news.Tell(ctx, r.db)
}

func keys(m map[string]expr.Value) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// fieldIDs lists the fields that hold values of their own.
func fieldIDs(t *blueprint.Table) []string {
	var out []string
	for _, f := range t.Fields {
		if f.Of == "" && !f.Type.Computed() && !f.Type.Recorded() {
			out = append(out, f.ID)
		}
	}
	return out
}

// argument gives a value as a parameter of a statement that casts it.
func argument(v expr.Value) any {
	switch {
	case v.IsEmpty():
		return nil
	case v.Kind == expr.YesNo:
		return v.Yes
	case len(v.Items) > 0:
		return ids(v)
	}
	return v.String()
}

// plainValues gives values as they stand in a history.
func plainValues(values map[string]expr.Value) map[string]any {
	out := map[string]any{}
	for id, v := range values {
		out[id] = argument(v)
	}
	return out
}
