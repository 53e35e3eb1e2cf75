package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/report"
	"pinegate/core/words"
)

// Measure is one of the numbers that a figure or a chart shows.
type Measure struct {
	ID    string       `json:"id"`
	Key   string       `json:"key"` // by which formulas name it
	Name  string       `json:"name,omitempty"`
	Total report.Total `json:"total,omitempty"`
	// Of is the number of a record that is totalled, and Weight what it counts for in a weighted average.
	Of     string `json:"of,omitempty"`
	Weight string `json:"weight,omitempty"`
	// Formula is over the other measures of the same group.
	Formula  string    `json:"formula,omitempty"`
	As       NumberWay `json:"as,omitempty"`
	Unit     string    `json:"unit,omitempty"`
	Currency string    `json:"currency,omitempty"`
	Decimals *int      `json:"decimals,omitempty"`
	Goal
	// Line tells that it is a line in a chart of bars, and Aside that only formulas use it.
	Line  bool `json:"line,omitempty"`
	Aside bool `json:"aside,omitempty"`
}

// measureOptions are the totals that can be chosen.
func measureOptions() []prop.Option {
	option := func(t report.Total, words, label string) prop.Option {
		return prop.Option{Value: string(t), Words: words, Label: label}
	}
	return []prop.Option{option(report.Count, "the number of records", "The number of records"),
		option(report.Sum, "the sum of", "The sum"),
		option(report.Average, "the average of", "The average"), option(report.Weighted, "the weighted average of", "The weighted average"),
		option(report.Least, "the least", "The least"), option(report.Greatest, "the greatest", "The greatest"),
		option(report.Median, "the median of", "The median"), option(report.Formula, "the result of", "A formula over the other numbers")}
}

// Called says which measure it is.
func (m *Measure) Called(c Context) string {
	if c.page == nil && c.part == nil {
		return words.Say("measure", nil)
	}
	name := m.Name
	if name == "" {
		name = words.Say("measure", nil)
	}
	return words.Say("called-in", words.Args{"name": name, "in": c.stands()})
}

// Core is the sentence that tells it.
func (m *Measure) Core(Context) string {
	switch {
	case m.Total == report.Formula:
		return "It shows {total} {formula}"
	case m.Total.Of():
		return "It shows {total} {of}"
	}
	return "It shows {total}"
}

// Props lists its settings.
func (m *Measure) Props(c Context) []prop.Prop {
	out := []prop.Prop{{
		Name:   "total",
		Label:  "It shows",
		Noun:   "what it shows",
		Asked:  true,
		Resets: true,
		Value:  prop.Pick(&m.Total, measureOptions()...),
	}}
	table := ""
	if c.report != nil {
		table = c.report.Table
	}
	number := expr.Type{Kind: expr.Number}
	if m.Total.Of() || c.b == nil {
		out = append(out, prop.Prop{
			Name:  "of",
			Label: "Of",
			Noun:  "of what it is",
			Must:  c.b != nil,
			Asked: true,
			Help:  "A number of each record, such as its hours, or hours * rate",
			Value: prop.Expression(&m.Of, c.Listed(table), number).Offering(c.numberOffers(table)),
			Lost:  prop.Lost{Words: "the number is taken off", TakeOut: true},
		})
	}
	if m.Total == report.Weighted || c.b == nil {
		out = append(out, prop.Prop{
			Name:  "weight",
			Label: "Weighted by",
			Noun:  "by what it is weighted",
			Must:  c.b != nil,
			Asked: true,
			Help:  "A number of each record: those with more count for more",
			Say:   ", weighted by {}",
			Value: prop.Expression(&m.Weight, c.Listed(table), number).Offering(c.numberOffers(table)),
			Lost:  prop.Lost{Words: "the number is taken off", TakeOut: true},
		})
	}
	if m.Total == report.Formula || c.b == nil {
		out = append(out, prop.Prop{
			Name:  "formula",
			Label: "Formula",
			Noun:  "its formula",
			Must:  c.b != nil,
			Asked: true,
			Help:  "Over the other numbers of the same group, by their names, such as billed / worked",
			Value: prop.Expression(&m.Formula, c.measured(), number).Offering(c.measureOffers()),
			Lost:  prop.Lost{Words: "the number is taken off", TakeOut: true},
		})
	}
	return append(append(out, m.looks(c)...), m.goalProps(c)...)
}

// Check refuses a target that is none.
func (m *Measure) Check(c Context) *words.Problem { return m.checkGoal(c) }

// looks lists the settings that say how it is written.
func (m *Measure) looks(c Context) []prop.Prop {
	out := []prop.Prop{{Name: "name", Label: "Name", Noun: "its name", Asked: true, Help: "What stands beside it", Say: ", called {}",
		Value: calledText(&m.Name)}}
	usual := prop.Option{Value: "", Words: "its field", Label: "As its field is"}
	out = append(out, written{&m.As, &m.Unit, &m.Currency, &m.Decimals}.props(c, usual)...)
	return append(out,
		prop.Prop{Name: "line", Label: "As a line", Noun: "whether it is a line", Help: "In a chart of bars: this one as a line above them",
			Group: "Look", Say: ", {|as a line}", Value: prop.Switch(&m.Line)},
		prop.Prop{Name: "aside", Label: "Only for formulas", Noun: "whether it is shown", Help: "It is not shown: formulas use it",
			Group: "Look", Say: ", {|which only formulas use}", Value: prop.Switch(&m.Aside)})
}

// calledText is a short text that is told with quotes.
func calledText(at *string) prop.TextValue {
	v := prop.Text(at)
	v.Most, v.Quoted = 80, true
	return v
}

// Reset drops what another total does not have.
func (m *Measure) Reset(c Context, setting string) {
	m.resetGoal(c, setting)
	if !m.Total.Of() {
		m.Of = ""
	}
	if m.Total != report.Weighted {
		m.Weight = ""
	}
	if m.Total != report.Formula {
		m.Formula = ""
	}
}

// Start has a currency for what is written as an amount.
func (m *Measure) Start(Context) {
	if m.As == AsMoney && m.Currency == "" {
		m.Currency = "EUR"
	}
}

// Rename gives it another name, which formulas follow.
func (m *Measure) Rename(c Context, name string) error {
	is := func(r expr.Ref) bool { return c.report != nil && r.Table == c.holds && r.Field == m.ID }
	return c.b.renames(is, name, c.report.keyOf(name, m.ID), &m.Name, &m.Key)
}

// keyOf makes a key that no other measure has.
func (r *Reported) keyOf(name, self string) string {
	return keyFor(name, "number", func(k string) bool {
		return slices.ContainsFunc(r.Measures, func(x Measure) bool { return x.Key == k && x.ID != self })
	})
}

// measured is the scope of formulas over measures.
func (c Context) measured() expr.Scope {
	if c.report == nil || c.b == nil {
		return expr.Scope{}
	}
	return expr.Scope{Catalog: c.catalog, Row: c.holds}
}

// measureOffers offers the measures that formulas can name.
func (c Context) measureOffers() func(func(prop.Option) bool) {
	return func(yield func(prop.Option) bool) {
		if c.report == nil {
			return
		}
		for _, m := range c.report.Measures {
			if m.Total != report.Formula && !yield(prop.Option{Value: m.Key}) {
				return
			}
		}
	}
}

// numberOffers offers the numbers of records of a table.
func (c Context) numberOffers(table string) func(func(prop.Option) bool) {
	return func(yield func(prop.Option) bool) {
		t := c.tableOf(table)
		if t == nil {
			return
		}
		for i := range t.Fields {
			f := &t.Fields[i]
			if c.catalog.TypeOf(table, f.ID) == (expr.Type{Kind: expr.Number}) && !yield(prop.Option{Value: f.Key}) {
				return
			}
		}
	}
}

// measuresOf is how formulas see the measures of a figure or chart.
func measuresOf(id string, r *Reported) *expr.Table {
	out := &expr.Table{ID: id, Key: "measures", Name: words.Say("measures", nil)}
	for _, m := range r.Measures {
		if m.Total != report.Formula {
			out.Fields = append(out.Fields, &expr.Field{ID: m.ID, Key: m.Key, Name: m.Name, Table: id, Type: expr.Type{Kind: expr.Number}})
		}
	}
	return out
}

// addMeasure adds a number to a figure or chart.
func addMeasure(b *Blueprint, c *AddThing) error {
	into, ok := b.Place(c.Into)
	x, is := into.Thing.(Reporter)
	if !ok || !is {
		return words.New("gone", "thing", "figure")
	}
	r := x.Report()
	if len(r.Measures) == mostMeasures {
		return words.New("measures-most", "n", mostMeasures)
	}
	r.Measures = append(r.Measures, Measure{ID: c.ID, Key: "x"})
	if err := c.fill(b, c.ID, c.Values); err != nil {
		return err
	}
	m := find(r.Measures, func(m *Measure) bool { return m.ID == c.ID })
	m.Key = r.keyOf(m.Name, m.ID)
	return nil
}

// mostMeasures is how many numbers a figure or a chart has at most.
const mostMeasures = 8
