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

// deepest is how far values of JSON may stand inside of each other.
const deepest = 100

// jsonSheets reads a list of objects, or an object of such lists. It goes through the
// file from its begin to its end, and holds one object of it at a time.
func jsonSheets(f File, open func() (io.ReadCloser, error)) ([]*Sheet, error) {
	if f.Size > MaxBook {
		return nil, words.New("intake-file-large-json", "file", f.Name)
	}
	var out []*Sheet
	err := jsonLists(f.Name, open, func(name string, d *jsonReader) error {
		if slices.ContainsFunc(out, func(s *Sheet) bool { return s.list == name }) {
			return d.over(1)
		}
		header, err := d.header()
		if err != nil {
			return err
		}
		if len(header) == 0 {
			return nil
		}
		s := &Sheet{File: f.Name, Name: sheetName(f.Name), list: name, Header: header, Notes: []string{words.Say("intake-json", nil)}}
		if name != "" {
			s.Name = sheetName(name + ".x")
		}
		s.rows = func(use func([]string) error) error { return jsonRows(f.Name, open, name, header, use) }
		out = append(out, s)
		return nil
	})
	if err != nil {
		return nil, err
	}
	if len(out) == 0 {
		return nil, words.New("intake-file-json-no-list", "file", f.Name)
	}
	slices.SortFunc(out, func(a, b *Sheet) int { return strings.Compare(a.list, b.list) })
	return out, nil
}

// jsonRows gives the objects of a list as rows.
func jsonRows(file string, open func() (io.ReadCloser, error), list string, header []string, use func([]string) error) error {
	at := map[string]int{}
	for i, key := range header {
		at[key] = i
	}
	found := false
	return jsonLists(file, open, func(name string, d *jsonReader) error {
		if name != list || found {
			return d.over(1)
		}
		found = true
		for d.More() {
			var object map[string]json.RawMessage
			if err := d.Decode(&object); err != nil {
				return d.wrong(err)
			}
			cells := make([]string, len(header))
			for key, v := range object {
				if i, ok := at[key]; ok {
					cells[i] = jsonText(v)
				}
			}
			if err := use(cells); err != nil {
				return err
			}
		}
		_, err := d.next()
		return err
	})
}

// jsonLists goes through the lists of a file: the file itself, with the name "", or those
// of its object. What looks at one has to read it to its end.
func jsonLists(file string, open func() (io.ReadCloser, error), look func(name string, d *jsonReader) error) (err error) {
	r, err := open()
	if err != nil {
		return err
	}
	defer func() { _ = r.Close() }() // it was only read
	in := bufio.NewReader(r)
	if mark, err := in.Peek(3); err == nil && bytes.Equal(mark, []byte("\ufeff")) {
		if _, err := in.Discard(len(mark)); err != nil {
			return fmt.Errorf("read %s: %w", file, err)
		}
	}
	d := &jsonReader{json.NewDecoder(in), file, ""}
	d.UseNumber()
	first, err := d.next()
	if err != nil || first == json.Delim('[') {
		if err == nil {
			err = look("", d)
		}
		if err == nil {
			err = d.end()
		}
		return err
	}
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
			err = look(name, d)
		case value == json.Delim('{'):
			err = d.over(1)
		}
		if err != nil {
			return err
		}
	}
	if _, err = d.next(); err != nil {
		return err
	}
	return d.end()
}

// jsonReader reads JSON token by token.
type jsonReader struct {
	*json.Decoder
	file, list string
}

func (d *jsonReader) next() (json.Token, error) {
	t, err := d.Token()
	if err != nil {
		err = d.wrong(err)
	}
	return t, err
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

// header lists the keys of the objects of the list that was just opened, as they come,
// and reads the list to its end.
func (d *jsonReader) header() ([]string, error) {
	var out []string
	known := map[string]bool{}
	for {
		t, err := d.next()
		if err != nil {
			return nil, err
		}
		switch t {
		case json.Delim(']'):
			return out, nil
		case json.Delim('{'):
		default:
			return nil, words.New("intake-file-json-list", "list", d.called(), "file", d.file, "error", "it holds what is no object")
		}
		for d.More() {
			key, err := d.next()
			if err != nil {
				return nil, err
			}
			name, _ := key.(string)
			if !known[name] {
				known[name] = true
				out = append(out, name)
			}
			if len(out) > MaxColumns {
				return nil, words.New("intake-file-columns", "sheet", d.called(), "count", len(out), "most", MaxColumns)
			}
			value, err := d.next()
			if err == nil && (value == json.Delim('{') || value == json.Delim('[')) {
				err = d.over(1)
			}
			if err != nil {
				return nil, err
			}
		}
		if _, err := d.next(); err != nil { // the end of the object
			return nil, err
		}
	}
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
		return t
	}
	return ""
}
