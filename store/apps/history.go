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
func (a *Apps) CanWalk(ctx context.Context, id string) (undo, redo bool, err error) {
	var found []store.Status
	err = a.db.WithContext(ctx).Model(&store.Activity{}).Where("app_id = ? AND status <> ?", id,
		store.Dropped).Distinct("status").Pluck("status", &found).Error
	for _, s := range found {
		undo, redo = undo || s == store.Done, redo || s == store.Undone
	}
	return undo, redo, err
}
