package server_test

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/words"
	"pinegate/demo"
	"pinegate/internal/fleet"
	"pinegate/server/servertest"
	"pinegate/standin/mailbox"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/localpg"
)

// postmaster gives the process of a private PostgreSQL, and its address.
func postmaster(t *testing.T, data string) (pid int, dsn string) {
	raw, err := os.ReadFile(filepath.Join(data, "postgres", "postmaster.pid"))
	require.NoError(t, err)
	lines := strings.Split(string(raw), "\n")
	pid, err = strconv.Atoi(strings.TrimSpace(lines[0]))
	require.NoError(t, err)
	found, err := localpg.Start(t.Context(), localpg.Options{Dir: filepath.Join(data, "postgres")})
	require.NoError(t, err)
	require.True(t, found.Found)
	return pid, found.DSN("postgres")
}

// asking sends forms again and again, and remembers which were answered.
type asking struct {
	mu       sync.Mutex
	answered []string
	refused  atomic.Int64
}

func (a *asking) count() int {
	a.mu.Lock()
	defer a.mu.Unlock()
	return len(a.answered)
}

func (a *asking) ask(ctx context.Context, t *testing.T, who int, c *servertest.Client, boat any) {
	for n := 0; ctx.Err() == nil; n++ {
		title := fmt.Sprintf("Work %d of %d", n, who)
		status, answer := c.Do(http.MethodPost, live+"/forms/p_ask_c", map[string]any{"key": servertest.Key(), "path": "ask-for-work",
			"values": map[string]any{"req_title": title, "req_boat": boat, "req_kind": "wk_hull"}})
		switch status {
		case http.StatusOK:
			a.mu.Lock()
			a.answered = append(a.answered, title)
			a.mu.Unlock()
		case http.StatusServiceUnavailable:
			a.refused.Add(1)
			assert.Contains(t, answer, words.Say("answer-no-database", nil))
		default:
			assert.Fail(t, "neither answered nor refused with words", "%d %s", status, answer)
			return
		}
	}
}

// failing starts a server with a PostgreSQL of its own, in the folder, that can be killed.
func failing(t *testing.T) (f *fleet.Fleet, site *servertest.Site, data string) {
	binary, err := fleet.Build(t.Context(), t.TempDir())
	require.NoError(t, err)
	data, err = os.MkdirTemp("", "pinegate-failure-") // PostgreSQL may not enter t.TempDir
	require.NoError(t, err)
	require.NoError(t, os.Chmod(data, 0o755))
	t.Cleanup(func() { require.NoError(t, os.RemoveAll(data)) })
	logs := t.TempDir()
	f, err = fleet.Start(t.Context(), fleet.Options{Binary: binary, Dir: logs, Servers: 1, Flags: []string{"--data", data, "--demo"}})
	require.NoError(t, err)
	t.Cleanup(func() {
		assert.NoError(t, f.Stop())
		said, err := os.ReadFile(filepath.Join(logs, "server-0.log"))
		assert.NoError(t, err)
		if t.Failed() {
			t.Logf("the server said: %s", said)
		}
	})
	_, dsn := postmaster(t, data)
	s, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	site = &servertest.Site{URL: f.URL, Store: s, Apps: apps.New(s), Accounts: accounts.New(s), Mailbox: mailbox.New(s)}
	site.App, err = site.Apps.BySlug(t.Context(), demo.Slug)
	require.NoError(t, err)
	return f, site, data
}

// TestWhatWasAnsweredIsThere kills PostgreSQL, stops it in order, and kills the
// server, all while people send forms. What was answered is there, the rest is
// refused with words, and it goes on by itself.
func TestWhatWasAnsweredIsThere(t *testing.T) {
	f, site, data := failing(t)
	s := site.Store
	pid, _ := postmaster(t, data)
	_, own := foreign(t, site)
	var a asking
	ctx, stop := context.WithCancel(t.Context())
	var wait sync.WaitGroup
	for who := range 3 {
		c := site.Person(t, ines)
		wait.Go(func() { a.ask(ctx, t, who, c, own["id"]) })
	}
	more := func() {
		before := a.count()
		require.Eventually(t, func() bool { return a.count() >= before+30 }, time.Minute, 10*time.Millisecond, "it goes on by itself")
	}
	more()
	require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
	require.Eventually(t, func() bool { return a.refused.Load() > 0 }, 20*time.Second, time.Millisecond)
	more()
	pid, _ = postmaster(t, data)
	require.NoError(t, syscall.Kill(pid, syscall.SIGINT)) // a fast shutdown
	more()
	stop()
	wait.Wait()

	f.Servers[0].Kill()
	require.NoError(t, f.Restart(t.Context(), 0))
	var kept []string
	require.Eventually(t, func() bool {
		err := s.DB.Raw("SELECT title FROM " + apps.SchemaName(site.App,
			apps.Live) + ".work_requests WHERE title LIKE 'Work %'").Scan(&kept).Error
		return err == nil || !errors.Is(store.Trouble(err), store.ErrAway)
	}, 20*time.Second, 50*time.Millisecond)
	assert.Subset(t, kept, a.answered)
	t.Logf("%d answered, %d refused, %d kept", len(a.answered), a.refused.Load(), len(kept))
}
