package blueprint

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

// AddPage adds a page that opens to those signed in. With a record table it is
// about one record of it and starts with its details.
type AddPage struct {
	ID     string   `json:"id,omitempty"`
	Blocks []string `json:"blocks,omitempty"` // ids of the first two blocks
	Name   string   `json:"name"`
	Record string   `json:"record,omitempty"`
}

func (c *AddPage) fill(newID func() string) {
	fillID(&c.ID, newID)
	for len(c.Blocks) < 2 {
		c.Blocks = append(c.Blocks, newID())
	}
}

func (c *AddPage) apply(b *Blueprint) error {
	name := strings.TrimSpace(c.Name)
	p := Page{ID: c.ID, Path: b.pagePath(name, c.ID), Name: name, Record: c.Record, Audience: SignedIn, InMenu: c.Record == ""}
	p.Blocks = []Block{{ID: c.Blocks[0], Kind: HeadingBlock, Text: name}}
	if t := b.Table(c.Record); t != nil {
		p.Blocks = append(p.Blocks, Block{ID: c.Blocks[1], Kind: DetailsBlock, Details: &Details{Fields: t.firstFields(6)}})
	}
	b.Pages = append(b.Pages, p)
	return nil
}

func (t *Table) firstFields(n int) []string {
	var out []string
	for _, f := range t.Fields[:min(n, len(t.Fields))] {
		out = append(out, f.ID)
	}
	return out
}

// RenamePage gives a page another name and address.
type RenamePage struct {
	Page string `json:"page"`
	Name string `json:"name"`
}

func (c *RenamePage) apply(b *Blueprint) error {
	p := b.Page(c.Page)
	if p == nil {
		return gone("page")
	}
	p.Name = strings.TrimSpace(c.Name)
	p.Path = b.pagePath(p.Name, p.ID)
	return nil
}

// RemovePage removes a page that nothing leads to.
type RemovePage struct {
	Page string `json:"page"`
}

func (c *RemovePage) apply(b *Blueprint) error {
	p := b.Page(c.Page)
	if p == nil {
		return gone("page")
	}
	var uses []string
	for _, other := range b.Pages {
		if other.ID == p.ID {
			continue
		}
		for _, x := range other.Blocks {
			if x.Page == p.ID || x.List != nil && x.List.Open == p.ID || x.Form != nil && x.Form.Then == p.ID {
				uses = append(uses, fmt.Sprintf("a %s on %s", x.Kind, other.Name))
			}
		}
	}
	for _, r := range b.Roles {
		if slices.ContainsFunc(r.Homes, func(h Home) bool { return h.Page == p.ID }) {
			uses = append(uses, "signing in as one of "+r.Name)
		}
	}
	if len(uses) > 0 {
		return problem("The page %s cannot be removed: %s leads to it. Change that first.", p.Name, joinWords(uses))
	}
	b.Pages = slices.DeleteFunc(b.Pages, func(x Page) bool { return x.ID == c.Page })
	return nil
}

// MovePage puts a page at another place in the order of pages, counted from 0.
type MovePage struct {
	Page string `json:"page"`
	To   int    `json:"to"`
}

func (c *MovePage) apply(b *Blueprint) error {
	i := slices.IndexFunc(b.Pages, func(p Page) bool { return p.ID == c.Page })
	if i < 0 {
		return gone("page")
	}
	move(b.Pages, i, c.To)
	return nil
}

// SetAudience says who may open a page.
type SetAudience struct {
	Page     string   `json:"page"`
	Audience Audience `json:"audience"`
	Roles    []string `json:"roles,omitempty"`
}

func (c *SetAudience) apply(b *Blueprint) error {
	p := b.Page(c.Page)
	if p == nil {
		return gone("page")
	}
	p.Audience, p.Roles = c.Audience, nil
	if c.Audience == SomeRole {
		p.Roles = c.Roles
	}
	return nil
}

// SetInMenu says whether the menu leads to a page.
type SetInMenu struct {
	Page   string `json:"page"`
	InMenu bool   `json:"inMenu"`
}

func (c *SetInMenu) apply(b *Blueprint) error {
	p := b.Page(c.Page)
	if p == nil {
		return gone("page")
	}
	p.InMenu = c.InMenu
	return nil
}

// AddBlock adds a block at the end of a page. What the kind needs beyond the
// table or the page named here gets a sensible start.
type AddBlock struct {
	Page  string    `json:"page"`
	ID    string    `json:"id,omitempty"`
	Block BlockKind `json:"block"`
	Text  string    `json:"text,omitempty"`
	Table string    `json:"table,omitempty"` // for a list or a form
	To    string    `json:"to,omitempty"`    // for a button
}

func (c *AddBlock) fill(newID func() string) { fillID(&c.ID, newID) }

func (c *AddBlock) apply(b *Blueprint) error {
	p := b.Page(c.Page)
	if p == nil {
		return gone("page")
	}
	x := Block{ID: c.ID, Kind: c.Block, Text: c.Text}
	switch c.Block {
	case HeadingBlock:
		x.setDefaultText("New heading")
	case TextBlock:
		x.setDefaultText("Write something here.")
	case ButtonBlock:
		x.Page = c.To
		if target := b.Page(c.To); target != nil {
			x.setDefaultText(target.Name)
		}
	case ListBlock:
		x.List = &List{Table: c.Table}
		x.List.follow(b)
	case DetailsBlock:
		x.Details = &Details{}
		if t := b.Table(p.Record); t != nil {
			x.Details.Fields = t.firstFields(6)
		}
	case FormBlock:
		x.Form = &Form{Table: c.Table}
		x.Form.follow(b)
	}
	p.Blocks = append(p.Blocks, x)
	return nil
}

func (x *Block) setDefaultText(text string) {
	if strings.TrimSpace(x.Text) == "" {
		x.Text = text
	}
}

// follow sets what depends on the list's table after the table was chosen.
func (l *List) follow(b *Blueprint) {
	l.Columns, l.Filter, l.Sort, l.Open = nil, "", "", ""
	if t := b.Table(l.Table); t != nil {
		l.Columns = t.firstFields(4)
	}
	for _, p := range b.Pages {
		if p.Record != "" && p.Record == l.Table {
			l.Open = p.ID
			break
		}
	}
}

// follow sets what depends on the form's table after the table was chosen.
func (f *Form) follow(b *Blueprint) {
	f.Fields, f.Presets, f.Then = nil, nil, ""
	if t := b.Table(f.Table); t != nil {
		for _, id := range t.firstFields(6) {
			f.Fields = append(f.Fields, FormField{Field: id, Required: t.Field(id).Required})
		}
	}
}

// SetBlock changes settings of a block. Patch is a JSON object in the shape of
// a [Block] that holds just the settings that change.
type SetBlock struct {
	Page  string          `json:"page"`
	Block string          `json:"block"`
	Patch json.RawMessage `json:"patch"`
}

func (c *SetBlock) apply(b *Blueprint) error {
	p := b.Page(c.Page)
	if p == nil {
		return gone("page")
	}
	x := p.Block(c.Block)
	if x == nil {
		return gone("block")
	}
	id, kind := x.ID, x.Kind
	var listTable, formTable string
	if x.List != nil {
		listTable = x.List.Table
	}
	if x.Form != nil {
		formTable = x.Form.Table
	}
	if err := strictly(c.Patch, x); err != nil {
		return problem("These settings of the block are not well formed: %v.", err)
	}
	x.ID, x.Kind = id, kind
	if x.List != nil && x.List.Table != listTable {
		x.List.follow(b)
	}
	if x.Form != nil && x.Form.Table != formTable {
		x.Form.follow(b)
	}
	return nil
}

// RemoveBlock removes a block from a page.
type RemoveBlock struct {
	Page  string `json:"page"`
	Block string `json:"block"`
}

func (c *RemoveBlock) apply(b *Blueprint) error {
	p := b.Page(c.Page)
	if p == nil || p.Block(c.Block) == nil {
		return gone("block")
	}
	p.Blocks = slices.DeleteFunc(p.Blocks, func(x Block) bool { return x.ID == c.Block })
	return nil
}

// MoveBlock puts a block at another place on its page, counted from 0.
type MoveBlock struct {
	Page  string `json:"page"`
	Block string `json:"block"`
	To    int    `json:"to"`
}

func (c *MoveBlock) apply(b *Blueprint) error {
	p := b.Page(c.Page)
	if p == nil || p.Block(c.Block) == nil {
		return gone("block")
	}
	move(p.Blocks, slices.IndexFunc(p.Blocks, func(x Block) bool { return x.ID == c.Block }), c.To)
	return nil
}
