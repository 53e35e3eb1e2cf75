// Package store keeps everything that must last in PostgreSQL, through GORM.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

//go:embed migrations/*.sql
var migrationFiles embed.FS

// Store is the product's own tables, and the connection to everything else in
// the same database.
type Store struct {
	// DB is for all kinds of work: it takes that from the context.
	DB *gorm.DB
	// Pool holds the connections of jobs and of what lasts.
	Pool  *pgxpool.Pool
	pools *Pools
}

// Options say how a database is used.
type Options struct {
	// GiveWay tells the process of a connection, by its number, to give way to the
	// others on its machine, if need be so far that it may not get to do anything; nil
	// where that cannot be told.
	GiveWay func(pid int, far bool) error
	// Current tells that the tables are up to date: whoever began this process saw to it.
	Current bool
	// Observe is told of statements; nil where nobody counts them.
	Observe Observer
}

// ErrNotFound is given for what is not there, or not there for whoever asks.
var ErrNotFound = errors.New("not found")

// Open connects to the database and brings its tables up to date. Several
// servers may do so at once.
func Open(ctx context.Context, dsn string) (*Store, error) { return OpenWith(ctx, dsn, Options{}) }

// OpenWith is [Open] with options.
func OpenWith(ctx context.Context, dsn string, o Options) (*Store, error) {
	config, err := pgxpool.ParseConfig(dsn)
	if err != nil {
		return nil, fmt.Errorf("read database address: %w", err)
	}
	pools, err := openPools(ctx, config, o)
	if err != nil {
		return nil, err
	}
	if !o.Current {
		if err := migrate(ctx, pools.of[Bulk], pools.db[Bulk]); err != nil {
			pools.close()
			return nil, err
		}
	}
	g, err := gorm.Open(postgres.New(postgres.Config{Conn: pools}), &gorm.Config{
		SkipDefaultTransaction: true,
		Logger:                 logger.Discard, // errors are given back, and slow statements are told by the tracer
	})
	if err != nil {
		pools.close()
		return nil, fmt.Errorf("open database: %w", err)
	}
	return &Store{DB: g, Pool: pools.of[Back], pools: pools}, nil
}

// Close ends all connections.
func (s *Store) Close() { s.pools.close() }

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.Pool.Ping(ctx) }

func migrate(ctx context.Context, pool *pgxpool.Pool, db *sql.DB) error {
	// CREATE SCHEMA IF NOT EXISTS can still collide with itself; the lock of
	// the transaction makes those who start together take turns.
	if _, err := pool.Exec(ctx, "BEGIN; SELECT pg_advisory_xact_lock(727274); CREATE SCHEMA IF NOT EXISTS pinegate; COMMIT"); err != nil {
		return fmt.Errorf("make schema: %w", err)
	}
	files, err := fs.Sub(migrationFiles, "migrations")
	if err != nil {
		return fmt.Errorf("read migrations: %w", err)
	}
	locker, err := lock.NewPostgresSessionLocker(lock.WithLockTimeout(1, 60))
	if err != nil {
		return fmt.Errorf("make migration lock: %w", err)
	}
	provider, err := goose.NewProvider(goose.DialectPostgres, db, files, goose.WithSessionLocker(locker))
	if err != nil {
		return fmt.Errorf("read migrations: %w", err)
	}
	if _, err := provider.Up(ctx); err != nil {
		return fmt.Errorf("migrate: %w", err)
	}
	return migrateJobs(ctx, pool)
}

// migrateJobs makes the tables of the job queue, one server at a time.
func migrateJobs(ctx context.Context, pool *pgxpool.Pool) error {
	conn, err := pool.Acquire(ctx)
	if err != nil {
		return fmt.Errorf("connect for job tables: %w", err)
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, "SELECT pg_advisory_lock(727275)"); err != nil {
		return fmt.Errorf("lock job tables: %w", err)
	}
	migrator, err := rivermigrate.New(riverpgxv5.New(pool), &rivermigrate.Config{Logger: slog.New(slog.DiscardHandler)})
	if err == nil {
		_, err = migrator.Migrate(ctx, rivermigrate.DirectionUp, nil)
	}
	_, unlockErr := conn.Exec(ctx, "SELECT pg_advisory_unlock(727275)")
	if err = errors.Join(err, unlockErr); err != nil {
		return fmt.Errorf("migrate job tables: %w", err)
	}
	return nil
}

// Querier is the part of a GORM connection that runs statements which
// core/query and core/schema made.
type Querier = gorm.ConnPool

// Conn gives the connection, or inside a transaction that transaction.
func Conn(db *gorm.DB) Querier { return db.Statement.ConnPool }

// Hold gives a connection for the kind of work of the context. It is to be released.
func (s *Store) Hold(ctx context.Context) (*pgxpool.Conn, error) { return s.pools.Acquire(ctx) }

// Stats tells of the connections of each kind of work.
func (s *Store) Stats() map[Kind]*pgxpool.Stat {
	out := map[Kind]*pgxpool.Stat{}
	for k, pool := range s.pools.of {
		out[Kind(k)] = pool.Stat()
	}
	return out
}

// Outside gives the connections where a GORM connection is in no transaction.
func Outside(db *gorm.DB) (*Pools, bool) {
	p, ok := db.Statement.ConnPool.(*Pools)
	return p, ok
}
