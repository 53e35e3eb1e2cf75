package intake

import (
	"fmt"
	"slices"
	"strings"

	"pinegate/core/blueprint"
)

// Outcomes of a proposal: the changes that make its tables and fields, and
// where the columns go.
type Carried struct {
	Changes []blueprint.Change
	Tables  []string   // by sheet: id of the table, "" where the sheet is left out
	Fields  [][]string // by sheet and column: id of the field, "" where the column is left out
}

// Carry says by which changes the tables and fields of a proposal are made.
func Carry(p *Proposal, b *blueprint.Blueprint, newID func() string) (*Carried, error) {
	out := &Carried{Tables: make([]string, len(p.Sheets)), Fields: make([][]string, len(p.Sheets))}
	for i := range p.Sheets {
		s := &p.Sheets[i]
		out.Fields[i] = make([]string, len(s.Columns))
		switch s.Mode {
		case Ignore:
		case NewTable:
			if err := out.newTable(i, s, newID); err != nil {
				return nil, err
			}
		case Append, Update:
			if b.Table(s.Table) == nil {
				return nil, &blueprint.Problem{Message: fmt.Sprintf("The table into which %s should go is no longer there.", s.Sheet)}
			}
			out.Tables[i] = s.Table
		default:
			return nil, &blueprint.Problem{Message: fmt.Sprintf("Say what should become of %s.", s.Sheet)}
		}
	}
	for i := range p.Sheets {
		if out.Tables[i] == "" {
			continue
		}
		for j := range p.Sheets[i].Columns {
			if err := out.column(p, b, i, j, newID); err != nil {
				return nil, err
			}
		}
	}
	return out, nil
}

// newTable makes a table whose first text, or else first column, is its label.
func (out *Carried) newTable(i int, s *SheetPlan, newID func() string) error {
	first := slices.IndexFunc(s.Columns, func(c ColumnPlan) bool { return !c.Skip && c.Type == blueprint.Text && c.Link == nil })
	if first < 0 { // a link makes a poor label, as another record's name
		first = slices.IndexFunc(s.Columns, func(c ColumnPlan) bool { return !c.Skip && c.Link == nil })
	}
	if first < 0 {
		return out.linksOnly(i, s, newID)
	}
	table, field := newID(), newID()
	out.Tables[i], out.Fields[i][first] = table, field
	c := &s.Columns[first]
	rename := &blueprint.RenameField{Name: c.Name}
	rename.Table, rename.Field = table, field
	// the field that every new table has must be filled in; what files bring need not be
	optional := &blueprint.SetRequired{}
	optional.Table, optional.Field = table, field
	out.Changes = append(out.Changes, &blueprint.AddTable{ID: table, Field: field, Name: s.Name}, optional)
	if !strings.EqualFold(c.Name, "Name") {
		out.Changes = append(out.Changes, rename)
	}
	if c.Type != blueprint.Text && c.Link == nil {
		retype := &blueprint.SetFieldType{Type: c.Type}
		retype.Table, retype.Field = table, field
		out.choiceList(c, s, &retype.List, newID)
		retype.Currency = c.Format.Currency
		out.Changes = append(out.Changes, retype)
	}
	c.Field = field
	return nil
}

// linksOnly makes a table for a sheet of nothing but links, with a name that
// is empty at first.
func (out *Carried) linksOnly(i int, s *SheetPlan, newID func() string) error {
	if !slices.ContainsFunc(s.Columns, func(c ColumnPlan) bool { return !c.Skip }) {
		return &blueprint.Problem{Message: fmt.Sprintf("All columns of %s are left out; leave out the sheet instead.", s.Sheet)}
	}
	table, field := newID(), newID()
	out.Tables[i] = table
	optional := &blueprint.SetRequired{}
	optional.Table, optional.Field = table, field
	out.Changes = append(out.Changes, &blueprint.AddTable{ID: table, Field: field, Name: s.Name}, optional)
	return nil
}

// choiceList adds the list that a column of choices needs.
func (out *Carried) choiceList(c *ColumnPlan, s *SheetPlan, list *string, newID func() string) {
	if c.Type != blueprint.Choose && c.Type != blueprint.ChooseMany {
		return
	}
	*list = newID()
	name := s.Name + " " + strings.ToLower(c.Name)
	if len([]rune(name)) > 70 {
		name = string([]rune(name)[:70])
	}
	add := &blueprint.AddChoiceList{ID: *list, Name: name, Labels: strings.Join(c.Choices, "\n")}
	for range c.Choices {
		add.Choices = append(add.Choices, newID())
	}
	out.Changes = append(out.Changes, add)
}

// column adds the field of a column, unless it fills one that is there.
func (out *Carried) column(p *Proposal, b *blueprint.Blueprint, i, j int, newID func() string) error {
	s := &p.Sheets[i]
	c := &s.Columns[j]
	if c.Skip || out.Fields[i][j] != "" {
		return nil
	}
	target := ""
	if c.Link != nil {
		if target = c.Link.Table; c.Link.Sheet >= 0 {
			if c.Link.Sheet >= len(p.Sheets) || out.Tables[c.Link.Sheet] == "" {
				return &blueprint.Problem{Message: fmt.Sprintf("%s of %s points to a sheet that is left out; keep it as text.", c.Name, s.Sheet)}
			}
			target = out.Tables[c.Link.Sheet]
		}
	}
	if c.Field != "" {
		f := b.Table(s.Table).Field(c.Field)
		if f == nil {
			return &blueprint.Problem{Message: fmt.Sprintf("The field that %s of %s should fill is no longer there.", c.Name, s.Sheet)}
		}
		out.Fields[i][j] = f.ID
		return nil
	}
	add := &blueprint.AddField{Table: out.Tables[i], ID: newID(), Name: c.Name, Type: c.Type}
	add.Currency = c.Format.Currency
	out.choiceList(c, s, &add.List, newID)
	if c.Link != nil {
		add.Type, add.Target = blueprint.Link, target
		if c.Link.Many {
			add.Type = blueprint.Links
		}
		add.Back, add.BackID = s.Name, newID()
		if taken(p, b, out, target, add.Back) {
			add.Back = s.Name + " by " + strings.ToLower(c.Name)
		}
	}
	out.Fields[i][j] = add.ID
	out.Changes = append(out.Changes, add)
	return nil
}

// taken tells whether a table, there or to be made, has a field of the name.
func taken(p *Proposal, b *blueprint.Blueprint, out *Carried, table, name string) bool {
	if t := b.Table(table); t != nil && slices.ContainsFunc(t.Fields, func(f blueprint.Field) bool { return strings.EqualFold(f.Name, name) }) {
		return true
	}
	for i, id := range out.Tables {
		if id == table && slices.ContainsFunc(p.Sheets[i].Columns, func(c ColumnPlan) bool { return !c.Skip && strings.EqualFold(c.Name, name) }) {
			return true
		}
	}
	return slices.ContainsFunc(out.Changes, func(c blueprint.Change) bool {
		add, ok := c.(*blueprint.AddField)
		return ok && (add.Table == table && strings.EqualFold(add.Name, name) || add.Target == table && strings.EqualFold(add.Back, name))
	})
}
