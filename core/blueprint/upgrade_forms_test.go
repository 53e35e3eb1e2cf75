package blueprint_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/prop"
)

// TestQuestionsOfFormat2BecomeBlocks reads forms as they were written before questions were
// things of their own, also in groups and in parts.
func TestQuestionsOfFormat2BecomeBlocks(t *testing.T) {
	b, err := blueprint.Decode([]byte(`{"format":2,"name":"Loft","theme":"Harbour","pages":[{"id":"p","path":"p","name":"P","audience":"everyone","blocks":[
		{"id":"g","kind":"group","blocks":[{"id":"f","kind":"form","table":"t","fields":[{"field":"a","required":true},{"field":"b"}]}]}]}],
		"parts":[{"id":"pt","name":"Part","blocks":[{"id":"f2","kind":"form","table":"t","fields":[{"field":"a"}]},{"id":"f3","kind":"form","table":"t","fields":null}]}]}`))
	require.NoError(t, err)
	assert.Equal(t, blueprint.Format, b.Format)
	forms, ids := map[string][]prop.Question{}, map[string]bool{}
	for x := range b.Blocks {
		assert.False(t, ids[x.Self().ID], "each has an id of its own")
		ids[x.Self().ID] = true
		if f, ok := x.(*blueprint.FormBlock); ok {
			forms[f.ID] = f.Fields()
		}
	}
	assert.Equal(t, map[string][]prop.Question{"f": {{Field: "a", Required: true}, {Field: "b"}}, "f2": {{Field: "a"}}, "f3": {}}, forms)
}

// TestQuestionsKeepWhatIsSaidOfThem are switched on and off, and ordered, as one list.
func TestQuestionsKeepWhatIsSaidOfThem(t *testing.T) {
	b := after(t, loft(t), `{"kind":"add","what":"block","into":"form","id":"words","values":{"kind":"text","text":"Well"},"at":1}`)
	form := func() *blueprint.FormBlock { return b.Page("all").Block("form").(*blueprint.FormBlock) }
	name := form().Question("name").ID
	b = after(t, b, `{"kind":"set","of":"`+name+`","values":{"words":"What is it called?"}}`,
		`{"kind":"set","of":"form","values":{"fields":[{"field":"area"},{"field":"name"},{"field":"cl","required":true}]}}`)
	kinds := ""
	for _, x := range form().Blocks {
		if q, ok := x.(*blueprint.QuestionBlock); ok {
			kinds += q.Field + " "
			continue
		}
		kinds += x.Self().ID + " "
	}
	assert.Equal(t, "area words name cl ", kinds, "words keep their place")
	assert.Equal(t, "What is it called?", form().Question("name").Words)
	assert.Equal(t, name, form().Question("name").ID)
	b = after(t, b, `{"kind":"set","of":"form","values":{"fields":[]}}`)
	assert.Len(t, form().Blocks, 1)
	assert.Len(t, after(t, b, `{"kind":"set","of":"form","values":{"fields":[{"field":"name"},{"field":"name"}]}}`).
		Page("all").Block("form").(*blueprint.FormBlock).Fields(), 1)
	refused(t, b, `{"kind":"add","what":"block","into":"all","id":"q","values":{"kind":"question","field":"name"}}`, "block-not-here")
	refused(t, b, `{"kind":"add","what":"block","into":"form","id":"q","values":{"kind":"records","table":"sail"}}`, "block-not-here")
	b = after(t, b, `{"kind":"set","of":"form","values":{"fields":[{"field":"area"}]}}`)
	refused(t, b, `{"kind":"add","what":"block","into":"form","id":"q","values":{"kind":"question","field":"area"}}`, "twice")
}

// TestAnswersFollowNames renames a field that a condition of a form names.
func TestAnswersFollowNames(t *testing.T) {
	b := after(t, loft(t), `{"kind":"set","of":"form","values":{"fields":[{"field":"name"},{"field":"cl"}]}}`)
	cloth := b.Page("all").Block("form").(*blueprint.FormBlock).Question("cl").ID
	b = after(t, b, `{"kind":"set","of":"`+cloth+`","values":{"when":"answers.name <> \"x\""}}`,
		`{"kind":"set","of":"name","values":{"name":"Title"}}`)
	assert.Equal(t, `answers.title <> "x"`, b.Page("all").Block(cloth).Self().When)
	refused(t, b, `{"kind":"set","of":"form","values":{"fields":[{"field":"cl"},{"field":"name"}]}}`, "expression")
}
