package intake

import (
	"bufio"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"pinegate/core/words"
)

// deepest is how far values of JSON may stand inside of each other, deepList how far inside of objects a list is found, and
// mostLists how many a file may hold: each is read on its own.
const (
	deepest   = 100
	deepList  = 4
	mostLists = 100
)

// jsonSheets reads a list of objects, lists that stand in an object, or an object on each line. It goes through the file from
// its begin to its end, and holds one object of it at a time.
func jsonSheets(f File, open func() (io.ReadCloser, error)) ([]*Sheet, error) {
	if f.Size > MaxBook {
		return nil, words.New("intake-file-large-json", "file", f.Name)
	}
	var tables []*jsonTable
	all := 0
	err := jsonLists(f.Name, open, func(path string, d *jsonReader) error {
		if slices.ContainsFunc(tables, func(t *jsonTable) bool { return t.list == path }) {
			return d.over(1)
		}
		t, err := d.table(path)
		if err == nil && len(t.keys) > 0 {
			tables = append(tables, t)
			all += t.count()
		}
		if all > mostLists {
			return words.New("intake-file-lists", "file", f.Name, "most", mostLists)
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	if len(tables) == 0 {
		return nil, words.New("intake-file-json-no-list", "file", f.Name)
	}
	slices.SortFunc(tables, func(a, b *jsonTable) int { return strings.Compare(a.list, b.list) })
	var out []*Sheet
	taken := map[string]bool{}
	for _, t := range tables {
		name := sheetName(f.Name)
		if t.list != "" {
			_, last, _ := cutLast(t.list)
			name = sheetName(last + ".x")
		}
		sheets, err := t.sheets(f.Name, name, open, taken)
		if err != nil {
			return nil, err
		}
		out = append(out, sheets...)
	}
	return out, nil
}

// within parts the keys of values that stand inside of each other, and itself is the key of what is no object: no key of JSON
// has bytes that are no text.
const (
	within = "\xff"
	itself = "\xff\xff"
)

func cutLast(path string) (before, last string, found bool) {
	if i := strings.LastIndex(path, within); i >= 0 {
		return path[:i], path[i+len(within):], true
	}
	return "", path, false
}

// fill puts the values of an object, and of objects within, into cells.
func fill(cells []string, at map[string]int, path string, raw json.RawMessage) error {
	if !bytes.HasPrefix(bytes.TrimSpace(raw), []byte("{")) {
		if path == "" {
			path = itself
		}
		if i, ok := at[path]; ok {
			cells[i] = jsonText(raw)
		}
		return nil
	}
	var object map[string]json.RawMessage
	if err := json.Unmarshal(raw, &object); err != nil {
		return err
	}
	for key, v := range object {
		if err := fill(cells, at, joined(path, key), v); err != nil {
			return err
		}
	}
	return nil
}

func joined(path, key string) string {
	if path == "" {
		return key
	}
	return path + within + key
}

// jsonLists goes through the lists of a file: the file itself, with the path "", or those of its objects. What looks at one has
// to read it to its end.
func jsonLists(file string, open func() (io.ReadCloser, error), look func(path string, d *jsonReader) error) (err error) {
	lines, err := jsonLines(file, open)
	if err != nil {
		return err
	}
	d, done, err := jsonOpen(file, open)
	if err != nil {
		return err
	}
	defer done()
	if lines {
		d.lines = true
		return look("", d)
	}
	first, err := d.next()
	if err != nil {
		return err
	}
	if first == json.Delim('[') {
		err = look("", d)
	} else {
		err = d.lists("", 1, look)
	}
	if err != nil {
		return err
	}
	return d.end()
}

// lists goes through the lists of the object that was just opened.
func (d *jsonReader) lists(path string, depth int, look func(path string, d *jsonReader) error) error {
	for d.More() {
		key, err := d.next()
		if err != nil {
			return err
		}
		name, _ := key.(string)
		value, err := d.next()
		switch {
		case err != nil:
			return err
		case value == json.Delim('['):
			d.list = name
			err = look(joined(path, name), d)
		case value == json.Delim('{') && depth < deepList:
			err = d.lists(joined(path, name), depth+1, look)
		case value == json.Delim('{'):
			err = d.over(1)
		}
		if err != nil {
			return err
		}
	}
	_, err := d.next()
	return err
}

func jsonOpen(file string, open func() (io.ReadCloser, error)) (*jsonReader, func(), error) {
	r, err := open()
	if err != nil {
		return nil, nil, err
	}
	in := bufio.NewReader(r)
	if mark, err := in.Peek(3); err == nil && bytes.Equal(mark, []byte("\ufeff")) {
		if _, err := in.Discard(len(mark)); err != nil {
			return nil, nil, errors.Join(fmt.Errorf("read %s: %w", file, err), r.Close())
		}
	}
	d := &jsonReader{Decoder: json.NewDecoder(in), file: file}
	d.UseNumber()
	return d, func() { _ = r.Close() }, nil // it was only read
}

// jsonLines tells whether a file holds an object on each line, and no list around them.
func jsonLines(file string, open func() (io.ReadCloser, error)) (bool, error) {
	d, done, err := jsonOpen(file, open)
	if err != nil {
		return false, err
	}
	defer done()
	first, err := d.next()
	if err != nil || first != json.Delim('{') {
		return false, err
	}
	if err := d.over(1); err != nil {
		return false, err
	}
	next, err := d.Token()
	if errors.Is(err, io.EOF) {
		return false, nil
	}
	if err != nil {
		return false, d.wrong(err)
	}
	return next == json.Delim('{'), nil
}

// jsonReader reads JSON token by token.
type jsonReader struct {
	*json.Decoder
	file, list string
	lines      bool // the file is the list, without what opens and closes it
}

func (d *jsonReader) next() (json.Token, error) {
	t, err := d.Token()
	if err != nil {
		err = d.wrong(err)
	}
	return t, err
}

// closed reads the end of a list.
func (d *jsonReader) closed() error {
	if d.lines {
		return d.end()
	}
	_, err := d.next()
	return err
}

// wrong says what is wrong with the file.
func (d *jsonReader) wrong(err error) error {
	var syntax *json.SyntaxError
	var kind *json.UnmarshalTypeError
	switch {
	case errors.As(err, &kind):
		return words.New("intake-file-json-list", "list", d.called(), "file", d.file, "error", err.Error())
	case errors.As(err, &syntax), errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		return broken("intake-file-broken-json", d.file, err)
	}
	return fmt.Errorf("read %s: %w", d.file, err)
}

// end holds that nothing comes any more: what is behind would be lost unseen.
func (d *jsonReader) end() error {
	_, err := d.Token()
	if errors.Is(err, io.EOF) {
		return nil
	}
	if err != nil {
		return d.wrong(err)
	}
	return words.New("intake-file-broken-json", "file", d.file, "error", "there is more behind its end")
}

func (d *jsonReader) called() string {
	if d.list == "" {
		return sheetName(d.file)
	}
	return d.list
}

// over goes on until so many lists and objects are closed.
func (d *jsonReader) over(depth int) error {
	for depth > 0 {
		t, err := d.next()
		if err != nil {
			return err
		}
		switch t {
		case json.Delim('{'), json.Delim('['):
			depth++
		case json.Delim('}'), json.Delim(']'):
			depth--
		}
		if depth > deepest {
			return words.New("intake-file-json-deep", "file", d.file)
		}
	}
	return nil
}

// jsonText gives a value as a cell: texts as they are, lists parted by commas.
func jsonText(raw json.RawMessage) string {
	var s string
	if json.Unmarshal(raw, &s) == nil {
		return s
	}
	var list []json.RawMessage
	if json.Unmarshal(raw, &list) == nil && bytes.HasPrefix(bytes.TrimSpace(raw), []byte("[")) {
		parts := make([]string, len(list))
		for i, x := range list {
			parts[i] = jsonText(x)
		}
		return strings.Join(parts, ", ")
	}
	if t := string(bytes.TrimSpace(raw)); t != "null" {
		return jsonNumber(t)
	}
	return ""
}

// jsonNumber writes a number so that its point cannot be taken to part thousands.
func jsonNumber(t string) string {
	if _, fraction, has := strings.Cut(t, "."); has && len(fraction) == 3 && allDigits(fraction) {
		return t + "0"
	}
	return t
}
