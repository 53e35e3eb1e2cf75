package intake

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"

	"github.com/xuri/excelize/v2"

	"pinegate/core/words"
)

// workbook reads the sheets of a workbook.
func workbook(f File) ([]*Sheet, error) {
	if f.Size > MaxBook {
		return nil, words.New("intake-file-large-book", "file", f.Name)
	}
	r, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", f.Name, err)
	}
	raw, err := io.ReadAll(io.LimitReader(r, MaxBook+1))
	if err = errors.Join(err, r.Close()); err != nil {
		return nil, fmt.Errorf("read %s: %w", f.Name, err)
	}
	if raw, err = unpackable(f.Name, raw); err != nil {
		return nil, err
	}
	b := &bookFile{name: f.Name, raw: raw}
	names, err := b.sheets()
	if err != nil {
		return nil, err
	}
	var out []*Sheet
	for _, name := range names {
		g := &grid{file: f.Name, name: sheetName(name + ".x"), notes: []string{words.Say("intake-sheet", words.Args{"sheet": name})}}
		g.rows = func(use func([]string) error) error { return b.rows(name, use) }
		found, err := g.tables()
		if err != nil {
			return nil, err
		}
		out = append(out, found...)
	}
	if len(out) == 0 {
		return nil, words.New("intake-file-empty-book", "file", f.Name)
	}
	return out, nil
}

// bookFile is a workbook, with what says how its cells are shown.
type bookFile struct {
	name   string
	raw    []byte
	styles []cellFormat      // by the index that cells have
	parts  map[string]string // of sheets, by their names
	since  int               // year from which days are counted: 1900, or 1904
}

// sheets reads what is needed of all sheets, and gives their names.
func (b *bookFile) sheets() ([]string, error) {
	x, err := b.open()
	if err != nil {
		return nil, err
	}
	names := x.GetSheetList()
	if err := x.Close(); err != nil {
		return nil, fmt.Errorf("close %s: %w", b.name, err)
	}
	z, err := zip.NewReader(bytes.NewReader(b.raw), int64(len(b.raw)))
	if err != nil {
		return nil, brokenBook(b.name, err)
	}
	if err := b.readBook(z); err != nil {
		return nil, brokenBook(b.name, err)
	}
	if b.styles, err = readStyles(z); err != nil {
		return nil, brokenBook(b.name, err)
	}
	return names, nil
}

func (b *bookFile) open() (*excelize.File, error) {
	x, err := excelize.OpenReader(bytes.NewReader(b.raw), excelize.Options{UnzipSizeLimit: mostUnpacked, UnzipXMLSizeLimit: paged})
	if err != nil {
		return nil, brokenBook(b.name, err)
	}
	return x, nil
}

// rows reads a sheet: what stands in its cells, and beside it what kind each cell is of and how it is shown.
func (b *bookFile) rows(sheet string, use func([]string) error) (err error) {
	x, err := b.open()
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, x.Close()) }()
	kept, err := x.Rows(sheet)
	if err != nil {
		return brokenBook(b.name, err)
	}
	looks, err := b.looks(sheet)
	if err != nil {
		return brokenBook(b.name, err)
	}
	defer func() { err = errors.Join(err, looks.close()) }()
	for n := 1; kept.Next(); n++ {
		cells, err := kept.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return brokenBook(b.name, err)
		}
		row, err := looks.row(n)
		if err != nil {
			return brokenBook(b.name, err)
		}
		for i := range cells {
			if i < len(row) && cells[i] != "" {
				cells[i] = b.text(cells[i], row[i])
			}
		}
		if err := use(cells); err != nil {
			return err
		}
	}
	if err := errors.Join(kept.Error(), kept.Close()); err != nil {
		return brokenBook(b.name, err)
	}
	return nil
}

// brokenBook says that a workbook is none, or one that breaks the rules for them.
func brokenBook(file string, err error) *words.Problem {
	return words.New("intake-file-broken-book", "file", file, "error", err.Error())
}
