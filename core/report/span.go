package report

import (
	"fmt"
	"slices"
	"time"
)

// Range is a span of time that moves along with today.
type Range string

// The ranges. Weeks, months, quarters and years are whole ones, also the one in which today is.
const (
	Always      Range = ""
	Today       Range = "today"
	Yesterday   Range = "yesterday"
	LastHours   Range = "last 24 hours" // to the minute, where Today is a day of the calendar
	Last7       Range = "last 7 days"
	Last30      Range = "last 30 days"
	ThisWeek    Range = "this week"
	LastWeek    Range = "last week"
	ThisMonth   Range = "this month"
	LastMonth   Range = "last month"
	ThisQuarter Range = "this quarter"
	LastQuarter Range = "last quarter"
	ThisYear    Range = "this year"
	LastYear    Range = "last year"
	Last12      Range = "last 12 months" // the month in which today is, and eleven before
)

// Ranges lists the ranges in the order in which they are offered.
func Ranges() []Range {
	return []Range{Today, Yesterday, LastHours, Last7, Last30, ThisWeek, LastWeek, ThisMonth, LastMonth, ThisQuarter, LastQuarter,
		ThisYear, LastYear, Last12}
}

// Known tells whether there is such a range.
func (r Range) Known() bool { return r == Always || slices.Contains(Ranges(), r) }

// Span is from one day to another, both of which belong to it. Days are midnights in UTC, whatever zone they are days of;
// the zero day stands for an open end.
type Span struct {
	From, To time.Time
	// Since is the moment from which on it counts, where that is no day; From and To are days around it then.
	Since time.Time
}

// Calendar is how days are counted: which one it is, and with which one weeks begin.
type Calendar struct {
	Now   time.Time // the moment
	Zone  *time.Location
	First time.Weekday
}

// Today is the day in the zone.
func (c Calendar) Today() time.Time { return dayOf(c.Now.In(c.Zone)) }

func dayOf(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
}

// Span gives the days of a range.
func (c Calendar) Span(r Range) Span {
	today := c.Today()
	last := func(days int) Span { return Span{From: today.AddDate(0, 0, 1-days), To: today} }
	if u, back, is := r.Period(); is {
		return c.Ago(u, back)
	}
	switch r {
	case LastHours:
		since := c.Now.Add(-24 * time.Hour)
		return Span{From: dayOf(since.In(c.Zone)), To: today, Since: since}
	case Last7:
		return last(7)
	case Last30:
		return last(30)
	case Last12:
		this := c.Ago(Month, 0)
		return Span{From: this.From.AddDate(0, -11, 0), To: this.To}
	}
	return Span{}
}

// Start gives the first day of the unit in which a day is.
func (c Calendar) Start(u Unit, day time.Time) time.Time {
	switch u {
	case Week:
		return day.AddDate(0, 0, -(int(day.Weekday())-int(c.First)+7)%7)
	case Month:
		return day.AddDate(0, 0, 1-day.Day())
	case Quarter:
		return time.Date(day.Year(), day.Month()-(day.Month()-1)%3, 1, 0, 0, 0, 0, time.UTC)
	case Year:
		return time.Date(day.Year(), 1, 1, 0, 0, 0, 0, time.UTC)
	}
	return day
}

// Next gives the first day of the unit after that which begins on a day.
func (c Calendar) Next(u Unit, start time.Time) time.Time {
	switch u {
	case Week:
		return start.AddDate(0, 0, 7)
	case Month:
		return start.AddDate(0, 1, 0)
	case Quarter:
		return start.AddDate(0, 3, 0)
	case Year:
		return start.AddDate(1, 0, 0)
	}
	return start.AddDate(0, 0, 1)
}

// MostParts is into how many parts a span is parted at most.
const MostParts = 1000

// Parts gives the first days of the units into which a span falls, also of those that it covers in part. It gives nil
// where an end of it is open, and where there were more than [MostParts].
func (c Calendar) Parts(u Unit, s Span) []time.Time {
	if s.From.IsZero() || s.To.IsZero() {
		return nil
	}
	var out []time.Time
	for at := c.Start(u, s.From); !at.After(s.To); at = c.Next(u, at) {
		if len(out) == MostParts {
			return nil
		}
		out = append(out, at)
	}
	return out
}

// Unit gives the unit in which a span has not too many parts to be looked at, and not too few.
func (c Calendar) Unit(s Span) Unit {
	if s.From.IsZero() || s.To.IsZero() {
		return Month
	}
	switch days := int(s.To.Sub(s.From).Hours()/24) + 1; {
	case days <= 31:
		return Day
	case days <= 120:
		return Week
	case days <= 3*366:
		return Month
	case days <= 8*366:
		return Quarter
	}
	return Year
}

// Before gives the span with which one is compared; false where it has an open end. A span that is not over yet is compared
// with as many days as there were of it. Before whole months comes as many
// whole months; a year before whole months are these months, and a year before 29 February is the 28th.
func (c Calendar) Before(how Compare, s Span) (Span, bool) {
	out, ok := c.whole(how, s)
	if today := c.Today(); ok && s.Since.IsZero() && !today.Before(s.From) && today.Before(s.To) {
		last := out.From.Add(today.Sub(s.From))
		if how == YearBefore {
			last = yearBefore(today)
		}
		if last.Before(out.To) {
			out.To = last
		}
	}
	return out, ok
}

// whole is [Calendar.Before] of a span that is over.
func (c Calendar) whole(how Compare, s Span) (Span, bool) {
	switch {
	case how == NotCompared, s.From.IsZero(), s.To.IsZero():
		return Span{}, false
	case how == YearBefore:
		out := Span{From: yearBefore(s.From), To: yearBefore(s.To)}
		if wholeMonths(s) > 0 {
			out.To = s.To.AddDate(0, 0, 1).AddDate(-1, 0, -1)
		}
		if !s.Since.IsZero() {
			out.Since = s.Since.In(c.Zone).AddDate(-1, 0, 0)
		}
		return out, true
	case !s.Since.IsZero():
		before := s.Since.Add(-c.Now.Sub(s.Since))
		return Span{From: dayOf(before.In(c.Zone)), To: dayOf(s.Since.In(c.Zone)), Since: before}, true
	}
	last := s.From.AddDate(0, 0, -1)
	if months := wholeMonths(s); months > 0 {
		return Span{From: s.From.AddDate(0, -months, 0), To: last}, true
	}
	return Span{From: last.Add(-s.To.Sub(s.From)), To: last}, true
}

// wholeMonths gives how many months a span is made of, or 0.
func wholeMonths(s Span) int {
	after := s.To.AddDate(0, 0, 1)
	if s.From.Day() != 1 || after.Day() != 1 {
		return 0
	}
	return (after.Year()-s.From.Year())*12 + int(after.Month()) - int(s.From.Month())
}

func yearBefore(day time.Time) time.Time {
	if last := time.Date(day.Year()-1, day.Month()+1, 0, 0, 0, 0, 0, time.UTC); day.Day() > last.Day() {
		return last
	}
	return day.AddDate(-1, 0, 0)
}

// String writes the days as in ISO 8601, with .. between.
func (s Span) String() string { return fmt.Sprintf("%s..%s", Written(s.From), Written(s.To)) }

// Written writes a day as in ISO 8601; "" for an open end.
func Written(day time.Time) string {
	if day.IsZero() {
		return ""
	}
	return day.Format(time.DateOnly)
}

// Period gives the unit of the calendar that a range is, and how many such units ago; false where it is none, as the last 7
// days are.
func (r Range) Period() (u Unit, back int, is bool) {
	switch r {
	case Today:
		return Day, 0, true
	case Yesterday:
		return Day, 1, true
	case ThisWeek:
		return Week, 0, true
	case LastWeek:
		return Week, 1, true
	case ThisMonth:
		return Month, 0, true
	case LastMonth:
		return Month, 1, true
	case ThisQuarter:
		return Quarter, 0, true
	case LastQuarter:
		return Quarter, 1, true
	case ThisYear:
		return Year, 0, true
	case LastYear:
		return Year, 1, true
	}
	return "", 0, false
}

// Ago gives the unit of the calendar in which today is, or one that many before it.
func (c Calendar) Ago(u Unit, back int) Span {
	from := c.Start(u, c.Today())
	for range back {
		from = c.Start(u, from.AddDate(0, 0, -1))
	}
	return Span{From: from, To: c.Next(u, from).AddDate(0, 0, -1)}
}
