package main

import (
	"bytes"
	"context"
	crand "crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"
)

// report is what became of an attack.
type report struct {
	mu     sync.Mutex
	Tried  int
	By     map[string]map[string]int // by who, and what came of it
	Broken []string                  // what was answered by 5xx other than that there is too much to do
	Quiet  time.Duration             // what a page of a customer took, of a hundred the fifth slowest
	During time.Duration
	Peak   int // highest memory of the server, in MB
}

// came notes an answer.
func (r *report) came(who, what string, status int, body string) {
	r.mu.Lock()
	defer r.mu.Unlock()
	kind := "served"
	switch {
	case status == 0:
		kind = "cut off"
	case status == http.StatusServiceUnavailable || status == http.StatusTooManyRequests:
		kind = "put off"
	case status >= 500:
		kind = "broken"
		if len(r.Broken) < mostBroken {
			r.Broken = append(r.Broken, fmt.Sprintf("%s, %s: %d %.300s", who, what, status, body))
		}
	case status >= 400:
		kind = "refused"
	}
	r.Tried++
	if r.By[who] == nil {
		r.By[who] = map[string]int{}
	}
	r.By[who][kind]++
}

const mostBroken = 20

// site is what is attacked.
type site struct {
	url    string
	pid    int
	routes []string // as "METHOD /path/:param"
}

// client is somebody's browser.
type client struct {
	*http.Client
	site *site
	who  string
	to   *report
	rand *rand.Rand
}

func (s *site) client(who string, to *report) *client {
	jar, err := cookiejar.New(nil)
	if err != nil {
		panic(err) // it never fails without options
	}
	return &client{&http.Client{Jar: jar, Timeout: time.Minute}, s, who, to, rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 1))}
}

// do sends a request and notes what came of it.
func (c *client) do(ctx context.Context, method, path string, body []byte) (int, string) {
	status, answer := c.ask(ctx, method, path, body)
	if ctx.Err() == nil {
		c.to.came(c.who, method+" "+path, status, answer)
	}
	return status, answer
}

func (c *client) ask(ctx context.Context, method, path string, body []byte) (int, string) {
	if strings.HasSuffix(strings.Split(path, "?")[0], "/events") { // a stream has no end
		short, cancel := context.WithTimeout(ctx, 200*time.Millisecond)
		defer cancel()
		ctx = short
	}
	r, err := http.NewRequestWithContext(ctx, method, c.site.url+path, bytes.NewReader(body))
	if err != nil {
		return http.StatusBadRequest, err.Error() // an address that is none
	}
	r.Header.Set("Content-Type", "application/json")
	answer, err := c.Do(r)
	if err != nil {
		return 0, err.Error()
	}
	defer func() { _ = answer.Body.Close() }()
	raw, err := io.ReadAll(io.LimitReader(answer.Body, 1<<20))
	if err != nil {
		return answer.StatusCode, err.Error()
	}
	return answer.StatusCode, string(raw)
}

// must sends JSON that has to be taken.
func (c *client) must(ctx context.Context, path string, body any, into any) error {
	raw, err := json.Marshal(body)
	if err != nil {
		return err
	}
	status, answer := c.ask(ctx, http.MethodPost, path, raw)
	if status == 0 || status >= 300 {
		return fmt.Errorf("%s: %d %s", path, status, answer)
	}
	if into == nil {
		return nil
	}
	return json.Unmarshal([]byte(answer), into)
}

var sixDigits = regexp.MustCompile(`\b\d{6}\b`)

// code waits for a code that was mailed, which the demo shows to everybody.
func (c *client) code(ctx context.Context, to string) (string, error) {
	for range 200 {
		_, answer := c.ask(ctx, http.MethodGet, "/api/mailbox", nil)
		var mails []struct{ To, Subject string }
		if json.Unmarshal([]byte(answer), &mails) == nil {
			for _, m := range mails {
				if code := sixDigits.FindString(m.Subject); m.To == to && code != "" {
					return code, nil
				}
			}
		}
		select {
		case <-ctx.Done():
			return "", ctx.Err()
		case <-time.After(50 * time.Millisecond):
		}
	}
	return "", errors.New("no code came")
}

// person signs in to the demo.
func (s *site) person(ctx context.Context, email string, to *report) (*client, error) {
	c := s.client("customer", to)
	if err := c.must(ctx, live+"/sign-in/code", map[string]string{"email": email}, nil); err != nil {
		return nil, err
	}
	code, err := c.code(ctx, email)
	if err != nil {
		return nil, err
	}
	return c, c.must(ctx, live+"/sign-in", map[string]string{"email": email, "code": code}, nil)
}

const live = "/a/alder-cove/-"

// builder registers, and makes an app of which it gives the id.
func (s *site) builder(ctx context.Context, name string, to *report) (c *client, app string, err error) {
	c = s.client("builder", to)
	const password = "driftwood-and-copper"
	email := name + "@elsewhere.example"
	var ticket struct{ Ticket string }
	if err := c.must(ctx, "/api/sign-up", map[string]string{"email": email, "password": password, "name": name}, &ticket); err != nil {
		return nil, "", err
	}
	code, err := c.code(ctx, email)
	if err != nil {
		return nil, "", err
	}
	confirmed := map[string]string{"email": email, "code": code, "ticket": ticket.Ticket}
	if err := c.must(ctx, "/api/sign-up/confirm", confirmed, nil); err != nil {
		return nil, "", err
	}
	if err := c.must(ctx, "/api/sign-in", map[string]string{"email": email, "password": password}, nil); err != nil {
		return nil, "", err
	}
	var made struct{ ID string }
	err = c.must(ctx, "/api/apps", map[string]string{"name": "Mill"}, &made)
	return c, made.ID, err
}

// watch asks for a page of a customer until the context ends, and gives what it took.
func watch(ctx context.Context, c *client) (time.Duration, error) {
	var took []time.Duration
	for ctx.Err() == nil {
		began := time.Now()
		status, answer := c.ask(ctx, http.MethodGet, live+"/page?path=my-boats", nil)
		if ctx.Err() != nil {
			break
		}
		if status != http.StatusOK {
			return 0, fmt.Errorf("a customer's page: %d %s", status, answer)
		}
		took = append(took, time.Since(began))
		select {
		case <-ctx.Done():
		case <-time.After(20 * time.Millisecond):
		}
	}
	if len(took) == 0 {
		return 0, errors.New("a customer got no page")
	}
	slices.Sort(took)
	return took[len(took)*95/100], nil
}

// memory reads the highest memory of a process, in MB.
func memory(pid int) (int, error) {
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	if err != nil {
		return 0, err
	}
	for line := range strings.Lines(string(raw)) {
		if rest, is := strings.CutPrefix(line, "VmHWM:"); is {
			n, err := strconv.Atoi(strings.Fields(rest)[0])
			return n >> 10, err
		}
	}
	return 0, errors.New("read memory: it is not told")
}

// attack has a stranger, a customer and a builder do what they can for a while, and
// watches what another customer gets meanwhile.
func attack(ctx context.Context, s *site, length time.Duration, without ...string) (*report, error) {
	r := &report{By: map[string]map[string]int{}}
	watched, err := s.person(ctx, "tomas.lindqvist@sailmail.example", r)
	if err != nil {
		return nil, err
	}
	customer, err := s.person(ctx, "ines.calder@sailmail.example", r)
	if err != nil {
		return nil, err
	}
	builder, app, err := s.builder(ctx, "mallory", r)
	if err != nil {
		return nil, err
	}
	slow, slowApp, err := s.builder(ctx, "snail", r)
	if err != nil {
		return nil, err
	}
	digger, dugApp, err := s.builder(ctx, "digger", r)
	if err != nil {
		return nil, err
	}
	dig, err := digger.dig(ctx, dugApp)
	if err != nil {
		return nil, err
	}
	attackers := map[string]func(context.Context){
		"stranger": s.client("stranger", r).wander, "customer": customer.wander, "builder": builder.wanderIn(app),
		"guess": s.client("stranger", r).guess, "repeat": customer.repeat, "bomb": builder.bomb(app), "drip": slow.drip(slowApp),
		"dig": dig,
	}
	for _, name := range without {
		if attackers[name] == nil {
			return nil, fmt.Errorf("nobody attacks as %q", name)
		}
		delete(attackers, name)
	}
	quiet, cancel := context.WithTimeout(ctx, min(length/2, 10*time.Second))
	defer cancel()
	if r.Quiet, err = watch(quiet, watched); err != nil {
		return nil, err
	}
	during, cancel := context.WithTimeout(ctx, length)
	defer cancel()
	var all sync.WaitGroup
	for _, do := range attackers {
		all.Go(func() { do(during) })
	}
	r.During, err = watch(during, watched)
	all.Wait()
	if err != nil {
		return r, err
	}
	r.Peak, err = memory(s.pid)
	return r, err
}

// odd are texts that have broken things elsewhere.
var odd = []string{"", "0", "-1", "x", "null", "../../etc/passwd", "%00", "%ff", "'\";--", "<b>", "999999999999999999999", "\\",
	"{{me.name}}",
	"live.founder", "founder", "visitor", "person.r_own.x", "boat", "own", "req", "boat_name", "p_ask_c", "r_own", "alder-cove", "\u202e"}

// word gives an odd text, or an id that nobody has.
func (c *client) word() string {
	switch c.rand.IntN(8) {
	case 0:
		return strings.Repeat("x", c.rand.IntN(5000))
	case 1:
		return fmt.Sprintf("01a00000-0000-7000-8000-%012x", c.rand.Uint64()>>16)
	}
	return odd[c.rand.IntN(len(odd))]
}

// keys are names of what is sent.
var keys = strings.Fields(`path record values changes change email code password name key kind of what into id revision version liveVersion accept
	bringRecords role table edits uploads proposal expression filter as to let do mail ticket token answers terms workspace settings sort cursor after`)

// value makes a value of JSON that fits nothing in particular.
func (c *client) value(depth int) any {
	switch n := c.rand.IntN(9); {
	case n == 0 && depth > 0:
		return []any{c.value(depth - 1), c.value(depth - 1)}
	case n <= 2 && depth > 0:
		out := map[string]any{}
		for range c.rand.IntN(5) {
			out[keys[c.rand.IntN(len(keys))]] = c.value(depth - 1)
		}
		return out
	case n == 3:
		return c.rand.IntN(5) - 1
	case n == 4:
		return c.rand.IntN(2) == 0
	case n == 5:
		return nil
	case n == 6:
		return "a\x00b"
	}
	return c.word()
}

// body makes what is sent: JSON mostly, or what is none.
func (c *client) body() []byte {
	switch c.rand.IntN(12) {
	case 0:
		return []byte(strings.Repeat("[", 1+c.rand.IntN(20_000)))
	case 1:
		return []byte{0xff, 0xfe, 0}
	}
	out := map[string]any{}
	for range 1 + c.rand.IntN(6) {
		out[keys[c.rand.IntN(len(keys))]] = c.value(3)
	}
	raw, err := json.Marshal(out)
	if err != nil {
		panic(err) // it is made of what can be written
	}
	return raw
}

// wander asks at random for whatever there is.
func (c *client) wander(ctx context.Context) { c.wanderIn("")(ctx) }

// wanderIn is wander, mostly in an app of one's own.
func (c *client) wanderIn(app string) func(context.Context) {
	return func(ctx context.Context) {
		for ctx.Err() == nil {
			method, path, _ := strings.Cut(c.site.routes[c.rand.IntN(len(c.site.routes))], " ")
			if strings.HasSuffix(path, "/sign-out") || path == "/api/apps/:app" && method == http.MethodDelete {
				continue // there would be nobody and nothing left
			}
			parts := strings.Split(path, "/")
			for i, part := range parts {
				if !strings.HasPrefix(part, ":") {
					continue
				}
				parts[i] = url.PathEscape(c.word())
				if part == ":app" && c.rand.IntN(5) > 0 {
					parts[i] = app
					if strings.HasPrefix(path, "/a/") || app == "" {
						parts[i] = "alder-cove"
					}
				}
			}
			query := ""
			for range c.rand.IntN(3) {
				query += "&" + keys[c.rand.IntN(len(keys))] + "=" + url.QueryEscape(c.word())
			}
			c.do(ctx, method, strings.Join(parts, "/")+"?"+strings.TrimPrefix(query, "&"), c.body())
		}
	}
}

// guess asks for codes of others, and tries what they could be.
func (c *client) guess(ctx context.Context) {
	for ctx.Err() == nil {
		email := "ines.calder@sailmail.example"
		c.do(ctx, http.MethodPost, live+"/sign-in/code", fmt.Appendf(nil, `{"email":%q}`, email))
		c.do(ctx, http.MethodPost, live+"/sign-in", fmt.Appendf(nil, `{"email":%q,"code":"%06d"}`, email, c.rand.IntN(1e6)))
		c.do(ctx, http.MethodPost, live+"/sign-in/password", fmt.Appendf(nil, `{"email":%q,"password":"wrong-password"}`, email))
		c.do(ctx, http.MethodPost, "/api/sign-in", []byte(`{"email":"marta@aldercove.example","password":"wrong-password"}`))
	}
}

// repeat sends forms again and again, several at once with the same key.
func (c *client) repeat(ctx context.Context) {
	_, answer := c.ask(ctx, http.MethodGet, live+"/page?path=my-boats", nil)
	var boats struct {
		Blocks []struct{ Rows []struct{ ID string } }
	}
	boat := ""
	if json.Unmarshal([]byte(answer), &boats) == nil && len(boats.Blocks) > 2 && len(boats.Blocks[2].Rows) > 0 {
		boat = boats.Blocks[2].Rows[0].ID
	}
	for ctx.Err() == nil {
		body := fmt.Appendf(nil, `{"key":%q,"path":"ask-for-work","values":{"req_title":"Again","req_boat":%q,"req_kind":"wk_hull"}}`,
			crand.Text(), boat)
		var all sync.WaitGroup
		for range 5 {
			all.Go(func() { c.do(ctx, http.MethodPost, live+"/forms/p_ask_c", body) })
		}
		all.Wait()
	}
}
