package e2e

import (
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/e2e/browser"
	"pinegate/server/servertest"
)

// app opens the live boatyard at a path.
func (w *walk) app(path string) { w.t.Helper(); w.must(w.Go("/a/alder-cove" + path)) }

// byCode signs in to the live boatyard.
func (w *walk) byCode(email string) {
	w.t.Helper()
	w.app("/~/sign-in")
	w.fill("Your email", email)
	w.press("Send code")
	w.fill("Code from the email", w.site.Code(w.t, email, 0))
	w.pressIn("main", "Sign in")
}

func TestOwnerSignsUpAndKeepsAProfile(t *testing.T) {
	w := start(t)
	const email = "petra.holm@sailmail.example"
	w.app("/my-boats")
	w.see("Sign in to see this page.")
	w.press("Sign up")
	w.see("For owners who keep a boat with us")
	w.fill("Your email", email)
	w.fill("Name", "Petra Holm")
	w.press("Continue")
	w.see("Fill in Phone.")
	w.fill("Phone", "0555 0909")
	w.press("Continue")
	w.see("Accept the terms to continue.")
	w.press("I accept the terms")
	w.press("Continue")
	w.see("Confirm your email", "Nothing is saved until you enter it.")
	w.fill("Code from the email", w.site.Code(t, email, 0))
	w.press("Confirm")
	w.see("Petra Holm", "Sign out")
	w.press("Petra Holm")
	w.see("Your profile", "You accepted the terms of version 2026-10")
	w.fill("Phone", "0555 0910")
	w.press("Save")
	w.see("Your details are saved.")
	w.press("Sign out")
	w.see("Sign up")
	w.app("/my-boats")
	w.see("Sign in to see this page.")
	// she lands where she wanted to go
	w.fill("Your email", email)
	w.press("Send code")
	w.see("Send again in")
	w.fill("Code from the email", w.newest(email, "is your code"))
	w.pressIn("main", "Sign in")
	w.see("Good to see you, Petra Holm")
	w.press("Petra Holm")
	w.must(w.Until("see the new number", `[...document.querySelectorAll('input')].some(i => i.value === '0555 0910')`))
}

// newest waits for the newest mail to somebody whose subject has the words, and
// gives the code in it.
func (w *walk) newest(email, words string) string {
	w.t.Helper()
	subject := w.mail(email, words).Subject
	return regexp.MustCompile(`\d{6}`).FindString(subject)
}

type caught struct{ Subject, Body string }

// mail waits for a mail to somebody whose subject has the words.
func (w *walk) mail(email, words string) caught {
	w.t.Helper()
	var m caught
	require.Eventually(w.t, func() bool {
		return w.site.Store.DB.Raw("SELECT subject, body FROM mails WHERE recipients = ? AND subject LIKE ? ORDER BY id DESC LIMIT 1",
			email, "%"+words+"%").Scan(&m).Error == nil && m.Subject != ""
	}, browser.Patience, 50*time.Millisecond, "no mail to %s about %s", email, words)
	return m
}

// link gives the part of an address in a mail that stands behind the host.
func (w *walk) link(m caught) string {
	w.t.Helper()
	_, path, found := strings.Cut(m.Body, w.site.URL)
	require.True(w.t, found, m.Body)
	path, _, _ = strings.Cut(path, "\n")
	return path
}

func TestInvitedCrewComesWithPasswordAndAuthenticator(t *testing.T) {
	w := start(t)
	const email, password = "rowan.pike@aldercove.example", "barnacle-and-orchard"
	w.founder("People")
	w.pressIn("h3", "Crew")
	w.pressIn(`[data-line^="r_crew.is"]`, "and… more about")
	w.press("Second step")
	w.choose("Second step", "A code from their authenticator app")
	w.save()
	publish(t, w.site, w.site.Founder(t))
	w.pressIn("#stage", "Sign-in")
	w.see("Invite people")
	w.choose("Role", "Crew")
	w.fill("Email", email)
	w.pressIn("#stage", "Invite")
	w.see("invited until")
	w.must(w.Go(w.link(w.mail(email, "You are invited"))))
	w.see("Welcome to Alder Cove Boatyard", "You are invited as rowan.pike@aldercove.example, to Crew.")
	w.fill("Name", "Rowan Pike")
	w.fill("Password (optional)", "password1234")
	w.press("I accept the terms")
	w.press("Accept invitation")
	w.see("easy to guess")
	w.fill("Password (optional)", password)
	w.press("Accept invitation")
	w.see("Set up your authenticator", "Key:")
	secret, err := browser.Eval[string](w.Person, `document.querySelector('[data-secret]').innerText`)
	require.NoError(t, err)
	code, err := totp.GenerateCode(secret, time.Now())
	require.NoError(t, err)
	w.fill("Code from the app", code)
	w.press("Continue")
	w.see("Keep these recovery codes")
	recovery, err := browser.Eval[string](w.Person, `document.querySelector('[data-recovery] li').innerText`)
	require.NoError(t, err)
	w.press("I have kept them")
	w.see("Rowan Pike", "Work orders") // where crew land
	w.press("Sign out")
	w.app("/~/sign-in")
	w.press("Use a password instead")
	w.fill("Your email", email)
	w.fill("Password", password)
	w.pressIn("main", "Sign in")
	w.see("One more step")
	w.app("/orders")
	w.see("One more step")
	w.notSee("Scrub and antifoul") // not in yet
	w.fill("Code", code)
	w.press("Continue")
	w.see("That didn’t work") // a code works once
	w.fill("Code", recovery)
	w.press("Continue")
	w.see("Work orders", "Rowan Pike")
}

// publish makes the draft live.
func publish(t *testing.T, s *servertest.Site, f *servertest.Client) {
	t.Helper()
	var app struct{ Revision, LiveVersion int }
	f.Read("/api/apps/"+s.App.ID, &app)
	f.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/publish",
		map[string]any{"revision": app.Revision, "liveVersion": app.LiveVersion, "accept": true, "bringRecords": false})
}

func TestOnesConditionKeepsOut(t *testing.T) {
	w := start(t)
	var email string
	schema := strings.ReplaceAll(w.site.App.ID, "-", "")
	require.NoError(t, w.site.Store.DB.Raw(fmt.Sprintf(`SELECT email FROM "app_%s_live".crew WHERE NOT active`, schema)).Scan(&email).Error)
	require.NotEmpty(t, email)
	w.byCode(email)
	w.see("You can’t sign in", "You do not work at the yard at the moment.")
	w.app("/orders")
	w.see("Sign in to see this page.")
	w.founder("People")
	w.pressIn("#stage", "Sign-in")
	w.see("Refused: the condition for Crew is not met")
}

func TestTwoOwnersSeeNothingOfEachOther(t *testing.T) {
	w := start(t)
	var boats []string
	schema := strings.ReplaceAll(w.site.App.ID, "-", "")
	require.NoError(t,
		w.site.Store.DB.Raw(fmt.Sprintf(`SELECT b.registration FROM "app_%[1]s_live".boats b JOIN "app_%[1]s_live".owners o ON o.id = b.owner WHERE o.email <> ?`, schema), "ines.calder@sailmail.example").Scan(&boats).Error)
	require.Greater(t, len(boats), 40)
	w.byCode("ines.calder@sailmail.example")
	w.see("Ines Calder")
	for _, page := range []string{"", "/my-boats", "/my-requests", "/my-invoices", "/my-details", "/ask-for-work", "/~/me"} {
		w.app(page)
		w.see("Ines Calder")
		w.must(w.Until("be there", `!document.body.innerText.includes('Loading')`))
		text, err := browser.Eval[string](w.Person, "document.body.innerText")
		require.NoError(t, err)
		for _, b := range boats {
			assert.NotContains(t, text, b, page)
		}
		assert.NotContains(t, text, "Lindqvist", page)
	}
}

func TestWhyIsAnswered(t *testing.T) {
	w := start(t)
	w.founder("People")
	w.pressIn("#stage", "Why?")
	w.see("Choose a person at")
	w.seenAs("Ines Calder")
	w.choose("In table", "Boats")
	w.fill("Record", "Grey Heron")
	w.pressIn("[data-records]", "Grey Heron (")
	w.see("Ines Calder can’t see Grey Heron (AC 1207).",
		"Boat owners can see Boats where Owner is the signed-in person. Not met here: Owner is")
	w.fill("Record", "Sandpiper")
	w.pressIn("[data-records]", "Sandpiper (")
	w.see("Ines Calder can see Sandpiper (AC 1200).", "Met here: Owner is Ines Calder.")
	w.choose("Field", "Yard note")
	w.see("Ines Calder can’t see Yard note in Sandpiper (AC 1200).", "But Yard note is hidden from Boat owners.")
	w.press("Show the rule")
	w.see("Hidden: Yard note.")
	w.press("A page and what is on it")
	w.see("Everyone can open Welcome, and so can Ines Calder.",
		"Button is missing. The button “See the work orders” is shown to people who can open its page.")
	// and beside the running page
	w.pressIn("nav[aria-label=Trail]", "Pages")
	w.pressIn("h3", "My boats")
	w.see("Good to see you, Ines Calder")
	w.pressIn("#stage", "Why?")
	w.see("By the rules, Ines Calder can see 2 of 60.", "protects nothing.")
	w.press("Ask about a record")
	w.fill("Record", "Grey Heron")
	w.pressIn("[data-records]", "Grey Heron (")
	w.see("Ines Calder can’t see Grey Heron (AC 1207).", "Show the role")
}

func TestATeamBuilds(t *testing.T) {
	w := start(t)
	const email = "vera@team.example"
	w.founder("Data")
	w.must(w.Go("/team"))
	w.see("Who builds in Marta Alder’s workspace")
	w.fill("Email", email)
	w.choose("As", "viewer")
	w.press("Invite")
	w.see("Invited vera@team.example as viewer")
	link := w.link(w.mail(email, "invites you"))
	w.must(w.Go("/"))
	w.press("Sign out")
	w.see("Open the demo as")
	w.must(w.Go(link))
	w.see("Join Marta Alder’s workspace")
	w.fill("Your name", "Vera Quay")
	w.fill("Password", "barnacle-and-orchard")
	w.press("Join")
	w.see("Workshop", "you are viewer")
	w.press("Alder Cove Boatyard")
	w.see("View only", "40 records")
	w.notSee("Undo")
	w.notSee("Add an owner")
	w.pressIn("nav[aria-label=Trail]", "People")
	w.pressIn("h3", "Boat owners")
	w.see("They can see and change Boats")
	w.must(w.Until("find nothing to set", `document.querySelectorAll('#script .setting').length === 0`))
	w.pressIn("nav[aria-label=Trail]", "Publish")
	w.see("Versions")
	w.must(w.Until("have nothing to press", `![...document.querySelectorAll('button')].some(b => b.innerText === 'Publish')`))
	// somebody who builds alone
	w.must(w.Go("/"))
	w.press("Sign out")
	w.press("Create an account")
	w.fill("Your name", "Noa Reed")
	w.fill("Email", "noa@reed.example")
	w.fill("Password", "barnacle-and-orchard")
	w.press("Create account")
	w.see("Confirm your email")
	w.fill("Code from the email", w.newest("noa@reed.example", "confirms your email"))
	w.press("Confirm")
	w.see("No apps yet")
}

func TestFounderLooksAtTheLiveAppAndActs(t *testing.T) {
	w := start(t)
	w.founder("Pages")
	w.pressIn("#stage", "Live")
	w.see("See the live app as")
	w.fill("Search people in the live app", "Ines")
	w.must(w.Until("find her",
		`[...document.querySelectorAll('select[aria-label=Person] option')].some(o => o.innerText === 'Ines Calder')`))
	w.choose("Person", "Ines Calder")
	w.see("View only: changes are off.", "My boats")
	w.fill("Search people in the live app", "Lindqvist")
	w.must(w.Until("still say whom one looks at",
		`(() => { const s = document.querySelector('select[aria-label=Person]'); return [...s.options].some(o => o.text === 'Tomas Lindqvist') && s.selectedOptions[0].text === 'Ines Calder'; })()`))
	w.press("Act as them …")
	w.see("it was you, acting as them")
	w.pressIn("[role=dialog]", "Act as them")
	w.see("You act as them until")
	w.must(w.Go("/team"))
	w.see("Looked at the live app as Ines Calder", "Started acting in the live app as Ines Calder")
}

// What people and founders write is words, whatever it looks like.
func TestWordsAreNotRun(t *testing.T) {
	w := start(t)
	const words = `<img src=x onerror="window.ran=1"><script>window.ran=1</script>`
	f := w.site.Founder(t)
	f.Write(http.MethodPost, "/api/apps/"+w.site.App.ID+"/changes", map[string]any{"changes": []any{
		map[string]any{"kind": "set", "of": "p_home_a", "values": map[string]any{"text": words}},
		map[string]any{"kind": "set", "of": "gate", "values": map[string]any{"words.sign-in text": words}},
		map[string]any{"kind": "set", "of": "boat", "values": map[string]any{"name": "Boats <b>of ours</b>"}}}})
	var g struct{ Rows []map[string]any }
	f.Read("/api/apps/"+w.site.App.ID+"/tables/boat/records?as=founder", &g)
	f.Write(http.MethodPatch, "/api/apps/"+w.site.App.ID+"/tables/boat/records/"+fmt.Sprint(g.Rows[0]["id"]),
		map[string]any{"revision": g.Rows[0]["revision"], "values": map[string]any{"boat_name": words}})
	unharmed := func(where string) {
		t.Helper()
		ran, err := browser.Eval[bool](w.Person, `documents().some(d => d.defaultView.ran === 1)`)
		require.NoError(t, err)
		assert.False(t, ran, where)
	}
	w.founder("Data")
	w.pressIn("h3", "Boats")
	w.see(words, "Boats <b>of ours</b>")
	unharmed("the grid")
	for _, path := range []string{"visitor/", "visitor/~/sign-in"} {
		w.must(w.Go("/stage/" + w.site.App.ID + "/" + path))
		w.see(words)
		unharmed(path)
	}
}
