package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var partKind = BlockKind{
	Name:   "part",
	Label:  "A part",
	Noun:   "part",
	Help:   "A group of blocks that is kept once and used in many places",
	InRows: true,
	New:    func() Block { return &PartBlock{} },
}

// PartBlock uses a part.
type PartBlock struct {
	BlockHead
	Part  string       `json:"part"`
	Given []prop.Given `json:"given,omitempty"` // for its inputs, by their ids
}

// Row gives the kind.
func (*PartBlock) Row() *BlockKind { return &partKind }

// Called says which block it is.
func (*PartBlock) Called(c Context) string { return calledBlock(&partKind, c) }

// Core is the sentence that tells it.
func (*PartBlock) Core(Context) string { return "The part {part} stands here" }

// Props lists its settings.
func (x *PartBlock) Props(c Context) []prop.Prop {
	out := []prop.Prop{{
		Name:   "part",
		Label:  "Part",
		Noun:   "the part",
		Must:   true,
		Asked:  true,
		Resets: true,
		Hint:   "no-part",
		Value:  prop.One(&x.Part, c.PartsHere()),
		Lost:   prop.Lost{Words: "it is taken off the page", TakeOut: true},
	}}
	var p *Part
	if c.b != nil {
		p = c.b.Part(x.Part)
	}
	inputs, want := prop.To{What: "input"}, func(string) expr.Type { return expr.Type{} }
	if p != nil {
		inputs = offers("input", p.Inputs, func(i *Input) (prop.Option, bool) { return prop.Option{Value: i.ID, Words: i.Name}, true })
		want = func(id string) expr.Type {
			if i := p.Input(id); i != nil {
				return i.Field().ExprType()
			}
			return expr.Type{}
		}
	}
	if p == nil || len(p.Inputs) > 0 {
		out = append(out, prop.Prop{
			Name:  "given",
			Label: "It is given",
			Noun:  "what it is given",
			Help:  "Values for its inputs",
			Group: "Inputs",
			Say:   ", given {}",
			Value: prop.Gives(&x.Given, inputs, c.Here(), want),
		})
	}
	return out
}

// PartsHere offers the parts that can be used where the context is.
func (c Context) PartsHere() prop.To {
	if c.b == nil {
		return prop.To{What: "part"}
	}
	return offers("part", c.b.Parts, func(p *Part) (prop.Option, bool) {
		return prop.Option{Value: p.ID, Words: p.Name}, p.Record == "" || p.Record == c.record()
	})
}

// mostPartsDeep is how deep parts can use each other.
const mostPartsDeep = 4

// Check refuses a part that uses itself, or too many others in one another, and one in
// rows with blocks that cannot stand there.
func (x *PartBlock) Check(c Context) *words.Problem {
	if c.b == nil {
		return nil
	}
	depth := 0
	if c.part != nil {
		depth = 1
	}
	if !c.b.partsEnd(x.Part, depth, c.part) {
		return words.New("part-circle", "n", mostPartsDeep)
	}
	if p := c.b.Part(x.Part); c.row != "" && p != nil && !c.b.inRows(p.Blocks) {
		return words.New("part-rows", "part", p.Name)
	}
	return nil
}

// partsEnd tells whether a part uses neither the one in which it is used, nor others too
// deep in one another.
func (b *Blueprint) partsEnd(id string, depth int, within *Part) bool {
	p := b.Part(id)
	if p == nil {
		return true
	}
	if depth >= mostPartsDeep || within != nil && within.ID == id {
		return false
	}
	for x := range p.Blocks.All {
		if use, is := x.(*PartBlock); is && !b.partsEnd(use.Part, depth+1, within) {
			return false
		}
	}
	return true
}

// inRows tells whether blocks, and those of the parts that they use, can stand in rows.
func (b *Blueprint) inRows(blocks Blocks) bool {
	for x := range blocks.All {
		if !x.Row().InRows {
			return false
		}
		if use, is := x.(*PartBlock); is {
			if p := b.Part(use.Part); p != nil && !b.inRows(p.Blocks) {
				return false
			}
		}
	}
	return true
}
