package intake

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"pinegate/core/words"
)

// text reads a file of separated values, or of JSON.
func text(f File, head []byte) ([]*Sheet, error) {
	enc, name, err := encodingOf(f, head)
	if err != nil {
		return nil, err
	}
	open := func() (io.ReadCloser, error) {
		r, err := f.Open()
		if err != nil {
			return nil, fmt.Errorf("open %s: %w", f.Name, err)
		}
		return struct {
			io.Reader
			io.Closer
		}{enc.NewDecoder().Reader(r), r}, nil
	}
	decoded, err := enc.NewDecoder().Bytes(head)
	if err != nil {
		return nil, words.New("intake-file-encoding", "file", f.Name, "encoding", name)
	}
	start := strings.TrimSpace(strings.TrimPrefix(string(decoded), "\ufeff"))
	if strings.HasPrefix(start, "[") || strings.HasPrefix(start, "{") {
		return jsonSheets(f, open)
	}
	return separated(f, open, string(decoded), name)
}

// encodingOf finds how the characters of a file are written: by its mark, or by
// whether all of it is UTF-8.
func encodingOf(f File, head []byte) (encoding.Encoding, string, error) {
	switch {
	case bytes.HasPrefix(head, []byte{0xef, 0xbb, 0xbf}):
		return unicode.UTF8BOM, "UTF-8", nil
	case bytes.HasPrefix(head, []byte{0xff, 0xfe}), bytes.HasPrefix(head, []byte{0xfe, 0xff}):
		return unicode.UTF16(unicode.LittleEndian, unicode.UseBOM), "UTF-16", nil
	}
	if odd, even := zeros(head, 1), zeros(head, 0); odd+even > 0 {
		switch {
		case odd > len(head)/4 && even == 0:
			return unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM), "UTF-16", nil
		case even > len(head)/4 && odd == 0:
			return unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM), "UTF-16", nil
		}
		return nil, "", words.New("intake-file-kind", "file", f.Name)
	}
	ok, err := isUTF8(f)
	if err != nil || ok {
		return unicode.UTF8, "UTF-8", err
	}
	return charmap.Windows1252, "Windows-1252", nil
}

func zeros(b []byte, from int) int {
	n := 0
	for i := from; i < len(b); i += 2 {
		if b[i] == 0 {
			n++
		}
	}
	return n
}

func isUTF8(f File) (bool, error) {
	r, err := f.Open()
	if err != nil {
		return false, fmt.Errorf("open %s: %w", f.Name, err)
	}
	defer func() { _ = r.Close() }() // it was only read
	buffer := make([]byte, 1<<20)
	kept := 0
	for {
		n, err := r.Read(buffer[kept:])
		n += kept
		whole := n
		for i := 1; i < utf8.UTFMax && i <= n && err == nil; i++ { // a character may be cut off by the buffer
			if utf8.RuneStart(buffer[n-i]) {
				if !utf8.FullRune(buffer[n-i : n]) {
					whole = n - i
				}
				break
			}
		}
		if !utf8.Valid(buffer[:whole]) {
			return false, nil
		}
		kept = copy(buffer, buffer[whole:n])
		if errors.Is(err, io.EOF) {
			return true, nil
		}
		if err != nil {
			return false, fmt.Errorf("read %s: %w", f.Name, err)
		}
	}
}

var separators = map[rune]string{',': "commas", ';': "semicolons", '\t': "tabs", '|': "bars"}

// separated reads values parted by the separator that fits the first lines
// best.
func separated(f File, open func() (io.ReadCloser, error), start, encodingName string) ([]*Sheet, error) {
	comma, said := saidSeparator(start)
	if !said {
		comma = separatorOf(start)
	}
	g := &grid{file: f.Name, name: sheetName(f.Name)}
	g.rows = func(use func([]string) error) error {
		r, err := open()
		if err != nil {
			return err
		}
		defer func() { _ = r.Close() }() // it was only read
		end := &ending{from: r}
		c := csv.NewReader(bufio.NewReaderSize(end, 1<<16))
		last, line := "", 0   // the last value, and where it begins
		skip, next := said, 0 // next is the line that is to follow
		c.Comma, c.FieldsPerRecord, c.ReuseRecord, c.LazyQuotes = comma, -1, true, true
		for {
			cells, err := c.Read()
			if errors.Is(err, io.EOF) {
				if strings.Contains(last, "\n") && end.last != '"' {
					return words.New("intake-file-quote", "line", line, "file", f.Name)
				}
				return nil
			}
			if err != nil {
				return broken("intake-file-broken", f.Name, err)
			}
			begin := lineOf(c)
			for ; next > 0 && next < begin; next++ { // lines without anything, which the reader leaves out
				if err := use(nil); err != nil {
					return err
				}
			}
			last = cells[len(cells)-1]
			line, _ = c.FieldPos(len(cells) - 1)
			next = line + strings.Count(last, "\n") + 1
			if skip {
				skip, cells = false, nil
			}
			for _, x := range cells {
				if len(x) > maxCell {
					return words.New("intake-file-long-value", "line", lineOf(c), "file", f.Name)
				}
			}
			if err := use(cells); err != nil {
				return err
			}
		}
	}
	separator, known := separators[comma]
	if !known {
		separator = string(comma)
	}
	g.notes = []string{words.Say("intake-format", words.Args{"encoding": encodingName, "separator": separator})}
	return g.tables()
}

// saidSeparator reads a first line that says what parts the values.
func saidSeparator(start string) (rune, bool) {
	line, _, _ := strings.Cut(strings.TrimPrefix(start, "\ufeff"), "\n")
	line = strings.TrimRight(line, "\r")
	if len(line) < 4 || !strings.EqualFold(line[:4], "sep=") {
		return 0, false
	}
	comma, size := utf8.DecodeRuneInString(line[4:])
	return comma, size > 0 && 4+size == len(line) && comma != '"' && comma != utf8.RuneError && comma != '\r'
}

// ending remembers the last character that is no space of what was read.
type ending struct {
	from io.Reader
	last byte
}

func (e *ending) Read(into []byte) (int, error) {
	n, err := e.from.Read(into)
	if end := bytes.TrimRight(into[:n], " \t\r\n"); len(end) > 0 {
		e.last = end[len(end)-1]
	}
	return n, err
}

func lineOf(c *csv.Reader) int {
	line, _ := c.FieldPos(0)
	return line
}

// separatorOf finds the separator by which the first lines have the same number
// of values, more than one.
func separatorOf(start string) rune {
	if i := strings.LastIndexByte(start, '\n'); i > 0 && len(start) > headSize/2 {
		start = start[:i] // the last line may be cut off
	}
	best, bestScore := ',', -1
	for _, comma := range []rune{',', ';', '\t', '|'} {
		c := csv.NewReader(strings.NewReader(start))
		c.Comma, c.FieldsPerRecord, c.LazyQuotes = comma, -1, true
		counts := map[int]int{}
		for range 50 {
			cells, err := c.Read()
			if err != nil {
				break
			}
			counts[len(cells)]++
		}
		score := 0
		for width, n := range counts {
			if width > 1 {
				score = max(score, n*100+width)
			}
		}
		if score > bestScore {
			best, bestScore = comma, score
		}
	}
	return best
}
