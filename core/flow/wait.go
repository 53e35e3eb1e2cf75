package flow

import (
	"fmt"
	"time"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// look is after how long a wait for a date looks again whether there is one.
const look = 24 * time.Hour

func doWait(m *Machine, s *step, w *world) (Effect, error) {
	x := s.Step.(*blueprint.WaitStep)
	clock := w.Clock()
	if m.state.Since == nil {
		m.state.Since = &clock.Now
	}
	begin := *m.state.Since
	var made *Value
	var until time.Time
	switch x.For {
	case blueprint.WaitsDate:
		at, known, err := m.program.date(s, x, w)
		if err != nil {
			return nil, err
		}
		if until = at; !known {
			if clock.Now.After(begin.AddDate(0, 0, blueprint.MostWait)) {
				return nil, words.New("flow-waited", "n", blueprint.MostWait)
			}
			return &Wait{Until: clock.Now.Add(look)}, nil
		}
	case blueprint.WaitsCondition:
		until = x.After(begin, m.program.Blueprint.Location())
		holds := m.program.eval(s.exprs["holds"], w).True()
		if made = (&Value{expr.YesNoOf(holds)}); holds {
			until = clock.Now
		}
	default:
		until = x.After(begin, m.program.Blueprint.Location())
	}
	if clock.Now.Before(until) {
		return &Wait{Until: until}, nil
	}
	m.state.Since = nil
	m.done(s, made)
	return nil, nil
}

// date gives when a wait until a date is over; known tells that there is one.
func (p *Program) date(s *step, x *blueprint.WaitStep, w *world) (at time.Time, known bool, err error) {
	v := p.eval(s.exprs["until"], w)
	switch {
	case v.IsEmpty():
		return at, false, nil
	case v.Kind == expr.Time:
		at, err = time.Parse(time.RFC3339Nano, v.Text)
	default:
		at, err = time.Parse(time.DateOnly, v.Text)
		hour, minute := x.Clock()
		at = w.Clock().At(at.Add(time.Duration(hour)*time.Hour + time.Duration(minute)*time.Minute))
	}
	if err != nil {
		return at, false, fmt.Errorf("wait for a date: %w", err)
	}
	return at, true, nil
}

// Awaits lists the tables of whose records it depends when a run goes on that waits, sorted; none
// where it depends on the clock alone.
func (p *Program) Awaits(state *State) []string {
	if state.Since == nil || len(state.Frames) == 0 {
		return nil
	}
	s := p.steps[state.top().Next]
	if s == nil {
		return nil
	}
	for _, name := range []string{"holds", "until"} {
		if c := s.exprs[name]; c != nil {
			return c.Reads()
		}
	}
	return nil
}
