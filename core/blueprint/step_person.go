package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var keepStepKind = StepKind{
	Name:  "keep",
	Label: "Keep a value for the person",
	Noun:  "step that keeps a value",
	Help:  "One of the kept values, which lists and conditions on other pages can use",
	New:   func() Step { return &KeepStep{} },
}

// KeepStep keeps a value for whoever set the workflow off.
type KeepStep struct {
	StepHead
	Kept  string `json:"kept"` // id
	Value string `json:"value"`
}

// Row gives the kind.
func (*KeepStep) Row() *StepKind { return &keepStepKind }

// Called says which step it is.
func (*KeepStep) Called(c Context) string { return calledStep(&keepStepKind, c) }

// Core is the sentence that tells it.
func (*KeepStep) Core(Context) string { return "Keep {value} as {kept} for the person" }

// Props lists its settings.
func (x *KeepStep) Props(c Context) []prop.Prop {
	want := expr.Type{}
	if c.b != nil {
		if k := c.b.KeptValue(x.Kept); k != nil {
			want = k.Field().ExprType()
		}
	}
	return []prop.Prop{
		{
			Name:  "kept",
			Label: "Keep it as",
			Noun:  "the kept value",
			Must:  true,
			Asked: true,
			Hint:  "no-kept",
			Value: prop.One(&x.Kept, c.KeptValues()),
			Lost:  stepGone,
		},
		{
			Name:  "value",
			Label: "The value",
			Noun:  "the value",
			Must:  true,
			Asked: true,
			Value: prop.Expression(&x.Value, c.Flows(), want),
			Lost:  stepGone,
		},
	}
}

// Check refuses to keep a value for nobody.
func (x *KeepStep) Check(c Context) *words.Problem {
	if c.flow != nil && !c.flow.Starts.Row().Person && c.flow.Routine() == nil {
		return words.New("flow-nobody")
	}
	return nil
}

var personStepKind = StepKind{
	Name:  "person",
	Label: "Sign out, invite or approve a person",
	Noun:  "step about a person",
	Help:  "By their address, in the live app; in the draft it is only written down",
	New:   func() Step { return &PersonStep{} },
}

// Admitting is what is done about a person.
type Admitting string

// What can be done about a person.
const (
	SignsOut Admitting = "out"
	Invites  Admitting = "invite"
	Approves Admitting = "approve"
)

// PersonStep lets a person into the app, or ends their sign-ins.
type PersonStep struct {
	StepHead
	Do    Admitting `json:"do"`
	Email string    `json:"email"`
	Role  string    `json:"role,omitempty"` // id; of who is invited or approved
}

// Row gives the kind.
func (*PersonStep) Row() *StepKind { return &personStepKind }

// Called says which step it is.
func (*PersonStep) Called(c Context) string { return calledStep(&personStepKind, c) }

// Core is the sentence that tells it.
func (x *PersonStep) Core(Context) string {
	if x.Do == SignsOut {
		return "{do} {email} in all browsers"
	}
	return "{do} {email} as one of {role}"
}

// Props lists its settings.
func (x *PersonStep) Props(c Context) []prop.Prop {
	out := []prop.Prop{
		{
			Name:   "do",
			Label:  "Do",
			Noun:   "what is done",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value: prop.Pick(&x.Do, prop.Option{Value: string(SignsOut), Words: "Sign out"},
				prop.Option{Value: string(Invites), Words: "Invite"}, prop.Option{Value: string(Approves), Words: "Approve"}),
		},
		{
			Name:  "email",
			Label: "The person with the address",
			Noun:  "the address",
			Must:  true,
			Asked: true,
			Hint:  "no-address",
			Value: prop.Expression(&x.Email, c.Flows(), expr.Type{Kind: expr.Text}).Offering(c.addressOffers()),
			Lost:  stepGone,
		},
	}
	if x.Do == SignsOut {
		return out
	}
	roles := prop.To{What: "role"}
	if c.b != nil {
		roles = offers("role", c.b.Roles, func(r *Role) (prop.Option, bool) {
			return prop.Option{Value: r.ID, Words: r.Name}, r.People != ""
		})
	}
	return append(out, prop.Prop{
		Name:  "role",
		Label: "As one of",
		Noun:  "the role",
		Must:  c.b != nil,
		Asked: true,
		Value: prop.One(&x.Role, roles),
		Lost:  stepGone,
	})
}

// Reset drops the role where none is asked for.
func (x *PersonStep) Reset(Context, string) {
	if x.Do == SignsOut {
		x.Role = ""
	}
}

// Check refuses what the person who sets the workflow off may not do by themselves. That they sign out
// nobody else is looked at when it runs, as is what a routine may do.
func (x *PersonStep) Check(c Context) *words.Problem {
	if c.flow == nil || c.flow.AsApp() || c.flow.Routine() != nil || x.Do == SignsOut {
		return nil
	}
	return words.New("flow-app-rights")
}
