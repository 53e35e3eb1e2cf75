// Package server is the HTTP side of the product. It translates between
// requests and the packages below; it decides nothing.
package server

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"net/url"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"
	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"

	"pinegate/app/act"
	"pinegate/app/imports"
	"pinegate/app/outside"
	"pinegate/app/run"
	"pinegate/core/words"
	"pinegate/server/builder"
	"pinegate/server/gate"
	"pinegate/server/reply"
	"pinegate/server/runtime"
	"pinegate/server/seats"
	"pinegate/server/watch"
	"pinegate/standin/mailbox"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/files"
	"pinegate/store/kept"
	"pinegate/store/once"
	"pinegate/store/records"
)

// Config is what a server is made of.
type Config struct {
	Store    *store.Store
	Apps     *apps.Apps
	Acts     *act.Acts
	Runs     *run.Runs
	Accounts *accounts.Accounts
	Gate     *gate.Gate
	Live     *store.Live
	Imports  *imports.Service
	Blobs    *files.Store
	Once     *once.Book
	Kept     *kept.Book
	Mailbox  *mailbox.Mailbox     // nil when a mail server is set
	Demo     *builder.DemoAccount // nil outside demo mode
	Files    fs.FS                // the built front end
	Secure   bool                 // browsers reach us over TLS
	Base     string               // the address by which they do, without a slash at its end
	Proxies  []string             // networks of proxies that are believed where a request comes from
	Watch    *watch.Watch         // nil where nobody counts
	Holding  Holding              // of who is refused again and again
	FormTime time.Duration        // how long visitors take at least from seeing a form to sending it
}

// Server answers requests.
type Server struct {
	Config
	engine  *gin.Engine
	handler http.Handler // the engine, with its large answers compressed
	// unproxied tells, once, that a proxy is not believed.
	unproxied func()
	receiver  *receiver
	icons     *lru.Cache[string, []byte]
	answers   *outside.Kept
	// Schemas describe the APIs, for generating the front end's types.
	Builder, Runtime huma.API
}

const (
	builderCookie = "pinegate_builder"
	personCookie  = "pinegate_person"
	keptCookie    = "pinegate_kept"
)

// New makes a server.
func New(c Config) *Server {
	huma.DefaultArrayNullable = false // our answers have empty lists where there is nothing
	gin.SetMode(gin.ReleaseMode)
	icons, err := lru.New[string, []byte](mostIcons)
	if err != nil {
		panic(err) // only for a size that is none
	}
	s := &Server{Config: c, engine: gin.New(), receiver: newReceiver(), icons: icons}
	if c.Runs != nil { // which nobody needs who only asks for the routes
		s.answers = outside.NewKept(c.Runs.Services, func(ctx context.Context, app string) (bool, error) {
			return c.Accounts.Allow(ctx, "service "+app, pagesAsk, time.Minute)
		})
	}
	s.engine.ContextWithFallback = true
	s.trust()
	s.engine.Use(numbered, s.holding(c.Holding))
	if c.Watch != nil {
		s.engine.Use(c.Watch.Request)
	}
	s.engine.Use(gin.CustomRecoveryWithWriter(nil, recovered), s.headers, s.crossOrigin(), legible)
	s.engine.GET("/healthz", func(g *gin.Context) { g.String(http.StatusOK, "ok\n") })
	s.engine.GET("/readyz", s.ready)
	s.engine.GET("/robots.txt", robots)
	s.incoming()
	s.leaving()
	s.builder()
	s.live()
	s.stage()
	s.engine.NoRoute(s.files)
	s.handler = timed(usualPatience(), compressing(s.engine))
	return s
}

// ServeHTTP answers a request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// Routes lists the routes, as "METHOD path".
func (s *Server) Routes() []string {
	var out []string
	for _, r := range s.engine.Routes() {
		out = append(out, r.Method+" "+r.Path)
	}
	return out
}

// numbered gives every request an id, which stands in the log and in messages of
// what went wrong on our side.
func numbered(g *gin.Context) {
	id := strings.ToLower(rand.Text()[:requestID])
	g.Header("X-Request-Id", id)
	as(g, store.Work{Kind: store.Front, Request: id})
}

// requestID is how many letters and digits the id of a request has.
const requestID = 10

// as tells for whom the request is worked on.
func as(g *gin.Context, w store.Work) {
	g.Request = g.Request.WithContext(store.With(g.Request.Context(), w))
}

// ofApp tells about which app the request is.
func ofApp(g *gin.Context, app store.App) {
	g.Request = g.Request.WithContext(store.ForApp(g.Request.Context(), app))
}

// onPage tells on which page of the app the request is, as far as its address says.
func onPage(g *gin.Context) {
	g.Request = g.Request.WithContext(store.OnPage(g.Request.Context(), g.Query("path")))
}

// building tells that a builder asks, for an app where the address names one. What
// one may not have is refused before anything of its app is read. Whoever is not
// signed in yet is about to do so, for which there is a reserve.
func (s *Server) building(g *gin.Context) {
	b, in := who(g.Request.Context())
	if !in {
		return
	}
	g.Request = g.Request.WithContext(store.DoneBy(store.As(g.Request.Context(), store.Build), store.ByBuilder(b.ID)))
	if id := g.Param("app"); id != "" {
		workspace, err := s.Apps.WorkspaceOf(g, id)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			failed(g, "find the workspace", err)
			return
		}
		ofApp(g, store.App{ID: id, WorkspaceID: workspace})
	}
}

func recovered(g *gin.Context, value any) {
	if value == http.ErrAbortHandler { // a stream that cannot be ended well is cut off
		panic(value)
	}
	slog.ErrorContext(g, "request panicked", "path", g.FullPath(), "value", value)
	problem(g, http.StatusInternalServerError, reply.Broken(g))
}

// problem answers with problem details from outside the API.
func problem(g *gin.Context, status int, detail string) {
	g.Header("Content-Type", "application/problem+json")
	g.AbortWithStatusJSON(status, &huma.ErrorModel{Status: status, Title: http.StatusText(status), Detail: detail})
}

func (s *Server) headers(g *gin.Context) {
	h := g.Writer.Header()
	if s.Secure {
		h.Set("Strict-Transport-Security", "max-age=31536000")
	}
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
	h.Set("Content-Security-Policy", contentPolicy)
	h.Set("X-Robots-Tag", "noindex") // but for pages that are open to everyone
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("X-Frame-Options", "SAMEORIGIN")
	if strings.HasPrefix(g.Request.URL.Path, "/api/") || strings.Contains(g.Request.URL.Path, "/-/") {
		h.Set("Cache-Control", "no-store")
	}
}

// crossOrigin refuses writes that another site's page makes a browser send.
func (s *Server) crossOrigin() gin.HandlerFunc {
	protection := http.NewCrossOriginProtection()
	return func(g *gin.Context) {
		if err := protection.Check(g.Request); err != nil {
			problem(g, http.StatusForbidden, words.Say("answer-other-site", nil))
		}
	}
}

// legible refuses addresses with what is no text, or what the database cannot keep in
// one.
func legible(g *gin.Context) {
	all, err := url.QueryUnescape(g.Request.URL.RawQuery)
	text := g.Request.URL.Path + all
	if err != nil || !utf8.ValidString(text) || strings.ContainsRune(text, 0) {
		problem(g, http.StatusBadRequest, words.Say("answer-signs", nil))
	}
}

func (s *Server) ready(g *gin.Context) {
	ctx, cancel := context.WithTimeout(g, 2*time.Second)
	defer cancel()
	if err := s.Store.Ping(ctx); err != nil {
		slog.ErrorContext(g, "database does not answer", "error", err)
		problem(g, http.StatusServiceUnavailable, words.Say("answer-no-database", nil))
		return
	}
	g.String(http.StatusOK, "ready\n")
}

func apiConfig(title string) huma.Config {
	c := huma.DefaultConfig(title, "1")
	c.OpenAPIPath, c.DocsPath, c.SchemasPath = "", "", ""
	c.CreateHooks = nil
	return c
}

type contextKey int

const (
	keyToken contextKey = iota
	keyBuilder
	keyFrom
	keyPlace
	keySession
	keyAgent
)

// with puts a value into the request, where handlers find it.
func with(g *gin.Context, key contextKey, value any) {
	g.Request = g.Request.WithContext(context.WithValue(g.Request.Context(), key, value))
}

// signedIn finds the builder whose session the request carries.
func (s *Server) signedIn(g *gin.Context) {
	with(g, keyFrom, s.from(g, builderDevice, "/api"))
	with(g, keyAgent, g.Request.UserAgent())
	token, err := g.Cookie(builderCookie)
	if err != nil || token == "" {
		return
	}
	with(g, keyToken, token)
	b, session, err := s.Accounts.Builder(g, token)
	switch {
	case errors.Is(err, accounts.ErrRefused):
	case err != nil:
		failed(g, "find the builder's session", err)
	default:
		with(g, keySession, session)
		if session.State == accounts.In {
			with(g, keyBuilder, b)
		}
	}
}

// onlyBuilders refuses who is not signed in, before anything of the request is
// read, unless the route is open.
func onlyBuilders(open func(method, path string) bool) gin.HandlerFunc {
	return func(g *gin.Context) {
		if _, ok := who(g.Request.Context()); !ok && !open(g.Request.Method, strings.TrimPrefix(g.FullPath(), "/api")) {
			problem(g, http.StatusUnauthorized, words.Say("answer-sign-in", nil))
		}
	}
}

// failed logs an error of ours, which must not look like nobody being signed
// in, and answers with an apology.
func failed(g *gin.Context, what string, err error) {
	var told *huma.ErrorModel
	if !errors.As(reply.Error(g, fmt.Errorf("%s: %w", what, err)), &told) {
		told = &huma.ErrorModel{Status: http.StatusInternalServerError, Detail: reply.Broken(g)}
	}
	problem(g, told.Status, told.Detail)
}

func who(ctx context.Context) (store.Builder, bool) {
	b, ok := ctx.Value(keyBuilder).(store.Builder)
	return b, ok
}

func session(ctx context.Context) accounts.Session {
	s, _ := ctx.Value(keySession).(accounts.Session)
	return s
}

func text(key contextKey) func(context.Context) string {
	return func(ctx context.Context) string {
		s, _ := ctx.Value(key).(string)
		return s
	}
}

// cookie makes a session cookie; an empty token ends the session, no life makes
// it end with the browser.
func (s *Server) cookie(name, path, token string, life time.Duration) *http.Cookie {
	c := &http.Cookie{Name: name, Value: token, Path: path, HttpOnly: true, Secure: s.Secure, SameSite: http.SameSiteLaxMode,
		MaxAge: int(life.Seconds())}
	if token == "" {
		c.MaxAge = -1
	}
	return c
}

func (s *Server) builder() {
	h := &builder.Handlers{Apps: s.Apps, Acts: s.Acts, Runs: s.Runs, Base: s.Base, Accounts: s.Accounts, Live: s.Live, Imports: s.Imports, Files: s.Blobs,
		Jobs: s.Gate.Jobs(), Gate: s.Gate, Mailbox: s.Mailbox, Demo: s.Demo, Who: who, Session: session, Token: text(keyToken),
		From: from, Agent: text(keyAgent),
		Cookie: func(token string) *http.Cookie {
			return s.cookie(builderCookie, "/", token, accounts.BuilderHours*time.Hour)
		}}
	group := s.engine.Group("/api", s.signedIn, onlyBuilders(h.IsOpen), s.building)
	s.Builder = humagin.NewWithGroup(s.engine, group, apiConfig("Builder"))
	h.Register(s.Builder)
	// files come as they are, so they do not go the way of JSON
	group.POST("/apps/:app/uploads", s.raw(func(g *gin.Context) (any, error) {
		id, err := h.Upload(g.Request.Context(), g.Param("app"), g.Query("name"), g.Request.Body)
		return builder.Uploaded{ID: id}, err
	}))
	group.POST("/apps/:app/tables/:table/fields/:field/files", s.raw(func(g *gin.Context) (any, error) {
		at := builder.OfTable{Own: builder.Own{App: g.Param("app")}, Table: g.Param("table"), As: g.Query("as")}
		return h.UploadFile(g.Request.Context(), at, g.Param("field"), g.Query("name"), g.Request.Body)
	}))
	group.POST("/apps/:app/pictures", s.raw(func(g *gin.Context) (any, error) {
		return h.UploadPicture(g.Request.Context(), g.Param("app"), g.Query("name"), g.Request.Body)
	}))
}

func place(ctx context.Context) *runtime.Place {
	p, _ := ctx.Value(keyPlace).(*runtime.Place)
	return p
}

// live serves the apps to their people.
func (s *Server) live() {
	group := s.engine.Group("/a/:app/-", s.livePlace)
	s.Runtime = humagin.NewWithGroup(s.engine, group, apiConfig("Runtime"))
	h := &runtime.Handlers{Apps: s.Apps, Acts: s.Acts, Runs: s.Runs, Answers: s.answers, Live: s.Live, Files: s.Blobs, Gate: s.Gate, Accounts: s.Accounts,
		Once: s.Once, Place: place, LeastTime: s.FormTime, Kept: s.Kept,
		KeptCookie: func(p *runtime.Place, text string) *http.Cookie {
			return s.cookie(keptCookie, "/a/"+p.App.Slug, text, keptLife)
		},
		Cookie: func(p *runtime.Place, token string, hours int, visit bool) *http.Cookie {
			if visit {
				hours = 0
			}
			return s.cookie(personCookie, "/a/"+p.App.Slug, token, time.Duration(hours)*time.Hour)
		}}
	h.Register(s.Runtime)
	s.formFiles(group, h)
	s.publicRoutes(group)
}

func (s *Server) livePlace(g *gin.Context) {
	app, err := s.Apps.BySlug(g, g.Param("app"))
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		failed(g, "find the app", err)
		return
	}
	if err != nil || app.LiveVersion == 0 {
		problem(g, http.StatusNotFound, words.Say("answer-no-app", nil))
		return
	}
	ofApp(g, app)
	onPage(g)
	place := &runtime.Place{App: app, From: s.from(g, personDevice, "/a/"+app.Slug), Agent: g.Request.UserAgent()}
	if token, err := g.Cookie(personCookie); err == nil && token != "" {
		session, err := s.Accounts.Session(g, app.ID, token)
		if err != nil && !errors.Is(err, accounts.ErrRefused) {
			failed(g, "find the person's session", err)
			return
		}
		if err == nil {
			place.Session, place.Token = &session, token
		}
	}
	if place.Seat, err = seats.Live(g, s.Apps, app, place.Session); err != nil {
		failed(g, "take a seat", err)
		return
	}
	s.remembered(g, place)
}

// keptLife is for how long a browser keeps the cookie of kept values, which say themselves
// until when they count.
const keptLife = 400 * 24 * time.Hour

// remembered adds what is kept for whoever sits there, and gives the place to the request.
func (s *Server) remembered(g *gin.Context, place *runtime.Place) {
	text, err := g.Cookie(keptCookie)
	if err != nil {
		text = "" // there is none
	}
	if err := place.Remember(g, s.Kept, text, place.Seat.Clock.Now); err != nil {
		failed(g, "read what is kept", err)
		return
	}
	with(g, keyPlace, place)
}

// stage serves an app to its builders, seen as somebody: the draft, or with the
// live records.
func (s *Server) stage() {
	group := s.engine.Group("/stage/:app/:as/-", s.signedIn, s.building, s.stagePlace)
	h := &runtime.Handlers{Apps: s.Apps, Acts: s.Acts, Runs: s.Runs, Answers: s.answers, Live: s.Live, Files: s.Blobs, Accounts: s.Accounts,
		Once: s.Once, Place: place, Kept: s.Kept, KeptCookie: func(p *runtime.Place, text string) *http.Cookie {
			return s.cookie(keptCookie, "/stage/"+p.App.ID, text, keptLife)
		}}
	h.Register(humagin.NewWithGroup(s.engine, group, apiConfig("Stage")))
	s.formFiles(group, h)
}

func (s *Server) stagePlace(g *gin.Context) {
	b, ok := who(g.Request.Context())
	if !ok {
		problem(g, http.StatusUnauthorized, words.Say("answer-sign-in", nil))
		return
	}
	app, err := s.Apps.ByID(g, b.ID, g.Param("app"))
	if err != nil {
		problem(g, http.StatusNotFound, words.Say("answer-missing", nil))
		return
	}
	onPage(g)
	as := g.Param("as")
	seat, err := seats.As(g, s.Apps, app, b.Name, as)
	var told *words.Problem
	switch {
	case errors.As(err, &told):
		problem(g, http.StatusNotFound, told.Error())
		return
	case errors.Is(err, store.ErrNotFound), errors.Is(err, records.ErrForbidden):
		problem(g, http.StatusNotFound, words.Say("answer-no-one", nil))
		return
	case err != nil:
		failed(g, "take a seat", err)
		return
	}
	place := &runtime.Place{App: app, Seat: seat, Stage: true, From: from(g.Request.Context()), Locked: !app.Member.May(store.Editor)}
	if env, _ := seats.Split(as); env == apps.Live && !s.looks(g, place, b, as) {
		return
	}
	s.remembered(g, place)
}

// looks prepares a look at the live app as somebody, and writes it down. Nothing
// can be changed there unless acting as them is switched on. It answers, and
// gives false, where that is not for the builder.
func (s *Server) looks(g *gin.Context, place *runtime.Place, b store.Builder, as string) bool {
	if !place.App.Member.May(store.Editor) {
		problem(g, http.StatusForbidden, words.Say("answer-live-viewer", nil))
		return false
	}
	place.Stage = false
	place.Locked = true
	here := session(g.Request.Context())
	// whoever may act no more does not, though it was switched on
	if a := builder.ActingIn(here); a != nil && a.App == place.App.ID && a.As == as && place.App.Member.May(store.Owner) {
		place.Locked = false
		place.Seat.By = words.Say("acting-as", words.Args{"builder": b.Name, "person": seats.Name(place.Seat.Blueprint, place.Seat.Viewer)})
	}
	err := s.Accounts.NoteLook(g, here, place.App, b.Name, as,
		words.Say("team-looked", words.Args{"person": seats.Name(place.Seat.Blueprint, place.Seat.Viewer)}))
	if err != nil {
		failed(g, "write down a look at the live app", err)
	}
	return err == nil
}
