package apps

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/query"
	"pinegate/core/sentence"
	"pinegate/store"
	"pinegate/store/records"
)

// Reason is why somebody may do something as one of a role, or not.
type Reason struct {
	Role   string       `json:"role"` // id
	Line   string       `json:"line"` // id of the sentence that decides
	May    bool         `json:"may"`
	Text   string       `json:"text"`
	Values []NamedValue `json:"values"` // what the rule looked at
}

// Why tells whether somebody may do something, and which rules decide.
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

// Why tells why whoever sits in the seat may do something, or not.
func (a *Apps) Why(ctx context.Context, seat *records.Seat, who string, q Asked) (Why, error) {
	t := seat.Blueprint.Table(q.Table)
	if t == nil || !slices.Contains(blueprint.Actions(), q.Action) {
		return Why{}, store.ErrNotFound
	}
	w := &why{ctx: ctx, road: a.Road(ctx), seat: seat, founder: *founders(seat), table: t, field: t.Field(q.Field), Asked: q}
	if q.Field != "" && w.field == nil {
		return Why{}, store.ErrNotFound
	}
	out := Why{Reasons: []Reason{}}
	if seat.Viewer.Founder {
		return Why{May: true, Text: "You are the founder, and no rule is asked about you.", Reasons: []Reason{}}, nil
	}
	what := t.Name
	if q.Record != "" {
		label, err := w.label()
		if err != nil {
			return out, err
		}
		if label == nil {
			return Why{Text: "There is no such record any more; it may be in the bin.", Reasons: []Reason{}}, nil
		}
		what = *label
	}
	if w.field != nil {
		what = w.field.Name + " of " + what
	}
	for _, m := range seat.Viewer.Memberships {
		r, err := w.as(m)
		if err != nil {
			return out, err
		}
		out.May = out.May || r.May
		out.Reasons = append(out.Reasons, r)
	}
	can := "may not"
	if out.May {
		can = "may"
	}
	out.Text = fmt.Sprintf("%s %s %s %s.", who, can, q.Action, what)
	if w.field != nil && out.May {
		made, err := w.depends()
		if err != nil {
			return out, err
		}
		out.Reasons = append(out.Reasons, made...)
	}
	return out, nil
}

// founders gives the seat of a founder in the same place.
func founders(s *records.Seat) *records.Seat {
	return &records.Seat{Schema: s.Schema, Blueprint: s.Blueprint, Catalog: s.Catalog, Viewer: access.Viewer{Founder: true}, By: s.By, Clock: s.Clock}
}

// why finds out why.
type why struct {
	Asked
	ctx     context.Context
	road    records.Road
	seat    *records.Seat
	founder records.Seat
	table   *blueprint.Table
	field   *blueprint.Field
}

// label gives what the record is known by; nil where there is none.
func (w *why) label() (*string, error) {
	t := trial{ctx: w.ctx, road: w.road, seat: w.founder}
	found, err := t.list(access.Viewer{Founder: true}, query.List{Table: w.table, ID: w.Record, Limit: 1})
	if err != nil || len(found) == 0 {
		return nil, err
	}
	name := found[0].name()
	return &name, nil
}

// as tells why somebody may do it as one of a role, or not.
func (w *why) as(m access.Membership) (Reason, error) {
	r := w.seat.Blueprint.Role(m.Role)
	out := Reason{Role: m.Role, Line: m.Role + "_" + w.table.ID, Values: []NamedValue{}}
	if r == nil {
		return out, store.ErrNotFound
	}
	rule := r.Rule(w.table.ID)
	verb := w.Action
	switch p := rule.Permission(w.Action); p.Extent {
	case blueprint.AllRecords:
		out.May, out.Text = true, fmt.Sprintf("%s %s all %s.", r.Name, verb, w.table.Name)
	case blueprint.Where:
		if err := w.where(&out, m, r, p); err != nil {
			return out, err
		}
	default:
		out.Text = fmt.Sprintf("No rule lets %s %s any %s.", r.Name, verb, w.table.Name)
	}
	w.ofField(&out, r, rule)
	return out, nil
}

// where tells whether the condition of a permission holds, with what it looked
// at.
func (w *why) where(out *Reason, m access.Membership, r *blueprint.Role, p blueprint.Permission) error {
	words := sentence.Condition(p.Condition, r.RuleScope(w.table.ID, w.seat.Catalog))
	c, err := w.seat.Blueprint.Condition(r, w.table.ID, w.Action, w.seat.Catalog)
	if err != nil {
		return err
	}
	head := fmt.Sprintf("%s %s those %s where %s", r.Name, w.Action, w.table.Name, words)
	switch {
	case c.UsesMe && m.Record == "":
		out.Text = head + ". Somebody in particular has to be signed in for that."
		return nil
	case w.Record == "":
		out.May, out.Text = true, head+"."
		return nil
	}
	seat := *founders(w.seat)
	seat.Viewer = access.Viewer{Memberships: []access.Membership{m}}
	if out.May, err = w.road.May(w.ctx, &seat, w.table, w.Record, w.Action); err != nil {
		return err
	}
	if out.Values, err = w.values(c); err != nil {
		return err
	}
	holds := "That does not hold here"
	if out.May {
		holds = "That holds here"
	}
	out.Text = head + ". " + holds + saying(out.Values) + "."
	return nil
}

// saying tells values in words.
func saying(values []NamedValue) string {
	var parts []string
	for _, v := range values {
		text := v.Value
		if text == "" {
			text = "empty"
		}
		parts = append(parts, v.Name+" is "+text)
	}
	if len(parts) == 0 {
		return ""
	}
	return ": " + strings.Join(parts, ", and ")
}

func (w *why) values(c *expr.Checked) ([]NamedValue, error) {
	looks := who{trial: trial{ctx: w.ctx, road: w.road, seat: w.founder}, table: w.table, record: w.Record}
	return looks.values(c)
}

// ofField tells what a rule says of the field.
func (w *why) ofField(out *Reason, r *blueprint.Role, rule blueprint.Rule) {
	if w.field == nil || !out.May {
		return
	}
	line := out.Line + "_fields"
	switch {
	case slices.Contains(rule.Hidden, w.field.ID):
		out.May, out.Line = false, line
		out.Text += fmt.Sprintf(" But %s is hidden from %s.", w.field.Name, r.Name)
	case w.Action == blueprint.See:
		out.Text += fmt.Sprintf(" No rule hides %s from them.", w.field.Name)
	case slices.Contains(rule.Fixed, w.field.ID):
		out.May, out.Line = false, line
		out.Text += fmt.Sprintf(" But %s may only read %s.", r.Name, w.field.Name)
	case !w.field.Type.Entered():
		out.May = false
		out.Text += fmt.Sprintf(" But %s is filled in by the app, and by nobody else.", w.field.Name)
	case w.Action == blueprint.Add && slices.ContainsFunc(rule.Given, func(p prop.Given) bool { return p.Field == w.field.ID }):
		out.May, out.Line = false, out.Line+"_given"
		out.Text += fmt.Sprintf(" But the app fills in %s when they add one.", w.field.Name)
	}
}

// depends tells of what a reckoned field is made, as its parts are seen by the
// viewer's rules, too.
func (w *why) depends() ([]Reason, error) {
	var out []Reason
	for _, f := range w.seat.Catalog.Tables[w.table.ID].Fields {
		if f.ID != w.field.ID || f.Computed == nil {
			continue
		}
		for _, d := range query.Depends(w.seat.Catalog, f) {
			sees, err := w.seat.Sees(d.Table, d.ID)
			if err != nil {
				return nil, err
			}
			if !sees {
				t := w.seat.Blueprint.Table(d.Table)
				out = append(out, Reason{Values: []NamedValue{}, Text: fmt.Sprintf("It is reckoned from %s of %s, which they do not see, so it is empty for them.", d.Name, t.Name)})
			}
		}
	}
	return out, nil
}

// BlockWhy tells whether somebody gets a block of a page, and why.
type BlockWhy struct {
	ID    string   `json:"id"`
	Kind  string   `json:"kind"`
	Shown bool     `json:"shown"`
	Text  string   `json:"text"`
	Notes []string `json:"notes"` // what of it is missing
	Table string   `json:"table,omitempty"`
}

// PageWhy tells whether somebody may open a page, and what of it they get.
type PageWhy struct {
	May    bool       `json:"may"`
	Text   string     `json:"text"`
	Blocks []BlockWhy `json:"blocks"`
}

// WhyPage tells why whoever sits in the seat may open a page, or not, and which
// of its blocks they get.
func (a *Apps) WhyPage(ctx context.Context, seat *records.Seat, who, page string) (PageWhy, error) {
	p := seat.Blueprint.Page(page)
	if p == nil {
		return PageWhy{}, store.ErrNotFound
	}
	out := PageWhy{May: seat.Viewer.MayOpen(p), Blocks: []BlockWhy{}}
	out.Text = whyOpen(seat, who, p)
	if !out.May {
		return out, nil
	}
	for _, x := range p.Blocks {
		b, err := whyBlock(ctx, a.Road(ctx), seat, who, p, x)
		if err != nil {
			return out, err
		}
		out.Blocks = append(out.Blocks, b)
	}
	return out, nil
}

// whyOpen tells who may open a page, and so whether somebody may.
func whyOpen(seat *records.Seat, who string, p *blueprint.Page) string {
	var names []string
	for _, id := range p.Roles {
		names = append(names, seat.Blueprint.Role(id).Name)
	}
	to := map[blueprint.Audience]string{blueprint.Everyone: "everyone", blueprint.SignedIn: "everyone who is signed in", blueprint.SomeRole: strings.Join(names, ", ")}[p.Audience]
	verdict := "may open it"
	switch {
	case seat.Viewer.Founder:
		return fmt.Sprintf("%s is open to %s. You are the founder, and may open every page.", p.Name, to)
	case !seat.Viewer.MayOpen(p):
		verdict = "is none of these, and may not"
	}
	text := fmt.Sprintf("%s is open to %s. %s %s.", p.Name, to, who, verdict)
	if p.OffMenu {
		text += " It does not stand in the menu, which keeps nobody from its address."
	}
	return text
}

func whyBlock(ctx context.Context, road records.Road, seat *records.Seat, who string, p *blueprint.Page, x blueprint.Block) (BlockWhy, error) {
	out := BlockWhy{ID: x.Self().ID, Kind: x.Row().Noun, Shown: true, Notes: []string{}}
	b := seat.Blueprint
	switch x := x.(type) {
	case *blueprint.ButtonBlock:
		target := b.Page(x.Page)
		out.Shown = seat.Viewer.MayOpen(target)
		out.Text = fmt.Sprintf("The button “%s” is shown to those who may open the page it leads to. ", x.Text) + whyOpen(seat, who, target)
	case *blueprint.RecordsBlock:
		return whyList(ctx, road, seat, who, p, x, out)
	case *blueprint.DetailsBlock:
		t := b.Table(p.Record)
		out.Text, out.Table = fmt.Sprintf("The details are those fields of %s that their rules show.", t.Name), t.ID
		return out, missingFields(seat, t, x.Fields, &out.Notes)
	case *blueprint.FormBlock:
		return whyForm(seat, x, out)
	default:
		out.Text = fmt.Sprintf("A %s is shown to whoever opens the page; of what stands in braces, only what their rules show.", x.Row().Noun)
	}
	return out, nil
}

// missingFields notes which fields are not seen.
func missingFields(seat *records.Seat, t *blueprint.Table, fields []string, notes *[]string) error {
	for _, id := range fields {
		sees, err := seat.Sees(t.ID, id)
		if err != nil {
			return err
		}
		if !sees {
			*notes = append(*notes, fmt.Sprintf("%s is missing: no rule shows it to them.", t.Field(id).Name))
		}
	}
	return nil
}

func whyList(ctx context.Context, road records.Road, seat *records.Seat, who string, p *blueprint.Page, x *blueprint.RecordsBlock, out BlockWhy) (BlockWhy, error) {
	t := seat.Blueprint.Table(x.Table)
	out.Table = t.ID
	seen, err := road.Count(ctx, seat, query.List{Table: t})
	if err != nil {
		return out, err
	}
	all, err := road.Count(ctx, founders(seat), query.List{Table: t})
	if err != nil {
		return out, err
	}
	out.Text = fmt.Sprintf("The list shows %s. %s sees %d of %d by the rules.", t.Name, who, seen, all)
	if x.Filter != "" {
		out.Text += " Of these the list takes those where " + sentence.Condition(x.Filter, seat.Blueprint.ListScope(p, x.Table, seat.Catalog)) + "; that only chooses, and protects nothing."
	}
	return out, missingFields(seat, t, x.Columns, &out.Notes)
}

func whyForm(seat *records.Seat, x *blueprint.FormBlock, out BlockWhy) (BlockWhy, error) {
	t := seat.Blueprint.Table(x.Table)
	action, verb := blueprint.Add, "adds to"
	if x.Changes {
		action, verb = blueprint.Modify, "changes a record of"
	}
	out.Table = t.ID
	out.Text = fmt.Sprintf("The form %s %s, and asks for what their rules let them set.", verb, t.Name)
	asked := 0
	for _, ff := range x.Fields {
		may, err := access.MaySet(seat.Blueprint, seat.Catalog, seat.Viewer, t.ID, ff.Field, action)
		if err != nil {
			return out, err
		}
		if may {
			asked++
			continue
		}
		out.Notes = append(out.Notes, fmt.Sprintf("%s is not asked: no rule lets them set it.", t.Field(ff.Field).Name))
	}
	out.Shown = asked > 0
	return out, nil
}
