package sentence

import (
	"slices"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// Pages tells the app's look, its pages and the blocks on each.
func Pages(b *blueprint.Blueprint) []Line {
	catalog := b.Catalog()
	var themes []Option
	for _, t := range blueprint.Themes() {
		themes = append(themes, Option{Value: string(t), Label: string(t)})
	}
	out := []Line{newLine(Plain, "app", "app").say("The app is called ").
		set(b.Name, "Name of the app", &blueprint.RenameApp{}, textSlot("name", "Name", b.Name)).say(" and wears the theme ").
		set(string(b.Theme), "Theme", &blueprint.SetTheme{}, pickSlot("theme", "Theme", string(b.Theme), themes)).say(". Its clocks show the time of ").
		set(orElse(b.Zone, "UTC"), "Time zone of the app", &blueprint.SetZone{}, pickSlot("zone", "Time zone", b.Zone, zones(b.Zone))).say(".").Line}
	for i := range b.Pages {
		p := &b.Pages[i]
		out = append(out, pageLines(b, p, i)...)
		for j := range p.Blocks {
			out = append(out, blockLine(b, p, &p.Blocks[j], j, catalog))
		}
		out = append(out, newLine(Offer, p.ID+"_add", p.ID).set("Add a block", "Add a block to "+p.Name, &blueprint.AddBlock{Page: p.ID}, blockSlots(b, p)...).Line)
	}
	return append(out, newLine(Offer, "add_page", "").set("Add a page", "Add a page", &blueprint.AddPage{},
		textSlot("name", "Name", ""), pickSlot("record", "It is about", "", append([]Option{{Value: "", Label: "no record in particular"}}, tableOptions(b, "one record of ")...))).Line)
}

// zones lists time zones to choose from, the one that is set among them.
func zones(now string) []Option {
	out := []Option{{Value: "", Label: "UTC"}}
	names := []string{"Europe/Lisbon", "Europe/London", "Europe/Dublin", "Europe/Madrid", "Europe/Paris", "Europe/Brussels", "Europe/Amsterdam", "Europe/Berlin", "Europe/Zurich",
		"Europe/Vienna", "Europe/Rome", "Europe/Copenhagen", "Europe/Oslo", "Europe/Stockholm", "Europe/Helsinki", "Europe/Warsaw", "Europe/Prague", "Europe/Athens", "Europe/Bucharest",
		"Europe/Kyiv", "Europe/Istanbul", "Africa/Casablanca", "Africa/Lagos", "Africa/Cairo", "Africa/Nairobi", "Africa/Johannesburg", "Asia/Jerusalem", "Asia/Dubai", "Asia/Karachi", "Asia/Kolkata",
		"Asia/Dhaka", "Asia/Bangkok", "Asia/Jakarta", "Asia/Singapore", "Asia/Hong_Kong", "Asia/Shanghai", "Asia/Manila", "Asia/Seoul", "Asia/Tokyo", "Australia/Perth", "Australia/Sydney", "Pacific/Auckland",
		"America/St_Johns", "America/Halifax", "America/New_York", "America/Toronto", "America/Chicago", "America/Denver", "America/Los_Angeles", "America/Vancouver", "America/Anchorage", "Pacific/Honolulu",
		"America/Mexico_City", "America/Bogota", "America/Lima", "America/Santiago", "America/Sao_Paulo", "America/Argentina/Buenos_Aires"}
	if now != "" && !slices.Contains(names, now) {
		names = append(names, now)
	}
	for _, n := range names {
		out = append(out, Option{Value: n, Label: strings.ReplaceAll(n, "_", " ")})
	}
	return out
}

func tableOptions(b *blueprint.Blueprint, before string) []Option {
	var out []Option
	for _, t := range b.Tables {
		out = append(out, Option{Value: t.ID, Label: before + t.Name})
	}
	return out
}

func pageLines(b *blueprint.Blueprint, p *blueprint.Page, at int) []Line {
	head := newLine(Heading, p.ID, p.ID).set(p.Name, "Rename the page", &blueprint.RenamePage{Page: p.ID}, textSlot("name", "Name", p.Name))
	if at > 0 {
		head.act("Move up", "", &blueprint.MovePage{Page: p.ID, To: at - 1})
	}
	if at < len(b.Pages)-1 {
		head.act("Move down", "", &blueprint.MovePage{Page: p.ID, To: at + 1})
	}
	head.act("Remove the page", "Remove the page "+p.Name+" with its blocks?", &blueprint.RemovePage{Page: p.ID})
	about := newLine(Plain, p.ID+"_about", p.ID)
	if t := b.Table(p.Record); t != nil {
		about.say("It is about one record of ").name(t.Name, t.ID).say(", is open to ")
	} else {
		about.say("It is open to ")
	}
	var roles []Option
	for _, r := range b.Roles {
		roles = append(roles, Option{Value: r.ID, Label: r.Name})
	}
	chosen := p.Roles
	if chosen == nil {
		chosen = []string{}
	}
	about.setParts(audienceWords(b, p), "Who may open "+p.Name+"?", &blueprint.SetAudience{Page: p.ID},
		pickSlot("audience", "Open to", string(p.Audience), []Option{{Value: "everyone", Label: "everyone"}, {Value: "signed in", Label: "everyone signed in"}, {Value: "roles", Label: "some roles"}}),
		Slot{Name: "roles", Label: "Roles", Control: ManyControl, Value: chosen, Options: roles}.when("audience", "roles"))
	if p.Record != "" {
		return []Line{head.Line, about.say(" and is opened from lists.").Line}
	}
	words := "stands"
	if !p.InMenu {
		words = "does not stand"
	}
	about.say(" and ").set(words, "The menu", &blueprint.SetInMenu{Page: p.ID}, Slot{Name: "inMenu", Label: "The menu leads to it", Control: SwitchControl, Value: p.InMenu}).
		say(" in the menu")
	if !p.InMenu && p.Audience == blueprint.Everyone {
		about.say("; that hides it from nobody who knows its address")
	}
	about.say(".")
	return []Line{head.Line, about.Line}
}

func audienceWords(b *blueprint.Blueprint, p *blueprint.Page) []Part {
	switch p.Audience {
	case blueprint.Everyone:
		return []Part{{Text: "everyone"}}
	case blueprint.SignedIn:
		return []Part{{Text: "everyone signed in"}}
	}
	var out []Part
	for _, id := range p.Roles {
		if len(out) > 0 {
			out = append(out, Part{Text: " and "})
		}
		if r := b.Role(id); r != nil {
			out = append(out, Part{Text: r.Name, Ref: r.ID})
		}
	}
	return out
}

func blockSlots(b *blueprint.Blueprint, p *blueprint.Page) []Slot {
	kinds := []Option{{Value: "heading", Label: "a heading"}, {Value: "text", Label: "a text"}, {Value: "list", Label: "a list of records"}, {Value: "form", Label: "a form"}, {Value: "button", Label: "a button that goes to a page"}}
	if p.Record != "" {
		kinds = append(kinds, Option{Value: "details", Label: "the record’s details"})
	}
	first := ""
	if len(b.Tables) > 0 {
		first = b.Tables[0].ID
	}
	return []Slot{
		pickSlot("block", "Add", "heading", kinds),
		{Name: "text", Label: "Words", Control: LongTextControl, Value: "", When: &When{"block", "heading|text|button"}},
		{Name: "table", Label: "Records of", Control: PickControl, Value: first, Options: tableOptions(b, ""), When: &When{"block", "list|form"}},
		pickSlot("to", "It goes to", p.ID, pageOptions(b, p.Record)).when("block", "button"),
	}
}

// pageOptions lists the pages that can be shown where a record of the table is
// in hand.
func pageOptions(b *blueprint.Blueprint, record string) []Option {
	var out []Option
	for _, p := range b.Pages {
		if p.Record == "" || p.Record == record {
			out = append(out, Option{Value: p.ID, Label: p.Name})
		}
	}
	return out
}

// block is what the sentence of a block is made with.
type block struct {
	*line
	b       *blueprint.Blueprint
	p       *blueprint.Page
	x       *blueprint.Block
	catalog *expr.Catalog
}

func blockLine(b *blueprint.Blueprint, p *blueprint.Page, x *blueprint.Block, at int, catalog *expr.Catalog) Line {
	w := block{newLine(Plain, x.ID, p.ID), b, p, x, catalog}
	switch x.Kind {
	case blueprint.HeadingBlock, blueprint.TextBlock:
		w.say("A " + string(x.Kind) + " says ")
		w.text()
	case blueprint.ButtonBlock:
		w.button()
	case blueprint.ListBlock:
		w.list()
	case blueprint.DetailsBlock:
		w.details()
	case blueprint.FormBlock:
		w.form()
	}
	w.say(".")
	if at > 0 {
		w.act("Move up", "", &blueprint.MoveBlock{Page: p.ID, Block: x.ID, To: at - 1})
	}
	if at < len(p.Blocks)-1 {
		w.act("Move down", "", &blueprint.MoveBlock{Page: p.ID, Block: x.ID, To: at + 1})
	}
	return w.act("Remove", "Remove this "+string(x.Kind)+" from "+p.Name+"?", &blueprint.RemoveBlock{Page: p.ID, Block: x.ID}).Line
}

// put adds words that set something in the block.
func (w block) put(parts []Part, title string, slots ...Slot) {
	w.setParts(parts, title, &blueprint.SetBlock{Page: w.p.ID, Block: w.x.ID}, slots...)
}

func words(text string) []Part { return []Part{{Text: text}} }

// shorten keeps a sentence readable where it quotes a long text.
func shorten(s string) string {
	s = strings.Join(strings.Fields(s), " ")
	if r := []rune(s); len(r) > 90 {
		return string(r[:88]) + "…"
	}
	return s
}

func (w block) text() {
	parts := []Part{{Text: "“" + shorten(w.x.Text) + "”", words: templateWords(w.x.Text, w.b.PageScope(w.p, w.catalog))}}
	w.put(parts, "Words", w.expression("patch.text", "Words; {{ }} holds a field or an expression", w.x.Text, w.b.PageScope(w.p, w.catalog), WantTemplate))
}

func (w block) expression(name, label, value string, scope expr.Scope, want Want) Slot {
	return Slot{Name: name, Label: label, Control: ExpressionControl, Value: value, Scope: &Scope{Row: scope.Row, Me: scope.Me, Page: scope.Page, Want: want}}
}

func (w block) page(id, none string) []Part {
	if p := w.b.Page(id); p != nil {
		return []Part{{Text: p.Name, Ref: p.ID}}
	}
	return words(none)
}

func (w block) button() {
	w.say("A button ")
	w.text()
	w.say(" goes to ")
	w.put(w.page(w.x.Page, "no page"), "Where it goes", pickSlot("patch.page", "Page", w.x.Page, pageOptions(w.b, w.p.Record)))
}

func (w block) list() {
	l := w.x.List
	t := w.b.Table(l.Table)
	w.say("A list shows ")
	w.put([]Part{{Text: t.Name, Ref: t.ID}}, "Which records", pickSlot("patch.list.table", "Records of", t.ID, tableOptions(w.b, "")))
	scope := w.b.ListScope(w.p, l, w.catalog)
	filter := words("all that the person may see")
	if l.Filter != "" {
		filter = append(words("where "), conditionWords(l.Filter, scope)...)
	}
	w.say(", ")
	w.put(filter, "Which of them", w.expression("patch.list.filter", "Condition; empty for all that the person may see", l.Filter, scope, WantCondition))
	w.say(", with ")
	w.put(fieldNames(t, l.Columns, "no columns"), "Columns", fieldsSlot("patch.list.columns", "Columns, in this order", t, l.Columns))
	w.sorting(l, t)
	open := []Option{{Value: "", Label: "nothing"}}
	for _, p := range w.b.Pages {
		if p.Record == t.ID {
			open = append(open, Option{Value: p.ID, Label: p.Name})
		}
	}
	w.say("; a row opens ")
	w.put(w.page(l.Open, "nothing"), "What a row opens", pickSlot("patch.list.open", "A row opens", l.Open, open))
	w.say("; when there are none it says ")
	w.put(words("“"+shorten(orElse(l.Empty, "Nothing here yet."))+"”"), "When there are none", textSlot("patch.list.empty", "It says", l.Empty))
}

func (w block) sorting(l *blueprint.List, t *blueprint.Table) {
	order := words("oldest first")
	field, column, _ := strings.Cut(l.Sort, ".")
	if f := t.Field(field); f != nil {
		order = []Part{{Text: "sorted by "}, {Text: f.Name, Ref: f.ID}}
		for _, c := range w.b.SortColumns(f) {
			if c.ID == column {
				order = []Part{{Text: "sorted by the "}, {Text: c.Name, Ref: c.ID}, {Text: " of its "}, {Text: f.Name, Ref: f.ID}}
			}
		}
		if l.Falling {
			order = append(order, Part{Text: ", falling"})
		}
	} else if l.Falling {
		order = words("newest first")
	}
	w.say(", ")
	w.put(order, "Order", pickSlot("patch.list.sort", "Sorted by", l.Sort, append([]Option{{Value: "", Label: "when they were made"}}, sortOptions(w.b, t)...)),
		Slot{Name: "patch.list.falling", Label: "Largest or newest first", Control: SwitchControl, Value: l.Falling})
}

func sortOptions(b *blueprint.Blueprint, t *blueprint.Table) []Option {
	var out []Option
	for i := range t.Fields {
		f := &t.Fields[i]
		out = append(out, Option{Value: f.ID, Label: f.Name})
		for _, c := range b.SortColumns(f) {
			out = append(out, Option{Value: f.ID + "." + c.ID, Label: c.Name + " of " + f.Name})
		}
	}
	return out
}

func (w block) details() {
	t := w.b.Table(w.p.Record)
	w.say("The details show ")
	w.put(fieldNames(t, w.x.Details.Fields, "no fields"), "Fields", fieldsSlot("patch.details.fields", "Fields, in this order", t, w.x.Details.Fields))
}

func (w block) form() {
	f := w.x.Form
	t := w.b.Table(f.Table)
	if f.Changes {
		w.say("A form changes the record of ").name(t.Name, t.ID)
	} else {
		w.say("A form adds a record to ")
		w.put([]Part{{Text: t.Name, Ref: t.ID}}, "Where it adds", pickSlot("patch.form.table", "Adds to", t.ID, tableOptions(w.b, "")))
	}
	w.say(", asks for ")
	w.put(questionWords(t, f), "Questions", Slot{Name: "patch.form.fields", Label: "Fields, in this order", Control: QuestionsControl, Value: f.Fields, Options: fieldOptions(t)})
	w.say(", fills in ")
	scope := w.b.PresetScope(w.p, w.catalog)
	presets := f.Presets
	if presets == nil {
		presets = []blueprint.Preset{}
	}
	w.put(presetWords(t, f, scope), "Filled in by itself", Slot{Name: "patch.form.presets", Label: "Fields that are filled in, whatever the browser sends", Control: PresetsControl,
		Value: presets, Options: fieldOptions(t), Scope: &Scope{Me: scope.Me, Page: scope.Page, Want: WantText}})
	w.say(", has the button ")
	w.put(words("“"+orElse(f.Submit, "Send")+"”"), "Button", textSlot("patch.form.submit", "Words on the button", f.Submit))
	w.say(", then says ")
	w.put(words("“"+orElse(f.Thanks, "Thank you. It is saved.")+"”"), "Afterwards", textSlot("patch.form.thanks", "It says", f.Thanks))
	w.say(" and ")
	then := w.page(f.Then, "stays where it is")
	if f.Then != "" {
		then = append(words("shows "), then...)
	}
	w.put(then, "Afterwards", pickSlot("patch.form.then", "Then show", f.Then, append([]Option{{Value: "", Label: "the same page"}}, pageOptions(w.b, f.Table)...)))
}

func questionWords(t *blueprint.Table, f *blueprint.Form) []Part {
	var out []Part
	for _, q := range f.Fields {
		field := t.Field(q.Field)
		if len(out) > 0 {
			out = append(out, Part{Text: ", "})
		}
		out = append(out, Part{Text: field.Name, Ref: field.ID})
		if q.Required {
			out = append(out, Part{Text: " (required)"})
		}
	}
	if out == nil {
		return words("nothing")
	}
	return out
}

func presetWords(t *blueprint.Table, f *blueprint.Form, scope expr.Scope) []Part {
	var out []Part
	for _, pre := range f.Presets {
		field := t.Field(pre.Field)
		if len(out) > 0 {
			out = append(out, Part{Text: ", "})
		}
		out = append(out, Part{Text: field.Name, Ref: field.ID}, Part{Text: " with "})
		c, err := expr.CheckAs(pre.Value, scope, field.ExprType())
		if err != nil {
			out = append(out, Part{Text: pre.Value})
			continue
		}
		w := &worder{catalog: scope.Catalog}
		w.node(c.Root, false)
		out = append(out, w.parts...)
	}
	if out == nil {
		return words("nothing by itself")
	}
	return out
}
