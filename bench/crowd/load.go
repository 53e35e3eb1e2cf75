package main

import (
	"context"
	crand "crypto/rand"
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	"pinegate/core/query"
	"pinegate/store"
	"pinegate/store/apps"
)

// load has many people use many apps, first undisturbed, then while one founder
// imports many rows and another filters as heavily as can be.
func load(ctx context.Context, at place, p plan) error {
	dsn, t, err := at.town(ctx, max(p.apps, 3))
	if err != nil {
		return err
	}
	defer t.s.Close()
	f, err := at.servers(ctx, dsn, p.servers)
	if err != nil {
		return err
	}
	c := &crowd{town: t, site: f.URL, client: &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: p.people + 50}}}
	err = c.run(ctx, p)
	if err != nil {
		err = fmt.Errorf("%w\n%s", err, at.told())
	}
	return errors.Join(err, f.Stop())
}

// town builds so many apps in a database of their own, whose address comes with them.
func (at place) town(ctx context.Context, n int) (dsn string, t *town, err error) {
	if dsn, err = at.database(ctx, "crowd"); err != nil {
		return "", nil, err
	}
	s, err := store.Open(ctx, dsn)
	if err != nil {
		return "", nil, err
	}
	if t, err = build(ctx, s, n); err != nil {
		s.Close()
	}
	return dsn, t, err
}

type crowd struct {
	*town
	site   string
	client *http.Client
}

// The first two apps are those whose founders do what is heavy; nobody else uses
// them.
const heavy = 2

func (c *crowd) run(ctx context.Context, p plan) error {
	used := c.apps[heavy:]
	for n := range p.people {
		h := &used[n%len(used)]
		if err := c.letIn(ctx, h, len(h.people)+1); err != nil {
			return err
		}
	}
	if err := c.signIns(ctx, 2+min(len(used), 20)); err != nil {
		return err
	}
	fmt.Printf("%d people, %d apps, %d servers; %s each.\n\n", p.people, len(c.apps), p.servers, p.length)
	fmt.Println("| | requests/s | p50 | p95 | p99 | refused | wrong |\n|---|---|---|---|---|---|---|")
	if _, err := c.part(ctx, p, p.length/3); err != nil { // warms up
		return err
	}
	quiet, err := c.part(ctx, p, p.length)
	if err != nil {
		return err
	}
	told(quiet, p.length, "undisturbed")
	done, err := c.disturb(ctx, p)
	if err != nil {
		return err
	}
	loud, err := c.part(ctx, p, p.length)
	if err != nil {
		return err
	}
	told(loud, p.length, "meanwhile")
	fmt.Printf("\nA customer's page: p95 %.1f ms undisturbed, %.1f ms meanwhile: %.2f times.\n", ms(at(quiet.took["page"], 95)),
		ms(at(loud.took["page"], 95)),
		float64(at(loud.took["page"], 95))/float64(at(quiet.took["page"], 95)))
	return done()
}

// told prints what people got.
func told(t *tally, length time.Duration, when string) {
	line := func(what string, took []time.Duration, refused, wrong int) {
		fmt.Printf("| %s | %.1f | %.1f ms | %.1f ms | %.1f ms | %d | %d |\n", what, float64(len(took))/length.Seconds(), ms(at(took, 50)),
			ms(at(took, 95)), ms(at(took, 99)), refused, wrong)
	}
	wrong := func(of string) (n int) {
		for what, times := range t.wrong {
			if of == "" || strings.HasPrefix(what, of+" ") {
				n += times
			}
		}
		return n
	}
	var all []time.Duration
	refused := 0
	for what, took := range t.took {
		all = append(all, took...)
		refused += t.refuse[what]
	}
	line("all, "+when, all, refused, wrong(""))
	for _, what := range slices.Sorted(maps.Keys(t.took)) {
		line(what+", "+when, t.took[what], t.refuse[what], wrong(what))
	}
	for what, n := range t.wrong {
		fmt.Printf("\n%d times wrong: %s\n", n, what)
	}
}

// signIns lets the founders in whose sessions are needed.
func (c *crowd) signIns(ctx context.Context, n int) error {
	for i := range min(n, len(c.apps)) {
		b := &browser{site: c.site, tally: newTally(), client: c.client}
		if err := b.ask(ctx, "sign in", http.MethodPost, "/api/sign-in", map[string]string{"email": founder(i),
			"password": password}, nil); err != nil {
			return err
		}
		c.apps[i].founder = b.cookie.Value
	}
	return nil
}

// think is how long somebody looks at what they got, at most; half of it in the mean.
const think = 8 * time.Second

// part has everybody use the apps for a while.
func (c *crowd) part(ctx context.Context, p plan, length time.Duration) (*tally, error) {
	out := newTally()
	ctx, cancel := context.WithTimeout(ctx, length)
	defer cancel()
	var wait sync.WaitGroup
	used := c.apps[heavy:]
	begin := func(do func(*browser, *rand.Rand) error, cookie *http.Cookie) {
		wait.Go(func() {
			r := rand.New(rand.NewPCG(rand.Uint64(), 0))
			b := &browser{site: c.site, tally: out, client: c.client, cookie: cookie}
			for {
				select {
				case <-ctx.Done():
					return
				case <-time.After(time.Duration(r.Int64N(int64(think)))):
				}
				_ = do(b, r) // what is wrong is in the tally
			}
		})
	}
	for n := range p.people {
		h := &used[n%len(used)]
		begin(func(b *browser, r *rand.Rand) error { return visit(ctx, b, r, h) },
			&http.Cookie{Name: "pinegate_person", Value: h.people[(n/len(used))%len(h.people)]})
	}
	for i := range used {
		if h := &used[i]; h.founder != "" {
			begin(func(b *browser, r *rand.Rand) error { return c.work(ctx, b, r, h) }, &http.Cookie{Name: "pinegate_builder",
				Value: h.founder})
		}
	}
	wait.Wait()
	return out, nil
}

// visit is what somebody does who uses an app.
func visit(ctx context.Context, b *browser, r *rand.Rand, h *house) error {
	at := "/a/" + h.app.Slug + "/-"
	switch n := r.IntN(100); {
	case n < 60:
		return b.ask(ctx, "page", http.MethodGet, at+"/page", nil, nil)
	case n < 85:
		return b.ask(ctx, "list", http.MethodGet, at+"/lists/home_b?path=home&view=home_b.by%3Db_title", nil, nil)
	case n < 97:
		return b.ask(ctx, "form", http.MethodPost, at+"/forms/home_c", map[string]any{"key": crand.Text(), "path": "home",
			"values": map[string]any{"b_title": fmt.Sprintf("Boat %d", r.IntN(1e6)), "b_day": "2026-12-01"}}, nil)
	default:
		return b.ask(ctx, "who am I", http.MethodGet, at+"/app", nil, nil)
	}
}

// work is what a founder does.
func (c *crowd) work(ctx context.Context, b *browser, r *rand.Rand, h *house) error {
	at := "/api/apps/" + h.app.ID
	switch n := r.IntN(100); {
	case n < 5:
		return b.ask(ctx, "sign in", http.MethodPost, "/api/sign-in", map[string]string{"email": h.email, "password": password}, nil)
	case n < 60:
		return b.ask(ctx, "grid", http.MethodGet, at+"/tables/book/records?sort=b_title", nil, nil)
	case n < 90:
		return b.ask(ctx, "change", http.MethodPost, at+"/changes", map[string]any{"changes": []any{map[string]any{"kind": "set",
			"of":     "home_a",
			"values": map[string]any{"text": fmt.Sprintf("Hello {{ me.name }}, for the %d. time", r.IntN(1000))}}}}, nil)
	default:
		var plan struct{ Revision, LiveVersion int }
		if err := b.ask(ctx, "plan", http.MethodGet, at+"/plan", nil, &plan); err != nil {
			return err
		}
		return b.ask(ctx, "publish", http.MethodPost, at+"/publish", map[string]any{"revision": plan.Revision,
			"liveVersion": plan.LiveVersion,
			"accept":      true, "bringRecords": false}, nil)
	}
}

// heaviest is a filter that looks through all records for each of them, twice over.
const heaviest = "COUNT(RECORDS(bookings, fee > this.fee and COUNT(RECORDS(bookings, fee > this.fee)) > 2)) > 1"

// disturb has one founder import many rows, and another filter heavily, twenty-six
// times at once and again and again. It gives what ends that.
func (c *crowd) disturb(ctx context.Context, p plan) (func() error, error) {
	ends := []func() error{}
	for _, d := range []struct {
		wanted bool
		begin  func(context.Context, plan) (func() error, error)
	}{{p.filter, c.filters}, {p.imports, c.imports}} {
		if !d.wanted {
			continue
		}
		end, err := d.begin(ctx, p)
		if err != nil {
			return nil, err
		}
		ends = append(ends, end)
	}
	return func() error {
		var errs []error
		for _, end := range ends {
			errs = append(errs, end())
		}
		return errors.Join(errs...)
	}, nil
}

func (c *crowd) founder(h house) *browser {
	return &browser{site: c.site, tally: newTally(), client: c.client, cookie: &http.Cookie{Name: "pinegate_builder", Value: h.founder}}
}

// imports begins to import, and waits for its end.
func (c *crowd) imports(ctx context.Context, p plan) (func() error, error) {
	h := c.apps[0]
	b, at := c.founder(h), "/api/apps/"+h.app.ID
	var upload, started struct{ ID string }
	var proposal any
	if err := b.ask(ctx, "upload", http.MethodPost, at+"/uploads?name=crews.csv", rows(p.rows), &upload); err != nil {
		return nil, err
	}
	uploads := []string{upload.ID}
	if err := b.ask(ctx, "propose", http.MethodPost, at+"/imports/propose", map[string]any{"uploads": uploads}, &proposal); err != nil {
		return nil, err
	}
	if err := b.ask(ctx, "import", http.MethodPost, at+"/imports", map[string]any{"uploads": uploads, "proposal": proposal},
		&started); err != nil {
		return nil, err
	}
	began := time.Now()
	return func() error {
		for {
			var status struct {
				Status, Message string
				Imported        int
			}
			if err := b.ask(ctx, "status", http.MethodGet, at+"/imports/"+started.ID, nil, &status); err != nil {
				return err
			}
			if status.Status != "running" && status.Status != "waiting" {
				fmt.Printf("The import: %s, %d rows, over %s after its start at the latest. %s\n", status.Status, status.Imported,
					time.Since(began).Round(time.Second), status.Message)
				return nil
			}
			time.Sleep(500 * time.Millisecond)
		}
	}, nil
}

// filters begins to filter, and tells what became of it.
func (c *crowd) filters(ctx context.Context, _ plan) (func() error, error) {
	h := c.apps[1]
	if _, err := c.s.Pool.Exec(ctx, fmt.Sprintf(`INSERT INTO %s.bookings (id, title, fee, created_by, changed_by)
		SELECT gen_random_uuid(), 'Boat ' || n, n %% 40, 'x', 'x' FROM generate_series(1, 20000) n`,
		query.Quote(apps.SchemaName(h.app, apps.Draft)))); err != nil {
		return nil, err
	}
	filtering, stop := context.WithCancel(ctx)
	var wait sync.WaitGroup
	f := c.founder(h)
	for range 26 {
		wait.Go(func() {
			b := *f
			for filtering.Err() == nil {
				_ = b.ask(filtering, "heavy", http.MethodGet,
					"/api/apps/"+h.app.ID+"/tables/book/records?filter="+url.QueryEscape(heaviest), nil, nil)
			}
		})
	}
	return func() error {
		stop()
		wait.Wait()
		took := f.tally.took["heavy"]
		fmt.Printf("The heavy filter was answered %d times (p50 %.1f s) and refused with words %d times; wrong: %v.\n", len(took),
			at(took, 50).Seconds(), f.tally.refuse["heavy"], f.tally.wrong)
		return nil
	}, nil
}
