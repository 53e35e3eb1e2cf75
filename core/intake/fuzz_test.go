package intake

import (
	"archive/zip"
	"bytes"
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"pinegate/core/words"
)

// readAll reads what may be a file of sheets to its end, and proposes what to make of it:
// it is read, or refused in words.
func readAll(t *testing.T, name string, content []byte) {
	told := func(err error) {
		var p *words.Problem
		require.True(t, err == nil || errors.As(err, &p), "%v", err)
	}
	sheets, err := Sheets(file(name, content))
	told(err)
	if err != nil {
		return
	}
	for _, s := range sheets {
		told(s.Each(func(_ int, cells []string) error {
			require.Len(t, cells, len(s.Header))
			return nil
		}))
	}
	_, err = Propose(sheets, nil)
	told(err)
}

func FuzzText(f *testing.F) {
	for _, s := range []string{"a,b\n1,2\n", "\xff\xfea\x00", "a;b\n\"x\n;y\";2\n", "\ufeffa\tb\n1\t2", "a,a,\n,,\n", "\"\n",
		"a,b\n1\n1,2,3\n", "d\n31/01/2026\n05/02/2026\n", "n\n1.250,50\n0,750\n", "\xef\xbb\xbf", "id,next\n1,2\n2,1\n"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, content []byte) { readAll(t, "x.csv", content) })
}

func FuzzJSON(f *testing.F) {
	for _, s := range []string{`[{"a":1}]`, `{"rows":[{"a":{"b":[1,2]}},{"a":null}]}`, `[1,2]`, `[[1,2],[3]]`, `{"a":[],"b":{}}`,
		`[{"a":1e999}]`, `[{"n":1,"l":[{"b":[{"c":[2,"d"]}]},{"b":null}]},{"n":1,"l":[3]}]`, `[{"a":"`, `[{"":""}]`, `[{"a":1}] []`, "[{\"\\u0000\":1}]", strings.Repeat("[", 100)} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, content []byte) { readAll(t, "x.json", content) })
}

// FuzzWorkbook packs what may be the parts of a workbook: its list of sheets, a sheet,
// and the texts that cells share.
func FuzzWorkbook(f *testing.F) {
	const (
		sheet = `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>` +
			`<row r="1"><c r="A1" t="s"><v>0</v></c><c r="B1" t="inlineStr"><is><t>b</t></is></c></row>` +
			`<row r="2"><c r="A2"><v>46000</v></c><c r="B2" t="b"><v>1</v></c></row></sheetData></worksheet>`
		shared = `<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><si><t>a</t></si></sst>`
		book   = `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" ` +
			`xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="S" sheetId="1" r:id="rId1"/></sheets></workbook>`
	)
	f.Add(sheet, shared, book)
	f.Add(strings.ReplaceAll(sheet, "A1", "ZZZ1"), "", book)
	f.Add(strings.ReplaceAll(sheet, `<v>0</v>`, `<v>99999999</v>`), shared, book)
	f.Add(strings.ReplaceAll(sheet, `r="2"`, `r="1048577"`), shared, strings.ReplaceAll(book, `"S"`, `""`))
	f.Fuzz(func(t *testing.T, sheet, shared, book string) {
		var b bytes.Buffer
		z := zip.NewWriter(&b)
		for _, part := range [][2]string{
			{"[Content_Types].xml", `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`},
			{"_rels/.rels", `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" ` +
				`Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`},
			{"xl/_rels/workbook.xml.rels", `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" ` +
				`Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`},
			{"xl/workbook.xml", book}, {"xl/worksheets/sheet1.xml", sheet}, {"xl/sharedStrings.xml", shared},
		} {
			w, err := z.Create(part[0])
			require.NoError(t, err)
			_, err = w.Write([]byte(part[1]))
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		readAll(t, "x.xlsx", b.Bytes())
	})
}
