package intake

import (
	"fmt"
	"hash/maphash"
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
	File    string       `json:"file"`
	Sheet   string       `json:"sheet"`
	Rows    int          `json:"rows"`
	Notes   []string     `json:"notes"`
	Mode    Mode         `json:"mode"`
	Name    string       `json:"name"`            // of the new table
	Table   string       `json:"table,omitempty"` // id of the table that is there
	Key     string       `json:"key,omitempty"`   // header of the column that tells rows apart, for Update
	Columns []ColumnPlan `json:"columns"`
}

// Proposal says what becomes of the sheets of several files.
type Proposal struct {
	Sheets []SheetPlan `json:"sheets"`
}

// Existing is a table that is there, with values by which its records are
// known.
type Existing struct {
	Table *blueprint.Table
	// Values gives the values of the field with the id, or of the label for
	// "", of at most as many records as are worth matching.
	Values func(field string) ([]string, error)
}

// known are the values of a column or field that others may point to.
type known struct {
	sheet    int // -1 for a table that is there
	table    *Existing
	by       string
	name     string // of the table
	distinct map[uint64]uint32
	unique   bool
}

// Propose reads the sheets and says what they seem to be. The tables that are
// there may be filled or pointed to.
func Propose(sheets []*Sheet, existing []Existing) (*Proposal, error) {
	seed := maphash.MakeSeed()
	p := &Proposal{Sheets: []SheetPlan{}}
	var gathered [][]*column
	for _, s := range sheets {
		columns := make([]*column, len(s.Header))
		for i := range columns {
			columns[i] = newColumn(seed)
		}
		plan := SheetPlan{File: s.File, Sheet: s.Name, Notes: s.Notes, Mode: NewTable, Name: s.Name, Columns: []ColumnPlan{}}
		err := s.Each(func(_ int, cells []string) error {
			plan.Rows++
			for i, c := range cells {
				columns[i].add(c)
			}
			return nil
		})
		if err != nil {
			return nil, err
		}
		for i, h := range s.Header {
			plan.Columns = append(plan.Columns, columns[i].decide(h))
		}
		p.Sheets = append(p.Sheets, plan)
		gathered = append(gathered, columns)
	}
	p.distinctNames(existing)
	p.fillExisting(existing)
	targets, err := p.targets(gathered, existing, seed)
	if err != nil {
		return nil, err
	}
	for i := range p.Sheets {
		for j := range p.Sheets[i].Columns {
			p.findLink(i, j, gathered[i][j], targets)
		}
	}
	p.oneWay()
	return p, nil
}

// oneWay leaves one of two columns that point to each other: the one that says
// where it points, or else the later one.
func (p *Proposal) oneWay() {
	for i := range p.Sheets {
		for j := range p.Sheets[i].Columns {
			c := &p.Sheets[i].Columns[j]
			if c.Link == nil || c.Link.Sheet < 0 {
				continue
			}
			for k := range p.Sheets[c.Link.Sheet].Columns {
				back := &p.Sheets[c.Link.Sheet].Columns[k]
				if back.Header != c.Link.By || back.Link == nil || back.Link.Sheet != i || back.Link.By != c.Header {
					continue
				}
				drop := c
				if related(c.Header, p.Sheets[c.Link.Sheet].Name) {
					drop = back
				}
				drop.Link, drop.Type, drop.Reason = nil, blueprint.Text, words.Say("intake-text", nil)
				break
			}
		}
	}
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
			c.Field, c.Type, c.Choices = f.ID, f.Type, nil
		}
	}
}

// targets lists what columns may point to: the columns of sheets, and the
// labels and fields of tables, whose values tell records apart.
func (p *Proposal) targets(gathered [][]*column, existing []Existing, seed maphash.Seed) ([]known, error) {
	var out []known
	for i, columns := range gathered {
		for j, c := range columns {
			t := p.Sheets[i].Columns[j].Type
			if c.overflow || len(c.distinct) < 2 || !slices.Contains([]blueprint.FieldType{blueprint.Text, blueprint.Number,
				blueprint.Email, blueprint.Phone}, t) {
				continue
			}
			if unique := c.unique() && c.filled == p.Sheets[i].Rows; unique || j == 0 && len(c.distinct)*10 >= c.filled*9 {
				out = append(out, known{sheet: i, by: p.Sheets[i].Columns[j].Header, name: p.Sheets[i].Name, distinct: c.distinct,
					unique: unique})
			}
		}
	}
	for i := range existing {
		e := &existing[i]
		fields := []string{""}
		for _, f := range e.Table.Fields {
			if f.Unique || f.Type == blueprint.Email || f.Type == blueprint.AutoNumber || f.Type == blueprint.Text {
				fields = append(fields, f.ID)
			}
		}
		for _, field := range fields {
			values, err := e.Values(field)
			if err != nil {
				return nil, err
			}
			k := known{sheet: -1, table: e, by: field, name: e.Table.Name, distinct: map[uint64]uint32{}, unique: true}
			for _, v := range values {
				if v = fold(v); v != "" {
					k.distinct[maphash.String(seed, v)]++
				}
			}
			k.unique = len(k.distinct) == len(values)
			if len(k.distinct) > 1 && len(k.distinct)*10 >= len(values)*9 {
				out = append(out, k)
			}
		}
	}
	return out, nil
}

// related tells whether the name of a column speaks of the table.
func related(header, table string) bool {
	h, t := fold(header), fold(table)
	for _, suffix := range []string{" id", "_id", " name", " number", " no", " no.", " email", " e-mail"} {
		h = strings.TrimSuffix(h, suffix)
	}
	singular := strings.TrimSuffix(strings.TrimSuffix(t, "s"), "e")
	return h != "" && (strings.Contains(t, h) || strings.Contains(h, t) || len(singular) > 2 && strings.Contains(h, singular))
}

// findLink finds the target that most values of a column match.
func (p *Proposal) findLink(sheet, at int, c *column, targets []known) {
	col := &p.Sheets[sheet].Columns[at]
	if c.overflow || c.filled == 0 || col.Skip || !slices.Contains([]blueprint.FieldType{blueprint.Text, blueprint.LongText,
		blueprint.Number, blueprint.Choose, blueprint.Email, blueprint.Link, blueprint.Links}, col.Type) {
		return
	}
	var best *LinkPlan
	bestScore := 0.0
	for _, t := range targets {
		if t.sheet == sheet && t.by == col.Header || t.table != nil && p.Sheets[sheet].Table == t.table.Table.ID {
			continue
		}
		near := related(col.Header, t.name)
		if at == 0 && col.Unique && !near { // it is by this that others know the rows themselves
			continue
		}
		l, score := c.match(t, near)
		if score > bestScore {
			best, bestScore = l, score
		}
	}
	if best == nil {
		return
	}
	best.Unmatched = LeaveOut
	if best.Missing > 0 && best.Matched > 0 {
		best.Unmatched = Create
	}
	col.Link, col.Choices, col.Bad = best, nil, 0
	col.Type = blueprint.Link
	if best.Many {
		col.Type = blueprint.Links
	}
	col.Reason = words.Say("intake-link", words.Args{"where": p.where(best, targets)})
}

func (p *Proposal) where(l *LinkPlan, targets []known) string {
	for _, t := range targets {
		if t.sheet == l.Sheet && t.by == l.By && (t.table == nil || t.table.Table.ID == l.Table) {
			switch {
			case t.table == nil:
				return words.Say("called-in", words.Args{"name": t.by, "in": t.name})
			case t.by == "":
				return words.Say("intake-labels", words.Args{"table": t.name})
			}
			return words.Say("called-in", words.Args{"name": t.table.Table.Field(t.by).Name, "in": t.name})
		}
	}
	return ""
}

// match counts how the distinct values of a column are found among those of a
// target. Numbers are matched only where the name speaks of the target too, as
// small numbers are found everywhere.
func (c *column) match(t known, related bool) (*LinkPlan, float64) {
	l := &LinkPlan{Sheet: t.sheet, By: t.by}
	if t.table != nil {
		l.Table = t.table.Table.ID
	}
	count := func(values func(yield func(uint64) bool)) (matched, missing, ambiguous int) {
		for h := range values {
			switch n := t.distinct[h]; {
			case n == 1:
				matched++
			case n > 1:
				ambiguous++
			default:
				missing++
			}
		}
		return matched, missing, ambiguous
	}
	l.Matched, l.Missing, l.Ambiguous = count(func(yield func(uint64) bool) {
		for h := range c.distinct {
			if !yield(h) {
				return
			}
		}
	})
	total := len(c.distinct)
	if c.multi > 0 && l.Missing > 0 {
		several := *l
		parts := map[uint64]struct{}{}
		for h := range c.parts {
			parts[h] = struct{}{}
		}
		for _, single := range c.singles() {
			parts[single] = struct{}{}
		}
		several.Many = true
		several.Matched, several.Missing, several.Ambiguous = count(func(yield func(uint64) bool) {
			for h := range parts {
				if !yield(h) {
					return
				}
			}
		})
		// more of the parts are found than of the values as a whole
		if (several.Matched+several.Ambiguous)*total > (l.Matched+l.Ambiguous)*len(parts) {
			l, total = &several, len(parts)
		}
	}
	found := l.Matched + l.Ambiguous
	numbers := c.nearly(max(c.point, c.comma))
	switch {
	case total == 0 || found*2 < total, numbers && !related, !related && (found < 3 || found*10 < total*9):
		return nil, 0
	}
	score := float64(found) / float64(total)
	if related {
		score += 1
	}
	if t.unique {
		score += 0.1
	}
	if t.sheet >= 0 {
		score += 0.05 // what comes along is meant rather than what is there
	}
	return l, score
}

// singles gives the values that are not parted by commas.
func (c *column) singles() []uint64 {
	var out []uint64
	for h := range c.distinct {
		if _, several := c.commas[h]; !several {
			out = append(out, h)
		}
	}
	return out
}
