package why

import (
	"context"
	"fmt"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/prop"
	"pinegate/core/query"
	"pinegate/core/sentence"
	"pinegate/store"
	"pinegate/store/records"
)

// RoleSees tells whether a role sees a record, by which rule, and who of it.
type RoleSees struct {
	Role  string      `json:"role"`
	Name  string      `json:"name"`
	Reach prop.Extent `json:"reach"`
	// Rule tells which records the role sees, where that is some of them, and
	// Values what the record has for what the rule looks at.
	Rule   string       `json:"rule,omitempty"`
	Values []NamedValue `json:"values"`
	People []string     `json:"people"` // who sees it, of those who were tried
	Tried  int          `json:"tried"`
	More   bool         `json:"more"` // there are people who were not tried
}

// WhoSees tells which roles see a record, and who of them, where a founder sits.
func WhoSees(ctx context.Context, road records.Road, founder *records.Seat, table, record string) ([]RoleSees, error) {
	b := founder.Blueprint
	t := b.Table(table)
	if t == nil {
		return nil, store.ErrNotFound
	}
	w := &who{trial{ctx: ctx, road: road, seat: founder}, t, record}
	if n, err := road.Count(ctx, founder, query.Selection{Table: t, ID: record}); err != nil || n == 0 {
		if err == nil {
			err = store.ErrNotFound
		}
		return nil, err
	}
	out := []RoleSees{}
	for i := range b.Roles {
		sees, err := w.role(&b.Roles[i])
		if err != nil {
			return nil, fmt.Errorf("see who of %s sees a record: %w", b.Roles[i].Name, err)
		}
		out = append(out, sees)
	}
	return out, nil
}

// who finds out who sees one record.
type who struct {
	trial
	table  *blueprint.Table
	record string
}

func (w *who) role(r *blueprint.Role) (RoleSees, error) {
	p := r.Rule(w.table.ID).See
	out := RoleSees{Role: r.ID, Name: r.Name, Reach: p.Extent, Values: []NamedValue{}, People: []string{}}
	if out.Reach == "" {
		out.Reach = blueprint.NoRecords
	}
	if p.Extent != blueprint.Where {
		return out, nil
	}
	c, err := w.seat.Blueprint.Condition(r, w.table.ID, blueprint.See, w.seat.Catalog)
	if err != nil {
		return out, err
	}
	out.Rule = sentence.Condition(p.Condition, r.RuleScope(w.table.ID, w.seat.Catalog))
	if out.Values, err = w.values(c, w.table, w.record); err != nil {
		return out, err
	}
	viewers := []named{{}} // visitors are nobody in particular
	if r.ID != blueprint.VisitorRole {
		if viewers, err = w.people(r); err != nil {
			return out, err
		}
	}
	out.Tried, out.More = len(viewers), len(viewers) == mostTried
	for _, v := range viewers {
		seat := seatOf(w.seat, access.Viewer{Memberships: []access.Membership{{Role: r.ID, Record: v.ID}}})
		n, err := w.road.Count(w.ctx, seat, query.Selection{Table: w.table, ID: w.record})
		if err != nil {
			return out, err
		}
		if n > 0 && v.ID != "" {
			out.People = append(out.People, v.name())
		} else if n > 0 {
			out.People = append(out.People, r.Name)
		}
	}
	return out, nil
}
