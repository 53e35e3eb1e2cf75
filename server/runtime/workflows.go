package runtime

import (
	"context"
	"errors"

	"pinegate/app/act"
	"pinegate/app/page"
	"pinegate/app/run"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/once"
	"pinegate/store/records"
)

// Pressed is what a browser sends when somebody presses a button that starts a workflow.
type Pressed struct {
	Key    string `json:"key" minLength:"16" maxLength:"64" pattern:"^[A-Za-z0-9_-]+$" doc:"Drawn for each press; sent twice, it is one"`
	Record string `json:"record,omitempty" maxLength:"64"`
}

// Started is what a workflow shows to whoever started it.
type Started struct {
	Message string       `json:"message,omitempty"`
	Tone    string       `json:"tone,omitempty"`
	Go      *page.Target `json:"go,omitempty"`
	// Keeps are values that are kept in the browser, by the ids of kept values.
	Keeps map[string]string `json:"keeps,omitempty"`
}

type pressInput struct {
	Flow string `path:"flow"`
	Body Pressed
}

// press starts a workflow, once for each key.
func (h *Handlers) press(ctx context.Context, p *Place, in *pressInput) (*keeping[Started], error) {
	if err := p.writable(); err != nil {
		return nil, err
	}
	ask, err := h.Once.Ask(p.App.ID, in.Body.Key, p.asker(), *in)
	if err != nil {
		return nil, err
	}
	out := &keeping[Started]{}
	if is, err := ask.Before(ctx, &out.Body); err != nil || is {
		return out, errors.Join(err, h.kept(p, out.Body.Keeps, &out.SetCookie))
	}
	if h.Gate != nil {
		if err := h.Gate.AllowForm(ctx, p.App, p.From, p.person()); err != nil {
			return nil, err
		}
	}
	err = h.Acts.EditMany(ctx, p.App, p.Seat, func(unit *act.Unit) ([]*records.Write, string, error) {
		if err := ask.Begin(ctx, unit.Tx); err != nil {
			return nil, "", err
		}
		if w := p.Seat.Blueprint.Workflow(in.Flow); w != nil && w.Asks() != nil && w.Asks().Any() { // which is sent as a form
			return nil, "", store.ErrNotFound
		}
		got, err := h.Runs.Press(ctx, unit, p.App, p.Seat, in.Flow, in.Body.Record, nil)
		if err != nil {
			return nil, "", err
		}
		out.Body = shown(got)
		return got.Writes, ran(p, in.Flow), ask.End(ctx, unit.Tx, out.Body)
	})
	if errors.Is(err, once.ErrBefore) {
		_, err = ask.Before(ctx, &out.Body)
	}
	if err != nil {
		return nil, h.Runs.Keep(ctx, err)
	}
	return out, h.kept(p, out.Body.Keeps, &out.SetCookie)
}

func shown(r run.Result) Started {
	out := Started{Message: r.Message, Tone: r.Tone, Keeps: r.Keeps}
	if r.Page != "" {
		out.Go = &page.Target{Path: r.Page, Record: r.Record}
	}
	return out
}

// ran says that a workflow ran, for the history of the draft.
func ran(p *Place, flow string) string {
	return words.Say("flow-ran", words.Args{"flow": p.Seat.Blueprint.Workflow(flow).Name})
}

// asked starts a workflow with the answers of the form that it asks first.
func (h *Handlers) asked(ctx context.Context, p *Place, u page.Use, sent Sent, answers map[string]expr.Value, ask once.Ask,
	done *page.Done) error {
	w := u.Flow()
	err := h.Acts.EditMany(ctx, p.App, p.Seat, func(unit *act.Unit) ([]*records.Write, string, error) {
		if err := ask.Begin(ctx, unit.Tx); err != nil {
			return nil, "", err
		}
		got, err := h.Runs.Press(ctx, unit, p.App, p.Seat, w.ID, sent.Record, answers)
		if err != nil {
			return nil, "", err
		}
		done.Thanks = words.Say("flow-done", nil)
		done.Message(got)
		if sent.Rehearse {
			done.Rehearsed = u.Rehearsed(got.Writes)
			return nil, "", page.ErrRehearsed
		}
		return got.Writes, ran(p, w.ID), ask.End(ctx, unit.Tx, done)
	})
	return h.Runs.Keep(ctx, err)
}
