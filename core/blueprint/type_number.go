package blueprint

import (
	"regexp"
	"strconv"
	"strings"

	"github.com/shopspring/decimal"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// The types of field whose values are numbers.
const (
	Number     FieldType = "number"
	Money      FieldType = "money"
	Percent    FieldType = "percentage" // kept as a fraction: 20 % is 0.2
	Duration   FieldType = "duration"   // kept in hours
	AutoNumber FieldType = "auto number"
)

var mostNumber = decimal.New(1, 20)

// numeric is a type whose values are numbers.
type numeric struct {
	base
	read func(f *Field, text string) (expr.Value, *words.Problem)
}

func (numeric) Value(*Field) expr.Type { return expr.Type{Kind: expr.Number} }

func (t numeric) Read(_ *Blueprint, f *Field, text string) (expr.Value, *words.Problem) {
	return t.read(f, text)
}

func numberType(row TypeRow, read func(*Field, string) (expr.Value, *words.Problem)) numeric {
	row.Numeric, row.Column, row.Group, row.Single = true, "numeric", "Numbers", true
	return numeric{base{row}, read}
}

var (
	number   = numberType(TypeRow{Name: Number, Words: "a number", Label: "Number", Measured: true}, readNumber)
	percent  = numberType(TypeRow{Name: Percent, Words: "a percentage", Label: "Percentage"}, readPercent)
	duration = numberType(TypeRow{Name: Duration, Words: "a duration", Label: "Duration"}, readDuration)
	money    = amount{numberType(TypeRow{Name: Money, Words: "an amount", Label: "Amount of money"}, readNumber)}
)

// Show is how a number is shown.
type Show string

// The ways of showing a number.
const (
	ShowNumber Show = ""
	ShowYear   Show = "year"   // without marks between its digits
	ShowRating Show = "rating" // as stars, of five or of as many as it can be at most
	ShowBar    Show = "bar"    // a part of the most that it can be, or of a hundred
)

// Props lists how a plain number can be shown.
func (t numeric) Props(f *Field, _ Context) []prop.Prop {
	if t.Row().Name != Number {
		return nil
	}
	return []prop.Prop{{
		Name:  "show",
		Label: "Shown as",
		Noun:  "how it is shown",
		Help:  "A year, stars, or a bar; stars and bars go up to the most that it can be",
		Group: "Look",
		Say:   ", shown as {}",
		Value: prop.Pick(&f.Show, prop.Option{Value: "", Words: "a number"}, prop.Option{Value: string(ShowYear), Words: "a year"},
			prop.Option{Value: string(ShowRating), Words: "stars"}, prop.Option{Value: string(ShowBar), Words: "a bar"}),
	}}
}

// MostShown gives how many stars a rating has, or how long a bar is; 0 for other fields.
func (f *Field) MostShown() float64 {
	most := map[Show]float64{ShowRating: 5, ShowBar: 100}[f.Show]
	if d, ok := decimalOf(f.Most); ok && most > 0 {
		most = d.InexactFloat64()
	}
	if f.Show == ShowRating {
		return min(most, 10)
	}
	return most
}

// Span gives between which numbers a slider asks for the field: 0 and 100 unless there are limits.
func (f *Field) Span() (least, most float64) {
	most = 100
	if d, ok := decimalOf(f.Least); ok {
		least = d.InexactFloat64()
	}
	if d, ok := decimalOf(f.Most); ok {
		most = d.InexactFloat64()
	}
	return least, most
}

// amount is an amount of money in a currency.
type amount struct{ numeric }

var currencyPattern = regexp.MustCompile(`^[A-Z]{3}$`)

func (amount) Core(*Field) string { return "{name} is {type} in {currency}" }

func (amount) Props(f *Field, _ Context) []prop.Prop {
	return []prop.Prop{{Name: "currency", Label: "Currency, by its 3 letters", Noun: "the currency", Must: true, Value: currencyOf(f)}}
}

func currencyOf(f *Field) prop.Value {
	currency := prop.Text(&f.Currency)
	currency.Right = currencyRight
	return currency
}

func currencyRight(s string) *words.Problem {
	if !currencyPattern.MatchString(s) {
		return words.New("currency")
	}
	return nil
}

func (amount) Start(f *Field) {
	if f.Currency == "" {
		f.Currency = "EUR"
	}
}

// counted is a number that counts up.
type counted struct{ base }

var autoNumber = counted{
	base{
		TypeRow{
			Name:    AutoNumber,
			Words:   "an automatic number",
			Label:   "Automatic number",
			Group:   "Numbers",
			Column:  "text",
			Nature:  Numbered,
			Single:  true,
			Finding: true,
		},
	},
}

func (counted) Core(f *Field) string {
	next := strconv.Itoa(f.First + 6)
	if n := f.Width - len(next); n > 0 {
		next = strings.Repeat("0", n) + next
	}
	return "{name} is {type} such as {prefix|" + f.Prefix + next + "}"
}

func (counted) Props(f *Field, _ Context) []prop.Prop {
	prefix := prop.Text(&f.Prefix)
	prefix.Most = 20
	return []prop.Prop{
		{Name: "prefix", Label: "What comes before the number", Noun: "the prefix", Value: prefix},
		{Name: "width", Label: "Digits, at least", Noun: "the digits", Value: prop.Number(&f.Width, 1, 12)},
		{Name: "first", Label: "First number", Noun: "the first number", Value: prop.Number(&f.First, 1, 1_000_000_000)},
	}
}

func decimalOf(text string) (decimal.Decimal, bool) {
	if text == "" {
		return decimal.Decimal{}, false
	}
	d, err := decimal.NewFromString(text)
	return d, err == nil
}

func decimalRight(s string) *words.Problem {
	if _, ok := decimalOf(s); !ok || len(s) > 40 {
		return words.New("limit-number")
	}
	return nil
}

var numberPattern = regexp.MustCompile(`^[+-]?[0-9]+(\.[0-9]+)?$`)

// decimalIn reads a number as it is entered.
func decimalIn(s string) (decimal.Decimal, bool) {
	if !numberPattern.MatchString(s) || len(s) > 60 {
		return decimal.Decimal{}, false
	}
	return decimalOf(s)
}

func readNumber(f *Field, s string) (expr.Value, *words.Problem) {
	d, ok := decimalIn(s)
	if !ok {
		return expr.Value{}, words.New("read-number")
	}
	return bounded(f, d, d, f.Decimals)
}

// bounded checks a number against the limits of its field; shown is the number
// as people read it, to whose decimal places the limit applies.
func bounded(f *Field, d, shown decimal.Decimal, decimals *int) (expr.Value, *words.Problem) {
	if d.Abs().GreaterThan(mostNumber) {
		return expr.Value{}, words.New("read-large")
	}
	if decimals != nil && !shown.Equal(shown.Truncate(int32(*decimals))) {
		return expr.Value{}, words.New("read-decimals", "n", *decimals)
	}
	if least, ok := decimalOf(f.Least); ok && d.LessThan(least) {
		return expr.Value{}, words.New("read-least", "least", f.Least)
	}
	if most, ok := decimalOf(f.Most); ok && d.GreaterThan(most) {
		return expr.Value{}, words.New("read-most", "most", f.Most)
	}
	return expr.NumberOf(d), nil
}

// readPercent reads 20% as 0.2, and a number without a sign as the fraction
// itself.
func readPercent(f *Field, s string) (expr.Value, *words.Problem) {
	bare, isPercent := strings.CutSuffix(s, "%")
	d, ok := decimalIn(strings.TrimSpace(bare))
	if !ok {
		return expr.Value{}, words.New("read-percent")
	}
	if isPercent {
		d = d.Shift(-2)
	}
	return bounded(f, d, d.Shift(2), f.Decimals)
}

var clockPattern = regexp.MustCompile(`^(-?)([0-9]{1,6}):([0-5][0-9])$`)

// readDuration reads 7:30 and 7.5 as seven and a half hours.
func readDuration(f *Field, s string) (expr.Value, *words.Problem) {
	m := clockPattern.FindStringSubmatch(s)
	if m == nil {
		d, ok := decimalIn(s)
		if !ok {
			return expr.Value{}, words.New("read-duration")
		}
		return bounded(f, d, d, f.Decimals)
	}
	minutes := decimal.RequireFromString(m[2]).Mul(decimal.New(60, 0)).Add(decimal.RequireFromString(m[3]))
	hours := minutes.DivRound(decimal.New(60, 0), 12)
	if m[1] != "" {
		hours = hours.Neg()
	}
	return bounded(f, hours, hours, nil)
}
