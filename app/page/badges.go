package page

import (
	"fmt"
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/store/records"
)

// Badges are what whoever looks reached, and what they still can.
type Badges struct {
	Head
	Title  string      `json:"title,omitempty"`
	Badges []BadgeHeld `json:"badges"`
	// Hidden tells that whoever looks does not see badges, or is no person who could have one.
	Hidden bool `json:"hidden,omitempty"`
}

// BadgeHeld is a badge: how often somebody reached it, and when last, an RFC 3339 time; 0 for one that is still to be reached.
type BadgeHeld struct {
	Name    string `json:"name"`
	Picture string `json:"picture,omitempty"`
	Times   int    `json:"times"`
	Last    string `json:"last,omitempty"`
	// Measures with their targets, and the range, say how it is reached; none where no figure that they see gives it any more.
	Measures []Measure `json:"measures,omitempty"`
	Range    string    `json:"range,omitempty"`
}

// mostBadges is how many badges of somebody are counted.
const mostBadges = 2000

// collected is the figure by which the badges of a table are known, or nil.
func (v *View) collected(x *blueprint.BadgesBlock) *blueprint.FigureBlock {
	for f := range v.Seat.Blueprint.BadgesIn(x.From) {
		return f
	}
	return nil
}

// holds tells whether whoever looks is one of those who can have badges, and sees these.
func (v *View) holds(f *blueprint.FigureBlock) (bool, error) {
	if f == nil {
		return false, nil
	}
	t := v.Seat.Blueprint.Table(f.Badges)
	seen, err := v.seen(t.ID, []string{f.Who, f.Named, f.For, f.Won})
	return len(seen) == 4 && v.Seat.Viewer.Me(v.Seat.Blueprint, t.Field(f.Who).Target) != "", err
}

func badgesReads(v *View, x *blueprint.BadgesBlock) ([]records.Read, error) {
	out, err := v.reading(x.Title)
	if err != nil {
		return nil, err
	}
	f := v.collected(x)
	sees, err := v.holds(f)
	if err != nil || !sees {
		return out, err
	}
	mine, err := v.Seat.Blueprint.BadgesOfMe(f, v.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read the badges on %s: %w", v.Page.Name, err)
	}
	columns, err := v.seen(x.From, []string{f.Named, f.Pics, f.For, f.Won})
	return append(out, records.Read{List: &query.Selection{Table: v.Seat.Blueprint.Table(x.From), Columns: columns, Limit: mostBadges,
		Sorts: []query.Sort{{Field: f.Won, Falling: true}}, Filter: mine}}), err
}

func showBadges(v *View, x *blueprint.BadgesBlock, got []records.Result) (*Badges, error) {
	title, err := v.filled(x.Title, got)
	if err != nil {
		return nil, err
	}
	out := &Badges{Title: title.Text, Badges: []BadgeHeld{}}
	f := v.collected(x)
	sees, err := v.holds(f)
	if err != nil {
		return nil, err
	}
	out.Hidden = !sees && !v.Seat.Viewer.Founder // who sees what there is for people
	var rows []Row
	switch {
	case out.Hidden:
		return out, nil
	case sees:
		if rows, err = Rows(got[len(got)-1].Rows); err != nil {
			return nil, err
		}
	}
	at := map[string]int{} // by the id of the figure
	for g, p := range v.Seat.Blueprint.BadgesIn(x.From) {
		if !v.Seat.Viewer.MayOpen(p) {
			continue
		}
		held, err := v.reachable(g, p)
		if err != nil {
			return nil, err
		}
		if len(held.Measures) > 0 {
			at[g.ID] = len(out.Badges)
			out.Badges = append(out.Badges, held)
		}
	}
	for _, row := range rows {
		won, _ := row[f.Won].(string)
		figure, _ := row[f.For].(string)
		if won == "" {
			continue // it was taken back
		}
		i, known := at[figure]
		if !known {
			i, at[figure] = len(out.Badges), len(out.Badges)
			held := BadgeHeld{}
			held.Name, _ = row[f.Named].(string)
			held.Picture, _ = row[f.Pics].(string)
			out.Badges = append(out.Badges, held)
		}
		b := &out.Badges[i]
		if b.Times++; b.Last == "" {
			b.Last = won
		}
	}
	slices.SortStableFunc(out.Badges, func(a, b BadgeHeld) int { return min(b.Times, 1) - min(a.Times, 1) })
	return out, nil
}

// reachable is a badge that somebody can reach, and how.
func (v *View) reachable(f *blueprint.FigureBlock, p *blueprint.Page) (BadgeHeld, error) {
	r, err := open(v.Road, v.Seat, p).reported(f)
	if err != nil {
		return BadgeHeld{}, err
	}
	out := BadgeHeld{Name: f.Badge, Picture: f.Picture, Range: r.days.Range}
	_, measures := r.shown()
	for _, m := range measures {
		if m.Goal != nil {
			out.Measures = append(out.Measures, m)
		}
	}
	return out, nil
}
