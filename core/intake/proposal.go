package intake

import (
	"fmt"
	"hash/maphash"
	"iter"
	"slices"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/words"
)

// Mode says what becomes of the rows of a sheet.
type Mode string

// The modes.
const (
	NewTable Mode = "new"
	Append   Mode = "append"
	Update   Mode = "update" // by a key; rows with a key that is not there are added
	Ignore   Mode = "ignore"
)

// SheetPlan says what becomes of one sheet.
type SheetPlan struct {
	File  string   `json:"file"`
	Sheet string   `json:"sheet"`
	Rows  int      `json:"rows"`
	Notes []string `json:"notes"`
	// Names says what names the columns, and Turned that its founder said so, and not the file.
	Names   Names        `json:"names" enum:"first,none,own"`
	Turned  bool         `json:"turned,omitempty"`
	Mode    Mode         `json:"mode"`
	Name    string       `json:"name"`            // of the new table
	Table   string       `json:"table,omitempty"` // id of the table that is there
	Key     string       `json:"key,omitempty"`   // header of the column that tells rows apart, for Update
	Columns []ColumnPlan `json:"columns"`
}

// Proposal says what becomes of the sheets of several files.
type Proposal struct {
	Sheets []SheetPlan `json:"sheets"`
	// Tally is what was announced to come of it; nil where nobody asked.
	Tally *Tally `json:"tally,omitempty"`

	existing []Existing // while it is made
}

// Tally counts what comes of a proposal, or what came of it, by sheet.
type Tally struct {
	Sheets []SheetTally `json:"sheets"`
}

// SheetTally counts what comes of a sheet. Records are those that are added or changed, Aside the rows that cannot be read.
type SheetTally struct {
	Records int         `json:"records"`
	Aside   int         `json:"aside"`
	Links   []LinkTally `json:"links"`
	// Rows are the first rows as they come, and some of those that are kept aside.
	Rows []SampleRow `json:"rows,omitempty"`
}

// SampleRow is a row of a file beside what is read of it, by the columns of the sheet: dates as ISO 8601, "" for empty.
type SampleRow struct {
	Row    int      `json:"row"`
	Cells  []string `json:"cells"`
	Values []string `json:"values,omitempty"`
	Wrong  string   `json:"wrong,omitempty"`
}

// LinkTally counts the links of a column: those that are made, the values that point to nothing and stay empty, and the records
// that are added as nothing was there to point to.
type LinkTally struct {
	Column string `json:"column"`
	Made   int    `json:"made"`
	Empty  int    `json:"empty"`
	Added  int    `json:"added"`
	// Names are some of the values that point to nothing.
	Names []string `json:"names,omitempty"`
}

// Existing is a table that is there, with values by which its records are
// known.
type Existing struct {
	Table *blueprint.Table
	// Values gives the values of the field with the id, or of the label for
	// "", of at most as many records as are worth matching.
	Values func(field string) ([]string, error)
}

// Propose reads the sheets and says what they seem to be. The tables that are
// there may be filled or pointed to.
func Propose(sheets []*Sheet, existing []Existing) (*Proposal, error) {
	seed := maphash.MakeSeed()
	p := &Proposal{Sheets: []SheetPlan{}, existing: existing}
	gathered := make([][]*column, len(sheets))
	files := map[string]*evidence{}
	for i, s := range sheets {
		plan, columns, err := gather(s, seed)
		if err != nil {
			return nil, err
		}
		if files[s.File] == nil {
			files[s.File] = &evidence{}
		}
		for _, c := range columns {
			files[s.File].add(c)
		}
		p.Sheets, gathered[i] = append(p.Sheets, plan), columns
	}
	for i, s := range sheets {
		for j, h := range s.Header {
			p.Sheets[i].Columns = append(p.Sheets[i].Columns, gathered[i][j].decide(h, p.Sheets[i].Rows, files[s.File]))
		}
	}
	p.distinctNames(existing)
	p.fillExisting(existing)
	if err := p.linkAll(gathered, p.targets(gathered, existing, seed)); err != nil {
		return nil, err
	}
	p.oneWay()
	p.existing = nil
	return p, nil
}

// gather reads the rows of a sheet.
func gather(s *Sheet, seed maphash.Seed) (SheetPlan, []*column, error) {
	columns := make([]*column, len(s.Header))
	for i := range columns {
		columns[i] = newColumn(seed)
		columns[i].list = s.lists[i]
	}
	plan := SheetPlan{File: s.File, Sheet: s.Name, Notes: s.Notes, Names: s.Names, Mode: NewTable, Name: s.Name, Columns: []ColumnPlan{}}
	err := s.Each(func(_ int, cells []string) error {
		for i, c := range cells {
			columns[i].add(plan.Rows, c)
		}
		plan.Rows++
		return nil
	})
	return plan, columns, err
}

// oneWay leaves one of two columns that point to each other. The other is what rows are known by: that to which more columns
// point, or that whose name does not speak of the other table, or the one of the shorter sheet.
func (p *Proposal) oneWay() {
	for i := range p.Sheets {
		for j := range p.Sheets[i].Columns {
			c := &p.Sheets[i].Columns[j]
			if c.Link == nil || c.Link.Sheet < 0 {
				continue
			}
			for k := range p.Sheets[c.Link.Sheet].Columns {
				back := &p.Sheets[c.Link.Sheet].Columns[k]
				if back == c || back.Header != c.Link.By || back.Link == nil || back.Link.Sheet != i || back.Link.By != c.Header {
					continue
				}
				drop := c
				if p.isKey(c.Link.Sheet, back, i, c) {
					drop = back
				}
				drop.Link, drop.Type, drop.Ask, drop.Reason = nil, blueprint.Text, nil, words.Say("intake-text", nil)
				break
			}
		}
	}
}

// isKey tells whether the first of two columns that point to each other is the one by which rows are known.
func (p *Proposal) isKey(sheet int, c *ColumnPlan, other int, back *ColumnPlan) bool {
	claims := func(sheet int, c *ColumnPlan) int {
		n := 0
		for i := range p.Sheets {
			for _, x := range p.Sheets[i].Columns {
				if x.Link != nil && x.Link.Sheet == sheet && x.Link.By == c.Header {
					n++
				}
			}
		}
		return n
	}
	speaks := func(c *ColumnPlan, of int) bool {
		is := near(c.Header, p.Sheets[of].Name, "")
		return is.table || is.last
	}
	if a, b := claims(sheet, c), claims(other, back); a != b {
		return a > b
	}
	if a, b := speaks(back, sheet), speaks(c, other); a != b {
		return a
	}
	return p.Sheets[sheet].Rows < p.Sheets[other].Rows
}

func (p *Proposal) distinctNames(existing []Existing) {
	taken := map[string]bool{}
	for _, e := range existing {
		taken[strings.ToLower(e.Table.Name)] = true
	}
	for i := range p.Sheets {
		s := &p.Sheets[i]
		if there := tableNamed(existing, s.Name); there != nil {
			continue // it is offered to go there
		}
		base := s.Name
		for n := 2; taken[strings.ToLower(s.Name)]; n++ {
			s.Name = fmt.Sprintf("%s %d", base, n)
		}
		taken[strings.ToLower(s.Name)] = true
	}
}

func tableNamed(existing []Existing, name string) *Existing {
	for i := range existing {
		if strings.EqualFold(existing[i].Table.Name, name) {
			return &existing[i]
		}
	}
	return nil
}

// fillExisting proposes to append to a table that is there where a sheet has
// its name and most of its columns.
func (p *Proposal) fillExisting(existing []Existing) {
	for i := range p.Sheets {
		s := &p.Sheets[i]
		there := tableNamed(existing, s.Name)
		if there == nil {
			continue
		}
		s.FillInto(there.Table)
	}
}

// FillInto makes the sheet go into a table that is there: columns with the name
// of a field fill it, the others become new fields.
func (s *SheetPlan) FillInto(t *blueprint.Table) {
	s.Mode, s.Table = Append, t.ID
	for j := range s.Columns {
		c := &s.Columns[j]
		c.Field = ""
		for _, f := range t.Fields {
			if !strings.EqualFold(f.Name, c.Name) && !strings.EqualFold(f.Key, c.Name) {
				continue
			}
			if !f.Type.Entered() || f.Of != "" {
				c.Skip, c.Reason = true, words.Say("intake-set-by-app", words.Args{"field": f.Name})
				break
			}
			c.Field, c.Type, c.Choices, c.Format.Auto = f.ID, f.Type, nil, nil
		}
	}
}

// keyTypes are types whose values records can be known by.
var keyTypes = []blueprint.FieldType{blueprint.Text, blueprint.Number, blueprint.Email, blueprint.Phone, blueprint.AutoNumber}

// targets goes through what columns may point to: the columns of sheets, and the
// labels and fields of tables, whose values tell records apart.
func (p *Proposal) targets(gathered [][]*column, existing []Existing, seed maphash.Seed) iter.Seq2[*known, error] {
	return func(yield func(*known, error) bool) {
		for i, columns := range gathered {
			called := slices.IndexFunc(columns, func(c *column) bool { return c.said() > 0 && c.nearly(c.letters) })
			for j, c := range columns {
				if len(c.distinct) < 2 || !slices.Contains(keyTypes, p.Sheets[i].Columns[j].Type) ||
					c.filled*10 < p.Sheets[i].Rows*9 {
					continue
				}
				k := &known{sheet: i, column: j, by: p.Sheets[i].Columns[j].Header, name: p.Sheets[i].Name, distinct: c.distinct, level: c.level,
					rows: c.said(), first: j == 0, called: j == called}
				if !yield(k.single(), nil) {
					return
				}
			}
		}
		for i := range existing {
			for _, field := range keyFields(existing[i].Table) {
				k, err := existing[i].known(field, seed)
				if err != nil || len(k.distinct) > 1 {
					if !yield(k, err) {
						return
					}
				}
			}
		}
	}
}

// keyFields lists by what records of a table can be known: by their labels, "", and by fields that tell them apart.
func keyFields(t *blueprint.Table) []string {
	out := []string{""}
	for _, f := range t.Fields {
		if f.Unique || f.Type == blueprint.Email || f.Type == blueprint.AutoNumber || f.Type == blueprint.Text {
			out = append(out, f.ID)
		}
	}
	return out
}

// known reads what stands in a field of a table that is there.
func (e *Existing) known(field string, seed maphash.Seed) (*known, error) {
	values, err := e.Values(field)
	if err != nil {
		return nil, err
	}
	k := &known{sheet: -1, column: -1, table: e, by: field, name: e.Table.Name, distinct: map[uint64]uint32{}, first: field == ""}
	for _, v := range values {
		if v = fold(v); v != "" {
			k.distinct[hashOf(seed, v)]++
			k.rows++
		}
	}
	return k.single(), nil
}
