package blueprint

import (
	"time"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var waitStepKind = StepKind{
	Name:  "wait",
	Label: "Wait",
	Noun:  "step that waits",
	Help:  "For a time, until a date, or until something is so; the run is kept, and goes on then",
	New:   func() Step { return &WaitStep{} },
}

// WaitsFor is what a step waits for.
type WaitsFor string

// What a step can wait for.
const (
	WaitsTime      WaitsFor = "time"
	WaitsDate      WaitsFor = "date"
	WaitsCondition WaitsFor = "condition"
)

// Unit is a unit of time.
type Unit string

// The units of time. Days and weeks are those of clocks in the app's time zone.
const (
	Minutes Unit = "minutes"
	Hours   Unit = "hours"
	Days    Unit = "days"
	Weeks   Unit = "weeks"
)

// MostWait is how long a step can wait, in days.
const MostWait = 366

// WaitStep ends a part of the run, and begins the next one later.
type WaitStep struct {
	StepHead
	For   WaitsFor `json:"for"`
	N     int      `json:"n,omitempty"` // how many units; of a condition, at most
	Unit  Unit     `json:"unit,omitempty"`
	Until string   `json:"until,omitempty"` // a date, or a time stamp
	At    string   `json:"at,omitempty"`    // hh:mm on that date
	Holds string   `json:"holds,omitempty"` // the condition
}

// Row gives the kind.
func (*WaitStep) Row() *StepKind { return &waitStepKind }

// Called says which step it is.
func (*WaitStep) Called(c Context) string { return calledStep(&waitStepKind, c) }

// Core is the sentence that tells it.
func (x *WaitStep) Core(c Context) string {
	switch {
	case x.For == WaitsCondition:
		return "Wait {for} {holds}, at most {n} {unit}"
	case x.For == WaitsDate && x.onDay(c):
		return "Wait {for} {until}, at {at}"
	case x.For == WaitsDate:
		return "Wait {for} {until}"
	}
	return "Wait {for} {n} {unit}"
}

// onDay tells whether it waits until a date, and no time stamp.
func (x *WaitStep) onDay(c Context) bool {
	if c.flow == nil {
		return true
	}
	t, err := expr.Check(x.Until, c.Flows())
	return err != nil || t.Type().Kind != expr.Time
}

// Props lists its settings.
func (x *WaitStep) Props(c Context) []prop.Prop {
	out := []prop.Prop{{
		Name:   "for",
		Label:  "Wait",
		Noun:   "what it waits for",
		Must:   true,
		Asked:  true,
		Resets: true,
		Value: prop.Pick(&x.For, prop.Option{Value: string(WaitsTime), Words: "for", Label: "For a time"},
			prop.Option{Value: string(WaitsDate), Words: "until", Label: "Until a date"},
			prop.Option{Value: string(WaitsCondition), Words: "until it is so that", Label: "Until something is so"}),
	}}
	switch x.For {
	case WaitsDate:
		out = append(out, prop.Prop{Name: "until", Label: "Until", Noun: "the date", Must: true, Asked: true, Resets: true,
			Hint: "no-date", Value: prop.Expression(&x.Until, c.Flows(), expr.Type{}).Offering(c.dateOffers()), Lost: stepGone})
		if x.onDay(c) {
			out = append(out, prop.Prop{Name: "at", Label: "At, such as 08:00", Noun: "the time", Must: true, Asked: true,
				Value: timeOfDay(&x.At)})
		}
		return out
	case WaitsCondition:
		out = append(out, prop.Prop{Name: "holds", Label: "Until", Noun: "the condition", Must: true, Asked: true,
			Value: prop.Condition(&x.Holds, c.Flows()), Lost: stepGone})
	}
	label := "How many"
	if x.For == WaitsCondition {
		label = "At most how many"
	}
	return append(out,
		prop.Prop{Name: "n", Label: label, Noun: "how long it waits", Must: true, Asked: true, Value: prop.Number(&x.N, 1, 1000)},
		prop.Prop{Name: "unit", Label: "Of", Noun: "the unit of time", Must: true, Asked: true, Value: prop.Pick(&x.Unit, x.units()...)})
}

func (x *WaitStep) units() []prop.Option {
	one := map[Unit]string{Minutes: "minute", Hours: "hour", Days: "day", Weeks: "week"}
	var out []prop.Option
	for _, u := range []Unit{Minutes, Hours, Days, Weeks} {
		o := prop.Option{Value: string(u), Words: string(u)}
		if x.N == 1 {
			o.Words = one[u]
		}
		out = append(out, o)
	}
	return out
}

// Check refuses what is no date, and what takes too long.
func (x *WaitStep) Check(c Context) *words.Problem {
	if x.For == WaitsDate && c.flow != nil {
		if t, err := expr.Check(x.Until, c.Flows()); err == nil && t.Type().Kind != expr.Date && t.Type().Kind != expr.Time {
			return words.New("flow-date")
		}
		return nil
	}
	begin := time.Unix(0, 0).UTC()
	if x.After(begin, time.UTC).After(begin.AddDate(0, 0, MostWait)) {
		return words.New("flow-wait", "n", MostWait)
	}
	return nil
}

// Start names whether what it waits for came in time.
func (x *WaitStep) Start(c Context) { x.begin(c, x) }

// Rename gives that another name; expressions follow.
func (x *WaitStep) Rename(c Context, name string) error { return x.rename(c, name) }

// Makes gives the type of what it makes: of a condition, whether it came to hold in time.
func (x *WaitStep) Makes(Context) expr.Type {
	if x.For != WaitsCondition {
		return expr.Type{}
	}
	return expr.Type{Kind: expr.YesNo}
}

func (*WaitStep) made(Context) string { return "in time" }

// After gives the time that is so many units after one, as clocks of a time zone count days.
func (x *WaitStep) After(begin time.Time, zone *time.Location) time.Time {
	switch x.Unit {
	case Minutes:
		return begin.Add(time.Duration(x.N) * time.Minute)
	case Hours:
		return begin.Add(time.Duration(x.N) * time.Hour)
	case Weeks:
		return begin.In(zone).AddDate(0, 0, 7*x.N)
	}
	return begin.In(zone).AddDate(0, 0, x.N)
}

// Clock gives the time of day at which it goes on.
func (x *WaitStep) Clock() (hour, minute int) { return clockAt(x.At) }

// dateOffers offers the dates and time stamps of the record in hand, and of those that steps before made.
func (c Context) dateOffers() func(func(prop.Option) bool) {
	return func(yield func(prop.Option) bool) {
		if c.flow == nil || c.catalog == nil {
			return
		}
		s := c.Flows()
		dates := func(prefix string, t *expr.Table) bool {
			if t == nil {
				return true
			}
			for _, f := range t.Fields {
				is := (f.Type.Kind == expr.Date || f.Type.Kind == expr.Time) && !f.Type.Many
				if is && !yield(prop.Option{Value: prefix + f.Key}) {
					return false
				}
			}
			return true
		}
		if !dates("", c.catalog.Tables[s.Row]) || s.Made == nil || !dates("made.", s.Made) {
			return
		}
		for _, f := range s.Made.Fields {
			if f.Type.Kind == expr.Record && !f.Type.Many && !dates("made."+f.Key+".", c.catalog.Tables[f.Type.Table]) {
				return
			}
		}
	}
}
