package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
)

var addedKind = TriggerKind{
	Name:   "added",
	Label:  "A record is added",
	Help:   "By a form, in the records, or by another workflow; not by an import",
	Person: true,
	New:    func() Trigger { return &AddedTrigger{} },
}

// AddedTrigger starts a workflow for each record that is added to a table.
type AddedTrigger struct {
	TriggerHead
	Table string `json:"table"`
}

// Row gives the kind.
func (*AddedTrigger) Row() *TriggerKind { return &addedKind }

// Core is the sentence that tells it.
func (*AddedTrigger) Core(Context) string { return "Starts when a record is added to {table}" }

// Props lists its settings.
func (x *AddedTrigger) Props(c Context) []prop.Prop {
	return []prop.Prop{flowTable(&x.Table, c), x.whenProp(c, "Only when", ". It starts only when {}")}
}

func (x *AddedTrigger) scope(c Context) expr.Scope {
	return expr.Scope{Catalog: c.catalog, Row: x.Table, Me: expr.PersonTable}
}

var changedKind = TriggerKind{
	Name:   "changed",
	Label:  "A record is changed",
	Help:   "Any of its fields, or some; what it held before can be named",
	Person: true,
	New:    func() Trigger { return &ChangedTrigger{} },
}

// ChangedTrigger starts a workflow for each record of a table of which fields are changed.
type ChangedTrigger struct {
	TriggerHead
	Table  string   `json:"table"`
	Fields []string `json:"fields,omitempty"` // ids; any for none
}

// Row gives the kind.
func (*ChangedTrigger) Row() *TriggerKind { return &changedKind }

// Core is the sentence that tells it.
func (x *ChangedTrigger) Core(Context) string {
	if len(x.Fields) > 0 {
		return "Starts when {fields} of a record in {table} changes"
	}
	return "Starts when a record in {table} changes"
}

// Props lists its settings.
func (x *ChangedTrigger) Props(c Context) []prop.Prop {
	return []prop.Prop{flowTable(&x.Table, c), {
		Name:  "fields",
		Label: "Only when one of these changes",
		Noun:  "the fields",
		Help:  "Any field unless you say",
		Group: "When",
		Asked: true,
		Value: prop.Many(&x.Fields, c.Fields(x.Table, func(f *Field) bool { return isEntered(f) && f.Of == "" })).Joined(" or "),
		Lost:  flowGone,
	}, x.whenProp(c, "Only when", ". It starts only when {}")}
}

func (x *ChangedTrigger) scope(c Context) expr.Scope {
	return expr.Scope{Catalog: c.catalog, Row: x.Table, Me: expr.PersonTable, Was: c.stored(x.Table)}
}

var deletedKind = TriggerKind{
	Name:   "deleted",
	Label:  "A record is deleted",
	Help:   "What it held can be named",
	Person: true,
	New:    func() Trigger { return &DeletedTrigger{} },
}

// DeletedTrigger starts a workflow for each record of a table that is deleted. The record is
// not there any more; what it held is.
type DeletedTrigger struct {
	TriggerHead
	Table string `json:"table"`
}

// Row gives the kind.
func (*DeletedTrigger) Row() *TriggerKind { return &deletedKind }

// Core is the sentence that tells it.
func (*DeletedTrigger) Core(Context) string { return "Starts when a record in {table} is deleted" }

// Props lists its settings.
func (x *DeletedTrigger) Props(c Context) []prop.Prop {
	return []prop.Prop{flowTable(&x.Table, c), x.whenProp(c, "Only when", ". It starts only when {}")}
}

func (x *DeletedTrigger) scope(c Context) expr.Scope {
	return expr.Scope{Catalog: c.catalog, Me: expr.PersonTable, Was: c.stored(x.Table)}
}
