package intake

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"hash/maphash"
	"io"
	"slices"
	"strconv"
	"strings"

	"pinegate/core/words"
)

// jsonTable is a list of objects, or of plain values. Lists of objects within its objects are tables of their own, whose rows
// say within which object they stand.
type jsonTable struct {
	list     string // path in the file, of one that is in no other
	keys     []string
	known    map[string]bool
	under    *jsonTable
	at       string // path in the objects of the one that it is under
	within   []*jsonTable
	scalar   map[string]bool // paths of its objects at which values stand
	lists    map[string]bool // and at which lists of values do
	plain    bool            // not all that stands there are objects, so that it stays with the table it is under
	by       int             // of its keys, the one by which its objects are known; -1 for their number
	numbered bool            // its objects are counted, and have their number in a column
	header   string
}

// deepTables is how far lists of objects within each other become tables.
const deepTables = 4

func newJSONTable(list string) *jsonTable {
	return &jsonTable{list: list, known: map[string]bool{}, scalar: map[string]bool{}, lists: map[string]bool{}, by: -1}
}

func (t *jsonTable) add(key string) {
	if !t.known[key] {
		t.known[key] = true
		t.keys = append(t.keys, key)
	}
}

func (t *jsonTable) depth() int {
	n := 0
	for ; t.under != nil; t = t.under {
		n++
	}
	return n
}

// count is how many tables there are, with those within.
func (t *jsonTable) count() int {
	n := 1
	for _, w := range t.within {
		n += w.count()
	}
	return n
}

// inner gives the table within that stands at a path.
func (t *jsonTable) inner(path string) *jsonTable {
	for _, w := range t.within {
		if w.at == path {
			return w
		}
	}
	w := newJSONTable("")
	w.under, w.at = t, path
	t.within = append(t.within, w)
	return w
}

// table finds what stands in the list that was just opened, and reads it to its end: the keys of its objects and of the objects
// within, or [itself] for plain values. A list has either.
func (d *jsonReader) table(path string) (*jsonTable, error) {
	out := newJSONTable(path)
	objects, plain := false, false
	for d.More() {
		t, err := d.next()
		if err != nil {
			return nil, err
		}
		switch t {
		case json.Delim('{'):
			objects = true
			err = d.objectKeys("", 1, out)
		case json.Delim('['):
			err = words.New("intake-file-json-list", "list", d.called(), "file", d.file, "error", "it holds lists")
		default:
			plain = true
			out.add(itself)
		}
		if err == nil && objects && plain {
			err = words.New("intake-file-json-list", "list", d.called(), "file", d.file, "error", "some of it are no objects")
		}
		if err != nil {
			return nil, err
		}
	}
	out.settle()
	return out, d.closed()
}

// objectKeys reads the object that was just opened.
func (d *jsonReader) objectKeys(path string, depth int, out *jsonTable) error {
	for d.More() {
		key, err := d.next()
		if err != nil {
			return err
		}
		name, _ := key.(string)
		name = joined(path, name)
		value, err := d.next()
		switch {
		case err != nil:
		case value == json.Delim('{'):
			if depth > deepest {
				return words.New("intake-file-json-deep", "file", d.file)
			}
			err = d.objectKeys(name, depth+1, out)
		case value == json.Delim('['):
			out.add(name)
			err = d.listKeys(name, depth+1, out)
		default:
			if out.add(name); value != nil {
				out.scalar[name] = true
			}
		}
		if err != nil {
			return err
		}
		if len(out.keys) > MaxColumns {
			return words.New("intake-file-columns", "sheet", d.called(), "count", len(out.keys), "most", MaxColumns)
		}
	}
	_, err := d.next()
	return err
}

// listKeys reads the list within an object that was just opened.
func (d *jsonReader) listKeys(path string, depth int, out *jsonTable) error {
	if depth > deepest {
		return words.New("intake-file-json-deep", "file", d.file)
	}
	for d.More() {
		value, err := d.next()
		switch {
		case err != nil:
		case value == json.Delim('{') && out.depth() < deepTables:
			err = d.objectKeys("", depth+1, out.inner(path))
		case value == json.Delim('{'), value == json.Delim('['):
			out.inner(path).plain = true
			err = d.over(1)
		default:
			out.inner(path).plain, out.lists[path] = true, true
		}
		if err != nil {
			return err
		}
	}
	_, err := d.next()
	return err
}

// settle leaves with each table what is no table of its own.
func (t *jsonTable) settle() {
	t.within = slices.DeleteFunc(t.within, func(w *jsonTable) bool { return w.plain || t.scalar[w.at] || len(w.keys) == 0 })
	t.keys = slices.DeleteFunc(t.keys, func(key string) bool {
		return slices.ContainsFunc(t.within, func(w *jsonTable) bool { return w.at == key })
	})
	for _, w := range t.within {
		w.settle()
	}
}

// sheets gives a table, and those within, as sheets, each with a name of its own.
func (t *jsonTable) sheets(file, name string, open func() (io.ReadCloser, error), names map[string]bool) ([]*Sheet, error) {
	name = distinctName(name, names)
	if len(t.within) > 0 {
		if err := t.identify(file, open); err != nil {
			return nil, err
		}
	}
	s := &Sheet{File: file, Name: name, Names: NamesOwn, first: 1, last: 1 << 62, lists: map[int]bool{},
		Notes: []string{words.Say("intake-json", nil)}}
	taken := map[string]bool{}
	add := func(name string) string {
		if name = plainName(name); name == "" {
			name = fmt.Sprintf("Column %d", len(s.Header)+1)
		}
		name = distinctName(name, taken)
		s.Header, s.columns = append(s.Header, name), append(s.columns, len(s.columns))
		return name
	}
	if t.under != nil {
		add(t.under.header)
		s.Notes = append(s.Notes, words.Say("intake-json-within", words.Args{"column": t.under.header}))
	}
	if t.numbered {
		add("No")
	}
	var called []string
	for _, key := range t.keys {
		if s.lists[len(s.Header)] = t.lists[key]; key == itself {
			key = "Name"
		}
		called = append(called, add(strings.ReplaceAll(key, within, " ")))
	}
	switch t.header = name; {
	case t.by < 0:
		t.header += " no"
	case isKeyName(t.keys[t.by]):
		t.header += " " + called[t.by]
	}
	s.rows = func(use func([]string) error) error { return t.rows(file, open, use) }
	out := []*Sheet{s}
	for _, w := range t.within {
		_, last, _ := cutLast(w.at)
		inner, err := w.sheets(file, sheetName(last+".x"), open, names)
		if err != nil {
			return nil, err
		}
		out = append(out, inner...)
	}
	return out, nil
}

// identify finds by what the objects of a table are known to what stands within: by a key that is called so or comes first, and
// that each has for itself; else by their number.
func (t *jsonTable) identify(file string, open func() (io.ReadCloser, error)) error {
	seen := map[int]map[uint64]bool{}
	for i, key := range t.keys {
		if !strings.Contains(key, within) && (i == 0 || isKeyName(key)) {
			seen[i] = map[uint64]bool{}
		}
	}
	seed, shift := maphash.MakeSeed(), 0
	if t.under != nil {
		shift = 1
	}
	err := t.rows(file, open, func(cells []string) error {
		for i, values := range seen {
			h := hashOf(seed, fold(cells[i+shift]))
			if cells[i+shift] == "" || len(cells[i+shift]) > mostName || values[h] || len(values) > mostDistinct {
				delete(seen, i)
			} else {
				values[h] = true
			}
		}
		if len(seen) == 0 {
			return errEnough
		}
		return nil
	})
	if err != nil && !errors.Is(err, errEnough) {
		return err
	}
	for i := range t.keys {
		if seen[i] != nil {
			t.by = i
			return nil
		}
	}
	t.numbered = true
	return nil
}

// isKeyName tells whether a key is called as what things are known by.
func isKeyName(key string) bool {
	w := tokens(key)
	return len(w) > 0 && slices.Contains(keyWords, w[len(w)-1])
}

// rows gives the objects of a table as rows: first by what the object is known in which they stand, then their number where
// they are counted, then their values.
func (t *jsonTable) rows(file string, open func() (io.ReadCloser, error), use func([]string) error) error {
	chain := []*jsonTable{t}
	for chain[0].under != nil {
		chain = slices.Insert(chain, 0, chain[0].under)
	}
	walk := &jsonWalk{chain: chain, counts: make([]int, len(chain)), at: map[string]int{}, use: use}
	for i, key := range t.keys {
		walk.at[key] = i
	}
	found := false
	return jsonLists(file, open, func(path string, d *jsonReader) error {
		if path != chain[0].list || found {
			return d.over(1)
		}
		found = true
		for d.More() {
			var value json.RawMessage
			if err := d.Decode(&value); err != nil {
				return d.wrong(err)
			}
			if err := walk.object(0, "", value); err != nil {
				return err
			}
		}
		return d.closed()
	})
}

// jsonWalk goes through the objects of a table, and through those in which they stand.
type jsonWalk struct {
	chain  []*jsonTable // the table behind those that it is under
	counts []int        // of their objects so far
	at     map[string]int
	use    func([]string) error
}

// object goes through an object of one of the tables, which stands within what is known so.
func (w *jsonWalk) object(level int, under string, raw json.RawMessage) error {
	t := w.chain[level]
	w.counts[level]++
	if level == len(w.chain)-1 {
		var head []string
		if t.under != nil {
			head = append(head, under)
		}
		if t.numbered {
			head = append(head, strconv.Itoa(w.counts[level]))
		}
		cells := append(head, make([]string, len(t.keys))...)
		if err := fill(cells[len(head):], w.at, "", raw); err != nil {
			return err
		}
		return w.use(cells)
	}
	id := strconv.Itoa(w.counts[level])
	var object map[string]json.RawMessage
	if err := json.Unmarshal(raw, &object); err != nil {
		return err
	}
	if t.by >= 0 {
		id = jsonText(object[t.keys[t.by]])
	}
	var list []json.RawMessage
	if found := dig(object, w.chain[level+1].at); bytes.HasPrefix(found, []byte("[")) {
		if err := json.Unmarshal(found, &list); err != nil {
			return err
		}
	}
	for _, inner := range list {
		if err := w.object(level+1, id, inner); err != nil {
			return err
		}
	}
	return nil
}

// dig gives what stands in an object at a path; nothing where it is not there.
func dig(object map[string]json.RawMessage, path string) json.RawMessage {
	key, rest, deeper := strings.Cut(path, within)
	found := bytes.TrimSpace(object[key])
	if !deeper {
		return found
	}
	var inner map[string]json.RawMessage
	if json.Unmarshal(found, &inner) != nil { // no object stands there in this one
		return nil
	}
	return dig(inner, rest)
}
