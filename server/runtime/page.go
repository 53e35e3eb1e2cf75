// Package runtime serves the apps that founders build, to whoever sits in the
// seat: live to their people, and on the stage to builders.
package runtime

import (
	"context"
	"fmt"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/query"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// Place is where a request sits: the app, and the seat in it. The server puts
// it into the request.
type Place struct {
	App   store.App
	Seat  *records.Seat
	Stage bool
	Host  string // network address of the browser
	Agent string // what the browser says of itself
	Token string // of the session, or ""
	// Session is the session that the request carries, or nil.
	Session *accounts.Session
	// Locked tells that nothing can be written from here.
	Locked bool
}

// shown is a page that is being put together.
type shown struct {
	*Place
	road   records.Road
	page   *blueprint.Page
	record records.Row // of the page, or nil
}

// Errors about pages, with the words for the person.
func errSignIn() error {
	return huma.Error401Unauthorized("Please sign in to see this page.")
}

func errNotYours() error {
	return huma.Error403Forbidden("This page is not open to you.")
}

// open finds the page for the path and checks that it, and the record that it
// is about, are open to the person. An empty path is the first page that is.
func (p *Place) open(ctx context.Context, a *apps.Apps, path, record string) (*shown, error) {
	b := p.Seat.Blueprint
	page := b.PageAt(path)
	if path == "" {
		page = p.home()
	}
	s := &shown{Place: p, road: a.Road(ctx), page: page}
	switch {
	case page == nil && path == "" && len(b.Pages) > 0, page != nil && !p.Seat.Viewer.MayOpen(page):
		if p.Seat.Viewer.SignedIn() {
			return nil, errNotYours()
		}
		return nil, errSignIn()
	case page == nil:
		return nil, huma.Error404NotFound("There is no such page.")
	case page.Record == "":
		return s, nil
	case !form.IsRecordID(record):
		return nil, store.ErrNotFound
	}
	row, err := s.road.Get(ctx, p.Seat, b.Table(page.Record), record)
	if err != nil {
		return nil, err
	}
	s.record = row
	p.Seat.Page = record
	return s, nil
}

// home gives the page on which the person lands, else the first page that they
// may open without a record, those in the menu before others.
func (p *Place) home() *blueprint.Page {
	for _, id := range p.Seat.Homes {
		if page := p.Seat.Blueprint.Page(id); page != nil && page.Record == "" && p.Seat.Viewer.MayOpen(page) {
			return page
		}
	}
	var other *blueprint.Page
	for i := range p.Seat.Blueprint.Pages {
		page := &p.Seat.Blueprint.Pages[i]
		if page.Record != "" || !p.Seat.Viewer.MayOpen(page) {
			continue
		}
		if page.InMenu {
			return page
		}
		if other == nil {
			other = page
		}
	}
	return other
}

func (p *Place) app() App {
	b := p.Seat.Blueprint
	out := App{Name: b.Name, Theme: string(b.Theme), Menu: []MenuItem{}, SignedIn: p.Seat.Viewer.SignedIn(), Person: p.Seat.Viewer.Name, Stage: p.Stage, Locked: p.Locked}
	if out.SignedIn && out.Person == "" {
		out.Person = seats.RoleName(b, p.Seat.Viewer)
	}
	for i := range b.Pages {
		if page := &b.Pages[i]; page.InMenu && p.Seat.Viewer.MayOpen(page) {
			out.Menu = append(out.Menu, MenuItem{page.Path, page.Name})
		}
	}
	for _, r := range b.Roles {
		out.CanSignIn = out.CanSignIn || r.People != ""
		out.CanSignUp = out.CanSignUp || r.SignUp.Mode == blueprint.Open || r.SignUp.Mode == blueprint.Approved
	}
	return out
}

func (s *shown) blocks(ctx context.Context) ([]Block, error) {
	texts, err := s.texts(ctx)
	if err != nil {
		return nil, err
	}
	out := []Block{}
	for i := range s.page.Blocks {
		x := &s.page.Blocks[i]
		block := Block{ID: x.ID, Kind: string(x.Kind), Text: texts[x.ID]}
		if s.Stage {
			block.Source = x.Text
		}
		switch x.Kind {
		case blueprint.ButtonBlock:
			block.To = s.target(x.Page)
		case blueprint.ListBlock:
			block.List, err = s.list(ctx, x.ID, x.List, listRequest{})
		case blueprint.DetailsBlock:
			block.Details, err = s.details(x.Details)
		case blueprint.FormBlock:
			block.Form, err = s.form(ctx, x.Form)
		}
		if err != nil {
			return nil, err
		}
		out = append(out, block)
	}
	return out, nil
}

// texts fills in the placeholders of the page's texts, by one statement for
// all of them.
func (s *shown) texts(ctx context.Context) (map[string]string, error) {
	b := s.Seat.Blueprint
	templates := map[string]expr.Template{}
	var exprs []*expr.Checked
	for _, x := range s.page.Blocks {
		t, err := expr.CheckTemplate(x.Text, b.PageScope(s.page, s.Seat.Catalog))
		if err != nil {
			return nil, fmt.Errorf("read a text of the page %s: %w", s.page.Name, err)
		}
		templates[x.ID] = t
		exprs = append(exprs, t.Checked()...)
	}
	values, err := s.road.Texts(ctx, s.Seat, b.Table(s.page.Record), s.Seat.Page, exprs)
	if err != nil {
		return nil, err
	}
	out := map[string]string{}
	at := 0
	for _, x := range s.page.Blocks {
		filled := make([]string, len(templates[x.ID].Checked()))
		for i := range filled {
			if v := values[at+i]; v != nil {
				filled[i] = *v
			}
		}
		at += len(filled)
		out[x.ID] = templates[x.ID].Text(filled)
	}
	return out, nil
}

// target gives where a page is, about the record in hand where it needs one;
// nil when the person may not open it.
func (s *shown) target(id string) *Target {
	page := s.Seat.Blueprint.Page(id)
	if page == nil || !s.Seat.Viewer.MayOpen(page) {
		return nil
	}
	t := &Target{Path: page.Path}
	if page.Record != "" {
		t.Record = s.Seat.Page
	}
	return t
}

// listRequest is what a person asked of a list.
type listRequest struct {
	After   string
	Sort    string
	Falling bool
	Search  string
	Field   string // of the value that is asked for
	Value   string
}

const pageSize = 25

func (s *shown) list(ctx context.Context, block string, l *blueprint.List, r listRequest) (*List, error) {
	b := s.Seat.Blueprint
	t := b.Table(l.Table)
	out := &List{Columns: []Column{}, Empty: l.Empty, Sort: l.Sort, Falling: l.Falling}
	q := query.List{Table: t, Sorts: sorts(l.Sort, l.Falling), After: r.After, Search: strings.TrimSpace(r.Search), Limit: pageSize}
	for _, id := range l.Columns {
		sees, err := s.Seat.Sees(t.ID, id)
		if err != nil {
			return nil, err
		}
		if sees {
			q.Columns = append(q.Columns, id)
			out.Columns = append(out.Columns, ColumnOf(b, s.Seat.Catalog, t, t.Field(id)))
		}
	}
	if err := ask(&q, r); err != nil {
		return nil, err
	}
	out.Sort, out.Falling = "", false
	if len(q.Sorts) > 0 {
		sees, err := s.Seat.Sees(t.ID, q.Sorts[0].Field)
		if err != nil {
			return nil, err
		}
		if !sees { // the order would tell of what is hidden
			q.Sorts = nil
		} else {
			out.Sort, out.Falling = q.Sorts[0].Field, q.Sorts[0].Falling
		}
	}
	filter, err := b.Filter(s.page, block, l, s.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read the condition of a list on %s: %w", s.page.Name, err)
	}
	q.Filter, q.FilterName = filter, s.page.ID+" "+block
	raw, next, err := s.road.List(ctx, s.Seat, q)
	if err != nil {
		return nil, err
	}
	if page := b.Page(l.Open); page != nil && s.Seat.Viewer.MayOpen(page) {
		out.Open = page.Path
	}
	out.Next = next
	out.Rows, err = Rows(raw)
	return out, err
}

func sorts(field string, falling bool) []query.Sort {
	if field == "" {
		return nil
	}
	return []query.Sort{query.SortBy(field, falling)}
}

// ask adds to a query what a person asked for. Only columns that are shown can
// be asked about; all others are answered alike.
func ask(q *query.List, r listRequest) error {
	for _, id := range []string{r.Sort, r.Field} {
		if id == "" {
			continue
		}
		shows := false
		for _, c := range q.Columns {
			shows = shows || c == id
		}
		if !shows {
			return &huma.ErrorModel{Status: http.StatusUnprocessableEntity, Title: "No such column", Detail: "There is no such column in this list."}
		}
	}
	if r.Sort != "" {
		q.Sorts = sorts(r.Sort, r.Falling)
	}
	if r.Field == "" {
		return nil
	}
	switch f := q.Table.Field(r.Field); f.Type {
	case blueprint.Choose, blueprint.Text, blueprint.Email:
		q.Equals = map[string]string{r.Field: r.Value}
		return nil
	}
	return &huma.ErrorModel{Status: http.StatusUnprocessableEntity, Title: "No such filter", Detail: "This list cannot be narrowed by that column."}
}

func (s *shown) details(d *blueprint.Details) (*Details, error) {
	b := s.Seat.Blueprint
	t := b.Table(s.page.Record)
	all, err := Rows([]records.Row{s.record})
	if err != nil {
		return nil, err
	}
	out := &Details{Columns: []Column{}, Row: Row{}}
	for _, key := range []string{"id", "revision", "label"} {
		out.Row[key] = all[0][key]
	}
	for _, id := range d.Fields {
		value, seen := all[0][id]
		if !seen {
			continue
		}
		out.Columns = append(out.Columns, ColumnOf(b, s.Seat.Catalog, t, t.Field(id)))
		out.Row[id] = value
		if label, ok := all[0][id+"~"]; ok {
			out.Row[id+"~"] = label
		}
	}
	return out, nil
}
