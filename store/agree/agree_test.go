// Package agree holds the two back ends of the expression language equal: what
// Go evaluates is what PostgreSQL computes.
package agree

import (
	"database/sql"
	"flag"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/expr"
	"pinegate/store"
	"pinegate/store/storetest"
)

// checks is how many cases are drawn unless -rapid.checks says otherwise.
const checks = "2000"

func TestMain(m *testing.M) {
	flag.Parse()
	if f := flag.Lookup("rapid.checks"); f.Value.String() == f.DefValue {
		if err := f.Value.Set(checks); err != nil {
			panic(err)
		}
	}
	os.Exit(storetest.Main(m))
}

var kinds = []expr.Type{{Kind: expr.Text}, {Kind: expr.Number}, {Kind: expr.YesNo}, {Kind: expr.Date}, {Kind: expr.Choice, List: "l"}, {Kind: expr.Record, Table: "t"}}

// fields gives a record two fields of each type, so that they can be compared.
func fields() []*expr.Field {
	var out []*expr.Field
	for i, t := range kinds {
		for _, n := range []string{"a", "b"} {
			key := fmt.Sprintf("f%d%s", i, n)
			out = append(out, &expr.Field{ID: key, Key: key, Name: key, Table: "t", Type: t})
		}
	}
	return out
}

func catalog() *expr.Catalog {
	return &expr.Catalog{Tables: map[string]*expr.Table{"t": {ID: "t", Key: "t", Name: "T", Fields: fields()}},
		Lists: map[string]*expr.List{"l": {ID: "l", Name: "L", Choices: []expr.ListChoice{{ID: "c1", Label: "One"}, {ID: "c2", Label: "two \"2\""}, {ID: "c3", Label: "Änderung"}}}}}
}

var recordIDs = []string{"00000000-0000-7000-8000-000000000001", "00000000-0000-7000-8000-00000000000a"}

// draw gives a random value of a type, often empty.
func draw(t *rapid.T, of expr.Type) expr.Value {
	if rapid.IntRange(0, 4).Draw(t, "empty") == 0 {
		return expr.Empty()
	}
	pick := func(list ...string) string { return rapid.SampledFrom(list).Draw(t, "value") }
	switch of.Kind {
	case expr.Number:
		return expr.NumberOf(decimal.RequireFromString(pick("0", "1", "-1", "0.1", "2.50", "3", "0.000000000001", "-0.0000000000005", "1e19", "-99999999999999999999", "12345.678901234567", "1e-30", "7", "0.3333333333333333333")))
	case expr.YesNo:
		return expr.YesNoOf(rapid.Bool().Draw(t, "yes"))
	case expr.Date:
		return expr.DateOf(pick("2024-02-29", "2026-03-01", "0001-01-01", "9999-12-31", "1999-12-31"))
	case expr.Choice:
		return expr.ChoiceOf(pick("c1", "c2", "c3", "removed"))
	case expr.Record:
		return expr.RecordOf(pick(recordIDs...))
	}
	return expr.TextOf(pick("a", "A", "b", "ä", "Z", " ", "2", "%_\\'\"", "\u00df", "long "+strings.Repeat("x", 300), "日本"))
}

// write gives the source of a random expression of a type.
func write(t *rapid.T, of expr.Kind, depth int) string {
	sub := func(k expr.Kind) string { return write(t, k, depth-1) }
	choose := func(list ...string) string { return rapid.SampledFrom(list).Draw(t, "form") }
	index := map[expr.Kind]int{expr.Text: 0, expr.Number: 1, expr.YesNo: 2, expr.Date: 3, expr.Choice: 4, expr.Record: 5}[of]
	leaf := choose(fmt.Sprintf("f%da", index), fmt.Sprintf("f%db", index))
	if of == expr.Text || of == expr.Number {
		leaf = choose(leaf, map[expr.Kind]string{expr.Text: `"q""x"`, expr.Number: "2.50"}[of])
	}
	if depth <= 0 {
		return leaf
	}
	conditional := func() string { return fmt.Sprintf("IF(%s, %s, %s)", sub(expr.YesNo), sub(of), choose(leaf, "empty")) }
	switch of {
	case expr.Number:
		return choose(leaf, conditional(), "(-"+sub(of)+")", fmt.Sprintf("(%s %s %s)", sub(of), choose("+", "-", "*", "/"), sub(of)))
	case expr.Text:
		other := sub(rapid.SampledFrom([]expr.Kind{expr.Text, expr.Number, expr.Date, expr.Choice}).Draw(t, "joined"))
		return choose(leaf, conditional(), fmt.Sprintf("(%s & %s)", sub(of), other))
	case expr.YesNo:
		k := rapid.SampledFrom([]expr.Kind{expr.Text, expr.Number, expr.Date}).Draw(t, "compared")
		e := rapid.SampledFrom([]expr.Kind{expr.Text, expr.Number, expr.Date, expr.Choice, expr.Record, expr.YesNo}).Draw(t, "equated")
		return choose(leaf, "(not ("+sub(of)+"))", fmt.Sprintf("(%s %s %s)", sub(of), choose("and", "or"), sub(of)), fmt.Sprintf("(%s %s %s)", sub(k), choose("<", "<=", ">", ">="), sub(k)),
			fmt.Sprintf("(%s %s %s)", sub(e), choose("=", "<>"), choose(sub(e), "empty")), "ISBLANK("+sub(e)+")", `(f4a = "One")`, conditional())
	case expr.Date:
		return choose(leaf, "TODAY()", conditional())
	}
	return choose(leaf, conditional())
}

type record map[string]expr.Value

func (r record) Ref(_ expr.Root, path []*expr.Field) expr.Value { return r[path[0].Key] }
func (record) Today() string                                    { return "2026-03-01" }

// TestBackEndsAgree draws expressions and records, and compares the value in
// Go with that on the server, both as a value and as a condition.
func TestBackEndsAgree(t *testing.T) {
	s := storetest.New(t)
	db, err := s.DB.DB()
	require.NoError(t, err)
	require.NotNil(t, store.Conn(s.DB))
	c := catalog()
	rapid.Check(t, func(t *rapid.T) {
		kind := rapid.SampledFrom([]expr.Kind{expr.Text, expr.Number, expr.YesNo, expr.Date, expr.Choice, expr.Record}).Draw(t, "kind")
		src := write(t, kind, rapid.IntRange(0, 4).Draw(t, "depth"))
		row := record{}
		for _, f := range fields() {
			row[f.Key] = draw(t, f.Type)
		}
		checked, err := expr.Check(src, expr.Scope{Catalog: c, Row: "t"})
		require.NoError(t, err, src)
		want := expr.Eval(checked, c, row).String()
		require.Equal(t, want, compute(t, db, c, row, checked, false), "%s with %v", src, row)
		if kind == expr.YesNo {
			require.Equal(t, want, compute(t, db, c, row, checked, true), "condition %s with %v", src, row)
		}
	})
}

// compute gives the value that PostgreSQL computes, as canonical text.
func compute(t *rapid.T, db *sql.DB, c *expr.Catalog, row record, checked *expr.Checked, condition bool) string {
	var args []any
	param := func(v any, sqlType string) string {
		args = append(args, v)
		return fmt.Sprintf("$%d::%s", len(args), sqlType)
	}
	columns := map[expr.Kind]string{expr.Text: "text", expr.Number: "numeric", expr.YesNo: "boolean", expr.Date: "date", expr.Choice: "text", expr.Record: "uuid"}
	var from []string
	for _, f := range fields() {
		var v any
		if !row[f.Key].IsEmpty() {
			v = row[f.Key].String()
		}
		from = append(from, param(v, "text::"+columns[f.Type.Kind])+" AS "+f.Key)
	}
	compiler := &expr.Compiler{Catalog: c, Today: "2026-03-01", Param: param, Column: func(_ expr.Root, path []*expr.Field, _ string) (string, error) { return "r." + path[0].Key, nil }}
	build := compiler.Value
	if condition {
		build = compiler.Condition
	}
	value, err := build(checked.Root)
	require.NoError(t, err)
	if checked.Type().Kind == expr.Number {
		value = "trim_scale(" + value + ")"
	}
	text := "(" + value + ")::text"
	if condition {
		text = "CASE WHEN " + value + " THEN 'true' ELSE 'false' END"
	}
	var got sql.NullString
	require.NoError(t, db.QueryRow("SELECT "+text+" FROM (SELECT "+strings.Join(from, ", ")+") r", args...).Scan(&got), checked.Source)
	return got.String
}
