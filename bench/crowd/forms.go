package main

import (
	"context"
	crand "crypto/rand"
	"errors"
	"fmt"
	"math/rand/v2"
	"net/http"
	"sync"
	"time"

	"pinegate/core/query"
	"pinegate/store/apps"
)

// manyBookings is how many there are in the app whose form is filled in.
const manyBookings = 200_000

// typing is how long somebody pauses at most before the form is asked again how it is.
const typing = 1200 * time.Millisecond

// fillIn has many people of one app fill in a form at once: each opens it, answers one thing after
// the other, and sends it.
func fillIn(ctx context.Context, at place, p plan) error {
	dsn, t, err := at.town(ctx, 1)
	if err != nil {
		return err
	}
	s := t.s
	defer s.Close()
	h := &t.apps[0]
	schema := query.Quote(apps.SchemaName(h.app, apps.Live))
	if _, err := s.Pool.Exec(ctx, fmt.Sprintf(`INSERT INTO %s.members (id, name, email, created_by, changed_by) SELECT gen_random_uuid(),
		'Member ' || n, 'member-' || n || '@club.example', 'x', 'x' FROM generate_series(%d, 2000) n`, schema, peopleEach+1)); err != nil {
		return err
	}
	if _, err := s.Pool.Exec(ctx, fmt.Sprintf(`INSERT INTO %[1]s.bookings (id, title, day, member, created_by, changed_by)
		SELECT gen_random_uuid(), 'Boat ' || n, DATE '2026-01-01' + n %% 365, m.ids[1 + n %% cardinality(m.ids)], 'x', 'x'
		FROM generate_series(1, %[2]d) n, (SELECT array_agg(id) ids FROM %[1]s.members) m`, schema, manyBookings)); err != nil {
		return err
	}
	if _, err := s.Pool.Exec(ctx, "ANALYZE"); err != nil {
		return err
	}
	f, err := at.servers(ctx, dsn, p.servers)
	if err != nil {
		return err
	}
	c := &crowd{town: t, site: f.URL, client: &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: p.people + 50}}}
	err = c.fill(ctx, p, h)
	if err != nil {
		err = fmt.Errorf("%w\n%s", err, at.told())
	}
	return errors.Join(err, f.Stop())
}

func (c *crowd) fill(ctx context.Context, p plan, h *house) error {
	if err := c.letIn(ctx, h, p.people); err != nil {
		return err
	}
	var members []string
	schema := query.Quote(apps.SchemaName(h.app, apps.Live))
	if err := c.s.Pool.QueryRow(ctx, "SELECT array_agg(id::text) FROM "+schema+".members").Scan(&members); err != nil {
		return err
	}
	fmt.Printf("%d people of 2,000, %d bookings, %d servers; %s.\n\n", p.people, manyBookings, p.servers, p.length)
	fmt.Println("| | requests/s | p50 | p95 | p99 | refused | wrong |\n|---|---|---|---|---|---|---|")
	for _, length := range []time.Duration{p.length / 3, p.length} { // the first warms up
		out := newTally()
		timed, cancel := context.WithTimeout(ctx, length)
		var wait sync.WaitGroup
		for n := range p.people {
			wait.Go(func() {
				r := rand.New(rand.NewPCG(rand.Uint64(), 0))
				b := &browser{site: c.site, tally: out, client: c.client,
					cookie: &http.Cookie{Name: "pinegate_person", Value: h.people[n%len(h.people)]}}
				for timed.Err() == nil {
					_ = fillInOnce(timed, b, r, h, members) // what is wrong is in the tally
				}
			})
		}
		wait.Wait()
		cancel()
		if length == p.length {
			told(out, length, "all at once")
		}
	}
	return nil
}

// fillInOnce is what somebody does who fills in the form.
func fillInOnce(ctx context.Context, b *browser, r *rand.Rand, h *house, members []string) error {
	at := "/a/" + h.app.Slug + "/-"
	pause := func() error {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Duration(r.Int64N(int64(typing)))):
			return nil
		}
	}
	if err := errors.Join(pause(), b.ask(ctx, "page", http.MethodGet, at+"/page?path=ask", nil, nil)); err != nil {
		return err
	}
	answers := map[string]any{}
	for _, x := range []struct {
		field string
		value any
	}{{"b_title", "Bo"}, {"b_title", "Boat"}, {"b_title", fmt.Sprintf("Boat %d", r.IntN(100))}, {"b_day", "2026-12-01"},
		{"ask_w", members[r.IntN(len(members))]}, {"ask_n", "0"}, {"ask_n", "3"}} {
		answers[x.field] = x.value
		err := errors.Join(pause(), b.ask(ctx, "state", http.MethodPost, at+"/forms/ask_f/state",
			map[string]any{"path": "ask", "answers": answers, "have": []string{}}, nil))
		if err != nil {
			return err
		}
	}
	return errors.Join(pause(), b.ask(ctx, "send", http.MethodPost, at+"/forms/ask_f",
		map[string]any{"key": crand.Text(), "path": "ask", "values": answers}, nil))
}
