package intake

import (
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode"

	"github.com/shopspring/decimal"
)

var (
	emailPattern = regexp.MustCompile(`^[^\s@,;<>]+@[^\s@,;<>]+\.[^\s@,;<>]+$`)
	webPattern   = regexp.MustCompile(`^(https?://|www\.)[^\s]+\.[^\s]+$`)
	phonePattern = regexp.MustCompile(`^(\+|\(|0)[0-9 ()/.-]{5,24}$`)
	stampPattern = regexp.MustCompile(`^(\S{6,11}|\d{1,2} \w{3,9} \d{4})[T ]([01]?\d|2[0-3]):[0-5]\d(:[0-5]\d)?(\.\d+)?(Z|[+-]\d\d:?\d\d)?$`)
	moneySigns   = map[string]string{"€": "EUR", "$": "USD", "£": "GBP", "¥": "JPY", "EUR": "EUR", "USD": "USD", "GBP": "GBP", "CHF": "CHF",
		"SEK": "SEK", "NOK": "NOK", "DKK": "DKK"}
	plainNumber = regexp.MustCompile(`^[+-]?\d+(\.\d+)?$`)
)

// parseNumber reads a number with the decimal separator given; the other one,
// spaces and apostrophes may part thousands.
func parseNumber(s string, point byte) (decimal.Decimal, bool) {
	s, _ = withoutCurrency(s)
	s = strings.TrimSpace(strings.TrimSuffix(s, "%"))
	negative := false
	if strings.HasPrefix(s, "(") && strings.HasSuffix(s, ")") {
		s, negative = s[1:len(s)-1], true
	}
	if s == "" || len(s) > 60 || s[0] != '-' && s[0] != '+' && s[0] != '.' && (s[0] < '0' || s[0] > '9') {
		return decimal.Decimal{}, false
	}
	group := byte(',')
	if point == ',' {
		group = '.'
	}
	whole, fraction, has := strings.Cut(s, string(point))
	if has && (fraction == "" || strings.Trim(fraction, "0123456789") != "") {
		return decimal.Decimal{}, false
	}
	bare, ok := ungrouped(whole, group)
	if !ok {
		return decimal.Decimal{}, false
	}
	if has {
		bare += "." + fraction
	}
	if !plainNumber.MatchString(bare) {
		return decimal.Decimal{}, false
	}
	d, err := decimal.NewFromString(strings.TrimPrefix(bare, "+"))
	if negative {
		d = d.Neg()
	}
	return d, err == nil
}

// ungrouped takes out what parts thousands, where it does so rightly.
func ungrouped(s string, group byte) (string, bool) {
	for _, mark := range []string{string(group), " ", "\u00a0", "\u202f", "'", "’"} {
		if !strings.Contains(s, mark) {
			continue
		}
		parts := strings.Split(s, mark)
		for i, p := range parts {
			if i > 0 && len(p) != 3 || i == 0 && (len(strings.TrimLeft(p, "+-")) > 3 || strings.TrimLeft(p, "+-") == "") {
				return "", false
			}
		}
		return strings.Join(parts, ""), true
	}
	return s, true
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

// withoutCurrency takes a sign or code of a currency off a number.
func withoutCurrency(s string) (rest, currency string) {
	s = strings.TrimSpace(s)
	if s == "" || digit(s[0]) && digit(s[len(s)-1]) { // most numbers, which are many
		return s, ""
	}
	for sign, code := range moneySigns {
		if r, ok := strings.CutPrefix(s, sign); ok {
			return strings.TrimSpace(r), code
		}
		if r, ok := strings.CutSuffix(s, sign); ok {
			return strings.TrimSpace(r), code
		}
		if r, ok := strings.CutPrefix(s, "-"+sign); ok {
			return "-" + strings.TrimSpace(r), code
		}
	}
	return s, ""
}

// order is in which order a date has its day, month and year.
type order uint8

const (
	yearFirst order = 1 << iota
	dayFirst
	monthFirst
	named // the month by its name
)

var monthNames = []string{"2 January 2006", "2 Jan 2006", "January 2, 2006", "Jan 2, 2006", "2-Jan-2006", "2-Jan-06", "2. January 2006"}

var digits3 = regexp.MustCompile(`^(\d{1,4})[-/.](\d{1,2})[-/.](\d{1,4})\.?$`)

// dateOrders tells in which orders a text is a date; 0 for none.
func dateOrders(s string) order {
	s = strings.TrimSpace(s)
	if len(s) < 6 || len(s) > 20 || !digit(s[0]) && !digit(s[len(s)-1]) {
		return 0
	}
	var out order
	for _, o := range []order{yearFirst, dayFirst, monthFirst, named} {
		if _, ok := parseDate(s, o); ok {
			out |= o
		}
	}
	return out
}

// parseDate reads a date whose parts are in the order, as ISO 8601.
func parseDate(s string, o order) (string, bool) {
	s = strings.TrimSpace(s)
	if o == named {
		if !strings.ContainsFunc(s, unicode.IsLetter) {
			return "", false
		}
		for _, layout := range monthNames {
			if t, err := time.Parse(layout, s); err == nil {
				return t.Format(time.DateOnly), true
			}
		}
		return "", false
	}
	if !digit(s[0]) || !strings.ContainsAny(s, "-/.") {
		return "", false
	}
	m := digits3.FindStringSubmatch(s)
	if m == nil {
		return "", false
	}
	a, b, c := atoi(m[1]), atoi(m[2]), atoi(m[3])
	var y, mo, d int
	switch {
	case o == yearFirst && len(m[1]) == 4 && len(m[3]) <= 2:
		y, mo, d = a, b, c
	case o == dayFirst && len(m[1]) <= 2 && (len(m[3]) == 4 || len(m[3]) == 2):
		d, mo, y = a, b, c
	case o == monthFirst && len(m[1]) <= 2 && (len(m[3]) == 4 || len(m[3]) == 2):
		mo, d, y = a, b, c
	default:
		return "", false
	}
	if len(m[3]) == 2 && o != yearFirst {
		if y += 2000; y > 2069 {
			y -= 100
		}
	}
	t := time.Date(y, time.Month(mo), d, 0, 0, 0, 0, time.UTC)
	if t.Year() != y || int(t.Month()) != mo || t.Day() != d || y < 1 {
		return "", false
	}
	return t.Format(time.DateOnly), true
}

func atoi(s string) int {
	n, _ := strconv.Atoi(s) // the pattern let only digits through
	return n
}

// splitStamp parts a date from the time of day and the zone behind it.
func splitStamp(s string) (date, clock string, ok bool) {
	s = strings.TrimSpace(s)
	if !stampPattern.MatchString(s) {
		return "", "", false
	}
	i := strings.LastIndexAny(s[:strings.IndexByte(s, ':')], "T ")
	if i < 0 {
		return "", "", false
	}
	return s[:i], s[i+1:], true
}

// yesWords are the words for yes and no that a column can be made of.
var yesWords = [][2]string{{"yes", "no"}, {"true", "false"}, {"y", "n"}, {"ja", "nein"}, {"oui", "non"}, {"sim", "não"}, {"sí", "no"},
	{"si", "no"}, {"wahr", "falsch"}, {"on", "off"}}

func parseYesNo(s string) (yes, ok bool) {
	if s = strings.ToLower(strings.TrimSpace(s)); len(s) > 8 {
		return false, false
	}
	for _, pair := range yesWords {
		if s == pair[0] || s == pair[1] {
			return s == pair[0], true
		}
	}
	return false, false
}
