package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// types lists the types of field in the order in which they are offered.
var types = []Type{
	plainText, longText, richText, number, money, percent, yesNo, date, timeStamp, duration, oneChoice, someChoices,
	email, phone, web, file, picture, link, links, autoNumber, lookup, rollUp, formula, createdAt, createdBy, changedAt, changedBy,
}

// byName and rows find a type, and the facts of it, by its name.
var byName, rows = index(types)

func index(types []Type) (map[FieldType]Type, map[FieldType]TypeRow) {
	all, facts := map[FieldType]Type{}, map[FieldType]TypeRow{}
	for _, t := range types {
		row := t.Row()
		all[row.Name], facts[row.Name] = t, row
	}
	return all, facts
}

// FieldTypes lists the names of the types in the order in which they are offered.
func FieldTypes() []FieldType {
	out := make([]FieldType, len(types))
	for i, t := range types {
		out[i] = t.Row().Name
	}
	return out
}

func typeOptions() []prop.Option {
	out := make([]prop.Option, len(types))
	for i, t := range types {
		row := t.Row()
		out[i] = prop.Option{Value: string(row.Name), Words: row.Words, Label: row.Label}
	}
	return out
}

// base is what most types have in common.
type base struct{ row TypeRow }

func (t base) Row() TypeRow { return t.row }

func (t base) Value(*Field) expr.Type { return expr.Type{Kind: expr.Text} }

func (t base) Props(*Field, Context) []prop.Prop { return nil }

func (t base) Core(*Field) string { return "{name} is {type}" }

func (t base) Check(*Field, Context) *words.Problem { return nil }

func (t base) Start(*Field) {}

// Read refuses a value: the app sets such a field, or it is entered in another
// way.
func (t base) Read(_ *Blueprint, f *Field, _ string) (expr.Value, *words.Problem) {
	if t.row.Filed {
		return expr.Value{}, words.New("read-file", "field", f.Name)
	}
	return expr.Value{}, words.New("read-set-by-app", "field", f.Name)
}
