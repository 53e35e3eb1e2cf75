package e2e
import "testing"
func TestLook(t *testing.T) {
	w := start(t)
	w.founder("Data")
	w.pressIn("h3", "Boats")
	w.press("Add a field")
	w.fill("Name", "Berth holder")
	w.choose("It holds", "a link")
	w.must(w.Shot("/tmp/look/addfield.png"))
	w.must(w.Type("\x1b"))
	w.press("Add a record")
	w.see("Add a record to Boats")
	w.must(w.Shot("/tmp/look/addrecord.png"))
	w.must(w.Type("\x1b"))
	w.pressIn("nav[aria-label=Trail]", "People")
	w.pressIn("h3", "Boat owners")
	w.line("r_own_req", "those where the Owner is the signed-in person and")
	w.see("boat.owner = me")
	w.must(w.Shot("/tmp/look/condition.png"))
}
