package intake

import (
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
)

// cellFormat is what the format of a number in a workbook says that it is, as ECMA-376 part 1, 18.8.31 has formats.
type cellFormat struct {
	is       formatKind
	currency string
	zeros    int // digits, at least
}

type formatKind uint8

const (
	generalFormat formatKind = iota
	dayFormat
	stampFormat
	clockFormat
	elapsedFormat
	percentFormat
	moneyFormat
	zerosFormat
)

// builtIn gives the formats that have no code in the file.
func builtIn(id int) cellFormat {
	switch {
	case id == 9 || id == 10:
		return cellFormat{is: percentFormat}
	case id >= 14 && id <= 17, id >= 27 && id <= 31, id == 36, id >= 50 && id <= 58:
		return cellFormat{is: dayFormat}
	case id >= 18 && id <= 21, id == 45, id >= 32 && id <= 35:
		return cellFormat{is: clockFormat}
	case id == 22:
		return cellFormat{is: stampFormat}
	case id == 46 || id == 47:
		return cellFormat{is: elapsedFormat}
	}
	return cellFormat{}
}

var (
	literals   = regexp.MustCompile(`"[^"]*"|\\.|_.|\*.`)
	brackets   = regexp.MustCompile(`\[[^\]]*\]`)
	localMoney = regexp.MustCompile(`\[\$([^\]-]+)(-[0-9A-Fa-f]+)?\]`)
	elapsed    = regexp.MustCompile(`(?i)\[(h+|m+|s+)\]`)
	fractions  = regexp.MustCompile(`(?i)s\.0+`) // of seconds
	zeroDigits = regexp.MustCompile(`^0{2,}$`)
)

// formatOf reads a code.
func formatOf(code string) cellFormat {
	first, _, _ := strings.Cut(code, ";")
	bare := brackets.ReplaceAllString(literals.ReplaceAllString(first, ""), "")
	bare = fractions.ReplaceAllString(bare, "s")
	letters := strings.ToLower(bare)
	switch {
	case elapsed.MatchString(first):
		return cellFormat{is: elapsedFormat}
	case strings.Contains(bare, "%"):
		return cellFormat{is: percentFormat}
	case strings.Contains(letters, "general"):
	case strings.ContainsAny(letters, "ymdhs") && !strings.ContainsAny(bare, "#0?"):
		day, clock := strings.ContainsAny(letters, "yd"), strings.ContainsAny(letters, "hs")
		switch {
		case day && clock:
			return cellFormat{is: stampFormat}
		case clock:
			return cellFormat{is: clockFormat}
		}
		return cellFormat{is: dayFormat}
	}
	if m := localMoney.FindStringSubmatch(first); m != nil {
		return cellFormat{is: moneyFormat, currency: codeOf(m[1])}
	}
	if strings.ContainsAny(bare, "#0?") {
		for _, sign := range slices.Sorted(maps.Keys(moneySigns)) {
			if strings.Contains(first, sign) {
				return cellFormat{is: moneyFormat, currency: moneySigns[sign]}
			}
		}
	}
	if zeroDigits.MatchString(bare) {
		return cellFormat{is: zerosFormat, zeros: len(bare)}
	}
	return cellFormat{}
}

// codeOf gives the code of a currency by its sign.
func codeOf(sign string) string {
	return moneySigns[strings.TrimSpace(sign)]
}

// text gives the value of a cell as it would be written where it cannot be misread: days as ISO 8601, numbers with a decimal
// point that parts no thousands, all of their digits and none that is there because computers count in halves.
func (b *bookFile) text(raw string, l look) string {
	switch l.kind {
	case "b":
		return map[bool]string{true: "TRUE", false: "FALSE"}[raw == "1" || strings.EqualFold(raw, "true")]
	case "n", "":
	default:
		return raw
	}
	n, err := strconv.ParseFloat(raw, 64)
	if err != nil || math.IsInf(n, 0) || math.IsNaN(n) {
		return raw
	}
	var f cellFormat
	if l.style >= 0 && l.style < len(b.styles) {
		f = b.styles[l.style]
	}
	switch f.is {
	case dayFormat, stampFormat:
		if t, ok := b.day(n); ok {
			if f.is == dayFormat {
				return t.Format(time.DateOnly)
			}
			return t.Format("2006-01-02 15:04:05")
		}
	case clockFormat:
		if n >= 0 && n < 1 {
			return strings.TrimSuffix(time.Time{}.Add(toSecond(n)).Format("15:04:05"), ":00")
		}
		if t, ok := b.day(n); ok {
			return t.Format("2006-01-02 15:04:05")
		}
	case elapsedFormat:
		s := int64(toSecond(n).Seconds())
		if s >= 0 {
			return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
		}
	case percentFormat:
		return decimalText(n*100) + "%"
	case moneyFormat:
		if f.currency != "" {
			return plainText(raw, n) + " " + f.currency
		}
	case zerosFormat:
		if n >= 0 && n == math.Trunc(n) && n < 1e15 {
			return fmt.Sprintf("%0*d", f.zeros, int64(n))
		}
	}
	return plainText(raw, n)
}

func toSecond(days float64) time.Duration { return time.Duration(math.Round(days*86400)) * time.Second }

// mostDay is the last day that a workbook counts to: the end of 9999.
const mostDay = 2_958_466

// day gives the moment that is so many days after those from which a workbook counts. The twenty-ninth of February 1900,
// which was none, is counted.
func (b *bookFile) day(n float64) (time.Time, bool) {
	if n < 0 || n >= mostDay {
		return time.Time{}, false
	}
	begin := time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC)
	switch {
	case b.since == 1904:
		begin = time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)
	case n < 60:
		begin = begin.AddDate(0, 0, 1)
	}
	whole := math.Floor(n)
	return begin.AddDate(0, 0, int(whole)).Add(toSecond(n - whole)), true
}

// plainText writes a number; whole ones with all the digits that the file has.
func plainText(raw string, n float64) string {
	if allDigits(strings.TrimPrefix(raw, "-")) {
		return raw
	}
	return decimalText(n)
}

// decimalText writes a number with the fifteen digits that are sure. Three decimals are four, as three could part thousands.
func decimalText(n float64) string {
	rounded, err := strconv.ParseFloat(strconv.FormatFloat(n, 'g', 15, 64), 64)
	if err != nil {
		rounded = n
	}
	s := strconv.FormatFloat(rounded, 'f', -1, 64)
	if _, fraction, has := strings.Cut(s, "."); has && len(fraction) == 3 {
		s += "0"
	}
	return s
}
