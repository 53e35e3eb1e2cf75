package query

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// List says which records to read.
type List struct {
	Table   *blueprint.Table
	Columns []string      // ids of fields
	Filter  *expr.Checked // condition, or nil
	Equals  map[string]string
	Search  string // words to be found in the columns, or ""
	Sort    string // id of a field, or "" for the order of making
	Falling bool
	After   string // cursor of the last record read, or ""
	Limit   int
	ID      string // the one record to read, or ""
}

// Row columns that are not fields.
const (
	sortColumn = "~sort"
	labelMark  = "~"
)

// BuildList builds the statement that reads records, each as one JSON text
// with the keys id, revision, label, the ids of the fields, and the id of a
// link with ~ behind it for its label.
func BuildList(c Context, l List) (Statement, error) {
	b := &builder{Context: c}
	relation, err := b.view(l.Table)
	if err != nil {
		return Statement{}, err
	}
	s := b.seen("r")
	columns, err := s.listColumns(l)
	if err != nil {
		return Statement{}, err
	}
	where, err := s.listConditions(l)
	if err != nil {
		return Statement{}, err
	}
	key, keyType, err := s.sortKey(l)
	if err != nil {
		return Statement{}, err
	}
	direction, order := ">", "ASC"
	if l.Falling {
		direction, order = "<", "DESC"
	}
	orderBy := "r.id " + order
	if key != "" {
		columns = append(columns, key+"::text AS "+Quote(sortColumn))
		orderBy = key + " " + order + " NULLS LAST, " + orderBy
	}
	if l.After != "" {
		after, err := b.after(l.After, key, keyType, direction)
		if err != nil {
			return Statement{}, err
		}
		where = append(where, after)
	}
	sql := fmt.Sprintf("SELECT row_to_json(q)::text FROM (SELECT %s FROM %s r %s WHERE %s ORDER BY %s LIMIT %d) q",
		strings.Join(columns, ", "), relation, strings.Join(s.joins, " "), strings.Join(where, " AND "), orderBy, l.Limit)
	return Statement{sql, b.args}, nil
}

// BuildCount builds the statement that counts the records of a list.
func BuildCount(c Context, l List) (Statement, error) {
	b := &builder{Context: c}
	relation, err := b.view(l.Table)
	if err != nil {
		return Statement{}, err
	}
	s := b.seen("r")
	where, err := s.listConditions(l)
	if err != nil {
		return Statement{}, err
	}
	sql := fmt.Sprintf("SELECT count(*) FROM %s r %s WHERE %s", relation, strings.Join(s.joins, " "), strings.Join(where, " AND "))
	return Statement{sql, b.args}, nil
}

func (s *source) listColumns(l List) ([]string, error) {
	label, err := s.label(expr.RootRow, nil, l.Table)
	if err != nil {
		return nil, err
	}
	out := []string{"r.id", "r.revision", label + ` AS "label"`}
	for _, id := range l.Columns {
		f := l.Table.Field(id)
		if f == nil {
			return nil, fmt.Errorf("build list of %s: no field %q", l.Table.Name, id)
		}
		column := "r." + Quote(f.Key)
		if f.Type == blueprint.Number {
			column = "trim_scale(" + column + ")::text"
		}
		out = append(out, column+" AS "+Quote(f.ID))
		if f.Type == blueprint.Link {
			label, err := s.linkLabel(l.Table, f)
			if err != nil {
				return nil, err
			}
			out = append(out, label+" AS "+Quote(f.ID+labelMark))
		}
	}
	return out, nil
}

func (s *source) listConditions(l List) ([]string, error) {
	where := []string{"r.deleted_at IS NULL"}
	if l.ID != "" {
		where = append(where, "r.id = "+s.b.param(l.ID, "uuid"))
	}
	if l.Filter != nil {
		sql, err := s.compiler().Condition(l.Filter.Root)
		if err != nil {
			return nil, err
		}
		where = append(where, sql)
	}
	for id, value := range l.Equals {
		f := l.Table.Field(id)
		if f == nil {
			return nil, fmt.Errorf("build list of %s: no field %q", l.Table.Name, id)
		}
		where = append(where, fmt.Sprintf("r.%s = %s", Quote(f.Key), s.b.param(value, ColumnType(f.Type))))
	}
	if l.Search != "" {
		found, err := s.search(l)
		if err != nil {
			return nil, err
		}
		where = append(where, found)
	}
	return where, nil
}

// search looks for the words in the texts that the columns show.
func (s *source) search(l List) (string, error) {
	pattern := s.b.param("%"+strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(l.Search)+"%", "text")
	label, err := s.label(expr.RootRow, nil, l.Table)
	if err != nil {
		return "", err
	}
	texts := []string{label}
	for _, id := range l.Columns {
		f := l.Table.Field(id)
		switch f.Type {
		case blueprint.Text, blueprint.LongText, blueprint.Email:
			texts = append(texts, "r."+Quote(f.Key))
		case blueprint.Link:
			label, err := s.linkLabel(l.Table, f)
			if err != nil {
				return "", err
			}
			texts = append(texts, label)
		}
	}
	for i, t := range texts {
		texts[i] = t + " ILIKE " + pattern
	}
	return "(" + strings.Join(texts, " OR ") + ")", nil
}

// linkLabel gives the label of the record that a link of the row points to.
func (s *source) linkLabel(t *blueprint.Table, f *blueprint.Field) (string, error) {
	return s.label(expr.RootRow, []*expr.Field{{ID: f.ID, Key: f.Key, Table: t.ID}}, s.b.Blueprint.Table(f.Target))
}

// label compiles the label of the record at the end of a path.
func (s *source) label(root expr.Root, path []*expr.Field, t *blueprint.Table) (string, error) {
	c, err := expr.CheckAs(t.Label, expr.Scope{Catalog: s.b.Catalog, Row: t.ID}, expr.Type{Kind: expr.Text})
	if err != nil {
		return "", fmt.Errorf("read the label of %s: %w", t.Name, err)
	}
	compiler := s.compiler()
	compiler.Column = func(_ expr.Root, rest []*expr.Field, of string) (string, error) {
		full := append(append([]*expr.Field{}, path...), rest...)
		return s.column(root, full, of)
	}
	sql, err := compiler.Value(c.Root)
	if err != nil || root == expr.RootRow && len(path) == 0 {
		return sql, err
	}
	// what is fixed in a label must not stand for a record that is not seen
	alias, err := s.follow(root, path, t.ID)
	return fmt.Sprintf("CASE WHEN %s.id IS NOT NULL THEN %s END", alias, sql), err
}

// naturalOrder compares texts as people sort them.
const naturalOrder = ` COLLATE "und-x-icu"`

// sortKey gives the expression by which the list is sorted, with its type, or
// "" for the order of making.
func (s *source) sortKey(l List) (key, keyType string, err error) {
	if l.Sort == "" {
		return "", "", nil
	}
	f := l.Table.Field(l.Sort)
	if f == nil {
		return "", "", fmt.Errorf("sort list of %s: no field %q", l.Table.Name, l.Sort)
	}
	column := "r." + Quote(f.Key)
	switch f.Type {
	case blueprint.Number, blueprint.YesNo, blueprint.Date:
		return column, ColumnType(f.Type), nil
	case blueprint.Choose:
		ids := []string{}
		for _, ch := range s.b.Blueprint.List(f.List).Choices {
			ids = append(ids, ch.ID)
		}
		return fmt.Sprintf("array_position(%s, %s)", s.b.param("{"+strings.Join(ids, ",")+"}", "text[]"), column), "integer", nil
	case blueprint.Link:
		column, err = s.linkLabel(l.Table, f)
	}
	return "(" + column + ")" + naturalOrder, "text" + naturalOrder, err
}

// ErrCursor is given for a cursor that was not made by [Cursor].
var ErrCursor = &blueprint.Problem{Message: "This place in the list is not known; start the list anew."}

// Cursor gives the place in a list after the row, as read by [BuildList].
func Cursor(row []byte) (string, error) {
	var r struct {
		ID   string  `json:"id"`
		Sort *string `json:"~sort"`
	}
	if err := json.Unmarshal(row, &r); err != nil {
		return "", fmt.Errorf("make cursor: %w", err)
	}
	raw, err := json.Marshal([]*string{r.Sort, &r.ID})
	return base64.RawURLEncoding.EncodeToString(raw), err
}

func (b *builder) after(cursor, key, keyType, direction string) (string, error) {
	raw, err := base64.RawURLEncoding.DecodeString(cursor)
	var at []*string
	if err != nil || json.Unmarshal(raw, &at) != nil || len(at) != 2 || at[1] == nil {
		return "", ErrCursor
	}
	id := fmt.Sprintf("r.id %s %s", direction, b.param(*at[1], "uuid"))
	switch {
	case key == "":
		return id, nil
	case at[0] == nil:
		return fmt.Sprintf("(%s IS NULL AND %s)", key, id), nil
	}
	value := b.param(*at[0], keyType)
	return fmt.Sprintf("(%s %s %s OR (%s = %s AND %s) OR %s IS NULL)", key, direction, value, key, value, id, key), nil
}

// BuildValues builds the statement that computes expressions over one record
// as the viewer gets it, or over none, as one JSON array of texts, numbers as
// texts too.
func BuildValues(c Context, t *blueprint.Table, id string, exprs []*expr.Checked) (Statement, error) {
	b := &builder{Context: c}
	s := b.seen("r")
	compiler := s.compiler()
	var columns []string
	for _, e := range exprs {
		sql, err := s.display(compiler, e)
		if err != nil {
			return Statement{}, err
		}
		columns = append(columns, "("+sql+")::text")
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
	sql := fmt.Sprintf("SELECT array_to_json(ARRAY[%s]::text[])::text FROM %s %s WHERE %s", strings.Join(columns, ", "), from, strings.Join(s.joins, " "), where)
	return Statement{sql, b.args}, nil
}

// display compiles a value in the text that people read: records by their
// label, choices by theirs.
func (s *source) display(compiler *expr.Compiler, e *expr.Checked) (string, error) {
	switch e.Type().Kind {
	case expr.Choice:
		return compiler.Value(&expr.Node{Op: expr.OpToText, Type: expr.Type{Kind: expr.Text}, Args: []*expr.Node{e.Root}})
	case expr.Number:
		sql, err := compiler.Value(e.Root)
		return "trim_scale(" + sql + ")", err
	case expr.Date:
		sql, err := compiler.Value(e.Root)
		return "to_char(" + sql + ", 'FMDD Mon YYYY')", err
	case expr.YesNo:
		sql, err := compiler.Value(e.Root)
		return "CASE WHEN " + sql + " THEN 'yes' ELSE 'no' END", err
	case expr.Record:
		if t := s.b.Blueprint.Table(e.Type().Table); t != nil && e.Root.Op == expr.OpRef {
			return s.label(e.Root.Root, e.Root.Path, t)
		}
		return "NULL", nil
	}
	return compiler.Value(e.Root)
}
