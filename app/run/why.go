package run

import (
	"context"
	"time"

	"pinegate/app/act"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/sentence"
	"pinegate/store"
	"pinegate/store/records"
	"pinegate/store/runs"
)

// Could is a workflow that a record could have set off, and why it did or did not.
type Could struct {
	Workflow string `json:"workflow"`
	Name     string `json:"name"`
	Sentence string `json:"sentence"` // what starts it
	Off      bool   `json:"off"`
	// Starts tells whether the condition holds without which it does not start, as things are now, and
	// Looked what that looks at.
	Starts bool        `json:"starts"`
	Looked []flow.Look `json:"looked"`
	// Due is when the clock starts it for the record, where it does.
	Due *time.Time `json:"due,omitempty"`
	// Ran are its last runs for the record.
	Ran []runs.Run `json:"-"`
}

// Why tells of each workflow that a record could have set off whether it would start with it now, and when
// it did.
func (r *Runs) Why(ctx context.Context, app store.App, seat *records.Seat, table, record string) ([]Could, error) {
	out := []Could{}
	err := r.Acts.Do(ctx, func(u *act.Unit) error {
		t := &teller{lines: map[string]string{}}
		t.read(sentence.Script(seat.Blueprint, sentence.WorkflowsStop, func(string) bool { return true }))
		for i := range seat.Blueprint.Workflows {
			w := &seat.Blueprint.Workflows[i]
			if seat.Blueprint.FlowTable(w) != table {
				continue
			}
			in, err := Pretend(ctx, u.Road, seat, w, record)
			if err != nil {
				return err
			}
			x := Could{Workflow: w.ID, Name: w.Name, Off: w.Off, Sentence: t.lines[w.ID], Looked: []flow.Look{}}
			s := Start{App: app, Env: envOf(seat), Person: seat, Workflow: w, Input: in}
			ok, looked, err := r.starts(ctx, u, s)
			if err != nil {
				return err
			}
			x.Starts, x.Looked = ok, append(x.Looked, looked...)
			if x.Due, err = due(ctx, u, seat, w, record); err != nil {
				return err
			}
			if x.Ran, err = runs.In(u.Tx).With(ctx, app.ID, string(s.Env), w.ID, record); err != nil {
				return err
			}
			out = append(out, x)
		}
		return nil
	})
	return out, err
}

// due gives when the clock starts a workflow for a record; nil where it does not.
func due(ctx context.Context, u *act.Unit, seat *records.Seat, w *blueprint.Workflow, record string) (*time.Time, error) {
	t, is := w.Starts.Trigger.(*blueprint.DateTrigger)
	if !is {
		return nil, nil
	}
	env := u.Road.Env(ctx, seat, nil, nil)
	for _, f := range seat.Catalog.Tables[t.Table].Fields {
		if f.ID != t.Field {
			continue
		}
		day, err := time.ParseInLocation(time.DateOnly, env.Field(expr.RecordOf(record), f).Text, seat.Blueprint.Location())
		if err != nil { // it holds no date
			return nil, env.Err()
		}
		c := t.Clock()
		at := t.For(day).Add(time.Duration(c.Hour)*time.Hour + time.Duration(c.Minute)*time.Minute)
		return &at, env.Err()
	}
	return nil, nil
}
