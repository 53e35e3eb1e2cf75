package blueprint

import (
	"iter"
	"slices"
	"strings"

	"pinegate/core/expr"
	"pinegate/core/prop"
)

// Context is where a thing stands: what it can name, and what expressions mean
// there. The zero value offers nothing, so that settings can be listed without
// an app.
type Context struct {
	b       *Blueprint
	catalog *expr.Catalog
	table   *Table
	list    *ChoiceList
	role    *Role
	page    *Page
	holder  Holder // the block that holds the thing, or nil
	depth   int    // how many do, one in another
	row     string // id of the table in whose rows it stands, or ""
	part    *Part
	form    *FormBlock    // in which it stands, or nil
	with    *WithBlock    // that goes with the form, in which it stands; or nil
	asks    *RoleForm     // of a role, in which it stands; or nil
	flow    *Workflow     // in which it stands, or nil
	steps   StepHolder    // the step that holds it, or nil
	made    []*expr.Field // what steps before it make
	call    *Call         // of a service, to which it belongs, or nil
	report  *Reported     // of the figure or chart to which it belongs, or nil; holds is the id of that
	holds   string
}

func (b *Blueprint) context() Context { return Context{b: b, catalog: b.Catalog()} }

// Blueprint gives the app, or nil.
func (c Context) Blueprint() *Blueprint { return c.b }

// Table gives the table in which the thing is, or nil.
func (c Context) Table() *Table { return c.table }

// Role gives the role to which the thing belongs, or nil.
func (c Context) Role() *Role { return c.role }

// Page gives the page on which the thing is, or nil.
func (c Context) Page() *Page { return c.page }

// Takes tells whether a block of a kind can be put where the context is.
func (c Context) Takes(k *BlockKind) bool {
	return (!k.About || c.record() != "") && (!isTabs(c.holder) || k == &groupKind) && (c.row == "" || k.InRows) && k.fits(c.form) &&
		(c.with == nil || !slices.Contains([]*BlockKind{&withKind, &sectionKind, &freeKind, &resultKind, &courseKind}, k)) &&
		(c.asks == nil || k != &withKind && k != &resultKind && k != &courseKind) &&
		(c.flow == nil && !c.keepsNothing() || k != &withKind && k != &questionKind)
}

// keepsNothing tells whether it is in a form that adds no record.
func (c Context) keepsNothing() bool { return c.form != nil && c.form.Calculates() && !c.form.Sends() }

func (c Context) tableID() string {
	if c.table == nil {
		return ""
	}
	return c.table.ID
}

// record gives the id of the table of the record in hand, or "".
func (c Context) record() string {
	if c.page == nil && c.part == nil {
		return ""
	}
	return c.spot().Record()
}

func (c Context) spot() Spot { return Spot{Page: c.page, Row: c.row, Part: c.part} }

// stands gives the name of the page or the part in which the thing is.
func (c Context) stands() string {
	if c.part != nil {
		return c.part.Name
	}
	return c.page.Name
}

// Part gives the part in which the thing stands, or nil.
func (c Context) Part() *Part { return c.part }

func (c Context) tableOf(id string) *Table {
	if c.b == nil {
		return nil
	}
	return c.b.Table(id)
}

func (c Context) field(table, id string) *Field {
	if t := c.tableOf(table); t != nil {
		return t.Field(id)
	}
	return nil
}

// offers makes what can be named of a list of things.
func offers[T any](what string, list []T, option func(*T) (prop.Option, bool)) prop.To {
	return prop.To{What: what, All: func(yield func(prop.Option) bool) {
		for i := range list {
			if o, ok := option(&list[i]); ok && !yield(o) {
				return
			}
		}
	}}
}

// Tables offers the tables.
func (c Context) Tables() prop.To {
	if c.b == nil {
		return prop.To{What: "table"}
	}
	return offers("table", c.b.Tables, func(t *Table) (prop.Option, bool) { return prop.Option{Value: t.ID, Words: t.Name}, true })
}

// Lists offers the choice lists.
func (c Context) Lists() prop.To {
	if c.b == nil {
		return prop.To{What: "list"}
	}
	return offers("list", c.b.Lists, func(l *ChoiceList) (prop.Option, bool) {
		return prop.Option{Value: l.ID, Words: l.Name}, true
	})
}

// Fields offers the fields of a table for which something holds; all for nil.
func (c Context) Fields(table string, only func(*Field) bool) prop.To {
	t := c.tableOf(table)
	if t == nil {
		return prop.To{What: "field"}
	}
	return offers("field", t.Fields, func(f *Field) (prop.Option, bool) {
		return prop.Option{Value: f.ID, Words: f.Name}, only == nil || only(f)
	})
}

// Pages offers the pages for which something holds.
func (c Context) Pages(only func(*Page) bool) prop.To {
	if c.b == nil {
		return prop.To{What: "page"}
	}
	return offers("page", c.b.Pages, func(p *Page) (prop.Option, bool) { return prop.Option{Value: p.ID, Words: p.Name}, only(p) })
}

// Reachable offers the pages that can be shown where a record of the table is in
// hand.
func (c Context) Reachable(table string) prop.To {
	return c.Pages(func(p *Page) bool { return p.Record == "" || p.Record == table })
}

// Roles offers the roles.
func (c Context) Roles() prop.To {
	if c.b == nil {
		return prop.To{What: "role"}
	}
	return offers("role", c.b.Roles, func(r *Role) (prop.Option, bool) { return prop.Option{Value: r.ID, Words: r.Name}, true })
}

// sortings offers the ways to sort records of a table: by a field, or by a column
// of its choice list whose id stands behind a dot.
func (c Context) sortings(table string) prop.To {
	t := c.tableOf(table)
	if t == nil {
		return prop.To{What: "field"}
	}
	return prop.To{What: "field", All: func(yield func(prop.Option) bool) {
		for i := range t.Fields {
			f := &t.Fields[i]
			if !yield(prop.Option{Value: f.ID, Words: f.Name}) {
				return
			}
			for _, col := range c.b.SortColumns(f) {
				if !yield(prop.Option{Value: f.ID + "." + col.ID, Words: col.Name + " of " + f.Name}) {
					return
				}
			}
		}
	}}
}

// finders offers the fields by which people of the role can be found: their own,
// and those of records that each link to one of them.
func (c Context) finders() prop.To {
	if c.role == nil {
		return prop.To{What: "field"}
	}
	return prop.To{What: "field", All: func(yield func(prop.Option) bool) {
		t := c.tableOf(c.role.People)
		if t == nil {
			return
		}
		for i := range t.Fields {
			f := &t.Fields[i]
			if f.Type.Row().Finding && !yield(prop.Option{Value: f.ID, Words: f.Name}) {
				return
			}
			back := c.field(f.Target, f.Of)
			if back == nil || back.Type != Link {
				continue
			}
			at := c.tableOf(f.Target)
			for j := range at.Fields {
				x := &at.Fields[j]
				if x.Type.Row().Finding && !yield(prop.Option{Value: f.ID + "." + x.ID, Words: x.Name + " of one of their " + at.Name}) {
					return
				}
			}
		}
	}}
}

// Rows is the scope of expressions over a record of the table.
func (c Context) Rows(table string) expr.Scope { return expr.Scope{Catalog: c.catalog, Row: table} }

// Person is the scope of expressions that only know who is signed in.
func (c Context) Person() expr.Scope { return expr.Scope{Catalog: c.catalog, Me: expr.PersonTable} }

// Here is the scope of texts where the thing stands, Listed that of conditions over
// records of a table there, and Beforehand that of what is filled in there.
func (c Context) Here() expr.Scope {
	if c.page == nil && c.part == nil {
		return expr.Scope{}
	}
	s := c.spot()
	s.Form = c.form
	return c.b.ScopeAt(s, c.catalog)
}

// Listed is the scope of conditions over records of a table that the page shows.
func (c Context) Listed(table string) expr.Scope {
	if c.page == nil && c.part == nil {
		return expr.Scope{}
	}
	return c.b.ListScope(c.spot(), table, c.catalog)
}

// Beforehand is the scope of what a form on the page fills in.
func (c Context) Beforehand() expr.Scope { return c.Listed("") }

// Ruled is the scope of the role's conditions over a table.
func (c Context) Ruled(table string) expr.Scope {
	if c.role == nil {
		return expr.Scope{}
	}
	return c.role.RuleScope(table, c.catalog)
}

// want gives the type of the values of a field.
func (c Context) want(table string) func(string) expr.Type {
	return func(id string) expr.Type {
		if f := c.field(table, id); f != nil {
			return f.ExprType()
		}
		return expr.Type{}
	}
}

// OwnOffers lists conditions that make records of a table the person's own: the
// paths over links from the table to the role's people, shortest first.
func (b *Blueprint) OwnOffers(table string, r *Role) iter.Seq[string] {
	return func(yield func(string) bool) {
		if r.People == "" || table == r.People && !yield("this = me") {
			return
		}
		for _, path := range b.LinkPaths(table, r.People, 3) {
			if !yield(strings.Join(path, ".") + " = me") {
				return
			}
		}
	}
}

func (c Context) ownOffers(table string) iter.Seq[prop.Option] {
	return func(yield func(prop.Option) bool) {
		if c.role == nil || c.b == nil {
			return
		}
		for source := range c.b.OwnOffers(table, c.role) {
			if !yield(prop.Option{Value: source}) {
				return
			}
		}
	}
}

// mostPaths is how many paths are looked for.
const mostPaths = 6

// LinkPaths finds the paths of at most depth links from one table to another, by
// the keys of the links.
func (b *Blueprint) LinkPaths(from, to string, depth int) [][]string {
	type step struct {
		table string
		path  []string
	}
	var out [][]string
	queue := []step{{table: from}}
	for len(queue) > 0 && len(out) < mostPaths {
		at := queue[0]
		queue = queue[1:]
		t := b.Table(at.table)
		if t == nil || len(at.path) >= depth {
			continue
		}
		for _, f := range t.Fields {
			if f.Type != Link {
				continue
			}
			path := append(append([]string{}, at.path...), f.Key)
			if f.Target == to {
				out = append(out, path)
			} else if f.Target != from {
				queue = append(queue, step{f.Target, path})
			}
		}
	}
	return out
}

func isEntered(f *Field) bool { return f.Type.Entered() }
