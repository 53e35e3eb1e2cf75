package main

import (
	"context"
	"fmt"
	"net/http"
	"time"

	"pinegate/core/query"
	"pinegate/internal/fleet"
	"pinegate/store"
	"pinegate/store/apps"
)

// figures are medians, by what was done.
type figures map[string]time.Duration

// measured lists what is measured, in the order in which it is printed.
var measured = []string{"Start of a server", "Workshop", "Page of one app", "Page, each time of another app", "Change of a draft",
	"Publishing",
	"Upgrade of an app, at its first use"}

// compareApps measures one app against many.
func compareApps(ctx context.Context, at place, n int) error {
	one, err := measureApps(ctx, at, 1)
	if err != nil {
		return err
	}
	many, err := measureApps(ctx, at, n)
	if err != nil {
		return err
	}
	fmt.Printf("| what | one app | %d apps | ratio | aim |\n|---|---|---|---|---|\n", n)
	for _, what := range measured {
		fmt.Printf("| %s | %.1f ms | %.1f ms | %.2f | 1.30 |\n", what, ms(one[what]), ms(many[what]),
			float64(many[what])/float64(one[what]))
	}
	return nil
}

func ms(d time.Duration) float64 { return float64(d) / float64(time.Millisecond) }

func measureApps(ctx context.Context, at place, n int) (figures, error) {
	dsn, err := at.database(ctx, fmt.Sprintf("apps_%d", n))
	if err != nil {
		return nil, err
	}
	s, err := store.Open(ctx, dsn)
	if err != nil {
		return nil, err
	}
	defer s.Close()
	began := time.Now()
	t, err := build(ctx, s, n)
	if err != nil {
		return nil, err
	}
	fmt.Printf("Made and published %d apps in %s, one after the other.\n", n, time.Since(began).Round(100*time.Millisecond))
	out := figures{}
	f, starts, err := startTimes(ctx, at, dsn)
	if err != nil {
		return nil, err
	}
	out[measured[0]] = at50(starts)
	tally := newTally()
	if err := t.measure(ctx, f, tally); err != nil {
		return nil, fmt.Errorf("%w\n%s", err, at.told())
	}
	for what, list := range tally.took {
		out[what] = at50(list)
	}
	return out, f.Stop()
}

func at50(list []time.Duration) time.Duration { return at(list, 50) }

// startTimes starts a server several times, the last of which stays.
func startTimes(ctx context.Context, where place, dsn string) (f *fleet.Fleet, took []time.Duration, err error) {
	for i := range 6 {
		if f != nil {
			if err := f.Stop(); err != nil {
				return nil, nil, err
			}
		}
		began := time.Now()
		if f, err = where.servers(ctx, dsn, 1); err != nil {
			return nil, nil, err
		}
		if i > 0 { // the first one makes the cache of files warm
			took = append(took, time.Since(began))
		}
	}
	return f, took, nil
}

// rounds is how often each is done.
const rounds = 200

// measure asks a server for what is measured, one after the other.
func (t *town) measure(ctx context.Context, f *fleet.Fleet, to *tally) error {
	site, client := f.Servers[0].URL, &http.Client{}
	for i := range min(len(t.apps), rounds) {
		if err := t.letIn(ctx, &t.apps[i], 1); err != nil {
			return err
		}
	}
	builder := &browser{site: site, tally: newTally(), client: client}
	if err := builder.ask(ctx, "sign in", http.MethodPost, "/api/sign-in", map[string]string{"email": founder(0),
		"password": password}, nil); err != nil {
		return err
	}
	page := func(i int, what string, to *tally) error {
		h := t.apps[i%min(len(t.apps), rounds)]
		b := &browser{site: site, tally: to, client: client, cookie: &http.Cookie{Name: "pinegate_person", Value: h.people[0]}}
		return b.ask(ctx, what, http.MethodGet, "/a/"+h.app.Slug+"/-/page", nil, nil)
	}
	for i := range rounds + 20 {
		now := to
		if i < 20 { // warms up
			now = newTally()
		}
		builder.tally = now
		if err := builder.ask(ctx, "Workshop", http.MethodGet, "/api/apps", nil, nil); err != nil {
			return err
		}
		if err := page(0, "Page of one app", now); err != nil {
			return err
		}
	}
	for range 2 { // the first time warms up
		builder.tally = newTally()
		for i := range rounds {
			if err := page(i, "Page, each time of another app", builder.tally); err != nil {
				return err
			}
		}
	}
	to.took["Page, each time of another app"] = builder.tally.took["Page, each time of another app"]
	builder.tally = to
	for i := range 20 {
		if err := t.publish(ctx, builder, i); err != nil {
			return err
		}
	}
	for i := range 20 {
		if err := t.behind(ctx, i%len(t.apps)); err != nil {
			return err
		}
		if err := page(i, "Upgrade of an app, at its first use", to); err != nil {
			return err
		}
	}
	return nil
}

// publish changes the first app and publishes it.
func (t *town) publish(ctx context.Context, b *browser, n int) error {
	at := "/api/apps/" + t.apps[0].app.ID
	change := map[string]any{"changes": []any{map[string]any{"kind": "add", "what": "field", "into": "book",
		"id":     fmt.Sprintf("extra%d", n),
		"values": map[string]any{"name": fmt.Sprintf("Extra %d", n), "type": "text"}}}}
	if err := b.ask(ctx, "Change of a draft", http.MethodPost, at+"/changes", change, nil); err != nil {
		return err
	}
	quiet := *b
	quiet.tally = newTally()
	var plan struct{ Revision, LiveVersion int }
	if err := quiet.ask(ctx, "plan", http.MethodGet, at+"/plan", nil, &plan); err != nil {
		return err
	}
	return b.ask(ctx, "Publishing", http.MethodPost, at+"/publish", map[string]any{"revision": plan.Revision,
		"liveVersion": plan.LiveVersion,
		"accept":      true, "bringRecords": false}, nil)
}

// behind makes an app one of an earlier level.
func (t *town) behind(ctx context.Context, i int) error {
	app := t.apps[i].app
	for _, env := range []apps.Environment{apps.Draft, apps.Live} {
		if _, err := t.s.Pool.Exec(ctx, "DROP TABLE "+query.Quote(apps.SchemaName(app, env))+"._aside"); err != nil {
			return err
		}
	}
	_, err := t.s.Pool.Exec(ctx, "UPDATE apps SET draft_level = 1, live_level = 1 WHERE id = $1", app.ID)
	return err
}
