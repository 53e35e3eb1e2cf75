package query

import (
	"fmt"
	"slices"
	"strings"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// BuildEval builds the statement that computes an expression over values that
// are in no table, as the value's canonical text. The fields are those of the
// catalog's table with the id.
func BuildEval(catalog *expr.Catalog, table string, values map[string]expr.Value, e *expr.Checked, clock expr.Clock) (Statement, error) {
	b := newBuilder(Context{Catalog: catalog, Blueprint: &blueprint.Blueprint{}, Viewer: access.Viewer{Founder: true}, Clock: clock})
	columns := []string{"NULL::uuid AS id"}
	for _, f := range catalog.Tables[table].Fields {
		var v any
		if x := values[f.Key]; !x.IsEmpty() {
			v = x.String()
		}
		columns = append(columns, b.param(v, "text")+"::"+sqlType(f.Type)+" AS "+Quote(f.Key))
	}
	slices.Sort(columns)
	s := b.seenOn("r")
	value, err := s.compiler().Value(e.Root)
	if err != nil {
		return Statement{}, err
	}
	return b.statement(fmt.Sprintf("SELECT (%s)::text FROM (SELECT %s) r %s", jsonColumn(value, e.Type()), strings.Join(columns, ", "),
		joinSQL(s.from.joins))), nil
}
