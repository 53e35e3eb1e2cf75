package form_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/expr"
	"pinegate/core/form"
)

// stepped is the loft's form in two steps, the second of which asks for more where a question
// that is not kept is answered with yes.
func stepped(t testing.TB) (*blueprint.Blueprint, *form.Form) {
	b := blueprinttest.Loft(t)
	x := *b.Page("all").Block("form").(*blueprint.FormBlock)
	head := func(id, kind, when string) blueprint.BlockHead {
		return blueprint.BlockHead{ID: id, Kind: kind, When: when}
	}
	asks := func(field, when string) blueprint.Block {
		return &blueprint.QuestionBlock{BlockHead: head("q_"+field, "question", when), Field: field}
	}
	step := func(id, when string, blocks ...blueprint.Block) blueprint.Block {
		return &blueprint.SectionBlock{BlockHead: head(id, "section", when), Way: blueprint.StepSection, Title: id, Blocks: blocks}
	}
	x.Blocks = blueprint.Blocks{
		step("one", "", asks("name", ""),
			&blueprint.FreeBlock{BlockHead: head("more", "ask", ""), Name: "More", Key: "more", Type: blueprint.YesNo}),
		step("two", "answers.more",
			&blueprint.HeadingBlock{BlockHead: head("words", "heading", `answers.name = "Jib"`), Text: "Of {{answers.name}}"},
			asks("area", ""),
			&blueprint.SectionBlock{BlockHead: head("part", "section", ""), Blocks: blueprint.Blocks{asks("price", "answers.area > 10")}}),
	}
	return b, formed(t, b, &x)
}

func partsShown(f *form.Form, s form.State) string {
	var out []string
	for _, p := range f.Parts {
		if s[p.ID].Shown {
			out = append(out, p.ID)
		}
	}
	return strings.Join(out, " ")
}

// TestSectionsFollowTheirAnswers shows sections with what stands in them, and none of which
// nothing is shown.
func TestSectionsFollowTheirAnswers(t *testing.T) {
	_, f := stepped(t)
	for _, x := range []struct {
		answers map[string]any
		want    string
	}{
		{nil, "one q_name more"},
		{map[string]any{"more": true}, "one q_name more two q_area"},
		{map[string]any{"more": true, "name": "Jib"}, "one q_name more two words q_area"},
		{map[string]any{"more": true, "area": "11"}, "one q_name more two q_area part q_price"},
		{map[string]any{"more": false, "area": "11", "name": "Jib"}, "one q_name more"},
	} {
		assert.Equal(t, x.want, partsShown(f, decided(f, loft{}, nil, given(x.answers))), "%v", x.answers)
	}
}

// TestWordsKnowAnswers fills answers into words of a form, and tells which words do so.
func TestWordsKnowAnswers(t *testing.T) {
	b, f := stepped(t)
	says := map[string]bool{}
	for _, p := range f.Parts {
		says[p.ID] = p.Says
	}
	assert.Equal(t, map[string]bool{"one": false, "q_name": false, "more": false, "two": false, "words": true, "q_area": false,
		"part": false, "q_price": false}, says)
	_, env := f.Decide(loft{}, form.Known{}, form.Sent{Answers: given(map[string]any{"more": true, "name": "Jib"})})
	x := b.Page("all").Block("form").(*blueprint.FormBlock)
	scope := b.ScopeAt(blueprint.Spot{Page: b.Page("all")}, f.Catalog)
	scope.Answers = b.AnswersOf(x, "", true, f.Catalog)
	c, err := expr.CheckTemplate("Of {{answers.name}}", scope)
	require.NoError(t, err)
	assert.Equal(t, "Jib", expr.Eval(c.Fold(f.Catalog, env).Checked()[0], f.Catalog, loft{}).Text)
}

// TestWhatStandsInHiddenSectionsIsHidden holds for any answers.
func TestWhatStandsInHiddenSectionsIsHidden(t *testing.T) {
	_, f := stepped(t)
	rapid.Check(t, func(t *rapid.T) {
		answers := map[string]any{}
		for id, values := range map[string][]any{"more": {true, false}, "name": {"Jib", "Main"}, "area": {"3", "11", "x"}, "price": {"1"}} {
			if rapid.Bool().Draw(t, id) {
				answers[id] = rapid.SampledFrom(values).Draw(t, id+" is")
			}
		}
		s := decided(f, loft{}, nil, given(answers))
		filled := map[string]bool{}
		for _, p := range f.Parts {
			if s[p.ID].Shown {
				filled[p.In] = true
				if p.In != "" && !s[p.In].Shown {
					t.Fatalf("%s is shown in a section that is not", p.ID)
				}
			}
		}
		for _, p := range f.Parts {
			if p.Section != nil && s[p.ID].Shown && !filled[p.ID] {
				t.Fatalf("of %s nothing is shown", p.ID)
			}
		}
	})
}
