package intake

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"

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
	open := func() (*excelize.File, error) {
		b, err := excelize.OpenReader(bytes.NewReader(raw), excelize.Options{ShortDatePattern: "yyyy-mm-dd", UnzipSizeLimit: mostUnpacked,
			UnzipXMLSizeLimit: paged})
		if err != nil {
			return nil, brokenBook(f.Name, err)
		}
		return b, nil
	}
	b, err := open()
	if err != nil {
		return nil, err
	}
	names := b.GetSheetList()
	if err := b.Close(); err != nil {
		return nil, fmt.Errorf("close %s: %w", f.Name, err)
	}
	var out []*Sheet
	for _, name := range names {
		s := &Sheet{File: f.Name, Name: sheetName(name + ".x"), Notes: []string{words.Say("intake-sheet", words.Args{"sheet": name})}}
		s.rows = func(use func([]string) error) (err error) {
			b, err := open()
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, b.Close()) }()
			return bookRows(b, f.Name, name, use)
		}
		found, err := headed(s)
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

// bookRows reads dates as they are shown, and all else as it is kept, so that
// no digits are lost.
func bookRows(b *excelize.File, file, sheet string, use func([]string) error) error {
	shown, err := b.Rows(sheet)
	if err != nil {
		return brokenBook(file, err)
	}
	kept, err := b.Rows(sheet)
	if err != nil {
		return brokenBook(file, err)
	}
	for shown.Next() && kept.Next() {
		cells, err := shown.Columns()
		if err != nil {
			return brokenBook(file, err)
		}
		raw, err := kept.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return brokenBook(file, err)
		}
		for i := range cells {
			if i < len(raw) && dateOrders(cells[i]) == 0 && !stampPattern.MatchString(cells[i]) && !strings.HasSuffix(cells[i], "%") {
				if _, ok := parseNumber(raw[i], '.'); ok && !strings.ContainsAny(cells[i], "€$£¥") {
					cells[i] = raw[i]
				}
			}
		}
		if err := use(cells); err != nil {
			return err
		}
	}
	if err := errors.Join(shown.Error(), kept.Error()); err != nil {
		return brokenBook(file, err)
	}
	return errors.Join(shown.Close(), kept.Close())
}

// brokenBook says that a workbook is none, or one that breaks the rules for them.
func brokenBook(file string, err error) *words.Problem {
	return words.New("intake-file-broken-book", "file", file, "error", err.Error())
}
