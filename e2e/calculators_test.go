package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// slid moves the first slider of a page to a number.
func (w *walk) slid(to string) {
	w.t.Helper()
	w.must(w.Until("move the slider", `(() => { const i = documents().map(d => d.querySelector('input[type=range]')).find(Boolean);
		if (!i) return false;
		Object.getOwnPropertyDescriptor(Object.getPrototypeOf(i), 'value').set.call(i, "`+to+`");
		i.dispatchEvent(new i.ownerDocument.defaultView.Event('input', { bubbles: true })); return true; })()`))
}

// result waits until a result is as it is to be.
func (w *walk) result(name, is string) {
	w.t.Helper()
	w.must(w.Until(name+" to be "+is, `[...document.querySelectorAll('.result')].some(r =>
		r.querySelector('.result-name').textContent === "`+name+`" && r.querySelector('.result-value').textContent === "`+is+`")`))
}

// TestAVisitorAsksForWinterStorage calculates what it costs, reads how, and sends it with who they are.
func TestAVisitorAsksForWinterStorage(t *testing.T) {
	w := start(t)
	w.must(w.Size(1280, 1000))
	w.app("/winter-storage")
	w.result("In all", "€846.00")
	w.slid("15")
	w.result("In all", "€1,410.00")
	w.see("Longer than our lift")
	w.press("In the shed")
	w.result("Her place", "€1,710.00")
	w.press("How it is calculated")
	w.see("Length of the boat × Price per metre of Where she stands × Months", "15 m × 19 × 6 = €1,710.00")
	assert.Empty(t, serious(t, w))
	w.slid("10")
	w.result("In all", "€1,420.00")
	w.press("Next")
	w.see("10 m for 6 months: 1,420.00 euros in all.")
	w.fill("Your name", "Ada Brandt")
	w.fill("Your email", "ada@brandt.example")
	w.press("Ask for this place")
	w.see("We keep a place for her")
	assert.Equal(t, "Winter storage, 10 m: A boat of 10 m for 6 months: 1,420.00 euros, as calculated. (Ada Brandt)",
		read[string](w, `SELECT subject || ': ' || message || ' (' || o.name || ')' FROM live.enquiries e JOIN live.owners o ON o.id = e.owner
			WHERE o.email = 'ada@brandt.example'`))
}

// TestATrailerIsTooHeavy says so, and what it needs until it can.
func TestATrailerIsTooHeavy(t *testing.T) {
	w := start(t)
	w.app("/trailer-load")
	w.see("It needs Weight of the boat.")
	w.fill("Weight of the boat", "1200")
	w.result("On the slip", "1,550 kg")
	w.see("Light")
	w.fill("Weight of the boat", "2600")
	w.result("On the slip", "2,950 kg")
	w.see("Not on our slip")
	w.fill("Weight of the boat", "abc")
	w.result("On the slip", "–")
	w.see("It needs Weight of the boat.")
	w.notSee("Not on our slip")
}

// TestAManagerComparesSolarPanels keeps a scenario, changes what is answered, and goes back to it.
func TestAManagerComparesSolarPanels(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 1000)
	w.app("/solar-panels")
	w.result("Paid back after", "7.1 years")
	w.press("Keep as a scenario")
	w.see("Scenario 1")
	w.fill("Cost of panels and fitting", "90000")
	w.result("Paid back after", "20.6 years")
	w.see("It pays, late")
	w.must(w.Until("have two lines", `document.querySelectorAll('.chart-legend button').length === 2`))
	w.must(w.Until("see both beside each other", `[...document.querySelectorAll('.compared tbody tr')].some(r =>
		r.innerText.replace(/\s+/g, ' ').includes('Cost of panels and fitting €90,000 €31,000'))`))
	assert.Empty(t, serious(t, w))
	w.pressIn(".chart", "Table")
	w.see("Scenario 1")
	w.press("Use the answers of Scenario 1")
	w.result("Paid back after", "7.1 years")
	w.press("Remove Scenario 1")
	w.notSee("Scenario 1")
}

// TestFounderMakesACalculator puts one on a page, and calculates with it at once.
func TestFounderMakesACalculator(t *testing.T) {
	w := start(t)
	w.page("p_due")
	w.press("Add a block")
	w.choose("Kind", "A calculator")
	w.save()
	w.see("A calculator asks and calculates what follows.")
	question := func(name string) {
		w.press("Add a question or words")
		w.choose("Kind", "A question that is not kept")
		w.must(w.Until("be asked for its name", `!!field("It holds")`))
		w.fill("Name", name)
		w.choose("It holds", "a number")
		w.save()
		w.see(name + ", a number")
	}
	question("Hours")
	question("Rate")
	w.press("Add a question or words")
	w.choose("Kind", "A result")
	w.must(w.Until("be asked for its formula", `!!field("It is")`))
	w.fill("Name", "Wage")
	w.fill("It is", "answers.hours * answers.rate")
	w.save()
	w.see("Wage is Hours × Rate.")
	w.must(w.Until("see it", `documents().slice(1).some(d => d.querySelector('.result'))`))
}
