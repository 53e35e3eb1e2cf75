package run

import (
	"context"
	"errors"

	"pinegate/core/expr"
	"pinegate/store/records"
)

// known is the environment of a run: records as the steps may see them, and the person who set it
// off as they are.
type known struct {
	*records.Env
	person *records.Env
}

// env gives the environment as it is now: what was read before is read again.
func (d *doing) env(ctx context.Context) *known {
	b := d.start.Person.Blueprint
	me := b.Table(b.FlowMe(d.start.Workflow, d.seat.Catalog))
	reads := d.program.Reads()
	if len(d.start.Watches) > 0 { // which can name anything
		reads = nil
	}
	return &known{d.road.Env(ctx, d.seat, nil, nil).Reading(reads), d.road.Env(ctx, d.start.Person, me, nil).Reading(reads)}
}

// Start gives the record at a root.
func (k *known) Start(root expr.Root) expr.Value {
	if root == expr.RootMe {
		return k.person.Start(root)
	}
	return k.Env.Start(root)
}

// Field gives a field of a record, or of the person.
func (k *known) Field(record expr.Value, f *expr.Field) expr.Value {
	if f.Table == expr.PersonTable {
		return k.person.Field(record, f)
	}
	return k.Env.Field(record, f)
}

// Err gives what went wrong while reading, if anything.
func (k *known) Err() error { return errors.Join(k.Env.Err(), k.person.Err()) }
