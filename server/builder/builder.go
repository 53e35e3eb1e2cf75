// Package builder serves those who build apps.
package builder

import (
	"context"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"pinegate/app/act"
	"pinegate/app/imports"
	"pinegate/app/run"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/server/gate"
	"pinegate/server/reply"
	"pinegate/standin/mailbox"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/files"
)

// Handlers serve the builder.
type Handlers struct {
	Apps     *apps.Apps
	Acts     *act.Acts
	Runs     *run.Runs
	Base     string // address by which browsers reach us
	Accounts *accounts.Accounts
	Live     *store.Live
	Imports  *imports.Service
	Files    *files.Store
	Jobs     *river.Client[pgx.Tx]
	Gate     *gate.Gate
	Mailbox  *mailbox.Mailbox // nil when a mail server is set
	Demo     *DemoAccount     // nil outside demo mode
	// Who gives the signed-in builder, and whether there is one.
	Who     func(context.Context) (store.Builder, bool)
	Session func(context.Context) accounts.Session
	Token   func(context.Context) string
	From    func(context.Context) gate.From // where a request comes from
	Agent   func(context.Context) string
	Cookie  func(token string) *http.Cookie

	open map[string]bool // routes, as "METHOD /path"
}

// DemoAccount is the account that is offered on the sign-in screen.
type DemoAccount struct {
	Email    string `json:"email"`
	Password string `json:"password"`
	Name     string `json:"name"`
}

type output[T any] struct{ Body T }

func out[T any](v T) *output[T] { return &output[T]{v} }

// openTo adds a route that is there for those who are not signed in, too.
func openTo[I, O any](h *Handlers, api huma.API, method, path, summary string, do func(context.Context, *I) (*O, error)) {
	if h.open == nil {
		h.open = map[string]bool{}
	}
	h.open[method+" "+path] = true
	register(api, method, path, summary, do)
}

// IsOpen tells whether a route is there for those who are not signed in. All others
// are not, whatever their handlers ask.
func (h *Handlers) IsOpen(method, path string) bool { return h.open[method+" "+path] }

// register adds a route for whoever is signed in.
func register[I, O any](api huma.API, method, path, summary string, do func(context.Context, *I) (*O, error)) {
	huma.Register(api, huma.Operation{OperationID: huma.GenerateOperationID(method, path, new(O)), Method: method, Path: path,
		Summary: summary},
		func(ctx context.Context, in *I) (*O, error) {
			o, err := do(ctx, in)
			return o, reply.Error(ctx, err)
		})
}

// Own is the path of an app; it is only there for its owner.
type Own struct {
	App string `path:"app"`
}

func (o Own) id() string { return o.App }

type ofApp interface{ id() string }

// request is a request of a builder about an own app.
type request struct {
	app     store.App
	builder store.Builder
}

// appRoute adds a route about an app of the signed-in builder. It says what a
// member must be for it: a viewer to look, an editor to change something, and an
// owner for what is secret or final. Mail holds codes that let people in.
func appRoute[I ofApp, O any](h *Handlers, api huma.API, needs store.MemberRole, method, path, summary string,
	do func(context.Context, request, I) (*O, error)) {
	register(api, method, "/apps/{app}"+path, summary, func(ctx context.Context, in *I) (*O, error) {
		who, err := h.builder(ctx)
		if err != nil {
			return nil, err
		}
		app, err := h.Apps.ByID(ctx, who.ID, (*in).id())
		if err != nil {
			return nil, err
		}
		if !app.Member.May(needs) {
			return nil, errLevel(needs)
		}
		o, err := do(ctx, request{app, who}, *in)
		return o, h.Apps.Moved(ctx, app, err)
	})
}

func (h *Handlers) builder(ctx context.Context) (store.Builder, error) {
	who, ok := h.Who(ctx)
	if !ok {
		return who, huma.Error401Unauthorized(words.Say("answer-sign-in", nil))
	}
	return who, nil
}

// Session says who is signed in to the builder.
type Session struct {
	SignedIn bool         `json:"signedIn"`
	Second   bool         `json:"second"` // the second step is to be done
	Name     string       `json:"name"`
	Email    string       `json:"email"`
	Demo     *DemoAccount `json:"demo,omitempty"`
	Mailbox  bool         `json:"mailbox"` // the mailbox can be read by everybody
}

// SignIn is what somebody signs in with.
type SignIn struct {
	Email    string `json:"email" maxLength:"254"`
	Password string `json:"password" maxLength:"200"`
}

type cookieOutput struct {
	SetCookie []http.Cookie `header:"Set-Cookie"`
}

// AppSummary is an app in the workshop.
type AppSummary struct {
	ID          string           `json:"id"`
	Slug        string           `json:"slug"`
	Name        string           `json:"name"`
	Theme       string           `json:"theme"`
	Tables      int              `json:"tables"`
	Pages       int              `json:"pages"`
	LiveVersion int              `json:"liveVersion"`
	Changed     bool             `json:"changed"` // the draft differs from what is live
	CreatedAt   time.Time        `json:"createdAt"`
	Workspace   string           `json:"workspace"`
	Member      store.MemberRole `json:"member"`
}

// NewApp is an app that is to be made, in one's own workspace or in another.
type NewApp struct {
	Name      string `json:"name" maxLength:"80"`
	Workspace string `json:"workspace,omitempty" maxLength:"40"`
}

// Register adds the routes.
func (h *Handlers) Register(api huma.API) {
	openTo(h, api, http.MethodGet, "/session", "Who is signed in", func(ctx context.Context, _ *struct{}) (*output[Session], error) {
		who, ok := h.Who(ctx)
		return out(Session{SignedIn: ok, Second: !ok && h.Session(ctx).State == accounts.Second, Name: who.Name, Email: who.Email,
			Demo: h.Demo, Mailbox: h.Demo != nil && h.Mailbox != nil}), nil
	})
	openTo(h, api, http.MethodPost, "/sign-out", "Sign out", func(ctx context.Context, _ *struct{}) (*cookieOutput, error) {
		if err := h.Accounts.SignOut(ctx, h.Token(ctx)); err != nil {
			return nil, err
		}
		return &cookieOutput{[]http.Cookie{*h.Cookie("")}}, nil
	})
	register(api, http.MethodGet, "/apps", "The workshop", h.workshop)
	register(api, http.MethodPost, "/apps", "Make an empty app", h.create)
	openTo(h, api, http.MethodGet, "/mailbox", "All caught mail, in demo mode", h.allMail)
	appRoute(h, api, store.Owner, http.MethodDelete, "", "Delete an app for good", h.removeApp)
	h.registerAccount(api)
	h.registerTeam(api)
	h.registerGate(api)
	h.registerBlueprint(api)
	h.registerRecords(api)
	h.registerEvents(api)
	h.registerImports(api)
	h.registerFiles(api)
	h.registerViews(api)
	h.registerWorkflows(api)
	h.registerServices(api)
	h.registerWants(api)
	h.registerWatch(api)
	h.registerWho(api)
	h.registerWhy(api)
	h.registerDraft(api)
	h.registerPublish(api)
}

func (h *Handlers) workshop(ctx context.Context, _ *struct{}) (*output[[]AppSummary], error) {
	who, err := h.builder(ctx)
	if err != nil {
		return nil, err
	}
	list, err := h.Apps.Of(ctx, who.ID)
	if err != nil {
		return nil, err
	}
	all := []AppSummary{}
	for _, app := range list {
		s, err := h.Apps.Summary(ctx, app)
		if err != nil {
			return nil, err
		}
		all = append(all, AppSummary{ID: app.ID, Slug: app.Slug, Name: app.Name, Theme: s.Theme, Tables: s.Tables, Pages: s.Pages,
			LiveVersion: app.LiveVersion, Changed: s.Unpublished > 0, CreatedAt: app.CreatedAt, Workspace: app.WorkspaceID,
			Member: app.Member})
	}
	return out(all), nil
}

func (h *Handlers) create(ctx context.Context, in *struct{ Body NewApp }) (*output[AppSummary], error) {
	who, err := h.builder(ctx)
	if err != nil {
		return nil, err
	}
	if in.Body.Workspace == "" {
		in.Body.Workspace = who.ID // one's own
	}
	w, err := h.Accounts.WorkspaceOf(ctx, who.ID, in.Body.Workspace)
	if err != nil {
		return nil, err
	}
	if !w.Role.May(store.Editor) {
		return nil, errLevel(store.Editor)
	}
	app, err := h.Apps.Create(ctx, w.ID, who.Name, blueprint.New(in.Body.Name, apps.NewID))
	if err != nil {
		return nil, err
	}
	if err := h.Accounts.NoteTeam(ctx, w.ID, app.ID, who.Name, words.Say("team-app-created", words.Args{"app": app.Name})); err != nil {
		return nil, err
	}
	return out(AppSummary{ID: app.ID, Slug: app.Slug, Name: app.Name, CreatedAt: app.CreatedAt, Workspace: w.ID, Member: w.Role}), nil
}

// removeApp deletes an app with all its records. Its name has to be typed.
func (h *Handlers) removeApp(ctx context.Context, r request, in struct {
	Own
	Name string `query:"name" doc:"The app's name, to be sure"`
}) (*struct{}, error) {
	if strings.TrimSpace(in.Name) != r.app.Name {
		return nil, words.New("app-name-exactly")
	}
	if err := h.Apps.Remove(ctx, r.app); err != nil {
		return nil, err
	}
	return nil, h.Accounts.NoteTeam(ctx, r.app.WorkspaceID, "", r.builder.Name,
		words.Say("team-app-deleted", words.Args{"app": r.app.Name}))
}

// MailOut is a mail in the mailbox.
type MailOut struct {
	ID      int64     `json:"id"`
	At      time.Time `json:"at"`
	From    string    `json:"from"`
	To      string    `json:"to"`
	Subject string    `json:"subject"`
	Body    string    `json:"body"`
	Files   string    `json:"files,omitempty" doc:"Names and sizes of what is attached"`
}

const mailsShown = 100

func (h *Handlers) mails(ctx context.Context, app string) (*output[[]MailOut], error) {
	if h.Mailbox == nil {
		return nil, huma.Error404NotFound(words.Say("answer-no-mailbox", nil))
	}
	list, err := h.Mailbox.Of(ctx, app, mailsShown)
	if err != nil {
		return nil, err
	}
	all := []MailOut{}
	for _, m := range list {
		if m.Secret && h.Demo == nil { // whoever reads it could be its recipient to the gate
			m.Subject, m.Body = words.Say("mail-secret-subject", nil), words.Say("mail-secret", nil)
		}
		all = append(all, MailOut{m.ID, m.ReceivedAt, m.Sender, m.Recipients, m.Subject, m.Body, m.Files})
	}
	return out(all), nil
}

func (h *Handlers) allMail(ctx context.Context, _ *struct{}) (*output[[]MailOut], error) {
	if h.Demo == nil {
		return nil, store.ErrNotFound
	}
	return h.mails(ctx, "")
}
