package blueprint

import (
	"fmt"
	"hash/fnv"

	"pinegate/core/prop"
	"pinegate/core/words"
)

var questionKind = BlockKind{
	Name:  "question",
	Label: "A question",
	Noun:  "question",
	Help:  "Asks for a field of the record",
	Forms: OnlyInForms,
	New:   func() Block { return &QuestionBlock{} },
}

// QuestionBlock asks for a field of the record that its form adds or changes.
type QuestionBlock struct {
	BlockHead
	Field string `json:"field"` // id
	Asking
}

// questionID gives the id of the question that a form has about a field.
func questionID(form, field string) string {
	h := fnv.New32a()
	fmt.Fprintf(h, "%s %s", form, field) // which cannot fail
	return fmt.Sprintf("q_%08x", h.Sum32())
}

// Row gives the kind.
func (*QuestionBlock) Row() *BlockKind { return &questionKind }

// Asks gives the field of the record.
func (x *QuestionBlock) Asks(_ *Blueprint, t *Table) *Field {
	if t == nil {
		return nil
	}
	return t.Field(x.Field)
}

// Called says which block it is.
func (x *QuestionBlock) Called(c Context) string {
	if f := c.asked(x); f != nil {
		return words.Say("called-question", words.Args{"field": f.Name, "in": c.stands()})
	}
	return calledBlock(&questionKind, c)
}

// Core is the sentence that tells it.
func (x *QuestionBlock) Core(c Context) string {
	if f := c.asked(x); f != nil && !f.Type.Entered() {
		return "{field}, which is only shown"
	}
	return "{field}"
}

// Props lists its settings.
func (x *QuestionBlock) Props(c Context) []prop.Prop {
	table, link := "", ""
	if c.form != nil && c.b != nil {
		if t := c.form.TableOf(c.b, c.with); t != nil {
			table = t.ID
		}
		if c.with != nil {
			link = c.with.Link // which is set by itself
		}
	}
	fields := c.Fields(table, func(f *Field) bool { return f.ID != link })
	if c.asks != nil {
		fields = c.asks.fields(c)
	}
	return append([]prop.Prop{
		{
			Name:   "field",
			Label:  "It asks for",
			Noun:   "what it asks for",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value:  prop.One(&x.Field, fields),
			Lost:   prop.Lost{Words: "it is not asked any more", TakeOut: true},
		},
	}, x.Asking.props(c, x)...)
}

// Reset drops what belongs to another field.
func (x *QuestionBlock) Reset(Context, string) {
	x.Asking = Asking{Required: x.Required, RequiredWhen: x.RequiredWhen}
}

// Check refuses a field that is asked for twice, or set by the form besides.
func (x *QuestionBlock) Check(c Context) *words.Problem {
	f := c.asked(x)
	if f == nil {
		return nil
	}
	for a, with := range c.form.Askers {
		q, ok := a.(*QuestionBlock)
		if ok && with == c.with && q != x && q.Field == x.Field {
			return words.New("asked-twice", "field", f.Name)
		}
	}
	for w := range c.form.With {
		if c.with == nil && w.Link == x.Field {
			return words.New("asked-twice", "field", f.Name)
		}
	}
	return nil
}
