package intake

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"runtime"
	"runtime/debug"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/words"
)

// again is a file that repeats something, which takes no memory itself.
type again struct {
	head, part, tail string
	times            int
}

func (a again) file(name string) File {
	return File{Name: name, Size: int64(len(a.head) + len(a.part)*a.times + len(a.tail)), Open: func() (io.ReadCloser, error) {
		parts := []io.Reader{strings.NewReader(a.head)}
		const at = 1000
		many := strings.Repeat(a.part, at)
		for range a.times / at {
			parts = append(parts, strings.NewReader(many))
		}
		parts = append(parts, strings.NewReader(strings.Repeat(a.part, a.times%at)), strings.NewReader(a.tail))
		return io.NopCloser(io.MultiReader(parts...)), nil
	}}
}

// memoryOf gives how much more memory is taken, at most, while rows are read.
func memoryOf(t *testing.T, f File) (rows int, most uint64, err error) {
	t.Helper()
	defer debug.SetGCPercent(debug.SetGCPercent(20)) // little that is left behind counts
	var before runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	stop := make(chan struct{})
	var watching sync.WaitGroup
	watching.Go(func() {
		var now runtime.MemStats
		for tick := time.Tick(2 * time.Millisecond); ; {
			select {
			case <-stop:
				return
			case <-tick:
				runtime.ReadMemStats(&now)
				most = max(most, now.HeapAlloc)
			}
		}
	})
	rows, err = read(f)
	close(stop)
	watching.Wait()
	return rows, max(most, before.HeapAlloc) - before.HeapAlloc, err
}

// read reads all rows of a file.
func read(f File) (rows int, err error) {
	sheets, err := Sheets(f)
	if err != nil {
		return 0, err
	}
	for _, s := range sheets {
		if err := s.Each(func(int, []string) error { rows++; return nil }); err != nil {
			return rows, err
		}
	}
	return rows, nil
}

// TestJSONIsReadInLittleMemory reads what would be large if all of it were held.
func TestJSONIsReadInLittleMemory(t *testing.T) {
	for name, x := range map[string]struct {
		again
		rows int
		code string
	}{
		"many small":            {again{`[{"a":1}`, `,{"a":1}`, `]`, 100_000}, 100_001, ""},
		"many empty":            {again{`[{"a":1}`, `,{}`, `]`, 500_000}, 1, ""},
		"lists":                 {again{`{"one":[{"a":1}],"two":[{"b":[`, `1,`, `2]}]}`, 200_000}, 2, ""},
		"lists within":          {again{`[{"id":0,"of":[{"q":1}]}`, `,{"id":0,"of":[{"q":1},{"q":2}]}`, `]`, 50_000}, 150_002, ""},
		"deep":                  {again{`[{"a":`, `[`, ``, 800_000}, 0, "intake-file-json-deep"},
		"deep outside":          {again{`{"a":`, `{"a":`, ``, 200_000}, 0, "intake-file-json-deep"},
		"what is no list":       {again{``, `{`, ``, 800_000}, 0, "intake-file-broken-json"},
		"numbers":               {again{`[1`, `,1`, `]`, 800_000}, 800_001, ""},
		"numbers among objects": {again{`[{"a":1}`, `,1`, `]`, 800_000}, 0, "intake-file-json-list"},
	} {
		rows, most, err := memoryOf(t, x.file("x.json"))
		assert.Equal(t, x.rows, rows, name)
		assert.Less(t, most, uint64(24<<20), name)
		t.Logf("%s: %d MB of %d", name, most>>20, x.file("").Size>>20)
		var told *words.Problem
		if x.code != "" && assert.ErrorAs(t, err, &told, name) {
			assert.Equal(t, x.code, told.Code, name)
		} else if x.code == "" {
			require.NoError(t, err, name)
		}
	}
	var keys strings.Builder
	for i := range 50_000 {
		fmt.Fprintf(&keys, `"k%d":1,`, i)
	}
	_, most, err := memoryOf(t, file("x.json", []byte(`[{`+keys.String()+`"z":1}]`)))
	var told *words.Problem
	require.ErrorAs(t, err, &told)
	assert.Equal(t, "intake-file-columns", told.Code)
	assert.Less(t, most, uint64(24<<20))
	var lists strings.Builder
	for i := range mostLists {
		fmt.Fprintf(&lists, `"k%d":[{"a":1,"b":[{"c":1}]}],`, i)
	}
	_, err = Sheets(file("x.json", []byte(`{`+lists.String()+`"z":1}`)))
	require.ErrorAs(t, err, &told)
	assert.Equal(t, "intake-file-lists", told.Code)
}

// packed makes a ZIP of parts.
func packed(t testing.TB, parts map[string]again) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, x := range parts {
		w, err := z.Create(name)
		require.NoError(t, err)
		r, err := x.file("").Open()
		require.NoError(t, err)
		_, err = io.Copy(w, r)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// TestWorkbooksAreReadInLittleMemory opens workbooks that are made to unfold.
func TestWorkbooksAreReadInLittleMemory(t *testing.T) {
	const (
		kinds = `<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">` +
			`<Default Extension="xml" ContentType="application/xml"/></Types>`
		rels = `<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" ` +
			`Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`
		book = `<?xml version="1.0"?><workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" ` +
			`xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Boats" sheetId="1" r:id="r1"/></sheets></workbook>`
		bookRels = `<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" ` +
			`Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`
		sheet  = `<?xml version="1.0"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>`
		row    = `<row><c t="inlineStr"><is><t>Tern</t></is></c><c><v>12</v></c></row>`
		shared = `<sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">`
		end    = `</sheetData></worksheet>`
	)
	with := func(more map[string]again) []byte {
		parts := map[string]again{"[Content_Types].xml": {head: kinds}, "_rels/.rels": {head: rels}, "xl/workbook.xml": {head: book},
			"xl/_rels/workbook.xml.rels": {head: bookRels}, "xl/worksheets/sheet1.xml": {sheet, row, end, 3}}
		for name, x := range more {
			parts[name] = x
		}
		return packed(t, parts)
	}
	zeros := func(size int) again { return again{part: strings.Repeat("\x00", 1<<10), times: size >> 10} }
	for name, x := range map[string]struct {
		more map[string]again
		rows int
		code string
	}{
		"as it should be":     {nil, 3, ""},
		"many rows":           {map[string]again{"xl/worksheets/sheet1.xml": {sheet, row, end, 100_000}}, 100_000, ""},
		"a large picture":     {map[string]again{"xl/media/image1.png": zeros(100 << 20)}, 3, ""},
		"a large drawing":     {map[string]again{"xl/drawings/drawing1.xml": zeros(50 << 20)}, 3, ""},
		"a large pivot":       {map[string]again{"xl/pivotCache/pivotCacheRecords1.xml": zeros(100 << 20)}, 3, ""},
		"large styles":        {map[string]again{"xl/styles.xml": zeros(100 << 20)}, 0, "intake-file-unfolds"},
		"a large part":        {map[string]again{"xl/worksheets/other.xml": zeros(20 << 20)}, 0, "intake-file-unfolds"},
		"much shared":         {map[string]again{"xl/sharedStrings.xml": {shared, "<si><t>x</t></si>", "</sst>", 400_000}}, 3, ""},
		"much shared, and in": {map[string]again{"xl/sharedStrings.xml": {shared, "<si/>", "</sst>", 150_000}}, 3, ""},
	} {
		raw := with(x.more)
		rows, most, err := memoryOf(t, file("x.xlsx", raw))
		t.Logf("%s: %d kB takes %d MB", name, len(raw)>>10, most>>20)
		assert.Less(t, most, uint64(120<<20), name)
		var told *words.Problem
		if x.code != "" && assert.ErrorAs(t, err, &told, name) {
			assert.Equal(t, x.code, told.Code, name)
		} else if x.code == "" {
			require.NoError(t, err, name)
			assert.Equal(t, x.rows, rows, name)
		}
	}
	// what a part says of its size is not believed
	lie := with(map[string]again{"xl/styles.xml": zeros(100 << 20)})
	at := bytes.LastIndex(lie, []byte("xl/styles.xml")) - 46
	require.Positive(t, at)
	copy(lie[at+24:], []byte{10, 0, 0, 0})
	_, most, err := memoryOf(t, file("x.xlsx", lie))
	var told *words.Problem
	require.ErrorAs(t, err, &told)
	assert.Less(t, most, uint64(20<<20))
}
