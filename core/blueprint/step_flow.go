package blueprint

import (
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
