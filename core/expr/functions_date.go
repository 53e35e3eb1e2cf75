package expr

import (
	"strconv"
	"time"

	"github.com/shopspring/decimal"
)

// Clock says what time it is for a whole request, and where.
type Clock struct {
	Now  time.Time
	Zone *time.Location // nil means UTC
}

// Today is the current date in the zone, as ISO 8601.
func (c Clock) Today() string { return c.Now.In(c.zone()).Format(time.DateOnly) }

func (c Clock) zone() *time.Location {
	if c.Zone == nil {
		return time.UTC
	}
	return c.Zone
}

// At gives the instant at which clocks in the zone show the time of day of a
// value in UTC. A time that is skipped is read by the offset from before, and
// one that comes twice by that from after, as PostgreSQL does.
func (c Clock) At(local time.Time) time.Time {
	offset := func(t time.Time) time.Duration {
		_, seconds := t.In(c.zone()).Zone()
		return time.Duration(seconds) * time.Second
	}
	before, after := offset(local.Add(-26*time.Hour)), offset(local.Add(26*time.Hour))
	a, b := local.Add(-before), local.Add(-after)
	if offset(b) == after {
		return b
	}
	return a
}

// Local gives what clocks in the zone show at the instant, as a value in UTC.
func (c Clock) Local(t time.Time) time.Time {
	_, seconds := t.In(c.zone()).Zone()
	return t.UTC().Add(time.Duration(seconds) * time.Second)
}

func itoa(n int) string { return strconv.Itoa(n) }

func day(v Value) time.Time {
	t, _ := time.Parse(time.DateOnly, v.Text)
	return t
}

func instant(v Value) time.Time {
	t, _ := time.Parse(timeLayout, v.Text)
	return t
}

func dateOf(t time.Time) Value {
	if t.Year() < 1 || t.Year() > 9999 {
		return Empty()
	}
	return DateOf(t.Format(time.DateOnly))
}

// addMonths adds months to a date; a day that the month does not have becomes
// its last.
func addMonths(t time.Time, months int) (time.Time, bool) {
	total := t.Year()*12 + int(t.Month()) - 1 + months
	year, month := total/12, total%12
	if total < 12 || year > 9999 {
		return t, false
	}
	first := time.Date(year, time.Month(month+1), 1, 0, 0, 0, 0, time.UTC)
	last := first.AddDate(0, 1, -1).Day()
	return first.AddDate(0, 0, min(t.Day(), last)-1), true
}

// monthsBetween counts the whole months from a date to a later one.
func monthsBetween(a, b time.Time) int {
	m := (b.Year()-a.Year())*12 + int(b.Month()) - int(a.Month())
	if b.Day() < a.Day() {
		m--
	}
	return m
}

// daysBetween reckons by seconds, as a time.Duration holds 292 years only.
func daysBetween(a, b time.Time) int { return int((b.Unix() - a.Unix()) / 86_400) }

// weekdaysUntil counts the days from Monday to Friday up to the date, from the
// first day of the calendar, which was a Monday.
func weekdaysUntil(days int) int {
	weeks, rest := days/7, days%7
	if rest < 0 {
		weeks, rest = weeks-1, rest+7
	}
	return weeks*5 + min(rest, 5)
}

func dayNumber(t time.Time) int {
	return daysBetween(time.Date(1, 1, 1, 0, 0, 0, 0, time.UTC), t) + 1
}

func dateFunctions() map[string]function {
	part := func(usage, help, sql string, f func(t time.Time) int) function {
		return function{params: "d", usage: usage, help: help, result: Number, sql: sql,
			eval: func(_ *evaluator, a []Value) Value { return count(f(day(a[0]))) }}
	}
	clock := func(usage, help, part string, f func(t time.Time) int) function {
		return function{params: "s", usage: usage, help: help, result: Number,
			eval: func(e *evaluator, a []Value) Value { return count(f(e.clock().Local(instant(a[0])))) },
			compile: func(c *Compiler, n *Node) (string, error) {
				x, err := c.Value(n.Args[0])
				return "extract(" + part + " FROM " + c.local(x) + ")", err
			}}
	}
	date := func(params, usage, help, sql string, f func(a []Value) Value) function {
		return function{params: params, usage: usage, help: help, result: Date, sql: sql,
			eval: func(_ *evaluator, a []Value) Value { return f(a) }}
	}
	return map[string]function{
		"TODAY": {usage: "TODAY()", help: "The current date.", result: Date, changes: true,
			eval:    func(e *evaluator, _ []Value) Value { return DateOf(e.clock().Today()) },
			compile: func(c *Compiler, _ *Node) (string, error) { return c.Param(Moment(c.Clock.Today()), "date"), nil }},
		"NOW": {usage: "NOW()", help: "The current date and time.", result: Time, changes: true,
			eval: func(e *evaluator, _ []Value) Value { return TimeOf(e.clock().Now) },
			compile: func(c *Compiler, _ *Node) (string, error) {
				return c.Param(Moment(TimeOf(c.Clock.Now).Text), "timestamptz"), nil
			}},
		"YEAR":  part("YEAR(date)", "The year.", "date_year", time.Time.Year),
		"MONTH": part("MONTH(date)", "The month, from 1 to 12.", "date_month", func(t time.Time) int { return int(t.Month()) }),
		"DAY":   part("DAY(date)", "The day of the month.", "date_day", time.Time.Day),
		"WEEKNUM": part("WEEKNUM(date)", "The number of the week by ISO 8601.", "date_week",
			func(t time.Time) int { _, w := t.ISOWeek(); return w }),
		"HOUR":   clock("HOUR(time stamp)", "The hour, from 0 to 23.", "hour", time.Time.Hour),
		"MINUTE": clock("MINUTE(time stamp)", "The minute, from 0 to 59.", "minute", time.Time.Minute),
		"WEEKDAY": {params: "d n=1", usage: "WEEKDAY(date, kind)",
			help: "The day of the week: from 1 for Sunday; with kind 2 from 1 for Monday, with 3 from 0 for Monday.", result: Number,
			sql: "date_weekday",
			eval: func(_ *evaluator, a []Value) Value {
				d := int(day(a[0]).Weekday())
				switch whole(a[1]) {
				case 1:
					return count(d + 1)
				case 2:
					return count((d+6)%7 + 1)
				case 3:
					return count((d + 6) % 7)
				}
				return Empty()
			}},
		"DATE": date("n n n", "DATE(year, month, day)", "A date. Extra months or days run into the next.", "date_make",
			func(a []Value) Value {
				y, m := whole(a[0]), whole(a[1])
				if y < -100_000 || y > 100_000 || m < -1_000_000 || m > 1_000_000 {
					return Empty()
				}
				first, ok := addMonths(time.Date(1, 1, 1, 0, 0, 0, 0, time.UTC), (y-1)*12+m-1)
				return addDays(first, whole(a[2])-1, ok)
			}),
		"TIME": {params: "d n n n=0", usage: "TIME(date, hour, minute, second)", help: "A date with a time of day.", result: Time,
			changes: true,
			eval: func(e *evaluator, a []Value) Value {
				h, m, s := whole(a[1]), whole(a[2]), whole(a[3])
				if h < 0 || h > 23 || m < 0 || m > 59 || s < 0 || s > 59 {
					return Empty()
				}
				return TimeOf(e.clock().At(day(a[0]).Add(time.Duration(h)*time.Hour + time.Duration(m)*time.Minute +
					time.Duration(s)*time.Second)))
			},
			compile: func(c *Compiler, n *Node) (string, error) { return c.zoned("time_make", n.Args) }},
		"EDATE": date("d n", "EDATE(date, months)", "The date that many months later.", "date_add_months",
			func(a []Value) Value { return monthsLater(a[0], a[1], false) }),
		"EOMONTH": date("d n=0", "EOMONTH(date, months)", "The last day of the month that many months later.", "date_end_of_month",
			func(a []Value) Value { return monthsLater(a[0], a[1], true) }),
		"DAYS": {params: "d d", usage: "DAYS(end, start)", help: "The days from the start to the end.", result: Number, sql: "date_days",
			eval: func(_ *evaluator, a []Value) Value { return count(daysBetween(day(a[1]), day(a[0]))) }},
		"WORKDAYS": {params: "d d", usage: "WORKDAYS(start, end)", help: "The days from Monday to Friday, counting both ends.",
			result: Number, sql: "date_workdays",
			eval: func(_ *evaluator, a []Value) Value {
				x, y := dayNumber(day(a[0])), dayNumber(day(a[1]))
				if x > y {
					return count(weekdaysUntil(y-1) - weekdaysUntil(x))
				}
				return count(weekdaysUntil(y) - weekdaysUntil(x-1))
			}},
		"DATEDIF": {params: "d d t", usage: `DATEDIF(start, end, "y|m|d|ym|yd|md")`,
			help:   "Whole years, months or days between two dates. ym: months after the years. yd, md: days after the years, or months.",
			result: Number, sql: "date_difference",
			check: unitCheck("DATEDIF", 2, "y", "m", "d", "ym", "yd", "md"),
			eval:  func(_ *evaluator, a []Value) Value { return difference(day(a[0]), day(a[1]), a[2].Text) }},
		"STARTOF": {params: "d t", usage: `STARTOF(date, "week|month|quarter|year")`,
			help: "The first day of the week, month, quarter or year.", result: Date, sql: "date_start_of",
			check: unitCheck("STARTOF", 1, unitsOfTime()...),
			eval:  func(_ *evaluator, a []Value) Value { return startOf(day(a[0]), a[1].Text) }},
		"ADDDAYS": {params: "d n", usage: "ADDDAYS(date, days)", help: "The date that many days later. A time of day stays.",
			check: checkAddDays, eval: func(e *evaluator, a []Value) Value {
				if a[0].Kind == Time {
					return timeDaysLater(e.clock(), instant(a[0]), whole(a[1]))
				}
				return addDays(day(a[0]), whole(a[1]), true)
			},
			compile: func(c *Compiler, n *Node) (string, error) {
				if n.Type.Kind == Time {
					return c.zoned("time_add_days", n.Args)
				}
				args, err := c.values(n.Args)
				if err != nil {
					return "", err
				}
				return "pinegate.date_add_days(" + args[0] + ", " + args[1] + ")", nil
			}},
		"ADDHOURS": {params: "s n", usage: "ADDHOURS(time stamp, hours)", help: "The date and time that many hours later.", result: Time,
			sql: "time_add_hours",
			eval: func(_ *evaluator, a []Value) Value {
				seconds := a[1].Num.Mul(decimal.New(3600, 0)).Round(0)
				if seconds.Abs().GreaterThan(decimal.New(4, 11)) {
					return Empty()
				}
				return TimeOf(time.Unix(instant(a[0]).Unix()+seconds.IntPart(), 0))
			}},
	}
}

func unitCheck(name string, at int, units ...string) func(c *checker, n *Node) *Error {
	return func(c *checker, n *Node) *Error {
		if err := functions[name].checkParams(c, n); err != nil {
			return err
		}
		return oneOf(n, at, units...)
	}
}

func checkAddDays(c *checker, n *Node) *Error {
	days, err := c.want(n.Args[1], Type{Kind: Number}, n.Func)
	if err != nil {
		return err
	}
	n.Args[1], n.Type = days, n.Args[0].Type
	if n.Type != (Type{Kind: Time}) {
		n.Args[0], err = c.want(n.Args[0], Type{Kind: Date}, n.Func)
		n.Type = Type{Kind: Date}
	}
	return err
}

func addDays(t time.Time, days int, ok bool) Value {
	if !ok || days < -4_000_000 || days > 4_000_000 {
		return Empty()
	}
	return dateOf(t.AddDate(0, 0, days))
}

// timeDaysLater keeps the time of day in the zone of the clock.
func timeDaysLater(c Clock, t time.Time, days int) Value {
	later := c.Local(t).AddDate(0, 0, max(-10_000_000, min(10_000_000, days)))
	if later.Year() < 1 || later.Year() > 9999 {
		return Empty()
	}
	return TimeOf(c.At(later))
}

func monthsLater(v, months Value, end bool) Value {
	t, m := day(v), whole(months)
	if m < -1_000_000 || m > 1_000_000 {
		return Empty()
	}
	later, ok := addMonths(t, m)
	if ok && end {
		later = time.Date(later.Year(), later.Month()+1, 0, 0, 0, 0, 0, time.UTC)
	}
	return addDays(later, 0, ok)
}

func difference(a, b time.Time, unit string) Value {
	if a.After(b) {
		return Empty()
	}
	months := monthsBetween(a, b)
	switch unit {
	case "y":
		return count(months / 12)
	case "m":
		return count(months)
	case "ym":
		return count(months % 12)
	case "d":
		return count(daysBetween(a, b))
	case "yd":
		months = months / 12 * 12
	}
	from, _ := addMonths(a, months)
	return count(daysBetween(from, b))
}

func startOf(t time.Time, unit string) Value {
	switch unit {
	case "week":
		return dateOf(t.AddDate(0, 0, -(int(t.Weekday())+6)%7))
	case "month":
		return dateOf(time.Date(t.Year(), t.Month(), 1, 0, 0, 0, 0, time.UTC))
	case "quarter":
		return dateOf(time.Date(t.Year(), (t.Month()-1)/3*3+1, 1, 0, 0, 0, 0, time.UTC))
	}
	return dateOf(time.Date(t.Year(), 1, 1, 0, 0, 0, 0, time.UTC))
}
