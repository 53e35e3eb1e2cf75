package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// TestAnOwnerIsWelcomed finds the list that was begun when the owner was added, ticks it off, takes a new step over, and
// begins it again while the first one stays.
func TestAnOwnerIsWelcomed(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 1000)
	w.write(`INSERT INTO live.owners (id, name, email, created_by, changed_by) VALUES (gen_random_uuid(), 'Ada Brandt', 'ada@brandt.example', 'x', 'x')`)
	owner := read[string](w, `SELECT id FROM live.owners WHERE name = 'Ada Brandt'`)
	w.app("/owner/" + owner)
	w.see("Welcome Ada Brandt", "Begin the checklist to see its steps here.")
	w.press("Begin the checklist")
	w.see("0 of 5 done", "Copy of the insurance")
	w.press("Keys to the pontoon")
	w.see("1 of 5 done", "Jonas Alder, ")
	w.press("A round of the yard")
	w.see("2 of 5 done")
	w.press("A round of the yard")
	w.see("1 of 5 done")
	assert.Empty(t, serious(t, w))

	w.write(`INSERT INTO live.welcome_steps (id, step, after, place, created_by, changed_by)
		VALUES (gen_random_uuid(), 'A mooring line as a gift', 2, 6, 'x', 'x')`)
	w.app("/owner/" + owner)
	w.see("1 of 5 done", "Add 1 new step")
	w.press("Add 1 new step")
	w.see("1 of 6 done", "A mooring line as a gift")
	w.press("Begin again")
	w.see("0 of 6 done", "List 1: 1 of 6 done")
	assert.Equal(t, 12, w.number(`SELECT count(*) FROM live.welcome_lists l JOIN live.owners o ON o.id = l.owner
		WHERE o.name = 'Ada Brandt'`))
}

// TestFounderMakesAChecklist puts one on a page about a boat: tables for it are made with it.
func TestFounderMakesAChecklist(t *testing.T) {
	w := start(t)
	w.page("p_boat")
	w.press("Add a block")
	w.choose("Kind", "A checklist")
	w.must(w.Until("be offered tables that are made for it", `field("Things to do are in")?.selectedOptions[0].text === "Checklists of Boats"`))
	w.save()
	w.see("A checklist of Checklists of Boats is made from Steps for Boats")
	w.see("25 tables")
}

// TestCrewMeasureTheirHours starts a timer on an order for two kinds of work, leaves and comes back, is asked about
// one that was forgotten, and finds what was worked among the hours of the order.
func TestCrewMeasureTheirHours(t *testing.T) {
	w := start(t)
	email := w.crew()
	c := w.beside(email)
	order := read[string](w, "SELECT id FROM live.work_orders WHERE status = 'os_in_the_yard' AND deleted_at IS NULL ORDER BY id LIMIT 1")
	c.app("/order/" + order)
	c.see("In the workshop")
	c.press("Start On the boat")
	c.see("Running since")
	w.write(`UPDATE live.time_entries SET started = started - interval '90 minutes' WHERE stopped IS NULL AND NOT paused`)
	c.press("Start In the workshop")
	c.see("Go on", "1:30:")
	assert.Empty(t, serious(t, c))
	w.write(`UPDATE live.time_entries SET started = started - interval '11 hours' WHERE stopped IS NULL AND NOT paused`)

	// they leave, and come back another day
	c.app("/welcome")
	c.see("Sign out")
	c.app("/order/" + order)
	c.see("Did you forget to stop it?", "1:30:")
	at := time.Now().Add(-10 * time.Hour)
	c.must(c.Until("fill in when", fmt.Sprintf(`(() => { const i = document.querySelector('input[type=datetime-local]');
		if (!i) return false;
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(i, %q);
		i.dispatchEvent(new Event('input', { bubbles: true })); return true; })()`, at.Format("2006-01-02T15:04"))))
	c.press("End it then")
	c.notSee("Did you forget")
	c.press("Stop")
	c.notSee("Go on")
	assert.Equal(t, "In the workshop 1, On the boat 1.50",
		read[string](w, `SELECT string_agg(CASE kind WHEN 'tk_on_the_boat' THEN 'On the boat ' || round(hours, 2)
			ELSE 'In the workshop ' || round(hours) END, ', ' ORDER BY kind)
			FROM live.time_entries WHERE stopped IS NOT NULL AND NOT paused`))
}
