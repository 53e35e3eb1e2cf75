// Package words turns what the product has to say into sentences. A message has
// a code and arguments; what it says stands in one catalog, as a whole sentence
// with named placeholders, so that it can be translated, and so that nothing but
// this package depends on how it is worded.
package words

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Args are what the placeholders of a message stand for: texts, whole numbers,
// and lists of texts, which the language joins.
type Args map[string]any

// Say words a message. Where a message has variants, the argument n chooses among
// them: for one and for several, or for none, one and several.
func Say(code string, args Args) string {
	text, known := english[code]
	if !known {
		return code
	}
	return Fill(text, args)
}

// Fill writes a message with its arguments.
func Fill(text string, args Args) string {
	text = variant(text, args["n"])
	var out strings.Builder
	for {
		before, rest, open := strings.Cut(text, "{")
		out.WriteString(before)
		if !open {
			return out.String()
		}
		name, after, closed := strings.Cut(rest, "}")
		if arg, given := args[name]; closed && given {
			out.WriteString(show(arg))
		} else {
			out.WriteString("{" + name)
			if closed {
				out.WriteByte('}')
			}
		}
		text = after
	}
}

// variant chooses among the variants of a message, which || parts.
func variant(text string, n any) string {
	all := strings.Split(text, "||")
	count, ok := n.(int)
	if !ok || len(all) == 1 {
		return all[0]
	}
	at := min(count, 2)
	if len(all) == 2 { // there is none for zero
		at = 1
		if count == 1 {
			at = 0
		}
	}
	return all[max(at, 0)]
}

func show(arg any) string {
	switch x := arg.(type) {
	case string:
		return x
	case int:
		return Number(x)
	case []string:
		return Join(x)
	}
	return fmt.Sprint(arg)
}

// Join joins texts as the language does: A, B and C.
func Join(texts []string) string {
	if len(texts) < 2 {
		return strings.Join(texts, "")
	}
	return strings.Join(texts[:len(texts)-1], ", ") + " and " + texts[len(texts)-1]
}

// Number writes a whole number with commas between thousands.
func Number(n int) string {
	s := strconv.Itoa(n)
	start := 0
	if n < 0 {
		start = 1
	}
	for i := len(s) - 3; i > start; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

// Known tells whether the catalog has a message.
func Known(code string) bool {
	_, known := english[code]
	return known
}

// Plural gives the word for several of what a name stands for: box, boxes. It is
// a proposal, for the founder to change.
func Plural(word string) string {
	low := strings.ToLower(word)
	switch {
	case word == "":
		return ""
	case strings.HasSuffix(low, "y") && len(low) > 1 && !strings.ContainsRune("aeiou", rune(low[len(low)-2])):
		return word[:len(word)-1] + "ies"
	case strings.HasSuffix(low, "s"), strings.HasSuffix(low, "x"), strings.HasSuffix(low, "ch"), strings.HasSuffix(low, "sh"):
		return word + "es"
	}
	return word + "s"
}

// Capital gives a text a capital letter.
func Capital(text string) string {
	first, size := utf8.DecodeRuneInString(text)
	if size == 0 {
		return text
	}
	return string(unicode.ToUpper(first)) + text[size:]
}

// Singular gives the word for one of the things that a name stands for: "Work
// orders" gives "work order". It is a proposal, for the founder to change.
func Singular(name string) string {
	name = strings.TrimSpace(name)
	if name == "" {
		return ""
	}
	first, size := utf8.DecodeRuneInString(name)
	second, _ := utf8.DecodeRuneInString(name[size:])
	if !unicode.IsUpper(second) { // an abbreviation stays as it is
		name = string(unicode.ToLower(first)) + name[size:]
	}
	head, tail := name, ""
	if i := strings.Index(name, " "); i >= 0 {
		for _, joint := range []string{" of ", " for ", " in ", " used", " and ", " at ", " to "} { // "Parts used" is about parts
			if at := strings.Index(name, joint); at > 0 {
				head, tail = name[:at], name[at:]
				break
			}
		}
	}
	low := strings.ToLower(head)
	switch {
	case low == "people" || strings.HasSuffix(low, " people"):
		return head[:len(head)-len("people")] + "person" + tail
	case strings.HasSuffix(low, "ies") && len(low) > 4:
		return head[:len(head)-3] + "y" + tail
	case strings.HasSuffix(low, "sses"), strings.HasSuffix(low, "xes"), strings.HasSuffix(low, "ches"), strings.HasSuffix(low, "shes"):
		return head[:len(head)-2] + tail
	case strings.HasSuffix(low, "ss"), strings.HasSuffix(low, "us"), strings.HasSuffix(low, "is"), strings.HasSuffix(low, "news"):
		return head + tail
	case strings.HasSuffix(low, "-outs"), strings.HasSuffix(low, "s"):
		return head[:len(head)-1] + tail
	}
	return head + tail
}

// An gives a word with its indefinite article, by its first letter.
func An(word string) string {
	first, _ := utf8.DecodeRuneInString(word)
	if strings.ContainsRune("aeiouAEIOU", first) {
		return "an " + word
	}
	return "a " + word
}
