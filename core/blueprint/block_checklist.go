package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var checklistKind = BlockKind{
	Name:  "checklist",
	Label: "A checklist",
	Noun:  "checklist",
	Help:  "People tick off steps. A list is made from a table of steps when someone begins it",
	About: true,
	New:   func() Block { return &ChecklistBlock{} },
}

// ChecklistBlock is a list of what is to be done for the record of the page. What is to be done are records of their own,
// made from those of a table of steps when the list is begun, so that other steps change no list that was begun.
type ChecklistBlock struct {
	BlockHead
	Title string `json:"title,omitempty"`
	Items string `json:"items"` // id of the table of what is to be done
	Link  string `json:"link"`  // id of its field that leads to the record of the page
	Text  string `json:"text"`  // that says what is to be done
	Done  string `json:"done"`  // yes or no
	At    string `json:"at,omitempty"`
	By    string `json:"by,omitempty"` // a text, or a link to people
	Due   string `json:"due,omitempty"`
	Order string `json:"order,omitempty"`
	// Round says the how manieth list of its record it is; without one, there is one list.
	Round string `json:"round,omitempty"`
	// Steps is the id of the table of steps, Where the condition that they meet, From the link that says from which one something
	// was made, and Values are what is made of them.
	Steps  string       `json:"steps,omitempty"`
	Where  string       `json:"where,omitempty"`
	From   string       `json:"from,omitempty"`
	Values []prop.Given `json:"values,omitempty"`
}

// MostSteps is how many things a checklist has at most.
const MostSteps = 200

// Row gives the kind.
func (*ChecklistBlock) Row() *BlockKind { return &checklistKind }

// Called says which block it is.
func (*ChecklistBlock) Called(c Context) string { return calledBlock(&checklistKind, c) }

// Core is the sentence that tells it.
func (x *ChecklistBlock) Core(Context) string {
	if x.Steps != "" {
		return "A checklist of {items} is made from {steps}"
	}
	return "A checklist shows {items}"
}

// Props lists its settings.
func (x *ChecklistBlock) Props(c Context) []prop.Prop {
	record := c.record()
	leads := c.Fields(x.Items, func(f *Field) bool { return f.Type == Link && f.Target == record })
	field := keeps("items", "Fields", takesOut)
	out := []prop.Prop{
		{
			Name:   "items",
			Label:  "Things to do are in",
			Noun:   "the table of things to do",
			Must:   true,
			Asked:  true,
			Resets: true,
			Help:   "A table with a link to the record of this page. One is made for it unless you choose another",
			Value:  prop.One(&x.Items, c.linkedTables(record)),
			Lost:   takesOut,
		},
		{
			Name:   "steps",
			Label:  "It is made from",
			Noun:   "the table of steps",
			Asked:  true,
			Resets: true,
			Help:   "A table with a record for each step. Later changes of these change no list that was begun",
			Value:  prop.One(&x.Steps, c.Tables()).OrNone("nothing"),
			Lost:   prop.Lost{Words: "no list is begun any more"},
		},
		field("link", "It belongs to the record by", "the link to the record", &x.Link, leads),
		field("text", "Thing to do", "the words", &x.Text, c.of(x.Items, Text, LongText)),
		field("done", "Done", "what is ticked", &x.Done, c.of(x.Items, YesNo)),
	}
	return append(append(out, x.marks(c)...), x.making(c)...)
}

// marks lists the settings that name further fields.
func (x *ChecklistBlock) marks(c Context) []prop.Prop {
	mark := func(name, label, say, help string, at *string, to prop.To) prop.Prop {
		return prop.Prop{Name: name, Label: label, Noun: "the field “" + label + "”", Group: "Fields", Say: say, Help: help,
			Value: prop.One(at, to), Lost: prop.Lost{Words: "it is not written down any more"}}
	}
	return []prop.Prop{
		mark("at", "When it was done", ". When it was done is kept in {}", "Set when somebody ticks it", &x.At,
			c.of(x.Items, TimeStamp, Date)),
		mark("by", "Who has done it", ". Who did it is kept in {}", "Set when somebody ticks it", &x.By, c.doers(x.Items)),
		mark("due", "Due", ". It is due on {}", "What is late is marked", &x.Due, c.of(x.Items, Date)),
		mark("order", "Order", ", sorted by {}", "A number by which they are sorted", &x.Order, c.of(x.Items, Number)),
		mark("round", "Number of the list", ". It can be begun again, counted in {}",
			"With it, a list can be begun again; earlier ones stay", &x.Round, c.of(x.Items, Number)),
		{
			Name:  "title",
			Label: "Title",
			Noun:  "the title",
			Help:  "Words above it",
			Group: "Look",
			Say:   ", titled {}",
			Value: prop.Template(&x.Title, c.Here()),
		},
	}
}

// making lists the settings of how it is made from steps.
func (x *ChecklistBlock) making(c Context) []prop.Prop {
	if x.Steps == "" && c.b != nil {
		return nil
	}
	from := c.Fields(x.Items, func(f *Field) bool { return f.Type == Link && f.Target == x.Steps })
	return []prop.Prop{
		{
			Name:  "where",
			Label: "Only steps where",
			Noun:  "which steps are taken",
			Help:  "Some of the steps; the record of the page can be named",
			Group: "Steps",
			Say:   ". It takes steps where {}",
			Value: prop.Condition(&x.Where, c.Listed(x.Steps)),
			Lost:  prop.Lost{Words: "all steps are taken"},
		},
		{
			Name:  "values",
			Label: "Set from each step",
			Noun:  "what it sets",
			Help:  "What each thing to do takes from its step",
			Group: "Steps",
			Say:   ". It sets {}",
			Value: prop.Gives(&x.Values, c.Fields(x.Items, isEntered), c.Listed(x.Steps), c.want(x.Items)),
			Lost:  prop.Lost{Words: "it is not set any more"},
		},
		{
			Name:  "from",
			Label: "Its step is kept in",
			Noun:  "the link to the step",
			Help:  "With it, steps that came later can be added to a list that was begun",
			Group: "Steps",
			Say:   ". Its step is kept in {}",
			Value: prop.One(&x.From, from),
			Lost:  prop.Lost{Words: "steps that come later are not offered any more"},
		},
	}
}

// of offers the fields of a table that are of some types.
func (c Context) of(table string, types ...FieldType) prop.To {
	return c.Fields(table, func(f *Field) bool { return slices.Contains(types, f.Type) })
}

// linkedTables offers the tables with a link to records of another.
func (c Context) linkedTables(record string) prop.To {
	if c.b == nil {
		return prop.To{What: "table"}
	}
	return offers("table", c.b.Tables, func(t *Table) (prop.Option, bool) {
		leads := slices.ContainsFunc(t.Fields, func(f Field) bool { return f.Type == Link && f.Target == record })
		return prop.Option{Value: t.ID, Words: t.Name}, record != "" && leads
	})
}

// Reset forgets the fields of another table.
func (x *ChecklistBlock) Reset(c Context, setting string) {
	if setting == "items" {
		*x = ChecklistBlock{BlockHead: x.BlockHead, Title: x.Title, Items: x.Items, Steps: x.Steps}
	}
	x.Where, x.From, x.Values = "", "", nil
	x.guess(c)
}

// Start makes tables for it, where there is none yet, and finds their fields.
func (x *ChecklistBlock) Start(c Context) {
	if c.b == nil || c.b.Table(c.record()) == nil {
		return
	}
	if c.b.Table(x.Items) == nil {
		x.make(c)
	}
	x.guess(c)
}

// guess finds the fields that are not said.
func (x *ChecklistBlock) guess(c Context) {
	if c.b == nil {
		return
	}
	t, steps := c.b.Table(x.Items), c.b.Table(x.Steps)
	if t == nil {
		return
	}
	first := t.first
	typed := func(types ...FieldType) func(*Field) bool {
		return func(f *Field) bool { return slices.Contains(types, f.Type) }
	}
	first(&x.Link, func(f *Field) bool { return f.Type == Link && f.Target == c.record() })
	first(&x.Text, typed(Text))
	first(&x.Done, typed(YesNo))
	first(&x.At, typed(TimeStamp))
	first(&x.Due, typed(Date))
	if steps == nil {
		return
	}
	first(&x.From, func(f *Field) bool { return f.Type == Link && f.Target == x.Steps })
	if len(x.Values) > 0 {
		return
	}
	for _, f := range t.Fields {
		same := find(steps.Fields, func(s *Field) bool { return s.Name == f.Name && s.Type == f.Type && s.Type.Entered() })
		if same != nil && f.ID != x.Done && f.ID != x.Link {
			x.Values = append(x.Values, prop.Given{Field: f.ID, Value: same.Key})
		}
	}
	if words := find(steps.Fields, typed(Text)); words != nil &&
		!slices.ContainsFunc(x.Values, func(g prop.Given) bool { return g.Field == x.Text }) {
		x.Values = append(x.Values, prop.Given{Field: x.Text, Value: words.Key})
	}
}

// Check refuses a checklist whose steps set what it sets by itself.
func (x *ChecklistBlock) Check(c Context) *words.Problem {
	own := []string{x.Link, x.Done, x.At, x.By, x.Round, x.From}
	for _, g := range x.Values {
		if f := c.field(x.Items, g.Field); f != nil && slices.Contains(own, g.Field) {
			return words.New("checklist-sets", "field", f.Name)
		}
	}
	return nil
}

// ChecklistSteps checks the condition and what is made of steps, at a spot.
func (b *Blueprint) ChecklistSteps(s Spot, x *ChecklistBlock, catalog *expr.Catalog) (where *expr.Checked, values map[string]*expr.Checked,
	err error,
) {
	type place struct{ steps string }
	type checked struct {
		where  *expr.Checked
		values map[string]*expr.Checked
	}
	out, err := checkedOnce(b, place{x.ID}, func() (out checked, err error) {
		scope := b.ListScope(s, x.Steps, catalog)
		if x.Where != "" {
			if out.where, err = expr.CheckCondition(x.Where, scope); err != nil {
				return out, err
			}
		}
		out.values = map[string]*expr.Checked{}
		for _, g := range x.Values {
			if out.values[g.Field], err = expr.CheckAs(g.Value, scope, b.Table(x.Items).Field(g.Field).ExprType()); err != nil {
				return out, err
			}
		}
		return out, nil
	})
	return out.where, out.values, err
}
