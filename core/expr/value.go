package expr

import (
	"strconv"
	"strings"
	"time"

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
	Time   Kind = "time stamp"
	File   Kind = "file"
)

// Type is a kind together with the choice list or the table it speaks of; with
// Many, a list of such values.
type Type struct {
	Kind  Kind
	List  string // id of the choice list, for Choice
	Table string // id of the table, for Record
	Many  bool
}

// One is the type of the items of a list.
func (t Type) One() Type {
	t.Many = false
	return t
}

// ListOf is the type of a list of values of the type.
func ListOf(t Type) Type {
	t.Many = true
	return t
}

// MaxText is the largest text in bytes that an expression may make; a longer
// one is empty.
const MaxText = 1 << 20

var maxNumber = decimal.New(1, 40)

// Value is a value of the language. The zero Value is empty.
//
// Dates are held as ISO 8601 calendar dates (yyyy-mm-dd), time stamps as
// ISO 8601 in UTC to the second (yyyy-mm-ddThh:mm:ssZ), choices, records and
// files by their id, so that they compare as their texts do. Lists have Items,
// none of them empty.
type Value struct {
	Kind  Kind
	Text  string
	Num   decimal.Decimal
	Yes   bool
	Items []Value
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

// IsDate tells whether the text is a calendar date as ISO 8601.
func IsDate(s string) bool {
	t, err := time.Parse(time.DateOnly, s)
	return err == nil && t.Year() >= 1
}

// Time stamps keep a day's distance from the years 1 and 9999, so that clocks
// show a day of those years in every time zone. In seconds since 1970.
const (
	firstTime = -62135510400 // 0001-01-02T00:00:00Z
	lastTime  = 253402214399 // 9999-12-30T23:59:59Z
)

// TimeOf makes a time stamp, to the second; one before the second day of the
// year 1 or after the last day but one of the year 9999 is empty.
func TimeOf(t time.Time) Value {
	t = t.UTC()
	if t.Unix() < firstTime || t.Unix() > lastTime {
		return Value{}
	}
	return Value{Kind: Time, Text: t.Format(timeLayout)}
}

const timeLayout = "2006-01-02T15:04:05Z"

// FileOf makes a reference to a file from its id.
func FileOf(id string) Value { return idValue(File, id) }

// ListValue makes a list of the items that are filled.
func ListValue(items []Value) Value {
	v := Value{Kind: kindList}
	for _, x := range items {
		if !x.IsEmpty() {
			v.Items = append(v.Items, x)
		}
	}
	return v
}

// kindList is the kind of values that are lists; types say so by Many.
const kindList Kind = "list"

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
func (v Value) IsEmpty() bool {
	return v.Kind == "" || v.Kind == None || v.Kind == kindList && len(v.Items) == 0
}

// True tells whether the value is yes; empty counts as no.
func (v Value) True() bool { return v.Kind == YesNo && v.Yes }

// String gives the canonical text of a value: numbers without trailing zeros,
// dates and time stamps as ISO 8601, choices and records by id, the items of
// lists one a line.
func (v Value) String() string {
	switch v.Kind {
	case kindList:
		texts := make([]string, len(v.Items))
		for i, x := range v.Items {
			texts[i] = x.String()
		}
		return strings.Join(texts, "\n")
	case Number:
		return numberText(v.Num)
	case YesNo:
		if v.Yes {
			return "true"
		}
		return "false"
	default:
		return v.Text
	}
}

// numberText writes a number as [decimal.Decimal.String] does, and sooner where it is none of very many digits.
func numberText(d decimal.Decimal) string {
	places := int(-d.Exponent())
	if places < 0 || places > 18 || d.NumDigits() > 18 {
		return d.String()
	}
	n := d.CoefficientInt64()
	if n == 0 {
		return "0"
	}
	for places > 0 && n%10 == 0 {
		n, places = n/10, places-1
	}
	s := strconv.FormatInt(n, 10)
	if places == 0 {
		return s
	}
	sign := ""
	if s[0] == '-' {
		sign, s = "-", s[1:]
	}
	if pad := places + 1 - len(s); pad > 0 {
		s = strings.Repeat("0", pad) + s
	}
	return sign + s[:len(s)-places] + "." + s[len(s)-places:]
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
