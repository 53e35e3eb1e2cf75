package sentence

import (
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Stop names a stop of the trail that has a script.
type Stop string

// The stops with a script.
const (
	DataStop      Stop = "data"
	PeopleStop    Stop = "people"
	PagesStop     Stop = "pages"
	WorkflowsStop Stop = "workflows"
)

// Stops lists the stops with a script in their order.
func Stops() []Stop { return []Stop{DataStop, PeopleStop, PagesStop, WorkflowsStop} }

// Script tells a stop. Of the groups, those that are open hold their lines, the
// others are folded.
func Script(b *blueprint.Blueprint, stop Stop, open func(id string) bool) []Line {
	w := &teller{b: b, catalog: b.Catalog(), open: open, inside: map[string][]blueprint.Place{}}
	var out []Line
	var groups []*Line
	var told []blueprint.Place
	for p := range b.Places {
		if stopOf(p) == stop {
			told = append(told, p)
			w.inside[p.In] = append(w.inside[p.In], p)
		}
	}
	for _, p := range told {
		if p.In == "" {
			out, groups = w.group(p, out, groups)
			continue
		}
		if i := slices.IndexFunc(groups, func(l *Line) bool { return l.ID == p.In }); i >= 0 && open(p.In) {
			groups[i].Lines = append(groups[i].Lines, w.inner(p)...)
		}
	}
	for _, g := range groups {
		if open(g.ID) {
			g.Lines = append(g.Lines, w.offers(g.ID)...)
		}
	}
	return append(place(out, groups), w.added(stop)...)
}

// place puts the groups, which grew, where they stand.
func place(out []Line, groups []*Line) []Line {
	for i := range out {
		for _, g := range groups {
			if out[i].ID == g.ID {
				out[i] = *g
			}
		}
	}
	return out
}

// Everything tells the whole app.
func Everything(b *blueprint.Blueprint) []Line {
	var out []Line
	for _, stop := range Stops() {
		out = append(out, Script(b, stop, func(string) bool { return true })...)
	}
	return out
}

// stopOf gives the stop at which a thing is told.
func stopOf(p blueprint.Place) Stop {
	if p.Context.Role() != nil { // also what stands in its forms
		return PeopleStop
	}
	if p.Context.Flow() != nil { // also what stands in its form
		return WorkflowsStop
	}
	switch p.What {
	case "connection", "call", "sent", "taken":
		return WorkflowsStop
	case "app", "page", "block", "part", "input", "value", "reaction", "kept", "measure":
		return PagesStop
	case "gate":
		return PeopleStop
	}
	return DataStop
}

// group tells a thing that is part of nothing else: the app in a line of its own,
// all others as the heading of their lines.
func (w *teller) group(p blueprint.Place, out []Line, groups []*Line) ([]Line, []*Line) {
	if p.What == "app" {
		return append(out, w.line(p, "", everyClause)), groups
	}
	notes := map[string]string{"list": "heading-lists", "part": "heading-parts", "kept": "kept-values", "connection": "heading-services"}
	if note := notes[p.What]; note != "" && p.At == 0 {
		out = append(out, Line{ID: p.What + "s", Kind: Note, Parts: text(words.Say(note, nil))})
	}
	head := Line{ID: p.ID, Kind: Heading, Of: p.ID, Folded: !w.open(p.ID)}
	w.handle(&head, p)
	if p.What == "gate" {
		head.Parts = text(words.Say("heading-gate", nil))
	} else {
		head.Parts = []Part{{Text: nameOf(p), Set: "name"}}
	}
	if !head.Folded {
		head.Lines = w.about(p)
	}
	return append(out, head), append(groups, &head)
}

func nameOf(p blueprint.Place) string {
	x, _ := p.Prop("name")
	if v, ok := x.Value.(interface{ Said() (string, bool) }); ok {
		name, _ := v.Said()
		return name
	}
	return ""
}

func everyClause(prop.Prop) bool { return true }

// handle says how a line's thing can be moved and removed.
func (w *teller) handle(l *Line, p blueprint.Place) {
	l.Removes = p.Removable()
	if p.Movable() {
		l.Group, l.At, l.Among = p.What+" "+p.In, p.At, p.Among
	}
	l.Merges = p.What == "choice" && p.Among > 1
}

// line tells a thing in one line.
func (w *teller) line(p blueprint.Place, part string, of func(prop.Prop) bool) Line {
	l := Line{ID: p.ID + part, Kind: Plain, Of: p.ID, Parts: core(p).clauses(of).end(), More: len(unsaid(p)) > 0}
	return l
}

// inner tells a thing that is part of another.
func (w *teller) inner(p blueprint.Place) []Line {
	if f, is := p.Thing.(*blueprint.RoleForm); is && !f.Own && !f.Role.Asks() {
		return nil
	}
	if f, is := p.Thing.(*blueprint.FlowForm); is && !f.Any() {
		return w.offers(p.ID)
	}
	l := w.line(p, "", everyClause)
	w.handle(&l, p)
	for _, x := range w.inside[p.ID] {
		l.Lines = append(l.Lines, w.inner(x)...)
	}
	l.Lines = append(l.Lines, w.offers(p.ID)...)
	return []Line{l}
}

// about tells a group's own thing: its core, and the clauses of each further group
// of settings in a line of their own where a thing is told so.
func (w *teller) about(p blueprint.Place) []Line {
	switch p.What {
	case "list":
		return []Line{w.uses(p)}
	case "role":
		return w.parted(p, []string{"", "Who they are", "Signing in"}, []string{"Signing up"}, []string{"Profile"})
	case "gate":
		return append(w.parted(p, []string{"", "Staying signed in"}, []string{"Signing up"}, []string{"Emails"}),
			w.summed(p, "words", blueprint.GateWordsGroup, blueprint.GateMailsGroup))
	}
	return []Line{w.line(p, ".is", everyClause)}
}

// parted tells a thing in several lines, each with the clauses of some groups of
// its settings; the first has the core. What else can be said is offered in the
// last.
func (w *teller) parted(p blueprint.Place, lines ...[]string) []Line {
	var out []Line
	for i, groups := range lines {
		s := core(p)
		if i > 0 {
			s.parts = nil
		}
		s.clauses(func(x prop.Prop) bool { return slices.Contains(groups, x.Group) })
		if len(s.parts) > 0 {
			out = append(out, Line{ID: p.ID + ".is" + groups[0], Kind: Plain, Of: p.ID, Parts: s.end()})
		}
	}
	out[len(out)-1].More = p.What != "gate" && len(unsaid(p)) > 0
	return out
}

// summed tells the settings of groups that are rarely changed in one line, which
// says of the others that they are as they came.
func (w *teller) summed(p blueprint.Place, part string, groups ...string) Line {
	s := core(p)
	s.parts = nil
	s.clauses(func(x prop.Prop) bool { return slices.Contains(groups, x.Group) })
	said := s.end()
	code := "gate-words-ours"
	if len(said) > 0 {
		code, said = "gate-words-others", append(said, Part{Text: " "})
	}
	return Line{ID: p.ID + "." + part, Kind: Plain, Of: p.ID, Parts: append(said, Part{Text: words.Say(code, nil)}), More: true}
}

// uses tells where a choice list is used, and who sees it.
func (w *teller) uses(p blueprint.Place) Line {
	l := Line{ID: p.ID + ".uses", Kind: Note, Parts: text(words.Say("list-seen", nil) + " ")}
	places := w.b.UsesOfList(p.ID)
	if len(places) == 0 {
		l.Parts = append(l.Parts, Part{Text: words.Say("list-unused", nil)})
		return l
	}
	l.Parts = append(l.Parts, Part{Text: words.Say("list-used", nil) + " "})
	l.Parts = append(l.Parts, joined(places, " and ", func(f blueprint.FieldOfTable) []Part {
		return []Part{named(f.Name, f.ID), {Text: " in "}, named(f.TableName, f.Table)}
	})...)
	l.Parts = append(l.Parts, Part{Text: "."})
	return l
}

// offers lists what can be added to a group.
func (w *teller) offers(id string) []Line {
	p, ok := w.b.Place(id)
	if !ok {
		return nil
	}
	var out []Line
	worded := func(what, code string) {
		out = append(out, Line{ID: id + ".add " + what, Kind: Offer, Parts: text(words.Say(code, nil)), Add: &Adds{what, id}})
	}
	offer := func(what string) { worded(what, "offer-"+what) }
	switch x := p.Thing.(type) {
	case *blueprint.Table:
		offer("field")
	case *blueprint.ChoiceList:
		offer("choice")
		offer("column")
	case *blueprint.Role:
		if len(x.Rules) < len(w.b.Tables) {
			offer("rule")
		}
		if len(w.b.Tables) > 0 {
			offer("expectation")
		}
	case *blueprint.Page:
		offer("block")
	case *blueprint.Part:
		offer("block")
		offer("input")
		offer("value")
		if len(x.Values) > 0 {
			offer("reaction")
		}
	case *blueprint.Workflow:
		if x.Incoming() != nil {
			worded("taken", "offer-incoming")
		}
		if x.Routine() != nil {
			worded("input", "offer-given")
		}
		offer("step")
	case *blueprint.PathStep, blueprint.Loop:
		offer("step")
	case *blueprint.Connection:
		offer("call")
	case *blueprint.Call:
		offer("sent")
		offer("taken")
	case *blueprint.BranchStep:
		worded("step", "offer-path")
	case *blueprint.RecordsBlock:
		worded("block", "offer-row")
	case blueprint.Reporter:
		offer("measure")
	case *blueprint.FlowForm:
		if x.Any() {
			worded("block", "offer-question")
		} else {
			worded("block", "offer-ask")
		}
	case *blueprint.FormBlock, *blueprint.RoleForm:
		worded("block", "offer-question")
	case *blueprint.GroupBlock:
		if x.Look == blueprint.Tabs {
			worded("block", "offer-tab")
		} else {
			worded("block", "offer-inside")
		}
	}
	if part := p.Context.Part(); part != nil && p.What == "block" && len(part.Values) > 0 {
		offer("reaction")
	}
	return out
}

// added lists what can be added to a stop.
func (w *teller) added(stop Stop) []Line {
	var out []Line
	for _, what := range map[Stop][]string{DataStop: {"table", "list"}, PeopleStop: {"role"}, PagesStop: {"page", "part", "kept"},
		WorkflowsStop: {"workflow", "connection"}}[stop] {
		out = append(out, Line{ID: "add " + what, Kind: Offer, Parts: text(words.Say("offer-"+what, nil)), Add: &Adds{What: what}})
	}
	return out
}
