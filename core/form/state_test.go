package form_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/prop"
)

// loft is an environment with two sailors and no one signed in.
type loft struct{}

const (
	ines  = "01a20887-9f15-75eb-b932-01cb220c615a"
	tomas = "01a20887-9f15-75eb-b932-01cb220c615b"
)

func (loft) Start(expr.Root) expr.Value { return expr.Empty() }
func (loft) Field(record expr.Value, f *expr.Field) expr.Value {
	switch f.ID {
	case "s_name":
		return expr.TextOf(map[string]string{ines: "Ines", tomas: "Tomas"}[record.Text])
	case "member":
		return expr.YesNoOf(record.Text == ines)
	}
	return expr.Empty()
}
func (loft) Records(string) []expr.Value         { return nil }
func (loft) Label(string, expr.Value) expr.Value { return expr.Empty() }
func (loft) Clock() expr.Clock                   { return expr.Clock{} }

// checked is the loft's form with what its questions say, in the order of the questions.
func checked(t require.TestingT, b *blueprint.Blueprint, questions ...*blueprint.QuestionBlock) *form.Form {
	x := *b.Page("all").Block("form").(*blueprint.FormBlock)
	x.Blocks = blueprint.Blocks{}
	for _, q := range questions {
		q.BlockHead = blueprint.BlockHead{ID: "q_" + q.Field, Kind: "question", When: q.When}
		x.Blocks = append(x.Blocks, q)
	}
	return formed(t, b, &x)
}

func formed(t require.TestingT, b *blueprint.Blueprint, x *blueprint.FormBlock) *form.Form {
	out, err := form.Of(b, blueprint.Spot{Page: b.Page("all")}, x, b.Catalog())
	require.NoError(t, err)
	return out
}

func decided(f *form.Form, env expr.Env, known map[string]expr.Value, answers form.Answers) form.State {
	s, _ := f.Decide(env, form.Known{Values: known}, form.Sent{Answers: answers})
	return s
}

func given(values map[string]any) form.Answers {
	out := form.Answers{}
	for id, v := range values {
		raw, _ := json.Marshal(v)
		out[id] = raw
	}
	return out
}

func rule(holds, says string) prop.Rule { return prop.Rule{Holds: holds, Says: says} }

func when(field, condition string) *blueprint.QuestionBlock {
	return &blueprint.QuestionBlock{BlockHead: blueprint.BlockHead{When: condition}, Field: field}
}

// TestAFormFollowsItsAnswers holds what is shown, needed, cleared and wrong, as said in short.
func TestAFormFollowsItsAnswers(t *testing.T) {
	b := blueprinttest.Loft(t)
	area := when("area", `answers.cloth = "Dacron"`)
	area.RequiredWhen = `answers.name = "Genoa"`
	owner := when("owner", "")
	owner.Narrow = `answers.name = "Any" or name = answers.name`
	price := when("price", "answers.area > 100")
	cut := when("cut", "")
	name := when("name", "")
	name.Required = true
	name.Rules = append(name.Rules, rule(`not CONTAINS(answers.name, "!")`, "No shouting."))
	f := checked(t, b, name, when("cl", ""), area, price, owner, cut)
	for _, x := range []struct {
		answers map[string]any
		want    string
	}{
		{nil, "name:needed,missing cl: owner: cut:"},
		{map[string]any{"name": "Jib"}, "name:needed cl: owner: cut:"},
		{map[string]any{"name": "Jib!"}, "name:needed,No shouting. cl: owner: cut:"},
		{map[string]any{"name": "Jib", "cl": "dacron"}, "name:needed cl: area: owner: cut:"},
		{map[string]any{"name": "Genoa", "cl": "dacron"}, "name:needed cl: area:needed,missing owner: cut:"},
		{map[string]any{"name": "Genoa", "cl": "laminate", "area": "200"}, "name:needed cl: owner: cut:"},
		{map[string]any{"name": "Jib", "cl": "dacron", "area": "200"}, "name:needed cl: area: price: owner: cut:"},
		{map[string]any{"name": "Jib", "cl": "laminate", "area": "200", "price": "1"}, "name:needed cl: owner: cut:"},
		{map[string]any{"name": "Ines", "owner": ines}, "name:needed cl: owner: cut:"},
		{map[string]any{"name": "Ines", "owner": tomas}, "name:needed cl: owner:cleared cut:"},
		{map[string]any{"name": "Any", "owner": tomas}, "name:needed cl: owner: cut:"},
		{map[string]any{"name": "Jib", "area": "x"}, "name:needed cl: owner: cut:"},
		{map[string]any{"name": "Jib", "cl": "dacron", "area": "x"}, "name:needed cl: area:Enter a number, such as 12.5. owner: cut:"},
	} {
		assert.Equal(t, x.want, short(f, decided(f, loft{}, nil, given(x.answers))), "%v", x.answers)
	}
}

func short(f *form.Form, s form.State) string {
	out := ""
	for _, p := range f.Parts {
		at := s[p.ID]
		if !at.Shown {
			continue
		}
		said := ""
		for _, x := range []struct {
			is   bool
			word string
		}{{at.Required, "needed"}, {at.Cleared, "cleared"}, {at.Missing, "missing"}} {
			if x.is {
				said += "," + x.word
			}
		}
		if at.Wrong != nil {
			said += "," + at.Wrong.Error()
		}
		if out != "" {
			out += " "
		}
		out += p.Field.ID + ":" + strings.TrimPrefix(said, ",")
	}
	return out
}

// TestDigits takes exactly so many, and no other signs that are digits somewhere.
func TestDigits(t *testing.T) {
	name := when("name", "")
	name.Digits = 8
	f := checked(t, blueprinttest.Loft(t), name)
	for text, right := range map[string]bool{"12345678": true, "": true, "1234567": false, "123456789": false, "1234567a": false,
		"١٢٣٤": false, "1234 5678": false} {
		assert.Equal(t, right, decided(f, loft{}, nil, given(map[string]any{"name": text}))["q_name"].Wrong == nil, text)
	}
}

// TestConditionsSeeOnlyWhatIsAbove refuses questions that ask about themselves, or what comes later.
func TestConditionsSeeOnlyWhatIsAbove(t *testing.T) {
	b := blueprinttest.Loft(t)
	for _, condition := range []string{`answers.area > 1`, `answers.price > 1`, `answers.gone = 1`} {
		x := *b.Page("all").Block("form").(*blueprint.FormBlock)
		x.Blocks = blueprint.Blocks{when("name", ""), when("area", condition), when("price", "")}
		for i, y := range x.Blocks {
			y.Self().ID = fmt.Sprint("q", i)
		}
		_, err := b.Conditions(blueprint.Spot{Page: b.Page("all")}, &x, x.Blocks[1], b.Catalog())
		assert.Error(t, err, condition)
	}
}

// TestNarrowingKnowsNoLists refuses what could not be asked of a database.
func TestNarrowingKnowsNoLists(t *testing.T) {
	b := blueprinttest.After(t, blueprinttest.Loft(t),
		`{"kind":"add","what":"field","into":"sail","id":"crew","values":{"name":"Crew","type":"links","target":"sailor"}}`)
	catalog := b.Catalog()
	for condition, right := range map[string]bool{`answers.name = name`: true, `COUNT(answers.crew) > 1`: false} {
		x := *b.Page("all").Block("form").(*blueprint.FormBlock)
		owner := when("owner", "")
		owner.Narrow = condition
		x.Blocks = blueprint.Blocks{when("name", ""), when("crew", ""), owner}
		for i, y := range x.Blocks {
			y.Self().ID = fmt.Sprint("q", i)
		}
		_, err := b.Conditions(blueprint.Spot{Page: b.Page("all")}, &x, owner, catalog)
		assert.Equal(t, right, err == nil, "%s: %v", condition, err)
	}
}

// TestFormsAreDecidedAlike draws forms and answers: what is hidden has no value and needs
// nothing, answers to it change nothing, later answers do not change what is above, and the
// answers that are shown alone decide the same.
func TestFormsAreDecidedAlike(t *testing.T) {
	b := blueprinttest.Loft(t)
	fields := []string{"name", "cl", "area", "price", "owner", "cut"}
	conditions := map[string][]string{
		"name": {`answers.name = "a"`, `answers.name <> ""`}, "cl": {`answers.cloth = "Dacron"`},
		"area":  {"answers.area > 5", "answers.area <= 5"},
		"price": {"answers.price = 2"}, "owner": {`answers.owner.name = "Ines"`}, "cut": {"answers.cut_on > DATE(2026, 1, 1)"}}
	rapid.Check(t, func(rt *rapid.T) {
		order := rapid.Permutation(fields).Draw(rt, "order")
		var questions []*blueprint.QuestionBlock
		for i, field := range order {
			q := when(field, "")
			if i > 0 && rapid.Bool().Draw(rt, "conditional") {
				on := rapid.SampledFrom(order[:i]).Draw(rt, "on")
				q.When = rapid.SampledFrom(conditions[on]).Draw(rt, "when")
			}
			if i > 0 && field == "owner" && rapid.Bool().Draw(rt, "narrowed") {
				q.Narrow = "name = \"Ines\""
			}
			if field == "cl" && rapid.Bool().Draw(rt, "fewer") {
				q.Narrow = "answers.cloth.rate > 1"
			}
			q.Required = rapid.Bool().Draw(rt, "required")
			questions = append(questions, q)
		}
		f := checked(rt, b, questions...)
		values := map[string][]any{"name": {nil, "a", "b"}, "cl": {nil, "dacron", "laminate", "gone"}, "area": {nil, "3", "9", "x"},
			"price": {nil, "2", "7"}, "owner": {nil, ines, tomas}, "cut": {nil, "2025-12-31", "2026-02-01"}}
		answers := map[string]any{}
		for _, field := range order {
			if rapid.Bool().Draw(rt, "answered") {
				answers[field] = rapid.SampledFrom(values[field]).Draw(rt, field)
			}
		}
		state := decided(f, loft{}, nil, given(answers))
		shown := map[string]any{}
		for i, p := range f.Parts {
			s := state[p.ID]
			if !s.Shown && (!s.Value.IsEmpty() || s.Missing || s.Wrong != nil || s.Cleared) {
				rt.Fatalf("%s is hidden and is %+v", p.Field.ID, s)
			}
			if s.Missing && !s.Value.IsEmpty() || p.Question.How().Required && s.Shown && s.Wrong == nil && s.Value.IsEmpty() != s.Missing {
				rt.Fatalf("%s is needed: %+v", p.Field.ID, s)
			}
			if s.Shown {
				if v, there := answers[p.Field.ID]; there {
					shown[p.Field.ID] = v
				}
			}
			above := maps.Clone(answers)
			for _, later := range f.Parts[i+1:] {
				delete(above, later.Field.ID)
			}
			if at := decided(f, loft{}, nil, given(above))[p.ID]; short(f, form.State{p.ID: at}) != short(f, form.State{p.ID: s}) {
				rt.Fatalf("%s depends on what comes later", p.Field.ID)
			}
		}
		if got := short(f, decided(f, loft{}, nil, given(shown))); got != short(f, state) {
			rt.Fatalf("hidden answers count: %s and %s", short(f, state), got)
		}
	})
}
