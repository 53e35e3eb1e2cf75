package intake

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/words"
)

// Reader reads the cells of a column as values of its field. It remembers what
// it looked up, so it is made once for a column.
type Reader struct {
	column  ColumnPlan
	b       *blueprint.Blueprint
	field   *blueprint.Field
	choices map[string]string // ids by folded label
	orders  []order           // in which dates are read, that of the column first
	clock   expr.Clock
}

// NewReader makes a reader for a column that fills the field.
func NewReader(b *blueprint.Blueprint, field *blueprint.Field, c ColumnPlan) *Reader {
	r := &Reader{column: c, b: b, field: field, choices: map[string]string{}, clock: expr.Clock{Zone: b.Location()}}
	for o, name := range orderNames {
		if name == c.Format.Order {
			r.orders = append(r.orders, o)
		}
	}
	r.orders = append(r.orders, yearFirst, named, dayFirst, monthFirst)
	if l := b.List(field.List); l != nil {
		for _, ch := range l.Choices {
			r.choices[fold(ch.Label)] = ch.ID
		}
	}
	return r
}

// Read gives the value of a cell. The second result says what is wrong,
// or is nil.
func (r *Reader) Read(cell string) (expr.Value, *words.Problem) {
	cell = strings.TrimSpace(cell)
	if cell != "" && len(r.column.Format.Nothing) > 0 && slices.Contains(r.column.Format.Nothing, cell) {
		cell = ""
	}
	if cell == "" {
		if r.field.Type == blueprint.YesNo && r.column.Format.BlankNo {
			return expr.YesNoOf(false), nil
		}
		return expr.Empty(), nil
	}
	switch t := r.field.Type; t {
	case blueprint.Number, blueprint.Money, blueprint.Percent, blueprint.Duration:
		return r.number(cell)
	case blueprint.Date:
		if iso, ok := r.date(cell); ok {
			return form.Read(r.b, r.field, iso)
		}
		return expr.Value{}, words.New("import-date", "value", short(cell))
	case blueprint.TimeStamp:
		return r.stamp(cell)
	case blueprint.YesNo:
		yes, ok := parseYesNo(cell)
		if !ok {
			return expr.Value{}, words.New("import-yes-no", "value", short(cell))
		}
		return expr.YesNoOf(yes), nil
	case blueprint.Choose:
		return r.choice(cell)
	case blueprint.ChooseMany:
		var items []expr.Value
		for part := range strings.SplitSeq(cell, r.separator()) {
			if strings.TrimSpace(part) == "" {
				continue
			}
			v, wrong := r.choice(part)
			if wrong != nil {
				return v, wrong
			}
			items = append(items, v)
		}
		return expr.ListValue(items), nil
	case blueprint.AutoNumber:
		return expr.TextOf(cell), nil
	}
	return form.Read(r.b, r.field, cell)
}

func (r *Reader) separator() string { return r.column.Format.Parts() }

// Parts is what several values of a cell are parted by.
func (f Format) Parts() string {
	if f.Separator == "" {
		return ","
	}
	return f.Separator
}

func (r *Reader) number(cell string) (expr.Value, *words.Problem) {
	point := byte('.')
	if r.column.Format.Comma {
		point = ','
	}
	if wrong := r.foreign(cell); wrong != nil {
		return expr.Value{}, wrong
	}
	text, ok := readNumber(cell, point)
	if !ok && r.field.Type == blueprint.Duration {
		var d decimal.Decimal
		d, ok = readHours(cell)
		text = d.String()
	}
	if !ok {
		return expr.Value{}, words.New("import-number", "value", short(cell))
	}
	if r.field.Type == blueprint.Percent && strings.HasSuffix(cell, "%") {
		d, err := decimal.NewFromString(text)
		if err != nil {
			return expr.Value{}, words.New("import-number", "value", short(cell))
		}
		text = d.Shift(-2).String()
	}
	return form.Read(r.b, r.field, text)
}

// foreign says what is wrong with a number that is in another currency or unit than the field: it is not changed without a word.
func (r *Reader) foreign(cell string) *words.Problem {
	if digit(cell[0]) && digit(cell[len(cell)-1]) {
		return nil
	}
	f, ok := splitFigures(cell)
	if !ok {
		return nil
	}
	of := r.field.Unit
	if of == "" {
		of = r.column.Format.Unit
	}
	if r.field.Type == blueprint.Number && f.unit != "" && f.unit != of {
		return words.New("import-unit", "value", short(cell), "unit", f.unit)
	}
	if of = r.field.Currency; r.field.Type == blueprint.Money && f.currency != "" && of != "" && f.currency != of &&
		!(strings.Contains(strings.ToLower(cell), "kr") && isCrown(of)) {
		return words.New("import-currency", "value", short(cell), "currency", of)
	}
	return nil
}

// isCrown tells whether amounts in a currency are written with kr, which does not say whose it is.
func isCrown(currency string) bool { return slices.Contains([]string{"SEK", "NOK", "DKK"}, currency) }

// date reads a date in the order of the column. What can only be read in another one is read so.
func (r *Reader) date(cell string) (string, bool) {
	for _, o := range r.orders {
		if iso, ok := parseDate(cell, o); ok {
			return iso, true
		}
	}
	return "", false
}

func (r *Reader) stamp(cell string) (expr.Value, *words.Problem) {
	day, clock, ok := splitStamp(cell)
	if !ok { // a day without a time begins at midnight
		day, clock = cell, "00:00"
	}
	iso, ok := r.date(day)
	if !ok {
		return expr.Value{}, words.New("import-time", "value", short(cell))
	}
	t, err := time.Parse(time.DateOnly, iso)
	if err != nil {
		return expr.Value{}, words.New("import-time", "value", short(cell))
	}
	hour, minute, second, zone := clockOf(clock)
	t = t.Add(time.Duration(hour)*time.Hour + time.Duration(minute)*time.Minute + time.Duration(second)*time.Second)
	if zone == "" {
		return expr.TimeOf(r.clock.At(t)), nil
	}
	at := readZone(zone)
	return expr.TimeOf(time.Date(t.Year(), t.Month(), t.Day(), hour, minute, second, 0, at)), nil
}

// Label gives what a choice is called.
func (r *Reader) Label(choice string) string {
	if l := r.b.List(r.field.List); l != nil && l.Choice(choice) != nil {
		return l.Choice(choice).Label
	}
	return choice
}

func (r *Reader) choice(cell string) (expr.Value, *words.Problem) {
	if id, ok := r.choices[fold(cell)]; ok {
		return expr.ChoiceOf(id), nil
	}
	return expr.Value{}, words.New("import-choice", "value", short(strings.TrimSpace(cell)))
}
