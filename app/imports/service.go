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

	"pinegate/app/act"
	"pinegate/core/blueprint"
	"pinegate/core/intake"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apart"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// Service brings files into apps.
type Service struct {
	// Apart carries imports out in processes of their own, and Looks has such say what
	// files hold; nil to do it here.
	Apart, Looks *apart.Runner

	store *store.Store
	apps  *apps.Apps
	acts  *act.Acts
}

// New gives the service.
func New(s *store.Store, a *apps.Apps, acts *act.Acts) *Service {
	return &Service{store: s, apps: a, acts: acts}
}

// mostMatched is how many records of a table that is there are looked at to
// find links.
const mostMatched = 200_000

// Propose says what the files seem to hold, and how they go together with what
// is there in the draft. Of the sheets that are turned, the first row is taken for names where it seems to hold values, and the
// other way round.
func (s *Service) Propose(ctx context.Context, app store.App, uploads []string, turned ...int) (*intake.Proposal, error) {
	if _, err := s.files(ctx, app.ID, uploads); err != nil {
		return nil, err
	}
	if s.Looks == nil {
		return s.propose(ctx, app, uploads, turned)
	}
	out := &intake.Proposal{}
	return out, s.look(ctx, Task{App: app.ID, Uploads: uploads, Turned: turned}, out)
}

// Tally counts what would come of a proposal, as the import itself does it, and changes nothing.
func (s *Service) Tally(ctx context.Context, app store.App, uploads []string, p *intake.Proposal) (*intake.Tally, error) {
	if _, err := s.files(ctx, app.ID, uploads); err != nil {
		return nil, err
	}
	if s.Looks == nil {
		return s.tally(ctx, app, uploads, p)
	}
	out := &intake.Tally{}
	return out, s.look(ctx, Task{App: app.ID, Uploads: uploads, Proposal: p}, out)
}

// look has files looked at in a process of its own.
func (s *Service) look(ctx context.Context, t Task, out any) error {
	err := s.Looks.Do(ctx, t, out)
	if errors.Is(err, apart.ErrEnded) && ctx.Err() == nil {
		return errors.Join(words.New("import-memory"), err)
	}
	if err != nil {
		return fmt.Errorf("look at files: %w", err)
	}
	return nil
}

func (s *Service) propose(ctx context.Context, app store.App, uploads []string, turned []int) (*intake.Proposal, error) {
	sheets, err := s.sheets(ctx, app.ID, uploads)
	if err != nil {
		return nil, err
	}
	for _, i := range turned {
		if i < 0 || i >= len(sheets) {
			return nil, words.New("import-files-changed")
		}
		if err := sheets[i].Turn(); err != nil {
			return nil, err
		}
	}
	b, err := s.apps.Blueprint(ctx, app, apps.Draft)
	if err != nil {
		return nil, err
	}
	p, err := intake.Propose(sheets, s.existing(ctx, app, b))
	if err != nil {
		return nil, err
	}
	for _, i := range turned {
		p.Sheets[i].Turned = true
	}
	return p, nil
}

// mostRenames is how often something is read again because it got another name meanwhile.
const mostRenames = 20

// existing gives what is there in the draft. It is read piece by piece, while the app goes on to be changed: what got another
// name meanwhile is read under that, as it is known by its id.
func (s *Service) existing(ctx context.Context, app store.App, b *blueprint.Blueprint) []intake.Existing {
	seat := apps.FounderSeat(app, apps.Draft, b, "")
	read := func(table, field string) (keys []string, err error) {
		for range mostRenames {
			t := seat.Blueprint.Table(table)
			if t == nil || field != "" && t.Field(field) == nil { // it was removed meanwhile
				return nil, nil
			}
			keys, err = s.apps.Road(ctx).Keys(ctx, seat, t, field, mostMatched)
			if store.Trouble(err) != store.ErrRenamed {
				return keys, err
			}
			if app, b, err = s.draft(ctx, app.ID); err != nil {
				return nil, err
			}
			seat = apps.FounderSeat(app, apps.Draft, b, "")
		}
		return nil, err
	}
	var out []intake.Existing
	for i := range b.Tables {
		t := &b.Tables[i]
		out = append(out, intake.Existing{Table: t, Values: func(field string) ([]string, error) { return read(t.ID, field) }})
	}
	return out
}

// draft gives an app and its draft as they are now.
func (s *Service) draft(ctx context.Context, id string) (store.App, *blueprint.Blueprint, error) {
	app, err := s.apps.Find(ctx, id)
	if err != nil {
		return app, nil, err
	}
	b, err := s.apps.Blueprint(ctx, app, apps.Draft)
	return app, b, err
}

// Status says how an import stands.
type Status struct {
	ID       string `json:"id"`
	Status   string `json:"status"`
	Message  string `json:"message"`
	Total    int    `json:"total"`    // rows in the files
	Done     int    `json:"done"`     // rows that were looked at
	Imported int    `json:"imported"` // rows that became records
	Aside    int    `json:"aside"`    // rows that were kept aside
}

// job is an import to be run.
type job struct {
	Import string `json:"import"`
}

// Kind names the job.
func (job) Kind() string { return "import" }

// InsertOpts lets an import be run again after a server stopped in the midst of
// it; nothing of the first run is left then.
func (job) InsertOpts() river.InsertOpts { return river.InsertOpts{MaxAttempts: 5, Queue: Queue} }

// Start runs an import in the background and gives its id.
func (s *Service) Start(ctx context.Context, jobs *river.Client[pgx.Tx], app store.App, by string, uploads []string,
	p *intake.Proposal) (string, error) {
	if _, err := s.files(ctx, app.ID, uploads); err != nil {
		return "", err
	}
	b, err := s.apps.Blueprint(ctx, app, apps.Draft)
	if err != nil {
		return "", err
	}
	// what cannot be done is told before anything is begun
	carried, err := intake.Carry(p, b, apps.NewID)
	if err != nil {
		return "", err
	}
	if _, err := blueprint.Apply(b, carried.Changes...); err != nil {
		return "", err
	}
	raw, err := json.Marshal(p)
	if err != nil {
		return "", fmt.Errorf("keep proposal: %w", err)
	}
	id, err := uuid.NewV7()
	if err != nil {
		return "", fmt.Errorf("make import id: %w", err)
	}
	total := 0
	for _, sheet := range p.Sheets {
		if sheet.Mode != intake.Ignore {
			total += sheet.Rows
		}
	}
	return id.String(), pgx.BeginFunc(ctx, s.store.Pool, func(tx pgx.Tx) error {
		_, err := tx.Exec(ctx,
			"INSERT INTO imports (id, app_id, made_by, made_by_id, uploads, proposal, total, alive_at)"+
				" VALUES ($1, $2, $3, $4, $5::text[]::uuid[], $6, $7, now())",
			id, app.ID, by, store.WorkOf(ctx).Doer(), uploads, raw, total)
		if err != nil {
			return fmt.Errorf("keep import: %w", err)
		}
		_, err = jobs.InsertTx(ctx, tx, job{id.String()}, nil)
		return err
	})
}

// Status tells how an import of the app stands.
func (s *Service) Status(ctx context.Context, app, id string) (Status, error) {
	var out Status
	err := s.store.Pool.QueryRow(ctx, `SELECT id::text, status, message, total, done, imported, (SELECT count(*) FROM imports_aside WHERE import_id = i.id)
		FROM imports i WHERE id = $1 AND app_id = $2`, id, app).Scan(&out.ID, &out.Status, &out.Message, &out.Total, &out.Done, &out.Imported, &out.Aside)
	if errors.Is(err, pgx.ErrNoRows) {
		return out, store.ErrNotFound
	}
	return out, err
}

// Cancel stops an import that is not done; nothing of it is kept then.
func (s *Service) Cancel(ctx context.Context, app, id string) error {
	tag, err := s.store.Pool.Exec(ctx,
		"UPDATE imports SET status = 'cancelled', message = $3 WHERE id = $1 AND app_id = $2 AND status IN ('waiting', 'running')",
		id, app, words.Say("import-cancelled", nil))
	if err == nil && tag.RowsAffected() == 0 {
		return words.New("import-over")
	}
	return err
}

// failed writes down why an import failed, in words where it is something that
// its founder can mend.
func (r *run) failed(ctx context.Context, err error) error {
	message := words.Say("import-broken", nil)
	var problem *words.Problem
	var fields records.FieldErrors
	switch {
	case errors.As(err, &problem):
		message = problem.Error()
	case errors.As(err, &fields):
		for _, m := range fields {
			message = words.Say("import-stopped", words.Args{"reason": m.Error()})
		}
	default:
		slog.ErrorContext(ctx, "import failed", "import", r.id, "error", err)
	}
	_, err = r.service.store.Pool.Exec(ctx, "UPDATE imports SET status = 'failed', message = $2 WHERE id = $1 AND status <> 'cancelled' AND claim = $3",
		r.id, message, r.claim)
	return err
}

// forget deletes files that are not needed any more.
func (s *Service) forget(ctx context.Context, uploads []string) error {
	_, err := s.store.Pool.Exec(ctx, "DELETE FROM uploads WHERE id = ANY ($1::text[]::uuid[])", uploads)
	return err
}

// exec runs a statement among what lasts.
func (s *Service) exec(ctx context.Context, sql string) error {
	held, err := s.store.Hold(store.As(ctx, store.Bulk))
	if err != nil {
		return err
	}
	defer held.Release()
	_, err = held.Exec(ctx, sql)
	return err
}

// unstage throws away what was read beside an app into tables whose names begin so.
func (s *Service) unstage(ctx context.Context, schema, prefix string) error {
	found, err := s.store.Pool.Query(ctx, "SELECT tablename::text FROM pg_tables WHERE schemaname = $1 AND starts_with(tablename, $2)", schema,
		prefix)
	if err != nil {
		return fmt.Errorf("find what was read: %w", err)
	}
	tables, err := pgx.CollectRows(found, pgx.RowTo[string])
	if err != nil {
		return fmt.Errorf("find what was read: %w", err)
	}
	for _, t := range tables {
		if err := s.exec(ctx, "DROP TABLE IF EXISTS "+pgx.Identifier{schema, t}.Sanitize()); err != nil {
			return fmt.Errorf("clear what was read: %w", err)
		}
	}
	return nil
}

// uploadLife is how long a file that nobody decided about is kept.
const uploadLife = 24 * time.Hour

// Sweep deletes files that nobody decided about, and what imports left behind whose
// server was killed.
func (s *Service) Sweep(ctx context.Context) error {
	_, err := s.store.Pool.Exec(ctx,
		"DELETE FROM uploads u WHERE created_at < now() - make_interval(secs => $1) AND NOT EXISTS (SELECT 1 FROM imports i WHERE u.id = ANY (i.uploads) AND i.status IN ('waiting', 'running'))", uploadLife.Seconds())
	if err != nil {
		return fmt.Errorf("delete old uploads: %w", err)
	}
	found, err := s.store.Pool.Query(ctx, `SELECT t.schemaname::text, i.id::text FROM pg_tables t
		JOIN imports i ON starts_with(t.tablename, $1 || replace(i.id::text, '-', '')) WHERE i.status NOT IN ('waiting', 'running')`, stagingPrefix)
	if err != nil {
		return fmt.Errorf("find what imports left behind: %w", err)
	}
	type left struct{ Schema, ID string }
	all, err := pgx.CollectRows(found, pgx.RowToStructByPos[left])
	for _, l := range all {
		err = errors.Join(err, s.unstage(ctx, l.Schema, stagingOf(l.ID)))
	}
	return err
}
