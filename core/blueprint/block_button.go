package blueprint

import "pinegate/core/prop"

var buttonKind = BlockKind{
	Name:   "button",
	Label:  "A button",
	Noun:   "button",
	Help:   "Opens another page",
	InRows: true,
	Toned:  true,
	New:    func() Block { return &ButtonBlock{} },
}

// ButtonBlock is a button that opens a page.
type ButtonBlock struct {
	BlockHead
	Text string `json:"text"` // with placeholders
	Page string `json:"page"` // id
	Hint string `json:"hint,omitempty"`
}

// Row gives the kind.
func (*ButtonBlock) Row() *BlockKind { return &buttonKind }

// Called says which block it is.
func (*ButtonBlock) Called(c Context) string { return calledBlock(&buttonKind, c) }

// Core is the sentence that tells it.
func (*ButtonBlock) Core(Context) string { return "The button {text} opens {page}" }

// Props lists its settings.
func (x *ButtonBlock) Props(c Context) []prop.Prop {
	hint := prop.Text(&x.Hint)
	hint.Most, hint.Quoted = 120, true
	return []prop.Prop{
		textProp(&x.Text, c),
		{
			Name:  "page",
			Label: "It opens",
			Noun:  "the page it opens",
			Must:  true,
			Asked: true,
			Hint:  "reachable",
			Value: prop.One(&x.Page, c.Reachable(c.record())),
			Lost:  prop.Lost{Words: "it is taken off the page", TakeOut: true},
		},
		{
			Name:  "hint",
			Label: "Hint",
			Noun:  "the hint",
			Help:  "A few words that show while it is pointed at or has the focus",
			Group: "Look",
			Say:   ". Its hint says {}",
			Value: hint,
		},
	}
}

// Start gives it the words of the page that it opens.
func (x *ButtonBlock) Start(c Context) {
	if c.b == nil {
		return
	}
	if p := c.b.Page(x.Page); p != nil {
		orStart(&x.Text, p.Name)
	}
}
