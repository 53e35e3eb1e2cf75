package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
)

var pressKind = TriggerKind{
	Name:   "press",
	Label:  "Someone presses a button",
	Help:   "Put the button on a page, or in the rows of a list",
	Person: true,
	New:    func() Trigger { return &PressTrigger{} },
}

// PressTrigger starts a workflow when somebody presses a button for it. Who may is said here,
// and not where the button is.
type PressTrigger struct {
	TriggerHead
	Record string   `json:"record,omitempty"` // id of the table of the record that is in hand
	Roles  []string `json:"roles"`
	Blocks Blocks   `json:"blocks,omitempty"` // what it asks before it runs
}

// Row gives the kind.
func (*PressTrigger) Row() *TriggerKind { return &pressKind }

// Core is the sentence that tells it.
func (x *PressTrigger) Core(Context) string {
	if x.Record == "" {
		return "Starts when {roles} press its button"
	}
	return "Starts when {roles} press its button for one record in {record}"
}

// Props lists its settings.
func (x *PressTrigger) Props(c Context) []prop.Prop {
	return []prop.Prop{
		{
			Name:  "roles",
			Label: "Who can press it",
			Noun:  "who can press it",
			Must:  true,
			Asked: true,
			Value: prop.Many(&x.Roles, c.Roles()).Joined(" or "),
		},
		{
			Name:  "record",
			Label: "It is about one record in",
			Noun:  "the table of its record",
			Asked: true,
			Fixed: true,
			Help:  "The record that is in hand where the button is",
			Group: "What",
			Value: prop.One(&x.Record, c.Tables()).OrNone("no record in particular"),
			Lost:  flowGone,
		},
		x.whenProp(c, "It makes sense only when", ". The button is there only when {}"),
	}
}

func (x *PressTrigger) scope(c Context) expr.Scope {
	out := expr.Scope{Catalog: c.catalog, Row: x.Record, Me: c.b.MeTable(&Page{Audience: SomeRole, Roles: x.Roles})}
	if len(x.Blocks) > 0 {
		out.Answers = c.b.AnswersOf(c.flow.Asks().Form(), "", true, c.catalog)
	}
	return out
}

// MayPress tells whether somebody with some roles can start the workflow by a button; a founder
// can.
func (w *Workflow) MayPress(founder bool, roles []string) bool {
	x, is := w.Starts.Trigger.(*PressTrigger)
	return is && !w.Off && (founder || x.By(roles))
}

// By tells whether one of some roles can press the button.
func (x *PressTrigger) By(roles []string) bool {
	return slices.ContainsFunc(roles, func(r string) bool { return slices.Contains(x.Roles, r) })
}

// Presses offers the workflows that a button can start where a record of a table is in hand, or none.
func (c Context) Presses(record string) prop.To {
	if c.b == nil {
		return prop.To{What: "workflow"}
	}
	return offers("workflow", c.b.Workflows, func(w *Workflow) (prop.Option, bool) {
		x, is := w.Starts.Trigger.(*PressTrigger)
		return prop.Option{Value: w.ID, Words: w.Name}, is && (x.Record == "" || x.Record == record)
	})
}
