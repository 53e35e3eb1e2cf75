package blueprint

import (
	"fmt"
	"hash/fnv"
	"slices"

	"pinegate/core/expr"
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
	Field        string      `json:"field"`             // id
	Words        string      `json:"words,omitempty"`   // instead of the name of the field
	Help         string      `json:"help,omitempty"`    // instead of that of the field
	Example      string      `json:"example,omitempty"` // shown while nothing is answered
	Ask          AskAs       `json:"ask,omitempty"`
	Required     bool        `json:"required,omitempty"`
	RequiredWhen string      `json:"requiredWhen,omitempty"` // condition over the answers above
	Start        string      `json:"start,omitempty"`        // expression of what it begins with
	Narrow       string      `json:"narrow,omitempty"`       // condition over a record that can be chosen
	Digits       int         `json:"digits,omitempty"`       // of which the answer consists; 0 for anything
	Rules        []prop.Rule `json:"rules,omitempty"`
}

// AskAs is how a choice, or a yes/no, is asked for.
type AskAs string

// The ways to ask; a drop-down list unless something is said.
const (
	AskDropDown AskAs = ""
	AskRadio    AskAs = "radio"
	AskButtons  AskAs = "buttons"
)

// questionID gives the id of the question that a form has about a field.
func questionID(form, field string) string {
	h := fnv.New32a()
	fmt.Fprintf(h, "%s %s", form, field) // which cannot fail
	return fmt.Sprintf("q_%08x", h.Sum32())
}

// Row gives the kind.
func (*QuestionBlock) Row() *BlockKind { return &questionKind }

// Called says which block it is.
func (x *QuestionBlock) Called(c Context) string {
	if c.form == nil || c.field(c.form.Table, x.Field) == nil {
		return calledBlock(&questionKind, c)
	}
	return words.Say("called-question", words.Args{"field": c.field(c.form.Table, x.Field).Name, "in": c.stands()})
}

// Core is the sentence that tells it.
func (*QuestionBlock) Core(Context) string { return "{field}" }

// Props lists its settings.
func (x *QuestionBlock) Props(c Context) []prop.Prop {
	asked, help, example := prop.Text(&x.Words), prop.Text(&x.Help), prop.Text(&x.Example)
	asked.Most, asked.Quoted, help.Most, help.Quoted, example.Most, example.Quoted = 200, true, 500, true, 100, true
	table := ""
	if c.form != nil {
		table = c.form.Table
	}
	above := c.above(x)
	out := []prop.Prop{
		{
			Name:   "field",
			Label:  "It asks for",
			Noun:   "what it asks for",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value:  prop.One(&x.Field, c.Fields(table, isEntered)),
			Lost:   prop.Lost{Words: "it is not asked any more", TakeOut: true},
		},
		{
			Name:  "required",
			Label: "Required",
			Noun:  "whether it is required",
			Help:  "No one can leave it empty",
			Group: "Answering",
			Say:   ", {|required}",
			Value: prop.Switch(&x.Required),
		},
		{
			Name:  "requiredWhen",
			Label: "Required when",
			Noun:  "when it is required",
			Help:  "No one can leave it empty while this is so, by the answers above",
			Group: "Answering",
			Say:   ", required when {}",
			Value: prop.Condition(&x.RequiredWhen, above),
		},
	}
	out = append(out, x.wordProps(asked, help, example)...)
	return append(out, x.answerProps(c, table, above)...)
}

func (x *QuestionBlock) wordProps(asked, help, example prop.TextValue) []prop.Prop {
	return []prop.Prop{
		{
			Name:  "words",
			Label: "In other words",
			Noun:  "its words",
			Help:  "Instead of the name of the field",
			Group: "Words",
			Say:   ", asked as {}",
			Value: asked,
		},
		{
			Name:  "help",
			Label: "Help",
			Noun:  "its help",
			Help:  "A line below it, instead of that of the field",
			Group: "Words",
			Say:   ", with {|help}",
			Value: help,
		},
		{
			Name:  "example",
			Label: "Example",
			Noun:  "its example",
			Help:  "Shown in it while nothing is filled in",
			Group: "Words",
			Say:   ", such as {}",
			Value: example,
		},
	}
}

func (x *QuestionBlock) answerProps(c Context, table string, above expr.Scope) []prop.Prop {
	f := c.field(table, x.Field)
	want := c.catalog.TypeOf(table, x.Field)
	out := []prop.Prop{{
		Name:  "start",
		Label: "It starts as",
		Noun:  "what it starts as",
		Help:  "What is filled in at first; people can change it",
		Group: "Answering",
		Say:   ", at first {}",
		Value: prop.Expression(&x.Start, c.Beforehand(), want),
	}}
	if f != nil && (f.Type == Choose || f.Type == YesNo) || x.Ask != "" {
		out = append(out, prop.Prop{
			Name:  "ask",
			Label: "How it is asked",
			Noun:  "how it is asked",
			Help:  "With a few choices, people see all of them at once",
			Group: "Answering",
			Say:   ", asked by {}",
			Value: prop.Pick(&x.Ask, prop.Option{Value: "", Words: "a drop-down list"},
				prop.Option{Value: string(AskRadio), Words: "a list that is all there", Label: "A list that is all there"},
				prop.Option{Value: string(AskButtons), Words: "buttons"}),
		})
	}
	if f != nil && (f.Type == Link || f.Type == Links) || x.Narrow != "" {
		scope := above
		if f != nil {
			scope = among(above, f.Target)
		}
		out = append(out, prop.Prop{
			Name:  "narrow",
			Label: "Only records where",
			Noun:  "which records can be chosen",
			Help:  "Of those that people see, they choose among these; the answers above can be named",
			Group: "Answering",
			Say:   ", only those where {}",
			Value: prop.Condition(&x.Narrow, scope),
		})
	}
	if f != nil && f.Type == Text || x.Digits != 0 {
		out = append(out, prop.Prop{
			Name:  "digits",
			Label: "Exactly so many digits",
			Noun:  "how many digits it has",
			Help:  "Nothing but digits, and exactly so many",
			Group: "Answering",
			Say:   ", exactly {} digits",
			Value: prop.Number(&x.Digits, 1, 40),
		})
	}
	return append(out, prop.Prop{
		Name:  "rules",
		Label: "It must be so that",
		Noun:  "its rules",
		Help:  "Conditions that the answer has to meet, with what is said otherwise",
		Group: "Answering",
		Say:   ". It must be so that {}",
		Value: prop.Rules(&x.Rules, c.answered(x)),
	})
}

// Depends tells whether how the question is depends on what is answered.
func (x *QuestionBlock) Depends() bool {
	return x.When != "" || x.RequiredWhen != "" || x.Narrow != "" || x.Digits != 0 || len(x.Rules) > 0
}

// Reset drops what belongs to another field.
func (x *QuestionBlock) Reset(Context, string) {
	*x = QuestionBlock{BlockHead: x.BlockHead, Field: x.Field, Required: x.Required, RequiredWhen: x.RequiredWhen}
}

// Check refuses a field that is asked for twice, or set by the form besides.
func (x *QuestionBlock) Check(c Context) *words.Problem {
	if c.form == nil {
		return nil
	}
	f := c.field(c.form.Table, x.Field)
	if f == nil {
		return nil
	}
	for q := range c.form.Questions {
		if q != x && q.Field == x.Field {
			return words.New("asked-twice", "field", f.Name)
		}
	}
	return nil
}

// Questions walks the questions of the form, in their order.
func (x *FormBlock) Questions(yield func(*QuestionBlock) bool) {
	for y := range x.Blocks.All {
		if q, ok := y.(*QuestionBlock); ok && !yield(q) {
			return
		}
	}
}

// Question gives the question about a field, or nil.
func (x *FormBlock) Question(field string) *QuestionBlock {
	for q := range x.Questions {
		if q.Field == field {
			return q
		}
	}
	return nil
}

// AnswersOf is how expressions see the answers of a form: all, or those before a question
// and, with it, that of its own.
func (b *Blueprint) AnswersOf(x *FormBlock, before string, with bool, catalog *expr.Catalog) *expr.Table {
	fields := []*expr.Field{}
	t := b.Table(x.Table)
	for q := range x.Questions {
		if q.ID == before && !with {
			break
		}
		if f := t.Field(q.Field); f != nil {
			fields = append(fields, &expr.Field{ID: f.ID, Key: f.Key, Name: f.Name, Type: catalog.TypeOf(t.ID, f.ID)})
		}
		if q.ID == before {
			break
		}
	}
	return expr.Named(expr.AnswersTable, words.Say("form-answers", nil), fields)
}

// AnswersAt is [Blueprint.AnswersOf] at the block with the id; nil where that is in no form.
// A question knows those before it and, with its own, that as well.
func (b *Blueprint) AnswersAt(block string, with bool, catalog *expr.Catalog) *expr.Table {
	for y := range b.Blocks {
		x, ok := y.(*FormBlock)
		if !ok {
			continue
		}
		for inside := range x.Blocks.All {
			if inside.Self().ID != block {
				continue
			}
			if _, asks := inside.(*QuestionBlock); !asks {
				block = ""
			}
			return b.AnswersOf(x, block, with, catalog)
		}
	}
	return nil
}

// whens is the scope of the condition by which a block is shown: in a form it knows the
// answers, that of a question those before it.
func (c Context) whens(x Block) expr.Scope {
	scope := c.Here()
	if c.form == nil || c.b == nil {
		return scope
	}
	if q, asks := x.(*QuestionBlock); asks {
		return c.above(q)
	}
	scope.Answers = c.b.AnswersOf(c.form, "", true, c.catalog)
	return scope
}

// above is the scope of conditions of a question: the answers before it.
func (c Context) above(x *QuestionBlock) expr.Scope { return c.answers(x, false) }

// answered is the scope of rules of a question: the answers before it, and its own.
func (c Context) answered(x *QuestionBlock) expr.Scope { return c.answers(x, true) }

func (c Context) answers(x *QuestionBlock, with bool) expr.Scope {
	if c.form == nil || c.b == nil || c.page == nil && c.part == nil {
		return expr.Scope{}
	}
	return c.b.answersScope(c.spot(), c.form, x, with, c.catalog)
}

func (b *Blueprint) answersScope(s Spot, form *FormBlock, x *QuestionBlock, with bool, catalog *expr.Catalog) expr.Scope {
	scope := b.ListScope(s, "", catalog)
	scope.Answers = b.AnswersOf(form, x.ID, with, catalog)
	return scope
}

// among is the scope of a condition over a record of a table that can be chosen. It knows
// no answers that are lists: those cannot be put into what is asked of the database.
func among(above expr.Scope, table string) expr.Scope {
	above.Row = table
	if above.Answers != nil {
		known := *above.Answers
		known.Fields = slices.DeleteFunc(slices.Clone(known.Fields), func(f *expr.Field) bool { return f.Type.Many })
		above.Answers = &known
	}
	return above
}

// Conditions are those of what stands in a form, checked; nil where there is none.
type Conditions struct {
	When, RequiredWhen, Narrow, Start *expr.Checked
	Rules                             []*expr.Checked
}

// Conditions checks those of a block in a form that stands at a spot.
func (b *Blueprint) Conditions(s Spot, form *FormBlock, x Block, catalog *expr.Catalog) (Conditions, error) {
	type place struct{ form, block string }
	return checkedOnce(b, place{form.ID, x.Self().ID}, func() (out Conditions, err error) {
		check := func(at **expr.Checked, source string, scope expr.Scope) {
			if err == nil && source != "" {
				*at, err = expr.CheckCondition(source, scope)
			}
		}
		q, asks := x.(*QuestionBlock)
		if !asks {
			scope := b.ScopeAt(s, catalog)
			scope.Answers = b.AnswersOf(form, "", true, catalog)
			check(&out.When, x.Self().When, scope)
			return out, err
		}
		above, f := b.answersScope(s, form, q, false, catalog), b.Table(form.Table).Field(q.Field)
		check(&out.When, q.When, above)
		check(&out.RequiredWhen, q.RequiredWhen, above)
		check(&out.Narrow, q.Narrow, among(above, f.Target))
		out.Rules = make([]*expr.Checked, len(q.Rules))
		for i, r := range q.Rules {
			check(&out.Rules[i], r.Holds, b.answersScope(s, form, q, true, catalog))
		}
		if err == nil && q.Start != "" {
			out.Start, err = expr.CheckAs(q.Start, b.ListScope(s, "", catalog), f.ExprType())
		}
		return out, err
	})
}
