package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
)

// Asker is a block in a form that asks for something.
type Asker interface {
	Block
	// How says how it asks.
	How() *Asking
	// Asks gives the field of a table of which it asks for a value; nil where that is not there.
	Asks(b *Blueprint, t *Table) *Field
}

// Asking is how a question is asked. It is embedded in the blocks that ask.
type Asking struct {
	Words        string      `json:"words,omitempty"`   // instead of the name of what it asks for
	Help         string      `json:"help,omitempty"`    // instead of that of the field
	Example      string      `json:"example,omitempty"` // shown while nothing is answered
	Ask          AskAs       `json:"ask,omitempty"`
	Required     bool        `json:"required,omitempty"`
	ReadOnly     bool        `json:"readOnly,omitempty"`     // shown, and not answered
	RequiredWhen string      `json:"requiredWhen,omitempty"` // condition over the answers above
	Start        string      `json:"start,omitempty"`        // expression of what it begins with
	Skip         bool        `json:"skip,omitempty"`         // not asked where what it begins with is known
	Param        string      `json:"param,omitempty"`        // by which the address of the page can fill it in
	Narrow       string      `json:"narrow,omitempty"`       // condition over a record, or a choice, that can be chosen
	Digits       int         `json:"digits,omitempty"`       // of which the answer consists; 0 for anything
	Rules        []prop.Rule `json:"rules,omitempty"`
}

// AskAs is how an answer is chosen.
type AskAs string

// The ways to ask; as is usual for what is asked for unless something is said.
const (
	AskUsual   AskAs = ""
	AskRadio   AskAs = "radio"
	AskButtons AskAs = "buttons"
	AskCards   AskAs = "cards"  // with the pictures of a choice list
	AskSearch  AskAs = "search" // a record is searched for, however few there are
	AskStars   AskAs = "stars"
	AskSlider  AskAs = "slider"
)

// ways lists how a question about a field can be asked; none where there is one way only.
func (a *Asking) ways(c Context, f *Field) []prop.Option {
	usual, other := "a drop-down list", []prop.Option{}
	offer := func(way AskAs, words, label string) {
		other = append(other, prop.Option{Value: string(way), Words: words, Label: label})
	}
	all := func() { offer(AskRadio, "a list that is all there", "A list that is all there") }
	switch {
	case f == nil:
	case f.Type == Choose || f.Type == YesNo:
		all()
		offer(AskButtons, "buttons", "Buttons")
		if l := c.b.List(f.List); l != nil && l.FirstColumn(PictureColumn) != "" {
			offer(AskCards, "cards with pictures", "Cards with the pictures of its list")
		}
	case f.Type == Link:
		offer(AskSearch, "a search", "A search, also where there are few")
	case f.Show == ShowRating:
		usual = "a number that is typed"
		offer(AskStars, "stars", "Stars")
	case f.Show == ShowBar, f.Type.Numeric() && f.Least != "" && f.Most != "":
		usual = "a number that is typed"
		offer(AskSlider, "a slider", "A slider")
	}
	if a.Ask != "" && !slices.ContainsFunc(other, func(o prop.Option) bool { return o.Value == string(a.Ask) }) {
		offer(a.Ask, string(a.Ask), "") // which it was asked by before the field changed
	}
	if len(other) == 0 {
		return nil
	}
	return append([]prop.Option{{Value: "", Words: usual}}, other...)
}

// How says how it asks.
func (a *Asking) How() *Asking { return a }

// asked gives the field of which a block in a form asks for a value, or nil.
func (c Context) asked(x Asker) *Field {
	if c.form == nil || c.b == nil {
		return nil
	}
	return x.Asks(c.b, c.form.TableOf(c.b, c.with))
}

// props lists the settings of how it asks for a field.
func (a *Asking) props(c Context, x Asker) []prop.Prop {
	above := c.above(x)
	out := []prop.Prop{
		{
			Name:  "required",
			Label: "Required",
			Noun:  "whether it is required",
			Help:  "No one can leave it empty",
			Group: "Answering",
			Say:   ", {|required}",
			Value: prop.Switch(&a.Required),
		},
		{
			Name:  "requiredWhen",
			Label: "Required when",
			Noun:  "when it is required",
			Help:  "No one can leave it empty while this is so, by the answers above",
			Group: "Answering",
			Say:   ", required when {}",
			Value: prop.Condition(&a.RequiredWhen, above),
		},
		{
			Name:  "readOnly",
			Label: "Only shown",
			Noun:  "whether it is only shown",
			Help:  "People read its value, and cannot change it. What is calculated is always only shown",
			Group: "Answering",
			Say:   ", only {|shown}",
			Value: prop.Switch(&a.ReadOnly),
		},
	}
	out = append(out, a.wordProps()...)
	return append(out, a.answerProps(c, x, above)...)
}

func (a *Asking) wordProps() []prop.Prop {
	asked, help, example := prop.Text(&a.Words), prop.Text(&a.Help), prop.Text(&a.Example)
	asked.Most, asked.Quoted, help.Most, help.Quoted, example.Most, example.Quoted = 200, true, 500, true, 100, true
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

func (a *Asking) answerProps(c Context, x Asker, above expr.Scope) []prop.Prop {
	f := c.asked(x)
	of := func(types ...FieldType) bool {
		for _, t := range types {
			if f != nil && f.Type == t {
				return true
			}
		}
		return false
	}
	want := expr.Type{}
	if f != nil {
		want = f.ExprType()
	}
	out := []prop.Prop{{
		Name:  "start",
		Label: "It starts as",
		Noun:  "what it starts as",
		Help:  "What is filled in at first; people can change it",
		Group: "Answering",
		Say:   ", at first {}",
		Value: prop.Expression(&a.Start, c.Beforehand(), want),
	}}
	if a.Start != "" || a.Skip {
		out = append(out, prop.Prop{
			Name:  "skip",
			Label: "Not asked where that is known",
			Noun:  "whether it is asked where that is known",
			Help:  "Where it starts as something, such as the name of who is signed in, it is saved as that, and no one is asked",
			Group: "Answering",
			With:  "start",
			Say:   ", {|not asked where that is known}",
			Value: prop.Switch(&a.Skip),
		})
	}
	param := prop.Text(&a.Param)
	param.Most, param.Right = 40, wrongUnless(paramName.MatchString)
	out = append(out, prop.Prop{
		Name:  "param",
		Label: "The address can fill it in",
		Noun:  "how the address fills it in",
		Help:  "A link to the page can end in ?boat=…, with the word that you choose here. People see the answer, and can change it",
		Group: "Answering",
		Say:   ", filled in by ?{}= in the address",
		Value: param,
	})
	if ways := a.ways(c, f); ways != nil {
		out = append(out, prop.Prop{
			Name:  "ask",
			Label: "How it is asked",
			Noun:  "how it is asked",
			Help:  "With a few choices, people see all of them at once; ratings can be asked for as stars, bars by a slider",
			Group: "Answering",
			Say:   ", asked by {}",
			Value: prop.Pick(&a.Ask, ways...),
		})
	}
	if x, ok := a.narrowProp(c, x, f, above); ok {
		out = append(out, x)
	}
	if of(Text) || a.Digits != 0 {
		out = append(out, prop.Prop{
			Name:  "digits",
			Label: "Exactly so many digits",
			Noun:  "how many digits it has",
			Help:  "Nothing but digits, and exactly so many",
			Group: "Answering",
			Say:   ", exactly {} digits",
			Value: prop.Number(&a.Digits, 1, 40),
		})
	}
	return append(out, prop.Prop{
		Name:  "rules",
		Label: "It must be so that",
		Noun:  "its rules",
		Help:  "Conditions that the answer has to meet, with what is said otherwise",
		Group: "Answering",
		Say:   ". It must be so that {}",
		Value: prop.Rules(&a.Rules, c.answered(x)),
	})
}

// narrowProp is the setting by which fewer records, or choices, can be chosen.
func (a *Asking) narrowProp(c Context, x Asker, f *Field, above expr.Scope) (prop.Prop, bool) {
	out := prop.Prop{
		Name:  "narrow",
		Label: "Only records where",
		Noun:  "which records can be chosen",
		Help:  "Of those that people see, they choose among these; the answers above can be named",
		Group: "Answering",
		Say:   ", only those where {}",
		Value: prop.Condition(&a.Narrow, above),
	}
	switch {
	case f != nil && (f.Type == Choose || f.Type == ChooseMany):
		out.Label, out.Noun = "Only choices where", "which choices can be chosen"
		out.Help = "The choice is named as the answer to this question, with the columns of its list; the answers above can be named as well"
		out.Value = prop.Condition(&a.Narrow, choiceScope(c.answered(x), f))
	case f != nil && (f.Type == Link || f.Type == Links):
		out.Value = prop.Condition(&a.Narrow, among(above, f.Target))
	case a.Narrow == "":
		return out, false
	}
	return out, true
}

// Depends tells whether how the question is depends on what is answered.
func (a *Asking) Depends() bool {
	return a.RequiredWhen != "" || a.Narrow != "" || a.Digits != 0 || len(a.Rules) > 0
}
