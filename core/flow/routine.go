package flow

import (
	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

func doRoutine(m *Machine, s *step, w *world) (Effect, error) {
	x := s.Step.(*blueprint.RoutineStep)
	in := &Input{Answers: Values{}}
	if record := s.exprs["record"]; record != nil {
		in.Record = m.program.eval(record, w).Text
	}
	for id, v := range m.program.row(s, w, nil).Values {
		in.Answers[id] = Value{v}
	}
	inner := *w
	inner.input = *in
	var looked []Look
	runs := !m.program.Blueprint.Workflow(x.Routine).Off
	if when := m.program.routines[x.Routine].exprs["when"]; when != nil {
		looked = m.program.looks(when, &inner)
		runs = runs && m.program.eval(when, &inner).True()
	}
	if !runs {
		m.tell(s, Event{What: PassedOver, Looked: looked})
		delete(m.state.Made, s.Self().ID)
		m.pass(s)
		return nil, nil
	}
	m.tell(s, Event{What: DidStep})
	f := m.into(s, Frame{Input: in, Items: []Value{{}}})
	f.Next = m.program.first[x.Routine]
	return nil, nil
}

// back leaves a routine at its end, with what it gives back.
func (m *Machine) back(w *world) {
	s := m.program.steps[m.state.top().In]
	var gives *expr.Checked
	if s != nil { // it can have been taken out of the workflow while the run waited in the routine
		if x, is := s.Step.(*blueprint.RoutineStep); is && m.program.routines[x.Routine] != nil {
			gives = m.program.routines[x.Routine].exprs["gives"]
		}
	}
	if gives == nil {
		m.state.pop()
		return
	}
	made := Value{m.program.eval(gives, w)}
	m.state.pop()
	m.state.Made[s.Self().ID] = made
	m.tell(s, Event{What: GaveBack, Made: &made})
}
