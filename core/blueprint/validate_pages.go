package blueprint

import (
	"slices"
	"unicode/utf8"
)

const maxText = 20_000

func (b *Blueprint) checkPages() error {
	var names, paths []string
	for i := range b.Pages {
		p := &b.Pages[i]
		if err := checkName("A page", p.Name); err != nil {
			return err
		}
		if !pathPattern.MatchString(p.Path) {
			return problem("%q cannot be the address of a page.", p.Path)
		}
		names, paths = append(names, p.Name), append(paths, p.Path)
		if p.Record != "" && b.Table(p.Record) == nil {
			return problem("The page %s is about a table that is not there.", p.Name)
		}
		if p.Record != "" && p.InMenu {
			return problem("The page %s is about one record, so a menu cannot lead to it; let a list open it.", p.Name)
		}
		if err := b.checkAudience(p); err != nil {
			return err
		}
		for j := range p.Blocks {
			if err := b.checkBlock(p, &p.Blocks[j]); err != nil {
				return err
			}
		}
	}
	if err := unique("pages", names); err != nil {
		return err
	}
	return unique("page addresses", paths)
}

func (b *Blueprint) checkAudience(p *Page) error {
	switch p.Audience {
	case Everyone, SignedIn:
		return nil
	case SomeRole:
		if len(p.Roles) == 0 {
			return problem("Say which roles may open the page %s.", p.Name)
		}
		for _, id := range p.Roles {
			if b.Role(id) == nil {
				return problem("The page %s is open to a role that is not there.", p.Name)
			}
		}
		return nil
	}
	return problem("A page is open to everyone, to those signed in or to roles, not to %q.", p.Audience)
}

func (b *Blueprint) checkBlock(p *Page, x *Block) error {
	if utf8.RuneCountInString(x.Text) > maxText || !utf8.ValidString(x.Text) {
		return problem("A text may have at most 20,000 characters.")
	}
	if (x.Kind == ListBlock) != (x.List != nil) || (x.Kind == DetailsBlock) != (x.Details != nil) || (x.Kind == FormBlock) != (x.Form != nil) {
		return problem("A block of the page %s has settings that are not those of a %s.", p.Name, x.Kind)
	}
	switch x.Kind {
	case HeadingBlock, TextBlock:
		return nil
	case ButtonBlock:
		if target := b.Page(x.Page); target == nil || target.Record != "" && target.Record != p.Record {
			return problem("Say which page the button on %s goes to. A page about one record can only be reached from a page about such a record, or from a list.", p.Name)
		}
		return nil
	case ListBlock:
		return b.checkList(p, x.List)
	case DetailsBlock:
		return b.checkDetails(p, x.Details)
	case FormBlock:
		return b.checkForm(p, x.Form)
	}
	return problem("There is no block %q.", x.Kind)
}

func (b *Blueprint) checkList(p *Page, l *List) error {
	t := b.Table(l.Table)
	if t == nil {
		return problem("Say which table the list on %s shows.", p.Name)
	}
	for _, id := range l.Columns {
		if t.Field(id) == nil {
			return problem("A column of the list on %s is no field of %s.", p.Name, t.Name)
		}
	}
	if l.Sort != "" && !b.Sorts(t, l.Sort) {
		return problem("The list on %s is sorted by what is no field of %s.", p.Name, t.Name)
	}
	if l.Open != "" {
		if target := b.Page(l.Open); target == nil || target.Record != t.ID {
			return problem("The rows of the list on %s can only open a page about one record of %s.", p.Name, t.Name)
		}
	}
	return nil
}

func (b *Blueprint) checkDetails(p *Page, d *Details) error {
	t := b.Table(p.Record)
	if t == nil {
		return problem("Record details need a page that is about one record; %s is not.", p.Name)
	}
	for _, id := range d.Fields {
		if t.Field(id) == nil {
			return problem("The details on %s show what is no field of %s.", p.Name, t.Name)
		}
	}
	return nil
}

func (b *Blueprint) checkForm(p *Page, f *Form) error {
	t := b.Table(f.Table)
	if t == nil {
		return problem("Say which table the form on %s adds to.", p.Name)
	}
	if f.Changes && p.Record != f.Table {
		return problem("A form that changes a record needs a page about one record of %s; %s is not.", t.Name, p.Name)
	}
	var asked []string
	for _, ff := range f.Fields {
		if t.Field(ff.Field) == nil || slices.Contains(asked, ff.Field) {
			return problem("The form on %s asks for what is no field of %s, or asks twice.", p.Name, t.Name)
		}
		asked = append(asked, ff.Field)
	}
	for _, pre := range f.Presets {
		if t.Field(pre.Field) == nil || slices.Contains(asked, pre.Field) || pre.Value == "" {
			return problem("The form on %s fills in a field that it also asks for, that is not in %s, or with nothing.", p.Name, t.Name)
		}
		asked = append(asked, pre.Field)
	}
	if f.Then != "" {
		if target := b.Page(f.Then); target == nil || target.Record != "" && target.Record != f.Table {
			return problem("After the form on %s, only a page that is about no record or about one of %s can be shown.", p.Name, t.Name)
		}
	}
	return nil
}
