package records

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/google/uuid"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/schema"
)

// Add adds a record. Presets are values that the server decides on; they pass
// the rules about records, but not those about fields.
func (r Road) Add(ctx context.Context, s *Seat, t *blueprint.Table, entered Values, presets map[string]expr.Value) (*Write, error) {
	id, err := uuid.NewV7()
	if err != nil {
		return nil, fmt.Errorf("make record id: %w", err)
	}
	return r.AddAs(ctx, s, t, id.String(), entered, presets)
}

// AddAs is [Road.Add] for a record that is to have an id.
func (r Road) AddAs(
	ctx context.Context, s *Seat, t *blueprint.Table, id string, entered Values, presets map[string]expr.Value,
) (*Write, error) {
	// who may add nothing is told so, and not what is wrong with it
	if may, err := s.adds(t); err != nil || !may {
		return nil, refusedUnless(may, err)
	}
	values, wrong, err := r.accept(ctx, s, t, "", entered, blueprint.Add)
	if err != nil {
		return nil, err
	}
	written := keys(values)
	given, err := r.given(ctx, s, t)
	if err != nil {
		return nil, err
	}
	presets = maps.Clone(presets)
	if presets == nil {
		presets = map[string]expr.Value{}
	}
	maps.Copy(presets, given) // the rule has the last word
	for id, v := range presets {
		values[id] = v
	}
	written = slices.DeleteFunc(written, func(id string) bool { _, is := given[id]; return is })
	// everything that is wrong is told at once
	if err := s.missing(t, values, presets, wrong); err != nil {
		return nil, err
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	if err := r.fillIn(ctx, s, t, entered, values); err != nil {
		return nil, err
	}
	w := &Write{Table: t.ID, Record: id, After: plainValues(values)}
	if err := r.keepFiles(ctx, s, t, w.Record, values); err != nil {
		return nil, err
	}
	if err := r.insert(ctx, s, t, w.Record, values, written); err != nil {
		return nil, err
	}
	if w.Also, err = r.link(ctx, s, t, w.Record, values, nil); err != nil {
		return nil, err
	}
	if err := r.added(ctx, s, t, written, w.Record); err != nil {
		return nil, err
	}
	if err := r.ownAddress(ctx, s, t, w.Record, values); err != nil {
		return nil, err
	}
	return w, r.remember(ctx, s, w)
}

// insert puts a new record into its table. That others have its values already is told
// only to those who may add it: for that, it is looked at in the bin, where values may
// be the same.
func (r Road) insert(ctx context.Context, s *Seat, t *blueprint.Table, id string, values map[string]expr.Value, written []string) error {
	columns, places, args := []string{"id", "created_by", "changed_by"}, []string{"$1::uuid", "$2::text", "$2::text"}, []any{id, s.By}
	for _, fid := range keys(values) {
		f := t.Field(fid)
		if f.Type == blueprint.Links {
			continue
		}
		args = append(args, argument(values[fid]))
		columns = append(columns, query.Quote(f.Key))
		places = append(places, fmt.Sprintf("$%d::%s", len(args), f.Type.Column()))
	}
	statement := func(also string) string {
		return fmt.Sprintf("INSERT INTO %s (%s) VALUES (%s)%s", s.context().TableName(t), strings.Join(columns, ", "),
			strings.Join(places, ", "), also)
	}
	if len(schema.UniqueIndexes(t)) == 0 {
		return r.gather(ctx, statement(""), args...)
	}
	add := func(also string) (int64, error) {
		c, err := r.conn(ctx)
		if err != nil {
			return 0, err
		}
		done, err := c.ExecContext(ctx, statement(also), args...)
		if err != nil {
			return 0, s.taken(t, fmt.Errorf("add to %s: %w", t.Name, err))
		}
		return done.RowsAffected()
	}
	if s.Viewer.Founder {
		_, err := add("")
		return err
	}
	if n, err := add(" ON CONFLICT DO NOTHING"); err != nil || n > 0 {
		return err
	}
	columns, places = append(columns, "deleted_at"), append(places, "now()")
	if _, err := add(""); err != nil {
		return err
	}
	if _, err := r.link(ctx, s, t, id, values, nil); err != nil {
		return err
	}
	if _, ok, err := r.permittedBy(ctx, s, t, id, blueprint.Add, written, query.PermittedInBin); err != nil || !ok {
		return refusedUnless(ok, err)
	}
	return r.bin(ctx, s, t, id, false) // which says what is taken
}

// added gives [ErrForbidden] unless the viewer may add records that were just put into their table:
// what the rules say of adding is asked of them as they now are, where it depends on that.
func (r Road) added(ctx context.Context, s *Seat, t *blueprint.Table, written []string, ids ...string) error {
	r.holds(ids...) // of which others know nothing yet
	if s.Viewer.Founder {
		r.Found(s, ids...)
		return nil
	}
	grants, err := access.Grants(s.Blueprint, s.Catalog, s.Viewer, t.ID, blueprint.Add)
	if err != nil {
		return err
	}
	for _, g := range grants {
		if g.Condition == nil && !slices.ContainsFunc(written, func(id string) bool { return !g.Sets(id) }) {
			return nil
		}
	}
	stmt, err := query.PermittedAll(s.context(), t, ids, blueprint.Add, written)
	if err != nil {
		return err
	}
	n, err := r.number(ctx, stmt)
	if err != nil {
		return fmt.Errorf("check access to %s: %w", t.Name, err)
	}
	return refusedUnless(n == len(ids), nil)
}

// adds tells whether there are records that the viewer may add to a table.
func (s *Seat) adds(t *blueprint.Table) (bool, error) { return s.Allowed(t.ID, blueprint.Add) }

// given computes what the viewer's rules fill in when they add to a table.
func (r Road) given(ctx context.Context, s *Seat, t *blueprint.Table) (map[string]expr.Value, error) {
	out := map[string]expr.Value{}
	if s.Viewer.Founder {
		return out, nil
	}
	for _, m := range s.Viewer.Memberships {
		role := s.Blueprint.Role(m.Role)
		if role == nil {
			continue
		}
		rule := role.Rule(t.ID)
		if x := rule.Add.Extent; x != blueprint.AllRecords && x != blueprint.Where {
			continue
		}
		env := r.Env(ctx, s, s.Blueprint.Table(role.People), nil)
		for _, g := range rule.Given {
			if _, done := out[g.Field]; done {
				continue
			}
			c, err := expr.CheckAs(g.Value, role.GivenScope(s.Catalog), t.Field(g.Field).ExprType())
			if err != nil {
				return nil, fmt.Errorf("read what is filled in for %s: %w", role.Name, err)
			}
			out[g.Field] = expr.Eval(c, s.Catalog, env)
		}
		if err := env.Err(); err != nil {
			return nil, err
		}
	}
	return out, nil
}
