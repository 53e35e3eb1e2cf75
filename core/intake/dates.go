package intake

import (
	"regexp"
	"strconv"
	"strings"
	"time"
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

// datedNumbers reads three numbers with points, hyphens or slashes between; long tells how many digits each has.
func datedNumbers(s string) (n, long [3]int, ok bool) {
	part := 0
	for i := range len(s) {
		switch c := s[i]; {
		case digit(c) && long[part] < 4:
			n[part], long[part] = n[part]*10+int(c-'0'), long[part]+1
		case (c == '-' || c == '/' || c == '.') && long[part] > 0 && part < 2:
			part++
		case c == '.' && part == 2 && long[2] > 0 && i == len(s)-1:
		default:
			return n, long, false
		}
	}
	return n, long, long[2] > 0 && long[1] <= 2
}

// dateOrders tells in which orders a text is a date; 0 for none.
func dateOrders(s string) order {
	s = strings.TrimSpace(s)
	if len(s) < 6 || len(s) > 32 || !digit(s[0]) && !digit(s[len(s)-1]) {
		return 0
	}
	if n, long, ok := datedNumbers(s); ok {
		var out order
		for _, o := range []order{yearFirst, dayFirst, monthFirst} {
			if _, is := dayOfNumbers(n, long, o); is {
				out |= o
			}
		}
		return out
	}
	if _, ok := parseNamed(s); ok {
		return named
	}
	return 0
}

// shapedAsDate tells whether a text is written in numbers as a date, be there such a day or not.
func shapedAsDate(s string) bool {
	_, long, ok := datedNumbers(s)
	return ok && (long[0] == 4) != (long[2] == 4)
}

// parseDate reads a date whose parts are in the order, as ISO 8601.
func parseDate(s string, o order) (string, bool) {
	s = strings.TrimSpace(s)
	if o == named {
		return parseNamed(s)
	}
	n, long, ok := datedNumbers(s)
	if !ok {
		return "", false
	}
	t, ok := dayOfNumbers(n, long, o)
	if !ok {
		return "", false
	}
	return t.Format(time.DateOnly), true
}

// dayOfNumbers gives the day that three numbers are in an order.
func dayOfNumbers(n, long [3]int, o order) (time.Time, bool) {
	var y, mo, d int
	switch {
	case o == yearFirst && long[0] == 4 && long[2] <= 2:
		y, mo, d = n[0], n[1], n[2]
	case o == dayFirst && long[0] <= 2 && (long[2] == 4 || long[2] == 2):
		d, mo, y = n[0], n[1], n[2]
	case o == monthFirst && long[0] <= 2 && (long[2] == 4 || long[2] == 2):
		mo, d, y = n[0], n[1], n[2]
	default:
		return time.Time{}, false
	}
	if long[2] == 2 && o != yearFirst {
		if y += 2000; y > 2069 {
			y -= 100
		}
	}
	if y < 1 || mo < 1 || mo > 12 || d < 1 || d > 31 {
		return time.Time{}, false
	}
	t := time.Date(y, time.Month(mo), d, 0, 0, 0, 0, time.UTC)
	return t, t.Day() == d
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
