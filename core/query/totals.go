package query

import (
	"fmt"
	"strings"

	"pinegate/core/expr"
)

// Totals says what to total over the records of a list.
type Totals struct {
	Selection
	Group string   // id of the field whose values part the records, or ""
	Sums  []string // ids of fields of numbers to be summed
}

// mostGroups is how many groups are given, the largest first.
const mostGroups = 500

// BuildTotals builds the statement that gives, for each group or for all
// records, one JSON object with the number of records (count), the sums by the
// ids of the fields, and for groups the value (group) and its label.
func BuildTotals(c Context, t Totals) (Statement, error) {
	b := newBuilder(c)
	relation, where, s, err := b.matching(t.Selection)
	if err != nil {
		return Statement{}, err
	}
	columns := []string{"count(*) AS count"}
	for _, id := range t.Sums {
		f := b.field(t.Table.ID, id)
		if f == nil || f.Type != (expr.Type{Kind: expr.Number}) {
			return Statement{}, fmt.Errorf("total %s: no number %q", t.Table.Name, id)
		}
		sql, err := s.field(f)
		if err != nil {
			return Statement{}, err
		}
		columns = append(columns, fmt.Sprintf("trim_scale(sum(%s))::text AS %s", sql, Quote(id)))
	}
	if t.Group == "" {
		return b.statement(fmt.Sprintf("SELECT row_to_json(q)::text FROM (SELECT %s FROM %s r %s WHERE %s) q",
			strings.Join(columns, ", "), relation, joinSQL(s.from.joins), strings.Join(where, " AND "))), nil
	}
	f := b.field(t.Table.ID, t.Group)
	if f == nil || f.Type.Many {
		return Statement{}, fmt.Errorf("group %s: no field %q", t.Table.Name, t.Group)
	}
	by, err := s.shownValue(f)
	if err != nil {
		return Statement{}, err
	}
	grouped := fmt.Sprintf("SELECT %s AS v, %s FROM %s r %s WHERE %s GROUP BY 1 ORDER BY 2 DESC, 1 LIMIT %d",
		by, strings.Join(columns, ", "), relation, joinSQL(s.from.joins), strings.Join(where, " AND "), mostGroups)
	label, joins, err := b.groupLabel(f)
	if err != nil {
		return Statement{}, err
	}
	return b.statement(fmt.Sprintf(`SELECT row_to_json(q)::text FROM (SELECT %s AS "group", %s AS label, g.* FROM (%s) g %s ORDER BY g.count DESC, g.v) q`,
		jsonColumn("g.v", f.Type), label, grouped, joins)), nil
}

// groupLabel gives the label of the record that is the value of a group; it is
// read once for each group.
func (b *builder) groupLabel(f *expr.Field) (label, joins string, err error) {
	if f.Type.Kind != expr.Record {
		return "NULL::text", "", nil
	}
	s := b.seenOn("g")
	at, err := s.join("group", b.Blueprint.Table(f.Type.Table), "g.v")
	if err != nil {
		return "", "", err
	}
	label, err = at.Label(expr.RootRow, nil, f.Type.Table)
	return label, joinSQL(s.from.joins), err
}
