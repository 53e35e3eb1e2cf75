package query_test

import (
	"encoding/base64"
	"regexp"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/expr"
	"pinegate/core/query"
)

// FuzzCursor asks for the list after a place that comes from outside: it is refused, or
// is in the statement by its parameters alone.
func FuzzCursor(f *testing.F) {
	for _, s := range []string{`["01a00000-0000-7000-8000-000000000001","Tern"]`, `["01a00000-0000-7000-8000-000000000001",null]`,
		`[null,null]`, `[]`, `["x"]`, `{}`, `["01a00000-0000-7000-8000-000000000001","' OR true --"]`} {
		f.Add(base64.RawURLEncoding.EncodeToString([]byte(s)))
	}
	f.Add("%%%")
	b := blueprinttest.Loft(f)
	c := query.Context{Schema: "s", Blueprint: b, Catalog: b.Catalog(), Viewer: owner("01a00000-0000-7000-8000-000000000001"),
		Clock: expr.Clock{Now: time.Date(2026, 3, 1, 12, 0, 0, 0, time.UTC), Zone: time.UTC}}
	c.Viewer.Founder = true
	table := &b.Tables[0]
	list := query.Selection{Table: table, Columns: []string{table.Fields[0].ID}, Sorts: []query.Sort{{Field: table.Fields[0].ID}}, Limit: 2}
	place := regexp.MustCompile(`\$[0-9]+`)
	shape := func(s query.Statement) string { return place.ReplaceAllString(s.SQL, "$") }
	known := map[string]bool{}
	for _, after := range []string{`["01a00000-0000-7000-8000-000000000001","Tern"]`, `["01a00000-0000-7000-8000-000000000001",null]`} {
		list.After = base64.RawURLEncoding.EncodeToString([]byte(after))
		stmt, err := query.BuildSelection(c, list)
		require.NoError(f, err)
		known[shape(stmt)] = true
	}
	list.After = ""
	stmt, err := query.BuildSelection(c, list)
	require.NoError(f, err)
	known[shape(stmt)] = true // the place before the first
	f.Fuzz(func(t *testing.T, after string) {
		l := list
		l.After = after
		stmt, err := query.BuildSelection(c, l)
		if err != nil {
			require.ErrorIs(t, err, query.ErrCursor)
			return
		}
		require.True(t, known[shape(stmt)], "%q makes another statement: %s", after, stmt.SQL)
		for _, p := range place.FindAllString(stmt.SQL, -1) {
			n, err := strconv.Atoi(p[1:])
			require.NoError(t, err)
			require.LessOrEqual(t, n, len(stmt.Args))
		}
	})
}
