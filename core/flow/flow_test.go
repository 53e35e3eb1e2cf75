package flow_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/expr"
	"pinegate/core/flow"
	"pinegate/core/words"
	"pinegate/internal/golden"
)

func number(n int64) expr.Value { return expr.NumberOf(decimal.NewFromInt(n)) }

// loft is a town with three sailors and a few sails.
func loft(t testing.TB) *town {
	w := newTown(t, blueprinttest.Busy(t))
	member := expr.YesNoOf(true)
	w.put("sailor", "ada", "s_name", expr.TextOf("Ada"), "s_mail", expr.TextOf("ada@loft.example"), "s_ok", member)
	w.put("sailor", "ben", "s_name", expr.TextOf("Ben"), "s_mail", expr.TextOf("ben@loft.example"), "s_ok", member)
	w.put("sailor", "cas", "s_name", expr.TextOf("Cas"), "s_mail", expr.TextOf("ada@loft.example"))
	for i, owner := range []string{"ada", "ben", "ada", "ben"} {
		w.put("sail", fmt.Sprintf("sail%d", i+1), "name", expr.TextOf(fmt.Sprintf("Jib %d", i+1)), "area", number(int64(20*(i+1))),
			"price", number(int64(400*(i+1))), "owner", expr.RecordOf(owner), "cl", expr.ChoiceOf([]string{"dacron", "laminate"}[i%2]))
	}
	return w
}

// TestAWorkflowWithOneOfEverything runs it from several records, and reads what it did.
func TestAWorkflowWithOneOfEverything(t *testing.T) {
	var out strings.Builder
	for _, from := range []string{"sail1", "sail2", "sail4"} {
		w := loft(t)
		fmt.Fprintf(&out, "# from %s\n", from)
		end, err := w.run("mend", flow.Input{Record: from}, func(e flow.Event) {
			w.say("  %s %s %v", e.Step, e.What, e.Rounds)
		})
		require.NoError(t, err)
		fmt.Fprintf(&out, "%s\n%T\n", strings.Join(w.said, "\n"), end)
	}
	golden.Check(t, "mend", out.String())
}

// TestWhatARunKnows runs workflows that name answers, and what was before.
func TestWhatARunKnows(t *testing.T) {
	for id, c := range map[string]struct {
		in   flow.Input
		want string
	}{
		"w_sent":  {flow.Input{Record: "sail2", Answers: flow.Values{"name": {expr.TextOf("Bo")}}}, "change sailor ben s_name=Bo"},
		"w_added": {flow.Input{Record: "cas"}, `mail ada@loft.example "Welcome" "Dear Cas" `},
		"w_changed": {flow.Input{Record: "sail1", Was: flow.Values{"price": {number(100)}}},
			`mail ada@loft.example "It went up" "From 100 to 400" `},
		"w_deleted": {flow.Input{Was: flow.Values{"owner": {expr.RecordOf("cas")}}}, "delete sailor cas"},
	} {
		w := loft(t)
		p, err := flow.Compile(w.b, w.catalog, w.b.Workflow(id))
		require.NoError(t, err)
		starts, _ := p.Starts(c.in, w)
		assert.True(t, starts, id)
		end, err := w.run(id, c.in, nil)
		require.NoError(t, err)
		assert.Equal(t, &flow.Done{}, end)
		assert.Equal(t, c.want, strings.Join(w.said, "\n"), id)
	}
	greeted := loft(t)
	_, err := greeted.run("w_added", flow.Input{Record: "ada"}, nil)
	require.NoError(t, err)
	assert.Equal(t, []string{`mail ada@loft.example "Welcome" "Dear Ada\n\n- Jib 1, 20 m² for Ada\n- Jib 3, 60 m² for Ada" `}, greeted.said)
	w := loft(t)
	p, err := flow.Compile(w.b, w.catalog, w.b.Workflow("w_changed"))
	require.NoError(t, err)
	starts, looked := p.Starts(flow.Input{Record: "sail1", Was: flow.Values{"price": {number(900)}}}, w)
	assert.False(t, starts, "it went down")
	assert.Equal(t, []flow.Look{{Name: "Price", Shown: "400"}, {Name: "the former Price", Shown: "900"}}, looked)
	starts, _ = p.Starts(flow.Input{Record: "sail1"}, w)
	assert.False(t, starts, "and what is not known is no less")
}

// paths builds a workflow of one branch, and tells which of its paths were taken.
func paths(t *testing.T, take blueprint.Taking, conditions ...string) string {
	changes := []blueprint.Change{
		blueprint.Adding("workflow", "", "w", "kind", "press", "name", "W", "roles", []string{"r"}),
		blueprint.Adding("step", "w", "branch", "kind", "branch", "take", take)}
	for i, when := range conditions {
		id := fmt.Sprintf("p%d", i)
		changes = append(changes, blueprint.Adding("step", "branch", id, "kind", "path", "when", when),
			blueprint.Adding("step", id, id+"s", "kind", "message", "text", fmt.Sprint(i)))
	}
	changes = append(changes, blueprint.Adding("step", "w", "after", "kind", "message", "text", "on"))
	b, err := blueprint.Apply(blueprinttest.Loft(t), changes...)
	require.NoError(t, err)
	w := newTown(t, b)
	_, err = w.run("w", flow.Input{}, nil)
	require.NoError(t, err)
	return strings.NewReplacer("show ", "", `"`, "").Replace(strings.Join(w.said, " "))
}

// TestBranchesGoOn takes the paths that fit, and goes on whichever was taken.
func TestBranchesGoOn(t *testing.T) {
	for _, c := range []struct {
		take       blueprint.Taking
		conditions []string
		want       string
	}{
		{blueprint.FirstThatFits, nil, "on"},
		{blueprint.FirstThatFits, []string{"true", "true", ""}, "0 on"},
		{blueprint.FirstThatFits, []string{"false", "true", "true", ""}, "1 on"},
		{blueprint.FirstThatFits, []string{"false", "false", ""}, "2 on"},
		{blueprint.FirstThatFits, []string{"false", "false"}, "on"},
		{blueprint.EachThatFits, []string{"true", "false", "true", ""}, "0 2 on"},
		{blueprint.EachThatFits, []string{"false", ""}, "1 on"},
		{blueprint.EachThatFits, []string{"", "false"}, "0 on"}, // the path that is added later stands before it
	} {
		assert.Equal(t, c.want, paths(t, c.take, c.conditions...), "%s %v", c.take, c.conditions)
	}
}

// TestOtherwiseIsTheLastPath refuses a path with a condition behind the one without.
func TestOtherwiseIsTheLastPath(t *testing.T) {
	_, err := blueprint.Apply(blueprinttest.Busy(t), &blueprint.Move{Of: "m_else", To: 0})
	var told *words.Problem
	require.ErrorAs(t, err, &told)
	assert.Equal(t, "flow-otherwise", told.Code)
}

// TestEveryKindOfStepIsDone looks whether there is something that does a step of each kind: it is run, as far
// as it is there.
func TestEveryKindOfStepIsDone(t *testing.T) {
	seen := map[string]bool{}
	for _, w := range blueprinttest.Busy(t).Workflows {
		for x := range w.Steps.All {
			seen[x.Row().Name] = true
		}
	}
	for _, k := range blueprint.StepKinds() {
		assert.True(t, seen[k.Name], "no test runs a step %s", k.Name)
	}
}

// TestAStepIsCalledAsItIsNamed adds a step with a name of its own, by which later steps know what it makes.
func TestAStepIsCalledAsItIsNamed(t *testing.T) {
	b := blueprinttest.After(t, blueprinttest.Loft(t),
		`{"kind":"add","what":"workflow","id":"w","values":{"kind":"press","name":"W","roles":["r"]}}`,
		`{"kind":"add","what":"step","into":"w","id":"a","values":{"kind":"add","table":"sail","name":"Spare 2"}}`,
		`{"kind":"add","what":"step","into":"w","id":"b","values":{"kind":"message","text":"{{made.spare_2.name}}"}}`)
	assert.Equal(t, "spare_2", b.Workflow("w").Steps[0].Self().Key)
}

// TestLoopsEnd stops a run whose loops take too many rounds.
func TestLoopsEnd(t *testing.T) {
	b := blueprinttest.After(t, blueprinttest.Loft(t),
		`{"kind":"add","what":"workflow","id":"w","values":{"kind":"press","name":"W","roles":["r"]}}`,
		`{"kind":"add","what":"step","into":"w","id":"out","values":{"kind":"each","list":"RECORDS(sails)"}}`,
		`{"kind":"add","what":"step","into":"out","id":"in","values":{"kind":"each","list":"RECORDS(sails)"}}`,
		`{"kind":"add","what":"step","into":"in","id":"let","values":{"kind":"let","value":"made.sail.area"}}`)
	w := newTown(t, b)
	for i := range 101 {
		w.put("sail", fmt.Sprint("s", i))
	}
	_, err := w.run("w", flow.Input{}, nil)
	var told *words.Problem
	require.ErrorAs(t, err, &told)
	assert.Equal(t, "flow-rounds", told.Code)
}

// TestARunGoesOnFromWhatWasKept writes the state down after every effect, and goes on from that.
func TestARunGoesOnFromWhatWasKept(t *testing.T) {
	for _, from := range []string{"sail1", "sail2", "sail4"} {
		whole, parts := loft(t), loft(t)
		_, err := whole.run("mend", flow.Input{Record: from}, nil)
		require.NoError(t, err)
		p, err := flow.Compile(parts.b, parts.catalog, parts.b.Workflow("mend"))
		require.NoError(t, err)
		in := flow.Input{Record: from}
		_, err = parts.goOn(p.Run(in, p.Begin(), nil), kept(t, p, in, nil))
		require.NoError(t, err)
		assert.Equal(t, whole.said, parts.said)
	}
}

// TestWhatIsGoneIsTold ends a run whose step was taken out of the workflow meanwhile.
func TestWhatIsGoneIsTold(t *testing.T) {
	w := loft(t)
	p, err := flow.Compile(w.b, w.catalog, w.b.Workflow("w_added"))
	require.NoError(t, err)
	state := p.Begin()
	state.Frames[0].Next = "gone"
	_, err = p.Run(flow.Input{Record: "ada"}, state, nil).Next(w)
	var told *words.Problem
	require.ErrorAs(t, err, &told)
	assert.Equal(t, "flow-step-gone", told.Code)
}

// TestNumbersAreTotalled has a step find what numbers come to, with what it names of the record that set it off put in; a total takes
// nothing that it cannot know beforehand, and lets go of its number with its table.
func TestNumbersAreTotalled(t *testing.T) {
	add := blueprint.Adding
	b, err := blueprint.Apply(blueprinttest.Loft(t),
		add("workflow", "", "w", "kind", "press", "name", "W", "roles", []string{"r"}, "record", "sail"),
		add("step", "w", "l", "kind", "find", "what", "list", "table", "sail"),
		add("step", "w", "f", "kind", "find", "what", "sum", "table", "sail", "of", "area * this.area", "where", `name <> "Jib"`),
		add("step", "w", "g", "kind", "find", "what", "greatest", "table", "sail", "of", "area", "where", "false"),
		add("step", "w", "say", "kind", "message", "text", "{{made.sum_of_sails}} {{ISBLANK(made.greatest_of_sails)}}"))
	require.NoError(t, err)
	w := newTown(t, b)
	for i, name := range []string{"Jib", "Genoa", "Storm"} {
		w.put("sail", name, "name", expr.TextOf(name), "area", number(int64(i+2)))
	}
	_, err = w.run("w", flow.Input{Record: "Jib"}, nil)
	require.NoError(t, err)
	assert.Equal(t, []string{`show "14 yes"`}, w.said)

	_, err = blueprint.Apply(b, blueprint.Setting("f", "of", "IF(INCLUDES(made.found_sails.name, name), 1, 0)"))
	var told *words.Problem
	require.ErrorAs(t, err, &told)
	assert.Equal(t, "flow-lists", told.Code)
	b, err = blueprint.Apply(b, blueprint.Setting("f", "what", "number"))
	require.NoError(t, err)
	for x := range b.Workflow("w").Steps.All {
		if f, is := x.(*blueprint.FindStep); is && f.ID == "f" {
			assert.Empty(t, f.Of)
		}
	}
}
