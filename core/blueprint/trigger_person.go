package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
)

var personKind = TriggerKind{
	Name:   "person",
	Label:  "A person signs up or in",
	Help:   "Or is approved; their own record is in hand",
	Person: true,
	New:    func() Trigger { return &PersonTrigger{} },
}

// Coming is how a person comes into the app.
type Coming string

// The ways in which people come.
const (
	SignsIn    Coming = "in"
	SignsUp    Coming = "up"
	IsApproved Coming = "approved"
)

// PersonTrigger starts a workflow as a person of a role comes into the live app. Their record is in hand.
type PersonTrigger struct {
	TriggerHead
	Role string `json:"role"`
	On   Coming `json:"on"`
}

// Row gives the kind.
func (*PersonTrigger) Row() *TriggerKind { return &personKind }

// Core is the sentence that tells it.
func (*PersonTrigger) Core(Context) string { return "Starts when a person of {role} {on}" }

// Props lists its settings.
func (x *PersonTrigger) Props(c Context) []prop.Prop {
	roles := prop.To{What: "role"}
	if c.b != nil {
		roles = offers("role", c.b.Roles, func(r *Role) (prop.Option, bool) {
			return prop.Option{Value: r.ID, Words: r.Name}, r.People != ""
		})
	}
	return []prop.Prop{
		{
			Name:  "role",
			Label: "A person of",
			Noun:  "the role",
			Must:  true,
			Asked: true,
			Fixed: true,
			Value: prop.One(&x.Role, roles),
			Lost:  flowGone,
		},
		{
			Name:  "on",
			Label: "When they",
			Noun:  "when it starts",
			Must:  true,
			Asked: true,
			Value: prop.Pick(&x.On, prop.Option{Value: string(SignsIn), Words: "signs in"},
				prop.Option{Value: string(SignsUp), Words: "signs up"}, prop.Option{Value: string(IsApproved), Words: "is approved"}),
		},
		x.whenProp(c, "Only when", ". It starts only when {}"),
	}
}

// people gives the id of the table in which the people of its role are.
func (x *PersonTrigger) people(b *Blueprint) string {
	if r := b.Role(x.Role); r != nil {
		return r.People
	}
	return ""
}

func (x *PersonTrigger) scope(c Context) expr.Scope {
	table := x.people(c.b)
	return expr.Scope{Catalog: c.catalog, Row: table, Me: table}
}

// FlowsOn tells whether a workflow starts as somebody comes into the app in a way.
func (b *Blueprint) FlowsOn(how Coming) bool {
	for i := range b.Workflows {
		if t, is := b.Workflows[i].Starts.Trigger.(*PersonTrigger); is && t.On == how && !b.Workflows[i].Off {
			return true
		}
	}
	return false
}
