package blueprint_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/internal/golden"
)

// TestWhateverIsRemovedItsUsesCanBeMended removes every thing of the small app
// that can be removed.
func TestWhateverIsRemovedItsUsesCanBeMended(t *testing.T) {
	before := loft(t)
	var out strings.Builder
	for p := range before.Places {
		if !p.Removable() {
			continue
		}
		called := p.Called()
		mends, err := blueprint.Mends(before, &blueprint.Remove{Of: p.ID})
		require.NoError(t, err, called)
		_, refused := blueprint.Apply(before, &blueprint.Remove{Of: p.ID})
		assert.Equal(t, refused != nil, len(mends) > 0, "%s: it is refused exactly where there is something to mend: %v", called, refused)
		after, err := blueprint.Apply(before, &blueprint.Remove{Of: p.ID, Mend: true})
		if !assert.NoError(t, err, called) {
			continue
		}
		nobodySeesMore(t, called, before, after)
		fmt.Fprintf(&out, "# %s\n", called)
		for _, m := range mends {
			fmt.Fprintf(&out, "%s: %s\n", m.Use, m.Does)
		}
	}
	golden.Check(t, "mends", out.String())
}

// nobodySeesMore holds that mending takes conditions away only together with what
// they guard.
func nobodySeesMore(t *testing.T, name string, before, after *blueprint.Blueprint) {
	t.Helper()
	for _, r := range after.Roles {
		if old := before.Role(r.ID); r.People != "" { // who is one of a role, and who can sign in, stays or is nobody
			assert.Equal(t, []string{old.Where, old.Admit}, []string{r.Where, r.Admit}, "%s: people of %s", name, r.Name)
		}
		for _, rule := range r.Rules {
			was := before.Role(r.ID).Rule(rule.Table)
			for _, a := range blueprint.Actions() {
				if p := rule.Permission(a); p.Extent != blueprint.NoRecords && p.Extent != "" {
					assert.Equal(t, was.Permission(a), p, "%s: %s of %s", name, a, r.Name)
				}
			}
			for _, id := range was.Hidden {
				if table := after.Table(rule.Table); table.Field(id) != nil {
					assert.Contains(t, rule.Hidden, id, "%s: hidden from %s", name, r.Name)
				}
			}
		}
	}
	for _, p := range after.Pages {
		assert.Equal(t, before.Page(p.ID).Audience, p.Audience, "%s: who can open %s", name, p.Name)
		for _, x := range p.Blocks {
			if list, ok := x.(*blueprint.RecordsBlock); ok {
				was := before.Page(p.ID).Block(list.ID).(*blueprint.RecordsBlock)
				assert.Equal(t, was.Filter, list.Filter, "%s: the list on %s", name, p.Name)
			}
		}
	}
}

// TestAPageOfARemovedRoleGoes removes the only role that can open a page: the page
// is never left open to others.
func TestAPageOfARemovedRoleGoes(t *testing.T) {
	b := after(t, loft(t), `{"kind":"set","of":"all","values":{"audience":"roles","roles":["r"]}}`)
	mends, err := blueprint.Mends(b, &blueprint.Remove{Of: "r"})
	require.NoError(t, err)
	assert.Contains(t, mends, blueprint.Mended{Use: "the page My sails", Does: "it is removed, too"})
	now, err := blueprint.Apply(b, &blueprint.Remove{Of: "r", Mend: true})
	require.NoError(t, err)
	assert.Nil(t, now.Page("all"))
	b = after(t, b, `{"kind":"set","of":"all","values":{"roles":["r","visitor"]}}`)
	now, err = blueprint.Apply(b, &blueprint.Remove{Of: "r", Mend: true})
	require.NoError(t, err)
	assert.Equal(t, []string{"visitor"}, now.Page("all").Roles)
}

func TestMatchesCloseWhenAFieldIsLost(t *testing.T) {
	b := after(t, loft(t), `{"kind":"set","of":"gate","values":{"ways":["code","fields"]}}`,
		`{"kind":"set","of":"r","values":{"match":["s_mail","s_name"]}}`)
	now, err := blueprint.Apply(b, &blueprint.Remove{Of: "s_name", Mend: true})
	require.NoError(t, err)
	assert.Empty(t, now.Role("r").Match, "one field less would let in those who know only the other")
}
