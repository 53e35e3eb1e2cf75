package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Loop is a step whose steps are done in rounds.
type Loop interface {
	StepHolder
	// Item is how its steps name what a round is about.
	Item() *LoopItem
	// item is that as expressions know it; none where its type is not known.
	item(c Context) []*expr.Field
}

// LoopItem is how the steps of a loop name what a round is about.
type LoopItem struct {
	ItemName string `json:"itemName,omitempty"`
	ItemKey  string `json:"itemKey,omitempty"`
}

// Item gives the names.
func (x *LoopItem) Item() *LoopItem { return x }

// itemID is what stands behind the id of a loop in that of its item.
const itemID = ":item"

// ItemID is the id by which the item of a loop is known among what steps made.
func ItemID(loop string) string { return loop + itemID }

// call gives the item of a loop a name, unless it has one.
func (x *LoopItem) call(c Context, loop, name string) {
	if c.flow == nil || x.ItemName != "" && x.ItemKey != "" {
		return
	}
	if x.ItemName == "" {
		x.ItemName = name
	}
	x.ItemKey = c.flow.madeKey(x.ItemName, ItemID(loop))
}

// settle gives the item of a loop a key that fits another name; expressions follow.
func (x *LoopItem) settle(c Context, loop string, set Values) error {
	if set["itemName"] == nil || c.flow == nil {
		return nil
	}
	is := func(r expr.Ref) bool { return r.Table == expr.MadeTable && r.Field == ItemID(loop) }
	return c.b.renames(is, x.ItemName, c.flow.madeKey(x.ItemName, ItemID(loop)), &x.ItemName, &x.ItemKey)
}

// of gives the item as expressions know it.
func (x *LoopItem) of(c Context, loop string, is expr.Type) []*expr.Field {
	if c.flow == nil || x.ItemKey == "" {
		return nil
	}
	return []*expr.Field{{ID: ItemID(loop), Key: x.ItemKey, Name: x.ItemName, Type: is}}
}

var eachStepKind = StepKind{
	Name:  "each",
	Label: "For each of a list",
	Noun:  "loop",
	Help:  "Steps that are done for each record, one after the other",
	New:   func() Step { return &EachStep{} },
}

// MostRounds is how many rounds the loops of one run can take together.
const MostRounds = 10_000

// EachStep does its steps for each item of a list.
type EachStep struct {
	StepHead
	List string `json:"list"`
	LoopItem
	Steps Steps `json:"steps"`
}

// Row gives the kind.
func (*EachStep) Row() *StepKind { return &eachStepKind }

// Inside gives its steps.
func (x *EachStep) Inside() *Steps { return &x.Steps }

// Called says which step it is.
func (*EachStep) Called(c Context) string { return calledStep(&eachStepKind, c) }

// Core is the sentence that tells it.
func (*EachStep) Core(Context) string { return "For each of {list}, called “the {itemName}”" }

// Props lists its settings.
func (x *EachStep) Props(c Context) []prop.Prop {
	return []prop.Prop{
		{
			Name:  "list",
			Label: "For each of",
			Noun:  "the list",
			Must:  true,
			Asked: true,
			Hint:  "no-list",
			Value: prop.Expression(&x.List, c.Flows(), expr.Type{}).Offering(c.recordOffers(true)),
			Lost:  stepGone,
		},
		{
			Name:  "itemName",
			Label: "Its steps call each one",
			Noun:  "what its steps call each one",
			Must:  true,
			Value: named(&x.ItemName),
		},
	}
}

// Check refuses what is no list.
func (x *EachStep) Check(c Context) *words.Problem {
	if c.flow == nil {
		return nil
	}
	if checked, err := expr.Check(x.List, c.Flows()); err == nil && !checked.Type().Many {
		return words.New("flow-list")
	}
	return nil
}

// Start names the item.
func (x *EachStep) Start(c Context) {
	if x.Steps == nil {
		x.Steps = Steps{}
	}
	name := "item"
	if t := c.tableOfRecord(x.List, true); t != nil {
		name = t.OneWord()
	}
	x.call(c, x.ID, name)
}

// Settle gives the item a key that fits another name; expressions follow.
func (x *EachStep) Settle(c Context, set Values) error { return x.settle(c, x.ID, set) }

// item is how the steps inside name the item.
func (x *EachStep) item(c Context) []*expr.Field {
	if c.flow == nil {
		return nil
	}
	checked, err := expr.Check(x.List, c.Flows())
	if err != nil || !checked.Type().Many {
		return nil
	}
	return x.of(c, x.ID, checked.Type().One())
}

var repeatStepKind = StepKind{
	Name:  "repeat",
	Label: "Repeat",
	Noun:  "step that repeats",
	Help:  "Steps that are done several times, until something is so",
	New:   func() Step { return &RepeatStep{} },
}

// MostRepeats is how often a step can repeat its steps.
const MostRepeats = 100

// RepeatStep does its steps again and again: at most so often, and not once its condition holds,
// which is looked at before each round.
type RepeatStep struct {
	StepHead
	Most  int    `json:"most"`
	Until string `json:"until,omitempty"`
	LoopItem
	Steps Steps `json:"steps"`
}

// Row gives the kind.
func (*RepeatStep) Row() *StepKind { return &repeatStepKind }

// Inside gives its steps.
func (x *RepeatStep) Inside() *Steps { return &x.Steps }

// Called says which step it is.
func (*RepeatStep) Called(c Context) string { return calledStep(&repeatStepKind, c) }

// Core is the sentence that tells it.
func (x *RepeatStep) Core(Context) string {
	if x.Most == 1 {
		return "Repeat at most {most} time, whose number is called “the {itemName}”"
	}
	return "Repeat at most {most} times, whose number is called “the {itemName}”"
}

// Props lists its settings.
func (x *RepeatStep) Props(c Context) []prop.Prop {
	return []prop.Prop{
		{
			Name:  "most",
			Label: "At most how often",
			Noun:  "how often it repeats",
			Must:  true,
			Asked: true,
			Value: prop.Number(&x.Most, 1, MostRepeats),
		},
		{
			Name:  "until",
			Label: "Until",
			Noun:  "until when it repeats",
			Help:  "Looked at before each round, also the first",
			Group: "Until",
			Asked: true,
			Say:   ", until {}",
			Value: prop.Condition(&x.Until, c.Flows()),
			Lost:  stepGone,
		},
		{
			Name:  "itemName",
			Label: "Its steps call the number of the round",
			Noun:  "what its steps call the number of the round",
			Must:  true,
			Value: named(&x.ItemName),
		},
	}
}

// Start names the number of the round.
func (x *RepeatStep) Start(c Context) {
	if x.Steps == nil {
		x.Steps = Steps{}
	}
	x.call(c, x.ID, "round")
}

// Settle gives the number of the round a key that fits another name; expressions follow.
func (x *RepeatStep) Settle(c Context, set Values) error { return x.settle(c, x.ID, set) }

// item is how the steps inside name the number of the round.
func (x *RepeatStep) item(c Context) []*expr.Field {
	return x.of(c, x.ID, expr.Type{Kind: expr.Number})
}
