package localpg_test

import (
	"context"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/store/localpg"
)

// folder makes one that the user postgres can reach, which t.TempDir does not allow.
func folder(t *testing.T) string {
	t.Helper()
	work, err := os.MkdirTemp("", "pinegate-localpg-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(work, 0o755))
	t.Cleanup(func() { require.NoError(t, os.RemoveAll(work)) })
	return work
}

// TestDataSurvives starts a server, takes it over as after a kill, and starts
// it anew.
func TestDataSurvives(t *testing.T) {
	o := localpg.Options{Dir: filepath.Join(folder(t), "data", "postgres")}
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

// TestAServerThatIsKilledIsStartedAgain kills the server, and finds it on the same
// port with what was answered.
func TestAServerThatIsKilledIsStartedAgain(t *testing.T) {
	dir := filepath.Join(folder(t), "postgres")
	s, err := localpg.Start(t.Context(), localpg.Options{Dir: dir})
	require.NoError(t, err)
	watching, stop := context.WithCancel(t.Context())
	ended := make(chan struct{})
	go func() { s.Watch(watching); close(ended) }()
	conn, err := pgx.Connect(t.Context(), s.DSN("postgres"))
	require.NoError(t, err)
	_, err = conn.Exec(t.Context(), "CREATE TABLE kept (n int); INSERT INTO kept VALUES (7)")
	require.NoError(t, err)
	raw, err := os.ReadFile(filepath.Join(dir, "postmaster.pid"))
	require.NoError(t, err)
	pid, err := strconv.Atoi(strings.SplitN(string(raw), "\n", 2)[0])
	require.NoError(t, err)
	require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
	var n int
	require.Eventually(t, func() bool {
		again, err := pgx.Connect(t.Context(), s.DSN("postgres"))
		if err != nil {
			return false
		}
		err = again.QueryRow(t.Context(), "SELECT n FROM kept").Scan(&n)
		return err == nil && again.Close(t.Context()) == nil
	}, 60*time.Second, 50*time.Millisecond)
	assert.Equal(t, 7, n)
	require.NoError(t, s.Stop(t.Context()))
	<-ended // a server that was stopped on purpose stays so
	stop()
}

// TestAServerWaitsForWhatIsLeftOfTheOneBefore kills a server of which a process hangs, which keeps the next one from starting until it
// ends.
func TestAServerWaitsForWhatIsLeftOfTheOneBefore(t *testing.T) {
	dir := filepath.Join(folder(t), "postgres")
	s, err := localpg.Start(t.Context(), localpg.Options{Dir: dir})
	require.NoError(t, err)
	conn, err := pgx.Connect(t.Context(), s.DSN("postgres"))
	require.NoError(t, err)
	hangs := int(conn.PgConn().PID())
	require.NoError(t, syscall.Kill(hangs, syscall.SIGSTOP))
	raw, err := os.ReadFile(filepath.Join(dir, "postmaster.pid"))
	require.NoError(t, err)
	pid, err := strconv.Atoi(strings.SplitN(string(raw), "\n", 2)[0])
	require.NoError(t, err)
	require.NoError(t, syscall.Kill(pid, syscall.SIGKILL))
	require.Eventually(t, func() bool {
		conn, err := net.Dial("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(s.Port)))
		return err != nil || conn.Close() != nil
	}, 10*time.Second, 5*time.Millisecond, "it is gone")
	started := make(chan error, 1)
	go func() {
		again, err := localpg.Start(t.Context(), localpg.Options{Dir: dir})
		if err == nil {
			err = again.Stop(t.Context())
		}
		started <- err
	}()
	log := filepath.Join(dir, "server.log")
	assert.Eventually(t, func() bool {
		raw, err := os.ReadFile(log)
		return err == nil && strings.Contains(string(raw), "pre-existing shared memory block")
	}, 30*time.Second, 20*time.Millisecond)
	require.NoError(t, syscall.Kill(hangs, syscall.SIGKILL))
	assert.NoError(t, <-started)
}

// TestDataLivesWhereTheServerMayGo asks for a folder under one that only its owner
// may enter, as root's own is.
func TestDataLivesWhereTheServerMayGo(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("only root starts the server as somebody else")
	}
	closed := folder(t)
	require.NoError(t, os.Chmod(closed, 0o700))
	o := localpg.Options{Dir: filepath.Join(closed, "yard", "postgres")}
	s, err := localpg.Start(t.Context(), o)
	require.NoError(t, err)
	assert.Regexp(t, "^/var/lib/pinegate/yard-[0-9a-f]{8}/postgres$", s.Moved)
	t.Cleanup(func() { require.NoError(t, os.RemoveAll(filepath.Dir(s.Moved))) })
	again, err := localpg.Start(t.Context(), o)
	require.NoError(t, err)
	assert.Equal(t, []any{s.Moved, s.Port, true}, []any{again.Moved, again.Port, again.Found}, "the same data is found again")
	require.NoError(t, s.Stop(t.Context()))
}

// TestOnlyWhoHasTheKeyComesIn tries what another user of the machine could, who reaches
// the port.
func TestOnlyWhoHasTheKeyComesIn(t *testing.T) {
	dir := filepath.Join(folder(t), "postgres")
	s, err := localpg.Start(t.Context(), localpg.Options{Dir: dir})
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Stop(context.Background())) })
	for _, who := range []string{"pinegate", "keeper", "postgres", "pinegate password=guess"} {
		_, err := pgx.Connect(t.Context(), fmt.Sprintf("host=127.0.0.1 port=%d user=%s dbname=postgres sslmode=disable", s.Port, who))
		require.Error(t, err, who)
	}
	info, err := os.Stat(dir + ".key")
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	conn, err := pgx.Connect(t.Context(), s.DSN("postgres"))
	require.NoError(t, err)
	var super bool
	require.NoError(t, conn.QueryRow(t.Context(), "SELECT rolsuper FROM pg_roles WHERE rolname = current_user").Scan(&super))
	assert.False(t, super)
	_, err = conn.Exec(t.Context(), "COPY (SELECT 1) TO PROGRAM 'id'")
	require.Error(t, err, "the product's role runs no programs")
	require.NoError(t, conn.Close(t.Context()))
}

// TestAServerThatTrustedEverybodyGetsAKey starts one as an older version left it, with
// what was in it, and again.
func TestAServerThatTrustedEverybodyGetsAKey(t *testing.T) {
	dir := filepath.Join(folder(t), "postgres")
	s, err := localpg.Start(t.Context(), localpg.Options{Dir: dir})
	require.NoError(t, err)
	raw, err := os.ReadFile(dir + ".key")
	require.NoError(t, err)
	keeper, err := pgx.Connect(t.Context(), strings.NewReplacer("user=pinegate", "user=keeper",
		strings.Fields(string(raw))[0], strings.Fields(string(raw))[1]).Replace(s.DSN("postgres")))
	require.NoError(t, err)
	_, err = keeper.Exec(t.Context(), "ALTER ROLE pinegate SUPERUSER PASSWORD NULL; CREATE TABLE kept AS SELECT 1 AS n")
	require.NoError(t, err)
	require.NoError(t, keeper.Close(t.Context()))
	require.NoError(t, s.Stop(t.Context()))
	hba := filepath.Join(dir, "pg_hba.conf")
	rules, err := os.ReadFile(hba)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(hba, []byte(strings.ReplaceAll(string(rules), "scram-sha-256", "trust")), 0o600))
	require.NoError(t, os.Remove(dir+".key"))

	for range 2 {
		s, err = localpg.Start(t.Context(), localpg.Options{Dir: dir})
		require.NoError(t, err)
		_, err = pgx.Connect(t.Context(), fmt.Sprintf("host=127.0.0.1 port=%d user=pinegate dbname=postgres sslmode=disable", s.Port))
		require.Error(t, err)
		conn, err := pgx.Connect(t.Context(), s.DSN("postgres"))
		require.NoError(t, err)
		var n int
		require.NoError(t, conn.QueryRow(t.Context(), "SELECT n FROM kept").Scan(&n))
		assert.Equal(t, 1, n)
		require.NoError(t, conn.Close(t.Context()))
		require.NoError(t, s.Stop(t.Context()))
	}

	require.NoError(t, os.Remove(dir+".key"))
	_, err = localpg.Start(t.Context(), localpg.Options{Dir: dir})
	require.ErrorContains(t, err, "put "+dir+".key back")
	assert.NoFileExists(t, filepath.Join(dir, "postmaster.pid"), "it does not go on")
}
