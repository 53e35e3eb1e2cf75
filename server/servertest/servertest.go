// Package servertest runs a whole server with the demo, for tests.
package servertest

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/riverqueue/river"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/imports"
	"pinegate/app/outside"
	"pinegate/app/run"
	"pinegate/demo"
	"pinegate/server"
	"pinegate/server/builder"
	"pinegate/server/gate"
	"pinegate/server/watch"
	"pinegate/standin/harbour"
	"pinegate/standin/mailbox"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/files"
	"pinegate/store/kept"
	"pinegate/store/once"
	"pinegate/store/runs"
	"pinegate/store/seal"
	"pinegate/store/storetest"
	dist "pinegate/web"
)

// Site is a running server with the demo.
type Site struct {
	URL      string
	Server   *server.Server
	Config   server.Config
	Store    *store.Store
	Apps     *apps.Apps
	Accounts *accounts.Accounts
	Mailbox  *mailbox.Mailbox
	Harbour  *harbour.Harbour
	App      store.App // the demo's
	Watch    *watch.Watch
}

// yard is a database with the demo, and yardFiles the folder of its files.
var (
	yard      = storetest.NewTemplate(loadYard)
	yardFiles string
)

func loadYard(ctx context.Context, s *store.Store) (err error) {
	if yardFiles, err = os.MkdirTemp("", "pinegate-yard-"); err != nil {
		return err
	}
	blobs, err := files.Open(ctx, files.Folder(yardFiles))
	if err != nil {
		return err
	}
	_, err = demo.Load(ctx, s, apps.New(s), accounts.New(s), blobs, false)
	return errors.Join(err, blobs.Close())
}

// Main runs the tests of a package that starts servers.
func Main(m *testing.M) int {
	code := storetest.Main(m)
	if err := os.RemoveAll(yardFiles); err != nil {
		panic(err)
	}
	return code
}

// New starts a server in a database of its own; it goes with the test.
func New(t testing.TB) *Site {
	t.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	s := yard.New(t)
	site := &Site{Store: s, Apps: apps.New(s), Accounts: accounts.New(s), Mailbox: mailbox.New(s), Watch: watch.New()}
	site.Watch.Store(s)
	folder := t.TempDir()
	require.NoError(t, os.CopyFS(folder, os.DirFS(yardFiles)))
	blobs, err := files.Open(ctx, files.Folder(folder))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, blobs.Close()) })
	account := demo.Founder()
	site.App, err = site.Apps.BySlug(ctx, demo.Slug)
	require.NoError(t, err)
	address, err := site.Mailbox.Serve(ctx)
	require.NoError(t, err)
	acts, err := act.New(site.Apps)
	require.NoError(t, err)
	bring := imports.New(s, site.Apps, acts)
	site.Harbour = harbour.New()
	office, err := site.Harbour.Serve(ctx)
	require.NoError(t, err)
	seals, err := seal.In(s.DB, seal.Key{1})
	require.NoError(t, err)
	require.NoError(t, demo.Secrets(ctx, site.Apps, seals))
	flows := &run.Runs{Acts: acts, Apps: site.Apps, Book: runs.In(s.DB), Files: blobs, Seals: seals,
		Services: outside.New(seals, outside.Options{Names: map[string]string{harbour.Name: office}})}
	web := httptest.NewUnstartedServer(nil)
	site.URL = "http://" + web.Listener.Addr().String()
	g, err := gate.New(context.Background(), s, site.Apps, acts, site.Accounts,
		gate.Mailer{Address: address, From: "no-reply@pinegate.example", Base: site.URL},
		gate.Jobs{Queues: run.Queues(map[string]int{imports.Queue: imports.Workers}),
			Workers: []func(*river.Workers){bring.Worker}, Flows: flows})
	require.NoError(t, err)
	site.Config = server.Config{Store: s, Apps: site.Apps, Acts: acts, Runs: flows, Accounts: site.Accounts, Gate: g, Live: s.Listen(ctx),
		Imports: bring, Blobs: blobs, Once: once.In(s.DB), Kept: kept.In(s.DB), Mailbox: site.Mailbox, Base: site.URL, Files: dist.Dist(), Watch: site.Watch,
		Demo: &builder.DemoAccount{Email: account.Email, Password: account.Password, Name: account.Name}}
	site.Server = server.New(site.Config)
	web.Config.Handler = site.Server
	web.Start()
	t.Cleanup(func() {
		cancel()
		web.Close()
		require.NoError(t, g.Stop(context.Background()))
	})
	return site
}

// Key gives the key of a form that is sent.
func Key() string { return rand.Text() }

// Client is somebody's browser, without its manners.
type Client struct {
	t    testing.TB
	base string
	http *http.Client
}

// Client gives a new client without cookies.
func (s *Site) Client(t testing.TB) *Client {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &Client{t: t, base: s.URL, http: &http.Client{Jar: jar, Timeout: 3 * time.Minute}}
}

// At is the same browser in front of another server of the site.
func (c *Client) At(server string) *Client { return &Client{t: c.t, base: server, http: c.http} }

// Do sends a request and gives the status and the body.
func (c *Client) Do(method, path string, body any, headers ...string) (int, string) {
	c.t.Helper()
	var r io.Reader
	if body != nil {
		raw, err := json.Marshal(body)
		require.NoError(c.t, err)
		r = bytes.NewReader(raw)
	}
	request, err := http.NewRequestWithContext(c.t.Context(), method, c.base+path, r)
	require.NoError(c.t, err)
	request.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(headers); i += 2 {
		request.Header.Set(headers[i], headers[i+1])
	}
	response, err := c.http.Do(request)
	require.NoError(c.t, err)
	raw, err := io.ReadAll(response.Body)
	require.NoError(c.t, err)
	require.NoError(c.t, response.Body.Close())
	return response.StatusCode, string(raw)
}

// Send posts a file, as it is.
func (c *Client) Send(path, content string) (int, string) {
	c.t.Helper()
	response, err := c.http.Post(c.base+path, "application/octet-stream", strings.NewReader(content))
	require.NoError(c.t, err)
	raw, err := io.ReadAll(response.Body)
	require.NoError(c.t, err)
	require.NoError(c.t, response.Body.Close())
	return response.StatusCode, string(raw)
}

// Header gets something and gives the header of the answer.
func (c *Client) Header(path string) http.Header {
	c.t.Helper()
	response, err := c.http.Get(c.base + path)
	require.NoError(c.t, err)
	require.NoError(c.t, response.Body.Close())
	return response.Header
}

// Cookie gives the value of a cookie that goes along to a path, or "".
func (c *Client) Cookie(path, name string) string {
	c.t.Helper()
	at, err := url.Parse(c.base + path)
	require.NoError(c.t, err)
	for _, x := range c.http.Jar.Cookies(at) {
		if x.Name == name {
			return x.Value
		}
	}
	return ""
}

// Read gets a JSON answer, which must be there.
func (c *Client) Read(path string, into any) {
	c.t.Helper()
	status, body := c.Do(http.MethodGet, path, nil)
	require.Equal(c.t, http.StatusOK, status, "%s: %s", path, body)
	require.NoError(c.t, json.Unmarshal([]byte(body), into))
}

// Write posts something that must be accepted.
func (c *Client) Write(method, path string, body any) string {
	c.t.Helper()
	status, answer := c.Do(method, path, body)
	require.Less(c.t, status, 300, "%s: %s", path, answer)
	return answer
}

// Founder gives a client that is signed in as the demo's founder.
func (s *Site) Founder(t testing.TB) *Client {
	c := s.Client(t)
	f := demo.Founder()
	c.Write(http.MethodPost, "/api/sign-in", map[string]string{"email": f.Email, "password": f.Password})
	return c
}

var codePattern = regexp.MustCompile(`\b\d{6}\b`)

// Code waits for the newest code that was mailed to an address after the mail
// with the id.
func (s *Site) Code(t testing.TB, email string, after int64) string {
	t.Helper()
	var code string
	require.Eventually(t, func() bool {
		mails, err := s.Mailbox.Of(context.Background(), "", 50)
		if err != nil {
			return false
		}
		for _, m := range mails {
			if m.ID > after && m.Recipients == email { // also what workflows send them
				if code = codePattern.FindString(m.Subject); code != "" {
					return true
				}
			}
		}
		return false
	}, 10*time.Second, 20*time.Millisecond, "no code for %s", email)
	return code
}

// Person gives a client that is signed in to the live demo, also right after
// another one was.
func (s *Site) Person(t testing.TB, email string) *Client {
	t.Helper()
	var last int64
	require.NoError(t, s.Store.DB.Raw("SELECT COALESCE(max(id), 0) FROM mails").Scan(&last).Error)
	c := s.Client(t)
	c.Write(http.MethodPost, "/a/alder-cove/-/sign-in/code", map[string]string{"email": email})
	c.Write(http.MethodPost, "/a/alder-cove/-/sign-in", map[string]string{"email": email, "code": s.Code(t, email, last)})
	return c
}
