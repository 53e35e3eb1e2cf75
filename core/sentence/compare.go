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
	// Lines are the sentences of a group that is added or removed whole, such as a
	// table with its fields; its heading is what is before or after.
	Lines []string `json:"lines,omitempty"`
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
	all := differences{list: []Difference{}, whole: map[string]int{}}
	is := map[string]bool{}
	for _, l := range newLines {
		is[l.line.ID] = true
		old, known := was[l.line.ID]
		switch {
		case !known:
			all.add(l, Difference{Where: l.where, After: l.line.Text()})
		case meaning(old.line.Parts) != meaning(l.line.Parts):
			all.list = append(all.list, Difference{Where: l.where, Before: old.line.Text(), After: l.line.Text()})
		}
	}
	for _, l := range oldLines {
		if !is[l.line.ID] {
			all.add(l, Difference{Where: l.where, Before: l.line.Text()})
		}
	}
	return all.list
}

// differences gathers what differs, a group that is added or removed whole as one.
type differences struct {
	list  []Difference
	whole map[string]int // where in the list, by the ids of headings
}

func (d *differences) add(l told, difference Difference) {
	if at, ok := d.whole[l.group]; ok {
		d.list[at].Lines = append(d.list[at].Lines, l.line.Text())
		return
	}
	if l.line.Kind == Heading {
		d.whole[l.line.ID] = len(d.list)
	}
	d.list = append(d.list, difference)
}

// told is a line with the heading under which it stands.
type told struct {
	group, where string // the id and the words of the heading
	line         Line
}

func statements(b *blueprint.Blueprint) []told {
	if b.Format == 0 { // there is no version before the first
		return nil
	}
	var out []told
	var walk func(group, where string, lines []Line)
	walk = func(group, where string, lines []Line) {
		for _, l := range lines {
			switch l.Kind {
			case Heading:
				out = append(out, told{group, l.Text(), l})
				walk(l.ID, l.Text(), l.Lines)
			case Plain:
				out = append(out, told{group, where, l})
				walk(group, where, l.Lines)
			case Offer, Note:
			}
		}
	}
	walk("", words.Say("heading-app", nil), Everything(b))
	return out
}
