package run

import (
	"context"
	"errors"
	"maps"

	"pinegate/app/act"
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
	"pinegate/store/runs"
)

// Press runs a workflow because somebody pressed a button for it, in a unit of work.
func (r *Runs) Press(ctx context.Context, u *act.Unit, app store.App, seat *records.Seat, id, record string,
	answers map[string]expr.Value) (Result, error) {
	b := seat.Blueprint
	w := b.Workflow(id)
	if w == nil || !w.MayPress(seat.Viewer.Founder, seat.Viewer.Roles()) {
		return Result{}, store.ErrNotFound
	}
	s := Start{App: app, Env: envOf(seat), Person: seat, Workflow: w}
	s.Input.Answers = valuesOf(answers)
	if t := b.Table(b.FlowRecord(w, seat.Catalog)); t != nil {
		there, err := u.Road.There(ctx, seat, t, record)
		if err != nil {
			return Result{}, err
		}
		if !there { // for them
			return Result{}, store.ErrNotFound
		}
		s.Input.Record, s.there = record, true
	}
	ok, _, err := r.starts(ctx, u, s)
	if err != nil {
		return Result{}, err
	}
	if !ok {
		return Result{}, words.New("flow-not-now")
	}
	return r.In(ctx, u, s)
}

// Sent runs the workflows that a form starts, in the unit of work in which it was sent. The answers
// are those that were taken, by the ids of fields.
func (r *Runs) Sent(ctx context.Context, u *act.Unit, app store.App, seat *records.Seat, form, record string,
	answers map[string]expr.Value) (Result, error) {
	var out Result
	for i := range seat.Blueprint.Workflows {
		w := &seat.Blueprint.Workflows[i]
		t, is := w.Starts.Trigger.(*blueprint.SentTrigger)
		if !is || w.Off || t.Form != form {
			continue
		}
		s := Start{App: app, Env: envOf(seat), Person: seat, Workflow: w, Input: flow.Input{Record: record, Answers: valuesOf(answers)}}
		ok, _, err := r.starts(ctx, u, s)
		if err != nil {
			return out, err
		}
		if !ok {
			continue
		}
		got, err := r.In(ctx, u, s)
		if err != nil {
			return out, err
		}
		out.add(got)
	}
	return out, nil
}

func valuesOf(answers map[string]expr.Value) flow.Values {
	out := flow.Values{}
	for id, v := range answers {
		out[id] = flow.Value{Value: v}
	}
	return out
}

// envOf gives the environment in which somebody sits.
func envOf(s *records.Seat) apps.Environment {
	_, place, _ := act.EnvironmentOf(s.Schema)
	return apps.Environment(place)
}

// add adds what another run shows: the last one that shows something counts.
func (r *Result) add(other Result) {
	if other.Message != "" {
		r.Message, r.Tone = other.Message, other.Tone
	}
	if other.Page != "" {
		r.Page, r.Record = other.Page, other.Record
	}
	if r.Keeps == nil {
		r.Keeps = other.Keeps
	} else {
		maps.Copy(r.Keeps, other.Keeps)
	}
	r.Writes = append(r.Writes, other.Writes...)
}

// starts tells whether the condition holds without which a workflow does not start, and what it
// looked at.
func (r *Runs) starts(ctx context.Context, u *act.Unit, s Start) (bool, []flow.Look, error) {
	p, err := Program(s.Person.Blueprint, s.Person.Catalog, s.Workflow)
	if err != nil || !p.Asks() {
		return err == nil, nil, err
	}
	d, err := r.doing(u, s)
	if err != nil {
		return false, nil, err
	}
	if err := d.holdOwn(ctx); err != nil {
		return false, nil, err
	}
	env := d.env(ctx)
	ok, looked := d.program.Starts(s.Input, env)
	return ok, looked, env.Err()
}

// Begin runs a workflow that a write started, in a unit of its own. It is told who set it off, whose
// rights are those that they have now. What broke is to be tried again, unless this was the last time.
func (r *Runs) Begin(ctx context.Context, j act.Started, last bool) error {
	s, err := r.begun(ctx, j)
	if err != nil || s.Workflow == nil {
		return err
	}
	if j.Depth > act.MostDeep {
		return r.tooDeep(ctx, s)
	}
	err = r.Acts.Do(ctx, func(u *act.Unit) error {
		if done, err := runs.In(u.Tx).Has(ctx, s.ID); err != nil || done { // by who was killed before saying so
			return err
		}
		if t := s.Person.Blueprint.Table(s.Person.Blueprint.FlowRecord(s.Workflow, s.Person.Catalog)); t != nil {
			founder := apps.FounderSeat(s.App, s.Env, s.Person.Blueprint, s.Person.By)
			if there, err := u.Road.There(ctx, founder, t, s.Input.Record); err != nil || !there { // it was deleted meanwhile
				return err
			}
			s.there = true
		}
		ok, _, err := r.starts(ctx, u, s)
		if err != nil || !ok {
			return err
		}
		_, err = r.In(ctx, u, s)
		return err
	})
	return r.settled(ctx, err, last)
}

// begun finds what a job is about; without a workflow where that is not there any more.
func (r *Runs) begun(ctx context.Context, j act.Started) (Start, error) {
	id, place, ok := act.EnvironmentOf(j.Schema)
	if !ok {
		return Start{}, nil
	}
	app, err := r.Apps.Find(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return Start{}, nil
	}
	if err != nil {
		return Start{}, err
	}
	env := apps.Environment(place)
	b, err := r.Apps.Blueprint(ctx, app, env)
	if err != nil {
		return Start{}, err
	}
	w := b.Workflow(j.Workflow)
	if w == nil || w.Off {
		return Start{}, nil
	}
	seat := apps.FounderSeat(app, env, b, j.Person.By)
	if err := r.resit(ctx, seat, env, j.Person); err != nil {
		return Start{}, err
	}
	in := flow.Input{Record: j.Record, Was: was(seat, w, j.Before), Answers: j.Answers}
	return Start{ID: j.ID, App: app, Env: env, Person: seat, Workflow: w, Input: in, Depth: j.Depth}, nil
}

// resit makes a seat that of a person, with the roles that they still have. A builder is one in the draft
// alone; in the live app it is the server that writes for somebody who is no one there yet, or any more.
func (r *Runs) resit(ctx context.Context, seat *records.Seat, env apps.Environment, p act.Person) error {
	if p.Founder && env == apps.Draft {
		return nil
	}
	founder := *seat
	seat.Viewer = access.Viewer{Email: p.Email, Name: p.Name}
	if len(p.In) == 0 {
		seat.Viewer = access.Visitor()
	}
	for _, m := range p.In {
		role := seat.Blueprint.Role(m.Role)
		switch {
		case role == nil:
			continue
		case m.Record == "":
			seat.Viewer.Memberships = append(seat.Viewer.Memberships, m)
			continue
		}
		who, err := r.Apps.Road(ctx).PersonAt(ctx, &founder, role.People, m.Record)
		if err != nil {
			return err
		}
		for _, now := range who.Viewer.Memberships {
			if now == m {
				seat.Viewer.Memberships = append(seat.Viewer.Memberships, m)
			}
		}
	}
	return nil
}

// was gives what a record held before as values.
func was(seat *records.Seat, w *blueprint.Workflow, before map[string]any) flow.Values {
	table := ""
	switch t := w.Starts.Trigger.(type) {
	case *blueprint.ChangedTrigger:
		table = t.Table
	case *blueprint.DeletedTrigger:
		table = t.Table
	default:
		return nil
	}
	out := flow.Values{}
	for id, v := range before {
		out[id] = flow.Value{Value: records.ValueOf(seat.Catalog, table, id, v)}
	}
	return out
}

// deep says that too many workflows set each other off, and which, where they go in a circle.
func deep(s Start) *words.Problem {
	if circle := s.Person.Blueprint.FlowCircle(s.Workflow, s.Person.Catalog); circle != nil {
		return words.New("flow-round", "n", act.MostDeep, "path", blueprint.CirclePath(circle))
	}
	return words.New("flow-deep", "n", act.MostDeep)
}

// tooDeep keeps a run that was not begun, as too many set each other off.
func (r *Runs) tooDeep(ctx context.Context, s Start) error {
	return r.Acts.Do(ctx, func(u *act.Unit) error {
		d, err := r.doing(u, s)
		if err != nil {
			return err
		}
		err = d.ended(deep(s))
		var ended *Ended
		if errors.As(err, &ended) {
			return r.Book.Keep(ctx, ended.Run, nil)
		}
		return err
	})
}
