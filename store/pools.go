package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"hash/maphash"
	"os"
	"strconv"
	"time"

	"github.com/hashicorp/golang-lru/v2/expirable"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgconn/ctxwatch"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/gorm"
)

// limits bound a kind of work. Zero is no limit.
type limits struct {
	connections int
	share       int           // how many of them one workspace can have
	wait        time.Duration // for a turn or a connection
	light       time.Duration // after which a read goes on as a heavy one
	spends      time.Duration // of each second, that one workspace can read with; beyond it reads are heavy ones
	statement   time.Duration // of PostgreSQL
	idle        time.Duration // between two statements of a transaction
	lock        time.Duration // waiting for what somebody else holds
	reads       bool          // only
}

// limitsOf gives those for one server. Together the connections are 42, and one
// more listens.
func limitsOf(k Kind) limits {
	return [kinds]limits{
		Back: {connections: 8, wait: 30 * time.Second, idle: time.Minute, lock: 30 * time.Second},
		Front: {connections: 14, share: 8, wait: 5 * time.Second, light: 500 * time.Millisecond, spends: time.Second,
			statement: 10 * time.Second, idle: 10 * time.Second, lock: 5 * time.Second},
		Build: {connections: 8, share: 5, wait: 5 * time.Second, light: 250 * time.Millisecond, spends: 300 * time.Millisecond,
			statement: time.Minute, idle: 30 * time.Second, lock: 5 * time.Second},
		Heavy: {connections: 6, share: 3, wait: 10 * time.Second, reads: true,
			statement: 20 * time.Second, idle: 10 * time.Second, lock: 5 * time.Second},
		Bulk: {connections: 6, wait: time.Minute, idle: 10 * time.Minute, lock: 2 * time.Minute},
	}[k]
}

// Pools are the connections to a database, apart by kinds of work. They are a
// connection of GORM's, which takes the kind from the context.
type Pools struct {
	of       [kinds]*pgxpool.Pool
	db       [kinds]*sql.DB
	turns    [kinds]*Turns
	spending *spending
	known    *expirable.LRU[heavyShape, struct{}]
	seed     maphash.Seed
}

// behind tells whether the work gives way to all other.
func (k Kind) behind() bool { return k == Heavy || k == Bulk }

func openPools(ctx context.Context, config *pgxpool.Config, o Options) (*Pools, error) {
	p := &Pools{spending: newSpending(), seed: maphash.MakeSeed(),
		known: expirable.NewLRU[heavyShape, struct{}](mostShapes, nil, shapeLife)}
	for k := range kinds {
		p.turns[k] = NewTurns(limitsOf(k).share, limitsOf(k).wait)
		pool, err := pgxpool.NewWithConfig(ctx, configOf(config.Copy(), k, o))
		if err != nil {
			p.close()
			return nil, fmt.Errorf("connect to database: %w", err)
		}
		p.of[k] = pool
		p.db[k] = sql.OpenDB(patient{stdlib.GetPoolConnector(pool), limitsOf(k).wait})
		p.db[k].SetMaxIdleConns(0) // the pool keeps them
	}
	return p, nil
}

func configOf(c *pgxpool.Config, k Kind, o Options) *pgxpool.Config {
	l := limitsOf(k)
	c.MaxConns = int32(l.connections)
	set := c.ConnConfig.RuntimeParams
	set["search_path"] = "pinegate,public"
	set["timezone"] = "UTC"
	set["application_name"] = fmt.Sprintf("pinegate %s %d", k, os.Getpid())
	for name, d := range map[string]time.Duration{
		"statement_timeout": l.statement, "idle_in_transaction_session_timeout": l.idle, "lock_timeout": l.lock,
	} {
		set[name] = strconv.FormatInt(d.Milliseconds(), 10)
	}
	if k.behind() { // helpers would not know that they are to give way
		set["max_parallel_workers_per_gather"], set["max_parallel_maintenance_workers"] = "0", "0"
	}
	if k == Heavy { // totals over many groups would go by way of the disk otherwise; few of these are read at once
		set["work_mem"] = "32MB"
	}
	if l.reads {
		set["default_transaction_read_only"] = "on"
	}
	if k != Back { // of which some only listen, where there is nothing to be stopped
		c.ConnConfig.BuildContextWatcherHandler = cancelling
	}
	c.ConnConfig.Tracer = &tracer{o.Observe}
	if o.GiveWay != nil && k.behind() {
		c.AfterConnect = func(_ context.Context, conn *pgx.Conn) error { return o.GiveWay(int(conn.PgConn().PID()), k == Heavy) }
	}
	return c
}

// cancelling stops the statement in the database when nobody waits for it any
// more; without it, it would go on there to its end.
func cancelling(conn *pgconn.PgConn) ctxwatch.Handler {
	return &pgconn.CancelRequestContextWatcherHandler{Conn: conn, DeadlineDelay: 2 * time.Second}
}

func (p *Pools) close() {
	for _, pool := range p.of {
		if pool != nil {
			pool.Close()
		}
	}
}

// patient waits for a connection for a while only.
type patient struct {
	driver.Connector
	wait time.Duration
}

// Connect gives a connection, or [ErrBusy].
func (p patient) Connect(ctx context.Context) (driver.Conn, error) {
	waiting, cancel := context.WithTimeoutCause(ctx, p.wait, ErrBusy)
	defer cancel()
	conn, err := p.Connector.Connect(waiting)
	return conn, busy(ctx, waiting, err)
}

// busy tells that an error comes from waiting, and not from whoever asked.
func busy(ctx, waiting context.Context, err error) error {
	if err != nil && ctx.Err() == nil && errors.Is(context.Cause(waiting), ErrBusy) {
		return fmt.Errorf("wait for a connection: %w", ErrBusy)
	}
	return err
}

func (p *Pools) kind(ctx context.Context) *sql.DB { return p.db[WorkOf(ctx).Kind] }

// PrepareContext is part of GORM's connection.
func (p *Pools) PrepareContext(ctx context.Context, query string) (*sql.Stmt, error) {
	return p.kind(ctx).PrepareContext(ctx, query)
}

// ExecContext is part of GORM's connection.
func (p *Pools) ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error) {
	return p.kind(ctx).ExecContext(ctx, query, args...)
}

// QueryContext is part of GORM's connection.
func (p *Pools) QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error) {
	return p.kind(ctx).QueryContext(ctx, query, args...)
}

// QueryRowContext is part of GORM's connection.
func (p *Pools) QueryRowContext(ctx context.Context, query string, args ...any) *sql.Row {
	return p.kind(ctx).QueryRowContext(ctx, query, args...)
}

// GetDBConn gives the connections of work that lasts, for what holds one.
func (p *Pools) GetDBConn() (*sql.DB, error) { return p.db[Bulk], nil }

// transaction is one that ends a turn when it ends, on a connection that it has for itself.
type transaction struct {
	*sql.Tx
	conn  *sql.Conn
	leave func()
}

// Commit ends the transaction.
func (t *transaction) Commit() error { defer t.end(); return t.Tx.Commit() }

// Rollback undoes the transaction.
func (t *transaction) Rollback() error { defer t.end(); return t.Tx.Rollback() }

func (t *transaction) end() {
	_ = t.conn.Close() // which gives it back; what it was for is over
	t.leave()
}

// BeginTx begins a transaction, when it is the workspace's turn.
func (p *Pools) BeginTx(ctx context.Context, o *sql.TxOptions) (gorm.ConnPool, error) {
	w := WorkOf(ctx)
	leave, err := p.turns[w.Kind].Take(ctx, w.Workspace)
	if err != nil {
		return nil, fmt.Errorf("begin: %w", err)
	}
	conn, err := p.db[w.Kind].Conn(ctx)
	if err != nil {
		leave()
		return nil, fmt.Errorf("begin: %w", err)
	}
	tx, err := conn.BeginTx(ctx, o)
	if err != nil {
		err = errors.Join(err, conn.Close())
		leave()
		return nil, fmt.Errorf("begin: %w", err)
	}
	return &transaction{tx, conn, leave}, nil
}

// Tx gives the transaction in which a GORM connection is, if it is in one.
func Tx(db *gorm.DB) (*sql.Tx, bool) {
	switch tx := db.Statement.ConnPool.(type) {
	case *transaction:
		return tx.Tx, true
	case *sql.Tx:
		return tx, true
	}
	return nil, false
}

// Read does what only reads, outside of a transaction, when it is the workspace's
// turn. What takes longer than a light read may is stopped and done anew among the
// heavy ones, of which each workspace has few; so it may be called twice. Of what
// was so the shape is remembered, and it is done among those at once for a while.
func (p *Pools) Read(ctx context.Context, shape string, do func(context.Context) error) error {
	w := WorkOf(ctx)
	l := limitsOf(w.Kind)
	if l.light == 0 {
		return do(ctx)
	}
	of := heavyShape{w.Workspace, maphash.String(p.seed, shape)}
	who := spender{w.Workspace, w.Kind}
	if _, known := p.known.Get(of); known || w.Workspace != "" && p.spending.rate(who) > l.spends {
		began := time.Now()
		defer func() { p.spending.add(who, time.Since(began)) }()
		return p.heavy(ctx, of, l.light, do)
	}
	leave, err := p.turns[w.Kind].Take(ctx, w.Workspace)
	if err != nil {
		return fmt.Errorf("read: %w", err)
	}
	light, cancel := context.WithTimeoutCause(ctx, l.light, ErrLong)
	began := time.Now()
	err = do(light)
	p.spending.add(who, time.Since(began))
	tooLong := err != nil && ctx.Err() == nil && errors.Is(context.Cause(light), ErrLong)
	cancel()
	leave()
	switch {
	case tooLong:
		return p.heavy(ctx, of, l.light, do)
	case err != nil && ctx.Err() != nil: // what the database says of being stopped says less
		return context.Cause(ctx)
	}
	return err
}

// heavyShape is a statement of a workspace that takes long.
type heavyShape struct {
	workspace string
	text      uint64
}

// How many heavy statements are remembered, and for how long.
const (
	mostShapes = 10_000
	shapeLife  = 10 * time.Minute
)

func (p *Pools) heavy(ctx context.Context, of heavyShape, light time.Duration, do func(context.Context) error) error {
	leave, err := p.turns[Heavy].Take(ctx, of.workspace)
	if err != nil {
		return fmt.Errorf("read at length: %w", err)
	}
	defer leave()
	most := limitsOf(Heavy).statement
	long, cancel := context.WithTimeoutCause(As(ctx, Heavy), most, ErrLong)
	defer cancel()
	began := time.Now()
	err = do(long)
	if time.Since(began) > light/2 {
		p.known.Add(of, struct{}{})
	} else { // the server had a lot to do, or the records are fewer by now
		p.known.Remove(of)
	}
	switch {
	case err != nil && ctx.Err() != nil:
		return context.Cause(ctx)
	case err != nil && errors.Is(context.Cause(long), ErrLong):
		return fmt.Errorf("read for %s: %w", most, ErrLong)
	}
	return err
}

// Acquire gives a connection for the kind of work of the context. It is to be
// released.
func (p *Pools) Acquire(ctx context.Context) (*pgxpool.Conn, error) {
	k := WorkOf(ctx).Kind
	waiting, cancel := context.WithTimeoutCause(ctx, limitsOf(k).wait, ErrBusy)
	defer cancel()
	conn, err := p.of[k].Acquire(waiting)
	if err != nil {
		return nil, fmt.Errorf("get a connection: %w", busy(ctx, waiting, err))
	}
	return conn, nil
}

// Beside gives up to so many connections more for heavy work, with which it can do several things at once: those that are free
// now, each with a turn of the workspace, so that it has no more of them than its share, and not the last one, which others may
// want. There are none for other work. Leave gives them back.
func (p *Pools) Beside(ctx context.Context, most int) (conns []*pgxpool.Conn, leave func()) {
	var ends []func()
	leave = func() {
		for _, end := range ends {
			end()
		}
	}
	w := WorkOf(ctx)
	for w.Kind == Heavy && len(conns) < most {
		if all := p.of[Heavy].Stat(); all.AcquiredConns() >= all.MaxConns()-1 {
			break
		}
		end, free := p.turns[Heavy].Try(w.Workspace)
		if !free {
			break
		}
		soon, cancel := context.WithTimeout(ctx, besideWait)
		conn, err := p.of[Heavy].Acquire(soon)
		cancel()
		if err != nil { // the work goes on with fewer
			end()
			break
		}
		conns = append(conns, conn)
		ends = append(ends, conn.Release, end)
	}
	return conns, leave
}

// besideWait is how long a connection is waited for that would only make something faster.
const besideWait = 100 * time.Millisecond
