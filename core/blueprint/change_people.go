package blueprint

import (
	"slices"
	"strings"
)

// AddRole adds a role, which may do nothing yet.
type AddRole struct {
	ID   string `json:"id,omitempty"`
	Name string `json:"name"`
}

func (c *AddRole) fill(newID func() string) { fillID(&c.ID, newID) }

func (c *AddRole) apply(b *Blueprint) error {
	b.Roles = append(b.Roles, Role{ID: c.ID, Name: strings.TrimSpace(c.Name)})
	return nil
}

// RenameRole gives a role another name.
type RenameRole struct {
	Role string `json:"role"`
	Name string `json:"name"`
}

func (c *RenameRole) apply(b *Blueprint) error {
	r := b.Role(c.Role)
	if r == nil {
		return gone("role")
	}
	r.Name = strings.TrimSpace(c.Name)
	return nil
}

// RemoveRole removes a role with its rules. Pages that were open to it alone
// refuse that.
type RemoveRole struct {
	Role string `json:"role"`
}

func (c *RemoveRole) apply(b *Blueprint) error {
	r := b.Role(c.Role)
	if r == nil {
		return gone("role")
	}
	if r.ID == VisitorRole {
		return problem("Every app has visitors, so this role stays.")
	}
	var uses []string
	for _, p := range b.Pages {
		if p.Audience == SomeRole && len(p.Roles) == 1 && p.Roles[0] == r.ID {
			uses = append(uses, "the page "+p.Name)
		}
	}
	if len(uses) > 0 {
		return problem("The role %s cannot be removed: nobody else may open %s. Change that first.", r.Name, joinWords(uses))
	}
	b.forgetExpectations(func(e Expectation) bool { return e.Role == c.Role })
	for i := range b.Pages {
		b.Pages[i].Roles = slices.DeleteFunc(b.Pages[i].Roles, func(id string) bool { return id == c.Role })
	}
	b.Roles = slices.DeleteFunc(b.Roles, func(x Role) bool { return x.ID == c.Role })
	return nil
}

// SetPeople says which table holds a role's people and which field of it
// their e-mail. Without a field, the table's first e-mail field is taken.
type SetPeople struct {
	Role  string `json:"role"`
	Table string `json:"table"`
	Email string `json:"email,omitempty"`
}

func (c *SetPeople) apply(b *Blueprint) error {
	r := b.Role(c.Role)
	if r == nil {
		return gone("role")
	}
	if c.Table != r.People { // what was said of the people of another table means nothing here
		r.forgetPeople()
	}
	r.People, r.Email = c.Table, c.Email
	if t := b.Table(c.Table); t != nil && c.Email == "" {
		if f := find(t.Fields, func(f *Field) bool { return f.Type == Email }); f != nil {
			r.Email = f.ID
		}
	}
	return nil
}

// SetPermission says to which records of a table a role's permission for an
// action reaches.
type SetPermission struct {
	Role      string `json:"role"`
	Table     string `json:"table"`
	Action    Action `json:"action"`
	Extent    Extent `json:"extent"`
	Condition string `json:"condition,omitempty"`
}

func (c *SetPermission) apply(b *Blueprint) error {
	rule, err := b.rule(c.Role, c.Table)
	if err != nil {
		return err
	}
	p := Permission{Extent: c.Extent}
	if c.Extent == Where {
		p.Condition = strings.TrimSpace(c.Condition)
	}
	switch c.Action {
	case See:
		rule.See = p
	case Add:
		rule.Add = p
	case Modify:
		rule.Change = p
	case Delete:
		rule.Delete = p
	default:
		return problem("There is no action %q.", c.Action)
	}
	return nil
}

// rule gives a role's rule for a table to edit, made where there is none.
func (b *Blueprint) rule(role, table string) (*Rule, error) {
	r := b.Role(role)
	if r == nil {
		return nil, gone("role")
	}
	if b.Table(table) == nil {
		return nil, gone("table")
	}
	if rule := find(r.Rules, func(x *Rule) bool { return x.Table == table }); rule != nil {
		return rule, nil
	}
	r.Rules = append(r.Rules, Rule{Table: table})
	return &r.Rules[len(r.Rules)-1], nil
}

// SetFieldAccess says which fields of a table a role does not see, and which
// it sees but may not set.
type SetFieldAccess struct {
	Role   string    `json:"role"`
	Table  string    `json:"table"`
	Hidden *[]string `json:"hidden,omitempty"` // nil leaves them as they are
	Fixed  *[]string `json:"fixed,omitempty"`
}

func (c *SetFieldAccess) apply(b *Blueprint) error {
	rule, err := b.rule(c.Role, c.Table)
	if err != nil {
		return err
	}
	if c.Hidden != nil {
		rule.Hidden = *c.Hidden
	}
	if c.Fixed != nil {
		rule.Fixed = *c.Fixed
	}
	return nil
}
