package blueprint

import (
	"iter"
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/report"
	"pinegate/core/words"
)

// Badged is what a figure gives to people who see its targets reached: a badge for each period. Badges are records of a table.
type Badged struct {
	Badge   string `json:"badge,omitempty"` // its name; "" for none
	Picture string `json:"picture,omitempty"`
	// Each is the period in which it is given once, where the range of the figure is none.
	Each report.Unit `json:"each,omitempty"`
	// Badges is the id of the table. The others are those of its fields: who has the badge, its name and picture, the id of the
	// figure, the first day of the period, and since when it stands, which is empty for one that was taken back.
	Badges  string `json:"badges,omitempty"`
	Who     string `json:"badgeWho,omitempty"`
	Named   string `json:"badgeName,omitempty"`
	Pics    string `json:"badgePicture,omitempty"`
	For     string `json:"badgeFor,omitempty"`
	FirstOn string `json:"badgeFrom,omitempty"`
	Won     string `json:"badgeWon,omitempty"`
}

// props lists the settings of a badge.
func (x *Badged) props(c Context, over report.Range) []prop.Prop {
	out := []prop.Prop{{
		Name:   "badge",
		Label:  "Badge",
		Noun:   "the badge",
		Group:  "Badge",
		Resets: true,
		Help:   "Reaching the target is celebrated once for each period. Whoever reaches it keeps a badge with this name",
		Say:    ". Whoever reaches its target gets the badge {}",
		Value:  calledText(&x.Badge),
	}}
	if x.Badge == "" && c.b != nil {
		return out
	}
	out = append(out, prop.Prop{Name: "picture", Label: "Picture", Noun: "the picture of the badge", Group: "Badge", With: "badge",
		Say: " with the picture {}", Value: prop.One(&x.Picture, iconOffers()).OrNone("no picture")})
	if _, _, is := over.Period(); !is || c.b == nil {
		out = append(out, prop.Prop{Name: "each", Label: "Once each", Noun: "how often the badge is given", Group: "Badge", With: "badge",
			Help: "It can be reached once in each of these", Say: ", once each {}",
			Value: prop.Pick(&x.Each, append([]prop.Option{{Value: "", Words: string(report.Week)}}, otherUnits(report.Week)...)...)})
	}
	return append(out, x.kept(c)...)
}

// otherUnits are those of the calendar but for one.
func otherUnits(but report.Unit) []prop.Option {
	return slices.DeleteFunc(unitOptions(), func(o prop.Option) bool { return o.Value == string(but) })
}

// kept lists the settings that say where badges are kept.
func (x *Badged) kept(c Context) []prop.Prop {
	lost := prop.Lost{Do: func() string { *x = Badged{}; return words.Say("badge-lost", nil) }}
	people := func(f *Field) bool { return c.isDoer(f) }
	field := func(name, label, noun string, at *string, to prop.To) prop.Prop {
		out := keeps("badges", "Badge", lost)(name, label, noun, at, to)
		out.Must = c.b != nil
		return out
	}
	return []prop.Prop{
		{
			Name:   "badges",
			Label:  "Badges are kept in",
			Noun:   "the table of badges",
			Group:  "Badge",
			Must:   c.b != nil,
			With:   "badge",
			Resets: true,
			Hint:   "no-people",
			Help:   "A table with a link to people. One is made for it unless you choose another",
			Value:  prop.One(&x.Badges, c.tablesWith(people)),
			Lost:   lost,
		},
		field("badgeWho", "Who has it", "who has a badge", &x.Who, c.Fields(x.Badges, people)),
		field("badgeName", "Its name", "the name of a badge", &x.Named, c.of(x.Badges, Text)),
		field("badgePicture", "Its picture", "the picture of a badge", &x.Pics, c.of(x.Badges, Text)),
		field("badgeFor", "Its figure", "the figure of a badge", &x.For, c.of(x.Badges, Text)),
		field("badgeFrom", "First day of its period", "the first day of the period of a badge", &x.FirstOn, c.of(x.Badges, Date)),
		field("badgeWon", "Reached at", "when a badge was reached", &x.Won, c.of(x.Badges, TimeStamp)),
	}
}

// tablesWith offers the tables with a field for which something holds.
func (c Context) tablesWith(is func(*Field) bool) prop.To {
	if c.b == nil {
		return prop.To{What: "table"}
	}
	return offers("table", c.b.Tables, func(t *Table) (prop.Option, bool) {
		return prop.Option{Value: t.ID, Words: t.Name}, find(t.Fields, is) != nil
	})
}

// reset drops what goes with a badge that is none any more, and finds or makes a table for one.
func (x *Badged) reset(c Context, head *BlockHead, setting string) {
	switch {
	case x.Badge == "":
		*x = Badged{}
	case setting == "badges":
		*x = Badged{Badge: x.Badge, Picture: x.Picture, Each: x.Each, Badges: x.Badges}
	}
	x.start(c, head)
}

// start finds or makes a table for a badge, and its fields.
func (x *Badged) start(c Context, head *BlockHead) {
	if x.Badge == "" || c.b == nil {
		return
	}
	for f := range c.b.badged() {
		if x.Badges == "" && f.Badges != "" { // badges of one app lie together
			x.Badges = f.Badges
		}
		if f.Badges == x.Badges && f.Won != "" && x.Won == "" {
			x.Who, x.Named, x.Pics, x.For, x.FirstOn, x.Won = f.Who, f.Named, f.Pics, f.For, f.FirstOn, f.Won
		}
	}
	if x.Badges == "" {
		x.make(c, head.within)
	}
	t := c.b.Table(x.Badges)
	if t == nil {
		return
	}
	typed := func(of FieldType) func(*Field) bool {
		return func(f *Field) bool { return f.Type == of && !slices.Contains([]string{x.Named, x.Pics, x.For}, f.ID) }
	}
	t.first(&x.Who, c.isDoer)
	t.first(&x.Named, typed(Text))
	t.first(&x.Pics, typed(Text))
	t.first(&x.For, typed(Text))
	t.first(&x.FirstOn, typed(Date))
	t.first(&x.Won, typed(TimeStamp))
}

// make adds a table for badges. People see their own; nobody gives one by hand.
func (x *Badged) make(c Context, id func(string) string) {
	if c.page == nil {
		return
	}
	people := ""
	for _, r := range c.b.Roles {
		if r.People != "" && c.page.Admits([]string{r.ID}) && people == "" {
			people = r.People
		}
	}
	if people == "" {
		return
	}
	x.Badges = c.b.newTable(id("b"), words.Say("badges", nil), "badge",
		Field{ID: id("ba"), Key: "badge", Name: "Badge", Type: Text, Required: true},
		Field{ID: id("bb"), Key: "who", Name: "Who", Type: Link, Target: people, Required: true},
		Field{ID: id("bc"), Key: "period", Name: "First day of the period", Type: Date},
		Field{ID: id("bd"), Key: "reached_at", Name: "Reached at", Type: TimeStamp, Help: "Empty for one that was taken back"},
		Field{ID: id("be"), Key: "picture", Name: "Picture", Type: Text},
		Field{ID: id("bf"), Key: "figure", Name: "Figure", Type: Text})
	x.Who, x.Named, x.Pics, x.For, x.FirstOn, x.Won = id("bb"), id("ba"), id("be"), id("bf"), id("bc"), id("bd")
	for i := range c.b.Roles {
		if r := &c.b.Roles[i]; r.People == people {
			r.Rules = append(r.Rules, Rule{Table: x.Badges, See: Permission{Extent: Where, Condition: "who = me"}})
		}
	}
}

// check refuses a badge that cannot be given.
func (x *Badged) check(c Context) *words.Problem {
	if x.Badge == "" || c.b == nil {
		return nil
	}
	if c.page == nil || c.part != nil || c.page.Record != "" || c.row != "" {
		return words.New("badge-where")
	}
	texts := []string{x.Named, x.Pics, x.For}
	for i, id := range texts {
		if f := c.field(x.Badges, id); f != nil && slices.Contains(texts[:i], id) {
			return words.New("badge-twice", "field", f.Name)
		}
	}
	return nil
}

// badged walks the figures of pages that give a badge, with their pages.
func (b *Blueprint) badged() iter.Seq2[*FigureBlock, *Page] {
	return func(yield func(*FigureBlock, *Page) bool) {
		for i := range b.Pages {
			for x := range b.Pages[i].Blocks.All {
				if f, is := x.(*FigureBlock); is && f.Badge != "" && !yield(f, &b.Pages[i]) {
					return
				}
			}
		}
	}
}

// BadgesIn walks the figures that give a badge which is kept in a table, with their pages.
func (b *Blueprint) BadgesIn(table string) iter.Seq2[*FigureBlock, *Page] {
	return func(yield func(*FigureBlock, *Page) bool) {
		for f, p := range b.badged() {
			if f.Badges == table && !yield(f, p) {
				return
			}
		}
	}
}

// BadgesOfMe checks the condition of the badges of whoever looks, which lie where a figure keeps its own.
func (b *Blueprint) BadgesOfMe(x *FigureBlock, catalog *expr.Catalog) (*expr.Checked, error) {
	type place struct{ badges string }
	return checkedOnce(b, place{x.ID}, func() (*expr.Checked, error) {
		who := b.Table(x.Badges).Field(x.Who)
		return expr.CheckCondition("this."+who.Key+" = me", expr.Scope{Catalog: catalog, Row: x.Badges, Me: who.Target})
	})
}
