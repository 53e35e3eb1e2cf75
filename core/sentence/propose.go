package sentence

import (
	"slices"

	"pinegate/core/blueprint"
)

// Proposed is a change that is offered, in a sentence.
type Proposed struct {
	Text    string
	Changes []blueprint.Change
}

// ProposeRules offers what people of a role usually may: to see and keep up to
// date their own record, to see what is theirs, and to add to what points to
// them directly. What a rule says already is left as it is.
func ProposeRules(b *blueprint.Blueprint, r *blueprint.Role) []Proposed {
	if b.Table(r.People) == nil {
		return nil
	}
	var out []Proposed
	for i := range b.Tables {
		t := &b.Tables[i]
		if t.ID == r.People {
			out = append(out, ownRecord(b, r, t)...)
			continue
		}
		paths := linkPaths(b, t.ID, r.People, 3)
		if len(paths) == 0 {
			continue
		}
		own := ownOffers(b, t.ID, r, b.Catalog())[0].Value
		out = append(out, permit(b, r, t, blueprint.See, own)...)
		if f := byKey(t, paths[0]); f != nil {
			more := permit(b, r, t, blueprint.Add, own)
			for i := range more { // whoever adds one is its owner, whatever the browser says
				more[i].Changes = append(more[i].Changes, &blueprint.SetGiven{Role: r.ID, Table: t.ID, Given: withGiven(r.Rule(t.ID).Given, blueprint.Preset{Field: f.ID, Value: "me"})})
				more[i].Text += "; the app fills in " + f.Name
			}
			out = append(out, more...)
		}
	}
	return out
}

// withGiven gives what is filled in, with one field more or otherwise.
func withGiven(given []blueprint.Preset, p blueprint.Preset) []blueprint.Preset {
	others := slices.DeleteFunc(slices.Clone(given), func(x blueprint.Preset) bool { return x.Field == p.Field })
	return append(others, p)
}

// byKey gives the field to which a path of one link leads, or nil.
func byKey(t *blueprint.Table, path []string) *blueprint.Field {
	if len(path) != 1 {
		return nil
	}
	i := slices.IndexFunc(t.Fields, func(f blueprint.Field) bool { return f.Key == path[0] })
	if i < 0 {
		return nil
	}
	return &t.Fields[i]
}

func permit(b *blueprint.Blueprint, r *blueprint.Role, t *blueprint.Table, a blueprint.Action, condition string) []Proposed {
	if x := r.Rule(t.ID).Permission(a).Extent; x != "" && x != blueprint.NoRecords {
		return nil
	}
	words := Condition(condition, r.RuleScope(t.ID, b.Catalog()))
	return []Proposed{{Text: r.Name + " " + actionWords[a] + " " + t.Name + " where " + words,
		Changes: []blueprint.Change{&blueprint.SetPermission{Role: r.ID, Table: t.ID, Action: a, Extent: blueprint.Where, Condition: condition}}}}
}

func ownRecord(b *blueprint.Blueprint, r *blueprint.Role, t *blueprint.Table) []Proposed {
	out := permit(b, r, t, blueprint.See, "this = me")
	change := permit(b, r, t, blueprint.Modify, "this = me")
	for i := range change {
		rule := r.Rule(t.ID)
		fixed := append([]string{}, rule.Fixed...) // what is only to be read stays so
		for _, f := range b.Decisive(t) {
			if !slices.Contains(rule.Hidden, f) && !slices.Contains(fixed, f) {
				fixed = append(fixed, f)
			}
		}
		change[i].Changes = append(change[i].Changes, &blueprint.SetFieldAccess{Role: r.ID, Table: t.ID, Fixed: &fixed})
		change[i].Text += ", but not " + plain(fieldNames(t, fixed, "nothing"))
	}
	return append(out, change...)
}
