package blueprint

import "pinegate/core/prop"

var dividerKind = BlockKind{
	Name:  "divider",
	Label: "A divider",
	Noun:  "divider",
	Help:  "A line between what is above and below",
	Forms: AlsoInForms,
	New:   func() Block { return &DividerBlock{} },
}

// DividerBlock is a line across the page.
type DividerBlock struct{ BlockHead }

// Row gives the kind.
func (*DividerBlock) Row() *BlockKind { return &dividerKind }

// Called says which block it is.
func (*DividerBlock) Called(c Context) string { return calledBlock(&dividerKind, c) }

// Core is the sentence that tells it.
func (*DividerBlock) Core(Context) string { return "A line divides the page" }

// Props lists its settings: it has none.
func (*DividerBlock) Props(Context) []prop.Prop { return nil }
