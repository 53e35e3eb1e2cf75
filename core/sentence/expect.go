package sentence

import (
	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// expectationLines tells what is expected of a role, and offers to write more
// down.
func expectationLines(b *blueprint.Blueprint, r *blueprint.Role, catalog *expr.Catalog) []Line {
	var out []Line
	for i := range b.Expectations {
		if e := &b.Expectations[i]; e.Role == r.ID {
			l := newLine(Plain, e.ID, r.ID).say("It must hold that they ")
			l.Parts = append(l.Parts, expectationWords(b, e, catalog)...)
			out = append(out, l.say(".").act("Remove", "Stop expecting this of "+r.Name+"? It then no longer keeps a version from being published.", &blueprint.RemoveExpectation{Expectation: e.ID}).Line)
		}
	}
	return append(out, newLine(Offer, r.ID+"_expect", r.ID).
		set("Write down what must hold", "What "+r.Name+" must never do", &blueprint.AddExpectation{Role: r.ID}, expectationSlots(b, r, catalog)...).Line)
}

// Expectation tells what is expected, as a whole sentence.
func Expectation(b *blueprint.Blueprint, e *blueprint.Expectation, catalog *expr.Catalog) string {
	return b.Role(e.Role).Name + " " + plain(expectationWords(b, e, catalog))
}

// expectationWords tells what is expected, with the role left out.
func expectationWords(b *blueprint.Blueprint, e *blueprint.Expectation, catalog *expr.Catalog) []Part {
	t := b.Table(e.Table)
	table := Part{Text: t.Name, Ref: t.ID}
	if f := t.Field(e.Field); f != nil {
		return []Part{{Text: "do not see "}, {Text: f.Name, Ref: f.ID}, {Text: " of "}, table}
	}
	out := []Part{{Text: actionWords[e.Action] + " no "}, table}
	if e.Except != "" {
		out = append(append(out, Part{Text: " but those where "}), conditionWords(e.Except, b.Role(e.Role).RuleScope(t.ID, catalog))...)
	}
	return out
}

// What is offered for seeing: nothing at all, all but their own, or one field.
func expectationSlots(b *blueprint.Blueprint, r *blueprint.Role, catalog *expr.Catalog) []Slot {
	actions := []Option{{Value: "see", Label: "see"}, {Value: "add", Label: "add"}, {Value: "change", Label: "change"}, {Value: "delete", Label: "delete"}}
	own := []Option{{Value: "", Label: "none at all"}}
	fields := []Option{{Value: "", Label: "the records themselves"}}
	for _, t := range b.Tables {
		when := &When{"table", t.ID}
		for _, o := range ownOffers(b, t.ID, r, catalog) {
			own = append(own, Option{Value: o.Value, Label: "only those where " + o.Label, When: when})
		}
		for _, f := range t.Fields {
			fields = append(fields, Option{Value: f.ID, Label: f.Name, When: when})
		}
	}
	return []Slot{
		pickSlot("action", "They must not", "see", actions),
		pickSlot("table", "Of the table", "", tableOptions(b, "")),
		pickSlot("field", "What of it", "", fields).when("action", "see"),
		pickSlot("except", "They may see", "", own).when("action", "see"),
	}
}
