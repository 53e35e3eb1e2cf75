package page

import (
	"slices"
	"strings"
	"time"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/report"
	"pinegate/core/words"
	"pinegate/store/records"
)

// Bar is what people choose once for all figures, charts and lists that follow it.
type Bar struct {
	Head
	Days    Days     `json:"days"`
	Filters []Filter `json:"filters"`
	Notes   []string `json:"notes,omitempty"`
}

// bar is a filter bar that somebody asked something of.
type bar struct {
	*View
	x        *blueprint.BarBlock
	calendar report.Calendar
	span     report.Span
	days     Days
	offered  []string // ids of fields that whoever looks sees
	narrows  []query.Narrow
	notes    []string
}

func (v *View) bar(x *blueprint.BarBlock) (*bar, error) {
	out := &bar{View: v, x: x, calendar: v.calendarOf()}
	var err error
	if out.offered, err = v.seen(x.Table, x.Fields); err != nil {
		return nil, err
	}
	out.days = Days{Range: string(x.Range), Choose: true}
	for _, r := range report.Ranges() {
		out.days.Offered = append(out.days.Offered, string(r))
	}
	out.span = out.calendar.Span(x.Range)
	if days, span, ok := out.choose(v.Asks.get(v.known(x) + ".days")); ok {
		out.days.Range, out.span = days, span
	} else {
		out.notes = append(out.notes, words.Say("asked-days", nil))
	}
	out.days.From, out.days.To = report.Written(out.span.From), report.Written(out.span.To)
	var wrong bool
	if out.narrows, wrong = v.narrowed(v.known(x), x.Table, out.offered); wrong {
		out.notes = append(out.notes, words.Say("asked-filter", nil))
	}
	return out, nil
}

// calendarOf is how days are counted in the app.
func (v *View) calendarOf() report.Calendar {
	return report.Calendar{Now: v.Seat.Clock.Now, Zone: v.Seat.Clock.Zone, First: time.Weekday(v.Seat.Blueprint.FirstDay())}
}

// choose reads which days somebody chose; what nobody asked for is that with which the bar begins.
func (b *bar) choose(asked string) (string, report.Span, bool) {
	if asked == "" {
		return b.days.Range, b.span, true
	}
	return chosenDays(b.calendar, asked, true)
}

// chosenDays reads a range, or days of somebody's own, as they stand in an address; false where they are none. Hours are
// some only where there are moments.
func chosenDays(c report.Calendar, asked string, moments bool) (string, report.Span, bool) {
	from, to, own := strings.Cut(asked, "..")
	x := report.Range(strings.ReplaceAll(asked, "-", " "))
	switch {
	case own:
		first, begins := readDay(from)
		last, ends := readDay(to)
		if from+to == "" || from != "" && !begins || to != "" && !ends || from != "" && to != "" && last.Before(first) {
			return "", report.Span{}, false
		}
		if from == "" {
			first = time.Time{}
		}
		if to == "" {
			last = time.Time{}
		}
		return ownDays, report.Span{From: first, To: last}, true
	case asked == "all":
		return "", report.Span{}, true
	case x.Known() && (x != report.LastHours || moments):
		return string(x), c.Span(x), true
	}
	return "", report.Span{}, false
}

// narrowed reads by what somebody narrows something: only by what is offered and what they see, so that nothing hidden can be
// found out. It tells of what cannot be read.
func (v *View) narrowed(block, table string, offered []string) (out []query.Narrow, wrong bool) {
	prefix := block + ".is."
	var keys []string
	for key := range v.Asks {
		if strings.HasPrefix(key, prefix) {
			keys = append(keys, key)
		}
	}
	slices.Sort(keys)
	for _, key := range keys {
		id, text := strings.TrimPrefix(key, prefix), v.Asks.get(key)
		if text == "" {
			continue
		}
		n, ok := query.Narrow{}, false
		if slices.Contains(offered, id) {
			n, ok = v.narrow(table, id, text)
		}
		if !ok {
			wrong = true
			continue
		}
		out = append(out, n)
	}
	return out, wrong
}

// follow gives what a table is narrowed by where it follows a bar, and the names of the fields that it has nothing alike of.
func (b *bar) follow(table string) (out []query.Narrow, without []string, err error) {
	for _, n := range b.narrows {
		f := b.Seat.Blueprint.Alike(b.Seat.Catalog, table, b.x.Table, n.Field)
		sees := false
		if f != nil {
			if sees, err = b.Seat.Sees(table, f.ID); err != nil {
				return nil, nil, err
			}
		}
		if !sees {
			without = append(without, b.Seat.Blueprint.Table(b.x.Table).Field(n.Field).Name)
			continue
		}
		n.Field = f.ID
		out = append(out, n)
	}
	return out, without, nil
}

func barReads(v *View, x *blueprint.BarBlock) ([]records.Read, error) {
	b, err := v.bar(x)
	if err != nil {
		return nil, err
	}
	var out []records.Read
	for _, id := range b.offered {
		if t := v.Seat.Catalog.TypeOf(x.Table, id); t.Kind == expr.Record {
			out = append(out, records.Read{List: &query.Selection{Table: v.Seat.Blueprint.Table(t.Table), Limit: firstOptions}})
		}
	}
	return out, nil
}

func showBar(v *View, x *blueprint.BarBlock, got []records.Result) (*Bar, error) {
	b, err := v.bar(x)
	if err != nil {
		return nil, err
	}
	out := &Bar{Days: b.days, Filters: []Filter{}, Notes: b.notes}
	t := v.Seat.Blueprint.Table(x.Table)
	for _, id := range b.offered {
		f := Filter{Column: ColumnOf(v.Seat.Blueprint, v.Seat.Catalog, t, t.Field(id))}
		if slices.ContainsFunc(b.narrows, func(n query.Narrow) bool { return n.Field == id }) {
			f.Value = v.Asks.get(v.known(x) + ".is." + id)
		}
		if v.Seat.Catalog.TypeOf(x.Table, id).Kind == expr.Record {
			if f.Options, err = optionsOf(got[0].Rows); err != nil {
				return nil, err
			}
			f.More, got = got[0].Next != "", got[1:]
		}
		out.Filters = append(out.Filters, f)
	}
	return out, nil
}
