package intake

import (
	"bytes"
	"errors"
	"io"
	"strings"
	"testing"
	"testing/iotest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/words"
)

func file(name string, content []byte) File {
	return File{Name: name, Size: int64(len(content)), Open: func() (io.ReadCloser, error) {
		return io.NopCloser(bytes.NewReader(content)),
			nil
	}}
}

func propose(t *testing.T, name, content string) SheetPlan {
	t.Helper()
	sheets, err := Sheets(file(name, []byte(content)))
	require.NoError(t, err)
	p, err := Propose(sheets, nil)
	require.NoError(t, err)
	return p.Sheets[0]
}

func TestTypesAreFoundWithReasons(t *testing.T) {
	for header, x := range map[string]struct {
		values string
		want   blueprint.FieldType
		format Format
		ask    string
	}{
		"plain":     {"12|7|-3", blueprint.Number, Format{}, ""},
		"comma":     {"12,5|7,25|1.200,00", blueprint.Number, Format{Comma: true}, ""},
		"thousands": {"1,200|12,000.5|7", blueprint.Number, Format{}, ""},
		"money":     {"€ 12.50|€ 3|€ 1,200.00", blueprint.Money, Format{Currency: "EUR"}, ""},
		"percent":   {"12%|7.5 %|100%", blueprint.Percent, Format{}, ""},
		"iso":       {"2026-01-31|2025-12-01", blueprint.Date, Format{Order: "year"}, ""},
		"day":       {"31/01/2026|05/02/2026", blueprint.Date, Format{Order: "day"}, ""},
		"month":     {"01/31/2026|05/02/2026", blueprint.Date, Format{Order: "month"}, ""},
		"either":    {"01/02/2026|05/02/2026", blueprint.Date, Format{Order: "day"}, "order"},
		"words":     {"3 Mar 2026|14 April 2026", blueprint.Date, Format{Order: "name"}, ""},
		"stamp":     {"2026-01-31 10:30|2026-02-01T11:00:05Z", blueprint.TimeStamp, Format{Order: "year"}, ""},
		"agreed":    {"yes|no|Yes", blueprint.YesNo, Format{}, ""},
		"mail":      {"a@x.example|b@y.example", blueprint.Email, Format{}, ""},
		"web":       {"https://x.example|www.y.example", blueprint.Web, Format{}, ""},
		"phone":     {"+351 21 555 0100|021 555 01 01|0215550102", blueprint.Phone, Format{}, ""},
		"code":      {"007|0123|42", blueprint.Text, Format{}, ""},
		"long":      {strings.Repeat("word ", 40) + "|short", blueprint.LongText, Format{}, ""},
		"few":       {"a|a|b|b|a|b|a|a|b", blueprint.Choose, Format{}, ""},
		"names":     {"Tern|Auk|Gull", blueprint.Text, Format{}, ""},
		"mostly":    {"1|2|3|4|5|6|7|8|9|10|11|12|13|14|15|16|17|18|19|20|x", blueprint.Number, Format{}, ""},
	} {
		plan := propose(t, "f.tsv", header+"\tother\n"+strings.ReplaceAll(x.values, "|", "\tx\n")+"\tx\n")
		c := plan.Columns[0]
		assert.Equal(t, header, c.Header)
		assert.Equal(t, x.want, c.Type, header)
		assert.Equal(t, x.format, c.Format, header)
		assert.NotEmpty(t, c.Reason, header)
		if x.ask == "" {
			assert.Nil(t, c.Ask, header)
		} else if assert.NotNil(t, c.Ask, header) {
			assert.Equal(t, x.ask, c.Ask.About, header)
		}
	}
}

func TestFilesAreUnderstood(t *testing.T) {
	body := "Name;Ort\nJörg;Köln\nÉmile;Nîmes\n"
	utf16, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewEncoder().Bytes([]byte(body))
	require.NoError(t, err)
	bare, err := unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM).NewEncoder().Bytes([]byte("Name;Ort\nAnn;Bergen\nBob;Oslo\n"))
	require.NoError(t, err)
	latin, err := charmap.Windows1252.NewEncoder().Bytes([]byte(body))
	require.NoError(t, err)
	for name, x := range map[string]struct {
		content []byte
		cell    string
		note    string
	}{
		"utf-8":        {[]byte(body), "Jörg", "The text is UTF-8, with semicolons between values."},
		"bom":          {append([]byte{0xef, 0xbb, 0xbf}, body...), "Jörg", "The text is UTF-8"},
		"utf-16":       {utf16, "Jörg", "The text is UTF-16"},
		"utf-16 bare":  {bare, "Ann", "The text is UTF-16"},
		"windows-1252": {latin, "Jörg", "The text is Windows-1252"},
	} {
		sheets, err := Sheets(file("people.csv", x.content))
		require.NoError(t, err, name)
		assert.Equal(t, []string{"Name", "Ort"}, sheets[0].Header, name)
		assert.Contains(t, sheets[0].Notes[0], x.note, name)
		var first string
		require.NoError(t, sheets[0].Each(func(n int, cells []string) error {
			if n == 2 {
				first = cells[0]
			}
			return nil
		}))
		assert.Equal(t, x.cell, first, name)
	}
	noHeader := propose(t, "n.csv", "1,2\n3,4\n")
	assert.Equal(t, []string{"Column 1", "Column 2"}, []string{noHeader.Columns[0].Header, noHeader.Columns[1].Header})
	assert.Equal(t, 2, noHeader.Rows)
	quoted := propose(t, "q.csv", "a,b\n\"x, \"\"y\"\"\nz\",2\n")
	assert.Equal(t, "x, \"y\"\nz", quoted.Columns[0].Samples[0])
	list := propose(t, "l.json", `[{"name": "Tern", "tags": ["a", "b"], "n": 1.50}, {"name": "Auk", "extra": null}]`)
	assert.Equal(t, "a, b", list.Columns[1].Samples[0])
	assert.Equal(t, []string{"name", "tags", "n", "extra"}, []string{list.Columns[0].Header, list.Columns[1].Header, list.Columns[2].Header,
		list.Columns[3].Header})
}

func TestSmallNumbersAreNoLinks(t *testing.T) {
	boats := "Id,Name\n1,Tern\n2,Auk\n3,Gull\n4,Skua\n"
	orders := "Order,Boat id,Quantity\nA,1,1\nB,2,2\nC,4,3\nD,3,4\n"
	a, err := Sheets(file("boats.csv", []byte(boats)))
	require.NoError(t, err)
	b, err := Sheets(file("orders.csv", []byte(orders)))
	require.NoError(t, err)
	p, err := Propose(append(b, a...), nil)
	require.NoError(t, err)
	link := p.Sheets[0].Columns[1].Link
	require.NotNil(t, link, "the name of the column speaks of boats")
	assert.Equal(t, "Id", link.By)
	assert.Equal(t, 4, link.Matched)
	assert.Nil(t, p.Sheets[0].Columns[2].Link, "a quantity points to nothing")
}

func TestTablesThatKnowEachOtherPointOneWay(t *testing.T) {
	boats, err := Sheets(file("boats.csv", []byte("Boat,Owner\nTern,Ines\nAuk,Tomas\nGull,Ruth\n")))
	require.NoError(t, err)
	owners, err := Sheets(file("owners.csv", []byte("Name,Boat\nInes,Tern\nTomas,Auk\nRuth,Gull\n")))
	require.NoError(t, err)
	p, err := Propose(append(boats, owners...), nil)
	require.NoError(t, err)
	assert.Nil(t, p.Sheets[0].Columns[0].Link)
	require.NotNil(t, p.Sheets[0].Columns[1].Link)
	assert.Nil(t, p.Sheets[1].Columns[0].Link)
	require.NotNil(t, p.Sheets[1].Columns[1].Link)
}

// TestNumbersSurviveTheirFormat writes numbers as people in several places do
// and reads them again.
func TestNumbersSurviveTheirFormat(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		whole := rapid.Int64Range(-9_999_999, 9_999_999).Draw(t, "whole")
		if whole == 0 {
			whole = 7
		}
		fraction := rapid.IntRange(0, 99).Draw(t, "fraction")
		point, group := byte('.'), ","
		if rapid.Bool().Draw(t, "comma") {
			point, group = ',', "."
		}
		digits := strings.TrimPrefix(itoa(whole), "-")
		var grouped string
		for len(digits) > 3 {
			grouped, digits = group+digits[len(digits)-3:]+grouped, digits[:len(digits)-3]
		}
		text := digits + grouped + string(point) + twoDigits(fraction)
		if whole < 0 {
			text = "-" + text
		}
		got, ok := parseNumber(text, point)
		require.True(t, ok, text)
		require.Equal(t, itoa(whole)+"."+twoDigits(fraction), got.StringFixed(2), text)
	})
}

func itoa(n int64) string {
	if n < 0 {
		return "-" + itoa(-n)
	}
	if n < 10 {
		return string(rune('0' + n))
	}
	return itoa(n/10) + string(rune('0'+n%10))
}

func twoDigits(n int) string { return string(rune('0'+n/10)) + string(rune('0'+n%10)) }

// TestWhereAFileComesFromIsNotTheFile has the place from which a file is read fail in the
// middle: that is told as it is, and not as something wrong in the file.
func TestWhereAFileComesFromIsNotTheFile(t *testing.T) {
	lost := errors.New("the database does not answer")
	for name, begin := range map[string]string{"x.csv": "a,b\n1,2\n", "x.json": `[{"a":1},`} {
		for _, far := range []int{0, 100_000} {
			f := File{Name: name, Size: 1 << 20, Open: func() (io.ReadCloser, error) {
				body := begin + strings.Repeat(begin[len(begin)-4:], far)
				if name == "x.json" {
					body = begin + strings.Repeat(`{"a":1},`, far)
				}
				return io.NopCloser(io.MultiReader(strings.NewReader(body), iotest.ErrReader(lost))), nil
			}}
			sheets, err := Sheets(f)
			for _, s := range sheets {
				err = errors.Join(err, s.Each(func(int, []string) error { return nil }))
			}
			require.ErrorIs(t, err, lost, "%s %d", name, far)
			var told *words.Problem
			require.NotErrorAs(t, err, &told)
		}
	}
}
