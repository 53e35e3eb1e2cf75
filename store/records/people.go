package records

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/query"
)

// PeopleWith finds who has the e-mail address: a viewer with a membership for
// each role in whose table it stands, in exactly one record. The second result
// tells whether there is any.
func (r Road) PeopleWith(ctx context.Context, s *Seat, email string) (access.Viewer, bool, error) {
	v := access.Viewer{Email: strings.ToLower(email)}
	for i := range s.Blueprint.Roles {
		role := &s.Blueprint.Roles[i]
		t := s.Blueprint.Table(role.People)
		if t == nil || t.Field(role.Email) == nil {
			continue
		}
		sql := fmt.Sprintf("SELECT id::text FROM %s WHERE deleted_at IS NULL AND lower(%s) = lower($1::text) LIMIT 2", s.context().TableName(t), query.Quote(t.Field(role.Email).Key))
		ids, err := r.rows(ctx, query.Statement{SQL: sql, Args: []any{email}})
		if err != nil {
			return v, false, fmt.Errorf("find a person of %s: %w", role.Name, err)
		}
		if len(ids) == 1 {
			v.Memberships = append(v.Memberships, access.Membership{Role: role.ID, Record: string(ids[0])})
		}
	}
	if len(v.Memberships) == 0 {
		return access.Visitor(), false, nil
	}
	var err error
	v.Name, err = r.nameOf(ctx, s, v)
	return v, true, err
}

// nameOf gives the label of the person's own record, or the e-mail where there
// is none.
func (r Road) nameOf(ctx context.Context, s *Seat, v access.Viewer) (string, error) {
	self := *s
	self.seeing, self.Viewer = nil, access.Viewer{Founder: true}
	m := v.Memberships[0]
	name, err := r.labelOf(ctx, &self, s.Blueprint.Table(s.Blueprint.Role(m.Role).People), m.Record)
	if name == "" {
		name = v.Email
	}
	return name, err
}

func (r Road) labelOf(ctx context.Context, s *Seat, t *blueprint.Table, id string) (string, error) {
	rows, _, err := r.List(ctx, s, query.List{Table: t, ID: id, Limit: 1})
	if err != nil {
		return "", err
	}
	if len(rows) == 0 {
		return "", errors.New("no such person")
	}
	return labelOfRow(rows[0])
}

// Person gives the viewer that somebody named by role and record is; for
// looking at the app as that person.
func (r Road) Person(ctx context.Context, s *Seat, roleID, record string) (access.Viewer, error) {
	role := s.Blueprint.Role(roleID)
	if role == nil || s.Blueprint.Table(role.People) == nil {
		return access.Viewer{}, ErrForbidden
	}
	t := s.Blueprint.Table(role.People)
	self := *s
	self.seeing, self.Viewer = nil, access.Viewer{Founder: true}
	current, err := r.current(ctx, &self, t, record, []string{role.Email})
	if err != nil {
		return access.Viewer{}, err
	}
	if email, ok := current[role.Email].(string); ok {
		v, found, err := r.PeopleWith(ctx, s, email)
		if err != nil || found {
			return v, err
		}
	}
	name, err := r.labelOf(ctx, &self, t, record)
	return access.Viewer{Memberships: []access.Membership{{Role: role.ID, Record: record}}, Name: name}, err
}
