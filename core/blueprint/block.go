package blueprint

import (
	"encoding/json"
	"fmt"
	"slices"

	"pinegate/core/expr"
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
	ID    string `json:"id"`
	Kind  string `json:"kind"`
	Width Width  `json:"width,omitempty"`
	Tone  Tone   `json:"tone,omitempty"`
	// When is the condition by which it is shown; it fits what is shown to who looks,
	// and protects nothing.
	When string `json:"when,omitempty"`
	// While is the id of an own value of the part in which it stands: it is shown while
	// that is as Is says, which the browser decides. Reacts are what sets such values.
	While  string     `json:"while,omitempty"`
	Is     string     `json:"is,omitempty"`
	Reacts []Reaction `json:"reacts,omitempty"`
}

// Width is how much of a row a block takes on a wide screen.
type Width string

// The widths of a block.
const (
	WholeWidth Width = ""
	TwoThirds  Width = "two thirds"
	Half       Width = "half"
	Third      Width = "third"
	Quarter    Width = "quarter"
)

// Tone is how a block is told from others.
type Tone string

// The tones.
const (
	PlainTone     Tone = ""
	QuietTone     Tone = "quiet"
	GoodTone      Tone = "good"
	AttentionTone Tone = "attention"
	DangerTone    Tone = "danger"
	AccentTone    Tone = "accent"
)

// toneOptions are the tones that can be chosen.
func toneOptions() []prop.Option {
	return []prop.Option{{Value: "", Words: "plain"}, {Value: string(QuietTone), Words: "quiet"}, {Value: string(GoodTone), Words: "good"},
		{Value: string(AttentionTone), Words: "attention"}, {Value: string(DangerTone), Words: "danger"},
		{Value: string(AccentTone), Words: "accent"}}
}

// props lists the settings that blocks of all kinds have.
func (h *BlockHead) props(c Context, here expr.Scope, toned bool) []prop.Prop {
	out := []prop.Prop{{
		Name:  "width",
		Label: "Width",
		Noun:  "the width",
		Help:  "How much of the row it takes on a wide screen; on a phone each block takes the whole",
		Group: "Look",
		Say:   ". It takes {} of the row",
		Value: prop.Pick(&h.Width, prop.Option{Value: "", Words: "the whole", Label: "The whole row"},
			prop.Option{Value: string(TwoThirds), Words: "two thirds"}, prop.Option{Value: string(Half), Words: "half"},
			prop.Option{Value: string(Third), Words: "a third"}, prop.Option{Value: string(Quarter), Words: "a quarter"}),
	}}
	if toned {
		out = append(out, prop.Prop{
			Name:  "tone",
			Label: "Tone",
			Noun:  "the tone",
			Help:  "A colour of the look that says how it is meant",
			Group: "Look",
			Say:   ". Its tone is {}",
			Value: prop.Pick(&h.Tone, toneOptions()...),
		})
	}
	if c.part != nil && (len(c.part.Values) > 0 || h.While != "") {
		out = append(out, prop.Prop{
			Name:  "while",
			Label: "Shown while",
			Noun:  "while which value it is shown",
			Help:  "It is there only while an own value of the part is so, at once and in the browser",
			Group: "When",
			Say:   ". It is shown while {}",
			Value: prop.One(&h.While, c.Owns()).OrNone("always"),
		}, prop.Prop{
			Name:  "is",
			Label: "Is",
			Noun:  "how that value is",
			With:  "while",
			Say:   map[bool]string{true: " is {}"}[h.While != ""],
			Value: ownText(&h.Is),
		})
	}
	help := "It is left out for others. To keep records from people, use the rules under People"
	if h.Kind == questionKind.Name || h.Kind == freeKind.Name || h.Kind == resultKind.Name {
		help = "It is asked only then, by the answers above. What is hidden is not saved"
	}
	return append(out, prop.Prop{
		Name:  "when",
		Label: "Shown only when",
		Noun:  "when it is shown",
		Help:  help,
		Group: "When",
		Say:   ". It is shown only when {}",
		Value: prop.Condition(&h.When, here),
		Lost:  prop.Lost{Words: "it is taken off the page", TakeOut: true}, // else more would be shown
	})
}

// Holder is a block that holds blocks.
type Holder interface {
	Block
	Inside() *Blocks
}

// All walks blocks with those that they hold, each before its own.
func (bs Blocks) All(yield func(Block) bool) { bs.all(yield) }

func (bs Blocks) all(yield func(Block) bool) bool {
	for _, x := range bs {
		if !yield(x) {
			return false
		}
		if h, ok := x.(Holder); ok && !h.Inside().all(yield) {
			return false
		}
	}
	return true
}

// Apart walks blocks with those that they hold but for what stands in rows of lists, which
// is about other records.
func (bs Blocks) Apart(yield func(Block) bool) { bs.apart(yield) }

func (bs Blocks) apart(yield func(Block) bool) bool {
	for _, x := range bs {
		if !yield(x) {
			return false
		}
		if h, ok := Together(x); ok && !h.Inside().apart(yield) {
			return false
		}
	}
	return true
}

// Together gives a block as one that holds others, where these are shown as those of a page
// are, with the same record in hand.
func Together(x Block) (Holder, bool) {
	switch x.(type) {
	case *RecordsBlock, *FormBlock, *SectionBlock, *WithBlock: // which show what they hold by themselves
		return nil, false
	}
	h, ok := x.(Holder)
	return h, ok
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
	// Toned tells that it can have a tone.
	Toned bool
	// InRows tells that it can stand in the rows of a list.
	InRows bool
	// Forms tells whether it can stand in a form.
	Forms InForms
	New   func() Block
}

// InForms is whether a block can stand in forms.
type InForms int

// Most blocks cannot; questions stand in forms only.
const (
	NotInForms InForms = iota
	AlsoInForms
	OnlyInForms
)

// fits tells whether a block of the kind can stand in a form, or in none.
func (k *BlockKind) fits(form *FormBlock) bool {
	return form == nil && k.Forms != OnlyInForms || form != nil && k.Forms != NotInForms
}

// blockKinds lists the kinds in the order in which they are offered.
var blockKinds = []*BlockKind{&headingKind, &textKind, &recordsKind, &figureKind, &chartKind, &barKind, &badgesKind, &detailsKind, &checklistKind,
	&timerKind, &formKind, &calculatorKind, &buttonKind, &groupKind, &partKind, &questionKind, &freeKind, &resultKind, &courseKind,
	&sectionKind, &withKind, &keepKind, &pictureKind, &videoKind, &stepsKind, &embedKind, &serviceKind, &dividerKind}

// BlockKinds lists the kinds in the order in which they are offered.
func BlockKinds() []*BlockKind { return slices.Clone(blockKinds) }

// NewBlock gives a block of a kind that has nothing yet, or nil.
func NewBlock(kind, id string) Block {
	for _, k := range blockKinds {
		if k.Name == kind {
			x := k.New()
			*x.Self() = BlockHead{ID: id, Kind: kind}
			return x
		}
	}
	return nil
}

// Blocks are the blocks of a page.
type Blocks []Block

// UnmarshalJSON reads blocks strictly, each as what its kind is.
func (bs *Blocks) UnmarshalJSON(raw []byte) (err error) {
	*bs, err = ofKinds(raw, "block", func(kind, id string) (Block, bool) {
		x := NewBlock(kind, id)
		return x, x != nil
	})
	return err
}

// ofKinds reads a list of things strictly, each as what its kind is.
func ofKinds[T any](raw []byte, what string, empty func(kind, id string) (T, bool)) ([]T, error) {
	var all []json.RawMessage
	if err := json.Unmarshal(raw, &all); err != nil {
		return nil, err
	}
	out := make([]T, 0, len(all))
	for _, one := range all {
		var head struct{ ID, Kind string }
		if err := json.Unmarshal(one, &head); err != nil {
			return nil, err
		}
		x, known := empty(head.Kind, head.ID)
		if !known {
			return nil, fmt.Errorf("there is no %s %q", what, head.Kind)
		}
		if err := prop.Strictly(one, x); err != nil {
			return nil, err
		}
		out = append(out, x)
	}
	return out, nil
}

// calledBlock says which block it is.
func calledBlock(k *BlockKind, c Context) string {
	switch {
	case c.part != nil:
		return words.Say("called-block-part", words.Args{"block": k.Noun, "part": c.part.Name})
	case c.page == nil:
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
