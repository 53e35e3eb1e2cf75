package blueprint_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
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
	b := after(t, blueprinttest.Loft(t), `{"kind":"add","what":"block","into":"form","id":"words","values":{"kind":"text","text":"Well"},"at":1}`)
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

// TestSignUpOfFormat3BecomesBlocks reads what sign-up asked for, and what profiles showed, as they
// were written before these were forms.
func TestSignUpOfFormat3BecomesBlocks(t *testing.T) {
	b, err := blueprint.Decode([]byte(`{"format":3,"name":"Loft","theme":"Harbour","roles":[
		{"id":"r","name":"R","people":"t","rules":[],"signUp":{"mode":"open","questions":[{"field":"a","required":true},{"field":"b"}]},
			"profile":{"fields":["b","a"],"closing":"keep"}},
		{"id":"r2","name":"R2","people":"t","rules":[],"signUp":{"mode":"invited"}},{"id":"visitor","name":"V","rules":[]}],
		"tables":[{"id":"t","key":"t","name":"T","label":"a","fields":[]}]}`))
	require.NoError(t, err)
	assert.Equal(t, blueprint.Format, b.Format)
	asked, ids := map[string][]prop.Question{}, map[string]bool{}
	for f := range b.RoleForms {
		form := f.Form()
		asked[f.ID()] = form.Fields()
		for x := range form.Blocks.All {
			assert.False(t, ids[x.Self().ID], "each has an id of its own")
			ids[x.Self().ID] = true
		}
	}
	assert.Equal(t, map[string][]prop.Question{"r:sign-up": {{Field: "a", Required: true}, {Field: "b"}},
		"r:profile": {{Field: "b"}, {Field: "a"}}, "r2:sign-up": {}, "r2:profile": {}}, asked)
	assert.Equal(t, blueprint.ClosingKeeps, b.Role("r").Profile.Closing)
}

// TestFormsOfRolesAreForms adds to them, moves within them, names answers, and takes a field away.
func TestFormsOfRolesAreForms(t *testing.T) {
	b := after(t, loft(t), `{"kind":"set","of":"r","values":{"signUp.mode":"open"}}`)
	assert.Equal(t, []prop.Question{{Field: "s_name", Required: true}}, b.Role("r").SignUpForm().Form().Fields(),
		"which no sailor is without")
	set := after(t, loft(t), `{"kind":"set","of":"r","values":{"signUp.mode":"open","signUp.presets":[{"field":"s_name","value":"\"X\""}]}}`)
	assert.Empty(t, set.Role("r").SignUp.Blocks, "which is set already")
	b = after(t, b, `{"kind":"set","of":"r:sign-up","values":{"fields":[]}}`,
		`{"kind":"add","what":"block","into":"r:sign-up","id":"free","values":{"kind":"ask","name":"Why","type":"text"}}`,
		`{"kind":"add","what":"block","into":"r:sign-up","id":"sec","values":{"kind":"section","title":"More"}}`,
		`{"kind":"add","what":"block","into":"sec","id":"q","values":{"kind":"question","field":"s_name","when":"answers.why <> \"\""}}`,
		`{"kind":"move","of":"q","into":"r:sign-up","to":1}`,
		`{"kind":"set","of":"free","values":{"name":"Reason"}}`)
	form := b.Role("r").SignUpForm().Form()
	assert.Equal(t, `answers.reason <> ""`, form.Question("s_name").When)
	assert.Same(t, form.Question("s_name"), form.Blocks[1])
	assert.Empty(t, after(t, b, `{"kind":"remove","of":"sailor","mend":true}`).Role("r").SignUp.Blocks, "which goes with its people")
	refused(t, b, `{"kind":"add","what":"block","into":"r:sign-up","id":"x","values":{"kind":"with","link":"s_sails"}}`, "block-not-here")
	refused(t, b, `{"kind":"add","what":"block","into":"r:sign-up","id":"x","values":{"kind":"question","field":"s_mail"}}`, "not-offered")
	refused(t, b, `{"kind":"add","what":"block","into":"r:profile","id":"x","values":{"kind":"records","table":"sail"}}`, "block-not-here")
	refused(t, b, `{"kind":"remove","of":"r:sign-up"}`, "not-removable")
	refused(t, b, `{"kind":"set","of":"q","values":{"when":"answers.nothing"}}`, "expression")
}
