package sentence_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/sentence"
	"pinegate/internal/golden"
)

// TestHistoryReadsWell holds what the list of changes says of each kind of change.
func TestHistoryReadsWell(t *testing.T) {
	var out strings.Builder
	b := blueprinttest.Loft(t)
	for _, source := range []string{
		`{"kind":"add","what":"table","id":"mast","values":{"name":"Masts"}}`,
		`{"kind":"add","what":"field","into":"sail","id":"luff","values":{"name":"Luff","type":"number"}}`,
		`{"kind":"add","what":"choice","into":"cloth","id":"nylon","values":{"label":"Nylon"}}`,
		`{"kind":"add","what":"role","id":"crew","values":{"name":"Crew","people":"sailor"}}`,
		`{"kind":"add","what":"rule","into":"crew","values":{"table":"sail","see":{"extent":"all"}}}`,
		`{"kind":"add","what":"page","id":"about","values":{"name":"About"}}`,
		`{"kind":"add","what":"block","into":"about","id":"words","values":{"kind":"text","text":"Hello"}}`,
		`{"kind":"set","of":"sail","values":{"name":"Our sails"}}`,
		`{"kind":"set","of":"area","values":{"required":true,"help":"In square metres"}}`,
		`{"kind":"set","of":"dacron","values":{"label":"Woven"}}`,
		`{"kind":"set","of":"r.sail","values":{"see":{"extent":"all"}}}`,
		`{"kind":"set","of":"r.sail","values":{"change":{"extent":"where","condition":"owner = me"}}}`,
		`{"kind":"set","of":"r.sail","values":{"change":{"extent":"none"}}}`,
		`{"kind":"set","of":"r.sail","values":{"hidden":["price","area"],"fixed":["name"]}}`,
		`{"kind":"set","of":"list","values":{"filter":null,"sort":"name"}}`,
		`{"kind":"set","of":"gate","values":{"session.hours":48}}`,
		`{"kind":"set","of":"app","values":{"theme":"Clay"}}`,
		`{"kind":"move","of":"form","to":0}`,
		`{"kind":"merge","of":"nylon","into":"dacron"}`,
		`{"kind":"remove","of":"words"}`,
		`{"kind":"remove","of":"owner","mend":true}`,
	} {
		c, err := blueprint.DecodeChange([]byte(source), func() string { return "fresh" })
		require.NoError(t, err, source)
		after, err := blueprint.Apply(b, c)
		require.NoError(t, err, source)
		fmt.Fprintf(&out, "%s.\n", sentence.OfChange(b, after, c))
		b = after
	}
	golden.Check(t, "history", out.String())
}

// TestDifferencesReadWell holds what publishing says of what differs.
func TestDifferencesReadWell(t *testing.T) {
	before := blueprinttest.Loft(t)
	after := blueprinttest.After(t, before,
		`{"kind":"set","of":"sail","values":{"name":"Our sails"}}`, `{"kind":"remove","of":"price","mend":true}`,
		`{"kind":"add","what":"field","into":"sail","id":"luff","values":{"name":"Luff","type":"number"}}`,
		`{"kind":"set","of":"list","values":{"sort":"name","falling":null}}`, `{"kind":"move","of":"form","to":0}`,
		`{"kind":"set","of":"gate","values":{"session.hours":48}}`,
		`{"kind":"add","what":"table","id":"shed","values":{"name":"Sheds","fields":"Name, text, required\nBuilt, date"}}`,
		`{"kind":"remove","of":"one","mend":true}`)
	var out strings.Builder
	for _, d := range sentence.Compare(before, after) {
		fmt.Fprintf(&out, "%s\n", d.Where)
		for mark, text := range map[string]string{"-": d.Before} {
			if text != "" {
				fmt.Fprintf(&out, "  %s %s\n", mark, text)
			}
		}
		if d.After != "" {
			fmt.Fprintf(&out, "  + %s\n", d.After)
		}
		for _, line := range d.Lines {
			fmt.Fprintf(&out, "      %s\n", line)
		}
	}
	golden.Check(t, "differences", out.String())
}

// TestCompareTellsWhatChangedItself holds that another name changes one line, not
// all that name the thing.
func TestCompareTellsWhatChangedItself(t *testing.T) {
	before := blueprinttest.Loft(t)
	assert.Empty(t, sentence.Compare(before, before))
	assert.Len(t, sentence.Compare(before, blueprinttest.After(t, before, `{"kind":"set","of":"owner","values":{"name":"Whose"}}`)), 1)
	assert.Len(t, sentence.Compare(before, blueprinttest.After(t, before, `{"kind":"set","of":"sailor","values":{"name":"People"}}`)), 1)
	asked := blueprinttest.After(t, before, `{"kind":"set","of":"r","values":{"signUp.mode":"open"}}`,
		`{"kind":"set","of":"r:sign-up","values":{"fields":[{"field":"s_name","required":true}]}}`)
	said := sentence.Compare(before, asked)
	assert.Len(t, said, 3, "the way to sign up, that it asks for something, and for what: %v", said)
	first := sentence.Compare(&blueprint.Blueprint{}, before)
	assert.Greater(t, len(first), 6)
	for _, d := range first {
		assert.Empty(t, d.Before)
	}
}

// TestRulesAreProposed holds the rules that are offered for a new role, and that
// each can be added.
func TestRulesAreProposed(t *testing.T) {
	b := blueprinttest.After(t, blueprinttest.Loft(t), `{"kind":"add","what":"role","id":"crew","values":{"name":"Crew","people":"sailor"}}`,
		`{"kind":"add","what":"table","id":"order","values":{"name":"Orders"}}`,
		`{"kind":"add","what":"field","into":"order","id":"o_sail","values":{"name":"Sail","type":"link","target":"sail"}}`)
	var out strings.Builder
	for _, id := range []string{"crew", "r", "visitor"} {
		role := b.Role(id)
		fmt.Fprintf(&out, "# %s\n", role.Name)
		for _, p := range sentence.ProposeRules(b, role) {
			fmt.Fprintf(&out, "%s\n", p.Text)
			after, err := blueprint.Apply(b, p.Changes...)
			require.NoError(t, err, p.Text)
			require.NotEqual(t, b, after)
		}
	}
	golden.Check(t, "proposals", out.String())
}

// TestWhatStandsInFormsOfRoles offers there what can stand in a form, but for other records.
func TestWhatStandsInFormsOfRoles(t *testing.T) {
	b := blueprinttest.After(t, blueprinttest.Loft(t), `{"kind":"set","of":"r","values":{"signUp.mode":"open"}}`)
	for _, id := range []string{"r:sign-up", "r:profile"} {
		p, ok := b.Place(id)
		require.True(t, ok)
		var kinds []string
		for _, o := range sentence.ForKind(p.Within(), blueprint.Adding("block", id, "x")).Slots[0].Options {
			kinds = append(kinds, o.Value)
		}
		assert.Subset(t, kinds, []string{"question", "ask", "section", "text"}, id)
		for _, not := range []string{"form", "records", "with", "keep", "button"} {
			assert.NotContains(t, kinds, not, id)
		}
		for _, kind := range kinds {
			_, err := blueprint.Tried(b, blueprint.Adding("block", id, "x", "kind", kind))
			assert.NoError(t, err, kind)
		}
	}
}
