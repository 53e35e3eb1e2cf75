package blueprint

import (
	"pinegate/core/prop"
	"pinegate/core/words"
)

// make adds tables for what is to be done for records of the page's table, and for the steps of which it is made. Roles that
// open the page and see all of its records can use them.
func (x *ChecklistBlock) make(c Context) {
	of := c.b.Table(c.record())
	name := func(code string) string { return words.Say(code, words.Args{"table": of.Name}) }
	id := x.within
	steps := c.b.newTable(id("s"), name("checklist-steps"), "step",
		Field{ID: id("sa"), Key: "step", Name: "Step", Type: Text, Required: true},
		Field{ID: id("sb"), Key: "due_after", Name: "Due after", Type: Number, FieldSettings: FieldSettings{Unit: "days"}},
		Field{ID: id("sc"), Key: "place", Name: "Place", Type: Number, Help: "The smallest stands first"})
	items := c.b.newTable(id("i"), name("checklist-items"), "step",
		Field{ID: id("ia"), Key: "step", Name: "Step", Type: Text, Required: true},
		Field{ID: id("ib"), Name: words.Capital(of.OneWord()), Type: Link, Target: of.ID, Required: true},
		Field{ID: id("ic"), Key: "done", Name: "Done", Type: YesNo},
		Field{ID: id("id"), Key: "done_at", Name: "Done at", Type: TimeStamp},
		Field{ID: id("ie"), Key: "done_by", Name: "Done by", Type: Text},
		Field{ID: id("if"), Key: "due", Name: "Due", Type: Date},
		Field{ID: id("ig"), Key: "place", Name: "Place", Type: Number},
		Field{ID: id("ih"), Key: "list", Name: "List", Type: Number},
		Field{ID: id("ij"), Key: "made_from", Name: "Made from", Type: Link, Target: steps})
	x.Items, x.Steps, x.Link, x.Text, x.Done = items, steps, id("ib"), id("ia"), id("ic")
	x.At, x.By, x.Due, x.Order, x.Round, x.From = id("id"), id("ie"), id("if"), id("ig"), id("ih"), id("ij")
	x.Values = []prop.Given{{Field: id("ia"), Value: "step"}, {Field: id("ig"), Value: "place"},
		{Field: id("if"), Value: "IF(ISBLANK(due_after), empty, ADDDAYS(TODAY(), due_after))"}}
	all := Permission{Extent: AllRecords}
	for r := range c.users(of) {
		r.Rules = append(r.Rules, Rule{Table: steps, See: all, Add: all, Change: all, Delete: all},
			Rule{Table: items, See: all, Add: all, Change: all, Fixed: []string{id("id"), id("ie"), id("ih"), id("ij")}})
	}
}

// keeps makes the settings of a block that name what it keeps in fields of a table, which another setting names.
func keeps(table, group string, lost prop.Lost) func(name, label, noun string, at *string, to prop.To) prop.Prop {
	return func(name, label, noun string, at *string, to prop.To) prop.Prop {
		return prop.Prop{Name: name, Label: label, Noun: noun, Must: true, Group: group, With: table, Value: prop.One(at, to), Lost: lost}
	}
}

// newTable adds a table with a name that no other has, and gives its id.
func (b *Blueprint) newTable(id, name, label string, fields ...Field) string {
	t := Table{ID: id, Name: name, Key: b.tableKey(name, id), Label: label, Fields: fields}
	for i := range t.Fields {
		if f := &t.Fields[i]; f.Key == "" {
			f.Key = t.fieldKey(f.Name, f.ID)
		}
	}
	b.Tables = append(b.Tables, t)
	return id
}

// users walks the roles that open the page and see all records of a table.
func (c Context) users(of *Table) func(func(*Role) bool) {
	return func(yield func(*Role) bool) {
		for i := range c.b.Roles {
			r := &c.b.Roles[i]
			uses := c.page != nil && c.page.Admits([]string{r.ID}) && r.Rule(of.ID).See.Extent == AllRecords
			if uses && !yield(r) {
				return
			}
		}
	}
}

// first finds the first field for which something holds, where none is said.
func (t *Table) first(at *string, is func(f *Field) bool) {
	if f := find(t.Fields, is); f != nil && *at == "" {
		*at = f.ID
	}
}

// within gives the id of something that is made with the block.
func (h *BlockHead) within(key string) string {
	base := h.ID
	if len(base) > 18 {
		base = base[:18]
	}
	return base + "_" + key
}
