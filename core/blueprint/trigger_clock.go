package blueprint

import (
	"regexp"
	"strconv"
	"time"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// ClockTrigger is a trigger that the clock sets off, in the live app alone.
type ClockTrigger interface {
	Trigger
	// Clock says when.
	Clock() Clock
}

// Clock is when something comes back: in the app's time zone.
type Clock struct {
	Every   Every
	Weekday time.Weekday // of every week
	Day     int          // of every month; the last one where a month has fewer
	Hour    int
	Minute  int
	Missed  Missed
}

// Every is how often something comes back.
type Every string

// How often.
const (
	EveryDay     Every = "day"
	EveryWorkday Every = "workday"
	EveryWeek    Every = "week"
	EveryMonth   Every = "month"
)

// Missed is what becomes of times at which no server was there.
type Missed string

// What can become of them.
const (
	MissedOnce Missed = ""     // it runs once for all of them
	MissedAll  Missed = "all"  // it runs for each
	MissedNone Missed = "none" // they are left out
)

var timePattern = regexp.MustCompile(`^([01][0-9]|2[0-3]):[0-5][0-9]$`)

// timeOfDay is the setting of a time of day.
func timeOfDay(at *string) prop.TextValue {
	v := prop.Text(at)
	v.Most = 5
	v.Right = func(s string) *words.Problem {
		if !timePattern.MatchString(s) {
			return words.New("flow-time", "value", s)
		}
		return nil
	}
	return v
}

func clockAt(at string) (hour, minute int) {
	t, err := time.Parse("15:04", at)
	if err != nil { // which no valid blueprint has
		return 0, 0
	}
	return t.Hour(), t.Minute()
}

func missedProp(at *Missed) prop.Prop {
	return prop.Prop{
		Name:  "missed",
		Label: "Times at which the server was off",
		Noun:  "what becomes of missed times",
		Help:  "It runs once for all of them unless you say",
		Group: "When",
		Say:   ". Missed times: {}",
		Value: prop.Pick(at,
			prop.Option{Value: string(MissedOnce), Words: "once", Label: "Run once for all of them"},
			prop.Option{Value: string(MissedAll), Words: "all", Label: "Run for each of them"},
			prop.Option{Value: string(MissedNone), Words: "none", Label: "Leave them out"}),
	}
}

var scheduleKind = TriggerKind{
	Name:  "schedule",
	Label: "The clock: every day, week or month",
	Help:  "In the app’s time zone, in the live app",
	New:   func() Trigger { return &ScheduleTrigger{} },
}

// ScheduleTrigger starts a workflow again and again.
type ScheduleTrigger struct {
	TriggerHead
	Every   Every  `json:"every"`
	Weekday string `json:"weekday,omitempty"` // 1 for Monday to 7
	Day     int    `json:"day,omitempty"`
	At      string `json:"at"` // hh:mm
	Missed  Missed `json:"missed,omitempty"`
}

// Row gives the kind.
func (*ScheduleTrigger) Row() *TriggerKind { return &scheduleKind }

// Core is the sentence that tells it.
func (x *ScheduleTrigger) Core(Context) string {
	switch x.Every {
	case EveryWeek:
		return "Starts {every} on {weekday} at {at}"
	case EveryMonth:
		return "Starts {every} on day {day} at {at}"
	}
	return "Starts {every} at {at}"
}

// Props lists its settings.
func (x *ScheduleTrigger) Props(c Context) []prop.Prop {
	out := []prop.Prop{{
		Name:   "every",
		Label:  "How often",
		Noun:   "how often it starts",
		Must:   true,
		Asked:  true,
		Resets: true,
		Value: prop.Pick(&x.Every, prop.Option{Value: string(EveryDay), Words: "every day"},
			prop.Option{Value: string(EveryWorkday), Words: "every day from Monday to Friday"},
			prop.Option{Value: string(EveryWeek), Words: "every week"}, prop.Option{Value: string(EveryMonth), Words: "every month"}),
	}}
	if x.Every == EveryWeek {
		var days []prop.Option
		for i := range 7 {
			days = append(days, prop.Option{Value: strconv.Itoa(i + 1), Words: time.Weekday((i + 1) % 7).String()})
		}
		out = append(out, prop.Prop{Name: "weekday", Label: "On", Noun: "the day", Must: true, Asked: true,
			Value: prop.Pick(&x.Weekday, days...)})
	}
	if x.Every == EveryMonth {
		out = append(out, prop.Prop{Name: "day", Label: "On day", Noun: "the day", Must: true, Asked: true,
			Value: prop.Number(&x.Day, 1, 31)})
	}
	return append(out,
		prop.Prop{Name: "at", Label: "At, such as 08:00", Noun: "the time", Must: true, Asked: true, Value: timeOfDay(&x.At)},
		x.whenProp(c, "Only when", ". It starts only when {}"), missedProp(&x.Missed))
}

// Clock says when it starts.
func (x *ScheduleTrigger) Clock() Clock {
	out := Clock{Every: x.Every, Day: x.Day, Missed: x.Missed}
	out.Hour, out.Minute = clockAt(x.At)
	if n, err := strconv.Atoi(x.Weekday); err == nil {
		out.Weekday = time.Weekday(n % 7)
	}
	return out
}

func (x *ScheduleTrigger) scope(c Context) expr.Scope { return expr.Scope{Catalog: c.catalog} }

var dateKind = TriggerKind{
	Name:  "date",
	Label: "The clock: before or after a date of a record",
	Help:  "For each record, so many days before or after; in the live app",
	New:   func() Trigger { return &DateTrigger{} },
}

// Beside is on which side of a date something is.
type Beside string

// The sides.
const (
	BeforeDate Beside = "before"
	AfterDate  Beside = "after"
)

// DateTrigger starts a workflow for each record of a table so many days before or after a date that
// it holds. It goes by the date that the record holds then.
type DateTrigger struct {
	TriggerHead
	Table string `json:"table"`
	Field string `json:"field"`
	Days  int    `json:"days,omitempty"`
	Side  Beside `json:"side"`
	At    string `json:"at"` // hh:mm
}

// Row gives the kind.
func (*DateTrigger) Row() *TriggerKind { return &dateKind }

// Core is the sentence that tells it.
func (x *DateTrigger) Core(Context) string {
	if x.Days == 0 {
		return "Starts on the day of {field} of each record in {table}, at {at}"
	}
	return "Starts {days} days {side} {field} of each record in {table}, at {at}"
}

// Props lists its settings.
func (x *DateTrigger) Props(c Context) []prop.Prop {
	return []prop.Prop{flowTable(&x.Table, c), {
		Name:  "field",
		Label: "The date",
		Noun:  "the date",
		Must:  true,
		Asked: true,
		Hint:  "no-date",
		Value: prop.One(&x.Field, c.Fields(x.Table, func(f *Field) bool { return f.Type == Date })),
		Lost:  flowGone,
	}, {
		Name:  "days",
		Label: "Days before or after; empty for the day itself",
		Noun:  "how many days",
		Asked: true,
		Help:  "On the day itself unless you say",
		Group: "When",
		Value: prop.Number(&x.Days, 1, 1000),
	}, {
		Name:  "side",
		Label: "Before or after",
		Noun:  "the side",
		Must:  true,
		Asked: true,
		Value: prop.Pick(&x.Side, prop.Option{Value: string(BeforeDate), Words: "before"},
			prop.Option{Value: string(AfterDate), Words: "after"}),
	}, {Name: "at", Label: "At, such as 08:00", Noun: "the time", Must: true, Asked: true, Value: timeOfDay(&x.At)},
		x.whenProp(c, "Only when", ". It starts only when {}")}
}

// Clock says when its records are looked for. Days that were missed are looked at afterwards.
func (x *DateTrigger) Clock() Clock {
	out := Clock{Every: EveryDay, Missed: MissedAll}
	out.Hour, out.Minute = clockAt(x.At)
	return out
}

func (x *DateTrigger) scope(c Context) expr.Scope {
	return expr.Scope{Catalog: c.catalog, Row: x.Table}
}

// For gives the day on which it starts for a date that a record holds.
func (x *DateTrigger) For(date time.Time) time.Time {
	if x.Side == BeforeDate {
		return date.AddDate(0, 0, -x.Days)
	}
	return date.AddDate(0, 0, x.Days)
}

// On gives the date that a record holds for which it starts on a day.
func (x *DateTrigger) On(day time.Time) time.Time {
	if x.Side == BeforeDate {
		return day.AddDate(0, 0, x.Days)
	}
	return day.AddDate(0, 0, -x.Days)
}
