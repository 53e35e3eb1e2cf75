package runs

import (
	"context"
	"database/sql/driver"
	"fmt"
	"strings"
	"time"
)

// Tables are ids of tables, as PostgreSQL keeps an array of them.
type Tables []string

// Value writes them; none are NULL.
func (t Tables) Value() (driver.Value, error) {
	if len(t) == 0 {
		return nil, nil
	}
	return "{" + strings.Join(t, ",") + "}", nil
}

// Scan reads them.
func (t *Tables) Scan(from any) error {
	*t = nil
	switch from := from.(type) {
	case nil:
		return nil
	case string:
		*t = strings.Split(strings.Trim(from, "{}"), ",")
		return nil
	}
	return fmt.Errorf("read ids of tables: they are %T", from)
}

// asleep is for how long a run that was put in the queue is not put there again, as it is looked at soon.
const asleep = 5 * time.Minute

// Due gives the ids of runs that wait and whose time has come, at most so many, in a transaction. Others
// are given others, and nobody the same ones soon again.
func (b *Book) Due(ctx context.Context, now time.Time, most int) ([]string, error) {
	var out []string
	err := b.db.WithContext(ctx).Raw(`UPDATE runs SET wake_at = ? WHERE id IN (
		SELECT id FROM runs WHERE status = 'waiting' AND wake_at <= ? ORDER BY wake_at LIMIT ? FOR UPDATE SKIP LOCKED) RETURNING id`,
		now.Add(asleep), now, most).Scan(&out).Error
	if err != nil {
		return nil, fmt.Errorf("find the runs whose time has come: %w", err)
	}
	return out, nil
}

// Awaiting gives the ids of runs of an environment that go on depending on records of one of some tables.
func (b *Book) Awaiting(ctx context.Context, app, place string, tables Tables) ([]string, error) {
	var out []string
	err := b.db.WithContext(ctx).Raw(`SELECT id FROM runs WHERE app_id = ? AND place = ? AND status = 'waiting' AND awaits && ?::text[]`,
		app, place, tables).Scan(&out).Error
	if err != nil {
		return nil, fmt.Errorf("find the runs that wait for records: %w", err)
	}
	return out, nil
}

// Hold takes hold of a run in a transaction, so that nobody else goes on with it; [store.ErrNotFound]
// where there is none.
func (b *Book) Hold(ctx context.Context, id string) (Run, error) {
	return taken(b.db.WithContext(ctx).Raw("SELECT * FROM runs WHERE id = ? FOR UPDATE", id))
}

// Find gives a run of any app.
func (b *Book) Find(ctx context.Context, id string) (Run, error) {
	return taken(b.db.WithContext(ctx).Raw("SELECT * FROM runs WHERE id = ?", id))
}

// Note notes of a run that waits what keeps it waiting.
func (b *Book) Note(ctx context.Context, id, why string) error {
	if err := b.db.WithContext(ctx).Exec("UPDATE runs SET error = ? WHERE id = ? AND status = 'waiting'", why, id).Error; err != nil {
		return fmt.Errorf("note what keeps a run waiting: %w", err)
	}
	return nil
}
