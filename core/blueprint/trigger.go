package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Trigger is what starts a workflow. One of a new kind is a row in [triggerKinds], with a Go
// file for its settings.
type Trigger interface {
	// Props lists its settings, which are told with those of its workflow.
	Props(c Context) []prop.Prop
	// Core is the sentence that tells it.
	Core(c Context) string
	Self() *TriggerHead
	Row() *TriggerKind
	// scope is what expressions know where the trigger sets the workflow off.
	scope(c Context) expr.Scope
}

// TriggerHead is what every trigger has.
type TriggerHead struct {
	Kind string `json:"kind"`
	// When is the condition without which it does not start.
	When string `json:"when,omitempty"`
}

// Self gives the head of a trigger.
func (h *TriggerHead) Self() *TriggerHead { return h }

// TriggerKind is the row of a kind of trigger.
type TriggerKind struct {
	Name  string // in the document
	Label string // where it is chosen: "Someone presses a button"
	Help  string
	// Person tells that somebody sets it off, whose rights its steps can have.
	Person bool
	New    func() Trigger
}

// triggerKinds lists the kinds in the order in which they are offered.
var triggerKinds = []*TriggerKind{&pressKind, &sentKind, &addedKind, &changedKind, &deletedKind,
	&personKind, &scheduleKind, &dateKind, &incomingKind, &routineKind}

// TriggerKinds lists the kinds in the order in which they are offered.
func TriggerKinds() []*TriggerKind { return slices.Clone(triggerKinds) }

// NewTrigger gives a trigger of a kind that has nothing yet, or nil.
func NewTrigger(kind string) Trigger {
	for _, k := range triggerKinds {
		if k.Name == kind {
			x := k.New()
			*x.Self() = TriggerHead{Kind: kind}
			return x
		}
	}
	return nil
}

// whenProp is the condition without which the workflow does not start.
func (h *TriggerHead) whenProp(c Context, label, say string) prop.Prop {
	return prop.Prop{
		Name:  "when",
		Label: label,
		Noun:  "when it starts",
		Help:  "Otherwise nothing happens, and it is written down why",
		Group: "When",
		Say:   say,
		Value: prop.Condition(&h.When, c.Flows()),
		Lost:  prop.Lost{Do: func() string { c.flow.Off = true; h.When = ""; return words.Say("flow-off-now", nil) }},
	}
}

// flowTable is the setting of the table whose records set a workflow off.
func flowTable(at *string, c Context) prop.Prop {
	return prop.Prop{
		Name:  "table",
		Label: "Records in",
		Noun:  "the table",
		Must:  true,
		Asked: true,
		Fixed: true,
		Value: prop.One(at, c.Tables()),
		Lost:  flowGone,
	}
}

// flowGone takes out the whole workflow.
var flowGone = prop.Lost{Words: "the workflow is removed", TakeOut: true, Whole: true}

// stored is how expressions see what a record of a table held before: the values that are kept,
// without what is calculated.
func (c Context) stored(table string) *expr.Table {
	if c.catalog == nil || c.catalog.Tables[table] == nil {
		return nil
	}
	var fields []*expr.Field
	for _, f := range c.catalog.Tables[table].Fields {
		own := c.field(table, f.ID)
		if own == nil || !own.Type.Entered() || own.Of != "" {
			continue
		}
		x := *f
		fields = append(fields, &x)
	}
	return expr.Named(expr.WasTable, words.Say("flow-was", nil), fields)
}

// FlowTable gives the id of the table of the records that set a workflow off, also where they are not
// there any more then; "" where none does.
func (b *Blueprint) FlowTable(w *Workflow) string {
	switch t := w.Starts.Trigger.(type) {
	case *PressTrigger:
		return t.Record
	case *SentTrigger:
		if _, form := b.FormAt(t.Form); form != nil {
			return form.Table
		}
	case *AddedTrigger:
		return t.Table
	case *ChangedTrigger:
		return t.Table
	case *DeletedTrigger:
		return t.Table
	case *DateTrigger:
		return t.Table
	case *RoutineTrigger:
		return t.Record
	case *PersonTrigger:
		return t.people(b)
	}
	return ""
}
