// Package act does things to apps and their records in units of work: each is one
// transaction, in which what was written is kept for the history and for undoing,
// what is to be done afterwards is put in the queue, and what was touched is told
// once, at the end.
package act

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"gorm.io/gorm"

	"pinegate/core/blueprint"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// Acts does things to the apps of a store.
type Acts struct {
	apps  *apps.Apps
	queue *river.Client[*sql.Tx]
}

// New gives what does things to apps. It only puts jobs in the queue; who works
// them is somebody else.
func New(a *apps.Apps) (*Acts, error) {
	queue, err := river.NewClient(riverdatabasesql.New(nil), &river.Config{})
	if err != nil {
		return nil, fmt.Errorf("open the queue: %w", err)
	}
	return &Acts{apps: a, queue: queue}, nil
}

// Unit is a unit of work: all of it is done, or nothing.
type Unit struct {
	// Road is the way to records inside the transaction.
	Road records.Road
	// Tx is the transaction, for what else is to be done in it.
	Tx    *gorm.DB
	news  *store.News
	queue *river.Client[*sql.Tx]
	// starts are what the writes of the unit start; Quiet tells that they start nothing.
	starts starts
	Quiet  bool
}

// Enqueue puts jobs in the queue, together. They are worked when the unit is done, and never
// if that fails.
func (u *Unit) Enqueue(ctx context.Context, jobs ...river.JobArgs) error {
	if len(jobs) == 0 {
		return nil
	}
	tx, ok := store.Tx(u.Tx)
	if !ok {
		return errors.New("put jobs in the queue: this is no transaction")
	}
	var all []river.InsertManyParams
	for _, j := range jobs {
		all = append(all, river.InsertManyParams{Args: j})
	}
	if _, err := u.queue.InsertManyTx(ctx, tx, all); err != nil {
		return fmt.Errorf("put jobs in the queue: %w", err)
	}
	return nil
}

// Do does a unit of work.
func (a *Acts) Do(ctx context.Context, do func(*Unit) error) error {
	return a.apps.Transaction(ctx, func(tx *gorm.DB) error { return a.in(ctx, tx, do) })
}

// in does a unit of work in a transaction that was begun.
func (a *Acts) in(ctx context.Context, tx *gorm.DB, do func(*Unit) error) error {
	news := &store.News{}
	u := &Unit{Tx: tx, news: news, queue: a.queue}
	u.Road = records.On(tx).Gathering(news).Noting(u.starts.note)
	if err := do(u); err != nil {
		return err
	}
	if err := u.start(ctx); err != nil {
		return err
	}
	return news.Tell(ctx, tx)
}

// Edit writes to records. Writes of founders to the draft are noted under the
// sentence, so that they can be undone.
func (a *Acts) Edit(
	ctx context.Context, app store.App, seat *records.Seat, sentence string, do func(*Unit) (*records.Write, error),
) (*records.Write, error) {
	var w *records.Write
	err := a.EditMany(ctx, app, seat, func(u *Unit) (_ []*records.Write, _ string, err error) {
		w, err = do(u)
		return []*records.Write{w}, sentence, err
	})
	return w, err
}

// EditMany is [Acts.Edit] for several writes, which are undone together.
func (a *Acts) EditMany(
	ctx context.Context, app store.App, seat *records.Seat, do func(*Unit) ([]*records.Write, string, error),
) error {
	return a.Do(ctx, func(u *Unit) error {
		undoable := seat.Viewer.Founder && seat.Schema == apps.SchemaName(app, apps.Draft)
		if undoable {
			if _, err := apps.Locked(u.Tx, app.ID); err != nil {
				return err
			}
		}
		writes, sentence, err := do(u)
		if err != nil || !undoable || len(writes) == 0 {
			return err
		}
		raw, err := json.Marshal(writes)
		if err != nil {
			return fmt.Errorf("note write: %w", err)
		}
		return apps.Note(u.Tx, &store.Activity{AppID: app.ID, MadeBy: seat.By, Sentences: []string{sentence}, Writes: raw})
	})
}

// EmptyBin deletes the records in the bin of a table permanently. What was undone
// or could be undone of them is forgotten with them.
func (a *Acts) EmptyBin(ctx context.Context, app store.App, seat *records.Seat, t *blueprint.Table) (int, error) {
	n := 0
	err := a.Do(ctx, func(u *Unit) (err error) {
		if _, err := apps.Locked(u.Tx, app.ID); err != nil {
			return err
		}
		n, err = u.Road.EmptyBin(ctx, seat, t)
		return err
	})
	return n, err
}
