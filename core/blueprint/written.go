package blueprint

import (
	"slices"

	"pinegate/core/prop"
)

// NumberWay is how a number that is calculated is written.
type NumberWay string

// The ways. Without one, it is written as that of which it is.
const (
	AsField   NumberWay = ""
	AsNumber  NumberWay = "number"
	AsMoney   NumberWay = "money"
	AsPercent NumberWay = "percentage"
)

// written are the settings of how a number that is calculated is written.
type written struct {
	as             *NumberWay
	unit, currency *string
	decimals       **int
}

// props lists them; the option is what is said where nothing is.
func (w written) props(c Context, usual prop.Option) []prop.Prop {
	unit := prop.Text(w.unit)
	unit.Most, unit.Quoted = 20, true
	decimals := "decimals"
	if n := *w.decimals; n != nil && *n == 1 {
		decimals = "decimal"
	}
	out := []prop.Prop{
		{
			Name:  "as",
			Label: "Written as",
			Noun:  "how it is written",
			Help:  "As what it is, unless you say",
			Group: "Look",
			Say:   ", written as {}",
			Value: prop.Pick(w.as, usual, prop.Option{Value: string(AsNumber), Words: "a number"},
				prop.Option{Value: string(AsMoney), Words: "an amount"}, prop.Option{Value: string(AsPercent), Words: "a percentage"}),
		},
		{Name: "decimals", Label: "Decimals", Noun: "its decimals", Help: "How many stand behind the point", Group: "Look",
			Say: ", with {} " + decimals, Value: prop.Count(w.decimals, 6)},
		{Name: "unit", Label: "Unit", Noun: "its unit", Help: "What stands behind it, such as h or kg", Group: "Look",
			Say: ", in {}", Value: unit},
	}
	if *w.as == AsMoney || c.b == nil {
		currency := prop.Text(w.currency)
		currency.Right = currencyRight
		out = slices.Insert(out, 1, prop.Prop{Name: "currency", Label: "Currency, by its 3 letters", Noun: "its currency", Say: " in {}",
			Value: currency})
	}
	return out
}
