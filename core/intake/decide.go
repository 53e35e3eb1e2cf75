package intake

import (
	"maps"
	"regexp"
	"slices"
	"sort"
	"strings"
	"time"
	"unicode/utf8"

	"pinegate/core/blueprint"
	"pinegate/core/words"
)

// evidence is what all columns of a file tell of how it writes numbers and days.
type evidence struct {
	pointOnly, commaOnly int
	dayOnly, monthOnly   int
}

func (e *evidence) add(c *column) {
	e.pointOnly += c.pointOnly
	e.commaOnly += c.commaOnly
	e.dayOnly += c.dayOnly
	e.monthOnly += c.monthOnly
}

// decider decides what a column is.
type decider struct {
	*column
	rows int
	file *evidence
	out  ColumnPlan
}

// decide gives what the column is, with the reason in words.
func (c *column) decide(header string, rows int, file *evidence) ColumnPlan {
	d := &decider{column: c, rows: rows, file: file, out: ColumnPlan{Header: header, Name: header, Type: blueprint.Text, Filled: c.filled,
		Unique: c.unique() && c.filled == c.said(), Samples: append([]string{}, c.samples...)}}
	d.decide()
	worded := slices.Contains([]blueprint.FieldType{blueprint.Text, blueprint.LongText, blueprint.Choose, blueprint.ChooseMany}, d.out.Type)
	empty, n := slices.Clone(d.out.Format.Nothing), 0
	for _, w := range slices.Sorted(maps.Keys(c.nothing)) {
		if (!worded || isNoValue(fold(w))) && !slices.Contains(empty, w) {
			empty, n = append(empty, w), n+c.nothing[w]
		}
	}
	if n > 0 && (c.said() > 0 || worded) {
		d.out.Format.Nothing = empty
		d.out.Reason += " " + words.Say("intake-empty", words.Args{"n": n, "words": empty})
	}
	return d.out
}

// is sets the type, of which so many values are good.
func (d *decider) is(t blueprint.FieldType, good int, reason string, args words.Args) {
	d.out.Type, d.out.Bad, d.out.Reason = t, max(0, d.said()-good), words.Say(reason, args)
	if d.out.Bad > 0 {
		d.out.Reason += " " + words.Say("intake-bad", words.Args{"n": d.out.Bad})
	}
}

func (d *decider) decide() {
	c := d.column
	switch {
	case c.said() == 0 && c.filled == 0:
		d.is(blueprint.Text, 0, "intake-nothing", nil)
	case c.nearly(c.mail):
		d.is(blueprint.Email, c.mail, "intake-email", nil)
	case c.nearly(c.web):
		d.is(blueprint.Web, c.web, "intake-web", nil)
	case c.stamps > 0 && c.nearly(c.stamps+c.dates):
		d.is(blueprint.TimeStamp, c.stamps+c.dates, "intake-time", nil)
		d.order()
	case d.yesNo():
	case c.dates > 0 && c.nearly(c.shaped) && c.dates*2 > c.shaped:
		d.is(blueprint.Date, c.dates, "intake-date", nil)
		d.order()
	case d.lasting():
	case c.nearly(c.phone) && (c.phoneMarks > 0 || phoneNames.MatchString(d.out.Header)):
		d.is(blueprint.Phone, c.phone, "intake-phone", nil)
	case c.zeros == 0 && c.many == 0 && len(c.units) < 2 && c.nearly(c.point+c.commaOnly):
		d.number()
	case d.counts():
	case c.long > 0 || c.lines > 0:
		d.is(blueprint.LongText, c.said(), "intake-long", nil)
	case d.choices():
	case c.zeros > 0 && c.nearly(c.digits):
		d.is(blueprint.Text, c.said(), "intake-zero", nil)
	default:
		d.is(blueprint.Text, c.said(), "intake-text", nil)
	}
}

var (
	phoneNames   = regexp.MustCompile(`(?i)phone|tel\b|telefon|telef|mobil|handy|cell|fax`)
	lastingNames = regexp.MustCompile(`(?i)lasts?\b|duration|dauer|durée|hours|worked|spent|length|lengte|länge|time taken|run ?time`)
	numberNames  = regexp.MustCompile(`(?i)\b(no|nr|number|num|id|ref|reference|code|invoice|order|job|ticket|case|quote|rechnung|auftrag|` +
		`faktura|bill|receipt|docket)\b|#|№`)
)

// yesNo tells whether a column says yes and no: in words of one language, or with a mark and with nothing.
func (d *decider) yesNo() bool {
	var seen []string
	good := 0
	for v, n := range d.values {
		f := fold(v)
		if _, is := parseYesNo(f); is {
			seen = append(seen, f)
			good += n
		}
	}
	switch {
	case len(d.values) > 4 || good < 2 || !d.nearly(good):
		return false
	case len(d.values) == 1 && slices.Contains(marks, seen[0]) && d.filled < d.rows:
		d.is(blueprint.YesNo, good, "intake-mark", words.Args{"mark": d.samples[0]})
		d.out.Format.BlankNo = true
		return true
	case areYesNo(seen):
		d.is(blueprint.YesNo, good, "intake-yes-no", nil)
		return true
	}
	return false
}

// lasting tells whether a column says how long something lasts, or a time of day, which stays text.
func (d *decider) lasting() bool {
	named := lastingNames.MatchString(d.out.Header)
	switch {
	case d.nearly(d.hours) && (named || d.unpadded > 0):
		d.is(blueprint.Duration, d.hours, "intake-duration", nil)
	case d.worded > 0 && d.nearly(d.worded):
		d.is(blueprint.Duration, d.worded, "intake-duration", nil)
	case d.nearly(d.clocks):
		d.is(blueprint.Text, d.said(), "intake-clock", nil)
	default:
		return false
	}
	return true
}

// number decides where the decimals stand: by what the column itself tells, or else by the others of its file.
func (d *decider) number() {
	f := &d.out.Format
	switch {
	case d.commaOnly+d.pointOnly > 0:
		f.Comma = d.commaOnly > d.pointOnly
	case d.open > 0 && d.thousands > 0: // what parts thousands is nowhere else, so it parts decimals
		f.Comma = strings.Contains(d.openSample, ",")
	case d.open > 0:
		f.Comma = d.file.commaOnly > d.file.pointOnly
	}
	if d.open > 0 && (d.commaOnly > 0) == (d.pointOnly > 0) && d.thousands == 0 && (d.file.commaOnly > 0) == (d.file.pointOnly > 0) {
		d.askComma()
	}
	good := d.point + d.commaOnly
	for unit, n := range d.units { // there is one at most
		if f.Unit = unit; n*2 < d.said() {
			f.Unit, good = "", good-n
		}
	}
	switch {
	case d.nearly(d.percent):
		d.is(blueprint.Percent, good, "intake-percent", nil)
	case d.money*2 > d.said():
		d.moneyIn(good)
	case f.Unit != "":
		d.is(blueprint.Number, good, "intake-unit", words.Args{"unit": f.Unit})
	case f.Comma:
		d.is(blueprint.Number, good, "intake-comma", nil)
	default:
		d.is(blueprint.Number, good, "intake-number", nil)
	}
}

func (d *decider) askComma() {
	point, _ := parseNumber(d.openSample, '.')
	comma, _ := parseNumber(d.openSample, ',')
	d.out.Ask = &Question{About: "comma", Text: words.Say("intake-ask-comma", words.Args{"value": d.openSample}),
		Answers: []Answer{{Value: "point", Text: point.String()}, {Value: "comma", Text: comma.String()}}}
}

func (d *decider) moneyIn(good int) {
	codes := slices.SortedFunc(maps.Keys(d.currency), func(a, b string) int {
		if d.currency[a] != d.currency[b] {
			return d.currency[b] - d.currency[a]
		}
		return strings.Compare(a, b)
	})
	d.out.Format.Currency = codes[0]
	d.is(blueprint.Money, good, "intake-money", words.Args{"currency": codes[0]})
	text := "intake-currencies"
	if d.crowns > 0 && len(codes) == 1 {
		codes, text = []string{"SEK", "NOK", "DKK"}, "intake-ask-crowns"
	}
	if len(codes) > 1 && d.out.Ask == nil {
		d.out.Ask = &Question{About: "currency", Text: words.Say(text, nil)}
		for _, code := range codes {
			d.out.Ask.Answers = append(d.out.Ask.Answers, Answer{Value: code, Text: code})
		}
	}
}

// order decides whether the day or the month comes first: by what the column itself tells, or else by the others of its file.
func (d *decider) order() {
	f := &d.out.Format
	ask, because := false, ""
	switch {
	case d.dayOnly > 0 && d.monthOnly > 0:
		f.Order, ask = "day", d.openDay != ""
		if d.monthOnly > d.dayOnly {
			f.Order = "month"
		}
	case d.dayOnly > 0:
		f.Order, because = "day", "intake-day-first"
	case d.monthOnly > 0:
		f.Order, because = "month", "intake-month-first"
	case d.openDay == "" && d.orders[named] > d.orders[yearFirst]:
		f.Order = "name"
	case d.openDay == "":
		f.Order = "year"
	case strings.Contains(d.openDay, "."): // with points the day comes first everywhere
		f.Order = "day"
	case d.file.dayOnly > 0 && d.file.monthOnly == 0:
		f.Order, because = "day", "intake-day-elsewhere"
	case d.file.monthOnly > 0 && d.file.dayOnly == 0:
		f.Order, because = "month", "intake-month-elsewhere"
	default:
		f.Order, ask = "day", true
	}
	if because != "" {
		d.out.Reason += " " + words.Say(because, nil)
	}
	if ask {
		d.askOrder()
	}
}

func (d *decider) askOrder() {
	d.out.Ask = &Question{About: "order", Text: words.Say("intake-ask-order", words.Args{"value": d.openDay})}
	for _, o := range []order{dayFirst, monthFirst} {
		iso, _ := parseDate(d.openDay, o) // it is one that can be read both ways
		day, err := time.Parse(time.DateOnly, iso)
		if err == nil {
			d.out.Ask.Answers = append(d.out.Ask.Answers, Answer{Value: orderNames[o], Text: day.Format("2 January 2006")})
		}
	}
}

// counts tells whether the values are numbers that go on: then the app goes on from the last.
func (d *decider) counts() bool {
	r := &d.runs
	if r.broken || r.values != d.said() || d.filled != d.rows || r.values < 3 || r.width < 3 || len(r.prefix) > 20 ||
		!numberNames.MatchString(d.out.Header) || !strings.ContainsAny(r.prefix, "-/#. ") && len(r.prefix) < 2 {
		return false
	}
	d.is(blueprint.AutoNumber, d.said(), "intake-auto", words.Args{"last": d.last})
	d.out.Format.Auto = &Auto{Prefix: r.prefix, Width: r.width, First: int(r.last) + 1}
	return true
}

// choices tells whether the column repeats a few values, one in each cell or several.
func (d *decider) choices() bool {
	if list := d.few(d.values, d.said()); list != nil {
		d.out.Choices = list
		d.is(blueprint.Choose, d.said(), "intake-choices", words.Args{"rows": d.filled, "n": len(list)})
		return true
	}
	for _, sep := range separatorsOfParts {
		p := d.parts[sep]
		// where the file says that it holds lists, it is enough that something comes again
		if d.list && sep == "," && !d.overflow && p.total > len(p.words) && len(p.words) <= mostChoices {
			if list := d.few(p.words, p.total+3*len(p.words)+8); len(list) > 1 {
				d.several(list, sep)
				return true
			}
		}
		if d.overflow || p.cells < 3 || len(p.words) > mostChoices || p.total < 2*len(p.words) || p.total < 8 || !d.mixes(sep) {
			continue
		}
		if list := d.few(p.words, p.total+3*len(p.words)); len(list) > 1 {
			d.several(list, sep)
			return true
		}
	}
	return false
}

func (d *decider) several(list []string, sep string) {
	d.out.Choices, d.out.Format.Separator = list, sep
	d.is(blueprint.ChooseMany, d.said(), "intake-several-choices", words.Args{"n": len(list)})
}

// mixes tells whether the parts of cells come together in several ways, and not always the same: else they are one thing that
// has a comma in it.
func (d *decider) mixes(sep string) bool {
	if len(d.values) > mostChoices { // of which not all are remembered
		return true
	}
	all, parts := 0, map[string]bool{}
	for v := range d.values {
		for part := range strings.SplitSeq(v, sep) {
			if part = fold(part); part != "" {
				all++
				parts[part] = true
			}
		}
	}
	return all > len(parts)
}

// few gives the values that come again and again, the most frequent first; words for nothing are left out unless they are words.
func (d *decider) few(values map[string]int, all int) []string {
	n := len(values)
	if d.overflow || n > mostChoices || n < 2 || all < 8 || all < n*3 {
		return nil
	}
	folded := map[string]string{}
	for v := range values {
		if utf8.RuneCountInString(v) > 40 || strings.Contains(v, ", ") {
			return nil
		}
		if other, ok := folded[fold(v)]; !ok || values[v] > values[other] || values[v] == values[other] && v < other {
			folded[fold(v)] = v
		}
	}
	out := slices.Collect(maps.Values(folded))
	sort.Slice(out, func(i, j int) bool {
		if values[out[i]] != values[out[j]] {
			return values[out[i]] > values[out[j]]
		}
		return out[i] < out[j]
	})
	for _, w := range slices.Sorted(maps.Keys(d.nothing)) {
		if strings.ContainsFunc(w, isLetter) && !isNoValue(fold(w)) {
			out = append(out, w)
		} else {
			d.out.Format.Nothing = append(d.out.Format.Nothing, w)
		}
	}
	return out
}
