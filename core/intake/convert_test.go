package intake

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"pinegate/core/blueprint"
	"pinegate/core/words"
)

// TestNumbersAreReadAsTheyAreMeant reads numbers as people and programs write them, and says what is in another unit or currency.
func TestNumbersAreReadAsTheyAreMeant(t *testing.T) {
	kg, euros, crowns := Format{Unit: "kg"}, Format{Currency: "EUR"}, Format{Currency: "NOK"}
	for _, c := range []struct {
		t    blueprint.FieldType
		f    Format
		cell string
		want string
	}{
		{blueprint.Number, Format{}, "1.2e-3", "0.0012"},
		{blueprint.Number, Format{}, "6.02E+3", "6020"},
		{blueprint.Number, Format{Comma: true}, "1,5e2", "150"},
		{blueprint.Number, Format{}, "12e5", "! import-number"}, // which is rather a code
		{blueprint.Number, Format{}, "1.5e99", "! read-number"},
		{blueprint.Number, Format{}, "12.50-", "-12.5"},
		{blueprint.Number, Format{}, "-12.50-", "! import-number"},
		{blueprint.Number, kg, "12.5 kg", "12.5"},
		{blueprint.Number, kg, "12.5", "12.5"},
		{blueprint.Number, kg, "500 g", "! import-unit"},
		{blueprint.Number, Format{}, "500 g", "! import-unit"},
		{blueprint.Number, kg, "12 kisses", "! import-number"},
		{blueprint.Money, euros, "€9.00", "9"},
		{blueprint.Money, euros, "9.00", "9"},
		{blueprint.Money, euros, "$9.00", "! import-currency"},
		{blueprint.Money, crowns, "9,50 kr", "9.5"},
		{blueprint.Money, crowns, "9.50 SEK", "! import-currency"},
	} {
		field := &blueprint.Field{Type: c.t, FieldSettings: blueprint.FieldSettings{Currency: c.f.Currency, Unit: c.f.Unit}}
		b := blueprint.New("Yard", func() string { return "n" })
		v, wrong := NewReader(b, field, ColumnPlan{Format: c.f}).Read(c.cell)
		got := v.String()
		if wrong != nil {
			got = "! " + wrong.Code
		}
		assert.Equal(t, c.want, got, "%s as %s", c.cell, c.t)
	}
	assert.NotEmpty(t, words.Say("import-unit", words.Args{"value": "500 g", "unit": "g"}))
}

// TestDaysOfManyLanguages reads days with the names of their months.
func TestDaysOfManyLanguages(t *testing.T) {
	for text, want := range map[string]string{
		"4 mars 2021": "2021-03-04", "30 août 2023": "2023-08-30", "1er janvier 2024": "2024-01-01", "17. Dezember 2022": "2022-12-17",
		"3. Okt. 2022": "2022-10-03", "2 de mayo de 2021": "2021-05-02", "5 settembre 2020": "2020-09-05", "9 maart 2019": "2019-03-09",
		"14. desember 2018": "2018-12-14", "3 maja 2017": "2017-05-03", "8 марта 2016 г.": "2016-03-08", "March 4th, 2021": "2021-03-04",
		"2nd June 2020": "2020-06-02", "31 février 2021": "", "4 ju 2021": "", "4 juni": "", "12 marbles 2021": "", "Mars 2021": "",
	} {
		got, ok := parseDate(text, named)
		assert.Equal(t, want != "", ok, text)
		if ok {
			assert.Equal(t, want, got)
		}
	}
}

// TestAddressesAreKnown tells addresses from what only looks like one.
func TestAddressesAreKnown(t *testing.T) {
	for text, want := range map[string]bool{"ada@yard.example": true, "a@b.c": true, "a@b.c.": true, "a.b+c@d-e.example": true,
		"a@b": false, "@b.c": false, "a@.c": false, "a@b.": false, "a@@b.c": false, "a@b@c.d": false, "a b@c.d": false,
		"a@b.c,": false, "<a@b.c>": false, "a@b..c": true, "a@": false, "": false} {
		assert.Equal(t, want, isEmail(text), text)
	}
	for text, want := range map[string]string{"tern": "tern", "Tern": "tern", " tern": "tern", "tern  auk": "tern auk", "tern ": "tern",
		"": "", "Ärger": "ärger", "a\tb": "a b", "a b": "a b", "a\u00a0b": "a b"} {
		assert.Equal(t, want, fold(text), "%q", text)
	}
}
