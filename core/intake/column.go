package intake

import (
	"hash/maphash"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"
)

const (
	mostDistinct = 100_000 // values of a column that are remembered for matching; of more it is a sample
	mostChoices  = 20
	mostPieces   = 40
	sampled      = 500 // rows whose values are compared with each other
	samplesShown = 5
	tolerated    = 20 // one row in so many may be wrong for a type still to be meant
)

// column gathers what the values of one column could be.
type column struct {
	filled  int
	nothing map[string]int // words for nothing
	samples []string

	numbers
	days
	hours, clocks, unpadded, worded int // how long something lasts, times of day
	mail, phone, web, long, lines   int
	letters, withDigits             int // values with letters, and with digits
	digits, zeros, many             int // of digits alone: all, with zeros in front, too many for a number
	width                           int // of those, where all are as wide; -1 where they are not
	last                            string
	phoneMarks                      int // phone numbers with signs that other numbers do not have

	distinct map[uint64]uint32 // how often each value stands there, by its hash; of many only those that are sampled
	level    uint              // how many bits of their hashes are 0
	overflow bool              // there are too many for choices, and for parts of cells
	values   map[string]int    // while there are few
	parts    map[string]*parts
	rows     []uint64 // hashes of the first rows, 0 for empty
	seed     maphash.Seed
	list     bool // the file says that cells hold several values
	runs     counting
}

// numbers is what a column tells of decimals.
type numbers struct {
	point, comma, pointOnly, commaOnly int
	open                               int    // of two readings that differ
	openSample                         string // one of these
	thousands                          int    // whole numbers of four digits and more without a separator
	money, percent                     int
	currency                           map[string]int
	crowns                             int // amounts in crowns of whichever country
	units                              map[string]int
	most                               int64 // the largest whole one
}

// days is what a column tells of the order of day and month.
type days struct {
	dates, stamps int
	shaped        int           // written as a date, whether or not there is such a day
	orders        map[order]int // of both
	openDay       string        // one that could be read in two ways
	dayOnly       int           // that can be read with the day first, and not with the month first
	monthOnly     int
}

// parts are the values that stand in cells parted by a separator.
type parts struct {
	cells    int                 // that have several
	distinct map[uint64]struct{} // of these
	whole    map[uint64]struct{} // these as they stand
	words    map[string]int      // of all cells, while there are few
	total    int
}

// separatorsOfParts are what values of one cell are parted by.
var separatorsOfParts = []string{",", ";", "|"}

func newColumn(seed maphash.Seed) *column {
	c := &column{distinct: map[uint64]uint32{}, values: map[string]int{}, nothing: map[string]int{}, parts: map[string]*parts{}, seed: seed}
	c.orders, c.currency, c.units, c.width = map[order]int{}, map[string]int{}, map[string]int{}, 0
	for _, sep := range separatorsOfParts {
		c.parts[sep] = &parts{distinct: map[uint64]struct{}{}, whole: map[uint64]struct{}{}, words: map[string]int{}}
	}
	return c
}

// fold gives what is compared when values are matched: small, with one space between words.
func fold(s string) string {
	if isFolded(s) {
		return s
	}
	if strings.Contains(s, "  ") || strings.ContainsAny(s, "\t\n\r\u00a0") || s != strings.TrimSpace(s) {
		s = strings.Join(strings.Fields(s), " ")
	}
	return strings.ToLower(s)
}

// isFolded tells whether a text of few letters is so already, as most are: small, without spaces that could be fewer.
func isFolded(s string) bool {
	space := true // before the first
	for i := range len(s) {
		switch c := s[i]; {
		case c >= 0x80 || c < ' ' || c >= 'A' && c <= 'Z' || c == ' ' && space:
			return false
		default:
			space = c == ' '
		}
	}
	return !space || s == ""
}

// Fold gives what is compared when the values of columns are matched.
func Fold(s string) string { return fold(s) }

// hashOf gives the hash by which values are matched; never 0, which stands for an empty cell.
func hashOf(seed maphash.Seed, folded string) uint64 { return max(1, maphash.String(seed, folded)) }

func (c *column) hash(folded string) uint64 { return hashOf(c.seed, folded) }

// add looks at the value of a row; row counts from 0.
func (c *column) add(row int, s string) {
	s = strings.TrimSpace(s)
	if row < sampled {
		for len(c.rows) <= row {
			c.rows = append(c.rows, 0)
		}
	}
	if s == "" {
		return
	}
	folded := fold(s)
	if row < sampled {
		c.rows[row] = c.hash(folded)
	}
	c.filled++
	if len(c.samples) < samplesShown && !slices.Contains(c.samples, s) {
		c.samples = append(c.samples, short(s))
	}
	if isNothing(folded) {
		c.nothing[s]++
		return
	}
	c.last = s
	c.count(s)
	c.remember(s, folded)
}

func short(s string) string {
	if utf8.RuneCountInString(s) > 60 {
		return string([]rune(s)[:60]) + "…"
	}
	return s
}

// empty is how many values stand for nothing.
func (c *column) empty() int {
	n := 0
	for _, k := range c.nothing {
		n += k
	}
	return n
}

// said is how many values say something.
func (c *column) said() int { return c.filled - c.empty() }

func inc(n *int, is bool) {
	if is {
		*n++
	}
}

// count asks of a value what it could be. It is asked of every cell of a file, so each question is put only where a first look
// leaves it open.
func (c *column) count(s string) {
	if firstDigit(s) >= 0 {
		c.withDigits++
		c.countDigits(s)
	}
	if strings.Contains(s, "@") {
		inc(&c.mail, isEmail(s))
	}
	inc(&c.web, (strings.HasPrefix(s, "http") || strings.HasPrefix(s, "www.")) && webPattern.MatchString(s))
	inc(&c.long, len(s) > 120 && utf8.RuneCountInString(s) > 120)
	inc(&c.lines, strings.Contains(s, "\n"))
	inc(&c.letters, strings.ContainsFunc(s, isLetter))
}

func isLetter(r rune) bool { return r|0x20 >= 'a' && r|0x20 <= 'z' || r >= 0xc0 }

func (c *column) countDigits(s string) {
	switch {
	case strings.Contains(s, ":"):
		c.countClock(s)
		return
	case allDigits(s):
		c.countWhole(s)
	}
	c.countNumber(s)
	dated := dateOrders(s)
	inc(&c.shaped, dated != 0 || shapedAsDate(s))
	if dated != 0 {
		c.dates++
		c.countDay(s, dated)
	} else if len(s) >= 6 && (s[0] == '+' || s[0] == '(' || s[0] == '0') {
		is := phonePattern.MatchString(s)
		inc(&c.phone, is)
		inc(&c.phoneMarks, is && strings.ContainsAny(s, "+( /"))
	}
	if digit(s[0]) && !digit(s[len(s)-1]) && len(s) < 24 {
		inc(&c.worded, wordedPattern.MatchString(strings.ToLower(s)))
	}
	c.runs.add(s)
}

func (c *column) countWhole(s string) {
	if c.digits++; c.digits == 1 {
		c.width = len(s)
	} else if c.width != len(s) {
		c.width = -1
	}
	inc(&c.zeros, len(s) > 1 && s[0] == '0')
	inc(&c.many, len(s) > 11)
	inc(&c.thousands, len(s) > 3 && s[0] != '0')
}

func (c *column) countNumber(s string) {
	f, ok := splitFigures(s)
	if !ok {
		return
	}
	p, point := f.number('.')
	q, comma := p, point
	if !allDigits(f.body) {
		q, comma = f.number(',')
	}
	if !point && !comma {
		return
	}
	inc(&c.point, point)
	inc(&c.comma, comma)
	inc(&c.pointOnly, point && !comma)
	inc(&c.commaOnly, comma && !point)
	if point && comma && !p.Equal(q) {
		if c.open++; c.openSample == "" {
			c.openSample = s
		}
	}
	inc(&c.percent, f.percent)
	if f.unit != "" {
		c.units[f.unit]++
	}
	if f.currency != "" {
		c.money++
		c.currency[f.currency]++
		inc(&c.crowns, strings.Contains(s, "kr") || strings.Contains(s, "Kr"))
	}
	if allDigits(s) && len(s) < 12 {
		c.most = max(c.most, int64(atoi(s)))
	}
}

func (c *column) countDay(s string, dated order) {
	for o := yearFirst; o <= named; o <<= 1 {
		if dated&o != 0 {
			c.orders[o]++
		}
	}
	inc(&c.dayOnly, dated&dayFirst != 0 && dated&monthFirst == 0)
	inc(&c.monthOnly, dated&monthFirst != 0 && dated&dayFirst == 0)
	if c.openDay == "" && dated&(dayFirst|monthFirst) == dayFirst|monthFirst {
		a, _ := parseDate(s, dayFirst)
		if b, _ := parseDate(s, monthFirst); a != b {
			c.openDay = s
		}
	}
}

func (c *column) countClock(s string) {
	if date, _, ok := splitStamp(s); ok {
		if dated := dateOrders(date); dated != 0 {
			c.stamps++
			c.countDay(date, dated)
		}
		return
	}
	m := hoursPattern.FindStringSubmatch(s)
	inc(&c.hours, m != nil)
	inc(&c.unpadded, m != nil && (len(m[1]) != 2 && m[3] != "" || atoi(m[1]) > 23))
	inc(&c.clocks, clockPattern.MatchString(s))
}

func (c *column) remember(s, folded string) {
	h := c.hash(folded)
	if !sampledAt(h, c.level) {
		return
	}
	c.distinct[h]++
	if len(c.distinct) > mostDistinct {
		c.thin()
	}
	if c.overflow {
		return
	}
	if len(c.values) <= mostChoices {
		c.values[s]++
	}
	for sep, p := range c.parts {
		p.add(c, s, sep, h)
		if len(p.distinct) > mostDistinct {
			c.giveUp()
			return
		}
	}
}

// sampledAt tells whether a value is one of those that are remembered where not all of them can be. Columns of one proposal
// remember the same ones, so that what is found of one in another is a fair share.
func sampledAt(h uint64, level uint) bool { return h&(1<<level-1) == 0 }

// thin remembers only half of the values, as there are too many.
func (c *column) thin() {
	c.giveUp()
	if all := c.said(); c.stamps+c.dates > all/2 || c.long > all/2 || c.letters+c.digits < all/2 {
		c.level, c.distinct = 64, map[uint64]uint32{} // days, sums and stories point to nothing
		return
	}
	c.level++
	maps.DeleteFunc(c.distinct, func(h uint64, _ uint32) bool { return !sampledAt(h, c.level) })
}

// giveUp forgets of what the cells could be parted, as there is too much of it.
func (c *column) giveUp() {
	c.overflow = true
	for _, p := range c.parts {
		p.distinct, p.whole = map[uint64]struct{}{}, map[uint64]struct{}{}
	}
}

// add remembers the parts of a cell. From the first cell that has several, their words are counted, with those before.
func (p *parts) add(c *column, s, sep string, whole uint64) {
	if !strings.Contains(s, sep) {
		if p.cells > 0 {
			p.word(s)
		}
		return
	}
	if p.cells == 0 {
		for v, n := range c.values { // this one is among them
			if v != s {
				p.words[v], p.total = n, p.total+n
			}
		}
	}
	p.cells++
	p.whole[whole] = struct{}{}
	for part := range strings.SplitSeq(s, sep) {
		if part = strings.TrimSpace(part); part != "" {
			p.distinct[c.hash(fold(part))] = struct{}{}
			p.word(part)
		}
	}
}

func (p *parts) word(part string) {
	if p.total++; len(p.words) <= mostPieces {
		p.words[part]++
	}
}

// of gives the values of a column where its cells hold several: the parts, and the cells that have one.
func (p *parts) of(c *column) map[uint64]struct{} {
	out := map[uint64]struct{}{}
	for h := range p.distinct {
		out[h] = struct{}{}
	}
	for h := range c.distinct {
		if _, several := p.whole[h]; !several {
			out[h] = struct{}{}
		}
	}
	return out
}

// unique tells whether each row has a value of its own; of those that are remembered where not all are.
func (c *column) unique() bool {
	if c.level == 0 {
		return c.said() > 0 && len(c.distinct) == c.said()
	}
	for _, n := range c.distinct {
		if n > 1 {
			return false
		}
	}
	return len(c.distinct) > 0
}

// nearly tells whether so many of the values are of a kind that the others are mistakes.
func (c *column) nearly(n int) bool {
	all := c.said()
	return n > 0 && (all-n)*tolerated <= all
}

// counting finds whether values count on: all of one beginning, with numbers that grow by one.
type counting struct {
	prefix string
	width  int
	last   int64
	values int
	broken bool
}

func (r *counting) add(s string) {
	if r.broken {
		return
	}
	at := len(s)
	for at > 0 && digit(s[at-1]) {
		at--
	}
	prefix, number := s[:at], s[at:]
	if number == "" || len(number) > 12 || prefix == "" || r.values > 0 && prefix != r.prefix {
		r.broken = true
		return
	}
	n := int64(atoi(number))
	if r.values > 0 && (n <= r.last || n > r.last+9) {
		r.broken = true
		return
	}
	if r.values == 0 {
		r.width = len(number)
	}
	r.prefix, r.last, r.width = prefix, n, min(r.width, len(number))
	r.values++
}
