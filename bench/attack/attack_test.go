package main

import (
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/internal/fleet"
	"pinegate/store/files"
	"pinegate/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

// TestAttack attacks a server for some seconds. How much slower pages become is measured
// by hand, where nothing else runs.
func TestAttack(t *testing.T) {
	binary, err := fleet.Build(t.Context(), t.TempDir())
	require.NoError(t, err)
	f, err := fleet.Start(t.Context(), fleet.Options{Binary: binary, Database: storetest.Database(t), Files: files.Folder(t.TempDir()),
		Dir: t.TempDir(), Servers: 1, Flags: []string{"--demo"}})
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, f.Stop()) })
	r, err := attack(t.Context(), &site{f.Servers[0].URL, f.Servers[0].PID(), routes()}, 8*time.Second)
	require.NoError(t, err)
	r.print()
	assert.Empty(t, r.Broken, "nothing is answered by an error of ours")
	assert.Greater(t, r.Tried, 200)
	assert.Less(t, r.Peak, 600)
	for who, came := range r.By {
		assert.Positive(t, came["refused"]+came["put off"], who)
	}
}
