package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/e2e/browser"
)

// TestAFormAsksByWhatIsAnswered asks for work on an engine, which is asked about more, and on
// the rigging, which is not; on a wide screen and on a phone.
func TestAFormAsksByWhatIsAnswered(t *testing.T) {
	for _, width := range []int64{1280, 390} {
		t.Run(fmt.Sprint(width), func(t *testing.T) {
			w := signedIn(t, "ines.calder@sailmail.example", width, 844)
			w.app("/ask-for-work")
			w.see("Kind of work")
			assert.NotContains(t, w.shown(), "Make and model of the engine")
			w.press("Engine")
			w.see("Make and model of the engine", "As the hour meter says")
			w.fill("Hours it has run", "-5")
			w.fill("Title", "New impeller")
			w.see("The hour meter begins at nought.")
			assert.Empty(t, serious(t, w))
			w.fill("Hours it has run", "120")
			w.notSee("The hour meter begins at nought.")
			w.choose("Boat", "Sandpiper (AC 1200)")
			w.press("Send the request")
			w.see("Fill in Make and model of the engine.")
			focused, err := browser.Eval[string](w.Person, "document.activeElement.id")
			w.must(err)
			assert.Contains(t, focused, "req_engine", "the first that is wrong has the focus")

			w.fill("Make and model of the engine", "Kestrel 20")
			w.app("/ask-for-work") // somebody loads the page again in the middle
			w.see("What you answered before is still here.")
			w.must(w.Until("have the answers", `field('Make and model of the engine')?.value === 'Kestrel 20' && field('Title').value === 'New impeller'`))
			w.press("Rigging")
			w.notSee("Make and model of the engine")
			w.press("Send the request")
			w.see("Thank you. We have your request")
			w.app("/ask-for-work")
			w.must(w.Until("be asked from the beginning", `field('Title')?.value === ''`))
			var kept []struct {
				Engine *string
				Run    *string
			}
			require.NoError(t, w.site.Store.DB.Raw(fmt.Sprintf(`SELECT engine, run::text AS run FROM "app_%s_live".work_requests
				WHERE title = 'New impeller'`, strings.ReplaceAll(w.site.App.ID, "-", ""))).Scan(&kept).Error)
			require.Len(t, kept, 1)
			assert.Nil(t, kept[0].Engine, "what is hidden is not saved")
			assert.Nil(t, kept[0].Run)
		})
	}
}

// page has the founder open a page of the demo.
func (w *walk) page(id string) {
	w.t.Helper()
	w.founder("Pages")
	w.see("Click a block")
	address, err := w.Path()
	w.must(err)
	w.must(w.Go(strings.SplitN(address, "?", 2)[0] + "?open=" + id))
}

// TestFounderMakesAFormAsk says in sentences when a question is shown and what must hold, sees it
// at once, and finds the question's sentence by a click on it.
func TestFounderMakesAFormAsk(t *testing.T) {
	w := start(t)
	w.must(w.Size(1400, 900))
	w.page("p_ask")
	w.see("Kind of work", "What should be done")
	w.line("p_ask_c_q6", "and…")
	w.press("Help")
	w.must(w.Until("see the field", `field('Help')`))
	w.fill("Help", "A word is enough")
	w.save()
	w.see("A word is enough", "with help")
	w.line("p_ask_c_q8", "and…")
	w.press("Shown only when")
	w.press("Add a comparison")
	w.choose("Field", "Kind of work")
	w.choose("Value", "Rigging")
	w.save()
	w.see("It is shown only when", "Kind of work is “Rigging”")
	w.stageLacks("Wanted by")
	w.press("Rigging")
	w.see("Wanted by (optional)")
}

// TestAButtonOpensAForm adds a part to a work order by keys alone, on a phone: the form stands in a
// dialog, closing it loses nothing, and the list follows.
func TestAButtonOpensAForm(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 390, 844)
	order := read[string](w, "SELECT id FROM live.work_orders ORDER BY id LIMIT 1")
	parts := func() int { return w.number("SELECT count(*) FROM live.parts_used WHERE part = 'Stern gland'") }
	w.app("/order/" + order)
	w.see("Add a part")
	w.focus(".form-opener button")
	w.must(w.Type("\r"))
	w.must(w.Until("be in the dialog", `document.activeElement.closest('[role=dialog]')`))
	w.must(w.Until("fit the width", `document.documentElement.scrollWidth <= innerWidth`))
	assert.Empty(t, serious(t, w))
	w.fill("Part", "Stern gland")
	w.press("Add it")
	w.see("Fill in Quantity.")
	w.must(w.Until("be at the question", `document.activeElement === field('Quantity')`))
	w.must(w.Type("\x1b"))
	w.must(w.Until("close the dialog", `!document.querySelector('[role=dialog]')`))
	assert.Zero(t, parts())
	w.press("Add a part")
	w.must(w.Until("find the part again", `field('Part').value === 'Stern gland'`))
	w.fill("Quantity", "2")
	w.must(w.Type("\r"))
	w.see("Stern gland is added.")
	w.must(w.Until("see it in the list", `[...document.querySelectorAll('td, dd, li')].some(x => x.innerText.includes('Stern gland'))`))
	assert.Equal(t, 1, parts())
}

// TestAnswersOutliveTrouble sends a form while the network is away, and after the session has ended in
// the middle: nothing that was answered is lost, and it is sent once.
func TestAnswersOutliveTrouble(t *testing.T) {
	w := signedIn(t, "ines.calder@sailmail.example", 1280, 900)
	sent := func() int {
		return w.number("SELECT count(*) FROM live.work_requests WHERE title = 'Mend the lifeline'")
	}
	w.app("/ask-for-work")
	w.fill("Title", "Mend the lifeline")
	w.choose("Boat", "Sandpiper (AC 1200)")
	w.press("Rigging")
	w.must(w.Offline(true))
	w.fill("What should be done", "It chafes at the stanchion.")
	w.press("Send the request")
	w.see("We can’t reach the server.")
	assert.Zero(t, sent())
	w.must(w.Offline(false))
	require.NoError(t, w.site.Store.DB.Exec("UPDATE sessions SET expires_at = now() - interval '1 hour' WHERE app_id IS NOT NULL").Error)
	w.press("Send the request")
	w.see("Sign in to see this page.")
	assert.Zero(t, sent())
	last := int64(w.number("SELECT max(id) FROM mails"))
	w.app("/~/sign-in")
	w.fill("Your email", "ines.calder@sailmail.example")
	w.press("Send code")
	w.fill("Code from the email", w.site.Code(t, "ines.calder@sailmail.example", last))
	w.pressIn("main", "Sign in")
	w.see("Sign out")
	w.app("/ask-for-work")
	w.see("What you answered before is still here.")
	w.must(w.Until("find all answers", `field('Title').value === 'Mend the lifeline' &&
		field('What should be done').value === 'It chafes at the stanchion.'`))
	w.press("Send the request")
	w.see("Thank you. We have your request")
	assert.Equal(t, 1, sent())
	w.app("/ask-for-work")
	w.must(w.Until("be asked from the beginning", `field('Title')?.value === ''`))
}
