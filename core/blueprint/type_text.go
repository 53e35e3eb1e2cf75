package blueprint

import (
	"net/mail"
	"net/url"
	"regexp"
	"strings"
	"unicode/utf8"

	"pinegate/core/expr"
	"pinegate/core/words"
)

// The types of field whose values are texts.
const (
	Text     FieldType = "text"
	LongText FieldType = "long text"
	RichText FieldType = "rich text" // Markdown
	Email    FieldType = "e-mail"
	Phone    FieldType = "phone"
	Web      FieldType = "web address"
)

// How many characters a text can have, unless its field says otherwise.
const (
	mostLine = 1_000
	mostText = 100_000
)

// textual is a type whose values people write as text.
type textual struct {
	base
	read func(f *Field, text string) (string, *words.Problem)
}

func (t textual) Read(_ *Blueprint, f *Field, text string) (expr.Value, *words.Problem) {
	s, wrong := t.read(f, text)
	if wrong != nil {
		return expr.Value{}, wrong
	}
	return expr.TextOf(s), nil
}

func textType(row TypeRow, read func(*Field, string) (string, *words.Problem)) textual {
	row.Textual, row.Column = true, "text"
	return textual{base{row}, read}
}

var (
	plainText = textType(
		TypeRow{Name: Text, Words: "text", Label: "Text", Group: "Words", Single: true, Finding: true},
		func(f *Field, s string) (string, *words.Problem) {
			return s, tooLong(f, s, mostLine)
		},
	)
	longText = textType(TypeRow{Name: LongText, Words: "long text", Label: "Long text", Group: "Words"}, readLong)
	richText = textType(TypeRow{Name: RichText, Words: "formatted text", Label: "Formatted text", Group: "Words"}, readLong)
	email    = textType(
		TypeRow{Name: Email, Words: "an email address", Label: "Email address", Group: "Contact", Single: true, Finding: true},
		readEmail,
	)
	phone = textType(
		TypeRow{Name: Phone, Words: "a phone number", Label: "Phone number", Group: "Contact", Single: true, Finding: true},
		readPhone,
	)
	web = textType(TypeRow{Name: Web, Words: "a web address", Label: "Web address", Group: "Contact", Single: true}, readWeb)
)

func readLong(f *Field, s string) (string, *words.Problem) { return s, tooLong(f, s, mostText) }

func tooLong(f *Field, s string, most int) *words.Problem {
	if f.MaxLength > 0 {
		most = f.MaxLength
	}
	if n := utf8.RuneCountInString(s); n > most {
		return words.New("read-long", "n", n, "most", most)
	}
	return nil
}

func readEmail(_ *Field, s string) (string, *words.Problem) {
	a, err := mail.ParseAddress(s)
	if err != nil || a.Address != s || len(s) > 254 || !strings.Contains(s[strings.LastIndex(s, "@"):], ".") {
		return "", words.New("read-email")
	}
	return s, nil
}

var phonePattern = regexp.MustCompile(`^[+(]?[0-9][0-9 ()/.-]{2,30}$`)

func readPhone(_ *Field, s string) (string, *words.Problem) {
	if !phonePattern.MatchString(s) {
		return "", words.New("read-phone")
	}
	return s, nil
}

// readWeb reads a web address; without a scheme it is taken to be https.
func readWeb(_ *Field, s string) (string, *words.Problem) {
	if !strings.Contains(s, "://") {
		s = "https://" + s
	}
	u, err := url.Parse(s)
	if err != nil || u.Scheme != "https" && u.Scheme != "http" || !strings.Contains(u.Host, ".") || strings.ContainsAny(s, " \t\n<>\"") ||
		len(s) > 2000 {
		return "", words.New("read-web")
	}
	return s, nil
}
