package page

import (
	"context"
	"fmt"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/store"
	"pinegate/store/records"
)

// Service is what a service answers. Its rows are asked for apart, as the service may be slow.
type Service struct {
	Head
	Columns []ServiceColumn `json:"columns"`
	Empty   string          `json:"empty,omitempty"`
	// One tells that it answers one thing, and no rows.
	One bool `json:"one,omitempty"`
}

// ServiceColumn is what of an answer is shown.
type ServiceColumn struct {
	Name string `json:"name"`
	Type string `json:"type"`
}

func showService(v *View, x *blueprint.ServiceBlock, _ []records.Result) (*Service, error) {
	_, call := v.Seat.Blueprint.CallOf(x.Call)
	if call == nil {
		return nil, fmt.Errorf("show what a service answers on %s: there is no call %s", v.Page.Name, x.Call)
	}
	out := &Service{Columns: []ServiceColumn{}, Empty: x.Empty, One: call.Rows == ""}
	for _, t := range x.Shown(call) {
		out.Columns = append(out.Columns, ServiceColumn{t.Name, string(t.Type)})
	}
	return out, nil
}

// Asked gives a block that shows what a service answers, with the values that it sends, as whoever
// looks may see it: one that is not shown to them is not there.
func (v *View) Asked(ctx context.Context, id string) (*blueprint.ServiceBlock, map[string]expr.Value, error) {
	in, x, err := At[*blueprint.ServiceBlock](v, id)
	if err != nil {
		return nil, nil, err
	}
	blocks, err := v.Blocks(ctx)
	if err != nil {
		return nil, nil, err
	}
	if !isThere(blocks, id) {
		return nil, nil, store.ErrNotFound
	}
	b := in.Seat.Blueprint
	sends, err := b.Sends(in.spot(), x, in.Seat.Catalog)
	if err != nil {
		return nil, nil, fmt.Errorf("read what a service is sent on %s: %w", in.Page.Name, err)
	}
	scope := b.ListScope(in.spot(), "", in.Seat.Catalog)
	env := in.Road.Env(ctx, in.Seat, b.Table(scope.Me), b.Table(in.Page.Record))
	out := map[string]expr.Value{}
	for id, c := range sends {
		out[id] = expr.Eval(expr.OfPage(in.bound(c)), in.Seat.Catalog, env)
	}
	return x, out, env.Err()
}

// isThere tells whether a block is among those that are shown.
func isThere(blocks []Block, id string) bool {
	for _, b := range blocks {
		if b.head().ID == id {
			return true
		}
		switch x := b.(type) {
		case *Group:
			if isThere(x.Blocks, id) {
				return true
			}
		case *Part:
			if isThere(x.Blocks, id) {
				return true
			}
		}
	}
	return false
}
