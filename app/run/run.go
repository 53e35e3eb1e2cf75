// Package run runs workflows of apps: over the road to records, in units of work. What a run does
// until it ends is done whole or not at all, with its mails; what each step did is written down.
package run

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"

	"pinegate/app/act"
	"pinegate/app/outside"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/files"
	"pinegate/store/records"
	"pinegate/store/runs"
	"pinegate/store/seal"
)

// Runs runs workflows.
type Runs struct {
	Acts *act.Acts
	Apps *apps.Apps
	Book *runs.Book
	// Services are called by steps.
	Services *outside.Services
	// Files are attached to mails, and Seals cover what links in them carry.
	Files *files.Store
	Seals *seal.Book
	// Gate is what steps have let people in, or signed out; nil where there is none.
	Gate Gate
}

// Start is what starts a run, and where.
type Start struct {
	ID       string // of the run; "" for a new one
	App      store.App
	Env      apps.Environment
	Person   *records.Seat // of whoever sets it off
	Workflow *blueprint.Workflow
	Input    flow.Input
	Depth    int
	// there tells that the record was found to be there just now.
	there bool
	// Watches are computed after each step of a rehearsal.
	Watches []*expr.Checked
	// Pass has waits passed at once, by a clock that is moved, and services asked at once: by samples of
	// their answers or, with Real, for real.
	Pass, Real bool
}

// Result is what whoever set a run off gets to see.
type Result struct {
	Message string `json:"message,omitempty"`
	Tone    string `json:"tone,omitempty"`
	// Page is the path of the page that is opened, and Record the one that it shows.
	Page   string `json:"page,omitempty"`
	Record string `json:"record,omitempty"`
	// Keeps are values that are kept in the browser of whoever looks, by the ids of kept values; "" forgets one.
	Keeps map[string]string `json:"keeps,omitempty"`
	// Writes are what the run wrote, for who can undo it.
	Writes []*records.Write `json:"-"`
}

// Ended tells that a run did not come to its end, so that all that its part did is taken back. It
// is kept by [Runs.Keep], once that is so.
type Ended struct {
	Run *runs.Run
	// Words are for whoever set it off; nil where something broke that is no fault of the workflow.
	Words *words.Problem
	cause error
}

func (e *Ended) Error() string { return e.cause.Error() }

// Unwrap gives what whoever set it off is told, or what broke.
func (e *Ended) Unwrap() error {
	if e.Words != nil {
		return e.Words
	}
	return e.cause
}

// timeLimit is how long a part of a run can take.
const timeLimit = 30 * time.Second

// In runs a workflow in a unit of work. An error of type [*Ended] tells that the unit is to be
// taken back.
func (r *Runs) In(ctx context.Context, u *act.Unit, s Start) (Result, error) {
	d, err := r.doing(u, s)
	if err != nil {
		return Result{}, err
	}
	return d.whole(ctx)
}

// whole runs a part of a workflow, up to its end or until it waits, and keeps what it did.
func (d *doing) whole(ctx context.Context) (Result, error) {
	u, s := d.unit, d.start
	ctx, cancel := context.WithTimeout(ctx, timeLimit)
	defer cancel()
	var pause flow.Effect
	var run *runs.Run
	begins := !d.run0.Known
	err := u.Within(s.Depth, act.PersonOf(s.Person), func() (err error) {
		if pause, err = d.run(ctx); err != nil {
			return err
		}
		if run, err = d.kept(runs.Done); err != nil {
			return err
		}
		if begins && pause == nil { // it is kept with what it wrote
			if err := runs.In(u.Tx).Adding(run, d.later.Also); err != nil {
				return err
			}
		}
		return d.later.Keep(ctx, d.unit.Road, d.seat)
	})
	if err != nil {
		return Result{}, d.ended(err)
	}
	switch pause := pause.(type) {
	case *flow.Wait:
		err = d.waits(ctx, run, pause)
	case *flow.Call:
		err = d.calls(ctx, run)
	}
	if err != nil {
		return Result{}, err
	}
	if begins && pause == nil {
		err = runs.In(u.Tx).KeepLetters(ctx, d.letters)
	} else {
		err = runs.In(u.Tx).Keep(ctx, run, d.letters)
	}
	if err != nil {
		return Result{}, err
	}
	for _, e := range d.log.entries[d.log.before:] {
		d.result.Writes = append(d.result.Writes, e.Writes...)
	}
	return d.result, d.post(ctx)
}

// Keep keeps a run that did not come to its end, after what it did was taken back.
func (r *Runs) Keep(ctx context.Context, err error) error {
	var ended *Ended
	if !errors.As(err, &ended) {
		return err
	}
	if kept := r.Book.Keep(ctx, ended.Run, nil); kept != nil {
		return errors.Join(err, kept)
	}
	return err
}

// settled keeps a run that did not come to its end, where that is no reason to try it again: the
// workflow is why, or it was tried for the last time.
func (r *Runs) settled(ctx context.Context, err error, last bool) error {
	var ended *Ended
	if errors.As(err, &ended) && (ended.Words != nil || last) {
		return r.Book.Keep(ctx, ended.Run, nil)
	}
	return err
}

// doing is a run that is being done.
type doing struct {
	runs    *Runs
	start   Start
	unit    *act.Unit
	seat    *records.Seat // whose rights its steps have
	road    records.Road
	later   records.Later
	program *flow.Program
	machine *flow.Machine
	run0    *runs.Run
	from    json.RawMessage // where a later part than the first began
	since   *time.Time      // when the wait began at which that was
	log     log
	letters []runs.Letter
	result  Result
	// now gives the environment as it is, for what is watched, and watched is what went wrong with that.
	now     func() *known
	watched error
}

// doing prepares a run that begins.
func (r *Runs) doing(u *act.Unit, s Start) (*doing, error) {
	if s.ID == "" {
		id, err := uuid.NewV7()
		if err != nil {
			return nil, fmt.Errorf("make the id of a run: %w", err)
		}
		s.ID = id.String()
	}
	run := &runs.Run{ID: s.ID, AppID: s.App.ID, Place: string(s.Env), Workflow: s.Workflow.ID, Name: s.Workflow.Name,
		BeganAt: time.Now(), MadeBy: s.Person.By, Depth: s.Depth}
	if s.Input.Record != "" {
		run.RecordID = &s.Input.Record
	}
	var err error
	if run.Input, err = json.Marshal(s.Input); err != nil {
		return nil, fmt.Errorf("keep what set a run off: %w", err)
	}
	if run.Person, err = json.Marshal(act.PersonOf(s.Person)); err != nil {
		return nil, fmt.Errorf("keep who set a run off: %w", err)
	}
	return r.part(u, s, run, place{})
}

// part prepares a part of a run, from a place in it.
func (r *Runs) part(u *act.Unit, s Start, run *runs.Run, from place) (*doing, error) {
	program, err := Program(s.Person.Blueprint, s.Person.Catalog, s.Workflow)
	if err != nil {
		return nil, err
	}
	d := &doing{runs: r, start: s, unit: u, seat: s.Person, program: program, run0: run}
	if from.State == nil {
		from.State = program.Begin()
	} else if d.from, err = json.Marshal(from); err != nil {
		return nil, fmt.Errorf("keep how far a run was: %w", err)
	}
	d.since = from.State.Since
	if s.Workflow.AsApp() {
		d.seat = s.Person.AsApp(words.Say("flow-by", words.Args{"flow": s.Workflow.Name}))
	}
	d.road = u.Road.Later(&d.later)
	if s.there {
		d.road.Found(d.seat, s.Input.Record)
	}
	if err := d.log.begin(run, from); err != nil {
		return nil, err
	}
	d.machine = program.Run(s.Input, from.State, d.note)
	return d, nil
}

// Program gives the program of a workflow, made once for each version of an app.
func Program(b *blueprint.Blueprint, catalog *expr.Catalog, w *blueprint.Workflow) (*flow.Program, error) {
	return blueprint.Once(b, programKey{w.ID}, func() (*flow.Program, error) { return flow.Compile(b, catalog, w) })
}

type programKey struct{ workflow string }

// note notes what the machine tells, with what is watched.
func (d *doing) note(e flow.Event) {
	d.log.note(e)
	if e.What == flow.Asked || len(d.start.Watches) == 0 {
		return
	}
	env := d.now()
	x := d.log.now()
	x.Watched = nil
	for _, c := range d.start.Watches {
		x.Watched = append(x.Watched, d.program.Watch(c, d.start.Input, d.machine.State(), env))
	}
	d.watched = errors.Join(d.watched, env.Err())
}

// run goes through the steps, to their end or until it waits or asks a service, which it gives.
func (d *doing) run(ctx context.Context) (flow.Effect, error) {
	d.now = func() *known { return d.env(ctx) }
	if err := d.holdOwn(ctx); err != nil {
		return nil, err
	}
	for {
		env := d.env(ctx)
		effect, err := d.machine.Next(env)
		if err == nil {
			err = errors.Join(env.Err(), d.watched)
		}
		if err != nil {
			return nil, err
		}
		switch e := effect.(type) {
		case *flow.Done:
			return nil, nil
		case *flow.Wait:
			if d.start.Pass {
				d.pass(e)
				continue
			}
			return e, nil
		case *flow.Call:
			if err := d.compose(&e.Request); err != nil {
				return nil, err
			}
			if d.start.Pass {
				if err := d.passCall(ctx, &e.Request); err != nil {
					return nil, err
				}
				continue
			}
			return e, nil
		case *flow.Stop:
			return nil, &stopped{e.Text}
		}
		for effect != nil {
			outcome, err := d.do(ctx, effect)
			if err != nil {
				return nil, err
			}
			effect = d.machine.Did(outcome)
		}
	}
}

// holdOwn holds the record that set the workflow off, where a step writes it.
func (d *doing) holdOwn(ctx context.Context) error {
	t := d.seat.Blueprint.Table(d.program.About())
	if !d.program.Writes() || t == nil || d.start.Input.Record == "" {
		return nil
	}
	return d.road.Hold(ctx, d.seat, t, d.start.Input.Record)
}

// stopped tells that a step stopped the run, and what it says.
type stopped struct{ text string }

func (s *stopped) Error() string { return s.text }

// ended makes of what ended a run early what is kept of it, and what whoever set it off is told.
func (d *doing) ended(err error) error {
	run, problem := d.kept(runs.Failed)
	if problem != nil {
		return errors.Join(err, problem)
	}
	out := &Ended{Run: run, Words: words.New("flow-failed"), cause: err}
	why, known := d.why(err)
	if !known {
		out.Words = nil
	}
	var stop *stopped
	if errors.As(err, &stop) {
		run.Status, why = runs.Stopped, stop.text
		out.Words = words.New("flow-stopped", "text", stop.text)
	}
	run.Error = &why
	if step := d.log.last(); step != "" {
		run.Step = &step
	}
	run.State = d.from
	return out
}

// kept is the run as it is kept.
func (d *doing) kept(status runs.Status) (*runs.Run, error) {
	out := d.run0
	now := time.Now()
	out.Status, out.EndedAt, out.WakeAt, out.Awaits, out.State, out.Step, out.Error = status, &now, nil, nil, nil, nil, nil
	var err error
	if out.Trace, err = json.Marshal(d.log.entries); err != nil {
		return nil, fmt.Errorf("keep what a run did: %w", err)
	}
	return out, nil
}
