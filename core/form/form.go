// Package form decides what a value that somebody enters means, and tells in
// words what is wrong with it.
package form

import (
	"encoding/json"
	"fmt"
	"net/mail"
	"net/url"
	"regexp"
	"slices"
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
		return Read(b, f, v.String())
	case string:
		return Read(b, f, v)
	case []any:
		return several(b, f, v)
	}
	return expr.Value{}, fmt.Sprintf("%s cannot hold this kind of value.", f.Name)
}

// maxSeveral is how many choices or links one field can hold.
const maxSeveral = 1000

// several reads the ids of choices or of records.
func several(b *blueprint.Blueprint, f *blueprint.Field, entered []any) (expr.Value, string) {
	one := *f
	switch f.Type {
	case blueprint.ChooseMany:
		one.Type = blueprint.Choose
	case blueprint.Links:
		one.Type = blueprint.Link
	case blueprint.File, blueprint.Picture:
		return files(f, entered)
	default:
		return expr.Value{}, fmt.Sprintf("%s holds one value only.", f.Name)
	}
	if len(entered) > maxSeveral {
		return expr.Value{}, fmt.Sprintf("%s holds at most %d values.", f.Name, maxSeveral)
	}
	var items []expr.Value
	for _, x := range entered {
		id, ok := x.(string)
		v, wrong := Read(b, &one, id)
		if !ok || wrong != "" || v.IsEmpty() {
			return expr.Value{}, "Choose from what is offered."
		}
		if !slices.ContainsFunc(items, func(other expr.Value) bool { return expr.Equal(other, v) }) {
			items = append(items, v)
		}
	}
	return expr.ListValue(items), ""
}

// mostFiles is how many files one field can hold.
const mostFiles = 50

// files reads the ids of files that were received before.
func files(f *blueprint.Field, entered []any) (expr.Value, string) {
	most := 1
	if f.Several {
		most = mostFiles
	}
	if len(entered) > most {
		if most == 1 {
			return expr.Value{}, fmt.Sprintf("%s holds one %s only.", f.Name, f.Type)
		}
		return expr.Value{}, fmt.Sprintf("%s holds at most %d files.", f.Name, most)
	}
	var items []expr.Value
	for _, x := range entered {
		id, ok := x.(string)
		if !ok || !IsRecordID(id) {
			return expr.Value{}, LostFile
		}
		if v := expr.FileOf(id); !slices.ContainsFunc(items, func(other expr.Value) bool { return expr.Equal(other, v) }) {
			items = append(items, v)
		}
	}
	return expr.ListValue(items), ""
}

// LostFile says that a file which is to be kept was not received, or not for
// this.
const LostFile = "This file is no longer there. Choose it again."

// Read reads a value of a field that was entered as text. The second result
// says in words what is wrong, or is "".
func Read(b *blueprint.Blueprint, f *blueprint.Field, s string) (expr.Value, string) {
	if !utf8.ValidString(s) || strings.ContainsRune(s, 0) {
		return expr.Value{}, "This text has characters that cannot be stored."
	}
	trimmed := strings.TrimSpace(s)
	if trimmed == "" {
		return expr.Empty(), ""
	}
	switch f.Type {
	case blueprint.Text:
		return limited(f, strings.Join(strings.FieldsFunc(trimmed, func(r rune) bool { return r == '\n' || r == '\r' }), " "), maxText)
	case blueprint.LongText, blueprint.RichText:
		return limited(f, strings.ReplaceAll(s, "\r\n", "\n"), maxLongText)
	case blueprint.Email:
		return email(trimmed)
	case blueprint.Phone:
		if !phonePattern.MatchString(trimmed) {
			return expr.Value{}, "Enter a phone number, such as +351 21 555 0100."
		}
		return expr.TextOf(trimmed), ""
	case blueprint.Web:
		return web(trimmed)
	case blueprint.Number, blueprint.Money:
		return number(f, trimmed)
	case blueprint.Percent:
		return percent(f, trimmed)
	case blueprint.Duration:
		return duration(f, trimmed)
	case blueprint.Date:
		if !expr.IsDate(trimmed) {
			return expr.Value{}, "Enter a date that exists, such as 2026-05-31."
		}
		return expr.DateOf(trimmed), ""
	case blueprint.TimeStamp:
		return timeStamp(b, trimmed)
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
	if f.Type.Filed() {
		return expr.Value{}, fmt.Sprintf("%s holds files. Choose one, or drop it there.", f.Name)
	}
	return expr.Value{}, fmt.Sprintf("%s fills itself in, so it cannot be set.", f.Name)
}

func limited(f *blueprint.Field, s string, most int) (expr.Value, string) {
	if f.MaxLength > 0 {
		most = f.MaxLength
	}
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

var phonePattern = regexp.MustCompile(`^[+(]?[0-9][0-9 ()/.-]{2,30}$`)

// web reads a web address; without a scheme it is taken to be https.
func web(s string) (expr.Value, string) {
	if !strings.Contains(s, "://") {
		s = "https://" + s
	}
	u, err := url.Parse(s)
	if err != nil || u.Scheme != "https" && u.Scheme != "http" || !strings.Contains(u.Host, ".") || strings.ContainsAny(s, " \t\n<>\"") || len(s) > 2000 {
		return expr.Value{}, "Enter a web address, such as https://harbour.example."
	}
	return expr.TextOf(s), ""
}

var numberPattern = regexp.MustCompile(`^[+-]?[0-9]+(\.[0-9]+)?$`)

func number(f *blueprint.Field, s string) (expr.Value, string) {
	if !numberPattern.MatchString(s) || len(s) > 60 {
		return expr.Value{}, "Enter a number, such as 12.5."
	}
	d, err := decimal.NewFromString(s)
	if err != nil || d.Abs().GreaterThan(maxNumber) {
		return expr.Value{}, "This number is too large."
	}
	return bounded(f, d, d)
}

// bounded checks a number against the limits of its field; shown is the number
// as people read it, to whose decimal places the limit applies.
func bounded(f *blueprint.Field, d, shown decimal.Decimal) (expr.Value, string) {
	if f.Decimals != nil && !shown.Equal(shown.Truncate(int32(*f.Decimals))) {
		if *f.Decimals == 0 {
			return expr.Value{}, "Enter a whole number."
		}
		return expr.Value{}, fmt.Sprintf("Enter at most %d decimal places.", *f.Decimals)
	}
	if least, ok := limit(f.Least); ok && d.LessThan(least) {
		return expr.Value{}, fmt.Sprintf("This must be at least %s.", f.Least)
	}
	if most, ok := limit(f.Most); ok && d.GreaterThan(most) {
		return expr.Value{}, fmt.Sprintf("This must be at most %s.", f.Most)
	}
	return expr.NumberOf(d), ""
}

// limit reads a limit, if there is one; most fields have none.
func limit(text string) (decimal.Decimal, bool) {
	if text == "" {
		return decimal.Decimal{}, false
	}
	d, err := decimal.NewFromString(text)
	return d, err == nil
}

// percent reads 20% as 0.2, and a number without a sign as the fraction itself.
func percent(f *blueprint.Field, s string) (expr.Value, string) {
	bare, isPercent := strings.CutSuffix(s, "%")
	plain := blueprint.Field{}
	v, wrong := number(&plain, strings.TrimSpace(bare))
	if wrong != "" {
		return v, "Enter a percentage, such as 12.5%."
	}
	d := v.Num
	if isPercent {
		d = d.Shift(-2)
	}
	return bounded(f, d, d.Shift(2))
}

var clockPattern = regexp.MustCompile(`^(-?)([0-9]{1,6}):([0-5][0-9])$`)

// duration reads 7:30 and 7.5 as seven and a half hours.
func duration(f *blueprint.Field, s string) (expr.Value, string) {
	m := clockPattern.FindStringSubmatch(s)
	if m == nil {
		v, wrong := number(f, s)
		if strings.HasPrefix(wrong, "Enter a number") {
			wrong = "Enter hours and minutes, such as 7:30."
		}
		return v, wrong
	}
	minutes := decimal.RequireFromString(m[2]).Mul(decimal.New(60, 0)).Add(decimal.RequireFromString(m[3]))
	hours := minutes.DivRound(decimal.New(60, 0), 12)
	if m[1] != "" {
		hours = hours.Neg()
	}
	return bounded(&blueprint.Field{FieldSettings: blueprint.FieldSettings{Least: f.Least, Most: f.Most}}, hours, hours)
}

// timeStamp reads an instant as RFC 3339, or what clocks show in the app's time
// zone.
func timeStamp(b *blueprint.Blueprint, s string) (expr.Value, string) {
	if t, err := time.Parse(time.RFC3339, s); err == nil {
		return expr.TimeOf(t), ""
	}
	for _, layout := range []string{"2006-01-02T15:04", "2006-01-02 15:04", "2006-01-02T15:04:05", "2006-01-02 15:04:05", time.DateOnly} {
		if t, err := time.Parse(layout, s); err == nil && t.Year() >= 1 {
			return expr.TimeOf(expr.Clock{Zone: b.Location()}.At(t)), ""
		}
	}
	return expr.Value{}, "Enter a date and a time, such as 2026-05-31 14:30."
}

// Missing says that a required field is not filled in.
func Missing(f *blueprint.Field) string { return fmt.Sprintf("Please fill in %s.", f.Name) }
