package page

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/store/records"
)

// FormState is how a form is for somebody who has answered so far.
type FormState struct {
	// Parts are those that are shown, by the ids of questions and blocks.
	Parts map[string]PartState `json:"parts"`
	// Questions and Blocks are those of them that whoever asks does not have yet.
	Questions []Question `json:"questions"`
	Blocks    []Block    `json:"blocks"`
}

// StateAsked is what is asked of a form: how it is with these answers, nothing for how it is
// at first. Have are the ids of parts that whoever asks has already, and Search what they
// search for in questions whose records depend on other answers.
type StateAsked struct {
	Answers form.Answers `json:"answers,omitempty"`
	// With are the answers to what goes with the form, by the ids of blocks; as it is where there are none.
	With   map[string][]Line `json:"with,omitempty"`
	Have   []string          `json:"have,omitempty"`
	Search map[string]string `json:"search,omitempty"`
	// Review asks for the labels of records that were chosen, to look answers over.
	Review bool `json:"review,omitempty"`
}

// PartState is how one part is.
type PartState struct {
	Required bool   `json:"required,omitempty"`
	Title    string `json:"title,omitempty"`   // of a section
	Wrong    string `json:"wrong,omitempty"`   // what is wrong with the answer
	Missing  string `json:"missing,omitempty"` // what is said at sending where there is none
	// Cleared says that what was chosen does not fit any more, so that it is not counted.
	Cleared string `json:"cleared,omitempty"`
	// Options are the first records that can be chosen, where that depends on other answers.
	Options []RecordOption `json:"options,omitempty"`
	More    bool           `json:"more,omitempty"`
	Labels  []string       `json:"labels,omitempty"` // of the records that were chosen, to look answers over
	// Choices are the ids of those that can be chosen, where that depends on other answers.
	Choices *[]string `json:"choices,omitempty"`
	// Value is what is only shown, with the label of a record.
	Value any    `json:"value,omitempty"`
	Label string `json:"label,omitempty"`
	// Lines are the records that go with the form, in the order of the answers.
	Lines []LineState `json:"lines,omitempty"`
	// Adds and Removes tell what whoever looks may do with lines.
	Adds    bool `json:"adds,omitempty"`
	Removes bool `json:"removes,omitempty"` // those that are there
	// Result is what is calculated, and Chart a chart of results.
	Result *ResultState `json:"result,omitempty"`
	Chart  *Chart       `json:"chart,omitempty"`
}

// LineState is how a record is that goes with the form. One that is there comes with its values at
// first.
type LineState struct {
	Key      string               `json:"key,omitempty"` // that of the answers
	Record   string               `json:"record,omitempty"`
	Revision int                  `json:"revision,omitempty"`
	Removed  bool                 `json:"removed,omitempty"`
	Parts    map[string]PartState `json:"parts"`
	Row      Row                  `json:"row,omitempty"`
}

// Line is what is answered about a record that goes with the form.
type Line struct {
	form.Line
	Revision int `json:"revision,omitempty"`
}

// lines are the answers without what only writing needs.
func lines(with map[string][]Line) map[string][]form.Line {
	out := map[string][]form.Line{}
	for id, list := range with {
		out[id] = []form.Line{}
		for _, l := range list {
			out[id] = append(out[id], l.Line)
		}
	}
	return out
}

// State says how the form is.
func (u Use) State(ctx context.Context, asked StateAsked) (FormState, error) {
	f, there, err := u.form(ctx)
	if err != nil {
		return FormState{}, err
	}
	env := u.env(ctx)
	first := asked.Answers == nil && asked.With == nil
	if first && !u.Block.Changes {
		if asked.Answers, err = u.begun(f.Parts, env); err != nil {
			return FormState{}, err
		}
	}
	known := there.known(u, f)
	with, err := u.firstLines(f, known, asked.With, env)
	if err != nil {
		return FormState{}, err
	}
	state, answered := f.Decide(env, known, form.Sent{Answers: asked.Answers, With: lines(with)})
	if err := env.Err(); err != nil {
		return FormState{}, err
	}
	out, err := u.answering(answered).shown(ctx, f, state, asked, there, env)
	return out, errors.Join(err, env.Err())
}

// begun is what questions about a new record start as, as somebody would answer them.
func (u Use) begun(parts []form.Part, env *records.Env) (form.Answers, error) {
	out := form.Answers{}
	for _, p := range parts {
		v, err := u.starts(p, env)
		if err != nil {
			return nil, err
		}
		if v == nil {
			continue
		}
		if out[p.Field.ID], err = json.Marshal(v); err != nil {
			return nil, fmt.Errorf("write what a question starts as: %w", err)
		}
	}
	return out, env.Err()
}

// starts gives what a question starts as, as it stands in a row: what it says, or else the default
// of its field; nil for nothing.
func (u Use) starts(p form.Part, env *records.Env) (any, error) {
	if p.Question == nil || p.Shows() {
		return nil, nil
	}
	c := p.Start
	if c == nil && p.Field.Default != "" && !p.Free() {
		var err error
		if c, err = u.Seat.Blueprint.Beginning(p.Field, u.Seat.Catalog); err != nil {
			return nil, fmt.Errorf("read the default of %s: %w", p.Field.Name, err)
		}
	}
	if c == nil {
		return nil, nil
	}
	return inRow(expr.Eval(c, u.Seat.Catalog, env)), nil
}

// inRow gives a value as it stands in a row; nil for nothing.
func inRow(v expr.Value) any {
	switch {
	case v.IsEmpty():
		return nil
	case v.Kind == expr.YesNo:
		return v.True()
	case len(v.Items) > 0:
		var out []string
		for _, x := range v.Items {
			out = append(out, x.String())
		}
		return out
	}
	return v.String()
}
