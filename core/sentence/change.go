package sentence

import (
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// OfChange tells a change in the past tense, with the names that things had when
// it was made.
func OfChange(before, after *blueprint.Blueprint, c blueprint.Change) string {
	called := func(b *blueprint.Blueprint, id string) string {
		p, ok := b.Place(id)
		if !ok {
			return words.Say("called-something", nil)
		}
		return p.Called()
	}
	switch c := c.(type) {
	case *blueprint.AddThing:
		return words.Say("history-add", words.Args{"thing": called(after, c.Adds())})
	case *blueprint.Remove:
		return words.Say("history-remove", words.Args{"thing": called(before, c.Of)})
	case *blueprint.Move:
		return words.Say("history-move", words.Args{"thing": called(after, c.Of)})
	case *blueprint.MergeChoice:
		return words.Say("history-merge", words.Args{"thing": called(before, c.Of), "into": called(after, c.Into)})
	case *blueprint.Set:
		return ofSet(before, after, c)
	}
	return words.Say("history-other", nil)
}

// ofSet tells which settings were changed; another name is told with both.
func ofSet(before, after *blueprint.Blueprint, c *blueprint.Set) string {
	was, known := before.Place(c.Of)
	is, still := after.Place(c.Of)
	if !known || !still {
		return words.Say("history-other", nil)
	}
	if x, ok := is.Prop("name"); ok && c.Values[x.Name] != nil && len(c.Values) == 1 {
		return words.Say("history-rename", words.Args{"thing": was.Called(), "name": nameOf(is)})
	}
	if rule, ok := is.Thing.(*blueprint.Rule); ok && len(c.Values) == 1 {
		if said := ofPermission(is, rule, c); said != "" {
			return said
		}
	}
	var nouns []string
	for _, x := range is.Props() {
		if c.Values[x.Name] == nil {
			continue
		}
		if noun := blueprint.Noun(x); !slices.Contains(nouns, noun) {
			nouns = append(nouns, noun)
		}
	}
	args := words.Args{"settings": nouns, "thing": is.Called()}
	switch x := is.Thing.(type) {
	case *blueprint.Gate:
		return words.Say("history-gate", args)
	case *blueprint.Rule:
		args["role"], args["table"] = is.Context.Role().Name, after.Table(x.Table).Name
		return words.Say("history-rule", args)
	}
	return words.Say("history-set", args)
}

// ofPermission tells what a role was let do, or stopped from doing.
func ofPermission(p blueprint.Place, rule *blueprint.Rule, c *blueprint.Set) string {
	for _, a := range blueprint.Actions() {
		if c.Values[string(a)] == nil {
			continue
		}
		x, _ := p.Prop(string(a))
		s := &sentence{place: p}
		args := words.Args{"role": p.Context.Role().Name, "action": string(a), "what": plain(s.value(x, ""))}
		if x.Zero() {
			args["what"] = p.Context.Blueprint().Table(rule.Table).Name
			return words.Say("history-stop-"+string(a), args)
		}
		return words.Say("history-let", args)
	}
	return ""
}

// Expectation tells what is expected, as a whole sentence without its stop.
func Expectation(b *blueprint.Blueprint, id string) string {
	p, ok := b.Place(id)
	if !ok {
		return ""
	}
	said := plain(core(p).clauses(func(prop.Prop) bool { return true }).parts)
	return words.Say("expectation", words.Args{"role": p.Context.Role().Name, "they": said[len("They "):]})
}
