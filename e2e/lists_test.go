package e2e

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/e2e/browser"
)

// signedIn starts with somebody signed in to the demo, in a window of a size.
func signedIn(t *testing.T, email string, width, height int64) *walk {
	t.Helper()
	w := start(t)
	w.must(w.Size(width, height))
	w.byCode(email)
	w.see("Sign out")
	return w
}

// beside gives another person in front of the same server.
func (w *walk) beside(email string) *walk {
	w.t.Helper()
	other := w.another()
	other.byCode(email)
	other.must(other.Until("be in", `!location.pathname.includes('sign-in')`))
	return other
}

// another gives somebody else in front of the same server.
func (w *walk) another() *walk {
	w.t.Helper()
	b, err := chromium()
	require.NoError(w.t, err)
	p, err := b.Person(w.site.URL)
	require.NoError(w.t, err)
	w.t.Cleanup(p.Close)
	return &walk{p, w.t, w.site}
}

// crew gives the address of one of the crew who is no manager.
func (w *walk) crew() (email string) {
	w.t.Helper()
	require.NoError(w.t, w.site.Store.DB.Raw(fmt.Sprintf(`SELECT email FROM "app_%s_live".crew WHERE active AND NOT manager ORDER BY id LIMIT 1`,
		strings.ReplaceAll(w.site.App.ID, "-", ""))).Scan(&email).Error)
	return email
}

// column finds a column of a board, card its first card.
func column(name string) string { return fmt.Sprintf(`section.board-column[aria-label=%q]`, name) }
func card(name string) string   { return column(name) + ` li.board-card` }

// first gives what the first card of a column says.
func (w *walk) first(name string) string {
	w.t.Helper()
	w.must(w.Until("see a card", fmt.Sprintf("all(%q)[0]", card(name))))
	text, err := browser.Eval[string](w.Person, fmt.Sprintf("all(%q)[0].innerText", card(name)))
	w.must(err)
	return text
}

// has waits until a column has a card that says so.
func (w *walk) has(name, text string) {
	w.t.Helper()
	w.must(w.Until("see the card in "+name, fmt.Sprintf("all(%q).some(c => c.innerText === %q)", card(name), text)))
}

// live changes the blueprint and publishes it.
func (w *walk) live(changes ...map[string]any) {
	w.t.Helper()
	f, at := w.site.Founder(w.t), "/api/apps/"+w.site.App.ID
	if len(changes) > 0 {
		f.Write(http.MethodPost, at+"/changes", map[string]any{"changes": changes})
	}
	var app struct{ Revision, LiveVersion int }
	f.Read(at, &app)
	f.Write(http.MethodPost, at+"/publish",
		map[string]any{"revision": app.Revision, "liveVersion": app.LiveVersion, "accept": true, "bringRecords": false})
}

// date types a date, month first, into the field with the label.
func (w *walk) date(label, digits string) {
	w.t.Helper()
	w.must(w.Until("see "+label, fmt.Sprintf("field(%q)?.type === 'date'", label)))
	_, err := browser.Eval[bool](w.Person, fmt.Sprintf("(field(%q).blur(), field(%q).focus(), true)", label, label))
	w.must(err, w.Type(digits))
}

// focus gives the focus to what a selector finds.
func (w *walk) focus(selector string) {
	w.t.Helper()
	_, err := browser.Eval[bool](w.Person, fmt.Sprintf("(all(%q)[0].focus(), true)", selector))
	w.must(err)
}

// hears waits until something is told to those who hear the page.
func (w *walk) hears(words string) {
	w.t.Helper()
	w.must(w.Until("hear "+words, fmt.Sprintf(`[...document.querySelectorAll('[aria-live]')].some(x => x.textContent.includes(%q))`, words)))
}

// TestCrewMovesCards moves cards by mouse, finger and keys, while another looks on; and one
// that they may not move.
func TestCrewMovesCards(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 900)
	other := w.beside(w.crew())
	other.must(other.Size(1280, 900))
	for _, x := range []*walk{w, other} {
		x.app("/orders")
		x.see("In the yard")
	}
	drag := func(from, to string, finger bool) string {
		moved := w.first(from)
		w.must(w.Drag(card(from), column(to), ".board-held", ".board-over", finger))
		w.has(to, moved)
		return moved
	}
	other.has("In the yard", drag("Planned", "In the yard", false))
	other.has("Waiting for parts", drag("In the yard", "Waiting for parts", true))

	moved := w.first("Planned")
	w.focus(card("Planned"))
	w.must(w.Chord(kb.ArrowRight, chromedp.ModifierAlt))
	w.has("In the yard", moved)
	w.hears("is moved to In the yard.")
	w.must(w.Chord(kb.ArrowRight, chromedp.ModifierAlt)) // it has kept the focus
	w.has("Waiting for parts", moved)
	other.has("Waiting for parts", moved)

	w.live(map[string]any{"kind": "set", "of": "r_man.ord", "values": map[string]any{"change": map[string]any{"extent": "where",
		"condition": `status = "Planned"`}}}, map[string]any{"kind": "set", "of": "r_crew.ord", "values": map[string]any{"change": map[string]any{
		"extent": "none"}}})
	moved = w.first("Done")
	w.must(w.Drag(card("Done"), column("Planned"), ".board-held", ".board-over", false))
	w.see("went back.")
	w.has("Done", moved)
}

// TestFiltersStandInTheAddress narrows a list, and comes back to it.
func TestFiltersStandInTheAddress(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 900)
	w.app("/invoices")
	w.see("Draft")
	w.press("Status")
	w.press("Sent")
	w.must(w.Until("be narrowed", `!texts()[0].includes('Draft 13')`),
		w.Until("say so", `location.search.includes('is.inv_status=is_sent')`))
	w.must(w.Type("\x1b"))
	w.press("Due on")
	w.date("From", "12012026")
	w.must(w.Type("\r"), w.Until("say so", `decodeURIComponent(location.search).includes('is.inv_due=2026-12-01..')`))
	address, err := w.Path()
	w.must(err)
	w.must(w.Go(address))
	w.see("Sent", "from 1 Dec 2026")
	w.press("Number")
	w.must(w.Until("be sorted", `decodeURIComponent(location.search).includes('by=inv_number')`))
	_, err = browser.Eval[bool](w.Person, `(history.back(), true)`)
	w.must(err, w.Until("be back", `!location.search.includes('by=')`))
	w.see("from 1 Dec 2026")
	w.press("Show all")
	w.see("Draft")
	w.must(w.Go("/a/alder-cove/invoices?p_invoices_b.is.inv_total=x&p_invoices_b.as=wheel"))
	w.see("The address asks for a filter that isn’t offered here.", "Draft")
}

// TestHaulOutsAreMovedOnTheCalendar moves one to another day by mouse and by keys, adds one
// on a day, and opens one beside the calendar.
func TestHaulOutsAreMovedOnTheCalendar(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 1000)
	w.live(map[string]any{"kind": "set", "of": "p_hauls_b", "values": map[string]any{"filters": nil}})
	w.app("/haul-outs?p_hauls_b.span=week&p_hauls_b.day=2026-05-13")
	w.see("11 May 2026 – 17 May 2026")
	day := func(n int) string { return fmt.Sprintf(`section[aria-label="%d May 2026"]`, n) }
	w.must(w.PressAt(day(12) + " a.calendar-add"))
	w.see("Plan a haul-out or a launch")
	w.must(w.Until("see the form", `field('Day')`))
	filled, err := browser.Eval[string](w.Person, `field('Day').value`)
	w.must(err)
	assert.Equal(t, "2026-05-12", filled)
	w.choose("Kind", "Launch")
	w.choose("Boat", "Sandpiper (AC 1200)")
	w.press("Plan it")
	w.see("It is planned.")
	w.app("/haul-outs?p_hauls_b.span=week&p_hauls_b.day=2026-05-13")
	entry := func(n int) string { return day(n) + " li.calendar-entry" }
	has := func(n int) { w.t.Helper(); w.must(w.Until("see it there", fmt.Sprintf("all(%q)[0]", entry(n)))) }
	has(12)
	w.must(w.Drag(entry(12), day(13), ".calendar-held", ".calendar-over", false))
	has(13)
	w.focus(entry(13))
	w.must(w.Chord(kb.ArrowLeft, chromedp.ModifierAlt))
	has(12)
	w.hears("is moved to 12 May 2026.")
	w.must(w.Until("keep the focus", fmt.Sprintf("document.activeElement === all(%q)[0]", entry(12))))
	w.must(w.Chord(kb.ArrowUp, chromedp.ModifierAlt), w.Until("be gone a week back", fmt.Sprintf("!all(%q)[0]", entry(12))),
		w.Until("have it saved", `document.querySelector('.calendar').getAttribute('aria-busy') === 'false'`))
	w.app("/haul-outs?p_hauls_b.span=week&p_hauls_b.day=2026-05-05")
	w.see("4 May 2026 – 10 May 2026")
	has(5)
	w.must(w.PressAt(entry(5) + " a"))
	w.see("Whole page", "Launch on 5 May 2026")
	address, err := w.Path()
	w.must(err)
	assert.Contains(t, address, "open=haul-out", "the address says what is open")
	w.must(w.Type(kb.Escape), w.Until("close it", `!document.querySelector('[role=dialog]')`))
}

// TestADateIsChangedWhereItStands changes a value in a table, on a phone as well.
func TestADateIsChangedWhereItStands(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 390, 844)
	w.app("/orders?p_orders_b.as=table&p_orders_b.find=halyards")
	w.see("New halyards")
	w.must(w.PressAt("[aria-label^='Change Due on']"))
	w.date("Due on", "03042027")
	w.press("Save")
	w.must(w.Until("have it saved", `!document.querySelector('.cell-editor')`))
	w.app("/orders?p_orders_b.as=table&p_orders_b.find=halyards&p_orders_b.by=-ord_due")
	w.see("4 Mar 2027")
}

// TestFounderMakesAPortalFromFiles brings three linked files, gives three roles what is
// proposed for them, and has the pages made: nothing is typed but names.
func TestFounderMakesAPortalFromFiles(t *testing.T) {
	w := start(t)
	w.empty()
	w.press("Import files")
	w.must(w.Drop(map[string]string{
		"orders.csv": "Title,Boat,Status,Due on\nNew jib,Tern,Open,2026-12-02\nMend the mast,Auk,Done,2026-11-03\nScrub,Tern,Open,2026-12-04\nPaint,Gull,Under way,2026-12-24\nSails,Auk,Open,2026-12-12\n",
		"boats.csv":  "Boat,Owner\nTern,Ines Calder\nAuk,Tomas Lind\nGull,Ruth Voss\n",
		"owners.csv": "Name;E-mail\nInes Calder;ines@sail.example\nTomas Lind;tomas@sail.example\nRuth Voss;ruth@sail.example\n",
	}))
	w.see("Boat a link to Boats")
	w.press("Import 11 rows")
	w.see("Imported 11 rows.")
	w.press("Close")
	w.pressIn("nav[aria-label=Trail]", "People")
	for _, role := range []string{"Customers", "Friends"} {
		w.press("Add a role")
		w.fill("What its people are called", role)
		w.choose("Their records are in", "Owners")
		w.save()
		w.see("Rules for "+role, "their own record in Owners")
		w.pressIn("[role=dialog]", "Add ")
		w.must(w.Until("have the rules", `!document.querySelector('[role=dialog]')`))
	}
	w.pressIn("nav[aria-label=Trail]", "Pages")
	w.press("Make pages from tables")
	w.see("My boats", "My orders", "Lists Orders as")
	w.pressIn("[role=dialog]", "Make ")
	w.see("Undo takes all of it back.", "Home of friends")
	w.seenAs("Ines Calder")
	w.see("Welcome, Ines Calder", "New jib", "Tern")
	w.stageLacks("Auk")
	w.press("Undo")
	w.notSee("Home of friends")
}
