package records

import (
	"context"
	"encoding/json"
	"fmt"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
)

// Welcome makes the owner of an e-mail address one of a role's people. A record
// with the address that is there already becomes theirs, and what is empty in it
// is filled in; else one is added. It is for the gate, which sits as a founder
// and has confirmed the address.
func (r Road) Welcome(ctx context.Context, s *Seat, role *blueprint.Role, email string, values Values,
	presets map[string]expr.Value) (*Write, error) {
	if !s.Viewer.Founder {
		return nil, ErrForbidden
	}
	t := s.Blueprint.Table(role.People)
	// two who confirm at once make one record
	if err := r.lockAddress(ctx, s, email); err != nil {
		return nil, err
	}
	anybody := *role
	anybody.Where, anybody.Admit, anybody.Homes = "", "", nil
	there, err := r.seek(ctx, s, []*blueprint.Role{&anybody}, query.Sought{Email: email})
	if err != nil {
		return nil, err
	}
	switch len(there) {
	case 0:
		all := Values{}
		for id, v := range values {
			all[id] = v
		}
		raw, err := json.Marshal(email)
		if err != nil {
			return nil, fmt.Errorf("write an address: %w", err)
		}
		all[role.Email] = raw
		return r.Add(ctx, s, t, all, presets)
	case 1:
		return r.fillEmpty(ctx, s, t, there[0].Record, values, presets)
	}
	return nil, words.New("gate-several")
}

// fillEmpty changes what is empty in a record.
func (r Road) fillEmpty(ctx context.Context, s *Seat, t *blueprint.Table, id string, values Values, presets map[string]expr.Value) (*Write,
	error) {
	fields := make([]string, 0, len(values)+len(presets))
	for f := range values {
		fields = append(fields, f)
	}
	for f := range presets {
		fields = append(fields, f)
	}
	now, err := r.current(ctx, s, t, id, fields)
	if err != nil {
		return nil, err
	}
	entered, given := Values{}, map[string]expr.Value{}
	for f, v := range values {
		if now[f] == nil {
			entered[f] = v
		}
	}
	for f, v := range presets {
		if now[f] == nil {
			given[f] = v
		}
	}
	revision, ok, err := r.permitted(ctx, s, t, id, blueprint.Modify, nil)
	if err != nil || !ok {
		return nil, refusedOr(err)
	}
	if len(entered)+len(given) == 0 {
		return &Write{Table: t.ID, Record: id}, nil
	}
	return r.Change(ctx, s, t, id, revision, entered, given)
}

func refusedOr(err error) error {
	if err != nil {
		return err
	}
	return ErrForbidden
}

// own lists somebody's records in tables of people, each once, with the role.
func own(b *blueprint.Blueprint, v access.Viewer) []access.Membership {
	var out []access.Membership
	seen := map[string]bool{}
	for _, m := range v.Memberships {
		if m.Record != "" && !seen[m.Record] && b.Role(m.Role) != nil {
			seen[m.Record] = true
			out = append(out, m)
		}
	}
	return out
}

// Readdress sets the address by which somebody is known in all their records.
// It is for the gate, which sits as a founder and has confirmed the address.
func (r Road) Readdress(ctx context.Context, s *Seat, v access.Viewer, email string) ([]*Write, error) {
	raw, err := json.Marshal(email)
	if err != nil {
		return nil, fmt.Errorf("write an address: %w", err)
	}
	return r.eachOwn(ctx, s, v, func(role *blueprint.Role, t *blueprint.Table, id string, revision int) (*Write, error) {
		return r.Change(ctx, s, t, id, revision, Values{role.Email: raw}, nil)
	})
}

// Leave moves all records that somebody is to the bin. It is for the gate, which
// sits as a founder.
func (r Road) Leave(ctx context.Context, s *Seat, v access.Viewer) ([]*Write, error) {
	return r.eachOwn(ctx, s, v, func(_ *blueprint.Role, t *blueprint.Table, id string, revision int) (*Write, error) {
		return r.Delete(ctx, s, t, id, revision)
	})
}

func (r Road) eachOwn(ctx context.Context, s *Seat, v access.Viewer,
	do func(*blueprint.Role, *blueprint.Table, string, int) (*Write, error)) ([]*Write, error) {
	if !s.Viewer.Founder {
		return nil, ErrForbidden
	}
	var out []*Write
	for _, m := range own(s.Blueprint, v) {
		role := s.Blueprint.Role(m.Role)
		t := s.Blueprint.Table(role.People)
		revision, ok, err := r.permitted(ctx, s, t, m.Record, blueprint.Modify, nil)
		if err != nil || !ok {
			return nil, refusedOr(err)
		}
		w, err := do(role, t, m.Record, revision)
		if err != nil {
			return nil, err
		}
		out = append(out, w)
	}
	return out, nil
}
