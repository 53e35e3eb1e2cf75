package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"

	"pinegate/e2e/browser"
)

// TestAVisitorFindsABerth says on one page how long a boat is, is shown the berths that take
// it on another, and has it forgotten again; on a wide screen and on a phone.
func TestAVisitorFindsABerth(t *testing.T) {
	for _, width := range []int64{1280, 390} {
		t.Run(fmt.Sprint(width), func(t *testing.T) {
			w := start(t)
			w.must(w.Size(width, 800))
			w.app("/welcome")
			w.see("Is there a berth for your boat?")
			w.fill("Length of your boat in metres", "15.5")
			w.press("Show the berths")
			w.see("Our berths", "Narrowed by")
			w.must(w.Until("be at the top", "scrollY === 0"))
			berths := "all('.record').length"
			few, err := browser.Eval[int](w.Person, berths)
			w.must(err)
			w.app("/welcome")
			w.must(w.Until("be asked with what is kept", "field('Length of your boat in metres')?.value.startsWith('15')"))
			w.app("/berths")
			w.must(w.Until("be narrowed still", fmt.Sprintf("%s === %d", berths, few)))
			w.must(w.PressAt(`[aria-label="Forget Length of your boat in metres"]`))
			w.must(w.Until("see all", fmt.Sprintf("%s > %d && !texts()[0].includes('Narrowed by')", berths, few)))
			assert.Empty(t, serious(t, w))
		})
	}
}

// TestButtonsComeInTheRowThatIsPointedAt points at rows by mouse, with a finger, and by keys.
func TestButtonsComeInTheRowThatIsPointedAt(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 800)
	w.app("/new-requests")
	w.see("New requests")
	row := func(n int) string { return fmt.Sprintf(".record-list > li:nth-child(%d)", n) }
	has := func(n int, buttons int) {
		t.Helper()
		w.must(w.Until(fmt.Sprintf("have %d buttons in row %d", buttons, n),
			fmt.Sprintf("document.querySelectorAll(%q).length === %d", row(n)+" .part .button", buttons)))
	}
	w.must(w.Point(row(1), false))
	has(1, 2)
	has(2, 0)
	w.must(w.Point(row(2), false))
	has(2, 2)
	has(1, 0)
	w.must(w.Point(row(2)+" .part .button", false))
	hint := "getComputedStyle(document.querySelector(%q)).visibility === 'visible'"
	w.must(w.Until("see its hint", fmt.Sprintf(hint, row(2)+" .part .button-hint")))
	w.must(w.Point("h1", false))
	has(2, 0)

	w.focus(row(3) + " a")
	has(3, 2)
	w.must(w.Type(kb.Tab))
	w.must(w.Until("come to the button", "document.activeElement.textContent === 'Answer'"))
	w.must(w.Type(kb.Tab+kb.Tab), w.Until("go on", "!document.activeElement.closest('.part')"))
	has(3, 0)

	w.must(w.Size(390, 800), w.Point(row(2)+" a", true))
	has(2, 2)
	path, err := w.Path()
	w.must(err)
	assert.Contains(t, path, "/new-requests", "the first touch opens nothing")
	w.must(w.Point(row(1)+" p", true))
	has(1, 2)
	has(2, 0)
	w.must(w.PressAt(row(1) + " .part .button"))
	w.see("asks for")
	w.choose("Status", "Accepted")
	w.press("Send the answer")
	w.see("The owner sees your answer.")
}

// TestRowsUnfold unfolds an owner to their boats and invoices, and keeps the rows.
func TestRowsUnfold(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 900)
	w.app("/owners")
	w.see("Customer since")
	w.must(w.PressAt("tbody tr:nth-child(2) .row-unfold"))
	w.see("Boats", "Invoices")
	assert.Empty(t, serious(t, w))
	w.must(w.PressAt(".records-unfolded .record-title"), w.Until("open a boat at the side", "document.querySelector('.beside-panel')"))
	w.must(w.Type("\x1b"), w.Until("come back", "!document.querySelector('.beside-panel') && document.querySelector('.records-unfolded')"))
	w.must(w.PressAt("tbody tr:nth-child(2) .row-unfold"), w.Until("fold", "!document.querySelector('.records-unfolded')"))
}

// TestTheFounderChangesAPartOnce changes the words of a button in a part: all rows follow. On
// the stage a block is made narrower by keys, and all is given up.
func TestTheFounderChangesAPartOnce(t *testing.T) {
	w := start(t)
	w.must(w.Size(1400, 900))
	w.founder("pages")
	w.see("Buttons of a request")
	w.press("Buttons of a request")
	w.see("When it is left, Here becomes nothing, after 250 milliseconds.")
	stage := "document.querySelector('iframe').contentDocument"
	w.must(w.Until("see the stage", stage+"?.querySelector('.stage-block h1')"))
	_, err := browser.Eval[bool](w.Person, "("+stage+".querySelectorAll('.stage-block')[5].focus(), true)")
	w.must(err)
	w.must(w.Chord(kb.ArrowLeft, chromedp.ModifierAlt))
	narrow := stage + "?.querySelector('[data-width=\"two thirds\"]')"
	w.must(w.Until("be narrower", narrow))
	w.press("Discard")
	w.see("Discard your changes?")
	w.pressIn("[role=dialog]", "Discard")
	w.must(w.Until("be as before", stage+" && !"+narrow))
}
