package imports

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"

	"pinegate/store"
)

// Queue is the queue of imports. It has workers of its own, so that files that last
// keep nothing else waiting.
const Queue = "imports"

// Workers is how many imports one server carries out at once.
const Workers = 3

// Times of the care for imports whose server is gone.
const (
	pulse   = 3 * time.Second  // after which a run says that it goes on
	dead    = 20 * time.Second // after which one that says nothing is given to another
	looking = 10 * time.Second // after which it is looked for such
	waiting = 3 * time.Second  // after which an import tries again that has to wait for another
)

// mostRuns is how many runs of an import may meet trouble: then it is no accident.
const mostRuns = 10

// Worker runs imports; it is added to the workers of the job queue.
func (s *Service) Worker(workers *river.Workers) {
	river.AddWorker(workers, &worker{service: s})
	river.AddWorker(workers, &taker{service: s})
}

type worker struct {
	river.WorkerDefaults[job]
	service *Service
}

// Work runs an import. It changes everything in one transaction, so that doing
// it twice does it once.
func (w *worker) Work(ctx context.Context, j *river.Job[job]) error {
	s := w.service
	r, app, err := s.run(ctx, j.Args.Import)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	r.claim = uuid.NewString()
	switch ours, err := r.take(ctx, app); {
	case err != nil:
		return err
	case ours == waits:
		return river.JobSnooze(waiting)
	case ours == others:
		return nil
	}
	if s.Apart != nil {
		return r.elsewhere(ctx)
	}
	return r.work(ctx, app)
}

// run gives what is known of an import.
func (s *Service) run(ctx context.Context, id string) (*run, store.App, error) {
	r := &run{id: id, service: s}
	var raw []byte
	var app store.App
	err := s.store.Pool.QueryRow(ctx, `SELECT i.app_id::text, a.workspace_id::text, i.made_by, COALESCE(i.made_by_id, ''), i.uploads::text[], i.proposal, i.runs
		FROM imports i JOIN apps a ON a.id = i.app_id WHERE i.id = $1`, id).Scan(&app.ID, &app.WorkspaceID, &r.by, &r.byID, &r.uploads, &raw, &r.runs)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, app, store.ErrNotFound
	}
	if err := errors.Join(err, json.Unmarshal(raw, &r.proposal)); err != nil {
		return nil, app, fmt.Errorf("read import: %w", err)
	}
	r.app = app.ID
	return r, app, nil
}

// turn says whether an import is to be carried out now.
type turn int

const (
	ours   turn = iota
	others      // it is over, or another server is at it
	waits       // the workspace has another import that goes on
)

// take claims the import for this run, unless another one is alive. Each workspace
// has one import that goes on, so that others do not wait for all of one's files.
func (r *run) take(ctx context.Context, app store.App) (turn, error) {
	pool := r.service.store.Pool
	var busy bool
	err := pool.QueryRow(ctx, `SELECT EXISTS (SELECT 1 FROM imports i JOIN apps a ON a.id = i.app_id WHERE a.workspace_id = $1 AND i.id <> $2
		AND i.status = 'running' AND i.alive_at > now() - make_interval(secs => $3))`, app.WorkspaceID, r.id, dead.Seconds()).Scan(&busy)
	if err != nil {
		return others, fmt.Errorf("look for other imports: %w", err)
	}
	if busy {
		_, err = pool.Exec(ctx, "UPDATE imports SET alive_at = now() WHERE id = $1 AND status = 'waiting'", r.id)
		return waits, err
	}
	err = pool.QueryRow(ctx, `UPDATE imports SET status = 'running', message = '', done = 0, claim = $2, alive_at = now(), runs = runs + 1
		WHERE id = $1 AND (status = 'waiting' OR status = 'running' AND (alive_at IS NULL OR alive_at < now() - make_interval(secs => $3)))
		RETURNING runs`, r.id, r.claim, dead.Seconds()).Scan(&r.runs)
	if errors.Is(err, pgx.ErrNoRows) {
		return others, nil
	}
	if err != nil {
		return others, fmt.Errorf("begin import: %w", err)
	}
	return ours, nil
}

// work carries the import out while it says that it goes on.
func (r *run) work(ctx context.Context, app store.App) error {
	ctx = store.With(ctx, store.Work{Kind: store.Bulk, Workspace: app.WorkspaceID, App: app.ID, By: r.byID})
	working, stop := context.WithCancelCause(ctx)
	beating := make(chan struct{})
	go func() {
		defer close(beating)
		r.beat(working, stop)
	}()
	err := r.carryOut(working)
	if err != nil && working.Err() != nil {
		err = context.Cause(working)
	}
	stop(nil)
	<-beating
	switch {
	case err == nil, errors.Is(err, errCancelled):
		return r.service.forget(ctx, r.uploads)
	case errors.Is(err, errTaken):
		return nil
	case ctx.Err() != nil, r.runs < mostRuns && (errors.Is(err, errLost) || store.Trouble(err) != nil):
		// the server stops, or the database is in trouble: it goes on later, or elsewhere
		return errors.Join(err, r.giveUp(context.WithoutCancel(ctx)))
	}
	return r.failed(ctx, err)
}

// beat says again and again that the run goes on, and ends it where that is not so.
func (r *run) beat(ctx context.Context, stop context.CancelCauseFunc) {
	tick := time.NewTicker(pulse)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		err := r.still(ctx, "")
		switch {
		case errors.Is(err, errCancelled), errors.Is(err, errTaken):
			stop(err)
			return
		case err != nil && ctx.Err() == nil: // another server may take it; then the end of this one changes nothing
			slog.WarnContext(ctx, "say that an import goes on", "import", r.id, "error", err)
		}
	}
}

// giveUp lets another run go on at once.
func (r *run) giveUp(ctx context.Context) error {
	_, err := r.service.store.Pool.Exec(ctx, "UPDATE imports SET alive_at = NULL WHERE id = $1 AND claim = $2", r.id, r.claim)
	return err
}

// takeJob looks for imports whose server is gone.
type takeJob struct{}

// Kind names the job.
func (takeJob) Kind() string { return "import_take" }

type taker struct {
	river.WorkerDefaults[takeJob]
	service *Service
}

// Work gives imports whose server is gone to those that are there.
func (w *taker) Work(ctx context.Context, _ *river.Job[takeJob]) error {
	return w.service.Resume(ctx, river.ClientFromContext[pgx.Tx](ctx))
}

// Care is when imports are looked for whose server is gone.
func Care() *river.PeriodicJob {
	return river.NewPeriodicJob(river.PeriodicInterval(looking), func() (river.JobArgs, *river.InsertOpts) {
		return takeJob{}, &river.InsertOpts{MaxAttempts: 1, UniqueOpts: river.UniqueOpts{ByPeriod: looking}}
	}, nil)
}

// Resume runs again what is not over and of which nobody says that it goes on. An
// import that another server is about all the same is found to be another's when
// its turn comes.
func (s *Service) Resume(ctx context.Context, jobs *river.Client[pgx.Tx]) error {
	return pgx.BeginFunc(ctx, s.store.Pool, func(tx pgx.Tx) error {
		found, err := tx.Query(ctx, `UPDATE imports SET alive_at = CASE WHEN status = 'waiting' THEN now() END
			WHERE status = 'running' AND (alive_at IS NULL OR alive_at < now() - make_interval(secs => $1))
				OR status = 'waiting' AND (alive_at IS NULL OR alive_at < now() - make_interval(secs => $2)) RETURNING id::text`,
			dead.Seconds(), (2 * dead).Seconds())
		if err != nil {
			return fmt.Errorf("find imports that were stopped: %w", err)
		}
		ids, err := pgx.CollectRows(found, pgx.RowTo[string])
		if err != nil {
			return fmt.Errorf("find imports that were stopped: %w", err)
		}
		for _, id := range ids {
			if _, err := jobs.InsertTx(ctx, tx, job{id}, nil); err != nil {
				return fmt.Errorf("resume import: %w", err)
			}
		}
		return nil
	})
}
