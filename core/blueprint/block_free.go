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
	Asking
}

// Row gives the kind.
func (*FreeBlock) Row() *BlockKind { return &freeKind }

// Asks gives a field that would hold the answer.
func (x *FreeBlock) Asks(*Blueprint, *Table) *Field {
	return &Field{ID: x.ID, Key: x.Key, Name: x.Name, Type: x.Type, List: x.List, Target: x.Target}
}

// Called says which block it is.
func (x *FreeBlock) Called(c Context) string {
	if c.form == nil || x.Name == "" {
		return calledBlock(&freeKind, c)
	}
	return words.Say("called-question", words.Args{"field": x.Name, "in": c.stands()})
}

// Core is the sentence that tells it.
func (*FreeBlock) Core(Context) string { return "{name}, {type} that is not kept" }

// Props lists its settings.
func (x *FreeBlock) Props(c Context) []prop.Prop {
	out := heldProps(c, &x.Name, &x.Type, &x.List, Link)
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
	return append(out, x.Asking.props(c, x)...)
}

// Start gives it a key.
func (x *FreeBlock) Start(c Context) {
	if x.Key == "" && c.form != nil {
		x.Key = c.freeKey(x.Name, x)
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
	x.Asking = Asking{Words: x.Words, Help: x.Help, Required: x.Required, RequiredWhen: x.RequiredWhen}
}

// Rename gives it another name and key; expressions follow.
func (x *FreeBlock) Rename(c Context, name string) error {
	return c.b.renames(func(r expr.Ref) bool { return r.Table == expr.AnswersTable && r.Field == x.ID }, name, c.freeKey(name, x), &x.Name,
		&x.Key)
}

// Check refuses a question by whose key another one is named.
func (x *FreeBlock) Check(c Context) *words.Problem {
	if c.form != nil && slices.Contains(c.otherKeys(x), x.Key) {
		return words.New("asked-alike", "name", x.Name)
	}
	return nil
}

// freeKey makes a key by which no other answer of the form is named.
func (c Context) freeKey(name string, x *FreeBlock) string {
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
	for y := range c.form.With {
		if _, key, _ := y.answer(c.b, c.form); y != x {
			out = append(out, key)
		}
	}
	return out
}
