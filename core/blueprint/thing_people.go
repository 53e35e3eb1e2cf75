package blueprint

import (
	"slices"
	"strings"

	"pinegate/core/prop"
	"pinegate/core/words"
)

// Called says which role it is.
func (r *Role) Called(Context) string { return words.Say("called-role", words.Args{"role": r.Name}) }

// Core is the sentence that tells the role.
func (r *Role) Core(Context) string {
	switch {
	case r.ID == VisitorRole:
		return "Everyone who is not signed in has this role"
	case r.People == "":
		return "No one has this role yet: {people|say which table its people are in}"
	case r.Where != "":
		return "Everyone in {people} where {where} has this role and signs in with {email}"
	}
	return "Everyone in {people} has this role and signs in with {email}"
}

// Props lists the settings of the role.
func (r *Role) Props(c Context) []prop.Prop {
	out := []prop.Prop{
		{
			Name:  "name",
			Label: "What its people are called, such as Suppliers",
			Noun:  "the name",
			Must:  true,
			Asked: true,
			Value: named(&r.Name),
		},
	}
	if r.ID == VisitorRole {
		return out
	}
	gone := prop.Lost{Do: func() string { r.forgetPeople(); return words.Say("role-without-people", nil) }}
	out = append(
		out,
		prop.Prop{Name: "people", Label: "Their records are in", Noun: "the table of its people", Asked: true, Resets: true,
			Opens: true, Lost: gone,
			Value: prop.One(&r.People, c.Tables()).OrNone("no table yet: no one can sign in")},
	)
	t := c.tableOf(r.People)
	if t == nil {
		return out
	}
	scope := c.Rows(r.People)
	refusal := prop.Words(&r.Refusal)
	out = append(
		out,
		prop.Prop{
			Name:  "email",
			Opens: true,
			Label: "They sign in with",
			Noun:  "the field of their email",
			With:  "people",
			Must:  true,
			Hint:  "no-email",
			Lost:  gone,
			Value: prop.One(&r.Email, c.Fields(r.People, func(f *Field) bool { return f.Type == Email })),
		},
		prop.Prop{
			Name:  "where",
			Label: "Only people where",
			Noun:  "the condition for having it",
			Help:  "Only some people in the table have this role",
			Group: "Who they are",
			Value: prop.Condition(&r.Where, scope),
			Lost:  gone,
		},
		prop.Prop{
			Name:  "admit",
			Label: "They can sign in if",
			Noun:  "who can sign in",
			Help:  "Only some of them can sign in",
			Group: "Signing in",
			Say:   ". They can sign in if {}",
			Value: prop.Condition(&r.Admit, scope),
			Lost:  gone,
		},
		prop.Prop{
			Name:  "refusal",
			Label: "Others see",
			Noun:  "what others see",
			Help:  "What people see who can’t sign in",
			Group: "Signing in",
			Say:   ". Others see {}",
			Value: refusal,
		},
		prop.Prop{
			Name:  "second",
			Label: "Second step",
			Noun:  "the second step",
			Help:  "A code after the password",
			Group: "Signing in",
			Say:   ". {}",
			Value: prop.Pick(&r.Second, secondSteps...),
		},
		prop.Prop{
			Name:  "match",
			Label: "All of these together must find one record",
			Noun:  "how they are found",
			Help:  "For signing in with details from their record",
			Group: "Signing in",
			Say:   ". They are found by {}",
			Value: prop.Many(&r.Match, c.finders()),
			Lost:  prop.Lost{Do: func() string { r.Match = nil; return "" }},
		},
		prop.Prop{
			Name:  "homes",
			Label: "Home page: the first that fits",
			Noun:  "the home page",
			Help:  "The first page here whose condition is true; otherwise, the first page they can open",
			Group: "Signing in",
			Say:   ". Their home page is {}",
			Value: prop.Paths(
				&r.Homes,
				c.Pages(func(p *Page) bool { return p.Record == "" && p.Admits([]string{r.ID}) }),
				scope,
			),
			Lost: prop.Lost{Words: "they begin at another page"},
		},
		prop.Prop{
			Name:  "homeField",
			Label: "Home page: as their field says",
			Noun:  "the field that names their home page",
			Help:  "A choice or a text in their record that says the name of a page, at which they begin before all else",
			Group: "Signing in",
			Say:   ". They begin at the page that their {} names",
			Value: prop.One(&r.HomeField, c.Fields(r.People, func(f *Field) bool {
				return f.Type == Choose || f.Type == Text
			})).OrNone("none"),
		},
	)
	return append(out, r.signUpProps(c, t)...)
}

var secondSteps = []prop.Option{
	{Value: string(NoSecond), Words: "Nothing more is asked", Label: "Nothing more"},
	{Value: string(MailCode), Words: "After a password, they enter an emailed code", Label: "An emailed code, after a password"},
	{Value: string(Authentic), Words: "They also enter a code from their authenticator app", Label: "A code from their authenticator app"},
}

// signUpProps lists how new people come to the role, and what they find about
// themselves.
func (r *Role) signUpProps(c Context, t *Table) []prop.Prop {
	out := []prop.Prop{
		{
			Name:   "signUp.mode",
			Opens:  true,
			Label:  "New people",
			Noun:   "how people sign up",
			Help:   "Without sign-up, anyone with a record signs in with its email",
			Resets: true,
			Group:  "Signing up",
			Say:    ". {}",
			Off:    ". {|No sign-up}: add people to {=" + t.ID + "|" + t.Name + "} yourself",
			Value:  prop.Pick(&r.SignUp.Mode, signUpModes...),
		},
	}
	if r.SignUp.Mode != NoSignUp {
		out = append(
			out,
			prop.Prop{
				Name:  "signUp.presets",
				Label: "Set by the app",
				Noun:  "what the app sets for new people",
				Help:  "Fields people aren’t asked for",
				Group: "Signing up",
				Say:   ". The app sets {}",
				Value: prop.Gives(&r.SignUp.Presets, c.Fields(t.ID, isEntered), c.Rows(""), c.want(t.ID)),
				Lost:  prop.Lost{Do: func() string { r.SignUp.Mode = NoSignUp; return words.Say("no-sign-up-now", nil) }},
			},
		)
	}
	return append(
		out,
		prop.Prop{
			Name:  "profile.closing",
			Label: "Closing their account",
			Noun:  "whether they can close their account",
			Help:  "They can leave by themselves",
			Group: "Profile",
			Say:   ". They can close their account; {}",
			Value: prop.Pick(&r.Profile.Closing, closings...),
		},
	)
}

var signUpModes = []prop.Option{
	{Value: string(NoSignUp), Words: "No sign-up", Label: "can’t sign up: you add them"},
	{Value: string(Open), Words: "People can sign up", Label: "can sign up by themselves"},
	{Value: string(Invited), Words: "New people join by invitation", Label: "join by invitation"},
	{Value: string(Approved), Words: "People can sign up and wait for approval", Label: "can sign up and wait for approval"},
}

var closings = []prop.Option{
	{Value: string(NoClosing), Words: "not possible", Label: "They can’t close it"},
	{Value: string(ClosingKeeps), Words: "their record stays", Label: "They can; their record stays"},
	{Value: string(ClosingBinned), Words: "their record is deleted", Label: "They can; their record is deleted"},
}

// Reset forgets what was said of the people of another table, and takes the first
// email field of this one; the profile begins with what a record cannot be without.
func (r *Role) Reset(c Context, setting string) {
	if setting != "people" {
		return
	}
	people, email := r.People, r.Email
	r.forgetPeople()
	r.People = people
	t := c.tableOf(people)
	if t == nil {
		return
	}
	if f := t.Field(email); f != nil && f.Type == Email {
		r.Email = email
	} else if f := find(t.Fields, func(f *Field) bool { return f.Type == Email }); f != nil {
		r.Email = f.ID
	}
	r.ProfileForm().Start(c)
}

// Settle has sign-up ask for what a record cannot be without, once people can sign up.
func (r *Role) Settle(c Context, set Values) error {
	if set["signUp.mode"] != nil && r.SignUp.Mode != NoSignUp {
		r.SignUpForm().Start(c)
	}
	return nil
}

// forgetPeople leaves a role without people.
func (r *Role) forgetPeople() {
	r.People, r.Email, r.Where, r.Admit, r.Refusal, r.Second = "", "", "", "", "", NoSecond
	r.Match, r.Homes, r.HomeField, r.SignUp, r.Profile = nil, nil, "", SignUp{}, Profile{}
}

// Called says which rule it is.
func (x *Rule) Called(c Context) string {
	if t := c.tableOf(x.Table); t != nil && c.role != nil {
		return words.Say("called-rule", words.Args{"role": c.role.Name, "table": t.Name})
	}
	return x.Table
}

// Core is the sentence that tells the rule. Actions that reach the same records
// are told together.
func (x *Rule) Core(Context) string {
	type group struct {
		names []string
		reach Permission
	}
	var groups []*group
	for _, a := range Actions() {
		p := x.Permission(a)
		if p.Extent == "" || p.Extent == NoRecords {
			continue
		}
		name := "{" + string(a) + "|" + string(a) + "}"
		if i := slices.IndexFunc(groups, func(g *group) bool { return g.reach == p }); i >= 0 {
			groups[i].names = append(groups[i].names, name)
		} else {
			groups = append(groups, &group{[]string{name}, p})
		}
	}
	if len(groups) == 0 {
		return "They have {see|no access} to {table}"
	}
	var parts []string
	for i, g := range groups {
		first := strings.TrimSuffix(strings.SplitN(g.names[0], "|", 2)[0], "}") // whose condition is shown
		first = strings.TrimPrefix(first, "{")
		what := " {" + first + "}"
		if i > 0 {
			what = " {" + first + ":them}"
		}
		parts = append(parts, words.Join(g.names)+what)
	}
	return "They can " + words.Join(parts)
}

// Props lists the settings of the rule.
func (x *Rule) Props(c Context) []prop.Prop {
	out := []prop.Prop{
		{
			Name:  "table",
			Label: "Table",
			Noun:  "the table",
			Must:  true,
			Asked: true,
			Fixed: true,
			Value: prop.One(&x.Table, c.Tables()),
			Lost:  prop.Lost{TakeOut: true},
		},
	}
	scope := c.Ruled(x.Table)
	args := words.Args{"role": "", "table": ""}
	if t := c.tableOf(x.Table); t != nil && c.role != nil {
		args["role"], args["table"] = c.role.Name, t.Name
	}
	for _, a := range []struct {
		Action
		at *Permission
	}{{See, &x.See}, {Add, &x.Add}, {Modify, &x.Change}, {Delete, &x.Delete}} {
		args["action"] = string(a.Action)
		out = append(
			out,
			prop.Prop{
				Name:  string(a.Action),
				Label: words.Say("reach-label", args),
				Noun:  words.Say("reach-noun", args),
				Use:   words.Say("reach-use", args),
				Asked: a.Action == See,
				Opens: a.Action == Add,
				Value: prop.Reaches(a.at, scope, c.ownOffers(x.Table)),
				Lost:  prop.Lost{Words: words.Say("reach-lost", args)},
			},
		)
	}
	return append(
		out,
		prop.Prop{
			Name:  "hidden",
			Label: "Hidden fields",
			Noun:  "the hidden fields",
			Help:  "Fields they can’t see, unless another of their roles shows them",
			Group: "Fields",
			Say:   ". Hidden: {}",
			Value: prop.Many(&x.Hidden, c.Fields(x.Table, nil)),
		},
		prop.Prop{
			Name:  "fixed",
			Label: "Read-only fields",
			Noun:  "the read-only fields",
			Help:  "Fields they can see, but not set",
			Group: "Fields",
			Say:   ". Read-only: {}",
			Value: prop.Many(&x.Fixed, c.Fields(x.Table, nil)),
		},
		prop.Prop{
			Name:  "given",
			Label: "Set by the app when they add one, whatever the browser sends",
			Noun:  "what the app sets",
			Help:  "Set by the app when they add one",
			Group: "Fields",
			Say:   ". On new records, the app sets {}",
			Value: prop.Gives(&x.Given, c.Fields(x.Table, isEntered), c.Ruled(""), c.want(x.Table)),
			Lost: prop.Lost{Do: func() string {
				x.Add = Permission{}
				args["action"] = string(Add)
				return words.Say("reach-lost", args)
			}},
		},
	)
}

// Called says which expectation it is.
func (e *Expectation) Called(c Context) string {
	if t := c.tableOf(e.Table); t != nil && c.role != nil {
		return words.Say("called-expectation", words.Args{"role": c.role.Name, "table": t.Name})
	}
	return e.Table
}

// Core is the sentence that tells the expectation.
func (e *Expectation) Core(Context) string {
	if e.Field != "" {
		return "They must never {action} {field} in {table}"
	}
	return "They must never {action} {table}"
}

// Props lists the settings of the expectation.
func (e *Expectation) Props(c Context) []prop.Prop {
	var actions []prop.Option
	for _, a := range Actions() {
		actions = append(actions, prop.Option{Value: string(a), Words: string(a)})
	}
	out := []prop.Prop{
		{
			Name:   "action",
			Label:  "They must never",
			Noun:   "the action",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value:  prop.Pick(&e.Action, actions...),
		},
		{
			Name:   "table",
			Label:  "Records in",
			Noun:   "the table",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value:  prop.One(&e.Table, c.Tables()),
			Lost:   prop.Lost{TakeOut: true},
		},
	}
	if e.Action != See {
		return out
	}
	return append(
		out,
		prop.Prop{
			Name:  "field",
			Label: "Only the field",
			Noun:  "the field",
			Help:  "Only one of the fields",
			Group: "What",
			Asked: true,
			Value: prop.One(&e.Field, c.Fields(e.Table, nil)).OrNone("the records themselves"),
			Lost:  prop.Lost{TakeOut: true},
		},
		prop.Prop{
			Name:  "except",
			Label: "Except records where",
			Noun:  "the exception",
			Help:  "Some records they can see",
			Group: "What",
			Asked: true,
			Say:   ", except where {}",
			Value: prop.Condition(
				&e.Except,
				c.Ruled(e.Table),
			).Offering(
				c.ownOffers(e.Table),
			),
			Lost: prop.Lost{Words: "it is no longer expected", TakeOut: true},
		},
	)
}

// Check tells what is wrong with the expectation's settings together, or nil.
func (e *Expectation) Check(c Context) *words.Problem {
	switch {
	case c.b != nil && c.role == nil:
		return words.New("gone", "thing", "role")
	case e.Action != See && (e.Except != "" || e.Field != ""), e.Except != "" && e.Field != "":
		return words.New("expect-see")
	}
	return nil
}
