package blueprint

import (
	"fmt"
	"slices"
	"strings"

	"pinegate/core/expr"
)

// Mended is a place that used something which is removed, and what becomes of
// it, in words.
type Mended struct {
	Use  string `json:"use"`  // "the condition by which Crew see Boats"
	Does string `json:"does"` // "Crew see no Boats until you say which"
}

// Mends tells what would have to be mended for a removal to be possible. It is
// empty where nothing uses what is removed, and for changes that remove no
// table and no field.
func Mends(b *Blueprint, c Change) ([]Mended, error) {
	next, err := b.clone()
	if err != nil {
		return nil, err
	}
	switch c := c.(type) {
	case *RemoveField:
		t, f, err := c.find(next)
		if err != nil {
			return nil, err
		}
		return next.mendField(t.ID, f.ID), nil
	case *RemoveTable:
		if next.Table(c.Table) == nil {
			return nil, gone("table")
		}
		return next.mendTable(c.Table), nil
	}
	return nil, nil
}

// mendField frees a field of all that uses it. What is made of it goes with it;
// a rule whose condition names it allows nothing any more; so nobody sees more
// than before.
func (b *Blueprint) mendField(table, field string) []Mended {
	var out []Mended
	for i := range b.Roles {
		if r := &b.Roles[i]; r.Email == field {
			r.forgetPeople()
			out = append(out, Mended{"the role " + r.Name + ", which knows its people by it", r.Name + " have no people until you say who they are"})
		}
	}
	for {
		t, f := b.fieldWhich(func(_ *Table, f *Field) bool { return f.Via == field || f.Take == field || f.Of == field })
		if f == nil {
			break
		}
		out = append(out, b.takeField(t, f)...)
	}
	return append(out, b.mendExpressions(fieldRefs, func(r expr.Ref) bool { return r.Table == table && r.Field == field })...)
}

// fieldWhich finds the first field of which something holds.
func (b *Blueprint) fieldWhich(holds func(*Table, *Field) bool) (*Table, *Field) {
	for i := range b.Tables {
		t := &b.Tables[i]
		for j := range t.Fields {
			if f := &t.Fields[j]; holds(t, f) {
				return t, f
			}
		}
	}
	return nil, nil
}

// takeField removes a field with all that uses it.
func (b *Blueprint) takeField(t *Table, f *Field) []Mended {
	table, id := t.ID, f.ID
	out := []Mended{{fmt.Sprintf("%s of %s", f.Name, t.Name), "it is removed, too"}}
	out = append(out, b.mendField(table, id)...)
	b.forgetField(id)
	t = b.Table(table)
	t.Fields = slices.DeleteFunc(t.Fields, func(x Field) bool { return x.ID == id })
	return out
}

// mendExpressions frees what is meant of all expressions that name it, and
// mends those that cannot be read any more. Mending one moves others, so each
// time the first of those that are left is taken.
func (b *Blueprint) mendExpressions(refsOf func(*expr.Checked) []expr.Ref, is func(expr.Ref) bool) []Mended {
	lost := func(list []*expr.Checked, err error) bool {
		return err != nil || slices.ContainsFunc(list, func(c *expr.Checked) bool { return slices.ContainsFunc(refsOf(c), is) })
	}
	var out []Mended
	for {
		uses := b.uses()
		i := slices.IndexFunc(uses, func(u use) bool { return lost(u.check()) })
		if i < 0 {
			return out
		}
		u := uses[i]
		if u.template {
			cutPlaceholders(u, lost)
			out = append(out, Mended{u.where, "the placeholder is taken out of the text"})
			continue
		}
		does, also := u.mend(b, is)
		out = append(append(out, Mended{u.where, does}), also...)
	}
}

// cutPlaceholders takes the placeholders that are lost out of a text.
func cutPlaceholders(u use, lost func([]*expr.Checked, error) bool) {
	var text strings.Builder
	rest := *u.source
	for {
		before, after, more := strings.Cut(rest, "{{")
		text.WriteString(before)
		if !more {
			break
		}
		inside, behind, _ := strings.Cut(after, "}}")
		c, err := expr.Check(inside, u.scope)
		if !lost([]*expr.Checked{c}, err) {
			text.WriteString("{{" + inside + "}}")
		}
		rest = behind
	}
	*u.source = strings.TrimSpace(text.String())
	if *u.source == "" {
		*u.source = "–"
	}
}

// mendTable frees a table of all that uses it.
func (b *Blueprint) mendTable(id string) []Mended {
	var out []Mended
	for i := range b.Roles {
		if r := &b.Roles[i]; r.People == id {
			r.forgetPeople()
			out = append(out, Mended{"the role " + r.Name + ", whose people it holds", r.Name + " have no people until you say who they are"})
		}
	}
	for {
		t, f := b.fieldWhich(func(t *Table, f *Field) bool { return f.Target == id && t.ID != id })
		if f == nil {
			break
		}
		out = append(out, b.takeField(t, f)...)
	}
	out = append(out, b.takeBlocks(id)...)
	for i := range b.Roles {
		r := &b.Roles[i]
		r.Rules = slices.DeleteFunc(r.Rules, func(x Rule) bool { return x.Table == id })
	}
	return append(out, b.mendExpressions(fieldRefs, func(r expr.Ref) bool { return r.Table == id && r.Field == "" })...)
}

// takeBlocks removes the pages about a table, and the lists and forms of it on
// other pages, with the ways that lead to such pages.
func (b *Blueprint) takeBlocks(table string) []Mended {
	var out []Mended
	for i := range b.Pages {
		if p := &b.Pages[i]; p.Record == table {
			out = append(out, Mended{"the page " + p.Name, "it is removed, too"})
		}
	}
	b.Pages = slices.DeleteFunc(b.Pages, func(p Page) bool { return p.Record == table })
	for i := range b.Pages {
		p := &b.Pages[i]
		for _, x := range p.Blocks {
			if x.of(table) {
				out = append(out, Mended{fmt.Sprintf("a %s on the page %s", x.Kind, p.Name), "it is taken off the page"})
			}
		}
		p.Blocks = slices.DeleteFunc(p.Blocks, func(x Block) bool { return x.of(table) })
	}
	return append(out, b.cutWays()...)
}

func (x Block) of(table string) bool {
	return x.List != nil && x.List.Table == table || x.Form != nil && x.Form.Table == table
}

// cutWays removes what leads to pages that are no longer there.
func (b *Blueprint) cutWays() []Mended {
	var out []Mended
	lost := func(page string) bool { return page != "" && b.Page(page) == nil }
	for i := range b.Roles {
		r := &b.Roles[i]
		if n := len(r.Homes); n > 0 {
			r.Homes = slices.DeleteFunc(r.Homes, func(h Home) bool { return lost(h.Page) })
			if len(r.Homes) < n {
				out = append(out, Mended{"where " + r.Name + " land after signing in", "they land on another page"})
			}
		}
	}
	for i := range b.Pages {
		p := &b.Pages[i]
		for j := range p.Blocks {
			x := &p.Blocks[j]
			switch {
			case lost(x.Page):
				out = append(out, Mended{fmt.Sprintf("the button “%s” on the page %s", x.Text, p.Name), "it is taken off the page"})
			case x.List != nil && lost(x.List.Open):
				x.List.Open = ""
				out = append(out, Mended{fmt.Sprintf("a list on the page %s", p.Name), "its rows open no page any more"})
			case x.Form != nil && lost(x.Form.Then):
				x.Form.Then = ""
				out = append(out, Mended{fmt.Sprintf("a form on the page %s", p.Name), "it leads to no other page any more"})
			}
		}
		p.Blocks = slices.DeleteFunc(p.Blocks, func(x Block) bool { return lost(x.Page) })
	}
	return out
}

// mendLabel makes a table known by its first text field that stays, or by its
// name.
func (t *Table) mendLabel(lost func(expr.Ref) bool) string {
	for _, f := range t.Fields {
		if f.Type == Text && !lost(expr.Ref{Table: t.ID, Field: f.ID}) {
			t.Label = f.Key
			return fmt.Sprintf("%s are known by their %s", t.Name, f.Name)
		}
	}
	t.Label = `"` + strings.ReplaceAll(t.Name, `"`, `""`) + `"`
	return fmt.Sprintf("all %s are known as “%s”", t.Name, t.Name)
}
