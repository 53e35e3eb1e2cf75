package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var routineKind = TriggerKind{
	Name:  "routine",
	Label: "Another workflow runs it",
	Help:  "A routine: steps that are kept once, and used in many workflows",
	New:   func() Trigger { return &RoutineTrigger{} },
}

// RoutineTrigger makes of a workflow a routine: others run it, with values that they give it, and get one
// back. It has the rights of the workflow that runs it.
type RoutineTrigger struct {
	TriggerHead
	Record string  `json:"record,omitempty"` // id of the table of the record that is in hand
	Inputs []Input `json:"inputs,omitempty"`
	Gives  string  `json:"gives,omitempty"` // an expression over all that its steps make
}

// Row gives the kind.
func (*RoutineTrigger) Row() *TriggerKind { return &routineKind }

// Core is the sentence that tells it.
func (x *RoutineTrigger) Core(Context) string {
	if x.Record == "" {
		return "A routine, which other workflows run"
	}
	return "A routine, which other workflows run for one record in {record}"
}

// Props lists its settings.
func (x *RoutineTrigger) Props(c Context) []prop.Prop {
	gives := expr.Scope{}
	if c.flow != nil && c.b != nil {
		gives = c.b.FlowWatch(c.flow, c.catalog)
	}
	return []prop.Prop{
		{
			Name:  "record",
			Label: "It is about one record in",
			Noun:  "the table of its record",
			Asked: true,
			Fixed: true,
			Group: "What",
			Value: prop.One(&x.Record, c.Tables()).OrNone("no record in particular"),
			Lost:  flowGone,
		},
		{
			Name:  "gives",
			Label: "It gives back",
			Noun:  "what it gives back",
			Help:  "A value that the workflow which runs it can use, such as one that a step makes",
			Group: "What",
			Say:   ". It gives back {}",
			Value: prop.Expression(&x.Gives, gives, expr.Type{}),
			Lost:  prop.Lost{Words: "it gives nothing back any more"},
		},
		x.whenProp(c, "Only when", ". It runs only when {}"),
	}
}

func (x *RoutineTrigger) scope(c Context) expr.Scope {
	out := expr.Scope{Catalog: c.catalog, Row: x.Record, Me: expr.PersonTable}
	var fields []*expr.Field
	for i := range x.Inputs {
		in := &x.Inputs[i]
		fields = append(fields, &expr.Field{ID: in.ID, Key: in.Key, Name: in.Name, Type: in.Field().ExprType()})
	}
	if len(fields) > 0 {
		out.Answers = expr.Named(expr.AnswersTable, words.Say("flow-given", nil), fields)
	}
	return out
}

// Routine gives what makes a routine of the workflow, or nil.
func (w *Workflow) Routine() *RoutineTrigger {
	x, _ := w.Starts.Trigger.(*RoutineTrigger)
	return x
}

// inputPlaces walks what a routine is given.
func inputPlaces(c Context, yield func(Place) bool) bool {
	x := c.flow.Routine()
	return x == nil || each(&x.Inputs, func(in *Input) Place {
		return Place{ID: in.ID, What: "input", In: c.flow.ID, Thing: in, Context: c}
	}, yield)
}

// GivesType gives the type of what a routine gives back; the zero type for nothing.
func (b *Blueprint) GivesType(w *Workflow, catalog *expr.Catalog) expr.Type {
	x := w.Routine()
	if x == nil || x.Gives == "" {
		return expr.Type{}
	}
	checked, err := expr.Check(x.Gives, b.FlowWatch(w, catalog))
	if err != nil {
		return expr.Type{}
	}
	return checked.Type()
}

var routineStepKind = StepKind{
	Name:  "routine",
	Label: "Run a routine",
	Noun:  "step that runs a routine",
	Help:  "Steps that are kept once and used in many workflows",
	New:   func() Step { return &RoutineStep{} },
}

// RoutineStep runs a routine.
type RoutineStep struct {
	StepHead
	Routine string       `json:"routine"` // id of the workflow
	Record  string       `json:"record,omitempty"`
	Values  []prop.Given `json:"values,omitempty"` // for its inputs, by their ids
}

// Row gives the kind.
func (*RoutineStep) Row() *StepKind { return &routineStepKind }

// Called says which step it is.
func (*RoutineStep) Called(c Context) string { return calledStep(&routineStepKind, c) }

// of gives the routine, or nil.
func (x *RoutineStep) of(c Context) *Workflow {
	if c.b == nil {
		return nil
	}
	if w := c.b.Workflow(x.Routine); w != nil && w.Routine() != nil {
		return w
	}
	return nil
}

// Core is the sentence that tells it.
func (x *RoutineStep) Core(Context) string {
	if x.Record != "" {
		return "Run {routine} for {record}"
	}
	return "Run {routine}"
}

// Props lists its settings.
func (x *RoutineStep) Props(c Context) []prop.Prop {
	out := []prop.Prop{{
		Name:   "routine",
		Label:  "Run",
		Noun:   "the routine",
		Must:   true,
		Asked:  true,
		Resets: true,
		Hint:   "no-routine",
		Value:  prop.One(&x.Routine, c.routines()),
		Lost:   stepGone,
	}}
	w := x.of(c)
	if w == nil || w.Routine().Record != "" {
		out = append(out, prop.Prop{Name: "record", Label: "For the record", Noun: "the record", Must: c.b != nil && w != nil, Asked: true,
			Hint: "no-record", Value: prop.Expression(&x.Record, c.Flows(), expr.Type{}).Offering(c.recordOffers(false)), Lost: stepGone})
	}
	inputs, want := prop.To{What: "input"}, func(string) expr.Type { return expr.Type{} }
	if w != nil {
		list := w.Routine().Inputs
		inputs = offers("input", list, func(i *Input) (prop.Option, bool) { return prop.Option{Value: i.ID, Words: i.Name}, true })
		want = func(id string) expr.Type {
			if i := find(list, func(i *Input) bool { return i.ID == id }); i != nil {
				return i.Field().ExprType()
			}
			return expr.Type{}
		}
	}
	if w == nil || len(w.Routine().Inputs) > 0 {
		out = append(out, prop.Prop{
			Name:  "values",
			Label: "It is given",
			Noun:  "what it is given",
			Help:  "What is not said is empty",
			Group: "Values",
			Asked: true,
			Say:   ", given {}",
			Value: prop.Gives(&x.Values, inputs, c.Flows(), want),
			Lost:  prop.Lost{Words: "it is not given any more"},
		})
	}
	return out
}

// routines offers the routines.
func (c Context) routines() prop.To {
	if c.b == nil {
		return prop.To{What: "workflow"}
	}
	return offers("workflow", c.b.Workflows, func(w *Workflow) (prop.Option, bool) {
		return prop.Option{Value: w.ID, Words: w.Name}, w.Routine() != nil && w != c.flow
	})
}

// Check refuses a record of another table than the routine's, and routines that run each other in a circle.
func (x *RoutineStep) Check(c Context) *words.Problem {
	w := x.of(c)
	if w == nil || c.flow == nil {
		return nil
	}
	if c.b.runsInto(w, c.flow.ID, len(c.b.Workflows)) {
		return words.New("flow-circle", "flow", w.Name)
	}
	if table := w.Routine().Record; table != "" {
		if t := c.tableOfRecord(x.Record, false); t == nil || t.ID != table {
			return words.New("flow-routine-record", "flow", w.Name)
		}
	}
	return nil
}

// runsInto tells whether a routine runs a workflow, by itself or by routines that it runs.
func (b *Blueprint) runsInto(w *Workflow, id string, deep int) bool {
	if w.ID == id {
		return true
	}
	for x := range w.Steps.All {
		if s, is := x.(*RoutineStep); is && deep > 0 {
			if next := b.Workflow(s.Routine); next != nil && b.runsInto(next, id, deep-1) {
				return true
			}
		}
	}
	return false
}

// Start gives it a name.
func (x *RoutineStep) Start(c Context) { x.begin(c, x) }

// Rename gives what it makes another name; expressions follow.
func (x *RoutineStep) Rename(c Context, name string) error { return x.rename(c, name) }

// Makes gives the type of what it makes: what the routine gives back.
func (x *RoutineStep) Makes(c Context) expr.Type {
	w := x.of(c)
	if w == nil || c.flow != nil && c.b.runsInto(w, c.flow.ID, len(c.b.Workflows)) {
		return expr.Type{}
	}
	return c.b.GivesType(w, c.catalog)
}

func (x *RoutineStep) made(c Context) string {
	if w := x.of(c); w != nil {
		return "result of " + w.Name
	}
	return "result"
}

// RoutinesOf lists the routines that a workflow runs, by itself or by others, each once.
func (b *Blueprint) RoutinesOf(w *Workflow) []*Workflow {
	var out []*Workflow
	seen := map[string]bool{w.ID: true}
	var walk func(w *Workflow)
	walk = func(w *Workflow) {
		for x := range w.Steps.All {
			s, is := x.(*RoutineStep)
			if !is || seen[s.Routine] {
				continue
			}
			seen[s.Routine] = true
			if next := b.Workflow(s.Routine); next != nil && next.Routine() != nil {
				out = append(out, next)
				walk(next)
			}
		}
	}
	walk(w)
	return out
}
