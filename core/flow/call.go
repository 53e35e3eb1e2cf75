package flow

import (
	"errors"
	"fmt"
	"maps"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

func doCall(m *Machine, s *step, w *world) (Effect, error) {
	if m.state.Asked == nil {
		x := s.Step.(*blueprint.CallStep)
		out := &Request{Call: x.Call, Given: Values{}, Step: s.Self().ID, Rounds: m.state.rounds(), Goes: x.Goes}
		for id, v := range m.program.row(s, w, nil).Values {
			out.Given[id] = Value{v}
		}
		m.state.Asked = out
	}
	return &Call{*m.state.Asked}, nil
}

// Answer tells what the service answered that the run asks, a row by a row; none where there is no
// answer at last, and the run goes on all the same.
func (m *Machine) Answer(rows []Values) error {
	if m.state.Asked == nil || len(m.state.Frames) == 0 {
		return errors.New("answer a run: it asks for nothing")
	}
	s := m.program.steps[m.state.top().Next]
	if s == nil || s.Self().ID != m.state.Asked.Step { // it was taken out of the workflow meanwhile
		return words.New("flow-step-gone")
	}
	answers := maps.Clone(m.state.Answers)
	if answers == nil {
		answers = map[string]Values{}
	}
	var items []expr.Value
	for i, row := range rows {
		id := fmt.Sprintf("%s %v %d", s.Self().ID, m.state.Asked.Rounds, i)
		answers[id] = row
		items = append(items, expr.RecordOf(id))
	}
	m.state.Answers, m.state.Asked = answers, nil
	var made *Value
	switch {
	case s.makes == nil || s.makes.Kind == "":
	case s.makes.Many:
		made = &Value{expr.ListValue(items)}
	case len(items) == 0:
		made = &Value{}
	default:
		made = &Value{items[0]}
	}
	m.done(s, made)
	return nil
}
