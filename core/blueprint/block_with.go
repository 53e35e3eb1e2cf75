package blueprint

import (
	"slices"

	"pinegate/core/prop"
	"pinegate/core/words"
)

var withKind = BlockKind{
	Name:  "with",
	Label: "Another record that goes with it",
	Noun:  "record that goes with it",
	Help:  "A linked record, or several as lines, saved with the form’s own: all or none",
	Forms: OnlyInForms,
	New:   func() Block { return &WithBlock{} },
}

// WithBlock asks for a record that is linked to that of its form and saved with it: the one to
// which a field of the form's table leads, or one or more of another table that lead to the
// form's record.
type WithBlock struct {
	BlockHead
	Link   string `json:"link"`            // id of the field that links them, of either table
	Title  string `json:"title,omitempty"` // with placeholders
	Find   string `json:"find,omitempty"`  // id of the field by whose value one is found that is there already
	Lines  bool   `json:"lines,omitempty"` // several, each a line of a small table
	Least  int    `json:"least,omitempty"` // lines; none unless something is said
	Most   int    `json:"most,omitempty"`  // lines; [MostLines] unless something is said
	Blocks Blocks `json:"blocks"`          // questions, and words between them
	// Presets are what the server sets in it.
	Presets []prop.Given `json:"presets,omitempty"`
}

// MostLines is how many lines can be sent with a form where nothing is said.
const MostLines = 100

// Row gives the kind.
func (*WithBlock) Row() *BlockKind { return &withKind }

// Inside gives what stands in it.
func (x *WithBlock) Inside() *Blocks { return &x.Blocks }

// Leads tells whether a field of the form's table leads to the record; else a field of its own
// table leads to the form's record.
func (x *WithBlock) Leads(b *Blueprint, form *FormBlock) bool {
	t := b.Table(form.Table)
	return t != nil && t.Field(x.Link) != nil
}

// Table gives the table of its record; nil where that is not there any more.
func (x *WithBlock) Table(b *Blueprint, form *FormBlock) *Table {
	if t := b.Table(form.Table); t != nil {
		if f := t.Field(x.Link); f != nil {
			return b.Table(f.Target)
		}
	}
	t, _ := b.fieldAt(x.Link)
	return t
}

// MostSent gives how many lines can be sent.
func (x *WithBlock) MostSent() int {
	if x.Most == 0 {
		return MostLines
	}
	return x.Most
}

// fieldAt finds a field in whichever table it is.
func (b *Blueprint) fieldAt(id string) (*Table, *Field) {
	for i := range b.Tables {
		if f := b.Tables[i].Field(id); f != nil {
			return &b.Tables[i], f
		}
	}
	return nil, nil
}

// Named gives the id by which expressions have it among the answers.
func (x *WithBlock) Named(b *Blueprint, form *FormBlock) string {
	id, _, _ := x.answer(b, form)
	return id
}

// answer gives how expressions name the record: by the link that leads to it, or by its table.
func (x *WithBlock) answer(b *Blueprint, form *FormBlock) (id, key, name string) {
	t := x.Table(b, form)
	if t == nil {
		return "", "", ""
	}
	if x.Leads(b, form) {
		f := b.Table(form.Table).Field(x.Link)
		return f.ID, f.Key, f.Name
	}
	return t.ID, t.Key, t.Name
}

func (c Context) withTable(x *WithBlock) *Table {
	if c.form == nil || c.b == nil {
		return nil
	}
	return x.Table(c.b, c.form)
}

// Called says which block it is.
func (x *WithBlock) Called(c Context) string {
	if t := c.withTable(x); t != nil {
		return words.Say("called-with", words.Args{"table": t.Name, "in": c.stands()})
	}
	return calledBlock(&withKind, c)
}

// Core is the sentence that tells it.
func (x *WithBlock) Core(c Context) string {
	switch {
	case c.form != nil && c.b != nil && x.Leads(c.b, c.form):
		return "With it goes its {link} and asks for {fields|what follows}"
	case x.Lines:
		return "With it go lines of {link} and ask for {fields|what follows}"
	}
	return "With it goes a record of {link} and asks for {fields|what follows}"
}

// withLinks offers the fields that link records to those of the form, either way.
func (c Context) withLinks() prop.To {
	if c.form == nil || c.b == nil {
		return prop.To{What: "field"}
	}
	return prop.To{What: "field", All: func(yield func(prop.Option) bool) {
		for i := range c.b.Tables {
			t := &c.b.Tables[i]
			for j := range t.Fields {
				f := &t.Fields[j]
				o := prop.Option{Value: f.ID, Words: f.Name}
				switch {
				case f.Type != Link || t.ID != c.form.Table && f.Target != c.form.Table:
					continue
				case t.ID != c.form.Table:
					o.Words = words.Say("with-back", words.Args{"table": t.Name, "field": f.Name})
				}
				if !yield(o) {
					return
				}
			}
		}
	}}
}

// Props lists its settings.
func (x *WithBlock) Props(c Context) []prop.Prop {
	table, leads := "", false
	if t := c.withTable(x); t != nil {
		table, leads = t.ID, x.Leads(c.b, c.form)
	}
	out := []prop.Prop{{
		Name:   "link",
		Label:  "The record",
		Noun:   "which record it is",
		Help:   "A record to which this one leads, or one that leads to it",
		Must:   true,
		Asked:  true,
		Resets: true,
		Value:  prop.One(&x.Link, c.withLinks()),
		Lost:   prop.Lost{Words: "it is not asked for any more", TakeOut: true},
	}}
	if leads || x.Find != "" {
		out = append(out, prop.Prop{
			Name:  "find",
			Label: "Found by",
			Noun:  "by what it is found",
			Help:  "One that is there already is linked and stays as it is, and nobody learns that it was there. Otherwise it is added",
			Group: "Saving",
			Say:   "; one with the same {} is linked instead",
			Value: prop.One(&x.Find, c.Fields(table, func(f *Field) bool { return f.Type.Row().Finding })).OrNone("nothing"),
		})
	}
	if !leads {
		out = append(out, prop.Prop{
			Name:   "lines",
			Label:  "Several, as lines",
			Noun:   "whether they are lines",
			Help:   "People add and remove lines of a small table",
			Group:  "Look",
			Resets: true,
			With:   "link",
			Value:  prop.Switch(&x.Lines),
		})
	}
	if x.Lines {
		out = append(out, prop.Prop{
			Name:  "least",
			Label: "At least so many",
			Noun:  "how many there are at least",
			Help:  "None unless you say",
			Group: "Answering",
			Say:   ", at least {}",
			Value: prop.Number(&x.Least, 1, MostLines),
		}, prop.Prop{
			Name:  "most",
			Label: "At most so many",
			Noun:  "how many there are at most",
			Help:  "100 unless you say",
			Group: "Answering",
			Say:   ", at most {}",
			Value: prop.Number(&x.Most, 1, MostLines),
		})
	}
	return append(out, prop.Prop{
		Name:  "fields",
		Label: "Questions, in this order",
		Noun:  "the questions",
		Value: prop.Asked(x.Fields(), c.Fields(table, func(f *Field) bool { return f.Type.Entered() && f.ID != x.Link }), x.Ask),
	}, prop.Prop{
		Name:  "title",
		Label: "Title",
		Noun:  "the title",
		Help:  "Words above its questions",
		Group: "Look",
		Say:   ", titled {}",
		Value: prop.Template(&x.Title, c.above(x)),
	}, prop.Prop{
		Name:  "presets",
		Label: "Set by this form",
		Noun:  "what it sets",
		Help:  "Fields people aren’t asked for",
		Group: "Saving",
		Say:   ". It sets {}",
		Value: prop.Gives(&x.Presets, c.Fields(table, isEntered), c.Beforehand(), c.want(table)),
		Lost:  prop.Lost{Words: "the form does not set it any more"},
	})
}

// Start chooses questions.
func (x *WithBlock) Start(c Context) {
	if x.Blocks == nil {
		x.Blocks = Blocks{}
	}
	t := c.withTable(x)
	if t == nil || len(x.Fields()) > 0 {
		return
	}
	x.Ask(t.firstAsked(4, x.Link))
}

// Reset begins anew with the questions of another table.
func (x *WithBlock) Reset(c Context, setting string) {
	if !x.Lines {
		x.Least, x.Most = 0, 0
	}
	if setting != "link" {
		return
	}
	x.Find, x.Presets = "", nil
	if c.form != nil && c.b != nil && x.Leads(c.b, c.form) {
		x.Lines, x.Least, x.Most = false, 0, 0
	}
	x.Ask(nil)
	x.Start(c)
}

// Fields lists what it asks for.
func (x *WithBlock) Fields() []prop.Question { return askedIn(x.Blocks) }

// Ask makes it ask for fields in an order.
func (x *WithBlock) Ask(fields []prop.Question) { askIn(x.ID, &x.Blocks, fields) }

// Check refuses what cannot go with a form.
func (x *WithBlock) Check(c Context) *words.Problem {
	t := c.withTable(x)
	if t == nil {
		return nil
	}
	if _, key, name := x.answer(c.b, c.form); slices.Contains(c.otherKeys(x), key) {
		return words.New("asked-alike", "name", name)
	}
	for _, g := range c.form.Presets {
		if g.Field == x.Link {
			return words.New("asked-and-set", "field", t.Name)
		}
	}
	for _, g := range x.Presets {
		asked := slices.ContainsFunc(x.Fields(), func(q prop.Question) bool { return q.Field == g.Field })
		if f := t.Field(g.Field); f != nil && (asked || f.ID == x.Link) {
			return words.New("asked-and-set", "field", f.Name)
		}
	}
	if x.Most != 0 && x.Least > x.Most {
		return words.New("with-least", "least", x.Least, "most", x.Most)
	}
	return nil
}
