package page

import (
	"encoding/json"
	"slices"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/report"
	"pinegate/core/words"
	"pinegate/store/records"
)

// Chart are numbers in groups.
type Chart struct {
	Head
	Title string `json:"title"`
	Shape string `json:"shape" enum:"bars,sideways,lines,areas,donut"`
	Stack string `json:"stack,omitempty" enum:"stacked,shares"`
	// Bys are the fields by which whoever looks can group, all of them seen; none where there is nothing to choose.
	Bys []Column `json:"bys,omitempty"`
	// By is the field that makes the groups; Unit says of which days each is, and Step of which numbers.
	By    Column `json:"by"`
	Unit  string `json:"unit,omitempty" enum:"day,week,month,quarter,year"`
	Units bool   `json:"units,omitempty"` // whoever looks can choose it
	Step  string `json:"step,omitempty"`
	// Groups are in the order in which they are drawn, and Series what each has: a measure, or a part of one.
	Groups []ChartGroup `json:"groups"`
	Series []Series     `json:"series"`
	// Whole are the measures of all groups together, in the order of Measures.
	Measures []Measure `json:"measures"`
	Whole    []*string `json:"whole"`
	Days     Days      `json:"days"`
	Before   *Days     `json:"beforeDays,omitempty"`
	Notes    []string  `json:"notes,omitempty"`
	// Hidden tells that whoever looks does not see what makes the groups.
	Hidden bool `json:"hidden,omitempty"`
}

// ChartGroup is a group of records. Key is its value as text, "" for those that have none; Others are what is left.
type ChartGroup struct {
	Key    string `json:"key"`
	Label  string `json:"label"`
	Colour string `json:"colour,omitempty"`
	Others bool   `json:"others,omitempty"`
}

// Series are the values of a measure for each group, null for empty, and those of the days with which they are compared.
type Series struct {
	Measure string      `json:"measure"` // id
	Part    *ChartGroup `json:"part,omitempty"`
	Values  []*string   `json:"values"`
	Before  []*string   `json:"before,omitempty"`
	// Goal are the targets of each group, where its measure has some.
	Goal []*string `json:"goal,omitempty"`
}

// charted is a chart that somebody asked for.
type charted struct {
	*reported
	x    *blueprint.ChartBlock // as it is set, but for the groups that somebody chose
	bys  []Column
	unit report.Unit
	// first is the place of the first measure that is shown, by whose size groups stand that have no order.
	first int
}

func (v *View) charted(x *blueprint.ChartBlock) (*charted, error) {
	r, err := v.reported(x)
	if err != nil {
		return nil, err
	}
	out := &charted{reported: r, x: x}
	if err := out.regroup(); err != nil {
		return nil, err
	}
	x = out.x
	if is := v.Seat.Catalog.TypeOf(x.Table, x.By); is.Kind != expr.Date && is.Kind != expr.Time {
		return out, nil
	}
	if out.unit = x.Unit; out.unit == "" {
		if out.unit = report.Month; r.days.Range != string(x.Range) && x.By == x.Date {
			out.unit = r.calendar.Unit(r.span)
		}
	}
	if u := report.Unit(r.asks("unit")); x.Units && u != "" {
		if slices.Contains(report.Units(), u) {
			out.unit = u
		} else {
			r.notes = append(r.notes, words.Say("asked-unit", nil))
		}
	}
	if x.By == x.Date && r.calendar.Parts(out.unit, r.span) == nil && !r.span.From.IsZero() && !r.span.To.IsZero() { // too many to draw
		out.unit = r.calendar.Unit(r.span)
	}
	return out, nil
}

// regroup takes the groups that somebody chose for those that it begins with.
func (c *charted) regroup() error {
	if len(c.x.Bys) == 0 {
		return nil
	}
	for _, id := range append([]string{c.x.By}, c.x.Bys...) {
		if sees, err := c.sees(id); err != nil {
			return err
		} else if sees {
			c.bys = append(c.bys, ColumnOf(c.Seat.Blueprint, c.Seat.Catalog, c.table, c.table.Field(id)))
		}
	}
	asked := c.asks("by")
	if asked == "" || asked == c.x.By {
		return nil
	}
	if !slices.ContainsFunc(c.bys, func(f Column) bool { return f.ID == asked }) {
		c.notes = append(c.notes, words.Say("asked-by", nil))
		return nil
	}
	days := c.Seat.Catalog.TypeOf(c.x.Table, c.x.By)
	x := *c.x
	x.By, x.Unit, x.Step = asked, "", "" // which were for the others
	x.Units = x.Units || days.Kind != expr.Date && days.Kind != expr.Time
	c.x = &x
	return nil
}

// regrouped tells whether somebody chose other groups than those that it begins with.
func (c *charted) regrouped() bool { return blueprint.Reporter(c.x) != c.block }

// groupings are what parts the records.
func (c *charted) groupings() []query.Grouping {
	by := query.Grouping{Field: c.x.By, Unit: c.unit, Step: c.x.Step}
	if by.Unit == "" && by.Step == "" && c.Seat.Catalog.TypeOf(c.x.Table, c.x.By).Kind != expr.Number {
		by.Most = c.mostOf(c.x.By, c.x.Largest())
	}
	out := []query.Grouping{by}
	if c.x.Then != "" {
		out = append(out, query.Grouping{Field: c.x.Then, Most: c.mostOf(c.x.Then, mostParts)})
	}
	return out
}

// mostOf gives how many groups of a field there are at most; 0 where its choices are no more than that, as finding the largest
// takes as long again as totalling.
func (c *charted) mostOf(field string, most int) int {
	is := c.Seat.Catalog.TypeOf(c.x.Table, field)
	if l := c.Seat.Blueprint.List(is.List); is.Kind == expr.YesNo || is.Kind == expr.Choice && l != nil && len(l.Choices) <= most {
		return 0
	}
	return most
}

// mostParts is into how many parts a group is parted at most, so that their colours can be told from each other.
const mostParts = 8

func chartReads(v *View, x *blueprint.ChartBlock) ([]records.Read, error) {
	c, err := v.charted(x)
	if err != nil {
		return nil, err
	}
	out, err := v.reading(x.Title)
	if err != nil {
		return nil, err
	}
	if sees, err := c.sees(c.x.By, c.x.Then); err != nil || !sees {
		return out, err
	}
	q, err := c.query(c.span, c.groupings()...)
	if err != nil {
		return nil, err
	}
	q.Whole = true
	out = append(out, records.Read{Report: q})
	if before, compared := c.before(); compared {
		q, err := c.query(before, c.groupings()...)
		if err != nil {
			return nil, err
		}
		out = append(out, records.Read{Report: q})
	}
	goals, err := c.goalReads(c.goalUnit())
	return append(out, goals...), err
}

// goalUnit is the unit of the targets of groups: theirs, where groups are days.
func (c *charted) goalUnit() report.Unit {
	if c.x.By == c.x.Date {
		return c.unit
	}
	return ""
}

func showChart(v *View, x *blueprint.ChartBlock, got []records.Result) (*Chart, error) {
	c, err := v.charted(x)
	if err != nil {
		return nil, err
	}
	title, err := v.filled(x.Title, got)
	if err != nil {
		return nil, err
	}
	titled, err := v.reading(x.Title)
	if err != nil {
		return nil, err
	}
	got = got[len(titled):]
	places, measures := c.shown()
	out := &Chart{Title: title.Text, Shape: string(x.Shape), Stack: string(x.Stack), Unit: string(c.unit), Units: c.x.Units, Step: c.x.Step, Bys: c.bys,
		Groups: []ChartGroup{}, Series: []Series{}, Measures: measures, Whole: make([]*string, len(places)), Days: c.days, Notes: c.notes,
		By: ColumnOf(v.Seat.Blueprint, v.Seat.Catalog, c.table, c.table.Field(c.x.By))}
	if out.Shape == "" {
		out.Shape = "bars"
	}
	if len(got) == 0 {
		out.Hidden = true
		return out, nil
	}
	groups, err := c.groups(got[0])
	if err != nil {
		return nil, err
	}
	got = got[1:]
	var before []query.Group
	if span, compared := c.before(); compared {
		if before, err = c.groups(got[0]); err != nil {
			return nil, err
		}
		out.Before, got = &Days{From: report.Written(span.From), To: report.Written(span.To)}, got[1:]
	}
	c.draw(out, places, groups, before)
	if n := len(out.Groups); n > report.MostParts {
		out.Groups = out.Groups[:report.MostParts]
		for i := range out.Series {
			s := &out.Series[i]
			if s.Values = s.Values[:report.MostParts]; s.Before != nil {
				s.Before = s.Before[:report.MostParts]
			}
		}
		out.Notes = append(out.Notes, words.Say("chart-many", words.Args{"n": report.MostParts}))
	}
	goals, err := c.goals(got, c.goalUnit())
	if err != nil {
		return nil, err
	}
	c.aim(out, places, goals)
	return out, nil
}

// draw puts the groups in their order, and the values of each series to them.
func (c *charted) draw(out *Chart, places []int, groups, before []query.Group) {
	for _, g := range groups {
		if g.Whole {
			for i, place := range places {
				out.Whole[i] = g.Values[place]
			}
		}
	}
	c.first = places[0]
	out.Groups = c.axis(c.x.By, 0, groups, before)
	parts := []ChartGroup{{}}
	if c.x.Then != "" {
		parts = c.axis(c.x.Then, 1, groups, before)
	}
	now, then := foundIn(groups), foundIn(before)
	for i, place := range places {
		for j := range parts {
			s := Series{Measure: out.Measures[i].ID}
			if c.x.Then != "" {
				s.Part = &parts[j]
			}
			s.Values = c.values(out.Groups, s.Part, place, now)
			if out.Before != nil {
				s.Before = c.valuesBefore(out.Groups, s.Part, place, then)
			}
			out.Series = append(out.Series, s)
		}
	}
}

// axis lists the groups of a grouping in their order: all days of its span, choices as in their list, others by their number.
func (c *charted) axis(field string, place int, groups, before []query.Group) []ChartGroup {
	var out []ChartGroup
	at := map[string]bool{}
	put := func(g ChartGroup) {
		if id := placeOf(g); !at[id] {
			at[id], out = true, append(out, g)
		}
	}
	if place == 0 && c.unit != "" && c.x.By == c.x.Date {
		for _, day := range c.calendar.Parts(c.unit, c.span) {
			put(ChartGroup{Key: report.Written(day)})
		}
	}
	own := len(groups)
	if place == 0 && c.unit != "" { // other days stand beside these, and are no groups of their own
		before = nil
	}
	found := slices.Concat(groups, before)
	if c.sortedBySize(field, place) {
		slices.SortStableFunc(found[:own], func(a, b query.Group) int { return c.size(b).Cmp(c.size(a)) })
	}
	for _, g := range found {
		if !g.Whole {
			put(c.group(field, g, place))
		}
	}
	c.inOrder(field, out)
	return out
}

// size is the value of the first measure of a group.
func (c *charted) size(g query.Group) decimal.Decimal {
	if v := g.Values[c.first]; v != nil {
		if d, err := decimal.NewFromString(*v); err == nil {
			return d
		}
	}
	return decimal.Zero
}

func placeOf(g ChartGroup) string {
	if g.Others {
		return "others"
	}
	return "key " + g.Key
}

// sortedBySize tells whether groups have no order of their own.
func (c *charted) sortedBySize(field string, place int) bool {
	switch c.Seat.Catalog.TypeOf(c.x.Table, field).Kind {
	case expr.Record, expr.Text:
		return place > 0 || c.unit == "" && c.x.Step == ""
	}
	return false
}

// inOrder puts choices into the order of their list, and what is left and what has no value to the end.
func (c *charted) inOrder(field string, groups []ChartGroup) {
	order := map[string]int{}
	if l := c.Seat.Blueprint.List(c.Seat.Catalog.TypeOf(c.x.Table, field).List); l != nil {
		for i, ch := range l.Choices {
			order[ch.ID] = i
		}
	}
	rank := func(g ChartGroup) int {
		switch {
		case g.Others:
			return len(order) + 1
		case g.Key == "":
			return len(order) + 2
		}
		return order[g.Key]
	}
	slices.SortStableFunc(groups, func(a, b ChartGroup) int { return rank(a) - rank(b) })
}

// keyOf gives the key of a group as text, "" where it has none.
func keyOf(g query.Group, place int) string {
	var key any
	if err := json.Unmarshal(g.Keys[place], &key); err != nil {
		return "" // it is written by the database
	}
	switch key := key.(type) {
	case string:
		return key
	case bool:
		return map[bool]string{true: "yes", false: "no"}[key]
	}
	return ""
}

// group tells of a group what is shown of it.
func (c *charted) group(field string, g query.Group, place int) ChartGroup {
	if g.Others[place] {
		return ChartGroup{Label: words.Say("report-others", nil), Others: true}
	}
	out := ChartGroup{Key: keyOf(g, place)}
	switch out.Label = out.Key; {
	case out.Key == "":
		return ChartGroup{Label: words.Say("report-none", nil)}
	case c.Seat.Catalog.TypeOf(c.x.Table, field).Kind == expr.YesNo:
		out.Label = words.Say("report-"+out.Key, nil)
	}
	if label := g.Labels[place]; label != nil {
		out.Label = *label
	}
	l := c.Seat.Blueprint.List(c.Seat.Catalog.TypeOf(c.x.Table, field).List)
	if l != nil && l.Choice(out.Key) != nil {
		ch := l.Choice(out.Key)
		out.Label, out.Colour = ch.Label, ch.Values[l.FirstColumn(blueprint.ColourColumn)]
	}
	return out
}

// found are the values of groups, by where they stand: on the axis and, where groups are parted, among the parts.
type found map[[2]string][]*string

func foundIn(groups []query.Group) found {
	out := found{}
	for _, g := range groups {
		if g.Whole {
			continue
		}
		at := [2]string{}
		for i := range g.Keys {
			at[i] = placeOf(ChartGroup{Key: keyOf(g, i), Others: g.Others[i]})
		}
		out[at] = g.Values
	}
	return out
}

// values puts the values of a measure to groups, of one part where they are parted.
func (c *charted) values(axis []ChartGroup, part *ChartGroup, place int, of found) []*string {
	at := [2]string{}
	if part != nil {
		at[1] = placeOf(*part)
	}
	out := make([]*string, len(axis))
	for i, g := range axis {
		at[0] = placeOf(g)
		if values, is := of[at]; is {
			out[i] = values[place]
		} else {
			out[i] = nothingOf(c.r.Measures[place].Total)
		}
	}
	return out
}

// valuesBefore puts the values of other days to groups: the first of its days to the first, and so on, where groups are days.
func (c *charted) valuesBefore(axis []ChartGroup, part *ChartGroup, place int, of found) []*string {
	span, _ := c.before()
	if c.unit == "" || c.x.By != c.x.Date {
		return c.values(axis, part, place, of)
	}
	var days []ChartGroup
	for _, day := range c.calendar.Parts(c.unit, span) {
		days = append(days, ChartGroup{Key: report.Written(day)})
	}
	out := make([]*string, len(axis))
	copy(out, c.values(days, part, place, of))
	return out
}

// aim puts the targets of measures to groups: a number to all of them, and what stands in a table to the days for which it is.
func (c *charted) aim(out *Chart, places []int, goals map[int]map[string]*string) {
	if c.x.Then != "" || c.x.Shape == blueprint.Donut {
		return
	}
	for i, place := range places {
		m := out.Measures[i]
		if m.Goal == nil {
			continue
		}
		at := make([]*string, len(out.Groups))
		for j, g := range out.Groups {
			switch {
			case m.Goal.At != nil && !c.regrouped():
				at[j] = m.Goal.At // which is for each of the groups that it begins with
			case c.goalUnit() != "":
				at[j] = goals[place][g.Key]
			}
		}
		out.Series[i].Goal = at
	}
}
