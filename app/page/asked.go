package page

import (
	"net/url"
	"regexp"
	"slices"
	"strings"
	"time"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
)

// Asks is what somebody asked of the blocks of a page, as it stands in its address:
// for each block, behind its id and a dot,
//
//	as      a way in which it is shown
//	find    words to be found
//	by      id of the column that sorts, with a minus before it for falling
//	day     a day that a calendar shows
//	span    how much of it: month, week, day or agenda
//	is.F    values of the field F, joined by commas; two of them with .. between are
//	        bounds, and - is no value
//
// What cannot be read is left out, and told of.
type Asks url.Values

func (a Asks) get(name string) string { return url.Values(a).Get(name) }

// asked is what somebody asked of one list.
type asked struct {
	way     blueprint.ListWay
	search  string
	sort    *query.Sort
	day     time.Time
	span    string
	narrows []query.Narrow
	notes   []string
}

// mostSearch is how many bytes of words are searched for at most.
const mostSearch = 200

// asked reads what somebody asked of a list whose columns they see.
func (v *View) asked(x *blueprint.RecordsBlock, columns []string) (asked, error) {
	of := func(name string) string { return v.Asks.get(v.known(x) + "." + name) }
	out := asked{way: x.Offered()[0], search: strings.TrimSpace(of("find")), span: Month, day: v.today()}
	if v.Unread {
		out.note("asked-address")
	}
	if way := blueprint.ListWay(of("as")); way != "" {
		if slices.Contains(x.Offered(), way) {
			out.way = way
		} else {
			out.note("asked-way")
		}
	}
	if len(out.search) > mostSearch {
		out.search = ""
		out.note("asked-search")
	}
	if by := of("by"); by != "" {
		id := strings.TrimPrefix(by, "-")
		if slices.Contains(columns, id) && !v.Seat.Catalog.TypeOf(x.Table, id).Many {
			out.sort = &query.Sort{Field: id, Falling: id != by}
		} else {
			out.note("asked-sort")
		}
	}
	if span := of("span"); slices.Contains(spans(), span) {
		out.span = span
	}
	if day := of("day"); day != "" {
		if d, ok := readDay(day); ok {
			out.day = d
		} else {
			out.note("asked-day")
		}
	}
	return out, v.narrows(x, &out)
}

func (a *asked) note(code string) { a.notes = append(a.notes, words.Say(code, nil)) }

// narrows reads by what somebody narrows a list.
func (v *View) narrows(x *blueprint.RecordsBlock, out *asked) error {
	offered, err := v.filters(x)
	if err != nil {
		return err
	}
	var wrong bool
	if out.narrows, wrong = v.narrowed(v.known(x), x.Table, offered); wrong {
		out.note("asked-filter")
	}
	return nil
}

// filters lists the fields by which whoever looks can narrow a list.
func (v *View) filters(x *blueprint.RecordsBlock) ([]string, error) {
	return v.seen(x.Table, x.Filters)
}

// seen leaves the fields of a table that whoever looks sees.
func (v *View) seen(table string, fields []string) ([]string, error) {
	var out []string
	for _, id := range fields {
		sees, err := v.Seat.Sees(table, id)
		if err != nil {
			return nil, err
		}
		if sees && id != "" && !slices.Contains(out, id) {
			out = append(out, id)
		}
	}
	return out, nil
}

var numberPattern = regexp.MustCompile(`^-?\d{1,18}(\.\d{1,9})?$`)

// mostValues is how many values of a field a list is narrowed to at most.
const mostValues = 100

// narrow reads values of a field; false where they are none of it.
func (v *View) narrow(table, field, text string) (query.Narrow, bool) {
	t := v.Seat.Catalog.TypeOf(table, field)
	out := query.Narrow{Field: field}
	if from, to, bounds := strings.Cut(text, ".."); bounds {
		out.From, out.To = from, to
		return out, from+to != "" && bound(t, from) && bound(t, to)
	}
	values := strings.Split(text, ",")
	if len(values) > mostValues {
		return out, false
	}
	for _, value := range values {
		switch {
		case value == "-":
			out.None = true
			continue
		case t.Kind == expr.Choice && v.Seat.Blueprint.List(t.List).Choice(value) != nil:
		case t.Kind == expr.Record && blueprint.IsRecordID(value):
		case t.Kind == expr.YesNo && (value == "yes" || value == "no"):
		default:
			return out, false
		}
		out.In = append(out.In, value)
	}
	if t.Kind == expr.YesNo && slices.Contains(out.In, "no") { // nothing said is no, as people read it
		out.None = true
	}
	return out, true
}

// bound tells whether a text is a bound of values of a type, or none.
func bound(t expr.Type, text string) bool {
	if text == "" {
		return true
	}
	switch t.Kind {
	case expr.Date, expr.Time:
		_, ok := readDay(text)
		return ok
	case expr.Number:
		return numberPattern.MatchString(text)
	}
	return false
}

// readDay reads a day as in ISO 8601. Years stay so far from the ends of four digits that
// what is shown around a day can be written, too.
func readDay(text string) (time.Time, bool) {
	d, err := time.Parse(time.DateOnly, text)
	return d, err == nil && d.Year() >= 1000 && d.Year() < 9999
}

// today gives the day in the zone of the app.
func (v *View) today() time.Time {
	d, err := time.Parse(time.DateOnly, v.Seat.Clock.Today())
	if err != nil {
		return time.Time{} // it is written by ourselves
	}
	return d
}
