package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/e2e/browser"
)

// TestABoardOnAPhone carries a card with a finger to the edge, where the board moves on to the
// next column, and moves it on by keys. What another moves comes by itself.
func TestABoardOnAPhone(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 390, 844)
	w.pressIn(".bottom-bar", "Work orders")
	moved := w.first("Planned")
	w.must(w.Carry(card("Planned"), ".board-held", 384, 500, "come to the next column",
		fmt.Sprintf("document.querySelector(%q).matches('.board-over')", column("In the yard"))))
	w.has("In the yard", moved)
	w.hears("is moved to In the yard.")

	other := w.beside(w.crew())
	other.must(other.Size(390, 844))
	other.app("/orders")
	next := w.first("Planned")
	w.focus(card("Planned"))
	w.must(w.Chord(kb.ArrowRight, chromedp.ModifierAlt))
	other.has("In the yard", next)
}

// TestFiltersOnAPhone narrows a list, goes into a record and comes back to it narrowed.
func TestFiltersOnAPhone(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 390, 844)
	w.pressIn(".bottom-bar", "More")
	w.pressIn(".bottom-rest", "Invoices")
	w.see("Draft")
	w.press("Status")
	w.press("Sent")
	w.must(w.Until("say so", `location.search.includes('is.inv_status=is_sent')`), w.Type("\x1b"))
	w.notSee("Draft 13")
	fits, err := browser.Eval[bool](w.Person, `document.documentElement.scrollWidth <= innerWidth`)
	require.NoError(t, err)
	assert.True(t, fits)
	w.app("/owners")
	w.see("Customer since")
	w.must(w.PressAt(".row-link"), w.Until("open an owner", `location.pathname.includes('/owner/') || location.search.includes('open=owner')`))
	_, err = browser.Eval[bool](w.Person, `(history.back(), true)`)
	w.must(err, w.Until("come back", `location.pathname.endsWith('/owners') && !location.search.includes('open=')`))
}

// TestACalendarOnAPhone moves an entry by keys, and adds one on a day.
func TestACalendarOnAPhone(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 390, 844)
	w.live(map[string]any{"kind": "set", "of": "p_hauls_b", "values": map[string]any{"filters": nil}})
	w.app("/haul-outs?p_hauls_b.span=week&p_hauls_b.day=2026-05-13")
	w.see("11 May 2026 – 17 May 2026")
	day := func(n int) string { return fmt.Sprintf(`section[aria-label="%d May 2026"]`, n) }
	w.must(w.PressAt(day(12) + " a.calendar-add"))
	w.must(w.Until("see the form", `field('Day')?.value === '2026-05-12'`))
	w.choose("Kind", "Launch")
	w.choose("Boat", "Sandpiper (AC 1200)")
	w.press("Plan it")
	w.see("It is planned.")
	w.app("/haul-outs?p_hauls_b.span=week&p_hauls_b.day=2026-05-13")
	entry := day(12) + " li.calendar-entry"
	w.must(w.Until("see it there", fmt.Sprintf("all(%q)[0]", entry)))
	w.focus(entry)
	w.must(w.Chord(kb.ArrowRight, chromedp.ModifierAlt))
	w.hears("is moved to 13 May 2026.")
	w.must(w.PressAt(day(13)+" li.calendar-entry a"), w.Until("open it over the page", `document.querySelector('[role=dialog]')`))
	assert.Empty(t, serious(t, w))
	w.must(w.Type(kb.Escape), w.Until("close it", `!document.querySelector('[role=dialog]')`))
}

// TestTheMenuOnAPhoneCanBeADrawer changes it, and goes through it by keys.
func TestTheMenuOnAPhoneCanBeADrawer(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 390, 844)
	w.live(map[string]any{"kind": "set", "of": "app", "values": map[string]any{"look.phone": nil, "look.menu": "side"}})
	w.app("/welcome")
	w.see("Menu")
	assert.NotContains(t, w.shown(), "Work orders")
	w.press("Menu")
	w.see("Work orders", "Office")
	assert.Empty(t, serious(t, w))
	w.press("Haul-outs")
	w.must(w.Until("be there, with the menu shut", `location.pathname.endsWith('/haul-outs') && !texts()[0].includes('Log hours')`))
}

// shown gives the words of the page.
func (w *walk) shown() string {
	w.t.Helper()
	text, err := browser.Eval[string](w.Person, "document.body.innerText")
	w.must(err)
	return text
}
