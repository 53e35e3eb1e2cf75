package intake

import (
	"regexp"
	"strings"
	"time"
)

// englishDays are how days with the name of a month are written in English.
var englishDays = []string{"2 January 2006", "2 Jan 2006", "January 2, 2006", "Jan 2, 2006", "January 2 2006", "Jan 2 2006", "2-Jan-2006",
	"2-Jan-06", "2. January 2006", "2. Jan 2006", "2 January, 2006", "2006 Jan 2", "Jan. 2, 2006", "2 Jan. 2006"}

// monthsOf are the names of the months of a year, in the form that stands in dates. Others may cut them short after three letters.
var monthsOf = [][12]string{
	{"january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november", "december"},
	{"januar", "februar", "märz", "april", "mai", "juni", "juli", "august", "september", "oktober", "november", "dezember"},
	{"janvier", "février", "mars", "avril", "mai", "juin", "juillet", "août", "septembre", "octobre", "novembre", "décembre"},
	{"enero", "febrero", "marzo", "abril", "mayo", "junio", "julio", "agosto", "septiembre", "octubre", "noviembre", "diciembre"},
	{"gennaio", "febbraio", "marzo", "aprile", "maggio", "giugno", "luglio", "agosto", "settembre", "ottobre", "novembre", "dicembre"},
	{"janeiro", "fevereiro", "março", "abril", "maio", "junho", "julho", "agosto", "setembro", "outubro", "novembro", "dezembro"},
	{"januari", "februari", "maart", "april", "mei", "juni", "juli", "augustus", "september", "oktober", "november", "december"},
	{"januari", "februari", "mars", "april", "maj", "juni", "juli", "augusti", "september", "oktober", "november", "december"},
	{"januar", "februar", "marts", "april", "maj", "juni", "juli", "august", "september", "oktober", "november", "desember"},
	{"stycznia", "lutego", "marca", "kwietnia", "maja", "czerwca", "lipca", "sierpnia", "września", "października", "listopada", "grudnia"},
	{"января", "февраля", "марта", "апреля", "мая", "июня", "июля", "августа", "сентября", "октября", "ноября", "декабря"},
}

// worded is a day with the name of its month: before the year, and with the day before the month or behind.
var worded = regexp.MustCompile(`^(?:(\d{1,2})(?:\.|er|º|ª|st|nd|rd|th)?[ -](?:de )?(\pL{3,12})\.?|(\pL{3,12})\.? (\d{1,2})(?:st|nd|rd|th)?),?[ -](?:de |del )?(\d{4})(?: ?г\.?)?$`)

// parseNamed reads a date with the name of its month, as ISO 8601.
func parseNamed(s string) (string, bool) {
	if !strings.ContainsFunc(s, isLetter) {
		return "", false
	}
	if namesMonth(s) {
		for _, layout := range englishDays {
			if t, err := time.Parse(layout, s); err == nil {
				return t.Format(time.DateOnly), true
			}
		}
	}
	bare := strings.TrimRight(s, " г.")
	if n := len(bare); n < 9 || !allDigits(bare[n-4:]) || digit(bare[n-5]) {
		return "", false // there is no year at its end
	}
	m := worded.FindStringSubmatch(s)
	if m == nil {
		return "", false
	}
	month := monthOf(strings.ToLower(m[2] + m[3]))
	if month == 0 {
		return "", false
	}
	day := atoi(m[1] + m[4])
	t := time.Date(atoi(m[5]), time.Month(month), day, 0, 0, 0, 0, time.UTC)
	return t.Format(time.DateOnly), day > 0 && t.Day() == day
}

// monthOf gives the month that a word names, or three letters of it and more begin; 0 for none. What begins the names of
// different months, as juin and juillet in ju, names none.
func monthOf(word string) int {
	out := 0
	for _, names := range monthsOf {
		for i, name := range names {
			if strings.HasPrefix(name, word) {
				if out != 0 && out != i+1 {
					return 0
				}
				out = i + 1
			}
		}
	}
	return out
}

// namesMonth tells whether the first word of letters in a text begins as the name of a month does in English.
func namesMonth(s string) bool {
	at := strings.IndexFunc(s, func(r rune) bool { return r|0x20 >= 'a' && r|0x20 <= 'z' })
	if at < 0 || len(s) < at+3 {
		return false
	}
	switch strings.ToLower(s[at : at+3]) {
	case "jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec":
		return true
	}
	return false
}
