package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var findStepKind = StepKind{
	Name:  "find",
	Label: "Find records",
	Noun:  "step that finds records",
	Help:  "The first for which a condition holds, a list of them, or how many there are",
	New:   func() Step { return &FindStep{} },
}

// Found is what a step finds.
type Found string

// What can be found.
const (
	FirstFound  Found = "first"
	ListFound   Found = "list"
	NumberFound Found = "number"
)

// FindStep finds records in a table.
type FindStep struct {
	StepHead
	What    Found  `json:"what"`
	Table   string `json:"table"`
	Where   string `json:"where,omitempty"`
	Sort    string `json:"sort,omitempty"`
	Falling bool   `json:"falling,omitempty"`
	Most    int    `json:"most,omitempty"` // of a list; [MostFound] unless something is said
}

// MostFound is how many records a list can have at most.
const MostFound = 1000

// Row gives the kind.
func (*FindStep) Row() *StepKind { return &findStepKind }

// Called says which step it is.
func (*FindStep) Called(c Context) string { return calledStep(&findStepKind, c) }

// Core is the sentence that tells it.
func (x *FindStep) Core(Context) string { return "Find {what} in {table}" }

// Props lists its settings.
func (x *FindStep) Props(c Context) []prop.Prop {
	out := []prop.Prop{
		{
			Name:  "what",
			Label: "Find",
			Noun:  "what it finds",
			Must:  true,
			Asked: true,
			Value: prop.Pick(&x.What,
				prop.Option{Value: string(FirstFound), Words: "the first record"},
				prop.Option{Value: string(ListFound), Words: "all records"},
				prop.Option{Value: string(NumberFound), Words: "the number of records"}),
		},
		{
			Name:   "table",
			Label:  "In",
			Noun:   "the table",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value:  prop.One(&x.Table, c.Tables()),
			Lost:   stepGone,
		},
		{
			Name:  "where",
			Label: "Where",
			Noun:  "the condition",
			Help:  "Only some of them",
			Group: "Which",
			Asked: true,
			Say:   " where {}",
			Value: prop.Condition(&x.Where, c.Among(x.Table)),
			Lost:  stepGone,
		},
	}
	if x.What == NumberFound {
		return out
	}
	out = append(out, prop.Prop{
		Name:  "sort",
		Label: "Sorted by",
		Noun:  "the sorting",
		Help:  "In the order in which they were added unless you say",
		Group: "Which",
		Say:   ", sorted by {}",
		Value: prop.One(&x.Sort, c.sortings(x.Table)).OrNone("the order in which they were added"),
	})
	if x.Sort != "" {
		out = append(out, prop.Prop{
			Name:  "falling",
			Label: "Largest first",
			Noun:  "the sorting",
			With:  "sort",
			Say:   ", largest first",
			Value: prop.Switch(&x.Falling),
		})
	}
	if x.What == ListFound {
		out = append(out, prop.Prop{
			Name:  "most",
			Label: "At most so many",
			Noun:  "how many it finds at most",
			Help:  "1,000 unless you say",
			Group: "Which",
			Say:   ", at most {}",
			Value: prop.Number(&x.Most, 1, MostFound),
		})
	}
	return out
}

// Check tells what is wrong with its settings together, or nil.
func (x *FindStep) Check(c Context) *words.Problem {
	if c.flow == nil {
		return nil
	}
	return c.grounded(x.Where, c.Among(x.Table))
}

// Reset drops what belongs to records of another table.
func (x *FindStep) Reset(c Context, setting string) {
	if setting == "table" {
		x.Where, x.Sort, x.Falling = "", "", false
		x.Start(c)
	}
}

// Start gives it a name.
func (x *FindStep) Start(c Context) {
	if x.What == "" {
		x.What = FirstFound
	}
	x.begin(c, x)
}

// Rename gives what it finds another name; expressions follow.
func (x *FindStep) Rename(c Context, name string) error { return x.rename(c, name) }

// Makes gives the type of what it finds.
func (x *FindStep) Makes(c Context) expr.Type {
	switch {
	case c.tableOf(x.Table) == nil:
		return expr.Type{}
	case x.What == NumberFound:
		return expr.Type{Kind: expr.Number}
	}
	return expr.Type{Kind: expr.Record, Table: x.Table, Many: x.What == ListFound}
}

func (x *FindStep) made(c Context) string {
	t := c.tableOf(x.Table)
	switch {
	case t == nil:
		return "found record"
	case x.What == NumberFound:
		return "number of " + lower(t.Name)
	case x.What == ListFound:
		return "found " + lower(t.Name)
	}
	return "found " + t.OneWord()
}

var letStepKind = StepKind{
	Name:  "let",
	Label: "Work out a value",
	Noun:  "step that works out a value",
	Help:  "And give it a name, for the steps that follow",
	New:   func() Step { return &LetStep{} },
}

// LetStep works out a value.
type LetStep struct {
	StepHead
	Value string `json:"value"`
}

// Row gives the kind.
func (*LetStep) Row() *StepKind { return &letStepKind }

// Called says which step it is.
func (*LetStep) Called(c Context) string { return calledStep(&letStepKind, c) }

// Core is the sentence that tells it.
func (*LetStep) Core(Context) string { return "Let “{name}” be {value}" }

// Props lists its settings.
func (x *LetStep) Props(c Context) []prop.Prop {
	return []prop.Prop{{
		Name:  "value",
		Label: "The value",
		Noun:  "the value",
		Must:  true,
		Asked: true,
		Value: prop.Expression(&x.Value, c.Flows(), expr.Type{}),
		Lost:  stepGone,
	}}
}

// Start gives it a name.
func (x *LetStep) Start(c Context) { x.begin(c, x) }

// Rename gives the value another name; expressions follow.
func (x *LetStep) Rename(c Context, name string) error { return x.rename(c, name) }

// Makes gives the type of the value.
func (x *LetStep) Makes(c Context) expr.Type {
	if c.flow == nil {
		return expr.Type{}
	}
	checked, err := expr.Check(x.Value, c.Flows())
	if err != nil || checked.Type().Kind == expr.None {
		return expr.Type{}
	}
	return checked.Type()
}

func (*LetStep) made(Context) string { return "value" }
