package blueprint

import (
	"pinegate/core/prop"
	"pinegate/core/words"
)

var groupKind = BlockKind{
	Name:   "group",
	Label:  "A group of blocks",
	Noun:   "group",
	Help:   "Blocks that belong together: on a card, on a band, folded, or as tabs",
	Toned:  true,
	InRows: true,
	New:    func() Block { return &GroupBlock{} },
}

// GroupLook is how a group holds its blocks.
type GroupLook string

// The looks of a group.
const (
	PlainGroup GroupLook = ""
	Card       GroupLook = "card"
	Band       GroupLook = "band"
	Folded     GroupLook = "folded"
	Tabs       GroupLook = "tabs"
)

// GroupBlock holds blocks.
type GroupBlock struct {
	BlockHead
	Look GroupLook `json:"look,omitempty"`
	// Title stands above its blocks, with placeholders; on a tab, where it is one.
	Title string `json:"title,omitempty"`
	// Picture is the id of one that fills a band.
	Picture string `json:"picture,omitempty"`
	Blocks  Blocks `json:"blocks"`
}

// Row gives the kind.
func (*GroupBlock) Row() *BlockKind { return &groupKind }

// Inside gives the blocks that it holds.
func (x *GroupBlock) Inside() *Blocks { return &x.Blocks }

// Called says which block it is.
func (x *GroupBlock) Called(c Context) string {
	if x.Title != "" && c.page != nil {
		return words.Say("called-group", words.Args{"title": x.Title, "page": c.page.Name})
	}
	return calledBlock(&groupKind, c)
}

// Core is the sentence that tells it.
func (*GroupBlock) Core(Context) string { return "{look} holds what follows" }

// Props lists its settings.
func (x *GroupBlock) Props(c Context) []prop.Prop {
	out := []prop.Prop{
		{
			Name:   "look",
			Label:  "It looks like",
			Noun:   "the look",
			Asked:  true,
			Resets: true,
			Value: prop.Pick(&x.Look, prop.Option{Value: "", Words: "A group", Label: "Nothing in particular"},
				prop.Option{Value: string(Card), Words: "A card"},
				prop.Option{Value: string(Band), Words: "A band", Label: "A band of colour, or with a picture"},
				prop.Option{Value: string(Folded), Words: "A folded group", Label: "Folded until it is opened"},
				prop.Option{Value: string(Tabs), Words: "A row of tabs", Label: "Tabs, each of them a group"}),
		},
		{
			Name:  "title",
			Label: "Title",
			Noun:  "the title",
			Help:  "Words above its blocks",
			Group: "Look",
			Say:   ", titled {}",
			Value: prop.Template(&x.Title, c.Here()),
		},
	}
	if x.Look == Band {
		out = append(out, prop.Prop{
			Name:  "picture",
			Label: "Picture",
			Noun:  "the picture",
			Help:  "It fills the band, behind its blocks",
			Group: "Look",
			Say:   ", with {|a picture} behind",
			Value: x.picture(),
		})
	}
	return out
}

func (x *GroupBlock) picture() prop.Value {
	return prop.Held(prop.Control{Kind: prop.PictureControl}, func() string { return x.Picture }, func(id string) { x.Picture = id },
		wrongUnless(picturePattern.MatchString))
}

// Reset drops the picture where it is not shown.
func (x *GroupBlock) Reset(Context, string) {
	if x.Look != Band {
		x.Picture = ""
	}
}

// Start makes room for blocks, and for words where it cannot be without.
func (x *GroupBlock) Start(c Context) {
	if x.Blocks == nil {
		x.Blocks = Blocks{}
	}
	if x.Look == Folded || isTabs(c.holder) {
		orStart(&x.Title, "More")
	}
}

func isTabs(h Holder) bool {
	g, ok := h.(*GroupBlock)
	return ok && g.Look == Tabs
}

// mostDeep is how deep groups can stand in groups.
const mostDeep = 4

// Check refuses groups too deep in others, tabs that are no groups, and tabs and folded
// groups without a title.
func (x *GroupBlock) Check(c Context) *words.Problem {
	switch {
	case c.depth >= mostDeep:
		return words.New("group-deep", "n", mostDeep)
	case x.Title == "" && (x.Look == Folded || isTabs(c.holder)):
		return words.New("group-title")
	}
	if x.Look == Tabs {
		for _, y := range x.Blocks {
			if _, ok := y.(*GroupBlock); !ok {
				return words.New("tabs-groups")
			}
		}
	}
	return nil
}
