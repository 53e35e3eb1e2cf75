package flow

import (
	"fmt"
	"time"

	"github.com/teambition/rrule-go"

	"pinegate/core/blueprint"
)

// Times gives the times of a clock after one and up to another, at most so many, in a time zone: as
// clocks there show them, also when they are put forward or back. A time that they pass over is an
// hour later. It follows RFC 5545, section 3.3.10.
func Times(c blueprint.Clock, zone *time.Location, after, until time.Time, most int) ([]time.Time, error) {
	rule, err := ruleOf(c, zone, after)
	if err != nil {
		return nil, err
	}
	var out []time.Time
	next := rule.Iterator()
	for len(out) < most {
		t, more := next()
		if !more || t.After(until) {
			break
		}
		if t.After(after) {
			out = append(out, t)
		}
	}
	return out, nil
}

// Next gives the next time of a clock after one.
func Next(c blueprint.Clock, zone *time.Location, after time.Time) (time.Time, error) {
	list, err := Times(c, zone, after, after.AddDate(1, 0, 0), 1)
	if err != nil || len(list) == 0 {
		return time.Time{}, fmt.Errorf("find the next time after %s: there is none: %w", after, err)
	}
	return list[0], nil
}

// ruleOf makes the rule of a clock, which begins before a time.
func ruleOf(c blueprint.Clock, zone *time.Location, after time.Time) (*rrule.RRule, error) {
	day := after.In(zone).AddDate(0, -1, -1)
	o := rrule.ROption{Freq: rrule.DAILY, Dtstart: time.Date(day.Year(), day.Month(), day.Day(), c.Hour, c.Minute, 0, 0, zone)}
	switch c.Every {
	case blueprint.EveryWorkday:
		o.Freq, o.Byweekday = rrule.WEEKLY, []rrule.Weekday{rrule.MO, rrule.TU, rrule.WE, rrule.TH, rrule.FR}
	case blueprint.EveryWeek:
		days := []rrule.Weekday{rrule.SU, rrule.MO, rrule.TU, rrule.WE, rrule.TH, rrule.FR, rrule.SA}
		o.Freq, o.Byweekday = rrule.WEEKLY, []rrule.Weekday{days[c.Weekday]}
	case blueprint.EveryMonth:
		o.Freq, o.Bymonthday = rrule.MONTHLY, []int{c.Day}
		if c.Day > 28 { // the last one that there is up to that day
			o.Bymonthday, o.Bysetpos = nil, []int{-1}
			for d := 28; d <= c.Day; d++ {
				o.Bymonthday = append(o.Bymonthday, d)
			}
		}
	}
	rule, err := rrule.NewRRule(o)
	if err != nil {
		return nil, fmt.Errorf("read how often a workflow starts: %w", err)
	}
	return rule, nil
}
