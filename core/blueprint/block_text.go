package blueprint

import "pinegate/core/prop"

var textKind = BlockKind{
	Name:   "text",
	Label:  "A text",
	Noun:   "text",
	Help:   "A paragraph or several, with **bold**, lists and links as in Markdown",
	InRows: true,
	Toned:  true,
	Forms:  AlsoInForms,
	New:    func() Block { return &TextBlock{} },
}

// TextBlock is a text with placeholders.
type TextBlock struct {
	BlockHead
	Text string   `json:"text"` // Markdown
	Size TextSize `json:"size,omitempty"`
}

// Row gives the kind.
func (*TextBlock) Row() *BlockKind { return &textKind }

// Called says which block it is.
func (*TextBlock) Called(c Context) string { return calledBlock(&textKind, c) }

// Core is the sentence that tells it.
func (*TextBlock) Core(Context) string { return "A text says {text}" }

// Props lists its settings.
func (x *TextBlock) Props(c Context) []prop.Prop {
	return []prop.Prop{textProp(&x.Text, c), sizeProp(&x.Size)}
}

// Start gives it words.
func (x *TextBlock) Start(Context) { orStart(&x.Text, "Write something here.") }
