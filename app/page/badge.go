package page

import (
	"context"
	"fmt"
	"slices"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/report"
	"pinegate/core/words"
	"pinegate/store/records"
)

// Badge is what a figure gives to whoever looks once its targets are reached.
type Badge struct {
	Name    string `json:"name"`
	Picture string `json:"picture,omitempty"`
	// Won tells that they have it for the period that is now.
	Won bool `json:"won,omitempty"`
	// Due tells that it is to be given or taken back, which is done once that is asked for.
	Due bool `json:"due,omitempty"`
}

// Celebrated is what was reached just now, and was not before: the badge for each period, the earliest first.
type Celebrated struct {
	Name    string `json:"name"`
	Picture string `json:"picture,omitempty"`
	Days    []Days `json:"days"`
}

// award is the badge of a figure for one period, and how it stands with whoever looks.
type award struct {
	from string // first day of the period
	span report.Span
	// open tells that the period is not over, so that what was reached can be lost. Of one that is shown as it is now, and not over
	// days, snapshot tells that it counts at once, also where it is to be at most something.
	open, snapshot bool
	reached        bool
	record         string // of the badge, or ""
	stands         bool   // it was given, and not taken back
}

// adds, regains and falls tell what is to be done about an award.
func (a *award) adds() bool    { return a.reached && a.record == "" }
func (a *award) regains() bool { return a.reached && a.record != "" && !a.stands }
func (a *award) falls() bool   { return !a.reached && a.open && a.stands }

// awarding is a figure that gives a badge to a person. It goes over the days of the figure itself: what somebody chose to look
// at reaches nothing.
type awarding struct {
	*reported
	x     *blueprint.FigureBlock
	table *blueprint.Table
	me    string
	// app is the seat in which badges are read and written: people cannot give themselves any.
	app *records.Seat
}

// awarding gives how a figure awards its badge; nil where it gives none to whoever looks.
func (v *View) awarding(x *blueprint.FigureBlock) (*awarding, error) {
	if x.Badge == "" || v.Hand != "" || v.part != nil {
		return nil, nil
	}
	t := v.Seat.Blueprint.Table(x.Badges)
	me := v.Seat.Viewer.Me(v.Seat.Blueprint, t.Field(x.Who).Target)
	if sees, err := v.Seat.Allowed(x.Table, blueprint.See); me == "" || err != nil || !sees {
		return nil, err // who sees nothing at all has not kept it low
	}
	plain := *v
	plain.Asks = nil
	r, err := plain.reported(x)
	if err != nil {
		return nil, err
	}
	return &awarding{r, x, t, me, v.Seat.AsApp(words.Say("badges-by", nil))}, nil
}

// aims lists the measures that have a target.
func (a *awarding) aims() []int {
	places, _ := a.shown()
	return slices.DeleteFunc(slices.Clone(places), func(i int) bool { return a.r.Measures[i].Goal.Goal == blueprint.NoGoal })
}

// awards lists the periods of which something can be given or taken back: the one that is now, and the one before.
func (a *awarding) awards() []*award {
	unit, back, calendar := report.Range(a.days.Range).Period()
	if !calendar {
		if unit = a.x.Each; unit == "" {
			unit = report.Week
		}
		from := a.calendar.Start(unit, a.calendar.Today())
		return []*award{{from: report.Written(from), span: a.span, open: true, snapshot: true}}
	}
	ago := func(n int) *award {
		s := a.calendar.Ago(unit, n)
		return &award{from: report.Written(s.From), span: s, open: n == 0}
	}
	if back > 0 {
		return []*award{ago(back)}
	}
	return []*award{ago(1), ago(0)}
}

// judge reads how it stands: which badges there are, and whether what is aimed at is reached in each period. Both are read
// anew, so that what a browser says does not count.
func (a *awarding) judge(ctx context.Context, road records.Road) ([]*award, error) {
	aims := a.aims()
	if len(aims) == 0 {
		return nil, nil
	}
	out := a.awards()
	if err := a.standing(ctx, road, out); err != nil {
		return nil, err
	}
	for _, p := range out {
		if p.stands && !p.open { // nothing takes it back any more
			p.reached = true
			continue
		}
		var err error
		if p.reached, err = a.during(p).reaches(ctx, road, aims, p); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// during is the figure over a period.
func (a *awarding) during(p *award) *reported {
	out := *a.reported
	out.span, out.days.From, out.days.To = p.span, report.Written(p.span.From), report.Written(p.span.To)
	return &out
}

// reaches tells whether all targets are reached in a period.
func (r *reported) reaches(ctx context.Context, road records.Road, aims []int, p *award) (bool, error) {
	whole, err := r.query(p.span)
	if err != nil {
		return false, err
	}
	aimed, err := r.goalReads("")
	if err != nil {
		return false, err
	}
	got, err := road.Batch(ctx, r.Seat, append([]records.Read{{Report: whole}}, aimed...))
	if err != nil {
		return false, err
	}
	groups, err := r.groups(got[0])
	if err != nil || len(groups) == 0 {
		return false, err
	}
	tables, err := r.goals(got[1:], "")
	if err != nil {
		return false, err
	}
	for _, place := range aims {
		value := groups[0].Values[place]
		if groups[0].Count == 0 { // else what is empty is not known, or not seen
			value = nothingOf(r.r.Measures[place].Total)
		}
		goal := r.goalOf(&r.r.Measures[place])
		if at := tables[place]; at != nil {
			goal.At = at[""]
		}
		if !goal.reached(value) || p.open && !p.snapshot && goal.Kind != string(blueprint.AtLeast) {
			return false, nil // what is to be at most something is reached once its period is over
		}
	}
	return true, nil
}

// reached tells whether a number is what it is to come to. One that is empty is not.
func (g *Goal) reached(value *string) bool {
	if value == nil || g.At == nil {
		return false
	}
	v, err := decimal.NewFromString(*value)
	at, wrong := decimal.NewFromString(*g.At)
	if err != nil || wrong != nil {
		return false
	}
	switch blueprint.GoalKind(g.Kind) {
	case blueprint.AtMost:
		return v.LessThanOrEqual(at)
	case blueprint.BetweenGoal:
		to, err := decimal.NewFromString(g.To)
		return err == nil && v.GreaterThanOrEqual(at) && v.LessThanOrEqual(to)
	}
	return v.GreaterThanOrEqual(at)
}

// standing reads which badges there are for some periods.
func (a *awarding) standing(ctx context.Context, road records.Road, awards []*award) error {
	reads := make([]records.Read, len(awards))
	for i, p := range awards {
		reads[i].List = &query.Selection{Table: a.table, Columns: []string{a.x.Won}, Limit: 1, Narrows: []query.Narrow{
			{Field: a.x.Who, In: []string{a.me}}, {Field: a.x.For, Is: &a.x.ID}, {Field: a.x.FirstOn, From: p.from, To: p.from}}}
	}
	got, err := road.Batch(ctx, a.app, reads)
	if err != nil {
		return err
	}
	for i, p := range awards {
		found, err := Rows(got[i].Rows)
		if err != nil {
			return err
		}
		for _, row := range found {
			p.record, _ = row["id"].(string)
			p.stands = row[a.x.Won] != nil
		}
	}
	return nil
}

// badgeLater finds out how it stands with the badge of a figure, once that is known to be shown.
func (v *View) badgeLater(x *blueprint.FigureBlock, out *Figure) {
	if x.Badge == "" || v.later == nil {
		return
	}
	*v.later = append(*v.later, func(ctx context.Context) error {
		a, err := v.awarding(x)
		aims := slices.ContainsFunc(x.Measures, func(m blueprint.Measure) bool { return m.Goal.Goal != blueprint.NoGoal })
		if err == nil && a == nil && aims && v.Seat.Viewer.Founder { // who is none of the people sees what there is for them
			out.Badge = &Badge{Name: x.Badge, Picture: x.Picture}
		}
		if err != nil || a == nil {
			return err
		}
		awards, err := a.judge(ctx, v.Road)
		if err != nil || len(awards) == 0 {
			return err
		}
		out.Badge = &Badge{Name: x.Badge, Picture: x.Picture, Won: awards[len(awards)-1].stands}
		for _, p := range awards {
			out.Badge.Due = out.Badge.Due || p.adds() || p.regains() || p.falls()
		}
		return nil
	})
}

// Award gives whoever looks the badge of a figure for what is reached, and takes it back where it is not any more while its period
// goes on. What it gives for the first time is to be celebrated; nothing is given twice.
func (v *View) Award(ctx context.Context, road records.Road, id string) (Celebrated, []*records.Write, string, error) {
	in, x, err := At[*blueprint.FigureBlock](v, id)
	if err != nil {
		return Celebrated{}, nil, "", err
	}
	out := Celebrated{Name: x.Badge, Picture: x.Picture, Days: []Days{}}
	a, err := in.awarding(x)
	if err != nil || a == nil {
		return out, nil, "", err
	}
	people := a.Seat.Blueprint.Table(a.table.Field(x.Who).Target)
	if err := road.Hold(ctx, a.app, people, a.me); err != nil { // so that two windows do not give it twice
		return out, nil, "", err
	}
	awards, err := a.judge(ctx, road)
	if err != nil {
		return out, nil, "", err
	}
	var writes []*records.Write
	for _, p := range awards {
		w, err := a.settle(ctx, road, p)
		if err != nil {
			return out, nil, "", fmt.Errorf("give a badge: %w", err)
		}
		if w == nil {
			continue
		}
		writes = append(writes, w)
		if p.adds() {
			days := Days{Range: a.days.Range, From: p.from, To: report.Written(p.span.To)}
			if p.snapshot {
				days = Days{}
			}
			out.Days = append(out.Days, days)
		}
	}
	return out, writes, words.Say("badge-given", words.Args{"thing": x.Badge}), nil
}

// settle does what is to be done about an award; nil where that is nothing.
func (a *awarding) settle(ctx context.Context, road records.Road, p *award) (*records.Write, error) {
	now := expr.TimeOf(a.Seat.Clock.Now)
	switch {
	case p.adds():
		set := map[string]expr.Value{a.x.Who: expr.RecordOf(a.me), a.x.Named: expr.TextOf(a.x.Badge), a.x.For: expr.TextOf(a.x.ID),
			a.x.FirstOn: expr.DateOf(p.from), a.x.Won: now}
		if a.x.Picture != "" {
			set[a.x.Pics] = expr.TextOf(a.x.Picture)
		}
		return road.Add(ctx, a.app, a.table, records.Values{}, set)
	case p.regains():
		return a.mark(ctx, road, p, now)
	case p.falls():
		return a.mark(ctx, road, p, expr.Empty())
	}
	return nil, nil
}

// mark writes down since when a badge stands.
func (a *awarding) mark(ctx context.Context, road records.Road, p *award, at expr.Value) (*records.Write, error) {
	return road.Change(ctx, a.app, a.table, p.record, records.AnyRevision, records.Values{}, map[string]expr.Value{a.x.Won: at})
}
