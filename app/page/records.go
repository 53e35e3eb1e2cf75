package page

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/store/records"
)

// Records are records of a table as they are shown, the first or the next of
// them.
type Records struct {
	Head
	Columns []Column `json:"columns"`
	Rows    []Row    `json:"rows"`
	Next    string   `json:"next"`
	Open    string   `json:"open"` // path of the page that a row opens, or ""
	Empty   string   `json:"empty"`
	Sort    string   `json:"sort"`
	Falling bool     `json:"falling"`
}

// Asked is what somebody asked of a list.
type Asked struct {
	After   string
	Sort    string
	Falling bool
	Search  string
	Field   string // of the value that is asked for
	Value   string
}

const pageSize = 25

func recordsReads(v *View, x *blueprint.RecordsBlock) ([]records.Read, error) {
	q, err := v.query(x, Asked{})
	return []records.Read{{List: q}}, err
}

func showRecords(v *View, x *blueprint.RecordsBlock, got []records.Result) (*Records, error) {
	q, err := v.query(x, Asked{})
	if err != nil {
		return nil, err
	}
	return v.listed(x, q, got[0])
}

// List gives the rows of a list that somebody asked for.
func (v *View) List(ctx context.Context, x *blueprint.RecordsBlock, asked Asked) (*Records, error) {
	q, err := v.query(x, asked)
	if err != nil {
		return nil, err
	}
	got, err := v.Road.Batch(ctx, v.Seat, []records.Read{{List: q}})
	if err != nil {
		return nil, err
	}
	out, err := v.listed(x, q, got[0])
	if err == nil {
		out.Head = Head(x.BlockHead)
	}
	return out, err
}

// query says what a list reads. Hidden columns are left out, and an order that
// would tell of what is hidden.
func (v *View) query(x *blueprint.RecordsBlock, asked Asked) (*query.Selection, error) {
	b := v.Seat.Blueprint
	t := b.Table(x.Table)
	q := &query.Selection{Table: t, After: asked.After, Search: strings.TrimSpace(asked.Search), Limit: cmp.Or(x.Size, pageSize),
		FilterName: v.Page.ID + " " + x.ID}
	for _, id := range x.Columns {
		sees, err := v.Seat.Sees(t.ID, id)
		if err != nil {
			return nil, err
		}
		if sees {
			q.Columns = append(q.Columns, id)
		}
	}
	if err := v.order(q, x, asked); err != nil {
		return nil, err
	}
	filter, err := b.Filter(v.Page, x, v.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read the condition of a list on %s: %w", v.Page.Name, err)
	}
	q.Filter = filter
	return q, nil
}

// order adds the order of a list, and what somebody asked for. Only columns that
// are shown can be asked about.
func (v *View) order(q *query.Selection, x *blueprint.RecordsBlock, asked Asked) error {
	for _, id := range []string{asked.Sort, asked.Field} {
		if id != "" && !slices.Contains(q.Columns, id) {
			return errColumn()
		}
	}
	sort, falling := x.Sort, x.Falling
	if asked.Sort != "" {
		sort, falling = asked.Sort, asked.Falling
	}
	switch {
	case sort != "":
		by := query.SortBy(sort, falling)
		sees, err := v.Seat.Sees(q.Table.ID, by.Field)
		if err != nil {
			return err
		}
		if sees {
			q.Sorts = []query.Sort{by}
		}
	case falling:
		q.Newest = true
	}
	if asked.Field == "" {
		return nil
	}
	switch f := q.Table.Field(asked.Field); f.Type {
	case blueprint.Choose, blueprint.Text, blueprint.Email:
		q.Equals = map[string]string{asked.Field: asked.Value}
		return nil
	}
	return errColumn()
}

// listed makes what is shown of what was read.
func (v *View) listed(x *blueprint.RecordsBlock, q *query.Selection, got records.Result) (*Records, error) {
	b := v.Seat.Blueprint
	out := &Records{Columns: []Column{}, Empty: x.Empty, Next: got.Next}
	for _, id := range q.Columns {
		out.Columns = append(out.Columns, ColumnOf(b, v.Seat.Catalog, q.Table, q.Table.Field(id)))
	}
	if len(q.Sorts) > 0 {
		out.Sort, out.Falling = q.Sorts[0].Field, q.Sorts[0].Falling
	}
	if p := b.Page(x.Open); p != nil && v.Seat.Viewer.MayOpen(p) {
		out.Open = p.Path
	}
	var err error
	out.Rows, err = Rows(got.Rows)
	return out, err
}
