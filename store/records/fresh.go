package records

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/google/uuid"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/schema"
	"pinegate/core/words"
)

// Fresh is a record that is to be added.
type Fresh struct {
	Entered Values
	Presets map[string]expr.Value
}

// AddAll is [Road.Add] for several records of a table, in few statements, however many they are.
// What is wrong with one of them stands behind the place that is given for it.
func (r Road) AddAll(ctx context.Context, s *Seat, t *blueprint.Table, list []Fresh, place func(i int) string) ([]*Write, error) {
	if !together(t, list) || known(s.Blueprint, t) {
		return r.addEach(ctx, s, t, list, place)
	}
	if may, err := s.adds(t); err != nil || !may {
		return nil, refusedUnless(may, err)
	}
	a := &adding{group: group{Road: r, seat: s, table: t}, list: list, place: place, links: map[string]map[string]bool{}}
	if err := a.read(ctx); err != nil {
		return nil, err
	}
	if err := a.linked(ctx); err != nil {
		return nil, err
	}
	if err := a.complete(ctx); err != nil {
		return nil, err
	}
	if err := a.write(ctx); err != nil {
		return nil, err
	}
	return a.writes, nil
}

func (r Road) addEach(ctx context.Context, s *Seat, t *blueprint.Table, list []Fresh, place func(i int) string) ([]*Write, error) {
	var out []*Write
	for i, x := range list {
		w, err := r.Add(ctx, s, t, x.Entered, x.Presets)
		if err != nil {
			return nil, At(place(i), err)
		}
		out = append(out, w)
	}
	return out, nil
}

// together tells whether records can be added with the same statements: not those with files, with
// links to many, or with values that no two have.
func together(t *blueprint.Table, list []Fresh) bool {
	if len(list) < 2 || len(schema.UniqueIndexes(t)) > 0 {
		return false
	}
	for _, x := range list {
		for id := range x.Entered {
			if f := t.Field(id); f != nil && (f.Type == blueprint.Links || f.Type.Filed()) {
				return false
			}
		}
	}
	return true
}

// known tells whether somebody is known by records of the table.
func known(b *blueprint.Blueprint, t *blueprint.Table) bool {
	return slices.ContainsFunc(b.Addresses(), func(at [2]string) bool { return at[0] == t.ID })
}

// adding is what is added together.
type adding struct {
	group
	list    []Fresh
	place   func(i int) string
	written [][]string                 // ids of the fields that were entered and count, of each
	links   map[string]map[string]bool // ids that are pointed to, by tables
}

// wrong tells what is wrong with one of them.
func (a *adding) wrong(i int, wrong FieldErrors) error {
	if len(wrong) == 0 {
		return nil
	}
	return At(a.place(i), wrong)
}

// read reads what was entered.
func (a *adding) read(ctx context.Context) error {
	given, err := a.given(ctx, a.seat, a.table)
	if err != nil {
		return err
	}
	for i, x := range a.list {
		values, wrong, err := a.values(x.Entered)
		if err != nil {
			return err
		}
		written := slices.DeleteFunc(keys(values), func(id string) bool { _, is := given[id]; return is })
		presets := maps.Clone(x.Presets)
		if presets == nil {
			presets = map[string]expr.Value{}
		}
		maps.Copy(presets, given) // the rule has the last word
		maps.Copy(values, presets)
		if err := a.seat.missing(a.table, values, presets, wrong); err != nil {
			return err
		}
		if err := a.wrong(i, wrong); err != nil {
			return err
		}
		a.written = append(a.written, written)
		a.planned = append(a.planned, planned{values: values, entered: x.Entered})
	}
	return nil
}

// values reads what was entered for one of them, and notes the records to which it points.
func (a *adding) values(entered Values) (map[string]expr.Value, FieldErrors, error) {
	out, wrong := map[string]expr.Value{}, FieldErrors{}
	for id, raw := range entered {
		f := a.table.Field(id)
		if f == nil {
			wrong[id] = words.New("no-such-field")
			continue
		}
		may, err := access.MaySet(a.seat.Blueprint, a.seat.Catalog, a.seat.Viewer, a.table.ID, id, blueprint.Add)
		if err != nil {
			return nil, nil, err
		}
		if !may {
			sees, err := a.seat.Sees(a.table.ID, id)
			if err != nil {
				return nil, nil, err
			}
			wrong[id] = a.seat.notYours(a.table.ID, "", id, sees)
			continue
		}
		v, problem := form.Accept(a.seat.Blueprint, f, raw)
		if problem != nil {
			wrong[id] = problem
			continue
		}
		if out[id] = v; f.Type == blueprint.Link && !v.IsEmpty() {
			if a.links[f.Target] == nil {
				a.links[f.Target] = map[string]bool{}
			}
			a.links[f.Target][v.Text] = true
		}
	}
	return out, wrong, nil
}

// linked refuses links to records that whoever adds does not see.
func (a *adding) linked(ctx context.Context) error {
	seen := map[string]map[string]bool{}
	for table, wanted := range a.links {
		var err error
		if seen[table], err = a.seen(ctx, a.seat, a.seat.Blueprint.Table(table), slices.Sorted(maps.Keys(wanted))); err != nil {
			return err
		}
	}
	for i, p := range a.planned {
		wrong := FieldErrors{}
		for id := range p.entered {
			f := a.table.Field(id)
			if v := p.values[id]; f.Type == blueprint.Link && slices.Contains(a.written[i], id) && !v.IsEmpty() && !seen[f.Target][v.Text] {
				wrong[id] = words.New("read-record")
			}
		}
		if err := a.wrong(i, wrong); err != nil {
			return err
		}
	}
	return nil
}

// complete gives the records their ids, defaults and numbers.
func (a *adding) complete(ctx context.Context) error {
	for i := range a.planned {
		p := &a.planned[i]
		id, err := uuid.NewV7()
		if err != nil {
			return fmt.Errorf("make record id: %w", err)
		}
		p.id = id.String()
		if err := a.defaults(ctx, a.seat, a.table, p.entered, p.values); err != nil {
			return err
		}
		a.writes = append(a.writes, &Write{Table: a.table.ID, Record: p.id, After: plainValues(p.values)})
	}
	return a.giveNumbers(ctx)
}

// write puts them into their table, those with the same fields with one statement, and asks what
// the rules say of the records as they then are.
func (a *adding) write(ctx context.Context) error {
	alike, written := map[string][]planned{}, map[string][]string{}
	for i, p := range a.planned {
		key := p.fields() + "\n" + strings.Join(a.written[i], " ")
		alike[key], written[key] = append(alike[key], p), a.written[i]
	}
	for _, key := range slices.Sorted(maps.Keys(alike)) {
		if err := a.put(ctx, alike[key]); err != nil {
			return a.seat.taken(a.table, err)
		}
		var ids []string
		for _, p := range alike[key] {
			ids = append(ids, p.id)
		}
		if err := a.added(ctx, a.seat, a.table, written[key], ids...); err != nil {
			return err
		}
	}
	return a.remember(ctx)
}

// At puts a place before the fields at which something is wrong.
func At(place string, err error) error {
	var wrong FieldErrors
	if !errors.As(err, &wrong) {
		return err
	}
	out := FieldErrors{}
	for id, p := range wrong {
		out[place+id] = p
	}
	return out
}
