package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
)

var sentKind = TriggerKind{
	Name:   "sent",
	Label:  "Someone sends a form",
	Help:   "With what was saved, and with answers that are not kept",
	Person: true,
	New:    func() Trigger { return &SentTrigger{} },
}

// SentTrigger starts a workflow when a form is sent. What the form saves and what the workflow
// does until it first waits is done together, or not at all.
type SentTrigger struct {
	TriggerHead
	Form string `json:"form"` // id of the block
}

// Row gives the kind.
func (*SentTrigger) Row() *TriggerKind { return &sentKind }

// Core is the sentence that tells it.
func (*SentTrigger) Core(Context) string { return "Starts when someone sends {form}" }

// Props lists its settings.
func (x *SentTrigger) Props(c Context) []prop.Prop {
	return []prop.Prop{
		{
			Name:  "form",
			Label: "The form",
			Noun:  "the form",
			Must:  true,
			Asked: true,
			Fixed: true,
			Hint:  "no-form",
			Value: prop.One(&x.Form, c.Forms()),
			Lost:  flowGone,
		},
		x.whenProp(c, "Only when", ". It starts only when {}"),
	}
}

func (x *SentTrigger) scope(c Context) expr.Scope {
	out := expr.Scope{Catalog: c.catalog}
	page, form := c.b.FormAt(x.Form)
	if form == nil {
		return out
	}
	out.Row, out.Me = form.Table, c.b.MeTable(page)
	out.Answers = c.b.AnswersOf(form, "", true, c.catalog)
	for w := range form.With { // which links of the record lead to
		id := w.Named(c.b, form)
		out.Answers.Fields = slices.DeleteFunc(out.Answers.Fields, func(f *expr.Field) bool { return f.ID == id })
	}
	return out
}

// Forms offers the forms of pages, by the pages on which they stand.
func (c Context) Forms() prop.To {
	if c.b == nil {
		return prop.To{What: "block"}
	}
	return prop.To{What: "block", All: func(yield func(prop.Option) bool) {
		for i := range c.b.Pages {
			p := &c.b.Pages[i]
			for y := range p.Blocks.All {
				if x, is := y.(*FormBlock); is && x.Sends() {
					in := c
					in.page = p
					if !yield(prop.Option{Value: x.ID, Words: calledBlock(x.Row(), in)}) {
						return
					}
				}
			}
		}
	}}
}

// FormAt finds a form with the page on which it stands.
func (b *Blueprint) FormAt(id string) (*Page, *FormBlock) {
	for i := range b.Pages {
		if x, is := b.Pages[i].Block(id).(*FormBlock); is {
			return &b.Pages[i], x
		}
	}
	return nil, nil
}
