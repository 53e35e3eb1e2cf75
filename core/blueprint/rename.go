package blueprint

import (
	"fmt"
	"slices"
	"strings"

	"pinegate/core/expr"
)

// renames gives something another name and key. Every expression follows; they
// are read with the names from before.
func (b *Blueprint) renames(is func(expr.Ref) bool, name, key string, nameAt, keyAt *string) error {
	err := b.rewrite(func(c *expr.Checked) []expr.Ref { return c.Refs }, func(r expr.Ref) string {
		switch {
		case !is(r):
			return ""
		case r.Bracketed:
			return name
		}
		return key
	})
	if err != nil {
		return err
	}
	*nameAt, *keyAt = name, key
	return nil
}

// renameChoice gives a choice other words, which expressions that compare with it
// follow.
func (b *Blueprint) renameChoice(choice, label string, at *string) error {
	err := b.rewrite((*expr.Checked).ChoiceRefs, func(r expr.Ref) string {
		if r.Field != choice {
			return ""
		}
		return quoted(label)
	})
	if err == nil {
		*at = label
	}
	return err
}

func quoted(text string) string { return `"` + strings.ReplaceAll(text, `"`, `""`) + `"` }

// rewrite makes every expression follow a change of names. For each ref that
// refsOf gives, rename says the new name, or "" where the old one stays. All are
// read before the first is written.
func (b *Blueprint) rewrite(refsOf func(*expr.Checked) []expr.Ref, rename func(expr.Ref) string) error {
	type written struct {
		at   *string
		text string
	}
	var all []written
	for p := range b.Places {
		for _, x := range p.Props() {
			for _, e := range x.Exprs() {
				checked, err := e.Check()
				if err != nil {
					return fmt.Errorf("read %s: %w", p.use(x, e.About), err)
				}
				var refs []expr.Ref
				for _, c := range checked {
					refs = append(refs, refsOf(c)...)
				}
				if len(refs) == 0 {
					continue
				}
				slices.SortFunc(refs, func(x, y expr.Ref) int { return x.At.Start - y.At.Start })
				if text := expr.Rewrite(*e.Source, refs, rename); text != *e.Source {
					all = append(all, written{e.Source, text})
				}
			}
		}
	}
	for _, w := range all {
		*w.at = w.text
	}
	return nil
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
			return quoted(c.Label)
		}
		if col := l.Column(r.Field); col != nil && l.ID == r.Table {
			return namedBy(r, col.Key, col.Name)
		}
	}
	t := b.Table(r.Table)
	switch {
	case t == nil:
		return ""
	case r.Field == "":
		return namedBy(r, t.Key, t.Name)
	}
	if f := t.Field(r.Field); f != nil {
		return namedBy(r, f.Key, f.Name)
	}
	return ""
}

func namedBy(r expr.Ref, key, name string) string {
	if r.Bracketed {
		return name
	}
	return key
}
