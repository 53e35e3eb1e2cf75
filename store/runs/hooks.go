package runs

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"pinegate/store"
)

// Hook is an address to which calls come in that start a workflow.
type Hook struct {
	AppID    string
	Place    string
	Workflow string
}

// SetHook gives a workflow an address with a secret in it, instead of one that it had.
func (b *Book) SetHook(ctx context.Context, h Hook, secret string) error {
	digest := sha256.Sum256([]byte(secret))
	err := b.db.WithContext(ctx).Exec(`INSERT INTO hooks (app_id, place, workflow, digest) VALUES (?, ?, ?, ?)
		ON CONFLICT (app_id, place, workflow) DO UPDATE SET digest = excluded.digest`, h.AppID, h.Place, h.Workflow, digest[:]).Error
	if err != nil {
		return fmt.Errorf("keep an address for calls: %w", err)
	}
	return nil
}

// HookAt finds an address by the secret in it; [store.ErrNotFound] where there is none.
func (b *Book) HookAt(ctx context.Context, secret string) (Hook, error) {
	digest := sha256.Sum256([]byte(secret))
	var out Hook
	err := b.db.WithContext(ctx).Raw("SELECT app_id, place, workflow FROM hooks WHERE digest = ?", digest[:]).Take(&out).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return out, store.ErrNotFound
	}
	if err != nil {
		return out, fmt.Errorf("find an address for calls: %w", err)
	}
	return out, nil
}

// Hear notes that a call came in, until a time; first tells that it did not come before.
func (b *Book) Hear(ctx context.Context, id string, until time.Time) (first bool, err error) {
	q := b.db.WithContext(ctx).Exec(`INSERT INTO heard (id, until) VALUES (?, ?)
		ON CONFLICT (id) DO UPDATE SET until = excluded.until WHERE heard.until < now()`, id, until)
	if q.Error != nil {
		return false, fmt.Errorf("note a call that came in: %w", q.Error)
	}
	return q.RowsAffected > 0, nil
}
