package blueprint

import "pinegate/core/prop"

var badgesKind = BlockKind{
	Name:  "badges",
	Label: "Badges",
	Noun:  "collection of badges",
	Help:  "What people reached, and what they still can",
	New:   func() Block { return &BadgesBlock{} },
}

// BadgesBlock shows whoever looks which badges they have, and which they can still reach.
type BadgesBlock struct {
	BlockHead
	Title string `json:"title,omitempty"`
	From  string `json:"from"` // id of the table of badges
}

// Row gives the kind.
func (*BadgesBlock) Row() *BlockKind { return &badgesKind }

// Called says which block it is.
func (*BadgesBlock) Called(c Context) string { return calledBlock(&badgesKind, c) }

// Core is the sentence that tells it.
func (*BadgesBlock) Core(Context) string { return "A collection shows what each person has in {from}" }

// Props lists its settings.
func (x *BadgesBlock) Props(c Context) []prop.Prop {
	return []prop.Prop{
		{
			Name:  "from",
			Label: "Badges are in",
			Noun:  "the table of badges",
			Must:  true,
			Asked: true,
			Hint:  "no-badge",
			Value: prop.One(&x.From, c.badgeTables()),
			Lost:  takesOut,
		},
		{
			Name:  "title",
			Label: "Title",
			Noun:  "the title",
			Help:  "Words above it",
			Say:   ", titled {}",
			Value: prop.Template(&x.Title, c.Here()),
		},
	}
}

// badgeTables offers the tables in which figures keep badges.
func (c Context) badgeTables() prop.To {
	if c.b == nil {
		return prop.To{What: "table"}
	}
	return offers("table", c.b.Tables, func(t *Table) (prop.Option, bool) {
		for range c.b.BadgesIn(t.ID) {
			return prop.Option{Value: t.ID, Words: t.Name}, true
		}
		return prop.Option{}, false
	})
}

// Start takes the only table of badges.
func (x *BadgesBlock) Start(c Context) {
	if c.b == nil || x.From != "" {
		return
	}
	for f := range c.b.badged() {
		x.From = f.Badges
		return
	}
}
