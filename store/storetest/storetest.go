// Package storetest gives tests databases of their own on a throwaway
// PostgreSQL server.
package storetest

import (
	"context"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"pinegate/store"
	"pinegate/store/localpg"
)

// Main runs the tests of a package with a server: the one that the environment
// names, or one of their own.
func Main(m *testing.M) int {
	if os.Getenv(localpg.TestVariable) != "" {
		return m.Run()
	}
	dir, err := os.MkdirTemp("", "pinegate-test-")
	if err != nil {
		panic(err)
	}
	pg, err := localpg.Start(context.Background(), localpg.Options{Dir: dir, Throwaway: true})
	if err != nil {
		panic(err)
	}
	if err := os.Setenv(localpg.TestVariable, pg.DSN("postgres")); err != nil {
		panic(err)
	}
	code := m.Run()
	if err := pg.Stop(context.Background()); err != nil {
		fmt.Fprintln(os.Stderr, err)
	}
	if err := os.Remove(dir + ".lock"); err != nil {
		fmt.Fprintln(os.Stderr, err)
	}
	return code
}

// New gives a store in a new database that goes with the test.
func New(t testing.TB) *store.Store {
	t.Helper()
	s, err := store.Open(t.Context(), Database(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	return s
}

// Database makes an empty database that goes with the test, and gives its
// address.
func Database(t testing.TB) string {
	t.Helper()
	admin := os.Getenv(localpg.TestVariable)
	require.NotEmpty(t, admin, "the package's TestMain must call storetest.Main")
	name := "test_" + strings.ReplaceAll(uuid.NewString(), "-", "")
	run(t, admin, "CREATE DATABASE "+name)
	t.Cleanup(func() { run(t, admin, "DROP DATABASE "+name+" WITH (FORCE)") })
	return strings.Replace(admin, "dbname=postgres", "dbname="+name, 1)
}

func run(t testing.TB, dsn, sql string) {
	t.Helper()
	ctx := context.Background() // the test's own is done when it cleans up
	conn, err := pgx.Connect(ctx, dsn)
	require.NoError(t, err)
	_, err = conn.Exec(ctx, sql)
	require.NoError(t, err)
	require.NoError(t, conn.Close(ctx))
}
