package runtime

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/act"
	"pinegate/app/page"
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/server/gate"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/records"
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

// MyPart is one of a person's records, as far as the profile shows it. Questions
// are the fields that they may change.
type MyPart struct {
	Table     string          `json:"table"`
	Name      string          `json:"name"`
	Columns   []page.Column   `json:"columns"`
	Row       page.Row        `json:"row"`
	Revision  int             `json:"revision"`
	Questions []page.Question `json:"questions"`
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

// MyAnswers are changes of a person's own record.
type MyAnswers struct {
	Table    string         `json:"table" maxLength:"40"`
	Revision int            `json:"revision"`
	Values   records.Values `json:"values"`
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
	mine(h, api, "", "Change one's own record", h.changeMe)
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
	parts, err := h.myParts(ctx, p)
	if err != nil {
		return nil, err
	}
	app, err := p.app(ctx, h.Apps)
	if err != nil {
		return nil, err
	}
	return &output[Me]{Me{App: app, Email: s.Session.Email, Parts: parts, Passwords: b.Gate.Lets(blueprint.PasswordWay),
		HasPassword: account.Password != nil, Authenticator: account.TotpSecret != nil,
		Sessions: SessionsOut(list, s.Session.ID), Terms: terms, Closing: gate.ClosingOf(b, p.Seat.Viewer)}}, nil
}

// shownOf lists the fields that the profile shows of a record, those of all the
// person's roles in its table.
func shownOf(p *Place, table string) []string {
	var out []string
	for _, m := range p.Seat.Viewer.Memberships {
		r := p.Seat.Blueprint.Role(m.Role)
		if r == nil || r.People != table {
			continue
		}
		for _, f := range r.Profile.Fields {
			if !slices.Contains(out, f) {
				out = append(out, f)
			}
		}
	}
	return out
}

// myParts gives the person's own records, as their rules let them see and change
// these.
func (h *Handlers) myParts(ctx context.Context, p *Place) ([]MyPart, error) {
	out := []MyPart{}
	road := h.Apps.Road(ctx)
	for i := range p.Seat.Blueprint.Tables {
		t := &p.Seat.Blueprint.Tables[i]
		me, fields := p.Seat.Viewer.Me(p.Seat.Blueprint, t.ID), shownOf(p, t.ID)
		if me == "" || len(fields) == 0 {
			continue
		}
		raw, err := road.Get(ctx, p.Seat, t, me)
		if errors.Is(err, store.ErrNotFound) { // no rule shows them their own record
			continue
		}
		if err != nil {
			return nil, err
		}
		rows, err := page.Rows([]records.Row{raw})
		if err != nil {
			return nil, err
		}
		part, err := p.myPart(t, fields, rows[0])
		if err != nil {
			return nil, err
		}
		out = append(out, part)
	}
	return out, nil
}

func (p *Place) myPart(t *blueprint.Table, fields []string, row page.Row) (MyPart, error) {
	b := p.Seat.Blueprint
	out := MyPart{Table: t.ID, Name: t.Name, Columns: []page.Column{}, Row: page.Row{"id": row["id"]}, Questions: []page.Question{}}
	if n, ok := row["revision"].(float64); ok {
		out.Revision = int(n)
	}
	for _, id := range fields {
		value, seen := row[id]
		if !seen {
			continue
		}
		f := t.Field(id)
		column := page.ColumnOf(b, p.Seat.Catalog, t, f)
		out.Row[id] = value
		if label, ok := row[id+"~"]; ok {
			out.Row[id+"~"] = label
		}
		may, err := p.mayChangeMine(t, f)
		if err != nil {
			return out, err
		}
		if may {
			out.Questions = append(out.Questions, page.Question{Column: column, Required: f.Required, Value: value})
		} else {
			out.Columns = append(out.Columns, column)
		}
	}
	return out, nil
}

// mayChangeMine tells whether a field of one's own can be changed in the profile:
// not the address, which has to be confirmed, and nothing that needs a search.
func (p *Place) mayChangeMine(t *blueprint.Table, f *blueprint.Field) (bool, error) {
	for _, m := range p.Seat.Viewer.Memberships {
		if r := p.Seat.Blueprint.Role(m.Role); r != nil && r.People == t.ID && r.Email == f.ID {
			return false, nil
		}
	}
	if !f.Type.Entered() || f.Type.Filed() || f.Type == blueprint.Link || f.Type == blueprint.Links {
		return false, nil
	}
	return access.MaySet(p.Seat.Blueprint, p.Seat.Catalog, p.Seat.Viewer, t.ID, f.ID, blueprint.Modify)
}

func (h *Handlers) changeMe(ctx context.Context, p *Place, _ gate.Self, in *MyAnswers) (*struct{}, error) {
	t := p.Seat.Blueprint.Table(in.Table)
	if t == nil {
		return nil, store.ErrNotFound
	}
	me, fields := p.Seat.Viewer.Me(p.Seat.Blueprint, t.ID), shownOf(p, t.ID)
	if me == "" {
		return nil, store.ErrNotFound
	}
	wrong := records.FieldErrors{}
	for id := range in.Values {
		f := t.Field(id)
		may := false
		if f != nil && slices.Contains(fields, id) {
			var err error
			if may, err = p.mayChangeMine(t, f); err != nil {
				return nil, err
			}
		}
		if !may {
			wrong[id] = words.New("not-asked")
		}
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	_, err := h.Acts.Edit(ctx, p.App, p.Seat, words.Say("did-change-one", words.Args{"table": t.Name}),
		func(u *act.Unit) (*records.Write, error) {
			return u.Road.Change(ctx, p.Seat, t, me, in.Revision, in.Values, nil)
		})
	return nil, err
}
