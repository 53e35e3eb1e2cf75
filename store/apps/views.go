package apps

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"

	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/store"
)

// Views lists the views of a table that a builder can choose: the shared ones,
// and their own.
func (a *Apps) Views(ctx context.Context, app store.App, table, builder string) ([]store.View, error) {
	out := []store.View{}
	err := a.db.WithContext(ctx).Where("app_id = ? AND table_id = ? AND (builder_id IS NULL OR builder_id = ?)", app.ID, table,
		builder).Order("builder_id IS NOT NULL, lower(name)").Find(&out).Error
	if err != nil {
		return nil, fmt.Errorf("list views: %w", err)
	}
	return out, nil
}

// mostViews is how many views a table can have, for each person and shared.
const mostViews = 100

// SaveView keeps a view: a new one where it has no id, or else in place of the
// one with the id.
func (a *Apps) SaveView(ctx context.Context, app store.App, builder string, v store.View) (store.View, error) {
	v.Name = strings.TrimSpace(v.Name)
	if n := utf8.RuneCountInString(v.Name); n == 0 || n > 60 {
		return v, words.New("view-name")
	}
	v.AppID, v.ChangedAt = app.ID, time.Now()
	err := a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if v.ID != "" {
			old, err := view(tx, app, builder, v.ID)
			if err != nil {
				return err
			}
			v.TableID = old.TableID
			return tx.Save(&v).Error
		}
		var had int64
		if err := tx.Model(&store.View{}).Where("app_id = ? AND table_id = ?", app.ID, v.TableID).Count(&had).Error; err != nil {
			return fmt.Errorf("count views: %w", err)
		}
		if had >= mostViews {
			return words.New("view-many")
		}
		id, err := uuid.NewV7()
		if err != nil {
			return fmt.Errorf("make view id: %w", err)
		}
		v.ID = id.String()
		return tx.Create(&v).Error
	})
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.Code == "23505" {
		return v, words.New("view-same", "name", v.Name)
	}
	return v, err
}

// view finds a view that the builder can choose.
func view(tx *gorm.DB, app store.App, builder, id string) (store.View, error) {
	var v store.View
	err := tx.Where("app_id = ? AND id = ? AND (builder_id IS NULL OR builder_id = ?)", app.ID, id, builder).Take(&v).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return v, store.ErrNotFound
	}
	if err != nil {
		return v, fmt.Errorf("find view: %w", err)
	}
	return v, nil
}

// DeleteView deletes a view that the builder can choose.
func (a *Apps) DeleteView(ctx context.Context, app store.App, builder, id string) error {
	return a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		v, err := view(tx, app, builder, id)
		if err != nil {
			return err
		}
		return tx.Delete(&v).Error
	})
}

// followViews gives the conditions of views the names that things have now.
func followViews(tx *gorm.DB, app store.App, before, after *blueprint.Blueprint) error {
	var all []store.View
	if err := tx.Where("app_id = ? AND settings->>'filter' <> ''", app.ID).Find(&all).Error; err != nil {
		return fmt.Errorf("find views: %w", err)
	}
	for _, v := range all {
		now := blueprint.Follow(v.Settings.Filter, before, after, v.TableID)
		if now == v.Settings.Filter {
			continue
		}
		v.Settings.Filter = now
		if err := tx.Save(&v).Error; err != nil {
			return fmt.Errorf("save view: %w", err)
		}
	}
	return nil
}
