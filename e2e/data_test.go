package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/e2e/browser"
	"pinegate/store"
)

// empty signs in and makes an app without tables.
func (w *walk) empty() {
	w.t.Helper()
	w.must(w.Go("/"))
	w.press("Open the demo as Marta Alder")
	w.see("Workshop")
	w.press("Create an empty app")
	w.fill("Name", "Marina")
	w.pressIn("form", "Create app")
	w.see("No tables yet")
}

// cell gives a selector of a cell, by the number of its row and the name of its
// column.
func (w *walk) cell(row int, column string) string {
	w.t.Helper()
	selector := ""
	w.must(w.Until("see the column "+column,
		fmt.Sprintf(`[...document.querySelectorAll('[role=columnheader]')].some(h => h.innerText.trim() === %q)`, column)))
	at, err := browser.Eval[int](w.Person,
		fmt.Sprintf(`[...document.querySelectorAll('[role=columnheader]')].findIndex(h => h.innerText.trim() === %q)`, column))
	w.must(err)
	selector = fmt.Sprintf(`[role=row][aria-rowindex="%d"] > :nth-child(%d)`, row+1, at+1)
	return selector
}

func (w *walk) cellSays(row int, column, words string) {
	w.t.Helper()
	selector := w.cell(row, column)
	w.must(w.Until(fmt.Sprintf("read %q in %s", words, column),
		fmt.Sprintf(`(document.querySelector(%q) || {}).innerText === %q`, selector, words)))
}

func TestFounderBringsFilesWithTheirLinks(t *testing.T) {
	w := start(t)
	w.empty()
	w.press("Import files")
	w.must(w.Drop(map[string]string{"picture.csv": "\x00\x01\x02\x03"}))
	w.see("is neither a table of text nor a workbook", "Nothing was changed.")
	w.must(w.Drop(map[string]string{
		"visits.csv": "Boat,Day,Fee\nTern,2026-01-02,€ 12.50\nAuk,2026-02-03,€ 30.00\nTern,2026-02-04,€ 1.00\n",
		"boats.csv":  "Boat,Owner\nTern,Ines Calder\nAuk,Tomas Lind\nGull,Ruth Voss\n",
		"owners.csv": "Name;E-mail\nInes Calder;ines@sail.example\nTomas Lind;tomas@sail.example\nRuth Voss;ruth@sail.example\n",
	}))
	w.see("Visits in visits.csv: 3 rows", "Boat a link to Boats", "Boat → Boats: 3 links")
	w.press("Import 9 rows")
	w.see("Imported 9 rows.")
	w.press("Close")
	w.pressIn("h3", "Boats")
	w.cellSays(1, "Owner", "Ines Calder")
	w.cellSays(2, "Visits", "2026-02-03")
	w.press("Undo")
	w.see("No tables yet")
}

// TestFounderSaysWhatFilesDoNotTell answers what is asked of days and of decimals, sees what will be imported before it is, and
// finds just that.
func TestFounderSaysWhatFilesDoNotTell(t *testing.T) {
	w := start(t)
	w.empty()
	w.press("Import files")
	w.must(w.Drop(map[string]string{
		"clubs.csv": "Harbour clubs 2026,,,\n,,,\nClub,Founded,Fee,Contact\nGulls,03/04/1998,1.250,ada@gulls.example\n" +
			"Terns,05/06/2001,2.500,ines@terns.example\nAuks,11/12/2010,n/a,ruth@auks.example\nTotal,,3.750,\n",
		"members.csv": "Member no;Name;Club;Recruited by;Joined\nM-001;Ada Brandt;Gulls;;13/02/2020\nM-002;Ines Vane;Terns;Ada Brandt;05/02/2020\n" +
			"M-003;Hugh Sorrel;Puffins;Ines Vane;01/03/2020\nM-004;Mira Iversen;Auks;Ines Vane;31/02/2020\n",
	}))
	w.see("Row 1 is a title", "Row 7 is a total", "Which day is “03/04/1998”?", "How is “1.250” meant?")
	w.see("Members 3 records", "1 row to fix later", "Club → Clubs: 2 links, 1 stays empty (Puffins)")
	assert.Empty(t, serious(t, w))
	w.press("4 March 1998")
	w.press("1250")
	w.pressIn("[aria-label=Clubs]", "Show a sample")
	w.must(w.Until("see the days and fees as they will be", `(() => { const t = document.querySelector('[aria-label=Clubs] table').innerText;
		return t.includes('Mar 4, 1998') && t.includes('1250') && t.includes('03/04/1998'); })()`))
	w.must(w.Until("have it counted", `document.querySelector('[aria-label="What will be imported"]').getAttribute('aria-busy') === 'false'`))
	w.press("Import 7 rows")
	w.see("Imported 6 rows. 1 row to fix.")
	w.notSee("differently")
	w.press("Close")
	w.pressIn("h3", "Clubs")
	w.cellSays(1, "Founded", "Mar 4, 1998")
	w.cellSays(1, "Fee", "1,250")
	w.pressIn("h3", "Members")
	w.cellSays(2, "Club", "Terns")
	w.cellSays(2, "Recruited by", "Ada Brandt")
	w.cellSays(3, "Club", "")
}

func TestTotalsAndFormulasFollow(t *testing.T) {
	w := start(t)
	w.founder("Data")
	w.pressIn("h3", "Boats")
	w.see("60 records")
	w.press("Add a field")
	w.fill("Name", "Hours planned")
	w.choose("It holds", "Total over linked records")
	w.choose("Through the link", "Work orders")
	w.choose("What it shows", "Their sum")
	w.choose("The field", "Hours planned")
	w.save()
	w.see("Hours planned is the sum of Hours planned in Work orders.")
	w.press("Add a field")
	w.fill("Name", "Days planned")
	w.choose("It holds", "Formula")
	w.fill("Formula", "hours_planed / 8")
	w.see("There is no hours_planed in Boats. Did you mean hours_planned?")
	w.fill("Formula", "ROUND(hours_planned / 8, 1)")
	w.see("It gives a number.")
	w.save()
	w.see("Days planned is ROUND(Hours planned ÷ 8, 1).")
	// an order of the boat gets more hours
	b, err := browser.Eval[string](w.Person, `document.querySelector('[role=row][aria-rowindex="2"] > :nth-child(2)').innerText`)
	w.must(err)
	w.pressIn("h3", "Work orders")
	w.fill("Search Work orders", b+" (")
	w.must(w.Until("have found them", fmt.Sprintf(`document.querySelector('[role=row][aria-rowindex="2"]')?.innerText.includes(%q)`,
		b+" (")))
	w.must(w.PressAt(w.cell(1, "Hours planned")))
	w.must(w.Type("1000\r"))
	w.cellSays(1, "Hours planned", "1,000")
	w.pressIn("h3", "Boats")
	w.see("60 records")
	w.must(w.Until("see the total follow",
		fmt.Sprintf(`Number((document.querySelector(%q) || {innerText: '0'}).innerText.replace(/,/g, '')) > 900`,
			w.cell(1, "Hours planned"))))
	// renaming the field is followed by the formula and the total
	w.pressIn("h3", "Work orders")
	w.see("Each record’s label is Title.")
	w.line("ord_hours", "Hours planned")
	w.fill("Name", "Hours foreseen")
	w.save()
	w.see("Hours left is Hours foreseen − Hours worked.")
}

func TestFounderPastesAndFillsRanges(t *testing.T) {
	w := start(t)
	w.founder("Data")
	w.pressIn("h3", "Berths")
	w.see("Longest boat")
	first := w.cell(1, "Longest boat")
	w.must(w.PressAt(first))
	w.must(w.Paste("11\t100\n12\tmuch\n"))
	w.see("Nothing was changed: 1 cell doesn’t fit. Enter a number, such as 12.5.")
	w.must(w.Until("see it marked", `document.querySelectorAll('[data-wrong]').length === 1`))
	w.must(w.PressAt(first))
	w.must(w.Paste("11\t100\n12\t200\n"))
	w.cellSays(1, "Longest boat", "11 m")
	w.cellSays(2, "Yearly fee", "€200.00")
	w.must(w.PressAt(first))
	w.must(w.Chord(kb.ArrowDown, chromedp.ModifierShift), w.Chord(kb.ArrowDown, chromedp.ModifierShift),
		w.Chord("d", chromedp.ModifierCtrl))
	w.cellSays(3, "Longest boat", "11 m")
	w.must(w.Type("\x7f"))
	w.must(w.Until("be emptied", fmt.Sprintf(`document.querySelector(%q).innerText.trim() === ''`, first)))
	w.press("Undo")
	w.cellSays(1, "Longest boat", "11 m")
}

func TestBinAndHistoryGiveBack(t *testing.T) {
	w := start(t)
	w.founder("Data")
	w.pressIn("h3", "Owners")
	w.see("40 records")
	name := w.cell(1, "Name")
	w.must(w.PressAt(name), w.Type("Somebody Else\r"))
	w.cellSays(1, "Name", "Somebody Else")
	w.press("Open Somebody Else")
	w.press("History")
	w.see("Name: Ines Calder → Somebody Else", "Restore this version")
	w.press("Restore this version")
	w.see("Restored.")
	w.press("Close")
	w.cellSays(1, "Name", "Ines Calder")
	w.must(w.PressAt(`[role=grid] input[aria-label="Select Ines Calder"]`))
	w.press("Delete 1 record")
	w.pressIn("[role=dialog]", "Delete")
	w.see("39 records")
	w.press("Bin")
	w.see("Bin of Owners", "Ines Calder")
	w.press("Restore")
	w.see("The record and its links are restored.")
	w.must(w.Type("\x1b"))
	w.see("40 records")
	w.pressIn("h3", "Boats")
	w.must(w.Until("see a boat of hers", `[...document.querySelectorAll('[role=gridcell]')].some(c => c.innerText === 'Ines Calder')`))
}

func TestTwoPeopleOnOneRecord(t *testing.T) {
	w := start(t)
	w.founder("Data")
	w.pressIn("h3", "Owners")
	w.see("40 records")
	cell := w.cell(1, "Phone")
	w.must(w.PressAt(cell), w.Type("\r"))
	w.must(w.Until("be editing", `!!document.querySelector('#cell-own_phone')`))
	// somebody else is faster, and the news of it comes while one is still writing
	reads := `performance.getEntriesByType('resource').filter(r => /tables\/own\/records\?/.test(r.name)).length`
	before, err := browser.Eval[int](w.Person, reads)
	w.must(err)
	other := w.site.Founder(t)
	var grid struct {
		Rows []map[string]any
	}
	other.Read("/api/apps/"+w.site.App.ID+"/tables/own/records?search=Ines", &grid)
	other.Write("PATCH", fmt.Sprintf("/api/apps/%s/tables/own/records/%s", w.site.App.ID, grid.Rows[0]["id"]),
		map[string]any{"revision": grid.Rows[0]["revision"], "values": map[string]any{"own_phone": "111 111"}})
	w.must(w.Until("have read the record anew", fmt.Sprintf("%s > %d", reads, before)))
	w.must(w.Chord("a", chromedp.ModifierCtrl), w.Type("222 222\r"))
	w.see("Someone changed this record first", "111 111", "222 222")
	w.press("Use mine")
	w.cellSays(1, "Phone", "222 222")
	// and what others change is seen without asking
	other.Read("/api/apps/"+w.site.App.ID+"/tables/own/records?search=Ines", &grid)
	other.Write("PATCH", fmt.Sprintf("/api/apps/%s/tables/own/records/%s", w.site.App.ID, grid.Rows[0]["id"]),
		map[string]any{"revision": grid.Rows[0]["revision"], "values": map[string]any{"own_phone": "333 333"}})
	w.cellSays(1, "Phone", "333 333")
}

// TestBuiltAppsShowWhatOthersWrite leaves a page open while the yard changes
// what it shows.
func TestBuiltAppsShowWhatOthersWrite(t *testing.T) {
	w := start(t)
	w.must(w.Go("/a/alder-cove"))
	w.see("Crane out of use on Thursday")
	schema := "app_" + strings.ReplaceAll(w.site.App.ID, "-", "") + "_live"
	require.NoError(t, w.site.Store.DB.Exec(fmt.Sprintf(`UPDATE %q.notices SET title = 'Crane is back' WHERE title LIKE 'Crane%%'`,
		schema)).Error)
	require.Eventually(t, func() bool { // until the page listens
		told := w.site.Store.DB.Exec("SELECT pg_notify(?, ?)", store.RecordsChannel, schema+" news").Error
		seen, err := browser.Eval[bool](w.Person, `document.body.innerText.includes('Crane is back')`)
		return told == nil && err == nil && seen
	}, browser.Patience, 300*time.Millisecond)
}

func TestFounderMendsRowsThatWereKeptAside(t *testing.T) {
	w := start(t)
	w.empty()
	w.press("Import files")
	w.must(w.Drop(map[string]string{"moorings.csv": "Mooring,Depth\nN1,2.5\nN2,3\nN3,deep\nN4,4\nN5,2\nN6,3\nN7,1.5\nN8,2\nN9,3\nN10,4\nN11,2.5\nN12,3\nN13,2\nN14,3\nN15,4\nN16,2\nN17,3\nN18,2\nN19,2.5\nN20,1\nN21,2\n"}))
	w.press("Import 21 rows")
	w.see("Imported 20 rows. 1 row to fix.")
	w.press("Close")
	w.press("1 row to fix")
	w.see("Depth: “deep” is not a number.")
	w.press("Try again")
	w.see("No row fits yet.")
	w.fill("Depth of row 4", "3.75")
	w.press("Try again")
	w.see("No rows to fix")
	w.press("Close")
	w.see("21 records")
	w.press("Undo")
	w.see("20 records")
}
