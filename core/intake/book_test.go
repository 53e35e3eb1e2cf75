package intake

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestFormatsSayWhatCellsAre reads codes of formats, and writes numbers by them.
func TestFormatsSayWhatCellsAre(t *testing.T) {
	for _, c := range []struct{ code, raw, want string }{
		{"General", "49.9", "49.9"},
		{"0", "49.90", "49.9"},
		{"0.00", "0.1", "0.1"},
		{"#,##0", "1250", "1250"},
		{"0.000", "1.125", "1.1250"}, // so that the point cannot part thousands
		{"General", "3.3000000000000003", "3.3"},
		{"General", "9007199254740993", "9007199254740993"},
		{"General", "1E-07", "0.0000001"},
		{"General", "no number", "no number"},
		{"dd/mm/yyyy", "45356", "2024-03-05"},
		{"m/d/yy", "45356.75", "2024-03-05"},
		{"d. mmmm yyyy", "45356", "2024-03-05"},
		{"yyyy-mm-dd hh:mm", "45356.604166666664", "2024-03-05 14:30:00"},
		{`[$-409]dddd, mmmm d, yyyy;@`, "45356", "2024-03-05"},
		{"dd/mm/yyyy hh:mm:ss.000", "45356.5", "2024-03-05 12:00:00"},
		{"dd/mm/yyyy", "60", "1900-02-28"}, // which that program takes for the twenty-ninth
		{"dd/mm/yyyy", "1", "1900-01-01"},
		{"dd/mm/yyyy", "-4", "-4"},
		{"h:mm", "0.3125", "07:30"},
		{"h:mm:ss AM/PM", "0.75001157407", "18:00:01"},
		{"[h]:mm", "1.0625", "25:30:00"},
		{"0%", "0.125", "12.5%"},
		{"0.0%", "0.07", "7%"},
		{`#,##0.00 "€"`, "49.9", "49.9 EUR"},
		{"[$£-809]#,##0.00", "650.5", "650.5 GBP"},
		{"[$CHF] #,##0.00", "12", "12 CHF"},
		{"$#,##0.00;[Red]-$#,##0.00", "-12.5", "-12.5 USD"},
		{`#,##0.00 "kr"`, "12.5", "12.5 SEK"},
		{"00000", "1234", "01234"},
		{`0 "days"`, "12", "12"},
		{`"yes"`, "1", "1"},
		{"@", "12", "12"},
	} {
		b := &bookFile{styles: []cellFormat{formatOf(c.code)}, since: 1900}
		assert.Equal(t, c.want, b.text(c.raw, look{"n", 0}), "%s of %s", c.raw, c.code)
	}
	b := &bookFile{styles: []cellFormat{builtIn(0), builtIn(14), builtIn(9), builtIn(22), builtIn(46)}, since: 1904}
	for style, want := range []string{"43894.5", "2024-03-05", "4389450%", "2024-03-05 12:00:00", "1053468:00:00"} {
		assert.Equal(t, want, b.text("43894.5", look{"n", style}))
	}
	assert.Equal(t, "TRUE", b.text("1", look{"b", 0}))
	assert.Equal(t, "007", b.text("007", look{"s", 1}), "a text stays as it is, whatever its format")
	assert.Equal(t, "43894", b.text("43894", look{"n", 99}))
}
