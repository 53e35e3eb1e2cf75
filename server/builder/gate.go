package builder

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/form"
	"pinegate/core/words"
	"pinegate/server/gate"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// GateState is what happens at the gate of the live app.
type GateState struct {
	Waiting  []WaitingOut        `json:"waiting"`
	Invited  []InvitedOut        `json:"invited"`
	CanCome  []page.RecordOption `json:"canCome"` // roles of the live app to which people can be invited
	Log      []LogLine           `json:"log"`
	Mails    []page.RecordOption `json:"mails"`  // those of the draft, which can be tried
	Sender   gate.Sender         `json:"sender"` // whom mails of the draft come from
	Acting   *ActingOut          `json:"acting,omitempty"`
	LiveHere bool                `json:"liveHere"` // there is a live app
}

// WaitingOut is somebody who waits to be let in.
type WaitingOut struct {
	ID      string     `json:"id"`
	Role    string     `json:"role"`
	Email   string     `json:"email"`
	At      time.Time  `json:"at"`
	Answers []Answered `json:"answers"`
}

// Answered is a question with the answer as people read it.
type Answered struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// PersonInvited is somebody who is invited to an app.
type PersonInvited struct {
	Role  string `json:"role" maxLength:"40"`
	Email string `json:"email" maxLength:"254"`
	Name  string `json:"name,omitempty" maxLength:"100"`
}

// Decision lets somebody in who waits, or turns them away.
type Decision struct {
	Let bool `json:"let"`
}

// MailTrial names a mail that is to be tried.
type MailTrial struct {
	Mail blueprint.GateMail `json:"mail" maxLength:"40"`
}

// SenderCode is the code that was mailed to a sender, where there is one by now.
type SenderCode struct {
	Code string `json:"code,omitempty" maxLength:"40"`
}

// Help is what a founder does for somebody who does not get in by themselves.
type Help struct {
	Email string `json:"email" maxLength:"254"`
	Do    string `json:"do" enum:"authenticator,reopen,sign out" doc:"Set up another authenticator, open an account that was closed, end all sessions"`
}

// ActingOut says as whom a founder may act in the live app, and until when.
type ActingOut struct {
	App   string    `json:"app"`
	As    string    `json:"as"`
	Until time.Time `json:"until"`
}

// ActingAsked switches acting on, or with "" off.
type ActingAsked struct {
	As string `json:"as" maxLength:"100"`
}

// ActingFor is how long acting stays on.
const ActingFor = 15 * time.Minute

// ActingIn reads as whom a session may act now; nil for nobody.
func ActingIn(s accounts.Session) *ActingOut {
	var a ActingOut
	if len(s.Acting) == 0 || json.Unmarshal(s.Acting, &a) != nil || time.Now().After(a.Until) {
		return nil
	}
	return &a
}

func (h *Handlers) registerGate(api huma.API) {
	appRoute(h, api, store.Editor, http.MethodGet, "/gate", "What happens at the gate of the live app", h.gate)
	appRoute(h, api, store.Editor, http.MethodPost, "/invitations", "Invite somebody to the live app",
		func(ctx context.Context, r request, in struct {
			Own
			Body PersonInvited
		}) (*struct{}, error) {
			if err := h.Gate.Invite(ctx, r.app, in.Body.Role, in.Body.Email, in.Body.Name, r.builder); err != nil {
				return nil, err
			}
			return nil, h.noteApp(ctx, r, words.Say("team-person-invited", words.Args{"email": in.Body.Email}))
		})
	appRoute(h, api, store.Editor, http.MethodDelete, "/invitations/{invitation}", "Take an invitation back",
		func(ctx context.Context, r request, in struct {
			Own
			Invitation string `path:"invitation"`
		}) (*struct{}, error) {
			return nil, h.Accounts.DropLink(ctx, r.app.ID, "", in.Invitation)
		})
	appRoute(h, api, store.Editor, http.MethodPost, "/waiting/{waiting}", "Let somebody in who waits, or turn them away",
		func(ctx context.Context, r request, in struct {
			Own
			Waiting string `path:"waiting"`
			Body    Decision
		}) (*struct{}, error) {
			if !in.Body.Let {
				return nil, h.Gate.TurnAway(ctx, r.app, in.Waiting)
			}
			if err := h.Gate.Approve(ctx, r.app, in.Waiting); err != nil {
				return nil, err
			}
			return nil, h.noteApp(ctx, r, words.Say("team-approved", nil))
		})
	appRoute(h, api, store.Editor, http.MethodPost, "/mail-trials", "Send oneself a mail of the gate",
		func(ctx context.Context, r request, in struct {
			Own
			Body MailTrial
		}) (*struct{}, error) {
			if !slices.Contains(blueprint.GateMails(), in.Body.Mail) {
				return nil, store.ErrNotFound
			}
			b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
			if err != nil {
				return nil, err
			}
			return nil, h.Gate.Try(ctx, r.app, b, in.Body.Mail, r.builder)
		})
	sender := func(path, summary string, do func(context.Context, request, *blueprint.Blueprint, string) error) {
		appRoute(h, api, store.Editor, http.MethodPost, path, summary, func(ctx context.Context, r request, in struct {
			Own
			Body SenderCode
		}) (*struct{}, error) {
			b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
			if err != nil {
				return nil, err
			}
			return nil, do(ctx, r, b, in.Body.Code)
		})
	}
	sender("/sender", "Have a code sent to the address from which mails are to come",
		func(ctx context.Context, r request, b *blueprint.Blueprint, _ string) error {
			return h.Gate.AskSender(ctx, r.app, b, r.builder)
		})
	sender("/sender/confirm", "Confirm the address from which mails are to come",
		func(ctx context.Context, r request, b *blueprint.Blueprint, code string) error {
			if err := h.Gate.ConfirmSender(ctx, r.app, b, r.builder, code); err != nil {
				return err
			}
			return h.noteApp(ctx, r, words.Say("team-sender", words.Args{"email": b.Gate.Address}))
		})
	appRoute(h, api, store.Editor, http.MethodPost, "/help", "Help somebody in who does not get in by themselves", h.help)
	appRoute(h, api, store.Owner, http.MethodPost, "/acting", "Act in the live app as somebody for a while", h.act)
}

func (h *Handlers) noteApp(ctx context.Context, r request, what string) error {
	return h.Accounts.NoteTeam(ctx, r.app.WorkspaceID, r.app.ID, r.builder.Name, what)
}

func (h *Handlers) help(ctx context.Context, r request, in struct {
	Own
	Body Help
}) (*struct{}, error) {
	do := map[string]struct {
		what string
		do   func(context.Context, string, string) error
	}{
		"authenticator": {"help-authenticator", h.Accounts.ForgetAuthenticator},
		"reopen":        {"help-reopen", h.Accounts.Reopen},
		"sign out": {"help-sign-out", func(ctx context.Context, app,
			email string) error {
			return h.Accounts.EndAll(ctx, app, email, "")
		}},
	}[in.Body.Do]
	if err := do.do(ctx, r.app.ID, strings.TrimSpace(in.Body.Email)); err != nil {
		return nil, err
	}
	if err := h.Accounts.Note(ctx, r.app.ID, in.Body.Email, "", words.Say(do.what, words.Args{"by": r.builder.Name})); err != nil {
		return nil, err
	}
	return nil, h.noteApp(ctx, r, words.Say("team-"+do.what, words.Args{"email": in.Body.Email}))
}

const eventsShown = 200

func (h *Handlers) gate(ctx context.Context, r request, _ Own) (*output[GateState], error) {
	o := GateState{Waiting: []WaitingOut{}, Invited: []InvitedOut{}, CanCome: []page.RecordOption{}, Log: []LogLine{},
		Mails: []page.RecordOption{}, LiveHere: r.app.LiveVersion > 0}
	for _, m := range blueprint.GateMails() {
		o.Mails = append(o.Mails, page.RecordOption{ID: string(m), Label: blueprint.MailCalled(m)})
	}
	draft, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
	if err != nil {
		return nil, err
	}
	if o.Sender, err = h.Gate.SenderOf(ctx, r.app.WorkspaceID, draft); err != nil {
		return nil, err
	}
	if a := ActingIn(h.Session(ctx)); a != nil && a.App == r.app.ID {
		o.Acting = a
	}
	if !o.LiveHere {
		return out(o), nil
	}
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Live)
	if err != nil {
		return nil, err
	}
	for _, x := range b.Roles {
		if x.SignUp.Mode != blueprint.NoSignUp {
			o.CanCome = append(o.CanCome, page.RecordOption{ID: x.ID, Label: x.Name})
		}
	}
	waiting, err := h.Accounts.WhoWaits(ctx, r.app.ID)
	if err != nil {
		return nil, err
	}
	for _, w := range waiting {
		shown, err := waitingOut(b, w)
		if err != nil {
			return nil, err
		}
		o.Waiting = append(o.Waiting, shown)
	}
	links, err := h.Accounts.Links(ctx, r.app.ID, "", accounts.ToInvite)
	if err != nil {
		return nil, err
	}
	for _, l := range links {
		o.Invited = append(o.Invited, InvitedOut{l.ID, l.Subject, l.ExpiresAt})
	}
	log, err := h.Accounts.GateLog(ctx, r.app.ID, eventsShown)
	if err != nil {
		return nil, err
	}
	for _, e := range log {
		o.Log = append(o.Log, LogLine{e.ID, e.At, e.Email, e.What})
	}
	return out(o), nil
}

func waitingOut(b *blueprint.Blueprint, w accounts.Waiting) (WaitingOut, error) {
	o := WaitingOut{ID: w.ID, Email: w.Email, At: w.AskedAt, Answers: []Answered{}}
	r := b.Role(w.RoleID)
	if r == nil {
		return o, nil
	}
	o.Role = r.Name
	var values records.Values
	if err := json.Unmarshal(w.Answers, &values); err != nil {
		return o, fmt.Errorf("read answers: %w", err)
	}
	t := b.Table(r.People)
	for _, q := range r.SignUpForm().Form().Fields() {
		f := t.Field(q.Field)
		v, _ := form.Accept(b, f, values[q.Field])
		text := v.String()
		if l := b.List(f.List); l != nil && l.Choice(text) != nil {
			text = l.Choice(text).Label
		}
		if text != "" {
			o.Answers = append(o.Answers, Answered{f.Name, text})
		}
	}
	return o, nil
}

// act switches acting in the live app on for a while, or off.
func (h *Handlers) act(ctx context.Context, r request, in struct {
	Own
	Body ActingAsked
}) (*output[GateState], error) {
	s := h.Session(ctx)
	if in.Body.As == "" {
		if err := h.Accounts.Act(ctx, s.ID, nil); err != nil {
			return nil, err
		}
		return out(GateState{}), h.noteApp(ctx, r, words.Say("team-acting-stopped", nil))
	}
	env, _ := seats.Split(in.Body.As)
	if env != apps.Live {
		return nil, words.New("acting-draft")
	}
	seat, err := seats.As(ctx, h.Apps, r.app, r.builder.Name, in.Body.As)
	if err != nil {
		return nil, err
	}
	a := ActingOut{r.app.ID, in.Body.As, time.Now().Add(ActingFor)}
	raw, err := json.Marshal(a)
	if err != nil {
		return nil, fmt.Errorf("write as whom somebody acts: %w", err)
	}
	if err := h.Accounts.Act(ctx, s.ID, raw); err != nil {
		return nil, err
	}
	return out(GateState{Acting: &a}), h.noteApp(ctx, r, words.Say("team-acting",
		words.Args{"person": seats.Name(seat.Blueprint, seat.Viewer)}))
}
