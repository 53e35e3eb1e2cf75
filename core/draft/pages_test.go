package draft_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/draft"
	"pinegate/core/sentence"
	"pinegate/internal/golden"
)

// counting gives ids that are the same each time, and begin so.
func counting(prefix string) func() string {
	n := 0
	return func() string { n++; return fmt.Sprint(prefix, n) }
}

func apply(t testing.TB, b *blueprint.Blueprint, changes ...blueprint.Change) *blueprint.Blueprint {
	t.Helper()
	next, err := blueprint.Apply(b, changes...)
	require.NoError(t, err)
	return next
}

func all() blueprint.Permission { return blueprint.Permission{Extent: blueprint.AllRecords} }
func where(c string) blueprint.Permission {
	return blueprint.Permission{Extent: blueprint.Where, Condition: c}
}

// harbour is an app with four linked tables and three roles with rules, of which there are no
// pages yet.
func harbour(t testing.TB) *blueprint.Blueprint {
	table := func(id, name, fields string) blueprint.Change {
		return blueprint.Adding("table", "", id, "name", name, "fields", fields)
	}
	field := func(into, id string, pairs ...any) blueprint.Change {
		return blueprint.Adding("field", into, id, pairs...)
	}
	return apply(t, blueprint.New("Harbour", counting("n")),
		table("own", "Owners", "Name, required\nEmail, email\nJoined, date"),
		table("boat", "Boats", "Name, required\nRemarks, long text\nInsured until, date"),
		table("job", "Jobs", "Title, required\nDue on, date\nPrice, number"),
		table("crew", "Crew", "Name, required\nEmail, email"),
		blueprint.Adding("list", "", "js", "name", "Job states", "choices", "Open\nDone"),
		field("boat", "boat_owner", "name", "Owner", "type", "link", "target", "own", "back", "Boats"),
		field("boat", "boat_photo", "name", "Photo", "type", "picture"),
		field("job", "job_boat", "name", "Boat", "type", "link", "target", "boat", "back", "Jobs"),
		field("job", "job_state", "name", "State", "type", "choice", "list", "js"),
		blueprint.Adding("role", "", "c", "name", "Customers", "people", "own"),
		blueprint.Adding("role", "", "w", "name", "Crew members", "people", "crew"),
		blueprint.Adding("role", "", "m", "name", "Managers", "people", "crew"),
		blueprint.Permit("c", "own", "see", where("this = me"), "change", where("this = me")),
		blueprint.Permit("c", "boat", "see", where("owner = me")),
		blueprint.Permit("c", "job", "see", where("boat.owner = me"), "hidden", []string{"job_3"}),
		blueprint.Permit("w", "boat", "see", all()),
		blueprint.Permit("w", "job", "see", all(), "change", all(), "hidden", []string{"job_3"}),
		blueprint.Permit("m", "own", "see", all(), "add", all(), "change", all()),
		blueprint.Permit("m", "boat", "see", all(), "add", all(), "change", all()),
		blueprint.Permit("m", "job", "see", all(), "add", all(), "change", all(), "delete", all()))
}

var tables, roles = []string{"own", "boat", "job", "crew"}, []string{"visitor", "c", "w", "m"}

func ids(pages []draft.Page) []string {
	out := []string{}
	for _, p := range pages {
		out = append(out, p.ID)
	}
	return out
}

// TestPagesAreProposedByTheRules holds what is proposed, and how the pages read that come of it.
func TestPagesAreProposedByTheRules(t *testing.T) {
	b := harbour(t)
	offered, err := draft.Pages(b, tables, roles)
	require.NoError(t, err)
	var out strings.Builder
	for _, p := range offered {
		fmt.Fprintf(&out, "%s: %s. %s\n", p.ID, p.Name, p.Text)
	}
	changes, gone, err := draft.Changes(b, tables, roles, ids(offered), counting("p"))
	require.NoError(t, err)
	assert.Empty(t, gone)
	b = apply(t, b, changes...)
	var walk func(lines []sentence.Line, indent string)
	walk = func(lines []sentence.Line, indent string) {
		for _, l := range lines {
			if l.Kind != sentence.Offer {
				out.WriteString(indent + l.Text() + "\n")
			}
			walk(l.Lines, indent+"  ")
		}
	}
	walk(sentence.Script(b, sentence.PagesStop, func(string) bool { return true }), "")
	golden.Check(t, "pages", out.String())
	for _, r := range []string{"c", "w", "m"} {
		assert.NotEmpty(t, b.Role(r).Homes, r)
	}
	again, err := draft.Pages(b, tables, roles)
	require.NoError(t, err)
	assert.Empty(t, again, "what there is is not proposed again")
}

// TestPagesAreTakenInParts takes each page alone, each left out, and each role alone: what
// comes of it is an app.
func TestPagesAreTakenInParts(t *testing.T) {
	b := harbour(t)
	offered, err := draft.Pages(b, tables, roles)
	require.NoError(t, err)
	every := ids(offered)
	try := func(take, roles []string) {
		t.Helper()
		changes, _, err := draft.Changes(b, tables, roles, take, counting("p"))
		require.NoError(t, err)
		next := apply(t, b, changes...)
		assert.Len(t, next.Pages, len(b.Pages)+len(take), take)
	}
	for i, id := range every {
		try([]string{id}, roles)
		try(slices.Delete(slices.Clone(every), i, i+1), roles)
	}
	for _, r := range roles {
		some, err := draft.Pages(b, tables, []string{r})
		require.NoError(t, err)
		try(ids(some), []string{r})
	}
	_, gone, err := draft.Changes(b, tables, roles, []string{"list.boat", "list.gone"}, counting("p"))
	require.NoError(t, err)
	assert.Equal(t, []string{"list.gone"}, gone)
}

// TestPagesShowNothingThatNobodySees holds that hidden fields and tables do not come onto pages.
func TestPagesShowNothingThatNobodySees(t *testing.T) {
	b := harbour(t)
	offered, err := draft.Pages(b, tables, []string{"c", "w", "visitor"})
	require.NoError(t, err)
	changes, _, err := draft.Changes(b, tables, []string{"c", "w", "visitor"}, ids(offered), counting("p"))
	require.NoError(t, err)
	next := apply(t, b, changes...)
	for _, p := range next.Pages {
		assert.False(t, p.Admits([]string{"m"}) && p.Audience == blueprint.SomeRole, p.Name)
		for x := range p.Blocks.All {
			if l, is := x.(*blueprint.RecordsBlock); is {
				assert.NotContains(t, slices.Concat(l.Columns, l.Filters, l.Totals), "job_3", p.Name)
				assert.NotEqual(t, "crew", l.Table)
			}
			if d, is := x.(*blueprint.DetailsBlock); is {
				assert.NotContains(t, d.Fields, "job_3")
			}
		}
	}
	nobody, err := draft.Pages(b, tables, []string{"visitor"})
	require.NoError(t, err)
	assert.Empty(t, nobody, "no rule lets visitors see anything")
	none, err := draft.Pages(b, nil, roles)
	require.NoError(t, err)
	assert.Empty(t, none)
}
