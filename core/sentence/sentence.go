// Package sentence tells a blueprint in sentences. The underlined words of a
// sentence are its settings; each carries the change that a new value makes,
// so that what is read is what can be set.
package sentence

import (
	"encoding/json"
	"strings"

	"pinegate/core/blueprint"
)

// Part is a run of words in a sentence.
type Part struct {
	Text string `json:"text"`
	// Ref is the id of the thing that the words name, where they do.
	Ref     string   `json:"ref,omitempty"`
	Setting *Setting `json:"setting,omitempty"`
	words   []Part   // what Text is made of, where it names several things
}

// Setting says how the words of a part can be changed: fill the slots and send
// the change.
type Setting struct {
	Title  string          `json:"title"`
	Change json.RawMessage `json:"change"`
	Slots  []Slot          `json:"slots"`
	// Asks tells that the effects of the change are to be asked for first.
	Asks bool `json:"asks,omitempty"`
}

// Control names the kind of input that fits a slot.
type Control string

// The controls.
const (
	TextControl       Control = "text"
	LongTextControl   Control = "long text"
	PickControl       Control = "pick"
	ManyControl       Control = "many"       // an ordered choice of several options
	QuestionsControl  Control = "questions"  // fields of a form with whether they are required
	PresetsControl    Control = "presets"    // fields with expressions
	ExpressionControl Control = "expression" // an expression, or a text with placeholders
	SwitchControl     Control = "switch"
	NumberControl     Control = "number" // a whole number or nothing
	ColourControl     Control = "colour"
	PictureControl    Control = "picture"
)

// Slot is one value that a setting takes. Name is the path of its place in the
// change, with dots.
type Slot struct {
	Name    string   `json:"name"`
	Label   string   `json:"label"`
	Control Control  `json:"control"`
	Value   any      `json:"value"`
	Options []Option `json:"options,omitempty"`
	Scope   *Scope   `json:"scope,omitempty"`
	When    *When    `json:"when,omitempty"`
}

// Option is a value that can be picked. For an expression it is an offer.
type Option struct {
	Value string `json:"value"`
	Label string `json:"label"`
	When  *When  `json:"when,omitempty"`
}

// When shows something only while a slot has a value, or one of several that
// are parted by |.
type When struct {
	Slot string `json:"slot"`
	Is   string `json:"is"`
}

// Want names what an expression in a slot must be.
type Want string

// What an expression can be asked to be.
const (
	WantText      Want = "text"
	WantCondition Want = "condition"
	WantTemplate  Want = "template"
	WantValue     Want = "value"
)

// Scope says by ids what the names in an expression slot refer to.
type Scope struct {
	Row  string `json:"row,omitempty"`
	Me   string `json:"me,omitempty"`
	Page string `json:"page,omitempty"`
	// Inner is the table of the records of a list that a condition is about;
	// Via names the slot that holds the link which leads to it.
	Inner string `json:"inner,omitempty"`
	Via   string `json:"via,omitempty"`
	Want  Want   `json:"want"`
}

// LineKind tells headings, sentences and offers to add something apart.
type LineKind string

// The kinds of line.
const (
	Heading LineKind = "heading"
	Plain   LineKind = "line"
	Offer   LineKind = "offer"
)

// Line is a line of the script.
type Line struct {
	ID      string   `json:"id"`
	Of      string   `json:"of,omitempty"` // id of the table, list, role or page that the line is part of
	Kind    LineKind `json:"kind"`
	Parts   []Part   `json:"parts"`
	Actions []Action `json:"actions,omitempty"`
	// Move puts the line to another place among those of the same group, which
	// its slot "to" says, counted from 0.
	Move *Move `json:"move,omitempty"`
}

// Move says how a line is put to another place.
type Move struct {
	Group  string          `json:"group"`
	At     int             `json:"at"`
	Change json.RawMessage `json:"change"`
}

// Action is something that can be done with what a line speaks of. Confirm, if
// any, is asked first. With a Setting, its slots are to be filled in.
type Action struct {
	Label   string          `json:"label"`
	Change  json.RawMessage `json:"change"`
	Confirm string          `json:"confirm,omitempty"`
	Setting *Setting        `json:"setting,omitempty"`
	// Asks tells that the effects of the change are to be asked for first.
	Asks bool `json:"asks,omitempty"`
}

// Text gives the line as plain words.
func (l Line) Text() string {
	var b strings.Builder
	for _, p := range l.Parts {
		b.WriteString(p.Text)
	}
	return b.String()
}

// meaning is the text with names of other things replaced by their ids, so
// that renaming a thing does not change what other lines say.
func (l Line) meaning() string {
	var b strings.Builder
	for _, p := range l.Parts {
		switch {
		case p.words != nil:
			b.WriteString(Line{Parts: p.words}.meaning())
		case p.Ref != "":
			b.WriteString("\x00" + p.Ref + "\x00")
		default:
			b.WriteString(p.Text)
		}
	}
	return b.String()
}

// line builds lines.
type line struct{ Line }

func newLine(kind LineKind, id, of string) *line {
	return &line{Line{ID: id, Of: of, Kind: kind}}
}

func (l *line) say(text string) *line {
	l.Parts = append(l.Parts, Part{Text: text})
	return l
}

func (l *line) name(text, ref string) *line {
	l.Parts = append(l.Parts, Part{Text: text, Ref: ref})
	return l
}

// set adds words that can be changed.
func (l *line) set(text, title string, change blueprint.Change, slots ...Slot) *line {
	l.Parts = append(l.Parts, Part{Text: text, Setting: setting(title, change, slots...)})
	return l
}

// setName is set for words that name another thing.
func (l *line) setName(text, ref, title string, change blueprint.Change, slots ...Slot) *line {
	l.Parts = append(l.Parts, Part{Text: text, Ref: ref, Setting: setting(title, change, slots...)})
	return l
}

// setParts adds one setting whose words are several parts.
func (l *line) setParts(parts []Part, title string, change blueprint.Change, slots ...Slot) *line {
	l.Parts = append(l.Parts, Part{Text: plain(parts), words: parts, Setting: setting(title, change, slots...)})
	return l
}

func (l *line) act(label, confirm string, change blueprint.Change) *line {
	l.Actions = append(l.Actions, Action{Label: label, Confirm: confirm, Change: encode(change), Asks: asks(change)})
	return l
}

// moves makes the line one of a group in which it can be put to another place.
func (l *line) moves(group string, at int, change blueprint.Change) *line {
	l.Move = &Move{group, at, encode(change)}
	return l
}

// actSet adds an action for which slots are filled in.
func (l *line) actSet(label, title string, change blueprint.Change, slots ...Slot) *line {
	l.Actions = append(l.Actions, Action{Label: label, Change: encode(change), Setting: setting(title, change, slots...)})
	return l
}

func setting(title string, change blueprint.Change, slots ...Slot) *Setting {
	return &Setting{Title: title, Change: encode(change), Slots: slots, Asks: asks(change)}
}

// asks tells whether a change can lose values or break something, so that its
// effects are told before it is made.
func asks(c blueprint.Change) bool {
	switch c.(type) {
	case *blueprint.SetFieldType, *blueprint.RemoveField, *blueprint.RemoveTable:
		return true
	}
	return false
}

// encode cannot fail: changes are plain structs of strings, numbers and JSON
// made here.
func encode(c blueprint.Change) json.RawMessage {
	raw, err := blueprint.Encode(c)
	if err != nil {
		panic(err)
	}
	return raw
}

func textSlot(name, label, value string) Slot {
	return Slot{Name: name, Label: label, Control: TextControl, Value: value}
}

func pickSlot(name, label, value string, options []Option) Slot {
	return Slot{Name: name, Label: label, Control: PickControl, Value: value, Options: options}
}

func (s Slot) when(slot, is string) Slot {
	s.When = &When{slot, is}
	return s
}
