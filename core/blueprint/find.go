package blueprint

import (
	"slices"

	"pinegate/core/expr"
)

// Table gives the table with the id, or nil.
func (b *Blueprint) Table(id string) *Table {
	return find(b.Tables, func(t *Table) bool { return t.ID == id })
}

// List gives the choice list with the id, or nil.
func (b *Blueprint) List(id string) *ChoiceList {
	return find(b.Lists, func(l *ChoiceList) bool { return l.ID == id })
}

// Role gives the role with the id, or nil.
func (b *Blueprint) Role(id string) *Role {
	return find(b.Roles, func(r *Role) bool { return r.ID == id })
}

// Page gives the page with the id, or nil.
func (b *Blueprint) Page(id string) *Page {
	return find(b.Pages, func(p *Page) bool { return p.ID == id })
}

// PageAt gives the page with the path, or nil.
func (b *Blueprint) PageAt(path string) *Page {
	return find(b.Pages, func(p *Page) bool { return p.Path == path })
}

// Field gives the field with the id, or nil.
func (t *Table) Field(id string) *Field {
	return find(t.Fields, func(f *Field) bool { return f.ID == id })
}

// FieldByKey gives the field with the key, or nil.
func (t *Table) FieldByKey(key string) *Field {
	return find(t.Fields, func(f *Field) bool { return f.Key == key })
}

// Choice gives the choice with the id, or nil.
func (l *ChoiceList) Choice(id string) *Choice {
	return find(l.Choices, func(c *Choice) bool { return c.ID == id })
}

// Rule gives the role's rule for the table; without one nothing is allowed.
func (r *Role) Rule(table string) Rule {
	if rule := find(r.Rules, func(x *Rule) bool { return x.Table == table }); rule != nil {
		return *rule
	}
	return Rule{Table: table}
}

// Block gives the block with the id, or nil.
func (p *Page) Block(id string) *Block {
	return find(p.Blocks, func(x *Block) bool { return x.ID == id })
}

func find[T any](list []T, is func(*T) bool) *T {
	for i := range list {
		if is(&list[i]) {
			return &list[i]
		}
	}
	return nil
}

// Catalog gives the app's tables and lists as the expression language sees
// them.
func (b *Blueprint) Catalog() *expr.Catalog {
	c := &expr.Catalog{Tables: map[string]*expr.Table{}, Lists: map[string]*expr.List{}}
	for _, l := range b.Lists {
		el := &expr.List{ID: l.ID, Name: l.Name}
		for _, ch := range l.Choices {
			el.Choices = append(el.Choices, expr.ListChoice{ID: ch.ID, Label: ch.Label})
		}
		c.Lists[l.ID] = el
	}
	for _, t := range b.Tables {
		et := &expr.Table{ID: t.ID, Key: t.Key, Name: t.Name}
		for _, f := range t.Fields {
			et.Fields = append(et.Fields, &expr.Field{ID: f.ID, Key: f.Key, Name: f.Name, Table: t.ID, Type: f.ExprType()})
		}
		c.Tables[t.ID] = et
	}
	return c
}

// ExprType is the type of the field's value in expressions.
func (f Field) ExprType() expr.Type {
	switch f.Type {
	case Number:
		return expr.Type{Kind: expr.Number}
	case YesNo:
		return expr.Type{Kind: expr.YesNo}
	case Date:
		return expr.Type{Kind: expr.Date}
	case Choose:
		return expr.Type{Kind: expr.Choice, List: f.List}
	case Link:
		return expr.Type{Kind: expr.Record, Table: f.Target}
	}
	return expr.Type{Kind: expr.Text}
}

// Admits tells whether the page is open to somebody with these roles; a
// visitor has the role [VisitorRole] alone.
func (p *Page) Admits(roles []string) bool {
	switch p.Audience {
	case Everyone:
		return true
	case SignedIn:
		return slices.ContainsFunc(roles, func(r string) bool { return r != VisitorRole })
	case SomeRole:
		return slices.ContainsFunc(roles, func(r string) bool { return slices.Contains(p.Roles, r) })
	}
	return false
}

// MeTable gives the id of the table of which "me" is a record on the page:
// that of the roles who may open it when they share one, else
// [expr.PersonTable]; "" when nobody who may open it can be signed in.
func (b *Blueprint) MeTable(p *Page) string {
	me := ""
	for _, r := range b.Roles {
		if r.People == "" || !p.Admits([]string{r.ID}) {
			continue
		}
		if me != "" && me != r.People {
			return expr.PersonTable
		}
		me = r.People
	}
	return me
}

// PageScope is the scope of texts on the page.
func (b *Blueprint) PageScope(p *Page, catalog *expr.Catalog) expr.Scope {
	return expr.Scope{Catalog: catalog, Row: p.Record, Me: b.MeTable(p), Page: p.Record}
}

// ListScope is the scope of the filter of a list on the page.
func (b *Blueprint) ListScope(p *Page, l *List, catalog *expr.Catalog) expr.Scope {
	return expr.Scope{Catalog: catalog, Row: l.Table, Me: b.MeTable(p), Page: p.Record}
}

// PresetScope is the scope of what a form on the page fills in by itself.
func (b *Blueprint) PresetScope(p *Page, catalog *expr.Catalog) expr.Scope {
	return expr.Scope{Catalog: catalog, Me: b.MeTable(p), Page: p.Record}
}

// RuleScope is the scope of a role's conditions over a table.
func (r *Role) RuleScope(table string, catalog *expr.Catalog) expr.Scope {
	return expr.Scope{Catalog: catalog, Row: table, Me: r.People}
}
