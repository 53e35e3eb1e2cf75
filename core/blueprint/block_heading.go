package blueprint

import "pinegate/core/prop"

var headingKind = BlockKind{
	Name:  "heading",
	Label: "A heading",
	Noun:  "heading",
	Help:  "A line in large letters",
	Toned: true,
	Forms: AlsoInForms,
	New:   func() Block { return &HeadingBlock{} },
}

// HeadingBlock is a line in large letters, with placeholders.
type HeadingBlock struct {
	BlockHead
	Text string   `json:"text"`
	Size TextSize `json:"size,omitempty"`
}

// TextSize is how large letters are.
type TextSize string

// The sizes of letters.
const (
	NormalText  TextSize = ""
	SmallText   TextSize = "small"
	LargeText   TextSize = "large"
	DisplayText TextSize = "display"
)

// sizeProp is the setting of the size of letters.
func sizeProp(at *TextSize) prop.Prop {
	return prop.Prop{
		Name:  "size",
		Label: "Size",
		Noun:  "the size",
		Help:  "How large its letters are",
		Group: "Look",
		Say:   ". Its size is {}",
		Value: prop.Pick(at, prop.Option{Value: "", Words: "normal"}, prop.Option{Value: string(SmallText), Words: "small"},
			prop.Option{Value: string(LargeText), Words: "large"}, prop.Option{Value: string(DisplayText), Words: "display"}),
	}
}

// Row gives the kind.
func (*HeadingBlock) Row() *BlockKind { return &headingKind }

// Called says which block it is.
func (*HeadingBlock) Called(c Context) string { return calledBlock(&headingKind, c) }

// Core is the sentence that tells it.
func (*HeadingBlock) Core(Context) string { return "A heading says {text}" }

// Props lists its settings.
func (x *HeadingBlock) Props(c Context) []prop.Prop {
	return []prop.Prop{textProp(&x.Text, c), sizeProp(&x.Size)}
}

// Start gives it words.
func (x *HeadingBlock) Start(Context) { orStart(&x.Text, "New heading") }

// textProp is the setting of a text with placeholders.
func textProp(at *string, c Context) prop.Prop {
	return prop.Prop{Name: "text", Label: "Words", Noun: "the words", Must: true, Asked: true, Value: prop.Template(at, c.Here())}
}

// orStart gives a text that is empty its first words.
func orStart(text *string, first string) {
	if *text == "" {
		*text = first
	}
}
