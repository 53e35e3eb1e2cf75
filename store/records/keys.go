package records

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/schema"
	"pinegate/store"
)

// Keyed is a record with a text by which it is known.
type Keyed struct {
	ID  string `json:"id"`
	Key string `json:"value"`
}

// KeyedIDs gives the records of a table, as the person sees them, with what
// stands in a field, or with their labels for "". Those with nothing there are
// left out.
func (r Road) KeyedIDs(ctx context.Context, s *Seat, t *blueprint.Table, field string) ([]Keyed, error) {
	return r.keyed(ctx, s, t, field, 5_000_000)
}

func (r Road) keyed(ctx context.Context, s *Seat, t *blueprint.Table, field string, most int) ([]Keyed, error) {
	stmt, err := query.BuildKeys(s.context(), t, field, most)
	if err != nil {
		return nil, err
	}
	rows, err := r.rows(ctx, stmt)
	if err != nil {
		return nil, fmt.Errorf("read keys of %s: %w", t.Name, err)
	}
	out := make([]Keyed, 0, len(rows))
	for _, raw := range rows {
		var k struct {
			ID    string
			Value *string
		}
		if err := json.Unmarshal(raw, &k); err != nil {
			return nil, fmt.Errorf("read keys of %s: %w", t.Name, err)
		}
		if k.Value != nil {
			out = append(out, Keyed{k.ID, *k.Value})
		}
	}
	return out, nil
}

// Keys gives what stands in a field, or the labels for "", of at most so many
// records.
func (r Road) Keys(ctx context.Context, s *Seat, t *blueprint.Table, field string, most int) ([]string, error) {
	pairs, err := r.keyed(ctx, s, t, field, most)
	out := make([]string, len(pairs))
	for i, p := range pairs {
		out[i] = p.Key
	}
	return out, err
}

// TakenBy gives, for each of several rows of values of fields that must differ, the record that has them already, or "". Values
// are texts as they are stored. It is for founders, as it tells of records whoever sees them.
func (r Road) TakenBy(ctx context.Context, s *Seat, t *blueprint.Table, fields []string, rows [][]string) ([]string, error) {
	if !s.Viewer.Founder {
		return nil, ErrForbidden
	}
	args := make([]any, len(fields))
	for i := range fields {
		list := make([]string, len(rows))
		for n, row := range rows {
			list[n] = row[i]
		}
		args[i] = list
	}
	found, err := r.rows(ctx, query.Statement{SQL: schema.TakenBy(s.Schema, t, fields), Args: args})
	if err != nil {
		return nil, fmt.Errorf("look who has values of %s: %w", t.Name, err)
	}
	out := make([]string, len(rows))
	for _, raw := range found {
		var n int
		var id string
		if err := json.Unmarshal(raw, &[]any{&n, &id}); err != nil {
			return nil, fmt.Errorf("look who has values of %s: %w", t.Name, err)
		}
		out[n-1] = id
	}
	return out, nil
}

// Defaults gives what new records of a table have in fields for which nothing was entered.
func (r Road) Defaults(ctx context.Context, s *Seat, t *blueprint.Table) (map[string]expr.Value, error) {
	out := map[string]expr.Value{}
	return out, r.defaults(ctx, s, t, nil, out)
}

// Put changes the record with the id, or adds one where it is "", with defaults in what is not said: from texts, and from values.
func (r Road) Put(ctx context.Context, s *Seat, t *blueprint.Table, id string, texts map[string]string, also Values) error {
	values, wrong, err := r.ReadTexts(ctx, s, t, texts)
	if err != nil {
		return err
	}
	if len(wrong) > 0 {
		return wrong
	}
	maps.Copy(values, also)
	if id == "" {
		given, err := r.Defaults(ctx, s, t)
		if err != nil {
			return err
		}
		maps.DeleteFunc(given, func(field string, _ expr.Value) bool { _, entered := values[field]; return entered })
		_, err = r.Add(ctx, s, t, values, given)
		return err
	}
	revision, ok, err := r.permitted(ctx, s, t, id, blueprint.Modify, nil)
	if err != nil {
		return err
	}
	if !ok {
		return store.ErrNotFound
	}
	_, err = r.Change(ctx, s, t, id, revision, values, nil)
	return err
}

// NumberAll gives a number to every record that has none in an auto number. It
// is for founders.
func (r Road) NumberAll(ctx context.Context, s *Seat, t *blueprint.Table, f *blueprint.Field) error {
	if !s.Viewer.Founder {
		return ErrForbidden
	}
	for _, sql := range schema.Number(s.Schema, t, *f) {
		if err := r.exec(ctx, sql); err != nil {
			return fmt.Errorf("number %s: %w", t.Name, err)
		}
	}
	return nil
}

// Tell lets everybody who looks know that records of a table were written.
func (r Road) Tell(ctx context.Context, s *Seat, table string) error {
	return r.tell(ctx, s, table)
}

// Taken says, where a write failed because a value is in another record
// already, which field is to be changed.
func (s *Seat) Taken(t *blueprint.Table, err error) error { return s.taken(t, err) }

// LinkedLabels gives the labels of all records to which a field of many leads,
// parted by commas.
func (r Road) LinkedLabels(ctx context.Context, s *Seat, t *blueprint.Table, f *expr.Field, id string) (string, error) {
	stmt, err := query.BuildLinkedLabels(s.context(), f, id)
	if err != nil {
		return "", err
	}
	rows, err := r.rows(ctx, stmt)
	if err != nil {
		return "", fmt.Errorf("read links of %s: %w", t.Name, err)
	}
	labels := make([]string, len(rows))
	for i, l := range rows {
		labels[i] = string(l)
	}
	return strings.Join(labels, ", "), nil
}
