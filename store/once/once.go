// Package once has what is asked for with a key done once, however often it is asked
// for: by a second press, by a browser that lost the answer, or by two at the same time.
package once

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"pinegate/core/words"
)

// Life is how long it is known that something was done.
const Life = 2 * 24 * time.Hour

// ErrBefore tells that it was done before. What was written since [Ask.Begin] is to be
// taken back, and the answer is that of [Ask.Before].
var ErrBefore = errors.New("this was done before")

// Book is where it is written down what was done.
type Book struct{ db *gorm.DB }

// In gives the book of a database.
func In(db *gorm.DB) *Book { return &Book{db} }

// Ask is something that is asked for.
type Ask struct {
	db       *gorm.DB
	app, key string
	digest   []byte
}

// Ask gives what is asked for in an app with a key. Who asks, and for what, belong to
// it: the same key for something else is refused.
func (b *Book) Ask(app, key, who string, what any) (Ask, error) {
	raw, err := json.Marshal([]any{who, what})
	if err != nil {
		return Ask{}, fmt.Errorf("write what is asked for: %w", err)
	}
	sum := sha256.Sum256(raw)
	return Ask{b.db, app, key, sum[:]}, nil
}

// Before reads the answer, if this was done before.
func (a Ask) Before(ctx context.Context, answer any) (bool, error) {
	var found struct{ Digest, Answer []byte }
	r := a.db.WithContext(ctx).Raw("SELECT digest, answer FROM once WHERE app_id = ? AND key = ?", a.app, a.key).Scan(&found)
	switch {
	case r.Error != nil:
		return false, fmt.Errorf("look whether something was done before: %w", r.Error)
	case r.RowsAffected == 0:
		return false, nil
	case !bytes.Equal(found.Digest, a.digest):
		return false, words.New("once-other")
	}
	if err := json.Unmarshal(found.Answer, answer); err != nil {
		return false, fmt.Errorf("read the answer of before: %w", err)
	}
	return true, nil
}

// Begin begins to do it in a transaction, or gives [ErrBefore]. Who else begins it waits
// until the transaction has ended.
func (a Ask) Begin(ctx context.Context, tx *gorm.DB) error {
	r := tx.WithContext(ctx).Exec("INSERT INTO once (app_id, key, digest) VALUES (?, ?, ?) ON CONFLICT DO NOTHING", a.app, a.key, a.digest)
	if r.Error != nil {
		return fmt.Errorf("note that something is done: %w", r.Error)
	}
	if r.RowsAffected == 0 {
		return ErrBefore
	}
	return nil
}

// End keeps the answer, in the same transaction.
func (a Ask) End(ctx context.Context, tx *gorm.DB, answer any) error {
	raw, err := json.Marshal(answer)
	if err != nil {
		return fmt.Errorf("write an answer: %w", err)
	}
	r := tx.WithContext(ctx).Exec("UPDATE once SET answer = ?::jsonb WHERE app_id = ? AND key = ?", string(raw), a.app, a.key)
	if err := r.Error; err != nil {
		return fmt.Errorf("keep an answer: %w", err)
	}
	return nil
}

// Sweep forgets what was done long ago.
func (b *Book) Sweep(ctx context.Context) error {
	if err := b.db.WithContext(ctx).Exec("DELETE FROM once WHERE at < ?", time.Now().Add(-Life)).Error; err != nil {
		return fmt.Errorf("forget what was done: %w", err)
	}
	return nil
}
