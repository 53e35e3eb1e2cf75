package why_test

import (
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act/acttest"
	"pinegate/app/why"
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/internal/golden"
	"pinegate/store"
	"pinegate/store/records"
	"pinegate/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

// wider lets members do more, so that there is more to ask about.
var wider = []string{
	`{"kind":"set","of":"r.sail","values":{"add":{"extent":"where","condition":"owner = me"},"change":{"extent":"where","condition":"owner = me"},
		"delete":{"extent":"all"},"fixed":["area"]}}`,
	`{"kind":"add","what":"rule","into":"visitor","values":{"table":"sail","see":{"extent":"where","condition":"area > 100"}}}`,
	`{"kind":"add","what":"role","id":"crew","values":{"name":"Crew","people":"sailor"}}`,
	`{"kind":"add","what":"rule","into":"crew","values":{"table":"sail","see":{"extent":"all"},"hidden":["area"]}}`,
}

// TestWhyReadsWell asks about each action, of those who can and of those who
// cannot, and holds the answers.
func TestWhyReadsWell(t *testing.T) {
	l := acttest.NewLoft(t, wider...)
	road := l.Road()
	both := l.Member("Ines")
	both.Viewer.Memberships = append(both.Viewer.Memberships, l.Member("Ines").Viewer.Memberships[0])
	both.Viewer.Memberships[1].Role = "crew"
	var out strings.Builder
	for _, who := range []struct {
		name string
		seat *records.Seat
	}{{"You", l.Founder()}, {"Ines", l.Member("Ines")}, {"Sailors", l.Member("")}, {"Visitors", l.Member("visitor")},
		{"Ines as both", both}} {
		fmt.Fprintf(&out, "# %s\n", who.name)
		for _, q := range []why.Asked{
			{Table: "sail", Action: blueprint.See}, {Table: "sail", Action: blueprint.Add}, {Table: "sail", Action: blueprint.Delete},
			{Table: "sailor", Action: blueprint.See}, {Table: "sail", Record: "Genoa", Action: blueprint.See},
			{Table: "sail", Record: "Spinnaker", Action: blueprint.See}, {Table: "sail", Record: "Genoa", Action: blueprint.Modify},
			{Table: "sail", Record: "Genoa", Field: "price", Action: blueprint.See},
			{Table: "sail", Record: "Genoa", Field: "name", Action: blueprint.See},
			{Table: "sail", Record: "Genoa", Field: "each", Action: blueprint.See},
			{Table: "sail", Record: "Genoa", Field: "area", Action: blueprint.Modify},
			{Table: "sail", Field: "each", Action: blueprint.Add}, {Table: "sail", Field: "owner", Action: blueprint.Add},
			{Table: "sail", Field: "name", Action: blueprint.Add}, {Table: "sail", Record: "Gone", Action: blueprint.See},
		} {
			asked := fmt.Sprintf("%s %s %s %s", q.Action, q.Table, q.Record, q.Field)
			switch {
			case q.Record == "Gone":
				q.Record = "01a00000-0000-7000-8000-000000000000"
			case q.Record != "":
				q.Record = l.Sails[q.Record]
			}
			got, err := why.Of(t.Context(), road, who.seat, who.name, q)
			require.NoError(t, err, asked)
			fmt.Fprintf(&out, "%s → %s\n", strings.Join(strings.Fields(asked), " "), got.Text)
			for _, r := range got.Reasons {
				fmt.Fprintf(&out, "  %t: %s\n", r.May, r.Text)
			}
		}
	}
	golden.Check(t, "why", out.String())
}

// TestWhyIsTrue asks whether what is told is so: somebody can do something exactly
// where the road to the records lets them.
func TestWhyIsTrue(t *testing.T) {
	l := acttest.NewLoft(t, wider...)
	road := l.Road()
	for _, name := range []string{"Ines", "Tomas", "", "visitor"} {
		seat := l.Member(name)
		for sail, id := range l.Sails {
			for _, action := range blueprint.Actions() {
				if action == blueprint.Add {
					continue // is not about a record that is there
				}
				got, err := why.Of(t.Context(), road, seat, name, why.Asked{Table: "sail", Record: id, Action: action})
				require.NoError(t, err)
				may, err := road.May(t.Context(), seat, seat.Blueprint.Table("sail"), id, action)
				require.NoError(t, err)
				assert.Equal(t, may, got.May, "%s %s %s: %s", name, action, sail, got.Text)
			}
		}
	}
}

func TestWhatIsNotThere(t *testing.T) {
	l := acttest.NewLoft(t)
	for _, q := range []why.Asked{{Table: "gone", Action: blueprint.See}, {Table: "sail", Field: "gone", Action: blueprint.See},
		{Table: "sail", Action: "eat"}} {
		_, err := why.Of(t.Context(), l.Road(), l.Member("Ines"), "Ines", q)
		require.ErrorIs(t, err, store.ErrNotFound, "%+v", q)
	}
	_, err := why.OfPage(t.Context(), l.Road(), l.Member("Ines"), "Ines", "gone")
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = why.WhoSees(t.Context(), l.Road(), l.Founder(), "gone", l.Sails["Jib"])
	require.ErrorIs(t, err, store.ErrNotFound)
}

// TestPagesAreExplained holds what is told of each page, for those who can open it
// and those who cannot.
func TestPagesAreExplained(t *testing.T) {
	l := acttest.NewLoft(t,
		append(slices.Clone(wider), `{"kind":"set","of":"all","values":{"audience":"roles","roles":["r"],"offMenu":true}}`,
			`{"kind":"set","of":"list","values":{"columns":["name","price"]}}`)...)
	var out strings.Builder
	for _, who := range []struct {
		name string
		seat *records.Seat
	}{{"You", l.Founder()}, {"Ines", l.Member("Ines")}, {"Visitors", l.Member("visitor")}} {
		for _, id := range []string{"n1", "one", "all"} {
			got, err := why.OfPage(t.Context(), l.Road(), who.seat, who.name, id)
			require.NoError(t, err)
			fmt.Fprintf(&out, "# %s: %t %s\n", who.name, got.May, got.Text)
			for _, b := range got.Blocks {
				fmt.Fprintf(&out, "  %s %t: %s\n", b.Kind, b.Shown, b.Text)
				for _, n := range b.Notes {
					fmt.Fprintf(&out, "    %s\n", n)
				}
			}
		}
	}
	golden.Check(t, "pages", out.String())
}

// TestWhoSeesARecord counts who of the members sees a sail.
func TestWhoSeesARecord(t *testing.T) {
	l := acttest.NewLoft(t, wider...)
	roles, err := why.WhoSees(t.Context(), l.Road(), l.Founder(), "sail", l.Sails["Genoa"])
	require.NoError(t, err)
	byRole := map[string]why.RoleSees{}
	for _, r := range roles {
		byRole[r.Role] = r
	}
	assert.Equal(t, blueprint.AllRecords, byRole["crew"].Reach)
	assert.Empty(t, byRole["visitor"].People)
	assert.Equal(t, []string{"Ines"}, byRole["r"].People)
	assert.Equal(t, 2, byRole["r"].Tried, "Ruth is no member, so she is not tried")
	assert.Equal(t, "Owner is the signed-in person", byRole["r"].Rule)
	assert.Equal(t, []why.NamedValue{{Name: "Owner", Value: "Ines"}}, byRole["r"].Values)
	own, err := why.WhoSees(t.Context(), l.Road(), l.Founder(), "sailor", l.People["Ines"])
	require.NoError(t, err)
	for _, r := range own {
		assert.Equal(t, blueprint.NoRecords, r.Reach, r.Name)
	}
}

// TestWhatARuleSetsIsNotAsked holds that a form and what is told of it agree, also where
// a rule fills a question in.
func TestWhatARuleSetsIsNotAsked(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"r.sail","values":{"add":{"extent":"all"}}}`,
		`{"kind":"set","of":"form","values":{"presets":[],"fields":[{"field":"name"},{"field":"owner"}]}}`)
	ines := l.Member("Ines")
	got, err := why.OfPage(t.Context(), l.Road(), ines, "Ines", "all")
	require.NoError(t, err)
	i := slices.IndexFunc(got.Blocks, func(b why.BlockWhy) bool { return b.ID == "form" })
	assert.True(t, got.Blocks[i].Shown)
	assert.Equal(t, []string{words.Say("why-asked-given", words.Args{"field": "Owner"})}, got.Blocks[i].Notes)
	for field, asks := range map[string]bool{"name": true, "owner": false} {
		told, err := access.Asks(ines.Blueprint, ines.Catalog, ines.Viewer, "sail", field, blueprint.Add)
		require.NoError(t, err)
		assert.Equal(t, asks, told, field)
	}
}

// TestConditionsAreExplained tells when pages, blocks in groups, in rows and in parts, and
// columns are shown.
func TestConditionsAreExplained(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"all","values":{"when":"me.name = \"Ines\""}}`,
		`{"kind":"add","what":"block","into":"all","id":"g","values":{"kind":"group","when":"me.name = \"Tomas\""}}`,
		`{"kind":"move","of":"text","into":"g","to":0}`,
		`{"kind":"add","what":"part","id":"pt","values":{"name":"Buttons","record":"sail"}}`,
		`{"kind":"add","what":"block","into":"pt","id":"go","values":{"kind":"button","text":"Open","page":"one","when":"area > 5"}}`,
		`{"kind":"add","what":"block","into":"list","id":"use","values":{"kind":"part","part":"pt","when":"area > 1"}}`,
		`{"kind":"set","of":"list","values":{"shown":[{"field":"cut","value":"me.name = \"Ruth\""}]}}`,
		`{"kind":"set","of":"r.sailor","values":{"see":{"extent":"all"}}}`)
	got, err := why.OfPage(t.Context(), l.Road(), l.Member("Ines"), "Ines", "all")
	require.NoError(t, err)
	assert.Contains(t, got.Text, "It is shown only when the signed-in person’s Name is “Ines”, and that is so for them.")
	notes := map[string]string{}
	shown := map[string]bool{}
	for _, b := range got.Blocks {
		notes[b.ID], shown[b.ID] = strings.Join(b.Notes, " "), b.Shown
	}
	assert.False(t, shown["g"])
	assert.False(t, shown["text"], "what a group holds that is not there is not there")
	assert.Contains(t, notes["text"], "group that is not shown")
	assert.Contains(t, notes["use"], "differs from record to record")
	assert.Contains(t, notes["use~go"], "wherever the part stands")
	assert.Contains(t, notes["list"], "Cut on is shown only when the signed-in person’s Name is “Ruth”.")
}
