package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/store/apps"
)

// TestCrewAsksForADecision presses a button that asks first: it is there only while that makes sense, and
// what came of it is said, on a wide screen and on a phone.
func TestCrewAsksForADecision(t *testing.T) {
	for _, width := range []int64{1280, 390} {
		t.Run(fmt.Sprint(width), func(t *testing.T) {
			w := start(t)
			w.must(w.Size(width, 844))
			w.byCode(w.crew())
			w.must(w.Until("be signed in", `!location.pathname.includes("sign-in")`))
			order := read[string](w, "SELECT id::text FROM live.work_orders WHERE status = 'os_in_the_yard' ORDER BY id LIMIT 1")
			w.app("/order/" + order)
			w.see("Mark as done", "Ask for a decision")
			w.notSee("Raise the invoice")
			w.press("Ask for a decision")
			w.see("What is in the way")
			assert.Empty(t, serious(t, w))
			w.must(w.Until("fit the width", `document.documentElement.scrollWidth <= innerWidth`))
			w.fill("What is in the way", "")
			w.must(w.PressAt(".form-dialog [type=submit]"))
			w.see("Fill in What is in the way.")
			w.fill("What is in the way", "The keel bolts are gone")
			w.must(w.PressAt(".form-dialog [type=submit]"))
			w.see("The managers are told: The keel bolts are gone.")
			w.must(w.Until("see the button go", `!document.body.innerText.includes("Ask for a decision")`))
			w.see("The keel bolts are gone", "Waiting for parts")
			if n := w.number("SELECT count(*) FROM live.order_notes"); n != 1 {
				t.Fatalf("there are %d notes", n)
			}
		})
	}
}

// TestManagerRaisesAnInvoice raises the invoice of an order at one press, and reads why it cannot be.
func TestManagerRaisesAnInvoice(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 844)
	order := read[string](w, `SELECT w.id::text FROM live.work_orders w WHERE status = 'os_done'
		AND EXISTS (SELECT FROM live.parts_used p WHERE p."order" = w.id) ORDER BY id LIMIT 1`)
	bare := read[string](w, "SELECT id::text FROM live.work_orders WHERE status = 'os_in_the_yard' ORDER BY id LIMIT 1")
	for _, of := range []string{"parts_used", "time_entries"} { // it has neither from now on
		w.number(fmt.Sprintf(`WITH gone AS (UPDATE live.%s SET deleted_at = now() WHERE "order" = '%s' RETURNING 1) SELECT count(*) FROM gone`,
			of, bare))
	}
	invoices := w.number("SELECT count(*) FROM live.invoices")
	w.app("/order/" + order)
	w.press("Raise the invoice")
	w.see("Invoice A-", "is on its way.")
	if n := w.number("SELECT count(*) FROM live.invoices"); n != invoices+1 {
		t.Fatalf("there are %d invoices, and were %d", n, invoices)
	}
	w.app("/order/" + bare)
	w.press("Mark as done")
	w.see("is done. Well done!")
	w.press("Raise the invoice")
	w.see("There are no parts and no hours on this order yet. Nothing was changed.")
}

// TestAnAcceptedRequestHasItsSteps makes an order of a request, with the three steps that are usual for such work, and
// ticks one off.
func TestAnAcceptedRequestHasItsSteps(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 844)
	request := read[string](w, "SELECT id::text FROM live.work_requests WHERE status = 'rs_new' AND kind = 'wk_engine' ORDER BY id LIMIT 1")
	w.app("/answer/" + request)
	w.press("Accept it as an order")
	w.see("Look at the engine and write down its hours", "Do the work on the engine", "Run it for half an hour")
	w.must(w.PressAt(`[aria-label^="Change Done"]`))
	w.choose("Done", "Yes")
	w.press("Save")
	w.must(w.Until("have it ticked off", `!!document.querySelector('[aria-label="Change Done: Yes"]')`))
	assert.Equal(t, 3, w.number("SELECT count(*) FROM live.order_steps"))
}

// TestAReaderUnsubscribes opens the link at the end of the newsletter, leaves and comes back: on a phone.
func TestAReaderUnsubscribes(t *testing.T) {
	w := start(t)
	w.must(w.Size(390, 844))
	b, err := w.site.Apps.Blueprint(t.Context(), w.site.App, apps.Live)
	require.NoError(t, err)
	seat := apps.FounderSeat(w.site.App, apps.Live, b, "test")
	require.NoError(t, w.site.Config.Acts.Do(t.Context(), func(u *act.Unit) error {
		_, err := u.Road.Add(t.Context(), seat, b.Table("news"), acttest.Values(t, map[string]any{"news_title": "Winter hours"}), nil)
		return err
	}))
	reader := read[string](w, "SELECT email FROM live.owners WHERE news ORDER BY id LIMIT 1")
	m := w.mail(reader, "Winter hours")
	w.must(w.Go(strings.TrimSpace(w.link(m))))
	w.see("Unsubscribe?", "“Yard news” emails go to "+reader)
	assert.Empty(t, serious(t, w))
	w.pressIn("form", "Unsubscribe")
	w.see("You are unsubscribed")
	assert.Equal(t, 1, w.number("SELECT count(*) FROM unsubscribed"))
	w.press("Subscribe again")
	w.see("Unsubscribe?")
	assert.Equal(t, 0, w.number("SELECT count(*) FROM unsubscribed"))
}

// TestFounderRehearsesAWorkflow adds a workflow in sentences, rehearses it, and walks it back and forth; then
// reads what a run did.
func TestFounderRehearsesAWorkflow(t *testing.T) {
	w := start(t)
	w.founder("Workflows")
	w.see("Add a workflow")
	w.press("Raise the invoice")
	w.see("Rehearse “Raise the invoice”")
	w.pressIn("[data-records]", "Replace impeller")
	w.must(w.PressAt("#stage .btn-main"))
	w.see("It comes to its end.", "1 of 9", "not yet made")
	assert.Empty(t, serious(t, w))
	w.must(w.Until("be after the first step", `document.querySelector("[data-walk]").innerText.includes("480")`))
	w.press("Before the step")
	w.see("Before this step", "Nothing is written so far.")
	w.press("After the step")
	for range 3 {
		w.press("Forward")
	}
	w.see("4 of 9", "A-10480")
	w.press("Back")
	w.see("3 of 9", "COUNT(the used parts)")
	w.pressIn("[aria-label=Steps]", "Invoice {{made.new_invoice.number}}")
	w.see("8 of 9", "Dear")

	w.press("Add a workflow")
	w.see("What starts it")
	w.choose("What starts it", "A record is added")
	w.fill("Name, such as Remind about haul-outs", "Greet new owners")
	w.choose("Records in", "Owners")
	w.save()
	w.see("Rehearse “Greet new owners”")
	w.press("Add a step")
	w.choose("Kind", "Show a message")
	w.must(w.Until("see the text", `!!field("Show")`))
	w.fill("Show", "Welcome, {{name}}")
	w.save()
	w.see("Show “Welcome, {{name}}”")
}
