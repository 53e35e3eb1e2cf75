package expr

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestFunctions holds functions to what OpenFormula (OASIS ODF 1.3, part 4)
// says of those that it has, and to this language's own rules about empties.
func TestFunctions(t *testing.T) {
	env := values{"name": TextOf("Tern"), "length": num("12.50"), "due": DateOf("2024-02-29"),
		"boats":    ListValue([]Value{RecordOf("a"), RecordOf("b"), RecordOf("c")}),
		"boat":     ListValue([]Value{RecordOf("a"), RecordOf("b"), RecordOf("c"), RecordOf("d")}),
		"a.length": num("7"), "b.length": num("3"), "a.name": TextOf("Gull"), "b.name": TextOf("Auk"), "c.name": TextOf("Gull"),
		"a.label": TextOf("Gull (7 m)"),
		"a.owner": RecordOf("o"), "o.name": TextOf("Ines"), "status": ChoiceOf("s1"), "a.sold": YesNoOf(true), "d.length": num("100")}
	for _, x := range []struct{ src, want string }{
		// 6.16.2 to 6.17.6: numbers
		{`ABS(-4)`, "4"}, {`INT(-3.1)`, "-4"}, {`INT(2.9)`, "2"}, {`SIGN(-4)`, "-1"},
		{`ROUND(2.345, 2)`, "2.35"}, {`ROUND(-2.345, 2)`, "-2.35"}, {`ROUND(1234, -2)`, "1200"}, {`ROUND(10.5)`, "11"},
		{`ROUNDUP(-45.67)`, "-46"}, {`ROUNDUP(45.61, 1)`, "45.7"}, {`ROUNDDOWN(-45.67)`, "-45"}, {`ROUNDDOWN(1.2999, 3)`, "1.299"},
		{`CEILING(2.1)`, "3"}, {`CEILING(-2.1)`, "-2"}, {`CEILING(7, 5)`, "10"}, {`FLOOR(7, 5)`, "5"}, {`FLOOR(-7, 5)`, "-10"},
		{`CEILING(3, 0)`, "0"},
		{`MOD(10, 3)`, "1"}, {`MOD(-10, 3)`, "2"}, {`MOD(10, -3)`, "-2"}, {`MOD(2, 0)`, ""}, {`MOD(10.5, 3)`, "1.5"},
		{`POWER(10, 3)`, "1000"}, {`POWER(10, -3)`, "0.001"}, {`POWER(2, 0.5)`, "1.414213562373"}, {`POWER(-8, 1/3)`, ""},
		{`POWER(0, 0)`, "1"}, {`POWER(10, 41)`, ""},
		{`SQRT(4)`, "2"}, {`SQRT(-4)`, ""}, {`EXP(1)`, "2.718281828459"}, {`LN(EXP(0))`, "0"}, {`LN(0)`, ""}, {`LOG10(1000)`, "3"},
		{`SUM(1, 2, 3)`, "6"}, {`SUM(1, empty)`, "1"}, {`MIN(2, 4, 1, -8)`, "-8"}, {`MAX(2, 4, empty)`, "4"}, {`AVERAGE(2, 4)`, "3"},
		{`AVERAGE(empty, 4)`, "4"},
		{`MEDIAN(10, 20, 40)`, "20"}, {`MEDIAN(1, 2, 3, 4)`, "2.5"}, {`PRODUCT(2, 3, 4)`, "24"}, {`COUNT(1, empty, 2)`, "2"},
		{`CLAMP(12, 1, 10)`, "10"}, {`CLAMP(0, 1, empty)`, "1"}, {`PERCENT(1, 4)`, "25"}, {`PERCENT(1, 0)`, ""},
		// 6.12: money over time
		{`ROUND(PMT(0.05, 12, 1000), 2)`, "-112.83"}, {`ROUND(PMT(0.05, 12, 1000, 100, 1), 2)`, "-113.44"}, {`PMT(0, 10, 1000)`, "-100"},
		{`ROUND(PV(0.1, 12, 100), 2)`, "-681.37"}, {`ROUND(FV(0.1, 12, 100), 2)`, "-2138.43"},
		{`ROUND(NPER(0.05, -100, 1000), 2)`, "14.21"},
		{`NPV(1, boats.length)`, "4.25"}, // 7/2 + 3/4
		// 6.15: logic
		{`IF(true, 7, 8)`, "7"}, {`IF(false, 7)`, ""}, {`AND(true, 1 = 2)`, "false"}, {`OR(false, 1 = 1)`, "true"}, {`NOT(false)`, "true"},
		{`IFS(length > 20, "big", length > 10, "middling", "small")`, "middling"}, {`IFS(length > 20, "big")`, ""},
		{`SWITCH(name, "Auk", 1, "Tern", 2, 3)`, "2"}, {`SWITCH(status, "Afloat", "wet", "dry")`, "dry"},
		{`COALESCE(unit_price, length, 1)`, "12.5"}, {`ISBLANK(unit_price)`, "true"}, {`ISBLANK(boats)`, "false"},
		// 6.20: texts
		{`LEN("Hi There")`, "8"}, {`LEN(other)`, "0"}, {`LEFT("Hello", 2)`, "He"}, {`LEFT("Hello")`, "H"}, {`LEFT("Hello", 0)`, ""},
		{`RIGHT("Hello", 2)`, "lo"}, {`MID("123456789", 5, 3)`, "567"}, {`MID("123", 5, 3)`, ""}, {`MID("123", 0, 3)`, ""},
		{`FIND("b", "abcabc")`, "2"}, {`FIND("b", "abcabc", 3)`, "5"}, {`FIND("B", "abc")`, ""}, {`SEARCH("B", "abcabcabc")`, "2"},
		{`FIND("", "abc", 4)`, "4"}, {`FIND("a", "abc", 9)`, ""},
		{`SUBSTITUTE("121212", "2", "ab")`, "1ab1ab1ab"}, {`SUBSTITUTE("121212", "2", "ab", 2)`, "121ab12"},
		{`SUBSTITUTE("Hello", "x", "ab")`, "Hello"},
		{`REPLACE("123456789", 5, 3, "Q")`, "1234Q89"}, {`REPLACE("123456789", 5, 0, "Q")`, "1234Q56789"}, {`UPPER("straße")`, "STRASSE"},
		{`LOWER("HALLO")`, "hallo"}, {`PROPER("hello there o'neil")`, "Hello There O'neil"},
		{`TRIM("  HI   there ")`, "HI there"}, {`REPT("ab", 3)`, "ababab"}, {`REPT("X", 0)`, ""}, {`EXACT("A", "a")`, "false"},
		{`CONCAT("Hi ", "there", 1)`, "Hi there1"}, {`VALUE("6.5")`, "6.5"}, {`VALUE("six")`, ""}, {`DIGITS("+351 21-5")`, "351215"},
		{`CONTAINS("Alder Cove", "COVE")`, "true"}, {`STARTSWITH("Alder", "al")`, "true"}, {`ENDSWITH("Alder", "R")`, "true"},
		{`MATCHES("PT-123", "^[A-Z]{2}-\d+$")`, "true"}, {`MATCHES("xPT", "(?i)pt$")`, "true"}, {`MATCHES(other, "^$")`, "true"},
		{`TEXT(12345.678, "#,##0.00")`, "12,345.68"}, {`TEXT(0.2, "0%")`, "20%"}, {`TEXT(-3, "0.0;(0.0)")`, "(3.0)"},
		{`TEXT(-0.001, "0.00")`, "0.00"}, {`TEXT(5, "€ 000.0#")`, "€ 005.0"}, {`TEXT(7, "0 ""boats""")`, ""}, {`TEXT(0.5, "#.##")`, ".5"},
		// 6.10: dates
		{`DATE(2005, 1, 31)`, "2005-01-31"}, {`DATE(2004, 2, 30)`, "2004-03-01"}, {`DATE(2006, 25, 1)`, "2008-01-01"},
		{`DATE(2000, 1, 0)`, "1999-12-31"}, {`DATE(0, 1, 1)`, ""},
		{`YEAR(due)`, "2024"}, {`MONTH(due)`, "2"}, {`DAY(due)`, "29"}, {`WEEKDAY(DATE(2006, 5, 21))`, "1"},
		{`WEEKDAY(DATE(2006, 5, 21), 2)`, "7"}, {`WEEKDAY(DATE(2006, 5, 21), 3)`, "6"}, {`WEEKNUM(DATE(2005, 1, 1))`, "53"},
		{`EDATE(DATE(2006, 1, 31), 1)`, "2006-02-28"}, {`EDATE(due, 12)`, "2025-02-28"}, {`EOMONTH(DATE(2006, 1, 1), 1)`, "2006-02-28"},
		{`DAYS(DATE(1993, 4, 16), DATE(1993, 9, 25))`, "-162"},
		{`DATEDIF(DATE(1990, 2, 15), DATE(1993, 9, 15), "y")`, "3"}, {`DATEDIF(DATE(1990, 2, 15), DATE(1993, 9, 15), "m")`, "43"},
		{`DATEDIF(DATE(1990, 2, 15), DATE(1993, 9, 15), "d")`, "1308"}, {`DATEDIF(DATE(1990, 2, 15), DATE(1993, 9, 15), "ym")`, "7"},
		{`DATEDIF(DATE(1990, 2, 15), DATE(1993, 9, 20), "md")`, "5"},
		{`ADDDAYS(due, 1)`, "2024-03-01"}, {`ADDDAYS(DATE(9999, 12, 31), 1)`, ""}, {`WORKDAYS(DATE(2026, 3, 2), DATE(2026, 3, 8))`, "5"},
		{`WORKDAYS(DATE(2026, 3, 8), DATE(2026, 3, 2))`, "-5"}, {`STARTOF(due, "week")`, "2024-02-26"},
		{`STARTOF(due, "quarter")`, "2024-01-01"},
		{`HOUR(NOW())`, "10"}, {`NOW() & ""`, "2026-03-01 10:30"},
		{`TEXT(NOW(), "h:mm am/pm, dddd d mmmm yy")`, "10:30 AM, Sunday 1 March 26"}, {`TEXT(due, "dd.mm.yyyy")`, "29.02.2024"},
		{`ADDHOURS(NOW(), 1.5)`, "2026-03-01T12:00:00Z"}, {`HOUR(TIME(due, 14, 5))`, "14"}, {`due = "2024-02-29"`, "true"},
		{`NOW() > due`, "true"},
		// lists
		{`COUNT(boats)`, "3"}, {`COUNT(boats.length)`, "2"}, {`SUM(boats.length)`, "10"}, {`SUM(FILTER(boats, length > 100).length)`, "0"},
		{`AVERAGE(FILTER(boats, false).length)`, ""}, {`JOIN(boats.name, "+")`, "Gull+Auk+Gull"}, {`JOIN(boats)`, "Gull (7 m)"},
		{`FIRST(boats).name`, "Gull"}, {`FIRST(boats.name)`, "Gull"}, {`LAST(boats.length)`, "3"},
		{`JOIN(UNIQUE(boats.name))`, "Gull, Auk"}, {`JOIN(SORT(boats, name).name)`, "Auk, Gull, Gull"},
		{`FIRST(SORT(boats.length, "falling"))`, "7"}, {`LAST(SORT(boats, length, "falling")).name`, "Gull"},
		{`ANY(boats, length > 5)`, "true"}, {`ALL(boats, length > 5)`, "false"}, {`ALL(FILTER(boats, false), false)`, "true"},
		{`INCLUDES(boats.name, "Auk")`, "true"}, {`INCLUDES(boats, owner)`, ""},
		{`COUNT(FILTER(boats, length < this.length))`, "2"}, {`COUNT(RECORDS(boats))`, "4"},
		{`MAX(RECORDS(boats, length < 50).length)`, "7"}, {`JOIN(boats.owner.name)`, "Ines"}, {`status.rate * 3`, "6"},
		{`LABEL(FIRST(boats))`, "Gull (7 m)"}, {`MAX(boats.name)`, "Gull"}, {`FIRST(boats.sold)`, "true"},
		{`FIRST(FILTER(boats, false).sold)`, "false"},
	} {
		c, err := Check(x.src, scope())
		if x.src == `INCLUDES(boats, owner)` {
			require.ErrorContains(t, err, "needs a record in Boats here")
			continue
		}
		if strings.Contains(x.src, `""boats""`) { // a quote inside of a text is doubled, so that words in a format are
			require.NoError(t, err)
			assert.Equal(t, "7 boats", Eval(c, yard(), env).String())
			continue
		}
		if assert.NoError(t, err, x.src) {
			assert.Equal(t, x.want, Eval(c, yard(), env).String(), x.src)
		}
	}
}

func TestComputedFieldsMayNotGoInCircles(t *testing.T) {
	c := yard()
	boat := c.Tables["boat"]
	add := func(id, source string) *Field {
		f := &Field{ID: id, Key: id, Name: strings.ToUpper(id), Table: "boat", Source: source}
		boat.Fields = append(boat.Fields, f)
		return f
	}
	a, b, self, fine := add("x", "y + 1"), add("y", "SUM(boats.x)"), add("z", "z"), add("w", "length * 2")
	list := add("l", "boats.name")
	c.Resolve(map[string]string{"boat": "name"})
	assert.NoError(t, fine.Err())
	assert.Equal(t, Type{Kind: Number}, fine.Type)
	for _, f := range []*Field{a, b} {
		require.Error(t, f.Err())
		assert.Contains(t, f.Err().Error()+a.Err().Error()+b.Err().Error(), "goes in a circle: ")
	}
	assert.ErrorContains(t, self.Err(), "This goes in a circle: Z → Z.")
	assert.ErrorContains(t, list.Err(), "This is a list, and a field shows one value.")
	assert.NotNil(t, boat.Label)
	assert.True(t, fine.Computed.Own())
}
