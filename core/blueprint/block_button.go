package blueprint

import "pinegate/core/prop"

var buttonKind = BlockKind{
	Name:   "button",
	Label:  "A button",
	Noun:   "button",
	Help:   "Opens another page, or starts a workflow",
	InRows: true,
	Toned:  true,
	New:    func() Block { return &ButtonBlock{} },
}

// ButtonBlock is a button that opens a page, or starts a workflow.
type ButtonBlock struct {
	BlockHead
	Text string `json:"text"`           // with placeholders
	Page string `json:"page"`           // id
	Flow string `json:"flow,omitempty"` // id of the workflow that it starts, instead of opening a page
	Hint string `json:"hint,omitempty"`
}

// Row gives the kind.
func (*ButtonBlock) Row() *BlockKind { return &buttonKind }

// Called says which block it is.
func (*ButtonBlock) Called(c Context) string { return calledBlock(&buttonKind, c) }

// Core is the sentence that tells it.
func (x *ButtonBlock) Core(Context) string {
	if x.Flow != "" {
		return "The button {text} starts {flow}"
	}
	return "The button {text} opens {page}"
}

// Props lists its settings.
func (x *ButtonBlock) Props(c Context) []prop.Prop {
	hint := prop.Text(&x.Hint)
	hint.Most, hint.Quoted = 120, true
	out := []prop.Prop{textProp(&x.Text, c)}
	if x.Flow != "" || hasAny(c.Presses(c.record())) {
		out = append(out, prop.Prop{
			Name:   "flow",
			Label:  "It starts",
			Noun:   "the workflow it starts",
			Help:   "A workflow, instead of opening a page",
			Group:  "What it does",
			Asked:  true,
			Resets: true,
			Value:  prop.One(&x.Flow, c.Presses(c.record())).OrNone("no workflow: it opens a page"),
			Lost:   prop.Lost{Words: "it is taken off the page", TakeOut: true},
		})
	}
	if x.Flow == "" {
		out = append(out, prop.Prop{
			Name:  "page",
			Label: "It opens",
			Noun:  "the page it opens",
			Must:  true,
			Asked: true,
			Hint:  "reachable",
			Value: prop.One(&x.Page, c.Reachable(c.record())),
			Lost:  prop.Lost{Words: "it is taken off the page", TakeOut: true},
		})
	}
	return append(out, prop.Prop{
		Name:  "hint",
		Label: "Hint",
		Noun:  "the hint",
		Help:  "A few words that show while it is pointed at or has the focus",
		Group: "Look",
		Say:   ". Its hint says {}",
		Value: hint,
	})
}

func hasAny(to prop.To) bool {
	if to.All != nil {
		for range to.All {
			return true
		}
	}
	return false
}

// Reset drops the page where it starts a workflow.
func (x *ButtonBlock) Reset(Context, string) {
	if x.Flow != "" {
		x.Page = ""
	}
}

// Start gives it the words of what it opens or starts.
func (x *ButtonBlock) Start(c Context) {
	if c.b == nil {
		return
	}
	if p := c.b.Page(x.Page); p != nil {
		orStart(&x.Text, p.Name)
	}
	if w := c.b.Workflow(x.Flow); w != nil {
		orStart(&x.Text, w.Name)
	}
}
