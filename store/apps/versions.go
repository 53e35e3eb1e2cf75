package apps

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"gorm.io/gorm"

	"pinegate/core/blueprint"
	"pinegate/core/sentence"
	"pinegate/store"
)

// SaveVersion keeps a version, and makes it the live one.
func SaveVersion(tx *gorm.DB, app *store.App, number int, by string, b *blueprint.Blueprint, differences []sentence.Difference) error {
	raw, err := json.Marshal(b)
	if err != nil {
		return fmt.Errorf("write blueprint: %w", err)
	}
	if err := tx.Create(&store.Version{AppID: app.ID, Number: number, Blueprint: raw, Differences: differences,
		MadeBy: by}).Error; err != nil {
		return fmt.Errorf("keep version: %w", err)
	}
	if err := tx.Model(app).Update("live_version", number).Error; err != nil {
		return fmt.Errorf("set live version: %w", err)
	}
	return nil
}

// Versions lists what was published, newest first, without the blueprints.
func (a *Apps) Versions(ctx context.Context, id string) ([]store.Version, error) {
	out := []store.Version{}
	if err := a.db.WithContext(ctx).Omit("blueprint").Where("app_id = ?", id).Order("number DESC").Find(&out).Error; err != nil {
		return nil, fmt.Errorf("list versions: %w", err)
	}
	return out, nil
}

// Moved looks at an error that came of a name which is not there: where the app was
// changed since it was read, somebody else was faster, and it helps to ask again, which
// [store.ErrHeld] says.
func (a *Apps) Moved(ctx context.Context, app store.App, err error) error {
	if store.Trouble(err) != store.ErrRenamed {
		return err
	}
	var now store.App
	if found := a.db.WithContext(ctx).Select("revision", "live_version").Where("id = ?", app.ID).Take(&now).Error; found != nil {
		return errors.Join(err, found)
	}
	if now.Revision == app.Revision && now.LiveVersion == app.LiveVersion {
		return err
	}
	return fmt.Errorf("%w: %w", store.ErrHeld, err)
}
