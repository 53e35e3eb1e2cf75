package e2e

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/e2e/browser"
)

// serious looks at the page with axe-core and lists what it finds that is
// serious or worse.
func serious(t *testing.T, w *walk) []string {
	t.Helper()
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err)
	found, err := browser.Eval[[]string](w.Person, `(async () => { `+string(axe)+`;
		const r = await axe.run(document, {resultTypes: ['violations']});
		return r.violations.filter(v => ['serious', 'critical'].includes(v.impact)).map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.target + ' ' + n.failureSummary).join(' | ')); })()`)
	require.NoError(t, err)
	return found
}

// TestScreensAreAccessibleAndFit opens each main screen, light and dark, and
// checks that axe-core finds nothing serious and nothing needs scrolling
// sideways.
func TestScreensAreAccessibleAndFit(t *testing.T) {
	w := start(t)
	check := func(name string) {
		t.Helper()
		fits, err := browser.Eval[bool](w.Person, `document.documentElement.scrollWidth <= innerWidth`)
		require.NoError(t, err)
		assert.True(t, fits, "%s is wider than the window", name)
		assert.Empty(t, serious(t, w), name)
	}
	w.must(w.Go("/"))
	w.see("Open the demo")
	check("sign-in")
	w.founder("Data")
	for _, mode := range []string{"light", "dark"} {
		for _, stop := range []struct{ name, words string }{{"Data", "Add an owner"}, {"People", "Each cell"}, {"Pages", "Click a block"},
			{"Publish", "Versions"}} {
			w.pressIn("nav[aria-label=Trail]", stop.name)
			w.see(stop.words)
			check(fmt.Sprintf("%s, %s", stop.name, mode))
		}
		if mode == "light" {
			w.press("Dark")
			w.must(w.Until("be dark", `getComputedStyle(document.documentElement).backgroundColor === 'rgb(15, 23, 19)'`))
		}
	}
	w.pressIn("nav[aria-label=Trail]", "People")
	w.pressIn("#stage", "Sign-in")
	w.see("How it looks", "Sign-in log")
	check("sign-in, dark")
	w.pressIn("#stage", "Why?")
	w.seenAs("Boat owners: any of them")
	w.see("Record", "For that, someone must be signed in.")
	check("why, dark")
	for path, words := range map[string]string{"/team": "Who builds in", "/account": "Where you are signed in"} {
		w.must(w.Go(path))
		w.see(words)
		check(path)
	}
	app := w.site.App.ID
	for _, theme := range []string{"Harbour", "Meadow", "Slate", "Clay", "Paper", "Night ferry"} {
		f := w.site.Founder(t)
		f.Write("POST", "/api/apps/"+app+"/changes", map[string]any{"changes": []any{map[string]any{"kind": "set", "of": "app",
			"values": map[string]any{"theme": theme}}}})
		w.must(w.Go("/stage/" + app + "/visitor/welcome"))
		w.see("the kettle is always on")
		w.must(w.Until("wear the theme", fmt.Sprintf("document.documentElement.dataset.theme === %q", theme)))
		check("an app in " + theme)
		w.must(w.Go("/stage/" + app + "/role.r_man/ask-for-work"))
		w.see("You have no access to this page.")
	}
	w.must(w.Size(390, 800), w.Go("/a/alder-cove"))
	w.see("the kettle is always on")
	check("an app on a phone")
	for path, words := range map[string]string{"sign-in": "Send code", "sign-up": "For owners who keep a boat",
		"reset": "We’ll email you a code"} {
		w.app("/~/" + path)
		w.see(words)
		check(path + " on a phone")
	}
	w.byCode("ines.calder@sailmail.example")
	w.must(w.Until("be in", `!document.body.innerText.includes('Code from the email')`))
	w.app("/~/me")
	w.see("Your details")
	check("a profile on a phone")
}

// TestNothingIsFetchedFromElsewhere looks at what the pages load.
func TestNothingIsFetchedFromElsewhere(t *testing.T) {
	w := start(t)
	w.founder("Pages")
	w.see("Click a block")
	addresses, err := browser.Eval[[]string](w.Person, `performance.getEntriesByType('resource').map(r => r.name)`)
	require.NoError(t, err)
	require.NotEmpty(t, addresses)
	for _, a := range addresses {
		assert.True(t, strings.HasPrefix(a, w.site.URL), a)
	}
}

// TestListsAreAccessibleInAllThemes opens lists in all ways and what they open, in each
// theme, wide and on a phone.
func TestListsAreAccessibleInAllThemes(t *testing.T) {
	w := start(t)
	app := w.site.App.ID
	f := w.site.Founder(t)
	set := func(values map[string]any) {
		f.Write("POST", "/api/apps/"+app+"/changes", map[string]any{"changes": []any{map[string]any{"kind": "set", "of": "app",
			"values": values}}})
	}
	w.byCode("jonas@aldercove.example")
	w.see("Sign out")
	look := func(name string) {
		t.Helper()
		fits, err := browser.Eval[bool](w.Person, `document.documentElement.scrollWidth <= innerWidth`)
		require.NoError(t, err)
		assert.True(t, fits, "%s is wider than the window", name)
		assert.Empty(t, serious(t, w), name)
	}
	pages := []struct{ path, words string }{
		{"/orders", "In the yard"}, {"/orders?p_orders_b.as=table", "Who does it"}, {"/haul-outs", "Agenda"},
		{"/haul-outs?p_hauls_b.span=agenda", "Haul"}, {"/haul-outs?p_hauls_b.as=lines", "Haul"}, {"/invoices", "Draft"},
		{"/berths", "Longest boat"}, {"/new-requests", "Lines"},
	}
	for i, theme := range []string{"Harbour", "Meadow", "Slate", "Clay", "Paper", "Night ferry"} {
		set(map[string]any{"theme": theme, "look.menu": map[bool]any{true: "side"}[i%2 == 1]})
		w.live()
		w.must(w.Size(1280, 900))
		shown := pages
		if i%3 != 0 {
			shown = []struct{ path, words string }{pages[0], pages[2]}
		}
		for _, p := range shown {
			w.app(p.path)
			w.see(p.words)
			w.must(w.Until("wear the theme", fmt.Sprintf("document.documentElement.dataset.theme === %q", theme)))
			look(theme + ": " + p.path)
		}
		w.app("/orders")
		w.press("Kind of work")
		w.see("Winter storage")
		look(theme + ": a filter")
		w.must(w.Type("\x1b"), w.PressAt("a.record-title"))
		w.see("Whole page")
		look(theme + ": a panel")
		if i%3 == 0 {
			w.must(w.Size(390, 844))
			for _, p := range pages {
				w.app(p.path)
				w.see(p.words)
				look(theme + " on a phone: " + p.path)
			}
		}
	}
	// an accent that nobody could read is made so
	set(map[string]any{"theme": "Harbour", "look.accent": "#ffee55", "look.heading": "Fraunces", "look.corners": "round",
		"look.density": "roomy"})
	w.live()
	w.must(w.Size(1280, 900))
	w.app("/haul-outs")
	w.see("Agenda")
	w.must(w.Until("have its face", `getComputedStyle(document.querySelector('h1')).fontFamily.includes('Fraunces')`))
	look("a yellow accent")
}
