package flow

import (
	"errors"
	"fmt"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// Machine runs a program. [Machine.Next] says what is to be done outside, and [Machine.Did]
// tells it what became of that.
type Machine struct {
	program *Program
	input   Input
	state   *State
	watch   func(Event)
	waiting *step                // whose effect is being done
	then    func(Outcome) Effect // what follows the effect, where the step is not over
}

// Event is something that a step did, for whoever watches the run.
type Event struct {
	Step   string
	Rounds []int // in which of the loops around it, the outermost first
	What   What
	Made   *Value // what later steps can name
	Effect Effect // what it wanted done
	Looked []Look // what its condition looked at
}

// Look is something that a condition looked at, and what it was.
type Look struct {
	Name  string `json:"name"`
	Shown string `json:"shown"` // as people read it, "" for empty
}

// What tells events apart.
type What string

// The events.
const (
	DidStep    What = "did"
	PassedOver What = "passed over" // its condition did not hold
	TookPath   What = "took"
	LeftPath   What = "left"  // its condition did not hold, or another was taken
	BeganRound What = "round" // of a loop
	GaveBack   What = "back"  // a routine, with what it gives back
	EndedEarly What = "ended" // a step that repeats, as its condition holds
	Asked      What = "asked" // for something to be done outside
)

// Run gives a machine that goes on from a state. What happens is told to watch, if there is one.
func (p *Program) Run(input Input, state *State, watch func(Event)) *Machine {
	if state.Made == nil {
		state.Made = Values{}
	}
	if watch == nil {
		watch = func(Event) {}
	}
	return &Machine{program: p, input: input, state: state, watch: watch}
}

// State gives how far the run is.
func (m *Machine) State() *State { return m.state }

// Starts tells whether the condition holds without which the workflow does not start, and what it
// looked at.
func (p *Program) Starts(input Input, env expr.Env) (bool, []Look) {
	if p.when == nil {
		return true, nil
	}
	w := p.world(env, input, nil)
	return p.eval(p.when, w).True(), p.looks(p.when, w)
}

// Watch computes an expression with what a run knows so far, as people read it.
func (p *Program) Watch(c *expr.Checked, input Input, state *State, env expr.Env) string {
	w := p.world(env, input, state.Made)
	w.answers = state.Answers
	return expr.Shown(c, p.Catalog, w)
}

// looks tells what a condition looks at.
func (p *Program) looks(c *expr.Checked, w *world) []Look {
	var out []Look
	for _, x := range c.Known() {
		out = append(out, Look{Name: x.PathNames(), Shown: expr.Shown(x, p.Catalog, w)})
	}
	return out
}

// Next goes on until something has to be done outside, and says what. The environment gives
// values as they are now.
func (m *Machine) Next(env expr.Env) (Effect, error) {
	if m.waiting != nil {
		return nil, errors.New("go on with a run: what became of the last effect was not told")
	}
	for len(m.state.Frames) > 0 {
		w := m.world(env)
		f := m.state.top()
		if f.Next == "" {
			m.leave(w)
			continue
		}
		s := m.program.steps[f.Next]
		if s == nil {
			return nil, words.New("flow-step-gone")
		}
		effect, err := m.step(s, w)
		if err != nil {
			return nil, err
		}
		if effect != nil {
			if !ends(effect) {
				m.waiting = s
			}
			m.tell(s, Event{What: Asked, Effect: effect})
			return effect, nil
		}
	}
	return &Done{}, nil
}

// world gives what the step at which the run is knows: in a routine, what that was given.
func (m *Machine) world(env expr.Env) *world {
	input := m.input
	if in := m.state.input(); in != nil {
		input = *in
	}
	w := m.program.world(env, input, m.state.Made)
	w.answers = m.state.Answers
	return w
}

// ends tells whether the part ends with an effect, which is not answered.
func ends(e Effect) bool {
	switch e.(type) {
	case *Wait, *Call:
		return true
	}
	return false
}

// Did tells what became of the effect that [Machine.Next] gave, and gives another one that its
// step wants done at once, or nil.
func (m *Machine) Did(o Outcome) Effect {
	s := m.waiting
	if m.then != nil {
		then := m.then
		m.then = nil
		if next := then(o); next != nil {
			m.tell(s, Event{What: Asked, Effect: next})
			return next
		}
	}
	m.waiting = nil
	m.done(s, m.program.outcome(s, o))
	return nil
}

// outcome gives what a step makes of what became of its effect.
func (p *Program) outcome(s *step, o Outcome) *Value {
	switch {
	case s.makes == nil:
		return nil
	case s.exprs["of"] != nil:
		return &Value{o.Number}
	case s.makes.Kind == expr.Number:
		return &Value{expr.NumberOf(decimalOf(o.Count))}
	case s.makes.Many:
		return &Value{recordsOf(o.Records)}
	case len(o.Records) == 0:
		return &Value{}
	}
	return &Value{expr.RecordOf(o.Records[0])}
}

// done goes on after a step.
func (m *Machine) done(s *step, made *Value) {
	if made != nil {
		m.state.Made[s.Self().ID] = *made
	}
	m.tell(s, Event{What: DidStep, Made: made})
	m.pass(s)
}

// pass makes the step that follows the next one.
func (m *Machine) pass(s *step) { m.state.top().Next = m.program.after[s.Self().ID] }

func (m *Machine) tell(s *step, e Event) {
	e.Step, e.Rounds = s.Self().ID, m.state.rounds()
	m.watch(e)
}

// leave leaves what holds steps at its end, or begins the next round of a loop.
func (m *Machine) leave(w *world) {
	f := m.state.top()
	if s := m.program.steps[f.In]; s != nil && f.Items != nil && f.Round+1 < len(f.Items) && !m.enough(s, w) {
		f.Round++
		m.round(s, f)
		return
	}
	if f.Input == nil {
		m.state.pop()
		return
	}
	m.back(w)
}

// enough tells whether a step that repeats is over before its last round.
func (m *Machine) enough(s *step, w *world) bool {
	until := s.exprs["until"]
	if _, repeats := s.Step.(*blueprint.RepeatStep); !repeats || until == nil || !m.program.eval(until, w).True() {
		return false
	}
	m.tell(s, Event{What: EndedEarly, Looked: m.program.looks(until, w)})
	return true
}

// round begins a round of a loop.
func (m *Machine) round(s *step, f *Frame) {
	f.Next = m.program.first[f.In]
	item := f.Items[f.Round]
	m.state.Made[blueprint.ItemID(f.In)] = item
	m.state.Rounds++
	m.tell(s, Event{What: BeganRound, Made: &item})
}

// into goes into what a step holds, and past the step itself.
func (m *Machine) into(s *step, f Frame) *Frame {
	m.pass(s)
	f.In = s.Self().ID
	f.Next = m.program.first[f.In]
	m.state.Frames = append(m.state.Frames, f)
	return m.state.top()
}

// step does what a step does by itself, and gives what is to be done outside, or nil where it is
// over.
func (m *Machine) step(s *step, w *world) (Effect, error) {
	if path, is := s.Step.(*blueprint.PathStep); is {
		m.path(s, path, w)
		return nil, nil
	}
	if when := s.exprs["when"]; when != nil && m.state.Since == nil && m.state.Asked == nil && !m.program.eval(when, w).True() {
		m.tell(s, Event{What: PassedOver, Looked: m.program.looks(when, w)})
		m.pass(s)
		return nil, nil
	}
	do := doers[s.Row().Name]
	if do == nil {
		return nil, fmt.Errorf("run workflow %s: there is no step %q", m.program.Workflow.Name, s.Row().Name)
	}
	return do(m, s, w)
}

// path takes a path of a branch, where it fits.
func (m *Machine) path(s *step, path *blueprint.PathStep, w *world) {
	f := m.state.top()
	branch := m.program.steps[f.In].Step.(*blueprint.BranchStep)
	fits := !f.Taken
	var looked []Look
	if path.When != "" && (fits || branch.Take == blueprint.EachThatFits) {
		fits = m.program.eval(s.exprs["when"], w).True()
		looked = m.program.looks(s.exprs["when"], w)
	}
	if !fits {
		m.tell(s, Event{What: LeftPath, Looked: looked})
		m.pass(s)
		return
	}
	f.Taken = true
	m.tell(s, Event{What: TookPath, Looked: looked})
	m.into(s, Frame{})
}

func (p *Program) world(env expr.Env, input Input, made Values) *world {
	return &world{Env: env, input: input, made: made, about: p.Catalog.Tables[p.about], tables: p.Catalog.Answers}
}

func (p *Program) eval(c *expr.Checked, w *world) expr.Value { return expr.Eval(c, p.Catalog, w) }

func (p *Program) text(t expr.Template, w *world) Text {
	return Text{t, t.Shown(p.Catalog, w)}
}
