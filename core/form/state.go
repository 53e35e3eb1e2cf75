package form

import (
	"encoding/json"
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// Form is what stands in a form that adds a record or changes one, in its order.
type Form struct {
	Blueprint *blueprint.Blueprint
	Catalog   *expr.Catalog
	Parts     []Part
}

// Part is a question, a section or, where it is neither, words between questions.
type Part struct {
	ID    string
	In    string // id of the section in which it stands, which comes before it; or ""
	Block blueprint.Block
	blueprint.Conditions
	Question blueprint.Asker
	Field    *blueprint.Field // that it asks for
	Section  *blueprint.SectionBlock
	// Unasked tells that whoever looks is not asked: its value is that of the record, for those below.
	Unasked bool
}

// Free tells that the part asks for something that no field holds.
func (p Part) Free() bool {
	_, free := p.Question.(*blueprint.FreeBlock)
	return free
}

// State is what a form is for somebody who has answered so far, by the ids of its parts.
type State map[string]PartState

// PartState is how one part is. Missing tells that an answer is needed that there is not;
// people are told when they send. Cleared tells that what was chosen is not offered any more.
type PartState struct {
	Shown    bool
	Required bool
	Missing  bool
	Cleared  bool
	Wrong    *words.Problem
	Value    expr.Value
	// Offers is the condition over a record that can be chosen, in which no answers are named.
	Offers *expr.Checked
}

// Ready tells whether the form can be sent.
func (s State) Ready() bool {
	for _, p := range s {
		if p.Missing || p.Cleared || p.Wrong != nil {
			return false
		}
	}
	return true
}

// Answers are what was sent, by the ids of fields.
type Answers map[string]json.RawMessage

// Decide says how the form is with what is known of the record and what was answered, which
// goes before. Conditions see the answers before them, and nothing of what is not shown: each
// part is decided once, in the order of the form. A section of which nothing is shown is not
// there itself. The environment that comes with it knows the answers, for words that name them.
func (f *Form) Decide(env expr.Env, known map[string]expr.Value, answers Answers) (State, expr.Env) {
	out := State{}
	e := &answered{Env: env, values: map[string]expr.Value{}}
	var between []Part // words, which see all answers, so they come last
	within := func(p Part) bool { return p.In == "" || out[p.In].Shown }
	for _, p := range f.Parts {
		switch {
		case p.Section != nil:
			out[p.ID] = PartState{Shown: within(p) && f.holds(p.When, e, true)}
			continue
		case p.Question == nil:
			between = append(between, p)
			continue
		case p.Unasked:
			e.values[p.Field.ID] = known[p.Field.ID]
			continue
		}
		s := PartState{Shown: within(p) && f.holds(p.When, e, true)}
		if s.Shown {
			f.answer(p, e, known[p.Field.ID], answers[p.Field.ID], &s)
		}
		e.values[p.Field.ID] = s.Value
		if s.Shown && s.Wrong == nil && !s.Value.IsEmpty() {
			s.Wrong = f.broken(p, e, s.Value)
		}
		out[p.ID] = s
	}
	for _, p := range between {
		out[p.ID] = PartState{Shown: within(p) && f.holds(p.When, e, true)}
	}
	f.leaveOut(out)
	return out, e
}

// leaveOut hides sections of which nothing is shown.
func (f *Form) leaveOut(state State) {
	filled := map[string]bool{"": true}
	for _, p := range slices.Backward(f.Parts) {
		switch {
		case p.Section != nil && !filled[p.ID]:
			state[p.ID] = PartState{}
		case state[p.ID].Shown:
			filled[p.In] = true
		}
	}
}

// answer reads the answer to a question that is shown.
func (f *Form) answer(p Part, e *answered, known expr.Value, sent json.RawMessage, s *PartState) {
	s.Value = known
	empty := known.IsEmpty()
	if sent != nil {
		s.Value, empty, s.Wrong = f.read(p.Field, known, sent)
	}
	s.Required = p.Question.How().Required || p.Field.Required || f.holds(p.RequiredWhen, e, false)
	if p.Narrow != nil {
		s.Offers = expr.Fold(p.Narrow, f.Catalog, e)
		if s.Wrong == nil && !f.offered(p, e, s.Value) {
			s.Value, s.Cleared, empty = expr.Empty(), true, true
		}
	}
	s.Missing = s.Required && empty && s.Wrong == nil
}

// read gives the value of an answer. Of links, those that are added are looked at; what was
// linked before may be more than somebody sees.
func (f *Form) read(field *blueprint.Field, known expr.Value, sent json.RawMessage) (v expr.Value, empty bool, wrong *words.Problem) {
	if field.Type != blueprint.Links {
		v, wrong = Accept(f.Blueprint, field, sent)
		return v, v.IsEmpty(), wrong
	}
	edit, wrong := AcceptLinks(f.Blueprint, field, sent)
	var items []expr.Value
	for _, id := range edit.Added {
		items = append(items, expr.RecordOf(id))
	}
	return expr.ListValue(items), len(items) == 0 && (edit.Whole || known.IsEmpty()), wrong
}

// offered tells whether all that is chosen is among what is offered.
func (f *Form) offered(p Part, e *answered, v expr.Value) bool {
	chosen := []expr.Value{v}
	switch {
	case v.IsEmpty():
		return true
	case p.Field.Type == blueprint.Links:
		chosen = v.Items
	}
	for _, x := range chosen {
		if !expr.Eval(p.Narrow, f.Catalog, &answered{Env: e.Env, values: e.values, row: x}).True() {
			return false
		}
	}
	return true
}

// broken says which rule an answer does not meet, or nil.
func (f *Form) broken(p Part, e *answered, v expr.Value) *words.Problem {
	if n := p.Question.How().Digits; n != 0 && !digits(v.Text, n) {
		return words.New("answer-digits", "n", n)
	}
	for i, r := range p.Rules {
		if expr.Eval(r, f.Catalog, e).True() {
			continue
		}
		if says := p.Question.How().Rules[i].Says; says != "" {
			return words.New("answer-said", "words", says)
		}
		return words.New("answer-rule")
	}
	return nil
}

func digits(s string, n int) bool {
	if len(s) != n {
		return false
	}
	for _, r := range s {
		if r < '0' || r > '9' {
			return false
		}
	}
	return true
}

// holds tells whether a condition does; without one it is as given.
func (f *Form) holds(c *expr.Checked, e *answered, without bool) bool {
	if c == nil {
		return without
	}
	return expr.Eval(c, f.Catalog, e).True()
}

// answered is an environment with answers, and a record that is offered as the one in hand.
type answered struct {
	expr.Env
	values map[string]expr.Value // by the ids of fields
	row    expr.Value
}

func (e *answered) Start(root expr.Root) expr.Value {
	switch {
	case root == expr.RootAnswers:
		return expr.RecordOf(expr.AnswersTable)
	case root == expr.RootRow && !e.row.IsEmpty():
		return e.row
	}
	return e.Env.Start(root)
}

func (e *answered) Field(record expr.Value, f *expr.Field) expr.Value {
	if f.Table == expr.AnswersTable {
		return e.values[f.ID]
	}
	return e.Env.Field(record, f)
}
