package sentence

import (
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Proposed is a change that is offered, in a sentence.
type Proposed struct {
	Text    string
	Changes []blueprint.Change
	// Adds tells that it lets people add records, which not every table is for.
	Adds bool
}

// ProposeRules offers what people of a role usually may: to see and keep up to
// date their own record, to see what is theirs, and to add to what points to
// them directly. What a rule says already is left as it is.
func ProposeRules(b *blueprint.Blueprint, r *blueprint.Role) []Proposed {
	if b.Table(r.People) == nil {
		return nil
	}
	var out []Proposed
	for i := range b.Tables {
		t := &b.Tables[i]
		o := offer{b, r, t}
		if t.ID == r.People {
			out = append(out, o.ownRecord()...)
			continue
		}
		for own := range b.OwnOffers(t.ID, r) { // the shortest
			out = append(out, o.theirs(own)...)
			break
		}
	}
	return out
}

// offer is what is offered to a role in a table.
type offer struct {
	b *blueprint.Blueprint
	r *blueprint.Role
	t *blueprint.Table
}

// theirs offers to see what is theirs, and to add to what points to them
// directly: whoever adds one is its owner, whatever the browser says.
func (o offer) theirs(own string) []Proposed {
	out := o.permit(blueprint.See, own, "propose-rule")
	i := slices.IndexFunc(o.t.Fields, func(f blueprint.Field) bool { return own == f.Key+" = me" })
	if i < 0 {
		return out
	}
	f := o.t.Fields[i]
	given := slices.DeleteFunc(slices.Clone(o.r.Rule(o.t.ID).Given), func(x prop.Given) bool { return x.Field == f.ID })
	return append(out, o.permit(blueprint.Add, own, "propose-given", "field", f.Name, "given",
		append(given, prop.Given{Field: f.ID, Value: "me"}))...)
}

// ownRecord offers people their own record, but not to change what decides who
// they are.
func (o offer) ownRecord() []Proposed {
	rule := o.r.Rule(o.t.ID)
	fixed := append([]string{}, rule.Fixed...) // what is only to be read stays so
	for _, f := range o.b.Decisive(o.t) {
		if !slices.Contains(rule.Hidden, f) && !slices.Contains(fixed, f) {
			fixed = append(fixed, f)
		}
	}
	var names []string
	for _, id := range fixed {
		names = append(names, o.t.Field(id).Name)
	}
	return append(o.permit(blueprint.See, "this = me", "propose-rule"),
		o.permit(blueprint.Modify, "this = me", "propose-fixed", "fields", names, "fixed", fixed)...)
}

// permit offers an action on the records for which a condition holds, with a
// setting besides it.
func (o offer) permit(a blueprint.Action, condition, code string, more ...any) []Proposed {
	if x := o.r.Rule(o.t.ID).Permission(a).Extent; x != "" && x != blueprint.NoRecords {
		return nil
	}
	scope := o.r.RuleScope(o.t.ID, o.b.Catalog())
	what := words.Say("propose-where", words.Args{"table": o.t.Name, "condition": Condition(condition, scope)})
	if ownRecord(condition, scope) {
		what = words.Say("propose-own", words.Args{"table": o.t.Name})
	}
	args := words.Args{"role": o.r.Name, "action": string(a), "what": what}
	values := []any{string(a), blueprint.Permission{Extent: blueprint.Where, Condition: condition}}
	if len(more) == 4 { // what the sentence says of it, and the setting
		args[more[0].(string)] = more[1]
		values = append(values, more[2], more[3])
	}
	change := blueprint.Permit(o.r.ID, o.t.ID, values...)
	return []Proposed{{Text: words.Say(code, args), Changes: []blueprint.Change{change}, Adds: a == blueprint.Add}}
}
