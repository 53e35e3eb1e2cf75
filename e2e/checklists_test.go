package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestAnOwnerIsWelcomed finds the list that was begun when the owner was added, ticks it off, takes a new step over, and
// begins it again while the first one stays.
func TestAnOwnerIsWelcomed(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 1000)
	w.write(`INSERT INTO live.owners (id, name, email, created_by, changed_by) VALUES (gen_random_uuid(), 'Ada Brandt', 'ada@brandt.example', 'x', 'x')`)
	owner := read[string](w, `SELECT id FROM live.owners WHERE name = 'Ada Brandt'`)
	w.app("/owner/" + owner)
	w.see("Welcome Ada Brandt", "Begin it, and its steps stand here.")
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
	w.must(w.Until("be offered tables that are made for it", `field("What is to be done stands in")?.selectedOptions[0].text === "Checklists of Boats"`))
	w.save()
	w.see("A checklist of Checklists of Boats is made from Steps for Boats")
	w.see("24 tables")
}
