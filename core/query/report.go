package query

import (
	"encoding/json"
	"fmt"
	"strings"

	"pinegate/core/expr"
	"pinegate/core/report"
)

// Report says what is totalled over the records of a list, in up to two groupings. Without measures, records are counted.
type Report struct {
	Selection
	Measures []Measure
	Groups   []Grouping
	// Whole tells that all records are totalled together, too.
	Whole bool
	// Since leaves the records whose time stamp in Selection's field is not before a moment; nil for none.
	Since *Since
}

// Since is a moment from which on records count, by a field of time stamps; and Until one up to which they do, "" for none.
// Both are as in RFC 3339.
type Since struct{ Field, At, Until string }

// Measure is one number for each group. Of and Weight are numbers of a record.
type Measure struct {
	Total      report.Total
	Of, Weight *expr.Checked
}

// Grouping parts records by a field: by its values, by units of days, or by steps of numbers.
type Grouping struct {
	Field string // id
	Unit  report.Unit
	Step  string // a number above 0, or ""
	// Most is how many groups there are at most, by the first measure; what is left is put together. 0 for all.
	Most int
}

// MostGroups is how many groups a report has at most: the first by their keys.
const MostGroups = 5000

// Group is what a group has, as [BuildReport] gives it.
type Group struct {
	// Keys are the values of the groupings, as they stand in JSON, and Labels the labels of those that are records.
	Keys   []json.RawMessage `json:"keys"`
	Labels []*string         `json:"labels"`
	// Others tell of which groupings this is what is left; Whole that this is all together.
	Others []bool `json:"others"`
	Whole  bool   `json:"whole"`
	// Values are the measures in their order, as numbers without trailing zeros; nil for empty.
	Values []*string `json:"values"`
	Count  int       `json:"count"`
}

// BuildReport builds the statement that gives the groups of a report, each as one JSON text that is a [Group]. Groups without
// records are not among them. Only what whoever looks sees is totalled: of records and values that they do not see
// nothing is told, not even by what is left.
func BuildReport(c Context, r Report) (Statement, error) {
	b := newBuilder(c)
	relation, where, s, err := b.matching(r.Selection)
	if err != nil {
		return Statement{}, err
	}
	if r.Since != nil {
		since, err := s.since(r.Table.ID, *r.Since)
		if err != nil {
			return Statement{}, err
		}
		where = append(where, since...)
	}
	columns, err := s.groupColumns(r)
	if err != nil {
		return Statement{}, err
	}
	totals, values, err := s.totals(r.Measures)
	if err != nil {
		return Statement{}, err
	}
	columns = append(columns, values...)
	if len(columns) == 0 {
		columns = []string{"1"}
	}
	rows := fmt.Sprintf("SELECT %s FROM %s r %s WHERE %s", strings.Join(columns, ", "), relation, joinSQL(s.from.joins),
		strings.Join(where, " AND "))
	return b.grouped(r, rows, totals)
}

// since gives the conditions of moments.
func (s *source) since(table string, w Since) ([]string, error) {
	f := s.b.field(table, w.Field)
	if f == nil || f.Type != (expr.Type{Kind: expr.Time}) {
		return nil, fmt.Errorf("report since a moment: no time stamp %q", w.Field)
	}
	column, err := s.field(f)
	if err != nil {
		return nil, err
	}
	s.b.timed = true
	out := []string{column + " >= " + s.b.param(w.At, "timestamptz")}
	if w.Until != "" {
		out = append(out, column+" < "+s.b.param(w.Until, "timestamptz"))
	}
	return out, nil
}

// groupColumns gives the keys of the groupings of a record, as g0 and g1.
func (s *source) groupColumns(r Report) ([]string, error) {
	var out []string
	for i, g := range r.Groups {
		f := s.b.field(r.Table.ID, g.Field)
		if f == nil || f.Type.Many {
			return nil, fmt.Errorf("group %s: no field %q", r.Table.Name, g.Field)
		}
		key, err := s.groupKey(f, g)
		if err != nil {
			return nil, err
		}
		out = append(out, fmt.Sprintf("%s AS g%d", key, i))
	}
	return out, nil
}

func (s *source) groupKey(f *expr.Field, g Grouping) (string, error) {
	column, err := s.shownValue(f)
	if err != nil {
		return "", err
	}
	switch {
	case g.Unit != "" && f.Type.Kind == expr.Time:
		return s.unitOf("("+column+" AT TIME ZONE "+s.b.param(s.b.Clock.Zone.String(), "text")+")::date", g.Unit)
	case g.Unit != "" && f.Type.Kind == expr.Date:
		return s.unitOf(column, g.Unit)
	case g.Step != "" && f.Type.Kind == expr.Number:
		step := s.b.param(g.Step, "numeric")
		return fmt.Sprintf("trim_scale(floor(%s / %s) * %s)", column, step, step), nil
	case g.Unit != "" || g.Step != "":
		return "", fmt.Errorf("group by %s: it is neither a day nor a number", f.Name)
	case f.Type.Kind == expr.Number:
		return "trim_scale(" + column + ")", nil
	}
	return column, nil
}

// unitOf gives the first day of the unit in which a day is.
func (s *source) unitOf(day string, u report.Unit) (string, error) {
	switch u {
	case report.Day:
		return day, nil
	case report.Week:
		first := fmt.Sprint(s.b.Blueprint.FirstDay())
		return fmt.Sprintf("(%s - ((extract(dow FROM %s)::int - %s + 7) %% 7))", day, day, first), nil
	case report.Month, report.Quarter, report.Year:
		return fmt.Sprintf("date_trunc('%s', %s::timestamp)::date", u, day), nil
	}
	return "", fmt.Errorf("group by days: there is no unit %q", u)
}

// totals gives the totals over rows that have values and weights as v0, w0 and so on, and these.
func (s *source) totals(measures []Measure) (totals, columns []string, err error) {
	for i, m := range measures {
		v, w := fmt.Sprintf("y.v%d", i), fmt.Sprintf("y.w%d", i)
		if m.Total.Of() {
			if m.Of == nil || m.Of.Type() != (expr.Type{Kind: expr.Number}) {
				return nil, nil, fmt.Errorf("total %d: it is over no number", i)
			}
			of, err := s.compiler().Value(m.Of.Root)
			if err != nil {
				return nil, nil, err
			}
			columns = append(columns, fmt.Sprintf("%s AS v%d", of, i))
		}
		total := ""
		switch m.Total {
		case report.Count:
			total = "count(*)::numeric"
		case report.Sum:
			total = "sum(" + v + ")"
		case report.Average:
			total = quotient("sum("+v+")", "count("+v+")")
		case report.Least:
			total = "min(" + v + ")"
		case report.Greatest:
			total = "max(" + v + ")"
		case report.Median: // exact, where percentile_cont would go by way of binary numbers
			total = fmt.Sprintf("round((percentile_disc(0.5) WITHIN GROUP (ORDER BY %s) + percentile_disc(0.5) WITHIN GROUP (ORDER BY %s DESC))"+
				" * 0.5, %d)", v, v, report.Digits)
		case report.Weighted:
			if m.Weight == nil || m.Weight.Type() != (expr.Type{Kind: expr.Number}) {
				return nil, nil, fmt.Errorf("total %d: its weight is no number", i)
			}
			weight, err := s.compiler().Value(m.Weight.Root)
			if err != nil {
				return nil, nil, err
			}
			columns = append(columns, fmt.Sprintf("%s AS w%d", weight, i))
			total = quotient(fmt.Sprintf("sum(%s * %s)", v, w), fmt.Sprintf("sum(%s) FILTER (WHERE %s IS NOT NULL)", w, v))
		default:
			return nil, nil, fmt.Errorf("total %d: there is no total %q over records", i, m.Total)
		}
		totals = append(totals, total)
	}
	return totals, columns, nil
}

// quotient divides to so many digits, however large the numbers are, where PostgreSQL gives sixteen digits in all.
func quotient(x, y string) string {
	return fmt.Sprintf("round(%s * 1.00000000000000000000 / NULLIF(%s, 0), %d)", x, y, report.Digits)
}

// grouped totals rows in their groups, and gives what is known of each.
func (b *builder) grouped(r Report, rows string, totals []string) (Statement, error) {
	first := "count(*)"
	if len(totals) > 0 {
		first = totals[0]
	}
	with, from, columns := []string{"x AS (" + rows + ")"}, "x", []string{"x.*"}
	var by, inside []string
	for i, g := range r.Groups {
		key, other := fmt.Sprintf("x.g%d", i), "false"
		if g.Most > 0 {
			with = append(with, fmt.Sprintf("t%[1]d AS (SELECT y.g%[1]d AS g, true AS there FROM x y GROUP BY y.g%[1]d"+
				" ORDER BY %[2]s DESC NULLS LAST, y.g%[1]d LIMIT %[3]d)", i, first, g.Most))
			// by what is equal, which a database finds at once; those without a value are asked for once
			from += fmt.Sprintf(" LEFT JOIN t%[1]d ON t%[1]d.g = x.g%[1]d", i)
			key = fmt.Sprintf("CASE WHEN t%d.there THEN x.g%d END", i, i)
			other = fmt.Sprintf("(t%[1]d.there OR x.g%[1]d IS NULL AND (SELECT bool_or(z.g IS NULL) FROM t%[1]d z)) IS NOT TRUE", i)
		}
		columns = append(columns, fmt.Sprintf("%s AS k%d, %s AS o%d", key, i, other, i))
		by = append(by, fmt.Sprintf("y.k%d, y.o%d", i, i))
		inside = append(inside, fmt.Sprintf("y.k%d, y.o%d", i, i))
	}
	inside = append(inside, "count(*) AS n")
	for i, t := range totals {
		inside = append(inside, fmt.Sprintf("trim_scale(%s)::text AS m%d", t, i))
	}
	sets := "()"
	if len(by) == 0 {
		inside = append(inside, "true AS whole")
	} else {
		inside = append(inside, "GROUPING(y.k0) > 0 AS whole")
		if sets = "(" + strings.Join(by, ", ") + ")"; r.Whole {
			sets += ", ()"
		}
	}
	return b.told(r, fmt.Sprintf("WITH %s SELECT %s FROM (SELECT %s FROM %s) y GROUP BY GROUPING SETS (%s)", strings.Join(with, ", "),
		strings.Join(inside, ", "), strings.Join(columns, ", "), from, sets), len(totals))
}

// told writes groups as JSON, with the labels of those that are records, in the order of their keys.
func (b *builder) told(r Report, totalled string, measures int) (Statement, error) {
	s := b.seenOn("g")
	var keys, labels, others, values, order []string
	for i, g := range r.Groups {
		f := b.field(r.Table.ID, g.Field)
		key, label := fmt.Sprintf("g.k%d", i), "NULL::text"
		if f.Type.Kind == expr.Record {
			at, err := s.join(fmt.Sprint("group ", i), b.Blueprint.Table(f.Type.Table), key)
			if err != nil {
				return Statement{}, err
			}
			if label, err = at.Label(expr.RootRow, nil, f.Type.Table); err != nil {
				return Statement{}, err
			}
		}
		if f.Type.Kind == expr.Number {
			keys = append(keys, "to_json("+key+"::text)")
		} else {
			keys = append(keys, "to_json("+key+")")
		}
		labels, others = append(labels, "("+label+")::text"), append(others, fmt.Sprintf("g.o%d", i))
		order = append(order, fmt.Sprintf("g.o%d, %s NULLS LAST", i, key))
	}
	for i := range measures {
		values = append(values, fmt.Sprintf("g.m%d", i))
	}
	order = append(order, fmt.Sprintf("g.n DESC LIMIT %d", MostGroups+1)) // all together come before them
	sql := fmt.Sprintf("SELECT json_build_object('keys', ARRAY[%s]::json[], 'labels', ARRAY[%s]::text[], 'others', ARRAY[%s]::boolean[],"+
		" 'whole', g.whole, 'count', g.n, 'values', ARRAY[%s]::text[])::text FROM (%s) g %s ORDER BY g.whole DESC, %s", strings.Join(keys, ", "),
		strings.Join(labels, ", "), strings.Join(others, ", "), strings.Join(values, ", "), totalled, joinSQL(s.from.joins),
		strings.Join(order, ", "))
	return b.statement(sql), nil
}
