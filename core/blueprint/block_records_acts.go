package blueprint

import "pinegate/core/prop"

// actions lists the settings that say what people can do with them.
func (x *RecordsBlock) actions(c Context) []prop.Prop {
	about := c.Pages(func(p *Page) bool { return p.Record != "" && p.Record == x.Table })
	return []prop.Prop{
		{
			Name:  "open",
			Label: "A row opens",
			Noun:  "what a row opens",
			Help:  "A page about the record",
			Group: "Actions",
			Say:   "; a row opens {}",
			Hint:  "no-page-about",
			Value: prop.One(&x.Open, about).OrNone("nothing"),
			Lost:  prop.Lost{Words: "its rows open no page any more"},
		},
		{
			Name:  "openAs",
			Label: "Shown",
			Noun:  "where a row opens its page",
			With:  "open",
			Say:   " {}",
			Value: prop.Pick(&x.OpenAs, prop.Option{Value: "", Words: "as a page"},
				prop.Option{Value: string(OpenPanel), Words: "in a panel at the side"},
				prop.Option{Value: string(OpenDialog), Words: "in a dialog"}),
		},
		{
			Name:  "unfold",
			Label: "A row unfolds to",
			Noun:  "what a row unfolds to",
			Help:  "A page about the record, shown beneath its row: its linked records, its files",
			Group: "Actions",
			Say:   "; a row unfolds to {}",
			Hint:  "no-page-about",
			Value: prop.One(&x.Unfold, about).OrNone("nothing"),
			Lost:  prop.Lost{Words: "its rows unfold no more"},
		},
		{
			Name:  "edit",
			Label: "Changed where they stand",
			Noun:  "the fields that are changed where they stand",
			Help:  "Fields that people change in the list, as their rules let them",
			Group: "Actions",
			Say:   "; people change {} right there",
			Value: prop.Many(&x.Edit, c.Fields(x.Table, changedThere)),
		},
		{
			Name:  "add",
			Label: "A button adds one with",
			Noun:  "the page that adds one",
			Help:  "A button above the list that opens a page with a form",
			Group: "Actions",
			Say:   "; a button adds one with {}",
			Hint:  "reachable",
			Value: prop.One(&x.Add, c.Reachable(c.record())).OrNone("none"),
			Lost:  prop.Lost{Words: "its button that adds is taken off"},
		},
		{
			Name:  "export",
			Label: "People can take it away as a file",
			Noun:  "whether people can take it away as a file",
			Help:  "As CSV or for a spreadsheet, what their rules let them see of it",
			Group: "Actions",
			Say:   "; people can {|take it away as a file}",
			Value: prop.Switch(&x.Export),
		},
	}
}

// nothing is the setting of what it says where there is nothing.
func (x *RecordsBlock) nothing() []prop.Prop {
	empty := prop.Text(&x.Empty)
	empty.Most, empty.Quoted = 500, true
	return []prop.Prop{{
		Name:  "empty",
		Label: "When empty, it says",
		Noun:  "what it says when empty",
		Help:  "Instead of “Nothing here yet.”",
		Group: "Look",
		Say:   "; when empty, it says {}",
		Value: empty,
	}}
}
