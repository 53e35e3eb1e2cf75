package server_test

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"net/http"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/internal/fleet"
	"pinegate/server/servertest"
	"pinegate/store"
	"pinegate/store/apps"
)

var kills = flag.Int("kills", 10, "how often a server or PostgreSQL is killed; scripts/kills does so a hundred times")

// busyTown is a server that many use while it is killed again and again.
type busyTown struct {
	*servertest.Site
	t       *testing.T
	ctx     context.Context
	mu      sync.Mutex
	done    map[string][]string // what was answered, by what it is
	refused atomic.Int64
}

func (b *busyTown) note(what, which string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.done[what] = append(b.done[what], which)
}

func (b *busyTown) count(what string) int {
	b.mu.Lock()
	defer b.mu.Unlock()
	return len(b.done[what])
}

// ask sends a request once. Refused is what a balancer says where no server is there, and
// the server where no database is.
func (b *busyTown) ask(c *servertest.Client, method, path string, body any) (status int, answer string, ok bool) {
	status, answer = c.Do(method, path, body)
	if status == http.StatusBadGateway || status == http.StatusServiceUnavailable {
		b.refused.Add(1)
		return status, answer, false
	}
	assert.Less(b.t, status, 500, "%s %s: %s", method, path, answer)
	return status, answer, status < 300
}

// insist sends a request until it is answered, as people do; false when all is over. Who is told to wait does so:
// slow machines are at it for longer than limits let one go on.
func (b *busyTown) insist(c *servertest.Client, method, path string, body any) (answer string, ok bool) {
	for b.ctx.Err() == nil {
		status, answer, ok := b.ask(c, method, path, body)
		if ok || status < 500 && status != http.StatusTooManyRequests {
			assert.True(b.t, ok, "%s %s: %d %s", method, path, status, answer)
			return answer, ok
		}
		pause(b.ctx)
	}
	return "", false
}

// pause is how long people think; limits count what is sent faster.
func pause(ctx context.Context) {
	select {
	case <-ctx.Done():
	case <-time.After(100 * time.Millisecond):
	}
}

// sends sends forms, each again with its key until it is answered.
func (b *busyTown) sends(c *servertest.Client, boat any) {
	for n := 0; b.ctx.Err() == nil; n++ {
		title := fmt.Sprintf("Sent %d", n)
		if _, ok := b.insist(c, http.MethodPost, live+"/forms/p_ask_c", map[string]any{"key": servertest.Key(), "path": "ask-for-work",
			"values": map[string]any{"req_title": title, "req_boat": boat, "req_kind": "wk_hull"}}); ok {
			b.note("form", title)
		}
		for range 9 { // of which one sends so many at most
			pause(b.ctx)
		}
	}
}

// offers sends estimates with three lines each, which are there whole or not at all.
func (b *busyTown) offers(c *servertest.Client, boat, owner any) {
	for n := 0; b.ctx.Err() == nil; n++ {
		number := fmt.Sprintf("K-%d", n)
		var lines []any
		for i := range linesOffered {
			lines = append(lines, map[string]any{"answers": map[string]any{"eli_text": fmt.Sprint(number, " ", i), "eli_quantity": "1",
				"eli_price": "5"}})
		}
		if _, ok := b.insist(c, http.MethodPost, live+"/forms/p_offer_b", map[string]any{"key": servertest.Key(), "path": "new-estimate",
			"values": map[string]any{"est_number": number, "est_boat": boat, "est_owner": owner},
			"with":   map[string]any{"p_offer_b_q4": lines}}); ok {
			b.note("offer", number)
		}
		for range 14 {
			pause(b.ctx)
		}
	}
}

const linesOffered = 3

// writes adds records in the grid, each once, whether it is answered or not.
func (b *busyTown) writes(c *servertest.Client) {
	for n := 0; b.ctx.Err() == nil; n++ {
		name := fmt.Sprintf("Written %d", n)
		status, answer, ok := b.ask(c, http.MethodPost, "/api/apps/"+b.App.ID+"/tables/own/records?as=founder",
			map[string]any{"values": map[string]any{"own_name": name, "own_email": fmt.Sprintf("written%d@sailmail.example", n)}})
		if ok {
			b.note("record", name)
		} else {
			assert.GreaterOrEqual(b.t, status, 500, answer)
		}
		pause(b.ctx)
	}
}

// publishes changes the draft and publishes it.
func (b *busyTown) publishes(c *servertest.Client) {
	base := "/api/apps/" + b.App.ID
	for n := 0; b.ctx.Err() == nil; n++ {
		name := fmt.Sprintf("Boats %d", n)
		if _, ok := b.insist(c, http.MethodPost, base+"/changes", map[string]any{"changes": []any{set("boat", "name", name)}}); ok {
			b.note("change", name)
		}
		var app struct{ Revision, LiveVersion int }
		read, ok := b.insist(c, http.MethodGet, base, nil)
		if !ok || json.Unmarshal([]byte(read), &app) != nil {
			continue
		}
		var made struct{ Version int }
		_, answer, ok := b.ask(c, http.MethodPost, base+"/publish",
			map[string]any{"revision": app.Revision, "liveVersion": app.LiveVersion, "accept": true, "bringRecords": false})
		if ok && assert.NoError(b.t, json.Unmarshal([]byte(answer), &made)) {
			b.note("version", fmt.Sprint(made.Version))
		}
		for range 8 { // who looks at files is put off while names change
			pause(b.ctx)
		}
	}
}

// imports brings files, one after the other.
func (b *busyTown) imports(c *servertest.Client) {
	base := "/api/apps/" + b.App.ID
	for n := 0; b.ctx.Err() == nil; n++ {
		var text strings.Builder
		text.WriteString("Mooring,Depth\n")
		for i := range rowsBrought {
			fmt.Fprintf(&text, "Mooring %d of %d,%d\n", i, n, i%40)
		}
		var upload, started struct{ ID string }
		status, answer := c.Send(base+"/uploads?name=moorings.csv", text.String())
		if status >= 500 {
			b.refused.Add(1)
			pause(b.ctx)
			continue
		}
		assert.NoError(b.t, json.Unmarshal([]byte(answer), &upload), answer)
		uploads := []string{upload.ID}
		p, ok := b.insist(c, http.MethodPost, base+"/imports/propose", map[string]any{"uploads": uploads})
		if !ok {
			continue
		}
		begin := map[string]any{"uploads": uploads, "proposal": json.RawMessage(p)}
		if _, answer, ok = b.ask(c, http.MethodPost, base+"/imports", begin); !ok {
			continue
		}
		assert.NoError(b.t, json.Unmarshal([]byte(answer), &started))
		b.note("import", started.ID)
		for over := false; !over && b.ctx.Err() == nil; pause(b.ctx) {
			read, ok := b.insist(c, http.MethodGet, base+"/imports/"+started.ID, nil)
			over = ok && !strings.Contains(read, `"status":"running"`) && !strings.Contains(read, `"status":"waiting"`)
			if over && strings.Contains(read, `"status":"done"`) {
				b.note("imported", started.ID)
			}
		}
	}
}

const rowsBrought = 300

// signsUp has new people sign up, who read their codes in the demo's mailbox.
func (b *busyTown) signsUp() {
	for n := 0; b.ctx.Err() == nil; n++ {
		email := fmt.Sprintf("new%d@sailmail.example", n)
		c := b.Client(b.t)
		var ticket struct{ Ticket string }
		// who asks twice within half a minute, as the answer was lost, gets one code, for the ticket that was lost
		_, answer, ok := b.ask(c, http.MethodPost, live+"/sign-up", map[string]any{"role": "r_own", "email": email, "terms": "2026-10",
			"values": map[string]any{"own_name": fmt.Sprintf("New %d", n), "own_phone": "0555 0909"}})
		if !ok || !assert.NoError(b.t, json.Unmarshal([]byte(answer), &ticket)) {
			pause(b.ctx)
			continue
		}
		code := ""
		for range 50 { // one that a server was about to send when it was killed comes after a while
			if code != "" || b.ctx.Err() != nil {
				break
			}
			var mails []struct{ To, Subject string }
			read, ok := b.insist(c, http.MethodGet, "/api/mailbox", nil)
			if ok && assert.NoError(b.t, json.Unmarshal([]byte(read), &mails)) {
				for _, m := range mails {
					if m.To == email && code == "" {
						code = sixDigits.FindString(m.Subject)
					}
				}
			}
			pause(b.ctx)
		}
		if code == "" {
			continue
		}
		status, answer, ok := b.ask(c, http.MethodPost, live+"/sign-up/confirm",
			map[string]string{"email": email, "code": code, "ticket": ticket.Ticket})
		if ok {
			b.note("person", email)
		} else {
			assert.GreaterOrEqual(b.t, status, 500, answer)
		}
		for range 25 { // there are limits for one network
			pause(b.ctx)
		}
	}
}

// TestKilledAtAnyMoment kills the server, PostgreSQL, or both, at moments drawn at
// random, while people write, import, publish and sign up. What was answered is there,
// once.
func TestKilledAtAnyMoment(t *testing.T) {
	f, site, data := failing(t)
	ctx, stop := context.WithCancel(t.Context())
	defer stop()
	b := &busyTown{Site: site, t: t, ctx: ctx, done: map[string][]string{}}
	_, own := foreign(t, site)
	person := site.Person(t, ines)
	var wait sync.WaitGroup
	office, reader := site.Person(t, "jonas@aldercove.example"), site.Founder(t)
	for _, work := range []func(){func() { b.sends(person, own["id"]) }, b.signsUp, func() { b.presses(office, reader) },
		func() { b.offers(office, own["id"], own["boat_owner"]) }} {
		wait.Go(work)
	}
	for _, work := range []func(*servertest.Client){b.writes, b.publishes, b.imports} {
		c := site.Founder(t)
		wait.Go(func() { work(c) })
	}
	for range *kills {
		at := b.count("form")
		require.Eventually(t, func() bool { return b.count("form") > at }, 2*time.Minute, 5*time.Millisecond, "it goes on by itself")
		time.Sleep(rand.N(500 * time.Millisecond)) // the moment that is drawn
		strike(t, f, data, rand.N(3))
	}
	for _, what := range []string{"form", "offer", "record", "change", "version", "import", "imported", "person", "run"} {
		at := b.count(what)
		require.Eventually(t, func() bool { return b.count(what) > at }, 4*time.Minute, 20*time.Millisecond, "%s go on by themselves", what)
	}
	stop()
	wait.Wait()
	_, dsn := postmaster(t, data)
	s, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	defer s.Close()
	b.held(s)
	long := *kills > 10 // what was at work when its server was killed is taken up after more than a minute
	if long {
		b.drained(s)
	}
	b.heldRuns(s, long)
	var counts []string
	for what, list := range b.done {
		counts = append(counts, fmt.Sprintf("%d of %s", len(list), what))
	}
	slices.Sort(counts)
	t.Logf("%d kills; answered: %s; refused: %d", *kills, strings.Join(counts, ", "), b.refused.Load())
}

// strike kills the server, PostgreSQL, or both, and starts the server again.
func strike(t *testing.T, f *fleet.Fleet, data string, how int) {
	if how != 0 {
		pid, _ := postmaster(t, data)
		require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
	}
	if how != 1 {
		f.Servers[0].Kill()
		require.NoError(t, f.Restart(t.Context(), 0))
	}
}

// held holds what was answered against what is there.
func (b *busyTown) held(s *store.Store) {
	t := b.t
	all := func(sql string, args ...any) map[string]int {
		var list []string
		require.NoError(t, s.DB.Raw(sql, args...).Scan(&list).Error)
		out := map[string]int{}
		for _, x := range list {
			out[x]++
		}
		return out
	}
	draft, public := apps.SchemaName(b.App, apps.Draft), apps.SchemaName(b.App, apps.Live)
	for what, there := range map[string]map[string]int{
		"form":    all("SELECT title FROM " + public + ".work_requests WHERE title LIKE 'Sent %'"),
		"offer":   all("SELECT number FROM " + public + ".estimates WHERE number LIKE 'K-%'"),
		"record":  all("SELECT name FROM " + draft + ".owners WHERE name LIKE 'Written %'"),
		"person":  all("SELECT email FROM " + public + ".owners WHERE email LIKE 'new%'"),
		"version": all("SELECT number::text FROM versions WHERE app_id = ?", b.App.ID),
		"import":  all("SELECT id::text FROM imports WHERE app_id = ?", b.App.ID),
	} {
		for _, x := range b.done[what] {
			assert.Equal(t, 1, there[x], "%s %s", what, x)
		}
		for x, n := range there {
			assert.Equal(t, 1, n, "%s %s", what, x)
		}
	}
	for number, n := range all("SELECT e.number FROM " + public + ".estimates e JOIN " + public +
		".estimate_lines l ON l.estimate = e.id WHERE e.number LIKE 'K-%'") {
		assert.Equal(t, linesOffered, n, "lines of %s", number)
	}
	lines := all("SELECT text FROM " + public + ".estimate_lines WHERE text LIKE 'K-%'")
	assert.GreaterOrEqual(t, len(lines), linesOffered*len(b.done["offer"]))
	changes := all("SELECT sentences::text FROM activities WHERE app_id = ?", b.App.ID)
	for _, name := range b.done["change"] {
		found := false
		for said := range changes {
			found = found || strings.Contains(said, name)
		}
		assert.True(t, found, name)
	}
	// imports are there whole, or not at all; both are read at once, as one may still be at work
	var brought struct{ Imported, Rows int }
	require.NoError(t, s.DB.Raw("SELECT COALESCE(sum(imported), 0) AS imported, (SELECT count(*) FROM "+draft+".moorings) AS rows"+
		" FROM imports WHERE app_id = ? AND status = 'done'", b.App.ID).Scan(&brought).Error)
	assert.Equal(t, brought.Imported, brought.Rows)
	assert.Zero(t, brought.Rows%rowsBrought)
}
