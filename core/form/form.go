// Package form decides what a value that somebody enters means, and tells in
// words what is wrong with it.
package form

import (
	"encoding/json"
	"fmt"
	"net/mail"
	"regexp"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// Limits of what a field can hold.
const (
	maxText     = 1_000
	maxLongText = 100_000
)

var maxNumber = decimal.New(1, 20)

var uuidPattern = regexp.MustCompile(`^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$`)

// IsRecordID tells whether the text has the form of a record's id.
func IsRecordID(s string) bool { return uuidPattern.MatchString(s) }

// Accept reads what was entered for a field: JSON null, a text, a number or a
// yes/no. The second result says in words what is wrong, or is "".
func Accept(b *blueprint.Blueprint, f *blueprint.Field, raw json.RawMessage) (expr.Value, string) {
	var entered any
	d := json.NewDecoder(strings.NewReader(string(raw)))
	d.UseNumber()
	if err := d.Decode(&entered); err != nil {
		return expr.Value{}, "This could not be read."
	}
	switch v := entered.(type) {
	case nil:
		return expr.Empty(), ""
	case bool:
		if f.Type == blueprint.YesNo {
			return expr.YesNoOf(v), ""
		}
	case json.Number:
		return text(b, f, v.String())
	case string:
		return text(b, f, v)
	}
	return expr.Value{}, fmt.Sprintf("%s cannot hold this kind of value.", f.Name)
}

// text reads a value that was entered as text.
func text(b *blueprint.Blueprint, f *blueprint.Field, s string) (expr.Value, string) {
	if !utf8.ValidString(s) || strings.ContainsRune(s, 0) {
		return expr.Value{}, "This text has characters that cannot be stored."
	}
	trimmed := strings.TrimSpace(s)
	if trimmed == "" {
		return expr.Empty(), ""
	}
	switch f.Type {
	case blueprint.Text:
		return limited(strings.Join(strings.FieldsFunc(trimmed, func(r rune) bool { return r == '\n' || r == '\r' }), " "), maxText)
	case blueprint.LongText:
		return limited(strings.ReplaceAll(s, "\r\n", "\n"), maxLongText)
	case blueprint.Email:
		return email(trimmed)
	case blueprint.Number:
		return number(trimmed)
	case blueprint.Date:
		if _, err := time.Parse(time.DateOnly, trimmed); err != nil || trimmed < "0001-01-01" {
			return expr.Value{}, "Enter a date that exists, such as 2026-05-31."
		}
		return expr.DateOf(trimmed), ""
	case blueprint.YesNo:
		switch strings.ToLower(trimmed) {
		case "true", "yes":
			return expr.YesNoOf(true), ""
		case "false", "no":
			return expr.YesNoOf(false), ""
		}
		return expr.Value{}, "Enter yes or no."
	case blueprint.Choose:
		if l := b.List(f.List); l == nil || l.Choice(trimmed) == nil {
			return expr.Value{}, "Choose one of the choices that are offered."
		}
		return expr.ChoiceOf(trimmed), ""
	case blueprint.Link:
		if !IsRecordID(trimmed) {
			return expr.Value{}, "Choose one of the records that are offered."
		}
		return expr.RecordOf(trimmed), ""
	}
	return expr.Value{}, "This field cannot be filled in."
}

func limited(s string, most int) (expr.Value, string) {
	if n := utf8.RuneCountInString(s); n > most {
		return expr.Value{}, fmt.Sprintf("This is %d characters long; at most %d fit.", n, most)
	}
	return expr.TextOf(s), ""
}

func email(s string) (expr.Value, string) {
	a, err := mail.ParseAddress(s)
	if err != nil || a.Address != s || len(s) > 254 || !strings.Contains(s[strings.LastIndex(s, "@"):], ".") {
		return expr.Value{}, "Enter an e-mail address, such as name@harbour.example."
	}
	return expr.TextOf(s), ""
}

var numberPattern = regexp.MustCompile(`^[+-]?[0-9]+(\.[0-9]+)?$`)

func number(s string) (expr.Value, string) {
	if !numberPattern.MatchString(s) || len(s) > 60 {
		return expr.Value{}, "Enter a number, such as 12.5."
	}
	d, err := decimal.NewFromString(s)
	if err != nil || d.Abs().GreaterThan(maxNumber) {
		return expr.Value{}, "This number is too large."
	}
	return expr.NumberOf(d), ""
}

// Missing says that a required field is not filled in.
func Missing(f *blueprint.Field) string { return fmt.Sprintf("Please fill in %s.", f.Name) }
