// Package intake understands files that people bring: which tables they hold,
// what stands in their columns, and how the columns of one point to the rows of
// another. What it finds is a proposal; what is decided is carried out by
// others.
package intake

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"
	"unicode/utf8"

	"pinegate/core/words"
)

// Limits of what can be brought.
const (
	MaxFile    = 2 << 30 // bytes of a file of text
	MaxBook    = 64 << 20
	MaxColumns = 200
	maxCell    = 1 << 20
)

// File is a file that can be read again and again.
type File struct {
	Name string
	Size int64
	Open func() (io.ReadCloser, error)
}

// Sheet is a table in a file: a file of text can hold several, and so can each sheet of a workbook.
type Sheet struct {
	File   string
	Name   string
	Header []string
	// Notes tell how it was understood: encoding, separator, names of columns, what is left out.
	Notes       []string
	Names       Names        // what names the columns
	named       int          // how many rows do, above the first of the body
	first, last int          // rows of the body, counted from 1 as in the file
	left        map[int]bool // rows within that are left out
	columns     []int        // which of the cells of a row are read, by the header
	lists       map[int]bool // columns of which the file itself says that cells hold several values, by the header
	beside      bool         // others stand beside it
	rows        func(use func(cells []string) error) error
}

// Each gives the rows of the body, counted from 1 as in the file, with as many
// cells as the header has. Rows without anything in them are left out.
func (s *Sheet) Each(use func(n int, cells []string) error) error {
	n := 0
	err := s.rows(func(cells []string) error {
		if n++; n > s.last {
			return errEnough
		}
		if n < s.first || s.left[n] || blank(cells) {
			return nil
		}
		own := s.fit(cells)
		if s.beside && blank(own) {
			return nil
		}
		return use(n, own)
	})
	if errors.Is(err, errEnough) {
		return nil
	}
	return err
}

// errEnough ends the reading of a file of which enough was read.
var errEnough = errors.New("enough")

func blank(cells []string) bool {
	return !slices.ContainsFunc(cells, func(c string) bool { return strings.TrimSpace(c) != "" })
}

// fit gives the cells of the columns; what stands behind the last of them goes into it, so that nothing is lost unseen.
func (s *Sheet) fit(cells []string) []string {
	out := make([]string, len(s.columns))
	for i, at := range s.columns {
		if at < len(cells) {
			out[i] = cells[at]
		}
	}
	if n := len(out); n > 0 && !s.beside {
		if behind := s.columns[n-1] + 1; len(cells) > behind && !blank(cells[behind:]) {
			out[n-1] = strings.Join(cells[behind-1:], " ")
		}
	}
	return out
}

// Sheets finds the tables of a file. What kind of file it is is told by what
// stands in it, whatever its name says.
func Sheets(f File) ([]*Sheet, error) {
	if f.Size == 0 {
		return nil, words.New("intake-file-empty", "file", f.Name)
	}
	if f.Size > MaxFile {
		return nil, words.New("intake-file-large", "file", f.Name)
	}
	open := f.Open
	f.Open = func() (io.ReadCloser, error) {
		r, err := open()
		if err != nil {
			return nil, fmt.Errorf("open %s: %w", f.Name, err)
		}
		return source{r}, nil
	}
	head, err := headOf(f)
	if err != nil {
		return nil, err
	}
	var sheets []*Sheet
	switch {
	case bytes.HasPrefix(head, []byte("PK\x03\x04")):
		sheets, err = workbook(f)
	case bytes.HasPrefix(head, []byte("\xd0\xcf\x11\xe0")):
		return nil, words.New("intake-file-old-book", "file", f.Name)
	default:
		sheets, err = text(f, head)
	}
	if err != nil {
		return nil, err
	}
	for _, s := range sheets {
		if len(s.Header) > MaxColumns {
			return nil, words.New("intake-file-columns", "sheet", s.Name, "count", len(s.Header), "most", MaxColumns)
		}
		if note := lie(f.Name, head); note != "" {
			s.Notes = append([]string{note}, s.Notes...)
		}
	}
	return sheets, nil
}

// source tells what goes wrong where a file comes from apart from what is wrong in it,
// which whoever brings it can mend.
type source struct{ io.ReadCloser }

// away is what goes wrong where a file comes from.
type away struct{ error }

func (a away) Unwrap() error { return a.error }

func (s source) Read(into []byte) (int, error) {
	n, err := s.ReadCloser.Read(into)
	if err != nil && !errors.Is(err, io.EOF) {
		err = away{err}
	}
	return n, err
}

// broken says with a code what is wrong in a file, unless that is where it comes from.
func broken(code, file string, err error) error {
	if errors.As(err, &away{}) {
		return fmt.Errorf("read %s: %w", file, err)
	}
	return words.New(code, "file", file, "error", err.Error())
}

const headSize = 64 << 10

func headOf(f File) ([]byte, error) {
	r, err := f.Open()
	if err != nil {
		return nil, fmt.Errorf("open %s: %w", f.Name, err)
	}
	defer func() { _ = r.Close() }() // it was only read
	head := make([]byte, headSize)
	n, err := io.ReadFull(r, head)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		return nil, fmt.Errorf("read %s: %w", f.Name, err)
	}
	return head[:n], nil
}

// lie tells where the name of a file promises something else than it holds.
func lie(name string, head []byte) string {
	book := bytes.HasPrefix(head, []byte("PK\x03\x04"))
	switch ext := strings.ToLower(filepath.Ext(name)); {
	case (ext == ".xlsx" || ext == ".xlsm") && !book:
		return words.Say("intake-book-text", words.Args{"file": name})
	case (ext == ".csv" || ext == ".tsv" || ext == ".txt" || ext == ".json") && book:
		return words.Say("intake-text-book", words.Args{"file": name, "kind": ext})
	}
	return ""
}

// sheetName makes the name of a table from that of a file.
func sheetName(file string) string {
	base := filepath.Base(strings.ReplaceAll(file, "\\", "/"))
	base = strings.TrimSuffix(base, filepath.Ext(base))
	base = strings.TrimSpace(strings.NewReplacer("_", " ", "-", " ", "[", " ", "]", " ", "{", " ", "}", " ").Replace(base))
	if base == "" {
		return "Records"
	}
	r, size := utf8.DecodeRuneInString(base)
	return strings.ToUpper(string(r)) + base[size:]
}
