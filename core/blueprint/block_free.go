package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var freeKind = BlockKind{
	Name:  "ask",
	Label: "A question that is not kept",
	Noun:  "question",
	Help:  "Its answer is known to what stands below it, and to nobody later",
	Forms: OnlyInForms,
	New:   func() Block { return &FreeBlock{} },
}

// FreeBlock asks for something that no field holds. Its answer is named in conditions of the
// form, and goes with it.
type FreeBlock struct {
	BlockHead
	Name   string    `json:"name"`
	Key    string    `json:"key"`
	Type   FieldType `json:"type"`             // one of a few
	List   string    `json:"list,omitempty"`   // id of the choice list, for [Choose]
	Target string    `json:"target,omitempty"` // id of the table, for [Link]
	// Unit, Currency, Decimals, Least and Most are of numbers, as those of fields are.
	Unit     string `json:"unit,omitempty"`
	Currency string `json:"currency,omitempty"`
	Decimals *int   `json:"decimals,omitempty"`
	Least    string `json:"least,omitempty"`
	Most     string `json:"most,omitempty"`
	Asking
}

// Row gives the kind.
func (*FreeBlock) Row() *BlockKind { return &freeKind }

// Asks gives a field that would hold the answer.
func (x *FreeBlock) Asks(*Blueprint, *Table) *Field {
	return &Field{ID: x.ID, Key: x.Key, Name: x.Name, Type: x.Type, List: x.List, Target: x.Target,
		FieldSettings: FieldSettings{Unit: x.Unit, Currency: x.Currency, Decimals: x.Decimals, Least: x.Least, Most: x.Most}}
}

// Called says which block it is.
func (x *FreeBlock) Called(c Context) string {
	if c.form == nil || x.Name == "" {
		return calledBlock(&freeKind, c)
	}
	return words.Say("called-question", words.Args{"field": x.Name, "in": c.stands()})
}

// Core is the sentence that tells it.
func (*FreeBlock) Core(c Context) string {
	if c.form != nil && c.form.Calculates() {
		return "{name}, {type}"
	}
	return "{name}, {type} that is not kept"
}

// Props lists its settings.
func (x *FreeBlock) Props(c Context) []prop.Prop {
	out := heldProps(c, &x.Name, &x.Type, &x.List, Link, Money, Percent, Duration)
	if x.Type == Link {
		out = append(out, prop.Prop{
			Name:   "target",
			Label:  "Of the table",
			Noun:   "the table of what is chosen",
			Must:   true,
			Asked:  true,
			Resets: true,
			Say:    ", of {}",
			Value:  prop.One(&x.Target, c.Tables()),
			Lost:   takesOut,
		})
	}
	if x.Type.Numeric() || c.b == nil {
		out = append(out, x.numberProps(c)...)
	}
	return append(out, x.Asking.props(c, x)...)
}

// numberProps lists the settings of a question for a number.
func (x *FreeBlock) numberProps(c Context) []prop.Prop {
	unit, currency := prop.Text(&x.Unit), prop.Text(&x.Currency)
	unit.Most, unit.Quoted, currency.Right = 20, true, currencyRight
	var out []prop.Prop
	if x.Type == Money || c.b == nil {
		out = append(out, prop.Prop{Name: "currency", Label: "Currency, by its 3 letters", Noun: "its currency", Say: " in {}",
			Value: currency})
	}
	if x.Type.Row().Measured || c.b == nil {
		out = append(out, prop.Prop{Name: "unit", Label: "Unit", Noun: "its unit", Help: "What stands behind it, such as m or kg",
			Group: "Numbers", Say: ", in {}", Value: unit})
	}
	return append(append(out, limitProps(&x.Least, &x.Most)...), decimalsProp(&x.Decimals))
}

// Start gives it a key.
func (x *FreeBlock) Start(c Context) {
	if x.Key == "" && c.form != nil {
		x.Key = c.freeKey(x.Name, x)
	}
	if x.Type == Money && x.Currency == "" {
		x.Currency = "EUR"
	}
}

// Reset drops what belongs to another type.
func (x *FreeBlock) Reset(Context, string) {
	if x.Type != Choose {
		x.List = ""
	}
	if x.Type != Link {
		x.Target = ""
	}
	if !x.Type.Numeric() {
		x.Unit, x.Currency, x.Decimals, x.Least, x.Most = "", "", nil, "", ""
	}
	x.Asking = Asking{Words: x.Words, Help: x.Help, Required: x.Required, RequiredWhen: x.RequiredWhen}
}

// Rename gives it another name and key; expressions follow.
func (x *FreeBlock) Rename(c Context, name string) error {
	return c.renamesAnswer(x, name, &x.Name, &x.Key)
}

// renamesAnswer gives something that answers name by its id another name and key.
func (c Context) renamesAnswer(x Block, name string, was, key *string) error {
	is := func(r expr.Ref) bool { return r.Table == expr.AnswersTable && r.Field == x.Self().ID }
	return c.b.renames(is, name, c.freeKey(name, x), was, key)
}

// Check refuses a question by whose key another one is named.
func (x *FreeBlock) Check(c Context) *words.Problem {
	if crossed(x.Least, x.Most) {
		return words.New("limits-crossed")
	}
	if c.form != nil && slices.Contains(c.otherKeys(x), x.Key) {
		return words.New("asked-alike", "name", x.Name)
	}
	return nil
}

// freeKey makes a key by which no other answer of the form is named.
func (c Context) freeKey(name string, x Block) string {
	taken := c.otherKeys(x)
	return keyFor(name, "answer", func(k string) bool { return slices.Contains(taken, k) })
}

// otherKeys lists the keys of what else the form asks for.
func (c Context) otherKeys(x Block) []string {
	var out []string
	for y, with := range c.form.Askers {
		if f := c.asked(y); y != x && f != nil && with == nil {
			out = append(out, f.Key)
		}
	}
	for y := range c.form.Results {
		if y != x {
			out = append(out, y.Key)
		}
	}
	for y := range c.form.With {
		if _, key, _ := y.answer(c.b, c.form); y != x {
			out = append(out, key)
		}
	}
	return out
}
