package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/report"
	"pinegate/core/words"
)

// Reporter is a block that shows totals over records.
type Reporter interface {
	Block
	Report() *Reported
}

// Reported is what figures and charts have alike: which records they total, over which days, and to what.
type Reported struct {
	Table  string `json:"table"`
	Title  string `json:"title,omitempty"`  // with placeholders
	Filter string `json:"filter,omitempty"` // condition over the record
	// Date is the id of the field that says when a record is, and Range over which days it goes.
	Date  string       `json:"date,omitempty"`
	Range report.Range `json:"range,omitempty"`
	// Ranges tells that people can choose another range.
	Ranges  bool           `json:"ranges,omitempty"`
	Compare report.Compare `json:"compare,omitempty"`
	// Bar is the id of the filter bar that it follows, whose days count then.
	Bar      string    `json:"bar,omitempty"`
	Measures []Measure `json:"measures,omitempty"`
}

// Report gives what is totalled.
func (r *Reported) Report() *Reported { return r }

// reports walks the figures and charts of the app with their ids.
func (b *Blueprint) reports(yield func(id string, r *Reported)) {
	walk := func(blocks Blocks) {
		for x := range blocks.All {
			if r, is := x.(Reporter); is {
				yield(x.Self().ID, r.Report())
			}
		}
	}
	for i := range b.Pages {
		walk(b.Pages[i].Blocks)
	}
	for i := range b.Parts {
		walk(b.Parts[i].Blocks)
	}
}

// which lists the settings that say what is totalled.
func (r *Reported) which(c Context) []prop.Prop {
	return []prop.Prop{
		{
			Name:   "table",
			Label:  "Records of",
			Noun:   "the table",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value:  prop.One(&r.Table, c.Tables()),
			Lost:   prop.Lost{Words: "it is taken off the page", TakeOut: true},
		},
		{
			Name:  "filter",
			Label: "Only records where",
			Noun:  "the condition",
			Help:  "Only some of the records",
			Group: "Which records",
			Say:   " where {}",
			Value: prop.Condition(&r.Filter, c.Listed(r.Table)),
			Lost:  prop.Lost{Words: "it is taken off the page", TakeOut: true}, // else it would total more
		},
		{
			Name:  "title",
			Label: "Title",
			Noun:  "the title",
			Help:  "Words above it",
			Asked: true,
			Group: "Look",
			Say:   ", titled {}",
			Value: prop.Template(&r.Title, c.Here()),
		},
	}
}

// when lists the settings that say over which days it goes.
func (r *Reported) when(c Context) []prop.Prop {
	days := c.typed(r.Table, func(t expr.Type) bool { return !t.Many && (t.Kind == expr.Date || t.Kind == expr.Time) })
	out := []prop.Prop{{
		Name:  "date",
		Label: "Day of a record",
		Noun:  "the day of a record",
		Help:  "The date or time that says when a record counts",
		Group: "When",
		Say:   ", dated by {}",
		Value: prop.One(&r.Date, days).OrNone("no day"),
		Lost: prop.Lost{Do: func() string {
			r.Date, r.Range, r.Ranges, r.Compare = "", report.Always, false, report.NotCompared
			return words.Say("report-no-days", nil)
		}},
	}}
	out = append(out, c.follows(&r.Bar)...)
	if r.Date == "" && c.b != nil {
		return out
	}
	if r.Bar == "" || c.b == nil {
		out = append(out, prop.Prop{
			Name:  "range",
			Label: "Over",
			Noun:  "the range",
			Help:  "The days that count. They move along with today",
			Group: "When",
			Say:   ", over {}",
			Value: prop.Pick(&r.Range, rangeOptions()...),
		}, prop.Prop{
			Name:  "ranges",
			Label: "People can choose the days",
			Noun:  "whether people choose the days",
			Help:  "This month, last year, or days of their own",
			Group: "When",
			Say:   ", {|or days that people choose}",
			Value: prop.Switch(&r.Ranges),
		})
	}
	return append(out, prop.Prop{
		Name:  "compare",
		Label: "Compared with",
		Noun:  "with what it is compared",
		Help:  "The same numbers for other days stand beside it",
		Group: "When",
		Say:   ", compared with {}",
		Value: prop.Pick(&r.Compare, prop.Option{Value: "", Words: "nothing"},
			prop.Option{Value: string(report.RangeBefore), Words: "the days before"},
			prop.Option{Value: string(report.YearBefore), Words: "the year before"}),
	})
}

// start has one number, and a day for its range.
func (r *Reported) start(c Context, id string) {
	if len(r.Measures) == 0 {
		r.Measures = []Measure{{ID: id + "_1", Key: "number"}}
	}
	t := c.tableOf(r.Table)
	if r.Bar != "" {
		r.Range, r.Ranges = report.Always, false // those of the bar count
	}
	if t == nil || r.Date != "" || r.Range == report.Always && !r.Ranges && r.Compare == report.NotCompared && r.Bar == "" {
		return
	}
	if f := find(t.Fields, func(f *Field) bool { return f.Type == Date || f.Type == TimeStamp }); f != nil {
		r.Date = f.ID
	}
}

// check refuses a range without days, and hours where there are only days.
func (r *Reported) check(c Context) *words.Problem {
	if r.Date == "" && (r.Range != report.Always || r.Ranges || r.Compare != report.NotCompared) {
		return words.New("report-days")
	}
	if f := c.field(r.Table, r.Date); r.Range == report.LastHours && f != nil && c.catalog.TypeOf(r.Table, r.Date).Kind != expr.Time {
		return words.New("report-hours", "field", f.Name)
	}
	shown := 0
	for _, m := range r.Measures {
		if !m.Aside {
			shown++
		}
	}
	if len(r.Measures) > 0 && shown == 0 {
		return words.New("report-nothing")
	}
	return nil
}

// Measured are the expressions of a measure: of what it is, its weight and its formula, each nil where there is none.
type Measured struct{ Of, Weight, Formula *expr.Checked }

// MeasureOf checks the expressions of a measure of a figure or chart at a spot.
func (b *Blueprint) MeasureOf(s Spot, x Reporter, m *Measure, catalog *expr.Catalog) (Measured, error) {
	type place struct{ measure string }
	return checkedOnce(b, place{m.ID}, func() (out Measured, err error) {
		check := func(source string, scope expr.Scope) *expr.Checked {
			if source == "" || err != nil {
				return nil
			}
			var c *expr.Checked
			c, err = expr.Check(source, scope)
			return c
		}
		over := b.ListScope(s, x.Report().Table, catalog)
		out = Measured{check(m.Of, over), check(m.Weight, over), check(m.Formula, expr.Scope{Catalog: catalog, Row: x.Self().ID})}
		return out, err
	})
}

// ReportFilter checks the condition of a figure or chart at a spot; nil where it has none.
func (b *Blueprint) ReportFilter(s Spot, x Reporter, catalog *expr.Catalog) (*expr.Checked, error) {
	if x.Report().Filter == "" {
		return nil, nil
	}
	type place struct{ report string }
	return checkedOnce(b, place{x.Self().ID}, func() (*expr.Checked, error) {
		return expr.CheckCondition(x.Report().Filter, b.ListScope(s, x.Report().Table, catalog))
	})
}
