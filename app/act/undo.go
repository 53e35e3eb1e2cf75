package act

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"gorm.io/gorm"

	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// ErrNothing tells that there is nothing to undo or redo.
var ErrNothing = words.New("nothing-to-undo")

// Undo takes back the newest activity in the draft that holds, and gives its
// sentences.
func (a *Acts) Undo(ctx context.Context, id, by string) ([]string, error) {
	return a.walk(ctx, id, by, store.Done, store.Undone, "id DESC", false)
}

// mostDiscarded is how many activities are taken back at once at most.
const mostDiscarded = 500

// Discard takes back what somebody did in the draft since an activity, the newest first, and
// gives the sentences. It stops, and says so, where another did something.
func (a *Acts) Discard(ctx context.Context, id, by string, since int64) ([]string, error) {
	out := []string{}
	for range mostDiscarded {
		newest, err := a.newest(ctx, id)
		if err != nil || newest.ID <= since {
			return out, err
		}
		if !madeBy(newest, by, store.WorkOf(ctx).Doer()) {
			return out, words.New("discard-others", "who", newest.MadeBy, "what", newest.Sentences)
		}
		said, err := a.Undo(ctx, id, by)
		if err != nil {
			return out, err
		}
		out = append(out, said...)
	}
	return out, nil
}

// madeBy tells whether an activity is somebody's: by the id where it has one, as two can have
// the same name.
func madeBy(a store.Activity, by string, id *string) bool {
	if a.MadeByID != nil && id != nil {
		return *a.MadeByID == *id
	}
	return a.MadeBy == by
}

// newest gives the newest activity in the draft of an app that holds, or an empty one.
func (a *Acts) newest(ctx context.Context, id string) (activity store.Activity, err error) {
	err = a.Do(ctx, func(u *Unit) error {
		err := u.Tx.Where("app_id = ? AND status = ?", id, store.Done).Order("id DESC").Take(&activity).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("find what was done last: %w", err)
		}
		return nil
	})
	return activity, err
}

// Redo does again what was undone last.
func (a *Acts) Redo(ctx context.Context, id, by string) ([]string, error) {
	return a.walk(ctx, id, by, store.Undone, store.Done, "id ASC", true)
}

func (a *Acts) walk(ctx context.Context, id, by string, from, to store.Status, order string, forward bool) ([]string, error) {
	var activity store.Activity
	err := a.Do(ctx, func(u *Unit) error {
		u.Quiet = true // what it did was done before
		tx := u.Tx
		app, err := apps.Locked(tx, id)
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
		now, err := a.apps.Revision(tx, id, app.Revision)
		if err != nil {
			return err
		}
		at := now
		if activity.AfterRevision != nil {
			number := activity.BeforeRevision
			if forward {
				number = activity.AfterRevision
			}
			if at, err = a.apps.Revision(tx, id, *number); err != nil {
				return err
			}
			if err := apps.Follow(ctx, tx, &app, now, at); err != nil {
				return err
			}
		}
		seat := apps.FounderSeat(app, apps.Draft, at, by)
		switch {
		case activity.ImportID != nil:
			err = unbring(ctx, u, seat, *activity.ImportID, forward)
		case activity.AfterRevision == nil:
			err = revert(ctx, u, seat, activity.Writes, forward)
		}
		if err != nil {
			return err
		}
		return tx.Model(&activity).Update("status", to).Error
	})
	return activity.Sentences, err
}

// unbring moves the records that an import added to the bin, or back.
func unbring(ctx context.Context, u *Unit, seat *records.Seat, id string, forward bool) error {
	var tables []string
	if err := u.Tx.Raw("SELECT DISTINCT table_id FROM imports_added WHERE import_id = ?", id).Scan(&tables).Error; err != nil {
		return fmt.Errorf("find what was brought: %w", err)
	}
	for _, table := range tables {
		t := seat.Blueprint.Table(table)
		if t == nil {
			continue
		}
		if err := u.Road.RevertImport(ctx, seat, t, id, forward); err != nil {
			return err
		}
	}
	return nil
}

func revert(ctx context.Context, u *Unit, seat *records.Seat, raw json.RawMessage, forward bool) error {
	var writes []records.Write
	if err := json.Unmarshal(raw, &writes); err != nil {
		return fmt.Errorf("read what was written: %w", err)
	}
	for i := range writes {
		w := writes[len(writes)-1-i]
		if forward {
			w = writes[i]
		}
		if err := u.Road.Revert(ctx, seat, w, forward); err != nil {
			return err
		}
	}
	return nil
}
