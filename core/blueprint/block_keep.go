package blueprint

import "pinegate/core/prop"

var keepKind = BlockKind{
	Name:  "keep",
	Label: "A question whose answer is kept",
	Noun:  "question",
	Help:  "Asks for kept values, such as the size of a boat, which lists on other pages can use",
	New:   func() Block { return &KeepBlock{} },
}

// KeepBlock asks for values that are kept for whoever looks.
type KeepBlock struct {
	BlockHead
	Values []string `json:"values"` // ids of kept values
	Text   string   `json:"text,omitempty"`
	Page   string   `json:"page,omitempty"` // id of the page that is shown then
}

// Row gives the kind.
func (*KeepBlock) Row() *BlockKind { return &keepKind }

// Called says which block it is.
func (*KeepBlock) Called(c Context) string { return calledBlock(&keepKind, c) }

// Core is the sentence that tells it.
func (*KeepBlock) Core(Context) string { return "It asks for {values}, and keeps it" }

// Props lists its settings.
func (x *KeepBlock) Props(c Context) []prop.Prop {
	text := prop.Text(&x.Text)
	text.Most, text.Quoted = 80, true
	return []prop.Prop{
		{
			Name:  "values",
			Label: "It asks for",
			Noun:  "what it asks for",
			Must:  true,
			Asked: true,
			Hint:  "no-kept",
			Value: prop.Many(&x.Values, c.KeptValues()),
			Lost:  prop.Lost{Words: "it is not asked for any more"},
		},
		{
			Name:  "text",
			Label: "Words of its button",
			Noun:  "the words of its button",
			Help:  "“Keep” unless you say",
			Asked: true,
			Group: "Look",
			Say:   "; its button says {}",
			Value: text,
		},
		{
			Name:  "page",
			Label: "Then it shows",
			Noun:  "what it shows then",
			Help:  "A page on which what was chosen counts",
			Asked: true,
			Group: "Actions",
			Say:   "; then it shows {}",
			Hint:  "reachable",
			Value: prop.One(&x.Page, c.Reachable(c.record())).OrNone("the same page"),
			Lost:  prop.Lost{Words: "it shows no other page any more"},
		},
	}
}
