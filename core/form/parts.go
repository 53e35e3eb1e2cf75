package form

import (
	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// Of gives the form of a block that stands at a spot, with its conditions checked.
func Of(b *blueprint.Blueprint, s blueprint.Spot, x *blueprint.FormBlock, catalog *expr.Catalog) (*Form, error) {
	out := &Form{Blueprint: b, Catalog: catalog, Table: b.Table(x.Table)}
	a := &adding{Form: out, spot: s, block: x}
	return out, a.add(&out.Parts, "", x.Blocks, nil)
}

type adding struct {
	*Form
	spot  blueprint.Spot
	block *blueprint.FormBlock
}

// add adds what stands in a section of the form, in what goes with it, or in the form itself.
func (a *adding) add(to *[]Part, in string, blocks blueprint.Blocks, with *blueprint.WithBlock) error {
	for _, y := range blocks {
		p := Part{ID: y.Self().ID, In: in, Block: y}
		var err error
		if p.Conditions, err = a.Blueprint.Conditions(a.spot, a.block, y, a.Catalog); err != nil {
			return err
		}
		switch y := y.(type) {
		case *blueprint.SectionBlock:
			p.Section = y
		case *blueprint.WithBlock:
			p.With = &With{WithBlock: y, Table: y.Table(a.Blueprint, a.block), Leads: y.Leads(a.Blueprint, a.block),
				Name: y.Named(a.Blueprint, a.block)}
			err = a.add(&p.With.Parts, "", y.Blocks, y)
		case *blueprint.ResultBlock:
			p.Result, p.Field = y, y.Field(p.Conditions.Value.Type())
		case *blueprint.CourseBlock:
			p.Course = y
		case blueprint.Asker:
			p.Question, p.Field = y, y.Asks(a.Blueprint, a.block.TableOf(a.Blueprint, with))
		}
		if err != nil {
			return err
		}
		*to = append(*to, p)
		if p.Section != nil {
			if err := a.add(to, p.ID, p.Section.Blocks, with); err != nil {
				return err
			}
		}
	}
	return nil
}

// Each does something to each part, also of what goes with the form, with the table of whose
// records it asks.
func (f *Form) Each(do func(p *Part, t *blueprint.Table) error) error {
	for i := range f.Parts {
		p := &f.Parts[i]
		if err := do(p, f.Table); err != nil {
			return err
		}
		if p.With == nil {
			continue
		}
		for j := range p.With.Parts {
			if err := do(&p.With.Parts[j], p.With.Table); err != nil {
				return err
			}
		}
	}
	return nil
}

// Bind puts other expressions into the places of those of the part.
func (p *Part) Bind(by func(*expr.Checked) *expr.Checked) {
	c := p.Conditions // which others share
	p.When, p.RequiredWhen, p.Narrow, p.Start, p.Rules = by(c.When), by(c.RequiredWhen), by(c.Narrow), by(c.Start), nil
	p.Value = by(c.Value)
	for _, r := range c.Rules {
		p.Rules = append(p.Rules, by(r))
	}
}
