package query

import (
	"fmt"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// BuildValues builds the statement that computes expressions over one record
// as the viewer gets it, or over none, as one JSON array of texts, numbers as
// texts too.
func BuildValues(c Context, t *blueprint.Table, id string, exprs []*expr.Checked) (Statement, error) {
	b := newBuilder(c)
	s := b.seenOn("r")
	texts, err := s.texts(exprs)
	if err != nil {
		return Statement{}, err
	}
	from := "(SELECT NULL::uuid AS id) r"
	where := "true"
	if t != nil {
		relation, err := b.view(t)
		if err != nil {
			return Statement{}, err
		}
		from, where = relation+" r", "r.deleted_at IS NULL AND r.id = "+b.param(id, "uuid")
	}
	sql := fmt.Sprintf("SELECT %s::text FROM %s %s WHERE %s", texts, from, joinSQL(s.from.joins), where)
	return b.statement(sql), nil
}

// texts compiles expressions over the record in hand into a JSON array of their texts.
func (s *source) texts(exprs []*expr.Checked) (string, error) {
	compiler := s.compiler()
	var columns []string
	for _, e := range exprs {
		sql, err := s.display(compiler, e)
		if err != nil {
			return "", err
		}
		columns = append(columns, "("+sql+")::text")
	}
	return "array_to_json(ARRAY[" + strings.Join(columns, ", ") + "]::text[])", nil
}

// Yes is the text of what holds, as people read it.
const Yes = "yes"

// display compiles a value in the text that people read: records by their
// label, choices by theirs.
func (s *source) display(compiler *expr.Compiler, e *expr.Checked) (string, error) {
	if e.Type().Many {
		return compiler.Value(expr.Joined(e.Root))
	}
	switch e.Type().Kind {
	case expr.Choice, expr.Time:
		return compiler.Value(&expr.Node{Op: expr.OpToText, Type: expr.Type{Kind: expr.Text}, Args: []*expr.Node{e.Root}})
	case expr.Number:
		sql, err := compiler.Value(e.Root)
		return "trim_scale(" + sql + ")", err
	case expr.Date:
		sql, err := compiler.Value(e.Root)
		return "to_char(" + sql + ", 'FMDD Mon YYYY')", err
	case expr.YesNo:
		sql, err := compiler.Value(e.Root)
		return "CASE WHEN " + sql + " THEN '" + Yes + "' ELSE 'no' END", err
	case expr.Record:
		return compiler.Value(expr.LabelOf(e.Root))
	}
	return compiler.Value(e.Root)
}

// BuildLinked builds the statement that gives the ids of the records to which a
// field of many leads from the record with the id, in the order of making.
func BuildLinked(c Context, f *expr.Field, id string) (Statement, error) {
	b := newBuilder(c)
	s := b.seenOn("r")
	rows, err := s.Through(b.param(id, "uuid"), f)
	if err != nil {
		return Statement{}, err
	}
	in := rows.(*source)
	return b.statement(in.Select(in.item+"::text") + " ORDER BY " + strings.Join(in.order, ", ")), nil
}

// BuildIDs builds the statement that gives the ids of all records of a table
// that the viewer sees.
func BuildIDs(c Context, t *blueprint.Table) (Statement, error) {
	b := newBuilder(c)
	relation, err := b.view(t)
	return b.statement(fmt.Sprintf("SELECT r.id::text FROM %s r WHERE r.deleted_at IS NULL ORDER BY r.id", relation)), err
}

// BuildCurrent builds the statement that reads fields of records, deleted or not,
// each as one JSON object by their ids, with that of the record as ~.
func BuildCurrent(c Context, t *blueprint.Table, ids []string, fields []string) (Statement, error) {
	b := newBuilder(c)
	columns, joins, err := b.held(t, "r.id", fields)
	if err != nil {
		return Statement{}, err
	}
	sql := fmt.Sprintf("SELECT row_to_json(q)::text FROM (SELECT %s FROM %s r %s WHERE r.id = ANY (%s)) q", columns,
		b.everything(t), joins, b.param(ids, "uuid[]"))
	return b.statement(sql), nil
}

// HoldSQL writes the statement that locks a record that is not deleted. Its only argument is the id.
func HoldSQL(c Context, t *blueprint.Table) string {
	return fmt.Sprintf("SELECT FROM %s r WHERE r.id = $1::uuid AND r.deleted_at IS NULL%s", c.TableName(t), locked)
}

// BuildHeld is [BuildCurrent] for one record that is not deleted, which is locked, with its revision as ~.
func BuildHeld(c Context, t *blueprint.Table, id string, fields []string) (Statement, error) {
	b := newBuilder(c)
	columns, joins, err := b.held(t, "r.revision", fields)
	if err != nil {
		return Statement{}, err
	}
	sql := fmt.Sprintf("SELECT row_to_json(q)::text FROM (SELECT %s FROM %s r %s WHERE r.id = %s AND r.deleted_at IS NULL%s) q", columns,
		b.everything(t), joins, b.param(id, "uuid"), locked)
	return b.statement(sql), nil
}

// held writes the columns of fields as they are, behind one that is ~, with their joins.
func (b *builder) held(t *blueprint.Table, first string, fields []string) (columns, joins string, err error) {
	s := b.seenOn("r")
	list := []string{first + " AS " + Quote("~")}
	for _, fid := range fields {
		f := b.field(t.ID, fid)
		column := ""
		if f.Type.Many && f.Type.Kind == expr.Record {
			rows, err := s.Through("r.id", f)
			if err != nil {
				return "", "", err
			}
			in := rows.(*source)
			column = fmt.Sprintf("ARRAY(%s ORDER BY %s)", in.Select(in.item), strings.Join(in.order, ", "))
		} else {
			sql, err := s.field(f)
			if err != nil {
				return "", "", err
			}
			column = jsonColumn(sql, f.Type)
		}
		list = append(list, column+" AS "+Quote(fid))
	}
	return strings.Join(list, ", "), joinSQL(s.from.joins), nil
}

// BuildPreview builds the statement that computes an expression for the first
// records of a table as the viewer gets them, each as JSON with id, label and
// value: the text that people read, or with canonical set, the value's
// canonical text.
func BuildPreview(c Context, t *blueprint.Table, e *expr.Checked, canonical bool, limit int) (Statement, error) {
	b := newBuilder(c)
	relation, err := b.view(t)
	if err != nil {
		return Statement{}, err
	}
	s := b.seenOn("r")
	label, err := s.Label(expr.RootRow, nil, t.ID)
	if err != nil {
		return Statement{}, err
	}
	value := ""
	if canonical {
		if value, err = s.compiler().Value(e.Root); err == nil {
			value = jsonColumn(value, e.Type())
		}
	} else {
		value, err = s.display(s.compiler(), e)
	}
	if err != nil {
		return Statement{}, err
	}
	sql := fmt.Sprintf("SELECT row_to_json(q)::text FROM (SELECT r.id, %s AS label, (%s)::text AS value FROM (SELECT r.* FROM %s r WHERE r.deleted_at IS NULL ORDER BY r.id LIMIT %d) r %s ORDER BY r.id) q",
		label, value, relation, limit, joinSQL(s.from.joins))
	return b.statement(sql), nil
}

// BuildByLabel builds the statement that finds records of a table, among those that
// the viewer sees, by their labels: for each that some have, as JSON, its number
// from one, the id of one of those, and how many there are.
func BuildByLabel(c Context, t *blueprint.Table, labels []string) (Statement, error) {
	b := newBuilder(c)
	relation, err := b.view(t)
	if err != nil {
		return Statement{}, err
	}
	s := b.seenOn("r")
	sql, err := s.Label(expr.RootRow, nil, t.ID)
	if err != nil {
		return Statement{}, err
	}
	return b.statement(fmt.Sprintf("SELECT json_build_object('n', w.n, 'id', min(q.id::text), 'count', count(*))::text"+
		" FROM unnest(%s) WITH ORDINALITY w(label, n)"+
		" JOIN (SELECT r.id, lower(%s) AS label FROM %s r %s WHERE r.deleted_at IS NULL) q ON q.label = lower(w.label) GROUP BY w.n",
		b.param(labels, "text[]"), sql, relation, joinSQL(s.from.joins))), nil
}

// BuildSeen builds the statement that gives the ids of those of the records of a
// table that are there for the viewer.
func BuildSeen(c Context, t *blueprint.Table, ids []string) (Statement, error) {
	b := newBuilder(c)
	relation, err := b.view(t)
	if err != nil {
		return Statement{}, err
	}
	is := "= "
	if len(ids) == 1 { // which the database plans once for all
		is += b.param(ids[0], "uuid")
	} else {
		is += "ANY (" + b.param(ids, "uuid[]") + ")"
	}
	return b.statement(fmt.Sprintf("SELECT r.id::text FROM %s r WHERE r.deleted_at IS NULL AND r.id %s", relation, is)), nil
}

// BuildKeys builds the statement that gives records of a table, each as JSON
// with its id and, as value, the text of a field or the label for "".
func BuildKeys(c Context, t *blueprint.Table, field string, most int) (Statement, error) {
	b := newBuilder(c)
	relation, err := b.view(t)
	if err != nil {
		return Statement{}, err
	}
	s := b.seenOn("r")
	var value string
	if field == "" {
		value, err = s.Label(expr.RootRow, nil, t.ID)
	} else if f := b.field(t.ID, field); f == nil || f.Type.Many {
		return Statement{}, fmt.Errorf("read keys of %s: no field %q", t.Name, field)
	} else if value, err = s.field(f); err == nil {
		value = "(" + jsonColumn(value, f.Type) + ")::text"
	}
	if err != nil {
		return Statement{}, err
	}
	return b.statement(fmt.Sprintf("SELECT row_to_json(q)::text FROM (SELECT r.id, %s AS value FROM %s r %s WHERE r.deleted_at IS NULL ORDER BY r.id LIMIT %d) q",
		value, relation, joinSQL(s.from.joins), most)), nil
}

// BuildLinkedLabels builds the statement that gives the labels of the records
// to which a field of many leads from the record with the id.
func BuildLinkedLabels(c Context, f *expr.Field, id string) (Statement, error) {
	b := newBuilder(c)
	s := b.seenOn("r")
	rows, err := s.Through(b.param(id, "uuid"), f)
	if err != nil {
		return Statement{}, err
	}
	in := rows.(*source)
	label, err := in.Label(expr.RootRow, nil, f.Type.Table)
	if err != nil {
		return Statement{}, err
	}
	in.Where(label + " IS NOT NULL")
	return b.statement(in.Select(label) + " ORDER BY " + strings.Join(in.order, ", ")), nil
}
