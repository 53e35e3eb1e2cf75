package e2e

import "testing"

func TestWhatMustHoldStopsAPublish(t *testing.T) {
	w := start(t)
	w.founder("People")
	w.see("Expectations", "Visitors must never see Owners. Met.",
		"Boat owners must never see Boats, except where Owner is the signed-in person. Met.")
	w.pressIn("h3", "Boat owners")
	w.see("They must never see Boats, except where")
	w.press("Add an expectation")
	w.choose("They must never", "delete")
	w.choose("Records in", "Haul-outs")
	w.save()
	w.see("Boat owners must never delete Haul-outs. Met.")
	w.must(w.Until("see all three met", `document.body.innerText.split('Met.').length === 4`))
	w.pressIn(`[data-line="r_own.boat"]`, "see")
	w.choose("Records they can see", "all")
	w.save()
	w.see("Not met:", " more in Boats.")
	w.pressIn("nav[aria-label=Trail]", "Publish")
	w.see("Boat owners must never see Boats, except where", "Fix this before you publish.")
	w.must(w.Until("not be able to publish",
		`[...document.querySelectorAll('#stage button')].find(b => b.innerText === 'Publish').disabled`))
	w.press("Undo")
	w.see("Undone")
	w.must(w.Until("be able to publish", `![...document.querySelectorAll('#stage button')].find(b => b.innerText === 'Publish').disabled`))
	w.pressIn("#stage", "Publish")
	w.see("Version 2 is live.")
}

func TestWhoSeesARecordAndWhatSomebodySees(t *testing.T) {
	w := start(t)
	w.founder("Data")
	w.pressIn("h3", "Boats")
	w.see("60 records")
	w.must(w.PressAt(`[aria-label="Open Sandpiper (AC 1200)"][title="Open the record"]`))
	w.press("Who can see it")
	w.see("Boat owners 1 of 40 can see it.",
		"Their rule: they can see records where Owner is the signed-in person. Here, Owner is Ines Calder.",
		"Crew all can see it", "Visitors can’t see it: no rule covers this table.")
	w.press("Close")
	w.seenAs("Ines Calder")
	w.pressIn("nav[aria-label=Trail]", "People")
	w.see("Boats: 2 of 60", "Work orders: 0 of 400")
}
