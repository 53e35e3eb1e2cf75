package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var incomingKind = TriggerKind{
	Name:  "incoming",
	Label: "A call comes in from elsewhere",
	Help:  "Another service sends JSON to an address that only you and it know",
	New:   func() Trigger { return &IncomingTrigger{} },
}

// IncomingTrigger starts a workflow for each call that comes in from elsewhere, over HTTP. What is
// taken of it are answers.
type IncomingTrigger struct {
	TriggerHead
	Takes  []Taken `json:"takes,omitempty"`
	Sample string  `json:"sample,omitempty"` // of what comes in, as JSON
	// Once is where that is in a call by which it is told from others, so that none counts twice: a
	// JSON pointer; "" for all of it.
	Once string `json:"once,omitempty"`
	// Signed names the header with which a call is signed: the HMAC (RFC 2104) of its body with SHA-256,
	// in hexadecimal digits. "" for none.
	Signed string `json:"signed,omitempty"`
}

// Row gives the kind.
func (*IncomingTrigger) Row() *TriggerKind { return &incomingKind }

// Core is the sentence that tells it.
func (*IncomingTrigger) Core(Context) string { return "Starts when a call comes in from elsewhere" }

// Props lists its settings.
func (x *IncomingTrigger) Props(c Context) []prop.Prop {
	once, signed, sample := prop.Text(&x.Once), prop.Text(&x.Signed), prop.Words(&x.Sample)
	once.Most, once.Right = 200, pointerRight
	signed.Most, signed.Right = 100, tokenRight
	sample.Most, sample.Right = MostSample, sampleRight
	say := ". {|A sample} of it is kept"
	if c.b != nil && x.Sample == "" {
		say = ""
	}
	return []prop.Prop{
		{
			Name:  "once",
			Label: "What tells one call from another, such as /id",
			Noun:  "what tells calls apart",
			Help:  "A call that comes again with the same counts once. Otherwise the same call counts once in ten minutes",
			Group: "Safety",
			Asked: true,
			Say:   ". Each call has its own {}",
			Value: once,
		},
		{
			Name:  "signed",
			Label: "The header with its signature, such as X-Signature",
			Noun:  "the header of the signature",
			Help:  "The HMAC of its body with SHA-256, in hexadecimal digits. Calls without the right one are refused",
			Group: "Safety",
			Asked: true,
			Say:   ". Calls are signed in the header {}",
			Value: signed,
		},
		{
			Name:  "sample",
			Label: "A sample of what comes in, as JSON",
			Noun:  "the sample",
			Help:  "Click the values to use in it. Rehearsals start from it",
			Group: "What comes in",
			Say:   say,
			Value: sample,
		},
		x.whenProp(c, "Only when", ". It starts only when {}"),
	}
}

// Call is the trigger as a call whose answer is what comes in.
func (x *IncomingTrigger) Call() *Call { return &Call{Takes: x.Takes, Sample: x.Sample} }

func (x *IncomingTrigger) scope(c Context) expr.Scope {
	out := expr.Scope{Catalog: c.catalog}
	var fields []*expr.Field
	for i := range x.Takes {
		fields = append(fields, x.Takes[i].field())
	}
	if len(fields) > 0 {
		out.Answers = expr.Named(expr.AnswersTable, words.Say("flow-incoming", nil), fields)
	}
	return out
}

// Incoming gives what starts the workflow where that is a call that comes in, or nil.
func (w *Workflow) Incoming() *IncomingTrigger {
	x, _ := w.Starts.Trigger.(*IncomingTrigger)
	return x
}

// takesOf gives the list of what is taken in a call or by a workflow with the id, and the id of the
// table by which expressions know it; nil for none.
func (b *Blueprint) takesOf(id string) (list *[]Taken, table string) {
	if _, call := b.CallOf(id); call != nil {
		return &call.Takes, id
	}
	if w := b.Workflow(id); w != nil && w.Incoming() != nil {
		return &w.Incoming().Takes, expr.AnswersTable
	}
	return nil, ""
}

// takenKey makes a key by which nothing else of a list is known.
func takenKey(list []Taken, name, self string) string {
	return keyFor(name, "value", func(k string) bool {
		return slices.ContainsFunc(list, func(t Taken) bool { return t.Key == k && t.ID != self })
	})
}

// takenPlaces walks what a workflow takes of a call that comes in.
func takenPlaces(c Context, yield func(Place) bool) bool {
	x := c.flow.Incoming()
	return x == nil || each(&x.Takes, func(t *Taken) Place {
		return Place{ID: t.ID, What: "taken", In: c.flow.ID, Thing: t, Context: c}
	}, yield)
}
