package apps

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"gorm.io/gorm"

	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// ErrNothing tells that there is nothing to undo or redo.
var ErrNothing = words.New("nothing-to-undo")

// Undo takes back the newest activity in the draft that holds, and gives its
// sentences.
func (a *Apps) Undo(ctx context.Context, id, by string) ([]string, error) {
	return a.walk(ctx, id, by, store.Done, store.Undone, "id DESC", false)
}

// Redo does again what was undone last.
func (a *Apps) Redo(ctx context.Context, id, by string) ([]string, error) {
	return a.walk(ctx, id, by, store.Undone, store.Done, "id ASC", true)
}

func (a *Apps) walk(ctx context.Context, id, by string, from, to store.Status, order string, forward bool) ([]string, error) {
	var activity store.Activity
	err := a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		app, err := locked(tx, id)
		if err != nil {
			return err
		}
		err = tx.Where("app_id = ? AND status = ?", id, from).Order(order).Take(&activity).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return ErrNothing
		}
		if err != nil {
			return fmt.Errorf("find what to undo: %w", err)
		}
		now, err := a.load(tx, "revisions", id, app.Revision)
		if err != nil {
			return err
		}
		if activity.AfterRevision != nil {
			number := activity.BeforeRevision
			if forward {
				number = activity.AfterRevision
			}
			then, err := a.load(tx, "revisions", id, *number)
			if err != nil {
				return err
			}
			if err := follow(ctx, tx, &app, now, then); err != nil {
				return err
			}
			if activity.ImportID != nil {
				if err := unbring(ctx, tx, FounderSeat(app, Draft, then, by), *activity.ImportID, forward); err != nil {
					return err
				}
			}
		} else if activity.ImportID != nil {
			if err := unbring(ctx, tx, FounderSeat(app, Draft, now, by), *activity.ImportID, forward); err != nil {
				return err
			}
		} else if err := revert(ctx, tx, FounderSeat(app, Draft, now, by), activity.Writes, forward); err != nil {
			return err
		}
		return tx.Model(&activity).Update("status", to).Error
	})
	return activity.Sentences, err
}

// unbring moves the records that an import added to the bin, or back.
func unbring(ctx context.Context, tx *gorm.DB, seat *records.Seat, id string, forward bool) error {
	var tables []string
	if err := tx.Raw("SELECT DISTINCT table_id FROM imports_added WHERE import_id = ?", id).Scan(&tables).Error; err != nil {
		return fmt.Errorf("find what was brought: %w", err)
	}
	for _, table := range tables {
		t := seat.Blueprint.Table(table)
		if t == nil {
			continue
		}
		sql := fmt.Sprintf("UPDATE %s.%s SET deleted_at = CASE WHEN ? THEN NULL ELSE now() END, revision = revision + 1 WHERE id IN (SELECT record_id FROM imports_added WHERE import_id = ? AND table_id = ?)",
			query.Quote(seat.Schema), query.Quote(t.Key))
		if err := tx.Exec(sql, forward, id, table).Error; err != nil {
			return fmt.Errorf("move what was brought: %w", err)
		}
		if err := records.On(tx).Tell(ctx, seat, table); err != nil {
			return err
		}
	}
	return nil
}

func revert(ctx context.Context, tx *gorm.DB, seat *records.Seat, raw json.RawMessage, forward bool) error {
	var writes []records.Write
	if err := json.Unmarshal(raw, &writes); err != nil {
		return fmt.Errorf("read what was written: %w", err)
	}
	for i := range writes {
		w := writes[len(writes)-1-i]
		if forward {
			w = writes[i]
		}
		if err := records.On(tx).Revert(ctx, seat, w, forward); err != nil {
			return err
		}
	}
	return nil
}

// History lists what was done to the draft, newest first.
func (a *Apps) History(ctx context.Context, id string, limit int) ([]store.Activity, error) {
	out := []store.Activity{}
	if err := a.db.WithContext(ctx).Where("app_id = ?", id).Order("id DESC").Limit(limit).Find(&out).Error; err != nil {
		return nil, fmt.Errorf("list changes: %w", err)
	}
	return out, nil
}

// CanWalk tells whether there is something to undo, and to redo.
func (a *Apps) CanWalk(ctx context.Context, id string) (undo, redo bool, err error) {
	var found []store.Status
	err = a.db.WithContext(ctx).Model(&store.Activity{}).Where("app_id = ? AND status <> ?", id, store.Dropped).Distinct("status").Pluck("status", &found).Error
	for _, s := range found {
		undo, redo = undo || s == store.Done, redo || s == store.Undone
	}
	return undo, redo, err
}

// Edit writes to records in one transaction. Writes of founders to the draft
// are noted under the sentence, so that they can be undone.
func (a *Apps) Edit(ctx context.Context, app store.App, seat *records.Seat, sentence string, do func(records.Road) (*records.Write, error)) (*records.Write, error) {
	var w *records.Write
	err := a.EditMany(ctx, app, seat, func(r records.Road) (_ []*records.Write, _ string, err error) {
		w, err = do(r)
		return []*records.Write{w}, sentence, err
	})
	return w, err
}

// EditMany is [Apps.Edit] for several writes, which are undone together.
func (a *Apps) EditMany(ctx context.Context, app store.App, seat *records.Seat, do func(records.Road) ([]*records.Write, string, error)) error {
	return a.EditWith(ctx, app, seat, func(tx *gorm.DB) ([]*records.Write, string, error) { return do(records.On(tx)) })
}

// EditWith is [Apps.EditMany] for writes with which something else is done in
// the same transaction.
func (a *Apps) EditWith(ctx context.Context, app store.App, seat *records.Seat, do func(*gorm.DB) ([]*records.Write, string, error)) error {
	return a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		undoable := seat.Viewer.Founder && seat.Schema == SchemaName(app, Draft)
		if undoable {
			if _, err := locked(tx, app.ID); err != nil {
				return err
			}
		}
		writes, sentence, err := do(tx)
		if err != nil || !undoable {
			return err
		}
		raw, err := json.Marshal(writes)
		if err != nil {
			return fmt.Errorf("note write: %w", err)
		}
		return note(tx, &store.Activity{AppID: app.ID, MadeBy: seat.By, Sentences: []string{sentence}, Writes: raw})
	})
}

// Road gives the way to records outside a transaction, for reading.
func (a *Apps) Road(ctx context.Context) records.Road { return records.On(a.db.WithContext(ctx)) }

// EmptyBin deletes the records in the bin of a table for good. What was undone
// or could be undone of them is forgotten with them.
func (a *Apps) EmptyBin(ctx context.Context, app store.App, seat *records.Seat, t *blueprint.Table) (int, error) {
	n := 0
	err := a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) (err error) {
		if _, err := locked(tx, app.ID); err != nil {
			return err
		}
		n, err = records.On(tx).EmptyBin(ctx, seat, t)
		return err
	})
	return n, err
}
