package flow_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/flow"
	"pinegate/core/words"
)

// TestARoutineIsRun runs a routine in each round of a loop: with what it is given, about a record of its own, and with
// what it gives back. In the first round its condition does not hold, so that there is nothing.
func TestARoutineIsRun(t *testing.T) {
	for _, parted := range []bool{false, true} {
		w := loft(t)
		p, err := flow.Compile(w.b, w.catalog, w.b.Workflow("count"))
		require.NoError(t, err)
		in := flow.Input{Record: "sail1"}
		var told []string
		watch := func(e flow.Event) { told = append(told, e.Step+" "+string(e.What)) }
		var between func(*flow.Machine) *flow.Machine
		if parted {
			between = kept(t, p, in, watch)
		}
		_, err = w.goOn(p.Run(in, p.Begin(), watch), between)
		require.NoError(t, err)
		assert.Equal(t, []string{`show "Jib 1:"`, `show "Ada has 4"`, `show "Jib 1: 4"`}, w.said)
		assert.Equal(t, []string{"k_each did", "k_each round", "k_run passed over", "k_say asked", "k_say did", "k_each round", "k_run did",
			"y_sum did", "y_say asked", "y_say did", "k_run back", "k_say asked", "k_say did"}, told)
	}
}

// TestWhatIsGoneWhileARunWaits takes the step out of the workflow that runs a routine, or asks a service, while the run
// is in there.
func TestWhatIsGoneWhileARunWaits(t *testing.T) {
	w := loft(t)
	w.stay = true
	gone := blueprinttest.After(t, w.b, `{"kind":"remove","of":"k_say"}`, `{"kind":"remove","of":"k_run"}`)
	p, err := flow.Compile(gone, gone.Catalog(), gone.Workflow("count"))
	require.NoError(t, err)
	state := p.Begin()
	state.Frames = append(state.Frames, flow.Frame{In: "k_run", Input: &flow.Input{Record: "ada"}, Items: []flow.Value{{}}})
	end, err := w.goOn(p.Run(flow.Input{Record: "sail1"}, state, nil), nil)
	require.NoError(t, err)
	assert.IsType(t, &flow.Done{}, end)

	p, err = flow.Compile(w.b, w.catalog, w.b.Workflow("asks"))
	require.NoError(t, err)
	state = p.Begin()
	state.Frames[0].Next, state.Asked = "gone", &flow.Request{Step: "gone"}
	var told *words.Problem
	require.ErrorAs(t, p.Run(flow.Input{}, state, nil).Answer(nil), &told)
	assert.Equal(t, "flow-step-gone", told.Code)
}

// TestARoutineThatIsOffIsPassedOver runs what runs it, without it.
func TestARoutineThatIsOffIsPassedOver(t *testing.T) {
	w := loft(t)
	w.b.Workflow("tally").Off = true
	_, err := w.run("count", flow.Input{Record: "sail1"}, nil)
	require.NoError(t, err)
	assert.Equal(t, []string{`show "Jib 1:"`, `show "Jib 1:"`}, w.said)
}

// TestRoutinesRunInNoCircle refuses routines that run each other, and one for a record of another table.
func TestRoutinesRunInNoCircle(t *testing.T) {
	b := blueprinttest.After(t, blueprinttest.Busy(t),
		`{"kind":"add","what":"workflow","id":"other","values":{"kind":"routine","name":"Other"}}`,
		`{"kind":"add","what":"step","into":"tally","id":"to","values":{"kind":"routine","routine":"other"}}`)
	for code, change := range map[string]string{
		"flow-circle":         `{"kind":"add","what":"step","into":"other","id":"back","values":{"kind":"routine","routine":"tally","record":"this"}}`,
		"flow-routine-record": `{"kind":"set","of":"k_run","values":{"record":"this"}}`,
	} {
		c, err := blueprint.DecodeChange([]byte(change), func() string { return "new" })
		require.NoError(t, err)
		_, err = blueprint.Apply(b, c)
		var told *words.Problem
		require.ErrorAs(t, err, &told)
		assert.Equal(t, code, told.Code)
	}
}
