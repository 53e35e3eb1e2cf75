// Package form decides what a value that somebody enters means, and tells in
// words what is wrong with it.
package form

import (
	"bytes"
	"encoding/json"
	"slices"
	"strings"
	"unicode/utf8"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// Accept reads what was entered for a field: JSON null, a text, a number or a
// yes/no. The second result says what is wrong, or is nil.
func Accept(b *blueprint.Blueprint, f *blueprint.Field, raw json.RawMessage) (expr.Value, *words.Problem) {
	entered, err := plain(raw)
	if err != nil {
		return expr.Value{}, words.New("read-not")
	}
	switch v := entered.(type) {
	case nil:
		return expr.Empty(), nil
	case bool:
		if f.Type == blueprint.YesNo {
			return expr.YesNoOf(v), nil
		}
	case json.Number:
		return Read(b, f, v.String())
	case string:
		return Read(b, f, v)
	case []any:
		return several(b, f, v)
	}
	return expr.Value{}, words.New("read-kind", "field", f.Name)
}

// plain reads a value as it is without a field, with numbers as they are written. Most are texts.
func plain(raw json.RawMessage) (v any, err error) {
	if len(raw) > 0 && raw[0] == '"' {
		var s string
		err = json.Unmarshal(raw, &s)
		return s, err
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber()
	err = d.Decode(&v)
	return v, err
}

// maxSeveral is how many choices or links one field can hold.
const maxSeveral = 1000

// several reads the ids of choices or of records.
func several(b *blueprint.Blueprint, f *blueprint.Field, entered []any) (expr.Value, *words.Problem) {
	one := *f
	switch f.Type {
	case blueprint.ChooseMany:
		one.Type = blueprint.Choose
	case blueprint.Links:
		one.Type = blueprint.Link
	case blueprint.File, blueprint.Picture:
		return files(f, entered)
	default:
		return expr.Value{}, words.New("read-one", "field", f.Name)
	}
	if len(entered) > maxSeveral {
		return expr.Value{}, words.New("read-several", "field", f.Name, "most", maxSeveral)
	}
	var items []expr.Value
	for _, x := range entered {
		id, ok := x.(string)
		v, wrong := Read(b, &one, id)
		if !ok || wrong != nil || v.IsEmpty() {
			return expr.Value{}, words.New("read-choice")
		}
		if !slices.ContainsFunc(items, func(other expr.Value) bool { return expr.Equal(other, v) }) {
			items = append(items, v)
		}
	}
	return expr.ListValue(items), nil
}

// mostFiles is how many files one field can hold.
const mostFiles = 50

// files reads the ids of files that were received before.
func files(f *blueprint.Field, entered []any) (expr.Value, *words.Problem) {
	most := 1
	if f.Several {
		most = mostFiles
	}
	if len(entered) > most {
		if most == 1 {
			return expr.Value{}, words.New("read-one-file", "field", f.Name)
		}
		return expr.Value{}, words.New("read-files", "field", f.Name, "most", most)
	}
	var items []expr.Value
	for _, x := range entered {
		id, ok := x.(string)
		if !ok || !blueprint.IsRecordID(id) {
			return expr.Value{}, LostFile()
		}
		if v := expr.FileOf(id); !slices.ContainsFunc(items, func(other expr.Value) bool { return expr.Equal(other, v) }) {
			items = append(items, v)
		}
	}
	return expr.ListValue(items), nil
}

// LostFile says that a file which is to be kept was not received, or not for
// this.
func LostFile() *words.Problem { return words.New("read-lost-file") }

// Read reads a value of a field that was entered as text.
func Read(b *blueprint.Blueprint, f *blueprint.Field, s string) (expr.Value, *words.Problem) {
	if wrong := Storable(s); wrong != nil {
		return expr.Value{}, wrong
	}
	trimmed := strings.TrimSpace(s)
	switch {
	case trimmed == "":
		return expr.Empty(), nil
	case f.Type == blueprint.LongText || f.Type == blueprint.RichText:
		trimmed = strings.ReplaceAll(s, "\r\n", "\n") // as it is written
	case f.Type == blueprint.Text:
		trimmed = strings.Join(strings.FieldsFunc(trimmed, func(r rune) bool { return r == '\n' || r == '\r' }), " ")
	}
	return f.ReadText(b, trimmed)
}

// Missing says that a required field is not filled in.
func Missing(f *blueprint.Field) *words.Problem { return words.New("read-missing", "field", f.Name) }

// Storable says what is wrong with a text that is none, or that a database cannot keep.
func Storable(s string) *words.Problem {
	if !utf8.ValidString(s) || strings.ContainsRune(s, 0) {
		return words.New("read-signs")
	}
	return nil
}
