package intake

import (
	"regexp"
	"slices"
	"strings"

	"github.com/shopspring/decimal"
)

// moneySigns are the signs and codes of currencies that stand beside amounts. Crowns are of several countries: those of
// Sweden unless somebody says otherwise.
var moneySigns = map[string]string{"€": "EUR", "$": "USD", "£": "GBP", "¥": "JPY", "₹": "INR", "₽": "RUB", "zł": "PLN", "Kč": "CZK",
	"kr.": "SEK", "kr": "SEK", "Kr": "SEK", "EUR": "EUR", "USD": "USD", "GBP": "GBP", "JPY": "JPY", "CHF": "CHF", "SEK": "SEK",
	"NOK": "NOK", "DKK": "DKK", "PLN": "PLN", "CZK": "CZK", "AUD": "AUD", "CAD": "CAD", "INR": "INR", "BRL": "BRL", "Euro": "EUR",
	"euro": "EUR"}

// mostAround is how many bytes stand at most before or behind the digits of a number: signs, brackets, a currency.
const mostAround = 10

// figures is a number as it is written: its digits with what parts them, and what stands around.
type figures struct {
	body     string
	negative bool
	percent  bool
	currency string
	unit     string
	exponent string // the power of ten by which it is multiplied, or ""
}

// powered is a number with a power of ten: with a point in it or a sign in the power, so that it is no code.
var powered = regexp.MustCompile(`^(\d+[.,]\d+)[eE]([+-]?\d{1,2})$|^(\d+)[eE]([+-]\d{1,2})$`)

// splitFigures finds the digits of a number; false where other things stand around or between.
func splitFigures(s string) (figures, bool) {
	first, last := firstDigit(s), len(s)-1
	for last > first && !digit(s[last]) {
		last--
	}
	if first < 0 || last > 60 {
		return figures{}, false
	}
	if first > 0 && s[first-1] == '.' {
		first--
	}
	before, behind := s[:first], s[last+1:]
	out := figures{body: s[first : last+1]}
	if strings.ContainsAny(out.body, "eE") {
		if m := powered.FindStringSubmatch(out.body); m != nil {
			out.body, out.exponent = m[1]+m[3], m[2]+m[4]
		}
	}
	if before != "" {
		if len(before) > mostAround {
			return out, false
		}
		out.negative = strings.Contains(before, "-") || strings.Contains(before, "(") && strings.Contains(behind, ")")
		if out.currency = strings.Trim(before, "+-( \u00a0"); out.currency != "" {
			if out.currency = moneySigns[out.currency]; out.currency == "" {
				return out, false
			}
		}
	}
	if behind != "" {
		if len(behind) > mostAround {
			return out, false
		}
		sign := strings.Trim(behind, ") \u00a0\u202f")
		if rest, minus := strings.CutPrefix(sign, "-"); minus && before == "" { // as bookkeepers write it
			out.negative, sign = true, strings.TrimSpace(rest)
		}
		switch code := moneySigns[sign]; {
		case sign == "%":
			out.percent = true
		case code == "" && out.currency == "" && slices.Contains(units, sign):
			out.unit = sign
		case sign != "" && (code == "" || out.currency != ""):
			return out, false
		case sign != "":
			out.currency = code
		}
	}
	return out, true
}

// parseNumber reads a number with the decimal separator given; the other one, spaces and apostrophes may part thousands.
func parseNumber(s string, point byte) (decimal.Decimal, bool) {
	f, ok := splitFigures(s)
	if !ok {
		return decimal.Decimal{}, false
	}
	return f.number(point)
}

func (f figures) number(point byte) (decimal.Decimal, bool) {
	text, ok := f.text(point)
	if !ok {
		return decimal.Decimal{}, false
	}
	d, err := decimal.NewFromString(text)
	return d, err == nil
}

// text gives the number with a decimal point and nothing that parts thousands.
func (f figures) text(point byte) (string, bool) {
	group := byte(',')
	if point == ',' {
		group = '.'
	}
	whole, fraction, has := strings.Cut(f.body, string(point))
	if has && !allDigits(fraction) {
		return "", false
	}
	bare, ok := ungrouped(whole, group)
	if !ok || bare == "" && !has || bare != "" && !allDigits(bare) {
		return "", false
	}
	if bare == "" {
		bare = "0"
	}
	if has {
		bare += "." + fraction
	}
	if f.negative {
		bare = "-" + bare
	}
	if f.exponent != "" {
		d, err := decimal.NewFromString(bare + "e" + f.exponent)
		return d.String(), err == nil
	}
	return bare, true
}

// readNumber reads a number of a column whose decimals stand behind the separator, as text with a decimal point. What can only
// be read the other way is read so: 12.5 stays twelve and a half beside 1.250,00.
func readNumber(s string, point byte) (string, bool) {
	f, ok := splitFigures(s)
	if !ok {
		return "", false
	}
	if text, ok := f.text(point); ok {
		return text, true
	}
	other := byte(',')
	if point == ',' {
		other = '.'
	}
	return f.text(other)
}

// ungrouped takes out what parts thousands, where it does so rightly: 0,750 and 01,200 have none.
func ungrouped(s string, group byte) (string, bool) {
	if allDigits(s) {
		return s, true
	}
	for _, mark := range []string{string(group), " ", "\u00a0", "\u202f", "'", "’"} {
		if !strings.Contains(s, mark) {
			continue
		}
		parts := strings.Split(s, mark)
		for i, p := range parts {
			if i > 0 && len(p) != 3 || i == 0 && (len(p) > 3 || p == "" || p[0] == '0') {
				return "", false
			}
		}
		return strings.Join(parts, ""), true
	}
	return s, true
}

// firstDigit gives the index of the first digit, or -1.
func firstDigit(s string) int {
	for i := range len(s) {
		if digit(s[i]) {
			return i
		}
	}
	return -1
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

func allDigits(s string) bool {
	for i := range len(s) {
		if !digit(s[i]) {
			return false
		}
	}
	return s != ""
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
