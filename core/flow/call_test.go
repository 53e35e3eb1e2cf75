package flow_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/flow"
)

// TestACallsAnswerIsUsed asks two services in turn, and goes on with what they answer: in a loop, in sums and in
// texts. It is the same where all of its state is written down between its parts.
func TestACallsAnswerIsUsed(t *testing.T) {
	for _, parted := range []bool{false, true} {
		w := loft(t)
		p, err := flow.Compile(w.b, w.catalog, w.b.Workflow("asks"))
		require.NoError(t, err)
		in := flow.Input{Record: "sail1"}
		var between func(*flow.Machine) *flow.Machine
		if parted {
			between = kept(t, p, in, nil)
		}
		end, err := w.goOn(p.Run(in, p.Begin(), nil), between)
		require.NoError(t, err)
		assert.IsType(t, &flow.Done{}, end)
		assert.Equal(t, strings.Join([]string{
			"change sail sail1 price=401",
			"call tides t_day= t_harbour=Jib 1",
			"add sail new1 area=2.5 name=Tide at 2026-05-02 10:00",
			"add sail new2 area=0.4 name=Tide at 2026-05-02 16:10",
			"call order o_count=2 o_part=seal",
			"change sail sail1 name=Jib 1 H-1 price=15.4",
		}, "\n"), strings.Join(w.said, "\n"))
	}
}

// TestNoAnswerAtLast goes on with nothing where the step says so, and refuses an answer that nobody waits for.
func TestNoAnswerAtLast(t *testing.T) {
	w := loft(t)
	w.stay = true
	p, err := flow.Compile(w.b, w.catalog, w.b.Workflow("asks"))
	require.NoError(t, err)
	m := p.Run(flow.Input{Record: "sail1"}, p.Begin(), nil)
	require.Error(t, m.Answer(nil), "it asks for nothing yet")
	e, err := w.goOn(m, nil)
	require.NoError(t, err)
	assert.False(t, e.(*flow.Call).Goes)
	again, err := w.goOn(p.Run(flow.Input{Record: "sail1"}, m.State(), nil), nil)
	require.NoError(t, err)
	assert.Equal(t, e, again, "it asks for the same until there is an answer")
	require.NoError(t, m.Answer(nil))
	e, err = w.goOn(m, nil)
	require.NoError(t, err)
	assert.True(t, e.(*flow.Call).Goes)
	assert.Empty(t, e.(*flow.Call).Rounds)
	require.NoError(t, m.Answer(nil))
	_, err = w.goOn(m, nil)
	require.NoError(t, err)
	assert.Equal(t, "change sail sail1 name=Jib 1  price=0", w.said[len(w.said)-1])
}
