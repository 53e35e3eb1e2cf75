package query

import (
	"fmt"
	"slices"

	"pinegate/core/expr"
)

// All starts the rows of all records of a table.
func (s *source) All(table string) (expr.Rows, error) {
	relation, alias, err := s.relationOf(table)
	if err != nil {
		return nil, err
	}
	out := s.inside(relation+" "+alias, alias)
	out.Where(alias + ".deleted_at IS NULL")
	return out, nil
}

// Derived starts the rows of what a statement gives.
func (s *source) Derived(sql, table string) (expr.Rows, error) {
	d := s.b.alias("d")
	if table == "" {
		out := s.inside("("+sql+") "+d, d)
		out.item, out.order = d+".v", []string{d + ".n"}
		return out, nil
	}
	relation, alias, err := s.relationOf(table)
	if err != nil {
		return nil, err
	}
	out := s.inside(fmt.Sprintf("(%s) %s JOIN %s %s ON %s.id = %s.v", sql, d, relation, alias, alias, d), alias)
	out.order = []string{d + ".n"}
	return out, nil
}

// Through starts the rows of what a field that holds many leads to from the
// record with the id.
func (s *source) Through(id string, f *expr.Field) (expr.Rows, error) {
	if f.Type.Kind != expr.Record {
		return s.elements(id, f)
	}
	relation, alias, err := s.relationOf(f.Type.Table)
	if err != nil {
		return nil, err
	}
	out := s.inside(relation+" "+alias, alias)
	out.Where(alias + ".deleted_at IS NULL")
	own, other, link := linkColumns(f)
	if link == "" {
		out.Where(fmt.Sprintf("%s.%s = %s", alias, Quote(f.Of.Key), id))
	} else {
		l := s.b.alias("l")
		out.from.joins = append(out.from.joins, plainJoin(fmt.Sprintf("JOIN %s %s ON %s.%s = %s.id", s.b.linkTable(link), l, l, other,
			alias)))
		out.Where(fmt.Sprintf("%s.%s = %s", l, own, id))
	}
	return out, s.hideUnless(out, id, f)
}

// elements starts the rows of the values that a record holds in one field.
func (s *source) elements(id string, f *expr.Field) (expr.Rows, error) {
	relation, alias, err := s.relationOf(f.Table)
	if err != nil {
		return nil, err
	}
	u := s.b.alias("u")
	out := s.inside(fmt.Sprintf("%s %s CROSS JOIN LATERAL unnest(%s.%s) WITH ORDINALITY %s(v, n)", relation, alias, alias, Quote(f.Key), u),
		alias)
	out.item, out.order = u+".v", []string{u + ".n"}
	out.Where(fmt.Sprintf("%s.id = %s", alias, id))
	return out, nil
}

// Flat gives the rows of what a field that holds many leads to for each of
// these rows.
func (s *source) Flat(f *expr.Field) (expr.Rows, error) {
	owner := s.alias + ".id"
	if f.Type.Kind != expr.Record {
		u := s.b.alias("u")
		s.from.joins = append(s.from.joins, plainJoin(fmt.Sprintf("CROSS JOIN LATERAL unnest(%s.%s) WITH ORDINALITY %s(v, n)", s.alias,
			Quote(f.Key), u)))
		out := *s
		out.item, out.order = u+".v", append(slices.Clone(s.order), u+".n")
		return &out, nil
	}
	relation, alias, err := s.relationOf(f.Type.Table)
	if err != nil {
		return nil, err
	}
	on := ""
	own, other, link := linkColumns(f)
	if link == "" {
		on = fmt.Sprintf("%s.%s = %s", alias, Quote(f.Of.Key), owner)
	} else {
		l := s.b.alias("l")
		s.from.joins = append(s.from.joins, plainJoin(fmt.Sprintf("JOIN %s %s ON %s.%s = %s", s.b.linkTable(link), l, l, own, owner)))
		on = fmt.Sprintf("%s.id = %s.%s", alias, l, other)
	}
	s.from.joins = append(s.from.joins, plainJoin(fmt.Sprintf("JOIN %s %s ON %s AND %s.deleted_at IS NULL", relation, alias, on, alias)))
	out := s.at(s.prefix+"*"+f.ID+alias, alias)
	out.order = append(slices.Clone(s.order), alias+".id")
	return out, s.hideUnless(out, owner, f)
}

// hideUnless shows a list of links only where the viewer sees the field, and
// the field of which it is the other side.
func (s *source) hideUnless(rows *source, owner string, f *expr.Field) error {
	if s.trusted {
		return nil
	}
	for _, x := range []*expr.Field{f, f.Of} {
		if x == nil || x != f && !x.Type.Many { // the view hides the column of a link to one by itself
			continue
		}
		shown, err := s.shows(x)
		switch {
		case err != nil:
			return err
		case shown == nobody:
			rows.Where("false")
		case shown == some && x == f:
			relation, alias, err := s.relationOf(f.Table)
			if err != nil {
				return err
			}
			rows.Where(fmt.Sprintf("EXISTS (SELECT 1 FROM %s %s WHERE %s.id = %s AND %s.%s)", relation, alias, alias, owner, alias,
				Quote(f.Key)))
		case shown == some:
			rows.Where(fmt.Sprintf("%s.%s", rows.alias, Quote(x.Key)))
		}
	}
	return nil
}

// Share computes an aggregate beside the row in hand.
func (s *source) Share(key string, start func() (expr.Rows, error), aggregate func(expr.Rows) (string, error)) (string, error) {
	key = s.prefix + key
	if l := s.from.shared[key]; l != nil {
		before := s.size()
		sql, err := aggregate(l.rows)
		if err != nil {
			return "", err
		}
		if s.size() == before { // nothing was joined that the subquery stands before
			return l.column(sql), nil
		}
	}
	rows, err := start()
	if err != nil {
		return "", err
	}
	sql, err := aggregate(rows)
	if err != nil {
		return "", err
	}
	l := &lateral{alias: s.b.alias("l"), rows: rows.(*source)}
	s.from.joins = append(s.from.joins, l)
	put(&s.from.shared, key, l)
	return l.column(sql), nil
}

func (l *lateral) column(sql string) string {
	i := slices.Index(l.columns, sql)
	if i < 0 {
		l.columns = append(l.columns, sql)
		i = len(l.columns) - 1
	}
	return fmt.Sprintf("%s.c%d", l.alias, i+1)
}

// size counts the joins of these rows and of those outside of them.
func (s *source) size() int {
	n := 0
	for at := s; at != nil; at = at.outer {
		n += len(at.from.joins)
	}
	return n
}

// LinkTable is the name of the table that keeps links to many.
func LinkTable(field string) string { return "_link_" + field }

func (b *builder) linkTable(field string) string {
	return Quote(b.Schema) + "." + Quote(LinkTable(field))
}

// linkColumns gives the columns of the link table that hold the record itself
// and the other one, and the id of the field that the table belongs to; "" for
// the other side of a link to one.
func linkColumns(f *expr.Field) (own, other, table string) {
	switch {
	case f.Of == nil:
		return "from_id", "to_id", f.ID
	case f.Of.Type.Many:
		return "to_id", "from_id", f.Of.ID
	}
	return "", "", ""
}
