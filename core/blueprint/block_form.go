package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var formKind = BlockKind{
	Name:  "form",
	Label: "A form",
	Noun:  "form",
	Help:  "Adds a record, or changes the one that the page is about",
	New:   func() Block { return &FormBlock{} },
}

// FormBlock asks for the fields of a new record, or of the page's record when
// Changes is set.
type FormBlock struct {
	BlockHead
	Table   string       `json:"table"`
	Changes bool         `json:"changes,omitempty"`
	Blocks  Blocks       `json:"blocks"` // questions, and words between them
	Presets []prop.Given `json:"presets,omitempty"`
	Submit  string       `json:"submit,omitempty"`
	Opens   string       `json:"opens,omitempty"`  // words of a button that opens it
	Review  bool         `json:"review,omitempty"` // a last step shows all answers
	Then    string       `json:"then,omitempty"`   // id of the page that is shown afterwards
	Back    bool         `json:"back,omitempty"`   // afterwards people are where they came from
	// Public is the last piece of an address at which it stands by itself, and Sites the origins
	// of those, one a line, in whose pages it may.
	Public string `json:"public,omitempty"`
	Sites  string `json:"sites,omitempty"`
	Thanks string `json:"thanks,omitempty"`
	// Compare tells that people can keep answers aside, with their results, and see them beside others.
	Compare bool `json:"compare,omitempty"`
}

// Inside gives the questions, and what stands between them.
func (x *FormBlock) Inside() *Blocks { return &x.Blocks }

// Row gives the kind.
func (x *FormBlock) Row() *BlockKind {
	if x.Calculates() {
		return &calculatorKind
	}
	return &formKind
}

// Called says which block it is.
func (x *FormBlock) Called(c Context) string { return calledBlock(x.Row(), c) }

// Core is the sentence that tells it.
func (x *FormBlock) Core(Context) string {
	if x.Calculates() {
		return "A calculator asks and calculates what follows"
	}
	if x.Changes {
		return "A form changes {table|this record} and asks for {fields|what follows}"
	}
	return "A form adds to {table} and asks for {fields|what follows}"
}

// Props lists its settings.
func (x *FormBlock) Props(c Context) []prop.Prop {
	submit := prop.Text(&x.Submit)
	opens := prop.Text(&x.Opens)
	submit.Most, submit.Quoted, opens.Most, opens.Quoted = 80, true, 80, true
	out := []prop.Prop{
		{
			Name:   "table",
			Label:  "It adds to",
			Noun:   "the table",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value:  prop.One(&x.Table, c.Tables()),
			Lost:   prop.Lost{Words: "it is taken off the page", TakeOut: true},
		},
	}
	if x.Changes || c.record() != "" && c.record() == x.Table {
		out = append(
			out,
			prop.Prop{
				Name:  "changes",
				Label: "It changes the record of this page instead of adding one",
				Noun:  "what it does",
				With:  "table",
				Asked: true,
				Value: prop.Switch(&x.Changes),
			},
		)
	}
	out = append(
		out,
		prop.Prop{
			Name:  "fields",
			Label: "Questions, in this order",
			Noun:  "the questions",
			Value: prop.Asked(x.Fields(), c.Fields(x.Table, isEntered), x.Ask),
		},
		prop.Prop{
			Name:  "presets",
			Label: "Set by this form",
			Noun:  "what it sets",
			Help:  "Fields people aren’t asked for",
			Group: "Saving",
			Say:   ". It sets {}",
			Value: prop.Gives(&x.Presets, c.Fields(x.Table, isEntered), c.sending(x), c.want(x.Table)),
			Lost:  prop.Lost{Words: "the form does not set it any more"},
		},
		prop.Prop{
			Name:  "review",
			Label: "A last step shows all answers",
			Noun:  "whether its answers are shown at last",
			Help:  "People look over what they answered before they send it",
			Group: "Saving",
			Say:   ". {|A last step shows all answers}",
			Value: prop.Switch(&x.Review),
		},
		prop.Prop{
			Name:  "submit",
			Label: "The button says",
			Noun:  "the words of its button",
			Help:  "Instead of “Send”",
			Group: "Look",
			Say:   ". Its button says {}",
			Value: submit,
		},
		prop.Prop{
			Name:  "opens",
			Label: "A button that says this opens it",
			Noun:  "the words of the button that opens it",
			Help:  "The page shows the button. The form opens in a dialog",
			Group: "Look",
			Say:   ". A button that says {} opens it",
			Value: opens,
		},
		prop.Prop{
			Name:  "thanks",
			Label: "Then it says",
			Noun:  "what it says afterwards",
			Help:  "Instead of “Thank you. It is saved.” Fields of what was saved can be named",
			Group: "Afterwards",
			Say:   ". Then it says {}",
			Value: prop.Template(&x.Thanks, c.Listed(x.Table)),
		},
		prop.Prop{
			Name:  "then",
			Label: "Then it shows",
			Noun:  "what it shows afterwards",
			Help:  "Another page",
			Group: "Afterwards",
			Say:   ". Then it shows {}",
			Value: prop.One(&x.Then, c.Reachable(x.Table)).OrNone("the same page"),
			Lost:  prop.Lost{Words: "it leads to no other page any more"},
		},
		prop.Prop{
			Name:  "back",
			Label: "Then people go back to where they came from",
			Noun:  "where people are afterwards",
			Help:  "To the page before this one; where there is none, as if this were not said",
			Group: "Afterwards",
			Say:   ". {|Then people go back} to where they came from",
			Value: prop.Switch(&x.Back),
		},
	)
	out = append(out, x.publicProps(c)...)
	if x.Calculates() {
		return x.calculatorProps(c, out)
	}
	return out
}

// sending is the scope of what a form sets when it is sent, which knows the answers.
func (c Context) sending(x *FormBlock) expr.Scope {
	if c.page == nil && c.part == nil {
		return expr.Scope{}
	}
	s := c.spot()
	s.Form = x
	return c.b.ListScope(s, "", c.catalog)
}

// Check tells what is wrong with its settings together, or nil.
func (x *FormBlock) Check(c Context) *words.Problem {
	if x.Changes && c.b != nil && c.record() != x.Table {
		return words.New("changes-record", "page", c.stands())
	}
	if wrong := x.checkPublic(c); wrong != nil {
		return wrong
	}
	if wrong := x.checkCalculator(c); wrong != nil {
		return wrong
	}
	for _, g := range x.Presets {
		if f := c.field(x.Table, g.Field); f != nil &&
			x.Question(g.Field) != nil {
			return words.New("asked-and-set", "field", f.Name)
		}
	}
	return nil
}

// Start chooses questions.
func (x *FormBlock) Start(c Context) {
	t := c.tableOf(x.Table)
	if x.Blocks == nil {
		x.Blocks = Blocks{}
	}
	if t == nil || x.Calculates() || len(x.Fields()) > 0 {
		return
	}
	x.Ask(t.firstAsked(6, ""))
}

// firstAsked are questions about the first fields that can be filled in, but for one.
func (t *Table) firstAsked(most int, without string) []prop.Question {
	var out []prop.Question
	for _, f := range t.Fields {
		if f.Type.Entered() && f.Of == "" && f.ID != without && len(out) < most {
			out = append(out, prop.Question{Field: f.ID, Required: f.Required})
		}
	}
	return out
}

// Reset begins anew with the questions of another table.
func (x *FormBlock) Reset(c Context, setting string) {
	if setting == "table" {
		x.Ask(nil)
		x.Start(c)
	}
}

// Fields lists what the form asks for.
func (x *FormBlock) Fields() []prop.Question { return askedIn(x.Blocks) }

// askedIn lists the fields of one record for which blocks and sections among them ask.
func askedIn(blocks Blocks) []prop.Question {
	out := []prop.Question{}
	for _, y := range blocks {
		switch y := y.(type) {
		case *QuestionBlock:
			out = append(out, prop.Question{Field: y.Field, Required: y.Required})
		case *SectionBlock:
			out = append(out, askedIn(y.Blocks)...)
		}
	}
	return out
}

// Ask makes the form ask for fields in an order. Questions that there are keep what is said
// of them, and words between questions their places.
func (x *FormBlock) Ask(fields []prop.Question) { askIn(x.ID, &x.Blocks, fields) }

// askIn makes blocks, which stand in a form or in what goes with it, ask for fields of a record.
func askIn(id string, blocks *Blocks, fields []prop.Question) {
	var next []Block
	asked := map[string]bool{}
	for _, f := range fields {
		if asked[f.Field] {
			continue
		}
		asked[f.Field] = true
		q := questionIn(*blocks, f.Field)
		if q == nil {
			q = &QuestionBlock{BlockHead: BlockHead{ID: questionID(id, f.Field), Kind: questionKind.Name}, Field: f.Field}
		}
		q.Required = f.Required
		next = append(next, q)
	}
	*blocks = placed(*blocks, &next)
	at := blocks // what is new stands at the end of a last step
	if n := len(*blocks); n > 0 {
		if last, is := (*blocks)[n-1].(*SectionBlock); is {
			at = &last.Blocks
		}
	}
	*at = append(*at, next...)
}

// questionIn finds the question about a field among blocks and sections.
func questionIn(blocks Blocks, field string) *QuestionBlock {
	for _, y := range blocks {
		switch y := y.(type) {
		case *QuestionBlock:
			if y.Field == field {
				return y
			}
		case *SectionBlock:
			if q := questionIn(y.Blocks, field); q != nil {
				return q
			}
		}
	}
	return nil
}

// placed puts the next questions into the places of those that stand among blocks, and leaves
// out those for which there is none.
func placed(blocks Blocks, next *[]Block) Blocks {
	out := Blocks{}
	for _, y := range blocks {
		if s, is := y.(*SectionBlock); is {
			s.Blocks = placed(s.Blocks, next)
		}
		if _, asks := y.(*QuestionBlock); !asks {
			out = append(out, y)
		} else if len(*next) > 0 {
			out, *next = append(out, (*next)[0]), (*next)[1:]
		}
	}
	return out
}
