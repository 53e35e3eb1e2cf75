package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/report"
	"pinegate/core/words"
)

var findStepKind = StepKind{
	Name:  "find",
	Label: "Find records",
	Noun:  "step that finds records",
	Help:  "The first for which a condition holds, a list of them, how many there are, or what they come to",
	New:   func() Step { return &FindStep{} },
}

// Found is what a step finds.
type Found string

// What can be found.
const (
	FirstFound  Found = "first"
	ListFound   Found = "list"
	NumberFound Found = "number"
	// What numbers of records come to.
	SumFound      = Found(report.Sum)
	AverageFound  = Found(report.Average)
	LeastFound    = Found(report.Least)
	GreatestFound = Found(report.Greatest)
)

// Total gives what is made of a number of each record, or "" where records or their number are found.
func (f Found) Total() report.Total {
	switch f {
	case SumFound, AverageFound, LeastFound, GreatestFound:
		return report.Total(f)
	}
	return ""
}

// FindStep finds records in a table.
type FindStep struct {
	StepHead
	What    Found  `json:"what"`
	Table   string `json:"table"`
	Of      string `json:"of,omitempty"` // the number of a record that is totalled
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
func (x *FindStep) Core(Context) string {
	if x.What.Total() != "" {
		return "Find {what} {of} in {table}"
	}
	return "Find {what} in {table}"
}

// Props lists its settings.
func (x *FindStep) Props(c Context) []prop.Prop {
	out := []prop.Prop{
		{
			Name:   "what",
			Label:  "Find",
			Noun:   "what it finds",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value: prop.Pick(&x.What,
				prop.Option{Value: string(FirstFound), Words: "the first record"},
				prop.Option{Value: string(ListFound), Words: "all records"},
				prop.Option{Value: string(NumberFound), Words: "the number of records"},
				prop.Option{Value: string(SumFound), Words: "the sum of", Label: "The sum of a number"},
				prop.Option{Value: string(AverageFound), Words: "the average of", Label: "The average of a number"},
				prop.Option{Value: string(LeastFound), Words: "the least", Label: "The least of a number"},
				prop.Option{Value: string(GreatestFound), Words: "the greatest", Label: "The greatest of a number"}),
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
	if x.What.Total() != "" || c.b == nil {
		out = append(out, prop.Prop{
			Name:  "of",
			Label: "Of",
			Noun:  "of what it is",
			Must:  c.b != nil,
			Asked: true,
			Help:  "A number of each record, such as its hours, or hours * rate",
			Value: prop.Expression(&x.Of, c.Among(x.Table), expr.Type{Kind: expr.Number}).Offering(c.numberOffers(x.Table)),
			Lost:  stepGone,
		})
	}
	if x.What == NumberFound || x.What.Total() != "" {
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
	if wrong := c.grounded(x.Where, c.Among(x.Table)); wrong != nil {
		return wrong
	}
	return c.grounded(x.Of, c.Among(x.Table))
}

// Reset drops what belongs to records of another table, and what is not found any more.
func (x *FindStep) Reset(c Context, setting string) {
	if setting == "table" {
		x.Where, x.Sort, x.Falling, x.Of = "", "", false, ""
	}
	if x.What.Total() == "" {
		x.Of = ""
	}
	if x.What != ListFound {
		x.Most = 0
	}
	if x.What != ListFound && x.What != FirstFound {
		x.Sort, x.Falling = "", false
	}
	if setting == "table" {
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
	case x.What == NumberFound, x.What.Total() != "":
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
	case x.What.Total() != "":
		return string(x.What) + " of " + lower(t.Name)
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
