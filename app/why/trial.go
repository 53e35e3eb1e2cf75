package why

import (
	"context"
	"encoding/json"
	"fmt"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/sentence"
	"pinegate/core/words"
	"pinegate/store/records"
)

// mostTried is how many people of a role are tried, those who were added first.
const mostTried = 50

// trial reads records as one person and another.
type trial struct {
	ctx  context.Context
	road records.Road
	seat *records.Seat // of the founder, who sees everything
}

// founders gives the seat of a founder in the same place.
func founders(s *records.Seat) *records.Seat {
	return seatOf(s, access.Viewer{Founder: true})
}

// seatOf gives the seat of somebody else in the same place.
func seatOf(s *records.Seat, v access.Viewer) *records.Seat {
	return &records.Seat{Schema: s.Schema, Blueprint: s.Blueprint, Catalog: s.Catalog, Viewer: v, By: s.By, Clock: s.Clock}
}

// named is a record with its label.
type named struct {
	ID    string  `json:"id"`
	Label *string `json:"label"`
}

func (n named) name() string {
	if n.Label == nil || *n.Label == "" {
		return words.Say("no-label", nil)
	}
	return *n.Label
}

func (t trial) list(v access.Viewer, l query.Selection) ([]named, error) {
	rows, _, err := t.road.List(t.ctx, seatOf(t.seat, v), l)
	if err != nil {
		return nil, err
	}
	out := make([]named, len(rows))
	for i, raw := range rows {
		if err := json.Unmarshal(raw, &out[i]); err != nil {
			return nil, fmt.Errorf("read a record: %w", err)
		}
	}
	return out, nil
}

// people gives the people of a role who can sign in.
func (t trial) people(r *blueprint.Role) ([]named, error) {
	table := t.seat.Blueprint.Table(r.People)
	if table == nil {
		return nil, nil
	}
	let, err := t.seat.Blueprint.OfPerson(r, r.LetIn(), t.seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read who is one of %s: %w", r.Name, err)
	}
	return t.list(access.Viewer{Founder: true}, query.Selection{Table: table, Filter: let, Limit: mostTried})
}

// NamedValue is a value as people read it; "" for empty.
type NamedValue struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// values gives what a record has for the fields and paths that a condition looks
// at.
func (t trial) values(c *expr.Checked, table *blueprint.Table, record string) ([]NamedValue, error) {
	looks := c.Looks()
	texts, err := t.road.Texts(t.ctx, t.seat, table, record, looks)
	if err != nil {
		return nil, err
	}
	out := []NamedValue{}
	for i, text := range texts {
		v := NamedValue{Name: sentence.Words(looks[i], t.seat.Catalog)}
		if text != nil {
			v.Value = *text
		}
		out = append(out, v)
	}
	return out, nil
}
