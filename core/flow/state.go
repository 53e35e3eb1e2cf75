package flow

import (
	"slices"
	"time"

	"pinegate/core/expr"
)

// Input is what sets a run off.
type Input struct {
	Record  string `json:"record,omitempty"`  // id of the record in hand
	Was     Values `json:"was,omitempty"`     // what it held before, by the ids of its fields
	Answers Values `json:"answers,omitempty"` // of a form
}

// State is how far a run is. Between its parts it is kept as JSON.
type State struct {
	Frames []Frame `json:"frames"` // the outermost first; none when it is over
	Made   Values  `json:"made,omitempty"`
	Rounds int     `json:"rounds,omitempty"` // of all loops so far
	// Since is when the wait began at which the run is; nil while it waits for nothing.
	Since *time.Time `json:"since,omitempty"`
	// Asked is what a service is asked that has not answered; nil while none is.
	Asked *Request `json:"asked,omitempty"`
	// Answers are what services answered, a row by a row, by what stands for each.
	Answers map[string]Values `json:"answers,omitempty"`
}

// Request is what a service is asked.
type Request struct {
	Call string `json:"call"` // id
	// Given are the values that are sent, by the ids of what is sent.
	Given Values `json:"given,omitempty"`
	// Step and Rounds say which one of the run it is.
	Step   string `json:"step"`
	Rounds []int  `json:"rounds,omitempty"`
	// Goes tells that the run goes on where there is no answer at last.
	Goes bool `json:"goes,omitempty"`
}

// Frame is a place among the steps of the workflow, or of a step that holds some.
type Frame struct {
	In   string `json:"in"`
	Next string `json:"next,omitempty"` // id of the step that follows; "" at the end
	// Items are those of a loop, and Round the one that it is at.
	Items []Value `json:"items,omitempty"`
	Round int     `json:"round,omitempty"`
	// Taken tells that a path of the branch was taken.
	Taken bool `json:"taken,omitempty"`
	// Input is what a routine was given; nil for what is no routine.
	Input *Input `json:"input,omitempty"`
}

// Begin is the state of a run that begins.
func (p *Program) Begin() *State {
	return &State{Frames: []Frame{{In: p.Workflow.ID, Next: p.first[p.Workflow.ID]}}, Made: Values{}}
}

// rounds tells in which rounds of the loops around it the run is.
func (s *State) rounds() []int {
	var out []int
	for _, f := range s.Frames {
		if f.Items != nil {
			out = append(out, f.Round)
		}
	}
	return out
}

// input gives what the innermost routine was given, or nil in none.
func (s *State) input() *Input {
	for i := len(s.Frames) - 1; i >= 0; i-- {
		if s.Frames[i].Input != nil {
			return s.Frames[i].Input
		}
	}
	return nil
}

// top gives the innermost place.
func (s *State) top() *Frame { return &s.Frames[len(s.Frames)-1] }

// pop leaves the innermost place.
func (s *State) pop() { s.Frames = s.Frames[:len(s.Frames)-1] }

// world is the environment in which the expressions of a workflow are computed.
type world struct {
	expr.Env
	input Input
	made  Values
	about *expr.Table // of the record in hand, or nil
	// answers are those of services, and tables how they are seen, by the ids of calls.
	answers map[string]Values
	tables  map[string]*expr.Table
}

// Holder is an environment that holds records: until the part is over, nobody else changes them, and what is read of them
// is as they are by then.
type Holder interface {
	Hold(table string, records ...string)
}

// hold holds records that are about to be changed, before what they become is computed: of two runs that count up, the
// second one counts on from the first.
func (w *world) hold(table string, records ...string) {
	if h, holds := w.Env.(Holder); holds {
		h.Hold(table, records...)
	}
}

// Label gives the text by which a record is known; a row of an answer by what was taken first.
func (w *world) Label(table string, record expr.Value) expr.Value {
	t := w.tables[table]
	if t == nil {
		return w.Env.Label(table, record)
	}
	if len(t.Fields) == 0 || record.IsEmpty() {
		return expr.Empty()
	}
	return expr.TextOf(w.answers[record.Text].Get(t.Fields[0].ID).String())
}

// Start gives the record at a root.
func (w *world) Start(root expr.Root) expr.Value {
	switch root {
	case expr.RootRow:
		return expr.RecordOf(w.input.Record)
	case expr.RootMade, expr.RootWas, expr.RootAnswers:
		return expr.RecordOf(string(root))
	}
	return w.Env.Start(root)
}

// Field gives a field of a record, or something that the run knows.
func (w *world) Field(record expr.Value, f *expr.Field) expr.Value {
	known := Values(nil)
	if w.tables[f.Table] != nil {
		return w.answers[record.Text].Get(f.ID)
	}
	switch f.Table {
	case expr.MadeTable:
		known = w.made
	case expr.WasTable:
		if _, was := w.input.Was[f.ID]; !was {
			return w.still(f)
		}
		known = w.input.Was
	case expr.AnswersTable:
		known = w.input.Answers
	default:
		return w.Env.Field(record, f)
	}
	v := known.Get(f.ID)
	if f.Type.Many && !v.IsEmpty() && v.Items == nil {
		return expr.ListValue([]expr.Value{v})
	}
	return v
}

// still gives what a field held before that was not written: what it holds.
func (w *world) still(f *expr.Field) expr.Value {
	if w.about == nil || w.input.Record == "" {
		return expr.Empty()
	}
	for _, own := range w.about.Fields {
		if own.ID == f.ID {
			return w.Env.Field(expr.RecordOf(w.input.Record), own)
		}
	}
	return expr.Empty()
}

// recordsOf makes a list of records of their ids.
func recordsOf(ids []string) expr.Value {
	items := make([]expr.Value, len(ids))
	for i, id := range ids {
		items[i] = expr.RecordOf(id)
	}
	return expr.ListValue(slices.Clip(items))
}
