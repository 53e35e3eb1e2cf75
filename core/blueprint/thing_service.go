package blueprint

import (
	"encoding/json"
	"net/url"
	"regexp"
	"slices"
	"strings"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Connection is a service elsewhere that the app calls over HTTP. What it is shown as a proof of who
// calls is no part of the blueprint: that is kept by the server, sealed.
type Connection struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Address string `json:"address"` // an http or https URL, in front of the paths of calls
	Proof   Proof  `json:"proof,omitempty"`
	// ProofName names the header or the parameter that holds the secret, or is the user's name.
	ProofName string `json:"proofName,omitempty"`
	Seconds   int    `json:"seconds,omitempty"` // for how long an answer is waited for; [CallSeconds] unless something is said
	Real      bool   `json:"real,omitempty"`    // it is called in the draft as well
	Calls     []Call `json:"calls,omitempty"`
}

// Proof is how a service is shown who calls.
type Proof string

// The ways to prove it.
const (
	NoProof       Proof = ""
	HeaderProof   Proof = "header"
	QueryProof    Proof = "query"
	PasswordProof Proof = "password" // RFC 7617
)

// CallSeconds is for how long an answer is waited for unless something else is said.
const CallSeconds = 10

// Call is something that a service can be asked.
type Call struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Method Method  `json:"method"`
	Path   string  `json:"path"` // with {as} for what is sent in it
	Sends  []Sent  `json:"sends,omitempty"`
	Rows   string  `json:"rows,omitempty"` // where the list of rows is in the answer; "" where the answer is about one thing
	Takes  []Taken `json:"takes,omitempty"`
	Sample string  `json:"sample,omitempty"` // an answer, as JSON: it stands for real ones in drafts and rehearsals
}

// Method is a method of HTTP.
type Method string

// The methods of calls.
const (
	GetMethod    Method = "GET"
	PostMethod   Method = "POST"
	PutMethod    Method = "PUT"
	PatchMethod  Method = "PATCH"
	DeleteMethod Method = "DELETE"
)

// Bodied tells whether what is sent goes into the body, as JSON, and not into the address.
func (m Method) Bodied() bool { return m == PostMethod || m == PutMethod || m == PatchMethod }

// Sent is a value that goes out with a call.
type Sent struct {
	ID   string    `json:"id"`
	Name string    `json:"name"`
	Type FieldType `json:"type"`
	As   string    `json:"as"` // its name there; in JSON, with dots for what is inside of something
}

// Taken is a value that is taken from an answer.
type Taken struct {
	ID   string    `json:"id"`
	Key  string    `json:"key"`
	Name string    `json:"name"`
	Type FieldType `json:"type"`
	From string    `json:"from"` // where it is in the answer, or in a row of it: a JSON pointer, RFC 6901
}

// Connection gives the connection with the id, or nil.
func (b *Blueprint) Connection(id string) *Connection {
	return find(b.Connections, func(x *Connection) bool { return x.ID == id })
}

// CallOf gives the call with the id, and the connection that it belongs to; nil for none.
func (b *Blueprint) CallOf(id string) (*Connection, *Call) {
	for i := range b.Connections {
		x := &b.Connections[i]
		if call := find(x.Calls, func(c *Call) bool { return c.ID == id }); call != nil {
			return x, call
		}
	}
	return nil, nil
}

// answers is how expressions see what calls answer, by their ids.
func (b *Blueprint) answers() map[string]*expr.Table {
	out := map[string]*expr.Table{}
	for i := range b.Connections {
		for j := range b.Connections[i].Calls {
			call := &b.Connections[i].Calls[j]
			var fields []*expr.Field
			for k := range call.Takes {
				fields = append(fields, call.Takes[k].field())
			}
			out[call.ID] = expr.Named(call.ID, words.Say("flow-answer", words.Args{"call": call.Name}), fields)
		}
	}
	return out
}

func (b *Blueprint) servicePlaces(c Context, yield func(Place) bool) bool {
	return each(&b.Connections, func(x *Connection) Place {
		return Place{ID: x.ID, What: "connection", Thing: x, Context: c}
	}, func(p Place) bool {
		x := p.Thing.(*Connection)
		return yield(p) && each(&x.Calls, func(call *Call) Place {
			in := c
			in.call = call
			return Place{ID: call.ID, What: "call", In: x.ID, Thing: call, Context: in}
		}, func(p Place) bool {
			call := p.Context.call
			return yield(p) &&
				each(&call.Sends, func(s *Sent) Place {
					return Place{ID: s.ID, What: "sent", In: call.ID, Thing: s, Context: p.Context}
				}, yield) &&
				each(&call.Takes, func(t *Taken) Place {
					return Place{ID: t.ID, What: "taken", In: call.ID, Thing: t, Context: p.Context}
				}, yield)
		})
	})
}

// Called says which service it is.
func (x *Connection) Called(Context) string {
	return words.Say("called-connection", words.Args{"name": x.Name})
}

// Core is the sentence that tells it.
func (x *Connection) Core(Context) string {
	switch x.Proof {
	case HeaderProof, QueryProof, PasswordProof:
		return "A service at {address}, which {proof} {proofName}"
	}
	return "A service at {address}, which {proof}"
}

// Props lists its settings.
func (x *Connection) Props(Context) []prop.Prop {
	address := prop.Text(&x.Address)
	address.Most, address.Right = 500, serviceRight
	out := []prop.Prop{
		{Name: "name", Label: "Name, such as Harbour office", Noun: "the name", Must: true, Asked: true, Value: named(&x.Name)},
		{
			Name:  "address",
			Label: "Address, such as https://harbour.example/api",
			Noun:  "the address",
			Must:  true,
			Asked: true,
			Value: address,
		},
		{
			Name:   "proof",
			Label:  "How it knows who calls",
			Noun:   "how it knows who calls",
			Asked:  true,
			Resets: true,
			Value: prop.Pick(&x.Proof, prop.Option{Value: string(NoProof), Words: "asks for no secret"},
				prop.Option{Value: string(HeaderProof), Words: "is shown a secret in the header", Label: "By a secret in a header"},
				prop.Option{Value: string(QueryProof), Words: "is shown a secret in the address, as", Label: "By a secret in the address"},
				prop.Option{Value: string(PasswordProof), Words: "is shown a password, of the user",
					Label: "By a user name and a password"}),
		},
	}
	if x.Proof != NoProof {
		name := prop.Text(&x.ProofName)
		name.Most, name.Right = 100, tokenRight
		label := map[Proof]string{HeaderProof: "Name of the header, such as X-Key", QueryProof: "Name in the address, such as key",
			PasswordProof: "User name"}[x.Proof]
		out = append(out, prop.Prop{Name: "proofName", Label: label, Noun: "the name of the secret", Must: true, Asked: true, Value: name})
	}
	return append(out, prop.Prop{
		Name:  "seconds",
		Label: "Seconds for an answer",
		Noun:  "how long an answer is waited for",
		Help:  "10 unless you say",
		Group: "Calling",
		Say:   ". It has {} seconds to answer",
		Value: prop.Number(&x.Seconds, 1, 25),
	}, prop.Prop{
		Name:  "real",
		Label: "It is called in the draft as well",
		Noun:  "whether it is called in the draft",
		Help:  "Otherwise the sample of a call answers there, and nothing goes out",
		Group: "Calling",
		Say:   ". {|It is called in the draft as well}",
		Value: prop.Switch(&x.Real),
	})
}

func serviceRight(s string) *words.Problem {
	u, err := url.Parse(s)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" || u.User != nil || u.RawQuery != "" || u.Fragment != "" {
		return words.New("service-address", "value", s)
	}
	return nil
}

// tokens are names of headers (RFC 9110, section 5.6.2), which does for parameters and users as well.
var tokens = regexp.MustCompile(`^[A-Za-z0-9!#$%&'*+.^_|~@-]+$`)

func tokenRight(s string) *words.Problem {
	if !tokens.MatchString(s) {
		return words.New("service-token", "value", s)
	}
	return nil
}

// Called says which call it is.
func (x *Call) Called(Context) string { return words.Say("called-call", words.Args{"name": x.Name}) }

// Core is the sentence that tells it.
func (x *Call) Core(Context) string {
	if x.Rows != "" {
		return "To ask for {name}: {method} {path}. It answers rows, at {rows}"
	}
	return "To ask for {name}: {method} {path}"
}

// Props lists its settings.
func (x *Call) Props(c Context) []prop.Prop {
	path, rows, sample := prop.Text(&x.Path), prop.Text(&x.Rows), prop.Words(&x.Sample)
	path.Most, path.Right = 500, pathRight
	rows.Most, rows.Right = 200, pointerRight
	sample.Most, sample.Right = MostSample, sampleRight
	out := []prop.Prop{
		{Name: "name", Label: "What it asks for, such as Tides", Noun: "the name", Must: true, Asked: true, Value: named(&x.Name)},
		{
			Name:  "method",
			Label: "Method",
			Noun:  "the method",
			Must:  true,
			Asked: true,
			Value: prop.Pick(&x.Method, prop.Option{Value: string(GetMethod), Words: "GET", Label: "GET, which asks"},
				prop.Option{Value: string(PostMethod), Words: "POST", Label: "POST, which sends"},
				prop.Option{Value: string(PutMethod), Words: "PUT"}, prop.Option{Value: string(PatchMethod), Words: "PATCH"},
				prop.Option{Value: string(DeleteMethod), Words: "DELETE"}),
		},
		{Name: "path", Label: "Path, such as /tides/{harbour}", Noun: "the path", Must: true, Asked: true, Value: path},
		{
			Name:  "rows",
			Label: "Where the list is in the answer, such as /tides",
			Noun:  "where its rows are",
			Help:  "For an answer that is a list; a single / for one that is nothing else",
			Group: "Answer",
			Value: rows,
		},
	}
	if c.b != nil && x.Sample == "" {
		return append(out, sampleProp(sample, ""))
	}
	return append(out, sampleProp(sample, ". {|A sample} of its answer is kept"))
}

// MostSample is how long a sample of an answer can be, in characters.
const MostSample = prop.MostText

func sampleProp(v prop.TextValue, say string) prop.Prop {
	return prop.Prop{
		Name:  "sample",
		Label: "A sample of its answer, as JSON",
		Noun:  "the sample",
		Help:  "It answers in the draft and in rehearsals, so that nothing goes out",
		Group: "Answer",
		Say:   say,
		Value: v,
	}
}

var slots = regexp.MustCompile(`\{([^{}]*)\}`)

// Slots lists the names of what is sent in the path.
func (x *Call) Slots() []string {
	var out []string
	for _, m := range slots.FindAllStringSubmatch(x.Path, -1) {
		out = append(out, m[1])
	}
	return out
}

func pathRight(s string) *words.Problem {
	bare := slots.ReplaceAllString(s, "x")
	u, err := url.Parse(bare)
	if err != nil || !strings.HasPrefix(s, "/") || strings.HasPrefix(s, "//") || u.RawQuery != "" || u.Fragment != "" ||
		strings.ContainsAny(bare, "{}\\") || slices.Contains(strings.Split(bare, "/"), "..") {
		return words.New("service-path", "value", s)
	}
	return nil
}

// sent is what is offered to a step that gives values to what a call sends.
func (x *Call) sent() prop.To {
	return offers("value", x.Sends, func(s *Sent) (prop.Option, bool) { return prop.Option{Value: s.ID, Words: s.Name}, true })
}

// sentProp is the setting of the values that a call is sent, as expressions of a scope.
func (x *Call) sentProp(at *[]prop.Given, scope expr.Scope) prop.Prop {
	return prop.Prop{
		Name:  "values",
		Label: "Sending these values",
		Noun:  "the values that it sends",
		Help:  "What is not said is not sent",
		Group: "Values",
		Asked: true,
		Say:   ", sending {}",
		Value: prop.Gives(at, x.sent(), scope, x.want),
		Lost:  prop.Lost{Words: "it is not sent any more"},
	}
}

// want gives the type of what a call sends.
func (x *Call) want(sent string) expr.Type {
	s := find(x.Sends, func(s *Sent) bool { return s.ID == sent })
	if s == nil {
		return expr.Type{}
	}
	field := Field{ID: s.ID, Type: s.Type}
	return field.ExprType()
}

// serviceTypes are the types of what goes out and comes in.
func serviceTypes() []prop.Option {
	var out []prop.Option
	for _, t := range []FieldType{Text, Number, YesNo, Date, TimeStamp} {
		out = append(out, prop.Option{Value: string(t), Words: t.Row().Words})
	}
	return out
}

func inCall(name string, c Context) string {
	switch {
	case c.call != nil:
		return words.Say("called-in", words.Args{"name": name, "in": c.call.Name})
	case c.flow != nil:
		return words.Say("called-in", words.Args{"name": name, "in": c.flow.Name})
	}
	return name
}

// Called says which value it is.
func (x *Sent) Called(c Context) string { return inCall(x.Name, c) }

// Core is the sentence that tells it.
func (*Sent) Core(Context) string { return "It is sent {name}, {type}, as {as}" }

// Props lists its settings.
func (x *Sent) Props(Context) []prop.Prop {
	as := prop.Text(&x.As)
	as.Most, as.Right = 100, tokenRight
	return []prop.Prop{
		{Name: "name", Label: "Name, such as Harbour", Noun: "the name", Must: true, Asked: true, Value: named(&x.Name)},
		{Name: "type", Label: "It holds", Noun: "what it holds", Must: true, Asked: true, Value: prop.Pick(&x.Type, serviceTypes()...)},
		{Name: "as", Label: "The service calls it, such as harbour", Noun: "what the service calls it", Must: true, Asked: true, Value: as},
	}
}

// Called says which value it is.
func (x *Taken) Called(c Context) string { return inCall(x.Name, c) }

// Core is the sentence that tells it.
func (*Taken) Core(c Context) string {
	if c.flow != nil {
		return "From what comes in, take {name}, {type}, at {from}"
	}
	return "From its answer, take {name}, {type}, at {from}"
}

// Props lists its settings.
func (x *Taken) Props(Context) []prop.Prop {
	from := prop.Text(&x.From)
	from.Most, from.Right = 200, pointerRight
	return []prop.Prop{
		{Name: "name", Label: "Name, such as Height", Noun: "the name", Must: true, Asked: true, Value: named(&x.Name)},
		{Name: "type", Label: "It holds", Noun: "what it holds", Must: true, Asked: true, Value: prop.Pick(&x.Type, serviceTypes()...)},
		{Name: "from", Label: "Where it is, such as /height", Noun: "where it is in the answer", Must: true, Asked: true, Value: from},
	}
}

// Rename gives it another name and key; expressions follow.
func (x *Taken) Rename(c Context, name string) error {
	in := ""
	if c.call != nil {
		in = c.call.ID
	} else if c.flow != nil {
		in = c.flow.ID
	}
	list, table := c.b.takesOf(in)
	if list == nil {
		return words.New("gone", "thing", "call")
	}
	is := func(r expr.Ref) bool { return r.Table == table && r.Field == x.ID }
	return c.b.renames(is, name, takenKey(*list, name, x.ID), &x.Name, &x.Key)
}

// field is how expressions know it.
func (x *Taken) field() *expr.Field {
	field := Field{ID: x.ID, Type: x.Type}
	return &expr.Field{ID: x.ID, Key: x.Key, Name: x.Name, Type: field.ExprType()}
}

func pointerRight(s string) *words.Problem {
	if s != "" && !strings.HasPrefix(s, "/") {
		return words.New("service-pointer", "value", s)
	}
	return nil
}

// callInto gives the call into which something is added.
func (b *Blueprint) callInto(id string) (*Call, error) {
	_, call := b.CallOf(id)
	if call == nil {
		return nil, words.New("gone", "thing", "call")
	}
	return call, nil
}

func addConnection(b *Blueprint, c *AddThing) error {
	b.Connections = append(b.Connections, Connection{ID: c.ID})
	return c.fill(b, c.ID, c.Values)
}

func addCall(b *Blueprint, c *AddThing) error {
	x := b.Connection(c.Into)
	if x == nil {
		return words.New("gone", "thing", "service")
	}
	x.Calls = append(x.Calls, Call{ID: c.ID, Method: GetMethod})
	return c.fill(b, c.ID, c.Values)
}

func addSent(b *Blueprint, c *AddThing) error {
	call, err := b.callInto(c.Into)
	if err != nil {
		return err
	}
	call.Sends = append(call.Sends, Sent{ID: c.ID, Type: Text})
	return c.fill(b, c.ID, c.Values)
}

func addTaken(b *Blueprint, c *AddThing) error {
	list, _ := b.takesOf(c.Into)
	if list == nil {
		return words.New("gone", "thing", "call")
	}
	*list = append(*list, Taken{ID: c.ID, Key: "x", Type: Text})
	if err := c.fill(b, c.ID, c.Values); err != nil {
		return err
	}
	list, _ = b.takesOf(c.Into)
	x := find(*list, func(t *Taken) bool { return t.ID == c.ID })
	x.Key = takenKey(*list, x.Name, x.ID)
	return nil
}

func sampleRight(s string) *words.Problem {
	var v any
	if err := json.Unmarshal([]byte(s), &v); err != nil {
		return words.New("service-sample", "error", err.Error())
	}
	return nil
}
