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

// TestFounderMakesAFormAsk says in sentences when a question is shown and what must hold, sees it
// at once, and finds the question's sentence by a click on it.
func TestFounderMakesAFormAsk(t *testing.T) {
	w := start(t)
	w.must(w.Size(1400, 900))
	w.founder("Pages")
	w.see("Click a block")
	address, err := w.Path()
	w.must(err)
	w.must(w.Go(strings.SplitN(address, "?", 2)[0] + "?open=p_ask"))
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
