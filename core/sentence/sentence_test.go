package sentence_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/sentence"
	"pinegate/demo"
)

func lines(b *blueprint.Blueprint) map[string]sentence.Line {
	out := map[string]sentence.Line{}
	for _, l := range sentence.Script(b) {
		out[l.ID] = l
	}
	return out
}

func TestTheScriptReadsWell(t *testing.T) {
	script := lines(demo.Blueprint())
	for id, want := range map[string]string{
		"boat_owner":        "Owner is a link to one of Owners; it may be left empty.",
		"boat_name":         "Name is a text; it must be filled in.",
		"boat_label":        "Each is known by the Name & “ (” & the Registration & “)”.",
		"r_own_people":      "They are the people in Owners, all of them, and are known by their E-mail.",
		"r_own_boat":        "Of Boats they see those where the Owner is the signed-in person, add none, change those where the Owner is the signed-in person and delete none.",
		"visitor_news":      "Of Notices they see those where the Shown to visitors is yes, add none, change none and delete none.",
		"r_own_boat_fields": "Of their fields, Yard note is hidden and Owner, Berth are only to be read.",
		"p_boats_about":     "It is open to Boat owners and stands in the menu.",
		"p_home_c":          "A button “Go to my boats” goes to My boats.",
		"p_hauls_b":         "A list shows Haul-outs, where the Done is no, with Day, Boat, Kind, Note, sorted by Day; a row opens nothing; when there are none it says “Nothing planned.”.",
		"p_due_b":           "A list shows Invoices, where the Status is “Sent” and the Due on is before today, with Number, Owner, Boat, Due on, Total, sorted by Due on; a row opens nothing; when there are none it says “Nobody owes us anything.”.",
	} {
		l, ok := script[id]
		if assert.True(t, ok, id) {
			assert.Equal(t, want, l.Text(), id)
		}
	}
}

// TestEverySettingCanBeSaved saves each setting with the values that it has:
// the change must be known and leave the app valid.
func TestEverySettingCanBeSaved(t *testing.T) {
	b := demo.Blueprint()
	settings := 0
	for _, l := range sentence.Script(b) {
		for _, a := range l.Actions {
			_, err := blueprint.DecodeChange(a.Change, func() string { return "x" })
			require.NoError(t, err, l.ID)
			if a.Setting == nil {
				continue
			}
			c, err := blueprint.DecodeChange(filled(t, a.Setting), func() string { return "x" })
			require.NoError(t, err, l.ID)
			after, err := blueprint.Apply(b, c)
			require.NoError(t, err, l.ID)
			assertSame(t, b, after, l.ID)
		}
		if l.Kind == sentence.Offer {
			continue
		}
		for _, p := range l.Parts {
			if p.Setting == nil {
				continue
			}
			settings++
			c, err := blueprint.DecodeChange(filled(t, p.Setting), func() string { return "x" })
			require.NoError(t, err, "%s: %s", l.ID, p.Setting.Title)
			after, err := blueprint.Apply(b, c)
			require.NoError(t, err, "%s: %s", l.ID, p.Setting.Title)
			assertSame(t, b, after, l.ID)
		}
	}
	assert.Greater(t, settings, 300)
}

// assertSame checks that saving what is there changed nothing that is told.
func assertSame(t *testing.T, before, after *blueprint.Blueprint, line string) {
	t.Helper()
	x, err := json.Marshal(before)
	require.NoError(t, err)
	y, err := json.Marshal(after)
	require.NoError(t, err)
	if string(x) != string(y) { // the path of a page is made anew from its name, which no sentence tells
		assert.Empty(t, sentence.Compare(before, after), line)
	}
}

// filled puts the slots' values into the change, as the front end does.
func filled(t *testing.T, s *sentence.Setting) []byte {
	var change map[string]any
	require.NoError(t, json.Unmarshal(s.Change, &change))
	values := map[string]any{}
	for _, slot := range s.Slots {
		values[slot.Name] = slot.Value
	}
	for _, slot := range s.Slots {
		if slot.When != nil && !slices.Contains(strings.Split(slot.When.Is, "|"), fmt.Sprint(values[slot.When.Slot])) {
			continue
		}
		put(change, slot.Name, slot.Value)
	}
	raw, err := json.Marshal(change)
	require.NoError(t, err)
	return raw
}

func put(into map[string]any, path string, value any) {
	for i := range path {
		if path[i] == '.' {
			inner, ok := into[path[:i]].(map[string]any)
			if !ok {
				inner = map[string]any{}
				into[path[:i]] = inner
			}
			put(inner, path[i+1:], value)
			return
		}
	}
	into[path] = value
}

func TestCompareTellsWhatChangedItself(t *testing.T) {
	before := demo.Blueprint()
	rename := &blueprint.RenameField{Name: "Belongs to"}
	rename.Table, rename.Field = "boat", "boat_owner"
	after, err := blueprint.Apply(before, rename)
	require.NoError(t, err)
	diff := sentence.Compare(before, after)
	require.Len(t, diff, 1, "lines that only name the field do not count: %v", diff)
	assert.Equal(t, "Belongs to is a link to one of Owners; it may be left empty.", diff[0].After)

	after, err = blueprint.Apply(before, &blueprint.SetPermission{Role: "r_own", Table: "boat", Action: blueprint.See, Extent: blueprint.AllRecords})
	require.NoError(t, err)
	diff = sentence.Compare(before, after)
	require.Len(t, diff, 1)
	assert.Contains(t, diff[0].After, "they see all,")
	assert.Equal(t, "Let Boat owners see all records of Boats", sentence.OfChange(before, after, &blueprint.SetPermission{Role: "r_own", Table: "boat", Action: blueprint.See, Extent: blueprint.AllRecords}))
}

func TestRulesAreProposed(t *testing.T) {
	b := demo.Blueprint()
	b.Roles = append(b.Roles, blueprint.Role{ID: "r_new", Name: "Members", People: "own", Email: "own_email"})
	require.NoError(t, b.Validate())
	proposed := sentence.ProposeRules(b, b.Role("r_new"))
	var texts []string
	after := b
	for _, p := range proposed {
		texts = append(texts, p.Text)
		next, err := blueprint.Apply(after, p.Changes...)
		require.NoError(t, err, p.Text)
		after = next
	}
	assert.Contains(t, texts, "Members see Boats where the Owner is the signed-in person")
	assert.Contains(t, texts, "Members add Work requests where the Owner is the signed-in person; the app fills in Owner")
	assert.Contains(t, texts, "Members change Owners where the record itself is the signed-in person, but not E-mail")
	assert.Contains(t, texts, "Members see Haul-outs where the Boat’s Owner is the signed-in person")
	for _, rule := range after.Role("r_new").Rules {
		for _, a := range blueprint.Actions() {
			assert.NotEqual(t, blueprint.AllRecords, rule.Permission(a).Extent, "nothing is offered of all records")
		}
		assert.NotEqual(t, blueprint.Where, rule.Delete.Extent, "and nothing to be deleted")
	}
	// what was fixed or filled in before stays so
	own := &b.Role("r_new").Rules
	*own = []blueprint.Rule{{Table: "own", Fixed: []string{"own_since"}}, {Table: "req", Given: []blueprint.Preset{{Field: "req_status", Value: `"New"`}}}}
	kept := b
	for _, p := range sentence.ProposeRules(b, b.Role("r_new")) {
		var err error
		kept, err = blueprint.Apply(kept, p.Changes...)
		require.NoError(t, err, p.Text)
	}
	assert.Equal(t, []string{"own_since", "own_email"}, kept.Role("r_new").Rule("own").Fixed)
	assert.Len(t, kept.Role("r_new").Rule("req").Given, 2)
	*own = nil
	assert.Empty(t, sentence.ProposeRules(after, after.Role("r_new")), "what is there is not offered again")
	assert.Empty(t, sentence.ProposeRules(b, b.Role(blueprint.VisitorRole)))
}
