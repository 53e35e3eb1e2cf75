package expr

import (
	"regexp"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"
)

func textFunctions() map[string]function {
	text := func(params, usage, help, sql string, f func(a []Value) Value) function {
		return function{params: params, usage: usage, help: help, result: Text, loose: true, sql: sql,
			eval: func(_ *evaluator, a []Value) Value { return f(a) }}
	}
	as := func(kind Kind, f function) function {
		f.result = kind
		return f
	}
	return map[string]function{
		"CONCAT": {params: "t t*", usage: "CONCAT(text, text, …)", help: "The texts joined together.", result: Text, loose: true,
			eval: func(_ *evaluator, a []Value) Value {
				out := a[0]
				for _, v := range a[1:] {
					out = TextOf(out.Text + v.Text)
				}
				return out
			},
			compile: func(c *Compiler, n *Node) (string, error) {
				args, err := c.values(n.Args)
				if err != nil {
					return "", err
				}
				out := args[0]
				for _, a := range args[1:] {
					out = "pinegate.text_join(" + out + ", " + a + ")"
				}
				return out, nil
			}},
		"LEN": as(Number, text("t", "LEN(text)", "How many characters the text has.", "text_length",
			func(a []Value) Value { return count(utf8.RuneCountInString(a[0].Text)) })),
		"LEFT": text("t n=1", "LEFT(text, characters)", "The first characters.", "text_left", func(a []Value) Value {
			return slice(a[0].Text, 0, a[1])
		}),
		"RIGHT": text("t n=1", "RIGHT(text, characters)", "The last characters.", "text_right", func(a []Value) Value {
			if a[1].IsEmpty() {
				return Empty()
			}
			return slice(a[0].Text, max(0, utf8.RuneCountInString(a[0].Text)-max(0, whole(a[1]))), a[1])
		}),
		"MID": text("t n n", "MID(text, start, characters)", "Characters from the start, counted from 1.", "text_mid",
			func(a []Value) Value {
				if a[1].IsEmpty() || whole(a[1]) < 1 {
					return Empty()
				}
				return slice(a[0].Text, whole(a[1])-1, a[2])
			}),
		"FIND": as(Number, text("t t n=1", "FIND(part, text, start)", "Where the part begins in the text, counted from 1. Capitals matter.",
			"text_find", func(a []Value) Value {
				return find(a[0].Text, a[1].Text, a[2])
			})),
		"SEARCH": as(Number, text("t t n=1", "SEARCH(part, text, start)",
			"Where the part begins in the text, counted from 1. Capitals don’t matter.", "text_search", func(a []Value) Value {
				return find(lower(a[0].Text), lower(a[1].Text), a[2])
			})),
		"SUBSTITUTE": text("t t t n=0", "SUBSTITUTE(text, old, new, which)",
			"The text with a part replaced, everywhere or only the time you say.", "text_substitute", substitute),
		"REPLACE": text("t n n t", "REPLACE(text, start, characters, new)", "The text with the characters from the start replaced.",
			"text_replace", func(a []Value) Value {
				if a[1].IsEmpty() || a[2].IsEmpty() || whole(a[1]) < 1 || whole(a[2]) < 0 {
					return Empty()
				}
				r := []rune(a[0].Text)
				from := min(whole(a[1])-1, len(r))
				to := min(from+whole(a[2]), len(r))
				return TextOf(string(r[:from]) + a[3].Text + string(r[to:]))
			}),
		"UPPER": text("t", "UPPER(text)", "The text in capitals.", "text_upper",
			func(a []Value) Value { return TextOf(upper(a[0].Text)) }),
		"LOWER": text("t", "LOWER(text)", "The text in small letters.", "text_lower",
			func(a []Value) Value { return TextOf(lower(a[0].Text)) }),
		"PROPER": text("t", "PROPER(text)", "Each word with a capital letter.", "text_proper",
			func(a []Value) Value { return TextOf(proper(a[0].Text)) }),
		"TRIM": text("t", "TRIM(text)", "The text without spaces at its ends, and with single ones inside.", "text_trim",
			func(a []Value) Value {
				return TextOf(strings.Trim(spaces.ReplaceAllString(a[0].Text, " "), " "))
			}),
		"REPT": text("t n", "REPT(text, times)", "The text repeated.", "text_repeat", func(a []Value) Value {
			n := 0
			if !a[1].IsEmpty() {
				n = whole(a[1])
			}
			if n < 1 || len(a[0].Text)*n > MaxText {
				return Empty()
			}
			return TextOf(strings.Repeat(a[0].Text, n))
		}),
		"DIGITS": text("t", "DIGITS(text)", "Only the digits 0 to 9 in the text.", "text_digits",
			func(a []Value) Value { return TextOf(noDigits.ReplaceAllString(a[0].Text, "")) }),
		"VALUE": as(Number, text("t", "VALUE(text)", "The text as a number.", "text_to_number",
			func(a []Value) Value { return textToNumber(a[0].Text) })),
		"EXACT": as(YesNo, text("t t", "EXACT(text, text)", "Whether two texts are the same. Capitals matter.", "text_exact",
			func(a []Value) Value { return YesNoOf(a[0].Text == a[1].Text) })),
		"CONTAINS": as(YesNo, text("t t", "CONTAINS(text, part)", "Whether the text has the part in it. Capitals don’t matter.",
			"text_contains", func(a []Value) Value { return YesNoOf(strings.Contains(lower(a[0].Text), lower(a[1].Text))) })),
		"STARTSWITH": as(YesNo, text("t t", "STARTSWITH(text, part)", "Whether the text starts with the part. Capitals don’t matter.",
			"text_starts", func(a []Value) Value { return YesNoOf(strings.HasPrefix(lower(a[0].Text), lower(a[1].Text))) })),
		"ENDSWITH": as(YesNo, text("t t", "ENDSWITH(text, part)", "Whether the text ends with the part. Capitals don’t matter.",
			"text_ends", func(a []Value) Value { return YesNoOf(strings.HasSuffix(lower(a[0].Text), lower(a[1].Text))) })),
		"MATCHES": {params: "t t", usage: `MATCHES(text, "pattern")`,
			help: "Whether the text matches the pattern, a regular expression.", loose: true, check: checkMatches, eval: evalMatches,
			compile: compileMatches},
		"TEXT": {params: "v t", usage: `TEXT(value, "format")`, help: `A number or date in a format: "#,##0.00", "d mmm yyyy".`,
			check: checkFormat, lazy: evalFormat, compile: compileFormat},
	}
}

var (
	spaces   = regexp.MustCompile(` +`)
	noDigits = regexp.MustCompile(`[^0-9]+`)
	numeric  = regexp.MustCompile(`^[+-]?[0-9]{1,20}([.][0-9]{1,30})?$`)
)

func count(n int) Value { return number(itoa(n)) }

func lower(s string) string { return cases.Lower(language.Und).String(s) }

func upper(s string) string { return cases.Upper(language.Und).String(s) }

// proper puts a capital where a letter does not follow another; a letter is
// what differs between capitals and small letters.
func proper(s string) string {
	var b strings.Builder
	inWord := false
	for _, r := range s {
		c := string(r)
		up, low := upper(c), lower(c)
		switch {
		case inWord:
			b.WriteString(low)
		default:
			b.WriteString(up)
		}
		inWord = up != low || inWord && r == '\''
	}
	return b.String()
}

// slice gives n characters from the place, counted from 0.
func slice(s string, from int, n Value) Value {
	if n.IsEmpty() || whole(n) <= 0 {
		return Empty()
	}
	r := []rune(s)
	if from >= len(r) {
		return Empty()
	}
	return TextOf(string(r[from:min(len(r), from+whole(n))]))
}

func find(part, s string, start Value) Value {
	if start.IsEmpty() {
		return Empty()
	}
	r := []rune(s)
	from := whole(start)
	if from < 1 || from > len(r)+1 {
		return Empty()
	}
	rest := string(r[from-1:])
	at := strings.Index(rest, part)
	if at < 0 {
		return Empty()
	}
	return count(from + utf8.RuneCountInString(rest[:at]))
}

func substitute(a []Value) Value {
	s, old, with := a[0].Text, a[1].Text, a[2].Text
	if a[3].IsEmpty() || whole(a[3]) < 0 {
		return Empty()
	}
	if old == "" {
		return TextOf(s)
	}
	n := strings.Count(s, old)
	if which := whole(a[3]); which > 0 {
		if which > n {
			return TextOf(s)
		}
		at := 0
		for range which - 1 {
			at += strings.Index(s[at:], old) + len(old)
		}
		at += strings.Index(s[at:], old)
		return TextOf(s[:at] + with + s[at+len(old):])
	}
	if len(s)+n*(len(with)-len(old)) > MaxText {
		return Empty()
	}
	return TextOf(strings.ReplaceAll(s, old, with))
}

func textToNumber(s string) Value {
	s = strings.Trim(s, " ")
	if !numeric.MatchString(s) {
		return Empty()
	}
	return number(strings.TrimPrefix(s, "+"))
}
