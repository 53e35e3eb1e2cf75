package flow_test

import (
	"encoding/json"
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
		_, err = w.goOn(p.Run(in, p.Begin(), watch), func(m *flow.Machine) *flow.Machine {
			if !parted {
				return m
			}
			raw, err := json.Marshal(m.State())
			require.NoError(t, err)
			state := &flow.State{}
			require.NoError(t, json.Unmarshal(raw, state))
			return p.Run(in, state, watch)
		})
		require.NoError(t, err)
		assert.Equal(t, []string{`show "Jib 1:"`, `show "Ada has 4"`, `show "Jib 1: 4"`}, w.said)
		assert.Equal(t, []string{"k_each did", "k_each round", "k_run passed over", "k_say asked", "k_say did", "k_each round", "k_run did",
			"y_sum did", "y_say asked", "y_say did", "k_run back", "k_say asked", "k_say did"}, told)
	}
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
