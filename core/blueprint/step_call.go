package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
)

var callStepKind = StepKind{
	Name:  "call",
	Label: "Call a service",
	Noun:  "step that calls a service",
	Help:  "Once what was done so far is kept; what it answers can be used by later steps",
	New:   func() Step { return &CallStep{} },
}

// CallStep calls a service. It ends a part of the run: the next one begins with the answer.
type CallStep struct {
	StepHead
	Call   string       `json:"call"` // id
	Values []prop.Given `json:"values,omitempty"`
	// Goes tells that the run goes on, without an answer, where there is none at last.
	Goes bool `json:"goes,omitempty"`
}

// Row gives the kind.
func (*CallStep) Row() *StepKind { return &callStepKind }

// Called says which step it is.
func (*CallStep) Called(c Context) string { return calledStep(&callStepKind, c) }

// Core is the sentence that tells it.
func (*CallStep) Core(Context) string { return "Ask a service for {call}" }

// Props lists its settings.
func (x *CallStep) Props(c Context) []prop.Prop {
	call := x.of(c)
	return []prop.Prop{
		{
			Name:   "call",
			Label:  "Ask for",
			Noun:   "the call",
			Must:   true,
			Asked:  true,
			Resets: true,
			Hint:   "no-call",
			Value:  prop.One(&x.Call, c.Calls()),
			Lost:   stepGone,
		},
		call.sentProp(&x.Values, c.Flows()),
		{
			Name:  "goes",
			Label: "Go on without an answer where there is none",
			Noun:  "whether it goes on without an answer",
			Help:  "Otherwise the run fails, once it was tried again and again, and can be tried again from here",
			Group: "Failing",
			Say:   ". {|It goes on without an answer} where there is none",
			Value: prop.Switch(&x.Goes),
		},
	}
}

// of gives its call, or one that sends and answers nothing.
func (x *CallStep) of(c Context) *Call {
	if c.b != nil {
		if _, call := c.b.CallOf(x.Call); call != nil {
			return call
		}
	}
	return &Call{}
}

// Start gives it a name.
func (x *CallStep) Start(c Context) { x.begin(c, x) }

// Rename gives what it makes another name; expressions follow.
func (x *CallStep) Rename(c Context, name string) error { return x.rename(c, name) }

// Makes gives the type of what it makes: what was taken from the answer, or a list of that.
func (x *CallStep) Makes(c Context) expr.Type {
	call := x.of(c)
	if len(call.Takes) == 0 {
		return expr.Type{}
	}
	return expr.Type{Kind: expr.Record, Table: call.ID, Many: call.Rows != ""}
}

func (x *CallStep) made(c Context) string {
	if name := x.of(c).Name; name != "" {
		return lower(name)
	}
	return "answer"
}

// Calls offers the calls of all services.
func (c Context) Calls() prop.To {
	if c.b == nil {
		return prop.To{What: "call"}
	}
	var all []Call
	for _, x := range c.b.Connections {
		all = append(all, x.Calls...)
	}
	return offers("call", all, func(x *Call) (prop.Option, bool) { return prop.Option{Value: x.ID, Words: x.Name}, true })
}
