package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var resultKind = BlockKind{
	Name:  "result",
	Label: "A result",
	Noun:  "result",
	Help:  "It is calculated from the answers above, at once while somebody answers",
	Forms: OnlyInForms,
	New:   func() Block { return &ResultBlock{} },
}

// ResultBlock is calculated from the answers before it, and from results before it. It is named as
// answers are, and goes with them.
type ResultBlock struct {
	BlockHead
	Name     string    `json:"name"`
	Key      string    `json:"key"`
	Value    string    `json:"value"` // an expression over what is above
	As       NumberWay `json:"as,omitempty"`
	Unit     string    `json:"unit,omitempty"`
	Currency string    `json:"currency,omitempty"`
	Decimals *int      `json:"decimals,omitempty"`
	// Bands are what is said of it: the words of the first whose condition holds.
	Bands []prop.Rule `json:"bands,omitempty"`
	// Aside tells that only other results use it. Quiet tells that it is not told how it is calculated.
	Aside bool `json:"aside,omitempty"`
	Quiet bool `json:"quiet,omitempty"`
}

// Row gives the kind.
func (*ResultBlock) Row() *BlockKind { return &resultKind }

// Called says which block it is.
func (x *ResultBlock) Called(c Context) string {
	if c.form == nil || x.Name == "" {
		return calledBlock(&resultKind, c)
	}
	return words.Say("called-in", words.Args{"name": x.Name, "in": c.stands()})
}

// Core is the sentence that tells it.
func (*ResultBlock) Core(Context) string { return "{name} is {value}" }

// Props lists its settings.
func (x *ResultBlock) Props(c Context) []prop.Prop {
	out := []prop.Prop{
		{Name: "name", Label: "Name", Noun: "the name", Must: true, Asked: true, Value: named(&x.Name)},
		{
			Name:  "value",
			Label: "It is",
			Noun:  "what it is",
			Must:  true,
			Asked: true,
			Help:  "Calculated from the answers above it, such as answers.length * 12, and from results above it",
			Value: prop.Expression(&x.Value, c.above(x), expr.Type{}).Offering(c.answerOffers(x)),
			Lost:  prop.Lost{Words: "it is taken off the form", TakeOut: true},
		},
	}
	out = append(out, written{&x.As, &x.Unit, &x.Currency, &x.Decimals}.props(c, prop.Option{Value: "", Words: "what it is"})...)
	return append(out,
		prop.Prop{
			Name:  "bands",
			Label: "What it says",
			Noun:  "what it says",
			Group: "Bands",
			Help:  "Words for how it is, such as “heavy” over 750 kg: those of the first condition that is true",
			Say:   ". It says {}",
			Value: prop.Bands(&x.Bands, c.answered(x), toneOptions()...),
		},
		prop.Prop{
			Name:  "aside",
			Label: "Only for other results",
			Noun:  "whether it is shown",
			Help:  "It is not shown by itself: it is a step in between",
			Group: "Look",
			Say:   ", {|which only other results use}",
			Value: prop.Switch(&x.Aside),
		},
		prop.Prop{
			Name:  "quiet",
			Label: "How it is calculated is not shown",
			Noun:  "whether it is told how it is calculated",
			Help:  "Otherwise people can read its formula, with names and with values",
			Group: "Look",
			Say:   ". {|How it is calculated is not shown}",
			Value: prop.Switch(&x.Quiet),
		},
	)
}

// Start gives it a key, and a currency where it is written as an amount.
func (x *ResultBlock) Start(c Context) {
	if x.Key == "" && c.form != nil {
		x.Key = c.freeKey(x.Name, x)
	}
	if x.As == AsMoney && x.Currency == "" {
		x.Currency = "EUR"
	}
}

// Rename gives it another name and key; expressions follow.
func (x *ResultBlock) Rename(c Context, name string) error {
	return c.renamesAnswer(x, name, &x.Name, &x.Key)
}

// Check refuses a result by whose key an answer is named.
func (x *ResultBlock) Check(c Context) *words.Problem {
	if c.form != nil && slices.Contains(c.otherKeys(x), x.Key) {
		return words.New("asked-alike", "name", x.Name)
	}
	return nil
}

// Field gives a field that would hold the result, of a type that was found out.
func (x *ResultBlock) Field(is expr.Type) *Field {
	out := &Field{ID: x.ID, Key: x.Key, Name: x.Name, Type: Text, List: is.List, Target: is.Table,
		FieldSettings: FieldSettings{Unit: x.Unit, Decimals: x.Decimals}}
	switch is.Kind {
	case expr.Number:
		out.Type = Number
	case expr.YesNo:
		out.Type = YesNo
	case expr.Date:
		out.Type = Date
	case expr.Time:
		out.Type = TimeStamp
	case expr.Choice:
		out.Type = Choose
	case expr.Record:
		out.Type = Link
	}
	switch {
	case out.Type != Number:
	case x.As == AsMoney:
		out.Type, out.Currency = Money, x.Currency
	case x.As == AsPercent:
		out.Type = Percent
	}
	return out
}

// Results walks what the form calculates, in its order.
func (x *FormBlock) Results(yield func(*ResultBlock) bool) {
	for y := range x.Blocks.All {
		if r, is := y.(*ResultBlock); is && !yield(r) {
			return
		}
	}
}

// Result gives the result with the id, or nil.
func (x *FormBlock) Result(id string) *ResultBlock {
	for r := range x.Results {
		if r.ID == id {
			return r
		}
	}
	return nil
}

// answerOffers offers the numbers among the answers above a block.
func (c Context) answerOffers(x Block) func(func(prop.Option) bool) {
	return func(yield func(prop.Option) bool) {
		above := c.above(x).Answers
		if above == nil {
			return
		}
		for _, f := range above.Fields {
			if f.Type == (expr.Type{Kind: expr.Number}) && !yield(prop.Option{Value: expr.AnswersTable + "." + f.Key}) {
				return
			}
		}
	}
}
