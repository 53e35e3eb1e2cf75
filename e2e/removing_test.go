package e2e

import (
	"fmt"
	"testing"
)

func TestFounderIsToldWhatARemovalDoes(t *testing.T) {
	w := start(t)
	w.founder("Data")
	w.pressIn("h3", "Boats")
	w.see("60 records")
	w.line("boat_registration", "text")
	w.choose("It holds", "Number")
	w.pressIn(".pop", "Save")
	w.see("60 values don’t convert", "“AC 1200”")
	w.press("Cancel")
	w.press("Cancel")
	w.action("boat_owner", "Owner", "Remove")
	w.see("Remove Owner?", "60 records have values in it", "The condition by which Boat owners can see Boats",
		"Boat owners can’t see Boats until you say which")
	w.press("Cancel")
	w.action("boat_owner", "Owner", "Remove")
	w.press("Remove and change these")
	w.must(w.Until("see it go", `!document.querySelector('[data-line="boat_owner"]')`))
	w.pressIn("nav[aria-label=Trail]", "Pages")
	w.pressIn("h3", "My boats")
	w.must(w.Until("see the list taken off", `!document.querySelector('[data-line="p_boats_c"]')`))
	w.press("Undo")
	w.must(w.Until("see the list again", `!!document.querySelector('[data-line="p_boats_c"]')`))
}

// drag takes the handle of a line to the upper or lower half of another.
func (w *walk) drag(from, to string, below bool) {
	w.t.Helper()
	w.must(w.Until("drag "+from, fmt.Sprintf(`(() => {
		const line = id => document.querySelector('[data-line="' + id + '"]');
		const from = line(%q)?.querySelector('[data-handle]'), to = line(%q);
		if (!from || !to) return false;
		const dataTransfer = new DataTransfer(), box = to.getBoundingClientRect();
		const at = {dataTransfer, bubbles: true, cancelable: true, clientX: box.left + 20, clientY: box.top + (%t ? box.height - 2 : 2)};
		from.dispatchEvent(new DragEvent('dragstart', at));
		to.dispatchEvent(new DragEvent('dragover', at));
		to.dispatchEvent(new DragEvent('drop', at));
		return true;
	})()`, from, to, below)))
}

func TestChoicesAreDraggedAndGivenPictures(t *testing.T) {
	w := start(t)
	w.founder("Data")
	w.pressIn("h3", "Order states")
	w.drag("os_done", "os_planned", false)
	w.must(w.Until("see Done first",
		`[...document.querySelectorAll('[data-line^="os_"]')].map(e => e.dataset.line).filter(id => /_(done|planned)$/.test(id))[0] === 'os_done'`))
	w.press("Undo")
	w.must(w.Until("see Done last",
		`[...document.querySelectorAll('[data-line^="os_"]')].map(e => e.dataset.line).filter(id => /_(done|planned)$/.test(id))[0] === 'os_planned'`))
	w.press("Add a column for all choices")
	w.fill("Name, such as Day rate", "Sign")
	w.choose("It holds", "Picture")
	w.save()
	w.line("os_done", "and… more about Done")
	w.pressIn(".pop", "Sign")
	w.must(w.Drop(map[string]string{"done.png": photo(t)}))
	w.must(w.Until("see the picture", `!!document.querySelector('.pop img')`))
	w.save()
	w.line("os_done", "a picture")
	w.press("Cancel")
	w.pressIn("h3", "Work orders")
	w.must(w.Until("see it in the grid", `[...document.querySelectorAll('[role=gridcell] img')].some(i => i.naturalWidth > 0)`))
}
