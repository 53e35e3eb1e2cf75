package expr

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/internal/golden"
)

// yard is a small catalog: boats with an owner, who is a person.
func yard() *Catalog {
	boats := &Table{ID: "boat", Key: "boats", Name: "Boats", Fields: []*Field{
		{ID: "b1", Key: "name", Name: "Name", Table: "boat", Type: Type{Kind: Text}},
		{ID: "b2", Key: "length", Name: "Length", Table: "boat", Type: Type{Kind: Number}},
		{ID: "b3", Key: "unit_price", Name: "Unit price", Table: "boat", Type: Type{Kind: Number}},
		{ID: "b4", Key: "owner", Name: "Owner", Table: "boat", Type: Type{Kind: Record, Table: "own"}},
		{ID: "b5", Key: "status", Name: "Status", Table: "boat", Type: Type{Kind: Choice, List: "st"}},
		{ID: "b6", Key: "sold", Name: "Sold", Table: "boat", Type: Type{Kind: YesNo}},
		{ID: "b7", Key: "due", Name: "Due on", Table: "boat", Type: Type{Kind: Date}},
		{ID: "b8", Key: "other", Name: "Other", Table: "boat", Type: Type{Kind: Text}},
	}}
	owners := &Table{ID: "own", Key: "owners", Name: "Owners", Fields: []*Field{
		{ID: "o1", Key: "name", Name: "Name", Table: "own", Type: Type{Kind: Text}},
	}}
	boats.Fields = append(boats.Fields, &Field{ID: "b9", Key: "boats", Name: "Boats alongside", Table: "boat",
		Type: Type{Kind: Record, Table: "boat", Many: true}})
	return &Catalog{Tables: map[string]*Table{"boat": boats, "own": owners},
		Lists: map[string]*ChoiceList{"st": {ID: "st", Name: "States",
			Choices: []ListChoice{{ID: "s1", Label: "In the yard", Values: map[string]Value{"rate": num("2")}},
				{ID: "s2", Label: "Afloat"}},
			Columns: []ListColumn{{ID: "rate", Key: "rate", Name: "Day rate", Type: Type{Kind: Number}}}}}}
}

func scope() Scope { return Scope{Catalog: yard(), Row: "boat", Me: "own", Page: "own"} }

// values is an environment: the fields of records by the record's id and the
// field's key, records at the roots by these, and the records of tables.
type values map[string]Value

func (v values) Start(root Root) Value {
	if root == RootRow {
		return RecordOf("row")
	}
	return v[string(root)]
}

func (v values) Field(record Value, f *Field) Value {
	if record.Text == "row" {
		return v[f.Key]
	}
	return v[record.Text+"."+f.Key]
}

func (v values) Records(table string) []Value       { return v[table].Items }
func (v values) Label(_ string, record Value) Value { return v[record.Text+".label"] }
func (values) Clock() Clock                         { return Clock{Now: time.Date(2026, 3, 1, 10, 30, 0, 0, time.UTC)} }

func num(s string) Value { return NumberOf(decimal.RequireFromString(s)) }

func TestEval(t *testing.T) {
	env := values{"name": TextOf("Tern"), "length": num("12.50"), "owner": RecordOf("r1"), "me": RecordOf("r1"), "r1.name": TextOf("Ines"),
		"status": ChoiceOf("s1"), "due": DateOf("2026-02-28")}
	for src, want := range map[string]string{
		`1 + 2 * 3`:                        "7",
		`(1 + 2) * 3`:                      "9",
		`-2 - -3`:                          "1",
		`10 / 4`:                           "2.5",
		`1 / 3`:                            "0.333333333333",
		`-2 / 3`:                           "-0.666666666667",
		`1 / 0`:                            "",
		`length / 0 + 1`:                   "1",
		`empty + 2`:                        "2",
		`empty - 2`:                        "-2",
		`unit_price * 2`:                   "",
		`length + unit_price`:              "12.5",
		`"a" & "b" & 1.50`:                 "ab1.5",
		`"say ""hi"""`:                     `say "hi"`,
		`name & " of " & owner.name`:       "Tern of Ines",
		`status & ""`:                      "In the yard",
		`due & ""`:                         "2026-02-28",
		`"" = empty`:                       "true",
		`unit_price = empty`:               "true",
		`unit_price < 1`:                   "false",
		`not (unit_price < 1)`:             "true",
		`unit_price <> empty`:              "false",
		`status = "In the yard"`:           "true",
		`status <> "Afloat"`:               "true",
		`owner = me`:                       "true",
		`this.owner = me`:                  "true",
		`owner = page.record`:              "false",
		`due < TODAY()`:                    "true",
		`IF(length > 10, "long", "short")`: "long",
		`IF(sold; 1)`:                      "",
		`ISBLANK(unit_price) and not sold`: "true",
		`[Unit price] = empty or 1 = 2`:    "true",
		`true and false or true`:           "true",
		`"B" < "a"`:                        "true",
		`sold = empty`:                     "true",
		`9999999999 * 9999999999 * 9999999999 * 9999999999 * 9999999999`: "",
	} {
		c, err := Check(src, scope())
		if assert.NoError(t, err, src) {
			assert.Equal(t, want, Eval(c, yard(), env).String(), src)
		}
	}
}

// TestMistakesSayWhereAndWhat holds what is said of mistakes, and of which part.
func TestMistakesSayWhereAndWhat(t *testing.T) {
	var out strings.Builder
	for _, src := range []string{
		`unit_prise * 2`,
		`[Unit prise]`,
		`owner.nam`,
		`status = "In the yrd"`,
		`name + 1`,
		`length = name`,
		`name.length`,
		`status.rat`,
		`due + 1`,
		`SUM(boats)`,
		`boats = 1`,
		`COUNT(FILTER(boats, lenght > 1))`,
		`COUNT(RECORDS(boots))`,
		`TEXT(length, "yyyy")`,
		`MATCHES(name, "(")`,
		`MATCHES(name, "\bx")`,
		`DATEDIF(due, due, "w")`,
		`IFF(1, 2)`,
		`ISBLANK()`,
		`1 +`,
		`"open`,
		`1 < 2 < 3`,
		`owner & "x"`,
		`1 2`,
		`sold < true`,
		`(1 + 2`,
		`length +`,
		`[]`,
		`[Name`,
		`sold and 1`,
		`SUM(1, boats)`,
		`FIRST(1)`,
		`JOIN(boats.sold, boats)`,
		`SORT(boats)`,
		`SORT(boats, name, "up")`,
		`RECORDS(1)`,
		`IF(sold, 1, "x")`,
		`LABEL(1)`,
		`TEXT(sold, "0")`,
		`TEXT(due, "q")`,
		`name.`,
		`FIRST(boats.status).rat`,
		`IF(sold, )`,
		`COALESCE(1`,
		`#`,
		`sold = 1`,
		`NPV(1, 2)`,
		`MATCHES(name, name)`,
		`TEXT(length, name)`,
	} {
		_, err := Check(src, scope())
		var e *Error
		if assert.ErrorAs(t, err, &e, src) {
			fmt.Fprintf(&out, "%s\n  at %s: %s\n", src, src[e.At.Start:e.At.End], e)
		}
	}
	golden.Check(t, "mistakes", out.String())
}

func TestNobodyIsMeForVisitors(t *testing.T) {
	_, err := Check("owner = me", Scope{Catalog: yard(), Row: "boat"})
	require.ErrorContains(t, err, "No one is signed in here")
}

func TestLimits(t *testing.T) {
	for _, src := range []string{strings.Repeat("(", 200) + "1" + strings.Repeat(")", 200), strings.Repeat("not ", 500) + "true",
		"1" + strings.Repeat("+1", 300), strings.Repeat("a", MaxSource+1), "owner" + strings.Repeat(".owner", 40)} {
		_, err := Check(src, scope())
		var e *Error
		assert.ErrorAs(t, err, &e, "%.40s", src)
	}
}

func TestRewriteFollowsRenames(t *testing.T) {
	src := `{{ [Unit price] * length }} and {{ owner.name & name }}`
	tpl, err := CheckTemplate(src, scope())
	require.NoError(t, err)
	got := Rewrite(src, tpl.Refs(), func(r Ref) string {
		switch {
		case r.Field == "b3" && r.Bracketed:
			return "Price"
		case r.Field == "b1":
			return "title"
		}
		return ""
	})
	assert.Equal(t, `{{ [Price] * length }} and {{ owner.name & title }}`, got)
}

func FuzzCheck(f *testing.F) {
	for _, s := range []string{`owner.name & "x"`, `IF(length > 1, [Unit price], 2)`, `{{ name }}`, `not (1 = 2) and due < TODAY()`,
		`SUM(FILTER(boats, length > this.length).length) / COUNT(boats)`, `FIRST(SORT(boats, length, "falling")).name`,
		`MATCHES(name, "^[A-Z]+$") or TEXT(due, "d mmm yyyy") = "x"`, `JOIN(UNIQUE(boats.owner.name), "; ")`, `"""`, `[`, `1..2`} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, src string) {
		c, err := Check(src, scope())
		if err != nil {
			var e *Error
			require.ErrorAs(t, err, &e)
			require.True(t, e.At.Start >= 0 && e.At.Start <= e.At.End && e.At.End <= len(src), "%v of %q", e.At, src)
			return
		}
		Eval(c, yard(), values{})
		require.Equal(t, src, Rewrite(src, c.Refs, func(Ref) string { return "" }))
		_, _ = CheckTemplate(src, scope()) // must not panic
	})
}

func TestTextsReadWellWhereNothingIsFilledIn(t *testing.T) {
	for source, want := range map[string]string{
		"Welcome, {{name}}!":            "Welcome!",
		"Hello {{name}}, good to see":   "Hello, good to see",
		"{{name}}, welcome to the yard": "Welcome to the yard",
		"{{name}}":                      "",
		"Berth {{name}} m":              "Berth m",
		"{{name}} étale":                "Étale",
		"Nothing\n{{name}}\nmore":       "Nothing\n\nmore",
	} {
		tpl, err := CheckTemplate(source, scope())
		if err != nil {
			t.Fatal(source, err)
		}
		if got := tpl.Text([]string{""}); got != want {
			t.Errorf("%q reads %q, want %q", source, got, want)
		}
		if got := tpl.Text([]string{"Ines"}); got != strings.Replace(source, "{{name}}", "Ines", 1) {
			t.Errorf("%q reads %q when it is filled in", source, got)
		}
	}
}
