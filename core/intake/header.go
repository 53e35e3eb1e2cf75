package intake

import (
	"fmt"
	"strings"
	"unicode/utf8"
)

// cellKind is what a single cell looks like.
type cellKind uint8

const (
	noCell cellKind = iota
	textCell
	numberCell
	dayCell
	mailCell
)

func kindOf(c string) cellKind {
	c = strings.TrimSpace(c)
	if c == "" || isNothing(fold(c)) {
		return noCell
	}
	if firstDigit(c) >= 0 {
		if dateOrders(c) != 0 {
			return dayCell
		}
		if date, _, ok := splitStamp(c); ok && dateOrders(date) != 0 {
			return dayCell
		}
		if clockPattern.MatchString(c) {
			return dayCell
		}
		if _, ok := readNumber(c, '.'); ok {
			return numberCell
		}
	}
	if strings.Contains(c, "@") && isEmail(c) {
		return mailCell
	}
	return textCell
}

// kindsOf gives of each column what most of its cells look like.
func kindsOf(rows [][]string) []cellKind {
	var out []cellKind
	for i := 0; ; i++ {
		counts := map[cellKind]int{}
		is := false
		for _, r := range rows {
			if i < len(r) {
				is = true
				counts[kindOf(r[i])]++
			}
		}
		if !is {
			return out
		}
		best := noCell
		for _, k := range []cellKind{textCell, numberCell, dayCell, mailCell} {
			if counts[k] > counts[best] || best == noCell && counts[k] > 0 {
				best = k
			}
		}
		out = append(out, best)
	}
}

// namesIn tells how many of the first rows name the columns: none, one, or two, of which the first names several together.
func namesIn(rows [][]string) int {
	switch {
	case len(rows) == 0:
		return 0
	case len(rows) > 2 && areTwo(rows):
		return 2
	case nameScore(rows[0], rows[1:]) > 0:
		return 1
	}
	return 0
}

// areTwo tells whether the second row names columns below the first: it fills gaps of it, holds no data itself, and what
// follows does.
func areTwo(rows [][]string) bool {
	upper, lower := rows[0], rows[1]
	if filledIn(upper) == 0 || filledIn(lower) <= 1 {
		return false
	}
	gaps := 0
	for i, c := range lower {
		if c = strings.TrimSpace(c); c == "" {
			continue
		}
		if !isName(c) && !isYear(c) {
			return false
		}
		if i >= len(upper) || strings.TrimSpace(upper[i]) == "" {
			gaps++
		}
	}
	for _, c := range upper {
		if c = strings.TrimSpace(c); c != "" && !isName(c) && !isYear(c) {
			return false
		}
	}
	if gaps == 0 {
		return false
	}
	return nameScore(lower, rows[2:]) > 1
}

func isYear(c string) bool { return len(c) == 4 && allDigits(c) && (c[:2] == "19" || c[:2] == "20") }

// nameScore says how much a row looks like names of the columns of others: more than 0 where it does. Names are texts above
// numbers and days, and never come again below.
func nameScore(row []string, below [][]string) float64 {
	score, filled := 0.0, 0
	kinds := kindsOf(below)
	for i, c := range row {
		c = strings.TrimSpace(c)
		if c == "" {
			continue
		}
		filled++
		kind := noCell
		if i < len(kinds) {
			kind = kinds[i]
		}
		is := kindOf(c)
		switch {
		case isYear(c) && kind == numberCell:
			score += 0.5
		case is == textCell && kind != textCell && kind != noCell:
			score += 2
		case is != textCell && is != noCell:
			score -= 2
		case utf8.RuneCountInString(c) > 60:
			score--
		case comesAgain(c, i, below):
			score -= 2
		}
	}
	if filled == 0 {
		return 0
	}
	return score + 0.25 // where nothing speaks against it, the first row is one of names
}

func comesAgain(c string, at int, rows [][]string) bool {
	for _, r := range rows {
		if at < len(r) && strings.EqualFold(strings.TrimSpace(r[at]), c) {
			return true
		}
	}
	return false
}

// mostName is how many letters the name of a column has.
const mostName = 60

// header gives the names of the columns, and which they are; those without a name in which nothing stands are none.
func (t *table) header() (names []string, columns []int) {
	taken := map[string]bool{}
	for i := range t.filled {
		name := t.nameOf(i)
		if t.beside && !t.filled[i] {
			continue
		}
		if name == "" {
			if !t.filled[i] {
				continue
			}
			name = fmt.Sprintf("Column %d", i+1)
		}
		names, columns = append(names, distinctName(name, taken)), append(columns, i)
	}
	return names, columns
}

// nameOf puts together what names a column.
func (t *table) nameOf(at int) string {
	cell := func(row []string, i int) string {
		if i >= 0 && i < len(row) {
			return plainName(row[i])
		}
		return ""
	}
	switch len(t.names) {
	case 0:
		return ""
	case 1:
		return cell(t.names[0], at)
	}
	upper, lower := "", cell(t.names[1], at)
	for i := at; i >= 0 && upper == ""; i-- { // what names several stands above the first of them
		if i < at && cell(t.names[1], i) == "" {
			break
		}
		upper = cell(t.names[0], i)
	}
	if lower == "" {
		return cell(t.names[0], at)
	}
	return strings.TrimSpace(upper + " " + lower)
}

// plainName takes out of a name what names of fields do not have.
func plainName(s string) string {
	s = strings.Join(strings.Fields(strings.NewReplacer("[", " ", "]", " ", "{", " ", "}", " ").Replace(s)), " ")
	if r := []rune(s); len(r) > mostName {
		s = string(r[:mostName])
	}
	return s
}

// distinctName gives a name that no other column has.
func distinctName(name string, taken map[string]bool) string {
	base := name
	for n := 2; taken[strings.ToLower(name)]; n++ {
		name = fmt.Sprintf("%s %d", base, n)
	}
	taken[strings.ToLower(name)] = true
	return name
}
