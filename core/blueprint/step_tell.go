package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var mailStepKind = StepKind{
	Name:  "mail",
	Label: "Send an email",
	Noun:  "step that sends an email",
	Help:  "To addresses from records; it goes out once the part of the run is done",
	New:   func() Step { return &MailStep{} },
}

// MailStep sends a mail. It is written in Markdown, and goes out as plain text and as HTML.
type MailStep struct {
	StepHead
	To      string `json:"to"` // a text, or a list of them
	Subject string `json:"subject"`
	Body    string `json:"body"`
	ReplyTo string `json:"replyTo,omitempty"`
	Attach  string `json:"attach,omitempty"` // files
	Each    string `json:"each,omitempty"`   // a list of records, each of which has a line
	Line    string `json:"line,omitempty"`
	// Head is a picture of the app, by its id, that stands above the text; Pictures are those of records below it.
	Head     string `json:"head,omitempty"`
	Pictures string `json:"pictures,omitempty"`
	// Leave tells that people can unsubscribe; they always can where it goes to a list.
	Leave bool `json:"leave,omitempty"`
}

// Row gives the kind.
func (*MailStep) Row() *StepKind { return &mailStepKind }

// Called says which step it is.
func (*MailStep) Called(c Context) string { return calledStep(&mailStepKind, c) }

// Core is the sentence that tells it.
func (x *MailStep) Core(c Context) string {
	if x.toMany(c) {
		return "Email {to} {subject}: {body}. People can unsubscribe"
	}
	return "Email {to} {subject}: {body}"
}

// toMany tells whether it goes to a list of addresses.
func (x *MailStep) toMany(c Context) bool {
	if c.flow == nil {
		return false
	}
	to, err := expr.Check(x.To, c.Flows())
	return err == nil && to.Type().Many
}

// Props lists its settings.
func (x *MailStep) Props(c Context) []prop.Prop {
	subject, body := flowText(&x.Subject, c, "subject", "Subject", "the subject"), flowText(&x.Body, c, "body", "Text", "the text")
	body.Help = "Markdown, with values in double braces"
	leave := ". {|People can unsubscribe}"
	if x.toMany(c) { // which is said already
		leave = "{|}"
	}
	out := []prop.Prop{
		{
			Name:  "to",
			Label: "To",
			Noun:  "to whom it goes",
			Must:  true,
			Asked: true,
			Hint:  "no-address",
			Value: prop.Expression(&x.To, c.Flows(), expr.Type{}).Offering(c.addressOffers()),
			Lost:  stepGone,
		},
		subject, body,
		{
			Name:   "each",
			Label:  "A line for each of",
			Noun:   "for what it has lines",
			Help:   "A list of records, such as the lines of an invoice. They come below the text",
			Group:  "Lines",
			Say:    ". It has a line for each of {}",
			Resets: true,
			Value:  prop.Expression(&x.Each, c.Flows(), expr.Type{}).Offering(c.recordOffers(true)),
			Lost:   prop.Lost{Do: func() string { x.Each, x.Line = "", ""; return words.Say("flow-no-lines", nil) }},
		},
		{
			Name:  "head",
			Label: "Picture above the text",
			Noun:  "the picture above the text",
			Help:  "A picture of the app, such as its logo",
			Group: "Pictures",
			Say:   ". {|A picture} stands above the text",
			Value: lookPicture(&x.Head, "a picture"),
		},
		{
			Name:  "pictures",
			Label: "Pictures below the text",
			Noun:  "the pictures below the text",
			Help:  "Those that a field of a record holds. They come small",
			Group: "Pictures",
			Say:   ". Below the text it shows {}",
			Value: prop.Expression(&x.Pictures, c.Flows(), expr.Type{Kind: expr.File, Many: true}).Offering(c.fileOffers()),
			Lost:  prop.Lost{Words: "it shows no pictures of records any more"},
		},
		{
			Name:  "replyTo",
			Label: "Answers go to",
			Noun:  "where answers go",
			Help:  "To the sender unless you say",
			Group: "Sending",
			Say:   ". Answers go to {}",
			Value: prop.Expression(&x.ReplyTo, c.Flows(), expr.Type{Kind: expr.Text}),
			Lost:  prop.Lost{Words: "answers go to the sender"},
		},
		{
			Name:  "attach",
			Label: "Attached files",
			Noun:  "what is attached",
			Help:  "The files that a field of a record holds",
			Group: "Sending",
			Say:   ". Attached: {}",
			Value: prop.Expression(&x.Attach, c.Flows(), expr.Type{Kind: expr.File, Many: true}).Offering(c.fileOffers()),
			Lost:  prop.Lost{Words: "nothing is attached any more"},
		},
		{
			Name:  "leave",
			Label: "People can unsubscribe",
			Noun:  "whether people can unsubscribe",
			Help:  "A link at its end. Emails to a list of addresses always have it",
			Group: "Sending",
			Say:   leave,
			Value: prop.Switch(&x.Leave),
		},
	}
	if x.Each == "" && c.b != nil {
		return out
	}
	line := flowText(&x.Line, c, "line", "The line", "the line")
	line.Help, line.Group, line.Say = "Fields of the record of the list by themselves, and “this” for the record in hand", "Lines", ": {}"
	line.Must, line.Asked = c.b != nil, false
	if t := c.tableOfRecord(x.Each, true); t != nil {
		line.Value = prop.Template(&x.Line, c.Among(t.ID))
	}
	at := slices.IndexFunc(out, func(p prop.Prop) bool { return p.Name == "each" }) + 1
	return slices.Insert(out, at, line)
}

// Reset gives the lines of other records another text: the first field of each.
func (x *MailStep) Reset(c Context, setting string) {
	if setting != "each" {
		return
	}
	x.Line = ""
	if t := c.tableOfRecord(x.Each, true); t != nil && len(t.Fields) > 0 {
		x.Line = "{{" + t.Fields[0].Key + "}}"
	}
}

// Check refuses what holds no addresses, and lines for what is no list.
func (x *MailStep) Check(c Context) *words.Problem {
	if c.flow == nil {
		return nil
	}
	if x.Each != "" && c.tableOfRecord(x.Each, true) == nil {
		return words.New("flow-list")
	}
	if to, err := expr.Check(x.To, c.Flows()); err == nil && to.Type().Kind != expr.Text {
		return words.New("flow-address")
	}
	return nil
}

// fileOffers offers the fields that hold files of the records in hand.
func (c Context) fileOffers() func(func(prop.Option) bool) {
	return func(yield func(prop.Option) bool) {
		for o := range c.recordOffers(false) {
			t := c.tableOfRecord(o.Value, false)
			if t == nil {
				continue
			}
			prefix := o.Value + "."
			if o.Value == "this" {
				prefix = ""
			}
			for _, f := range t.Fields {
				if f.Type.Filed() && !yield(prop.Option{Value: prefix + f.Key}) {
					return
				}
			}
		}
	}
}

// addressOffers offers the addresses of records in hand, and of those to which they lead.
func (c Context) addressOffers() func(func(prop.Option) bool) {
	return func(yield func(prop.Option) bool) {
		if c.flow == nil || c.b == nil {
			return
		}
		s := c.Flows()
		if s.Me != "" && !yield(prop.Option{Value: "me.email"}) {
			return
		}
		more := true
		addresses := func(prefix, table string, deep bool) {
			t := c.tableOf(table)
			if t == nil {
				return
			}
			for _, f := range t.Fields {
				if f.Type == Email && more {
					more = yield(prop.Option{Value: prefix + f.Key})
				}
			}
			for _, f := range t.Fields {
				inner := c.tableOf(f.Target)
				if f.Type != Link || !deep || inner == nil {
					continue
				}
				for _, g := range inner.Fields {
					if g.Type == Email && more {
						more = yield(prop.Option{Value: prefix + f.Key + "." + g.Key})
					}
				}
			}
		}
		addresses("", s.Row, true)
		if s.Made == nil {
			return
		}
		for _, f := range s.Made.Fields {
			if f.Type.Kind == expr.Record && more {
				addresses("made."+f.Key+".", f.Type.Table, true)
			}
		}
	}
}

var messageStepKind = StepKind{
	Name:  "message",
	Label: "Show a message",
	Noun:  "step that shows a message",
	Help:  "To the person who pressed the button, or sent the form",
	New:   func() Step { return &MessageStep{} },
}

// MessageStep shows words to whoever set the workflow off and still looks.
type MessageStep struct {
	StepHead
	Text string `json:"text"`
	Tone Tone   `json:"tone,omitempty"`
}

// Row gives the kind.
func (*MessageStep) Row() *StepKind { return &messageStepKind }

// Called says which step it is.
func (*MessageStep) Called(c Context) string { return calledStep(&messageStepKind, c) }

// Core is the sentence that tells it.
func (*MessageStep) Core(Context) string { return "Show {text}" }

// Props lists its settings.
func (x *MessageStep) Props(c Context) []prop.Prop {
	return []prop.Prop{flowText(&x.Text, c, "text", "Show", "the message"), {
		Name:  "tone",
		Label: "Tone",
		Noun:  "the tone",
		Help:  "A colour of the look that says how it is meant",
		Group: "Look",
		Say:   ". Its tone is {}",
		Value: prop.Pick(&x.Tone, toneOptions()...),
	}}
}

var openStepKind = StepKind{
	Name:  "open",
	Label: "Open a page",
	Noun:  "step that opens a page",
	Help:  "For the person who pressed the button, or sent the form",
	New:   func() Step { return &OpenStep{} },
}

// OpenStep shows a page to whoever set the workflow off and still looks. The last one counts.
type OpenStep struct {
	StepHead
	Page   string `json:"page"` // id
	Record string `json:"record,omitempty"`
}

// Row gives the kind.
func (*OpenStep) Row() *StepKind { return &openStepKind }

// Called says which step it is.
func (*OpenStep) Called(c Context) string { return calledStep(&openStepKind, c) }

// Core is the sentence that tells it.
func (x *OpenStep) Core(Context) string {
	if x.Record != "" {
		return "Open {page} for {record}"
	}
	return "Open {page}"
}

// Props lists its settings.
func (x *OpenStep) Props(c Context) []prop.Prop {
	out := []prop.Prop{{
		Name:   "page",
		Label:  "Open",
		Noun:   "the page",
		Must:   true,
		Asked:  true,
		Resets: true,
		Value:  prop.One(&x.Page, c.Pages(func(*Page) bool { return true })),
		Lost:   stepGone,
	}}
	if c.b == nil {
		return append(out, x.recordProp(c))
	}
	if p := c.b.Page(x.Page); p != nil && p.Record != "" {
		out = append(out, x.recordProp(c))
	}
	return out
}

func (x *OpenStep) recordProp(c Context) prop.Prop {
	return prop.Prop{
		Name:  "record",
		Label: "For the record",
		Noun:  "the record that it shows",
		Must:  c.b != nil,
		Asked: true,
		Hint:  "no-record",
		Value: prop.Expression(&x.Record, c.Flows(), expr.Type{}).Offering(c.recordOffers(false)),
		Lost:  stepGone,
	}
}

// Check refuses a record of another table than the page's.
func (x *OpenStep) Check(c Context) *words.Problem {
	if c.flow == nil {
		return nil
	}
	p := c.b.Page(x.Page)
	if p == nil || p.Record == "" {
		return nil
	}
	if t := c.tableOfRecord(x.Record, false); t == nil || t.ID != p.Record {
		return words.New("flow-page-record", "page", p.Name)
	}
	return nil
}
