// Package why tells who gets what of an app, and by which rule: why somebody can
// see, add, change or delete something or not, what they get of a page, who sees
// a record, and whether what is expected of the rules is so.
package why

import (
	"context"
	"slices"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/prop"
	"pinegate/core/query"
	"pinegate/core/sentence"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// Reason is why somebody can do something as one of a role, or not.
type Reason struct {
	Role   string       `json:"role"` // id
	Line   string       `json:"line"` // id of the sentence that decides
	May    bool         `json:"may"`
	Text   string       `json:"text"`
	Values []NamedValue `json:"values"` // what the rule looked at
}

// Why tells whether somebody can do something, and which rules decide.
type Why struct {
	May     bool     `json:"may"`
	Text    string   `json:"text"`
	Reasons []Reason `json:"reasons"`
}

// Asked is what a [Why] is about: an action, on a table, a record of it, or a
// field of that.
type Asked struct {
	Table, Record, Field string
	Action               blueprint.Action
}

// Of tells why whoever sits in the seat can do something, or not.
func Of(ctx context.Context, road records.Road, seat *records.Seat, who string, q Asked) (Why, error) {
	t := seat.Blueprint.Table(q.Table)
	if t == nil || !slices.Contains(blueprint.Actions(), q.Action) {
		return Why{}, store.ErrNotFound
	}
	w := &why{trial: trial{ctx: ctx, road: road, seat: founders(seat)}, viewer: seat, table: t, field: t.Field(q.Field), Asked: q}
	if q.Field != "" && w.field == nil {
		return Why{}, store.ErrNotFound
	}
	out := Why{Reasons: []Reason{}}
	if seat.Viewer.Founder {
		return Why{May: true, Text: words.Say("why-founder", nil), Reasons: []Reason{}}, nil
	}
	what, err := w.what()
	if err != nil || what == "" {
		out.Text = words.Say("why-gone", nil)
		return out, err
	}
	for _, m := range seat.Viewer.Memberships {
		r, err := w.as(m)
		if err != nil {
			return out, err
		}
		out.May = out.May || r.May
		out.Reasons = append(out.Reasons, r)
	}
	out.Text = words.Say(verdict("why-can", out.May), words.Args{"who": who, "action": string(q.Action), "what": what})
	if len(out.Reasons) > 1 {
		out.Reasons = append(out.Reasons, Reason{May: out.May, Text: words.Say("why-roles", nil), Values: []NamedValue{}})
	}
	if w.field != nil && out.May {
		made, err := w.depends()
		if err != nil {
			return out, err
		}
		out.Reasons = append(out.Reasons, made...)
	}
	return out, nil
}

// verdict gives the code of what is said where something is so, or is not.
func verdict(code string, so bool) string {
	if so {
		return code
	}
	return code + "-not"
}

// why finds out why.
type why struct {
	trial
	Asked
	viewer *records.Seat
	table  *blueprint.Table
	field  *blueprint.Field
}

// what names what is asked about; "" where the record is gone.
func (w *why) what() (string, error) {
	what := w.table.Name
	if w.Record != "" {
		found, err := w.list(access.Viewer{Founder: true}, query.Selection{Table: w.table, ID: w.Record, Limit: 1})
		if err != nil || len(found) == 0 {
			return "", err
		}
		what = found[0].name()
	}
	if w.field != nil {
		what = words.Say("called-in", words.Args{"name": w.field.Name, "in": what})
	}
	return what, nil
}

// as tells why somebody can do it as one of a role, or not.
func (w *why) as(m access.Membership) (Reason, error) {
	r := w.seat.Blueprint.Role(m.Role)
	out := Reason{Role: m.Role, Line: blueprint.RuleID(m.Role, w.table.ID), Values: []NamedValue{}}
	if r == nil {
		return out, store.ErrNotFound
	}
	rule := r.Rule(w.table.ID)
	args := words.Args{"role": r.Name, "action": string(w.Action), "table": w.table.Name}
	switch p := rule.Permission(w.Action); p.Extent {
	case blueprint.AllRecords:
		out.May, out.Text = true, words.Say("why-all", args)
	case blueprint.Where:
		if err := w.where(&out, m, r, p, args); err != nil {
			return out, err
		}
	default:
		out.Text = words.Say("why-none", args)
	}
	if said := w.ofField(&out, r, rule); said != "" {
		out.Text += " " + said
	}
	return out, nil
}

// where tells whether the condition of a permission is true, with what it looked
// at.
func (w *why) where(out *Reason, m access.Membership, r *blueprint.Role, p blueprint.Permission, args words.Args) error {
	args["condition"] = sentence.Condition(p.Condition, r.RuleScope(w.table.ID, w.seat.Catalog))
	c, err := w.seat.Blueprint.Condition(r, w.table.ID, w.Action, w.seat.Catalog)
	if err != nil {
		return err
	}
	switch {
	case c.UsesMe && m.Record == "":
		out.Text = words.Say("why-where-person", args)
		return nil
	case w.Record == "":
		out.May, out.Text = true, words.Say("why-where", args)
		return nil
	}
	as := seatOf(w.seat, access.Viewer{Memberships: []access.Membership{m}})
	if out.May, err = w.road.May(w.ctx, as, w.table, w.Record, w.Action); err != nil {
		return err
	}
	if out.Values, err = w.values(c, w.table, w.Record); err != nil {
		return err
	}
	args["values"] = saying(out.Values)
	out.Text = words.Say(verdict("why-where-met", out.May), args)
	return nil
}

// saying tells values in words.
func saying(values []NamedValue) []string {
	out := []string{}
	for _, v := range values {
		if v.Value == "" {
			v.Value = words.Say("empty", nil)
		}
		out = append(out, words.Say("value-is", words.Args{"name": v.Name, "value": v.Value}))
	}
	return out
}

// ofField tells what a rule says of the field, where it is asked about one.
func (w *why) ofField(out *Reason, r *blueprint.Role, rule blueprint.Rule) string {
	if w.field == nil || !out.May {
		return ""
	}
	args := words.Args{"field": w.field.Name, "role": r.Name}
	given := slices.ContainsFunc(rule.Given, func(p prop.Given) bool { return p.Field == w.field.ID })
	switch {
	case slices.Contains(rule.Hidden, w.field.ID):
		out.May = false
		return words.Say("why-hidden", args)
	case w.Action == blueprint.See:
		return words.Say("why-not-hidden", args)
	case slices.Contains(rule.Fixed, w.field.ID):
		out.May = false
		return words.Say("why-fixed", args)
	case !w.field.Type.Entered():
		out.May = false
		return words.Say("why-set", args)
	case w.Action == blueprint.Add && given:
		out.May = false
		return words.Say("why-given", args)
	}
	return ""
}

// depends tells which parts of a calculated field are not seen by the viewer's
// rules.
func (w *why) depends() ([]Reason, error) {
	var out []Reason
	for _, f := range w.seat.Catalog.Tables[w.table.ID].Fields {
		if f.ID != w.field.ID || f.Computed == nil {
			continue
		}
		for _, d := range query.Depends(w.seat.Catalog, f) {
			sees, err := w.viewer.Sees(d.Table, d.ID)
			if err != nil {
				return nil, err
			}
			if !sees {
				args := words.Args{"field": d.Name, "table": w.seat.Blueprint.Table(d.Table).Name}
				out = append(out, Reason{Values: []NamedValue{}, Text: words.Say("why-made", args)})
			}
		}
	}
	return out, nil
}
