package imports_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/intake"
)

// dialect is how somebody's files are written.
type dialect struct {
	kind             string // of the files: text, a workbook of sheets, or JSON
	lines, together  bool   // of JSON: an object on each line; all lists in one object
	format           string // of the numbers in a workbook
	dates            string // of its days
	separator, point string
	day              string // layout of days
	encoding         encoding.Encoding
	quoted           bool
	titled, summed   bool // there is a title above, and a sum below
}

var encodings = []encoding.Encoding{unicode.UTF8, unicode.UTF8BOM, charmap.Windows1252,
	unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)}

func drawDialect(rt *rapid.T) dialect {
	d := dialect{separator: rapid.SampledFrom([]string{",", ";", "\t", "|"}).Draw(rt, "separator"),
		point:    rapid.SampledFrom([]string{".", ","}).Draw(rt, "point"),
		day:      rapid.SampledFrom([]string{"2006-01-02", "02/01/2006", "01/02/2006", "2.1.2006", "2 January 2006"}).Draw(rt, "days"),
		encoding: rapid.SampledFrom(encodings).Draw(rt, "encoding"), quoted: rapid.Bool().Draw(rt, "quoted"),
		titled: rapid.Bool().Draw(rt, "titled"), summed: rapid.Bool().Draw(rt, "summed"),
		kind: rapid.SampledFrom([]string{"text", "text", "book", "json"}).Draw(rt, "kind")}
	switch d.kind {
	case "book":
		d.format = rapid.SampledFrom([]string{"General", "0", "0.0", "#,##0.00", `0.00" m"`}).Draw(rt, "format")
		d.dates = rapid.SampledFrom([]string{"yyyy-mm-dd", "dd/mm/yyyy", "m/d/yy", "d. mmmm yyyy"}).Draw(rt, "dates")
	case "json":
		d.lines, d.together = rapid.Bool().Draw(rt, "lines"), rapid.Bool().Draw(rt, "together")
	}
	if d.kind != "text" { // what is no text has no order and no separator
		d.day, d.point = time.DateOnly, "."
	}
	return d
}

// named is a table under a name.
type named struct {
	name string
	rows [][]string
}

// files gives tables as files, with their names.
func (d dialect) files(tables []named) (out []string) {
	switch {
	case d.kind == "book":
		return []string{"yard.xlsx", d.book(tables)}
	case d.kind == "json" && d.together && !d.lines:
		all := map[string]any{}
		for _, t := range tables {
			all[t.name] = objects(t.rows)
		}
		return []string{"yard.json", asJSON(all)}
	}
	for _, t := range tables {
		switch {
		case d.kind == "json" && d.lines:
			var text strings.Builder
			for _, o := range objects(t.rows) {
				text.WriteString(asJSON(o) + "\n")
			}
			out = append(out, t.name+".ndjson", text.String())
		case d.kind == "json":
			out = append(out, t.name+".json", asJSON(objects(t.rows)))
		default:
			out = append(out, t.name+".csv", d.file(t.rows))
		}
	}
	return out
}

func asJSON(v any) string {
	raw, err := json.Marshal(v)
	if err != nil {
		panic(err) // they are texts and numbers
	}
	return string(raw)
}

// objects gives rows as objects, with numbers as numbers, and without what is empty.
func objects(rows [][]string) []map[string]any {
	var out []map[string]any
	for _, r := range rows[1:] {
		o := map[string]any{}
		for i, c := range r {
			if n := json.Number(c); c != "" && rows[0][i] == "Metres" {
				o[rows[0][i]] = n
			} else if c != "" {
				o[rows[0][i]] = c
			}
		}
		out = append(out, o)
	}
	return out
}

// book gives tables as sheets of a workbook, with numbers and days as such.
func (d dialect) book(tables []named) string {
	x := excelize.NewFile()
	check := func(err error) {
		if err != nil {
			panic(err) // nothing of it is large, or strange
		}
	}
	number, err := x.NewStyle(&excelize.Style{CustomNumFmt: &d.format})
	check(err)
	date, err := x.NewStyle(&excelize.Style{CustomNumFmt: &d.dates})
	check(err)
	for _, t := range tables {
		_, err := x.NewSheet(t.name)
		check(err)
		rows := t.rows
		if d.titled {
			rows = append([][]string{{"All of the yard"}, {}}, rows...)
		}
		for n, r := range rows {
			for i, c := range r {
				at, err := excelize.CoordinatesToCellName(i+1, n+1)
				check(err)
				day, isDay := time.Parse(time.DateOnly, c)
				f, isNumber := strconv.ParseFloat(c, 64)
				switch {
				case c == "":
				case isDay == nil:
					check(errors.Join(x.SetCellValue(t.name, at, day), x.SetCellStyle(t.name, at, at, date)))
				case isNumber == nil:
					check(errors.Join(x.SetCellValue(t.name, at, f), x.SetCellStyle(t.name, at, at, number)))
				default:
					check(x.SetCellStr(t.name, at, c))
				}
			}
		}
	}
	check(x.DeleteSheet("Sheet1"))
	raw, err := x.WriteToBuffer()
	check(err)
	return raw.String()
}

func (d dialect) file(rows [][]string) string {
	var out strings.Builder
	width := len(rows[0])
	wide := func(cells ...string) []string { return append(cells, make([]string, width-len(cells))...) }
	if d.titled {
		rows = append([][]string{wide("All of the yard"), wide()}, rows...)
	}
	if d.summed {
		rows = append(rows, wide("Total", "12"))
	}
	for _, r := range rows {
		for i, c := range r {
			if i > 0 {
				out.WriteString(d.separator)
			}
			if d.quoted && c != "" || strings.ContainsAny(c, d.separator+"\"\n") {
				c = `"` + strings.ReplaceAll(c, `"`, `""`) + `"`
			}
			out.WriteString(c)
		}
		out.WriteString("\n")
	}
	text, err := d.encoding.NewEncoder().String(out.String())
	if err != nil {
		panic(err) // the letters are in all of them
	}
	return text
}

// yard are boats and owners, who point to each other, as they are and as they are written.
type yard struct {
	owners, boats [][]string
	want          []string // the boats as they are to come
}

func drawYard(rt *rapid.T, d dialect) yard {
	n := rapid.IntRange(3, 12).Draw(rt, "owners")
	y := yard{owners: [][]string{{"Name", "Born", "Best boat"}}, boats: [][]string{{"Boat", "Metres", "Owner", "Kind", "Sister"}}}
	boats := rapid.IntRange(4, 15).Draw(rt, "boats")
	name := func(i int) string { return fmt.Sprintf("Önd %c%d", 'A'+rune(i%7), i) }
	boat := func(i int) string { return fmt.Sprintf("Tärn %c-%d", 'K'+rune(i%9), i) }
	for i := range n {
		best := ""
		if rapid.Bool().Draw(rt, "has one") {
			best = boat(rapid.IntRange(0, boats-1).Draw(rt, "best"))
		}
		day := rapid.IntRange(0, 9000).Draw(rt, "born")
		y.owners = append(y.owners, []string{name(i), dayOf(day).Format(d.day), best})
	}
	twice := rapid.Bool().Draw(rt, "two of one name")
	if twice {
		y.owners = append(y.owners, []string{name(0), dayOf(1).Format(d.day), ""})
	}
	for i := range boats {
		cents := rapid.IntRange(100, 99_999).Draw(rt, "length")
		owner := rapid.SampledFrom([]string{name(rapid.IntRange(0, n-1).Draw(rt, "owner")), name(n - 1), "", "Nobody"}).Draw(rt, "owner")
		sister := rapid.SampledFrom([]string{"", boat(rapid.IntRange(0, boats-1).Draw(rt, "sister"))}).Draw(rt, "sister")
		if i == 0 {
			owner = name(n - 1)
		}
		metres := fmt.Sprintf("%d.%02d", cents/100, cents%100)
		y.boats = append(y.boats, []string{boat(i), strings.Replace(metres, ".", d.point, 1), owner, "k", sister})
		if twice && owner == name(0) {
			continue // which of the two is meant is not known, so it is kept aside
		}
		if owner == "Nobody" {
			owner = ""
		}
		y.want = append(y.want, strings.Join([]string{boat(i), metres, owner, sister}, "|"))
	}
	return y
}

// TestWhatIsCountedIsWhatComes writes random tables as files in random dialects, counts what would come of them, brings them,
// and holds the counts and the records against what was written: the same records, the same links, or rows that are kept aside.
func TestWhatIsCountedIsWhatComes(t *testing.T) {
	h := newHarbour(t)
	rapid.Check(t, func(rt *rapid.T) {
		h.begins()
		d := drawDialect(rt)
		y := drawYard(rt, d)
		tables := []named{{"owners", y.owners}, {"boats", y.boats}}
		if rapid.Bool().Draw(rt, "boats first") {
			slices.Reverse(tables)
		}
		files := d.files(tables)
		uploads, p := h.proposed(func(p *intake.Proposal) { answer(p, d); point(p) }, files...)
		tally, err := h.in.Tally(t.Context(), h.app, uploads, p)
		require.NoError(rt, err)
		p.Tally = tally
		status := h.run(uploads, p)
		require.Equal(rt, "done", status.Status, status.Message)
		assert.NotContains(rt, status.Message, "differently")
		records, aside := 0, 0
		for _, s := range tally.Sheets {
			records, aside = records+s.Records, aside+s.Aside
		}
		assert.Equal(rt, []int{status.Imported, status.Aside}, []int{records, aside})
		at := slices.IndexFunc(p.Sheets, func(s intake.SheetPlan) bool { return strings.EqualFold(s.Sheet, "boats") })
		var got []string
		owners, sisters := 0, 0
		for _, r := range h.rows(p.Sheets[at].Name) {
			owner, sister := shown(r["Owner"]), shown(r["Sister"])
			got = append(got, strings.Join([]string{shown(r["Boat"]), twoDecimals(r["Metres"]), owner, sister}, "|"))
			inc(&owners, owner)
			inc(&sisters, sister)
		}
		assert.ElementsMatch(rt, withoutSisters(y.want, got), got)
		for _, l := range tally.Sheets[at].Links {
			assert.Equal(rt, map[string]int{"Owner": owners, "Sister": sisters}[l.Column], l.Made, l.Column)
		}
	})
}

func dayOf(n int) time.Time { return time.Date(1990, 1, 1+n, 0, 0, 0, 0, time.UTC) }

// answer says what the files do not tell: how their days and numbers are written, and what columns point to.
func answer(p *intake.Proposal, d dialect) {
	for i := range p.Sheets {
		for j := range p.Sheets[i].Columns {
			c := &p.Sheets[i].Columns[j]
			if c.Link != nil {
				c.Link.Unmatched = intake.LeaveOut
			}
			switch {
			case c.Ask == nil:
			case c.Ask.About == "order" && strings.HasPrefix(d.day, "01/02"):
				c.Format.Order = "month"
			case c.Ask.About == "order":
				c.Format.Order = "day"
			case c.Ask.About == "comma":
				c.Format.Comma = d.point == ","
			}
		}
	}
}

// point makes columns point to what they are meant to, where too few values did for that to be seen.
func point(p *intake.Proposal) {
	to := map[string][2]string{"Owner": {"Owners", "Name"}, "Sister": {"Boats", "Boat"}, "Best boat": {"Boats", "Boat"}}
	for i := range p.Sheets {
		for j := range p.Sheets[i].Columns {
			c := &p.Sheets[i].Columns[j]
			if target, is := to[c.Header]; is {
				at := slices.IndexFunc(p.Sheets, func(s intake.SheetPlan) bool { return strings.EqualFold(s.Sheet, target[0]) })
				c.Type, c.Choices = blueprint.Link, nil
				c.Link = &intake.LinkPlan{Sheet: at, By: target[1], Unmatched: intake.LeaveOut}
			}
		}
	}
}

func twoDecimals(v any) string {
	n, err := decimal.NewFromString(fmt.Sprint(v))
	if err != nil {
		return "! " + fmt.Sprint(v)
	}
	return n.StringFixed(2)
}

func inc(n *int, text string) {
	if text != "" {
		*n++
	}
}

func shown(v any) string {
	if v == nil {
		return ""
	}
	return fmt.Sprint(v)
}

// withoutSisters takes out links to boats that are kept aside.
func withoutSisters(want, got []string) []string {
	there := map[string]bool{}
	for _, g := range got {
		there[strings.Split(g, "|")[0]] = true
	}
	out := make([]string, len(want))
	for i, w := range want {
		parts := strings.Split(w, "|")
		if !there[parts[3]] {
			parts[3] = ""
		}
		out[i] = strings.Join(parts, "|")
	}
	return out
}
