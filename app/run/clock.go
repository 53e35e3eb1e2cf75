package run

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/google/uuid"
	"github.com/riverqueue/river"

	"pinegate/app/act"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
	"pinegate/store/runs"
)

// How often the clocks are looked at, and how many times that were missed are made up for at once.
const (
	tick       = 20 * time.Second
	mostMissed = 100
)

// tickJob is a job: the clocks are looked at.
type tickJob struct{}

// Kind names the job.
func (tickJob) Kind() string { return "flow_tick" }

// Ticks is when the clocks are looked at: by one server at a time.
func Ticks() *river.PeriodicJob {
	return river.NewPeriodicJob(river.PeriodicInterval(tick), func() (river.JobArgs, *river.InsertOpts) {
		return tickJob{}, &river.InsertOpts{MaxAttempts: 1, Queue: act.FlowQueue, UniqueOpts: river.UniqueOpts{ByPeriod: tick}}
	}, &river.PeriodicJobOpts{RunOnStart: true})
}

type ticker struct {
	river.WorkerDefaults[tickJob]
	runs *Runs
}

// Work looks at the clocks.
func (w *ticker) Work(ctx context.Context, _ *river.Job[tickJob]) error {
	return w.runs.Tick(store.As(ctx, store.Back), time.Now())
}

// Tick puts what the time starts, and what goes on by it, in the queue.
func (r *Runs) Tick(ctx context.Context, now time.Time) error {
	return errors.Join(r.Strike(ctx, now), r.wake(ctx, now))
}

// Strike puts what the clock starts up to a time in the queue, each workflow in a transaction of its own.
func (r *Runs) Strike(ctx context.Context, now time.Time) error {
	for {
		var c *runs.Clock
		err := r.Acts.Do(ctx, func(u *act.Unit) (err error) {
			if c, err = runs.In(u.Tx).Struck(ctx, now); err != nil || c == nil {
				return err
			}
			return r.struck(ctx, u, *c, now)
		})
		if c == nil {
			return err
		}
		if err != nil { // which keeps no other clock waiting
			slog.ErrorContext(ctx, "start a workflow by the clock", "app", c.AppID, "workflow", c.Workflow, "error", err)
			c.NextAt = now.Add(time.Minute)
			if err := r.Book.Set(ctx, *c); err != nil {
				return err
			}
		}
	}
}

// struck puts what one clock starts in the queue, and sets it again.
func (r *Runs) struck(ctx context.Context, u *act.Unit, c runs.Clock, now time.Time) error {
	app, err := r.Apps.Find(ctx, c.AppID)
	if err != nil {
		return err
	}
	b, err := r.Apps.Blueprint(ctx, app, apps.Live)
	if err != nil {
		return err
	}
	w := b.Workflow(c.Workflow)
	if w == nil || w.Off {
		return runs.In(u.Tx).Stop(ctx, c)
	}
	t, is := w.Starts.Trigger.(blueprint.ClockTrigger)
	if !is {
		return runs.In(u.Tx).Stop(ctx, c)
	}
	clock := t.Clock()
	times, err := flow.Times(clock, b.Location(), c.SeenAt, now, mostMissed)
	if err != nil {
		return err
	}
	if n := len(times); n > 0 {
		switch late := now.Sub(times[n-1]) > 10*tick; {
		case clock.Missed == blueprint.MissedOnce:
			times = times[n-1:]
		case clock.Missed == blueprint.MissedNone && late:
			times = nil
		case clock.Missed == blueprint.MissedNone:
			times = times[n-1:]
		}
	}
	seat := apps.FounderSeat(app, apps.Live, b, words.Say("flow-clock", nil))
	for _, at := range times {
		if err := r.due(ctx, u, seat, w, at); err != nil {
			return err
		}
	}
	if c.NextAt, err = flow.Next(clock, b.Location(), now); err != nil {
		return err
	}
	c.SeenAt = now
	return runs.In(u.Tx).Set(ctx, c)
}

// dueAtOnce is how many records whose date it is are read at once.
const dueAtOnce = 1000

// due puts the runs for a time in the queue: one, or one for each record whose date it is.
func (r *Runs) due(ctx context.Context, u *act.Unit, seat *records.Seat, w *blueprint.Workflow, at time.Time) error {
	job := act.Started{Schema: seat.Schema, Workflow: w.ID, Person: act.PersonOf(seat)}
	t, is := w.Starts.Trigger.(*blueprint.DateTrigger)
	if !is {
		job.ID = runID(seat.Schema, w.ID, at, "")
		return u.Enqueue(ctx, job)
	}
	table := seat.Blueprint.Table(t.Table)
	day := t.On(at.In(seat.Blueprint.Location())).Format(time.DateOnly)
	that, err := expr.CheckCondition(fmt.Sprintf("%s = %q", table.Field(t.Field).Key, day), expr.Scope{Catalog: seat.Catalog, Row: t.Table})
	if err != nil {
		return fmt.Errorf("find the records whose date it is: %w", err)
	}
	l := query.Selection{Table: table, Filter: that, Limit: dueAtOnce}
	for more := true; more; more = l.After != "" {
		found, next, err := u.Road.List(ctx, seat, l)
		if err != nil {
			return err
		}
		var jobs []river.JobArgs
		for _, raw := range found {
			if job.Record, err = idOf(raw); err != nil {
				return err
			}
			job.ID = runID(seat.Schema, w.ID, at, job.Record)
			jobs = append(jobs, job)
		}
		if err := u.Enqueue(ctx, jobs...); err != nil {
			return err
		}
		l.After = next
	}
	return nil
}

// runID gives the id of the run that a time of a clock starts, which is the same whoever looks at it.
func runID(schema, workflow string, at time.Time, record string) string {
	name := fmt.Appendf(nil, "%s %s %s %s", schema, workflow, at.UTC().Format(time.RFC3339), record)
	return uuid.NewSHA1(uuid.NameSpaceOID, name).String()
}
