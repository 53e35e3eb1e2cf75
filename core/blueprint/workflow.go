package blueprint

import (
	"encoding/json"
	"fmt"
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Workflow is what the app does by itself, or when somebody asks for it: what starts it, and
// its steps.
type Workflow struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Starts Starts `json:"starts"`
	Rights Rights `json:"rights,omitempty"`
	Off    bool   `json:"off,omitempty"` // it does not start
	Steps  Steps  `json:"steps"`
}

// Rights is whose rights a workflow has.
type Rights string

// The rights.
const (
	PersonRights Rights = ""    // those of the person who set it off
	AppRights    Rights = "app" // all that its app can do
)

// Workflow gives the workflow with the id, or nil.
func (b *Blueprint) Workflow(id string) *Workflow {
	return find(b.Workflows, func(w *Workflow) bool { return w.ID == id })
}

// Called says which workflow it is.
func (w *Workflow) Called(Context) string {
	return words.Say("called-workflow", words.Args{"name": w.Name})
}

// Core is the sentence that tells it.
func (w *Workflow) Core(c Context) string {
	switch {
	case w.Routine() != nil:
		return w.Starts.Core(c)
	case w.Starts.Row().Person:
		return w.Starts.Core(c) + ". Its steps can do {rights}"
	}
	return w.Starts.Core(c) + ". Its steps have the app’s own rights"
}

// Props lists its settings, and those of what starts it.
func (w *Workflow) Props(c Context) []prop.Prop {
	out := []prop.Prop{{Name: "name", Label: "Name, such as Remind about haul-outs", Noun: "the name", Must: true, Asked: true,
		Value: named(&w.Name)}}
	out = append(out, w.Starts.Props(c)...)
	if w.Starts.Row().Person {
		out = append(out, prop.Prop{
			Name:  "rights",
			Label: "Its steps can do",
			Noun:  "what its steps can do",
			Value: prop.Pick(&w.Rights,
				prop.Option{Value: string(PersonRights), Words: "what the person who starts it can do"},
				prop.Option{Value: string(AppRights), Words: "everything, with the app’s own rights"}),
		})
	}
	return append(out, prop.Prop{
		Name:  "off",
		Label: "It is switched off",
		Noun:  "whether it is switched off",
		Help:  "Nothing starts it until it is switched on again",
		Group: "Running",
		Say:   ". {|It is switched off}",
		Value: prop.Switch(&w.Off),
	})
}

// AsApp tells whether the steps have the app's own rights. Those of a routine have the rights of who runs it.
func (w *Workflow) AsApp() bool {
	return w.Rights == AppRights || !w.Starts.Row().Person && w.Routine() == nil
}

// Starts holds what starts a workflow, in JSON by its kind.
type Starts struct{ Trigger }

// UnmarshalJSON reads a trigger strictly, as what its kind is.
func (s *Starts) UnmarshalJSON(raw []byte) error {
	var head TriggerHead
	if err := json.Unmarshal(raw, &head); err != nil {
		return err
	}
	x := NewTrigger(head.Kind)
	if x == nil {
		return fmt.Errorf("there is no trigger %q", head.Kind)
	}
	s.Trigger = x
	return prop.Strictly(raw, x)
}

// MarshalJSON writes the trigger.
func (s Starts) MarshalJSON() ([]byte, error) { return json.Marshal(s.Trigger) }

// workflowPlaces walks the workflows with what starts them and their steps.
func (b *Blueprint) workflowPlaces(c Context, yield func(Place) bool) bool {
	return each(&b.Workflows, func(w *Workflow) Place {
		in := c
		in.flow = w
		return Place{ID: w.ID, What: "workflow", Thing: w, Context: in}
	}, func(p Place) bool {
		w := p.Context.flow
		made := &[]*expr.Field{}
		return yield(p) && flowFormPlaces(p.Context, yield) && takenPlaces(p.Context, yield) && inputPlaces(p.Context, yield) &&
			stepPlaces(w.ID, &w.Steps, p.Context, made, yield)
	})
}

// stepPlaces walks steps with those that they hold. What each makes is known to those after
// it; what is made inside of a loop, in that loop only.
func stepPlaces(in string, steps *Steps, c Context, made *[]*expr.Field, yield func(Place) bool) bool {
	return each((*[]Step)(steps), func(x *Step) Place {
		at := c
		at.made = slices.Clip(*made)
		return Place{ID: (*x).Self().ID, What: "step", In: in, Thing: *x, Context: at}
	}, func(p Place) bool {
		step := p.Thing.(Step)
		if !yield(p) {
			return false
		}
		if h, ok := step.(StepHolder); ok {
			inner := made
			in := c
			in.steps = h
			if l, loops := step.(Loop); loops {
				in.made = p.Context.made
				inner = &[]*expr.Field{}
				*inner = append(slices.Clone(*made), l.item(in)...)
			}
			if !stepPlaces(p.ID, h.Inside(), in, inner, yield) {
				return false
			}
		}
		if f := madeBy(step, p.Context); f != nil {
			*made = append(*made, f)
		}
		return true
	})
}

// madeBy is how later steps name what a step makes, or nil.
func madeBy(x Step, c Context) *expr.Field {
	m, ok := x.(Maker)
	if !ok || x.Self().Key == "" {
		return nil
	}
	t := m.Makes(c)
	if t.Kind == "" {
		return nil
	}
	h := x.Self()
	return &expr.Field{ID: h.ID, Key: h.Key, Name: h.Name, Type: t}
}

// Flow gives the workflow in which the thing stands, or nil.
func (c Context) Flow() *Workflow { return c.flow }

// Flows is the scope of expressions in the steps of a workflow: the record that set it off, the
// person, the answers of its form, what steps before made, and what the record held before.
func (c Context) Flows() expr.Scope { return c.flowing("") }

// Among is the scope of conditions in a step about records of a table; bare names are theirs.
func (c Context) Among(table string) expr.Scope { return c.flowing(table) }

func (c Context) flowing(inner string) expr.Scope {
	if c.flow == nil || c.b == nil {
		return expr.Scope{}
	}
	s := c.flow.Starts.scope(c)
	s.Inner = inner
	if len(c.made) > 0 {
		s.Made = expr.Named(expr.MadeTable, words.Say("flow-made", nil), slices.Clone(c.made))
	}
	return s
}

// madeKey makes a key by which no other step of the workflow is named.
func (w *Workflow) madeKey(name, self string) string {
	taken := map[string]bool{}
	for x := range w.Steps.All {
		h := x.Self()
		if h.ID != self {
			taken[h.Key] = true
		}
		if l, loops := x.(Loop); loops && self != ItemID(h.ID) {
			taken[l.Item().ItemKey] = true
		}
	}
	return keyFor(name, "made", func(k string) bool { return taken[k] })
}

// addWorkflow adds a workflow; the value kind says what starts it.
func addWorkflow(b *Blueprint, c *AddThing) error {
	kind := c.Values.Text("kind")
	x := NewTrigger(kind)
	if x == nil {
		return words.New("no-trigger", "kind", kind)
	}
	b.Workflows = append(b.Workflows, Workflow{ID: c.ID, Starts: Starts{x}, Steps: Steps{}})
	return c.fill(b, c.ID, c.Values.Without("kind"))
}

// addStep adds a step to a workflow, or to a step that holds steps.
func addStep(b *Blueprint, c *AddThing) error {
	steps := b.stepsOf(c.Into)
	if steps == nil {
		return words.New("gone", "thing", "workflow")
	}
	kind := c.Values.Text("kind")
	x := NewStep(kind, c.ID)
	if x == nil {
		return words.New("no-step", "kind", kind)
	}
	into, _ := b.Place(c.Into)
	if !into.Within().TakesStep(x.Row()) {
		return words.New("step-not-here", "step", x.Row().Noun)
	}
	at := len(*steps)
	if n := len(*steps); n > 0 && x.Row() == &pathStepKind && (*steps)[n-1].Self().When == "" { // which stays the last one
		at--
	}
	*steps = slices.Insert(*steps, at, x)
	if err := c.fill(b, c.ID, c.Values.Without("kind")); err != nil {
		return err
	}
	p, err := b.at(c.ID)
	if err != nil {
		return err
	}
	added := p.Thing.(Step)
	if _, makes := added.(Maker); makes && c.Values.Text("name") != "" { // it may have been called otherwise before it was named
		h := added.Self()
		h.Key = p.Context.flow.madeKey(h.Name, h.ID)
	}
	return nil
}

// TakesStep tells whether a step of a kind can be put where the context is.
func (c Context) TakesStep(k *StepKind) bool {
	_, branch := c.steps.(*BranchStep)
	return c.flow != nil && branch == (k == &pathStepKind)
}

// FlowPlaces walks a workflow and its steps.
func (b *Blueprint) FlowPlaces(w *Workflow, catalog *expr.Catalog) func(func(Place) bool) {
	return func(yield func(Place) bool) {
		c := Context{b: b, catalog: catalog, flow: w}
		_ = yield(Place{ID: w.ID, What: "workflow", Thing: w, Context: c}) && stepPlaces(w.ID, &w.Steps, c, &[]*expr.Field{}, yield)
	}
}

// FlowRecord gives the id of the table of the record that sets a workflow off, or "".
func (b *Blueprint) FlowRecord(w *Workflow, catalog *expr.Catalog) string {
	return w.Starts.scope(Context{b: b, catalog: catalog, flow: w}).Row
}

// FlowWhen checks the condition without which a workflow does not start; nil where there is none.
func (b *Blueprint) FlowWhen(w *Workflow, catalog *expr.Catalog) (*expr.Checked, error) {
	source := w.Starts.Self().When
	if source == "" {
		return nil, nil
	}
	type place struct{ flow string }
	return checkedOnce(b, place{w.ID}, func() (*expr.Checked, error) {
		return expr.CheckCondition(source, w.Starts.scope(Context{b: b, catalog: catalog, flow: w}))
	})
}

// FlowMe gives the id of the table in which whoever sets a workflow off is, as its expressions know
// them; "" where nobody is known.
func (b *Blueprint) FlowMe(w *Workflow, catalog *expr.Catalog) string {
	return w.Starts.scope(Context{b: b, catalog: catalog, flow: w}).Me
}

// Once makes something of a blueprint that is used again and again, or gives what was made before
// with the key.
func Once[T any](b *Blueprint, key any, make func() (T, error)) (T, error) {
	return checkedOnce(b, key, make)
}

// FlowWatch is the scope of expressions that watch a workflow: they can name what any step makes.
func (b *Blueprint) FlowWatch(w *Workflow, catalog *expr.Catalog) expr.Scope {
	s := w.Starts.scope(Context{b: b, catalog: catalog, flow: w})
	var all []*expr.Field
	for p := range b.FlowPlaces(w, catalog) {
		switch x := p.Thing.(type) {
		case Maker:
			if f := madeBy(x, p.Context); f != nil {
				all = append(all, f)
			}
		case Loop:
			all = append(all, x.item(p.Context)...)
		}
	}
	if len(all) > 0 {
		s.Made = expr.Named(expr.MadeTable, words.Say("flow-made", nil), all)
	}
	return s
}

// FlowMakes gives the types of what the steps of all workflows make, by ids.
func (b *Blueprint) FlowMakes(catalog *expr.Catalog) map[string]expr.Type {
	out := map[string]expr.Type{}
	for i := range b.Workflows {
		for p := range b.FlowPlaces(&b.Workflows[i], catalog) {
			switch x := p.Thing.(type) {
			case Maker:
				out[p.ID] = x.Makes(p.Context)
			case Loop:
				for _, f := range x.item(p.Context) {
					out[f.ID] = f.Type
				}
			}
		}
	}
	return out
}

// FlowScope is what expressions can name at a workflow or a step with the id or, where there is none
// yet, at the end of what holds it; conditions about records of a table with its fields.
func (b *Blueprint) FlowScope(id, in, inner string) (expr.Scope, bool) {
	p, ok := b.Place(id)
	if !ok || p.Context.flow == nil {
		added, err := Tried(b, Adding("step", in, id, "kind", letStepKind.Name))
		if err != nil {
			return expr.Scope{}, false
		}
		p = added
	}
	return p.Context.flowing(inner), true
}

// FlowsWait tells whether a step of a workflow waits for something that records say.
func (b *Blueprint) FlowsWait() bool {
	type key struct{}
	waits, err := checkedOnce(b, key{}, func() (bool, error) { return b.flowsWait(), nil })
	return waits && err == nil
}

func (b *Blueprint) flowsWait() bool {
	for i := range b.Workflows {
		for x := range b.Workflows[i].Steps.All {
			if w, waits := x.(*WaitStep); waits && w.For != WaitsTime {
				return true
			}
		}
	}
	return false
}
