// Package e2e drives the real interface through whole journeys.
package e2e

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"pinegate/e2e/browser"
	"pinegate/server/servertest"
)

// chromium is the one browser of all tests; each of their people has a profile of
// their own in it.
var chromium = sync.OnceValues(func() (*browser.Browser, error) {
	b, err := browser.Open(context.Background())
	opened = b
	return b, err
})

var opened *browser.Browser

func TestMain(m *testing.M) {
	code := servertest.Main(m)
	if opened != nil {
		opened.Close()
	}
	os.Exit(code)
}

// walk is somebody on a journey; every step must work.
type walk struct {
	*browser.Person
	t    *testing.T
	site *servertest.Site
}

// start gives a browser of one person in front of a fresh server.
func start(t *testing.T) *walk {
	t.Helper()
	t.Parallel()
	b, err := chromium()
	require.NoError(t, err)
	site := servertest.New(t)
	p, err := b.Person(site.URL)
	require.NoError(t, err)
	w := &walk{p, t, site}
	t.Cleanup(p.Close)
	t.Cleanup(func() {
		if t.Failed() {
			_ = p.Shot(filepath.Join(os.TempDir(), "pinegate-"+strings.ReplaceAll(t.Name(), "/", "-")+".png")) // a help only
		}
	})
	return w
}

func (w *walk) must(errs ...error) {
	w.t.Helper()
	for _, err := range errs {
		require.NoError(w.t, err)
	}
}

func (w *walk) see(words ...string) {
	w.t.Helper()
	for _, x := range words {
		w.must(w.See(x))
	}
}

func (w *walk) notSee(words string) { w.t.Helper(); w.must(w.NotSee(words)) }

// stageLacks waits until the running app on the stage does not show the words.
func (w *walk) stageLacks(words string) {
	w.t.Helper()
	w.must(w.Until("miss "+words+" on the stage",
		fmt.Sprintf(`documents().slice(1).every(d => d.body && d.body.innerText && !d.body.innerText.includes(%q))`, words)))
}

func (w *walk) press(words string)          { w.t.Helper(); w.must(w.Press(words)) }
func (w *walk) pressIn(where, words string) { w.t.Helper(); w.must(w.PressIn(where, words)) }
func (w *walk) fill(label, text string)     { w.t.Helper(); w.must(w.Fill(label, text)) }
func (w *walk) choose(label, option string) { w.t.Helper(); w.must(w.Choose(label, option)) }
func (w *walk) line(id, setting string) {
	w.t.Helper()
	w.pressIn(fmt.Sprintf("[data-line=%q]", id), setting)
}
func (w *walk) action(line, of, what string) {
	w.t.Helper()
	w.line(line, "More about "+of)
	w.press(what)
}

// save saves a setting and waits until its window is gone.
func (w *walk) save() {
	w.t.Helper()
	w.must(w.PressAt(".pop [type=submit]"), w.Until("have it saved", `document.querySelectorAll('.pop').length === 0`))
}

// founder signs in and opens the boatyard at a stop of the trail.
func (w *walk) founder(stop string) {
	w.t.Helper()
	w.must(w.Go("/"))
	w.press("Open the demo as Marta Alder")
	w.see("Workshop", "Alder Cove Boatyard", "23 tables")
	w.press("Alder Cove Boatyard")
	w.see("Add an owner")
	if stop != "Data" {
		w.pressIn("nav[aria-label=Trail]", stop)
		if last := map[string]string{"People": "Add a role", "Pages": "Add a kept value"}[stop]; last != "" {
			w.see(last) // until then the stop before is there, with headings of the same names
		}
	}
}

// seenAs changes as whom the app is seen.
func (w *walk) seenAs(words string) {
	w.t.Helper()
	w.must(w.PressAt("#seen-as"))
	w.see("Or as one person")
	w.pressIn(".pop", words)
	w.must(w.Until("have chosen", `document.querySelectorAll('.pop').length === 0`))
}

func TestFounderOpensTheDemo(t *testing.T) {
	w := start(t)
	w.must(w.Go("/"))
	w.fill("Email", "marta@aldercove.example")
	w.fill("Password", "not-the-password")
	w.press("Sign in")
	w.see("Check what you entered")
	w.founder("Data")
	w.see("40 records", "Ines Calder")
	w.press("Keys")
	w.see("go to Data, People")
	w.must(w.Type("\x1b"), w.Chord("3", chromedp.ModifierAlt))
	w.see("Click a block to find its sentence.")
}

func TestFounderShapesData(t *testing.T) {
	w := start(t)
	w.founder("Data")
	w.press("Add a table")
	w.fill("Name", "Moorings")
	w.fill("Fields",
		"Name, text, required\nDepth, number\nChecked on, date\nFree, yes or no\nRemarks, long text\nContact, email")
	w.save()
	w.see("No records in Moorings")
	for _, f := range []string{"Depth is a number", "Checked on is a date", "Free is yes or no", "Remarks is long text",
		"Contact is an email address"} {
		w.see(f)
	}
	for _, f := range [][]string{{"Dock", "One choice from a list", "Choices from", "Docks", "is one choice from Docks"},
		{"Boat", "Link to one record", "Links to", "Boats", "is a link to Boats"}} {
		w.press("Add a field")
		w.fill("Name", f[0])
		w.choose("It holds", f[1])
		w.choose(f[2], f[3])
		w.save()
		w.see(f[0] + " " + f[4])
	}
	// a record, with a mistake first
	w.press("Add a mooring")
	w.fill("Depth", "deep")
	w.pressIn("[role=dialog]", "Add")
	w.see("Enter a number, such as 12.5.", "Fill in Name.")
	w.fill("Name", "M1")
	w.fill("Depth", "2.50")
	w.pressIn("[role=dialog]", "Add")
	w.see("1 record.")
	// in place
	w.must(w.PressAt(`[role=gridcell][data-field]`), w.Type("Mooring one\r"))
	w.see("Mooring one")
	w.must(w.Until("have the grid's focus", `document.activeElement.getAttribute('role') === 'grid'`), w.Type("\t\t"))
	w.must(w.Type("\r"), w.Until("be editing", `document.querySelector('input[type=date]')`), w.Type("\x1b"))
	// rename, then remove
	w.pressIn("[data-script]", "Remarks")
	w.fill("Name", "Notes of the crew")
	w.save()
	w.see("Notes of the crew is long text")
	w.press("More about Notes of the crew")
	w.press("Remove")
	w.see("Undo brings it back")
	w.pressIn("[role=dialog]", "Remove")
	w.notSee("Notes of the crew is long text")
	// more is said of a field, and left unsaid again
	w.press("and… more about Depth")
	w.fill("Search what can be said", "duplicates")
	w.press("No duplicates")
	w.press("No duplicates")
	w.save()
	w.see("Depth is a number, no duplicates.")
	w.pressIn("[data-script]", "no duplicates")
	w.press("Leave unsaid")
	w.see("Depth is a number.")
	// a record goes, and comes back
	w.must(w.PressAt(`[role=gridcell][data-field]`))
	w.must(w.PressAt(`[role=grid] input[aria-label="Select Mooring one"]`))
	w.press("Delete 1 record")
	w.pressIn("[role=dialog]", "Delete")
	w.see("No records in Moorings")
	w.press("Undo")
	w.see("Undone: Deleted 1 record from Moorings", "1 record.", "Mooring one")
}

func TestFounderSaysWhoMayDoWhat(t *testing.T) {
	w := start(t)
	w.founder("People")
	w.see("Visitors", "Boat owners", "Crew", "Yard managers", "Who can do what")
	w.press("Add a role")
	w.fill("What its people are called", "Suppliers")
	w.choose("Their records are in", "Owners")
	w.must(w.PressAt(".pop [type=submit]"))
	w.see("Visitors can add to Owners without signing in.") // which is told before
	w.pressIn(".pop", "Save")
	// its rules are proposed at once
	w.see("Rules for Suppliers", "their own record in Owners")
	w.press("Cancel")
	w.see("Everyone in Owners has this role and signs in with Email.")
	w.press("Give access to a table")
	w.choose("Table", "Boats")
	w.choose("Records they can see", "some, by a condition")
	w.press("Write as an expression")
	w.fill("Condition", "ownr = me")
	w.see("There is no ownr in Boats. Did you mean owner?")
	w.press("Owner is the signed-in person")
	w.save()
	w.see("They can see Boats where Owner is the signed-in person.")
	w.pressIn(`[data-line$=".boat"]`, "and… more about")
	w.press("Hidden fields")
	w.choose("Add to: Hidden fields", "Yard note")
	w.save()
	w.see("Hidden: Yard note.")
	// a role can lose everything it has
	w.press("More about Suppliers")
	w.press("Remove")
	w.pressIn("[role=dialog]", "Remove")
	w.notSee("Suppliers")
}

func TestFounderBuildsAPageAndSeesItAsOthers(t *testing.T) {
	w := start(t)
	w.founder("Pages")
	w.see("We store, haul out")
	w.press("Add a page")
	w.fill("Name", "Moor here")
	w.save()
	w.see("Everyone signed in can open it.", "A heading says “Moor here”.")
	w.pressIn("[data-script]", "Everyone signed in")
	w.choose("Who can open it", "Some roles")
	w.choose("Add to: These roles", "Boat owners")
	w.save()
	w.see("Boat owners can open it.")
	add := func(kind string, then func()) {
		w.press("Add a block")
		w.choose("Kind", kind)
		then()
		w.save()
	}
	add("A text", func() { w.fill("Words", "Hello {{ me.name }}, you have been with us since {{ me.since }}.") })
	add("A list of records", func() { w.choose("Records of", "Berths") })
	add("A form", func() { w.choose("It adds to", "Work requests") })
	add("A button", func() { w.choose("It opens", "My boats"); w.fill("Words", "Back to my boats") })
	w.see("A list shows Berths", "A form adds to Work requests")
	// more is said of a block, in its sentence
	w.press("and… more about A list shows Berths")
	w.press("Only records where")
	w.press("Write as an expression")
	w.fill("Only records where", "longest > 14")
	w.see("N1 no") // what it gives is shown, and nothing moves any more
	w.save()
	w.see("A list shows Berths where Longest boat is more than 14")
	w.see("Back to my boats")
	// seen as
	w.seenAs("Ines Calder")
	w.see("Hello Ines Calder, you have been with us since", "Longest boat", "Back to my boats")
	w.stageLacks("Yearly fee")
	w.seenAs("Visitors")
	w.see("Visitors are asked to sign in here.")
	w.stageLacks("Hello")
	w.seenAs("Crew: any of them")
	w.see("You have no access to this page.")
	w.must(w.PressAt("#seen-as"))
	w.choose("Role", "Boat owners")
	w.pressIn(".pop", "Ines Calder")
	w.see("Hello Ines Calder")
	// words, in place
	w.must(w.PressAt(".editable"), w.Chord("a", chromedp.ModifierCtrl), w.Type("Your place, {{ me.name }}\r"))
	w.see("Your place, Ines Calder", "A heading says “Your place, {{ me.name }}”.")
	w.must(w.PressAt(".editable"), w.Chord("a", chromedp.ModifierCtrl), w.Type("Oops {{ me.nam }}\r"))
	w.see("There is no nam in Owners. Did you mean name?", "Your place, Ines Calder")
	// rows and fields follow in Data as well
	w.pressIn("nav[aria-label=Trail]", "Data")
	w.pressIn("h3", "Boats")
	w.see("2 records", "Boat owners: the records in Boats where their condition is true.")
	w.must(w.Until("have no hidden column", `all('[role=columnheader]').every(e => !e.innerText.includes('Yard note'))`))
}

func TestFounderUndoesAndRedoes(t *testing.T) {
	w := start(t)
	w.founder("Data")
	w.pressIn("h3", "Boats")
	w.see("60 records")
	w.press("Add a field")
	w.fill("Name", "Mast height")
	w.choose("It holds", "Number")
	w.save()
	w.line("boat_length", "Length")
	w.fill("Name", "Overall length")
	w.save()
	w.must(w.PressAt(`[role=gridcell][data-field=boat_name]`), w.Type("Changed name\r"))
	w.see("Changed name")
	w.press("Changes")
	w.must(w.Until("have written the cell once",
		`performance.getEntriesByType('resource').filter(r => /records\/[0-9a-f-]{36}(\?|$)/.test(r.name)).length === 1`))
	w.notSee("Someone changed this meanwhile")
	w.see("Changes in the draft", "Added Mast height in Boats.", "Renamed Length in Boats to Overall length.", "Changed a record in Boats.",
		"Marta Alder")
	w.must(w.Type("\x1b"), w.Until("have it closed", `!document.querySelector('[role=dialog]')`))
	w.must(w.Chord("z", chromedp.ModifierCtrl))
	w.see("Undone: Changed a record in Boats")
	w.notSee("Changed name")
	w.must(w.Chord("z", chromedp.ModifierCtrl))
	w.see("Undone: Renamed Length in Boats to Overall length", "Length is a number")
	w.press("Undo")
	w.notSee("Mast height is a number")
	w.must(w.Chord("Z", chromedp.ModifierCtrl, chromedp.ModifierShift))
	w.see("Mast height is a number")
	w.press("Redo")
	w.see("Overall length is a number")
	w.press("Redo")
	w.see("Changed name")
}

func TestFounderPublishesAndGoesBack(t *testing.T) {
	w := start(t)
	w.founder("Publish")
	w.see("No changes", "Version 1")
	w.pressIn("nav[aria-label=Trail]", "Data")
	w.pressIn("h3", "Boats")
	w.see("60 records")
	w.press("Add a field")
	w.fill("Name", "Mast height")
	w.choose("It holds", "Number")
	w.save()
	w.action("boat_registration", "Registration", "Remove")
	w.see("2 places use it", "Boats")
	w.pressIn("[role=dialog]", "Remove and change these")
	w.notSee("Registration is text")
	w.pressIn("nav[aria-label=Trail]", "Publish")
	w.see("Mast height is a number.", "Adds Mast height to Boats. 60 records keep their values.",
		"Removes Registration from Boats. 60 records have values in it, which are hidden.")
	w.must(w.Until("not be able to publish unasked",
		`[...document.querySelectorAll('#stage button')].find(b => b.innerText === 'Publish').disabled`))
	w.press("I understand")
	w.pressIn("#stage", "Publish")
	w.see("Version 2 is live.", "Version 2", "No changes")
	w.press("Go back to version 1")
	w.see("Go back to version 1", "The draft stays as it is", "Adds Registration to Boats", "Removes Mast height from Boats. No records")
	w.pressIn("[role=dialog]", "Go back to version 1")
	w.see("Version 3 is live.", "Mast height is a number")
}

func TestFirstPublishBringsRecordsAlong(t *testing.T) {
	w := start(t)
	w.must(w.Go("/"))
	w.press("Open the demo as Marta Alder")
	w.press("Create an empty app")
	w.fill("Name", "Sail loft")
	w.press("Create app")
	w.see("No tables yet")
	w.press("Add a table")
	w.fill("Name", "Sails")
	w.save()
	w.see("No records in Sails")
	w.press("Add a sail")
	w.fill("Name", "Genoa")
	w.pressIn("[role=dialog]", "Add")
	w.see("Genoa")
	w.pressIn("nav[aria-label=Trail]", "Publish")
	w.see("Nothing is live yet", "Copy the draft’s 1 record to the live app")
	w.pressIn("#stage", "Publish")
	w.see("Version 1 is live.")
	w.must(w.Go("/a/sail-loft"))
	w.see("Welcome to Sail loft")
}

func TestBoatOwnerUsesTheApp(t *testing.T) {
	w := start(t)
	for _, width := range []int64{1280, 390} {
		t.Run(fmt.Sprint(width), func(t *testing.T) {
			// somebody new each time, with nothing remembered
			b, err := chromium()
			require.NoError(t, err)
			p, err := b.Person(w.site.URL)
			require.NoError(t, err)
			require.NoError(t, w.site.Store.DB.Exec("DELETE FROM codes").Error)
			ownerJourney(&walk{p, t, w.site}, width)
		})
	}
}

func photo(t *testing.T) string {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewRGBA(image.Rect(0, 0, 60, 40))))
	return b.String()
}

func ownerJourney(w *walk, width int64) {
	phone := width < 600
	menu := func(words string) {
		w.t.Helper()
		bar := "nav.bottom-bar"
		behind, err := browser.Eval[bool](w.Person, fmt.Sprintf("!all(%q).some(x => x.textContent.trim() === %q)", bar+" a", words))
		w.must(err)
		if phone {
			if behind {
				w.pressIn(bar, "More")
			}
			w.pressIn(bar, words)
			return
		}
		w.pressIn("header nav", words)
	}
	title := fmt.Sprintf("Mend the rail at %d", width)
	var last struct{ ID int64 }
	require.NoError(w.t, w.site.Store.DB.Table("mails").Select("coalesce(max(id), 0) AS id").Scan(&last).Error)
	w.must(w.Size(width, 800), w.Go("/a/alder-cove"))
	w.see("the kettle is always on", "Winter storage is filling up")
	w.notSee("Owners’ supper")
	w.press("Sign in")
	w.fill("Your email", "ines.calder@sailmail.example")
	w.press("Send code")
	w.see("an email is on its way")
	w.fill("Code from the email", "12")
	w.pressIn("form", "Sign in")
	w.see("That didn’t work.")
	w.fill("Code from the email", w.site.Code(w.t, "ines.calder@sailmail.example", last.ID))
	w.pressIn("form", "Sign in")
	w.see("Owners’ supper")
	menu("My boats")
	w.see("Good to see you, Ines Calder", "Sandpiper", "Driftwood III")
	w.notSee("Grey Heron")
	w.press("Sandpiper")
	w.see("AC 1200", "Insured until")
	w.notSee("Yard note")
	w.press("Ask for work")
	w.see("What can we do for you?")
	w.must(w.Until("fit the width", `document.documentElement.scrollWidth <= innerWidth`))
	w.press("Send the request")
	w.see("Check the marked answers", "Fill in Title.", "Fill in Boat.")
	w.fill("Title", title)
	w.choose("Boat", "Sandpiper (AC 1200)")
	w.must(w.Until("be offered only her own boats", `field('Boat').options.length === 3`))
	w.press("Hull")
	w.must(w.Drop(map[string]string{"rail.png": "no picture"}))
	w.see("rail.png is not a picture that browsers show.")
	w.must(w.Drop(map[string]string{"rail.png": photo(w.t), "post.png": photo(w.t)}))
	w.see("rail.png", "Remove")
	w.press("Remove post.png")
	w.notSee("post.png")
	w.press("Send the request")
	w.see("Thank you. We have your request", "My requests", title, "New")
	w.press(title)
	w.must(w.Until("see the photo", `[...document.images].some(i => i.alt === 'rail.png' && i.naturalWidth > 0)`))
	if !phone {
		w.press("Sign out")
		w.see("the kettle is always on")
		w.must(w.Go("/a/alder-cove/my-boats"))
		w.see("Sign in to see this page.")
		w.notSee("Sandpiper")
	}
}
