package intake

import (
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode"
)

// order is in which order a date has its day, month and year.
type order uint8

const (
	yearFirst order = 1 << iota
	dayFirst
	monthFirst
	named // the month by its name
)

var orderNames = map[order]string{yearFirst: "year", dayFirst: "day", monthFirst: "month", named: "name"}

var monthNames = []string{"2 January 2006", "2 Jan 2006", "January 2, 2006", "Jan 2, 2006", "January 2 2006", "Jan 2 2006", "2-Jan-2006",
	"2-Jan-06", "2. January 2006", "2. Jan 2006", "2 January, 2006", "2006 Jan 2", "Jan. 2, 2006", "2 Jan. 2006"}

var digits3 = regexp.MustCompile(`^(\d{1,4})[-/.](\d{1,2})[-/.](\d{1,4})\.?$`)

// dateOrders tells in which orders a text is a date; 0 for none.
func dateOrders(s string) order {
	s = strings.TrimSpace(s)
	if len(s) < 6 || len(s) > 24 || !digit(s[0]) && !digit(s[len(s)-1]) {
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

// shapedAsDate tells whether a text is written in numbers as a date, be there such a day or not.
func shapedAsDate(s string) bool {
	m := digits3.FindStringSubmatch(s)
	return m != nil && (len(m[1]) == 4) != (len(m[3]) == 4)
}

// parseDate reads a date whose parts are in the order, as ISO 8601.
func parseDate(s string, o order) (string, bool) {
	s = strings.TrimSpace(s)
	if s == "" {
		return "", false
	}
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

// clockPattern is a time of day, with a zone behind it or not.
var clockPattern = regexp.MustCompile(`^([01]?\d|2[0-3]):([0-5]\d)(?::([0-5]\d)(?:\.\d+)?)?(?: ?([AaPp])\.?[Mm]\.?)?(?: ?(Z|UTC|[+-]\d\d:?\d\d))?$`)

// splitStamp parts a date from the time of day and the zone behind it.
func splitStamp(s string) (date, clock string, ok bool) {
	s = strings.TrimSpace(s)
	colon := strings.IndexByte(s, ':')
	if colon < 0 || len(s) > 40 {
		return "", "", false
	}
	i := strings.LastIndexAny(s[:colon], "T ")
	if i < 6 || !clockPattern.MatchString(s[i+1:]) {
		return "", "", false
	}
	return strings.TrimSuffix(strings.TrimSpace(s[:i]), ","), s[i+1:], true
}

// clockOf reads a time of day; with the zone, "" for none.
func clockOf(s string) (hour, minute, second int, zone string) {
	m := clockPattern.FindStringSubmatch(s)
	hour, minute, second, zone = atoi(m[1]), atoi(m[2]), atoi(m[3]), m[5]
	switch strings.ToLower(m[4]) {
	case "a":
		hour %= 12
	case "p":
		hour = hour%12 + 12
	}
	return hour, minute, second, zone
}

// readZone gives the zone that stands behind a time of day.
func readZone(s string) *time.Location {
	if len(s) < 5 {
		return time.UTC
	}
	digits := strings.ReplaceAll(s[1:], ":", "")
	seconds := atoi(digits[:2])*3600 + atoi(digits[2:])*60
	if s[0] == '-' {
		seconds = -seconds
	}
	return time.FixedZone("", seconds)
}
