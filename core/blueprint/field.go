package blueprint

import (
	"encoding/json"
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// FieldType says what a field holds. What is to be known of a type stands in its
// row, a [Type].
type FieldType string

// Field is one field of a table. Key is the name of its column.
type Field struct {
	ID       string    `json:"id"`
	Key      string    `json:"key"`
	Name     string    `json:"name"`
	Type     FieldType `json:"type"`
	List     string    `json:"list,omitempty"`   // id of the choice list, for Choose and ChooseMany
	Target   string    `json:"target,omitempty"` // id of the table linked to, for Link and Links
	Required bool      `json:"required,omitempty"`
	Help     string    `json:"help,omitempty"`
	FieldSettings
}

// FieldSettings are the settings that belong to some types of field.
type FieldSettings struct {
	Unique    bool   `json:"unique,omitempty"`
	Default   string `json:"default,omitempty"`   // expression over me
	Least     string `json:"least,omitempty"`     // the least number that is accepted, a decimal
	Most      string `json:"most,omitempty"`      // the greatest
	MaxLength int    `json:"maxLength,omitempty"` // characters of a text
	Decimals  *int   `json:"decimals,omitempty"`  // decimal places of a number; nil keeps all
	Unit      string `json:"unit,omitempty"`      // what stands behind a number
	Show      Show   `json:"show,omitempty"`      // how a number is shown
	Currency  string `json:"currency,omitempty"`  // ISO 4217 code, for Money
	// Several tells that a File or Picture field holds more than one, and
	// Largest how many megabytes each may have; 0 means [DefaultLargest].
	Several bool `json:"several,omitempty"`
	Largest int  `json:"largest,omitempty"`
	// Of is the link on the target table of which these Links are the other
	// side; "" where they are kept by themselves.
	Of string `json:"of,omitempty"`
	// Via is the link that a Lookup or RollUp goes through, Take the field at
	// its end, Total what is made of the values, and Where the condition that
	// the records must meet.
	Via   string `json:"via,omitempty"`
	Take  string `json:"take,omitempty"`
	Total Total  `json:"total,omitempty"`
	Where string `json:"where,omitempty"`
	// Formula is the expression of a Formula.
	Formula string `json:"formula,omitempty"`
	// Prefix, Width and First make an auto number: "INV-", 4 and 1 begin with
	// INV-0001.
	Prefix string `json:"prefix,omitempty"`
	Width  int    `json:"width,omitempty"`
	First  int    `json:"first,omitempty"`
}

// Type is what is to be known of a type of field. One that is added is a row in
// [types], and nobody else has to know its name.
type Type interface {
	Row() TypeRow
	// Value is the type of the field's value in expressions; the zero type where
	// that is found from its source.
	Value(f *Field) expr.Type
	// Props lists the settings without which the type cannot be, or that only it
	// has; they are changed together with it.
	Props(f *Field, c Context) []prop.Prop
	// Core is the sentence that tells a field of the type.
	Core(f *Field) string
	// Read reads a value that was entered as text, with the blanks around it cut
	// off; it is not empty.
	Read(b *Blueprint, f *Field, text string) (expr.Value, *words.Problem)
	// Check tells what is wrong with the type's settings together, or nil.
	Check(f *Field, c Context) *words.Problem
	// Start fills in what a field that was just given the type cannot be without.
	Start(f *Field)
}

// TypeRow are the plain facts of a type of field.
type TypeRow struct {
	Name   FieldType
	Words  string // in a sentence: "a number"
	Label  string // where it is chosen, if that is not the words
	Group  string // under which it is chosen
	Column string // the PostgreSQL type that holds its values; "" where none does
	// Nature says where its values come from.
	Nature Nature
	// Numeric, Filed and Textual values are numbers, files, and texts that people
	// write.
	Numeric, Filed, Textual bool
	Measured                bool // a unit can come after its values
	// Single values can be kept from being in two records; Finding ones can tell
	// by which record somebody is known.
	Single, Finding bool
	// Whole values have no default: they are several, or are files.
	Whole bool
	// System is the column of the system that a Recorded one shows.
	System string
}

// Nature says where the values of a field come from.
type Nature int

// The natures of fields.
const (
	Entered  Nature = iota // people fill them in
	Numbered               // the app counts them up
	Computed               // they are calculated
	Recorded               // the system writes them down when a record is added or changed
)

// Row gives the facts of the type.
func (t FieldType) Row() TypeRow { return rows[t] }

// Computed tells whether the values of such a field are calculated.
func (t FieldType) Computed() bool { return rows[t].Nature == Computed }

// Recorded tells whether the system writes the values of such a field down.
func (t FieldType) Recorded() bool { return rows[t].Nature == Recorded }

// Entered tells whether people fill such a field in.
func (t FieldType) Entered() bool { return rows[t].Nature == Entered }

// Numeric tells whether the values of such a field are numbers.
func (t FieldType) Numeric() bool { return rows[t].Numeric }

// Filed tells whether such a field holds files.
func (t FieldType) Filed() bool { return rows[t].Filed }

// Textual tells whether people write the values of such a field as text.
func (t FieldType) Textual() bool { return rows[t].Textual }

// Column is the PostgreSQL type that holds such a field; "" where none does.
func (t FieldType) Column() string { return rows[t].Column }

// Uniqueable tells whether values of the type can be kept from being in two
// records.
func Uniqueable(t FieldType) bool { return rows[t].Single }

// ExprType is the type of the field's value in expressions; the zero type for
// computed fields, whose type is found from their source.
func (f Field) ExprType() expr.Type { return typeOf(f.Type).Value(&f) }

// ReadText reads a value of the field that was entered as text; it is not empty.
func (f *Field) ReadText(b *Blueprint, text string) (expr.Value, *words.Problem) {
	return typeOf(f.Type).Read(b, f, text)
}

// typeOf gives the row of a type; for one that there is not, one that knows
// nothing.
func typeOf(t FieldType) Type {
	if row, ok := byName[t]; ok {
		return row
	}
	return base{}
}

// Core is the sentence that tells the field.
func (f *Field) Core(Context) string { return typeOf(f.Type).Core(f) }

// Called says which field it is.
func (f *Field) Called(c Context) string {
	if c.table == nil {
		return f.Name
	}
	return words.Say("called-in", words.Args{"name": f.Name, "in": c.table.Name})
}

// Props lists the settings of the field.
func (f *Field) Props(c Context) []prop.Prop {
	row := f.Type.Row()
	out := []prop.Prop{
		{Name: "name", Label: "Name", Noun: "the name", Must: true, Asked: true, Value: named(&f.Name)},
		{
			Name:   "type",
			Label:  "It holds",
			Noun:   "what it holds",
			Must:   true,
			Asked:  true,
			Resets: true,
			Stores: true,
			Value:  prop.Pick(&f.Type, typeOptions()...),
		},
	}
	for _, p := range typeOf(f.Type).Props(f, c) {
		p.With, p.Asked, p.Stores = "type", true, true
		out = append(out, p)
	}
	if row.Measured || row.Nature == Computed {
		unit := prop.Text(&f.Unit)
		unit.Most = 20
		out = append(
			out,
			prop.Prop{
				Name:  "unit",
				Label: "Unit",
				Help:  "What comes after the number, such as m",
				Group: "Numbers",
				Say:   " in {}",
				Value: unit,
			},
		)
	}
	if row.Nature == Entered && f.Of == "" {
		out = append(
			out,
			prop.Prop{
				Name:  "required",
				Label: "Required",
				Noun:  "whether it is required",
				Help:  "No one can leave it empty",
				Group: "Filling in",
				Say:   ", {|required}",
				Value: prop.Switch(&f.Required),
			},
		)
	}
	if row.Single {
		out = append(
			out,
			prop.Prop{
				Name:   "unique",
				Label:  "No duplicates",
				Noun:   "whether duplicates are prevented",
				Help:   "Two records can’t have the same value",
				Group:  "Filling in",
				Say:    ", {|no duplicates}",
				Stores: true,
				Value:  prop.Switch(&f.Unique),
			},
		)
	}
	out = append(out, f.limits(row)...)
	if row.Nature == Entered && !row.Whole {
		out = append(
			out,
			prop.Prop{
				Name:  "default",
				Label: "It starts as",
				Noun:  "the default",
				Help:  "Its value until someone changes it",
				Group: "Filling in",
				Say:   ". It starts as {}",
				Value: prop.Expression(&f.Default, c.Person(), f.ExprType()),
				Lost:  prop.Lost{Words: "it has no default any more"},
			},
		)
	}
	help := prop.Text(&f.Help)
	help.Most, help.Quoted = 500, true
	return append(
		out,
		prop.Prop{Name: "help", Label: "Help", Help: "Shown below the field", Group: "Filling in", Say: ". Its help says {}", Value: help},
	)
}

// limitProps lists the settings by which numbers are refused.
func limitProps(from, to *string) []prop.Prop {
	least, most := prop.Text(from), prop.Text(to)
	least.Right, most.Right = decimalRight, decimalRight
	return []prop.Prop{{Name: "least", Label: "Smallest value", Group: "Numbers", Say: ", at least {}", Value: least},
		{Name: "most", Label: "Largest value", Group: "Numbers", Say: ", at most {}", Value: most}}
}

func decimalsProp(at **int) prop.Prop {
	return prop.Prop{Name: "decimals", Label: "Decimal places", Group: "Numbers", Say: ", {} decimal place||, {} decimal places",
		Value: prop.Count(at, 12)}
}

// crossed tells whether the least of two limits is greater than the greatest.
func crossed(least, most string) bool {
	from, limited := decimalOf(least)
	to, both := decimalOf(most)
	return limited && both && from.GreaterThan(to)
}

// limits lists the settings by which values are refused, or shown.
func (f *Field) limits(row TypeRow) []prop.Prop {
	var out []prop.Prop
	if row.Numeric {
		out = append(out, limitProps(&f.Least, &f.Most)...)
	}
	if row.Nature == Computed {
		out = append(
			out,
			prop.Prop{
				Name:  "currency",
				Label: "As money in",
				Noun:  "the currency",
				Help:  "Its letters, such as EUR",
				Group: "Numbers",
				Say:   ", in {}",
				Value: currencyOf(f),
			},
		)
	}
	if row.Numeric || row.Nature == Computed {
		out = append(out, decimalsProp(&f.Decimals))
	}
	if row.Textual {
		out = append(
			out,
			prop.Prop{
				Name:  "maxLength",
				Label: "Most characters",
				Group: "Filling in",
				Say:   ", at most {} character||, at most {} characters",
				Value: prop.Number(&f.MaxLength, 1, 100_000),
			},
		)
	}
	return out
}

// Check tells what is wrong with the field's settings together, or nil.
func (f *Field) Check(c Context) *words.Problem {
	if !keyPattern.MatchString(f.Key) || slices.Contains(systemColumns(), f.Key) || expr.Reserved(f.Key) {
		return words.New("key", "key", f.Key)
	}
	if crossed(f.Least, f.Most) {
		return words.New("limits-crossed")
	}
	return typeOf(f.Type).Check(f, c)
}

// Rename gives the field another name and key; expressions follow.
func (f *Field) Rename(c Context, name string) error {
	return c.b.renames(
		func(r expr.Ref) bool {
			return (r.Table == c.table.ID || r.Table == expr.AnswersTable || r.Table == expr.WasTable) && r.Field == f.ID
		},
		name,
		c.table.fieldKey(name, f.ID),
		&f.Name,
		&f.Key,
	)
}

// Reset drops the settings that do not belong to the type any more, and fills in
// those without which it cannot be.
func (f *Field) Reset(c Context, _ string) {
	fresh := Field{ID: f.ID, Key: f.Key, Name: f.Name, Type: f.Type}
	for _, p := range f.Props(c) {
		if p.Name == "name" || p.Name == "type" {
			continue
		}
		raw, err := json.Marshal(p.Get())
		if err != nil {
			continue // values are plain texts and numbers
		}
		for _, q := range fresh.Props(c) {
			if q.Name == p.Name {
				_ = q.Set(raw) // it came from such a value
			}
		}
	}
	*f = fresh
	typeOf(f.Type).Start(f)
}

// takesOut is what becomes of what is calculated from something that is removed.
var takesOut = prop.Lost{Words: "it is removed, too", TakeOut: true, Whole: true}
