package query

import (
	"fmt"
	"strings"

	"pinegate/core/expr"
)

// plain are the columns of one table, named without an alias, as they stand in
// the definition of a column or an index.
type plain struct{ catalog *expr.Catalog }

func (p plain) compiler() *expr.Compiler {
	return &expr.Compiler{Rows: p, Param: literal, Catalog: p.catalog}
}

// Column gives a column; one that is itself computed is written out.
func (p plain) Column(_ expr.Root, path []*expr.Field, _ string) (string, error) {
	if len(path) != 1 {
		return "", errNotPlain
	}
	if f := path[0]; f.Computed != nil {
		return p.compiler().Value(f.Computed.Root)
	}
	return Quote(path[0].Key), nil
}

var errNotPlain = fmt.Errorf("build column: it needs more than its own record")

func (plain) Held(_ expr.Root, path []*expr.Field) bool {
	return len(path) == 1 && path[0].Computed == nil
}
func (plain) Label(expr.Root, []*expr.Field, string) (string, error) { return "", errNotPlain }
func (plain) Through(string, *expr.Field) (expr.Rows, error)         { return nil, errNotPlain }
func (plain) Flat(*expr.Field) (expr.Rows, error)                    { return nil, errNotPlain }
func (plain) All(string) (expr.Rows, error)                          { return nil, errNotPlain }
func (plain) Derived(string, string) (expr.Rows, error)              { return nil, errNotPlain }
func (plain) Where(string)                                           {}
func (plain) Item() string                                           { return "" }
func (plain) Order() []string                                        { return nil }
func (plain) Select(string) string                                   { return "" }
func (plain) Share(string, func() (expr.Rows, error), func(expr.Rows) (string, error)) (string, error) {
	return "", errNotPlain
}

// literal writes a value out, for statements that take no parameters.
func literal(v any, sqlType string) string {
	return Literal(fmt.Sprint(v)) + "::" + sqlType
}

// Literal quotes a text for a statement that takes no parameters.
func Literal(s string) string {
	quoted := "'" + strings.ReplaceAll(s, "'", "''") + "'"
	if strings.Contains(s, `\`) {
		return "E" + strings.ReplaceAll(quoted, `\`, `\\`)
	}
	return quoted
}

// StoredColumn gives the SQL by which a stored field is computed, and its
// type.
func StoredColumn(c *expr.Catalog, f *expr.Field) (sql, columnType string, err error) {
	sql, err = plain{c}.compiler().Value(f.Computed.Root)
	return sql, sqlType(f.Type), err
}

// PlainLabel gives the SQL of the label of a table's records over its own
// columns; "" where the label needs more.
func PlainLabel(c *expr.Catalog, table string) string {
	label := c.Tables[table].Label
	if label == nil || !label.Own() {
		return ""
	}
	sql, err := plain{c}.compiler().Value(label.Root)
	if err != nil {
		return ""
	}
	return sql
}
