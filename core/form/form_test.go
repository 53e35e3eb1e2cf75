package form_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"pinegate/core/blueprint"
	"pinegate/core/form"
)

func TestAccept(t *testing.T) {
	b := &blueprint.Blueprint{Lists: []blueprint.ChoiceList{{ID: "l", Choices: []blueprint.Choice{{ID: "c1", Label: "One"}}}}}
	id := "01a20887-9f15-75eb-b932-01cb220c615a"
	for _, x := range []struct {
		kind    blueprint.FieldType
		entered string
		value   string // canonical
		wrong   string
	}{
		{blueprint.Text, `"  Tern "`, "Tern", ""},
		{blueprint.Text, `"two\nlines"`, "two lines", ""},
		{blueprint.Text, `"   "`, "", ""},
		{blueprint.Text, `null`, "", ""},
		{blueprint.Text, `"` + strings.Repeat("x", 1001) + `"`, "", "This is 1001 characters long; at most 1000 fit."},
		{blueprint.Text, `"a\u0000b"`, "", "characters that cannot be stored"},
		{blueprint.Text, `{"a":1}`, "", "cannot hold this kind of value"},
		{blueprint.Text, `true`, "", "cannot hold this kind of value"},
		{blueprint.Text, `not json`, "", "could not be read"},
		{blueprint.LongText, `"two\r\nlines"`, "two\nlines", ""},
		{blueprint.Number, `"12.50"`, "12.5", ""},
		{blueprint.Number, `12.50`, "12.5", ""},
		{blueprint.Number, `"-0"`, "0", ""},
		{blueprint.Number, `"1e5"`, "", "Enter a number"},
		{blueprint.Number, `"1,5"`, "", "Enter a number"},
		{blueprint.Number, `"NaN"`, "", "Enter a number"},
		{blueprint.Number, `"999999999999999999999999"`, "", "too large"},
		{blueprint.Date, `"2024-02-29"`, "2024-02-29", ""},
		{blueprint.Date, `"2026-02-29"`, "", "Enter a date that exists"},
		{blueprint.Date, `"0000-01-01"`, "", "Enter a date that exists"},
		{blueprint.Date, `"1.2.2026"`, "", "Enter a date that exists"},
		{blueprint.YesNo, `true`, "true", ""},
		{blueprint.YesNo, `"no"`, "false", ""},
		{blueprint.YesNo, `"maybe"`, "", "Enter yes or no."},
		{blueprint.Choose, `"c1"`, "c1", ""},
		{blueprint.Choose, `"One"`, "", "Choose one of the choices"},
		{blueprint.Email, `" ines@sailmail.example "`, "ines@sailmail.example", ""},
		{blueprint.Email, `"Ines <ines@sailmail.example>"`, "", "Enter an e-mail address"},
		{blueprint.Email, `"ines@sailmail.example\nBcc: all@elsewhere.example"`, "", "Enter an e-mail address"},
		{blueprint.Email, `"ines@localhost"`, "", "Enter an e-mail address"},
		{blueprint.Link, `"` + id + `"`, id, ""},
		{blueprint.Link, `"' OR true --"`, "", "Choose one of the records"},
		{"magic", `"x"`, "", "cannot be set"},
	} {
		v, wrong := form.Accept(b, &blueprint.Field{Name: "F", Type: x.kind, List: "l"}, []byte(x.entered))
		if x.wrong != "" {
			assert.Contains(t, wrong, x.wrong, "%s %s", x.kind, x.entered)
			assert.True(t, v.IsEmpty(), "%s %s", x.kind, x.entered)
			continue
		}
		assert.Empty(t, wrong, "%s %s", x.kind, x.entered)
		assert.Equal(t, x.value, v.String(), "%s %s", x.kind, x.entered)
	}
}
