package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// firstGroup waits until the first group of the grid says the words.
func (w *walk) firstGroup(words string) {
	w.t.Helper()
	w.must(w.Until("see the group "+words,
		`(document.querySelector('[data-group]') || {innerText: ''}).innerText.includes(`+"`"+words+"`"+`)`))
}

func TestViewsAreKeptGroupedAndFollowNames(t *testing.T) {
	w := start(t)
	w.founder("Data")
	w.pressIn("h3", "Work orders")
	w.see("400 records")
	w.press("Order")
	w.choose("Group by", "Status")
	w.choose("Sort by", "Price")
	w.choose("Direction", "largest first")
	w.press("Order")
	w.firstGroup("Planned")
	w.firstGroup("records")
	w.press("Filter")
	w.press("Write as an expression")
	w.fill("Condition", "hours > 4")
	w.see("It gives yes or no") // what is said below the condition moves the button
	w.pressIn(".pop form", "Filter")
	w.see("Filtered")
	w.press("Views")
	w.fill("Name of the view", "Long jobs")
	w.press("Save view")
	w.see("Long jobs")
	w.must(w.Type(kb.Escape))

	// somebody else does not have it until it is shared
	other, err := w.site.Accounts.AddBuilder(t.Context(), "second@aldercove.example", "Second", "barnacle-and-orchard")
	require.NoError(t, err)
	mine, err := w.site.Apps.Views(t.Context(), w.site.App, "ord", other.ID)
	require.NoError(t, err)
	require.Empty(t, mine)
	w.press("Long jobs")
	w.press("Share “Long jobs”")
	w.see("shared")
	mine, err = w.site.Apps.Views(t.Context(), w.site.App, "ord", other.ID)
	require.NoError(t, err)
	require.Len(t, mine, 1)
	w.must(w.Type(kb.Escape))

	// a field that the view filters by gets another name, and the view follows
	w.line("ord_hours", "Hours planned")
	w.fill("Name", "Expected effort")
	w.save()
	w.must(w.Go("/"))
	w.press("Alder Cove Boatyard")
	w.pressIn("h3", "Work orders")
	w.see("Long jobs", "Filtered")
	w.firstGroup("Planned")
	mine, err = w.site.Apps.Views(t.Context(), w.site.App, "ord", other.ID)
	require.NoError(t, err)
	require.Equal(t, "expected_effort > 4", mine[0].Settings.Filter)

	// what is tried out does not change the view until it is saved
	w.press("Order")
	w.choose("Group by", "nothing")
	w.press("Order")
	w.see("Long jobs (changed)")
	w.must(w.Until("see no groups", `!document.querySelector('[data-group]')`))
	w.press("Long jobs (changed)")
	w.press("Discard changes")
	w.must(w.Type(kb.Escape))
	w.firstGroup("Planned")

	// sorted by a column of the choice list
	w.press("Long jobs")
	w.pressIn(".pop", "All Work orders")
	w.must(w.Type(kb.Escape))
	w.press("Order")
	w.choose("Sort by", "Colour in Status")
	w.press("Order")
	w.cellSays(1, "Status", "In the yard")
}

func TestTheMapLeadsToTables(t *testing.T) {
	w := start(t)
	w.founder("Data")
	w.press("Map")
	w.see("Map of the tables")
	w.must(w.Until("see all tables and links",
		`document.querySelectorAll('.map-box').length === 23 && document.querySelectorAll('[data-way]').length > 12`))
	w.must(w.PressAt(`[aria-label="Show Estimate lines"]`))
	w.must(w.Until("see its records", `document.querySelector('h2').innerText === 'Estimate lines'`))
}
