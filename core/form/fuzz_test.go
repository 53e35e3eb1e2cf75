package form_test

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/words"
)

// FuzzAccept holds that whatever is sent as the value of a field is refused in words, or
// is something that the database can keep, and that an address of mail is one alone.
func FuzzAccept(f *testing.F) {
	for _, s := range []string{`"Tern"`, `null`, `12.50`, `"1e5"`, `true`, `["c1","c2"]`, `{"added":["x"],"removed":null}`, `"2026-02-29"`,
		`"10:30"`, `"2026-01-31T10:30:00Z"`, `"ines@sailmail.example"`, `"\"a\nb\"@x.example"`, `"+44 20 555"`, `"x.example"`, `"a\u0000b"`,
		`[{"id":"01a20887-9f15-75eb-b932-01cb220c615a"}]`, `"\ud800"`, "\"\xff\"", `{"added":[1]}`} {
		f.Add([]byte(s))
	}
	b := &blueprint.Blueprint{Lists: []blueprint.ChoiceList{{ID: "l", Choices: []blueprint.Choice{{ID: "c1", Label: "One"}}}}}
	kept := func(t *testing.T, v expr.Value) {
		for _, x := range append([]expr.Value{v}, v.Items...) {
			s := x.String()
			require.True(t, utf8.ValidString(s) && !strings.ContainsRune(s, 0), "%q", s)
		}
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		for _, kind := range blueprint.FieldTypes() {
			field := &blueprint.Field{Name: "F", Type: kind, List: "l", Target: "t"}
			v, wrong := form.Accept(b, field, raw)
			if wrong != nil {
				require.True(t, words.Known(wrong.Code), wrong.Code)
				require.True(t, v.IsEmpty())
				continue
			}
			kept(t, v)
			if kind == blueprint.Email && !v.IsEmpty() {
				require.False(t, strings.ContainsAny(v.Text, "\r\n,;<> "), "%q", v.Text)
			}
			if edit, wrong := form.AcceptLinks(b, field, raw); wrong == nil {
				for _, id := range append(edit.Added, edit.Removed...) {
					kept(t, expr.Value{Text: id})
				}
			}
		}
	})
}
