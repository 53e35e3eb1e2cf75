package intake

import (
	"slices"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/words"
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
	if err := p.pointsRight(); err != nil {
		return nil, err
	}
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
				return nil, words.New("import-table-gone", "sheet", s.Sheet)
			}
			out.Tables[i] = s.Table
		default:
			return nil, words.New("import-mode", "sheet", s.Sheet)
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

// pointsRight refuses links to sheets that do not come along, or to columns that they do not have.
func (p *Proposal) pointsRight() error {
	for _, s := range p.Sheets {
		for _, c := range s.Columns {
			l := c.Link
			if s.Mode == Ignore || c.Skip || l == nil || l.Sheet < 0 {
				continue
			}
			if l.Sheet >= len(p.Sheets) || p.Sheets[l.Sheet].Mode == Ignore {
				return words.New("import-sheet-left-out", "column", c.Name, "sheet", s.Sheet)
			}
			if !slices.ContainsFunc(p.Sheets[l.Sheet].Columns, func(to ColumnPlan) bool { return to.Header == l.By }) {
				return words.New("import-field-gone", "column", c.Name, "sheet", s.Sheet)
			}
		}
	}
	return nil
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
	out.addTable(table, s.Name, out.field(c, s, field, newID))
	c.Field = field
	return nil
}

// addTable adds a table with its first field.
func (out *Carried) addTable(id, name string, first blueprint.Values) {
	out.Changes = append(out.Changes, &blueprint.AddThing{What: "table", ID: id,
		Values: blueprint.Vals("name", name, "fields", []blueprint.Values{first})})
}

// field gives the settings of the field that a column of values becomes; the list
// of its choices is added before.
func (out *Carried) field(c *ColumnPlan, s *SheetPlan, id string, newID func() string) blueprint.Values {
	values := blueprint.Vals("id", id, "name", c.Name, "type", c.Type)
	if c.Format.Currency != "" && c.Type == blueprint.Money {
		values.Put("currency", c.Format.Currency)
	}
	if c.Format.Unit != "" && c.Type == blueprint.Number {
		values.Put("unit", c.Format.Unit)
	}
	if a := c.Format.Auto; a != nil && c.Type == blueprint.AutoNumber {
		values.Put("prefix", a.Prefix)
		values.Put("width", a.Width)
		values.Put("first", a.First)
	}
	if c.Type == blueprint.Choose || c.Type == blueprint.ChooseMany {
		values.Put("list", out.choiceList(c, s, newID))
	}
	return values
}

// linksOnly makes a table for a sheet of nothing but links, with a name that
// is empty at first.
func (out *Carried) linksOnly(i int, s *SheetPlan, newID func() string) error {
	if !slices.ContainsFunc(s.Columns, func(c ColumnPlan) bool { return !c.Skip }) {
		return words.New("import-all-left-out", "sheet", s.Sheet)
	}
	table, field := newID(), newID()
	out.Tables[i] = table
	out.addTable(table, s.Name, blueprint.Vals("id", field, "name", "Name"))
	return nil
}

// choiceList adds the list that a column of choices needs.
func (out *Carried) choiceList(c *ColumnPlan, s *SheetPlan, newID func() string) string {
	id := newID()
	name := s.Name + " " + strings.ToLower(c.Name)
	if len([]rune(name)) > 70 {
		name = string([]rune(name)[:70])
	}
	out.Changes = append(out.Changes, &blueprint.AddThing{What: "list", ID: id,
		Values: blueprint.Vals("name", name, "choices", strings.Join(c.Choices, "\n"))})
	return id
}

// column adds the field of a column, unless it fills one that is there.
func (out *Carried) column(p *Proposal, b *blueprint.Blueprint, i, j int, newID func() string) error {
	s := &p.Sheets[i]
	c := &s.Columns[j]
	if c.Skip || out.Fields[i][j] != "" {
		return nil
	}
	if c.Field != "" {
		f := b.Table(s.Table).Field(c.Field)
		if f == nil {
			return words.New("import-field-gone", "column", c.Name, "sheet", s.Sheet)
		}
		if l := c.Link; l != nil && l.Sheet >= 0 && f.Target != "" && out.Tables[l.Sheet] != f.Target {
			return words.New("import-link-other", "column", c.Name, "sheet", s.Sheet, "field", f.Name)
		}
		out.Fields[i][j] = f.ID
		return nil
	}
	id := newID()
	values := out.field(c, s, id, newID)
	if c.Link != nil {
		target := c.Link.Table
		if c.Link.Sheet >= 0 {
			if c.Link.Sheet >= len(p.Sheets) || out.Tables[c.Link.Sheet] == "" {
				return words.New("import-sheet-left-out", "column", c.Name, "sheet", s.Sheet)
			}
			target = out.Tables[c.Link.Sheet]
		}
		back := s.Name
		if taken(p, b, out, target, back) {
			back = s.Name + " by " + strings.ToLower(c.Name)
		}
		values = blueprint.Vals("name", c.Name, "type", blueprint.Link, "target", target, "back", back, "backId", newID())
		if c.Link.Many {
			values.Put("type", blueprint.Links)
		}
	}
	out.Fields[i][j] = id
	out.Changes = append(out.Changes, &blueprint.AddThing{What: "field", Into: out.Tables[i], ID: id, Values: values.Without("id")})
	return nil
}

// taken tells whether a table, there or to be made, has a field of the name.
func taken(p *Proposal, b *blueprint.Blueprint, out *Carried, table, name string) bool {
	if t := b.Table(table); t != nil && slices.ContainsFunc(t.Fields,
		func(f blueprint.Field) bool { return strings.EqualFold(f.Name, name) }) {
		return true
	}
	for i, id := range out.Tables {
		if id == table && slices.ContainsFunc(p.Sheets[i].Columns,
			func(c ColumnPlan) bool { return !c.Skip && strings.EqualFold(c.Name, name) }) {
			return true
		}
	}
	return slices.ContainsFunc(out.Changes, func(c blueprint.Change) bool {
		add, ok := c.(*blueprint.AddThing)
		return ok && add.What == "field" && (add.Into == table && strings.EqualFold(add.Values.Text("name"), name) ||
			add.Values.Text("target") == table && strings.EqualFold(add.Values.Text("back"), name))
	})
}
