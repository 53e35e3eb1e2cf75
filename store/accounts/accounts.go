// Package accounts keeps who may come in: builders and their teams, the people
// of apps, the sessions of both, and the codes and links by which they prove
// who they are.
package accounts

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"pinegate/store"
)

// ErrRefused is given for whatever does not let somebody in, so that nobody
// learns what was wrong.
var ErrRefused = errors.New("refused")

// ErrOften tells that somebody tried too often.
var ErrOften = errors.New("tried too often")

// Accounts is the collection of accounts in a store.
type Accounts struct {
	db      *gorm.DB
	hashing chan struct{} // full while as many passwords are hashed as may be at once
}

// New gives the accounts in the store.
func New(s *store.Store) *Accounts {
	return &Accounts{s.DB, make(chan struct{}, hashings)}
}

// In gives the accounts inside a transaction.
func (a *Accounts) In(tx *gorm.DB) *Accounts { return &Accounts{tx, a.hashing} }

// Allow counts a use of the key and tells whether it is among the first most
// in a window of time, which begins with the first use.
func (a *Accounts) Allow(ctx context.Context, key string, most int, window time.Duration) (bool, error) {
	var count int
	now := time.Now()
	err := a.db.WithContext(ctx).Raw(`INSERT INTO hits (key, window_start, count) VALUES (@key, @now, 1)
		ON CONFLICT (key) DO UPDATE SET count = CASE WHEN hits.window_start > @since THEN hits.count + 1 ELSE 1 END,
			window_start = CASE WHEN hits.window_start > @since THEN hits.window_start ELSE @now END RETURNING count`,
		map[string]any{"key": key, "now": now, "since": now.Add(-window)}).Scan(&count).Error
	if err != nil {
		return false, fmt.Errorf("count uses: %w", err)
	}
	return count <= most, nil
}

// Forgive takes a use of the key back that [Accounts.Allow] counted: one that
// succeeded is no guess.
func (a *Accounts) Forgive(ctx context.Context, key string, window time.Duration) error {
	if err := a.db.WithContext(ctx).Exec("UPDATE hits SET count = count - 1 WHERE key = ? AND window_start > ? AND count > 0", key,
		time.Now().Add(-window)).Error; err != nil {
		return fmt.Errorf("forgive a use: %w", err)
	}
	return nil
}

// Sweep removes what has run out.
func (a *Accounts) Sweep(ctx context.Context) error {
	for _, sql := range []string{
		"DELETE FROM sessions WHERE expires_at < now()",
		"DELETE FROM codes WHERE expires_at < now() - interval '1 day'",
		"DELETE FROM tokens WHERE expires_at < now()",
		"DELETE FROM devices WHERE seen_at < now() - interval '180 days'",
		"DELETE FROM hits WHERE window_start < now() - interval '2 days'",
		"DELETE FROM gate_log WHERE at < now() - interval '90 days'",
		"DELETE FROM builders WHERE confirmed_at IS NULL AND created_at < now() - interval '2 days'",
	} {
		if err := a.db.WithContext(ctx).Exec(sql).Error; err != nil {
			return fmt.Errorf("sweep: %w", err)
		}
	}
	return nil
}
