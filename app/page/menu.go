package page

import (
	"context"
	"fmt"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/store/records"
)

// Menu lists the pages in the menu of whoever sits in a seat.
func Menu(ctx context.Context, road records.Road, seat *records.Seat) ([]*blueprint.Page, error) {
	var out []*blueprint.Page
	for i := range seat.Blueprint.Pages {
		if p := &seat.Blueprint.Pages[i]; p.InMenu() && seat.Viewer.MayOpen(p) {
			out = append(out, p)
		}
	}
	return fitting(ctx, road, seat, out)
}

// fitting leaves of pages that are about no record, or about the page's, those that are
// shown now. Where none has a condition nothing is read.
func fitting(ctx context.Context, road records.Road, seat *records.Seat, pages []*blueprint.Page) ([]*blueprint.Page, error) {
	var reads []records.Read
	for _, p := range pages {
		c, err := seat.Blueprint.When(blueprint.Spot{Page: p}, p.When, seat.Catalog)
		if err != nil {
			return nil, fmt.Errorf("read when the page %s is shown: %w", p.Name, err)
		}
		if c != nil {
			reads = append(reads, records.Read{Texts: []*expr.Checked{c}, Table: seat.Blueprint.Table(p.Record), ID: seat.Page})
		}
	}
	if len(reads) == 0 {
		return pages, nil
	}
	got, err := road.Batch(ctx, seat, reads)
	if err != nil {
		return nil, err
	}
	var out []*blueprint.Page
	for _, p := range pages {
		if p.When != "" {
			said := got[0].Texts[0]
			got = got[1:]
			if said == nil || *said != query.Yes {
				continue
			}
		}
		out = append(out, p)
	}
	return out, nil
}

// Home gives the page at which somebody begins: the first of their home pages that they can
// open, else the first page that they can open without a record, those in the menu before
// others; nil where there is none.
func Home(ctx context.Context, road records.Road, seat *records.Seat) (*blueprint.Page, error) {
	var all, others []*blueprint.Page
	for _, id := range seat.Homes {
		if p := seat.Blueprint.Page(id); p != nil && p.Record == "" && seat.Viewer.MayOpen(p) {
			all = append(all, p)
		}
	}
	for i := range seat.Blueprint.Pages {
		p := &seat.Blueprint.Pages[i]
		switch {
		case p.Record != "" || !seat.Viewer.MayOpen(p):
		case p.InMenu():
			all = append(all, p)
		default:
			others = append(others, p)
		}
	}
	fit, err := fitting(ctx, road, seat, append(all, others...))
	if err != nil || len(fit) == 0 {
		return nil, err
	}
	return fit[0], nil
}
