package gate

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"pinegate/app/act"
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// door is by what somebody becomes one of a role's people. It is made before the unit of work, which then needs no other
// connection.
type door struct {
	seat    *records.Seat
	role    *blueprint.Role
	presets map[string]expr.Value
}

func (g *Gate) door(ctx context.Context, app store.App, r *blueprint.Role) (out door, err error) {
	if out.seat, err = seats.Empty(ctx, g.apps, app); err != nil {
		return out, err
	}
	out.seat.Viewer, out.seat.By = access.Viewer{Founder: true}, "the gate"
	if out.role = out.seat.Blueprint.Role(r.ID); out.role == nil || out.seat.Blueprint.Table(out.role.People) == nil {
		return out, words.New("gate-role-empty")
	}
	out.presets, err = g.presets(ctx, out.seat, out.role)
	return out, err
}

// lets makes somebody one of the people.
func (d door) lets(ctx context.Context, u *act.Unit, email string, values records.Values, how blueprint.Coming) error {
	w, err := u.Road.Welcome(ctx, d.seat, d.role, email, values, d.presets)
	if err == nil && w != nil {
		u.Came(d.seat, how, act.Person{In: []access.Membership{{Role: d.role.ID, Record: w.Record}}, Email: email, By: email})
	}
	return err
}

// Approve lets somebody in who waits, and mails them so.
func (g *Gate) Approve(ctx context.Context, app store.App, id string) error {
	w, err := g.accounts.WaitingOne(ctx, app.ID, id)
	if err != nil {
		return err
	}
	b, err := g.apps.Blueprint(ctx, app, apps.Live)
	if err != nil {
		return err
	}
	d, err := g.approving(ctx, app, b, w)
	if err != nil {
		return err
	}
	return g.acts.Do(ctx, func(u *act.Unit) error { return g.approve(ctx, u, app, d, w) })
}

// ApproveIn lets somebody in who waits to become one of a role's people, and mails them so.
func (g *Gate) ApproveIn(ctx context.Context, u *act.Unit, app store.App, role, entered string) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	b, err := g.apps.Blueprint(ctx, app, apps.Live)
	if err != nil {
		return err
	}
	list, err := g.accounts.In(u.Tx).WhoWaits(ctx, app.ID)
	if err != nil {
		return err
	}
	for _, w := range list {
		if w.RoleID == role && strings.EqualFold(w.Email, email) {
			d, err := g.approving(ctx, app, b, w)
			if err != nil {
				return err
			}
			return g.approve(ctx, u, app, d, w)
		}
	}
	name := role
	if r := b.Role(role); r != nil {
		name = r.Name
	}
	return words.New("flow-waits-nobody", "email", email, "role", name)
}

// approving gives the door for somebody who waits.
func (g *Gate) approving(ctx context.Context, app store.App, b *blueprint.Blueprint, w accounts.Waiting) (door, error) {
	r := b.Role(w.RoleID)
	if r == nil {
		return door{}, words.New("gate-role-gone")
	}
	return g.door(ctx, app, r)
}

func (g *Gate) approve(ctx context.Context, u *act.Unit, app store.App, d door, w accounts.Waiting) error {
	var values records.Values
	if err := json.Unmarshal(w.Answers, &values); err != nil {
		return fmt.Errorf("read answers: %w", err)
	}
	if err := d.lets(ctx, u, w.Email, values, blueprint.IsApproved); err != nil {
		return err
	}
	acc := g.accounts.In(u.Tx)
	if err := acc.WaitsNoMore(ctx, app.ID, w.ID); err != nil {
		return err
	}
	if err := acc.Note(ctx, app.ID, w.Email, "", words.Say("note-approved", words.Args{"role": d.role.Name})); err != nil {
		return err
	}
	return tell(ctx, u, app, blueprint.ApprovedMail, w.Email, map[string]string{"link": g.mailer.link(app, "sign-in")})
}

// SignOutIn ends all sign-ins of a person in the live app, in a unit of work.
func (g *Gate) SignOutIn(ctx context.Context, u *act.Unit, app store.App, entered string) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	acc := g.accounts.In(u.Tx)
	if err := acc.EndAll(ctx, app.ID, email, ""); err != nil {
		return err
	}
	return acc.Note(ctx, app.ID, email, "", words.Say("note-signed-out", nil))
}
