package form

import (
	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// Of gives the form of a block that stands at a spot, with its conditions checked.
func Of(b *blueprint.Blueprint, s blueprint.Spot, x *blueprint.FormBlock, catalog *expr.Catalog) (*Form, error) {
	out := &Form{Blueprint: b, Catalog: catalog}
	return out, out.add(s, x, "", x.Blocks)
}

// add adds what stands in a section of the form, or in the form itself.
func (f *Form) add(s blueprint.Spot, x *blueprint.FormBlock, in string, blocks blueprint.Blocks) error {
	for _, y := range blocks {
		p := Part{ID: y.Self().ID, In: in, Block: y}
		var err error
		if p.Conditions, err = f.Blueprint.Conditions(s, x, y, f.Catalog); err != nil {
			return err
		}
		switch y := y.(type) {
		case *blueprint.SectionBlock:
			p.Section = y
		case blueprint.Asker:
			p.Question, p.Field = y, y.Asks(f.Blueprint, x)
		}
		f.Parts = append(f.Parts, p)
		if p.Section != nil {
			if err := f.add(s, x, p.ID, p.Section.Blocks); err != nil {
				return err
			}
		}
	}
	return nil
}

// Bound puts other expressions into the places of all of the form's.
func (f *Form) Bound(by func(*expr.Checked) *expr.Checked) {
	for i := range f.Parts {
		p := &f.Parts[i]
		c := p.Conditions // which others share
		p.When, p.RequiredWhen, p.Narrow, p.Start, p.Rules = by(c.When), by(c.RequiredWhen), by(c.Narrow), by(c.Start), nil
		for _, r := range c.Rules {
			p.Rules = append(p.Rules, by(r))
		}
	}
}
