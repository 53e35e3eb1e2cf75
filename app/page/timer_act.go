package page

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/store/records"
)

// TimerAct is what somebody does with a timer.
type TimerAct string

// What can be done: it is started for a kind of work, or goes on with that; it pauses; it is stopped, which ends all that is
// open; and one that was forgotten ends at the time at which it should have been stopped.
const (
	StartTimer TimerAct = "start"
	PauseTimer TimerAct = "pause"
	StopTimer  TimerAct = "stop"
	EndTimer   TimerAct = "end"
)

// Timing is what somebody does with a timer: with the kind of work for which it starts, or the entry that was forgotten and when
// that ended, an RFC 3339 time.
type Timing struct {
	Do    TimerAct
	Kind  string
	Entry string
	At    string
}

// timing does something with a timer.
type timing struct {
	timed
	ctx    context.Context
	road   records.Road
	writes []*records.Write
}

// running is an entry that is not stopped.
type running struct {
	id, kind string
	here     bool
	hours    decimal.Decimal
	since    time.Time // zero while it does not run
}

// Time does something with a timer. What is measured is known to the server alone: a press that comes again, or late, does
// nothing more.
func (v *View) Time(ctx context.Context, road records.Road, id string, what Timing) ([]*records.Write, string, error) {
	in, x, err := At[*blueprint.TimerBlock](v, id)
	if err != nil {
		return nil, "", err
	}
	t := timing{timed: in.timed(x), ctx: ctx, road: road}
	works, err := t.works()
	if err != nil {
		return nil, "", err
	}
	if !works {
		return nil, "", words.New("timer-unknown")
	}
	// so that two presses are done one after the other
	if err := road.Hold(ctx, t.Seat, t.Seat.Blueprint.Table(t.Page.Record), t.Seat.Page); err != nil {
		return nil, "", err
	}
	open, err := t.running()
	if err != nil {
		return nil, "", err
	}
	switch what.Do {
	case StartTimer:
		err = t.start(open, what.Kind)
	case PauseTimer:
		err = t.pause(open, func(r running) bool { return r.here })
	case StopTimer:
		err = t.stop(open)
	case EndTimer:
		err = t.end(open, what)
	default:
		err = words.New("not-formed")
	}
	return t.writes, words.Say("timer-used", words.Args{"table": t.table.Name}), err
}

// running reads what whoever acts works, in the unit of work.
func (t *timing) running() ([]running, error) {
	open, err := t.open()
	if err != nil {
		return nil, err
	}
	raw, _, err := t.road.List(t.ctx, t.Seat, *open)
	if err != nil {
		return nil, err
	}
	rows, err := Rows(raw)
	var out []running
	for _, row := range rows {
		r := running{here: row[t.x.Link] == t.Seat.Page, hours: t.hoursOf(row)}
		r.id, _ = row["id"].(string)
		r.kind, _ = row[t.x.Sort].(string)
		if paused, _ := row[t.x.Paused].(bool); !paused {
			since, _ := row[t.x.Since].(string)
			if r.since, err = time.Parse(time.RFC3339, since); err != nil {
				return nil, fmt.Errorf("read since when a timer runs: %w", err)
			}
		}
		out = append(out, r)
	}
	return out, err
}

// start starts it for a kind of work, or goes on with that; all else that runs pauses.
func (t *timing) start(open []running, kind string) error {
	if err := t.kindRight(kind); err != nil {
		return err
	}
	is := func(r running) bool { return r.here && r.kind == kind }
	if err := t.pause(open, func(r running) bool { return !is(r) }); err != nil {
		return err
	}
	now := expr.TimeOf(t.Seat.Clock.Now)
	if i := slices.IndexFunc(open, is); i >= 0 {
		if open[i].since.IsZero() {
			return t.change(open[i].id, map[string]expr.Value{t.x.Since: now, t.x.Paused: expr.YesNoOf(false)})
		}
		return nil
	}
	set := map[string]expr.Value{t.x.Link: expr.RecordOf(t.Seat.Page), t.x.By: t.me(), t.x.Since: now,
		t.x.Hours: expr.NumberOf(decimal.Zero), t.x.Paused: expr.YesNoOf(false)}
	if kind != "" {
		set[t.x.Sort] = expr.ChoiceOf(kind)
	}
	if t.x.Day != "" {
		set[t.x.Day] = expr.DateOf(t.Seat.Clock.Today())
	}
	w, err := t.road.Add(t.ctx, t.Seat, t.table, records.Values{}, set)
	return t.note(w, err)
}

// kindRight refuses a kind of work that cannot be chosen.
func (t *timing) kindRight(kind string) error {
	f := t.table.Field(t.x.Sort)
	if f == nil && kind == "" {
		return nil
	}
	if f != nil {
		c := t.Seat.Blueprint.List(f.List).Choice(kind)
		if c != nil && !c.Retired || kind == "" && !f.Required {
			return nil
		}
	}
	return words.New("timer-sort")
}

// pause has what runs not run any more.
func (t *timing) pause(open []running, which func(running) bool) error {
	for _, r := range open {
		if r.since.IsZero() || !which(r) {
			continue
		}
		if err := t.change(r.id, t.until(r, t.Seat.Clock.Now)); err != nil {
			return err
		}
	}
	return nil
}

// stop ends all that is open on the record.
func (t *timing) stop(open []running) error {
	for _, r := range open {
		if !r.here {
			continue
		}
		set := t.until(r, t.Seat.Clock.Now)
		set[t.x.Ended], set[t.x.Paused] = expr.TimeOf(t.Seat.Clock.Now), expr.YesNoOf(false)
		if err := t.change(r.id, set); err != nil {
			return err
		}
	}
	return nil
}

// end ends what was forgotten at the time at which it should have been stopped.
func (t *timing) end(open []running, what Timing) error {
	i := slices.IndexFunc(open, func(r running) bool { return r.here && r.id == what.Entry && !r.since.IsZero() })
	if i < 0 {
		return words.New("timer-not")
	}
	at, err := time.Parse(time.RFC3339, what.At)
	if err != nil || at.Before(open[i].since) || at.After(t.Seat.Clock.Now) {
		return words.New("timer-at")
	}
	set := t.until(open[i], at)
	set[t.x.Ended], set[t.x.Paused] = expr.TimeOf(at), expr.YesNoOf(false)
	return t.change(open[i].id, set)
}

// secondsIn is how many seconds an hour has.
const secondsIn = 3600

// until counts what ran up to a moment, after which it pauses.
func (t *timing) until(r running, at time.Time) map[string]expr.Value {
	hours := r.hours
	if !r.since.IsZero() && at.After(r.since) {
		hours = hours.Add(decimal.NewFromInt(int64(at.Sub(r.since)/time.Second)).DivRound(decimal.NewFromInt(secondsIn), 4))
	}
	return map[string]expr.Value{t.x.Hours: expr.NumberOf(hours), t.x.Paused: expr.YesNoOf(true)}
}

func (t *timing) change(id string, set map[string]expr.Value) error {
	w, err := t.road.Change(t.ctx, t.Seat, t.table, id, records.AnyRevision, records.Values{}, set)
	return t.note(w, err)
}

func (t *timing) note(w *records.Write, err error) error {
	if err == nil {
		t.writes = append(t.writes, w)
	}
	return err
}
