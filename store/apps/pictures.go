package apps

import (
	"context"
	"errors"
	"fmt"

	"gorm.io/gorm"

	"pinegate/store"
	"pinegate/store/records"
)

// PicturesFolder is the folder of the blob store that holds the pictures of an
// app's choices.
func PicturesFolder(app store.App) string { return "pictures_" + app.ID }

// AddPicture notes a picture that was received for a choice.
func (a *Apps) AddPicture(ctx context.Context, app store.App, f records.File) error {
	err := a.db.WithContext(ctx).Create(&store.Picture{ID: f.ID, AppID: app.ID, Name: f.Name, Type: f.Type, Size: f.Size}).Error
	if err != nil {
		return fmt.Errorf("note a picture: %w", err)
	}
	return nil
}

// Picture gives what is known of a picture of an app; [store.ErrNotFound] where
// it has none with the id.
func (a *Apps) Picture(ctx context.Context, app store.App, id string) (records.File, error) {
	var p store.Picture
	err := a.db.WithContext(ctx).Where("app_id = ? AND id = ?", app.ID, id).First(&p).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return records.File{}, store.ErrNotFound
	}
	if err != nil {
		return records.File{}, fmt.Errorf("find a picture: %w", err)
	}
	return records.File{ID: p.ID, Name: p.Name, Type: p.Type, Picture: true}, nil
}
