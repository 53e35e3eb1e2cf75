package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var addStepKind = StepKind{
	Name:  "add",
	Label: "Add a record",
	Noun:  "step that adds a record",
	Help:  "Or one for each record of a list",
	New:   func() Step { return &AddStep{} },
}

// AddStep adds a record, or with For one for each record of a list.
type AddStep struct {
	StepHead
	Table  string       `json:"table"`
	For    string       `json:"for,omitempty"` // a list of records
	Values []prop.Given `json:"values,omitempty"`
}

// Row gives the kind.
func (*AddStep) Row() *StepKind { return &addStepKind }

// Called says which step it is.
func (*AddStep) Called(c Context) string { return calledStep(&addStepKind, c) }

// Core is the sentence that tells it.
func (x *AddStep) Core(Context) string {
	if x.For != "" {
		return "Add to {table}, one for each of {for}"
	}
	return "Add to {table}"
}

// Each gives the table of the records for each of which one is added, or nil.
func (x *AddStep) Each(c Context) *Table { return c.tableOfRecord(x.For, true) }

// Props lists its settings.
func (x *AddStep) Props(c Context) []prop.Prop {
	scope := c.Flows()
	if t := x.Each(c); t != nil {
		scope = c.Among(t.ID)
	}
	return []prop.Prop{
		{
			Name:   "table",
			Label:  "Add to",
			Noun:   "the table",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value:  prop.One(&x.Table, c.Tables()),
			Lost:   stepGone,
		},
		{
			Name:  "for",
			Label: "One for each of",
			Noun:  "for what it adds them",
			Help:  "Adds one for each record of a list, whose fields can be named by themselves",
			Group: "How many",
			Value: prop.Expression(&x.For, c.Flows(), expr.Type{}).Offering(c.recordOffers(true)),
			Lost:  stepGone,
		},
		{
			Name:  "values",
			Label: "With these values",
			Noun:  "the values",
			Help:  "What is not said has its default",
			Group: "Values",
			Asked: true,
			Say:   " with {}",
			Value: prop.Gives(&x.Values, c.Fields(x.Table, isEntered), scope, c.want(x.Table)),
			Lost:  prop.Lost{Words: "the workflow does not set it any more"},
		},
	}
}

// Check tells what is wrong with its settings together, or nil.
func (x *AddStep) Check(c Context) *words.Problem {
	if x.For != "" && c.flow != nil && x.Each(c) == nil {
		return words.New("flow-list")
	}
	return nil
}

// Start gives it a name.
func (x *AddStep) Start(c Context) { x.begin(c, x) }

// Rename gives what it makes another name; expressions follow.
func (x *AddStep) Rename(c Context, name string) error { return x.rename(c, name) }

// Makes gives the type of what it makes.
func (x *AddStep) Makes(c Context) expr.Type {
	if c.tableOf(x.Table) == nil {
		return expr.Type{}
	}
	return expr.Type{Kind: expr.Record, Table: x.Table, Many: x.For != ""}
}

func (x *AddStep) made(c Context) string {
	t := c.tableOf(x.Table)
	switch {
	case t == nil:
		return "new record"
	case x.For != "":
		return "new " + lower(t.Name)
	}
	return "new " + t.OneWord()
}

var changeStepKind = StepKind{
	Name:  "change",
	Label: "Change a record",
	Noun:  "step that changes records",
	Help:  "One that is in hand, or all of a table for which a condition holds",
	New:   func() Step { return &ChangeStep{} },
}

// Which says which records a step is about: one that an expression gives, or all of a table
// for which a condition holds.
type Which struct {
	Record string `json:"record,omitempty"`
	All    bool   `json:"all,omitempty"`
	Table  string `json:"table,omitempty"` // with All
	Where  string `json:"where,omitempty"` // with All
}

// Of gives the table of the records, or nil.
func (w *Which) Of(c Context) *Table {
	if w.All {
		return c.tableOf(w.Table)
	}
	return c.tableOfRecord(w.Record, false)
}

// which lists the settings that say which records a step is about.
func (w *Which) which(c Context, verb string) []prop.Prop {
	all := prop.Prop{
		Name:   "all",
		Label:  "All records for which a condition holds, instead of one",
		Noun:   "which records",
		Asked:  true,
		Resets: true,
		With:   "record",
		Value:  prop.Switch(&w.All),
	}
	if !w.All {
		return []prop.Prop{{
			Name:   "record",
			Label:  verb,
			Noun:   "the record",
			Must:   true,
			Asked:  true,
			Resets: true,
			Hint:   "no-record",
			Value:  prop.Expression(&w.Record, c.Flows(), expr.Type{}).Offering(c.recordOffers(false)),
			Lost:   stepGone,
		}, all}
	}
	all.With = ""
	return []prop.Prop{all, {
		Name:   "table",
		Label:  verb + " in",
		Noun:   "the table",
		Must:   true,
		Asked:  true,
		Resets: true,
		Value:  prop.One(&w.Table, c.Tables()),
		Lost:   stepGone,
	}, {
		Name:  "where",
		Label: "Where",
		Noun:  "the condition",
		Must:  true,
		Asked: true,
		Value: prop.Condition(&w.Where, c.Among(w.Table)),
		Lost:  stepGone,
	}}
}

// said is how the core of a step names its records.
func (w *Which) said() string {
	if w.All {
		return "{all|all} {table} where {where}"
	}
	return "{record}"
}

// checkWhich tells what is wrong with which records a step is about, or nil.
func (w *Which) checkWhich(c Context) *words.Problem {
	switch {
	case c.flow == nil:
		return nil
	case !w.All && w.Of(c) == nil:
		return words.New("flow-record")
	case !w.All:
		return nil
	}
	return c.grounded(w.Where, c.Among(w.Table))
}

// grounded tells of a condition over records that names lists which only the workflow knows, or nil.
func (c Context) grounded(source string, scope expr.Scope) *words.Problem {
	if source == "" {
		return nil
	}
	checked, err := expr.Check(source, scope)
	if err != nil {
		return nil // which is told as such
	}
	if at, ok := expr.Grounded(checked); !ok {
		return words.New("flow-lists", "piece", source[at.Start:min(at.End, len(source))])
	}
	return nil
}

// ChangeStep changes records.
type ChangeStep struct {
	StepHead
	Which
	Values []prop.Given `json:"values"`
}

// Row gives the kind.
func (*ChangeStep) Row() *StepKind { return &changeStepKind }

// Called says which step it is.
func (*ChangeStep) Called(c Context) string { return calledStep(&changeStepKind, c) }

// Core is the sentence that tells it.
func (x *ChangeStep) Core(Context) string { return "Change " + x.said() + ": {values}" }

// Props lists its settings.
func (x *ChangeStep) Props(c Context) []prop.Prop {
	table, scope := "", c.Flows()
	if t := x.Of(c); t != nil {
		table = t.ID
	}
	if x.All {
		scope = c.Among(x.Table)
	}
	return append(x.which(c, "Change"), prop.Prop{
		Name:  "values",
		Label: "To these values",
		Noun:  "the values",
		Must:  true,
		Asked: true,
		Value: prop.Gives(&x.Values, c.Fields(table, isEntered), scope, c.want(table)),
		Lost:  prop.Lost{Words: "the workflow does not set it any more"},
	})
}

// Check tells what is wrong with its settings together, or nil.
func (x *ChangeStep) Check(c Context) *words.Problem { return x.checkWhich(c) }

var deleteStepKind = StepKind{
	Name:  "delete",
	Label: "Delete a record",
	Noun:  "step that deletes records",
	Help:  "To the bin: one that is in hand, or all of a table for which a condition holds",
	New:   func() Step { return &DeleteStep{} },
}

// DeleteStep deletes records.
type DeleteStep struct {
	StepHead
	Which
}

// Row gives the kind.
func (*DeleteStep) Row() *StepKind { return &deleteStepKind }

// Called says which step it is.
func (*DeleteStep) Called(c Context) string { return calledStep(&deleteStepKind, c) }

// Core is the sentence that tells it.
func (x *DeleteStep) Core(Context) string { return "Delete " + x.said() }

// Props lists its settings.
func (x *DeleteStep) Props(c Context) []prop.Prop { return x.which(c, "Delete") }

// Check tells what is wrong with its settings together, or nil.
func (x *DeleteStep) Check(c Context) *words.Problem { return x.checkWhich(c) }
