package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/e2e/browser"
)

// number reads a number from the live records of the demo.
func (w *walk) number(sql string) int { return read[int](w, sql) }

// read reads a value from the live records of the demo.
func read[T any](w *walk, sql string) (v T) {
	w.t.Helper()
	schema := fmt.Sprintf(`"app_%s_live".`, strings.ReplaceAll(w.site.App.ID, "-", ""))
	require.NoError(w.t, w.site.Store.DB.Raw(strings.ReplaceAll(sql, "live.", schema)).Scan(&v).Error)
	return v
}

// TestOwnerLooksOverHerDetails goes through a form in steps, forth and back, looks all answers over
// and changes herself and her boat, and adds a policy with its file: on a wide screen and on a phone.
func TestOwnerLooksOverHerDetails(t *testing.T) {
	for _, width := range []int64{1280, 390} {
		t.Run(fmt.Sprint(width), func(t *testing.T) {
			w := signedIn(t, "ines.calder@sailmail.example", width, 844)
			w.app("/my-boats")
			w.press("Sandpiper")
			w.press("Look over her details")
			w.see("You", "Phone")
			w.must(w.Until("fit the width", `document.documentElement.scrollWidth <= innerWidth`))
			w.fill("Name", "")
			w.press("Next")
			w.see("Fill in Name.")
			w.fill("Name", "Ines Calder-Reed")
			w.press("Next")
			w.must(w.Until("be at the second step", `document.activeElement.textContent === 'Your boat'`))
			assert.Empty(t, serious(t, w))
			w.fill("Length", "30")
			w.press("Next")
			w.see("We take boats of up to 18 metres.")
			w.fill("Length", "11.5")
			w.press("Yes")
			w.see("Her insurance")
			w.press("Next")
			w.see("We need to see the policy of Sandpiper")
			w.press("Back")
			w.must(w.Until("find the length again", `field('Length').value === '11.5'`))
			w.press("Next")
			w.fill("Insurer", "Mutual of the Sound")
			w.fill("Number of the policy", "7-77")
			w.date("Valid until", "01012020")
			w.press("Next")
			w.see("This policy has ended.")
			w.date("Valid until", "10012099")
			w.must(w.Drop(map[string]string{"policy.txt": "We insure her."}))
			w.see("policy.txt")
			w.press("Next")
			w.must(w.Until("look it over", `document.activeElement.textContent === 'Check'`))
			w.see("Ines Calder-Reed", "11.5", "Mutual of the Sound", "policy.txt")
			assert.Empty(t, serious(t, w))
			w.app(w.here()) // somebody loads the page again
			w.see("What you answered before is still here.", "Mutual of the Sound")
			assert.Zero(t, w.number("SELECT count(*) FROM live.policies WHERE number = '7-77'"), "nothing is saved before it is sent")
			w.press("Save all of it")
			w.see("Thank you. You and Sandpiper are up to date.", "11.5")
			assert.Equal(t, 1, w.number(`SELECT count(*) FROM live.policies p JOIN live.boats b ON b.id = p.boat JOIN live.owners o ON o.id = b.owner
				WHERE b.length = 11.5 AND o.name = 'Ines Calder-Reed' AND p.paper IS NOT NULL`))
		})
	}
}

// here gives the path of the page in the app.
func (w *walk) here() string {
	w.t.Helper()
	path, err := w.Path()
	w.must(err)
	return strings.TrimPrefix(path, "/a/alder-cove")
}

// at goes on by the tabulator until what has the focus is so.
func (w *walk) at(words string) {
	w.t.Helper()
	for range 60 {
		is, err := browser.Eval[bool](w.Person, fmt.Sprintf(`(document.activeElement.labels?.[0] ?? document.activeElement).textContent.startsWith(%q)`,
			words))
		w.must(err)
		if is {
			return
		}
		w.must(w.Type("\t"))
	}
	require.Fail(w.t, "the tabulator leads nowhere", words)
}

// TestAFormInStepsByKeysAlone goes through all steps without a mouse.
func TestAFormInStepsByKeysAlone(t *testing.T) {
	w := signedIn(t, "ines.calder@sailmail.example", 1280, 844)
	w.app("/my-boats")
	w.press("Sandpiper")
	w.press("Look over her details")
	w.see("Phone")
	w.at("Name")
	w.must(w.Type("\r"), w.Until("be at the second step", `document.activeElement.textContent === 'Your boat'`))
	w.at("She is insured elsewhere")
	w.must(w.Type(" "))
	w.see("Her insurance")
	w.at("Next")
	w.must(w.Type("\r"), w.Until("be at the third step", `document.activeElement.textContent === 'Her insurance'`))
	w.at("Next")
	w.must(w.Type("\r"))
	w.see("Fill in Insurer.")
	w.must(w.Until("be at the first that is wrong", `document.activeElement.labels?.[0].textContent === 'Insurer'`), w.Type("Mutual"))
	w.at("Number of the policy")
	w.must(w.Type("9"))
	w.at("Valid until")
	w.must(w.Type("10012099"))
	w.at("Next")
	w.must(w.Type("\r"), w.Until("look it over", `document.activeElement.textContent === 'Check'`))
	w.at("Her insurance")
	w.must(w.Type("\r"), w.Until("be back", `document.activeElement.textContent === 'Her insurance'`))
	w.at("Next")
	w.must(w.Type("\r"), w.Until("look it over again", `document.activeElement.textContent === 'Check'`))
	w.at("Save all of it")
	w.must(w.Type("\r"))
	w.see("You and Sandpiper are up to date.")
	assert.Equal(t, 1, w.number(`SELECT count(*) FROM live.policies WHERE insurer = 'Mutual'`))
}

// TestAnEstimateWithLines adds lines and removes one, sees amounts, tax and total follow, and saves
// all of it; then it changes what there is. On a wide screen and on a phone.
func TestAnEstimateWithLines(t *testing.T) {
	for _, width := range []int64{1280, 390} {
		t.Run(fmt.Sprint(width), func(t *testing.T) {
			w := signedIn(t, "jonas@aldercove.example", width, 844)
			w.app("/new-estimate")
			w.fill("Number", "E-0900")
			w.choose("Boat", "Sandpiper (AC 1200)")
			w.choose("Owner", "Ines Calder")
			line := func(n int, what, quantity, price string) {
				w.fill(fmt.Sprintf("Text, line %d", n), what)
				w.fill(fmt.Sprintf("Quantity, line %d", n), quantity)
				w.fill(fmt.Sprintf("Unit price, line %d", n), price)
			}
			line(1, "Crane", "2", "60")
			w.press("Add a line")
			line(2, "Labour", "3", "45")
			w.press("Add a line")
			line(3, "Mistake", "1", "1000")
			w.see("€1,255.00")
			w.must(w.Until("fit the width", `document.documentElement.scrollWidth <= innerWidth`))
			assert.Empty(t, serious(t, w))
			w.press("Remove line 3")
			w.see("€255.00", "€51.00", "€306.00")
			w.fill("Quantity, line 2", "many")
			w.press("Send the estimate")
			w.see("Check the marked answers")
			w.must(w.Until("be at what is wrong", `document.activeElement.labels?.[0].textContent === 'Quantity, line 2'`))
			w.fill("Quantity, line 2", "3")
			w.press("Send the estimate")
			w.see("The estimate is sent.", "Estimate E-0900")
			const saved = `SELECT count(*) FROM live.estimate_lines l JOIN live.estimates e ON e.id = l.estimate
				WHERE e.number = 'E-0900' AND l.deleted_at IS NULL`
			assert.Equal(t, 2, w.number(saved))
			w.see("€306.00")
			w.press("Remove line 1")
			w.see("Line 1 is removed when you send this.", "€162.00")
			w.press("Keep line 1")
			w.see("€306.00")
			w.press("Remove line 1")
			w.press("Add a line")
			line(3, "Anodes", "1", "10")
			w.see("€174.00")
			w.press("Save")
			w.see("Estimate E-0900 is saved.")
			assert.Equal(t, 2, w.number(saved))
			assert.Equal(t, 1, w.number(saved+" AND l.text = 'Anodes'"))
		})
	}
}

// TestABerthOfTheDock offers berths of the chosen dock that are long enough, takes away one that does
// not fit any more and says so, and wants exactly eight digits.
func TestABerthOfTheDock(t *testing.T) {
	for _, width := range []int64{1280, 390} {
		t.Run(fmt.Sprint(width), func(t *testing.T) {
			w := signedIn(t, "jonas@aldercove.example", width, 844)
			w.app("/berth/" + read[string](w, "SELECT id::text FROM live.boats WHERE length BETWEEN 10.5 AND 11.9 LIMIT 1"))
			w.choose("Dock", "South dock")
			offered := func(letter string, others string) string {
				return fmt.Sprintf(`(o => o.length > 1 && o.some(x => x.startsWith('%s')) && !o.some(x => /^[%s]/.test(x)))([...field('Berth').options].map(x => x.text))`,
					letter, others)
			}
			w.must(w.Until("be offered berths of the south dock", offered("S", "NI")))
			w.choose("Berth", "S3") // 12 metres
			long, err := browser.Eval[bool](w.Person, `[...field('Berth').options].some(x => x.text === 'S1')`)
			w.must(err)
			assert.False(t, long, "S1 takes boats of eight metres")
			w.choose("Dock", "North dock")
			w.see("What you chose here does not fit your other answers any more. Choose again.")
			w.must(w.Until("be offered berths of the north dock", offered("N", "SI")+` && field('Berth').value === ''`))
			w.choose("Berth", "N4")
			w.notSee("What you chose here does not fit")
			w.fill("Berth card", "1234567")
			w.press("Give her this berth")
			w.see("This has exactly 8 digits, and nothing else.")
			w.fill("Berth card", "12345678")
			w.notSee("This has exactly 8 digits, and nothing else.")
			w.press("Give her this berth")
			w.see("The owner sees it at once.")
			assert.Equal(t, 1, w.number(`SELECT count(*) FROM live.boats b JOIN live.berths x ON x.id = b.berth
				WHERE x.name = 'N4' AND b.card = '12345678'`))
		})
	}
}

// TestATitleNamesTheBoat says while somebody types what an answer must contain, shows a day once there
// is another, and wants it after that.
func TestATitleNamesTheBoat(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 844)
	w.app("/new-order")
	w.choose("Boat", "Sandpiper (AC 1200)")
	w.fill("Title", "New halyards")
	w.must(w.Type("\t"))
	w.see("Name the boat in the title.")
	w.fill("Title", "Sandpiper: new halyards")
	w.notSee("Name the boat in the title.")
	w.choose("Kind of work", "Rigging")
	assert.NotContains(t, w.shown(), "Due on")
	w.date("Starts on", "06102099")
	w.see("Due on")
	w.date("Due on", "06012099")
	w.press("Plan it")
	w.see("It ends after it starts.")
	w.date("Due on", "06202099")
	w.notSee("It ends after it starts.")
	w.press("Plan it")
	w.see("It is planned.")
	assert.Equal(t, 1, w.number(`SELECT count(*) FROM live.work_orders WHERE due = '2099-06-20' AND title = 'Sandpiper: new halyards'`))
}

// TestFounderRehearsesAForm tries a form on the stage: what sending it would do is told, and nothing is
// kept.
func TestFounderRehearsesAForm(t *testing.T) {
	w := start(t)
	w.must(w.Size(1400, 1000))
	w.page("p_offer")
	w.see("Add a line")
	w.press("Rehearse sending")
	w.see("Fill in Number.")
	w.fill("Number", "E-0950")
	w.choose("Boat", "Sandpiper (AC 1200)")
	w.choose("Owner", "Ines Calder")
	w.fill("Text, line 1", "Crane")
	w.fill("Quantity, line 1", "2")
	w.fill("Unit price, line 1", "60")
	w.see("€144.00")
	w.press("Rehearse sending")
	w.see("1 in Estimates would be added. 1 in Estimate lines would be added.", "Nothing was kept.")
	var n int
	draft := fmt.Sprintf(`"app_%s_draft".estimates`, strings.ReplaceAll(w.site.App.ID, "-", ""))
	require.NoError(t, w.site.Store.DB.Raw(`SELECT count(*) FROM `+draft+` WHERE number = 'E-0950'`).Scan(&n).Error)
	assert.Zero(t, n)
}

// TestFounderComposesAFormOnTheStage drags questions into order and into what goes with the form, moves
// one by keys, adds one there, and sees the sentences and the form follow.
func TestFounderComposesAFormOnTheStage(t *testing.T) {
	w := start(t)
	w.must(w.Size(1400, 1000))
	w.page("p_ask")
	const stage = "document.querySelector('iframe')?.contentDocument"
	about := func(label string) string {
		return fmt.Sprintf(`[...%s.querySelectorAll('.stage-question')].find(q => q.querySelector('label')?.innerText.startsWith(%q))`, stage, label)
	}
	order := func(labels ...string) string {
		return fmt.Sprintf(`%s && [...%s.querySelectorAll('.stage-question')].map(q => q.querySelector('label')?.innerText.split(' (')[0]).join() === %q`,
			stage, stage, strings.Join(labels, ","))
	}
	w.must(w.Until("see the form", order("Title", "Boat", "Kind of work", "What should be done", "Photos", "Wanted by")))
	w.must(w.Until("drag a question", fmt.Sprintf(`(() => {
		const from = %s, to = %s, dataTransfer = new DataTransfer(), box = to.getBoundingClientRect();
		const at = {dataTransfer, bubbles: true, cancelable: true, clientX: box.left + 20, clientY: box.top + 2};
		from.dispatchEvent(new DragEvent('dragstart', at));
		to.dispatchEvent(new DragEvent('dragover', at));
		to.dispatchEvent(new DragEvent('drop', at));
		return true;
	})()`, about("Wanted by"), about("Boat"))))
	w.must(w.Until("see it there", order("Title", "Wanted by", "Boat", "Kind of work", "What should be done", "Photos")))
	_, err := browser.Eval[bool](w.Person, "("+about("Boat")+".focus(), true)")
	w.must(err)
	w.must(w.Chord(kb.ArrowUp, chromedp.ModifierAlt))
	w.must(w.Until("see it moved", order("Title", "Boat", "Wanted by", "Kind of work", "What should be done", "Photos")))
	_, err = browser.Eval[bool](w.Person, "("+stage+".querySelector('.stage-more button').click(), true)")
	w.must(err)
	w.choose("Kind", "A question that is not kept")
	w.fill("Name", "Who pays")
	w.choose("It holds", "text")
	w.pressIn("[role=dialog]", "Add")
	was := []string{"Title", "Boat", "Wanted by", "Kind of work", "What should be done", "Photos"}
	w.must(w.Until("see the new question", order(append(was, "Who pays")...)))
	w.press("Undo")
	w.must(w.Until("be without it", order(was...)))
}
