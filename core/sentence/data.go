package sentence

import (
	"slices"
	"strconv"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

var typeWords = map[blueprint.FieldType]string{
	blueprint.Text: "a text", blueprint.LongText: "a long text", blueprint.RichText: "a formatted text", blueprint.Number: "a number", blueprint.Money: "an amount of money",
	blueprint.Percent: "a percentage", blueprint.YesNo: "a yes or no", blueprint.Date: "a date", blueprint.TimeStamp: "a date and time", blueprint.Duration: "a duration",
	blueprint.Choose: "a choice", blueprint.ChooseMany: "several choices", blueprint.Email: "an e-mail address", blueprint.Phone: "a phone number", blueprint.Web: "a web address",
	blueprint.Link: "a link", blueprint.Links: "links", blueprint.File: "a file", blueprint.Picture: "a picture", blueprint.AutoNumber: "an automatic number", blueprint.Lookup: "a value looked up over a link", blueprint.RollUp: "a total over linked records",
	blueprint.Formula: "a formula", blueprint.CreatedAt: "when it was added", blueprint.CreatedBy: "who added it", blueprint.ChangedAt: "when it was last changed", blueprint.ChangedBy: "who last changed it",
}

var totalWords = map[blueprint.Total]string{
	blueprint.CountTotal: "the number", blueprint.SumTotal: "the sum", blueprint.AverageTotal: "the average", blueprint.LeastTotal: "the least",
	blueprint.GreatestTotal: "the greatest", blueprint.JoinedTotal: "all, joined,",
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
		out = append(out, listLines(b, &b.Lists[i])...)
	}
	out = append(out, newLine(Offer, "add_list", "").
		set("Add a choice list", "Add a choice list", &blueprint.AddChoiceList{},
			textSlot("name", "Name of the list", ""),
			Slot{Name: "labels", Label: "Choices, one a line", Control: LongTextControl, Value: ""}).Line)
	return out
}

// uniqueLines tells the sets of fields that are unique together, and offers to
// add one.
func uniqueLines(t *blueprint.Table) []Line {
	var options []Option
	for _, f := range t.Fields {
		if blueprint.Uniqueable(f.Type) {
			options = append(options, Option{Value: f.ID, Label: f.Name})
		}
	}
	slot := func(i int, value []string) Slot {
		return Slot{Name: "uniques." + strconv.Itoa(i), Label: "No two records have the same of all of these", Control: ManyControl, Value: value, Options: options}
	}
	all := &blueprint.SetUniques{Table: t.ID, Uniques: t.Uniques}
	var out []Line
	for i, set := range t.Uniques {
		var names []string
		for _, id := range set {
			names = append(names, t.Field(id).Name)
		}
		without := &blueprint.SetUniques{Table: t.ID, Uniques: slices.Delete(slices.Clone(t.Uniques), i, i+1)}
		out = append(out, newLine(Plain, t.ID+"_unique_"+strconv.Itoa(i), t.ID).say("No two have the same ").
			set(strings.Join(names, " and "), "What is unique together", all, slot(i, set)).say(" together.").act("Remove", "", without).Line)
	}
	if len(options) < 2 {
		return out
	}
	return append(out, newLine(Offer, t.ID+"_add_unique", t.ID).
		set("Keep fields unique together", "What is unique together", &blueprint.SetUniques{Table: t.ID, Uniques: append(slices.Clone(t.Uniques), []string{})}, slot(len(t.Uniques), []string{})).Line)
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
		out = append(out, fieldLine(b, t, &t.Fields[i], i, catalog))
	}
	out = append(out, uniqueLines(t)...)
	return append(out, newLine(Offer, t.ID+"_add", t.ID).
		set("Add a field", "Add a field to "+t.Name, &blueprint.AddField{Table: t.ID}, append(append([]Slot{textSlot("name", "Name", "")}, typeSlots(b, t, &blueprint.Field{Type: blueprint.Text})...),
			textSlot("back", "Name of the field that shows the other side there; leave empty for none", "").when("type", either(blueprint.Link, blueprint.Links)))...).Line)
}
