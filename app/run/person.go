package run

import (
	"cmp"
	"context"
	"net/mail"
	"strings"
	"time"

	"pinegate/app/act"
	"pinegate/core/blueprint"
	"pinegate/core/flow"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/kept"
)

// Gate lets people into the live app of an app, and signs them out, each in a unit of work.
type Gate interface {
	// SignOutIn ends all sign-ins of a person.
	SignOutIn(ctx context.Context, u *act.Unit, app store.App, email string) error
	// InviteIn mails an invitation to become one of a role's people.
	InviteIn(ctx context.Context, u *act.Unit, app store.App, role, email string) error
	// ApproveIn lets somebody in who waits to become one of a role's people.
	ApproveIn(ctx context.Context, u *act.Unit, app store.App, role, email string) error
}

// keep keeps a value for whoever set the run off: under who they are, or in their browser.
func (d *doing) keep(ctx context.Context, e *flow.Keep) error {
	k := d.seat.Blueprint.KeptValue(e.Kept)
	text := ""
	if !e.Value.IsEmpty() {
		text = e.Value.String()
	}
	if len(text) > kept.MostText {
		return words.New("text-long", "n", kept.MostText)
	}
	who := d.start.Person
	d.log.did(words.Say("flow-keeps", words.Args{"name": k.Name, "value": cmp.Or(text, "-")}))
	if !k.Person || !who.Viewer.SignedIn() {
		if d.result.Keeps == nil {
			d.result.Keeps = map[string]string{}
		}
		d.result.Keeps[k.ID] = text
		return nil
	}
	until := who.Clock.Now.Add(time.Duration(k.For()) * 24 * time.Hour).Unix()
	return kept.In(d.unit.Tx).Put(ctx, d.start.App.ID, who.Schema, who.KeptAs(), kept.Values{k.ID: {Text: text, Until: until}})
}

// person does something about a person. In the draft it is only written down.
func (d *doing) person(ctx context.Context, e *flow.Person) error {
	if _, err := mail.ParseAddress(e.Email); err != nil {
		return words.New("flow-no-address", "address", e.Email)
	}
	if !d.start.Workflow.AsApp() && (e.Do != blueprint.SignsOut || !strings.EqualFold(e.Email, d.start.Person.Viewer.Email)) {
		return words.New("flow-own-sign-out")
	}
	args := words.Args{"email": e.Email}
	if e.Do != blueprint.SignsOut {
		r := d.seat.Blueprint.Role(e.Role)
		args["role"] = r.Name
		if e.Do == blueprint.Approves && r.SignUp.Mode != blueprint.Approved {
			return words.New("flow-no-approval", "role", r.Name)
		}
		if r.SignUp.Mode == blueprint.NoSignUp {
			return words.New("flow-not-invited", "role", r.Name)
		}
	}
	d.log.did(words.Say("flow-person-"+string(e.Do), args))
	if d.start.Env != apps.Live || d.runs.Gate == nil {
		return nil
	}
	if err := d.later.Keep(ctx, d.unit.Road, d.seat); err != nil { // the gate may read what was written
		return err
	}
	switch e.Do {
	case blueprint.Invites:
		return d.runs.Gate.InviteIn(ctx, d.unit, d.start.App, e.Role, e.Email)
	case blueprint.Approves:
		return d.runs.Gate.ApproveIn(ctx, d.unit, d.start.App, e.Role, e.Email)
	}
	return d.runs.Gate.SignOutIn(ctx, d.unit, d.start.App, e.Email)
}
