package page

import (
	"context"
	"slices"
	"time"

	"github.com/shopspring/decimal"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/report"
	"pinegate/store"
	"pinegate/store/records"
)

// Behind are records of which a figure, or a group of a chart, is made, as whoever looks sees them.
type Behind struct {
	Columns []Column `json:"columns"`
	Rows    []Row    `json:"rows"`
	Count   int      `json:"count"`
	Open    string   `json:"open,omitempty"` // path of the page that a row opens, or ""
}

// mostBehind is how many records are shown of those of which something is made.
const mostBehind = 50

// Piece is of which piece of a chart records are asked for: a group, and a part of it. Either is a key, as it was told, "" for
// those that have no value; nil where it is not asked for. Others asks for what is left beside the groups that are shown.
type Piece struct {
	Group, Part *string
	Others      bool
}

// Behind lists the records behind a figure, or behind a piece of a chart.
func (v *View) Behind(ctx context.Context, id string, piece Piece) (*Behind, error) {
	in, x, err := At[blueprint.Reporter](v, id)
	if err != nil {
		return nil, err
	}
	q, fields, err := in.behind(x, piece)
	if err != nil {
		return nil, err
	}
	if piece.Others {
		left, err := in.left(ctx, x)
		if err != nil {
			return nil, err
		}
		q.Narrows = append(q.Narrows, left)
	}
	t := q.Table
	if q.Columns, err = in.seen(t.ID, fields); err != nil {
		return nil, err
	}
	q.Limit = mostBehind
	if day := x.Report().Date; slices.Contains(q.Columns, day) {
		q.Sorts = []query.Sort{{Field: day, Falling: true}}
	}
	count, err := in.Road.Count(ctx, in.Seat, q)
	if err != nil {
		return nil, err
	}
	rows, _, err := in.Road.List(ctx, in.Seat, q)
	if err != nil {
		return nil, err
	}
	out := &Behind{Columns: []Column{}, Count: count}
	for _, fid := range q.Columns {
		out.Columns = append(out.Columns, ColumnOf(in.Seat.Blueprint, in.Seat.Catalog, t, t.Field(fid)))
	}
	if out.Rows, err = Rows(rows); err != nil {
		return nil, err
	}
	for i := range in.Seat.Blueprint.Pages {
		if p := &in.Seat.Blueprint.Pages[i]; p.Record == t.ID && in.Seat.Viewer.MayOpen(p) && out.Open == "" {
			out.Open = p.Path
		}
	}
	return out, nil
}

// behind is what is read of them, and which of their fields are shown: those of which it is made.
func (v *View) behind(x blueprint.Reporter, piece Piece) (query.Selection, []string, error) {
	var none query.Selection
	r, err := v.reported(x)
	if err != nil {
		return none, nil, err
	}
	read, err := r.query(r.span)
	if err != nil {
		return none, nil, err
	}
	q := read.Selection
	if read.Since != nil {
		q.Narrows = append(q.Narrows, query.Narrow{Field: r.r.Date, Since: read.Since.At})
	}
	fields := []string{r.r.Date}
	chart, is := x.(*blueprint.ChartBlock)
	if is {
		c, err := v.charted(chart)
		if err != nil {
			return none, nil, err
		}
		fields = append(fields, c.x.By, c.x.Then)
		if sees, err := r.sees(c.x.By, c.x.Then); err != nil || !sees {
			return none, nil, store.ErrNotFound
		}
		for _, at := range []struct {
			key *string
			g   query.Grouping
		}{{piece.Group, c.groupings()[0]}, {piece.Part, query.Grouping{Field: c.x.Then}}} {
			if at.key == nil || at.g.Field == "" {
				continue
			}
			n, ok := c.within(at.g, *at.key)
			if !ok {
				return none, nil, store.ErrNotFound
			}
			q.Narrows = append(q.Narrows, n)
		}
	}
	for i := range r.r.Measures {
		if f := r.fieldOf(i); f != nil && r.r.Measures[i].Total.Of() {
			fields = append(fields, f.ID)
		}
	}
	return q, slices.DeleteFunc(fields, func(id string) bool { return id == "" }), nil
}

// left is what leaves the records of no group that a chart shows. Which those are is read anew.
func (v *View) left(ctx context.Context, x blueprint.Reporter) (query.Narrow, error) {
	out := query.Narrow{}
	chart, is := x.(*blueprint.ChartBlock)
	if !is {
		return out, store.ErrNotFound
	}
	c, err := v.charted(chart)
	if err != nil {
		return out, err
	}
	q, err := c.query(c.span, c.groupings()...)
	if err != nil {
		return out, err
	}
	got, err := v.Road.Batch(ctx, v.Seat, []records.Read{{Report: q}})
	if err != nil {
		return out, err
	}
	groups, err := c.groups(got[0])
	if err != nil {
		return out, err
	}
	out.Field = c.x.By
	some := false
	for _, g := range groups {
		if g.Others[0] {
			some = true
		} else {
			out.Except = append(out.Except, keyOf(g, 0))
		}
	}
	if !some {
		return out, store.ErrNotFound
	}
	return out, nil
}

// within is what leaves the records of a group; false where the key is none.
func (c *charted) within(g query.Grouping, key string) (query.Narrow, bool) {
	is := c.Seat.Catalog.TypeOf(c.x.Table, g.Field)
	n := query.Narrow{Field: g.Field}
	switch {
	case key == "":
		n.None = true
		return n, true
	case is.Kind == expr.Choice, is.Kind == expr.Record, is.Kind == expr.YesNo:
		n, ok := c.narrow(c.x.Table, g.Field, key)
		n.None = false // of what nobody said there is a group of its own
		return n, ok && len(n.In) == 1
	case is.Kind == expr.Date || is.Kind == expr.Time:
		day, ok := readDay(key)
		if !ok {
			return n, false
		}
		unit := g.Unit
		if unit == "" {
			unit = report.Day
		}
		n.From, n.To = report.Written(day), report.Written(c.calendar.Next(unit, day).Add(-time.Hour))
		return n, c.calendar.Start(unit, day).Equal(day)
	case is.Kind == expr.Number:
		from, err := decimal.NewFromString(key)
		if err != nil || !numberPattern.MatchString(key) {
			return n, false
		}
		if step, err := decimal.NewFromString(g.Step); err == nil && g.Step != "" {
			n.From, n.Under = from.String(), from.Add(step).String()
			return n, true
		}
		n.Is = &key
		return n, true
	}
	n.Is = &key
	return n, true
}
