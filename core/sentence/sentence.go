// Package sentence tells a blueprint in sentences. The underlined words of a
// sentence are settings, by their names; a sentence says only what differs from
// what would be so anyway.
package sentence

import (
	"strings"
)

// Part is a run of words in a sentence.
type Part struct {
	Text string `json:"text"`
	// Set names the setting that the words tell, where they can be changed.
	Set   string `json:"set,omitempty"`
	ref   string // id of the thing that the words name, where they do
	words []Part // what Text is made of, where it names several things
}

// LineKind tells the lines of a script apart.
type LineKind string

// The kinds of line.
const (
	Heading LineKind = "heading" // of a group of lines
	Plain   LineKind = "line"    // a sentence
	Note    LineKind = "note"    // what is not set here, but good to know
	Offer   LineKind = "offer"   // an offer to add something
)

// Line is a line of the script. A line can hold lines.
type Line struct {
	ID    string   `json:"id"`
	Kind  LineKind `json:"kind"`
	Of    string   `json:"of,omitempty"` // id of the thing that it tells
	Parts []Part   `json:"parts"`
	// More tells that more can be said of the thing.
	More bool `json:"more,omitempty"`
	// Group names the lines among which this one can be put to another place, of
	// which there are Among, and At is its own.
	Group string `json:"group,omitempty"`
	At    int    `json:"at,omitempty"`
	Among int    `json:"among,omitempty"`
	// Removes tells that the thing can be removed, Merges that it can be merged
	// into others of its kind.
	Removes bool   `json:"removes,omitempty"`
	Merges  bool   `json:"merges,omitempty"`
	Add     *Adds  `json:"add,omitempty"` // what an offer adds
	Lines   []Line `json:"lines,omitempty"`
	// Folded tells that lines that it holds are not shown.
	Folded bool `json:"folded,omitempty"`
}

// Adds says what is added, and into what.
type Adds struct {
	What string `json:"what"`
	Into string `json:"into,omitempty"`
}

// Text gives the line as plain words.
func (l Line) Text() string { return plain(l.Parts) }

func plain(parts []Part) string {
	var b strings.Builder
	for _, p := range parts {
		b.WriteString(p.Text)
	}
	return b.String()
}

// meaning is the text with names of other things replaced by their ids, so that
// renaming a thing does not change what other lines say.
func meaning(parts []Part) string {
	var b strings.Builder
	for _, p := range parts {
		switch {
		case p.words != nil:
			b.WriteString(meaning(p.words))
		case p.ref != "":
			b.WriteString("\x00" + p.ref + "\x00")
		default:
			b.WriteString(p.Text)
		}
	}
	return b.String()
}

func text(s string) []Part { return []Part{{Text: s}} }

// named gives words that name a thing.
func named(s, ref string) Part { return Part{Text: s, ref: ref} }
