package run

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/riverqueue/river"

	"pinegate/app/act"
	"pinegate/core/flow"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
	"pinegate/store/runs"
)

// place is how far a run is, as it is kept between its parts.
type place struct {
	State   *flow.State `json:"state"`
	Entries int         `json:"entries"` // how many there are of its parts so far
}

// lookAgain is after how long a wait is looked at again whose end depends on records, as what it
// waits for can come to hold by the time alone.
const lookAgain = time.Hour

// waits makes of a run what is kept of it while it waits.
func (d *doing) waits(ctx context.Context, run *runs.Run, wait *flow.Wait) error {
	state := d.machine.State()
	d.log.now().Until = &wait.Until
	var err error
	if run.Trace, err = json.Marshal(d.log.entries); err != nil {
		return fmt.Errorf("keep what a run did: %w", err)
	}
	if run.State, err = json.Marshal(place{state, len(d.log.entries)}); err != nil {
		return fmt.Errorf("keep how far a run is: %w", err)
	}
	run.Status, run.EndedAt, run.Step = runs.Waits, nil, &d.log.now().Step
	run.WakeAt, run.Awaits = &wait.Until, d.program.Awaits(state)
	if len(run.Awaits) == 0 {
		return nil
	}
	if soon := time.Now().Add(lookAgain); soon.Before(wait.Until) {
		run.WakeAt = &soon
	}
	if d.since != nil && state.Since != nil && d.since.Equal(*state.Since) {
		return nil // it waited before, for the same
	}
	// What it waits for could have come while this was not there to be found yet.
	return d.unit.Enqueue(ctx, act.Woken{Run: run.ID})
}

// pass passes a wait by moving the clock.
func (d *doing) pass(wait *flow.Wait) {
	d.log.now().Until = &wait.Until
	for _, seat := range []**records.Seat{&d.seat, &d.start.Person} {
		moved := **seat
		moved.Clock.Now = wait.Until
		*seat = &moved
	}
}

type waker struct {
	river.WorkerDefaults[act.Woken]
	runs *Runs
}

// Timeout is how long a part can take, with what goes before and after it.
func (*waker) Timeout(*river.Job[act.Woken]) time.Duration { return 2 * timeLimit }

// Work goes on with a run.
func (w *waker) Work(ctx context.Context, j *river.Job[act.Woken]) error {
	return w.runs.Wake(store.As(ctx, store.Back), j.Args.Run, j.Attempt >= j.MaxAttempts)
}

// Wake goes on with a run that waits, if it is time, in a unit of its own. What broke is to be tried
// again, unless this was the last time.
func (r *Runs) Wake(ctx context.Context, id string, last bool) error {
	was, err := r.Book.Find(ctx, id)
	if errors.Is(err, store.ErrNotFound) || err == nil && was.Status != runs.Waits {
		return nil
	}
	if err != nil {
		return err
	}
	return r.settled(ctx, r.goOn(ctx, was, runs.Waits, nil), last)
}

// goOn goes on with a run from where its last part began or ended, as long as it has a status: with
// what a service answered, where it is given that.
func (r *Runs) goOn(ctx context.Context, was runs.Run, status runs.Status, with *answered) error {
	app, err := r.Apps.Find(ctx, was.AppID)
	if err != nil {
		return err
	}
	s, err := r.Of(ctx, app, was)
	if told := (*words.Problem)(nil); errors.As(err, &told) { // the workflow is not there any more
		return r.over(was, told)
	}
	if err != nil {
		return err
	}
	if s.Workflow.Off {
		return r.over(was, words.New("flow-waits-off", "flow", s.Workflow.Name))
	}
	s.ID, s.Depth = was.ID, was.Depth
	return r.Acts.Do(ctx, func(u *act.Unit) error {
		held, err := runs.In(u.Tx).Hold(ctx, was.ID)
		if err != nil || held.Status != status { // somebody else went on
			return err
		}
		var from place
		if err := json.Unmarshal(held.State, &from); err != nil {
			return fmt.Errorf("read how far a run is: %w", err)
		}
		d, err := r.part(u, s, &held, from)
		if err != nil {
			return err
		}
		gone, err := d.gone(ctx)
		if err != nil {
			return err
		}
		if with != nil {
			switch is, err := d.takes(with); {
			case err != nil:
				return d.ended(err)
			case !is:
				return nil
			}
		}
		if gone {
			return d.ended(&stopped{words.Say("flow-waits-gone", nil)})
		}
		_, err = d.whole(ctx)
		return err
	})
}

// gone tells whether the record that set the run off was deleted meanwhile.
func (d *doing) gone(ctx context.Context) (bool, error) {
	t := d.table(d.seat.Blueprint.FlowRecord(d.start.Workflow, d.seat.Catalog))
	if t == nil || d.start.Input.Record == "" {
		return false, nil
	}
	there, err := d.unit.Road.There(ctx, builder(d.seat), t, d.start.Input.Record)
	return err == nil && !there, err
}

// over ends a run that cannot go on, before anything of its next part is done.
func (r *Runs) over(was runs.Run, why *words.Problem) error {
	now, text := time.Now(), why.Error()
	was.Status, was.EndedAt, was.WakeAt, was.Awaits, was.Error = runs.Failed, &now, nil, nil, &text
	return &Ended{Run: &was, Words: why, cause: why}
}

// End ends a run that waits, as somebody wants it; what it did so far stays.
func (r *Runs) End(ctx context.Context, was runs.Run, by string) error {
	return r.Acts.Do(ctx, func(u *act.Unit) error {
		held, err := runs.In(u.Tx).Hold(ctx, was.ID)
		if err != nil {
			return err
		}
		if held.Status != runs.Waits {
			return words.New("flow-waits-not")
		}
		now, text := time.Now(), words.Say("flow-ended-by", words.Args{"by": by})
		held.Status, held.EndedAt, held.WakeAt, held.Awaits, held.Error = runs.Stopped, &now, nil, nil, &text
		return runs.In(u.Tx).Keep(ctx, &held, nil)
	})
}

// dueAtATime is how many runs are put in the queue together whose time has come.
const dueAtATime = 500

// wake puts the runs in the queue whose time has come.
func (r *Runs) wake(ctx context.Context, now time.Time) error {
	for more := true; more; {
		err := r.Acts.Do(ctx, func(u *act.Unit) error {
			ids, err := runs.In(u.Tx).Due(ctx, now, dueAtATime)
			if err != nil {
				return err
			}
			more = len(ids) == dueAtATime
			var jobs []river.JobArgs
			for _, id := range ids {
				jobs = append(jobs, act.Woken{Run: id})
			}
			return u.Enqueue(ctx, jobs...)
		})
		if err != nil {
			return fmt.Errorf("go on with runs that wait: %w", err)
		}
	}
	return nil
}
