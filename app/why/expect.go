package why

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/sentence"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// Held tells whether an expectation is met, and where it is not, why.
type Held struct {
	ID     string `json:"id"`
	Role   string `json:"role"`
	Text   string `json:"text"`
	Holds  bool   `json:"holds"`
	Reason string `json:"reason,omitempty"`
}

// Expectations tries what a blueprint expects with the records of the place in
// which a founder sits.
func Expectations(ctx context.Context, road records.Road, founder *records.Seat) ([]Held, error) {
	out := []Held{}
	b := founder.Blueprint
	try := trial{ctx: ctx, road: road, seat: founder}
	for i := range b.Expectations {
		e := &b.Expectations[i]
		reason, err := try.broken(e)
		if store.Trouble(err) == store.ErrLong { // what could not be tried is not met
			return nil, errors.Join(words.New("expect-long", "expectation", sentence.Expectation(b, e.ID)), err)
		}
		if err != nil {
			return nil, fmt.Errorf("try what is expected of %s: %w", b.Role(e.Role).Name, err)
		}
		out = append(out, Held{e.ID, e.Role, sentence.Expectation(b, e.ID), reason == "", reason})
	}
	return out, nil
}

// broken says why an expectation is not met; "" where it is. What is expected
// without exception is read off the rules, so that it holds for records to come
// as well; all else is tried as the people of the role.
func (t trial) broken(e *blueprint.Expectation) (string, error) {
	b := t.seat.Blueprint
	r, table := b.Role(e.Role), b.Table(e.Table)
	rule := r.Rule(table.ID)
	if x := rule.Permission(e.Action).Extent; x == blueprint.NoRecords || x == "" {
		return "", nil
	}
	if f := table.Field(e.Field); f != nil {
		if slices.Contains(rule.Hidden, f.ID) {
			return "", nil
		}
		return words.Say("expect-shown", words.Args{"field": f.Name, "role": r.Name}), nil
	}
	if e.Except == "" {
		return words.Say("expect-rule", words.Args{"role": r.Name, "action": string(e.Action), "table": table.Name}), nil
	}
	except, err := expr.CheckCondition("not ("+e.Except+")", r.RuleScope(table.ID, t.seat.Catalog))
	if err != nil {
		return "", err
	}
	if b.Table(r.People) == nil {
		return "", nil
	}
	raw, err := t.road.Beyond(t.ctx, t.seat, r, query.Selection{Table: table, Filter: except})
	if err != nil || raw == nil {
		return "", err
	}
	var p named
	if err := json.Unmarshal(raw, &p); err != nil {
		return "", fmt.Errorf("read a person: %w", err)
	}
	return t.beyond(p, r, table, except)
}

// beyond says what a person of the role sees beyond the exception, if anything.
func (t trial) beyond(p named, r *blueprint.Role, table *blueprint.Table, except *expr.Checked) (string, error) {
	v := access.Viewer{Name: p.name(), Memberships: []access.Membership{{Role: r.ID, Record: p.ID}}}
	l := query.Selection{Table: table, Filter: except, Limit: 1}
	found, err := t.list(v, l)
	if err != nil {
		return "", err
	}
	if len(found) == 0 { // it was seen a moment ago
		return words.Say("expect-rule", words.Args{"role": r.Name, "action": string(blueprint.See), "table": table.Name}), nil
	}
	n, err := t.road.Count(t.ctx, seatOf(t.seat, v), l)
	if err != nil {
		return "", err
	}
	return words.Say("expect-seen", words.Args{"person": p.name(), "record": found[0].name(), "table": table.Name, "n": n - 1}), nil
}
