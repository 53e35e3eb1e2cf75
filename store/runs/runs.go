// Package runs keeps runs of workflows, and the mails that they send.
package runs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"pinegate/store"
	"pinegate/store/records"
)

// Status is what became of a run.
type Status string

// What can become of a run.
const (
	Done    Status = "done"
	Stopped Status = "stopped" // by a step, with words
	Failed  Status = "failed"
	Waits   Status = "waiting" // between two of its parts
)

// Run is a run of a workflow. Person, Input and Trace are JSON.
type Run struct {
	ID       string
	AppID    string
	Place    string // the environment
	Workflow string // id
	Name     string // of the workflow when it ran
	Status   Status
	BeganAt  time.Time
	EndedAt  *time.Time
	MadeBy   string // who set it off
	RecordID *string
	Label    *string // of the record
	Depth    int
	Person   json.RawMessage // who set it off, as JSON
	Input    json.RawMessage
	Trace    json.RawMessage
	Step     *string // at which it ended, where it did not come to its end
	Error    *string
	// State is how far it is, as JSON: of one that waits, or that failed in a later part than its first.
	State  json.RawMessage
	WakeAt *time.Time // when one that waits is looked at next
	Awaits Tables     `gorm:"type:text[]"` // of whose records it depends when it goes on
	Part   int        // how often it was kept since it was known: none is kept over a later one
	// Known tells that it is kept already, from a part before.
	Known bool `gorm:"-"`
}

// Fate is what became of a mail.
type Fate string

// What can become of a mail.
const (
	Waiting Fate = "waiting"
	Sent    Fate = "sent"
	Refused Fate = "refused" // by the server, or its address is none
	Caught  Fate = "caught"  // in the draft, from which nothing goes out
	// Unwanted is a mail that does not go out, as its recipient has unsubscribed.
	Unwanted Fate = "unwanted"
)

// Letter is a mail that a workflow sends.
type Letter struct {
	ID        string
	AppID     string
	Place     string
	RunID     *string
	Step      string
	Workflow  string // id
	Recipient string
	ReplyTo   string
	Subject   string
	Plain     string
	HTML      string
	// Files are attached.
	Files []records.File `gorm:"serializer:json"`
	// Head is the id of a picture of the app that is shown above the text, Pictures are those of records below it.
	Head     string
	Pictures []records.File `gorm:"serializer:json"`
	// WayOut tells that people can unsubscribe from it.
	WayOut bool
	Status Fate
	Error  *string
	MadeAt time.Time
	SentAt *time.Time
}

// Book keeps runs and mails.
type Book struct{ db *gorm.DB }

// In gives the book over a connection or a transaction.
func In(db *gorm.DB) *Book { return &Book{db} }

// Keep keeps a run that has ended, or waits, with the mails of its part. One that is not known yet can
// be kept once only, whoever else runs it at the same time; one that is known is left as it is where
// somebody else went on with it since it was read.
func (b *Book) Keep(ctx context.Context, r *Run, letters []Letter) error {
	keep := b.db.WithContext(ctx).Table("runs")
	if r.Known {
		next := *r
		next.Part++
		keep = keep.Where("id = ? AND part = ?", r.ID, r.Part).Select("*").Updates(&next)
	} else {
		keep = keep.Create(r)
	}
	if err := keep.Error; err != nil {
		return fmt.Errorf("keep a run: %w", err)
	}
	if keep.RowsAffected == 0 {
		return nil
	}
	return b.KeepLetters(ctx, letters)
}

// KeepLetters keeps the mails of a run that is kept.
func (b *Book) KeepLetters(ctx context.Context, letters []Letter) error {
	if len(letters) == 0 {
		return nil
	}
	if err := b.db.WithContext(ctx).Table("letters").CreateInBatches(letters, 200).Error; err != nil {
		return fmt.Errorf("keep the mails of a run: %w", err)
	}
	return nil
}

// Adding gives the statement that keeps a run which is not known yet to what sends it with others.
func (b *Book) Adding(r *Run, send func(store.Statement)) error {
	made := b.db.Session(&gorm.Session{DryRun: true}).Table("runs").Create(r)
	if made.Error != nil {
		return fmt.Errorf("keep a run: %w", made.Error)
	}
	send(store.Statement{SQL: made.Statement.SQL.String(), Args: made.Statement.Vars})
	return nil
}

// Page is what is asked for of what is kept: those of an environment that came before one of
// them, where Before is not "".
type Page struct {
	App, Place string
	Workflow   string // id, or "" for all
	Before     string
	Limit      int
}

// Of lists the newest runs, without what they were given and did.
func (b *Book) Of(ctx context.Context, p Page) ([]Run, error) {
	q := b.db.WithContext(ctx).Table("runs").Where("app_id = ? AND place = ?", p.App, p.Place).
		Omit("person", "input", "trace", "state").Order("began_at DESC, id DESC").Limit(p.Limit)
	if p.Workflow != "" {
		q = q.Where("workflow = ?", p.Workflow)
	}
	if p.Before != "" {
		q = q.Where("(began_at, id) < (SELECT began_at, id FROM runs WHERE id = ?)", p.Before)
	}
	out := []Run{}
	if err := q.Find(&out).Error; err != nil {
		return nil, fmt.Errorf("list runs: %w", err)
	}
	return out, nil
}

// Run gives a run of an app.
func (b *Book) Run(ctx context.Context, app, id string) (Run, error) {
	return taken(b.db.WithContext(ctx).Raw("SELECT * FROM runs WHERE app_id = ? AND id = ?", app, id))
}

// taken gives the run that a query finds.
func taken(q *gorm.DB) (Run, error) {
	var out Run
	err := q.Take(&out).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return out, store.ErrNotFound
	}
	if err != nil {
		return out, fmt.Errorf("find a run: %w", err)
	}
	out.Known = true
	return out, nil
}

// With lists the newest runs of a workflow that a record set off.
func (b *Book) With(ctx context.Context, app, place, workflow, record string) ([]Run, error) {
	out := []Run{}
	err := b.db.WithContext(ctx).Table("runs").
		Where("app_id = ? AND place = ? AND workflow = ? AND record_id = ?", app, place, workflow, record).
		Omit("person", "input", "trace", "state").Order("began_at DESC, id DESC").Limit(5).Find(&out).Error
	if err != nil {
		return nil, fmt.Errorf("list runs of a record: %w", err)
	}
	return out, nil
}

// Has tells whether a run is kept.
func (b *Book) Has(ctx context.Context, id string) (bool, error) {
	var n int64
	if err := b.db.WithContext(ctx).Table("runs").Where("id = ?", id).Count(&n).Error; err != nil {
		return false, fmt.Errorf("find a run: %w", err)
	}
	return n > 0, nil
}

// Letters lists the newest mails, without what they say.
func (b *Book) Letters(ctx context.Context, p Page) ([]Letter, error) {
	q := b.db.WithContext(ctx).Table("letters").Where("app_id = ? AND place = ?", p.App, p.Place).
		Omit("plain", "html").Order("made_at DESC, id DESC").Limit(p.Limit)
	if p.Before != "" {
		q = q.Where("(made_at, id) < (SELECT made_at, id FROM letters WHERE id = ?)", p.Before)
	}
	out := []Letter{}
	if err := q.Find(&out).Error; err != nil {
		return nil, fmt.Errorf("list mails: %w", err)
	}
	return out, nil
}

// LetterOf gives a mail of an app.
func (b *Book) LetterOf(ctx context.Context, app, id string) (Letter, error) {
	l, err := b.Letter(ctx, id)
	if err == nil && l.AppID != app {
		return Letter{}, store.ErrNotFound
	}
	return l, err
}

// Letter gives a mail.
func (b *Book) Letter(ctx context.Context, id string) (Letter, error) {
	var out Letter
	err := b.db.WithContext(ctx).Table("letters").Where("id = ?", id).Take(&out).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return out, store.ErrNotFound
	}
	if err != nil {
		return out, fmt.Errorf("find a mail: %w", err)
	}
	return out, nil
}

// Became notes what became of a mail.
func (b *Book) Became(ctx context.Context, id string, fate Fate, why *string) error {
	set := map[string]any{"status": fate, "error": why}
	if fate == Sent {
		set["sent_at"] = time.Now()
	}
	if err := b.db.WithContext(ctx).Table("letters").Where("id = ?", id).Updates(set).Error; err != nil {
		return fmt.Errorf("note what became of a mail: %w", err)
	}
	return nil
}

// Life is for how long runs that have ended and mails are kept.
const Life = 30 * 24 * time.Hour

// Sweep forgets what is older than [Life].
func (b *Book) Sweep(ctx context.Context) error {
	before := time.Now().Add(-Life)
	for _, sql := range []string{"DELETE FROM letters WHERE made_at < ?", "DELETE FROM runs WHERE ended_at < ?"} {
		if err := b.db.WithContext(ctx).Exec(sql, before).Error; err != nil {
			return fmt.Errorf("forget old runs: %w", err)
		}
	}
	if err := b.db.WithContext(ctx).Exec("DELETE FROM heard WHERE until < now()").Error; err != nil {
		return fmt.Errorf("forget calls that came in: %w", err)
	}
	return nil
}
