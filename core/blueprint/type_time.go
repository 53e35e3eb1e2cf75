package blueprint

import (
	"strings"
	"time"

	"pinegate/core/expr"
	"pinegate/core/words"
)

// The types of field whose values are dates, time stamps, and yes or no.
const (
	YesNo     FieldType = "yes/no"
	Date      FieldType = "date"
	TimeStamp FieldType = "time stamp"
)

// single is a type whose values are of one kind of the expression language.
type single struct {
	base
	kind expr.Kind
	read func(b *Blueprint, text string) (expr.Value, *words.Problem)
}

func (t single) Value(*Field) expr.Type { return expr.Type{Kind: t.kind} }

func (t single) Read(b *Blueprint, _ *Field, text string) (expr.Value, *words.Problem) {
	return t.read(b, text)
}

var (
	date = single{
		base{TypeRow{Name: Date, Words: "a date", Label: "Date", Group: "Time", Column: "date", Single: true, Finding: true}},
		expr.Date,
		readDate,
	}
	timeStamp = single{
		base{
			TypeRow{Name: TimeStamp, Words: "a date and time", Label: "Date and time", Group: "Time", Column: "timestamptz", Single: true},
		},
		expr.Time,
		readTimeStamp,
	}
	yesNo = single{
		base{TypeRow{Name: YesNo, Words: "yes or no", Label: "Yes or no", Group: "Choices", Column: "boolean", Single: true}},
		expr.YesNo,
		readYesNo,
	}
)

func readDate(_ *Blueprint, s string) (expr.Value, *words.Problem) {
	if !expr.IsDate(s) {
		return expr.Value{}, words.New("read-date")
	}
	return expr.DateOf(s), nil
}

// readTimeStamp reads an instant as RFC 3339, or what clocks show in the app's
// time zone.
func readTimeStamp(b *Blueprint, s string) (expr.Value, *words.Problem) {
	if t, err := time.Parse(time.RFC3339, s); err == nil {
		return expr.TimeOf(t), nil
	}
	for _, layout := range []string{"2006-01-02T15:04", "2006-01-02 15:04", "2006-01-02T15:04:05", "2006-01-02 15:04:05", time.DateOnly} {
		if t, err := time.Parse(layout, s); err == nil && t.Year() >= 1 {
			return expr.TimeOf(expr.Clock{Zone: b.Location()}.At(t)), nil
		}
	}
	return expr.Value{}, words.New("read-time-stamp")
}

func readYesNo(_ *Blueprint, s string) (expr.Value, *words.Problem) {
	switch strings.ToLower(s) {
	case "true", "yes":
		return expr.YesNoOf(true), nil
	case "false", "no":
		return expr.YesNoOf(false), nil
	}
	return expr.Value{}, words.New("read-yes-no")
}
