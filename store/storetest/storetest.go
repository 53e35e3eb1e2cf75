// Package storetest gives tests databases of their own on a throwaway
// PostgreSQL server.
package storetest

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
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

// migrated is a database that has the product's own tables and nothing in them.
var migrated = NewTemplate(func(context.Context, *store.Store) error { return nil })

// New gives a store in a new database that goes with the test.
func New(t testing.TB) *store.Store { return migrated.New(t) }

// Template is a database that is made once, and copied for each test that wants
// one like it.
type Template struct {
	fill func(context.Context, *store.Store) error
	once sync.Once
	name string
	err  error
}

// NewTemplate gives the template of databases that are filled so.
func NewTemplate(fill func(context.Context, *store.Store) error) *Template {
	return &Template{fill: fill}
}

// New gives a store in a copy of the template, which goes with the test.
func (p *Template) New(t testing.TB) *store.Store {
	t.Helper()
	p.once.Do(func() { p.name, p.err = p.make(context.Background()) })
	require.NoError(t, p.err)
	count := &atomic.Int64{}
	s, err := store.OpenWith(t.Context(), database(t, " TEMPLATE "+p.name),
		store.Options{Observe: func(store.Work, time.Duration, bool) { count.Add(1) }})
	require.NoError(t, err)
	counts.Store(s, count)
	t.Cleanup(func() { counts.Delete(s); s.Close() })
	return s
}

// counts has how many statements were run on each store.
var counts sync.Map

// Statements tells how many statements, or batches of them, were run on a store that
// [New] or a template made.
func Statements(s *store.Store) int64 {
	count, ok := counts.Load(s)
	if !ok {
		return 0
	}
	return count.(*atomic.Int64).Load()
}

func (p *Template) make(ctx context.Context) (string, error) {
	name := "template_" + strings.ReplaceAll(uuid.NewString(), "-", "")
	admin := os.Getenv(localpg.TestVariable)
	conn, err := pgx.Connect(ctx, admin)
	if err != nil {
		return "", err
	}
	if _, err := conn.Exec(ctx, "CREATE DATABASE "+name); err != nil {
		return "", errors.Join(err, conn.Close(ctx))
	}
	s, err := store.Open(ctx, strings.Replace(admin, "dbname=postgres", "dbname="+name, 1))
	if err == nil {
		err = p.fill(ctx, s)
		s.Close()
	}
	return name, errors.Join(err, conn.Close(ctx))
}

// Database makes an empty database that goes with the test, and gives its
// address.
func Database(t testing.TB) string { return database(t, "") }

func database(t testing.TB, like string) string {
	t.Helper()
	admin := os.Getenv(localpg.TestVariable)
	require.NotEmpty(t, admin, "the package's TestMain must call storetest.Main")
	name := "test_" + strings.ReplaceAll(uuid.NewString(), "-", "")
	run(t, admin, "CREATE DATABASE "+name+like)
	t.Cleanup(func() { drop(t, admin, name) })
	return strings.Replace(admin, "dbname=postgres", "dbname="+name, 1)
}

// drop throws a database away, when the server is not just tidying it up, which only
// its keeper could end.
func drop(t testing.TB, admin, name string) {
	t.Helper()
	ctx := context.Background() // the test's own is done when it cleans up
	conn, err := pgx.Connect(ctx, admin)
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		_, err = conn.Exec(ctx, "DROP DATABASE "+name+" WITH (FORCE)")
		var told *pgconn.PgError
		return !errors.As(err, &told) || told.Code != "42501" // insufficient_privilege
	}, 30*time.Second, 20*time.Millisecond)
	require.NoError(t, err)
	require.NoError(t, conn.Close(ctx))
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
