package form

import (
	"encoding/json"
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// Answers are what was sent, by the ids of fields.
type Answers map[string]json.RawMessage

// Sent are the answers to a form: to its own questions, and to those of what goes with it, by
// the ids of blocks. Of what goes with it and is not sent, things are as they are.
type Sent struct {
	Answers Answers
	With    map[string][]Line
}

// Line is what was sent of a record that goes with a form: of a new one, or of one that is there.
type Line struct {
	Key     string  `json:"key,omitempty"` // by which whoever asks knows it
	Record  string  `json:"record,omitempty"`
	Removed bool    `json:"removed,omitempty"`
	Answers Answers `json:"answers,omitempty"`
}

// Known is what there is already of the record of a form, "" for a new one, and of those that go
// with it, by the ids of blocks.
type Known struct {
	Record string
	Values map[string]expr.Value // by the ids of fields
	With   map[string][]Known
}

// Decide says how the form is with what is known of its records and what was answered, which
// goes before. Conditions see the answers before them, and nothing of what is not shown: each
// part is decided once, in the order of the form. A section of which nothing is shown is not
// there itself. The environment that comes with it knows the answers, for words that name them.
func (f *Form) Decide(env expr.Env, known Known, sent Sent) (State, expr.Env) {
	e := &answered{Env: env, form: f, records: map[string]*pending{}, lines: map[string][]string{}}
	d := &deciding{Form: f, answered: e}
	e.main = e.add(known.Record, f.Table)
	out := d.parts(f.Parts, e.main, known, sent)
	d.show(f.Parts, e.main, out)
	d.courses(out)
	return out, e
}

// deciding decides about a form.
type deciding struct {
	*Form
	*answered
}

// parts decides about parts that ask for a record.
func (d *deciding) parts(parts []Part, record string, known Known, sent Sent) State {
	out := State{}
	var between []Part // words, which see all answers, so they come last
	within := func(p Part) bool { return p.In == "" || out[p.In].Shown }
	values := d.records[record].values
	for _, p := range parts {
		here := within(p) && (p.Between() || d.holds(p.When, true))
		switch {
		case p.Section != nil:
			out[p.ID] = PartState{Shown: here}
		case p.With != nil:
			out[p.ID] = d.with(p, here, known.With[p.ID], sent.With)
		case p.Result != nil:
			out[p.ID] = PartState{Shown: here}
			if here {
				out[p.ID] = PartState{Shown: !p.Result.Aside, Result: d.result(p, out)}
			}
		case p.Question == nil:
			between = append(between, p)
		case p.Fixed != nil && known.Record == "":
			if here {
				values[p.Field.ID], out[p.ID] = *p.Fixed, PartState{Value: *p.Fixed, Fixed: true}
			}
		case p.Shows():
			out[p.ID] = PartState{Shown: here}
		case p.Unasked && known.Record == "", p.Unchanged && known.Record != "":
			if v, there := known.Values[p.Field.ID]; there {
				values[p.Field.ID] = v
			}
		default:
			s := PartState{Shown: here}
			if s.Shown {
				d.answer(p, values, known.Values[p.Field.ID], sent.Answers[p.Field.ID], &s)
			}
			values[p.Field.ID] = s.Value
			if s.Shown && s.Wrong == nil && !s.Value.IsEmpty() {
				s.Wrong = d.broken(p, s.Value)
			}
			out[p.ID] = s
		}
	}
	for _, p := range between {
		out[p.ID] = PartState{Shown: within(p) && d.holds(p.When, true)}
	}
	leaveOut(parts, out)
	return out
}

// with decides about what goes with the form.
func (d *deciding) with(p Part, shown bool, known []Known, sent map[string][]Line) PartState {
	if p.Unasked || !shown {
		return PartState{}
	}
	s := PartState{Shown: true}
	lines, answered := sent[p.ID]
	if !answered {
		lines = First(p.With, known)
	}
	if len(lines) > len(known)+2*blueprint.MostLines { // which nobody sends by hand, so that they are not looked at
		s.Wrong = words.New("with-many", "n", p.With.MostSent())
		return s
	}
	for _, l := range lines {
		is := Known{}
		if i := slices.IndexFunc(known, func(k Known) bool { return k.Record == l.Record }); i >= 0 && l.Record != "" {
			is = known[i]
		}
		if l.Removed {
			if is.Record != "" {
				d.gone = append(d.gone, is.Record)
			}
			s.Lines = append(s.Lines, LineState{Key: l.Key, Record: is.Record, Removed: true})
			continue
		}
		id := d.add(is.Record, p.With.Table)
		d.lines[p.With.Name] = append(d.lines[p.With.Name], id)
		d.link(p.With, id)
		d.line, d.lineOf = id, p.With.Name
		parts := d.parts(p.With.Parts, id, is, Sent{Answers: l.Answers})
		d.line, d.lineOf = "", ""
		s.Lines = append(s.Lines, LineState{Key: l.Key, Record: is.Record, Parts: parts})
	}
	if n := len(d.lines[p.With.Name]); p.With.Lines {
		s.Missing = n < p.With.Least
		if n > p.With.MostSent() {
			s.Wrong = words.New("with-many", "n", p.With.MostSent())
		}
	}
	return s
}

// First are the lines with which what goes with a form begins: those that are there, or one
// that is new, or so many as there have to be.
func First(w *With, known []Known) []Line {
	var out []Line
	for _, k := range known {
		out = append(out, Line{Record: k.Record})
	}
	least := 1
	if w.Lines {
		least = w.Least
	}
	for len(out) < least {
		out = append(out, Line{})
	}
	return out
}

// show computes what parts only show, once all is answered.
func (d *deciding) show(parts []Part, record string, out State) {
	for _, p := range parts {
		s := out[p.ID]
		switch {
		case p.Question != nil && p.Shows() && s.Shown && !p.Unasked:
			for _, f := range d.Catalog.Tables[d.records[record].table.ID].Fields {
				if f.ID == p.Field.ID {
					s.Value = d.Field(expr.RecordOf(record), f)
				}
			}
			out[p.ID] = s
		case p.With != nil:
			ids := d.lines[p.With.Name]
			for _, l := range s.Lines {
				if !l.Removed {
					d.show(p.With.Parts, ids[0], l.Parts)
					ids = ids[1:]
				}
			}
		}
	}
}

// leaveOut hides sections of which nothing is shown.
func leaveOut(parts []Part, state State) {
	filled := map[string]bool{"": true}
	for _, p := range slices.Backward(parts) {
		switch {
		case p.Section != nil && !filled[p.ID]:
			state[p.ID] = PartState{}
		case state[p.ID].Shown:
			filled[p.In] = true
		}
	}
}

// answer reads the answer to a question that is shown.
func (d *deciding) answer(p Part, values map[string]expr.Value, known expr.Value, sent json.RawMessage, s *PartState) {
	s.Value = known
	empty := known.IsEmpty()
	if sent != nil {
		s.Value, empty, s.Wrong = d.read(p.Field, known, sent)
	}
	s.Required = p.Question.How().Required || p.Field.Required || d.holds(p.RequiredWhen, false)
	if p.Narrow != nil {
		fits := true
		if l := d.Blueprint.List(p.Field.List); l != nil {
			s.Choices = d.choices(p, l, values)
			fits = !slices.ContainsFunc(chosen(s.Value), func(v expr.Value) bool { return !slices.Contains(s.Choices, v.Text) })
		} else {
			s.Offers = expr.Fold(p.Narrow, d.Catalog, d)
			fits = d.offered(p, s.Value)
		}
		if s.Wrong == nil && !fits {
			s.Value, s.Cleared, empty = expr.Empty(), true, true
		}
	}
	s.Missing = s.Required && empty && s.Wrong == nil
}

// read gives the value of an answer. Of links, those that are added are looked at; what was
// linked before may be more than somebody sees.
func (d *deciding) read(field *blueprint.Field, known expr.Value, sent json.RawMessage) (v expr.Value, empty bool, wrong *words.Problem) {
	if field.Type != blueprint.Links {
		v, wrong = Accept(d.Blueprint, field, sent)
		return v, v.IsEmpty(), wrong
	}
	edit, wrong := AcceptLinks(d.Blueprint, field, sent)
	var items []expr.Value
	for _, id := range edit.Added {
		items = append(items, expr.RecordOf(id))
	}
	return expr.ListValue(items), len(items) == 0 && (edit.Whole || known.IsEmpty()), wrong
}

// offered tells whether all that is chosen is among what is offered.
func (d *deciding) offered(p Part, v expr.Value) bool {
	for _, x := range chosen(v) {
		if !expr.Eval(p.Narrow, d.Catalog, d.of(x)).True() {
			return false
		}
	}
	return true
}

// chosen are the single values of an answer.
func chosen(v expr.Value) []expr.Value {
	switch {
	case v.IsEmpty():
		return nil
	case len(v.Items) > 0:
		return v.Items
	}
	return []expr.Value{v}
}

// choices gives the ids of the choices for which the condition holds, each as if it were the answer.
func (d *deciding) choices(p Part, l *blueprint.ChoiceList, values map[string]expr.Value) []string {
	out := []string{}
	for _, c := range l.Choices {
		values[p.Field.ID] = expr.ChoiceOf(c.ID)
		if expr.Eval(p.Narrow, d.Catalog, d).True() {
			out = append(out, c.ID)
		}
	}
	delete(values, p.Field.ID)
	return out
}

// broken says which rule an answer does not meet, or nil.
func (d *deciding) broken(p Part, v expr.Value) *words.Problem {
	if n := p.Question.How().Digits; n != 0 && !digits(v.Text, n) {
		return words.New("answer-digits", "n", n)
	}
	for i, r := range p.Rules {
		if expr.Eval(r, d.Catalog, d).True() {
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
func (d *deciding) holds(c *expr.Checked, without bool) bool {
	if c == nil {
		return without
	}
	return expr.Eval(c, d.Catalog, d).True()
}
