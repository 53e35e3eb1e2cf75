package agree

import (
	"fmt"
	"strings"

	"pgregory.net/rapid"
)

// generator writes random expressions of a type. Rows is how many lists the
// expression stands inside of: bare names are those of a piece then.
type generator struct{ t *rapid.T }

func (g generator) pick(list ...string) string { return rapid.SampledFrom(list).Draw(g.t, "form") }

// write gives an expression of the kind t, n, y, d, s or c.
func (g generator) write(kind string, depth, rows int) string {
	leaf := g.pick("f"+kind+"a", "f"+kind+"b", g.leaf(kind, rows))
	if depth <= 0 {
		return leaf
	}
	sub := func(kinds string) []any {
		var out []any
		for _, k := range kinds {
			out = append(out, g.write(string(k), depth-1, rows))
		}
		return out
	}
	forms := map[string][]string{
		// the letters behind | are the kinds of the places; capitals stand for themselves
		"n": {"(%s + %s)|nn", "(%s - %s)|nn", "(%s * %s)|nn", "(%s / %s)|nn", "(-%s)|n", "ABS(%s)|n", "INT(%s)|n", "SIGN(%s)|n",
			"ROUND(%s, %s)|nn", "ROUNDUP(%s, 2)|n", "ROUNDDOWN(%s, -1)|n", "CEILING(%s, %s)|nn", "FLOOR(%s, %s)|nn",
			"MOD(%s, %s)|nn", "POWER(%s, 3)|n", "POWER(%s, %s)|nn", "SQRT(%s)|n", "EXP(%s)|n", "LN(%s)|n", "LOG10(%s)|n",
			"CLAMP(%s, %s, %s)|nnn", "PERCENT(%s, %s)|nn", "SUM(%s, %s)|nn", "AVERAGE(%s, %s, %s)|nnn", "MEDIAN(%s, %s, %s, 2)|nnn",
			"PRODUCT(%s, %s)|nn", "MIN(%s, %s)|nn", "MAX(%s, %s)|nn", "COUNT(%s, %s)|td",
			"LEN(%s)|t", "FIND(%s, %s)|tt", "SEARCH(%s, %s, %s)|ttn", "VALUE(%s)|t", "YEAR(%s)|d", "MONTH(%s)|s", "DAY(%s)|d", "HOUR(%s)|s",
			"MINUTE(%s)|s", "WEEKDAY(%s, 2)|d", "WEEKDAY(%s, %s)|dn", "WEEKNUM(%s)|d", "DAYS(%s, %s)|dd", "WORKDAYS(%s, %s)|dd",
			`DATEDIF(%s, %s, "y")|dd`, `DATEDIF(%s, %s, "m")|dd`, `DATEDIF(%s, %s, "md")|dd`, `DATEDIF(%s, %s, "yd")|dd`,
			`DATEDIF(%s, %s, "d")|dd`, "PMT(%s, 12, %s)|nn", "PV(%s, 5, %s, %s)|nnn", "FV(%s, %s, 10)|nn", "NPER(%s, %s, %s)|nnn",
			"COALESCE(%s, %s)|nn", "IF(%s, %s, %s)|ynn", "IFS(%s, %s, %s, %s)|ynyn", "SWITCH(%s, %s, %s, %s)|ttnn", "%s.rate|C"},
		"t": {"(%s & %s)|tt", "(%s & %s)|nd", "(%s & %s)|sc", "LEFT(%s, %s)|tn", "RIGHT(%s, 2)|t", "MID(%s, %s, 3)|tn",
			"SUBSTITUTE(%s, %s, %s)|ttt", `SUBSTITUTE(%s, "x", %s, 2)|tt`, "REPLACE(%s, 2, %s, %s)|tnt", "UPPER(%s)|t", "LOWER(%s)|t",
			"PROPER(%s)|t", "TRIM(%s)|t", "REPT(%s, %s)|tn", "DIGITS(%s)|t", "CONCAT(%s, %s, %s)|tnd",
			`TEXT(%s, "#,##0.00")|n`, `TEXT(%s, "0.0##;(0)")|n`, `TEXT(%s, "€ 00%%")|n`, `TEXT(%s, "d mmm yyyy")|d`,
			`TEXT(%s, "dddd, dd.mm.yy h:mm am/pm")|S`, `TEXT(%s, "hh:mm:ss m/d")|s`, "COALESCE(%s, %s)|tt", "IF(%s, %s, empty)|yt",
			"MIN(%s, %s)|tt"},
		"y": {"(not (%s))|y", "(%s and %s)|yy", "(%s or %s)|yy", "OR(%s, %s)|yy", "AND(%s, %s)|yy", "(%s < %s)|nn", "(%s >= %s)|tt",
			"(%s <= %s)|dd", "(%s > %s)|sd", "(%s = %s)|nn", "(%s <> %s)|tt", "(%s = %s)|cc", `(%s = "One")|c`, "(%s = empty)|d",
			"(empty <> %s)|s", "(%s = %s)|yy",
			"ISBLANK(%s)|t", "ISBLANK(%s)|n", "CONTAINS(%s, %s)|tt", "STARTSWITH(%s, %s)|tt", "ENDSWITH(%s, %s)|tt", "EXACT(%s, %s)|tt",
			`MATCHES(%s, "^[^a-c\d]+x{2,}|(?i)ä$|\s")|t`, `MATCHES(%s, "(?s)^.?.?$")|t`, "IF(%s, %s, %s)|yyy"},
		"d": {"TODAY()|", "DATE(%s, %s, %s)|nnn", "DATE(2024, %s, 31)|n", "EDATE(%s, %s)|dn", "EOMONTH(%s, %s)|dn", "ADDDAYS(%s, %s)|dn",
			`STARTOF(%s, "week")|d`, `STARTOF(%s, "quarter")|s`, "IF(%s, %s, %s)|ydd", "COALESCE(%s, %s)|dd", "MAX(%s, %s)|dd"},
		"s": {"NOW()|", "TIME(%s, %s, 30)|dn", "TIME(DATE(2025, 3, 30), 1, %s)|n", "TIME(DATE(2023, 10, 29), 1, %s)|n",
			"ADDHOURS(%s, %s)|sn", "ADDDAYS(%s, %s)|sn", "IF(%s, %s, empty)|ys"},
		"c": {"IF(%s, %s, %s)|ycc", "COALESCE(%s, %s)|cc", `SWITCH(%s, "One", %s)|cc`},
	}[kind]
	form := g.pick(forms...)
	if rows < 2 && rapid.IntRange(0, 3).Draw(g.t, "list") == 0 {
		return g.total(kind, depth, rows)
	}
	bar := strings.LastIndex(form, "|")
	pattern, places := form[:bar], form[bar+1:]
	switch places {
	case "C": // a column stands behind a name only
		return fmt.Sprintf(pattern, g.pick("fca", "fcb"))
	case "S":
		places = "s"
	}
	return fmt.Sprintf(pattern, sub(places)...)
}

func (g generator) leaf(kind string, rows int) string {
	out := map[string][]string{"t": {`"q""x"`, `"ä"`}, "n": {"2.50", "12", "-1"}, "y": {"true"}, "d": {"TODAY()"}, "s": {"NOW()"},
		"c": {"fca"}}[kind]
	if rows == 0 {
		out = append(out, "best.f"+kind+"a", "best.parent.f"+kind+"b")
	} else {
		out = append(out, "this.f"+kind+"a", "this.best.f"+kind+"b", "parent.f"+kind+"b")
	}
	return g.pick(out...)
}

// records writes a list of records: of pieces.
func (g generator) records(depth, rows int) string {
	own := "lines"
	if rows > 0 {
		own = "parent.lines"
	}
	list := g.pick(own, "this.lines", "this.friends.lines", "this.fans.best", "RECORDS(pieces)")
	if depth <= 0 {
		return list
	}
	switch g.pick("plain", "filter", "filter", "sort", "unique", "those") {
	case "filter":
		return fmt.Sprintf("FILTER(%s, %s)", g.records(depth-1, rows), g.write("y", depth-1, rows+1))
	case "sort":
		return fmt.Sprintf("SORT(%s, %s%s)", g.records(depth-1, rows), g.write(g.pick("t", "n", "d", "s"), depth-1, rows+1),
			g.pick("", `, "falling"`))
	case "unique":
		return fmt.Sprintf("UNIQUE(%s)", g.records(depth-1, rows))
	case "those":
		return fmt.Sprintf("RECORDS(pieces, %s)", g.write("y", depth-1, rows+1))
	}
	return list
}

// total writes a value of the kind made of a list.
func (g generator) total(kind string, depth, rows int) string {
	list := g.records(depth-1, rows)
	field := list + ".f" + kind + g.pick("a", "b")
	if strings.HasPrefix(g.pick("plain", "unique", "sort"), "u") {
		field = "UNIQUE(" + field + ")"
	}
	switch kind {
	case "n":
		return g.pick("COUNT("+list+")", "COUNT("+field+")", "SUM("+field+")", "AVERAGE("+field+")", "MIN("+field+")", "MAX("+field+")",
			"MEDIAN("+field+")", "PRODUCT("+field+")", "NPV(0.1, "+field+")", "IRR("+field+")", "FIRST("+field+")", "LAST("+field+")",
			"COUNT(this.tags)", "FIRST("+list+").fna", "FIRST("+list+").parent.fnb")
	case "t":
		return g.pick("JOIN("+field+`, "; ")`, "FIRST("+field+")", "MAX("+field+")", "JOIN(this.tags)", "JOIN("+list+".fnb)",
			"JOIN("+list+".fca)", "FIRST("+list+").fta", "JOIN("+list+")")
	case "y":
		return g.pick(fmt.Sprintf("ANY(%s, %s)", list, g.write("y", depth-1, rows+1)),
			fmt.Sprintf("ALL(%s, %s)", list, g.write("y", depth-1, rows+1)), "ISBLANK("+list+")", "FIRST("+field+")",
			`INCLUDES(this.tags, "One")`,
			fmt.Sprintf("INCLUDES(%s.fna, %s)", list, g.write("n", depth-1, rows)))
	case "c":
		return g.pick("FIRST("+field+")", "FIRST(this.tags)", "LAST(this.friends.tags)", "FIRST(UNIQUE(this.friends.tags))")
	}
	return g.pick("MIN("+field+")", "MAX("+field+")", "FIRST("+field+")", "LAST("+field+")")
}
