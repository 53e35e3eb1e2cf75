// Package flow runs workflows: a machine that is given what a workflow knows, and says one after
// the other what has to be done outside. It knows no database, no clock and nobody to tell, so
// that the same machine runs live, in rehearsals and in tests.
package flow

import (
	"fmt"
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/prop"
)

// Program is a workflow that was checked and can be run.
type Program struct {
	Blueprint *blueprint.Blueprint
	Catalog   *expr.Catalog
	Workflow  *blueprint.Workflow
	when      *expr.Checked
	about     string // id of the table of the record that sets it off, or ""
	writes    bool   // whether a step changes or deletes that record
	reads     map[string][]string
	steps     map[string]*step
	routines  map[string]*step  // with the expressions of what makes a routine of each
	after     map[string]string // id of the step that follows a step, "" for none
	first     map[string]string // id of the first step in what holds steps
}

// step is a step with its expressions, by the names of their settings.
type step struct {
	blueprint.Step
	in     string // id of what holds it
	exprs  map[string]*expr.Checked
	texts  map[string]expr.Template
	values []given
	makes  *expr.Type
}

// given is a value that is set.
type given struct {
	field string
	value *expr.Checked
}

// Compile makes a program of a workflow of an app that is valid.
func Compile(b *blueprint.Blueprint, catalog *expr.Catalog, w *blueprint.Workflow) (*Program, error) {
	p := &Program{Blueprint: b, Catalog: catalog, Workflow: w, steps: map[string]*step{}, after: map[string]string{},
		first: map[string]string{}, routines: map[string]*step{}, about: b.FlowRecord(w, catalog), reads: map[string][]string{}}
	for at := range b.FlowPlaces(w, catalog) {
		if err := p.place(at); err != nil {
			return nil, fmt.Errorf("read workflow %s: %w", w.Name, err)
		}
	}
	p.order(w.ID, w.Steps)
	for _, r := range b.RoutinesOf(w) {
		if err := p.routine(r); err != nil {
			return nil, err
		}
	}
	return p, nil
}

// routine reads a routine that the workflow runs, by itself or by others.
func (p *Program) routine(w *blueprint.Workflow) error {
	for at := range p.Blueprint.FlowPlaces(w, p.Catalog) {
		if _, is := at.Thing.(blueprint.Step); !is {
			s := &step{exprs: map[string]*expr.Checked{}, texts: map[string]expr.Template{}}
			for _, x := range at.Props() {
				if err := p.read(s, x); err != nil {
					return fmt.Errorf("read the routine %s: %w", w.Name, err)
				}
			}
			p.routines[w.ID] = s
			continue
		}
		if err := p.place(at); err != nil {
			return fmt.Errorf("read the routine %s: %w", w.Name, err)
		}
	}
	p.order(w.ID, w.Steps)
	return nil
}

// place reads what stands at a place: the workflow itself, or a step.
func (p *Program) place(at blueprint.Place) error {
	s := &step{in: at.In, exprs: map[string]*expr.Checked{}, texts: map[string]expr.Template{}}
	for _, x := range at.Props() {
		if err := p.read(s, x); err != nil {
			return err
		}
	}
	x, is := at.Thing.(blueprint.Step)
	if !is {
		p.when = s.exprs["when"]
		return nil
	}
	s.Step = x
	if m, makes := x.(blueprint.Maker); makes {
		t := m.Makes(at.Context)
		s.makes = &t
	}
	p.steps[at.ID] = s
	p.writes = p.writes || s.writesOwn()
	return nil
}

// writesOwn tells whether the step changes or deletes the record that sets the workflow off.
func (s *step) writesOwn() bool {
	switch s.Step.(type) {
	case *blueprint.ChangeStep, *blueprint.DeleteStep:
		record := s.exprs["record"]
		return record != nil && record.Root.Op == expr.OpRef && record.Root.Root == expr.RootRow && len(record.Root.Path) == 0
	}
	return false
}

// read reads the expressions of a setting.
func (p *Program) read(s *step, x prop.Prop) error {
	if g, gives := x.Value.(prop.GivenValue); gives {
		for i, e := range g.Exprs() {
			checked, err := e.Check()
			if err != nil {
				return err
			}
			if len(checked) == 1 {
				p.notes(checked[0].Refs)
				s.values = append(s.values, given{g.Refs()[i].ID, checked[0]})
			}
		}
		return nil
	}
	for _, e := range x.Exprs() {
		if e.Template {
			t, err := expr.CheckTemplate(*e.Source, e.Scope)
			if err != nil {
				return err
			}
			p.notes(t.Refs())
			s.texts[x.Name] = t
			continue
		}
		checked, err := e.Check()
		if err != nil {
			return err
		}
		if len(checked) == 1 {
			p.notes(checked[0].Refs)
			s.exprs[x.Name] = checked[0]
		}
	}
	return nil
}

// order notes which step follows which.
func (p *Program) order(in string, steps blueprint.Steps) {
	for i, x := range steps {
		id := x.Self().ID
		if i == 0 {
			p.first[in] = id
		}
		if i+1 < len(steps) {
			p.after[id] = steps[i+1].Self().ID
		}
		if h, holds := x.(blueprint.StepHolder); holds {
			p.order(id, *h.Inside())
		}
	}
}

// About gives the id of the table of the record that sets the workflow off, or "".
func (p *Program) About() string { return p.about }

// Asks tells whether the workflow has a condition without which it does not start.
func (p *Program) Asks() bool { return p.when != nil }

// Writes tells whether a step changes or deletes the record that sets the workflow off, so that it is to be held from the
// start: what is asked of it before a step is so when it is written, too.
func (p *Program) Writes() bool { return p.writes }

// Reads gives the ids of the fields that its expressions name, by those of their tables.
func (p *Program) Reads() map[string][]string { return p.reads }

// notes notes which fields expressions name.
func (p *Program) notes(refs []expr.Ref) {
	for _, r := range refs {
		if r.Field != "" && !slices.Contains(p.reads[r.Table], r.Field) {
			p.reads[r.Table] = append(p.reads[r.Table], r.Field)
		}
	}
}

// Has tells whether the workflow has a step with the id.
func (p *Program) Has(step string) bool { return p.steps[step] != nil }
