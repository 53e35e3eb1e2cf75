package gate

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"pinegate/app/act"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// SignUp is what somebody sends who wants to become one of an app's people.
type SignUp struct {
	Role     string
	Email    string
	Values   records.Values
	Password string
	Terms    string // version that was accepted, or ""
}

// pending is a sign-up whose address is to be confirmed.
type pending struct {
	Role     string         `json:"role"`
	Values   records.Values `json:"values"`
	Password string         `json:"password,omitempty"` // hash
	Terms    string         `json:"terms,omitempty"`
}

// OffersPassword tells whether those who sign up choose a password, and whether
// they must.
func OffersPassword(b *blueprint.Blueprint) (offers, must bool) {
	ways := b.Gate.WaysIn()
	return b.Gate.Lets(blueprint.PasswordWay), len(ways) == 1 && ways[0] == blueprint.PasswordWay
}

// prepare checks what somebody who signs up sent.
func (g *Gate) prepare(ctx context.Context, v Visit, r *blueprint.Role, in SignUp) (pending, error) {
	b := v.blueprint()
	out := pending{Role: r.ID}
	u, err := page.SignUp(g.apps.Road(ctx), v.Seat, r).Use(r.SignUpForm().ID())
	if err == nil {
		out.Values, err = u.TakeSignUp(ctx, in.Values)
	}
	if err != nil {
		return out, err
	}
	if t := b.Gate.Terms; t.Version != "" {
		if in.Terms != t.Version {
			return out, words.New("gate-terms")
		}
		out.Terms = t.Version
	}
	offers, must := OffersPassword(b)
	if !offers || in.Password == "" && !must {
		return out, nil
	}
	out.Password, err = g.accounts.HashOf(ctx, in.Password, in.Email, b.Name)
	return out, err
}

// SignUp keeps what somebody sent until the address is confirmed by the code
// that is mailed there. It gives a ticket that belongs to the code: so nobody
// confirms what another, who knows the address, sent meanwhile with a password of
// theirs.
func (g *Gate) SignUp(ctx context.Context, v Visit, in SignUp) (ticket string, err error) {
	email, err := address(in.Email)
	if err != nil {
		return "", err
	}
	b := v.blueprint()
	r := b.Role(in.Role)
	if r == nil || r.SignUp.Mode != blueprint.Open && r.SignUp.Mode != blueprint.Approved {
		return "", words.New("gate-no-sign-up")
	}
	in.Email = email
	if err := g.limitAsking(ctx, v.of(email)); err != nil {
		return "", err
	}
	p, err := g.prepare(ctx, v, r, in)
	if err != nil {
		return "", err
	}
	if err := g.allowNew(ctx, v.App); err != nil {
		return "", err
	}
	raw, err := json.Marshal(p)
	if err != nil {
		return "", fmt.Errorf("keep a sign-up: %w", err)
	}
	ticket, err = accounts.NewTicket()
	if err != nil {
		return "", err
	}
	return ticket, g.ask(ctx, v, mailJob{Purpose: accounts.ToSignUp, Email: email, Subject: accounts.Ticketed(email, ticket), Data: raw})
}

// Confirm makes somebody one of the app's people whose code confirms their
// address, or keeps them waiting.
func (g *Gate) Confirm(ctx context.Context, v Visit, entered, ticket, code string) (Admission, error) {
	email, err := address(entered)
	if err != nil {
		return Admission{}, err
	}
	var p pending
	proof, err := g.accounts.TryCode(ctx, accounts.Code{App: v.App.ID, Purpose: accounts.ToSignUp,
		Subject: accounts.Ticketed(email, ticket)}, strings.TrimSpace(code), &p)
	if err != nil {
		return Admission{}, g.refused(ctx, v, email, words.Say("note-confirm", nil), g.wrong(ctx, v.of(email), err))
	}
	// the code is used up with all that follows from it, or not at all
	spend := func(u *act.Unit) error {
		acc := g.accounts.In(u.Tx)
		if err := acc.Spend(ctx, proof); err != nil {
			return err
		}
		return keepProofs(ctx, acc, v, email, p)
	}
	r := v.blueprint().Role(p.Role)
	if r == nil || v.blueprint().Table(r.People) == nil {
		return Admission{}, words.New("gate-no-sign-up-now")
	}
	if r.SignUp.Mode == blueprint.Approved {
		known, err := g.hasRole(ctx, v, r, email)
		switch {
		case err != nil:
			return Admission{}, err
		case !known:
			return Admission{Next: Waiting}, g.wait(ctx, v, r, email, p, spend)
		}
		err = g.acts.Do(ctx, spend)
		if err != nil {
			return Admission{}, err
		}
	} else if err := g.Become(ctx, v.App, r, email, p.Values, blueprint.SignsUp, func(u *act.Unit) error {
		if err := spend(u); err != nil {
			return err
		}
		return g.accounts.In(u.Tx).Note(ctx, v.App.ID, email, v.Host, words.Say("note-signed-up", words.Args{"role": r.Name}))
	}); err != nil {
		return Admission{}, err
	}
	return g.admit(ctx, v, accounts.Person{App: v.App.ID, Email: email}, blueprint.CodeWay)
}

// wait keeps somebody waiting for whoever approves.
func (g *Gate) wait(ctx context.Context, v Visit, r *blueprint.Role, email string, p pending, spend func(*act.Unit) error) error {
	raw, err := json.Marshal(p.Values)
	if err != nil {
		return fmt.Errorf("keep answers: %w", err)
	}
	return g.acts.Do(ctx, func(u *act.Unit) error {
		if err := spend(u); err != nil {
			return err
		}
		acc := g.accounts.In(u.Tx)
		if err := acc.Wait(ctx, v.App.ID, r.ID, email, raw); err != nil {
			return err
		}
		return acc.Note(ctx, v.App.ID, email, v.Host, words.Say("note-waits", words.Args{"role": r.Name}))
	})
}

// keepProofs keeps the password and the terms of somebody whose address is
// confirmed. An account that was closed is open again.
func keepProofs(ctx context.Context, acc *accounts.Accounts, v Visit, email string, p pending) error {
	account, err := acc.Of(ctx, v.App.ID, email)
	if err != nil {
		return err
	}
	if account.ClosedAt != nil {
		if err := acc.Reopen(ctx, v.App.ID, email); err != nil {
			return err
		}
	}
	if p.Password != "" {
		if err := acc.KeepPassword(ctx, v.App.ID, email, p.Password); err != nil {
			return err
		}
	}
	if p.Terms == "" {
		return nil
	}
	return acc.AcceptTerms(ctx, v.App.ID, email, p.Terms)
}

func (g *Gate) hasRole(ctx context.Context, v Visit, r *blueprint.Role, email string) (bool, error) {
	id, err := g.apps.Road(ctx).PeopleWith(ctx, v.Seat, email)
	for _, m := range id.Found {
		if m.Role == r.ID {
			return true, err
		}
	}
	return false, err
}

// Become makes the owner of a confirmed address one of a role's people. A record
// with the address that is there already becomes theirs; what is empty in it is
// filled in. What is to be done with it is done in the same unit of work, which also starts what
// workflows start as somebody comes in that way.
func (g *Gate) Become(
	ctx context.Context, app store.App, r *blueprint.Role, email string, values records.Values, how blueprint.Coming,
	with func(*act.Unit) error,
) error {
	d, err := g.door(ctx, app, r)
	if err != nil {
		return err
	}
	return g.acts.Do(ctx, func(u *act.Unit) error {
		if err := d.lets(ctx, u, email, values, how); err != nil {
			return err
		}
		return with(u)
	})
}

// presets computes what the app fills in for those who sign up.
func (g *Gate) presets(ctx context.Context, seat *records.Seat, r *blueprint.Role) (map[string]expr.Value, error) {
	out := map[string]expr.Value{}
	t := seat.Blueprint.Table(r.People)
	env := g.apps.Road(ctx).Env(ctx, seat, nil, nil)
	for _, p := range r.SignUp.Presets {
		c, err := expr.CheckAs(p.Value, seat.Blueprint.SignUpScope(seat.Catalog), t.Field(p.Field).ExprType())
		if err != nil {
			return nil, fmt.Errorf("read what is filled in for new %s: %w", r.Name, err)
		}
		out[p.Field] = expr.Eval(c, seat.Catalog, env)
	}
	return out, env.Err()
}

// invited is what an invitation carries.
type invited struct {
	Role string `json:"role"`
	Name string `json:"name,omitempty"`
}

// Invite mails an invitation to become one of a role's people in the live app.
func (g *Gate) Invite(ctx context.Context, app store.App, role, entered, name string, by store.Builder) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	b, err := g.apps.Blueprint(ctx, app, apps.Live)
	if err != nil {
		return words.New("gate-publish-first")
	}
	r, err := invitable(b, role)
	if err != nil {
		return err
	}
	if err := g.limitAsking(ctx, caller{From{Host: "invitations"}, app.ID, email}); err != nil {
		return err
	}
	if err := g.allowMail(ctx, app.WorkspaceID, by); err != nil {
		return err
	}
	if err := g.accounts.Note(ctx, app.ID, email, "", words.Say("note-invited", words.Args{"role": r.Name})); err != nil {
		return err
	}
	return g.sendInvitation(ctx, app, b, email, invited{r.ID, name})
}

// invitable gives a role to which people can be invited.
func invitable(b *blueprint.Blueprint, role string) (*blueprint.Role, error) {
	r := b.Role(role)
	if r == nil || b.Table(r.People) == nil || r.SignUp.Mode == blueprint.NoSignUp {
		return nil, words.New("gate-not-invited")
	}
	return r, nil
}

// InviteIn is [Gate.Invite] in a unit of work, by an app itself: the mail goes out when that is done.
func (g *Gate) InviteIn(ctx context.Context, u *act.Unit, app store.App, role, entered string) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	b, err := g.apps.Blueprint(ctx, app, apps.Live)
	if err != nil {
		return err
	}
	r, err := invitable(b, role)
	if err != nil {
		return err
	}
	if err := g.limitAsking(ctx, caller{From{Host: "invitations"}, app.ID, email}); err != nil {
		return err
	}
	if err := g.allowNew(ctx, app); err != nil {
		return err
	}
	raw, err := json.Marshal(invited{Role: r.ID})
	if err != nil {
		return fmt.Errorf("write an invitation: %w", err)
	}
	if err := g.accounts.In(u.Tx).Note(ctx, app.ID, email, "", words.Say("note-invited", words.Args{"role": r.Name})); err != nil {
		return err
	}
	return u.Enqueue(ctx, mailJob{Slug: app.Slug, Purpose: accounts.ToInvite, Email: email, Data: raw})
}

// sendInvitation mails somebody a link with which they become one of a role's people.
func (g *Gate) sendInvitation(ctx context.Context, app store.App, b *blueprint.Blueprint, email string, to invited) error {
	raw, err := json.Marshal(to)
	if err != nil {
		return fmt.Errorf("write an invitation: %w", err)
	}
	token, err := g.accounts.MakeLink(ctx, accounts.Link{AppID: &app.ID, Purpose: accounts.ToInvite, Subject: email, Data: raw},
		accounts.InvitationLife)
	if err != nil {
		return err
	}
	return g.sendOf(ctx, app, b, blueprint.InvitationMail, email,
		map[string]string{"name": to.Name, "link": g.mailer.link(app, "invitation") + fragment(token, "")})
}

// Invitation is an invitation as whoever opens it sees it.
type Invitation struct {
	Role  *blueprint.Role
	Email string
}

// LookAtInvitation gives what an invitation is to.
func (g *Gate) LookAtInvitation(ctx context.Context, v Visit, token string) (Invitation, error) {
	l, err := g.accounts.LookAtLink(ctx, v.App.ID, accounts.ToInvite, token)
	if err != nil {
		return Invitation{}, err
	}
	return invitation(v.blueprint(), l)
}

func invitation(b *blueprint.Blueprint, l accounts.Link) (Invitation, error) {
	var data invited
	if err := json.Unmarshal(l.Data, &data); err != nil {
		return Invitation{}, fmt.Errorf("read an invitation: %w", err)
	}
	r := b.Role(data.Role)
	if r == nil || b.Table(r.People) == nil || r.SignUp.Mode == blueprint.NoSignUp {
		return Invitation{}, accounts.ErrRefused
	}
	return Invitation{r, l.Subject}, nil
}

// Accept makes somebody who was invited one of the app's people.
func (g *Gate) Accept(ctx context.Context, v Visit, token string, in SignUp) (Admission, error) {
	i, err := g.LookAtInvitation(ctx, v, token)
	if err != nil {
		return Admission{}, g.wrong(ctx, v.of(""), err)
	}
	in.Email = i.Email
	p, err := g.prepare(ctx, v, i.Role, in)
	if err != nil {
		return Admission{}, err
	}
	if err := g.Become(ctx, v.App, i.Role, i.Email, p.Values, blueprint.SignsUp, func(u *act.Unit) error {
		acc := g.accounts.In(u.Tx)
		if _, err := acc.UseLink(ctx, v.App.ID, accounts.ToInvite, token); err != nil {
			return err
		}
		if err := keepProofs(ctx, acc, v, i.Email, p); err != nil {
			return err
		}
		return acc.Note(ctx, v.App.ID, i.Email, v.Host, words.Say("note-accepted", words.Args{"role": i.Role.Name}))
	}); err != nil {
		return Admission{}, err
	}
	return g.admit(ctx, v, accounts.Person{App: v.App.ID, Email: i.Email}, blueprint.LinkWay)
}

// TurnAway takes somebody off those who wait.
func (g *Gate) TurnAway(ctx context.Context, app store.App, id string) error {
	w, err := g.accounts.WaitingOne(ctx, app.ID, id)
	if err != nil {
		return err
	}
	if err := g.accounts.WaitsNoMore(ctx, app.ID, id); err != nil {
		return err
	}
	return g.accounts.Note(ctx, app.ID, w.Email, "", words.Say("note-declined", nil))
}
