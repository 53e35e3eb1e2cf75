package why

import (
	"context"
	"slices"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/sentence"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// BlockWhy tells whether somebody gets a block of a page, and why.
type BlockWhy struct {
	ID    string   `json:"id"`
	Kind  string   `json:"kind"`
	Shown bool     `json:"shown"`
	Text  string   `json:"text"`
	Notes []string `json:"notes"` // what of it is missing
	Table string   `json:"table,omitempty"`
}

// PageWhy tells whether somebody can open a page, and what of it they get.
type PageWhy struct {
	May    bool       `json:"may"`
	Text   string     `json:"text"`
	Blocks []BlockWhy `json:"blocks"`
}

// page finds out why somebody gets what they get of a page.
type page struct {
	ctx  context.Context
	road records.Road
	seat *records.Seat
	who  string
	*blueprint.Page
	row    string          // id of the table in whose rows the blocks stand that are told of, or ""
	part   *blueprint.Part // in which they stand, or nil
	prefix string          // of the ids by which they are known there
}

func (p *page) spot() blueprint.Spot { return blueprint.Spot{Page: p.Page, Row: p.row, Part: p.part} }

// OfPage tells why whoever sits in the seat can open a page, or not, and which of
// its blocks they get.
func OfPage(ctx context.Context, road records.Road, seat *records.Seat, who, id string) (PageWhy, error) {
	p := page{ctx: ctx, road: road, seat: seat, who: who, Page: seat.Blueprint.Page(id)}
	if p.Page == nil {
		return PageWhy{}, store.ErrNotFound
	}
	out := PageWhy{May: seat.Viewer.MayOpen(p.Page), Text: p.opens(p.Page), Blocks: []BlockWhy{}}
	if !out.May {
		return out, nil
	}
	said, err := p.shown()
	if err != nil {
		return out, err
	}
	out.Text += said
	return out, p.tell(p.Blocks, true, &out.Blocks)
}

// shown says when the page is shown, and whether it is now; "" where it always is.
func (p *page) shown() (string, error) {
	if p.When == "" {
		return "", nil
	}
	args := words.Args{"condition": sentence.Condition(p.When, p.seat.Blueprint.ScopeAt(p.spot(), p.seat.Catalog))}
	if p.Record != "" {
		return " " + words.Say("why-when-record", args), nil
	}
	c, err := p.seat.Blueprint.When(p.spot(), p.When, p.seat.Catalog)
	if err != nil {
		return "", err
	}
	holds, err := p.holds(c)
	return " " + words.Say(verdict("why-when", holds), args), err
}

// holds tells whether a condition that is about no record holds for whoever sits in the seat.
func (p *page) holds(c *expr.Checked) (bool, error) {
	got, err := p.road.Batch(p.ctx, p.seat, []records.Read{{Texts: []*expr.Checked{c}}})
	if err != nil {
		return false, err
	}
	return got[0].Texts[0] != nil && *got[0].Texts[0] == query.Yes, nil
}

// tell tells of blocks and those that they hold, which are not there where what holds them
// is not.
func (p *page) tell(blocks blueprint.Blocks, there bool, out *[]BlockWhy) error {
	for _, x := range blocks {
		b := BlockWhy{ID: p.prefix + x.Self().ID, Kind: x.Row().Noun, Shown: true, Notes: []string{}, Text: words.Say("why-block", nil)}
		if tell := rows[x.Self().Kind]; tell != nil {
			if err := tell(p, x, &b); err != nil {
				return err
			}
		}
		if err := p.when(x, &b); err != nil {
			return err
		}
		if !there {
			b.Shown, b.Notes = false, append(b.Notes, words.Say("why-group-not", nil))
		}
		*out = append(*out, b)
		if err := p.within(x, b.Shown, out); err != nil {
			return err
		}
	}
	return nil
}

// within tells of what a block holds, or of what the part has that it uses.
func (p *page) within(x blueprint.Block, there bool, out *[]BlockWhy) error {
	in := *p
	switch x := x.(type) {
	case *blueprint.PartBlock:
		in.part, in.prefix = p.seat.Blueprint.Part(x.Part), p.prefix+x.ID+"~"
		return in.tell(in.part.Blocks, there, out)
	case *blueprint.RecordsBlock:
		in.row = x.Table
	case *blueprint.FormBlock: // which tells of its questions itself
		return nil
	}
	if h, holds := x.(blueprint.Holder); holds {
		return in.tell(*h.Inside(), there, out)
	}
	return nil
}

// when tells the condition by which a block is shown, and whether it holds; on a page
// about a record that differs from record to record.
func (p *page) when(x blueprint.Block, out *BlockWhy) error {
	if p.part != nil && p.part.Own(x.Self().While) != nil {
		out.Notes = append(out.Notes, words.Say("why-while", words.Args{"value": p.part.Own(x.Self().While).Name, "is": x.Self().Is}))
	}
	c, err := p.seat.Blueprint.When(p.spot(), x.Self().When, p.seat.Catalog)
	if err != nil || c == nil {
		return err
	}
	scope := p.seat.Blueprint.ScopeAt(p.spot(), p.seat.Catalog)
	args := words.Args{"condition": sentence.Condition(x.Self().When, scope)}
	switch {
	case p.part != nil:
		out.Notes = append(out.Notes, words.Say("why-when-part", args))
		return nil
	case p.row != "", p.Record != "":
		out.Notes = append(out.Notes, words.Say("why-when-record", args))
		return nil
	}
	holds, err := p.holds(c)
	if err != nil {
		return err
	}
	out.Shown = out.Shown && holds
	out.Notes = append(out.Notes, words.Say(verdict("why-when", holds), args))
	return nil
}

// opens tells who can open a page, and so whether somebody can.
func (p *page) opens(of *blueprint.Page) string {
	args := words.Args{"who": p.who, "page": of.Name}
	code := verdict("why-opens", p.seat.Viewer.MayOpen(of))
	if p.seat.Viewer.Founder {
		code = "why-opens-founder"
	}
	switch of.Audience {
	case blueprint.Everyone:
		args["to"] = words.Say("audience-everyone", nil)
	case blueprint.SignedIn:
		args["to"] = words.Say("audience-signed-in", nil)
	default:
		names := []string{}
		for _, id := range of.Roles {
			names = append(names, p.seat.Blueprint.Role(id).Name)
		}
		args["to"] = names
	}
	text := words.Say(code, args)
	if of.OffMenu {
		text += " " + words.Say("why-off-menu", nil)
	}
	return text
}

// rows has, for the kinds of block that show or ask for something of the app, what
// tells why; a test finds one that is not here. Other blocks everyone gets who
// opens the page.
var rows = map[string]func(*page, blueprint.Block, *BlockWhy) error{
	"button":     row(whyButton),
	"records":    row(whyRecords),
	"details":    row(whyDetails),
	"form":       row(whyForm),
	"calculator": row(whyForm),
	"part":       row(whyPart),
	"keep":       row(whyKeep),
	"picture":    row(func(p *page, x *blueprint.PictureBlock, out *BlockWhy) error { return p.ofField(x.Field, out) }),
	"video":      row(func(p *page, x *blueprint.VideoBlock, out *BlockWhy) error { return p.ofField(x.Field, out) }),
	"service":    row(whyService),
	"bar": row(func(_ *page, _ *blueprint.BarBlock, out *BlockWhy) error {
		out.Text = words.Say("why-bar", nil)
		return nil
	}),
	"figure": row(func(p *page, x *blueprint.FigureBlock, out *BlockWhy) error {
		return whyReported(p, &x.Reported, out, x.Date)
	}),
	"chart": row(func(p *page, x *blueprint.ChartBlock, out *BlockWhy) error {
		return whyReported(p, &x.Reported, out, append([]string{x.By, x.Then, x.Date}, x.Bys...)...)
	}),
	"badges": row(func(p *page, x *blueprint.BadgesBlock, out *BlockWhy) error {
		for f := range p.seat.Blueprint.BadgesIn(x.From) {
			return whyRecords(p, &blueprint.RecordsBlock{Table: x.From, Columns: []string{f.Who, f.Named, f.Won}}, out)
		}
		return nil
	}),
	"timer": row(func(p *page, x *blueprint.TimerBlock, out *BlockWhy) error {
		return whyRecords(p, &blueprint.RecordsBlock{Table: x.Entries, Columns: []string{x.By, x.Hours}}, out)
	}),
	"checklist": row(func(p *page, x *blueprint.ChecklistBlock, out *BlockWhy) error {
		return whyRecords(p, &blueprint.RecordsBlock{Table: x.Items, Columns: []string{x.Text, x.Done}}, out)
	}),
	"steps": row(func(p *page, x *blueprint.StepsBlock, out *BlockWhy) error { return p.ofField(x.Field, out) }),
}

func row[X blueprint.Block](tell func(*page, X, *BlockWhy) error) func(*page, blueprint.Block, *BlockWhy) error {
	return func(p *page, x blueprint.Block, out *BlockWhy) error { return tell(p, x.(X), out) }
}

func whyButton(p *page, x *blueprint.ButtonBlock, out *BlockWhy) error {
	if w := p.seat.Blueprint.Workflow(x.Flow); w != nil {
		out.Shown = w.MayPress(p.seat.Viewer.Founder, p.seat.Viewer.Roles())
		out.Text = words.Say(verdict("why-button-flow", out.Shown), words.Args{"text": x.Text, "flow": w.Name, "who": p.who})
		return nil
	}
	target := p.seat.Blueprint.Page(x.Page)
	out.Shown = p.seat.Viewer.MayOpen(target)
	out.Text = words.Say("why-button", words.Args{"text": x.Text}) + " " + p.opens(target)
	return nil
}

func whyService(p *page, x *blueprint.ServiceBlock, out *BlockWhy) error {
	if connection, call := p.seat.Blueprint.CallOf(x.Call); call != nil {
		out.Text = words.Say("why-service", words.Args{"service": connection.Name, "call": call.Name})
	}
	return nil
}

func whyPart(p *page, x *blueprint.PartBlock, out *BlockWhy) error {
	out.Text = words.Say("why-part", words.Args{"part": p.seat.Blueprint.Part(x.Part).Name})
	return nil
}

func whyKeep(_ *page, _ *blueprint.KeepBlock, out *BlockWhy) error {
	out.Text = words.Say("why-keep", nil)
	return nil
}

// ofField notes that a field of the record in hand is not seen, where a block shows one.
func (p *page) ofField(field string, out *BlockWhy) error {
	t := p.seat.Blueprint.Table(p.spot().Record())
	if t == nil || field == "" {
		return nil
	}
	out.Table = t.ID
	return p.missing(t, []string{field}, out)
}

func whyDetails(p *page, x *blueprint.DetailsBlock, out *BlockWhy) error {
	t := p.seat.Blueprint.Table(p.Record)
	out.Text, out.Table = words.Say("why-details", words.Args{"table": t.Name}), t.ID
	return p.missing(t, x.Fields, out)
}

// missing notes which fields are not seen.
func (p *page) missing(t *blueprint.Table, fields []string, out *BlockWhy) error {
	for _, id := range fields {
		sees, err := p.seat.Sees(t.ID, id)
		if err != nil {
			return err
		}
		if !sees {
			out.Notes = append(out.Notes, words.Say("why-missing", words.Args{"field": t.Field(id).Name}))
		}
	}
	return nil
}

func whyRecords(p *page, x *blueprint.RecordsBlock, out *BlockWhy) error {
	t := p.seat.Blueprint.Table(x.Table)
	out.Table = t.ID
	seen, err := p.road.Count(p.ctx, p.seat, query.Selection{Table: t})
	if err != nil {
		return err
	}
	all, err := p.road.Count(p.ctx, founders(p.seat), query.Selection{Table: t})
	if err != nil {
		return err
	}
	out.Text = words.Say("why-list", words.Args{"table": t.Name, "who": p.who, "seen": seen, "all": all})
	if x.Filter != "" {
		scope := p.seat.Blueprint.ListScope(p.spot(), x.Table, p.seat.Catalog)
		out.Text += " " + words.Say("why-list-filter", words.Args{"condition": sentence.Condition(x.Filter, scope)})
	}
	for _, g := range x.Shown {
		out.Notes = append(out.Notes, words.Say("why-shown", words.Args{"field": t.Field(g.Field).Name,
			"condition": sentence.Condition(g.Value, p.seat.Blueprint.ScopeAt(p.spot(), p.seat.Catalog))}))
	}
	return p.missing(t, x.Columns, out)
}

// whyReported tells how many records a figure or a chart is made of, and which of its fields are not seen.
func whyReported(p *page, r *blueprint.Reported, out *BlockWhy, fields ...string) error {
	return whyRecords(p, &blueprint.RecordsBlock{Table: r.Table, Filter: r.Filter,
		Columns: slices.DeleteFunc(fields, func(id string) bool { return id == "" })}, out)
}

func whyForm(p *page, x *blueprint.FormBlock, out *BlockWhy) error {
	if x.Calculates() && !x.Sends() {
		out.Text, out.Shown = words.Say("why-calculator", nil), true
		return nil
	}
	b, t := p.seat.Blueprint, p.seat.Blueprint.Table(x.Table)
	action, code := blueprint.Add, "why-form-add"
	if x.Changes {
		action, code = blueprint.Modify, "why-form-change"
	}
	out.Table, out.Text = t.ID, words.Say(code, words.Args{"table": t.Name})
	asked := 0
	for q := range x.Questions {
		asks, err := access.Asks(b, p.seat.Catalog, p.seat.Viewer, t.ID, q.Field, action)
		if err != nil {
			return err
		}
		if asks {
			asked++
			if q.When != "" {
				scope := p.seat.Blueprint.ListScope(p.spot(), "", p.seat.Catalog)
				scope.Answers = b.AnswersOf(x, q.ID, false, p.seat.Catalog)
				out.Notes = append(out.Notes, words.Say("why-asked-when", words.Args{"field": t.Field(q.Field).Name,
					"condition": sentence.Condition(q.When, scope)}))
			}
			continue
		}
		code := "why-not-asked"
		if action == blueprint.Add && access.Given(b, p.seat.Viewer, t.ID, q.Field) {
			code = "why-asked-given"
		}
		out.Notes = append(out.Notes, words.Say(code, words.Args{"field": t.Field(q.Field).Name}))
	}
	out.Shown = asked > 0
	return nil
}
