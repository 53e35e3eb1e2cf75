package records

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/core/words"
)

// Identity is what is found out about somebody: who they are to the app, in
// which roles they are not let in, and in which several records could be they.
type Identity struct {
	// Viewer has a membership for each role in which they are let in; a visitor
	// where there is none.
	Viewer  access.Viewer
	Email   string
	Found   []access.Membership // whether let in or not
	Refused []string            // ids of roles
	Several []string            // ids of roles
	Homes   []string            // ids of the pages on which they land, by role
}

// In tells whether they are somebody who is let in.
func (i Identity) In() bool { return len(i.Viewer.Memberships) > 0 && i.Viewer.SignedIn() }

// Second gives what they are asked for after the way in.
func (i Identity) Second(b *blueprint.Blueprint) blueprint.SecondStep {
	step := blueprint.NoSecond
	for _, m := range i.Viewer.Memberships {
		if r := b.Role(m.Role); r != nil {
			step = step.Stronger(r.Second)
		}
	}
	return step
}

// found is a row of [query.BuildPeople].
type found struct {
	Role     string
	Record   string
	Name     *string
	Email    *string
	Admitted bool
	Home     *int
	Wish     string // what stands in the field that names their home page
}

// withPeople lists the roles of which somebody can be.
func (s *Seat) withPeople(is func(*blueprint.Role) bool) []*blueprint.Role {
	var out []*blueprint.Role
	for i := range s.Blueprint.Roles {
		if r := &s.Blueprint.Roles[i]; s.Blueprint.Table(r.People) != nil && is(r) {
			out = append(out, r)
		}
	}
	return out
}

func (r Road) seek(ctx context.Context, s *Seat, roles []*blueprint.Role, who query.Sought) ([]found, error) {
	if len(roles) == 0 {
		return nil, nil
	}
	c := s.context()
	c.Viewer = access.Viewer{Founder: true}
	stmt, err := query.BuildPeople(c, roles, who)
	if err != nil {
		return nil, err
	}
	rows, err := r.rows(ctx, stmt)
	if err != nil {
		return nil, fmt.Errorf("find a person: %w", err)
	}
	out := make([]found, len(rows))
	for i, raw := range rows {
		if err := json.Unmarshal(raw, &out[i]); err != nil {
			return nil, fmt.Errorf("read a person: %w", err)
		}
	}
	return out, nil
}

// identity makes of what was found whom it tells of.
func (s *Seat) identity(list []found) Identity {
	id := Identity{Viewer: access.Visitor()}
	v := access.Viewer{}
	for _, f := range list {
		role := s.Blueprint.Role(f.Role)
		if n := len(slices.DeleteFunc(slices.Clone(list), func(x found) bool { return x.Role != f.Role })); n > 1 {
			if !slices.Contains(id.Several, f.Role) {
				id.Several = append(id.Several, f.Role)
			}
			continue
		}
		m := access.Membership{Role: f.Role, Record: f.Record}
		id.Found = append(id.Found, m)
		if id.Email == "" && f.Email != nil {
			id.Email = strings.ToLower(*f.Email)
		}
		if v.Name == "" && f.Name != nil {
			v.Name = *f.Name
		}
		if !f.Admitted {
			id.Refused = append(id.Refused, f.Role)
			continue
		}
		v.Memberships = append(v.Memberships, m)
		if p := s.Blueprint.PageNamed(role, f.Wish); p != nil {
			id.Homes = append(id.Homes, p.ID)
		}
		if f.Home != nil && *f.Home < len(role.Homes) {
			id.Homes = append(id.Homes, role.Homes[*f.Home].Page)
		}
	}
	v.Email = id.Email
	if v.Name == "" {
		v.Name = id.Email
	}
	if len(v.Memberships) > 0 {
		id.Viewer = v
	}
	return id
}

// PeopleWith finds who has the e-mail address: a membership for each role in
// whose table it stands in exactly one record that has the role.
func (r Road) PeopleWith(ctx context.Context, s *Seat, email string) (Identity, error) {
	list, err := r.seek(ctx, s, s.withPeople(func(*blueprint.Role) bool { return true }), query.Sought{Email: email})
	return s.identity(list), err
}

// PersonAt finds who has the record of a table of people and, in other tables,
// its e-mail address.
func (r Road) PersonAt(ctx context.Context, s *Seat, table, record string) (Identity, error) {
	list, err := r.seek(ctx, s, s.withPeople(func(x *blueprint.Role) bool { return x.People == table }), query.Sought{Record: record})
	if err != nil || len(list) == 0 || list[0].Email == nil {
		return s.identity(list), err
	}
	more, err := r.seek(ctx, s, s.withPeople(func(x *blueprint.Role) bool { return x.People != table }),
		query.Sought{Email: *list[0].Email})
	return s.identity(append(list, more...)), err
}

// PersonAnswering finds who of a role gives the right answers to what it is
// found by. Where there is one, they are also found by their record.
func (r Road) PersonAnswering(ctx context.Context, s *Seat, role *blueprint.Role, answers []string) (Identity, error) {
	if answers == nil {
		answers = []string{}
	}
	list, err := r.seek(ctx, s, []*blueprint.Role{role}, query.Sought{Answers: answers})
	if err != nil || len(list) != 1 {
		return s.identity(list), err
	}
	return r.PersonAt(ctx, s, role.People, list[0].Record)
}

// Person gives the viewer that somebody named by role and record is; for
// looking at the app as that person. Who is not let in is told as a
// [*words.Problem].
func (r Road) Person(ctx context.Context, s *Seat, roleID, record string) (Identity, error) {
	role := s.Blueprint.Role(roleID)
	if role == nil || s.Blueprint.Table(role.People) == nil {
		return Identity{}, ErrForbidden
	}
	id, err := r.PersonAt(ctx, s, role.People, record)
	if err != nil || id.In() {
		return id, err
	}
	name := id.Viewer.Name
	if len(id.Found) == 0 {
		return id, words.New("seen-as-gone", "role", role.Name)
	}
	if name == "" {
		name = id.Email
	}
	return id, words.New("seen-as-refused", "name", name)
}

// isSelf tells whether the record is the viewer's own, in a role whose e-mail
// the field holds.
func (s *Seat) isSelf(table, record, field string) bool {
	for _, m := range s.Viewer.Memberships {
		if r := s.Blueprint.Role(m.Role); r != nil && r.People == table && r.Email == field && m.Record == record {
			return true
		}
	}
	return false
}

// Beyond finds somebody of a role who sees a record of the selection: their record's id
// and label, as JSON, or nil where nobody does. It is for founders.
func (r Road) Beyond(ctx context.Context, s *Seat, role *blueprint.Role, l query.Selection) (Row, error) {
	if !s.Viewer.Founder {
		return nil, ErrForbidden
	}
	stmt, err := query.BuildBeyond(s.context(), role, l)
	if err != nil {
		return nil, err
	}
	rows, err := r.rows(ctx, stmt)
	if err != nil {
		return nil, fmt.Errorf("try what people of %s see: %w", role.Name, err)
	}
	if len(rows) == 0 {
		return nil, nil
	}
	return rows[0], nil
}
