package blueprint

import (
	"net/url"
	"slices"
	"strings"

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

// PageNamed gives the page that a person of a role named in the role's [Role.HomeField], by
// the choice or the text that stands there; nil where it names none.
func (b *Blueprint) PageNamed(r *Role, said string) *Page {
	if t := b.Table(r.People); t != nil {
		if f := t.Field(r.HomeField); f != nil && f.Type == Choose {
			c := b.List(f.List).Choice(said)
			if c == nil {
				return nil
			}
			said = c.Label
		}
	}
	said = strings.TrimSpace(said)
	return find(b.Pages, func(p *Page) bool { return said != "" && (strings.EqualFold(p.Name, said) || p.Path == said) })
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
func (p *Page) Block(id string) Block { return p.Blocks.block(id) }

// Block gives the block with the id, or nil.
func (p *Part) Block(id string) Block { return p.Blocks.block(id) }

// Blocks goes through the blocks of all pages and parts, with those inside of others.
func (b *Blueprint) Blocks(yield func(Block) bool) {
	for _, p := range b.Pages {
		for x := range p.Blocks.All {
			if !yield(x) {
				return
			}
		}
	}
	for _, p := range b.Parts {
		for x := range p.Blocks.All {
			if !yield(x) {
				return
			}
		}
	}
}

func (bs Blocks) block(id string) Block {
	for x := range bs.All {
		if x.Self().ID == id {
			return x
		}
	}
	return nil
}

// blocksOf gives the blocks of the page, or of the block, with the id; nil where
// there is none that holds blocks.
func (b *Blueprint) blocksOf(id string) *Blocks {
	for i := range b.Pages {
		p := &b.Pages[i]
		if p.ID == id {
			return &p.Blocks
		}
		if h, ok := p.Block(id).(Holder); ok {
			return h.Inside()
		}
	}
	for i := range b.Parts {
		p := &b.Parts[i]
		if p.ID == id {
			return &p.Blocks
		}
		if h, ok := p.Blocks.block(id).(Holder); ok {
			return h.Inside()
		}
	}
	for f := range b.flowForms {
		if f.ID() == id {
			return &f.press.Blocks
		}
		if h, ok := f.press.Blocks.block(id).(Holder); ok {
			return h.Inside()
		}
	}
	for f := range b.RoleForms {
		if f.ID() == id {
			return f.blocks
		}
		if h, ok := f.blocks.block(id).(Holder); ok {
			return h.Inside()
		}
	}
	return nil
}

func find[T any](list []T, is func(*T) bool) *T {
	for i := range list {
		if is(&list[i]) {
			return &list[i]
		}
	}
	return nil
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

// Spot is where on a page something stands, which says what it has in hand.
type Spot struct {
	Page *Page      // nil in a part by itself
	Row  string     // id of the table in whose rows it stands, or ""
	Part *Part      // in which it stands, or nil
	Form *FormBlock // in which it stands, where texts and conditions know what is answered; or nil
}

// Record gives the id of the table of the record in hand, or "".
func (s Spot) Record() string {
	switch {
	case s.Part != nil:
		return s.Part.Record
	case s.Row != "":
		return s.Row
	}
	return s.Page.Record
}

// key tells spots apart for which scopes differ.
func (s Spot) key() (key struct{ page, row, part, form string }) {
	if s.Form != nil {
		key.form = s.Form.ID
	}
	if s.Part != nil {
		key.part = s.Part.ID
		return key
	}
	key.page, key.row = s.Page.ID, s.Row
	return key
}

// ScopeAt is the scope of texts and conditions at a spot.
func (b *Blueprint) ScopeAt(s Spot, catalog *expr.Catalog) expr.Scope {
	out := expr.Scope{Catalog: catalog, Row: s.Record(), Kept: true}
	if s.Form != nil {
		out.Answers = b.AnswersOf(s.Form, "", true, catalog)
	}
	if s.Part != nil { // it does not know on which pages it stands
		out.Me, out.Vars = b.MeTable(&Page{Audience: Everyone}), s.Part.vars()
		return out
	}
	out.Me, out.Page = b.MeTable(s.Page), s.Page.Record
	return out
}

// ListScope is the scope of conditions over records of a table at a spot; without a table,
// of what a form there fills in by itself.
func (b *Blueprint) ListScope(s Spot, table string, catalog *expr.Catalog) expr.Scope {
	scope := b.ScopeAt(s, catalog)
	if s.Part != nil { // lists and forms stand in no rows, so what it is about is the page's record
		scope.Page = s.Part.Record
	}
	scope.Row = table
	return scope
}

// RuleScope is the scope of a role's conditions over a table.
func (r *Role) RuleScope(table string, catalog *expr.Catalog) expr.Scope {
	return expr.Scope{Catalog: catalog, Row: table, Me: r.People}
}

// GivenScope is the scope of what is filled in when a role adds a record.
func (r *Role) GivenScope(catalog *expr.Catalog) expr.Scope {
	return expr.Scope{Catalog: catalog, Me: r.People}
}

// LetIn is the condition that people of the role meet who can be in the app; ""
// where all of its table do.
func (r *Role) LetIn() string {
	if r.Where == "" || r.Admit == "" {
		return r.Where + r.Admit
	}
	return "(" + r.Where + ") and (" + r.Admit + ")"
}

// OfPerson checks a condition over the record of a person of the role; nil where
// there is none.
func (b *Blueprint) OfPerson(r *Role, source string, catalog *expr.Catalog) (*expr.Checked, error) {
	if source == "" {
		return nil, nil
	}
	type place struct{ role, source string }
	return checkedOnce(b, place{r.ID, source}, func() (*expr.Checked, error) {
		return expr.CheckCondition(source, b.PeopleScope(r, catalog))
	})
}

// DefaultScope is the scope of the default values of fields. Who is signed in
// is known by name and email alone, as anybody may add a record.
func (b *Blueprint) DefaultScope(catalog *expr.Catalog) expr.Scope {
	return expr.Scope{Catalog: catalog, Me: expr.PersonTable}
}

// Expectation gives the expectation with the id, or nil.
func (b *Blueprint) Expectation(id string) *Expectation {
	return find(b.Expectations, func(e *Expectation) bool { return e.ID == id })
}

// Column gives the column of the list with the id, or nil.
func (l *ChoiceList) Column(id string) *ListColumn {
	return find(l.Columns, func(c *ListColumn) bool { return c.ID == id })
}

// FieldOfTable is a field with the table that it belongs to.
type FieldOfTable struct {
	Field
	Table, TableName string
}

// UsesOfList lists the fields that take their choices from the list.
func (b *Blueprint) UsesOfList(list string) []FieldOfTable {
	var out []FieldOfTable
	for _, t := range b.Tables {
		for _, f := range t.Fields {
			if f.List == list {
				out = append(out, FieldOfTable{f, t.ID, t.Name})
			}
		}
	}
	return out
}

// FirstColumn gives the id of the first extra column of a type, or "".
func (l *ChoiceList) FirstColumn(t ColumnType) string {
	for _, col := range l.Columns {
		if col.Type == t {
			return col.ID
		}
	}
	return ""
}

// SortColumns lists the extra columns by which the choices of a field can be
// sorted.
func (b *Blueprint) SortColumns(f *Field) []ListColumn {
	l := b.List(f.List)
	if l == nil || f.Type != Choose {
		return nil
	}
	return slices.DeleteFunc(slices.Clone(l.Columns), func(c ListColumn) bool { return c.Type == PictureColumn })
}

// Unruled gives the id of the first table of which nothing is said for a role, or
// "".
func (b *Blueprint) Unruled(role string) string {
	r := b.Role(role)
	if r == nil {
		return ""
	}
	for _, t := range b.Tables {
		if !slices.ContainsFunc(r.Rules, func(x Rule) bool { return x.Table == t.ID }) {
			return t.ID
		}
	}
	return ""
}

// Sorts tells whether records of the table can be sorted so: by a field, or by a
// column of its choice list whose id stands behind a dot.
func (b *Blueprint) Sorts(t *Table, by string) bool {
	_, ok := b.context().sortings(t.ID).Find(by)
	return ok
}

// OriginOf gives the origin of an address of another site that can be shown in a frame: one
// that is encrypted, without a name or a password in it.
func OriginOf(address string) (string, bool) {
	u, err := url.Parse(address)
	if err != nil || u.Scheme != "https" || u.User != nil || u.Hostname() == "" || strings.ContainsAny(u.Host, " ;,'\"*") {
		return "", false
	}
	return u.Scheme + "://" + strings.ToLower(u.Host), true
}

// Frames lists the origins of the sites whose pages the app shows, each once.
func (b *Blueprint) Frames() []string {
	var out []string
	for x := range b.Blocks {
		e, is := x.(*EmbedBlock)
		if !is {
			continue
		}
		if o, ok := OriginOf(e.Address); ok && !slices.Contains(out, o) {
			out = append(out, o)
		}
	}
	return out
}
