package intake

import (
	"iter"
	"maps"
	"slices"
	"sort"

	"pinegate/core/blueprint"
	"pinegate/core/words"
)

// known are the values of a column or field that others may point to.
type known struct {
	sheet    int // -1 for a table that is there
	column   int // of the sheet
	table    *Existing
	by       string
	name     string // of the table
	distinct map[uint64]uint32
	level    uint // as that of a column
	rows     int
	first    bool // it is the first column, or the label
	called   bool // it is the first one of words
	unique   float64
}

// single finds which share of the values one record alone has.
func (k *known) single() *known {
	once, all := 0, 0
	for _, n := range k.distinct {
		all += int(n)
		if n == 1 {
			once++
		}
	}
	k.unique = float64(once) / float64(max(1, all))
	return k
}

// candidate is a target of a column, with all that speaks for it and against it.
type candidate struct {
	target *known
	plan   LinkPlan
	sep    string // by which several values are parted
	score  float64
	words  bool // the values are words, and no codes
}

// Weights of what speaks for a link and against it. One is proposed from scoreLink on; two that are closer than scoreClose are
// asked between.
const (
	scoreLink  = 4.0
	scoreClose = 0.75

	weightFound     = 3.0  // the share of values that are found
	weightAmbiguous = -2.0 // the share that several records have
	weightTable     = 3.0  // the name is that of the table
	weightLast      = 2.5  // the name ends with that of the table
	weightSame      = 2.5  // it is named as what it would point to
	weightOther     = -3.0 // it names something of the table
	weightKey       = 0.75 // the name says that it holds keys
	weightLead      = 2.0  // the name is of what is above, in the same table
	weightUnique    = 1.0  // each record has its own value
	weightSmall     = -3.0 // small numbers are found everywhere
	weightFew       = -1.0 // of one or two values
	weightWords     = 1.0  // words are seldom the same by chance
	weightCodes     = 1.5  // and codes of letters and numbers never
	weightQuality   = -1.5 // words under one name in both, that are not what rows are called, are a quality of both
	weightSelf      = -0.5 // most columns do not point to their own table
	weightSibling   = -1.5 // and fewer to a column that is not what its rows are known by
	weightOwnKey    = -3.0 // by the first column that tells rows apart, or their names, others know the rows themselves
	weightFirst     = 0.3  // what stands first is what things are known by
	weightAlong     = 0.2  // what comes along is meant rather than what is there
)

// features is what is known of a column and a target.
type features struct {
	near             nearness
	found, ambiguous float64 // shares of the values
	values           int     // that are found
	unique           float64 // share of the records of the target
	numbers, small   bool    // the values are whole numbers, and small ones
	codes, words     bool
	self, ownKey     bool
	first, along     bool
	label            bool // the column to which it would point is called a name
}

// score says how likely it is that the values are meant to point there; below 0 for what cannot be.
func (f features) score() float64 {
	// what two tables call alike is what the one knows its records by, or a quality of both
	quality := f.near.same && f.words && !f.first && !f.label
	f.near.same = f.near.same && !quality && (f.first || f.label || f.unique > 0.9)
	named := f.near.table || f.near.last || f.near.same || f.near.lead && f.self
	apart := 0.8 // of the records of the target; fewer do where all that is said here is clear
	if f.ambiguous == 0 && f.words {
		apart = 0.6
	}
	least := 0.8 // of the values to be found; fewer are enough of names where the name of the column speaks of somebody
	if f.words && f.near.key {
		least = 0.6
	}
	if f.found+f.ambiguous < 0.5 || !named && f.found < least || f.unique < 0.5 || !named && f.unique < apart {
		return -1
	}
	if f.numbers && !named && !f.near.key {
		return -1 // numbers are found among others by chance
	}
	s := weightFound*f.found + weightAmbiguous*f.ambiguous
	add := func(is bool, weight float64) {
		if is {
			s += weight
		}
	}
	add(f.near.table, weightTable)
	add(f.near.last, weightLast)
	add(f.near.same, weightSame)
	add(f.near.other, weightOther)
	add(f.near.key, weightKey)
	add(f.near.lead && f.self, weightLead)
	add(f.unique == 1, weightUnique)
	add(f.small && !f.near.table && !f.near.last && !(f.near.key && f.near.lead), weightSmall)
	add(f.values < 3, weightFew)
	add(f.values < 3 && f.words, -weightFew/2)
	add(f.words, weightWords)
	add(f.codes, weightCodes)
	add(quality, weightQuality)
	add(f.self, weightSelf)
	add(f.self && !f.first && !f.label && !f.near.lead, weightSibling)
	add(f.ownKey, weightOwnKey)
	add(f.first || f.label, weightFirst)
	add(f.along, weightAlong)
	return s
}

// linkable are types whose values can point to something.
var linkable = []blueprint.FieldType{blueprint.Text, blueprint.LongText, blueprint.Number, blueprint.Choose, blueprint.ChooseMany,
	blueprint.Email, blueprint.AutoNumber, blueprint.Link, blueprint.Links}

// candidate tells how a column and a target go together; false where the column cannot point there.
func (p *Proposal) candidate(sheet, at int, gathered [][]*column, t *known) (candidate, bool) {
	c, col := gathered[sheet][at], &p.Sheets[sheet].Columns[at]
	switch {
	case c.said() == 0 || col.Skip || !slices.Contains(linkable, col.Type), !p.fills(sheet, col, t),
		t.sheet == sheet && t.column == at, t.table != nil && p.Sheets[sheet].Table == t.table.Table.ID,
		t.sheet == sheet && c.repeats(gathered[sheet][t.column]):
		return candidate{}, false
	}
	m := c.match(t)
	if m.plan.Matched+m.plan.Ambiguous == 0 {
		return m, false
	}
	f := p.featuresOf(sheet, at, c, t, &m)
	m.score, m.words = f.score(), f.words
	return m, m.score >= scoreLink
}

// fills tells whether a column that fills a field of a table that is there can point to a target: only where the field does.
func (p *Proposal) fills(sheet int, col *ColumnPlan, t *known) bool {
	if col.Field == "" {
		return true
	}
	for _, e := range p.existing {
		if e.Table.ID == p.Sheets[sheet].Table {
			f := e.Table.Field(col.Field)
			return f.Target != "" && (t.table != nil && t.table.Table.ID == f.Target || t.sheet >= 0 && p.Sheets[t.sheet].Table == f.Target)
		}
	}
	return false
}

// featuresOf puts together what is known of a column and a target.
func (p *Proposal) featuresOf(sheet, at int, c *column, t *known, m *candidate) features {
	col := &p.Sheets[sheet].Columns[at]
	total := float64(m.plan.Matched + m.plan.Missing + m.plan.Ambiguous)
	f := features{near: near(col.Header, t.name, t.label()), found: float64(m.plan.Matched) / total,
		ambiguous: float64(m.plan.Ambiguous) / total, values: m.plan.Matched + m.plan.Ambiguous, unique: t.unique,
		self: t.sheet == sheet, ownKey: col.Unique && (at == 0 || isLabel(col.Header)), first: t.first, along: t.sheet >= 0, label: isLabel(t.label())}
	f.label = f.label || t.called || areAlike(tokens(t.label()), tokens(t.name))
	f.numbers = c.nearly(c.digits) && c.many == 0 && c.zeros == 0
	if f.numbers && (f.near.table || f.near.last) && !f.near.key && isPlural(col.Header) { // Hives of an apiary are how many it has
		f.near.table, f.near.last, f.near.other = false, false, true
	}
	f.small = f.numbers && c.most < 10*int64(max(t.rows, 10))
	f.codes = c.letters > 0 && c.nearly(c.letters) && (c.withDigits*2 > c.said() || c.nearly(c.mail))
	f.words = !f.codes && c.nearly(c.letters)
	return f
}

// label is the name of what records are known by, as people call it.
func (k *known) label() string {
	if k.table != nil {
		if f := k.table.Table.Field(k.by); f != nil {
			return f.Name
		}
		return ""
	}
	return k.by
}

// repeats tells whether a column says in most rows the same as another one of its sheet: then it points to nothing there.
func (c *column) repeats(other *column) bool {
	same, both := 0, 0
	for i := range min(len(c.rows), len(other.rows)) {
		if c.rows[i] != 0 && other.rows[i] != 0 {
			both++
			inc(&same, c.rows[i] == other.rows[i])
		}
	}
	return both > 0 && same*3 > both
}

// match counts how the distinct values of a column are found among those of a target: as they stand, or parted.
func (c *column) match(t *known) candidate {
	out := candidate{target: t, plan: LinkPlan{Sheet: t.sheet, By: t.by}}
	if t.table != nil {
		out.plan.Table = t.table.Table.ID
	}
	whole := len(c.distinct)
	t.count(&out.plan, maps.Keys(c.distinct), c.level)
	if out.plan.Missing == 0 || c.overflow {
		return out
	}
	for _, sep := range separatorsOfParts {
		p := c.parts[sep]
		if p.cells == 0 {
			continue
		}
		several := out.plan
		values := p.of(c)
		t.count(&several, maps.Keys(values), 0)
		// more of the parts are found than of the values as a whole
		if (several.Matched+several.Ambiguous)*whole > (out.plan.Matched+out.plan.Ambiguous)*len(values) {
			several.Many = true
			out.plan, out.sep = several, sep
			whole = len(values)
		}
	}
	return out
}

// count counts which values are found. Of those of which not all are remembered, here or there, it is said what the sampled
// ones let expect.
func (k *known) count(l *LinkPlan, values iter.Seq[uint64], level uint) {
	l.Matched, l.Missing, l.Ambiguous = 0, 0, 0
	level = max(level, k.level)
	each := 1 << level
	l.Sampled = level > 0
	for h := range values {
		if !sampledAt(h, level) {
			continue
		}
		switch n := k.distinct[h]; {
		case n == 1:
			l.Matched += each
		case n > 1:
			l.Ambiguous += each
		default:
			l.Missing += each
		}
	}
}

// linkAll makes columns point to what they are meant to. A column that rather points somewhere itself is not what others
// point to, unless it is the first of its sheet.
func (p *Proposal) linkAll(gathered [][]*column, targets iter.Seq2[*known, error]) error {
	found := map[[2]int][]candidate{}
	for t, err := range targets {
		if err != nil {
			return err
		}
		for i := range p.Sheets {
			for j := range p.Sheets[i].Columns {
				if m, ok := p.candidate(i, j, gathered, t); ok {
					found[[2]int{i, j}] = append(found[[2]int{i, j}], m)
				}
			}
		}
		t.distinct = nil // what is there can be much, and is looked at one after the other
	}
	for _, list := range found {
		sort.SliceStable(list, func(i, j int) bool { return list[i].score > list[j].score })
	}
	for i := range p.Sheets {
		for j := range p.Sheets[i].Columns {
			p.link(i, j, slices.DeleteFunc(slices.Clone(found[[2]int{i, j}]), func(m candidate) bool {
				t := m.target
				own := found[[2]int{t.sheet, t.column}]
				if t.sheet < 0 || t.first || len(own) == 0 || own[0].score < m.score {
					return false
				}
				to := own[0].target
				if to.sheet < 0 {
					return true
				}
				back := found[[2]int{to.sheet, to.column}] // which of two that point to each other stays is decided when all are known
				return len(back) == 0 || back[0].target != t
			}))
		}
	}
	return nil
}

// link makes a column point to the likeliest of its targets, and asks where another one is close.
func (p *Proposal) link(sheet, at int, found []candidate) {
	if len(found) == 0 {
		return
	}
	col := &p.Sheets[sheet].Columns[at]
	best := found[0]
	best.outcome()
	plan := best.plan
	col.Link, col.Choices, col.Bad, col.Format.Auto = &plan, nil, 0, nil
	col.Type = blueprint.Link
	if plan.Many {
		col.Type, col.Format.Separator = blueprint.Links, best.sep
	}
	col.Ask = nil
	col.Reason = words.Say("intake-link", words.Args{"where": best.target.where()})
	answers := []Answer{best.answer()}
	for _, other := range found[1:] {
		if best.score-other.score < scoreClose && !best.target.sameRecords(other.target) && len(answers) < 4 {
			other.outcome()
			answers = append(answers, other.answer())
		}
	}
	if len(answers) > 1 {
		col.Ask = &Question{About: "link", Text: words.Say("intake-ask-link", nil), Answers: answers}
	}
}

// sameRecords tells whether two targets are of the same table.
func (k *known) sameRecords(other *known) bool {
	return k.sheet == other.sheet && (k.table == nil || k.table == other.table)
}

func (m *candidate) answer() Answer {
	plan := m.plan
	return Answer{Text: m.target.where(), Link: &plan}
}

// outcome says what becomes of values that are not there. Names of which many are missing are likely to be added on the way;
// codes and numbers have to be there, and one name among many is likely written wrongly.
func (m *candidate) outcome() {
	m.plan.Unmatched = LeaveOut
	all := m.plan.Matched + m.plan.Missing + m.plan.Ambiguous
	if m.words && m.target.first && m.plan.Missing > 1 && m.plan.Missing*5 >= all {
		m.plan.Unmatched = Create
	}
}

func (k *known) where() string {
	switch {
	case k.table == nil:
		return words.Say("called-in", words.Args{"name": k.by, "in": k.name})
	case k.by == "":
		return words.Say("intake-labels", words.Args{"table": k.name})
	}
	return words.Say("called-in", words.Args{"name": k.table.Table.Field(k.by).Name, "in": k.name})
}
