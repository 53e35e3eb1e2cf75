package e2e

import "testing"

func TestWhatMustHoldStopsAPublish(t *testing.T) {
	w := start(t)
	w.founder("People")
	w.see("What must hold", "Visitors see no Owners. It holds.", "Boat owners see no Boats but those where the Owner is the signed-in person. It holds.")
	w.pressIn("h3", "Boat owners")
	w.see("It must hold that they see no Boats")
	w.press("Write down what must hold")
	w.choose("Of the table", "Haul-outs")
	w.choose("They may see", "only those where")
	w.save()
	w.see("Boat owners see no Haul-outs but those where")
	w.must(w.Until("see all three hold", `document.body.innerText.split('It holds.').length === 4`))
	w.pressIn(`[data-line="r_own_boat"]`, "those where the Owner is the signed-in person")
	w.choose("Which records", "all")
	w.save()
	w.see("It does not hold", " more of Boats.")
	w.pressIn("nav[aria-label=Trail]", "Publish")
	w.see("It must hold that Boat owners see no Boats", "Put this right before you publish.")
	w.must(w.Until("not be able to publish", `[...document.querySelectorAll('#stage button')].find(b => b.innerText === 'Publish').disabled`))
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
	w.press("Who sees it")
	w.see("Boat owners see it: 1 of 40.", "Their rule: they see those where the Owner is the signed-in person. Here the Owner is Ines Calder.",
		"Crew all see it", "Visitors do not see it: no rule shows them any record of this table.")
	w.press("Close")
	w.seenAs("Ines Calder")
	w.pressIn("nav[aria-label=Trail]", "People")
	w.see("Boats: 2 of 60", "Work orders: none of 400")
}
