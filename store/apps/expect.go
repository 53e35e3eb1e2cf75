package apps

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/sentence"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// Held tells whether an expectation holds, and where it does not, why.
type Held struct {
	ID     string `json:"id"`
	Role   string `json:"role"`
	Text   string `json:"text"`
	Holds  bool   `json:"holds"`
	Reason string `json:"reason,omitempty"`
}

// mostTried is how many people of a role are tried for one expectation, those
// who were added first.
const mostTried = 50

// Expectations tries what is expected in the draft.
func (a *Apps) Expectations(ctx context.Context, app store.App) ([]Held, error) {
	b, err := a.Blueprint(ctx, app, Draft)
	if err != nil {
		return nil, err
	}
	return expectations(ctx, a.db.WithContext(ctx), app, Draft, b)
}

// expectations tries what a blueprint expects with the records of an
// environment whose tables are those of the blueprint.
func expectations(ctx context.Context, tx *gorm.DB, app store.App, env Environment, b *blueprint.Blueprint) ([]Held, error) {
	out := []Held{}
	try := trial{ctx: ctx, road: records.On(tx), seat: records.Seat{Schema: SchemaName(app, env), Blueprint: b, Catalog: b.Catalog(), Clock: expr.Clock{Now: time.Now(), Zone: b.Location()}}}
	for i := range b.Expectations {
		e := &b.Expectations[i]
		reason, err := try.broken(e)
		if err != nil {
			return nil, fmt.Errorf("try what is expected of %s: %w", b.Role(e.Role).Name, err)
		}
		out = append(out, Held{e.ID, e.Role, sentence.Expectation(b, e.ID), reason == "", reason})
	}
	return out, nil
}

// kept refuses a version of which something that is expected does not hold.
func kept(held []Held) error {
	for _, h := range held {
		if !h.Holds {
			return words.New("publish-expectation", "expectation", h.Text, "reason", h.Reason)
		}
	}
	return nil
}

// trial tries expectations.
type trial struct {
	ctx  context.Context
	road records.Road
	seat records.Seat // of nobody yet
}

// broken says why an expectation does not hold; "" where it does. What is
// expected without exception is read off the rules, so that it holds for
// records to come as well; all else is tried as the people of the role.
func (t *trial) broken(e *blueprint.Expectation) (string, error) {
	b := t.seat.Blueprint
	r, table := b.Role(e.Role), b.Table(e.Table)
	rule := r.Rule(table.ID)
	if x := rule.Permission(e.Action).Extent; x == blueprint.NoRecords || x == "" {
		return "", nil
	}
	if f := table.Field(e.Field); f != nil {
		for _, id := range rule.Hidden {
			if id == f.ID {
				return "", nil
			}
		}
		return fmt.Sprintf("no rule hides %s from %s.", f.Name, r.Name), nil
	}
	if e.Except == "" {
		return fmt.Sprintf("a rule lets %s %s some %s.", r.Name, e.Action, table.Name), nil
	}
	except, err := expr.CheckCondition("not ("+e.Except+")", r.RuleScope(table.ID, t.seat.Catalog))
	if err != nil {
		return "", err
	}
	people, err := t.people(r)
	if err != nil {
		return "", err
	}
	for _, p := range people {
		reason, err := t.beyond(p, r, table, except)
		if reason != "" || err != nil {
			return reason, err
		}
	}
	return "", nil
}

// named is a record with its label.
type named struct {
	ID    string  `json:"id"`
	Label *string `json:"label"`
}

func (n named) name() string {
	if n.Label == nil || *n.Label == "" {
		return "somebody without a name"
	}
	return *n.Label
}

func (t *trial) list(v access.Viewer, l query.List) ([]named, error) {
	seat := t.seat
	seat.Viewer = v
	rows, _, err := t.road.List(t.ctx, &seat, l)
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

func (t *trial) people(r *blueprint.Role) ([]named, error) {
	table := t.seat.Blueprint.Table(r.People)
	if table == nil {
		return nil, nil
	}
	let, err := t.seat.Blueprint.OfPerson(r, r.LetIn(), t.seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read who is one of %s: %w", r.Name, err)
	}
	return t.list(access.Viewer{Founder: true}, query.List{Table: table, Filter: let, Limit: mostTried})
}

// beyond says what a person of the role sees beyond the exception, if anything.
func (t *trial) beyond(p named, r *blueprint.Role, table *blueprint.Table, except *expr.Checked) (string, error) {
	v := access.Viewer{Name: p.name(), Memberships: []access.Membership{{Role: r.ID, Record: p.ID}}}
	l := query.List{Table: table, Filter: except, Limit: 1}
	found, err := t.list(v, l)
	if err != nil || len(found) == 0 {
		return "", err
	}
	seat := t.seat
	seat.Viewer = v
	n, err := t.road.Count(t.ctx, &seat, l)
	if err != nil {
		return "", err
	}
	what := "a record without a name"
	if found[0].Label != nil && *found[0].Label != "" {
		what = *found[0].Label
	}
	if n > 1 {
		return fmt.Sprintf("%s sees %s and %d more of %s.", p.name(), what, n-1, table.Name), nil
	}
	return fmt.Sprintf("%s sees %s of %s.", p.name(), what, table.Name), nil
}
