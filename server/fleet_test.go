package server_test

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"strings"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/intake"
	"pinegate/demo"
	"pinegate/internal/fleet"
	"pinegate/server/servertest"
	"pinegate/standin/mailbox"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/files/filestest"
	"pinegate/store/storetest"
)

// newFleet starts three servers on one database and one store of files, and gives
// them as one site.
func newFleet(t *testing.T) (*fleet.Fleet, *servertest.Site) {
	binary, err := fleet.Build(t.Context(), t.TempDir())
	require.NoError(t, err)
	logs := t.TempDir()
	dsn := storetest.Database(t)
	f, err := fleet.Start(t.Context(), fleet.Options{Binary: binary, Database: dsn, Files: filestest.S3(t), Dir: logs, Servers: 3,
		Flags: []string{"--demo"}})
	require.NoError(t, err)
	t.Cleanup(func() {
		assert.NoError(t, f.Stop())
		for i := range f.Servers {
			said, err := os.ReadFile(fmt.Sprintf("%s/server-%d.log", logs, i))
			assert.NoError(t, err)
			if t.Failed() {
				t.Logf("server %d said: %s", i, said)
			}
		}
	})
	s, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	site := &servertest.Site{URL: f.URL, Store: s, Apps: apps.New(s), Accounts: accounts.New(s), Mailbox: mailbox.New(s)}
	site.App, err = site.Apps.BySlug(t.Context(), demo.Slug)
	require.NoError(t, err)
	return f, site
}

// hears listens to the news of the live app at one server, and counts it.
func hears(t *testing.T, server string, c *servertest.Client) *atomic.Int64 {
	request, err := http.NewRequestWithContext(t.Context(), http.MethodGet, server+live+"/events", nil)
	require.NoError(t, err)
	request.AddCookie(&http.Cookie{Name: "pinegate_person", Value: c.Cookie(live, "pinegate_person")})
	answer, err := http.DefaultClient.Do(request)
	require.NoError(t, err)
	require.Equal(t, http.StatusOK, answer.StatusCode)
	var heard atomic.Int64
	lines := bufio.NewScanner(answer.Body)
	require.True(t, lines.Scan(), "it says hello")
	go func() {
		defer func() { _ = answer.Body.Close() }() // the server may be killed
		for lines.Scan() {
			if strings.HasPrefix(lines.Text(), "data:") {
				heard.Add(1)
			}
		}
	}()
	return &heard
}

// TestThreeServersAreOne asks three servers in turns for all that they do, kills the
// one that is at an import, and holds that nothing is lost.
func TestThreeServersAreOne(t *testing.T) {
	f, s := newFleet(t)
	founder, person := s.Founder(t), s.Person(t, ines)
	for range 6 {
		founder.Read("/api/apps/"+s.App.ID, &struct{}{})
		person.Read(live+"/page", &struct{}{})
	}

	heard := []*atomic.Int64{hears(t, f.Servers[0].URL, person), hears(t, f.Servers[1].URL, person), hears(t, f.Servers[2].URL, person)}
	_, own := foreign(t, s)
	ask := func(title string) {
		person.Write(http.MethodPost, live+"/forms/p_ask_c", map[string]any{"key": servertest.Key(), "path": "ask-for-work",
			"values": map[string]any{"req_title": title, "req_boat": own["id"], "req_kind": "wk_hull"}})
	}
	ask("Antifouling")
	for i, n := range heard {
		require.Eventually(t, func() bool { return n.Load() > 0 }, 10*time.Second, 10*time.Millisecond, "server %d hears of it", i)
	}

	flows := startFlows(t, f, s)
	id := startImport(t, s, founder, 150_000)
	_, killed := readingAt(t, s, f, id)
	claim := claimOf(t, s, id)
	killed.Kill()
	began := time.Now()
	founder.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/changes",
		map[string]any{"changes": []any{set("boat", "name", "Vessels")}})
	ask("Rigging")
	for i, n := range heard {
		if f.Servers[i] != killed {
			require.Eventually(t, func() bool { return n.Load() > 1 }, 10*time.Second, 10*time.Millisecond, "server %d still hears", i)
		}
	}
	require.Eventually(t, func() bool { return claimOf(t, s, id) != claim }, time.Minute, 100*time.Millisecond,
		"another server takes the import over within a minute")
	t.Logf("taken over after %s", time.Since(began).Round(time.Second))
	imported(t, s, founder, id, 150_000)

	id = startImport(t, s, founder, 100_000)
	process, _ := readingAt(t, s, f, id)
	require.NoError(t, syscall.Kill(process, syscall.SIGKILL), "as when memory runs out")
	imported(t, s, founder, id, 100_000)
	for range 6 { // whichever server is asked
		person.Read(live+"/page", &struct{}{})
	}
	var kept int
	require.NoError(t, s.Store.DB.Raw("SELECT count(*) FROM "+apps.SchemaName(s.App, apps.Live)+
		".work_requests WHERE title IN ('Antifouling', 'Rigging')").Scan(&kept).Error)
	assert.Equal(t, 2, kept)
	flows()
}

// startImport brings a file with so many rows.
func startImport(t *testing.T, s *servertest.Site, founder *servertest.Client, rows int) string {
	var b strings.Builder
	b.WriteString("Mooring,Depth\n")
	for i := range rows {
		fmt.Fprintf(&b, "Mooring %d,%d\n", i, i%40)
	}
	status, answer := founder.Send("/api/apps/"+s.App.ID+"/uploads?name=moorings.csv", b.String())
	require.Equal(t, http.StatusOK, status, answer)
	var upload, started struct{ ID string }
	require.NoError(t, json.Unmarshal([]byte(answer), &upload))
	uploads := []string{upload.ID}
	var p intake.Proposal
	require.NoError(t, json.Unmarshal([]byte(founder.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/imports/propose",
		map[string]any{"uploads": uploads})), &p))
	require.NoError(t, json.Unmarshal([]byte(founder.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/imports",
		map[string]any{"uploads": uploads, "proposal": p})), &started))
	return started.ID
}

// imported waits for an import, and holds that all its rows are there.
func imported(t *testing.T, s *servertest.Site, founder *servertest.Client, id string, rows int) {
	var status struct {
		Status, Message string
		Imported        int
	}
	require.Eventually(t, func() bool {
		founder.Read("/api/apps/"+s.App.ID+"/imports/"+id, &status)
		return status.Status != "running" && status.Status != "waiting"
	}, 2*time.Minute, 200*time.Millisecond)
	require.Equal(t, "done", status.Status, status.Message)
	assert.Equal(t, rows, status.Imported)
}

// claimOf gives the claim under which an import goes on.
func claimOf(t *testing.T, s *servertest.Site, id string) string {
	claim := ""
	require.NoError(t, s.Store.DB.Raw("SELECT claim FROM imports WHERE id = ?", id).Row().Scan(&claim))
	return claim
}

// readingAt tells which process reads an import, which its connection to the database
// names, and the server that began it.
func readingAt(t *testing.T, s *servertest.Site, f *fleet.Fleet, id string) (process int, at *fleet.Server) {
	require.Eventually(t, func() bool {
		name := ""
		err := s.Store.DB.Raw(`SELECT application_name FROM pg_stat_activity WHERE datname = current_database() AND query LIKE 'COPY%\_import\_' || ? || '%'`,
			strings.ReplaceAll(id, "-", "")).Scan(&name).Error
		if _, scanning := fmt.Sscanf(name, "pinegate bulk %d", &process); err != nil || scanning != nil {
			return false
		}
		stat, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", process))
		if err != nil {
			return false
		}
		parent := 0
		_, err = fmt.Sscanf(string(stat[bytes.LastIndexByte(stat, ')')+1:]), " %1s %d", new(string), &parent)
		require.NoError(t, err)
		for _, server := range f.Servers {
			if server.PID() == parent {
				at = server
			}
		}
		return at != nil
	}, 20*time.Second, 2*time.Millisecond)
	return process, at
}
