package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/store/apps"
)

// overnight has the clocks of workflows be looked at as after a day without a server.
func (w *walk) overnight() {
	w.t.Helper()
	since := time.Now().Add(-24 * time.Hour)
	require.NoError(w.t, w.site.Store.DB.Exec("UPDATE flow_clocks SET seen_at = ?, next_at = ?", since, since).Error)
	require.NoError(w.t, w.site.Config.Runs.Tick(w.t.Context(), time.Now()))
}

// write changes records of the live app as they are, whoever may.
func (w *walk) write(sql string, args ...any) {
	w.t.Helper()
	w.number(fmt.Sprintf("WITH done AS (%s RETURNING 1) SELECT count(*) FROM done", fmt.Sprintf(sql, args...)))
}

// TestOwnersAreRemindedOnce lets it be eight o'clock while no server was on: each owner with overdue invoices gets one
// mail, and the founder reads what became of them.
func TestOwnersAreRemindedOnce(t *testing.T) {
	w := start(t)
	w.write("UPDATE live.invoices SET status = 'is_paid' WHERE status = 'is_sent'")
	w.write(`UPDATE live.invoices SET status = 'is_sent', due = current_date - 7 WHERE id IN (SELECT id FROM live.invoices WHERE owner IN
		(SELECT id FROM live.owners WHERE email IN ('ines.calder@sailmail.example', 'tomas.lindqvist@sailmail.example')) ORDER BY id)`)
	require.Greater(t, w.number("SELECT count(*) FROM live.invoices WHERE status = 'is_sent'"), 2)
	w.overnight()
	w.overnight() // as by another server
	w.mail("ines.calder@sailmail.example", "A reminder from Alder Cove")
	w.mail("tomas.lindqvist@sailmail.example", "A reminder from Alder Cove")
	w.founder("Watch")
	w.see("The last seven days", "Remind about overdue invoices", "1 done", "2 sent")
	assert.Empty(t, serious(t, w))
	w.press("Emails of workflows")
	w.see("A reminder from Alder Cove Boatyard", "to ines.calder@sailmail.example", "to tomas.lindqvist@sailmail.example", "Sent")
	assert.Equal(t, 2, w.number("SELECT count(*) FROM letters WHERE subject LIKE 'A reminder%'"))
	w.pressIn("#script", "Remind about overdue invoices")
	w.pressIn("#stage", "Remind about overdue invoices")
	w.see("the clock", "Round 2", "these invoices were due a week ago")
}

// TestAReminderFollowsItsDate plans a haul-out for which it is time, and moves it: the reminder goes out on the other
// day; for one that is cancelled none does. Then the founder asks why.
func TestAReminderFollowsItsDate(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 844)
	b, err := w.site.Apps.Blueprint(t.Context(), w.site.App, apps.Live)
	require.NoError(t, err)
	now := time.Now().In(b.Location())
	soon := now.AddDate(0, 0, 3) // of which one is reminded since nine o'clock
	if now.Hour() < 9 {
		soon = now.AddDate(0, 0, 2)
	}
	hauls := strings.Fields(read[string](w, "SELECT string_agg(id::text, ' ') FROM (SELECT id FROM live.haul_outs ORDER BY id LIMIT 3) x"))
	w.write("UPDATE live.haul_outs SET done = id NOT IN ('%s', '%s', '%s')", hauls[0], hauls[1], hauls[2])
	w.write("UPDATE live.haul_outs SET day = '%s' WHERE NOT done", soon.Format(time.DateOnly))
	w.app("/haul-out/" + hauls[0])
	w.must(w.PressAt(`[aria-label^="Change Day"]`))
	later := now.AddDate(0, 0, 20)
	w.date("Day", later.Format("01022006"))
	w.must(w.Type("\r"))
	w.must(w.Until("have it moved", `!!document.querySelector('[aria-label^="Change Day"]')`))
	assert.Equal(t, 1, w.number(fmt.Sprintf("SELECT count(*) FROM live.haul_outs WHERE id = '%s' AND day = '%s'", hauls[0], later.Format(time.DateOnly))))
	w.app("/haul-out/" + hauls[1])
	w.must(w.PressAt(`[aria-label^="Change Done"]`))
	w.choose("Done", "Yes")
	w.press("Save")
	w.must(w.Until("have it done", `!!document.querySelector('[aria-label="Change Done: Yes"]')`))
	w.overnight()
	owner := read[string](w, fmt.Sprintf(`SELECT o.email FROM live.haul_outs h JOIN live.boats b ON b.id = h.boat JOIN live.owners o
		ON o.id = b.owner WHERE h.id = '%s'`, hauls[2]))
	w.mail(owner, " on ")
	assert.Equal(t, 1, w.number("SELECT count(*) FROM letters WHERE workflow = 'w_haul'"))

	w = w.another()
	w.founder("Watch")
	w.see("Remind about haul-outs", "1 done")
	w.pressIn("nav[aria-label=Trail]", "Workflows")
	w.press("Why?")
	w.choose("In table", "Haul-outs")
	w.choose("Where", "in the live app")
	boat := read[string](w, fmt.Sprintf("SELECT b.name FROM live.haul_outs h JOIN live.boats b ON b.id = h.boat WHERE h.id = '%s'", hauls[1]))
	w.fill("Record", boat)
	w.pressIn("[data-records]", boat)
	w.see("Remind about haul-outs", "It does not start now: its condition is not true.", "Done is yes.")
	assert.Empty(t, serious(t, w))
}

// pass lets time pass for runs that wait.
func (w *walk) pass(d time.Duration) {
	w.t.Helper()
	require.NoError(w.t, w.site.Store.DB.Exec(`UPDATE runs SET wake_at = wake_at - ?::interval, state = jsonb_set(state, '{state,since}',
		to_jsonb((state->'state'->>'since')::timestamptz - ?::interval)) WHERE status = 'waiting'`, d.String(), d.String()).Error)
	require.NoError(w.t, w.site.Config.Runs.Tick(w.t.Context(), time.Now()))
}

// TestADecisionIsWaitedFor asks for a decision, is reminded of it after two days and again, and decides: then the run is over.
func TestADecisionIsWaitedFor(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 844)
	crew := w.beside(w.crew())
	order := read[string](w, "SELECT id::text FROM live.work_orders WHERE status = 'os_in_the_yard' ORDER BY id LIMIT 1")
	crew.app("/order/" + order)
	crew.press("Ask for a decision")
	crew.fill("What is in the way", "The keel bolts are gone")
	crew.must(crew.PressAt(".form-dialog [type=submit]"))
	crew.see("The managers are told: The keel bolts are gone.")
	w.mail("jonas@aldercove.example", "a decision is needed")
	w.pass(49 * time.Hour)
	w.mail("jonas@aldercove.example", "still waiting for a decision (1 of 3)")
	w.pass(49 * time.Hour)
	w.mail("jonas@aldercove.example", "still waiting for a decision (2 of 3)")

	founder := w.another()
	founder.founder("Watch")
	founder.see("1 waiting", "Ask for a decision")
	founder.pressIn("#stage", "Ask for a decision")
	founder.see("waits until", "Waiting", "End it")

	w.app("/order/" + order)
	w.must(w.PressAt(`[aria-label^="Change Status"]`))
	w.choose("Status", "In the yard")
	w.must(w.Until("have it decided", `!!document.querySelector('[aria-label="Change Status: In the yard"]')`))
	founder.press("All runs")
	founder.press("Check again")
	founder.must(founder.Until("see that it is over", `document.querySelector("#stage").innerText.includes("Done")`))
	assert.Equal(t, 0, w.number("SELECT count(*) FROM letters WHERE subject LIKE '%(3 of 3)'"))
}

// TestAFailedRunIsMended reads why a run failed, at its step and with its values, mends the workflow and tries the run again.
func TestAFailedRunIsMended(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 844)
	w.live(map[string]any{"kind": "add", "what": "step", "into": "w_done", "id": "w_done_x", "values": map[string]any{"kind": "add",
		"table": "onote", "values": []map[string]string{{"field": "onote_text", "value": `IF(hours > 100000, "Done", "")`},
			{"field": "onote_order", "value": "this"}}}})
	order := read[string](w, "SELECT id::text FROM live.work_orders WHERE status = 'os_in_the_yard' ORDER BY id LIMIT 1")
	w.app("/order/" + order)
	w.press("Mark as done")
	w.see("This did not work, and nothing was changed.")
	assert.Equal(t, 1, w.number("SELECT count(*) FROM live.work_orders WHERE status = 'os_in_the_yard' AND id = '"+order+"'"))

	founder := w.another()
	founder.founder("Watch")
	founder.see("1 failed run", "Mark as done")
	founder.pressIn("#stage", "Mark as done")
	founder.see("Failed", "stopped here", "Note in Order notes: Fill in Note.")

	founder.pressIn("nav[aria-label=Trail]", "Workflows")
	founder.press("Mark as done")
	founder.action("w_done_x", "Add to Order notes", "Remove")
	founder.pressIn("[role=dialog]", "Remove")
	founder.must(founder.Until("have it removed", `!document.querySelector('[data-line="w_done_x"]')`))
	founder.pressIn("nav[aria-label=Trail]", "Publish")
	founder.see("What changes in the live app")
	founder.must(founder.PressAt("#stage .btn-main"))
	founder.see("Version 3 is live.")
	founder.pressIn("nav[aria-label=Trail]", "Watch")
	founder.pressIn("#stage", "Mark as done")
	founder.press("Try again")
	founder.must(founder.Until("see that it is done", `/Done, set off by Jonas Alder/.test(document.querySelector("#stage").innerText)`))
	assert.Equal(t, 1, w.number("SELECT count(*) FROM live.work_orders WHERE status = 'os_done' AND id = '"+order+"'"))
}
