package flow_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/words"
)

// chased is a run of the workflow that chases the owner of a sail, left wherever it waits.
type chased struct {
	*town
	p     *flow.Program
	state *flow.State
}

func chase(t *testing.T) *chased {
	w := loft(t)
	w.stay = true
	p, err := flow.Compile(w.b, w.catalog, w.b.Workflow("chase"))
	require.NoError(t, err)
	return &chased{w, p, p.Begin()}
}

// next goes on from what was kept, until it waits again, and says what it did.
func (c *chased) next() (said []string, end flow.Effect) {
	raw, err := json.Marshal(c.state)
	require.NoError(c.t, err)
	c.state, c.said = &flow.State{}, nil
	require.NoError(c.t, json.Unmarshal(raw, c.state))
	end, err = c.goOn(c.p.Run(flow.Input{Record: "sail1"}, c.state, nil), nil)
	require.NoError(c.t, err)
	return c.said, end
}

func (c *chased) cut(on string) {
	v := expr.Empty()
	if on != "" {
		v = expr.Value{Kind: expr.Date, Text: on}
	}
	c.find("sail", "sail1").values["cut"] = v
}

func until(t *testing.T, e flow.Effect) string {
	require.IsType(t, &flow.Wait{}, e)
	return e.(*flow.Wait).Until.UTC().Format("01-02 15:04")
}

// TestAWaitRemindsThreeTimes waits two days for something that does not come, three times.
func TestAWaitRemindsThreeTimes(t *testing.T) {
	c := chase(t)
	c.cut("")
	said, end := c.next()
	assert.Empty(t, said)
	assert.Equal(t, "05-04 09:00", until(t, end))
	assert.Equal(t, []string{"sail"}, c.p.Awaits(c.state), "a change of a sail can end it")
	c.now = c.now.AddDate(0, 0, 1)
	_, end = c.next()
	assert.Equal(t, "05-04 09:00", until(t, end), "to look in between does not make it longer")
	for n, day := range []string{"05-06", "05-08"} {
		c.now = end.(*flow.Wait).Until
		said, end = c.next()
		require.Len(t, said, 1)
		assert.Contains(t, said[0], []string{"Reminder 1", "Reminder 2"}[n])
		assert.Equal(t, day+" 09:00", until(t, end))
	}
	c.now = end.(*flow.Wait).Until
	said, end = c.next()
	require.Len(t, said, 1)
	assert.Contains(t, said[0], "Reminder 3")
	assert.Equal(t, "05-09 09:00", until(t, end), "after the third it waits for the date, which it looks for each day")
}

// TestAWaitEndsWhenItsConditionHolds goes on at once, without a reminder.
func TestAWaitEndsWhenItsConditionHolds(t *testing.T) {
	c := chase(t)
	c.cut("")
	c.next()
	c.cut("2026-05-20")
	said, end := c.next()
	assert.Empty(t, said)
	assert.Equal(t, "05-20 08:00", until(t, end))
	c.cut("2026-06-01")
	_, end = c.next()
	assert.Equal(t, "06-01 08:00", until(t, end), "a date that is moved moves the wait")
	c.cut("2026-05-01")
	said, end = c.next()
	assert.IsType(t, &flow.Done{}, end, "one that is over ends it")
	require.Len(t, said, 1)
	assert.Nil(t, c.state.Since)
}

// TestNobodyWaitsForEver ends a run that waits for a date for a year.
func TestNobodyWaitsForEver(t *testing.T) {
	c := chase(t)
	c.cut("2026-05-20")
	c.next()
	c.cut("")
	_, end := c.next()
	assert.Equal(t, "05-03 09:00", until(t, end))
	c.now = c.now.AddDate(1, 0, 3)
	_, err := c.goOn(c.p.Run(flow.Input{Record: "sail1"}, c.state, nil), nil)
	var told *words.Problem
	require.ErrorAs(t, err, &told)
	assert.Equal(t, "flow-waited", told.Code)
}

// TestAWaitCountsDaysByTheClock waits a day across a change of the clock: it is the same time of day.
func TestAWaitCountsDaysByTheClock(t *testing.T) {
	b := blueprinttest.After(t, blueprinttest.Loft(t),
		`{"kind":"add","what":"workflow","id":"w","values":{"kind":"press","name":"W","roles":["r"]}}`,
		`{"kind":"add","what":"step","into":"w","id":"day","values":{"kind":"wait","for":"time","n":1,"unit":"days"}}`,
		`{"kind":"add","what":"step","into":"w","id":"hours","values":{"kind":"wait","for":"time","n":24,"unit":"hours"}}`)
	b.Zone = "Europe/Berlin"
	w := newTown(t, b)
	w.now = time.Date(2026, 3, 28, 11, 0, 0, 0, time.UTC) // the day before clocks are put forward
	_, err := w.run("w", flow.Input{}, nil)
	require.NoError(t, err)
	assert.Equal(t, []string{"wait 2026-03-29 10:00:00", "wait 2026-03-30 10:00:00"}, w.said)
}

// TestAStepWaitsAYearAtMost refuses a wait that is too long, and one for what is no date.
func TestAStepWaitsAYearAtMost(t *testing.T) {
	b := blueprinttest.Busy(t)
	for code, values := range map[string]string{
		"flow-wait": `{"of":"c_wait","values":{"n":60,"unit":"weeks"}}`,
		"flow-date": `{"of":"c_day","values":{"until":"name"}}`,
	} {
		change, err := blueprint.DecodeChange([]byte(`{"kind":"set",`+values[1:]), func() string { return "new" })
		require.NoError(t, err)
		_, err = blueprint.Apply(b, change)
		var told *words.Problem
		require.ErrorAs(t, err, &told)
		assert.Equal(t, code, told.Code)
	}
}
