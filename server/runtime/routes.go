package runtime

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/act"
	"pinegate/app/outside"
	"pinegate/app/page"
	"pinegate/app/run"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/server/gate"
	"pinegate/server/reply"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/files"
	"pinegate/store/kept"
	"pinegate/store/once"
	"pinegate/store/records"
)

// Handlers serve one audience: the people of live apps, or builders at the
// stage.
type Handlers struct {
	Apps     *apps.Apps
	Acts     *act.Acts
	Runs     *run.Runs
	Answers  *outside.Kept
	Live     *store.Live
	Files    *files.Store
	Once     *once.Book
	Gate     *gate.Gate // nil on the stage, where nobody signs in
	Accounts *accounts.Accounts
	// Place gives where a request sits.
	Place func(context.Context) *Place
	// Cookie makes the session cookie of an app, for so many hours or until the
	// browser is closed; an empty token ends it.
	Cookie func(p *Place, token string, hours int, visit bool) *http.Cookie
	Kept   *kept.Book
	// LeastTime is how long visitors take at least from seeing a form to sending it; 0 for no time.
	LeastTime time.Duration
	// KeptCookie makes the cookie that keeps values in a browser; "" ends it.
	KeptCookie func(p *Place, text string) *http.Cookie
}

type output[T any] struct{ Body T }

func handle[I, O any](h *Handlers, api huma.API, method, path, summary string, do func(context.Context, *Place, *I) (*O, error)) {
	huma.Register(api, huma.Operation{OperationID: huma.GenerateOperationID(method, path, new(O)), Method: method, Path: path,
		Summary: summary},
		func(ctx context.Context, in *I) (*O, error) {
			place := h.Place(ctx)
			out, err := do(ctx, place, in)
			var refusal *gate.Refusal
			if errors.As(err, &refusal) {
				return nil, &huma.ErrorModel{Status: http.StatusForbidden, Title: refusal.Title, Detail: refusal.Text}
			}
			return out, reply.Error(ctx, h.Apps.Moved(ctx, place.App, err))
		})
}

// PageInput says which page is meant.
type PageInput struct {
	Path   string `query:"path" doc:"Path of the page; empty for the home page"`
	Record string `query:"record" doc:"Id of the record that the page is about"`
	View   string `query:"view" maxLength:"8000" doc:"What is asked of its blocks, as it stands in the address of the page"`
}

type formInput struct {
	Block string `path:"block"`
	Body  Sent
}

// Register adds the routes.
func (h *Handlers) Register(api huma.API) {
	h.registerEvents(api)
	h.registerFiles(api)
	handle(h, api, http.MethodGet, "/app", "The app and who looks at it",
		func(ctx context.Context, p *Place, _ *struct{}) (*output[App], error) {
			app, err := p.app(ctx, h.Apps)
			return &output[App]{app}, err
		})
	handle(h, api, http.MethodGet, "/gate", "What the screens of the gate show", h.gateScreens)
	handle(h, api, http.MethodGet, "/page", "A page with everything on it", h.page)
	h.registerLists(api)
	h.registerKept(api)
	handle(h, api, http.MethodPost, "/forms/{block}", "Send a form", h.form)
	handle(h, api, http.MethodPost, "/workflows/{flow}", "Start a workflow", h.press)
	handle(h, api, http.MethodGet, "/standalone/{name}", "A form that stands by itself", h.standalone)
	handle(h, api, http.MethodPost, "/forms/{block}/state", "How a form is with what was answered so far", h.formState)
	if h.Gate != nil {
		h.registerGate(api)
		h.registerLeave(api)
	}
}

func (h *Handlers) page(ctx context.Context, p *Place, in *PageInput) (*output[Page], error) {
	v, err := p.view(ctx, h.Apps, *in)
	if err != nil {
		return nil, err
	}
	shown, err := v.Blocks(ctx)
	if err != nil {
		return nil, err
	}
	app, err := p.app(ctx, h.Apps)
	if err != nil {
		return nil, err
	}
	out := Page{App: app, ID: v.Page.ID, Path: v.Page.Path, Name: v.Page.Name, Record: p.Seat.Page, Blocks: []Block{}}
	for _, x := range shown {
		out.Blocks = append(out.Blocks, Block{x})
	}
	return &output[Page]{out}, nil
}

// Standalone is a form that stands by itself, with the path of the page on which it is.
type Standalone struct {
	App   App    `json:"app"`
	Path  string `json:"path"`
	Title string `json:"title"`
	Block Block  `json:"block"`
}

func (h *Handlers) standalone(ctx context.Context, p *Place, in *struct {
	Name string `path:"name"`
}) (*output[Standalone], error) {
	at, x := p.Seat.Blueprint.PublicForm(in.Name)
	if x == nil {
		return nil, store.ErrNotFound
	}
	v, err := p.open(ctx, h.Apps, at.Path, "")
	if err != nil {
		return nil, err
	}
	shown, err := v.Alone(ctx, x)
	if errors.Is(err, page.ErrNotNow) {
		return nil, huma.Error404NotFound(words.Say("page-not-now", nil))
	}
	if err != nil {
		return nil, err
	}
	app, err := p.app(ctx, h.Apps)
	return &output[Standalone]{Standalone{app, at.Path, at.Name, Block{shown}}}, err
}

// FormAsked is what a browser asks of a form while somebody fills it in.
type FormAsked struct {
	Path   string `json:"path"`
	Record string `json:"record,omitempty"`
	// Invitation is the token of whoever was invited, where only those are asked.
	Invitation string `json:"invitation,omitempty" maxLength:"100"`
	page.StateAsked
}

// openForm finds the page of a form, which may be that of sign-up.
func (h *Handlers) openForm(ctx context.Context, p *Place, in FormAsked) (*page.View, error) {
	f := p.Seat.Blueprint.RoleForm(in.Path)
	if f == nil || f.Own {
		return p.open(ctx, h.Apps, in.Path, in.Record)
	}
	switch f.Role.SignUp.Mode {
	case blueprint.NoSignUp:
		return nil, store.ErrNotFound
	case blueprint.Invited:
		if p.Stage {
			break
		}
		i, err := h.Gate.LookAtInvitation(ctx, p.visit(false), in.Invitation)
		if err != nil {
			return nil, err
		}
		if i.Role.ID != f.Role.ID {
			return nil, store.ErrNotFound
		}
	}
	return page.SignUp(h.Apps.Road(ctx), p.Seat, f.Role), nil
}

// formState says how a form is. Nothing is written.
func (h *Handlers) formState(ctx context.Context, p *Place, in *struct {
	Block string `path:"block"`
	Body  FormAsked
}) (*output[page.FormState], error) {
	v, err := h.openForm(ctx, p, in.Body)
	if err != nil {
		return nil, err
	}
	u, err := v.Use(in.Block)
	if err != nil {
		return nil, err
	}
	s, err := u.State(ctx, in.Body.StateAsked)
	if err != nil {
		return nil, err
	}
	return &output[page.FormState]{s}, nil
}

// writable refuses to write where one only looks.
func (p *Place) writable() error {
	if p.Locked {
		return huma.Error403Forbidden(words.Say("view-only", nil))
	}
	return nil
}

// Sent is what a browser sends for a form.
type Sent struct {
	Key      string         `json:"key" minLength:"16" maxLength:"64" pattern:"^[A-Za-z0-9_-]+$" doc:"Drawn when the form is shown; sent twice with the same, it is one"`
	Path     string         `json:"path"`
	Record   string         `json:"record,omitempty"`
	Revision int            `json:"revision,omitempty"`
	Values   records.Values `json:"values"`
	// With are the answers to what goes with the form, by the ids of blocks.
	With  map[string][]page.Line `json:"with,omitempty"`
	Stamp string                 `json:"stamp,omitempty" doc:"That of the form, from visitors"`
	// Website is what only programs fill in, which fill in all they find.
	Website string `json:"website,omitempty"`
	// Rehearse writes nothing, and tells what would be written; for builders.
	Rehearse bool `json:"rehearse,omitempty"`
}

// form takes a form. Sent again, as by a second press or by a browser that lost the
// answer, it is answered again and nothing is written.
func (h *Handlers) form(ctx context.Context, p *Place, in *formInput) (*keeping[page.Done], error) {
	if err := p.writable(); err != nil {
		return nil, err
	}
	if in.Body.Rehearse && !p.Stage {
		return nil, words.New("rehearse-live")
	}
	same := *in // which is the same also where it was shown again
	same.Body.Stamp = ""
	ask, err := h.Once.Ask(p.App.ID, in.Body.Key, p.asker(), same)
	if err != nil {
		return nil, err
	}
	out := &keeping[page.Done]{}
	done := &out.Body
	before := func() (bool, error) { return ask.Before(ctx, done) }
	if is, err := before(); err != nil || is {
		return out, errors.Join(err, h.kept(p, done.Keeps, &out.SetCookie))
	}
	err = h.send(ctx, p, in, ask, done)
	switch {
	case errors.Is(err, page.ErrRehearsed):
		err = nil
	case errors.Is(err, once.ErrBefore):
		_, err = before()
	}
	if err != nil || in.Body.Rehearse { // which keeps nothing
		return out, err
	}
	return out, h.kept(p, done.Keeps, &out.SetCookie)
}

// byPerson refuses what a visitor sends as no person would.
func (h *Handlers) byPerson(p *Place, u page.Use, sent Sent) error {
	switch {
	case p.Seat.Viewer.SignedIn() || h.LeastTime == 0:
		return nil
	case sent.Website != "":
		return words.New("form-program")
	case u.Hasty(sent.Stamp, h.LeastTime):
		return words.New("form-hasty")
	}
	return nil
}

// send writes what a form sends, once.
func (h *Handlers) send(ctx context.Context, p *Place, in *formInput, ask once.Ask, done *page.Done) error {
	v, err := p.open(ctx, h.Apps, in.Body.Path, in.Body.Record)
	if err != nil {
		return err
	}
	u, err := v.Use(in.Block)
	if err != nil {
		return err
	}
	taken, err := u.Take(ctx, page.Sent{Revision: in.Body.Revision, Values: in.Body.Values, With: in.Body.With})
	if err != nil {
		return err
	}
	if h.Gate != nil {
		if err := h.byPerson(p, u, in.Body); err != nil {
			return err
		}
		if err := h.Gate.AllowForm(ctx, p.App, p.From, p.person()); err != nil {
			return err
		}
	}
	if v.Flow() != nil {
		return h.asked(ctx, p, u, in.Body, taken.Answers, ask, done)
	}
	presets, err := u.Presets(taken)
	if err != nil {
		return err
	}
	err = h.Acts.EditMany(ctx, p.App, p.Seat, func(unit *act.Unit) ([]*records.Write, string, error) {
		if err := ask.Begin(ctx, unit.Tx); err != nil {
			return nil, "", err
		}
		wrote, err := u.Write(ctx, unit.Road, taken, presets)
		if err != nil {
			return nil, "", err
		}
		if *done, err = u.After(ctx, unit.Road, wrote.Record); err != nil {
			return nil, "", err
		}
		got, err := h.Runs.Sent(ctx, unit, p.App, p.Seat, u.Block.ID, wrote.Record, taken.Answers)
		if err != nil {
			return nil, "", err
		}
		wrote.Writes = append(wrote.Writes, got.Writes...)
		if in.Body.Rehearse {
			done.Rehearsed = u.Rehearsed(wrote.Writes)
			return nil, "", page.ErrRehearsed
		}
		done.Message(got)
		return wrote.Writes, u.Sentence(), ask.End(ctx, unit.Tx, done)
	})
	if in.Body.Rehearse {
		return err
	}
	return h.Runs.Keep(ctx, err)
}
