package blueprint_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/demo"
)

func change(t testing.TB, b *blueprint.Blueprint, source string) (*blueprint.Blueprint, error) {
	t.Helper()
	n := 0
	c, err := blueprint.DecodeChange([]byte(source), func() string { n++; return fmt.Sprintf("fresh%d", n) })
	if err != nil {
		return nil, err
	}
	return blueprint.Apply(b, c)
}

func TestTheDemoIsValid(t *testing.T) { require.NoError(t, demo.Blueprint().Validate()) }

func TestRenamingIsFollowedByExpressions(t *testing.T) {
	b := demo.Blueprint()
	next, err := change(t, b, `{"kind":"RenameField","table":"boat","field":"boat_owner","name":"Belongs to"}`)
	require.NoError(t, err)
	assert.Equal(t, "belongs_to", next.Table("boat").Field("boat_owner").Key)
	assert.Equal(t, "owner = me and boat.belongs_to = me", next.Role("r_own").Rule("req").Add.Condition)
	assert.Equal(t, "belongs_to = me", next.Role("r_own").Rule("boat").See.Condition)
	assert.Equal(t, "owner", b.Table("boat").Field("boat_owner").Key, "what was there before stays as it was")

	next, err = change(t, b, `{"kind":"RenameChoice","list":"rs","choice":"rs_new","label":"Just \"in\""}`)
	require.NoError(t, err)
	assert.Equal(t, `status = "Just ""in"""`, next.Page("p_new").Blocks[1].List.Filter)
	next, err = change(t, b, `{"kind":"RenameField","table":"own","field":"own_name","name":"Full name"}`)
	require.NoError(t, err)
	assert.Equal(t, "{{ full_name }}", next.Page("p_owner").Blocks[0].Text)
	assert.Equal(t, "{{ boat }} of {{ boat.owner.full_name }}", next.Page("p_order").Blocks[1].Text)
}

func TestRefusalsSayWhatIsWrong(t *testing.T) {
	for source, want := range map[string]string{
		`{"kind":"RemoveTable","table":"boat"}`:                                                                             "Boats cannot be removed: it is used by the link Boat of Work requests",
		`{"kind":"RemoveField","table":"boat","field":"boat_owner"}`:                                                        "Owner of Boats cannot be removed: it is used by the condition by which Boat owners see Boats",
		`{"kind":"RemoveField","table":"own","field":"own_email"}`:                                                          "the role Boat owners, which knows its people by it",
		`{"kind":"RemoveChoice","list":"rs","choice":"rs_new"}`:                                                             "The choice New cannot be removed",
		`{"kind":"RemovePage","page":"p_ask"}`:                                                                              "The page Ask for work cannot be removed: a button on Boat",
		`{"kind":"RemoveRole","role":"visitor"}`:                                                                            "Every app has visitors",
		`{"kind":"RemoveRole","role":"r_crew"}`:                                                                             "nobody else may open the page Log hours",
		`{"kind":"AddTable","name":"Boats"}`:                                                                                `There are two tables named "Boats"`,
		`{"kind":"AddTable","name":"  "}`:                                                                                   "A table needs a name.",
		`{"kind":"AddField","table":"boat","name":"Mast","type":"link"}`:                                                    "Say which table Mast of Boats links to.",
		`{"kind":"AddField","table":"boat","name":"Mast","type":"magic"}`:                                                   `There is no type "magic"`,
		`{"kind":"AddField","table":"gone","name":"Mast","type":"text"}`:                                                    "That table is no longer there",
		`{"kind":"SetPermission","role":"visitor","table":"boat","action":"see","extent":"where","condition":"owner = me"}`: "Nobody is signed in here",
		`{"kind":"SetPermission","role":"r_own","table":"boat","action":"see","extent":"where","condition":"ownr = me"}`:    "Did you mean owner?",
		`{"kind":"SetPermission","role":"r_own","table":"boat","action":"see","extent":"where"}`:                            "Say which records of Boats",
		`{"kind":"SetBlock","page":"p_home","block":"p_home_a","patch":{"text":"{{ me.nam }}"}}`:                            "There is no nam in",
		`{"kind":"SetBlock","page":"p_home","block":"p_home_a","patch":{"magic":1}}`:                                        "not well formed",
		`{"kind":"SetBlock","page":"p_boats","block":"p_boats_c","patch":{"list":{"open":"p_home"}}}`:                       "can only open a page about one record of Boats",
		`{"kind":"SetAudience","page":"p_home","audience":"roles"}`:                                                         "Say which roles may open the page Welcome.",
		`{"kind":"SetPeople","role":"r_own","table":"boat"}`:                                                                "e-mail field of Boats",
		`{"kind":"Magic"}`:                          `There is no change "Magic".`,
		`{"kind":"RenameApp","name":"x","extra":1}`: "not well formed",
		`[]`: "must be a JSON object",
	} {
		_, err := change(t, demo.Blueprint(), source)
		var p *blueprint.Problem
		if assert.ErrorAs(t, err, &p, source) {
			assert.Contains(t, p.Message, want, source)
		}
	}
}

func TestRemovingAFieldForgetsWhereItIsShown(t *testing.T) {
	next, err := change(t, demo.Blueprint(), `{"kind":"RemoveField","table":"boat","field":"boat_note"}`)
	require.NoError(t, err)
	raw, err := json.Marshal(next)
	require.NoError(t, err)
	assert.NotContains(t, string(raw), "boat_note")
}

func TestKeysAreFitForTheDatabase(t *testing.T) {
	b := blueprint.New("Yard", func() func() string { n := 0; return func() string { n++; return fmt.Sprintf("n%d", n) } }())
	for i, name := range []string{"Größe (m)", "and", "42", "日本", "id", "Größe m", "A very long name that goes on and on and on until it is over"} {
		var err error
		b, err = blueprint.Apply(b, &blueprint.AddTable{ID: fmt.Sprintf("t%d", i), Field: fmt.Sprintf("f%d", i), Name: name})
		require.NoError(t, err, name)
	}
	var keys []string
	for _, table := range b.Tables {
		keys = append(keys, table.Key)
	}
	assert.Equal(t, []string{"grosse_m", "and_2", "table_42", "table", "id_2", "grosse_m_2", "a_very_long_name_that_goes_on_and_on_and"}, keys)
}

// TestChangesKeepABlueprintValid draws changes at random: each either gives a
// valid blueprint or a problem in words, and survives being written and read.
func TestChangesKeepABlueprintValid(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := demo.Blueprint()
		n := 0
		newID := func() string { n++; return fmt.Sprintf("new%d", n) }
		for range rapid.IntRange(1, 8).Draw(t, "changes") {
			c := drawChange(t, b)
			raw, err := blueprint.Encode(c)
			require.NoError(t, err)
			again, err := blueprint.DecodeChange(raw, newID)
			require.NoError(t, err, string(raw))
			next, err := blueprint.Apply(b, again)
			if err != nil {
				var p *blueprint.Problem
				require.ErrorAs(t, err, &p, string(raw))
				continue
			}
			require.NoError(t, next.Validate())
			b = next
		}
	})
}

func drawChange(t *rapid.T, b *blueprint.Blueprint) blueprint.Change {
	table := &b.Tables[rapid.IntRange(0, len(b.Tables)-1).Draw(t, "table")]
	field := table.Fields[rapid.IntRange(0, len(table.Fields)-1).Draw(t, "field")]
	page := &b.Pages[rapid.IntRange(0, len(b.Pages)-1).Draw(t, "page")]
	name := rapid.SampledFrom([]string{"Name", "New", "Owner", "[x]", "", "Änderung", "and"}).Draw(t, "name")
	rename := &blueprint.RenameField{Name: name}
	rename.Table, rename.Field = table.ID, field.ID
	remove := &blueprint.RemoveField{}
	remove.Table, remove.Field = table.ID, field.ID
	retype := &blueprint.SetFieldType{Type: rapid.SampledFrom(blueprint.FieldTypes()).Draw(t, "type"), List: "bk", Target: "own"}
	retype.Table, retype.Field = table.ID, field.ID
	return rapid.SampledFrom([]blueprint.Change{rename, remove, retype, &blueprint.AddTable{Name: name}, &blueprint.RemoveTable{Table: table.ID}, &blueprint.RenameTable{Table: table.ID, Name: name},
		&blueprint.AddField{Table: table.ID, Name: name, Type: retype.Type, List: "bk", Target: "own"}, &blueprint.RemovePage{Page: page.ID}, &blueprint.AddPage{Name: name, Record: table.ID},
		&blueprint.AddBlock{Page: page.ID, Block: blueprint.ListBlock, Table: table.ID}, &blueprint.AddBlock{Page: page.ID, Block: blueprint.FormBlock, Table: table.ID},
		&blueprint.MovePage{Page: page.ID, To: rapid.IntRange(-3, 30).Draw(t, "to")}, &blueprint.AddRole{Name: name}, &blueprint.SetInMenu{Page: page.ID, InMenu: true}}).Draw(t, "change")
}
