package form_test

import (
	"encoding/json"
	"fmt"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/expr"
	"pinegate/core/form"
)

// repaired is the loft's form with repairs as lines, of which the rate is asked for where the work is
// paid, what is torn narrows nothing, and amounts and the bill follow; and with the owner of the sail.
func repaired(t testing.TB) *form.Form {
	b := blueprinttest.After(t, blueprinttest.Loft(t),
		`{"kind":"add","what":"table","id":"rep","values":{"name":"Repairs","fields":[
			{"id":"what","name":"What","type":"text","required":true},{"id":"hours","name":"Hours","type":"number"},
			{"id":"paid","name":"Paid","type":"yes/no"},{"id":"per","name":"Rate","type":"number"}]}}`,
		`{"kind":"set","of":"per","values":{"default":"40"}}`,
		`{"kind":"add","what":"field","into":"rep","id":"of","values":{"name":"Sail","type":"link","target":"sail","back":"Repairs","backId":"reps"}}`,
		`{"kind":"add","what":"field","into":"rep","id":"amount","values":{"name":"Amount","type":"formula","formula":"hours * rate"}}`,
		`{"kind":"add","what":"field","into":"sail","id":"bill","values":{"name":"Bill","type":"formula","formula":"SUM(repairs.amount)"}}`,
		`{"kind":"add","what":"field","into":"sail","id":"whose","values":{"name":"Whose","type":"formula","formula":"owner.name & \", \" & COUNT(owner.sails)"}}`,
		`{"kind":"set","of":"form","values":{"presets":null,"fields":[{"field":"name","required":true}]}}`,
		`{"kind":"add","what":"block","into":"form","id":"w","values":{"kind":"with","link":"of","lines":true,"least":1,"most":4,"fields":[{"field":"what"},{"field":"hours"},{"field":"paid"},{"field":"per"}]}}`,
		`{"kind":"add","what":"block","into":"w","id":"a","values":{"kind":"question","field":"amount"}}`,
		`{"kind":"add","what":"block","into":"form","id":"sum","values":{"kind":"question","field":"bill"}}`,
		`{"kind":"add","what":"block","into":"form","id":"own","values":{"kind":"with","link":"owner","when":"answers.name <> \"Nobody's\"","fields":[{"field":"s_name"}]}}`,
		`{"kind":"add","what":"block","into":"form","id":"who","values":{"kind":"question","field":"whose"}}`,
		`{"kind":"add","what":"block","into":"form","id":"much","values":{"kind":"text","text":"{{SUM(answers.repairs.amount)}} for {{answers.owner.name}}","when":"COUNT(answers.repairs) > 1"}}`)
	x := b.Page("all").Block("form").(*blueprint.FormBlock)
	for y := range x.Blocks.All {
		if q, ok := y.(*blueprint.QuestionBlock); ok && q.Field == "per" {
			b = blueprinttest.After(t, b, `{"kind":"set","of":"`+q.ID+`","values":{"when":"answers.repairs.paid"}}`)
		}
	}
	return formed(t, b, b.Page("all").Block("form").(*blueprint.FormBlock))
}

func linesOf(list ...map[string]any) []form.Line {
	out := []form.Line{}
	for _, v := range list {
		out = append(out, form.Line{Answers: given(v)})
	}
	return out
}

// TestLinesAreWhatTheyWouldBe computes amounts and sums of records that are not there yet, with
// defaults, links and the other sides of links.
func TestLinesAreWhatTheyWouldBe(t *testing.T) {
	f := repaired(t)
	s, env := f.Decide(loft{}, form.Known{}, form.Sent{Answers: given(map[string]any{"name": "Jib"}), With: map[string][]form.Line{
		"w": linesOf(map[string]any{"what": "A", "hours": "2", "paid": true, "per": "10"},
			map[string]any{"what": "B", "hours": "1", "per": "99"}),
		"own": linesOf(map[string]any{"s_name": "Ines"})}})
	assert.Equal(t, "20", s["w"].Lines[0].Parts["a"].Value.String())
	hidden := s["w"].Lines[1].Parts
	assert.True(t, hidden["a"].Value.IsEmpty(), "its rate is not asked for, so it has none: %v", hidden["a"].Value)
	assert.Equal(t, "20", s["sum"].Value.String())
	assert.Equal(t, "Ines, 0", s["who"].Value.String(), "the owner is new, and this sail is not theirs yet")
	assert.True(t, s["much"].Shown)
	for _, p := range f.Parts {
		if p.ID == "much" {
			assert.True(t, p.Says)
		}
	}
	scope := f.Blueprint.ScopeAt(blueprint.Spot{Page: f.Blueprint.Page("all"),
		Form: f.Blueprint.Page("all").Block("form").(*blueprint.FormBlock)}, f.Catalog)
	words, err := expr.CheckTemplate("{{SUM(answers.repairs.amount)}} for {{answers.owner.name}}", scope)
	require.NoError(t, err)
	var said []string
	for _, c := range words.Fold(f.Catalog, env).Checked() {
		said = append(said, expr.Eval(c, f.Catalog, loft{}).String())
	}
	assert.Equal(t, []string{"20", "Ines"}, said)
}

// TestLinesAreCounted wants as many as are said, and asks for nothing of what is not shown.
func TestLinesAreCounted(t *testing.T) {
	f := repaired(t)
	decide := func(name string, n int) form.State {
		var list []map[string]any
		for i := range n {
			list = append(list, map[string]any{"what": fmt.Sprint(i)})
		}
		s, _ := f.Decide(loft{}, form.Known{}, form.Sent{Answers: given(map[string]any{"name": name}),
			With: map[string][]form.Line{"w": linesOf(list...), "own": linesOf(map[string]any{"s_name": "Ines"})}})
		return s
	}
	assert.True(t, decide("Jib", 0)["w"].Missing)
	assert.False(t, decide("Jib", 0).Ready())
	assert.True(t, decide("Jib", 1).Ready())
	assert.NotNil(t, decide("Jib", 5)["w"].Wrong)
	assert.Empty(t, decide("Nobody's", 1)["own"].Lines)
	first, _ := f.Decide(loft{}, form.Known{}, form.Sent{})
	assert.Len(t, first["w"].Lines, 1)
	assert.Len(t, first["own"].Lines, 1)
	assert.False(t, first.Ready(), "what is needed of a line is missing")
}

// TestLinesHoldForAnyAnswers: what is hidden in a line has no value, what is needed and shown is told
// where it is missing, and the bill is what the lines come to.
func TestLinesHoldForAnyAnswers(t *testing.T) {
	f := repaired(t)
	rapid.Check(t, func(t *rapid.T) {
		var list []form.Line
		sum := 0
		for i := range rapid.IntRange(0, 5).Draw(t, "lines") {
			v := map[string]any{}
			if rapid.Bool().Draw(t, "what") {
				v["what"] = "Batten"
			}
			hours, rate := rapid.IntRange(0, 50).Draw(t, "hours"), rapid.IntRange(1, 90).Draw(t, "rate")
			paid, removed := rapid.Bool().Draw(t, "paid"), rapid.IntRange(0, 4).Draw(t, "removed") == 0
			v["hours"], v["paid"], v["per"] = strconv.Itoa(hours), paid, strconv.Itoa(rate)
			list = append(list, form.Line{Key: strconv.Itoa(i), Removed: removed, Answers: given(v)})
			if paid && !removed {
				sum += hours * rate
			}
		}
		s, _ := f.Decide(loft{}, form.Known{}, form.Sent{With: map[string][]form.Line{"w": list}})
		if got := s["sum"].Value; got.String() != strconv.Itoa(sum) {
			t.Fatalf("the lines come to %d, not %v", sum, got)
		}
		for i, l := range s["w"].Lines {
			if l.Key != strconv.Itoa(i) || l.Removed != list[i].Removed {
				t.Fatalf("line %d is %v", i, l)
			}
			for _, p := range f.Parts {
				if p.With == nil || p.ID != "w" || l.Removed {
					continue
				}
				holdsOf(t, p.With.Parts, l.Parts, list[i].Answers)
			}
		}
	})
}

func holdsOf(t *rapid.T, parts []form.Part, s form.State, sent map[string]json.RawMessage) {
	for _, p := range parts {
		if p.Question == nil || p.Shows() {
			continue
		}
		at := s[p.ID]
		if !at.Shown && !at.Value.IsEmpty() {
			t.Fatalf("%s is hidden and has a value", p.Field.ID)
		}
		if at.Shown && at.Required && sent[p.Field.ID] == nil && !at.Missing {
			t.Fatalf("%s is needed and not there", p.Field.ID)
		}
	}
}
