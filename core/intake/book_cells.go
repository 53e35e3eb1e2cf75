package intake

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"
)

// look is what the file says of a cell beside its value: its type (s, str, inlineStr, b, e, d, or n for numbers) and its style.
type look struct {
	kind  string
	style int
}

// looks goes through the cells of a sheet as the file has them.
type looks struct {
	part  io.ReadCloser
	d     *xml.Decoder
	ahead int // the row that was read and not yet given, 0 for none
	cells []look
	over  bool
}

// parts of a workbook, as ECMA-376 has them.
type (
	bookPart struct {
		Properties struct {
			Date1904 string `xml:"date1904,attr"`
		} `xml:"workbookPr"`
		Sheets []struct {
			Name string `xml:"name,attr"`
			ID   string `xml:"http://schemas.openxmlformats.org/officeDocument/2006/relationships id,attr"`
		} `xml:"sheets>sheet"`
	}
	relations struct {
		All []struct {
			ID     string `xml:"Id,attr"`
			Target string `xml:"Target,attr"`
		} `xml:"Relationship"`
	}
	stylesPart struct {
		Formats []struct {
			ID   int    `xml:"numFmtId,attr"`
			Code string `xml:"formatCode,attr"`
		} `xml:"numFmts>numFmt"`
		Cells []struct {
			Format int `xml:"numFmtId,attr"`
		} `xml:"cellXfs>xf"`
	}
)

// openPart opens a part of a workbook, whose name is the same in small letters and in large ones; nil where it is not there.
func openPart(z *zip.Reader, name string) (io.ReadCloser, error) {
	for _, f := range z.File {
		if strings.EqualFold(strings.ReplaceAll(f.Name, "\\", "/"), name) {
			return f.Open()
		}
	}
	return nil, nil
}

// readPart reads a part of a workbook; one that is not there leaves everything as it is.
func readPart(z *zip.Reader, name string, into any) error {
	part, err := openPart(z, name)
	if err != nil || part == nil {
		return err
	}
	return errors.Join(xml.NewDecoder(part).Decode(into), part.Close())
}

// readBook finds in which parts the sheets are, and from when days are counted.
func (b *bookFile) readBook(z *zip.Reader) error {
	var book bookPart
	var rels relations
	if err := errors.Join(readPart(z, "xl/workbook.xml", &book), readPart(z, "xl/_rels/workbook.xml.rels", &rels)); err != nil {
		return err
	}
	b.since = 1900
	if is := book.Properties.Date1904; is == "1" || is == "true" {
		b.since = 1904
	}
	b.parts = map[string]string{}
	for _, s := range book.Sheets {
		for _, r := range rels.All {
			if r.ID != s.ID {
				continue
			}
			target := path.Join("xl", r.Target)
			if strings.HasPrefix(r.Target, "/") {
				target = strings.TrimPrefix(r.Target, "/")
			}
			b.parts[s.Name] = target
		}
	}
	return nil
}

func readStyles(z *zip.Reader) ([]cellFormat, error) {
	var styles stylesPart
	if err := readPart(z, "xl/styles.xml", &styles); err != nil {
		return nil, err
	}
	codes := map[int]string{}
	for _, f := range styles.Formats {
		codes[f.ID] = f.Code
	}
	out := make([]cellFormat, len(styles.Cells))
	for i, c := range styles.Cells {
		if code, own := codes[c.Format]; own {
			out[i] = formatOf(code)
		} else {
			out[i] = builtIn(c.Format)
		}
	}
	return out, nil
}

// looks begins to go through the cells of a sheet; of one whose part is not found nothing is known.
func (b *bookFile) looks(sheet string) (*looks, error) {
	z, err := zip.NewReader(bytes.NewReader(b.raw), int64(len(b.raw)))
	if err != nil {
		return nil, err
	}
	part, err := openPart(z, b.parts[sheet])
	if err != nil {
		return nil, err
	}
	if part == nil { // a sheet that holds no cells, such as one of a chart
		return &looks{over: true}, nil
	}
	return &looks{part: part, d: xml.NewDecoder(part)}, nil
}

func (l *looks) close() error {
	if l.part == nil {
		return nil
	}
	return l.part.Close()
}

// row gives the looks of the cells of a row; rows are asked for in their order.
func (l *looks) row(n int) ([]look, error) {
	for !l.over && l.ahead < n {
		if err := l.next(); err != nil {
			return nil, err
		}
	}
	if l.ahead != n {
		return nil, nil
	}
	return l.cells, nil
}

// next reads the next row.
func (l *looks) next() error {
	before := l.ahead
	for {
		t, err := l.d.RawToken()
		if errors.Is(err, io.EOF) {
			l.over = true
			return nil
		}
		if err != nil {
			return fmt.Errorf("read cells: %w", err)
		}
		switch t := t.(type) {
		case xml.StartElement:
			switch t.Name.Local {
			case "row":
				l.cells, l.ahead = l.cells[:0], before+1
				if n, err := strconv.Atoi(attribute(t, "r")); err == nil && n > before {
					l.ahead = n
				}
			case "c":
				l.cell(t)
			}
		case xml.EndElement:
			switch t.Name.Local {
			case "row":
				return nil
			case "sheetData":
				l.over = true
				return nil
			}
		}
	}
}

func (l *looks) cell(t xml.StartElement) {
	at := len(l.cells)
	if ref := attribute(t, "r"); ref != "" {
		if column, _, err := excelize.CellNameToCoordinates(ref); err == nil && column > at {
			at = column - 1
		}
	}
	for len(l.cells) < at {
		l.cells = append(l.cells, look{})
	}
	style, err := strconv.Atoi(attribute(t, "s"))
	if err != nil {
		style = 0
	}
	kind := attribute(t, "t")
	if kind == "" {
		kind = "n"
	}
	l.cells = append(l.cells, look{kind, style})
}

func attribute(t xml.StartElement, name string) string {
	for _, a := range t.Attr {
		if a.Name.Local == name && a.Name.Space == "" {
			return a.Value
		}
	}
	return ""
}
