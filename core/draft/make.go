package draft

import (
	"slices"
	"strconv"

	"pinegate/core/blueprint"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// maker makes the changes of the pages that were chosen.
type maker struct {
	*pages
	newID  func() string
	made   map[string]string // ids of pages that are made, by the ids of proposals
	taken  map[string]bool   // names of pages
	forms  map[string]string // ids of the forms of pages that add or change, by the ids of proposals
	out    []blueprint.Change
	chosen []Page
}

// Changes gives the changes that make the proposed pages with the ids, and those ids of
// them that are not proposed any more. Pages lead to each other, and to those that there
// are already.
func Changes(b *blueprint.Blueprint, tables, roles, take []string, newID func() string) (out []blueprint.Change, gone []string, err error) {
	all, err := Pages(b, tables, roles)
	if err != nil {
		return nil, nil, err
	}
	p := &pages{b: b, catalog: b.Catalog()}
	m := &maker{pages: p, newID: newID, made: map[string]string{}, taken: map[string]bool{}, forms: map[string]string{}}
	for i := range b.Pages {
		m.taken[lower(b.Pages[i].Name)] = true
	}
	for _, id := range take {
		if !slices.ContainsFunc(all, func(x Page) bool { return x.ID == id }) {
			gone = append(gone, id)
		}
	}
	for _, kind := range []Kind{Record, Change, Add, List, Home} {
		for _, x := range all {
			if x.Kind != kind || !slices.Contains(take, x.ID) {
				continue
			}
			if t := b.Table(x.Table); t != nil && !slices.Contains(m.tables, t) {
				m.tables = append(m.tables, t)
			}
			m.chosen = append(m.chosen, x)
			m.made[x.ID] = newID()
		}
	}
	for _, x := range m.chosen { // first, as what is on them leads from one to another
		m.page(x)
	}
	for _, x := range m.chosen {
		if err := m.fill(x); err != nil {
			return nil, nil, err
		}
	}
	m.link()
	return m.out, gone, nil
}

func (m *maker) add(c blueprint.Change) { m.out = append(m.out, c) }

// block adds a block to the page that is being made, and gives its id.
func (m *maker) block(page, kind string, pairs ...any) string {
	id := m.newID()
	m.add(blueprint.Adding("block", page, id, append([]any{"kind", kind}, pairs...)...))
	return id
}

// fresh gives a name that no other page has.
func (m *maker) fresh(name string) string {
	out := name
	for n := 2; m.taken[lower(out)]; n++ {
		out = name + " " + strconv.Itoa(n)
	}
	m.taken[lower(out)] = true
	return out
}

// page makes a page.
func (m *maker) page(x Page) {
	id := m.made[x.ID]
	values := []any{"name", m.fresh(x.Name), "audience", string(blueprint.SomeRole), "roles", x.Roles}
	if x.Kind == Record || x.Kind == Change {
		values = append(values, "record", x.Table)
	}
	if x.Kind == Add {
		values = append(values, "offMenu", true)
	}
	c := blueprint.Adding("page", "", id, values...)
	if x.Kind == Home { // at the beginning of the menu
		first := 0
		c.At = &first
	}
	m.add(c)
}

// fill puts onto a page what is to be on it.
func (m *maker) fill(x Page) error {
	id, t := m.made[x.ID], m.b.Table(x.Table)
	switch x.Kind {
	case Record:
		return m.record(x, id, t)
	case Change, Add:
		return m.form(x, id, t)
	case List:
		return m.list(x, id, t)
	default:
		return m.home(x, id)
	}
}

// The ids of the heading and the details with which a page comes.
func heading(page string) string { return page + "_1" }
func shown(page string) string   { return page + "_2" }

// record fills a page about a record: its details, and what links to it.
func (m *maker) record(x Page, id string, t *blueprint.Table) error {
	fields, err := m.seen(t, details(t), x.Roles)
	if err != nil {
		return err
	}
	m.add(blueprint.Setting(heading(id), "text", "{{ "+t.Label+" }}"))
	m.add(blueprint.Setting(shown(id), "fields", fields))
	for i := range m.b.Tables {
		u := &m.b.Tables[i]
		at := slices.IndexFunc(u.Fields, func(f blueprint.Field) bool { return f.Type == blueprint.Link && f.Target == t.ID })
		if u.ID == t.ID || at < 0 {
			continue
		}
		columns, err := m.seen(u, m.columns(u, u.Fields[at].ID), x.Roles)
		if err != nil {
			return err
		}
		if len(columns) > 0 {
			linked := []any{"table", u.ID, "title", u.Name, "filter", u.Fields[at].Key + " = page.record", "columns", columns}
			m.block(id, "records", append(linked, m.opens(u, x.Roles)...)...)
		}
	}
	return nil
}

// form fills a page that adds or changes a record.
func (m *maker) form(x Page, id string, t *blueprint.Table) error {
	action, pairs := blueprint.Add, []any{"table", t.ID}
	if x.Kind == Change {
		action, pairs = blueprint.Modify, append(pairs, "changes", true)
		m.add(&blueprint.Remove{Of: shown(id)})
	}
	fields, err := m.questions(t, x.Roles, action)
	if err != nil {
		return err
	}
	var asked []prop.Question
	for _, f := range fields {
		asked = append(asked, prop.Question{Field: f, Required: t.Field(f).Required})
	}
	m.forms[x.ID] = m.block(id, "form", append(pairs, "fields", asked, "submit", words.Say("made-save", nil))...)
	return nil
}

// list fills a page with a list of records.
func (m *maker) list(x Page, id string, t *blueprint.Table) error {
	columns, err := m.seen(t, m.columns(t, ""), x.Roles)
	if err != nil {
		return err
	}
	narrows, err := m.seen(t, filters(t), x.Roles)
	if err != nil {
		return err
	}
	ways := m.ways(t, x.Own)
	pairs := append([]any{"table", t.ID, "ways", ways, "columns", columns}, m.opens(t, x.Roles)...)
	if state := m.state(t); state != nil {
		pairs = append(pairs, "badge", state.ID)
		if slices.Contains(ways, blueprint.BoardWay) {
			pairs = append(pairs, "board", state.ID)
		}
	}
	if f := photo(t); f != nil && (slices.Contains(ways, blueprint.CardsWay) || slices.Contains(ways, blueprint.LinesWay)) {
		pairs = append(pairs, "picture", f.ID)
	}
	if day := m.day(t); day != nil {
		pairs = append(pairs, "sort", day.ID, "falling", true)
		if slices.Contains(ways, blueprint.CalendarWay) {
			pairs = append(pairs, "from", day.ID)
		}
	} else if len(columns) > 0 {
		pairs = append(pairs, "sort", columns[0])
	}
	if !x.Own {
		pairs = append(pairs, "filters", narrows, "export", true)
	}
	m.block(id, "records", append(pairs, m.adds(t, x.Roles)...)...)
	return nil
}

// home fills the page at which people of a role begin, and has them begin there.
func (m *maker) home(x Page, id string) error {
	role := x.Roles[0]
	r := m.b.Role(role)
	people := m.b.Table(r.People)
	sees, err := m.seen(people, labelFields(m.catalog, people), x.Roles)
	if err != nil {
		return err
	}
	greeting := words.Say("made-greeting", nil)
	if len(sees) > 0 {
		greeting = words.Say("made-greeting-name", words.Args{"name": "{{ me." + people.Field(sees[0]).Key + " }}"})
	}
	m.add(blueprint.Setting(heading(id), "text", greeting))
	tables := m.shown(role)
	for _, t := range tables {
		columns, err := m.seen(t, m.columns(t, ""), x.Roles)
		if err != nil {
			return err
		}
		pairs := []any{"table", t.ID, "title", t.Name, "ways", []blueprint.ListWay{blueprint.LinesWay},
			"columns", columns[:min(len(columns), 4)], "size", 5, "falling", true}
		if state := m.state(t); state != nil {
			pairs = append(pairs, "badge", state.ID)
		}
		if len(tables) > 1 {
			pairs = append(pairs, "width", string(blueprint.Half))
		}
		m.block(id, "records", append(append(pairs, m.opens(t, x.Roles)...), m.adds(t, x.Roles)...)...)
	}
	m.add(blueprint.Setting(role, "homes", []prop.Path{{Page: id}}))
	return nil
}

// opens says which page a row opens: the one that is made, or one that there is.
func (m *maker) opens(t *blueprint.Table, roles []string) []any {
	id := m.lead(Record, t, roles)
	if id == "" {
		id = m.there(roles, func(x *blueprint.Page) bool { return x.Record == t.ID })
	}
	return []any{"open", id}
}

// adds says which page adds a record, or nothing.
func (m *maker) adds(t *blueprint.Table, roles []string) []any {
	id := m.lead(Add, t, roles)
	if id == "" {
		id = m.there(roles, func(x *blueprint.Page) bool { return x.Record == "" && hasForm(x, t.ID, false) })
	}
	if id == "" {
		return nil
	}
	return []any{"add", id}
}

// lead gives the page of a kind that is made for a table, where one of the roles gets it.
func (m *maker) lead(kind Kind, t *blueprint.Table, roles []string) string {
	for _, x := range m.chosen {
		if x.Kind == kind && x.Table == t.ID && slices.ContainsFunc(x.Roles, func(r string) bool { return slices.Contains(roles, r) }) {
			return m.made[x.ID]
		}
	}
	return ""
}

// there finds a page that there is, open to one of the roles.
func (m *maker) there(roles []string, is func(*blueprint.Page) bool) string {
	for i := range m.b.Pages {
		if x := &m.b.Pages[i]; x.Admits(roles) && is(x) {
			return x.ID
		}
	}
	return ""
}

// link leads from pages to those that were made after them: from a record to the form
// that changes it, and from forms to what they wrote.
func (m *maker) link() {
	for _, x := range m.chosen {
		t := m.b.Table(x.Table)
		if x.Kind != Change && x.Kind != Add {
			continue
		}
		record := m.opens(t, x.Roles)[1]
		if record != "" {
			m.add(blueprint.Setting(m.forms[x.ID], "then", record))
		}
		if made := m.made[string(Record)+"."+t.ID]; x.Kind == Change && made != "" {
			id := m.newID()
			change := blueprint.Adding("block", made, id, "kind", "button", "page", m.made[x.ID],
				"text", words.Say("made-change-button", nil))
			place := 2
			change.At = &place // below the details
			m.add(change)
		}
	}
}
