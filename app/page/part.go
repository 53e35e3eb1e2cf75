package page

import (
	"fmt"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/store"
	"pinegate/store/records"
)

// Part is a use of a part as it is shown. Values are those that it has for itself, by their
// ids, as they begin; the browser changes them by what happens.
type Part struct {
	Head
	Values map[string]string `json:"values"`
	Here   []Reaction        `json:"here"` // to what happens where it stands
	Blocks []Block           `json:"blocks"`
}

// Reaction is an own value that becomes something when something happens.
type Reaction struct {
	On    string `json:"on" enum:"press,over,leave"`
	After int    `json:"after,omitempty"` // milliseconds
	Value string `json:"value"`
	To    string `json:"to"`
}

// While is an own value, and how it is while a block is shown.
type While struct {
	Value string `json:"value"`
	Is    string `json:"is"`
}

// inSeparator stands between the id of a use of a part and that of a block in it.
const inSeparator = "~"

// inPart is the view of what stands in a part where it is used.
func (v *View) inPart(x *blueprint.PartBlock) (*View, error) {
	given, err := v.Seat.Blueprint.Given(v.spot(), x, v.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read what a part on %s is given: %w", v.Page.Name, err)
	}
	out := *v
	out.part, out.prefix, out.Sources = v.Seat.Blueprint.Part(x.Part), v.prefix+x.ID+inSeparator, false
	out.given = map[string]*expr.Checked{}
	for id, g := range given {
		out.given[id] = v.bound(g)
	}
	return &out, nil
}

// bound is an expression with what its part is given in its place.
func (v *View) bound(c *expr.Checked) *expr.Checked {
	if c == nil || v.part == nil {
		return c
	}
	return expr.Bind(c, v.given)
}

// boundListed is bound for conditions over other records than the one in hand, which is the
// page's: lists in parts stand in no rows.
func (v *View) boundListed(c *expr.Checked) *expr.Checked {
	if c == nil || v.part == nil {
		return c
	}
	given := map[string]*expr.Checked{}
	for id, g := range v.given {
		given[id] = expr.OfPage(g)
	}
	return expr.Bind(c, given)
}

// known is the id by which a block of the view is known to the browser.
func (v *View) known(x blueprint.Block) string { return v.prefix + x.Self().ID }

func partReads(v *View, x *blueprint.PartBlock) ([]records.Read, error) {
	in, err := v.inPart(x)
	if err != nil {
		return nil, err
	}
	reads, _, err := in.reads(in.part.Blocks)
	return reads, err
}

func showPart(v *View, x *blueprint.PartBlock, got []records.Result) (*Part, error) {
	in, err := v.inPart(x)
	if err != nil {
		return nil, err
	}
	_, shares, err := in.reads(in.part.Blocks)
	if err != nil {
		return nil, err
	}
	out := &Part{Values: map[string]string{}, Here: reactions(in.part.Reacts)}
	for _, own := range in.part.Values {
		out.Values[own.ID] = own.Start
	}
	out.Blocks, err = in.show(in.part.Blocks, shares, &got)
	return out, err
}

func reactions(list []blueprint.Reaction) []Reaction {
	out := []Reaction{}
	for _, r := range list {
		out = append(out, Reaction{string(r.On), r.After, r.Value, r.To})
	}
	return out
}

// At finds the block that the browser knows by an id, where it is of the kind, and the view
// in which it stands.
func At[X blueprint.Block](v *View, id string) (*View, X, error) {
	var none X
	use, inner, within := strings.Cut(id, inSeparator)
	x := v.block(use)
	if !within {
		if found, ok := x.(X); ok {
			return v, found, nil
		}
		return nil, none, store.ErrNotFound
	}
	p, ok := x.(*blueprint.PartBlock)
	if !ok {
		return nil, none, store.ErrNotFound
	}
	in, err := v.inPart(p)
	if err != nil {
		return nil, none, err
	}
	return At[X](in, inner)
}

// block gives the block of the page, or of the part, with the id; nil for what stands in rows,
// of which there is one for each record.
func (v *View) block(id string) blueprint.Block {
	blocks := v.Page.Blocks
	if v.part != nil {
		blocks = v.part.Blocks
	}
	for x := range blocks.Apart {
		if x.Self().ID == id {
			return x
		}
	}
	return nil
}

// each walks blocks with those that they hold and those of the parts that they use, but for
// what stands in rows, each with the view in which it stands.
func (v *View) each(blocks blueprint.Blocks, do func(*View, blueprint.Block) error) error {
	for x := range blocks.Apart {
		if err := do(v, x); err != nil {
			return err
		}
		p, uses := x.(*blueprint.PartBlock)
		if !uses {
			continue
		}
		in, err := v.inPart(p)
		if err != nil {
			return err
		}
		if err := in.each(in.part.Blocks, do); err != nil {
			return err
		}
	}
	return nil
}
