package blueprint_test

import (
	"regexp"
	"strings"
	"testing"
	"unicode"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"

	"pinegate/core/blueprint"
)

func TestNamesInMailsArePlain(t *testing.T) {
	for name, want := range map[string]string{
		"Ines Calder":                        "Ines Calder",
		"Dr. J.R. O’Brien-Østergård, M.Sc.":  "Dr. J.R. O’Brien-Østergård, M Sc.",
		"王 小明":                               "王 小明",
		"Boats Ltd. since 1998":              "Boats Ltd. since 1998",
		"Version 2.5":                        "Version 2.5",
		"Ines\r\nBcc: all@elsewhere.example": "Ines Bcc: all@elsewhere example",
		"Click https://evil.example/now":     "Click https evil example/now",
		"www.evil.co.example wins":           "www evil co example wins",
		"evil\u3002example":                  "evil example",
		"  lots \t of   room  ":              "lots of room",
		"\u202egnitset":                      "gnitset",
		strings.Repeat("x", 300):             strings.Repeat("x", 80),
		"":                                   "",
	} {
		assert.Equal(t, want, blueprint.Plain(name), "%q", name)
	}
}

// FuzzPlain holds that a name makes no second line and no link, whatever it is.
func FuzzPlain(f *testing.F) {
	link := regexp.MustCompile(`(?i)[a-z]://|[\pL\pN]\.\pL{2}`)
	for _, s := range []string{"Ines", "a.bc.de", "x://y", "\r\n", "..aa", "a.b://c.dd"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		got := blueprint.Plain(s)
		assert.NotRegexp(t, link, got)
		assert.True(t, utf8.ValidString(got))
		assert.False(t, strings.ContainsFunc(got, func(r rune) bool { return !unicode.IsGraphic(r) }))
		assert.LessOrEqual(t, utf8.RuneCountInString(got), 80)
	})
}
