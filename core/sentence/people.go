package sentence

import (
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// People tells the roles and what each may do.
func People(b *blueprint.Blueprint) []Line {
	catalog := b.Catalog()
	out := gateLines(b)
	for i := range b.Roles {
		r := &b.Roles[i]
		head := newLine(Heading, r.ID, r.ID).set(r.Name, "Rename the role", &blueprint.RenameRole{Role: r.ID}, textSlot("name", "Name", r.Name))
		if r.ID != blueprint.VisitorRole {
			head.act("Remove the role", "Remove the role "+r.Name+" with its rules?", &blueprint.RemoveRole{Role: r.ID})
		}
		out = append(append(out, head.Line, peopleLine(b, r, catalog)), roleGateLines(b, r, catalog)...)
		var free []Option
		for j := range b.Tables {
			t := &b.Tables[j]
			if slices.ContainsFunc(r.Rules, func(x blueprint.Rule) bool { return x.Table == t.ID }) {
				out = append(out, ruleLines(r, r.Rule(t.ID), t, b, catalog)...)
			} else {
				free = append(free, Option{Value: t.ID, Label: t.Name})
			}
		}
		out = append(out, expectationLines(b, r, catalog)...)
		if len(free) > 0 {
			out = append(out, newLine(Offer, r.ID+"_add", r.ID).
				set("Let "+r.Name+" use a table", "Let "+r.Name+" use a table", &blueprint.SetPermission{Role: r.ID, Action: blueprint.See, Extent: blueprint.NoRecords},
					pickSlot("table", "Table", free[0].Value, free),
					pickSlot("extent", "They see", "all", []Option{{Value: "all", Label: "all records"}, {Value: "none", Label: "no records yet"}})).Line)
		}
	}
	return append(out, newLine(Offer, "add_role", "").set("Add a role", "Add a role", &blueprint.AddRole{}, textSlot("name", "What its people are called, such as Suppliers", "")).Line)
}

func peopleLine(b *blueprint.Blueprint, r *blueprint.Role, catalog *expr.Catalog) Line {
	l := newLine(Plain, r.ID+"_people", r.ID)
	if r.ID == blueprint.VisitorRole {
		return l.say("They are those who are not signed in.").Line
	}
	tables := []Option{{Value: "", Label: "no table: nobody can sign in"}}
	for _, t := range b.Tables {
		tables = append(tables, Option{Value: t.ID, Label: t.Name})
	}
	slots := []Slot{pickSlot("table", "Their records are in", r.People, tables)}
	for _, t := range b.Tables {
		var emails []Option
		for _, f := range t.Fields {
			if f.Type == blueprint.Email {
				emails = append(emails, Option{Value: f.ID, Label: f.Name})
			}
		}
		if len(emails) > 1 {
			slots = append(slots, pickSlot("email", "Their e-mail is in", r.Email, emails).when("table", t.ID))
		}
	}
	change := &blueprint.SetPeople{Role: r.ID}
	t := b.Table(r.People)
	if t == nil {
		return l.say("Their records are in ").set("no table yet, so nobody can sign in", "Who they are", change, slots...).say(".").Line
	}
	f := t.Field(r.Email)
	words := []Part{{Text: "all of them"}}
	if r.Where != "" {
		words = append([]Part{{Text: "those where "}}, conditionWords(r.Where, b.PeopleScope(r, catalog))...)
	}
	l.say("They are the people in ").setName(t.Name, t.ID, "Who they are", change, slots...).say(", ").
		setParts(words, "Who has the role "+r.Name+"?", &blueprint.SetRoleCondition{Role: r.ID},
			Slot{Name: "where", Label: "Condition over their record; empty for all", Control: ExpressionControl, Value: r.Where, Scope: &Scope{Row: r.People, Want: WantCondition}})
	return l.say(", and are known by their ").setName(f.Name, f.ID, "Who they are", change, slots...).say(".").Line
}

var actionWords = map[blueprint.Action]string{blueprint.See: "see", blueprint.Add: "add", blueprint.Modify: "change", blueprint.Delete: "delete"}

func ruleLines(r *blueprint.Role, rule blueprint.Rule, t *blueprint.Table, b *blueprint.Blueprint, catalog *expr.Catalog) []Line {
	id := r.ID + "_" + t.ID
	l := newLine(Plain, id, r.ID).say("Of ").name(t.Name, t.ID).say(" they ")
	for i, a := range blueprint.Actions() {
		if i > 0 {
			l.say(map[bool]string{true: " and ", false: ", "}[i == 3])
		}
		p := rule.Permission(a)
		l.say(actionWords[a]+" ").setParts(permissionWords(r, t, p, catalog), "Which of "+t.Name+" do "+r.Name+" "+actionWords[a]+"?",
			&blueprint.SetPermission{Role: r.ID, Table: t.ID, Action: a}, permissionSlots(b, r, t, p, catalog)...)
	}
	l.say(".")
	hidden := newLine(Plain, id+"_fields", r.ID).say("Of their fields, ").
		setParts(fieldNames(t, rule.Hidden, "none"), "Hidden from "+r.Name, &blueprint.SetFieldAccess{Role: r.ID, Table: t.ID}, fieldsSlot("hidden", "Not seen at all", t, rule.Hidden)).
		say(isAre(rule.Hidden)+" hidden and ").
		setParts(fieldNames(t, rule.Fixed, "none"), "Fixed for "+r.Name, &blueprint.SetFieldAccess{Role: r.ID, Table: t.ID}, fieldsSlot("fixed", "Seen, but not set by them", t, rule.Fixed)).
		say(isAre(rule.Fixed) + " only to be read.")
	out := []Line{l.Line, hidden.Line}
	if x := rule.Add.Extent; x == blueprint.AllRecords || x == blueprint.Where {
		out = append(out, givenLine(b, r, rule, t))
	}
	return out
}

func isAre(list []string) string {
	if len(list) > 1 {
		return " are"
	}
	return " is"
}

func permissionWords(r *blueprint.Role, t *blueprint.Table, p blueprint.Permission, catalog *expr.Catalog) []Part {
	switch p.Extent {
	case blueprint.AllRecords:
		return []Part{{Text: "all"}}
	case blueprint.Where:
		return append([]Part{{Text: "those where "}}, conditionWords(p.Condition, r.RuleScope(t.ID, catalog))...)
	}
	return []Part{{Text: "none"}}
}

func permissionSlots(b *blueprint.Blueprint, r *blueprint.Role, t *blueprint.Table, p blueprint.Permission, catalog *expr.Catalog) []Slot {
	extent := p.Extent
	if extent == "" {
		extent = blueprint.NoRecords
	}
	return []Slot{
		pickSlot("extent", "Which records", string(extent), []Option{{Value: "none", Label: "none"}, {Value: "all", Label: "all"}, {Value: "where", Label: "those where a condition holds"}}),
		Slot{Name: "condition", Label: "Condition", Control: ExpressionControl, Value: p.Condition, Options: ownOffers(b, t.ID, r, catalog),
			Scope: &Scope{Row: t.ID, Me: r.People, Want: WantCondition}}.when("extent", "where"),
	}
}

func fieldsSlot(name, label string, t *blueprint.Table, value []string) Slot {
	if value == nil {
		value = []string{}
	}
	return Slot{Name: name, Label: label, Control: ManyControl, Value: value, Options: fieldOptions(t)}
}

func fieldOptions(t *blueprint.Table) []Option {
	var out []Option
	for _, f := range t.Fields {
		out = append(out, Option{Value: f.ID, Label: f.Name})
	}
	return out
}

func fieldNames(t *blueprint.Table, ids []string, none string) []Part {
	var out []Part
	for _, id := range ids {
		f := t.Field(id)
		if f == nil {
			continue
		}
		if len(out) > 0 {
			out = append(out, Part{Text: ", "})
		}
		out = append(out, Part{Text: f.Name, Ref: f.ID})
	}
	if out == nil {
		return []Part{{Text: none}}
	}
	return out
}
