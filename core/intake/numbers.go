package intake

import (
	"regexp"
	"strings"

	"github.com/shopspring/decimal"
)

// moneySigns are the signs and codes of currencies that stand beside amounts. Crowns are of several countries: those of
// Sweden unless somebody says otherwise.
var moneySigns = []struct{ sign, code string }{{"€", "EUR"}, {"$", "USD"}, {"£", "GBP"}, {"¥", "JPY"}, {"₹", "INR"}, {"₽", "RUB"},
	{"zł", "PLN"}, {"Kč", "CZK"}, {"kr.", "SEK"}, {"kr", "SEK"}, {"EUR", "EUR"}, {"USD", "USD"}, {"GBP", "GBP"}, {"JPY", "JPY"},
	{"CHF", "CHF"}, {"SEK", "SEK"}, {"NOK", "NOK"}, {"DKK", "DKK"}, {"PLN", "PLN"}, {"CZK", "CZK"}, {"AUD", "AUD"}, {"CAD", "CAD"},
	{"INR", "INR"}, {"BRL", "BRL"}}

var plainNumber = regexp.MustCompile(`^[+-]?\d+(\.\d+)?$`)

// parseNumber reads a number with the decimal separator given; the other one, spaces and apostrophes may part thousands.
func parseNumber(s string, point byte) (decimal.Decimal, bool) {
	s = strings.TrimSpace(s)
	negative := false
	if strings.HasPrefix(s, "(") && strings.HasSuffix(s, ")") {
		s, negative = s[1:len(s)-1], true
	}
	s, _ = withoutCurrency(s)
	s = strings.TrimSpace(strings.TrimSuffix(s, "%"))
	if strings.HasPrefix(s, "(") && strings.HasSuffix(s, ")") && !negative {
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
	if bare[0] == '.' {
		bare = "0" + bare
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

// readNumber reads a number of a column whose decimals stand behind the separator. What can only be read the other way is read
// so: 12.5 stays twelve and a half beside 1.250,00.
func readNumber(s string, point byte) (decimal.Decimal, bool) {
	if d, ok := parseNumber(s, point); ok {
		return d, true
	}
	other := byte(',')
	if point == ',' {
		other = '.'
	}
	return parseNumber(s, other)
}

// ungrouped takes out what parts thousands, where it does so rightly: 0,750 and 01,200 have none.
func ungrouped(s string, group byte) (string, bool) {
	for _, mark := range []string{string(group), " ", "\u00a0", "\u202f", "'", "’"} {
		if !strings.Contains(s, mark) {
			continue
		}
		parts := strings.Split(s, mark)
		for i, p := range parts {
			first := strings.TrimLeft(p, "+-")
			if i > 0 && len(p) != 3 || i == 0 && (len(first) > 3 || first == "" || first[0] == '0') {
				return "", false
			}
		}
		return strings.Join(parts, ""), true
	}
	return s, true
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

func allDigits(s string) bool { return s != "" && strings.Trim(s, "0123456789") == "" }

// withoutCurrency takes a sign or code of a currency off a number.
func withoutCurrency(s string) (rest, currency string) {
	s = strings.TrimSpace(s)
	if s == "" || digit(s[0]) && digit(s[len(s)-1]) { // most numbers, which are many
		return s, ""
	}
	for _, m := range moneySigns {
		for _, minus := range []string{"", "-"} {
			if r, ok := strings.CutPrefix(s, minus+m.sign); ok && !startsWithLetter(r) {
				return minus + strings.TrimSpace(r), m.code
			}
		}
		if r, ok := strings.CutSuffix(s, m.sign); ok {
			return strings.TrimSpace(r), m.code
		}
	}
	return s, ""
}

func startsWithLetter(s string) bool {
	return s != "" && (s[0]|0x20 >= 'a' && s[0]|0x20 <= 'z' || s[0] >= 0x80)
}

// hoursPattern is how long something lasts, in hours, minutes and perhaps seconds; or a time of day.
var hoursPattern = regexp.MustCompile(`^(\d{1,4}):([0-5]\d)(?::([0-5]\d))?$`)

// wordedPattern is how long something lasts, in words: hours, hours and minutes, or minutes.
var wordedPattern = regexp.MustCompile(`^(?:(\d+(?:[.,]\d+)?) ?(?:h|hrs?|hours?|std\.?)(?: ?(\d+) ?(?:m|min\.?|mins|minutes?)?)?|` +
	`(\d+) ?(?:min\.?|mins|minutes?))$`)

// readHours reads how long something lasts, as hours.
func readHours(s string) (decimal.Decimal, bool) {
	part := func(text string, of int64) decimal.Decimal {
		d, _ := decimal.NewFromString(strings.ReplaceAll(text, ",", ".")) // the patterns let only numbers through
		return d.Div(decimal.NewFromInt(of)).Round(6)
	}
	if m := hoursPattern.FindStringSubmatch(s); m != nil {
		return part(m[1], 1).Add(part(m[2], 60)).Add(part(m[3], 3600)), true
	}
	if m := wordedPattern.FindStringSubmatch(strings.ToLower(s)); m != nil {
		return part(m[1], 1).Add(part(m[2], 60)).Add(part(m[3], 60)), true
	}
	return decimal.Decimal{}, false
}
