package blueprint

import (
	"encoding/json"
	"fmt"
	"slices"

	"pinegate/core/prop"
	"pinegate/core/words"
)

// Block is a piece of a page. One of a new kind is a row in [blockKinds], with a
// Go file for its settings; nobody else has to know its name.
type Block interface {
	Thing
	Self() *BlockHead
	Row() *BlockKind
}

// BlockHead is what every block has. It is embedded in the blocks of all kinds.
type BlockHead struct {
	ID   string `json:"id"`
	Kind string `json:"kind"`
}

// Self gives the head of a block.
func (h *BlockHead) Self() *BlockHead { return h }

// BlockKind is the row of a kind of block.
type BlockKind struct {
	Name  string // in the document
	Label string // where it is chosen: "A list of records"
	Noun  string // in sentences: "list"
	Help  string
	// About tells that it needs a page about one record.
	About bool
	New   func() Block
}

// blockKinds lists the kinds in the order in which they are offered.
var blockKinds = []*BlockKind{&headingKind, &textKind, &recordsKind, &detailsKind, &formKind, &buttonKind, &dividerKind}

// BlockKinds lists the kinds in the order in which they are offered.
func BlockKinds() []*BlockKind { return slices.Clone(blockKinds) }

// NewBlock gives a block of a kind that has nothing yet, or nil.
func NewBlock(kind, id string) Block {
	for _, k := range blockKinds {
		if k.Name == kind {
			x := k.New()
			*x.Self() = BlockHead{id, kind}
			return x
		}
	}
	return nil
}

// Blocks are the blocks of a page.
type Blocks []Block

// UnmarshalJSON reads blocks strictly, each as what its kind is.
func (bs *Blocks) UnmarshalJSON(raw []byte) error {
	var all []json.RawMessage
	if err := json.Unmarshal(raw, &all); err != nil {
		return err
	}
	*bs = make(Blocks, 0, len(all))
	for _, one := range all {
		var head BlockHead
		if err := json.Unmarshal(one, &head); err != nil {
			return err
		}
		x := NewBlock(head.Kind, head.ID)
		if x == nil {
			return fmt.Errorf("there is no block %q", head.Kind)
		}
		if err := prop.Strictly(one, x); err != nil {
			return err
		}
		*bs = append(*bs, x)
	}
	return nil
}

// calledBlock says which block it is.
func calledBlock(k *BlockKind, c Context) string {
	if c.page == nil {
		return k.Noun
	}
	return words.Say("called-block", words.Args{"block": k.Noun, "page": c.page.Name})
}

// firstFields gives the ids of the first fields of a table that can be shown.
func (t *Table) firstFields(n int) []string {
	var out []string
	for _, f := range t.Fields[:min(n, len(t.Fields))] {
		out = append(out, f.ID)
	}
	return out
}
