package sentence

import (
	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

var typeWords = map[blueprint.FieldType]string{
	blueprint.Text: "a text", blueprint.LongText: "a long text", blueprint.Number: "a number", blueprint.YesNo: "a yes or no",
	blueprint.Date: "a date", blueprint.Choose: "a choice", blueprint.Email: "an e-mail address", blueprint.Link: "a link",
}

// Data tells the tables and choice lists.
func Data(b *blueprint.Blueprint) []Line {
	var out []Line
	catalog := b.Catalog()
	for i := range b.Tables {
		out = append(out, tableLines(b, &b.Tables[i], catalog)...)
	}
	out = append(out, newLine(Offer, "add_table", "").
		set("Add a table", "Add a table", &blueprint.AddTable{}, textSlot("name", "What its records are called, such as Moorings", "")).Line)
	for i := range b.Lists {
		out = append(out, listLines(&b.Lists[i])...)
	}
	out = append(out, newLine(Offer, "add_list", "").
		set("Add a choice list", "Add a choice list", &blueprint.AddChoiceList{},
			textSlot("name", "Name of the list", ""),
			Slot{Name: "labels", Label: "Choices, one a line", Control: LongTextControl, Value: ""}).Line)
	return out
}

func tableLines(b *blueprint.Blueprint, t *blueprint.Table, catalog *expr.Catalog) []Line {
	scope := &Scope{Row: t.ID, Want: WantText}
	out := []Line{
		newLine(Heading, t.ID, t.ID).
			set(t.Name, "Rename the table", &blueprint.RenameTable{Table: t.ID}, textSlot("name", "Name", t.Name)).
			act("Remove the table", "Remove the table "+t.Name+"? Its records in the draft are set aside and come back with undo.", &blueprint.RemoveTable{Table: t.ID}).Line,
		newLine(Plain, t.ID+"_label", t.ID).say("Each is known by ").
			setParts(expressionWords(t.Label, expr.Scope{Catalog: catalog, Row: t.ID}), "What a record is known by", &blueprint.SetLabel{Table: t.ID},
				Slot{Name: "label", Label: "Expression", Control: ExpressionControl, Value: t.Label, Scope: scope}).say(".").Line,
	}
	for i := range t.Fields {
		out = append(out, fieldLine(b, t, &t.Fields[i], i))
	}
	return append(out, newLine(Offer, t.ID+"_add", t.ID).
		set("Add a field", "Add a field to "+t.Name, &blueprint.AddField{Table: t.ID}, append([]Slot{textSlot("name", "Name", "")}, typeSlots(b, &blueprint.Field{Type: blueprint.Text})...)...).Line)
}

func fieldLine(b *blueprint.Blueprint, t *blueprint.Table, f *blueprint.Field, at int) Line {
	l := newLine(Plain, f.ID, t.ID)
	rename, retype, require, help := &blueprint.RenameField{}, &blueprint.SetFieldType{}, &blueprint.SetRequired{}, &blueprint.SetHelp{}
	rename.Table, rename.Field = t.ID, f.ID
	retype.Table, retype.Field = t.ID, f.ID
	require.Table, require.Field = t.ID, f.ID
	help.Table, help.Field = t.ID, f.ID
	l.set(f.Name, "Rename the field", rename, textSlot("name", "Name", f.Name)).say(" is ").
		set(typeWords[f.Type], "What "+f.Name+" holds", retype, typeSlots(b, f)...)
	switch f.Type {
	case blueprint.Choose:
		if list := b.List(f.List); list != nil {
			l.say(" of ").setName(list.Name, list.ID, "What "+f.Name+" holds", retype, typeSlots(b, f)...)
		}
	case blueprint.Link:
		if target := b.Table(f.Target); target != nil {
			l.say(" to one of ").setName(target.Name, target.ID, "What "+f.Name+" holds", retype, typeSlots(b, f)...)
		}
	}
	words := "may be left empty"
	if f.Required {
		words = "must be filled in"
	}
	l.say("; it ").set(words, "Must it be filled in?", require, Slot{Name: "required", Label: "Must be filled in", Control: SwitchControl, Value: f.Required})
	if f.Help != "" {
		l.say(", with the hint ").set("“"+f.Help+"”", "Hint", help, textSlot("help", "Shown under the field", f.Help))
	}
	l.say(".")
	remove := &blueprint.RemoveField{}
	remove.Table, remove.Field = t.ID, f.ID
	moveTo := func(to int) *blueprint.MoveField {
		m := &blueprint.MoveField{To: to}
		m.Table, m.Field = t.ID, f.ID
		return m
	}
	if at > 0 {
		l.act("Move up", "", moveTo(at-1))
	}
	if at < len(t.Fields)-1 {
		l.act("Move down", "", moveTo(at+1))
	}
	return l.act("Remove", "Remove "+f.Name+" from "+t.Name+"? Its values are set aside and come back with undo.", remove).Line
}

func typeSlots(b *blueprint.Blueprint, f *blueprint.Field) []Slot {
	var types, lists, tables []Option
	for _, t := range blueprint.FieldTypes() {
		types = append(types, Option{string(t), typeWords[t]})
	}
	for _, l := range b.Lists {
		lists = append(lists, Option{l.ID, l.Name})
	}
	for _, t := range b.Tables {
		tables = append(tables, Option{t.ID, t.Name})
	}
	return []Slot{
		pickSlot("type", "It holds", string(f.Type), types),
		pickSlot("list", "Choices from", f.List, lists).when("type", string(blueprint.Choose)),
		pickSlot("target", "A link to one of", f.Target, tables).when("type", string(blueprint.Link)),
	}
}

func listLines(list *blueprint.ChoiceList) []Line {
	out := []Line{newLine(Heading, list.ID, "lists").
		say("Choice list ").set(list.Name, "Rename the choice list", &blueprint.RenameChoiceList{List: list.ID}, textSlot("name", "Name", list.Name)).
		act("Remove the list", "Remove the choice list "+list.Name+"?", &blueprint.RemoveChoiceList{List: list.ID}).Line}
	for _, c := range list.Choices {
		out = append(out, newLine(Plain, c.ID, "lists").
			set(c.Label, "Rename the choice", &blueprint.RenameChoice{List: list.ID, Choice: c.ID}, textSlot("label", "Choice", c.Label)).say(" can be chosen.").
			act("Remove", "Remove the choice "+c.Label+"? Records that have it keep it, shown as a removed choice.", &blueprint.RemoveChoice{List: list.ID, Choice: c.ID}).Line)
	}
	return append(out, newLine(Offer, list.ID+"_add", "lists").
		set("Add a choice", "Add a choice to "+list.Name, &blueprint.AddChoice{List: list.ID}, textSlot("label", "Choice", "")).Line)
}
