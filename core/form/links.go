package form

import (
	"encoding/json"

	"pinegate/core/blueprint"
	"pinegate/core/words"
)

// LinksEdit is what is entered for a field of several links: all that the record is
// to link to, as far as whoever entered it sees that, or only what is added and what
// is removed.
type LinksEdit struct {
	Whole          bool // Added is all of it
	Added, Removed []string
}

// AcceptLinks reads what was entered for a field of several links: null, a list of
// ids, or {"added": […], "removed": […]}. The words say what is wrong with it.
func AcceptLinks(b *blueprint.Blueprint, f *blueprint.Field, raw json.RawMessage) (LinksEdit, *words.Problem) {
	var parts map[string]json.RawMessage
	if json.Unmarshal(raw, &parts) != nil || parts == nil {
		list, wrong := acceptIDs(b, f, raw)
		return LinksEdit{Whole: true, Added: list}, wrong
	}
	var out LinksEdit
	for name, part := range parts {
		list, wrong := acceptIDs(b, f, part)
		if wrong != nil {
			return out, wrong
		}
		switch name {
		case "added":
			out.Added = list
		case "removed":
			out.Removed = list
		default:
			return out, words.New("read-kind", "field", f.Name)
		}
	}
	return out, nil
}

func acceptIDs(b *blueprint.Blueprint, f *blueprint.Field, raw json.RawMessage) ([]string, *words.Problem) {
	v, wrong := Accept(b, f, raw)
	if wrong == nil && !v.IsEmpty() && len(v.Items) == 0 { // a single one
		return []string{v.Text}, nil
	}
	var out []string
	for _, x := range v.Items {
		out = append(out, x.Text)
	}
	return out, wrong
}

// On gives what a record links to after the edit, when it linked to so much before,
// of which whoever edits sees a part: what they do not see stays.
func (e LinksEdit) On(had []string, sees func(id string) bool) []string {
	added, removed, there := set(e.Added), set(e.Removed), map[string]bool{}
	var out []string
	for _, id := range had {
		gone := removed[id] || e.Whole && !added[id]
		if !gone || !sees(id) {
			out, there[id] = append(out, id), true
		}
	}
	for _, id := range e.Added {
		if !there[id] {
			out, there[id] = append(out, id), true
		}
	}
	return out
}

func set(list []string) map[string]bool {
	out := map[string]bool{}
	for _, x := range list {
		out[x] = true
	}
	return out
}
