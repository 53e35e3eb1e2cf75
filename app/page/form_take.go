package page

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/words"
	"pinegate/store/records"
)

// Sent are the answers that somebody sends.
type Sent struct {
	Revision int
	Values   records.Values
	With     map[string][]Line
}

// Taken are answers that are right, and what is to be written of them.
type Taken struct {
	Parts    []form.Part // of the form's own record
	Revision int
	Values   records.Values
	With     []TakenLine
	// Answers are those that were shown, by the ids of fields and of questions that are not kept.
	Answers  map[string]expr.Value
	env      *records.Env
	answered expr.Env // with the answers
}

// TakenLine is what is to be written of a record that goes with the form: a new one, or one that is
// there. Place is where it is told what is wrong with it.
type TakenLine struct {
	*form.With
	Place    string
	Record   string
	Revision int
	Removed  bool
	Values   records.Values
}

// Take gives what is to be written of answers, or refuses those that the form does not ask for,
// that cannot be taken, or that are missing. What is not shown is not written; of a record that
// is changed, what the answers hide becomes empty, and what was hidden before stays as it is.
func (u Use) Take(ctx context.Context, sent Sent) (Taken, error) {
	if u.Block.Calculates() && !u.Block.Sends() {
		return Taken{}, words.New("calculator-sends")
	}
	f, there, err := u.form(ctx)
	if err != nil {
		return Taken{}, err
	}
	env := u.env(ctx)
	known := there.known(u, f)
	before := form.State{}
	if u.Block.Changes { // else there is nothing yet of which the answers hide anything
		before, _ = f.Decide(env, known, form.Sent{})
	}
	state, answered := f.Decide(env, known, form.Sent{Answers: form.Answers(sent.Values), With: lines(sent.With)})
	if err := env.Err(); err != nil {
		return Taken{}, err
	}
	t := taking{wrong: records.FieldErrors{}}
	out := Taken{Parts: f.Parts, Revision: sent.Revision, Values: t.values("", f.Parts, u.Block.Changes, before, state, sent.Values)}
	out.Answers, out.env, out.answered = map[string]expr.Value{}, env, answered
	for _, p := range f.Parts {
		if p.Question != nil && state[p.ID].Shown {
			out.Answers[p.Field.ID] = state[p.ID].Value
		}
		if r := state[p.ID].Result; r != nil {
			out.Answers[p.ID] = r.Value
		}
		if p.With != nil {
			out.With = append(out.With, t.with(p, before[p.ID], state[p.ID], sent.With[p.ID])...)
		}
	}
	for id := range sent.With {
		if !slices.ContainsFunc(f.Parts, func(p form.Part) bool { return p.With != nil && p.ID == id }) {
			t.wrong[id] = words.New("not-asked")
		}
	}
	if len(t.wrong) > 0 {
		return Taken{}, t.wrong
	}
	return out, nil
}

// taking takes answers and notes what is wrong with them.
type taking struct{ wrong records.FieldErrors }

// values takes the answers about one record.
func (t taking) values(place string, parts []form.Part, there bool, before, state form.State, sent records.Values) records.Values {
	out := records.Values{}
	maps.Copy(out, sent)
	asked := map[string]bool{}
	for _, p := range parts {
		if p.Question == nil || p.Shows() || !p.Free() && (there && p.Unchanged || !there && p.Unasked) {
			continue
		}
		id := p.Field.ID
		if state[p.ID].Fixed {
			raw, err := json.Marshal(inRow(state[p.ID].Value))
			if err != nil {
				t.wrong[place+id] = words.New("not-formed")
			}
			out[id] = raw
			if _, is := sent[id]; is {
				t.wrong[place+id] = words.New("not-asked")
			}
			continue
		}
		asked[id] = true
		if problem := refused(p, state[p.ID], sent[id]); problem != nil {
			t.wrong[place+id] = problem
		}
		if !state[p.ID].Shown || p.Free() {
			delete(out, id)
			if !p.Free() && there && before[p.ID].Shown && p.Field.Type != blueprint.Links {
				out[id] = json.RawMessage("null")
			}
		}
	}
	for id := range sent {
		if _, told := t.wrong[place+id]; !asked[id] && !told {
			t.wrong[place+id] = words.New("not-asked")
		}
	}
	return out
}

// with takes the answers about what goes with the form.
func (t taking) with(p form.Part, before, state form.PartState, sent []Line) []TakenLine {
	switch {
	case !state.Shown && len(sent) > 0:
		t.wrong[p.ID] = words.New("not-asked-now")
	case state.Wrong != nil:
		t.wrong[p.ID] = state.Wrong
	case state.Missing:
		t.wrong[p.ID] = words.New("with-few", "n", p.With.Least)
	case !p.With.Lines && len(sent) > 1:
		t.wrong[p.ID] = words.New("with-many", "n", 1)
	}
	var out []TakenLine
	for i, is := range state.Lines {
		l := Line{}
		if i < len(sent) {
			l = sent[i]
		}
		at := TakenLine{With: p.With, Place: fmt.Sprintf("%s/%d/", p.ID, i), Record: is.Record, Revision: l.Revision, Removed: is.Removed}
		known := slices.IndexFunc(before.Lines, func(x form.LineState) bool { return is.Record != "" && x.Record == is.Record })
		switch {
		case l.Record != is.Record && i < len(sent), l.Removed && !p.With.Lines:
			t.wrong[p.ID] = words.New("with-gone")
			continue
		case is.Removed:
			if is.Record != "" {
				out = append(out, at)
			}
			continue
		case is.Record != "" && i >= len(sent): // which is as it was
			continue
		}
		was := form.State{}
		if known >= 0 {
			was = before.Lines[known].Parts
		}
		at.Values = t.values(at.Place, p.With.Parts, is.Record != "", was, is.Parts, records.Values(l.Answers))
		out = append(out, at)
	}
	return out
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
