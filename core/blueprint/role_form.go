package blueprint

import (
	"strings"

	"pinegate/core/prop"
	"pinegate/core/words"
)

// RoleForm is a form that belongs to a role and stands on no page of the app: what sign-up asks
// for, or what people find in their profile.
type RoleForm struct {
	Role *Role
	// Own tells that it is the profile; it changes the person's own record.
	Own    bool
	blocks *Blocks
}

// What stands behind the id of a role in those of its forms, which no other id has.
const (
	signUpForm  = ":sign-up"
	profileForm = ":profile"
)

// SignUpForm is what sign-up asks those for who become one of the role's people.
func (r *Role) SignUpForm() *RoleForm { return &RoleForm{Role: r, blocks: &r.SignUp.Blocks} }

// ProfileForm is what the role's people find about themselves.
func (r *Role) ProfileForm() *RoleForm {
	return &RoleForm{Role: r, Own: true, blocks: &r.Profile.Blocks}
}

// Asks tells whether sign-up asks for anything in forms of the role.
func (r *Role) Asks() bool { return r.People != "" && r.SignUp.Mode != NoSignUp }

// ID gives the id of the form, which is the path of its page as well.
func (f *RoleForm) ID() string {
	if f.Own {
		return f.Role.ID + profileForm
	}
	return f.Role.ID + signUpForm
}

// Form gives it as a form on a page.
func (f *RoleForm) Form() *FormBlock {
	out := &FormBlock{BlockHead: BlockHead{ID: f.ID(), Kind: formKind.Name}, Table: f.Role.People, Changes: f.Own, Blocks: *f.blocks}
	if f.Own {
		out.Submit, out.Thanks = words.Say("profile-save", nil), words.Say("profile-saved", nil)
	}
	return out
}

// Page gives the page on which it stands: that of the profile is open to the role's people, that
// of sign-up to everyone.
func (f *RoleForm) Page() *Page {
	out := &Page{ID: f.ID(), Path: f.ID(), Name: words.Say("role-sign-up", words.Args{"role": f.Role.Name}), Audience: Everyone,
		Blocks: Blocks{f.Form()}}
	if f.Own {
		out.Name = words.Say("role-profile", words.Args{"role": f.Role.Name})
		out.Record, out.Audience, out.Roles = f.Role.People, SomeRole, []string{f.Role.ID}
	}
	return out
}

// RoleForm gives the form of a role with the id, or nil.
func (b *Blueprint) RoleForm(id string) *RoleForm {
	role, _, _ := strings.Cut(id, ":")
	r := b.Role(role)
	if r == nil || b.Table(r.People) == nil {
		return nil
	}
	for _, f := range []*RoleForm{r.SignUpForm(), r.ProfileForm()} {
		if f.ID() == id {
			return f
		}
	}
	return nil
}

// RoleForms walks the forms of all roles.
func (b *Blueprint) RoleForms(yield func(*RoleForm) bool) {
	for i := range b.Roles {
		r := &b.Roles[i]
		if b.Table(r.People) == nil {
			continue
		}
		if !yield(r.SignUpForm()) || !yield(r.ProfileForm()) {
			return
		}
	}
}

// Called says which form it is.
func (f *RoleForm) Called(Context) string { return f.Page().Name }

// Core is the sentence that tells it.
func (f *RoleForm) Core(Context) string {
	start, rest := "Sign-up asks for their email and ", "{fields|what follows}"
	if f.Own {
		start = "Their profile shows their email and "
	}
	if len(*f.blocks) == 0 {
		rest = "{fields|nothing else}"
	}
	return start + rest
}

// Props lists its settings.
func (f *RoleForm) Props(c Context) []prop.Prop {
	form := f.Form()
	x := prop.Prop{
		Name:  "fields",
		Label: "Asked for besides their email, in this order",
		Noun:  "what sign-up asks for",
		Help:  "Fields of their record",
		Value: prop.Asked(form.Fields(), f.fields(c), func(list []prop.Question) { askIn(f.ID(), f.blocks, list) }),
	}
	if f.Own {
		x.Label, x.Noun = "Fields in their profile", "what their profile shows"
		x.Help = "Besides their email; their rules decide what they can change"
	}
	return []prop.Prop{x}
}

// fields offers those for which it can ask. The address is asked for by itself, and files are kept
// for people who are known.
func (f *RoleForm) fields(c Context) prop.To {
	return c.Fields(f.Role.People, func(x *Field) bool {
		return f.Own || x.Type.Entered() && x.ID != f.Role.Email && !x.Type.Filed() && x.Type != Links
	})
}

// Start asks for what a record cannot be without, where nothing is asked yet and nothing else gives it.
func (f *RoleForm) Start(c Context) {
	t := c.tableOf(f.Role.People)
	if t == nil || len(*f.blocks) > 0 {
		return
	}
	decides := c.b.decidesRoles(t)
	var asked []prop.Question
	for o := range f.fields(c).All {
		x := t.Field(o.Value)
		given := x.Default != "" || find(f.Role.SignUp.Presets, func(g *prop.Given) bool { return g.Field == x.ID }) != nil
		if x.Required && x.ID != f.Role.Email && (f.Own || !given && decides[x.ID] == "") {
			asked = append(asked, prop.Question{Field: x.ID, Required: !f.Own})
		}
	}
	askIn(f.ID(), f.blocks, asked)
}

// Check tells what is wrong with its settings together, or nil.
func (f *RoleForm) Check(c Context) *words.Problem {
	if f.Own || c.b == nil {
		return nil
	}
	decides := c.b.decidesRoles(c.b.Table(f.Role.People))
	for q := range f.Form().Questions {
		x := c.field(f.Role.People, q.Field)
		switch {
		case x == nil:
		case find(f.Role.SignUp.Presets, func(g *prop.Given) bool { return g.Field == q.Field }) != nil:
			return words.New("asked-and-set", "field", x.Name)
		case decides[q.Field] != "":
			return words.New("decides", "field", x.Name, "role", decides[q.Field])
		}
	}
	return nil
}

// roleFormPlaces walks the forms of a role with what stands in them.
func (b *Blueprint) roleFormPlaces(c Context, yield func(Place) bool) bool {
	r := c.role
	if b.Table(r.People) == nil {
		return true
	}
	for _, f := range []*RoleForm{r.SignUpForm(), r.ProfileForm()} {
		p := Place{ID: f.ID(), What: "role form", In: r.ID, Thing: f, Context: c}
		if !yield(p) || !blockPlaces(f.ID(), f.blocks, p.Within(), yield) {
			return false
		}
	}
	return true
}
