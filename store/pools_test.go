package store_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"pinegate/store"
	"pinegate/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

func of(ctx context.Context, k store.Kind, workspace string) context.Context {
	return store.With(ctx, store.Work{Kind: k, Workspace: workspace})
}

// reads runs a statement as a read of records does.
func reads(ctx context.Context, t *testing.T, s *store.Store, sql string) (out string, err error) {
	t.Helper()
	pools, outside := store.Outside(s.DB)
	require.True(t, outside)
	err = pools.Read(ctx, sql, func(ctx context.Context) error {
		return store.Conn(s.DB).QueryRowContext(ctx, sql).Scan(&out)
	})
	return out, err
}

func TestEachKindOfWorkHasItsConnections(t *testing.T) {
	s := storetest.New(t)
	for _, k := range []store.Kind{store.Back, store.Front, store.Build, store.Heavy, store.Bulk} {
		name, err := reads(of(t.Context(), k, ""), t, s, "SELECT current_setting('application_name')")
		require.NoError(t, err)
		assert.Equal(t, fmt.Sprintf("pinegate %s %d", k, os.Getpid()), name)
	}
	ctx := of(t.Context(), store.Heavy, "")
	require.ErrorContains(t, s.DB.WithContext(ctx).Exec("CREATE TABLE x (a int)").Error, "read-only")
}

// TestHeavyReadsTakeTurns lets a workspace read at length seven times at once: no
// more than three of them go on, and another workspace reads meanwhile.
func TestHeavyReadsTakeTurns(t *testing.T) {
	s := storetest.New(t)
	var most, now atomic.Int64
	var wait sync.WaitGroup
	var done, busy atomic.Int64
	pools, _ := store.Outside(s.DB)
	for range 7 {
		wait.Go(func() {
			err := pools.Read(of(t.Context(), store.Front, "ours"), "sleep", func(ctx context.Context) error {
				if store.WorkOf(ctx).Kind == store.Heavy {
					most.Store(max(most.Load(), now.Add(1)))
					defer now.Add(-1)
				}
				return store.Conn(s.DB).QueryRowContext(ctx, "SELECT pg_sleep(1.1)::text").Scan(new(string))
			})
			switch {
			case err == nil:
				done.Add(1)
			case errors.Is(err, store.ErrBusy):
				busy.Add(1)
			default:
				assert.NoError(t, err)
			}
		})
	}
	require.Eventually(t, func() bool { return now.Load() == 3 }, 10*time.Second, 5*time.Millisecond)
	for range 20 {
		out, err := reads(of(t.Context(), store.Front, "theirs"), t, s, "SELECT 'here'")
		require.NoError(t, err)
		assert.Equal(t, "here", out)
	}
	wait.Wait()
	kind := store.Kind(-1)
	require.NoError(t, pools.Read(of(t.Context(), store.Front, "ours"), "sleep", func(ctx context.Context) error {
		kind = store.WorkOf(ctx).Kind
		return nil
	}))
	assert.Equal(t, store.Heavy, kind, "what was heavy is not tried lightly again")
	require.NoError(t, pools.Read(of(t.Context(), store.Front, "ours"), "sleep", func(ctx context.Context) error {
		kind = store.WorkOf(ctx).Kind
		return nil
	}))
	assert.Equal(t, store.Front, kind, "until it is not heavy any more")
	assert.EqualValues(t, 3, most.Load())
	assert.EqualValues(t, 7, done.Load()+busy.Load())
	assert.GreaterOrEqual(t, done.Load(), int64(3))
}

func TestWhatNobodyWaitsForIsStopped(t *testing.T) {
	s := storetest.New(t)
	ctx, leave := context.WithCancel(of(t.Context(), store.Build, "ours"))
	failed := make(chan error, 1)
	go func() {
		_, err := reads(ctx, t, s, "SELECT pg_sleep(60)::text /* nobody waits */")
		failed <- err
	}()
	running := func() bool {
		var n int
		err := s.Pool.QueryRow(t.Context(), "SELECT count(*) FROM pg_stat_activity WHERE state = 'active' AND query LIKE '%nobody waits%' AND pid <> pg_backend_pid() AND datname = current_database()").Scan(&n)
		return err == nil && n > 0
	}
	require.Eventually(t, running, 10*time.Second, 5*time.Millisecond)
	leave()
	require.ErrorIs(t, <-failed, context.Canceled)
	require.Eventually(t, func() bool { return !running() }, 10*time.Second, 5*time.Millisecond)
}

// TestTransactionsTakeTurns holds as many transactions as one workspace may: the
// next one waits, and one of another workspace does not.
func TestTransactionsTakeTurns(t *testing.T) {
	s := storetest.New(t)
	release := make(chan struct{})
	var begun, wait sync.WaitGroup
	for range 5 {
		begun.Add(1)
		wait.Go(func() {
			assert.NoError(t, s.DB.WithContext(of(t.Context(), store.Build, "ours")).Transaction(func(tx *gorm.DB) error {
				begun.Done()
				<-release
				_, in := store.Tx(tx)
				assert.True(t, in)
				return nil
			}))
		})
	}
	begun.Wait()
	nothing := func(*gorm.DB) error { return nil }
	soon, cancel := context.WithTimeout(of(t.Context(), store.Build, "ours"), 100*time.Millisecond)
	defer cancel()
	require.Error(t, s.DB.WithContext(soon).Transaction(nothing), "there is no place left")
	require.NoError(t, s.DB.WithContext(of(t.Context(), store.Build, "theirs")).Transaction(nothing))
	require.NoError(t, s.DB.WithContext(of(t.Context(), store.Front, "ours")).Transaction(nothing), "customers have places of their own")
	close(release)
	wait.Wait()
	require.NoError(t, s.DB.WithContext(of(t.Context(), store.Build, "ours")).Transaction(nothing), "a turn that is over is given on")
}

func TestTroublesAreTold(t *testing.T) {
	s := storetest.New(t)
	of := func(sql string) error { return s.DB.WithContext(t.Context()).Exec(sql).Error }
	for _, x := range []struct {
		err  error
		want error
	}{
		{of("SET statement_timeout = 5; SELECT pg_sleep(10)"), store.ErrLong},
		{fmt.Errorf("reading: %w", &pgconn.PgError{Code: "55P03"}), store.ErrHeld},
		{&pgconn.PgError{Code: "42P01"}, store.ErrRenamed},
		{&pgconn.PgError{Code: "53100"}, store.ErrFull},
		{&pgconn.PgError{Code: "57P01"}, store.ErrAway},
		{&pgconn.PgError{Code: "08006"}, store.ErrAway},
		{of("SELECT 1/0"), nil},
		{context.Canceled, nil},
		{context.DeadlineExceeded, store.ErrLong},
		{errors.New("read tcp: connection reset by peer"), store.ErrAway},
		{errors.New("something else"), nil},
	} {
		assert.Equal(t, x.want, store.Trouble(x.err), "%v", x.err)
	}
	_, err := store.Open(t.Context(), "host=127.0.0.1 port=1 user=nobody dbname=none sslmode=disable")
	assert.Equal(t, store.ErrAway, store.Trouble(err), "%v", err)
}

// TestHeavyWorkHasItsShareBeside gives heavy work further connections while the workspace has turns left and others are left the last
// one, gives other work none, and takes them back.
func TestHeavyWorkHasItsShareBeside(t *testing.T) {
	s := storetest.New(t)
	pools, _ := store.Outside(s.DB)
	more, leave := pools.Beside(of(t.Context(), store.Front, "ours"), 2)
	assert.Empty(t, more)
	leave()
	heavy := of(t.Context(), store.Heavy, "ours")
	for range 2 { // as much again, once they are given back
		more, leave = pools.Beside(heavy, 9)
		assert.Len(t, more, 3, "the share of a workspace")
		none, nothing := pools.Beside(heavy, 1)
		assert.Empty(t, none)
		nothing()
		others, end := pools.Beside(of(t.Context(), store.Heavy, "theirs"), 9)
		assert.Len(t, others, 2, "five of six are taken")
		end()
		leave()
	}
	require.NoError(t, pools.Read(of(t.Context(), store.Front, "ours"), "x", func(context.Context) error { return nil }))
}
