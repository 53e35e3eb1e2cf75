package runs

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"pinegate/store"
)

// Want is a rehearsal that is kept as an expectation: Asked is what is rehearsed, and Wants what has to
// come of it, both as JSON.
type Want struct {
	ID       string
	AppID    string
	Workflow string
	Name     string
	Asked    json.RawMessage
	Wants    json.RawMessage
	MadeBy   string
	MadeAt   time.Time
}

// SetWant keeps an expectation.
func (b *Book) SetWant(ctx context.Context, w *Want) error {
	if err := b.db.WithContext(ctx).Table("flow_wants").Create(w).Error; err != nil {
		return fmt.Errorf("keep an expectation: %w", err)
	}
	return nil
}

// WantsOf lists the expectations of an app, in the order of making.
func (b *Book) WantsOf(ctx context.Context, app string) ([]Want, error) {
	out := []Want{}
	if err := b.db.WithContext(ctx).Table("flow_wants").Where("app_id = ?", app).Order("made_at, id").Find(&out).Error; err != nil {
		return nil, fmt.Errorf("list expectations: %w", err)
	}
	return out, nil
}

// ForgetWant forgets an expectation of an app.
func (b *Book) ForgetWant(ctx context.Context, app, id string) error {
	q := b.db.WithContext(ctx).Exec("DELETE FROM flow_wants WHERE app_id = ? AND id = ?", app, id)
	if q.Error != nil {
		return fmt.Errorf("forget an expectation: %w", q.Error)
	}
	if q.RowsAffected == 0 {
		return store.ErrNotFound
	}
	return nil
}
