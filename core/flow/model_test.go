package flow_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/flow"
)

// wild draws steps, and what a simple model says they do in a town of so many sails.
type wild struct {
	t     *rapid.T
	sails int
	n     int
	said  []string
	now   time.Time
}

func (d *wild) id() string {
	d.n++
	return fmt.Sprintf("x%d", d.n)
}

func (d *wild) condition() (source string, holds bool) {
	n := rapid.IntRange(0, 2).Draw(d.t, "holds when there are so many sails")
	return fmt.Sprintf("COUNT(RECORDS(sails)) >= %d", n), d.sails >= n
}

// steps draws steps, and gives what they do as long as they are done; stopped tells that the run
// ended.
func (d *wild) steps(depth int) (steps blueprint.Steps, do func() (stopped bool)) {
	var all []func() bool
	steps = blueprint.Steps{}
	for range rapid.IntRange(0, 4).Draw(d.t, "steps") {
		x, one := d.step(depth)
		if rapid.IntRange(0, 3).Draw(d.t, "conditional") == 0 {
			source, holds := d.condition()
			x.Self().When = source
			if !holds {
				one = func() bool { return false }
			}
		}
		steps, all = append(steps, x), append(all, one)
	}
	return steps, func() bool {
		for _, one := range all {
			if one() {
				return true
			}
		}
		return false
	}
}

func (d *wild) step(depth int) (blueprint.Step, func() bool) {
	kind := rapid.IntRange(0, 11).Draw(d.t, "kind")
	head := func(kind string) blueprint.StepHead { return blueprint.StepHead{ID: d.id(), Kind: kind} }
	switch {
	case kind == 0:
		x := &blueprint.StopStep{StepHead: head("stop"), Text: "Enough"}
		return x, func() bool { return true }
	case kind <= 3 && depth < 3:
		x := &blueprint.EachStep{StepHead: head("each"), List: "RECORDS(sails)", LoopItem: blueprint.LoopItem{ItemName: "sail"}}
		x.ItemKey = "item_" + x.ID
		inner, do := d.steps(depth + 1)
		x.Steps = inner
		return x, func() bool {
			for range d.sails {
				if do() {
					return true
				}
			}
			return false
		}
	case kind == 10 && depth < 3:
		return d.repeat(head("repeat"), depth)
	case kind == 11:
		return d.wait(head("wait"))
	case kind <= 6 && depth < 3:
		x := &blueprint.BranchStep{StepHead: head("branch")}
		if rapid.Bool().Draw(d.t, "each that fits") {
			x.Take = blueprint.EachThatFits
		}
		return x, d.paths(x, depth)
	}
	x := &blueprint.MessageStep{StepHead: head("message")}
	x.Text = x.ID
	return x, func() bool { d.said = append(d.said, fmt.Sprintf("show %q", x.ID)); return false }
}

// repeat draws a step that repeats, unless its condition holds.
func (d *wild) repeat(head blueprint.StepHead, depth int) (blueprint.Step, func() bool) {
	x := &blueprint.RepeatStep{StepHead: head, Most: rapid.IntRange(1, 3).Draw(d.t, "at most")}
	x.ItemName, x.ItemKey = "round", "round_"+x.ID
	over := false
	if rapid.Bool().Draw(d.t, "until") {
		x.Until, over = d.condition()
	}
	inner, do := d.steps(depth + 1)
	x.Steps = inner
	return x, func() bool {
		for range x.Most {
			if over {
				return false
			}
			if do() {
				return true
			}
		}
		return false
	}
}

// wait draws a step that waits, for a time or for a condition.
func (d *wild) wait(head blueprint.StepHead) (blueprint.Step, func() bool) {
	x := &blueprint.WaitStep{StepHead: head, For: blueprint.WaitsTime, N: rapid.IntRange(1, 99).Draw(d.t, "hours"), Unit: blueprint.Hours}
	x.Name, x.Key = "in time", "in_time_"+x.ID
	holds := false
	if rapid.Bool().Draw(d.t, "for a condition") {
		x.For = blueprint.WaitsCondition
		x.Holds, holds = d.condition()
	}
	return x, func() bool {
		if !holds {
			d.now = d.now.Add(time.Duration(x.N) * time.Hour)
			d.said = append(d.said, "wait "+d.now.Format(time.DateTime))
		}
		return false
	}
}

// paths draws those of a branch.
func (d *wild) paths(x *blueprint.BranchStep, depth int) func() bool {
	type path struct {
		holds, otherwise bool
		do               func() bool
	}
	var all []path
	x.Steps = blueprint.Steps{}
	for range rapid.IntRange(0, 3).Draw(d.t, "paths") {
		p := &blueprint.PathStep{StepHead: blueprint.StepHead{ID: d.id(), Kind: "path"}}
		one := path{}
		p.When, one.holds = d.condition()
		p.Steps, one.do = d.steps(depth + 1)
		x.Steps, all = append(x.Steps, p), append(all, one)
	}
	if rapid.Bool().Draw(d.t, "otherwise") {
		p := &blueprint.PathStep{StepHead: blueprint.StepHead{ID: d.id(), Kind: "path"}}
		one := path{otherwise: true}
		p.Steps, one.do = d.steps(depth + 1)
		x.Steps, all = append(x.Steps, p), append(all, one)
	}
	first := x.Take == blueprint.FirstThatFits
	return func() bool {
		taken := false
		for _, p := range all {
			if p.otherwise && taken || !p.otherwise && (!p.holds || first && taken) {
				continue
			}
			taken = true
			if p.do() {
				return true
			}
		}
		return false
	}
}

// TestRandomWorkflowsDoWhatTheModelSays runs random workflows, whole and from states that were
// written down, and holds that they do what a simple model says, in its order.
func TestRandomWorkflowsDoWhatTheModelSays(t *testing.T) {
	loft := blueprinttest.Loft(t)
	rapid.Check(t, func(t *rapid.T) {
		d := &wild{t: t, now: morning, sails: rapid.IntRange(0, 2).Draw(t, "sails")}
		b := *loft
		b.Workflows = []blueprint.Workflow{{ID: "w", Name: "W",
			Starts: blueprint.Starts{Trigger: blueprint.NewTrigger("press")}}}
		b.Workflows[0].Starts.Trigger.(*blueprint.PressTrigger).Roles = []string{"r"}
		var do func() bool
		b.Workflows[0].Steps, do = d.steps(0)
		require.NoError(t, b.Validate())
		stopped := do()

		again := reread(t, &b)
		for _, parted := range []bool{false, true} {
			w := newTown(nil, again)
			for i := range d.sails {
				w.put("sail", fmt.Sprint("s", i))
			}
			p, err := flow.Compile(again, w.catalog, again.Workflow("w"))
			require.NoError(t, err)
			var between func(*flow.Machine) *flow.Machine
			if parted {
				between = kept(t, p, flow.Input{}, nil)
			}
			end, err := w.goOn(p.Run(flow.Input{}, p.Begin(), nil), between)
			require.NoError(t, err)
			assert.Equal(t, strings.Join(d.said, "\n"), strings.Join(w.said, "\n"))
			_, is := end.(*flow.Stop)
			assert.Equal(t, stopped, is)
		}
	})
}

// reread writes a blueprint down and reads it.
func reread(t require.TestingT, b *blueprint.Blueprint) *blueprint.Blueprint {
	raw, err := json.Marshal(b)
	require.NoError(t, err)
	out, err := blueprint.Decode(raw)
	require.NoError(t, err)
	return out
}

// FuzzSteps reads steps of any JSON; what can be read can be written and read again, as the same.
func FuzzSteps(f *testing.F) {
	for _, w := range blueprinttest.Busy(f).Workflows {
		raw, err := json.Marshal(w)
		require.NoError(f, err)
		f.Add(raw)
	}
	f.Add([]byte(`{"starts":{"kind":"press"},"steps":[{"kind":"branch","steps":[{"kind":"path"}]}]}`))
	f.Add([]byte(`{"starts":null,"steps":[null]}`))
	f.Fuzz(func(t *testing.T, raw []byte) {
		var w, again blueprint.Workflow
		if json.Unmarshal(raw, &w) != nil || w.Starts.Trigger == nil {
			return
		}
		first, err := json.Marshal(w)
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(first, &again), string(first))
		second, err := json.Marshal(again)
		require.NoError(t, err)
		require.JSONEq(t, string(first), string(second))
		b := *blueprinttest.Loft(t)
		b.Workflows = []blueprint.Workflow{w}
		if b.Validate() != nil {
			return
		}
		town := newTown(t, &b)
		town.put("sail", "s")
		_, err = flow.Compile(&b, town.catalog, &b.Workflows[0])
		require.NoError(t, err, string(raw))
	})
}
