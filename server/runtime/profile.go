package runtime

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/server/gate"
	"pinegate/store/accounts"
)

// Me is what somebody who is signed in finds about themselves.
type Me struct {
	App           App                 `json:"app"`
	Email         string              `json:"email"`
	Parts         []MyPart            `json:"parts"`
	Passwords     bool                `json:"passwords"`   // people sign in with passwords here
	HasPassword   bool                `json:"hasPassword"` // and this one has one
	Authenticator bool                `json:"authenticator"`
	Sessions      []SessionOut        `json:"sessions"`
	Terms         []accounts.Accepted `json:"terms"`
	Closing       blueprint.Closing   `json:"closing"`
}

// MyPart is what the profile shows somebody of one of their records, as one of a role.
type MyPart struct {
	Path   string `json:"path"` // by which the form is known
	Record string `json:"record"`
	Role   string `json:"role"`
	Form   Block  `json:"form"`
}

// SessionOut is one of somebody's sessions.
type SessionOut struct {
	ID    string    `json:"id"`
	Agent string    `json:"agent"`
	Since time.Time `json:"since"`
	Seen  time.Time `json:"seen"`
	Until time.Time `json:"until"`
	Here  bool      `json:"here"` // the one that asks
}

// PasswordChange is a new password with the old one.
type PasswordChange struct {
	Old string `json:"old,omitempty" maxLength:"400"`
	New string `json:"new" maxLength:"400"`
}

// Proven is what needs the password of those who have one.
type Proven struct {
	Password string `json:"password,omitempty" maxLength:"400"`
}

// MoveAsked is an address by which somebody wants to be known.
type MoveAsked struct {
	WithEmail
	Proven
}

// MoveConfirmed is an address with the code that was sent there.
type MoveConfirmed struct {
	WithEmail
	Code string `json:"code" maxLength:"40"`
}

// SessionToEnd names a session; "" means all but this one.
type SessionToEnd struct {
	ID string `json:"id,omitempty" maxLength:"40"`
}

// SessionsOut lists sessions.
func SessionsOut(list []accounts.Session, here string) []SessionOut {
	out := []SessionOut{}
	for _, x := range list {
		out = append(out, SessionOut{x.ID, x.Agent, x.CreatedAt, x.SeenAt, x.ExpiresAt, x.ID == here})
	}
	return out
}

// self gives whoever is signed in.
func (p *Place) self() (gate.Self, error) {
	if p.Session == nil || !p.Seat.Viewer.SignedIn() {
		return gate.Self{}, huma.Error401Unauthorized(words.Say("page-sign-in", nil))
	}
	return gate.Self{Visit: p.visit(false), Session: *p.Session}, nil
}

// mine adds a route for those who are signed in.
func mine[I, O any](h *Handlers, api huma.API, path, summary string, do func(context.Context, *Place, gate.Self, *I) (*O, error)) {
	gated(h, api, "/me"+path, summary, func(ctx context.Context, p *Place, in *I) (*O, error) {
		s, err := p.self()
		if err != nil {
			return nil, err
		}
		return do(ctx, p, s, in)
	})
}

func (h *Handlers) registerProfile(api huma.API) {
	handle(h, api, http.MethodGet, "/me", "What one finds about oneself", h.me)
	mine(h, api, "/password", "Change one's password", func(ctx context.Context, _ *Place, s gate.Self, in *PasswordChange) (*struct{},
		error) {
		return nil, h.Gate.ChangePassword(ctx, s, in.Old, in.New)
	})
	mine(h, api, "/address", "Have a code sent to a new address",
		func(ctx context.Context, _ *Place, s gate.Self, in *MoveAsked) (*struct{}, error) {
			return nil, h.Gate.AskMove(ctx, s, in.Email, in.Password)
		})
	mine(h, api, "/address/use", "Change one's address", func(ctx context.Context, _ *Place, s gate.Self, in *MoveConfirmed) (*struct{},
		error) {
		return nil, h.Gate.Move(ctx, s, in.Email, in.Code)
	})
	mine(h, api, "/sessions/end", "End sessions of one's own",
		func(ctx context.Context, _ *Place, s gate.Self, in *SessionToEnd) (*struct{}, error) {
			return nil, h.Accounts.EndSessions(ctx, s.Session, in.ID)
		})
	mine(h, api, "/close", "Close one's account", func(ctx context.Context, p *Place, s gate.Self, in *Proven) (*signedOutput, error) {
		if err := h.Gate.Close(ctx, s, in.Password); err != nil {
			return nil, err
		}
		return &signedOutput{[]http.Cookie{*h.Cookie(p, "", 0, false)}}, nil
	})
}

func (h *Handlers) me(ctx context.Context, p *Place, _ *struct{}) (*output[Me], error) {
	s, err := p.self()
	if err != nil {
		return nil, err
	}
	b := p.Seat.Blueprint
	account, err := h.Accounts.Of(ctx, p.App.ID, s.Session.Email)
	if err != nil {
		return nil, err
	}
	list, err := h.Accounts.SessionsOf(ctx, s.Session)
	if err != nil {
		return nil, err
	}
	terms, err := h.Accounts.AcceptedTerms(ctx, p.App.ID, s.Session.Email)
	if err != nil {
		return nil, err
	}
	own, err := page.Profile(ctx, h.Apps.Road(ctx), p.Seat)
	if err != nil {
		return nil, err
	}
	parts := []MyPart{}
	for _, o := range own {
		parts = append(parts, MyPart{o.Path, o.Record, o.Role, Block{o.Form}})
	}
	app, err := p.app(ctx, h.Apps)
	if err != nil {
		return nil, err
	}
	return &output[Me]{Me{App: app, Email: s.Session.Email, Parts: parts, Passwords: b.Gate.Lets(blueprint.PasswordWay),
		HasPassword: account.Password != nil, Authenticator: account.TotpSecret != nil,
		Sessions: SessionsOut(list, s.Session.ID), Terms: terms, Closing: gate.ClosingOf(b, p.Seat.Viewer)}}, nil
}
