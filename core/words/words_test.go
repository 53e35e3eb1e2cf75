package words

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestFill(t *testing.T) {
	for _, x := range []struct {
		text string
		args Args
		want string
	}{
		{"Removed {thing}", Args{"thing": "Boats"}, "Removed Boats"},
		{"{a} and {b}", Args{"a": "{b}", "b": "x"}, "{b} and x"}, // what stands in an argument is no placeholder
		{"Keep {other}", Args{"thing": "x"}, "Keep {other}"},
		{"an open { brace", nil, "an open { brace"},
		{"{n} row||{n} rows", Args{"n": 1}, "1 row"},
		{"{n} row||{n} rows", Args{"n": 0}, "0 rows"},
		{"{n} row||{n} rows", Args{"n": 12345}, "12,345 rows"},
		{"no roles||{n} role||{n} roles", Args{"n": 0}, "no roles"},
		{"no roles||{n} role||{n} roles", Args{"n": 1}, "1 role"},
		{"no roles||{n} role||{n} roles", Args{"n": 2}, "2 roles"},
		{"Hidden: {fields}", Args{"fields": []string{"A", "B", "C"}}, "Hidden: A, B and C"},
	} {
		assert.Equal(t, x.want, Fill(x.text, x.args), x.text)
	}
}

func TestPartsOfSentences(t *testing.T) {
	assert.Equal(t, "", Join(nil))
	assert.Equal(t, "A", Join([]string{"A"}))
	assert.Equal(t, "A and B", Join([]string{"A", "B"}))
	assert.Equal(t, "an owner", An("owner"))
	assert.Equal(t, "a boat", An("boat"))
	for n, want := range map[int]string{0: "0", 999: "999", 1000: "1,000", -1234567: "-1,234,567"} {
		assert.Equal(t, want, Number(n))
	}
	for name, want := range map[string]string{
		"Boats": "boat", "Work orders": "work order", "Parts used": "part used", "Time entries": "time entry", "Haul-outs": "haul-out",
		"People": "person", "Boxes": "box", "Addresses": "address", "Crew": "crew", "News": "news", "VAT rates": "VAT rate", "": "",
	} {
		assert.Equal(t, want, Singular(name), name)
	}
	for word, want := range map[string]string{"boat": "boats", "entry": "entries", "day": "days", "box": "boxes", "": ""} {
		assert.Equal(t, want, Plural(word))
	}
}

func TestProblem(t *testing.T) {
	cause := assert.AnError
	p := New("same-name", "name", "Boats").With(cause)
	assert.Equal(t, "“Boats” is there already. Choose another name.", p.Error())
	require.ErrorIs(t, p, cause)
	p = &Problem{Code: "read-missing", Args: Args{"field": "Name"}, Hint: "hint-no-lists"}
	assert.Equal(t, "Fill in Name. If there is no choice list, add one first.", p.Error())
}

// TestFillNeverPanics fills texts with any braces and arguments.
func TestFillNeverPanics(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`([a-c]|\{|\}|\|\||\{n\}|\{a\})*`).Draw(t, "text")
		Fill(text, Args{"n": rapid.IntRange(-3, 3).Draw(t, "n"), "a": rapid.String().Draw(t, "a")})
		whole := rapid.StringMatching(`([a-c]|\{n\}|\{a\})*`).Draw(t, "whole")
		assert.NotContains(t, Fill(whole, Args{"a": "b", "n": 1}), "{")
	})
}

var (
	usedCode  = regexp.MustCompile(`words\.(?:New|Say|Problem\{Code:)\(? ?"([a-z-]+)"`)
	quoted    = regexp.MustCompile(`"([a-z]+(?:-[a-z]+)*-?)"`)
	fillsIn   = regexp.MustCompile(`\{([a-z]*)\}`)
	forbidden = regexp.MustCompile(`(?i)\b(anew|whoever|meanwhile|ascending|descending|reckon\w*|somebody|everybody|nobody)\b`)
)

// sources gives the text of all Go files of the project but tests and the catalog.
func sources(t *testing.T) string {
	t.Helper()
	var out strings.Builder
	require.NoError(t, filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "web" || strings.HasPrefix(d.Name(), ".") && d.Name() != ".." && d.Name() != "../..") {
			return filepath.SkipDir
		}
		if strings.HasSuffix(path, ".go") && !strings.HasSuffix(path, "_test.go") && !strings.HasPrefix(d.Name(), "english") {
			text, err := os.ReadFile(path)
			out.Write(text)
			return err
		}
		return nil
	}))
	return out.String()
}

// TestEveryMessageIsWorded finds codes that say nothing, and messages that nothing
// says.
func TestEveryMessageIsWorded(t *testing.T) {
	source := sources(t)
	for _, m := range usedCode.FindAllStringSubmatch(source, -1) {
		if !strings.HasSuffix(m[1], "-") { // the rest of the code is added there
			assert.True(t, Known(m[1]), "no message %s", m[1])
		}
	}
	said, starts := map[string]bool{}, []string{}
	for _, m := range quoted.FindAllStringSubmatch(source, -1) {
		said[m[1]] = true
		if strings.HasSuffix(m[1], "-") {
			starts = append(starts, m[1])
		}
	}
	for code := range english {
		built := said[code] || said[strings.TrimSuffix(code, "-subject")] || said[strings.TrimSuffix(code, "-not")]
		for _, start := range starts {
			built = built || strings.HasPrefix(code, start)
		}
		assert.True(t, built, "nothing says %s", code)
	}
}

// TestNoMessageIsWordedTwice finds codes that two parts of the catalog have.
func TestNoMessageIsWordedTwice(t *testing.T) {
	n := len(englishApp) + len(englishWrong) + len(englishServer) + len(englishRecords) + len(englishExpr)
	assert.Len(t, english, n)
}

// TestHowMessagesSpeak holds a few rules of the voice that can be checked.
func TestHowMessagesSpeak(t *testing.T) {
	for code, text := range english {
		assert.NotRegexp(t, forbidden, text, code)
		assert.Equal(t, strings.TrimSpace(text) == text, !strings.HasPrefix(code, "mail-") || !strings.HasSuffix(text, "\n"), code)
		for _, m := range fillsIn.FindAllStringSubmatch(text, -1) {
			assert.True(t, m[1] == "" || unicode.IsLower(rune(m[1][0])), code)
		}
	}
}
