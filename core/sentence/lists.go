package sentence

import (
	"strconv"

	"pinegate/core/blueprint"
)

// listLines tells a choice list: its choices in order, and its extra columns.
func listLines(b *blueprint.Blueprint, list *blueprint.ChoiceList) []Line {
	out := []Line{newLine(Heading, list.ID, "lists").
		say("Choice list ").set(list.Name, "Rename the choice list", &blueprint.RenameChoiceList{List: list.ID}, textSlot("name", "Name", list.Name)).
		act("Remove the list", "Remove the choice list "+list.Name+"?", &blueprint.RemoveChoiceList{List: list.ID}).Line}
	uses := newLine(Plain, list.ID+"_uses", "lists").say("Everybody who may see such a field can see all of its choices, so keep no secrets in it. ")
	if places := b.UsesOfList(list.ID); len(places) > 0 {
		uses.say("It is used by ")
		for i, f := range places {
			if i > 0 {
				uses.say(", ")
			}
			uses.name(f.Name, f.ID).say(" of ").name(f.TableName, f.Table)
		}
		uses.say(".")
	} else {
		uses.say("No field uses it yet.")
	}
	out = append(out, uses.Line)
	for i := range list.Columns {
		out = append(out, listColumnLine(list, &list.Columns[i]))
	}
	for i := range list.Choices {
		out = append(out, choiceLine(list, i))
	}
	return append(out, newLine(Offer, list.ID+"_add", "lists").
		set("Add a choice", "Add a choice to "+list.Name, &blueprint.AddChoice{List: list.ID}, textSlot("label", "Choice", "")).Line,
		newLine(Offer, list.ID+"_add_column", "lists").set("Add a column for all choices", "Add a column to "+list.Name, &blueprint.AddListColumn{List: list.ID}, textSlot("name", "Name, such as Day rate", ""), columnTypeSlot()).Line)
}

func columnTypeSlot() Slot {
	var types []Option
	for _, t := range blueprint.ColumnTypes() {
		types = append(types, Option{Value: string(t), Label: "a " + string(t)})
	}
	return pickSlot("type", "It holds", string(blueprint.TextColumn), types)
}

func listColumnLine(list *blueprint.ChoiceList, col *blueprint.ListColumn) Line {
	rename, remove := &blueprint.RenameListColumn{}, &blueprint.RemoveListColumn{}
	rename.List, rename.Column, remove.List, remove.Column = list.ID, col.ID, list.ID, col.ID
	return newLine(Plain, col.ID, "lists").say("Each choice has the column ").set(col.Name, "Rename the column", rename, textSlot("name", "Name", col.Name)).
		say(", a "+string(col.Type)+".").act("Remove", "Remove the column "+col.Name+" from "+list.Name+"?", remove).Line
}

func choiceLine(list *blueprint.ChoiceList, at int) Line {
	c := &list.Choices[at]
	retire := &blueprint.RetireChoice{}
	retire.List, retire.Choice = list.ID, c.ID
	words := "can be chosen"
	if c.Retired {
		words = "is retired: records keep it, and nobody can choose it any more"
	}
	l := newLine(Plain, c.ID, "lists").
		set(c.Label, "Rename the choice", &blueprint.RenameChoice{List: list.ID, Choice: c.ID}, textSlot("label", "Choice", c.Label)).say(" ").
		set(words, "Offer "+c.Label+"?", retire, Slot{Name: "retired", Label: "Retired: kept on records, not offered any more", Control: SwitchControl, Value: c.Retired})
	for i, col := range list.Columns {
		set := &blueprint.SetChoiceValue{Column: col.ID}
		set.List, set.Choice = list.ID, c.ID
		value := c.Values[col.ID]
		shown := value
		if shown == "" {
			shown = "nothing"
		} else if col.Type == blueprint.PictureColumn {
			shown = "a picture"
		}
		l.say(map[bool]string{true: "; its ", false: ", its "}[i == 0]).name(col.Name, col.ID).say(" is ").
			set(shown, col.Name+" of "+c.Label, set, columnSlot(&col, value))
	}
	l.say(".")
	move := func(to int) *blueprint.MoveChoice {
		m := &blueprint.MoveChoice{To: to}
		m.List, m.Choice = list.ID, c.ID
		return m
	}
	l.moves(list.ID, at, move(at))
	if at > 0 {
		l.act("Move up", "", move(at-1))
	}
	if at < len(list.Choices)-1 {
		l.act("Move down", "", move(at+1))
	}
	for i, other := range list.Choices {
		if i != at && len(list.Choices) <= mostMerges {
			merge := &blueprint.MergeChoice{Into: other.ID}
			merge.List, merge.Choice = list.ID, c.ID
			l.act("Merge into "+other.Label, "Give all records that have "+c.Label+" the choice "+other.Label+" instead, and take "+c.Label+" out of the list?", merge)
		}
	}
	return l.act("Remove", "Remove the choice "+c.Label+"? Records that have it keep it, shown as a removed choice.", &blueprint.RemoveChoice{List: list.ID, Choice: c.ID}).Line
}

// mostMerges is how many choices a list may have for each to be offered for
// merging in the menu of a choice.
const mostMerges = 12

func columnSlot(col *blueprint.ListColumn, value string) Slot {
	switch col.Type {
	case blueprint.YesNoColumn:
		return pickSlot("value", col.Name, value, []Option{{Value: "", Label: "nothing"}, {Value: "yes", Label: "yes"}, {Value: "no", Label: "no"}})
	case blueprint.ColourColumn:
		return Slot{Name: "value", Label: col.Name, Control: ColourControl, Value: value}
	case blueprint.PictureColumn:
		return Slot{Name: "value", Label: col.Name, Control: PictureControl, Value: value}
	}
	return textSlot("value", col.Name, value)
}

func count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return strconv.Itoa(n) + " " + many
}
