package query

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// Selection says which records to read.
type Selection struct {
	Table   *blueprint.Table
	Columns []string      // ids of fields
	Filter  *expr.Checked // condition, or nil
	// FilterName tells which condition of the blueprint the filter is, by ids;
	// "" for one that is asked for only now.
	FilterName string
	Narrows    []Narrow // and what somebody asked for beside it
	Search     string   // words to be found in the columns, or ""
	Sorts      []Sort   // none for the order of making
	Newest     bool     // without Sorts, the newest come first
	// Texts are computed over each record, and stand in its row as [TextsColumn]; FilterName
	// tells them, too.
	Texts []*expr.Checked
	After string // cursor of the last record read, or ""
	Limit int
	// Each is the id of a field: so many records are read of each of its values, of
	// [MostEach] at most.
	Each string
	ID   string // the one record to read, or ""
	Bin  bool   // the deleted records instead; for founders
}

// Sort is a field by which a list is sorted; with a Column, by that extra
// column of the choice list from which the field's values are.
type Sort struct {
	Field   string `json:"field"`
	Column  string `json:"column,omitempty"`
	Falling bool   `json:"falling,omitempty"`
}

// SortBy reads a sort as settings write it: the id of a field, and behind a dot
// that of a column of its choice list.
func SortBy(text string, falling bool) Sort {
	field, column, _ := strings.Cut(text, ".")
	return Sort{field, column, falling}
}

// Row columns that are not fields.
const (
	sortColumn = "~sort"
	eachColumn = "~each"
	labelMark  = "~"
	// TextsColumn holds the texts that were asked for, null for what is empty.
	TextsColumn = "~texts"
)

// BuildSelection builds the statement that reads records, each as one JSON text
// with the keys id, revision, label, the ids of the fields, and the id of a
// link with ~ behind it for its label.
//
// Which records they are is decided first; what is shown of them is computed
// for those alone.
func BuildSelection(c Context, l Selection) (Statement, error) {
	return c.keep(l, func(c Context, l Selection) (Statement, bool, error) {
		b := newBuilder(c)
		stmt, err := b.list(l)
		return stmt, b.timed, err
	})
}

func (b *builder) list(l Selection) (Statement, error) {
	inner, order, err := b.chosen(l)
	if err != nil {
		return Statement{}, err
	}
	s := b.seenOn("r")
	columns, err := s.listColumns(l)
	if err != nil {
		return Statement{}, err
	}
	if len(l.Texts) > 0 {
		texts, err := s.texts(l.Texts)
		if err != nil {
			return Statement{}, err
		}
		columns = append(columns, texts+" AS "+Quote(TextsColumn))
	}
	for i := range l.Sorts {
		columns = append(columns, fmt.Sprintf("r.%s::text AS %s", Quote(sortName(i)), Quote(sortName(i))))
	}
	sql := fmt.Sprintf("SELECT row_to_json(q)::text FROM (SELECT %s FROM (%s) r %s ORDER BY %s) q",
		strings.Join(columns, ", "), inner, joinSQL(s.from.joins), order)
	return b.statement(sql), nil
}

func sortName(i int) string { return sortColumn + strconv.Itoa(i) }

// chosen builds the statement that gives the records of a list with what they
// are sorted by, and how its rows are to be ordered outside of it.
func (b *builder) chosen(l Selection) (sql, order string, err error) {
	relation, where, s, err := b.matching(l)
	if err != nil {
		return "", "", err
	}
	keys, err := s.sortKeys(l)
	if err != nil {
		return "", "", err
	}
	last := "ASC" // ties go with the first key, so that one index can serve
	if len(keys) > 0 && l.Sorts[0].Falling || len(keys) == 0 && l.Newest {
		last = "DESC"
	}
	columns := []string{"r.*"}
	var inside, outside []string
	for i, k := range keys {
		direction := "ASC"
		if l.Sorts[i].Falling {
			direction = "DESC"
		}
		columns = append(columns, k.sql+" AS "+Quote(sortName(i)))
		inside = append(inside, k.sql+" "+direction+" NULLS LAST")
		outside = append(outside, "r."+Quote(sortName(i))+k.collate+" "+direction+" NULLS LAST")
	}
	inside, outside = append(inside, "r.id "+last), append(outside, "r.id "+last)
	if l.After != "" {
		after, err := b.after(l, keys, last)
		if err != nil {
			return "", "", err
		}
		where = append(where, after)
	}
	limit := l.Limit
	if l.Each != "" {
		part, err := s.part(l, inside)
		if err != nil {
			return "", "", err
		}
		columns, limit = append(columns, part), l.Limit*MostEach
	}
	sql = fmt.Sprintf("SELECT %s FROM %s r %s WHERE %s", strings.Join(columns, ", "), relation, joinSQL(s.from.joins),
		strings.Join(where, " AND "))
	if l.Each != "" {
		sql = fmt.Sprintf("SELECT r.* FROM (%s) r WHERE r.%s <= %d", sql, Quote(eachColumn), l.Limit)
		inside = outside
	}
	return fmt.Sprintf("%s ORDER BY %s LIMIT %d", sql, strings.Join(inside, ", "), limit), strings.Join(outside, ", "), nil
}

// MostEach is of how many values of a field records are read at most.
const MostEach = 40

// part numbers the records of each value of a field, in an order.
func (s *source) part(l Selection, order []string) (string, error) {
	f := s.b.field(l.Table.ID, l.Each)
	if f == nil || f.Type.Many {
		return "", fmt.Errorf("part list of %s: no field %q", l.Table.Name, l.Each)
	}
	column, err := s.shownValue(f)
	return fmt.Sprintf("row_number() OVER (PARTITION BY %s ORDER BY %s) AS %s", column, strings.Join(order, ", "), Quote(eachColumn)), err
}

// matching gives what the records of a list are read from, and what they must
// meet.
func (b *builder) matching(l Selection) (relation string, where []string, s *source, err error) {
	if relation, err = b.view(l.Table); err != nil {
		return "", nil, nil, err
	}
	s = b.seenOn("r")
	where, err = s.listConditions(l)
	return relation, where, s, err
}

// BuildCount builds the statement that counts the records of a list.
func BuildCount(c Context, l Selection) (Statement, error) {
	b := newBuilder(c)
	relation, where, s, err := b.matching(l)
	if err != nil {
		return Statement{}, err
	}
	sql := fmt.Sprintf("SELECT count(*) FROM %s r %s WHERE %s", relation, joinSQL(s.from.joins), strings.Join(where, " AND "))
	return b.statement(sql), nil
}

func (s *source) listColumns(l Selection) ([]string, error) {
	label, err := s.Label(expr.RootRow, nil, l.Table.ID)
	if err != nil {
		return nil, err
	}
	out := []string{"r.id", "r.revision", label + ` AS "label"`}
	for _, id := range l.Columns {
		f := s.b.field(l.Table.ID, id)
		if f == nil {
			return nil, fmt.Errorf("build list of %s: no field %q", l.Table.Name, id)
		}
		columns, err := s.shownColumn(f)
		if err != nil {
			return nil, err
		}
		out = append(out, columns...)
	}
	return out, nil
}

// shownColumn gives a field as it stands in a row, with the label behind what
// is a record.
func (s *source) shownColumn(f *expr.Field) ([]string, error) {
	if f.Type.Kind == expr.Record && f.Type.Many {
		return s.linked(f)
	}
	column, err := s.shownValue(f)
	if err != nil {
		return nil, err
	}
	out := []string{jsonColumn(column, f.Type) + " AS " + Quote(f.ID)}
	if f.Type.Kind == expr.Record {
		label, err := s.labelOf(f)
		if err != nil {
			return nil, err
		}
		out = append(out, label+" AS "+Quote(f.ID+labelMark))
	}
	if f.Type.Kind == expr.File {
		out = append(out, s.b.filesOf(column)+" AS "+Quote(f.ID+labelMark))
	}
	return out, nil
}

// shownValue gives a field as the viewer gets it: of a record that they do not see, not even
// its id.
func (s *source) shownValue(f *expr.Field) (string, error) {
	if f.Type.Kind != expr.Record || f.Type.Many || s.trusted {
		return s.field(f)
	}
	at, err := s.follow(expr.RootRow, []*expr.Field{f}, f.Type.Table)
	if err != nil {
		return "", err
	}
	return at.item, nil
}

// FilesTable is the name of the table, in each environment, that tells what the
// files of records are.
const FilesTable = "_files"

// filesOf gives what is known of the files whose ids a column holds.
func (b *builder) filesOf(column string) string {
	return fmt.Sprintf(`(SELECT json_agg(json_build_object('id', x.id, 'name', x.name, 'type', x.type, 'size', x.size, 'picture', x.picture) ORDER BY u.n)
		FROM unnest(%s) WITH ORDINALITY u(v, n) JOIN %s.%s x ON x.id = u.v)`, column, Quote(b.Schema), Quote(FilesTable))
}

// jsonColumn gives a value as it stands in JSON: numbers as texts without
// trailing zeros, time stamps as ISO 8601 in UTC.
func jsonColumn(column string, t expr.Type) string {
	switch {
	case t.Many:
		return column
	case t.Kind == expr.Number:
		return "trim_scale(" + column + ")::text"
	case t.Kind == expr.Time:
		return "to_char(" + column + ` AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"')`
	}
	return column
}

// mostLinked is how many of the records that a field links to stand in a row;
// how many there are stands beside them.
const mostLinked = 25

// linked gives the records to which a field of many leads, with their labels,
// and their number.
func (s *source) linked(f *expr.Field) ([]string, error) {
	rows, err := s.Through(s.alias+".id", f)
	if err != nil {
		return nil, err
	}
	in := rows.(*source)
	label, err := in.Label(expr.RootRow, nil, f.Type.Table)
	if err != nil {
		return nil, err
	}
	list := fmt.Sprintf("(SELECT COALESCE(json_agg(q), '[]') FROM (%s ORDER BY %s LIMIT %d) q)",
		in.Select(in.item+" AS id, "+label+" AS label"), strings.Join(in.order, ", "), mostLinked)
	number, err := s.Through(s.alias+".id", f)
	if err != nil {
		return nil, err
	}
	return []string{list + " AS " + Quote(f.ID), "(" + number.Select("count(*)") + ") AS " + Quote(f.ID+labelMark)}, nil
}

func (s *source) listConditions(l Selection) ([]string, error) {
	where := []string{"r.deleted_at IS NULL"}
	if l.Bin && s.b.Viewer.Founder {
		where[0] = "r.deleted_at IS NOT NULL"
	}
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
	for _, n := range l.Narrows {
		narrowed, err := s.narrow(l.Table.ID, n)
		if err != nil {
			return nil, err
		}
		where = append(where, narrowed)
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
func (s *source) search(l Selection) (string, error) {
	pattern := s.b.param("%"+strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(l.Search)+"%", "text")
	label, err := s.Label(expr.RootRow, nil, l.Table.ID)
	if err != nil {
		return "", err
	}
	texts := []string{label}
	for _, id := range l.Columns {
		f := s.b.field(l.Table.ID, id)
		if f == nil || f.Type.Many {
			continue
		}
		var text string
		switch f.Type.Kind {
		case expr.Text:
			text, err = s.field(f)
		case expr.Number:
			if text, err = s.field(f); err == nil {
				text = "trim_scale(" + text + ")::text"
			}
		case expr.Choice:
			text, err = s.compiler().Value(&expr.Node{Op: expr.OpToText, Type: expr.Type{Kind: expr.Text},
				Args: []*expr.Node{{Op: expr.OpRef, Root: expr.RootRow, Path: []*expr.Field{f}, Type: f.Type}}})
		case expr.Record:
			text, err = s.labelOf(f)
		default:
			continue
		}
		if err != nil {
			return "", err
		}
		texts = append(texts, text)
	}
	for i, t := range texts {
		texts[i] = t + " ILIKE " + pattern
	}
	return "(" + strings.Join(texts, " OR ") + ")", nil
}

// labelOf gives the label of the record that a field of the row in hand leads
// to.
func (s *source) labelOf(f *expr.Field) (string, error) {
	return s.Label(expr.RootRow, []*expr.Field{f}, f.Type.Table)
}

// naturalOrder compares texts as people sort them.
const naturalOrder = ` COLLATE "und-x-icu"`

// sortKey is what a list is sorted by.
type sortKey struct{ sql, typ, collate string }

func (s *source) sortKeys(l Selection) ([]sortKey, error) {
	var out []sortKey
	for _, by := range l.Sorts {
		f := s.b.field(l.Table.ID, by.Field)
		if f == nil || f.Type.Many {
			return nil, fmt.Errorf("sort list of %s: no field %q", l.Table.Name, by.Field)
		}
		k, err := s.sortKey(f, by.Column)
		if err != nil {
			return nil, err
		}
		out = append(out, k)
	}
	return out, nil
}

// sortKey gives what a field sorts by: choices by the order of their list or by
// a column of it, records by their labels.
func (s *source) sortKey(f *expr.Field, column string) (sortKey, error) {
	if column != "" {
		return s.columnKey(f, column)
	}
	if f.Type.Kind == expr.Record {
		label, err := s.labelOf(f)
		return sortKey{"(" + label + ")" + naturalOrder, "text", naturalOrder}, err
	}
	column, err := s.field(f)
	switch f.Type.Kind {
	case expr.Number, expr.YesNo, expr.Date, expr.Time:
		return sortKey{column, sqlType(f.Type), ""}, err
	case expr.Choice:
		ids := []string{}
		for _, ch := range s.b.Blueprint.List(f.Type.List).Choices {
			ids = append(ids, ch.ID)
		}
		return sortKey{fmt.Sprintf("array_position(%s, %s)", s.b.param("{"+strings.Join(ids, ",")+"}", "text[]"), column), "integer", ""},
			err
	}
	return sortKey{"(" + column + ")" + naturalOrder, "text", naturalOrder}, err
}

// columnKey gives what a choice has in an extra column of its list.
func (s *source) columnKey(f *expr.Field, id string) (sortKey, error) {
	if list := s.b.Catalog.Lists[f.Type.List]; f.Type.Kind == expr.Choice && list != nil {
		for _, col := range list.Columns {
			if col.ID != id {
				continue
			}
			ref := &expr.Node{Op: expr.OpRef, Root: expr.RootRow, Path: []*expr.Field{f}, Type: f.Type}
			sql, err := s.compiler().Value(&expr.Node{Op: expr.OpColumn, Column: id, Type: col.Type, Args: []*expr.Node{ref}})
			if col.Type.Kind == expr.Text {
				return sortKey{"(" + sql + ")" + naturalOrder, "text", naturalOrder}, err
			}
			return sortKey{sql, sqlType(col.Type), ""}, err
		}
	}
	return sortKey{}, fmt.Errorf("sort by %s: no column %q", f.Name, id)
}

// ErrCursor is given for a cursor that was not made by [Cursor].
var ErrCursor = words.New("query-cursor")

// Cursor gives the place in a list after the row, as read by [BuildSelection].
func Cursor(row []byte) (string, error) {
	var values map[string]json.RawMessage
	var id string
	if err := json.Unmarshal(row, &values); err != nil {
		return "", fmt.Errorf("make cursor: %w", err)
	}
	if err := json.Unmarshal(values["id"], &id); err != nil {
		return "", fmt.Errorf("make cursor: %w", err)
	}
	at := []*string{&id}
	for i := 0; values[sortName(i)] != nil; i++ {
		var text *string
		if err := json.Unmarshal(values[sortName(i)], &text); err != nil {
			return "", fmt.Errorf("make cursor: %w", err)
		}
		at = append(at, text)
	}
	raw, err := json.Marshal(at)
	return base64.RawURLEncoding.EncodeToString(raw), err
}

// after compiles that a record comes behind the place of a cursor: equal in the
// first keys, and behind in the next.
func (b *builder) after(l Selection, keys []sortKey, last string) (string, error) {
	raw, err := base64.RawURLEncoding.DecodeString(l.After)
	var at []*string
	if err != nil || json.Unmarshal(raw, &at) != nil || len(at) != len(keys)+1 || at[0] == nil || uuid.Validate(*at[0]) != nil {
		return "", ErrCursor
	}
	direction := map[bool]string{false: ">", true: "<"}
	var ways, equal []string
	for i, k := range keys {
		if at[i+1] == nil {
			equal = append(equal, k.sql+" IS NULL")
			continue
		}
		value := b.param(*at[i+1], k.typ) + k.collate
		behind := fmt.Sprintf("(%s %s %s OR %s IS NULL)", k.sql, direction[l.Sorts[i].Falling], value, k.sql)
		ways = append(ways, strings.Join(append(slices.Clone(equal), behind), " AND "))
		equal = append(equal, k.sql+" = "+value)
	}
	id := fmt.Sprintf("r.id %s %s", direction[last == "DESC"], b.param(*at[0], "uuid"))
	ways = append(ways, strings.Join(append(equal, id), " AND "))
	return "(" + strings.Join(ways, " OR ") + ")", nil
}
