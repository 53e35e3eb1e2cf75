package prop

import (
	"bytes"
	"encoding/json"
	"errors"
	"io"
	"slices"
	"strings"
	"unicode/utf8"

	"pinegate/core/words"
)

// cell is what every value has: the field that holds it, and its control.
type cell[T any] struct {
	at      *T
	control Control
}

func (c cell[T]) Control() Control      { return c.control }
func (c cell[T]) Get() any              { return *c.at }
func (c cell[T]) At() any               { return c.at }
func (c cell[T]) Refs() []Ref           { return nil }
func (c cell[T]) Exprs() []Expr         { return nil }
func (c cell[T]) Wrong() *words.Problem { return nil }

func (c cell[T]) Clear() {
	var zero T
	*c.at = zero
}

// Set reads a value. It never reads into the old one: encoding/json would leave
// there what the new one does not name.
func (c cell[T]) Set(raw json.RawMessage) error {
	var fresh T
	if err := Strictly(raw, &fresh); err != nil {
		return err
	}
	*c.at = fresh
	return nil
}

// Strictly reads JSON and refuses what it does not know.
func Strictly(raw []byte, into any) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return err
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return errors.New("something stands behind the value")
	}
	return nil
}

// TextValue is a text.
type TextValue struct {
	cell[string]
	Most   int  // characters
	Quoted bool // it is said in quotation marks
	Right  func(string) *words.Problem
}

// MostText is how many characters a text has at most, where nothing else is said.
const MostText = 20_000

// Text is a text of one line, which is said as it is.
func Text(at *string) TextValue {
	return TextValue{cell: cell[string]{at, Control{Kind: TextControl}}, Most: MostText}
}

// Address is the last piece of the address of a form.
func Address(at *string) TextValue {
	return TextValue{cell: cell[string]{at, Control{Kind: AddressControl}}, Most: 60}
}

// Words are a text of several lines, which is said in quotation marks.
func Words(at *string) TextValue {
	return TextValue{cell: cell[string]{at, Control{Kind: TextControl, Long: true}}, Most: MostText, Quoted: true}
}

// Set reads a text and leaves out the blanks around it.
func (v TextValue) Set(raw json.RawMessage) error {
	if err := v.cell.Set(raw); err != nil {
		return err
	}
	*v.at = strings.TrimSpace(*v.at)
	return nil
}

// Zero tells whether the text is empty.
func (v TextValue) Zero() bool { return *v.at == "" }

// Wrong gives what is wrong with the text, or nil.
func (v TextValue) Wrong() *words.Problem {
	switch {
	case utf8.RuneCountInString(*v.at) > v.Most:
		return words.New("text-long", "n", v.Most)
	case !utf8.ValidString(*v.at) || strings.ContainsRune(*v.at, 0):
		return words.New("text-broken")
	case !v.control.Long && strings.ContainsAny(*v.at, "\r\n"):
		return words.New("text-lines")
	case v.Right != nil && *v.at != "":
		return v.Right(*v.at)
	}
	return nil
}

// Said gives the text as it is said, and whether in quotation marks.
func (v TextValue) Said() (string, bool) { return *v.at, v.Quoted }

// SwitchValue is on or off.
type SwitchValue struct{ cell[bool] }

// Switch is on or off.
func Switch(at *bool) SwitchValue {
	return SwitchValue{cell[bool]{at, Control{Kind: SwitchControl}}}
}

// Zero tells whether it is off.
func (v SwitchValue) Zero() bool { return !*v.at }

// NumberValue is a whole number.
type NumberValue struct {
	cell[int]
	Least, Most int
}

// Number is a whole number; 0 stands for the default.
func Number(at *int, least, most int) NumberValue {
	return NumberValue{cell[int]{at, Control{Kind: NumberControl}}, least, most}
}

// Zero tells whether it is at its default.
func (v NumberValue) Zero() bool { return *v.at == 0 }

// Get gives the number, or null for the default.
func (v NumberValue) Get() any {
	if *v.at == 0 {
		return nil
	}
	return *v.at
}

// Wrong tells of a number that is too small or too large.
func (v NumberValue) Wrong() *words.Problem {
	if n := *v.at; n != 0 && (n < v.Least || n > v.Most) {
		return words.New("number-range", "least", v.Least, "most", v.Most)
	}
	return nil
}

// Count gives the number.
func (v NumberValue) Count() int { return *v.at }

// CountValue is a whole number of which 0 means something, too.
type CountValue struct {
	cell[*int]
	Most int
}

// Count is a whole number from 0, or none.
func Count(at **int, most int) CountValue {
	return CountValue{cell[*int]{at, Control{Kind: NumberControl}}, most}
}

// Zero tells whether there is none.
func (v CountValue) Zero() bool { return *v.at == nil }

// Wrong tells of a number that is too small or too large.
func (v CountValue) Wrong() *words.Problem {
	if n := *v.at; n != nil && (*n < 0 || *n > v.Most) {
		return words.New("number-range", "least", 0, "most", v.Most)
	}
	return nil
}

// Count gives the number.
func (v CountValue) Count() int {
	if *v.at == nil {
		return 0
	}
	return **v.at
}

// PickValue is one of a few values that are always the same.
type PickValue[T ~string] struct {
	cell[T]
	options []Option
	unsaid  T // the value that is not said
}

// Pick is one of the options; the empty value is the default.
func Pick[T ~string](at *T, options ...Option) PickValue[T] {
	return PickValue[T]{cell: cell[T]{at, Control{Kind: PickControl, To: Of("", options...)}}, options: options}
}

// Unsaid makes another value the default.
func (v PickValue[T]) Unsaid(x T) PickValue[T] {
	v.unsaid = x
	return v
}

// Zero tells whether it is at its default.
func (v PickValue[T]) Zero() bool { return *v.at == v.unsaid }

// Clear puts it to its default.
func (v PickValue[T]) Clear() { *v.at = v.unsaid }

// Get gives the value as a text.
func (v PickValue[T]) Get() any { return string(*v.at) }

// Set reads a value; null gives the default.
func (v PickValue[T]) Set(raw json.RawMessage) error {
	if string(raw) == "null" {
		v.Clear()
		return nil
	}
	return v.cell.Set(raw)
}

// Wrong tells of a value that is not among the options.
func (v PickValue[T]) Wrong() *words.Problem {
	if len(v.Chosen()) == 0 {
		return words.New("not-offered", "value", string(*v.at))
	}
	return nil
}

// Chosen gives the option that is chosen.
func (v PickValue[T]) Chosen() []Option {
	for _, o := range v.options {
		if o.Value == string(*v.at) {
			return []Option{o}
		}
	}
	return nil
}

// OneValue names one thing.
type OneValue struct{ cell[string] }

// One names one of the things.
func One(at *string, to To) OneValue {
	return OneValue{cell[string]{at, Control{Kind: PickControl, To: to}}}
}

// OrNone lets nothing be chosen, too, which is called so.
func (v OneValue) OrNone(words string) OneValue {
	v.control.Empty = words
	return v
}

// Zero tells whether it names nothing.
func (v OneValue) Zero() bool { return *v.at == "" }

// Refs gives what it names.
func (v OneValue) Refs() []Ref {
	if *v.at == "" {
		return nil
	}
	return []Ref{{*v.at, v.control.To, v.Clear}}
}

// Chosen gives what is named.
func (v OneValue) Chosen() []Option {
	if o, ok := v.control.To.Find(*v.at); ok {
		return []Option{o}
	}
	return nil
}

// ManyValue names several things, in an order.
type ManyValue[T ~string] struct {
	cell[[]T]
	unsaid []T
}

// Many names several of the things, each once.
func Many[T ~string](at *[]T, to To) ManyValue[T] {
	return ManyValue[T]{cell: cell[[]T]{at, Control{Kind: ManyControl, To: to}}}
}

// Else says what an empty list stands for.
func (v ManyValue[T]) Else(unsaid ...T) ManyValue[T] {
	v.unsaid = unsaid
	return v
}

// Joined says what joins the last of them to the others.
func (v ManyValue[T]) Joined(last string) ManyValue[T] {
	v.control.Last = last
	return v
}

func (v ManyValue[T]) list() []T {
	if len(*v.at) == 0 {
		return v.unsaid
	}
	return *v.at
}

// Zero tells whether it names nothing.
func (v ManyValue[T]) Zero() bool { return len(*v.at) == 0 }

// Set reads a list; one that says what nothing stands for is none.
func (v ManyValue[T]) Set(raw json.RawMessage) error {
	if err := v.cell.Set(raw); err != nil {
		return err
	}
	if len(*v.at) == 0 || slices.Equal(*v.at, v.unsaid) {
		*v.at = nil
	}
	return nil
}

// Get gives the list, which is never null.
func (v ManyValue[T]) Get() any { return append([]T{}, v.list()...) }

// Refs gives what it names.
func (v ManyValue[T]) Refs() []Ref {
	return refs(*v.at, v.control.To, func(x T) string { return string(x) }, v.cut)
}

func (v ManyValue[T]) cut(x T) { *v.at = slices.DeleteFunc(*v.at, func(y T) bool { return x == y }) }

// refs lists what the elements of a list name.
func refs[T any](list []T, to To, id func(T) string, cut func(T)) []Ref {
	out := make([]Ref, len(list))
	for i, x := range list {
		out[i] = Ref{id(x), to, func() { cut(x) }}
	}
	return out
}

// Wrong tells of something that is named twice.
func (v ManyValue[T]) Wrong() *words.Problem {
	return twice(*v.at, func(x T) string { return string(x) }, v.control.To)
}

func twice[T any](list []T, id func(T) string, to To) *words.Problem {
	seen := map[string]bool{}
	for _, x := range list {
		if seen[id(x)] {
			o, _ := to.Find(id(x))
			return words.New("twice", "value", o.Words)
		}
		seen[id(x)] = true
	}
	return nil
}

// Chosen gives what is named.
func (v ManyValue[T]) Chosen() []Option {
	var out []Option
	for _, x := range v.list() {
		if o, ok := v.control.To.Find(string(x)); ok {
			out = append(out, o)
		}
	}
	return out
}

// SetsValue are sets of things, each of which belongs together.
type SetsValue struct {
	cell[[][]string]
	Least, Most int // of each
}

// Sets are sets of the things.
func Sets(at *[][]string, to To, least, most int) SetsValue {
	return SetsValue{cell[[][]string]{at, Control{Kind: SetsControl, To: to}}, least, most}
}

// Zero tells whether there are none.
func (v SetsValue) Zero() bool { return len(*v.at) == 0 }

// Get gives the sets; the list is never null.
func (v SetsValue) Get() any { return append([][]string{}, *v.at...) }

// Refs gives what the sets name. A set that loses something goes.
func (v SetsValue) Refs() []Ref {
	var out []Ref
	for i, set := range *v.at {
		for _, x := range set {
			out = append(out, Ref{x, v.control.To, func() { *v.at = slices.Delete(*v.at, i, i+1) }})
		}
	}
	return out
}

// Wrong tells of a set that is too small or too large, or names something twice.
func (v SetsValue) Wrong() *words.Problem {
	for _, set := range *v.at {
		if len(set) < v.Least || len(set) > v.Most {
			return words.New("set-size", "least", v.Least, "most", v.Most)
		}
		if p := twice(set, func(s string) string { return s }, v.control.To); p != nil {
			return p
		}
	}
	return nil
}

// Chosen gives what each set names.
func (v SetsValue) Chosen() [][]Option {
	var out [][]Option
	for _, set := range *v.at {
		out = append(out, Many(&set, v.control.To).Chosen())
	}
	return out
}

// HeldValue is a text that is kept in a way of its own, such as in a map.
type HeldValue struct {
	get     func() string
	set     func(string)
	control Control
	Quoted  bool
	wrong   func(string) *words.Problem
	unsaid  string
	shown   func(string) string
}

// Held is a text that is read and kept by functions; "" is the default.
func Held(control Control, get func() string, set func(string), wrong func(string) *words.Problem) HeldValue {
	return HeldValue{get: get, set: set, control: control, wrong: wrong}
}

// Else says what it stands for to have no text.
func (v HeldValue) Else(unsaid string) HeldValue {
	v.unsaid = unsaid
	return v
}

// Shown says a text in other words.
func (v HeldValue) Shown(as func(string) string) HeldValue {
	v.shown = as
	return v
}

// InQuotes says the text in quotation marks.
func (v HeldValue) InQuotes() HeldValue {
	v.Quoted = true
	return v
}

// Control says by what it is changed.
func (v HeldValue) Control() Control { return v.control }

// Get gives the text, or what it stands for to have none.
func (v HeldValue) Get() any {
	if text := v.get(); text != "" {
		return text
	}
	return v.unsaid
}

// At gives nothing: no field of a struct holds it.
func (v HeldValue) At() any { return nil }

// Set reads a text.
func (v HeldValue) Set(raw json.RawMessage) error {
	var fresh string
	if err := Strictly(raw, &fresh); err != nil {
		return err
	}
	v.set(strings.TrimSpace(fresh))
	return nil
}

// Zero tells whether there is none.
func (v HeldValue) Zero() bool { return v.get() == "" }

// Clear takes it away.
func (v HeldValue) Clear() { v.set("") }

// Wrong gives what is wrong with the text, or nil.
func (v HeldValue) Wrong() *words.Problem {
	if v.wrong == nil || v.get() == "" {
		return nil
	}
	return v.wrong(v.get())
}

// Refs gives nothing.
func (v HeldValue) Refs() []Ref { return nil }

// Exprs gives nothing.
func (v HeldValue) Exprs() []Expr { return nil }

// Said gives the text as it is said, and whether in quotation marks.
func (v HeldValue) Said() (string, bool) {
	if v.shown != nil {
		return v.shown(v.get()), v.Quoted
	}
	return v.get(), v.Quoted
}
