package blueprint

import (
	"strings"
	"unicode"
)

// mostPlain is how many characters of a name stand in a mail.
const mostPlain = 80

// dots are what programs that show mail, and browsers, take for the dot of an address.
const dots = ".\u3002\uff0e\uff61"

// Plain gives a name that somebody chose for themselves, or for an app, as it may stand
// in a mail to others: on one line, short, and with nothing of which a link is made, so
// that nobody has us send words of theirs to whomever they like.
func Plain(name string) string {
	all := []rune(strings.Map(func(r rune) rune {
		if !unicode.IsGraphic(r) {
			return ' '
		}
		return r
	}, strings.ReplaceAll(name, "://", " ")))
	for i, r := range all {
		if strings.ContainsRune(dots, r) && i > 0 && i+2 < len(all) && (unicode.IsLetter(all[i-1]) || unicode.IsDigit(all[i-1])) &&
			unicode.IsLetter(all[i+1]) && unicode.IsLetter(all[i+2]) {
			all[i] = ' '
		}
	}
	all = []rune(strings.Join(strings.Fields(string(all)), " "))
	return string(all[:min(len(all), mostPlain)])
}
