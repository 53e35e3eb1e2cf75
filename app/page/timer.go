package page

import (
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/report"
	"pinegate/store/records"
)

// Timer is what is worked on the record of the page, with what whoever looks works now.
type Timer struct {
	Head
	Title string `json:"title,omitempty"`
	// Kinds are the kinds of work for which it can be started; without any, it is started for all of it.
	Kinds []Choice `json:"kinds,omitempty"`
	// Open are those entries of whoever looks that are not stopped, on this record; of another one, Elsewhere says which that is.
	Open      []TimerEntry `json:"open"`
	Elsewhere string       `json:"elsewhere,omitempty"`
	// Totals are the hours that were worked, by kinds, and Whole all of them: of those that whoever looks sees, without what is
	// measured now.
	Totals []TimerTotal `json:"totals"`
	Whole  string       `json:"whole"`
	Now    string       `json:"now"`              // an RFC 3339 time
	Starts bool         `json:"starts,omitempty"` // whoever looks can start it
	Hidden bool         `json:"hidden,omitempty"` // they do not see what is worked
}

// TimerEntry is what is worked of a kind: the hours so far and, while it runs, since when, an RFC 3339 time.
type TimerEntry struct {
	ID        string `json:"id"`
	Kind      string `json:"kind,omitempty"` // id of the choice
	Hours     string `json:"hours"`
	Since     string `json:"since,omitempty"`
	Forgotten bool   `json:"forgotten,omitempty"` // it runs for longer than is usual
}

// TimerTotal are the hours of a kind of work.
type TimerTotal struct {
	Kind  string `json:"kind,omitempty"`
	Hours string `json:"hours"`
}

// timed is a timer for whoever looks, with what it reads.
type timed struct {
	*View
	x     *blueprint.TimerBlock
	table *blueprint.Table
}

func (v *View) timed(x *blueprint.TimerBlock) timed {
	return timed{v, x, v.Seat.Blueprint.Table(x.Entries)}
}

// me is who whoever looks is among those who work; empty where they are none of them.
func (t timed) me() expr.Value {
	f := t.table.Field(t.x.By)
	if f.Type == blueprint.Text {
		return expr.TextOf(t.Seat.By)
	}
	return expr.RecordOf(t.Seat.Viewer.Me(t.Seat.Blueprint, f.Target))
}

// works tells whether whoever looks is one of those who work, and sees what the timer has to know of it: what they do not see
// would be counted as if it were not there.
func (t timed) works() (bool, error) {
	for _, id := range []string{t.x.Link, t.x.By, t.x.Hours, t.x.Since, t.x.Paused, t.x.Ended} {
		if sees, err := t.Seat.Sees(t.table.ID, id); err != nil || !sees {
			return false, err
		}
	}
	return !t.me().IsEmpty(), nil
}

// open says which entries of whoever looks are not stopped, on all records.
func (t timed) open() (*query.Selection, error) {
	filter, err := t.Seat.Blueprint.TimerOpen(t.x, t.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read a timer on %s: %w", t.Page.Name, err)
	}
	var mine []query.Narrow
	if me := t.me(); me.Kind == expr.Text {
		mine = append(mine, query.Narrow{Field: t.x.By, Is: &me.Text})
	}
	columns, err := t.seen(t.table.ID, slices.DeleteFunc([]string{t.x.By, t.x.Hours, t.x.Since, t.x.Paused, t.x.Sort, t.x.Link},
		func(id string) bool { return id == "" }))
	return &query.Selection{Table: t.table, Columns: columns, Filter: filter, Limit: mostOpen,
		Narrows: mine}, err
}

// mostOpen is how many entries one can have that are not stopped.
const mostOpen = 200

// totals says which hours were worked on the record.
func (t timed) totals() (*query.Report, error) {
	hours, err := t.Seat.Blueprint.TimerHours(t.x, t.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read a timer on %s: %w", t.Page.Name, err)
	}
	out := &query.Report{Selection: query.Selection{Table: t.table}, Measures: []query.Measure{{Total: report.Sum, Of: hours}}, Whole: true}
	if out.Filter, err = t.Seat.Blueprint.LeadsHere(t.table, t.x.Link, t.Seat.Catalog); err != nil || t.x.Sort == "" {
		return out, err
	}
	sees, err := t.Seat.Sees(t.table.ID, t.x.Sort)
	if sees {
		out.Groups = []query.Grouping{{Field: t.x.Sort}}
	}
	return out, err
}

func timerReads(v *View, x *blueprint.TimerBlock) ([]records.Read, error) {
	out, err := v.reading(x.Title)
	if err != nil {
		return nil, err
	}
	t := v.timed(x)
	totals, err := t.totals()
	if err != nil {
		return nil, err
	}
	out = append(out, records.Read{Report: totals})
	works, err := t.works()
	if err != nil || !works {
		return out, err
	}
	open, err := t.open()
	return append(out, records.Read{List: open}), err
}

func showTimer(v *View, x *blueprint.TimerBlock, got []records.Result) (*Timer, error) {
	t := v.timed(x)
	title, err := v.filled(x.Title, got)
	if err != nil {
		return nil, err
	}
	out := &Timer{Title: title.Text, Open: []TimerEntry{}, Totals: []TimerTotal{}, Whole: "0",
		Now: v.Seat.Clock.Now.UTC().Format(time.RFC3339)}
	if f := t.table.Field(x.Sort); f != nil {
		out.Kinds = slices.DeleteFunc(choices(v.Seat.Blueprint.List(f.List)), func(c Choice) bool { return c.Retired })
	}
	sees, err := v.Seat.Sees(t.table.ID, x.Hours)
	if err != nil || !sees {
		out.Hidden = err == nil
		return out, err
	}
	n := len(got) - 1
	works, err := t.works()
	if err != nil {
		return nil, err
	}
	if works {
		rows, err := Rows(got[n].Rows)
		if err != nil {
			return nil, err
		}
		n--
		t.entries(out, rows)
		if out.Starts, err = v.Seat.Allowed(t.table.ID, blueprint.Add); err != nil {
			return nil, err
		}
	}
	return out, t.sum(out, got[n].Rows)
}

// entries takes in what whoever looks works: here, or on another record.
func (t timed) entries(out *Timer, rows []Row) {
	now := t.Seat.Clock.Now
	for _, row := range rows {
		since, _ := row[t.x.Since].(string)
		if paused, _ := row[t.x.Paused].(bool); paused {
			since = ""
		}
		if row[t.x.Link] != t.Seat.Page {
			if label, ok := row[t.x.Link+"~"].(string); ok && since != "" {
				out.Elsewhere = label
			}
			continue
		}
		e := TimerEntry{Hours: t.hoursOf(row).String(), Since: since}
		e.ID, _ = row["id"].(string)
		e.Kind, _ = row[t.x.Sort].(string)
		if at, err := time.Parse(time.RFC3339, since); err == nil {
			e.Forgotten = now.Sub(at) > time.Duration(t.x.Forgotten())*time.Hour
		}
		out.Open = append(out.Open, e)
	}
}

// hoursOf are the hours of an entry so far.
func (t timed) hoursOf(row Row) decimal.Decimal {
	return records.ValueOf(t.Seat.Catalog, t.table.ID, t.x.Hours, row[t.x.Hours]).Num
}

// sum takes in the hours that were worked.
func (t timed) sum(out *Timer, rows []records.Row) error {
	for _, raw := range rows {
		var g query.Group
		if err := json.Unmarshal(raw, &g); err != nil {
			return err
		}
		hours := "0"
		if g.Values[0] != nil {
			hours = *g.Values[0]
		}
		if g.Whole {
			out.Whole = hours
			continue
		}
		total := TimerTotal{Hours: hours}
		if err := json.Unmarshal(g.Keys[0], &total.Kind); err != nil {
			return err
		}
		out.Totals = append(out.Totals, total)
	}
	return nil
}
