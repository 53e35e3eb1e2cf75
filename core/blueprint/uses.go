package blueprint

import (
	"fmt"
	"slices"
	"strings"

	"pinegate/core/expr"
)

// use is a place in the blueprint where a founder wrote an expression or a
// text with placeholders.
type use struct {
	where    string // "the condition by which Crew see Boats"
	source   *string
	scope    expr.Scope
	want     *expr.Type // nil where any type will do
	template bool
	// mend makes the place do without the expression, tells what becomes of it,
	// and what else had to be mended for that.
	mend func(b *Blueprint, lost func(expr.Ref) bool) (does string, also []Mended)
}

// cleared empties the expression.
func cleared(source *string, does string) func(*Blueprint, func(expr.Ref) bool) (string, []Mended) {
	return func(*Blueprint, func(expr.Ref) bool) (string, []Mended) {
		*source = ""
		return does, nil
	}
}

// check checks the expression, or those of the placeholders.
func (u use) check() ([]*expr.Checked, error) {
	if *u.source == "" {
		return nil, nil
	}
	if u.template {
		t, err := expr.CheckTemplate(*u.source, u.scope)
		return t.Checked(), err
	}
	var c *expr.Checked
	var err error
	if u.want == nil {
		c, err = expr.Check(*u.source, u.scope)
	} else {
		c, err = expr.CheckAs(*u.source, u.scope, *u.want)
	}
	if err != nil {
		return nil, err
	}
	return []*expr.Checked{c}, nil
}

var (
	wantText      = &expr.Type{Kind: expr.Text}
	wantCondition = &expr.Type{Kind: expr.YesNo}
)

// uses lists every expression of the blueprint, pointing into it.
func (b *Blueprint) uses() []use {
	catalog := b.Catalog()
	var out []use
	for i := range b.Tables {
		t := &b.Tables[i]
		out = append(out, use{fmt.Sprintf("the label of %s", t.Name), &t.Label, expr.Scope{Catalog: catalog, Row: t.ID}, wantText, false,
			func(_ *Blueprint, lost func(expr.Ref) bool) (string, []Mended) { return t.mendLabel(lost), nil }})
		out = append(out, b.fieldUses(t, catalog)...)
	}
	for i := range b.Roles {
		out = append(out, b.Roles[i].uses(b, catalog)...)
	}
	for i := range b.Expectations {
		e := &b.Expectations[i]
		r, t := b.Role(e.Role), b.Table(e.Table)
		if r == nil || t == nil {
			continue
		}
		id := e.ID
		out = append(out, use{fmt.Sprintf("what is expected of %s and %s", r.Name, t.Name), &e.Except, r.RuleScope(t.ID, catalog), wantCondition, false, func(b *Blueprint, _ func(expr.Ref) bool) (string, []Mended) {
			b.forgetExpectations(func(e Expectation) bool { return e.ID == id })
			return "it is no longer expected", nil
		}})
	}
	for i := range b.Pages {
		p := &b.Pages[i]
		for j := range p.Blocks {
			out = append(out, b.blockUses(p, &p.Blocks[j], catalog)...)
		}
	}
	return out
}

// fieldUses lists the formulas, conditions and defaults of a table's fields.
func (b *Blueprint) fieldUses(t *Table, catalog *expr.Catalog) []use {
	var out []use
	for j := range t.Fields {
		f := &t.Fields[j]
		what := fmt.Sprintf("%s of %s", f.Name, t.Name)
		taken := func(b *Blueprint, _ func(expr.Ref) bool) (string, []Mended) {
			return "the field is removed, too", b.takeField(t, f)[1:]
		}
		if f.Formula != "" {
			out = append(out, use{"the formula of " + what, &f.Formula, expr.Scope{Catalog: catalog, Row: t.ID}, nil, false, taken})
		}
		if via := t.Field(f.Via); f.Where != "" && via != nil {
			out = append(out, use{"the condition of " + what, &f.Where, expr.Scope{Catalog: catalog, Row: t.ID, Inner: via.Target}, wantCondition, false, taken})
		}
		if f.Default != "" {
			want := f.ExprType()
			out = append(out, use{"the default of " + what, &f.Default, b.DefaultScope(catalog), &want, false, cleared(&f.Default, "it has no default any more")})
		}
	}
	return out
}

func (r *Role) uses(b *Blueprint, catalog *expr.Catalog) []use {
	out := r.gateUses(b, catalog)
	for j := range r.Rules {
		rule := &r.Rules[j]
		t := b.Table(rule.Table)
		if t == nil {
			continue
		}
		for _, a := range []struct {
			verb string
			p    *Permission
		}{{"see", &rule.See}, {"add", &rule.Add}, {"change", &rule.Change}, {"delete", &rule.Delete}} {
			where := fmt.Sprintf("the condition by which %s %s %s", r.Name, a.verb, t.Name)
			out = append(out, use{where, &a.p.Condition, r.RuleScope(t.ID, catalog), wantCondition, false, func(*Blueprint, func(expr.Ref) bool) (string, []Mended) {
				*a.p = Permission{}
				return fmt.Sprintf("%s may %s no %s until you say which", r.Name, a.verb, t.Name), nil
			}})
		}
		for k := range rule.Given {
			pre := &rule.Given[k]
			if f := t.Field(pre.Field); f != nil {
				want := f.ExprType()
				out = append(out, use{fmt.Sprintf("what is filled in for %s when %s add to %s", f.Name, r.Name, t.Name), &pre.Value, r.GivenScope(catalog), &want, false, func(*Blueprint, func(expr.Ref) bool) (string, []Mended) {
					rule.Given, rule.Add = slices.DeleteFunc(rule.Given, func(x Preset) bool { return x.Field == f.ID }), Permission{}
					return fmt.Sprintf("%s may add no %s until you say which", r.Name, t.Name), nil
				}})
			}
		}
	}
	return out
}

// gateUses lists the conditions over the people of a role. One that cannot be
// read lets nobody in.
func (r *Role) gateUses(b *Blueprint, catalog *expr.Catalog) []use {
	t := b.Table(r.People)
	if t == nil {
		return nil
	}
	scope := b.PeopleScope(r, catalog)
	closed := func(*Blueprint, func(expr.Ref) bool) (string, []Mended) {
		r.forgetPeople()
		return r.Name + " have no people until you say who they are", nil
	}
	out := []use{
		{"the condition by which people are " + r.Name, &r.Where, scope, wantCondition, false, closed},
		{"the condition by which " + r.Name + " are let in", &r.Admit, scope, wantCondition, false, closed},
	}
	for i := range r.Homes {
		h := &r.Homes[i]
		out = append(out, use{"where " + r.Name + " land after signing in", &h.When, scope, wantCondition, false, func(*Blueprint, func(expr.Ref) bool) (string, []Mended) {
			r.Homes = slices.Delete(r.Homes, i, i+1)
			return "they land on another page", nil
		}})
	}
	for i := range r.SignUp.Presets {
		pre := &r.SignUp.Presets[i]
		if f := t.Field(pre.Field); f != nil {
			want := f.ExprType()
			out = append(out, use{"what is filled in for " + f.Name + " of new " + r.Name, &pre.Value, b.SignUpScope(catalog), &want, false, func(*Blueprint, func(expr.Ref) bool) (string, []Mended) {
				r.SignUp.Presets = slices.Delete(r.SignUp.Presets, i, i+1)
				r.SignUp.Mode = NoSignUp
				return "nobody can sign up as one of " + r.Name + " until you say so", nil
			}})
		}
	}
	return out
}

func (b *Blueprint) blockUses(p *Page, bl *Block, catalog *expr.Catalog) []use {
	where := func(what string) string { return fmt.Sprintf("%s on the page %s", what, p.Name) }
	out := []use{{where("the " + string(bl.Kind)), &bl.Text, b.PageScope(p, catalog), nil, true, nil}}
	if l := bl.List; l != nil {
		out = append(out, use{where("the condition of the list"), &l.Filter, b.ListScope(p, l, catalog), wantCondition, false, func(*Blueprint, func(expr.Ref) bool) (string, []Mended) {
			id := bl.ID // without its condition it would show more than it should
			p.Blocks = slices.DeleteFunc(p.Blocks, func(x Block) bool { return x.ID == id })
			return "the list is taken off the page", nil
		}})
	}
	if f := bl.Form; f != nil {
		t := b.Table(f.Table)
		for k := range f.Presets {
			pre := &f.Presets[k]
			if t == nil || t.Field(pre.Field) == nil {
				continue
			}
			want := t.Field(pre.Field).ExprType()
			out = append(out, use{where("what the form fills in for " + t.Field(pre.Field).Name), &pre.Value, b.PresetScope(p, catalog), &want, false, func(*Blueprint, func(expr.Ref) bool) (string, []Mended) {
				field := pre.Field
				f.Presets = slices.DeleteFunc(f.Presets, func(x Preset) bool { return x.Field == field })
				return "the form does not fill it in any more", nil
			}})
		}
	}
	return out
}

// renameInExpressions makes every expression follow a change of names. For
// each ref that refsOf gives, rename says the new name, or "" where the old one
// stays. The expressions are read with the names from before.
func (b *Blueprint) renameInExpressions(refsOf func(*expr.Checked) []expr.Ref, rename func(expr.Ref) string) error {
	for _, u := range b.uses() {
		checked, err := u.check()
		if err != nil {
			return fmt.Errorf("read %s: %w", u.where, err)
		}
		var refs []expr.Ref
		for _, c := range checked {
			refs = append(refs, refsOf(c)...)
		}
		slices.SortFunc(refs, func(x, y expr.Ref) int { return x.At.Start - y.At.Start })
		*u.source = expr.Rewrite(*u.source, refs, rename)
	}
	return nil
}

func fieldRefs(c *expr.Checked) []expr.Ref { return c.Refs }

func (b *Blueprint) renameChoiceInExpressions(choice, label string) error {
	return b.renameInExpressions((*expr.Checked).ChoiceRefs, func(r expr.Ref) string {
		if r.Field != choice {
			return ""
		}
		return `"` + strings.ReplaceAll(label, `"`, `""`) + `"`
	})
}

// usesOfField says in words which expressions name the field.
func (b *Blueprint) usesOfField(table, field string) []string {
	return b.usesWhere(fieldRefs, func(r expr.Ref) bool { return r.Table == table && r.Field == field })
}

// usesOfChoice says in words which expressions compare with the choice.
func (b *Blueprint) usesOfChoice(choice string) []string {
	return b.usesWhere((*expr.Checked).ChoiceRefs, func(r expr.Ref) bool { return r.Field == choice })
}

func (b *Blueprint) usesWhere(refsOf func(*expr.Checked) []expr.Ref, is func(expr.Ref) bool) []string {
	var out []string
	for _, u := range b.uses() {
		checked, err := u.check()
		if err != nil {
			continue // Validate tells of it
		}
		for _, c := range checked {
			if slices.ContainsFunc(refsOf(c), is) {
				out = append(out, u.where)
				break
			}
		}
	}
	return out
}

// Follow gives a condition over records of a table, which was written when the
// app was as before, with the names that things have after. One that cannot be
// read, or that names what is gone, stays as it is.
func Follow(source string, before, after *Blueprint, table string) string {
	c, err := expr.CheckCondition(source, expr.Scope{Catalog: before.Catalog(), Row: table})
	if err != nil {
		return source
	}
	refs := append(slices.Clone(c.Refs), c.ChoiceRefs()...)
	slices.SortFunc(refs, func(x, y expr.Ref) int { return x.At.Start - y.At.Start })
	return expr.Rewrite(source, refs, after.nameOf)
}

// nameOf gives how an expression names what a ref means; "" where it is gone.
func (b *Blueprint) nameOf(r expr.Ref) string {
	for i := range b.Lists {
		l := &b.Lists[i]
		if c := l.Choice(r.Field); c != nil && r.Table == "" {
			return `"` + strings.ReplaceAll(c.Label, `"`, `""`) + `"`
		}
		if i := slices.IndexFunc(l.Columns, func(c ListColumn) bool { return l.ID == r.Table && c.ID == r.Field }); i >= 0 {
			return named(r, l.Columns[i].Key, l.Columns[i].Name)
		}
	}
	t := b.Table(r.Table)
	switch {
	case t == nil:
		return ""
	case r.Field == "":
		return named(r, t.Key, t.Name)
	}
	if f := t.Field(r.Field); f != nil {
		return named(r, f.Key, f.Name)
	}
	return ""
}

func named(r expr.Ref, key, name string) string {
	if r.Bracketed {
		return name
	}
	return key
}
