package page

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/words"
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
	Answers form.Answers      `json:"answers,omitempty"`
	Have    []string          `json:"have,omitempty"`
	Search  map[string]string `json:"search,omitempty"`
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
}

// parts are what stands in the form for whoever looks, with its conditions.
func (u Use) parts() (*form.Form, error) {
	out, err := form.Of(u.Seat.Blueprint, u.spot(), u.Block, u.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read the conditions of a form on %s: %w", u.Page.Name, err)
	}
	for i := range out.Parts {
		p := &out.Parts[i]
		if p.Question == nil && p.Section == nil && p.When != nil {
			p.When = expr.OfPage(p.When) // the record in hand of words is that of the page
		}
		if p.Question != nil && !p.Free() {
			asked, err := u.Asks(p.Field.ID)
			if err != nil {
				return nil, err
			}
			p.Unasked = !asked
		}
	}
	out.Bound(u.boundListed)
	return out, nil
}

// env is what expressions of the form read, as whoever looks sees it.
func (u Use) env(ctx context.Context) *records.Env {
	b := u.Seat.Blueprint
	scope := b.ListScope(u.spot(), "", u.Seat.Catalog)
	return u.Road.Env(ctx, u.Seat, b.Table(scope.Me), b.Table(u.Page.Record)) // which is what a part is about, too
}

// known are the values of the record that the form changes, as far as whoever looks sees them.
func (u Use) known(f *form.Form) (map[string]expr.Value, error) {
	row, err := u.row()
	if err != nil {
		return nil, err
	}
	out := map[string]expr.Value{}
	for _, p := range f.Parts {
		if p.Question != nil && !p.Free() {
			out[p.Field.ID] = records.ValueOf(u.Seat.Catalog, u.Table.ID, p.Field.ID, row[p.Field.ID])
		}
	}
	return out, nil
}

// State says how the form is.
func (u Use) State(ctx context.Context, asked StateAsked) (FormState, error) {
	f, err := u.parts()
	if err != nil {
		return FormState{}, err
	}
	env := u.env(ctx)
	row, err := u.begun(f, env)
	if err != nil {
		return FormState{}, err
	}
	if asked.Answers == nil && !u.Block.Changes {
		if asked.Answers, err = answersOf(row); err != nil {
			return FormState{}, err
		}
	}
	known, err := u.known(f)
	if err != nil {
		return FormState{}, err
	}
	state, answered := f.Decide(env, known, asked.Answers)
	if err := env.Err(); err != nil {
		return FormState{}, err
	}
	out, err := u.answering(answered).shown(ctx, f, state, asked, row)
	return out, errors.Join(err, env.Err())
}

// begun is the record that the form changes or, of one that adds, what its questions start as.
func (u Use) begun(f *form.Form, env *records.Env) (Row, error) {
	row, err := u.row()
	if err != nil || u.Block.Changes {
		return row, err
	}
	for _, p := range f.Parts {
		if p.Start == nil {
			continue
		}
		v := expr.Eval(p.Start, u.Seat.Catalog, env)
		switch {
		case v.IsEmpty():
			continue
		case v.Kind == expr.YesNo:
			row[p.Field.ID] = v.True()
		default:
			row[p.Field.ID] = v.String()
		}
		if t := u.offers(p.Field); t != nil {
			row[p.Field.ID+"~"] = env.Label(t.ID, v).Text
		}
	}
	return row, env.Err()
}

// answersOf are the values of a record that is begun, as somebody would answer them.
func answersOf(row Row) (form.Answers, error) {
	out := form.Answers{}
	for id, v := range row {
		if strings.HasSuffix(id, "~") {
			continue
		}
		raw, err := json.Marshal(v)
		if err != nil {
			return nil, fmt.Errorf("write what a question starts as: %w", err)
		}
		out[id] = raw
	}
	return out, nil
}

// Take gives the answers that are written, or refuses those that the form does not ask for,
// that cannot be taken, or that are missing. What is not shown is not written; of a record that
// is changed, what the answers hide becomes empty, and what was hidden before stays as it is.
func (u Use) Take(ctx context.Context, answers records.Values) (records.Values, error) {
	f, err := u.parts()
	if err != nil {
		return nil, err
	}
	known, err := u.known(f)
	if err != nil {
		return nil, err
	}
	env := u.env(ctx)
	before, _ := f.Decide(env, known, nil)
	state, _ := f.Decide(env, known, form.Answers(answers))
	if err := env.Err(); err != nil {
		return nil, err
	}
	out, wrong := records.Values{}, records.FieldErrors{}
	maps.Copy(out, answers)
	asked := map[string]bool{}
	for _, p := range f.Parts {
		if p.Question == nil || p.Unasked {
			continue
		}
		asked[p.Field.ID] = true
		if problem := refused(p, state[p.ID], answers[p.Field.ID]); problem != nil {
			wrong[p.Field.ID] = problem
		}
		if !state[p.ID].Shown || p.Free() {
			delete(out, p.Field.ID)
			if !p.Free() && u.Block.Changes && before[p.ID].Shown && p.Field.Type != blueprint.Links {
				out[p.Field.ID] = json.RawMessage("null")
			}
		}
	}
	for id := range answers {
		if !asked[id] {
			wrong[id] = words.New("not-asked")
		}
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	return out, nil
}

// refused says why an answer is not taken, or nil.
func refused(p form.Part, s form.PartState, sent json.RawMessage) *words.Problem {
	switch {
	case !s.Shown && sent != nil && string(sent) != "null":
		return words.New("not-asked-now")
	case s.Wrong != nil:
		return s.Wrong
	case s.Cleared:
		return words.New("answer-cleared")
	case s.Missing:
		return form.Missing(p.Field)
	}
	return nil
}
