package intake

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"pinegate/core/words"
)

// Bounds of how the rows of a grid are looked at: how many of the first and last of a block are kept, and how many blocks there
// can be for them to be told apart.
const (
	headRows   = 24
	tailRows   = 3
	mostBlocks = 400
)

// block are rows without an empty one between them.
type block struct {
	first, last int // numbers of rows, from 1
	head, tail  [][]string
	filled      []bool // by column: whether anything stands in it
}

func (b *block) add(n int, cells []string) {
	if len(b.head) == 0 {
		b.first = n
	}
	b.last = n
	if len(b.head) < headRows {
		b.head = append(b.head, slices.Clone(cells))
	}
	if len(b.tail) == tailRows {
		b.tail = append(b.tail[:0], b.tail[1:]...)
	}
	b.tail = append(b.tail, slices.Clone(cells))
	b.note(cells)
}

func (b *block) note(cells []string) {
	for len(b.filled) < len(cells) {
		b.filled = append(b.filled, false)
	}
	for i, c := range cells {
		if !b.filled[i] && strings.TrimSpace(c) != "" {
			b.filled[i] = true
		}
	}
}

func (b *block) rows() int { return b.last - b.first + 1 }

// grid are the rows of a file or of a sheet in a workbook, in which tables are found.
type grid struct {
	file, name string
	notes      []string
	rows       func(use func(cells []string) error) error
}

// blocks reads all of a grid. Where there are too many blocks, what parts them are empty rows within one table.
func (g *grid) blocks() ([]*block, error) {
	var out []*block
	n, open := 0, false
	err := g.rows(func(cells []string) error {
		n++
		if blank(cells) {
			open = false
			return nil
		}
		if !open && len(out) < mostBlocks {
			out, open = append(out, &block{}), true
		}
		b := out[len(out)-1]
		if open && len(b.head) == headRows && len(b.tail) == tailRows { // most rows of large files
			b.last = n
			b.note(cells)
			b.tail = append(b.tail[:0], b.tail[1], b.tail[2], slices.Clone(cells))
			return nil
		}
		b.add(n, cells)
		return nil
	})
	return out, err
}

// table is a table in a grid.
type table struct {
	title  string
	names  [][]string // rows that name the columns, none to two
	body   [][]string // some of the first rows
	first  int        // row of the body
	last   int
	left   map[int]bool // rows within that are left out
	filled []bool
	notes  []string
	beside bool // others stand beside it
}

// tables finds the tables of a grid.
func (g *grid) tables() ([]*Sheet, error) {
	blocks, err := g.blocks()
	if err != nil {
		return nil, err
	}
	var found []*table
	title := ""
	var above []string
	wide := slices.ContainsFunc(blocks, func(b *block) bool { return !b.isText() })
	for i, b := range blocks {
		var now *table
		if len(found) > 0 {
			now = found[len(found)-1]
		}
		switch {
		case now == nil && wide && i < len(blocks)-1 && (b.isText() && b.rows() <= 6 || b.isAbove(blocks[i+1])):
			above = append(above, words.Say("intake-title", words.Args{"rows": rowsOf(b.first, b.last)}))
			title = strings.TrimSpace(strings.Join(b.head[len(b.head)-1], ""))
		case now != nil && now.isNote(b, blocks[i+1:]):
			title = ""
			if b.rows() == 1 && i < len(blocks)-1 {
				title = strings.TrimSpace(strings.Join(b.head[0], ""))
			}
			now.leaveOut(b)
			now.notes = append(now.notes, words.Say("intake-note-below", words.Args{"rows": rowsOf(b.first, b.last)}))
		case now != nil && b.rows() == 1 && isTotal(b.head[0]):
			now.leaveOut(b)
			now.notes = append(now.notes, words.Say("intake-total", words.Args{"row": b.first}))
		case now != nil && now.goesOn(b):
			now.take(b)
		default:
			t := newTable(b)
			if title != "" && t.title == "" {
				t.title = title
			}
			title = ""
			t.notes = append(above, t.notes...)
			above = nil
			found = append(found, t)
		}
	}
	return g.sheets(found), nil
}

// isAbove tells whether the one row of a block stands above a table that has names of its own, and is none of its rows: a title
// with a day beside.
func (b *block) isAbove(next *block) bool {
	return b.rows() == 1 && next.rows() > 1 && filledIn(b.head[0])*2 <= widthOf(next.filled) && namesIn(next.head) > 0
}

// plainTitle is a title that names what stands below it.
var plainTitle = regexp.MustCompile(`^\pL{3,20}( \pL{3,20})?$`)

// sheets gives the tables as sheets; one that stands beside others is one of its own.
func (g *grid) sheets(found []*table) []*Sheet {
	var parted []*table
	for _, t := range found {
		parted = append(parted, t.sides()...)
	}
	var out []*Sheet
	// a title above the first of several tables is of that one where each has its own, and else of all of them
	untitled := func(t *table) bool { return t.title == "" || utf8.RuneCountInString(t.title) > 40 }
	titled := len(parted) > 1 && !slices.ContainsFunc(parted, untitled)
	for i, t := range parted {
		s := &Sheet{File: g.file, Name: g.name, rows: g.rows, first: t.first, last: t.last, left: t.left, beside: t.beside,
			Notes: slices.Concat(g.notes, t.notes)}
		switch {
		case i == 0 && (titled || len(parted) > 1 && plainTitle.MatchString(t.title)):
			s.Name = sheetName(t.title + ".x")
		case i > 0 && t.title != "" && utf8.RuneCountInString(t.title) <= 40:
			s.Name = sheetName(t.title + ".x")
		case i > 0:
			s.Name = fmt.Sprintf("%s %d", g.name, i+1)
		}
		s.Header, s.columns = t.header()
		note := ""
		s.named = len(t.names)
		s.Names, note = namesOf(s.named)
		s.Notes = append(s.Notes, note)
		if len(s.Header) > 0 {
			out = append(out, s)
		}
	}
	return out
}

// sides parts tables that stand beside each other: with an empty column between, and of different lengths.
func (t *table) sides() []*table {
	var runs [][2]int // of columns in which anything stands
	for i, f := range t.filled {
		switch {
		case !f:
		case i > 0 && t.filled[i-1]:
			runs[len(runs)-1][1] = i + 1
		default:
			runs = append(runs, [2]int{i, i + 1})
		}
	}
	narrow := func(r [2]int) bool { return r[1]-r[0] < 2 }
	if len(runs) < 2 || slices.ContainsFunc(runs, narrow) || !t.uneven(runs) {
		return []*table{t}
	}
	var out []*table
	for _, r := range runs {
		side := *t
		side.beside, side.title, side.filled = true, "", make([]bool, len(t.filled))
		copy(side.filled[r[0]:r[1]], t.filled[r[0]:r[1]])
		out = append(out, &side)
	}
	return out
}

// uneven tells whether runs of columns end at different rows, each of them once: what is empty here and there is optional.
func (t *table) uneven(runs [][2]int) bool {
	ends := map[int]bool{}
	for _, r := range runs {
		end := 0
		for i, row := range t.body {
			if blank(row[min(r[0], len(row)):min(r[1], len(row))]) {
				continue
			}
			if end != i {
				return false
			}
			end = i + 1
		}
		ends[end] = true
	}
	return len(ends) > 1
}

func rowsOf(first, last int) string {
	if first == last {
		return fmt.Sprint(first)
	}
	return fmt.Sprintf("%d–%d", first, last)
}

// isText tells whether all rows of a block hold one value: they are a title, or a note.
func (b *block) isText() bool {
	return !slices.ContainsFunc(b.head, func(row []string) bool { return filledIn(row) > 1 })
}

func filledIn(row []string) int {
	n := 0
	for _, c := range row {
		if strings.TrimSpace(c) != "" {
			n++
		}
	}
	return n
}

func widthOf(filled []bool) int {
	n := 0
	for _, f := range filled {
		if f {
			n++
		}
	}
	return n
}

// lastFilled gives the index behind the last cell in which anything stands.
func lastFilled(row []string) int {
	for i := len(row); i > 0; i-- {
		if strings.TrimSpace(row[i-1]) != "" {
			return i
		}
	}
	return 0
}

// newTable takes a block for a table: titles off its top, the names of its columns, and what stands below its rows.
func newTable(b *block) *table {
	t := &table{first: b.first, last: b.last, left: map[int]bool{}, filled: slices.Clone(b.filled)}
	rows := b.head
	titles := b.titles()
	if titles > 0 {
		t.title = strings.TrimSpace(strings.Join(rows[titles-1], " "))
		t.notes = append(t.notes, words.Say("intake-title", words.Args{"rows": rowsOf(b.first, b.first+titles-1)}))
	}
	rows = rows[titles:]
	n := namesIn(rows)
	t.names, t.body = rows[:n], rows[n:]
	t.first += titles + n
	if titles > 0 { // what stands only above says nothing of the columns
		t.refill(b, titles)
	}
	t.cutTail(b)
	return t
}

// titles tells how many rows at the top of a block stand above its table.
func (b *block) titles() int {
	width := 0
	for _, r := range b.head {
		width = max(width, filledIn(r))
	}
	n := 0
	for n < len(b.head)-1 && isTitle(b.head[n], b.head[n+1], width) {
		n++
	}
	return n
}

// refill finds in which columns something stands without the rows of a title; of a large block the first rows tell.
func (t *table) refill(b *block, titles int) {
	if b.rows() > len(b.head)+len(b.tail) {
		return
	}
	again := &block{}
	for _, r := range slices.Concat(b.head[titles:], b.tail) {
		again.note(r)
	}
	for i := range t.filled {
		t.filled[i] = i < len(again.filled) && again.filled[i]
	}
}

// isTitle tells whether a row stands above a table, and is none of its own.
func isTitle(row, next []string, width int) bool {
	switch n := filledIn(row); n {
	case 0:
		return true
	case 1:
		return width > 1
	case 2: // a name and its value
		last := lastFilled(row)
		return width > 3 && last > 1 && strings.TrimSpace(row[last-2]) != "" && filledIn(next) != 1 && !isName(row[last-1])
	}
	return false
}

// isName tells whether a cell can name a column: it is no number, day or address.
func isName(c string) bool {
	c = strings.TrimSpace(c)
	return c != "" && kindOf(c) == textCell && len(c) <= 200
}

// cutTail leaves out what stands below the rows: sums and notes.
func (t *table) cutTail(b *block) {
	width := widthOf(t.filled)
	for i := len(b.tail) - 1; i >= 0; i-- {
		n := b.last - (len(b.tail) - 1 - i)
		row := b.tail[i]
		switch {
		case n <= t.first:
			return
		case isTotal(row):
			t.notes = append(t.notes, words.Say("intake-total", words.Args{"row": n}))
		case width > 2 && filledIn(row) == 1 && isRemark(row):
			t.notes = append(t.notes, words.Say("intake-note-below", words.Args{"rows": rowsOf(n, n)}))
		default:
			return
		}
		t.left[n] = true
	}
}

// isTotal tells whether a row is the sum of others: it says so, and holds nothing but numbers beside.
func isTotal(row []string) bool {
	said, numbers := false, 0
	for _, c := range row {
		c = strings.TrimSpace(c)
		switch {
		case c == "":
		case !said && numbers == 0 && totalPattern.MatchString(c):
			said = true
		case kindOf(c) == numberCell:
			numbers++
		default:
			return false
		}
	}
	return said && numbers > 0
}

// isRemark tells whether the one value of a row is a remark on the table.
func isRemark(row []string) bool {
	c := strings.ToLower(strings.TrimSpace(strings.Join(row, "")))
	begins := func(w string) bool { return strings.HasPrefix(c, w) }
	return slices.ContainsFunc([]string{"*", "note", "source"}, begins) ||
		(len(c) > 30 || len(strings.Fields(c)) > 4) && kindOf(c) == textCell
}

// goesOn tells whether a block holds more rows of the table: it has no names of its own, or the same.
func (t *table) goesOn(b *block) bool {
	titles := b.titles()
	first := b.head[titles]
	if len(t.names) > 0 && slices.Equal(trimmed(first), trimmed(t.names[len(t.names)-1])) {
		return true
	}
	data := func(c string) bool { return c != "" && !isName(c) }
	if b.rows()-titles < 2 || filledIn(first) < 2 || slices.ContainsFunc(trimmed(first), data) {
		return true
	}
	if lastFilled(first) != lastOf(t.filled) {
		return false
	}
	for i, kind := range kindsOf(t.body) { // what stands where numbers and days stood names a column
		if kind != textCell && kind != noCell && i < len(first) && isName(first[i]) && !isNothing(fold(first[i])) {
			return false
		}
	}
	return true
}

func lastOf(filled []bool) int {
	for i := len(filled); i > 0; i-- {
		if filled[i-1] {
			return i
		}
	}
	return 0
}

func trimmed(row []string) []string {
	out := make([]string, 0, len(row))
	for _, c := range row[:lastFilled(row)] {
		out = append(out, strings.TrimSpace(c))
	}
	return out
}

// isNote tells whether a block below the table is no more of its rows: a remark, or a title of the table that follows.
func (t *table) isNote(b *block, behind []*block) bool {
	if !b.isText() || b.rows() > 6 || widthOf(t.filled) < 2 {
		return false
	}
	follows := len(behind) > 0 && !behind[0].isText() && !t.goesOn(behind[0])
	return follows || !slices.ContainsFunc(b.head, func(row []string) bool { return !isRemark(row) })
}

// leaveOut leaves out the rows of a block, even if others follow that are of the table.
func (t *table) leaveOut(b *block) {
	for n := b.first; n <= b.last; n++ {
		t.left[n] = true
	}
}

// take adds a block to the table.
func (t *table) take(b *block) {
	if len(t.names) > 0 && slices.Equal(trimmed(b.head[0]), trimmed(t.names[len(t.names)-1])) {
		t.left[b.first] = true
		t.notes = append(t.notes, words.Say("intake-names-again", words.Args{"row": b.first}))
	}
	t.last = b.last
	for i, f := range b.filled {
		if i >= len(t.filled) {
			t.filled = append(t.filled, f)
		} else {
			t.filled[i] = t.filled[i] || f
		}
	}
	t.cutTail(b)
}
