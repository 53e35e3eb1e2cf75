package sentence

import (
	"fmt"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// fieldLine tells what a field holds and how it is filled in.
func fieldLine(b *blueprint.Blueprint, t *blueprint.Table, f *blueprint.Field, at int, catalog *expr.Catalog) Line {
	l := newLine(Plain, f.ID, t.ID)
	rename := &blueprint.RenameField{}
	rename.Table, rename.Field = t.ID, f.ID
	l.set(f.Name, "Rename the field", rename, textSlot("name", "Name", f.Name)).say(map[bool]string{true: " are ", false: " is "}[f.Type == blueprint.Links])
	l.holds(b, t, f, catalog)
	l.filledIn(t, f)
	l.say(".")
	remove := &blueprint.RemoveField{}
	remove.Table, remove.Field = t.ID, f.ID
	moveTo := func(to int) *blueprint.MoveField {
		m := &blueprint.MoveField{To: to}
		m.Table, m.Field = t.ID, f.ID
		return m
	}
	change, slots := limits(t, f)
	l.actSet("Limits and hint", "Limits and hint of "+f.Name, change, slots...)
	if at > 0 {
		l.act("Move up", "", moveTo(at-1))
	}
	if at < len(t.Fields)-1 {
		l.act("Move down", "", moveTo(at+1))
	}
	return l.moves(t.ID, at, moveTo(at)).act("Remove", "Remove "+f.Name+" from "+t.Name+"? Its values are set aside and come back with undo.", remove).Line
}

// holds tells the type of a field with what belongs to it.
func (l *line) holds(b *blueprint.Blueprint, t *blueprint.Table, f *blueprint.Field, catalog *expr.Catalog) {
	retype := &blueprint.SetFieldType{FieldSettings: f.FieldSettings}
	retype.Table, retype.Field = t.ID, f.ID
	slots := typeSlots(b, t, f)
	title := "What " + f.Name + " holds"
	name := func(text, ref string) { l.setName(text, ref, title, retype, slots...) }
	scope := expr.Scope{Catalog: catalog, Row: t.ID}
	via := t.Field(f.Via)
	switch f.Type {
	case blueprint.Choose, blueprint.ChooseMany:
		l.set(typeWords[f.Type], title, retype, slots...)
		if list := b.List(f.List); list != nil {
			l.say(" of ")
			name(list.Name, list.ID)
		}
	case blueprint.Link, blueprint.Links:
		target := b.Table(f.Target)
		if of := target.Field(f.Of); of != nil {
			l.say("the ").name(target.Name, target.ID).say(" whose ").name(of.Name, of.ID).say(" it is")
			return
		}
		l.set(typeWords[f.Type], title, retype, slots...).say(map[blueprint.FieldType]string{blueprint.Link: " to one of ", blueprint.Links: " to "}[f.Type])
		name(target.Name, target.ID)
	case blueprint.Formula:
		l.setParts(expressionWords(f.Formula, scope), title, retype, slots...)
	case blueprint.Lookup:
		l.say("the ").setName(b.Table(via.Target).Field(f.Take).Name, f.Take, title, retype, slots...).say(" of its ").name(via.Name, via.ID)
	case blueprint.RollUp:
		l.set(totalWords[f.Total], title, retype, slots...).say(" of ")
		if f.Total != blueprint.CountTotal {
			l.say("the ").name(b.Table(via.Target).Field(f.Take).Name, f.Take).say(" of ")
		}
		l.say("its ").name(via.Name, via.ID)
		if f.Where != "" {
			l.say(" where ").setParts(conditionWords(f.Where, expr.Scope{Catalog: catalog, Row: t.ID, Inner: via.Target}), title, retype, slots...)
		}
	case blueprint.Money:
		l.set(typeWords[f.Type], title, retype, slots...).say(" in ")
		l.set(f.Currency, title, retype, slots...)
	case blueprint.File, blueprint.Picture:
		words := typeWords[f.Type]
		if f.Several {
			words = fmt.Sprintf("several %ss", f.Type)
		}
		l.set(words, title, retype, slots...)
	case blueprint.AutoNumber:
		l.set(typeWords[f.Type]+" such as "+f.Prefix+strings.Repeat("0", max(0, f.Width-1))+"7", title, retype, slots...)
	default:
		l.set(typeWords[f.Type], title, retype, slots...)
	}
}

// filledIn tells whether a field must be filled in, and with what limits.
func (l *line) filledIn(t *blueprint.Table, f *blueprint.Field) {
	if f.Type.Entered() && f.Of == "" {
		require := &blueprint.SetRequired{}
		require.Table, require.Field = t.ID, f.ID
		words := "may be left empty"
		if f.Required {
			words = "must be filled in"
		}
		l.say(map[bool]string{true: "; they ", false: "; it "}[f.Type == blueprint.Links]).
			set(words, "Must it be filled in?", require, Slot{Name: "required", Label: "Must be filled in", Control: SwitchControl, Value: f.Required})
	}
	if words := limitWords(f); words != "" {
		change, slots := limits(t, f)
		l.say(" (").set(words, "Limits and hint of "+f.Name, change, slots...).say(")")
	}
}

// limits gives the change of a field's further settings, with its slots.
func limits(t *blueprint.Table, f *blueprint.Field) (*blueprint.SetFieldSettings, []Slot) {
	change := &blueprint.SetFieldSettings{FieldSettings: f.FieldSettings}
	change.Table, change.Field = t.ID, f.ID
	return change, append(limitSlots(f), textSlot("help", "Hint, shown under the field", f.Help))
}

func limitWords(f *blueprint.Field) string {
	var out []string
	add := func(is bool, words string) {
		if is {
			out = append(out, words)
		}
	}
	add(f.Unique, "no value twice")
	add(f.Default != "", "the default "+f.Default)
	add(f.Least != "", "at least "+f.Least)
	add(f.Most != "", "at most "+f.Most)
	if f.MaxLength > 0 {
		add(true, "at most "+count(f.MaxLength, "character", "characters"))
	}
	if f.Decimals != nil {
		add(true, count(*f.Decimals, "decimal place", "decimal places"))
	}
	if f.Largest > 0 {
		add(true, fmt.Sprintf("at most %d MB each", f.Largest))
	}
	add(f.Unit != "", "the unit "+f.Unit)
	add(f.Help != "", "the hint “"+f.Help+"”")
	return strings.Join(out, ", ")
}

// limitSlots lists the settings that a field's type has besides what it holds.
func limitSlots(f *blueprint.Field) []Slot {
	var out []Slot
	if blueprint.Uniqueable(f.Type) {
		out = append(out, Slot{Name: "unique", Label: "No two records may have the same", Control: SwitchControl, Value: f.Unique})
	}
	if f.Type.Entered() && f.Type != blueprint.Links && f.Type != blueprint.ChooseMany && f.Type != blueprint.Link && !f.Type.Filed() {
		out = append(out, Slot{Name: "default", Label: "Filled in beforehand with", Control: ExpressionControl, Value: f.Default, Scope: &Scope{Me: expr.PersonTable, Want: WantValue}})
	}
	if f.Type.Numeric() {
		out = append(out, textSlot("least", "Least value", f.Least), textSlot("most", "Greatest value", f.Most))
	}
	if f.Type.Textual() {
		out = append(out, Slot{Name: "maxLength", Label: "Most characters", Control: NumberControl, Value: orNothing(f.MaxLength)})
	}
	if f.Type.Filed() {
		out = append(out, Slot{Name: "largest", Label: fmt.Sprintf("Most megabytes a file (%d, if empty)", blueprint.DefaultLargest), Control: NumberControl, Value: orNothing(f.Largest)})
	}
	if f.Type.Numeric() && f.Type != blueprint.Duration || f.Type.Computed() {
		var decimals any
		if f.Decimals != nil {
			decimals = *f.Decimals
		}
		out = append(out, Slot{Name: "decimals", Label: "Decimal places", Control: NumberControl, Value: decimals}, textSlot("unit", "Unit behind it, such as m", f.Unit))
	}
	return out
}

// orNothing gives nothing for a number that is not set.
func orNothing(n int) any {
	if n == 0 {
		return nil
	}
	return n
}

// either makes the condition of a slot that is shown for several types.
func either(types ...blueprint.FieldType) string {
	words := make([]string, len(types))
	for i, t := range types {
		words[i] = string(t)
	}
	return strings.Join(words, "|")
}

// typeSlots lists what a type is made of: the type itself, and what belongs to
// each.
func typeSlots(b *blueprint.Blueprint, t *blueprint.Table, f *blueprint.Field) []Slot {
	var types, lists, tables, vias, totals, takes []Option
	for _, x := range blueprint.FieldTypes() {
		types = append(types, Option{Value: string(x), Label: typeWords[x]})
	}
	for _, l := range b.Lists {
		lists = append(lists, Option{Value: l.ID, Label: l.Name})
	}
	for _, x := range b.Tables {
		tables = append(tables, Option{Value: x.ID, Label: x.Name})
	}
	for _, x := range blueprint.Totals() {
		totals = append(totals, Option{Value: string(x), Label: totalWords[x]})
	}
	for _, via := range t.Fields {
		kind := map[blueprint.FieldType]blueprint.FieldType{blueprint.Link: blueprint.Lookup, blueprint.Links: blueprint.RollUp}[via.Type]
		if kind == "" {
			continue
		}
		vias = append(vias, Option{Value: via.ID, Label: via.Name, When: &When{"type", string(kind)}})
		for _, x := range b.Table(via.Target).Fields {
			if x.Type != blueprint.Links && x.Type != blueprint.ChooseMany && !x.Type.Filed() {
				takes = append(takes, Option{Value: x.ID, Label: x.Name, When: &When{"via", via.ID}})
			}
		}
	}
	through := either(blueprint.Lookup, blueprint.RollUp)
	return []Slot{
		pickSlot("type", "It holds", string(f.Type), types),
		pickSlot("list", "Choices from", f.List, lists).when("type", either(blueprint.Choose, blueprint.ChooseMany)),
		pickSlot("target", "Links to", f.Target, tables).when("type", either(blueprint.Link, blueprint.Links)),
		Slot{Name: "several", Label: "More than one", Control: SwitchControl, Value: f.Several}.when("type", either(blueprint.File, blueprint.Picture)),
		textSlot("currency", "Currency, by its three letters", orElse(f.Currency, "EUR")).when("type", string(blueprint.Money)),
		{Name: "formula", Label: "Formula", Control: ExpressionControl, Value: f.Formula, Scope: &Scope{Row: t.ID, Want: WantValue}, When: &When{"type", string(blueprint.Formula)}},
		pickSlot("via", "Over", f.Via, vias).when("type", through),
		pickSlot("total", "It shows", string(orElse(f.Total, blueprint.CountTotal)), totals).when("type", string(blueprint.RollUp)),
		pickSlot("take", "Of the field", f.Take, takes).when("type", through),
		{Name: "where", Label: "Only where (leave empty for all)", Control: ExpressionControl, Value: f.Where, Scope: &Scope{Row: t.ID, Via: "via", Want: WantCondition}, When: &When{"type", string(blueprint.RollUp)}},
		textSlot("prefix", "What stands before the number", f.Prefix).when("type", string(blueprint.AutoNumber)),
		Slot{Name: "width", Label: "Digits at least", Control: NumberControl, Value: f.Width}.when("type", string(blueprint.AutoNumber)),
		Slot{Name: "first", Label: "First number", Control: NumberControl, Value: f.First}.when("type", string(blueprint.AutoNumber)),
	}
}

func orElse[T ~string](value, other T) T {
	if value == "" {
		return other
	}
	return value
}
