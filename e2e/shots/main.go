// Command shots makes the pictures in docs/screenshots from the demo that a
// server, started with --demo, shows.
package main

import (
	"context"
	"flag"
	"fmt"
	"os"
	"path/filepath"

	"pinegate/demo"
	"pinegate/e2e/browser"
)

func main() {
	base := flag.String("server", "http://127.0.0.1:8080", "address of the server")
	dir := flag.String("dir", "docs/screenshots", "folder for the pictures")
	flag.Parse()
	if err := run(context.Background(), *base, *dir); err != nil {
		fmt.Fprintln(os.Stderr, "shots:", err)
		os.Exit(1)
	}
}

// tour takes pictures until something goes wrong.
type tour struct {
	*browser.Person
	dir string
	err error
}

func (t *tour) do(steps ...func() error) {
	for _, step := range steps {
		if t.err == nil {
			t.err = step()
		}
	}
}

func (t *tour) open(path string) func() error   { return func() error { return t.Go(path) } }
func (t *tour) see(words string) func() error   { return func() error { return t.See(words) } }
func (t *tour) press(words string) func() error { return func() error { return t.Press(words) } }
func (t *tour) in(where, words string) func() error {
	return func() error { return t.PressIn(where, words) }
}
func (t *tour) shot(name string) func() error {
	return func() error { return t.Shot(filepath.Join(t.dir, name+".png")) }
}

// signIn signs in to the live app with the code from the mailbox.
func (t *tour) signIn(email string) func() error {
	return func() error {
		newest := `fetch('/api/mailbox').then(r => r.json()).then(l => l.length ? l[0].id : 0)`
		before, err := browser.Eval[int](t.Person, newest)
		t.do(func() error { return err }, func() error { return t.Fill("Your email", email) }, t.press("Send code"),
			t.see("is on its way"))
		code, err := browser.Eval[string](t.Person, fmt.Sprintf(`(async () => { for (let i = 0; i < 200; i++) {
			const [m] = await (await fetch('/api/mailbox')).json(); if (m && m.id > %d) return m.subject.slice(0, 6); await new Promise(requestAnimationFrame); } return ''; })()`, before))
		t.do(func() error { return err }, func() error { return t.Fill("Code from the email", code) }, t.in("form", "Sign in"))
		return t.err
	}
}

// addField adds a field to the open table, so that there is something to
// publish.
func (t *tour) addField() func() error {
	return func() error {
		t.do(t.press("Add a field"), func() error { return t.Fill("Name", "Mast height") },
			func() error { return t.Choose("It holds", "Number") },
			func() error { return t.PressAt(".pop [type=submit]") }, t.see("Mast height is a number"))
		return t.err
	}
}

// broughtFiles are files that a yard might have.
func broughtFiles() map[string]string {
	return map[string]string{
		"moorings.csv": "Moorings of the cove,,,,\nMooring,Owner,Laid on,Fee,Checked\nM1,Ines Calder,13/04/2024,€ 120.00,yes\n" +
			"M2,Tomas Lindqvist,25/05/2024,€ 95.50,no\nM3,Aidan Iversen,11/06/2025,€ 120.00,yes\nM4,Greta Marsh,02/02/2025,€ 80.00,yes\n" +
			"Total,,,€ 415.50,\n",
		"checks.csv": "Mooring;Day;Depth m;Chain\nM1;03/04/2026;4,5;good\nM2;05/04/2026;3,25;worn\nM4;07/04/2026;n/a;good\nM9;08/04/2026;5;good\n",
	}
}

func run(ctx context.Context, base, dir string) error {
	b, err := browser.Open(ctx)
	if err != nil {
		return err
	}
	defer b.Close()
	p, err := b.Person(base)
	if err != nil {
		return err
	}
	t := &tour{Person: p, dir: dir}
	founder := demo.Founder()
	t.do(t.open("/"), t.see("Open the demo"), t.shot("sign-in"), t.press("Open the demo as "+founder.Name), t.see("Workshop"),
		t.see("Alder Cove Boatyard"), t.shot("workshop"))
	t.do(t.press("Alder Cove Boatyard"), t.see("Add an owner"), t.in("h3", "Work orders"), t.see("Hours left"),
		t.see("Rewire the mast light"), t.shot("data"))
	t.do(func() error { return t.PressAt("button[title='Open the record']") }, t.see("History"), t.see("Hours left"),
		func() error {
			return t.Until("see the record", `document.querySelector('[role=dialog]')?.innerText.includes('Hours planned')`)
		}, t.shot("record"),
		t.press("Close"))
	t.do(t.press("Order"), func() error { return t.Choose("Group by", "Status") }, t.press("Order"), t.see("In the yard"), func() error {
		return t.Until("see the totals of groups",
			`[...document.querySelectorAll('[data-group]')].some(g => g.innerText.includes('records'))`)
	})
	t.do(t.press("Map"), t.see("Map of the tables"), t.see("Estimate lines"), t.shot("map"), t.press("Back to the records"))
	t.do(t.in("h3", "Boats"), t.see("Curlew"), func() error {
		return t.Until("see the photos", `[...document.querySelectorAll('[role=grid] img')].every(i => i.complete && i.naturalWidth)`)
	}, t.in("[data-line=boat_length]", "and… more about Length"), t.see("No duplicates"), t.shot("sentence"),
		func() error { return t.Type("\x1b") })
	t.do(t.press("Import files"), func() error { return t.Drop(broughtFiles()) }, t.see("Moorings 4 records"), t.shot("bring"),
		func() error { return t.Type("\x1b") })
	t.do(t.press("People"), t.see("Who can do what"), t.in("h3", "Boat owners"), t.see("They can see and change Boats"), t.shot("people"))
	t.do(t.in("h3", "Sign-in"), t.see("People sign in with"), t.in("#stage", "Sign-in"), t.see("How it looks"),
		t.see("Send code"), t.shot("gate"))
	t.do(t.press("Seen as"), t.see("Or as one person"), t.in(".pop", "Ines Calder"), t.in("#stage", "Why?"),
		func() error { return t.Choose("In table", "Boats") },
		func() error { return t.Fill("Record", "Grey Heron") }, t.in("[data-records]", "Grey Heron ("),
		t.see("can’t see Grey Heron"), t.shot("why"),
		t.press("Seen as"), t.see("Or as one person"), t.in(".pop", "You, the founder"))
	t.do(t.press("Pages"), t.see("The app is called"), t.see("Crane out of use"), t.in("h3", "My boats"),
		t.see("A heading says “Good to see you"), t.press("Seen as"), t.see("Or as one person"), t.press("Ines Calder"),
		t.see("Good to see you, Ines Calder"), t.see("Sandpiper"), t.see("Invoices to pay"), t.shot("pages"))
	t.do(t.press("Data"), t.see("Add an owner"), t.press("Seen as"), t.see("Or as one person"), t.press("You, the founder"),
		t.in("h3", "Boats"), t.see("60 records"), t.addField(), t.in("nav[aria-label=Trail]", "Publish"), t.see("60 records keep"),
		t.shot("publish"))
	t.do(t.press("Dark"), t.in("nav[aria-label=Trail]", "People"), t.see("Who can do what"), t.shot("people-dark"), t.press("Light"))
	t.do(t.press("Undo"), t.see("Undone"))
	t.do(t.in("nav[aria-label=Trail]", "Workflows"), t.see("Add a workflow"), t.in("h3", "Raise the invoice"), t.see("Set off by"),
		t.in("[data-records]", "Replace impeller"), func() error { return t.PressAt("#stage .btn-main") }, t.see("It comes to its end"),
		t.in("[aria-label=Steps]", "Change the new invoice"),
		func() error { return t.Until("see the note go", `!document.body.innerText.includes("Undone")`) }, t.shot("workflows"))
	t.do(t.open("/a/alder-cove"), t.see("Crane out of use"), t.shot("app-visitor"), t.open("/a/alder-cove/~/sign-up"),
		t.see("For owners who keep a boat"), t.shot("sign-up"))
	t.do(t.open("/a/alder-cove/orders"), t.see("Your email"), t.signIn("jonas@aldercove.example"), t.see("Sign out"),
		t.open("/a/alder-cove/orders"), t.press("Rewire the mast light"), t.press("Mark as done"), t.see("Well done!"),
		t.press("Raise the invoice"), t.see("Invoice A-"), t.open("/"), t.press("Alder Cove Boatyard"), t.see("Add an owner"),
		t.in("nav[aria-label=Trail]", "Watch"), t.see("Tell the owner that the work is done"), t.see("2 sent"), t.shot("watch"),
		t.open("/a/alder-cove/figures"), t.see("A job on average"), func() error {
			return t.Until("see the charts", `document.querySelectorAll('.plot-svg, .donut-svg').length === 8`)
		}, t.shot("figures"), t.open("/a/alder-cove"), t.press("Sign out"))
	t.do(func() error { return t.Size(390, 800) }, t.open("/a/alder-cove/my-boats"), t.see("Your email"),
		t.signIn("ines.calder@sailmail.example"), t.see("Sandpiper"), func() error {
			return t.Until("see the pictures", `[...document.querySelectorAll('main img')].every(i => i.complete) && all('.steps').length`)
		}, t.shot("app-phone"))
	return t.err
}
