package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestFounderTriesAService reads where services are set up what one answers, by its sample and for real, and takes a
// value from that by a click.
func TestFounderTriesAService(t *testing.T) {
	w := start(t)
	w.founder("Workflows")
	w.pressIn("#stage", "Services")
	w.see("Harbour office", "A secret is kept for this address")
	w.pressIn("#stage", "Parts for sale")
	w.press("Try with the sample")
	w.see("It answered in", "AN-12")
	w.fill("Search", "impeller")
	w.press("Really ask")
	w.see("GET /parts?search=impeller", "IM-03, taken")
	assert.Empty(t, serious(t, w))
	w.press("Keep it as the sample")
	w.must(w.Until("keep it", `!document.body.innerText.includes("Keep it as the sample")`))
	w.pressIn("#stage", "Order of a part")
	w.press("Really send it")
	w.see("Harbour office answered with an error (422).")
	w.press("Try with the sample")
	w.pressIn("#stage", "AN-12")
	w.see("AN-12, taken")
}

// TestCrewOrderPartsAgain presses a button that asks a service for each part of an order: what it answers comes back as
// notes, while one looks.
func TestCrewOrderPartsAgain(t *testing.T) {
	w := start(t)
	w.byCode(w.crew())
	w.see("Sign out")
	order := read[string](w, `SELECT p."order"::text FROM live.parts_used p WHERE p.part = 'Impeller' ORDER BY p.id LIMIT 1`)
	w.app("/order/" + order)
	w.press("Order the parts again")
	w.see("The harbour office is asked for", "Ordered Impeller: H-")
	w.app("/haul-outs")
	w.see("Tides today", "As of")
	assert.Empty(t, serious(t, w))
}

// TestFounderKeepsARehearsal keeps a rehearsal as an expectation, and is told that it does not hold any more.
func TestFounderKeepsARehearsal(t *testing.T) {
	w := start(t)
	w.founder("Workflows")
	w.press("Book in what the crane announces")
	w.see("Where calls come in", "There is no address yet.")
	w.press("Make one")
	w.see("/in/", "None is kept yet, so that every call is refused.")
	w.must(w.PressAt("#stage .btn-main"))
	w.see("It comes to its end.", "added Haul out: Sandpiper")
	w.press("Keep it as an expectation")
	w.see("It is rehearsed again with the same record before each publish.")
	w.fill("Name, such as “Managers are told”", "The crane is heard")
	assert.Empty(t, serious(t, w))
	w.press("Keep it")
	w.see("Expected of it", "The crane is heard")
}
