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
		{blueprint.Text, `"` + strings.Repeat("x", 1001) + `"`, "", "read-long"},
		{blueprint.Text, `"a\u0000b"`, "", "read-signs"},
		{blueprint.Text, `{"a":1}`, "", "read-kind"},
		{blueprint.Text, `true`, "", "read-kind"},
		{blueprint.Text, `not json`, "", "read-not"},
		{blueprint.LongText, `"two\r\nlines"`, "two\nlines", ""},
		{blueprint.Number, `"12.50"`, "12.5", ""},
		{blueprint.Number, `12.50`, "12.5", ""},
		{blueprint.Number, `"-0"`, "0", ""},
		{blueprint.Number, `"1e5"`, "", "read-number"},
		{blueprint.Number, `"1,5"`, "", "read-number"},
		{blueprint.Number, `"NaN"`, "", "read-number"},
		{blueprint.Number, `"999999999999999999999999"`, "", "read-large"},
		{blueprint.Date, `"2024-02-29"`, "2024-02-29", ""},
		{blueprint.Date, `"2026-02-29"`, "", "read-date"},
		{blueprint.Date, `"0000-01-01"`, "", "read-date"},
		{blueprint.Date, `"1.2.2026"`, "", "read-date"},
		{blueprint.YesNo, `true`, "true", ""},
		{blueprint.YesNo, `"no"`, "false", ""},
		{blueprint.YesNo, `"maybe"`, "", "read-yes-no"},
		{blueprint.Choose, `"c1"`, "c1", ""},
		{blueprint.Choose, `"One"`, "", "read-choice"},
		{blueprint.Email, `" ines@sailmail.example "`, "ines@sailmail.example", ""},
		{blueprint.Email, `"Ines <ines@sailmail.example>"`, "", "read-email"},
		{blueprint.Email, `"ines@sailmail.example\nBcc: all@elsewhere.example"`, "", "read-email"},
		{blueprint.Email, `"ines@localhost"`, "", "read-email"},
		{blueprint.Link, `"` + id + `"`, id, ""},
		{blueprint.Link, `"' OR true --"`, "", "read-record"},
		{"magic", `"x"`, "", "read-set-by-app"},
	} {
		v, wrong := form.Accept(b, &blueprint.Field{Name: "F", Type: x.kind, List: "l"}, []byte(x.entered))
		if x.wrong != "" {
			if assert.NotNil(t, wrong, "%s %s", x.kind, x.entered) {
				assert.Equal(t, x.wrong, wrong.Code, "%s %s", x.kind, x.entered)
			}
			assert.True(t, v.IsEmpty(), "%s %s", x.kind, x.entered)
			continue
		}
		assert.Nil(t, wrong, "%s %s", x.kind, x.entered)
		assert.Equal(t, x.value, v.String(), "%s %s", x.kind, x.entered)
	}
}
