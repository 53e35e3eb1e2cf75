// Package access decides who may do what with the records of an app. Whatever
// no rule allows is not allowed.
package access

import (
	"fmt"
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/prop"
)

// Membership is a role that a person has, with the person's record in the
// role's table; visitors have no record.
type Membership struct {
	Role   string
	Record string
}

// Viewer is whoever reads or writes. A founder looks at all records of an own
// app; everyone else has what their roles allow.
type Viewer struct {
	Founder     bool
	Memberships []Membership
	Email       string
	Name        string
}

// Visitor is somebody who is not signed in.
func Visitor() Viewer {
	return Viewer{Memberships: []Membership{{Role: blueprint.VisitorRole}}}
}

// Roles lists the ids of the viewer's roles.
func (v Viewer) Roles() []string {
	var out []string
	for _, m := range v.Memberships {
		out = append(out, m.Role)
	}
	return out
}

// SignedIn tells whether the viewer has a role other than that of visitors.
func (v Viewer) SignedIn() bool {
	return slices.ContainsFunc(v.Memberships, func(m Membership) bool { return m.Role != blueprint.VisitorRole })
}

// Me gives the id of the viewer's record in the table, or "".
func (v Viewer) Me(b *blueprint.Blueprint, table string) string {
	for _, m := range v.Memberships {
		if r := b.Role(m.Role); r != nil && r.People == table && m.Record != "" {
			return m.Record
		}
	}
	return ""
}

// MayOpen tells whether the page is open to the viewer.
func (v Viewer) MayOpen(p *blueprint.Page) bool { return v.Founder || p.Admits(v.Roles()) }

// Grant is what one role of a viewer allows for an action on a table: the
// records where the condition holds, or all when it is nil.
type Grant struct {
	Role      string
	Me        string // the person's record in the role's table
	Condition *expr.Checked
	hidden    []string
	fixed     []string
}

// Shows tells whether the grant's role sees the field.
func (g Grant) Shows(field string) bool { return !slices.Contains(g.hidden, field) }

// Sets tells whether the grant's role may set the field.
func (g Grant) Sets(field string) bool {
	return g.Shows(field) && !slices.Contains(g.fixed, field)
}

// Grants lists what the viewer's roles allow; several grants add up, none
// means that nothing is allowed. A condition about the signed-in person allows
// nothing to a viewer who is nobody in particular. Founders are not asked.
func Grants(b *blueprint.Blueprint, catalog *expr.Catalog, v Viewer, table string, action blueprint.Action) ([]Grant, error) {
	var out []Grant
	for _, m := range v.Memberships {
		r := b.Role(m.Role)
		if r == nil {
			continue
		}
		rule := r.Rule(table)
		g := Grant{Role: r.ID, Me: m.Record, hidden: rule.Hidden, fixed: rule.Fixed}
		switch p := rule.Permission(action); p.Extent {
		case blueprint.AllRecords:
		case blueprint.Where:
			c, err := b.Condition(r, table, action, catalog)
			if err != nil {
				return nil, fmt.Errorf("read the condition of %s for %s: %w", r.Name, table, err)
			}
			if c.UsesMe && m.Record == "" {
				continue
			}
			g.Condition = c
		default:
			continue
		}
		out = append(out, g)
	}
	return out, nil
}

// Given tells whether a rule of the viewer fills the field in when they add to
// the table.
func Given(b *blueprint.Blueprint, v Viewer, table, field string) bool {
	if v.Founder {
		return false
	}
	return slices.ContainsFunc(v.Memberships, func(m Membership) bool {
		r := b.Role(m.Role)
		if r == nil {
			return false
		}
		rule := r.Rule(table)
		x := rule.Add.Extent
		return (x == blueprint.AllRecords || x == blueprint.Where) &&
			slices.ContainsFunc(rule.Given, func(p prop.Given) bool { return p.Field == field })
	})
}

// Sees tells whether the viewer may see the field in some record of the table.
func Sees(b *blueprint.Blueprint, catalog *expr.Catalog, v Viewer, table, field string) (bool, error) {
	if v.Founder {
		return true, nil
	}
	grants, err := Grants(b, catalog, v, table, blueprint.See)
	return slices.ContainsFunc(grants, func(g Grant) bool { return g.Shows(field) }), err
}

// MaySet tells whether the viewer may set the field in some record that the
// action allows. Nobody but founders changes an address by which people are known:
// who can would be whoever they like.
func MaySet(b *blueprint.Blueprint, catalog *expr.Catalog, v Viewer, table, field string, action blueprint.Action) (bool, error) {
	if v.Founder {
		return true, nil
	}
	if action == blueprint.Modify && len(b.KnownBy(table, field)) > 0 {
		return false, nil
	}
	grants, err := Grants(b, catalog, v, table, action)
	return slices.ContainsFunc(grants, func(g Grant) bool { return g.Sets(field) }), err
}

// Asks tells whether a form asks the viewer for a field: only for what they may
// set, and, of a new record, what their rules do not fill in.
func Asks(b *blueprint.Blueprint, catalog *expr.Catalog, v Viewer, table, field string, action blueprint.Action) (bool, error) {
	if action == blueprint.Add && Given(b, v, table, field) {
		return false, nil
	}
	return MaySet(b, catalog, v, table, field, action)
}
