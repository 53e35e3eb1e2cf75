package server_test

import (
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"pinegate/demo"
	"pinegate/internal/fleet"
	"pinegate/server/servertest"
	"pinegate/standin/mailbox"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/localpg"
)

// smallDisk makes a folder on a disk of its own of so many bytes.
func smallDisk(t *testing.T, size int64) string {
	dir, err := os.MkdirTemp("", "pinegate-full-") // PostgreSQL may not enter t.TempDir
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, os.Remove(dir)) })
	if err := unix.Mount("tmpfs", dir, "tmpfs", 0, fmt.Sprintf("size=%d,mode=755", size)); err != nil {
		t.Skipf("only who may mount disks can try a full one: %v", err)
	}
	t.Cleanup(func() { assert.NoError(t, unix.Unmount(dir, 0)) })
	return dir
}

// fillUp takes all the room that a disk has left.
func fillUp(t *testing.T, file string) {
	f, err := os.Create(file)
	require.NoError(t, err)
	block := make([]byte, 64<<10)
	for err == nil {
		_, err = f.Write(block)
	}
	require.ErrorIs(t, err, unix.ENOSPC)
	require.NoError(t, f.Close())
}

// TestAFullDiskIsToldOf has no room left under PostgreSQL and the files. What cannot be
// kept is refused with words, what was answered is there, and when there is room again
// it goes on by itself.
func TestAFullDiskIsToldOf(t *testing.T) {
	disk := smallDisk(t, 400<<20)
	binary, err := fleet.Build(t.Context(), t.TempDir())
	require.NoError(t, err)
	data := filepath.Join(disk, "data")
	f, err := fleet.Start(t.Context(), fleet.Options{Binary: binary, Dir: t.TempDir(), Servers: 1,
		Flags: []string{"--data", data, "--demo"}})
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, f.Stop()) })
	pg, err := localpg.Start(t.Context(), localpg.Options{Dir: filepath.Join(data, "postgres")})
	require.NoError(t, err)
	s, err := store.Open(t.Context(), pg.DSN("postgres"))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	site := &servertest.Site{URL: f.Servers[0].URL, Store: s, Apps: apps.New(s), Accounts: accounts.New(s), Mailbox: mailbox.New(s)}
	site.App, err = site.Apps.BySlug(t.Context(), demo.Slug)
	require.NoError(t, err)
	founder := site.Founder(t)
	var kept []string
	long := strings.Repeat("A long note about the slip. ", 300)
	write := func(n int) int { // some 2 MB of history and records
		edits, name := []any{}, fmt.Sprintf("Full %d", n)
		for range 100 {
			edits = append(edits, map[string]any{"texts": map[string]string{"boat_name": name, "boat_note": long}})
		}
		status, answer := founder.Do(http.MethodPost, "/api/apps/"+site.App.ID+"/tables/boat/bulk",
			map[string]any{"what": "paste", "edits": edits})
		switch status {
		case http.StatusOK:
			kept = append(kept, name+", 100 times")
		case http.StatusServiceUnavailable:
			assert.NotContains(t, answer, "number", "it is no mistake of ours")
		default:
			assert.Fail(t, "neither kept nor refused with words", "%d %s", status, answer)
		}
		return status
	}
	require.Equal(t, http.StatusOK, write(0))
	ballast := filepath.Join(disk, "ballast")
	fillUp(t, ballast)
	refused := 0
	for n := 1; n <= 30 && refused < 3; n++ {
		if write(n) != http.StatusOK {
			refused++
		}
	}
	require.Equal(t, 3, refused)
	require.NoError(t, os.Remove(ballast))
	require.Eventually(t, func() bool { return write(100+len(kept)) == http.StatusOK }, time.Minute, 200*time.Millisecond,
		"it goes on by itself")
	var there []string
	require.Eventually(t, func() bool {
		return s.DB.Raw("SELECT name || ', ' || count(*) || ' times' FROM "+apps.SchemaName(site.App, apps.Draft)+
			".boats WHERE name LIKE 'Full %' GROUP BY name").Scan(&there).Error == nil
	}, 20*time.Second, 50*time.Millisecond)
	assert.ElementsMatch(t, kept, there, "what was answered, whole, and nothing else")
}
