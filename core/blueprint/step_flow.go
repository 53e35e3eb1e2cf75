package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var branchStepKind = StepKind{
	Name:  "branch",
	Label: "Take one of several paths",
	Noun:  "branch",
	Help:  "By conditions; after it the workflow goes on, whichever path was taken",
	New:   func() Step { return &BranchStep{} },
}

// Taking is which paths of a branch are taken.
type Taking string

// The ways to take paths.
const (
	FirstThatFits Taking = ""
	EachThatFits  Taking = "each"
)

// BranchStep takes those of its paths that fit. Whichever was taken, and when none was, the
// workflow goes on after it.
type BranchStep struct {
	StepHead
	Take  Taking `json:"take,omitempty"`
	Steps Steps  `json:"steps"` // paths
}

// Row gives the kind.
func (*BranchStep) Row() *StepKind { return &branchStepKind }

// Inside gives its paths.
func (x *BranchStep) Inside() *Steps { return &x.Steps }

// Called says which step it is.
func (*BranchStep) Called(c Context) string { return calledStep(&branchStepKind, c) }

// Core is the sentence that tells it.
func (*BranchStep) Core(Context) string { return "Take {take}" }

// Props lists its settings.
func (x *BranchStep) Props(Context) []prop.Prop {
	return []prop.Prop{{
		Name:  "take",
		Label: "Take",
		Noun:  "which paths it takes",
		Asked: true,
		Value: prop.Pick(&x.Take,
			prop.Option{Value: string(FirstThatFits), Words: "the first path that fits"},
			prop.Option{Value: string(EachThatFits), Words: "each path that fits"}),
	}}
}

// Start gives it paths.
func (x *BranchStep) Start(Context) {
	if x.Steps == nil {
		x.Steps = Steps{}
	}
}

var pathStepKind = StepKind{
	Name:  "path",
	Label: "A path of the branch",
	Noun:  "path",
	Help:  "Steps that are done if a condition holds, or otherwise",
	New:   func() Step { return &PathStep{} },
}

// PathStep is one path of a branch. Without a condition it is taken when no other was.
type PathStep struct {
	StepHead
	Steps Steps `json:"steps"`
}

// Row gives the kind.
func (*PathStep) Row() *StepKind { return &pathStepKind }

// Inside gives its steps.
func (x *PathStep) Inside() *Steps { return &x.Steps }

// Called says which step it is.
func (*PathStep) Called(c Context) string { return calledStep(&pathStepKind, c) }

// Core is the sentence that tells it.
func (x *PathStep) Core(Context) string {
	if x.When == "" {
		return "{when|Otherwise}"
	}
	return "If {when}"
}

// Props lists its settings.
func (x *PathStep) Props(c Context) []prop.Prop {
	return []prop.Prop{{
		Name:  "when",
		Label: "If; without a condition it is taken when no other path was",
		Noun:  "the condition",
		Asked: true,
		Value: prop.Condition(&x.When, c.Flows()),
		Lost:  stepGone,
	}}
}

// Start gives it steps.
func (x *PathStep) Start(Context) {
	if x.Steps == nil {
		x.Steps = Steps{}
	}
}

// Check refuses a second path without a condition, and one before others.
func (x *PathStep) Check(c Context) *words.Problem {
	branch, ok := c.steps.(*BranchStep)
	if !ok || x.When != "" {
		return nil
	}
	if last := branch.Steps[len(branch.Steps)-1]; last != Step(x) {
		return words.New("flow-otherwise")
	}
	return nil
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
	List     string `json:"list"`
	ItemName string `json:"itemName,omitempty"` // what its steps call the item
	ItemKey  string `json:"itemKey,omitempty"`
	Steps    Steps  `json:"steps"`
}

// itemID is what stands behind the id of a loop in that of its item.
const itemID = ":item"

// ItemID is the id by which the item of a loop is known among what steps made.
func ItemID(loop string) string { return loop + itemID }

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
	if c.flow == nil || x.ItemName != "" && x.ItemKey != "" {
		return
	}
	if x.ItemName == "" {
		x.ItemName = "item"
		if t := c.tableOfRecord(x.List, true); t != nil {
			x.ItemName = t.OneWord()
		}
	}
	x.ItemKey = c.flow.madeKey(x.ItemName, ItemID(x.ID))
}

// Settle gives the item a key that fits another name; expressions follow.
func (x *EachStep) Settle(c Context, set Values) {
	if set["itemName"] == nil || c.flow == nil {
		return
	}
	name := x.ItemName
	is := func(r expr.Ref) bool { return r.Table == expr.MadeTable && r.Field == ItemID(x.ID) }
	if err := c.b.renames(is, name, c.flow.madeKey(name, ItemID(x.ID)), &x.ItemName, &x.ItemKey); err != nil {
		return // something else is wrong, which is told when the whole is checked
	}
}

// item is how the steps inside name the item.
func (x *EachStep) item(c Context) []*expr.Field {
	if c.flow == nil || x.ItemKey == "" {
		return nil
	}
	checked, err := expr.Check(x.List, c.Flows())
	if err != nil || !checked.Type().Many {
		return nil
	}
	return []*expr.Field{{ID: ItemID(x.ID), Key: x.ItemKey, Name: x.ItemName, Type: checked.Type().One()}}
}

var stopStepKind = StepKind{
	Name:  "stop",
	Label: "Stop with words",
	Noun:  "step that stops",
	Help:  "What was done since the last wait is taken back, and the person reads why",
	New:   func() Step { return &StopStep{} },
}

// StopStep ends a run and takes back what its part did.
type StopStep struct {
	StepHead
	Text string `json:"text"`
}

// Row gives the kind.
func (*StopStep) Row() *StepKind { return &stopStepKind }

// Called says which step it is.
func (*StopStep) Called(c Context) string { return calledStep(&stopStepKind, c) }

// Core is the sentence that tells it.
func (*StopStep) Core(Context) string { return "Stop, take back what was done, and say {text}" }

// Props lists its settings.
func (x *StopStep) Props(c Context) []prop.Prop {
	return []prop.Prop{flowText(&x.Text, c, "text", "Say", "what it says")}
}

// flowText is the setting of a text with placeholders.
func flowText(at *string, c Context, name, label, noun string) prop.Prop {
	return prop.Prop{Name: name, Label: label, Noun: noun, Must: true, Asked: true, Value: prop.Template(at, c.Flows())}
}
