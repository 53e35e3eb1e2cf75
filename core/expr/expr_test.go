package expr

import (
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
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
	boats.Fields = append(boats.Fields, &Field{ID: "b9", Key: "boats", Name: "Boats alongside", Table: "boat", Type: Type{Kind: Record, Table: "boat", Many: true}})
	return &Catalog{Tables: map[string]*Table{"boat": boats, "own": owners},
		Lists: map[string]*List{"st": {ID: "st", Name: "States", Choices: []ListChoice{{ID: "s1", Label: "In the yard", Values: map[string]Value{"rate": num("2")}}, {ID: "s2", Label: "Afloat"}},
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
	env := values{"name": TextOf("Tern"), "length": num("12.50"), "owner": RecordOf("r1"), "me": RecordOf("r1"), "r1.name": TextOf("Ines"), "status": ChoiceOf("s1"), "due": DateOf("2026-02-28")}
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

func TestMistakesSayWhereAndWhat(t *testing.T) {
	for _, x := range []struct{ src, message, at string }{
		{`unit_prise * 2`, "There is no unit_prise in Boats. Did you mean unit_price?", "unit_prise"},
		{`[Unit prise]`, "There is no Unit prise in Boats. Did you mean Unit price?", "[Unit prise]"},
		{`owner.nam`, "There is no nam in Owners. Did you mean name?", "nam"},
		{`status = "In the yrd"`, `"In the yrd" is no choice of States. Did you mean "In the yard"?`, `"In the yrd"`},
		{`name + 1`, `"+" needs a number here; this is a text.`, "name"},
		{`length = name`, "A number cannot be compared with a text.", "length = name"},
		{`name.length`, "What stands before the dot is a text, not a link, so nothing can follow it.", "length"},
		{`status.rat`, "The choice list States has no column rat. Did you mean rate?", "rat"},
		{`due + 1`, `"+" reckons with numbers; this is a date. Use ADDDAYS(date, days).`, "due"},
		{`SUM(boats)`, "SUM needs numbers; this is a list of records of Boats. Put a dot and the field to be reckoned with behind it, as in lines.amount.", "boats"},
		{`boats = 1`, "A list cannot be compared as a whole. Use INCLUDES(list, value), ANY(list, condition) or COUNT(list).", "boats = 1"},
		{`COUNT(FILTER(boats, lenght > 1))`, "There is no lenght in Boats. Did you mean length?", "lenght"},
		{`COUNT(RECORDS(boots))`, "There is no table boots. Did you mean boats?", "boots"},
		{`TEXT(length, "yyyy")`, `"y" has no meaning in the format of a number; write words in doubled quotes.`, `"yyyy"`},
		{`MATCHES(name, "(")`, "This pattern is not well formed: missing closing ): `(`.", `"("`},
		{`MATCHES(name, "\bx")`, "A pattern cannot use the bounds of words here.", `"\bx"`},
		{`DATEDIF(due, due, "w")`, `DATEDIF needs one of "y", "m", "d", "ym", "yd", "md" here.`, `"w"`},
		{`IFF(1, 2)`, "There is no function IFF. Did you mean IF?", "IFF"},
		{`ISBLANK()`, "ISBLANK is written ISBLANK(value).", "ISBLANK()"},
		{`1 +`, "The expression ends where a value is expected.", ""},
		{`"open`, "This text is not closed: end it with a double quote.", `"open`},
		{`1 < 2 < 3`, `Comparisons cannot be chained; join two of them with "and".`, "<"},
		{`owner & "x"`, `"&" needs a text here; this is a record of Owners. Name one of its fields, or use LABEL.`, "owner"},
		{`1 2`, `The expression is complete before "2"; is an operator missing?`, "2"},
		{`sold < true`, `"<" needs numbers, dates or texts; this is yes or no. Use = or <>.`, "sold < true"},
	} {
		_, err := Check(x.src, scope())
		var e *Error
		if assert.ErrorAs(t, err, &e, x.src) {
			assert.Equal(t, x.message, e.Error(), x.src)
			assert.Equal(t, x.at, x.src[e.At.Start:e.At.End], x.src)
		}
	}
}

func TestNobodyIsMeForVisitors(t *testing.T) {
	_, err := Check("owner = me", Scope{Catalog: yard(), Row: "boat"})
	require.ErrorContains(t, err, "Nobody is signed in here")
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
	for _, s := range []string{`owner.name & "x"`, `IF(length > 1, [Unit price], 2)`, `{{ name }}`, `not (1 = 2) and due < TODAY()`, `SUM(FILTER(boats, length > this.length).length) / COUNT(boats)`, `FIRST(SORT(boats, length, "falling")).name`, `MATCHES(name, "^[A-Z]+$") or TEXT(due, "d mmm yyyy") = "x"`, `JOIN(UNIQUE(boats.owner.name), "; ")`, `"""`, `[`, `1..2`} {
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
