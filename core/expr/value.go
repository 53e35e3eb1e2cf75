package expr

import (
	"strings"

	"github.com/shopspring/decimal"
)

// Kind names the basic types of the language.
type Kind string

// The kinds of value. None is the type of the literal empty, which fits
// wherever any other type does.
const (
	None   Kind = "empty"
	Text   Kind = "text"
	Number Kind = "number"
	YesNo  Kind = "yes/no"
	Date   Kind = "date"
	Choice Kind = "choice"
	Record Kind = "record"
)

// Type is a kind together with the choice list or the table it speaks of.
type Type struct {
	Kind  Kind
	List  string // id of the choice list, for Choice
	Table string // id of the table, for Record
}

// MaxText is the largest text in bytes that an expression may make; a longer
// one is empty.
const MaxText = 1 << 20

// divisionPlaces is the number of decimal places to which / is rounded.
const divisionPlaces = 12

var maxNumber = decimal.New(1, 40)

// Value is a value of the language. The zero Value is empty.
//
// Dates are held as ISO 8601 calendar dates (yyyy-mm-dd), choices and records
// by their id, so that they compare as their texts do.
type Value struct {
	Kind Kind
	Text string
	Num  decimal.Decimal
	Yes  bool
}

// Empty is the value of what is not filled in or cannot be computed.
func Empty() Value { return Value{} }

// TextOf makes a text value; a text of no characters, or one longer than
// [MaxText], is empty.
func TextOf(s string) Value {
	if s == "" || len(s) > MaxText {
		return Value{}
	}
	return Value{Kind: Text, Text: s}
}

// NumberOf makes a number; one beyond 10^40 either way is empty.
func NumberOf(d decimal.Decimal) Value {
	if d.Abs().GreaterThan(maxNumber) {
		return Value{}
	}
	return Value{Kind: Number, Num: d}
}

// YesNoOf makes a yes/no value.
func YesNoOf(b bool) Value { return Value{Kind: YesNo, Yes: b} }

// DateOf makes a date from its ISO 8601 text.
func DateOf(iso string) Value { return idValue(Date, iso) }

// ChoiceOf makes a choice from its id.
func ChoiceOf(id string) Value { return idValue(Choice, id) }

// RecordOf makes a reference to a record from its id.
func RecordOf(id string) Value { return idValue(Record, id) }

func idValue(kind Kind, text string) Value {
	if text == "" {
		return Value{}
	}
	return Value{Kind: kind, Text: text}
}

// IsEmpty tells whether the value is empty.
func (v Value) IsEmpty() bool { return v.Kind == "" || v.Kind == None }

// True tells whether the value is yes; empty counts as no.
func (v Value) True() bool { return v.Kind == YesNo && v.Yes }

// String gives the canonical text of a value: numbers without trailing zeros,
// dates as ISO 8601, choices and records by id.
func (v Value) String() string {
	switch v.Kind {
	case Number:
		return v.Num.String()
	case YesNo:
		if v.Yes {
			return "true"
		}
		return "false"
	default:
		return v.Text
	}
}

// compare orders two filled values of the same kind.
func compare(a, b Value) int {
	switch a.Kind {
	case Number:
		return a.Num.Cmp(b.Num)
	case YesNo:
		return boolInt(a.Yes) - boolInt(b.Yes)
	default:
		return strings.Compare(a.Text, b.Text)
	}
}

func boolInt(b bool) int {
	if b {
		return 1
	}
	return 0
}

// Equal tells whether two values are the same, empty being a value of its own.
func Equal(a, b Value) bool {
	if a.IsEmpty() || b.IsEmpty() {
		return a.IsEmpty() && b.IsEmpty()
	}
	return compare(a, b) == 0
}
