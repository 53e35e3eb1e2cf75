package records

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/query"
	"pinegate/core/schema"
	"pinegate/core/words"
)

// ids gives the ids that a list of records or of choices holds.
func ids(v expr.Value) []string {
	out := []string{}
	for _, x := range v.Items {
		out = append(out, x.Text)
	}
	return out
}

func (s *Seat) linkTable(field string) string {
	return query.Quote(s.Schema) + "." + query.Quote(query.LinkTable(field))
}

// linkable says what is wrong with linking to a record: it must be there for the
// person.
func (r Road) linkable(ctx context.Context, s *Seat, f *blueprint.Field, v expr.Value) (*words.Problem, error) {
	if v.IsEmpty() || f.Type != blueprint.Link {
		return nil, nil
	}
	seen, err := r.seen(ctx, s, s.Blueprint.Table(f.Target), []string{v.Text})
	if err != nil || seen[v.Text] {
		return nil, err
	}
	return words.New("read-record"), nil
}

// linked gives what a record is to link to by several links after what was entered for
// them. Only what the person sees comes or goes; all else stays. The id is that of
// the record, or "" for a new one.
func (r Road) linked(ctx context.Context, s *Seat, t *blueprint.Table, id string, f *blueprint.Field, raw json.RawMessage) (expr.Value,
	*words.Problem, error) {
	edit, wrong := form.AcceptLinks(s.Blueprint, f, raw)
	if wrong != nil {
		return expr.Value{}, wrong, nil
	}
	var had []string
	if id != "" {
		now, err := r.current(ctx, s, t, id, []string{f.ID})
		if err != nil {
			return expr.Value{}, nil, err
		}
		had = plainIDs(now[f.ID])
	}
	asked := map[string]bool{}
	for _, x := range slices.Concat(had, edit.Added) {
		asked[x] = true
	}
	seen, err := r.seen(ctx, s, s.Blueprint.Table(f.Target), slices.Sorted(maps.Keys(asked)))
	if err != nil {
		return expr.Value{}, nil, err
	}
	for _, x := range edit.Added {
		if !seen[x] {
			return expr.Value{}, words.New("read-record"), nil
		}
	}
	var items []expr.Value
	for _, x := range edit.On(had, func(id string) bool { return seen[id] }) {
		items = append(items, expr.RecordOf(x))
	}
	return expr.ListValue(items), nil, nil
}

// plainIDs gives the ids of a list as it stands in a history.
func plainIDs(v any) []string {
	var out []string
	list, _ := v.([]any)
	for _, x := range list {
		out = append(out, fmt.Sprint(x))
	}
	return out
}

// seen gives those of the records that are there for the person.
func (r Road) seen(ctx context.Context, s *Seat, t *blueprint.Table, ids []string) (map[string]bool, error) {
	out := map[string]bool{}
	if r.areFound(s, ids) {
		for _, id := range ids {
			out[id] = true
		}
		return out, nil
	}
	stmt, err := query.BuildSeen(s.context(), t, ids)
	if err != nil {
		return nil, err
	}
	rows, err := r.rows(ctx, stmt)
	if err != nil {
		return nil, fmt.Errorf("look for records of %s: %w", t.Name, err)
	}
	for _, id := range rows {
		out[string(id)] = true
		r.Found(s, string(id))
	}
	return out, nil
}

// link writes the links to many among the values of a record, as far as they are
// others than before; what others link meanwhile stays. Links that are the other side
// of a link to one are written to the records that hold them, by the rules for changing
// those.
func (r Road) link(ctx context.Context, s *Seat, t *blueprint.Table, id string, values map[string]expr.Value,
	before map[string]any) ([]*Write, error) {
	var also []*Write
	for _, fid := range keys(values) {
		f := t.Field(fid)
		if f.Type != blueprint.Links {
			continue
		}
		had, wanted := plainIDs(before[fid]), ids(values[fid])
		removed, added := without(had, wanted), without(wanted, had)
		of := s.Blueprint.Table(f.Target).Field(f.Of)
		if of != nil && of.Type == blueprint.Link {
			writes, err := r.linkBack(ctx, s, s.Blueprint.Table(f.Target), of, id, removed, added)
			if err != nil {
				return nil, err
			}
			also = append(also, writes...)
			continue
		}
		table, own, other := f.ID, "from_id", "to_id"
		if of != nil {
			table, own, other = of.ID, other, own
		}
		write := func(list []string, sql string) error {
			if len(list) == 0 {
				return nil
			}
			err := r.exec(ctx, fmt.Sprintf(sql, s.linkTable(table), own, other), id, list)
			return err
		}
		err := write(removed, "DELETE FROM %[1]s WHERE %[2]s = $1::uuid AND %[3]s = ANY ($2::uuid[])")
		if err == nil {
			err = write(added, "INSERT INTO %[1]s (%[2]s, %[3]s) SELECT $1::uuid, x FROM unnest($2::uuid[]) x ON CONFLICT DO NOTHING")
		}
		if err != nil {
			return nil, fmt.Errorf("write links: %w", err)
		}
	}
	return also, nil
}

// without gives what is in a list and not among others.
func without(list, others []string) []string {
	there := map[string]bool{}
	for _, x := range others {
		there[x] = true
	}
	return slices.DeleteFunc(slices.Clone(list), func(x string) bool { return there[x] })
}

// linkBack makes records of a table point to the record with the id, or no longer.
func (r Road) linkBack(ctx context.Context, s *Seat, t *blueprint.Table, of *blueprint.Field, id string, removed, added []string) ([]*Write,
	error) {
	var out []*Write
	point := func(record string, to any) error {
		raw, err := json.Marshal(to)
		if err != nil {
			return fmt.Errorf("write link: %w", err)
		}
		revision, _, err := r.permitted(ctx, s, t, record, blueprint.Modify, nil)
		if err != nil {
			return err
		}
		w, err := r.Change(ctx, s, t, record, revision, Values{of.ID: raw}, nil)
		out = append(out, w)
		return err
	}
	for _, record := range removed {
		if err := point(record, nil); err != nil {
			return nil, err
		}
	}
	for _, record := range added {
		if err := point(record, id); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// fillIn adds to the values of a new record its defaults, where nothing was
// entered, and its auto numbers.
func (r Road) fillIn(ctx context.Context, s *Seat, t *blueprint.Table, entered Values, values map[string]expr.Value) error {
	for i := range t.Fields {
		f := &t.Fields[i]
		if f.Type != blueprint.AutoNumber {
			continue
		}
		n, err := r.takeNumbers(ctx, s, f, 1)
		if err != nil {
			return err
		}
		values[f.ID] = numberOf(f, n)
	}
	return r.defaults(ctx, s, t, entered, values)
}

// defaults adds to the values of a new record its defaults, where nothing was
// entered.
func (r Road) defaults(ctx context.Context, s *Seat, t *blueprint.Table, entered Values, values map[string]expr.Value) error {
	env := r.Env(ctx, s, nil, nil)
	for i := range t.Fields {
		f := &t.Fields[i]
		_, has := values[f.ID]
		_, asked := entered[f.ID]
		if f.Default == "" || has || asked {
			continue
		}
		c, err := s.Blueprint.Beginning(f, s.Catalog)
		if err != nil {
			return fmt.Errorf("read the default of %s: %w", f.Name, err)
		}
		values[f.ID] = expr.Eval(c, s.Catalog, env)
	}
	return env.Err()
}

// takeNumbers takes so many numbers of an auto number and gives the first. Numbers
// of records that are not added after all are not given out again.
func (r Road) takeNumbers(ctx context.Context, s *Seat, f *blueprint.Field, n int) (int, error) {
	sql := fmt.Sprintf("UPDATE %s.%s SET next = next + $2::bigint WHERE field_id = $1 RETURNING next - $2::bigint", query.Quote(s.Schema),
		query.Quote(schema.NumbersTable))
	first, err := r.number(ctx, query.Statement{SQL: sql, Args: []any{f.ID, n}})
	if err != nil {
		return 0, fmt.Errorf("take the next number of %s: %w", f.Name, err)
	}
	return first, nil
}

// numberOf gives a number as an auto number writes it.
func numberOf(f *blueprint.Field, n int) expr.Value {
	digits := strconv.Itoa(n)
	return expr.TextOf(f.Prefix + strings.Repeat("0", max(0, f.Width-len(digits))) + digits)
}

// taken says, where a write failed because a value is in another record
// already, which field is to be changed.
func (s *Seat) taken(t *blueprint.Table, err error) error {
	var pg *pgconn.PgError
	if !errors.As(err, &pg) || pg.Code != "23505" {
		return err
	}
	fields := schema.UniqueIndexes(t)[pg.ConstraintName]
	out := FieldErrors{}
	for _, id := range fields {
		out[id] = words.New("taken-alone")
		if len(fields) > 1 {
			out[id] = words.New("taken-together")
		}
	}
	if len(out) == 0 {
		return err
	}
	return out
}
