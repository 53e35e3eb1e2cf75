package intake

import (
	"regexp"
	"slices"
	"strings"
)

var (
	webPattern   = regexp.MustCompile(`^(https?://|www\.)[^\s]+\.[^\s]+$`)
	phonePattern = regexp.MustCompile(`^(\+|\(|0)[0-9 ()/.-]{5,24}$`)
)

// yesWords are the words for yes and no that a column can be made of.
var yesWords = [][2]string{{"yes", "no"}, {"true", "false"}, {"y", "n"}, {"t", "f"}, {"on", "off"},
	{"ja", "nein"}, {"ja", "nej"}, {"ja", "nei"},
	{"ja", "nee"}, {"j", "n"}, {"oui", "non"}, {"sim", "não"}, {"sí", "no"}, {"si", "no"}, {"sì", "no"}, {"да", "нет"}, {"tak", "nie"},
	{"ano", "ne"}, {"da", "ne"}, {"igen", "nem"}, {"evet", "hayır"}, {"kyllä", "ei"}, {"wahr", "falsch"}, {"vrai", "faux"},
	{"verdadero", "falso"}, {"✓", "✗"}, {"✔", "✘"}, {"☑", "☐"}}

// isEmail tells whether a text is an address: something, an at sign, and something with a point in it, without spaces and what
// parts addresses. Every cell with an at sign is asked, so it is no regular expression.
func isEmail(s string) bool {
	who, where, ok := strings.Cut(s, "@")
	if !ok || who == "" || strings.Contains(where, "@") || strings.ContainsAny(s, " \t\n\r\f\v,;<>") {
		return false
	}
	dot := strings.LastIndexByte(strings.TrimSuffix(where, "."), '.')
	return dot > 0 && dot < len(where)-1
}

// units stand behind numbers. Those that could as well be a letter behind the number of a flat or a class are none.
var units = []string{
	"kg", "g", "mg", "t", "lb", "lbs", "oz", "km", "m", "cm", "mm", "ft", "in", "mi", "yd", "l", "ml", "cl", "dl", "hl",
	"gal", "m²", "m2", "m³", "m3", "sqm", "ft²", "sqft", "ha", "km²", "km2", "°", "°C", "°F", "km/h", "mph", "kn", "kW",
	"MW", "kWh", "MWh", "Hz", "kHz", "MHz", "GHz", "kB", "MB", "GB", "TB", "bar", "hPa", "kPa", "psi", "rpm", "ppm", "dB",
	"kcal", "kJ", "kN", "Nm", "pcs", "Stk", "Stk.", "px", "pt",
}

// marks stand for yes where nothing stands for no.
var marks = []string{"x", "✓", "✔", "☑", "✅", "•"}

// parseYesNo reads a word for yes or no of any language.
func parseYesNo(s string) (yes, ok bool) {
	s = strings.TrimSpace(s)
	if len(s) > 12 {
		return false, false
	}
	s = strings.ToLower(s)
	for _, pair := range yesWords {
		if s == pair[0] || s == pair[1] {
			return s == pair[0], true
		}
	}
	return slices.Contains(marks, s), slices.Contains(marks, s)
}

// areYesNo tells whether words are the yes and no of one language.
func areYesNo(folded []string) bool {
	return slices.ContainsFunc(yesWords, func(pair [2]string) bool {
		return !slices.ContainsFunc(folded, func(w string) bool { return w != pair[0] && w != pair[1] })
	})
}

// nothings are words that stand for nothing among numbers, days and the like.
var nothings = []string{"n/a", "na", "n.a.", "-", "–", "—", "--", "unknown", "none", "null", "nil", "?", "k.a.", "tbd", "tba",
	"not known", "unbekannt", "inconnu", "okänd", "ukjent", "нет данных", "неизвестно"}

// noValues are what programs write where there is no value, whatever else stands in the column.
var noValues = []string{"#n/a", "#null!", "#div/0!", "#value!", "#ref!", "#name?", "#num!", `\n`, "<null>", "nan"}

func isNothing(folded string) bool {
	return len(folded) <= 24 && (slices.Contains(nothings, folded) || isNoValue(folded))
}

func isNoValue(folded string) bool { return len(folded) <= 8 && slices.Contains(noValues, folded) }

// totalPattern is what the last line of a table begins with that is the sum of the others.
var totalPattern = regexp.MustCompile(`(?i)^(grand total|sub ?total|total|totals|sum|sums|all together|summe|gesamt|gesamtsumme|insgesamt|` +
	`totaal|totale|total général|suma|somme|soma|итого|всего|summa|i alt|sum total|yhteensä|average|mean|durchschnitt|moyenne)( ?\(.*\))? ?:?$`)
