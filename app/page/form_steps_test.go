package page_test

import (
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/store/records"
)

// inSteps is a loft whose form has a step about the sail and, where somebody says so, one about its
// owner, with words that know what was answered.
func inSteps(t *testing.T) page.Use {
	l := asking(t,
		`{"kind":"add","what":"block","into":"form","id":"s_one","at":0,"values":{"kind":"section","way":"step","title":"The sail"}}`,
		`{"kind":"add","what":"block","into":"s_one","id":"more","values":{"kind":"ask","name":"Somebody owns it","type":"yes/no"}}`,
		`{"kind":"add","what":"block","into":"form","id":"s_two","values":{"kind":"section","way":"step","title":"Who owns {{answers.name}}?","when":"answers.somebody_owns_it"}}`,
		`{"kind":"add","what":"block","into":"s_two","id":"said","values":{"kind":"text","text":"{{answers.name}}, of {{answers.cloth}}"}}`)
	form := func() *blueprint.FormBlock { return l.Blueprint().Page("all").Block("form").(*blueprint.FormBlock) }
	for at, field := range []string{"name", "cl"} {
		_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", &blueprint.Move{Of: form().Question(field).ID, To: at, Into: "s_one"})
		require.NoError(t, err)
	}
	for _, field := range []string{"area", "owner"} {
		_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", &blueprint.Move{Of: form().Question(field).ID, To: 0, Into: "s_two"})
		require.NoError(t, err)
	}
	return use(t, l, "Ines", "my-sails", "", "form")
}

// TestAFormInSteps shows steps, titles and words by the answers, and what was chosen for a last look.
func TestAFormInSteps(t *testing.T) {
	u := inSteps(t)
	first, err := u.State(t.Context(), page.StateAsked{})
	require.NoError(t, err)
	assert.Equal(t, "The sail", first.Parts["s_one"].Title)
	assert.NotContains(t, first.Parts, "s_two")
	assert.Empty(t, first.Blocks)
	asked := page.StateAsked{Answers: answers(t, map[string]any{"name": "*Jib*", "cl": "laminate", "more": true}), Review: true}
	then, err := u.State(t.Context(), asked)
	require.NoError(t, err)
	assert.Equal(t, "Who owns *Jib*?", then.Parts["s_two"].Title)
	require.Len(t, then.Blocks, 1)
	assert.Equal(t, "*Jib*, of Laminate", then.Blocks[0].(*page.Text).Text)
	assert.Equal(t, "<p>*Jib*, of Laminate</p>\n", then.Blocks[0].(*page.Text).HTML, "what people type is no Markdown")
	asked.Have = []string{"said"}
	asked.Answers["name"] = []byte(`"Main"`)
	again, err := u.State(t.Context(), asked)
	require.NoError(t, err)
	require.Len(t, again.Blocks, 1, "words that name answers are sent again")
	assert.Equal(t, "Main, of Laminate", again.Blocks[0].(*page.Text).Text)
}

// TestWhatIsNotKeptIsNotWritten takes answers that no field holds, and writes none of them; nor is
// anything taken of a step that is not shown.
func TestWhatIsNotKeptIsNotWritten(t *testing.T) {
	u := inSteps(t)
	taken, err := take(t, u, map[string]any{"name": "Jib", "more": true, "area": "4"})
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"name", "area"}, slices.Collect(maps.Keys(taken)))
	_, err = take(t, u, map[string]any{"name": "Jib", "area": "4"})
	var wrong records.FieldErrors
	require.ErrorAs(t, err, &wrong)
	assert.Equal(t, "not-asked-now", wrong["area"].Code)
	_, err = take(t, u, map[string]any{"more": true, "area": "4"})
	require.ErrorAs(t, err, &wrong)
	assert.Equal(t, "read-missing", wrong["name"].Code, "a later step alone is not enough")
}
