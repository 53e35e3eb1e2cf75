package localpg_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/store/localpg"
)

// TestDataSurvives starts a server, takes it over as after a kill, and starts
// it anew.
func TestDataSurvives(t *testing.T) {
	work, err := os.MkdirTemp("", "pinegate-localpg-") // the user postgres must reach it, which t.TempDir does not allow
	require.NoError(t, err)
	require.NoError(t, os.Chmod(work, 0o755))
	t.Cleanup(func() { require.NoError(t, os.RemoveAll(work)) })
	o := localpg.Options{Dir: filepath.Join(work, "data", "postgres")}
	run := func(s *localpg.Server, sql string) {
		conn, err := pgx.Connect(t.Context(), s.DSN("postgres"))
		require.NoError(t, err)
		_, err = conn.Exec(t.Context(), sql)
		require.NoError(t, err)
		require.NoError(t, conn.Close(t.Context()))
	}
	first, err := localpg.Start(t.Context(), o)
	require.NoError(t, err)
	run(first, "CREATE TABLE kept (n int)")
	second, err := localpg.Start(t.Context(), o)
	require.NoError(t, err)
	assert.Equal(t, first.Port, second.Port, "the server that runs is taken over")
	run(second, "INSERT INTO kept VALUES (1)")
	require.NoError(t, second.Stop(t.Context()))
	third, err := localpg.Start(t.Context(), o)
	require.NoError(t, err)
	run(third, "INSERT INTO kept SELECT n / n FROM kept")
	require.NoError(t, third.Stop(t.Context()))
}
