package apps

import (
	"context"
	"fmt"

	"gorm.io/gorm/clause"

	"pinegate/core/sentence"
	"pinegate/store"
)

// Summary tells of an app what the workshop shows. It is counted once for each
// revision and version, and kept.
func (a *Apps) Summary(ctx context.Context, app store.App) (store.Summary, error) {
	if s := app.Summary; s != nil && s.Revision == app.Revision && s.LiveVersion == app.LiveVersion {
		return *s, nil
	}
	draft, err := a.Blueprint(ctx, app, Draft)
	if err != nil {
		return store.Summary{}, err
	}
	s := store.Summary{Revision: app.Revision, LiveVersion: app.LiveVersion, Tables: len(draft.Tables), Pages: len(draft.Pages),
		Theme: string(draft.Theme)}
	if app.LiveVersion > 0 {
		live, err := a.Blueprint(ctx, app, Live)
		if err != nil {
			return s, err
		}
		s.Unpublished = len(sentence.Compare(live, draft))
	}
	// whoever looks does not wait for whoever changes: it is kept the next time
	db := a.db.WithContext(ctx).Model(&store.App{})
	skip := clause.Locking{Strength: "NO KEY UPDATE", Options: "SKIP LOCKED"}
	free := a.db.Model(&store.App{}).Clauses(skip).Select("id").Where("id = ?", app.ID)
	if err := db.Where("id IN (?)", free).Select("summary").Updates(&store.App{Summary: &s}).Error; err != nil {
		return s, fmt.Errorf("keep the summary of an app: %w", err)
	}
	return s, nil
}
