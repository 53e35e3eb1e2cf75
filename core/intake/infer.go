package intake

import (
	"hash/maphash"
	"slices"
	"sort"
	"strings"
	"unicode/utf8"

	"pinegate/core/blueprint"
	"pinegate/core/words"
)

// ColumnPlan says what a column of a sheet is to become. Format says how its texts
// are read.
type ColumnPlan struct {
	Header string              `json:"header"`
	Name   string              `json:"name"`
	Skip   bool                `json:"skip,omitempty"`  // it is left out
	Field  string              `json:"field,omitempty"` // id of the field that it fills, in a table that is there
	Type   blueprint.FieldType `json:"type"`
	Format Format              `json:"format"`
	// Choices are those of a new choice list.
	Choices []string  `json:"choices,omitempty"`
	Link    *LinkPlan `json:"link,omitempty"`
	Reason  string    `json:"reason"`
	Unique  bool      `json:"unique"`        // every row has a value of its own
	Filled  int       `json:"filled"`        // rows in which there is something
	Bad     int       `json:"bad"`           // of these, rows that cannot be read as the type
	Samples []string  `json:"samples"`       // some of the values
	Ask     string    `json:"ask,omitempty"` // what could not be decided
}

// Format says how the texts of a column are read.
type Format struct {
	Comma    bool   `json:"comma,omitempty"`    // decimals behind a comma
	Order    string `json:"order,omitempty"`    // of dates: day, month, year or name
	Currency string `json:"currency,omitempty"` // of money
}

// LinkPlan says to what the values of a column point.
type LinkPlan struct {
	Sheet int    `json:"sheet"`           // index of the sheet among those brought, or -1
	Table string `json:"table,omitempty"` // id of a table that is there
	By    string `json:"by"`              // header of the column, or id of the field, that is matched; "" for the label
	Many  bool   `json:"many,omitempty"`  // several, parted by commas
	// Matched, Missing and Ambiguous count the values that point to one record,
	// to none and to several.
	Matched   int     `json:"matched"`
	Missing   int     `json:"missing"`
	Ambiguous int     `json:"ambiguous"`
	Unmatched Outcome `json:"unmatched"`
}

// Outcome says what becomes of values that point to nothing.
type Outcome string

// The outcomes for values that point to nothing.
const (
	LeaveOut Outcome = "leave out"
	Create   Outcome = "create"
)

const (
	mostDistinct = 200_000 // values of a column that are remembered for matching
	mostChoices  = 20
	samplesShown = 5
	tolerated    = 20 // one row in so many may be wrong for a type still to be meant
)

// column gathers what the values of one column could be.
type column struct {
	filled                  int
	point, comma, leadZero  int
	pointOnly, commaOnly    int
	money, percent          int
	orders                  map[order]int
	stamps, yes, mail       int
	phone, web, long, lines int
	currency                map[string]int
	distinct                map[uint64]uint32
	overflow                bool
	values                  map[string]int // while there are few
	samples                 []string
	parts                   map[uint64]struct{} // of values parted by commas
	seed                    maphash.Seed
	multi                   int
	commas                  map[uint64]struct{} // whole values that have commas
}

func newColumn(seed maphash.Seed) *column {
	return &column{orders: map[order]int{}, currency: map[string]int{}, distinct: map[uint64]uint32{}, values: map[string]int{},
		parts: map[uint64]struct{}{}, commas: map[uint64]struct{}{}, seed: seed}
}

// fold gives what is compared when values are matched.
func fold(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }

func (c *column) add(s string) {
	s = strings.TrimSpace(s)
	if s == "" {
		return
	}
	c.filled++
	if len(c.samples) < samplesShown && !slices.Contains(c.samples, s) {
		c.samples = append(c.samples, short(s))
	}
	c.count(s)
	c.remember(s)
}

func short(s string) string {
	if utf8.RuneCountInString(s) > 60 {
		return string([]rune(s)[:60]) + "…"
	}
	return s
}

// count asks of a value what it could be. It is asked of every cell of a file,
// so each question is put only where a first look leaves it open.
func (c *column) count(s string) {
	inc := func(n *int, is bool) {
		if is {
			*n++
		}
	}
	if strings.ContainsAny(s, "0123456789") {
		c.countNumbers(s, inc)
	}
	_, yes := parseYesNo(s)
	inc(&c.yes, yes)
	inc(&c.mail, strings.Contains(s, "@") && emailPattern.MatchString(s))
	inc(&c.web, (strings.HasPrefix(s, "http") || strings.HasPrefix(s, "www.")) && webPattern.MatchString(s))
	inc(&c.long, len(s) > 120 && utf8.RuneCountInString(s) > 120)
	inc(&c.lines, strings.Contains(s, "\n"))
	inc(&c.multi, strings.Contains(s, ", "))
}

func (c *column) countNumbers(s string, inc func(*int, bool)) {
	_, point := parseNumber(s, '.')
	_, comma := parseNumber(s, ',')
	inc(&c.point, point)
	inc(&c.comma, comma)
	inc(&c.pointOnly, point && !comma)
	inc(&c.commaOnly, comma && !point)
	inc(&c.percent, (point || comma) && strings.HasSuffix(s, "%"))
	inc(&c.leadZero, len(s) > 1 && s[0] == '0' && digit(s[1]))
	if point || comma {
		if _, code := withoutCurrency(s); code != "" {
			c.money++
			c.currency[code]++
		}
	}
	dated := dateOrders(s)
	for o := yearFirst; o <= named && dated != 0; o <<= 1 {
		if dated&o != 0 {
			c.orders[o]++
		}
	}
	inc(&c.stamps, strings.Contains(s, ":") && stampPattern.MatchString(s))
	inc(&c.phone, dated == 0 && (s[0] == '+' || s[0] == '(' || s[0] == '0') && phonePattern.MatchString(s))
}

func (c *column) remember(s string) {
	if c.overflow {
		return
	}
	whole := maphash.String(c.seed, fold(s))
	c.distinct[whole]++
	if len(c.values) <= mostChoices {
		c.values[s]++
	}
	if strings.Contains(s, ",") {
		c.commas[whole] = struct{}{}
		for _, part := range strings.Split(s, ",") {
			if part = fold(part); part != "" {
				c.parts[maphash.String(c.seed, part)] = struct{}{}
			}
		}
	}
	if len(c.distinct) > mostDistinct || len(c.parts) > mostDistinct {
		c.overflow = true
		c.distinct, c.parts, c.commas = map[uint64]uint32{}, map[uint64]struct{}{}, map[uint64]struct{}{}
	}
}

func (c *column) unique() bool {
	return c.filled > 0 && !c.overflow && len(c.distinct) == c.filled
}

// nearly tells whether so many of the values are of a kind that the others are
// mistakes.
func (c *column) nearly(n int) bool {
	return n > 0 && (c.filled-n)*tolerated <= c.filled
}

// decide gives what the column is, with the reason in words.
func (c *column) decide(header string) ColumnPlan {
	out := ColumnPlan{Header: header, Name: header, Type: blueprint.Text, Filled: c.filled, Unique: c.unique(),
		Samples: append([]string{}, c.samples...)}
	is := func(t blueprint.FieldType, good int, reason string) ColumnPlan {
		out.Type, out.Bad, out.Reason = t, c.filled-good, reason
		if out.Bad > 0 {
			out.Reason += " " + words.Say("intake-bad", words.Args{"n": out.Bad})
		}
		return out
	}
	switch {
	case c.filled == 0:
		return is(blueprint.Text, 0, words.Say("intake-nothing", nil))
	case c.nearly(c.mail):
		return is(blueprint.Email, c.mail, words.Say("intake-email", nil))
	case c.nearly(c.web):
		return is(blueprint.Web, c.web, words.Say("intake-web", nil))
	case c.nearly(c.stamps):
		return c.dates(is, blueprint.TimeStamp, &out)
	case c.nearly(c.yes) && len(c.values) <= 4:
		return is(blueprint.YesNo, c.yes, words.Say("intake-yes-no", nil))
	case c.dated() > 0:
		return c.dates(is, blueprint.Date, &out)
	case c.nearly(c.phone) && c.phone >= max(c.point, 1) && (c.leadZero > 0 || c.phone > c.point):
		return is(blueprint.Phone, c.phone, words.Say("intake-phone", nil))
	case c.leadZero*2 < c.filled && c.leadZero == 0 && c.nearly(max(c.point, c.comma)):
		return c.number(is, &out)
	case c.long > 0 || c.lines > 0:
		return is(blueprint.LongText, c.filled, words.Say("intake-long", nil))
	}
	if choices := c.choices(); choices != nil {
		out.Choices = choices
		return is(blueprint.Choose, c.filled, words.Say("intake-choices", words.Args{"rows": c.filled, "n": len(choices)}))
	}
	reason := words.Say("intake-text", nil)
	if c.leadZero > 0 && c.nearly(c.point) {
		reason = words.Say("intake-zero", nil)
	}
	return is(blueprint.Text, c.filled, reason)
}

func (c *column) number(is func(blueprint.FieldType, int, string) ColumnPlan, out *ColumnPlan) ColumnPlan {
	out.Format.Comma = c.commaOnly > c.pointOnly
	good := c.point
	reason := words.Say("intake-number", nil)
	if out.Format.Comma {
		good = c.comma
		reason = words.Say("intake-comma", nil)
	}
	if c.commaOnly > 0 && c.pointOnly > 0 {
		out.Ask = words.Say("intake-mixed", nil)
	}
	switch {
	case c.nearly(c.percent):
		return is(blueprint.Percent, good, words.Say("intake-percent", nil))
	case c.money*2 > c.filled:
		most := ""
		for code, n := range c.currency {
			if most == "" || n > c.currency[most] || n == c.currency[most] && code < most {
				most = code
			}
		}
		out.Format.Currency = most
		if len(c.currency) > 1 {
			out.Ask = words.Say("intake-currencies", nil)
		}
		return is(blueprint.Money, good, words.Say("intake-money", words.Args{"currency": most}))
	}
	return is(blueprint.Number, good, reason)
}

// dated gives the most dates that one order makes of the values.
func (c *column) dated() int {
	best := 0
	for _, n := range c.orders {
		if c.nearly(n) {
			best = max(best, n)
		}
	}
	return best
}

var orderNames = map[order]string{yearFirst: "year", dayFirst: "day", monthFirst: "month", named: "name"}

// dates decides the order of day and month from the whole column.
func (c *column) dates(is func(blueprint.FieldType, int, string) ColumnPlan, t blueprint.FieldType, out *ColumnPlan) ColumnPlan {
	if t == blueprint.TimeStamp {
		return is(t, c.stamps, words.Say("intake-time", nil))
	}
	best := yearFirst
	for _, o := range []order{yearFirst, dayFirst, monthFirst, named} {
		if c.orders[o] > c.orders[best] {
			best = o
		}
	}
	out.Format.Order = orderNames[best]
	reason := words.Say("intake-date", nil)
	switch {
	case best == dayFirst && c.orders[monthFirst] == c.orders[dayFirst]:
		out.Ask = words.Say("intake-day-month", nil)
	case best == dayFirst:
		reason = words.Say("intake-day-first", nil)
	case best == monthFirst:
		reason = words.Say("intake-month-first", nil)
	}
	return is(t, c.orders[best], reason)
}

// choices gives the values of a column that repeats a few of them.
func (c *column) choices() []string {
	n := len(c.values)
	if c.overflow || n > mostChoices || n < 2 || c.filled < 8 || c.filled < n*3 {
		return nil
	}
	folded := map[string]string{}
	for v := range c.values {
		if utf8.RuneCountInString(v) > 40 || strings.Contains(v, ", ") {
			return nil
		}
		if other, ok := folded[fold(v)]; !ok || c.values[v] > c.values[other] {
			folded[fold(v)] = v
		}
	}
	var out []string
	for _, v := range folded {
		out = append(out, v)
	}
	sort.Slice(out, func(i, j int) bool {
		if c.values[out[i]] != c.values[out[j]] {
			return c.values[out[i]] > c.values[out[j]]
		}
		return out[i] < out[j]
	})
	return out
}
