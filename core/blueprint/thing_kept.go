package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Kept is a value that is remembered for whoever looks, for a time, across pages. It
// protects nothing: people can set it to what they like.
type Kept struct {
	ID   string    `json:"id"`
	Key  string    `json:"key"`
	Name string    `json:"name"`
	Type FieldType `json:"type"`           // one of a few
	List string    `json:"list,omitempty"` // id of the choice list, for [Choose]
	Days int       `json:"days,omitempty"` // for how long; 0 for the default
	// Person tells that it is kept for people who are signed in, in all their browsers; for
	// others it is kept in the browser.
	Person bool `json:"person,omitempty"`
}

// DefaultKeptDays is for how many days a value is kept where nothing is said.
const DefaultKeptDays = 14

// keptTypes are the types that kept values, and inputs of parts, can have.
func keptTypes(also ...FieldType) []prop.Option {
	var out []prop.Option
	for _, t := range append([]FieldType{Text, Number, YesNo, Date, Choose}, also...) {
		out = append(out, prop.Option{Value: string(t), Words: t.Row().Words})
	}
	return out
}

// heldProps lists the settings of what holds values under a name: a kept value, an input of a
// part, or a question that is not kept, which can hold more.
func heldProps(c Context, name *string, holds *FieldType, list *string, also ...FieldType) []prop.Prop {
	out := []prop.Prop{
		{Name: "name", Label: "Name", Noun: "the name", Must: true, Asked: true, Value: named(name)},
		{
			Name:   "type",
			Label:  "It holds",
			Noun:   "what it holds",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value:  prop.Pick(holds, keptTypes(also...)...),
		},
	}
	if *holds == Choose {
		out = append(out, prop.Prop{
			Name:  "list",
			Label: "From the list",
			Noun:  "its choice list",
			Must:  true,
			Asked: true,
			Say:   " from {}",
			Value: prop.One(list, c.Lists()),
			Lost:  takesOut,
		})
	}
	return out
}

// Field gives a field that holds such values, by which they are read and shown.
func (k *Kept) Field() *Field {
	return &Field{ID: k.ID, Key: k.Key, Name: k.Name, Type: k.Type, List: k.List}
}

// For gives for how many days it is kept.
func (k *Kept) For() int {
	if k.Days == 0 {
		return DefaultKeptDays
	}
	return k.Days
}

// Called says which one it is.
func (k *Kept) Called(Context) string { return words.Say("called-kept", words.Args{"name": k.Name}) }

// Core is the sentence that tells it.
func (k *Kept) Core(Context) string { return "It is {type}" }

// Props lists its settings.
func (k *Kept) Props(c Context) []prop.Prop {
	out := heldProps(c, &k.Name, &k.Type, &k.List)
	return append(out,
		prop.Prop{
			Name:  "days",
			Label: "Kept for so many days",
			Noun:  "for how long it is kept",
			Help:  "14 unless you say",
			Group: "Keeping",
			Say:   ", kept for {} days",
			Value: prop.Number(&k.Days, 1, 400),
		},
		prop.Prop{
			Name:  "person",
			Label: "Kept for the person",
			Noun:  "for whom it is kept",
			Help:  "For people who are signed in, in all their browsers; otherwise in the browser",
			Group: "Keeping",
			Say:   ". {|It is kept for the person}, in all their browsers",
			Value: prop.Switch(&k.Person),
		})
}

// Reset drops the list where it holds no choice.
func (k *Kept) Reset(Context, string) {
	if k.Type != Choose {
		k.List = ""
	}
}

// Rename gives it another name and key; expressions follow.
func (k *Kept) Rename(c Context, name string) error {
	return c.b.renames(func(r expr.Ref) bool { return r.Table == expr.KeptTable && r.Field == k.ID }, name, c.b.givenKey(name, k.ID), &k.Name,
		&k.Key)
}

// KeptValue gives the kept value with the id, or nil.
func (b *Blueprint) KeptValue(id string) *Kept {
	return find(b.Kept, func(k *Kept) bool { return k.ID == id })
}

// KeptValues offers the kept values.
func (c Context) KeptValues() prop.To {
	if c.b == nil {
		return prop.To{What: "kept"}
	}
	return offers("kept", c.b.Kept, func(k *Kept) (prop.Option, bool) { return prop.Option{Value: k.ID, Words: k.Name}, true })
}

// keptTable is how expressions see what is kept.
func (b *Blueprint) keptTable() *expr.Table {
	if len(b.Kept) == 0 {
		return nil
	}
	var fields []*expr.Field
	for i := range b.Kept {
		k := &b.Kept[i]
		fields = append(fields, &expr.Field{ID: k.ID, Key: k.Key, Name: k.Name, Type: k.Field().ExprType()})
	}
	return expr.Named(expr.KeptTable, words.Say("kept-values", nil), fields)
}

// givenKey makes a key for a kept value or an input of a part.
func (b *Blueprint) givenKey(name, self string) string {
	return keyFor(name, "value", func(k string) bool {
		taken := slices.ContainsFunc(b.Kept, func(x Kept) bool { return x.Key == k && x.ID != self })
		for _, p := range b.Parts {
			taken = taken || slices.ContainsFunc(p.Inputs, func(x Input) bool { return x.Key == k && x.ID != self })
		}
		return taken
	})
}
