package intake

import (
	"strings"
	"time"

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
	clock   expr.Clock
}

// NewReader makes a reader for a column that fills the field.
func NewReader(b *blueprint.Blueprint, field *blueprint.Field, c ColumnPlan) *Reader {
	r := &Reader{column: c, b: b, field: field, choices: map[string]string{}, clock: expr.Clock{Zone: b.Location()}}
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
	if cell == "" {
		return expr.Empty(), nil
	}
	point := byte('.')
	if r.column.Format.Comma {
		point = ','
	}
	switch t := r.field.Type; t {
	case blueprint.Number, blueprint.Money, blueprint.Percent:
		d, ok := parseNumber(cell, point)
		if !ok {
			return expr.Value{}, words.New("import-number", "value", short(cell))
		}
		if t == blueprint.Percent && strings.HasSuffix(cell, "%") {
			d = d.Shift(-2)
		}
		return form.Read(r.b, r.field, d.String())
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
		for _, part := range strings.Split(cell, ",") {
			v, wrong := r.choice(part)
			if wrong != nil {
				return v, wrong
			}
			items = append(items, v)
		}
		return expr.ListValue(items), nil
	}
	return form.Read(r.b, r.field, cell)
}

func (r *Reader) date(cell string) (string, bool) {
	for o, name := range orderNames {
		if name == r.column.Format.Order {
			return parseDate(cell, o)
		}
	}
	for _, o := range []order{yearFirst, named, dayFirst} {
		if iso, ok := parseDate(cell, o); ok {
			return iso, true
		}
	}
	return "", false
}

func (r *Reader) stamp(cell string) (expr.Value, *words.Problem) {
	for _, layout := range []string{time.RFC3339, "2006-01-02 15:04:05Z07:00", "2006-01-02T15:04:05.999Z07:00"} {
		if t, err := time.Parse(layout, cell); err == nil {
			return expr.TimeOf(t), nil
		}
	}
	day, clock, ok := splitStamp(cell)
	if ok {
		if iso, ok := r.date(day); ok {
			for _, layout := range []string{"15:04", "15:04:05", "15:04:05.999999"} {
				if t, err := time.Parse("2006-01-02 "+layout, iso+" "+clock); err == nil {
					return expr.TimeOf(r.clock.At(t.Truncate(time.Second))), nil
				}
			}
		}
	}
	return expr.Value{}, words.New("import-time", "value", short(cell))
}

func (r *Reader) choice(cell string) (expr.Value, *words.Problem) {
	if id, ok := r.choices[fold(cell)]; ok {
		return expr.ChoiceOf(id), nil
	}
	return expr.Value{}, words.New("import-choice", "value", short(strings.TrimSpace(cell)))
}

// Fold gives what is compared when the values of columns are matched.
func Fold(s string) string { return fold(s) }
