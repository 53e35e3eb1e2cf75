package query

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"pinegate/core/expr"
)

// Narrow leaves those records of a list that have in a field one of some values, or one
// within bounds. Whoever builds one has read the values: ids of choices or records, yes
// or no, dates as in ISO 8601, numbers.
type Narrow struct {
	Field    string
	In       []string // one of these; for none, all that are within the bounds
	None     bool     // or no value
	From, To string   // bounds, which belong to what is left; "" for none
	Is       *string  // exactly this text
	// Except leaves out these values, and with "" what has none.
	Except []string
	Since  string // a moment from which on, as in RFC 3339, of time stamps; "" for none
	Under  string // a bound that does not belong to what is left, of numbers; "" for none
	// Or is another field of which it is enough that it is not before From: the end of
	// what begins in Field.
	Or string
}

// narrow gives the condition that leaves those records.
func (s *source) narrow(table string, n Narrow) (string, error) {
	f := s.b.field(table, n.Field)
	if f == nil {
		return "", fmt.Errorf("narrow a list: no field %q", n.Field)
	}
	if f.Type.Many {
		return s.narrowMany(f, n)
	}
	column, err := s.field(f)
	if err != nil {
		return "", err
	}
	if f.Type.Kind == expr.Record { // by what the viewer sees, not by ids of what they do not
		at, err := s.follow(expr.RootRow, []*expr.Field{f}, f.Type.Table)
		if err != nil {
			return "", err
		}
		column = at.item
	}
	var all []string
	if len(n.In) > 0 {
		all = append(all, fmt.Sprintf("%s = ANY(%s)", column, s.b.param("{"+strings.Join(n.In, ",")+"}", sqlType(f.Type)+"[]")))
	}
	if n.Is != nil {
		all = append(all, column+" = "+s.b.param(*n.Is, sqlType(f.Type)))
	}
	if len(n.Except) > 0 {
		without, err := s.except(column, n.Except)
		if err != nil {
			return "", err
		}
		all = append(all, without)
	}
	if n.Since != "" {
		s.b.timed = true
		all = append(all, column+" >= "+s.b.param(n.Since, "timestamptz"))
	}
	if n.Under != "" {
		all = append(all, column+" < "+s.b.param(n.Under, sqlType(f.Type)))
	}
	bounds, err := s.bounds(table, column, f.Type, n)
	if err != nil {
		return "", err
	}
	all = append(all, bounds...)
	out := strings.Join(all, " AND ")
	switch {
	case n.None && out == "":
		out = column + " IS NULL"
	case n.None:
		out = fmt.Sprintf("(%s OR %s IS NULL)", out, column)
	case out == "":
		out = "true"
	}
	return out, nil
}

// except gives the condition that leaves out values. They are texts of people, so that they go as JSON.
func (s *source) except(column string, values []string) (string, error) {
	list, err := json.Marshal(slices.DeleteFunc(slices.Clone(values), func(v string) bool { return v == "" }))
	if err != nil {
		return "", fmt.Errorf("narrow a list: %w", err)
	}
	out := fmt.Sprintf("%s::text <> ALL (SELECT jsonb_array_elements_text(%s))", column, s.b.param(string(list), "jsonb"))
	if slices.Contains(values, "") {
		return fmt.Sprintf("(%s IS NOT NULL AND %s)", column, out), nil
	}
	return fmt.Sprintf("(%s IS NULL OR %s)", column, out), nil
}

// bounds gives the conditions of bounds, of which the first may be met by another field.
func (s *source) bounds(table, column string, t expr.Type, n Narrow) ([]string, error) {
	if n.Or == "" || n.From == "" {
		return s.within(column, t, n), nil
	}
	f := s.b.field(table, n.Or)
	if f == nil {
		return nil, fmt.Errorf("narrow a list: no field %q", n.Or)
	}
	end, err := s.field(f)
	if err != nil {
		return nil, err
	}
	begun := append(s.within(column, t, Narrow{From: n.From}), s.within(end, f.Type, Narrow{From: n.From})...)
	return append(s.within(column, t, Narrow{To: n.To}), "("+strings.Join(begun, " OR ")+")"), nil
}

// within gives the conditions of bounds. Days bound times in the zone of the app.
func (s *source) within(column string, t expr.Type, n Narrow) []string {
	var out []string
	bound := func(op, value string, days int) {
		if value == "" {
			return
		}
		at := s.b.param(value, sqlType(t))
		if t.Kind == expr.Time {
			at = fmt.Sprintf("((%s::date + %d)::timestamp AT TIME ZONE %s)", s.b.param(value, "text"), days,
				s.b.param(s.b.Clock.Zone.String(), "text"))
			if days > 0 {
				op = "<"
			}
		}
		out = append(out, column+" "+op+" "+at)
	}
	bound(">=", n.From, 0)
	bound("<=", n.To, 1)
	return out
}

// narrowMany gives the condition over a field that holds several.
func (s *source) narrowMany(f *expr.Field, n Narrow) (string, error) {
	rows, err := s.Through(s.alias+".id", f)
	if err != nil {
		return "", err
	}
	in := rows.(*source)
	any := "EXISTS (" + in.Select("1") + ")"
	if len(n.In) > 0 {
		list := s.b.param("{"+strings.Join(n.In, ",")+"}", sqlType(expr.Type{Kind: f.Type.Kind})+"[]")
		in.Where(fmt.Sprintf("%s = ANY(%s)", in.item, list))
	}
	found := "EXISTS (" + in.Select("1") + ")"
	switch {
	case n.None && len(n.In) == 0:
		return "NOT " + any, nil
	case n.None:
		return "(" + found + " OR NOT " + any + ")", nil
	}
	return found, nil
}
