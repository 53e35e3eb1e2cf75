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
	"pinegate/core/words"
	"pinegate/store/records"
)

// Measure is a number that a figure or a chart shows, and how it is written.
type Measure struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Column Column `json:"column"`
	Line   bool   `json:"line,omitempty"`
	Goal   *Goal  `json:"goal,omitempty"`
}

// Days are the days over which a figure or a chart goes, each end "" where it is open.
type Days struct {
	Range string `json:"range"` // one of those that are offered, "own", or "" for all the time
	From  string `json:"from"`
	To    string `json:"to"`
	// Choose tells that whoever looks can choose other ones.
	Choose bool `json:"choose,omitempty"`
	// Offered are the ranges that can be chosen.
	Offered []string `json:"offered,omitempty"`
}

// ownDays are days that somebody chose by themselves.
const ownDays = "own"

// reported is a figure or chart that somebody asked for, with what is read for it.
type reported struct {
	*View
	block    blueprint.Reporter
	r        *blueprint.Reported
	table    *blueprint.Table
	calendar report.Calendar
	span     report.Span
	days     Days
	measures []blueprint.Measured // of all measures, in their order
	narrows  []query.Narrow       // by what somebody chose in the bar that it follows
	notes    []string
}

// reported reads what somebody asked of a figure or a chart.
func (v *View) reported(x blueprint.Reporter) (*reported, error) {
	b := v.Seat.Blueprint
	out := &reported{View: v, block: x, r: x.Report(), table: b.Table(x.Report().Table), calendar: v.calendarOf()}
	for i := range out.r.Measures {
		m, err := b.MeasureOf(v.spot(), x, &out.r.Measures[i], v.Seat.Catalog)
		if err != nil {
			return nil, fmt.Errorf("read what a chart on %s shows: %w", v.Page.Name, err)
		}
		m.Of, m.Weight = v.boundOr(m.Of), v.boundOr(m.Weight)
		out.measures = append(out.measures, m)
	}
	if x := b.BarOf(v.spot(), out.r.Bar); x != nil {
		return out, out.follows(x)
	}
	out.chosen()
	return out, nil
}

// follows takes over what somebody chose in a filter bar.
func (r *reported) follows(x *blueprint.BarBlock) error {
	b, err := r.bar(x)
	if err != nil {
		return err
	}
	var without []string
	if r.narrows, without, err = b.follow(r.r.Table); err != nil {
		return err
	}
	for _, name := range without {
		r.notes = append(r.notes, words.Say("bar-without", words.Args{"field": name}))
	}
	if r.r.Date == "" {
		return nil
	}
	r.days, r.span = b.days, b.span
	r.days.Choose, r.days.Offered = false, nil
	if !r.moments() {
		r.span.Since = time.Time{} // days around it
	}
	return nil
}

// boundOr is [View.bound] of what is there.
func (v *View) boundOr(c *expr.Checked) *expr.Checked {
	if c == nil {
		return nil
	}
	return v.bound(c)
}

// asks gives what was asked of the block by a name.
func (r *reported) asks(name string) string { return r.Asks.get(r.known(r.block) + "." + name) }

// chosen reads which days somebody chose: a range, or their own.
func (r *reported) chosen() {
	r.days = Days{Range: string(r.r.Range), Choose: r.r.Ranges}
	r.span = r.calendar.Span(r.r.Range)
	if r.r.Ranges {
		r.days.Offered = r.offered()
		r.choose(r.asks("days"))
	}
	r.days.From, r.days.To = report.Written(r.span.From), report.Written(r.span.To)
}

// offered lists the ranges that can be chosen; hours where there are moments.
func (r *reported) offered() []string {
	out := []string{}
	for _, x := range report.Ranges() {
		if x != report.LastHours || r.moments() {
			out = append(out, string(x))
		}
	}
	return out
}

// moments tells whether records have a moment and not only a day.
func (r *reported) moments() bool {
	return r.Seat.Catalog.TypeOf(r.r.Table, r.r.Date).Kind == expr.Time
}

func (r *reported) choose(asked string) {
	if asked == "" {
		return
	}
	days, span, ok := chosenDays(r.calendar, asked, r.moments())
	if !ok {
		r.notes = append(r.notes, words.Say("asked-days", nil))
		return
	}
	r.days.Range, r.span = days, span
}

// sees tells whether whoever looks sees some fields; one that is "" is not asked for.
func (r *reported) sees(fields ...string) (bool, error) {
	for _, id := range fields {
		if id == "" {
			continue
		}
		if sees, err := r.Seat.Sees(r.r.Table, id); err != nil || !sees {
			return false, err
		}
	}
	return true, nil
}

// query is what is read over a span.
func (r *reported) query(s report.Span, groups ...query.Grouping) (*query.Report, error) {
	filter, err := r.Seat.Blueprint.ReportFilter(r.spot(), r.block, r.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read what a chart on %s is of: %w", r.Page.Name, err)
	}
	out := &query.Report{Selection: query.Selection{Table: r.table, Filter: r.boundOr(filter),
		Narrows: slices.Clone(r.narrows)}, Groups: groups}
	for i, m := range r.r.Measures {
		if m.Total != report.Formula {
			out.Measures = append(out.Measures, query.Measure{Total: m.Total, Of: r.measures[i].Of, Weight: r.measures[i].Weight})
		}
	}
	switch {
	case !s.Since.IsZero():
		out.Since = &query.Since{Field: r.r.Date, At: s.Since.Format(time.RFC3339Nano)}
		if s != r.span {
			out.Since.Until = r.span.Since.Format(time.RFC3339Nano)
		}
	case r.r.Date != "" && !(s.From.IsZero() && s.To.IsZero()):
		out.Narrows = append(out.Narrows, query.Narrow{Field: r.r.Date, From: report.Written(s.From), To: report.Written(s.To)})
	}
	return out, nil
}

// before gives the span with which it is compared.
func (r *reported) before() (report.Span, bool) { return r.calendar.Before(r.r.Compare, r.span) }

// groups reads what was totalled. Each group has the values of all measures, formulas computed.
func (r *reported) groups(got records.Result) ([]query.Group, error) {
	out := make([]query.Group, len(got.Rows))
	for i, raw := range got.Rows {
		if err := json.Unmarshal(raw, &out[i]); err != nil {
			return nil, fmt.Errorf("read a chart on %s: %w", r.Page.Name, err)
		}
		out[i].Values = r.whole(out[i].Values)
	}
	return out, nil
}

// whole gives the values of all measures of a group: those that were totalled, and of formulas what they come to.
func (r *reported) whole(totalled []*string) []*string {
	known := map[string]expr.Value{}
	out := make([]*string, len(r.r.Measures))
	for i, m := range r.r.Measures {
		if m.Total == report.Formula {
			continue
		}
		if out[i] = totalled[0]; out[i] != nil {
			if d, err := decimal.NewFromString(*out[i]); err == nil {
				known[m.ID] = expr.NumberOf(d)
			}
		}
		totalled = totalled[1:]
	}
	for i, m := range r.r.Measures {
		if m.Total != report.Formula || r.measures[i].Formula == nil {
			continue
		}
		if v := expr.Eval(r.measures[i].Formula, r.Seat.Catalog, &totals{known, r.Seat.Clock}); !v.IsEmpty() {
			text := v.Num.String()
			out[i] = &text
		}
	}
	return out
}

// totals is the environment of formulas over measures: these, and nothing else.
type totals struct {
	known map[string]expr.Value
	clock expr.Clock
}

func (t *totals) Clock() expr.Clock                            { return t.clock }
func (t *totals) Start(expr.Root) expr.Value                   { return expr.RecordOf("group") }
func (t *totals) Field(_ expr.Value, f *expr.Field) expr.Value { return t.known[f.ID] }
func (t *totals) Records(string) []expr.Value                  { return nil }
func (t *totals) Label(string, expr.Value) expr.Value          { return expr.Empty() }

// shown lists the places of the measures that are shown, with how they are written.
func (r *reported) shown() (places []int, out []Measure) {
	for i, m := range r.r.Measures {
		if !m.Aside {
			places, out = append(places, i), append(out, Measure{ID: m.ID, Name: r.nameOf(i), Column: r.columnOf(i), Line: m.Line,
				Goal: r.goalOf(&r.r.Measures[i])})
		}
	}
	return places, out
}

// nameOf gives the name of a measure, or that of what it counts.
func (r *reported) nameOf(i int) string {
	m := &r.r.Measures[i]
	if m.Name != "" {
		return m.Name
	}
	if m.Total == report.Count {
		return r.table.Name
	}
	if f := r.fieldOf(i); f != nil {
		return f.Name
	}
	return m.Of + m.Formula
}

// fieldOf gives the field of which a measure is, where it is one of the record itself.
func (r *reported) fieldOf(i int) *blueprint.Field {
	of := r.measures[i].Of
	if of == nil || of.Root.Op != expr.OpRef || of.Root.Root != expr.RootRow || len(of.Root.Path) != 1 {
		return nil
	}
	return r.table.Field(of.Root.Path[0].ID)
}

// decimalsOf is how many decimals averages and formulas have unless something is said.
const decimalsOf = 2

// columnOf says how a measure is written: as its field, as it is set, or as a plain number.
func (r *reported) columnOf(i int) Column {
	m := &r.r.Measures[i]
	out := Column{ID: m.ID, Name: r.nameOf(i), Type: string(blueprint.Number), Kind: string(expr.Number)}
	if f := r.fieldOf(i); f != nil && m.Total.Of() {
		c := ColumnOf(r.Seat.Blueprint, r.Seat.Catalog, r.table, f)
		out.Unit, out.Currency, out.Decimals = c.Unit, c.Currency, c.Decimals
		if t := blueprint.FieldType(c.Type); t == blueprint.Money || t == blueprint.Percent || t == blueprint.Duration {
			out.Type = c.Type
		}
	}
	switch m.As {
	case blueprint.AsNumber:
		out.Type, out.Currency = string(blueprint.Number), ""
	case blueprint.AsMoney:
		out.Type, out.Currency = string(blueprint.Money), m.Currency
	case blueprint.AsPercent:
		out.Type = string(blueprint.Percent)
	}
	if m.Unit != "" {
		out.Unit = m.Unit
	}
	switch n := decimalsOf; {
	case m.Decimals != nil:
		out.Decimals = m.Decimals
	case m.Total == report.Count:
		n = 0
		out.Decimals = &n
	case out.Decimals == nil && (m.Total == report.Average || m.Total == report.Weighted || m.Total == report.Median || m.Total == report.Formula):
		out.Decimals = &n
	}
	return out
}
