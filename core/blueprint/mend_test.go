package blueprint_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/demo"
)

// removals lists the removal of each table and of each field of the demo.
func removals() map[string][2]blueprint.Change {
	out := map[string][2]blueprint.Change{}
	for _, t := range demo.Blueprint().Tables {
		out[t.Name] = [2]blueprint.Change{&blueprint.RemoveTable{Table: t.ID}, &blueprint.RemoveTable{Table: t.ID, Mend: true}}
		for _, f := range t.Fields {
			plain, mended := &blueprint.RemoveField{}, &blueprint.RemoveField{Mend: true}
			plain.Table, plain.Field, mended.Table, mended.Field = t.ID, f.ID, t.ID, f.ID
			out[f.Name+" of "+t.Name] = [2]blueprint.Change{plain, mended}
		}
	}
	return out
}

func TestWhateverIsRemovedItsUsesCanBeMended(t *testing.T) {
	before := demo.Blueprint()
	for name, change := range removals() {
		mends, err := blueprint.Mends(before, change[0])
		require.NoError(t, err, name)
		_, refused := blueprint.Apply(before, change[0])
		assert.Equal(t, refused != nil, len(mends) > 0, "%s: it is refused exactly where there is something to mend: %v", name, refused)
		after, err := blueprint.Apply(before, change[1])
		if assert.NoError(t, err, name) {
			nobodySeesMore(t, name, before, after)
		}
	}
}

// nobodySeesMore holds that mending takes conditions away only together with
// what they guard.
func nobodySeesMore(t *testing.T, name string, before, after *blueprint.Blueprint) {
	for _, r := range after.Roles {
		if r.People != "" { // who is one of a role, and who is let in, stays or is nobody
			old := before.Role(r.ID)
			assert.Equal(t, []string{old.Where, old.Admit}, []string{r.Where, r.Admit}, "%s: people of %s", name, r.Name)
			assert.Contains(t, [][]blueprint.Match{nil, old.Match}, r.Match, name)
		}
		for _, rule := range r.Rules {
			was := before.Role(r.ID).Rule(rule.Table)
			for _, a := range blueprint.Actions() {
				if p := rule.Permission(a); p.Extent != blueprint.NoRecords && p.Extent != "" {
					assert.Equal(t, was.Permission(a), p, "%s: %s of %s", name, a, r.Name)
				}
			}
		}
	}
	for _, p := range after.Pages {
		for _, x := range p.Blocks {
			if x.List != nil {
				assert.Equal(t, before.Page(p.ID).Block(x.ID).List.Filter, x.List.Filter, "%s: the list on %s", name, p.Name)
			}
		}
	}
}

func TestMendsAreToldInWords(t *testing.T) {
	remove := &blueprint.RemoveField{}
	remove.Table, remove.Field = "boat", "boat_owner"
	mends, err := blueprint.Mends(demo.Blueprint(), remove)
	require.NoError(t, err)
	assert.Contains(t, mends, blueprint.Mended{Use: "the condition by which Boat owners see Boats", Does: "Boat owners may see no Boats until you say which"})
	assert.Contains(t, mends, blueprint.Mended{Use: "the condition of the list on the page My boats", Does: "the list is taken off the page"})
}

func TestConditionsFollowNames(t *testing.T) {
	before := demo.Blueprint()
	after := before
	for _, c := range []string{
		`{"kind":"RenameField","table":"ord","field":"ord_status","name":"How it stands"}`,
		`{"kind":"RenameField","table":"boat","field":"boat_owner","name":"Belongs to"}`,
		`{"kind":"RenameTable","table":"ord","name":"Jobs"}`,
		`{"kind":"RenameChoice","list":"os","choice":"os_done","label":"All \"done\""}`,
		`{"kind":"RenameListColumn","list":"os","column":"os_colour","name":"Paint"}`,
	} {
		var err error
		after, err = change(t, after, c)
		require.NoError(t, err, c)
	}
	for source, want := range map[string]string{
		`status = "Done" and boat.owner.name = "Ines"`: `how_it_stands = "All ""done""" and boat.belongs_to.name = "Ines"`,
		`[Status] <> "Planned"`:                        `[How it stands] <> "Planned"`,
		`status.colour = "#2A6F97"`:                    `how_it_stands.paint = "#2A6F97"`,
		`COUNT(RECORDS(work_orders)) > 3`:              `COUNT(RECORDS(jobs)) > 3`,
		`hours > 3`:                                    `hours > 3`,
		`not ( readable`:                               `not ( readable`,
	} {
		assert.Equal(t, want, blueprint.Follow(source, before, after, "ord"))
	}
}
