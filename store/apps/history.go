package apps

import (
	"context"
	"fmt"

	"pinegate/store"
)

// History lists what was done to the draft, newest first.
func (a *Apps) History(ctx context.Context, id string, limit int) ([]store.Activity, error) {
	out := []store.Activity{}
	if err := a.db.WithContext(ctx).Where("app_id = ?", id).Order("id DESC").Limit(limit).Find(&out).Error; err != nil {
		return nil, fmt.Errorf("list changes: %w", err)
	}
	return out, nil
}

// CanWalk tells whether there is something to undo, and to redo.
func (a *Apps) CanWalk(ctx context.Context, id string) (Walk, error) {
	var out Walk
	err := a.db.WithContext(ctx).Raw(`SELECT COALESCE(max(id) FILTER (WHERE status = ?), 0) AS newest,
			COALESCE(bool_or(status = ?), false) AS redo FROM activities WHERE app_id = ?`, store.Done, store.Undone, id).Scan(&out).Error
	if err != nil {
		return out, fmt.Errorf("find what can be undone: %w", err)
	}
	return out, nil
}

// Walk is where along what was done an app is: the id of the newest activity that holds, 0
// where there is none, and whether some can be done again.
type Walk struct {
	Newest int64
	Redo   bool
}
