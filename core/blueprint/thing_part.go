package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Part is a group of blocks that is kept once and used in many places. One with a Record
// table is used where a record of it is in hand.
type Part struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Record string  `json:"record,omitempty"`
	Inputs []Input `json:"inputs,omitempty"`
	// Values are its own, in each use by itself; what happens in it sets them.
	Values []OwnValue `json:"values,omitempty"`
	Reacts []Reaction `json:"reacts,omitempty"` // to what happens where it is used
	Blocks Blocks     `json:"blocks"`
}

// Input is what is given to a part where it is used.
type Input struct {
	ID   string    `json:"id"`
	Key  string    `json:"key"`
	Name string    `json:"name"`
	Type FieldType `json:"type"` // one of a few
	List string    `json:"list,omitempty"`
}

// OwnValue is a value that each use of a part has for itself, in the browser.
type OwnValue struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Start string `json:"start,omitempty"`
}

// Happening is what can happen to a block, or where a part is used.
type Happening string

// The happenings.
const (
	Pressed Happening = "press"
	Over    Happening = "over" // pointed at, or with the focus in it
	Left    Happening = "leave"
)

// Reaction sets an own value of the part when something happens.
type Reaction struct {
	ID    string    `json:"id"`
	On    Happening `json:"on"`
	After int       `json:"after,omitempty"` // milliseconds
	Value string    `json:"value"`           // id of the own value
	To    string    `json:"to,omitempty"`
}

// Part gives the part with the id, or nil.
func (b *Blueprint) Part(id string) *Part {
	return find(b.Parts, func(p *Part) bool { return p.ID == id })
}

// Called says which part it is.
func (p *Part) Called(Context) string { return words.Say("called-part", words.Args{"name": p.Name}) }

// Core is the sentence that tells it.
func (p *Part) Core(Context) string {
	if p.Record == "" {
		return "A part, for any place"
	}
	return "A part about one record in {record}"
}

// Props lists its settings.
func (p *Part) Props(c Context) []prop.Prop {
	return []prop.Prop{
		{Name: "name", Label: "Name", Noun: "the name", Must: true, Asked: true, Value: named(&p.Name)},
		{
			Name:  "record",
			Label: "It is about",
			Noun:  "the table of its record",
			Fixed: true,
			Asked: true,
			Value: prop.One(&p.Record, c.Tables()).OrNone("no record in particular"),
			Lost:  takesOut,
		},
	}
}

// Own gives the own value with the id, or nil.
func (p *Part) Own(id string) *OwnValue {
	return find(p.Values, func(v *OwnValue) bool { return v.ID == id })
}

// Input gives the input with the id, or nil.
func (p *Part) Input(id string) *Input {
	return find(p.Inputs, func(x *Input) bool { return x.ID == id })
}

// vars is how expressions in the part see its inputs; nil where it has none.
func (p *Part) vars() *expr.Table {
	if len(p.Inputs) == 0 {
		return nil
	}
	var fields []*expr.Field
	for i := range p.Inputs {
		x := &p.Inputs[i]
		fields = append(fields, &expr.Field{ID: x.ID, Key: x.Key, Name: x.Name, Type: x.Field().ExprType()})
	}
	return expr.Named(expr.VarsTable, words.Say("part-inputs", nil), fields)
}

// VarsOf is how expressions see what the part with the id is given; nil where there is none.
func (b *Blueprint) VarsOf(id string) *expr.Table {
	if p := b.Part(id); p != nil {
		return p.vars()
	}
	return nil
}

// Field gives a field that holds values of the input.
func (x *Input) Field() *Field {
	return &Field{ID: x.ID, Key: x.Key, Name: x.Name, Type: x.Type, List: x.List}
}

// Called says which input it is.
func (x *Input) Called(c Context) string { return calledInPart(x.Name, c) }

func calledInPart(name string, c Context) string {
	if c.flow != nil {
		return words.Say("called-in", words.Args{"name": name, "in": c.flow.Name})
	}
	if c.part == nil {
		return name
	}
	return words.Say("called-in", words.Args{"name": name, "in": c.part.Name})
}

// Core is the sentence that tells it.
func (*Input) Core(Context) string { return "It is given {name}: {type}" }

// Props lists its settings.
func (x *Input) Props(c Context) []prop.Prop { return heldProps(c, &x.Name, &x.Type, &x.List) }

// Reset drops the list where it holds no choice.
func (x *Input) Reset(Context, string) {
	if x.Type != Choose {
		x.List = ""
	}
}

// Rename gives it another name and key; expressions follow.
func (x *Input) Rename(c Context, name string) error {
	in := ""
	if c.part != nil {
		in = c.part.ID
	} else if c.flow != nil {
		in = c.flow.ID
	}
	_, table, err := c.b.inputsOf(in)
	if err != nil {
		return err
	}
	return c.b.renames(func(r expr.Ref) bool { return r.Table == table && r.Field == x.ID }, name, c.b.inputKey(in, name, x.ID), &x.Name,
		&x.Key)
}

// Called says which value it is.
func (v *OwnValue) Called(c Context) string { return calledInPart(v.Name, c) }

// Core is the sentence that tells it.
func (*OwnValue) Core(Context) string { return "Each use has its own {name}" }

// Props lists its settings.
func (v *OwnValue) Props(Context) []prop.Prop {
	return []prop.Prop{
		{Name: "name", Label: "Name", Noun: "the name", Must: true, Asked: true, Value: named(&v.Name)},
		{
			Name:  "start",
			Label: "It begins as",
			Noun:  "how it begins",
			Help:  "Nothing unless you say",
			Asked: true,
			Group: "Value",
			Say:   ", which begins as {}",
			Value: ownText(&v.Start),
		},
	}
}

func ownText(at *string) prop.TextValue {
	v := prop.Text(at)
	v.Most, v.Quoted = 80, true
	return v
}

// Called says which reaction it is.
func (r *Reaction) Called(c Context) string {
	if c.part == nil {
		return words.Say("reaction", nil)
	}
	return words.Say("called-in", words.Args{"name": words.Say("reaction", nil), "in": c.part.Name})
}

// Core is the sentence that tells it.
func (r *Reaction) Core(Context) string {
	if r.To == "" {
		return "{on}, {value} becomes {to|nothing}"
	}
	return "{on}, {value} becomes {to}"
}

// Props lists its settings.
func (r *Reaction) Props(c Context) []prop.Prop {
	return []prop.Prop{
		{
			Name:  "on",
			Label: "When",
			Noun:  "when it happens",
			Must:  true,
			Asked: true,
			Value: prop.Pick(&r.On, prop.Option{Value: string(Over), Words: "When it is pointed at or has the focus"},
				prop.Option{Value: string(Left), Words: "When it is left"},
				prop.Option{Value: string(Pressed), Words: "When it is pressed"}),
		},
		{
			Name:  "value",
			Label: "This value",
			Noun:  "the value",
			Must:  true,
			Asked: true,
			Value: prop.One(&r.Value, c.Owns()),
			Lost:  takesOut,
		},
		{Name: "to", Label: "Becomes", Noun: "what the value becomes", Asked: true, Value: ownText(&r.To)},
		{
			Name:  "after",
			Label: "After so many milliseconds",
			Noun:  "the delay",
			Help:  "At once unless you say. 250 is long enough to reach a button that is about to go",
			Asked: true,
			Group: "Value",
			Say:   ", after {} milliseconds",
			Value: prop.Number(&r.After, 1, 10000),
		},
	}
}

// Owns offers the own values of the part.
func (c Context) Owns() prop.To {
	if c.part == nil {
		return prop.To{What: "value"}
	}
	return offers("value", c.part.Values, func(v *OwnValue) (prop.Option, bool) { return prop.Option{Value: v.ID, Words: v.Name}, true })
}
