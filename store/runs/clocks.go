package runs

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// Clock is when the clock starts a workflow of a live app next.
type Clock struct {
	AppID    string    `gorm:"primaryKey"`
	Workflow string    `gorm:"primaryKey"`
	SeenAt   time.Time // up to when it was looked
	NextAt   time.Time
}

// Wind sets the clocks of an app, as a new version has them. One whose time has come strikes first.
func (b *Book) Wind(ctx context.Context, app string, clocks []Clock) error {
	keep := []string{""}
	for _, c := range clocks {
		keep = append(keep, c.Workflow)
		if err := b.db.WithContext(ctx).Exec(`INSERT INTO flow_clocks (app_id, workflow, seen_at, next_at) VALUES (?, ?, ?, ?)
			ON CONFLICT (app_id, workflow) DO UPDATE SET seen_at = excluded.seen_at, next_at = excluded.next_at
			WHERE flow_clocks.next_at > excluded.seen_at`, app, c.Workflow, c.SeenAt, c.NextAt).Error; err != nil {
			return fmt.Errorf("wind a clock: %w", err)
		}
	}
	if err := b.db.WithContext(ctx).Exec("DELETE FROM flow_clocks WHERE app_id = ? AND workflow NOT IN ?", app, keep).Error; err != nil {
		return fmt.Errorf("take clocks away: %w", err)
	}
	return nil
}

// Struck takes hold of a clock whose time has come, in a transaction; nil where there is none. Others
// take hold of others.
func (b *Book) Struck(ctx context.Context, now time.Time) (*Clock, error) {
	var out Clock
	err := b.db.WithContext(ctx).Raw(`SELECT * FROM flow_clocks WHERE next_at <= ? ORDER BY next_at LIMIT 1 FOR UPDATE SKIP LOCKED`,
		now).Scan(&out).Error
	if errors.Is(err, gorm.ErrRecordNotFound) || err == nil && out.Workflow == "" {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("look at the clocks: %w", err)
	}
	return &out, nil
}

// Set notes up to when a clock was looked at, and when it strikes next.
func (b *Book) Set(ctx context.Context, c Clock) error {
	if err := b.db.WithContext(ctx).Exec("UPDATE flow_clocks SET seen_at = ?, next_at = ? WHERE app_id = ? AND workflow = ?", c.SeenAt,
		c.NextAt, c.AppID, c.Workflow).Error; err != nil {
		return fmt.Errorf("set a clock: %w", err)
	}
	return nil
}

// Stop takes a clock away.
func (b *Book) Stop(ctx context.Context, c Clock) error {
	const sql = "DELETE FROM flow_clocks WHERE app_id = ? AND workflow = ?"
	if err := b.db.WithContext(ctx).Exec(sql, c.AppID, c.Workflow).Error; err != nil {
		return fmt.Errorf("take a clock away: %w", err)
	}
	return nil
}
