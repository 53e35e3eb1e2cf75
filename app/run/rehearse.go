package run

import (
	"context"
	"errors"
	"slices"

	"pinegate/app/act"
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/words"
	"pinegate/store/records"
	"pinegate/store/runs"
)

// Rehearsal is a run of which nothing is kept.
type Rehearsal struct {
	Workflow string      `json:"workflow"`
	Name     string      `json:"name"`
	Status   runs.Status `json:"status"`
	// Starts tells whether the condition holds without which it does not start, and Looked what that
	// looked at.
	Starts bool        `json:"starts"`
	Looked []flow.Look `json:"looked"`
	// Refused tells why the person cannot start it: as its button is not theirs, or its record is none that
	// they see.
	Refused string `json:"refused,omitempty"`
	Steps   []Told `json:"steps"`
	Error   string `json:"error,omitempty"` // why it did not come to its end
	Shows   Result `json:"shows"`
	// Outcomes are what came of it.
	Outcomes []Outcome `json:"outcomes"`
	// Followed are the workflows that it would set off.
	Followed []Rehearsal `json:"followed"`
}

// errRehearsed takes back what was rehearsed.
var errRehearsed = errors.New("this was a rehearsal")

// mostFollowed is how many workflows are followed that a rehearsal sets off.
const mostFollowed = 50

// Rehearse runs a workflow, and takes everything back: nothing is changed, and no mail goes out.
func (r *Runs) Rehearse(ctx context.Context, s Start) (Rehearsal, error) {
	var out Rehearsal
	err := r.Acts.Do(ctx, func(u *act.Unit) error {
		u.Quiet = true
		s.Pass = true
		left := mostFollowed
		var err error
		if out, err = r.rehearse(ctx, u, s, &left); err != nil {
			return err
		}
		return errRehearsed
	})
	if errors.Is(err, errRehearsed) {
		err = nil
	}
	return out, err
}

func (r *Runs) rehearse(ctx context.Context, u *act.Unit, s Start, left *int) (Rehearsal, error) {
	out := Rehearsal{Workflow: s.Workflow.ID, Name: s.Workflow.Name, Status: runs.Done, Looked: []flow.Look{}, Steps: []Told{},
		Followed: []Rehearsal{}, Outcomes: []Outcome{}}
	var err error
	if out.Refused, err = refused(ctx, u, s); err != nil || out.Refused != "" {
		return out, err
	}
	ok, looked, err := r.starts(ctx, u, s)
	if err != nil {
		return out, err
	}
	out.Starts, out.Looked = ok, append(out.Looked, looked...)
	if !ok {
		return out, nil
	}
	d, err := r.doing(u, s)
	if err != nil {
		return out, err
	}
	out.Shows, err = d.whole(ctx)
	var ended *Ended
	switch {
	case errors.As(err, &ended) && ended.Words != nil:
		out.Status, out.Error = ended.Run.Status, *ended.Run.Error
	case err != nil:
		return out, err
	}
	if err := d.later.Keep(ctx, u.Road, d.seat); err != nil { // what was gathered when it ended
		return out, err
	}
	t := newTeller(ctx, u.Road, builder(s.Person))
	for _, e := range d.log.entries {
		out.Steps = append(out.Steps, t.tell(e))
	}
	out.Outcomes = t.outcomes(out.Status, out.Error, d.log.entries)
	if err := t.env.Err(); err != nil {
		return out, err
	}
	if out.Status != runs.Done {
		return out, nil
	}
	for _, j := range u.Started() {
		if *left--; *left < 0 || j.Depth > act.MostDeep {
			out.Error = deep(s).Error()
			break
		}
		w := s.Person.Blueprint.Workflow(j.Workflow)
		in := flow.Input{Record: j.Record, Was: was(s.Person, w, j.Before)}
		if _, gone := w.Starts.Trigger.(*blueprint.DeletedTrigger); gone {
			in.Record = ""
		}
		next, err := r.rehearse(ctx, u, Start{App: s.App, Env: s.Env, Person: s.Person, Workflow: w, Input: in, Depth: j.Depth,
			Pass: true}, left)
		if err != nil {
			return out, err
		}
		out.Followed = append(out.Followed, next)
	}
	return out, nil
}

// refused tells why a person cannot press the button of a workflow, or "".
func refused(ctx context.Context, u *act.Unit, s Start) (string, error) {
	seat := s.Person
	x, is := s.Workflow.Starts.Trigger.(*blueprint.PressTrigger)
	if !is || seat.Viewer.Founder {
		return "", nil
	}
	if !x.By(seat.Viewer.Roles()) {
		return words.Say("flow-cannot-press", words.Args{"name": seat.By}), nil
	}
	t := seat.Blueprint.Table(x.Record)
	if t == nil {
		return "", nil
	}
	there, err := u.Road.There(ctx, seat, t, s.Input.Record)
	if err == nil && !there {
		return words.Say("flow-cannot-see", words.Args{"name": seat.By, "word": t.OneWord()}), nil
	}
	return "", err
}

// builder is the seat of who builds the app, where somebody sits.
func builder(s *records.Seat) *records.Seat {
	out := *s
	out.Viewer = access.Viewer{Founder: true}
	return &out
}

// Pretend makes of a record that is there what would set a workflow off with it: as it would have been
// sent, added, changed or deleted.
func Pretend(ctx context.Context, road records.Road, seat *records.Seat, w *blueprint.Workflow, record string) (flow.Input, error) {
	b, in := seat.Blueprint, flow.Input{Record: record}
	env := road.Env(ctx, builder(seat), nil, nil)
	known := func(table string) flow.Values {
		out := flow.Values{}
		for _, f := range seat.Catalog.Tables[table].Fields {
			if f.Computed == nil && !f.Type.Many {
				out[f.ID] = flow.Value{Value: env.Field(expr.RecordOf(record), f)}
			}
		}
		return out
	}
	switch t := w.Starts.Trigger.(type) {
	case *blueprint.SentTrigger:
		if _, form := b.FormAt(t.Form); form != nil {
			in.Answers = known(form.Table)
		}
	case *blueprint.ChangedTrigger:
		in.Was = known(t.Table)
	case *blueprint.DeletedTrigger:
		in.Was, in.Record = known(t.Table), ""
	}
	return in, env.Err()
}

// Befores lists the fields whose values before a change decide what a workflow does: those that it waits for, and those
// that its expressions name as they were.
func Befores(b *blueprint.Blueprint, catalog *expr.Catalog, w *blueprint.Workflow) []*blueprint.Field {
	t, is := w.Starts.Trigger.(*blueprint.ChangedTrigger)
	if !is {
		return nil
	}
	p, err := Program(b, catalog, w)
	if err != nil {
		return nil // which is told as it is run
	}
	table := b.Table(t.Table)
	var out []*blueprint.Field
	for i := range table.Fields {
		f := &table.Fields[i]
		named := slices.Contains(t.Fields, f.ID) || slices.Contains(p.Reads()[expr.WasTable], f.ID)
		if named && f.Type.Entered() && !f.Type.Filed() && f.Type != blueprint.Links {
			out = append(out, f)
		}
	}
	return out
}
