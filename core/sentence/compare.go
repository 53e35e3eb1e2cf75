package sentence

import (
	"pinegate/core/blueprint"
	"pinegate/core/words"
)

// Difference is a difference between two versions of an app, in sentences.
// Before is empty for what is added, After for what is removed.
type Difference struct {
	Where  string `json:"where"`
	Before string `json:"before,omitempty"`
	After  string `json:"after,omitempty"`
}

// Compare lists what differs between two versions. A line counts as changed
// when what it says itself changed, not when something that it names got
// another name.
func Compare(before, after *blueprint.Blueprint) []Difference {
	oldLines, newLines := statements(before), statements(after)
	was := map[string]told{}
	for _, l := range oldLines {
		was[l.line.ID] = l
	}
	out := []Difference{}
	is := map[string]bool{}
	for _, l := range newLines {
		is[l.line.ID] = true
		old, known := was[l.line.ID]
		switch {
		case !known:
			out = append(out, Difference{Where: l.where, After: l.line.Text()})
		case meaning(old.line.Parts) != meaning(l.line.Parts):
			out = append(out, Difference{Where: l.where, Before: old.line.Text(), After: l.line.Text()})
		}
	}
	for _, l := range oldLines {
		if !is[l.line.ID] {
			out = append(out, Difference{Where: l.where, Before: l.line.Text()})
		}
	}
	return out
}

// told is a line with the heading under which it stands.
type told struct {
	where string
	line  Line
}

func statements(b *blueprint.Blueprint) []told {
	if b.Format == 0 { // there is no version before the first
		return nil
	}
	var out []told
	var walk func(where string, lines []Line)
	walk = func(where string, lines []Line) {
		for _, l := range lines {
			in := where
			switch l.Kind {
			case Heading:
				in = l.Text()
			case Offer, Note:
				continue
			}
			out = append(out, told{in, l})
			walk(in, l.Lines)
		}
	}
	walk(words.Say("heading-app", nil), Everything(b))
	return out
}
