package page

import (
	"context"
	"errors"
	"slices"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/form"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// SignUp gives the page of what sign-up asks those for who become one of a role's people. They have
// no rights yet, so they are asked for all of it.
func SignUp(road records.Road, seat *records.Seat, r *blueprint.Role) *View {
	of := r.SignUpForm()
	v := open(road, seat, of.Page())
	v.of = of
	return v
}

// signsUp tells that the form is that of sign-up.
func (v *View) signsUp() bool { return v.of != nil && !v.of.Own }

// asksOfRole is [Use.asks] in a form of a role: sign-up asks for all of it; a profile shows what its
// person may not change, as their address, which has to be confirmed.
func (u Use) asksOfRole(p *form.Part, change bool) error {
	if !u.of.Own {
		p.Unasked, p.Unchanged = false, false
		return nil
	}
	if change && p.Field.ID != u.of.Role.Email {
		return nil
	}
	sees, err := u.Seat.Sees(u.Table.ID, p.Field.ID)
	p.Told, p.Unasked, p.Unchanged = true, !sees, !sees
	return err
}

// TakeSignUp gives what is to be written of the answers of somebody who signs up, or refuses them
// as [Use.Take] does. The app itself writes them, so records that they choose are looked at here.
func (u Use) TakeSignUp(ctx context.Context, sent records.Values) (records.Values, error) {
	taken, err := u.Take(ctx, Sent{Values: sent})
	if err != nil {
		return nil, err
	}
	wrong := records.FieldErrors{}
	for id, raw := range taken.Values {
		f := u.Table.Field(id)
		v, problem := form.Accept(u.Seat.Blueprint, f, raw)
		switch {
		case problem != nil:
			wrong[id] = problem
		case v.IsEmpty():
			delete(taken.Values, id)
		case f.Type == blueprint.Link:
			_, err := u.Road.Get(ctx, u.Seat, u.Seat.Blueprint.Table(f.Target), v.Text)
			switch {
			case errors.Is(err, store.ErrNotFound):
				wrong[id] = words.New("read-record")
			case err != nil:
				return nil, err
			}
		}
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	return taken.Values, nil
}

// Profile shows the forms in which whoever is signed in finds their own records, each of which is
// one of their roles. Records that no rule shows them are left out, and forms in which nothing is.
func Profile(ctx context.Context, road records.Road, seat *records.Seat) ([]Own, error) {
	out := []Own{}
	var done []string
	for _, m := range seat.Viewer.Memberships {
		r := seat.Blueprint.Role(m.Role)
		if r == nil || len(r.Profile.Blocks) == 0 || slices.Contains(done, r.ID) {
			continue
		}
		done = append(done, r.ID)
		path, own := r.ProfileForm().ID(), *seat
		v, err := Open(ctx, road, &own, path, m.Record)
		if errors.Is(err, store.ErrNotFound) || errors.Is(err, ErrNotYours) {
			continue
		}
		if err != nil {
			return nil, err
		}
		shown, err := v.Alone(ctx, v.Page.Blocks[0])
		if err != nil {
			return nil, err
		}
		if f, is := shown.(*Form); is && len(f.State.Parts) > 0 {
			out = append(out, Own{Path: path, Record: m.Record, Role: r.Name, Form: f})
		}
	}
	return out, nil
}

// mine tells whether a record is that of whoever looks, as one of the form's role.
func mine(seat *records.Seat, of *blueprint.RoleForm, record string) bool {
	return seat.Viewer.Founder || slices.ContainsFunc(seat.Viewer.Memberships, func(m access.Membership) bool {
		return m.Role == of.Role.ID && m.Record == record
	})
}

// Own is the form in which somebody finds one of their own records, with where it stands.
type Own struct {
	Path   string
	Record string
	Role   string
	Form   *Form
}
