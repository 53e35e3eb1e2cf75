package intake

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"

	"pinegate/core/words"
)

// jsonSheets reads a list of objects, or an object of such lists.
func jsonSheets(f File, open func() (io.ReadCloser, error)) ([]*Sheet, error) {
	if f.Size > MaxBook {
		return nil, words.New("intake-file-large-json", "file", f.Name)
	}
	r, err := open()
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Close() }() // it was only read
	raw, err := io.ReadAll(r)
	if err != nil {
		return nil, fmt.Errorf("read %s: %w", f.Name, err)
	}
	raw = bytes.TrimPrefix(bytes.TrimSpace(raw), []byte("\ufeff"))
	lists := map[string]json.RawMessage{}
	if bytes.HasPrefix(raw, []byte("[")) {
		lists[sheetName(f.Name)] = raw
	} else if err := json.Unmarshal(raw, &lists); err != nil {
		return nil, words.New("intake-file-broken-json", "file", f.Name, "error", err.Error())
	}
	var names []string
	for name := range lists {
		names = append(names, name)
	}
	slices.Sort(names)
	var out []*Sheet
	for _, name := range names {
		s, err := jsonSheet(f.Name, name, lists[name])
		if err != nil {
			return nil, err
		}
		if s != nil {
			out = append(out, s)
		}
	}
	if len(out) == 0 {
		return nil, words.New("intake-file-json-no-list", "file", f.Name)
	}
	return out, nil
}

func jsonSheet(file, name string, raw json.RawMessage) (*Sheet, error) {
	if !bytes.HasPrefix(bytes.TrimSpace(raw), []byte("[")) {
		return nil, nil
	}
	var objects []map[string]json.RawMessage
	if err := json.Unmarshal(raw, &objects); err != nil {
		return nil, words.New("intake-file-json-list", "list", name, "file", file, "error", err.Error())
	}
	s := &Sheet{File: file, Name: sheetName(name + ".x"), Notes: []string{words.Say("intake-json", nil)}}
	at := map[string]int{}
	for _, key := range keysInOrder(raw) {
		if _, known := at[key]; !known {
			at[key] = len(s.Header)
			s.Header = append(s.Header, key)
		}
	}
	s.rows = func(use func([]string) error) error {
		for _, o := range objects {
			cells := make([]string, len(s.Header))
			for key, v := range o {
				if i, ok := at[key]; ok {
					cells[i] = jsonText(v)
				}
			}
			if err := use(cells); err != nil {
				return err
			}
		}
		return nil
	}
	if len(s.Header) == 0 {
		return nil, nil
	}
	return s, nil
}

// keysInOrder lists the keys of the objects of a list as they come.
func keysInOrder(raw json.RawMessage) []string {
	d := json.NewDecoder(bytes.NewReader(raw))
	var out []string
	depth := 0
	key := false
	for {
		t, err := d.Token()
		if err != nil {
			return out
		}
		switch t := t.(type) {
		case json.Delim:
			if t == '{' || t == '[' {
				depth++
				key = t == '{'
			} else {
				depth--
				key = depth == 2
			}
			continue
		case string:
			if key && depth == 2 {
				out = append(out, t)
				key = false
				continue
			}
		}
		key = depth == 2
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
