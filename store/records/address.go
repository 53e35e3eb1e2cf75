package records

import (
	"context"
	"fmt"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
)

// lockAddress has whoever writes an address wait for others who write the same, until
// the end of the transaction, so that two make one record with it.
func (r Road) lockAddress(ctx context.Context, s *Seat, email string) error {
	key := s.Schema + " " + strings.ToLower(email)
	if err := r.db.WithContext(ctx).Exec("SELECT pg_advisory_xact_lock(hashtext(?))", key).Error; err != nil {
		return fmt.Errorf("lock an address: %w", err)
	}
	return nil
}

// ownAddress refuses what was written to a record when it has the address of somebody
// else by it. Founders may give several the same where these are told apart by what
// only they know; all others, only one that nobody in the app has: whoever has it could
// be taken for somebody, or keep them from being let in.
func (r Road) ownAddress(ctx context.Context, s *Seat, t *blueprint.Table, id string, values map[string]expr.Value) error {
	for _, fid := range keys(values) {
		roles := s.Blueprint.KnownBy(t.ID, fid)
		if values[fid].IsEmpty() || len(roles) == 0 || s.Viewer.Founder && toldApart(s.Blueprint, roles) {
			continue
		}
		if err := r.lockAddress(ctx, s, values[fid].Text); err != nil {
			return err
		}
		held, err := r.held(ctx, s, t, id, fid, values[fid].Text)
		if err != nil {
			return err
		}
		if held {
			return FieldErrors{fid: words.New("person-known")}
		}
	}
	return nil
}

// KnownElsewhere tells whether somebody is known by an address in another table, so that whoever
// sits in the seat may not add a record with it. The caller does not tell.
func (r Road) KnownElsewhere(ctx context.Context, s *Seat, t *blueprint.Table, f *blueprint.Field, text string) (bool, error) {
	if len(s.Blueprint.KnownBy(t.ID, f.ID)) == 0 {
		return false, nil
	}
	return r.held(ctx, s, t, noRecord, f.ID, text)
}

// noRecord is the id of no record.
const noRecord = "00000000-0000-0000-0000-000000000000"

// held tells whether another record of the table holds the address, or for those who
// are no founders, a record of any table by which people are known.
func (r Road) held(ctx context.Context, s *Seat, t *blueprint.Table, id, field, email string) (bool, error) {
	places := [][2]string{{t.ID, field}}
	if !s.Viewer.Founder {
		places = s.Blueprint.Addresses()
	}
	var parts []string
	for _, p := range places {
		at := s.Blueprint.Table(p[0])
		parts = append(parts, fmt.Sprintf("SELECT 1 FROM %s WHERE deleted_at IS NULL AND lower(%s) = lower($1::text) AND id <> $2::uuid",
			s.context().TableName(at), query.Quote(at.Field(p[1]).Key)))
	}
	n, err := r.number(ctx, query.Statement{SQL: "SELECT count(*) FROM (" + strings.Join(parts, " UNION ALL ") + " LIMIT 1) q",
		Args: []any{email, id}})
	if err != nil {
		return false, fmt.Errorf("look who has an address: %w", err)
	}
	return n > 0, nil
}

// toldApart tells whether those of the roles who share an address can be told apart.
func toldApart(b *blueprint.Blueprint, roles []*blueprint.Role) bool {
	if !b.Gate.Lets(blueprint.FieldsWay) {
		return false
	}
	for _, role := range roles {
		if len(role.Match) == 0 {
			return false
		}
	}
	return true
}
