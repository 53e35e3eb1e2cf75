package run

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/riverqueue/river"

	"pinegate/app/outside"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/service"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/runs"
)

// CallJob is a job: a service is asked what a run waits for.
type CallJob struct {
	Run string `json:"run"`
	Key string `json:"key"` // of the question
}

// Kind names the job.
func (CallJob) Kind() string { return "flow_call" }

// InsertOpts says how often it is tried: with growing pauses, for some 14 hours.
func (CallJob) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: mostTries, Queue: CallQueue}
}

// CallQueue is the queue of calls of services.
const CallQueue = "calls"

// forgotten is after how long a run asks again whose job was lost.
const forgotten = 26 * time.Hour

// keyOf gives the key of a question: the same however often it is asked.
func keyOf(run string, q *flow.Request) string {
	return uuid.NewSHA1(uuid.NameSpaceOID, fmt.Appendf(nil, "%s %s %v", run, q.Step, q.Rounds)).String()
}

// calls makes of a run what is kept of it while a service is asked.
func (d *doing) calls(ctx context.Context, run *runs.Run) error {
	state := d.machine.State()
	var err error
	if run.State, err = json.Marshal(place{state, len(d.log.entries)}); err != nil {
		return fmt.Errorf("keep how far a run is: %w", err)
	}
	later := time.Now().Add(forgotten)
	run.Status, run.EndedAt, run.Step, run.WakeAt = runs.Waits, nil, &d.log.now().Step, &later
	return d.unit.Enqueue(ctx, CallJob{run.ID, keyOf(run.ID, state.Asked)})
}

// question is what a service is asked.
type question struct {
	connection *blueprint.Connection
	call       *blueprint.Call
	asked      service.Asked
}

// questionOf puts together what a run asks.
func questionOf(b *blueprint.Blueprint, q *flow.Request) (out question, err error) {
	if out.connection, out.call = b.CallOf(q.Call); out.call == nil {
		return out, words.New("flow-step-gone")
	}
	out.asked, err = service.Compose(out.call, func(id string) expr.Value { return q.Given.Get(id) })
	return out, err
}

// compose notes what a service is asked, which is refused before anything is done where it cannot be.
func (d *doing) compose(r *flow.Request) error {
	q, err := questionOf(d.seat.Blueprint, r)
	if err != nil {
		return err
	}
	d.log.now().Call = &Called{Service: q.connection.Name, Name: q.call.Name, Asked: q.asked.Line(q.call.Method),
		Body: cut(string(q.asked.Body))}
	return nil
}

// passCall answers at once what is asked.
func (d *doing) passCall(ctx context.Context, r *flow.Request) error {
	got, err := d.runs.ask(ctx, d.start.App, d.start.Env, d.seat.Blueprint, r, d.run0.ID, d.start.Real)
	var failed *outside.Failed
	switch {
	case errors.As(err, &failed) && r.Goes:
		got.problem = failed.Words.Error()
	case err != nil:
		return err
	}
	_, err = d.takes(&got)
	return err
}

// answered is what became of a question.
type answered struct {
	key     string
	rows    []flow.Values
	raw     string
	sample  bool
	problem string // without an answer
}

// ask asks a service: for real, or by the sample of its answer where nothing goes out.
func (r *Runs) ask(ctx context.Context, app store.App, env apps.Environment, b *blueprint.Blueprint, req *flow.Request, run string,
	real bool) (out answered, err error) {
	out.key = keyOf(run, req)
	q, err := questionOf(b, req)
	if err != nil {
		return out, err
	}
	var rows []service.Row
	if real {
		got, err := r.Services.Ask(ctx, app.ID, q.connection, q.call, q.asked, out.key)
		if err != nil {
			return out, err
		}
		rows, out.raw = got.Rows, cut(string(got.Raw))
	} else {
		var told *words.Problem
		if rows, err = service.Sampled(q.connection, q.call); errors.As(err, &told) {
			return out, &outside.Failed{Words: told, Final: true}
		}
		if err != nil {
			return out, err
		}
		out.raw, out.sample = cut(q.call.Sample), true
	}
	for _, row := range rows {
		out.rows = append(out.rows, flow.ValuesOf(row))
	}
	return out, nil
}

// takes goes on with what a service answered; is tells that the run waits for that.
func (d *doing) takes(a *answered) (is bool, err error) {
	asked := d.machine.State().Asked
	if asked == nil || keyOf(d.run0.ID, asked) != a.key {
		return false, nil
	}
	if c := d.log.now().Call; c != nil {
		c.Answer, c.Sample, c.Problem = a.raw, a.sample, a.problem
	}
	return true, d.machine.Answer(a.rows)
}

type asker struct {
	river.WorkerDefaults[CallJob]
	runs *Runs
}

// Timeout is how long a call can take, with the part that follows.
func (*asker) Timeout(*river.Job[CallJob]) time.Duration { return 3 * timeLimit }

// NextRetry makes the pauses grow, from 5 seconds to 9 hours.
func (*asker) NextRetry(j *river.Job[CallJob]) time.Time { return growing(j.Attempt) }

// Work asks a service.
func (w *asker) Work(ctx context.Context, j *river.Job[CallJob]) error {
	return w.runs.Call(store.As(ctx, store.Back), j.Args, j.Attempt, j.Attempt >= j.MaxAttempts)
}

// Call asks a service what a run waits for, and goes on with the answer. Where there is none, that is
// noted, and it is to be asked again unless this was the last time.
func (r *Runs) Call(ctx context.Context, j CallJob, attempt int, last bool) error {
	was, err := r.Book.Find(ctx, j.Run)
	if errors.Is(err, store.ErrNotFound) || err == nil && (was.Status != runs.Waits || len(was.State) == 0) {
		return nil
	}
	if err != nil {
		return err
	}
	var at place
	if err := json.Unmarshal(was.State, &at); err != nil {
		return fmt.Errorf("read how far a run is: %w", err)
	}
	if at.State.Asked == nil || keyOf(was.ID, at.State.Asked) != j.Key {
		return nil // it was answered
	}
	app, err := r.Apps.Find(ctx, was.AppID)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	env := apps.Environment(was.Place)
	b, err := r.Apps.Blueprint(ctx, app, env)
	if err != nil {
		return err
	}
	connection, _ := b.CallOf(at.State.Asked.Call)
	real := env == apps.Live || connection != nil && connection.Real
	got, err := r.ask(ctx, app, env, b, at.State.Asked, was.ID, real)
	var failed *outside.Failed
	switch {
	case errors.As(err, &failed) && !failed.Final && !last:
		text := words.Say("service-again", words.Args{"problem": failed.Words.Error(), "n": attempt})
		return errors.Join(err, r.Book.Note(ctx, was.ID, text))
	case errors.As(err, &failed) && at.State.Asked.Goes:
		got.problem = failed.Words.Error()
	case err != nil:
		var told *words.Problem
		if !errors.As(err, &told) {
			return err
		}
		return r.settled(ctx, r.over(was, told), last)
	}
	return r.settled(ctx, r.goOn(ctx, was, runs.Waits, &got), last)
}
