package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var timerKind = BlockKind{
	Name:  "timer",
	Label: "A timer",
	Noun:  "timer",
	Help:  "People start and stop it. Their hours are kept as records",
	About: true,
	New:   func() Block { return &TimerBlock{} },
}

// TimerBlock measures what somebody works on the record of the page. What they worked are records of a table: one for each
// kind of work, of which one at a time runs.
type TimerBlock struct {
	BlockHead
	Title   string `json:"title,omitempty"`
	Entries string `json:"entries"` // id of the table of what was worked
	Link    string `json:"link"`    // id of its field that leads to the record of the page
	By      string `json:"by"`      // who works: a text, or a link to people
	Hours   string `json:"hours"`
	Since   string `json:"since"` // when it was started; empty for what was written down by hand
	Paused  string `json:"paused"`
	Ended   string `json:"ended"` // when it was stopped
	Sort    string `json:"sort,omitempty"`
	Day     string `json:"day,omitempty"`
	// Forgot is after how many hours whoever runs it is asked about that; 0 for [DefaultForgot].
	Forgot int `json:"forgot,omitempty"`
}

// DefaultForgot is after how many hours somebody is asked whether their timer still runs.
const DefaultForgot = 10

// Row gives the kind.
func (*TimerBlock) Row() *BlockKind { return &timerKind }

// Called says which block it is.
func (*TimerBlock) Called(c Context) string { return calledBlock(&timerKind, c) }

// Core is the sentence that tells it.
func (*TimerBlock) Core(Context) string { return "A timer adds to {entries}" }

// Forgotten gives after how many hours somebody is asked whether it still runs.
func (x *TimerBlock) Forgotten() int {
	if x.Forgot == 0 {
		return DefaultForgot
	}
	return x.Forgot
}

// Props lists its settings.
func (x *TimerBlock) Props(c Context) []prop.Prop {
	record := c.record()
	field := keeps("entries", "Fields", takesOut)
	out := []prop.Prop{
		{
			Name:   "entries",
			Label:  "Hours are kept in",
			Noun:   "the table of hours",
			Must:   true,
			Asked:  true,
			Resets: true,
			Help:   "A table with a link to the record of this page. One is made for it unless you choose another",
			Value:  prop.One(&x.Entries, c.linkedTables(record)),
			Lost:   takesOut,
		},
		field("link", "It belongs to the record by", "the link to the record", &x.Link,
			c.Fields(x.Entries, func(f *Field) bool { return f.Type == Link && f.Target == record })),
		field("by", "Who works", "who works", &x.By, c.doers(x.Entries)),
		field("hours", "Hours", "the hours", &x.Hours, c.of(x.Entries, Number, Duration)),
		field("since", "Started at", "when it was started", &x.Since, c.of(x.Entries, TimeStamp)),
		field("paused", "Paused", "whether it pauses", &x.Paused, c.of(x.Entries, YesNo)),
		field("ended", "Stopped at", "when it was stopped", &x.Ended, c.of(x.Entries, TimeStamp)),
	}
	return append(out,
		prop.Prop{Name: "sort", Label: "Kind of work", Noun: "the kind of work", Group: "Fields", Say: ", by {}",
			Help: "A choice: people start it for one, and go on with another", Value: prop.One(&x.Sort, c.of(x.Entries, Choose)),
			Lost: prop.Lost{Words: "it has no kinds of work any more"}},
		prop.Prop{Name: "day", Label: "Day", Noun: "the day", Group: "Fields", Say: ". Its day is kept in {}",
			Help: "The day on which it was started", Value: prop.One(&x.Day, c.of(x.Entries, Date)),
			Lost: prop.Lost{Words: "its day is not written down any more"}},
		prop.Prop{Name: "forgot", Label: "Asks after so many hours", Noun: "after how many hours it asks", Group: "Running",
			Help:  "Whoever runs it for longer is asked whether they forgot to stop it; 10 unless you say",
			Say:   ". After {} hour, it asks whether it still runs||. After {} hours, it asks whether it still runs",
			Value: prop.Number(&x.Forgot, 1, 72)},
		prop.Prop{Name: "title", Label: "Title", Noun: "the title", Group: "Look", Help: "Words above it", Say: ", titled {}",
			Value: prop.Template(&x.Title, c.Here())},
	)
}

// doers offers the fields of a table that say who did something.
func (c Context) doers(table string) prop.To {
	return c.Fields(table, func(f *Field) bool { return f.Type == Text || c.isDoer(f) })
}

// isDoer tells whether a field leads to people.
func (c Context) isDoer(f *Field) bool {
	return f.Type == Link && c.b != nil && slices.ContainsFunc(c.b.Roles, func(r Role) bool { return r.People == f.Target })
}

// Check refuses that one time is both.
func (x *TimerBlock) Check(c Context) *words.Problem {
	if f := c.field(x.Entries, x.Since); f != nil && x.Since == x.Ended {
		return words.New("timer-times", "field", f.Name)
	}
	return nil
}

// Reset forgets the fields of another table.
func (x *TimerBlock) Reset(c Context, setting string) {
	if setting == "entries" {
		*x = TimerBlock{BlockHead: x.BlockHead, Title: x.Title, Entries: x.Entries, Forgot: x.Forgot}
		x.guess(c)
	}
}

// Start makes a table for it, where there is none yet, and finds its fields.
func (x *TimerBlock) Start(c Context) {
	if c.b == nil || c.b.Table(c.record()) == nil {
		return
	}
	if c.b.Table(x.Entries) == nil {
		x.make(c)
	}
	x.guess(c)
}

// guess finds the fields that are not said; times are made, as none that is there would be meant.
func (x *TimerBlock) guess(c Context) {
	if c.b == nil || c.b.Table(x.Entries) == nil {
		return
	}
	first := c.b.Table(x.Entries).first
	first(&x.Link, func(f *Field) bool { return f.Type == Link && f.Target == c.record() })
	first(&x.By, c.isDoer)
	first(&x.By, func(f *Field) bool { return f.Type == Text })
	first(&x.Hours, func(f *Field) bool { return f.Type == Number || f.Type == Duration })
	first(&x.Since, func(f *Field) bool { return f.Type == TimeStamp })
	first(&x.Paused, func(f *Field) bool { return f.Type == YesNo })
	first(&x.Ended, func(f *Field) bool { return f.Type == TimeStamp && f.ID != x.Since })
	first(&x.Sort, func(f *Field) bool { return f.Type == Choose })
	first(&x.Day, func(f *Field) bool { return f.Type == Date })
}

// make adds a table for what is worked on records of the page's table. People of roles that open the page and see all of its
// records can use it, each for themselves.
func (x *TimerBlock) make(c Context) {
	of := c.b.Table(c.record())
	id := x.within
	by := Field{ID: id("eb"), Key: "who", Name: "Who", Type: Text}
	for _, r := range c.b.Roles {
		if r.People != "" && c.page != nil && c.page.Admits([]string{r.ID}) && by.Target == "" {
			by.Type, by.Target = Link, r.People
		}
	}
	x.Entries = c.b.newTable(id("e"), words.Say("timer-entries", words.Args{"table": of.Name}), `day & ""`,
		Field{ID: id("ea"), Name: words.Capital(of.OneWord()), Type: Link, Target: of.ID, Required: true}, by,
		Field{ID: id("ec"), Key: "day", Name: "Day", Type: Date},
		Field{ID: id("ed"), Key: "hours", Name: "Hours", Type: Number, FieldSettings: FieldSettings{Unit: "h"}},
		Field{ID: id("ef"), Key: "started_at", Name: "Started at", Type: TimeStamp},
		Field{ID: id("eh"), Key: "paused", Name: "Paused", Type: YesNo},
		Field{ID: id("eg"), Key: "stopped_at", Name: "Stopped at", Type: TimeStamp})
	all := Permission{Extent: AllRecords}
	own := all
	if by.Type == Link {
		own = Permission{Extent: Where, Condition: "who = me"}
	}
	for r := range c.users(of) {
		mine := own
		if by.Type == Link && r.People != by.Target {
			mine = Permission{}
		}
		r.Rules = append(r.Rules, Rule{Table: x.Entries, See: all, Add: mine, Change: mine, Delete: mine})
	}
}

// TimerHours checks the number of hours of what was worked.
func (b *Blueprint) TimerHours(x *TimerBlock, catalog *expr.Catalog) (*expr.Checked, error) {
	type place struct{ hours string }
	return checkedOnce(b, place{x.ID}, func() (*expr.Checked, error) {
		return expr.Check("this."+b.Table(x.Entries).Field(x.Hours).Key, expr.Scope{Catalog: catalog, Row: x.Entries})
	})
}

// TimerOpen checks the condition of what whoever looks works and did not stop, where a link says who that is.
func (b *Blueprint) TimerOpen(x *TimerBlock, catalog *expr.Catalog) (*expr.Checked, error) {
	type place struct{ open string }
	return checkedOnce(b, place{x.ID}, func() (*expr.Checked, error) {
		t := b.Table(x.Entries)
		source := "not ISBLANK(this." + t.Field(x.Since).Key + ") and ISBLANK(this." + t.Field(x.Ended).Key + ")"
		by := t.Field(x.By)
		if by.Type == Link {
			source += " and this." + by.Key + " = me"
		}
		return expr.CheckCondition(source, expr.Scope{Catalog: catalog, Row: t.ID, Me: by.Target})
	})
}
