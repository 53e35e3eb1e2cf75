package run

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"pinegate/app/act"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/runs"
)

// Of gives what set a run off, to be run or rehearsed again: with the workflow as it is now, and the roles
// that whoever set it off has now.
func (r *Runs) Of(ctx context.Context, app store.App, was runs.Run) (Start, error) {
	env := apps.Environment(was.Place)
	b, err := r.Apps.Blueprint(ctx, app, env)
	if err != nil {
		return Start{}, err
	}
	w := b.Workflow(was.Workflow)
	if w == nil {
		return Start{}, words.New("flow-no-more", "flow", was.Name)
	}
	var who act.Person
	out := Start{App: app, Env: env, Workflow: w}
	if err := errors.Join(json.Unmarshal(was.Person, &who), json.Unmarshal(was.Input, &out.Input)); err != nil {
		return Start{}, fmt.Errorf("read what set a run off: %w", err)
	}
	out.Person = apps.FounderSeat(app, env, b, who.By)
	return out, r.resit(ctx, out.Person, env, who)
}

// Again runs a workflow again that did not come to its end. One that failed in a later part than its
// first goes on from there, as the same run; else it runs with what set it off then, and the new run
// is given.
func (r *Runs) Again(ctx context.Context, app store.App, was runs.Run) (id string, err error) {
	switch {
	case was.Status == runs.Done:
		return "", words.New("flow-ran-well")
	case was.Status == runs.Waits:
		return "", words.New("flow-waits-yet")
	case len(was.State) > 0:
		return was.ID, r.settled(ctx, r.goOn(ctx, was, was.Status, nil), false)
	}
	s, err := r.Of(ctx, app, was)
	if err != nil {
		return "", err
	}
	err = r.Acts.Do(ctx, func(u *act.Unit) error {
		d, err := r.doing(u, s)
		if err != nil {
			return err
		}
		id = d.run0.ID
		_, err = d.whole(ctx)
		return err
	})
	return id, r.settled(ctx, err, false)
}
