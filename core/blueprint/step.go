package blueprint

import (
	"encoding/json"
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Step is one thing that a workflow does. One of a new kind is a row in [stepKinds], with a Go
// file for its settings, and what it does in core/flow.
type Step interface {
	Thing
	Self() *StepHead
	Row() *StepKind
}

// StepHead is what every step has. It is embedded in the steps of all kinds.
type StepHead struct {
	ID   string `json:"id"`
	Kind string `json:"kind"`
	// Name and Key are how later steps name what it makes; "" where it makes nothing.
	Name string `json:"name,omitempty"`
	Key  string `json:"key,omitempty"`
	// When is the condition without which it is passed over.
	When string `json:"when,omitempty"`
}

// Self gives the head of a step.
func (h *StepHead) Self() *StepHead { return h }

// Maker is a step that makes something which later steps can name.
type Maker interface {
	Step
	// Makes gives the type of what it makes, the zero type where that is not known.
	Makes(c Context) expr.Type
	// made proposes a name for it.
	made(c Context) string
}

// StepHolder is a step that holds steps.
type StepHolder interface {
	Step
	Inside() *Steps
}

// StepKind is the row of a kind of step.
type StepKind struct {
	Name  string // in the document
	Label string // where it is chosen: "Add a record"
	Noun  string // in sentences: "step that adds a record"
	Help  string
	New   func() Step
}

// stepKinds lists the kinds in the order in which they are offered.
var stepKinds = []*StepKind{&addStepKind, &changeStepKind, &deleteStepKind, &findStepKind, &letStepKind, &mailStepKind,
	&messageStepKind, &openStepKind, &branchStepKind, &pathStepKind, &eachStepKind, &repeatStepKind, &waitStepKind, &callStepKind,
	&routineStepKind, &documentStepKind, &keepStepKind, &personStepKind, &stopStepKind}

// StepKinds lists the kinds in the order in which they are offered.
func StepKinds() []*StepKind { return slices.Clone(stepKinds) }

// NewStep gives a step of a kind that has nothing yet, or nil.
func NewStep(kind, id string) Step {
	for _, k := range stepKinds {
		if k.Name == kind {
			x := k.New()
			*x.Self() = StepHead{ID: id, Kind: kind}
			return x
		}
	}
	return nil
}

// Steps are the steps of a workflow, or of a step that holds some.
type Steps []Step

// UnmarshalJSON reads steps strictly, each as what its kind is.
func (s *Steps) UnmarshalJSON(raw []byte) (err error) {
	*s, err = ofKinds(raw, "step", func(kind, id string) (Step, bool) {
		x := NewStep(kind, id)
		return x, x != nil
	})
	return err
}

// All walks steps with those that they hold, each before its own.
func (s Steps) All(yield func(Step) bool) { s.all(yield) }

func (s Steps) all(yield func(Step) bool) bool {
	for _, x := range s {
		if !yield(x) {
			return false
		}
		if h, ok := x.(StepHolder); ok && !h.Inside().all(yield) {
			return false
		}
	}
	return true
}

// stepsOf gives the steps of the workflow, or of the step, with the id; nil where there is none
// that holds steps.
func (b *Blueprint) stepsOf(id string) *Steps {
	for i := range b.Workflows {
		w := &b.Workflows[i]
		if w.ID == id {
			return &w.Steps
		}
		for x := range w.Steps.All {
			if h, ok := x.(StepHolder); ok && x.Self().ID == id {
				return h.Inside()
			}
		}
	}
	return nil
}

// calledStep says which step it is.
func calledStep(k *StepKind, c Context) string {
	if c.flow == nil {
		return k.Noun
	}
	return words.Say("called-step", words.Args{"step": k.Noun, "flow": c.flow.Name})
}

// props lists the settings that steps of all kinds have.
func (h *StepHead) props(c Context, x Step) []prop.Prop {
	var out []prop.Prop
	if m, makes := x.(Maker); makes && (c.flow == nil || !nothing(m, c)) {
		say := ", as “the {}”"
		switch x.(type) {
		case *WaitStep:
			say = ". Whether it came to be so is called “{}”"
		case *CallStep:
			say = ". Its answer is called “the {}”"
		}
		out = append(out, prop.Prop{
			Name:  "name",
			Label: "Later steps call it",
			Noun:  "what later steps call it",
			Help:  "Such as “new invoice”",
			Group: "Name",
			Say:   say,
			Must:  true,
			Value: named(&h.Name),
		})
	}
	if _, is := x.(*PathStep); is {
		return out
	}
	return append(out, prop.Prop{
		Name:  "when",
		Label: "Only when",
		Noun:  "when it is done",
		Help:  "Otherwise this step is passed over, and the next one follows",
		Group: "When",
		Say:   ". It is passed over unless {}",
		Value: prop.Condition(&h.When, c.Flows()),
		Lost:  stepGone,
	})
}

// nothing tells that a step makes nothing that could be named, as it is set.
func nothing(x Maker, c Context) bool {
	switch x.(type) {
	case *WaitStep, *CallStep, *RoutineStep:
		return x.Makes(c).Kind == ""
	}
	return false
}

// begin gives a step that makes something its name.
func (h *StepHead) begin(c Context, x Maker) {
	if c.flow == nil || h.Name != "" && h.Key != "" {
		return
	}
	if h.Name == "" {
		h.Name = x.made(c)
	}
	h.Key = c.flow.madeKey(h.Name, h.ID)
	for n := 2; c.flow.namesTwice(h); n++ {
		h.Name = x.made(c) + " " + words.Number(n)
		h.Key = c.flow.madeKey(h.Name, h.ID)
	}
}

// namesTwice tells whether another step makes something of the same name.
func (w *Workflow) namesTwice(h *StepHead) bool {
	for x := range w.Steps.All {
		if o := x.Self(); o.ID != h.ID && o.Name == h.Name {
			return true
		}
	}
	return false
}

// rename gives what a step makes another name and key; expressions follow.
func (h *StepHead) rename(c Context, name string) error {
	return c.b.renames(func(r expr.Ref) bool { return r.Table == expr.MadeTable && r.Field == h.ID }, name, c.flow.madeKey(name, h.ID),
		&h.Name, &h.Key)
}

// stepGone takes the step out of its workflow, which is switched off.
var stepGone = prop.Lost{Words: "it is taken out of the workflow, which is switched off", TakeOut: true}

// recordOffers offers the records that a step has in hand: the one that set the workflow off,
// those to which its links lead, and those that steps before made.
func (c Context) recordOffers(many bool) func(func(prop.Option) bool) {
	return func(yield func(prop.Option) bool) {
		if c.flow == nil || c.b == nil {
			return
		}
		s := c.Flows()
		if s.Row != "" && !many {
			if !yield(prop.Option{Value: "this"}) {
				return
			}
		}
		for _, from := range []struct {
			prefix string
			table  *expr.Table
		}{{"", c.catalog.Tables[s.Row]}, {"made.", s.Made}} {
			if from.table == nil {
				continue
			}
			for _, f := range from.table.Fields {
				if f.Type.Kind == expr.Record && f.Type.Many == many && (many || c.tableOf(f.Type.Table) != nil) && !yield(prop.Option{Value: from.prefix + f.Key}) {
					return
				}
			}
		}
	}
}

// tableOfRecord gives the table of the records that an expression gives; nil where it is about none.
func (c Context) tableOfRecord(source string, many bool) *Table {
	if c.flow == nil || source == "" {
		return nil
	}
	x, err := expr.Check(source, c.Flows())
	if err != nil || x.Type().Kind != expr.Record || x.Type().Many != many {
		return nil
	}
	return c.tableOf(x.Type().Table)
}

// moveStep puts a step into another workflow or step that holds steps. That what it names is
// there as well is checked afterwards, as of every change.
func (b *Blueprint) moveStep(p Place, x Step, c *Move) error {
	p.list.remove(p.At)
	into := b.stepsOf(c.Into) // not among what it holds itself, which is gone with it
	if into == nil {
		return words.New("gone", "thing", "place to move it to")
	}
	*into = slices.Insert(*into, min(max(c.To, 0), len(*into)), x)
	return nil
}

// MarshalJSON writes the steps; none are an empty list.
func (s Steps) MarshalJSON() ([]byte, error) {
	if s == nil {
		s = Steps{}
	}
	return json.Marshal([]Step(s))
}
