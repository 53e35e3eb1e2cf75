package runtime

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/server/gate"
	"pinegate/server/seats"
	"pinegate/store/accounts"
	"pinegate/store/records"
)

// GateOut is what the screens of the gate need to know of the app.
type GateOut struct {
	App App `json:"app"`
	// State says how far whoever asks is: out, second, enrol or in.
	State  string            `json:"state"`
	Mailed bool              `json:"mailed"` // the second step is a code by mail
	Ways   []blueprint.Way   `json:"ways"`
	Words  map[string]string `json:"words"`
	// Finds are the roles whose people are found by what only they know.
	Finds    []Finding   `json:"finds"`
	SignUps  []SignUpOut `json:"signUps"`
	Remember bool        `json:"remember"` // people are asked whether to be remembered
	Password bool        `json:"password"` // those who sign up choose a password
	Must     bool        `json:"must"`     // and have to
	Terms    TermsOut    `json:"terms"`
}

// Finding is what people of a role are asked to be found.
type Finding struct {
	Role   string   `json:"role"`
	Name   string   `json:"name"`
	Labels []string `json:"labels"`
}

// SignUpOut is a role to sign up for, with its questions.
type SignUpOut struct {
	Role     string `json:"role"`
	Name     string `json:"name"`
	Approved bool   `json:"approved"` // somebody has to let them in
	Path     string `json:"path"`     // by which the form is known
	Form     Block  `json:"form"`
}

// TermsOut are the terms that people accept when they sign up.
type TermsOut struct {
	Version string `json:"version"`
	Text    string `json:"text"`
	Privacy string `json:"privacy"`
}

// Admitted says how far somebody got.
type Admitted struct {
	Next     string   `json:"next" enum:"in,second,enrol,waiting"`
	Mailed   bool     `json:"mailed"` // a code for the second step was mailed
	Recovery []string `json:"recovery,omitempty"`
}

type admittedOutput struct {
	SetCookie []http.Cookie `header:"Set-Cookie"`
	Body      Admitted
}

// signedOutput carries the session cookie.
type signedOutput struct {
	SetCookie []http.Cookie `header:"Set-Cookie"`
}

// WithEmail names an address.
type WithEmail struct {
	Email string `json:"email" maxLength:"254"`
}

// AskedLink is who wants a link to sign in, and where it is to lead.
type AskedLink struct {
	WithEmail
	To string `json:"to,omitempty" maxLength:"500"`
}

// Stays says whether somebody wants to be remembered.
type Stays struct {
	Remember bool `json:"remember,omitempty"`
}

// Entered is a code for an address.
type Entered struct {
	WithEmail
	Stays
	Code string `json:"code" maxLength:"40"`
}

// Ticket is what a browser has to show besides the code that is mailed.
type Ticket struct {
	Ticket string `json:"ticket" maxLength:"100"`
}

// Confirmed is a code that confirms an address, with the ticket to which it
// belongs.
type Confirmed struct {
	Entered
	Ticket
}

// EnteredPassword is a password for an address.
type EnteredPassword struct {
	WithEmail
	Stays
	Password string `json:"password" maxLength:"400"`
}

// EnteredLink is the token of a link.
type EnteredLink struct {
	Stays
	Token string `json:"token" maxLength:"100"`
}

// Answered are the answers by which somebody is found; with a code to get in.
type Answered struct {
	Stays
	Role    string   `json:"role" maxLength:"40"`
	Answers []string `json:"answers" maxItems:"10"`
	Code    string   `json:"code,omitempty" maxLength:"40"`
}

// OneCode is a code of the second step.
type OneCode struct {
	Code string `json:"code" maxLength:"40"`
}

// NewPerson is what somebody sends who signs up.
type NewPerson struct {
	Role     string         `json:"role" maxLength:"40"`
	Email    string         `json:"email" maxLength:"254"`
	Values   records.Values `json:"values"`
	Password string         `json:"password,omitempty" maxLength:"400"`
	Terms    string         `json:"terms,omitempty" maxLength:"200" doc:"Version of the terms that were accepted"`
}

// InvitedPerson is what somebody sends who was invited.
type InvitedPerson struct {
	Token    string         `json:"token" maxLength:"100"`
	Values   records.Values `json:"values"`
	Password string         `json:"password,omitempty" maxLength:"400"`
	Terms    string         `json:"terms,omitempty" maxLength:"200"`
}

// InvitationOut is an invitation as whoever opens it sees it.
type InvitationOut struct {
	Email  string    `json:"email"`
	SignUp SignUpOut `json:"signUp"`
}

// NewPassword is a password that a code lets set.
type NewPassword struct {
	WithEmail
	Code     string `json:"code" maxLength:"40"`
	Password string `json:"password" maxLength:"400"`
}

func (p *Place) visit(remember bool) gate.Visit {
	return gate.Visit{App: p.App, Seat: p.Seat, From: p.From, Agent: p.Agent, Remember: remember}
}

// admitted answers with how far somebody got, and their session.
func (h *Handlers) admitted(p *Place, a gate.Admission, err error) (*admittedOutput, error) {
	if err != nil {
		return nil, err
	}
	out := &admittedOutput{Body: Admitted{Next: a.Next, Mailed: a.Second == blueprint.MailCode, Recovery: a.Recovery}}
	if a.Token != "" {
		out.SetCookie = []http.Cookie{*h.Cookie(p, a.Token, a.Hours, a.Visit)}
	}
	return out, nil
}

// gateScreens gives what the screens of the gate show.
func (h *Handlers) gateScreens(ctx context.Context, p *Place, _ *struct{}) (*output[GateOut], error) {
	b := p.Seat.Blueprint
	app, err := p.app(ctx, h.Apps)
	if err != nil {
		return nil, err
	}
	o := GateOut{App: app, State: "out", Ways: b.Gate.WaysIn(), Words: map[string]string{}, Finds: []Finding{}, SignUps: []SignUpOut{},
		Remember: b.Gate.Session.Asks, Terms: TermsOut(b.Gate.Terms)}
	o.Password, o.Must = gate.OffersPassword(b)
	for _, name := range blueprint.WordsOfGate() {
		o.Words[string(name)] = b.Gate.Says(name)
	}
	for i := range b.Roles {
		r := &b.Roles[i]
		if len(r.Match) > 0 && b.Gate.Lets(blueprint.FieldsWay) {
			o.Finds = append(o.Finds, finding(b, r))
		}
		if m := r.SignUp.Mode; m == blueprint.Open || m == blueprint.Approved {
			out, err := h.signUpOf(ctx, p, r)
			if err != nil {
				return nil, err
			}
			o.SignUps = append(o.SignUps, out)
		}
	}
	switch {
	case p.Seat.Viewer.SignedIn():
		o.State = string(accounts.In)
	case p.Session != nil && p.Session.State != accounts.In:
		o.State = string(p.Session.State)
		id, err := seats.Identify(ctx, h.Apps.Road(ctx), p.Seat, p.Session)
		if err != nil {
			return nil, err
		}
		o.Mailed = id.Second(b) == blueprint.MailCode
	}
	return &output[GateOut]{o}, nil
}

func finding(b *blueprint.Blueprint, r *blueprint.Role) Finding {
	out := Finding{Role: r.ID, Name: r.Name, Labels: []string{}}
	t := b.Table(r.People)
	for _, m := range r.Match {
		id, field, linked := strings.Cut(m, ".")
		if !linked {
			out.Labels = append(out.Labels, t.Field(id).Name)
			continue
		}
		at := b.Table(t.Field(id).Target)
		out.Labels = append(out.Labels, at.Field(field).Name+" ("+at.Name+")")
	}
	return out
}

// signUpOf gives what those are asked who become one of a role's people.
func (h *Handlers) signUpOf(ctx context.Context, p *Place, r *blueprint.Role) (SignUpOut, error) {
	out := SignUpOut{Role: r.ID, Name: r.Name, Approved: r.SignUp.Mode == blueprint.Approved, Path: r.SignUpForm().ID()}
	v := page.SignUp(h.Apps.Road(ctx), p.Seat, r)
	v.Sources = p.Stage
	shown, err := v.Alone(ctx, v.Page.Blocks[0])
	if err != nil {
		return out, err
	}
	out.Form = Block{shown}
	return out, nil
}

// gated adds a route of the gate.
func gated[I, O any](h *Handlers, api huma.API, path, summary string, do func(context.Context, *Place, *I) (*O, error)) {
	handle(h, api, http.MethodPost, path, summary, func(ctx context.Context, p *Place, in *struct{ Body I }) (*O,
		error) {
		return do(ctx, p, &in.Body)
	})
}

func (h *Handlers) registerGate(api huma.API) {
	gated(h, api, "/sign-in/code", "Have a code sent", func(ctx context.Context, p *Place, in *WithEmail) (*struct{}, error) {
		return nil, h.Gate.Ask(ctx, p.visit(false), in.Email, blueprint.CodeWay, "")
	})
	gated(h, api, "/sign-in", "Sign in with a code", func(ctx context.Context, p *Place, in *Entered) (*admittedOutput, error) {
		a, err := h.Gate.Enter(ctx, p.visit(in.Remember), in.Email, in.Code)
		return h.admitted(p, a, err)
	})
	gated(h, api, "/sign-in/password", "Sign in with a password",
		func(ctx context.Context, p *Place, in *EnteredPassword) (*admittedOutput, error) {
			a, err := h.Gate.EnterByPassword(ctx, p.visit(in.Remember), in.Email, in.Password)
			return h.admitted(p, a, err)
		})
	gated(h, api, "/sign-in/link", "Have a link to sign in sent", func(ctx context.Context, p *Place, in *AskedLink) (*struct{}, error) {
		return nil, h.Gate.Ask(ctx, p.visit(false), in.Email, blueprint.LinkWay, in.To)
	})
	gated(h, api, "/sign-in/link/use", "Sign in with a link",
		func(ctx context.Context, p *Place, in *EnteredLink) (*admittedOutput, error) {
			a, err := h.Gate.EnterByLink(ctx, p.visit(in.Remember), in.Token)
			return h.admitted(p, a, err)
		})
	gated(h, api, "/sign-in/fields", "Have a code sent to whoever the answers fit",
		func(ctx context.Context, p *Place, in *Answered) (*struct{}, error) {
			return nil, h.Gate.AskByFields(ctx, p.visit(false), gate.Answers{Role: in.Role, Answers: in.Answers})
		})
	gated(h, api, "/sign-in/fields/use", "Sign in with answers and the code that followed",
		func(ctx context.Context, p *Place, in *Answered) (*admittedOutput, error) {
			a, err := h.Gate.EnterByFields(ctx, p.visit(in.Remember), gate.Answers{Role: in.Role, Answers: in.Answers}, in.Code)
			return h.admitted(p, a, err)
		})
	h.registerSecond(api)
	gated(h, api, "/sign-up", "Sign up", func(ctx context.Context, p *Place, in *NewPerson) (*output[Ticket], error) {
		ticket, err := h.Gate.SignUp(ctx, p.visit(false), gate.SignUp(*in))
		return &output[Ticket]{Ticket{ticket}}, err
	})
	gated(h, api, "/sign-up/confirm", "Confirm the address with which one signed up",
		func(ctx context.Context, p *Place, in *Confirmed) (*admittedOutput, error) {
			a, err := h.Gate.Confirm(ctx, p.visit(in.Remember), in.Email, in.Ticket.Ticket, in.Code)
			return h.admitted(p, a, err)
		})
	gated(h, api, "/invitation", "Look at an invitation", func(ctx context.Context, p *Place, in *EnteredLink) (*output[InvitationOut],
		error) {
		i, err := h.Gate.LookAtInvitation(ctx, p.visit(false), in.Token)
		if err != nil {
			return nil, err
		}
		asks, err := h.signUpOf(ctx, p, i.Role)
		return &output[InvitationOut]{InvitationOut{i.Email, asks}}, err
	})
	gated(h, api, "/invitation/accept", "Accept an invitation",
		func(ctx context.Context, p *Place, in *InvitedPerson) (*admittedOutput, error) {
			a, err := h.Gate.Accept(ctx, p.visit(true), in.Token, gate.SignUp{Values: in.Values, Password: in.Password, Terms: in.Terms})
			return h.admitted(p, a, err)
		})
	gated(h, api, "/reset", "Have a code sent that lets one set a password",
		func(ctx context.Context, p *Place, in *WithEmail) (*struct{}, error) {
			return nil, h.Gate.AskReset(ctx, p.visit(false), in.Email)
		})
	gated(h, api, "/reset/use", "Set a password", func(ctx context.Context, p *Place, in *NewPassword) (*struct{}, error) {
		return nil, h.Gate.Reset(ctx, p.visit(false), in.Email, in.Code, in.Password)
	})
	handle(h, api, http.MethodPost, "/sign-out", "Sign out", func(ctx context.Context, p *Place, _ *struct{}) (*signedOutput, error) {
		if err := h.Gate.Leave(ctx, p.Token); err != nil {
			return nil, err
		}
		return &signedOutput{[]http.Cookie{*h.Cookie(p, "", 0, false)}}, nil
	})
	h.registerProfile(api)
}

// registerSecond adds the routes of the second step.
func (h *Handlers) registerSecond(api huma.API) {
	gated(h, api, "/sign-in/second", "Do the second step", func(ctx context.Context, p *Place, in *OneCode) (*admittedOutput, error) {
		a, err := h.Gate.GoOn(ctx, p.visit(false), p.Token, in.Code)
		return h.admitted(p, a, err)
	})
	handle(h, api, http.MethodPost, "/sign-in/second/send", "Have the code of the second step sent again",
		func(ctx context.Context, p *Place, _ *struct{}) (*struct{}, error) {
			return nil, h.Gate.SendSecond(ctx, p.visit(false), p.Token)
		})
	handle(h, api, http.MethodPost, "/sign-in/authenticator", "What is needed to set up an authenticator",
		func(ctx context.Context, p *Place, _ *struct{}) (*output[accounts.Setup], error) {
			setup, err := h.Gate.Setup(ctx, p.visit(false), p.Token)
			return &output[accounts.Setup]{setup}, err
		})
	gated(h, api, "/sign-in/authenticator/use", "Set up an authenticator with its first code",
		func(ctx context.Context, p *Place, in *OneCode) (*admittedOutput, error) {
			a, err := h.Gate.Enrol(ctx, p.visit(false), p.Token, in.Code)
			return h.admitted(p, a, err)
		})
}
