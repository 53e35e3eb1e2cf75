// Package draft proposes what an app needs from what it has: pages from its tables, for
// roles, by their rules. A proposal is told in sentences before it is made, and taken
// whole or in parts; what is made can be edited like all else.
package draft

import (
	"slices"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// Kind is what a proposed page is for.
type Kind string

// The kinds of proposed pages, in the order in which they are made.
const (
	Record Kind = "record"
	Change Kind = "change"
	Add    Kind = "add"
	List   Kind = "list"
	Home   Kind = "home"
)

// Page is a page that is proposed. Its id is the same whenever the same is asked for.
type Page struct {
	ID    string   `json:"id"`
	Kind  Kind     `json:"kind"`
	Name  string   `json:"name"`
	Table string   `json:"table,omitempty"`
	Roles []string `json:"roles"` // ids
	Text  string   `json:"text"`  // what is on it, in a sentence
	// Own tells that those who get it see only what is theirs.
	Own bool `json:"own,omitempty"`
}

// pages finds the pages that are proposed for tables and roles.
type pages struct {
	b       *blueprint.Blueprint
	catalog *expr.Catalog
	tables  []*blueprint.Table
	roles   []*blueprint.Role
	out     []Page
}

// Pages proposes pages for the tables and roles with the ids. What there is already is
// not proposed: a page about a record of the table, a list of it, a form that adds to it,
// a home page.
func Pages(b *blueprint.Blueprint, tables, roles []string) ([]Page, error) {
	p := &pages{b: b, catalog: b.Catalog()}
	for i := range b.Tables {
		if slices.Contains(tables, b.Tables[i].ID) {
			p.tables = append(p.tables, &b.Tables[i])
		}
	}
	for i := range b.Roles {
		if slices.Contains(roles, b.Roles[i].ID) {
			p.roles = append(p.roles, &b.Roles[i])
		}
	}
	for _, t := range p.tables {
		if err := p.of(t); err != nil {
			return nil, err
		}
	}
	p.homes()
	return p.out, nil
}

// may lists the roles that may do something with records of a table: those that may with
// all, and those that may with some, which are their own.
func (p *pages) may(t *blueprint.Table, a blueprint.Action) (all, own []string) {
	for _, r := range p.roles {
		switch x := r.Rule(t.ID).Permission(a); {
		case x.Extent == blueprint.AllRecords:
			all = append(all, r.ID)
		case x.Extent == blueprint.Where && r.People != "":
			own = append(own, r.ID)
		case x.Extent == blueprint.Where:
			all = append(all, r.ID) // of nobody in particular
		}
	}
	return all, own
}

// without leaves out the roles that can open a page for which something holds.
func (p *pages) without(roles []string, there func(*blueprint.Page) bool) []string {
	return slices.DeleteFunc(slices.Clone(roles), func(role string) bool {
		return slices.ContainsFunc(p.b.Pages, func(x blueprint.Page) bool { return x.Admits([]string{role}) && there(&x) })
	})
}

// of proposes the pages of a table.
func (p *pages) of(t *blueprint.Table) error {
	word := words.An(t.OneWord())
	all, own := p.may(t, blueprint.See)
	see := slices.Concat(all, own)
	p.propose(Page{Kind: Record, Table: t.ID, Name: words.Capital(t.OneWord()),
		Roles: p.without(see, func(x *blueprint.Page) bool { return x.Record == t.ID })}, "")
	changes, ownChanges := p.may(t, blueprint.Modify)
	who, err := p.asked(t, slices.Concat(changes, ownChanges), blueprint.Modify)
	if err != nil {
		return err
	}
	p.propose(Page{Kind: Change, Table: t.ID, Name: words.Say("made-change", words.Args{"word": word}),
		Roles: p.without(who, func(x *blueprint.Page) bool { return hasForm(x, t.ID, true) })}, "")
	adds, ownAdds := p.may(t, blueprint.Add)
	if who, err = p.asked(t, slices.Concat(adds, ownAdds), blueprint.Add); err != nil {
		return err
	}
	p.propose(Page{Kind: Add, Table: t.ID, Name: words.Say("made-add", words.Args{"word": word}),
		Roles: p.without(who, func(x *blueprint.Page) bool { return hasForm(x, t.ID, false) })}, "")
	listed := func(x *blueprint.Page) bool { return x.Record == "" && hasList(x, t.ID) }
	ways := wayNames(p.ways(t, false))
	p.propose(Page{Kind: List, Table: t.ID, Name: t.Name, Roles: p.without(all, listed)}, ways)
	name := words.Say("made-own", words.Args{"table": lower(t.Name)})
	if len(own) > 0 && p.b.Role(own[0]).People == t.ID {
		name = words.Say("made-own-details", nil)
	}
	p.propose(Page{Kind: List, Table: t.ID, Name: name, Own: true, Roles: p.without(own, listed)}, wayNames(p.ways(t, true)))
	return nil
}

// asked leaves the roles that a form would ask for something.
func (p *pages) asked(t *blueprint.Table, roles []string, a blueprint.Action) ([]string, error) {
	var out []string
	for _, role := range roles {
		fields, err := p.questions(t, []string{role}, a)
		if err != nil {
			return nil, err
		}
		if len(fields) > 0 {
			out = append(out, role)
		}
	}
	return out, nil
}

func hasList(x *blueprint.Page, table string) bool {
	for y := range x.Blocks.All {
		if l, is := y.(*blueprint.RecordsBlock); is && l.Table == table {
			return true
		}
	}
	return false
}

func hasForm(x *blueprint.Page, table string, changes bool) bool {
	for y := range x.Blocks.All {
		if f, is := y.(*blueprint.FormBlock); is && f.Table == table && f.Changes == changes {
			return true
		}
	}
	return false
}

// propose adds a page, if anybody is to get it.
func (p *pages) propose(x Page, ways string) {
	if len(x.Roles) == 0 {
		return
	}
	x.ID = string(x.Kind) + "." + x.Table
	code := "made-" + string(x.Kind) + "-text"
	if x.Own {
		x.ID += ".own"
	}
	args := words.Args{"ways": ways, "roles": p.names(x.Roles)}
	if t := p.b.Table(x.Table); t != nil {
		args["table"], args["word"] = t.Name, t.OneWord()
	}
	x.Text = words.Say(code, args)
	p.out = append(p.out, x)
}

// homes proposes a home page for each role that has none and signs in, with its lists.
func (p *pages) homes() {
	first := true
	for _, r := range p.roles {
		if r.People == "" || len(r.Homes) > 0 || len(p.shown(r.ID)) == 0 {
			continue
		}
		name := words.Say("made-home", nil)
		if !first {
			name = words.Say("made-home-of", words.Args{"role": lower(r.Name)})
		}
		first = false
		p.out = append(p.out, Page{ID: string(Home) + "." + r.ID, Kind: Home, Name: name, Roles: []string{r.ID},
			Text: words.Say("made-home-text", words.Args{"roles": []string{r.Name}})})
	}
}

// mostAtHome is how many lists stand on a home page.
const mostAtHome = 4

// shown lists the tables whose records stand on the home page of a role: those that it
// sees, but for its own people, where that is nobody else.
func (p *pages) shown(role string) []*blueprint.Table {
	r := p.b.Role(role)
	var out []*blueprint.Table
	for _, t := range p.tables {
		x := r.Rule(t.ID).See
		if x.Extent == "" || x.Extent == blueprint.NoRecords || t.ID == r.People && x.Extent == blueprint.Where {
			continue
		}
		if len(out) < mostAtHome {
			out = append(out, t)
		}
	}
	return out
}

func (p *pages) names(roles []string) []string {
	var out []string
	for _, id := range roles {
		out = append(out, p.b.Role(id).Name)
	}
	return out
}

// somebody is the id of a record that nobody is.
const somebody = "00000000-0000-4000-8000-000000000000"

// viewer is somebody who has a role.
func (p *pages) viewer(role string) access.Viewer {
	m := access.Membership{Role: role}
	if p.b.Role(role).People != "" {
		m.Record = somebody
	}
	return access.Viewer{Memberships: []access.Membership{m}}
}

// seen leaves the fields that one of the roles sees.
func (p *pages) seen(t *blueprint.Table, fields, roles []string) ([]string, error) {
	return p.any(fields, roles, func(role, field string) (bool, error) {
		return access.Sees(p.b, p.catalog, p.viewer(role), t.ID, field)
	})
}

// questions lists the fields for which a form asks one of the roles.
func (p *pages) questions(t *blueprint.Table, roles []string, a blueprint.Action) ([]string, error) {
	var fields []string
	for i := range t.Fields {
		if f := &t.Fields[i]; f.Type.Entered() && f.Type != blueprint.Links {
			fields = append(fields, f.ID)
		}
	}
	return p.any(fields, roles, func(role, field string) (bool, error) {
		return access.Asks(p.b, p.catalog, p.viewer(role), t.ID, field, a)
	})
}

// any leaves the fields for which something holds for one of the roles.
func (p *pages) any(fields, roles []string, holds func(role, field string) (bool, error)) ([]string, error) {
	var out []string
	for _, f := range fields {
		for _, r := range roles {
			ok, err := holds(r, f)
			if err != nil {
				return nil, err
			}
			if ok {
				out = append(out, f)
				break
			}
		}
	}
	return out, nil
}
