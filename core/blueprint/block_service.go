package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var serviceKind = BlockKind{
	Name:  "service",
	Label: "Rows from a service",
	Noun:  "list of a service",
	Help:  "What a service elsewhere answers, such as tides or prices",
	New:   func() Block { return &ServiceBlock{} },
}

// ServiceBlock shows what a service answers. The server asks it, and keeps the answer for a time, so
// that it is asked seldom however many people look.
type ServiceBlock struct {
	BlockHead
	Call    string       `json:"call"` // id of one that only asks
	Values  []prop.Given `json:"values,omitempty"`
	Columns []string     `json:"columns,omitempty"` // ids of what is taken; all for none
	Minutes int          `json:"minutes,omitempty"` // for how long an answer is kept; [ServiceMinutes] unless something is said
	Empty   string       `json:"empty,omitempty"`
}

// ServiceMinutes is for how long an answer is kept unless something else is said.
const ServiceMinutes = 15

// Row gives the kind.
func (*ServiceBlock) Row() *BlockKind { return &serviceKind }

// Called says which block it is.
func (*ServiceBlock) Called(c Context) string { return calledBlock(&serviceKind, c) }

// Core is the sentence that tells it.
func (*ServiceBlock) Core(Context) string { return "What a service answers to {call}" }

// Props lists its settings.
func (x *ServiceBlock) Props(c Context) []prop.Prop {
	call := (&CallStep{Call: x.Call}).of(c)
	empty := prop.Text(&x.Empty)
	empty.Most, empty.Quoted = 200, true
	return []prop.Prop{
		{
			Name:   "call",
			Label:  "What is asked for",
			Noun:   "the call",
			Must:   true,
			Asked:  true,
			Resets: true,
			Hint:   "no-call",
			Value:  prop.One(&x.Call, c.asking()),
			Lost:   prop.Lost{Words: "it is taken off the page", TakeOut: true},
		},
		call.sentProp(&x.Values, c.Here()),
		{
			Name:  "columns",
			Label: "Columns",
			Noun:  "the columns",
			Help:  "All that is taken from the answer unless you say",
			Group: "Columns",
			Say:   ", with {}",
			Value: prop.Many(&x.Columns, call.taken()),
			Lost:  prop.Lost{Words: "the column is not shown any more"},
		},
		{
			Name:  "minutes",
			Label: "Minutes for which an answer is kept",
			Noun:  "for how long an answer is kept",
			Help:  "15 unless you say: until then the service is not asked again",
			Group: "Keeping",
			Say:   ", kept for {} minutes",
			Value: prop.Number(&x.Minutes, 1, 24*60),
		},
		{
			Name:  "empty",
			Label: "Where there is nothing, say",
			Noun:  "what is said where there is nothing",
			Group: "Words",
			Say:   ". Where there is nothing it says {}",
			Value: empty,
		},
	}
}

// asking offers the calls that only ask.
func (c Context) asking() prop.To {
	if c.b == nil {
		return prop.To{What: "call"}
	}
	var all []Call
	for _, x := range c.b.Connections {
		all = append(all, x.Calls...)
	}
	return offers("call", all, func(x *Call) (prop.Option, bool) {
		return prop.Option{Value: x.ID, Words: x.Name}, x.Method == GetMethod
	})
}

// taken offers what is taken from an answer.
func (x *Call) taken() prop.To {
	return offers("value", x.Takes, func(t *Taken) (prop.Option, bool) { return prop.Option{Value: t.ID, Words: t.Name}, true })
}

// Shown gives what of an answer is shown, in its order.
func (x *ServiceBlock) Shown(call *Call) []Taken {
	if len(x.Columns) == 0 {
		return call.Takes
	}
	var out []Taken
	for _, id := range x.Columns {
		if t := find(call.Takes, func(t *Taken) bool { return t.ID == id }); t != nil {
			out = append(out, *t)
		}
	}
	return out
}

// Sends checks what a block sends to a service, by the ids of what is sent.
func (b *Blueprint) Sends(s Spot, x *ServiceBlock, catalog *expr.Catalog) (map[string]*expr.Checked, error) {
	_, call := b.CallOf(x.Call)
	if call == nil {
		return nil, words.New("gone", "thing", "call")
	}
	return b.given(s, x.ID, x.Values, call.want, catalog)
}
