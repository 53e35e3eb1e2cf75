package apps

import (
	"context"
	"errors"
	"fmt"

	"gorm.io/gorm"

	"pinegate/core/query"
	"pinegate/core/schema"
	"pinegate/store"
	"pinegate/store/records"
)

// Level is how the tables are that the system keeps in each environment. One of an
// earlier level is brought to it by itself: when its app is used first, or in the
// background, whichever comes earlier. So a server starts at once, however many
// apps there are.
const Level = 4

// mainDatabase is the database in which apps lie: that of the system itself. There
// is one today.
const mainDatabase = "main"

// ErrNewer tells that a newer version of the product has been at an app.
var ErrNewer = errors.New("a newer version of the server has been at this app")

// MakeSchema makes the schema of an environment with the tables that the system
// keeps in each.
func MakeSchema(ctx context.Context, tx *gorm.DB, name string) error {
	for _, sql := range []string{
		"CREATE SCHEMA " + query.Quote(name),
		fmt.Sprintf(`CREATE TABLE %s.%s (
	id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
	table_id text NOT NULL,
	record_id uuid NOT NULL,
	made_at timestamptz NOT NULL DEFAULT now(),
	made_by text NOT NULL,
	made_by_id text,
	before jsonb,
	after jsonb
)`, query.Quote(name), query.Quote(records.HistoryTable)),
		fmt.Sprintf("CREATE INDEX ON %s.%s (record_id, id)", query.Quote(name), query.Quote(records.HistoryTable)),
		fmt.Sprintf("SELECT pinegate.make_files(%s)", query.Literal(name)),
		schema.AsideSQL(name),
	} {
		if _, err := store.Conn(tx).ExecContext(ctx, sql); err != nil {
			return fmt.Errorf("make environment: %w", err)
		}
	}
	return nil
}

// MakeLive makes the live environment of an app.
func MakeLive(ctx context.Context, tx *gorm.DB, app *store.App) error {
	if err := MakeSchema(ctx, tx, SchemaName(*app, Live)); err != nil {
		return err
	}
	if err := tx.Model(app).Update("live_level", Level).Error; err != nil {
		return fmt.Errorf("note the level of an environment: %w", err)
	}
	return nil
}

// Aside lists what stands set aside in a schema.
func Aside(ctx context.Context, tx *gorm.DB, name string) (schema.Aside, error) {
	var found []string
	if err := tx.WithContext(ctx).Raw(fmt.Sprintf("SELECT name FROM %s.%s", query.Quote(name),
		query.Quote(schema.AsideTable))).Scan(&found).Error; err != nil {
		return nil, fmt.Errorf("look for what is set aside: %w", err)
	}
	out := schema.Aside{}
	for _, f := range found {
		out[f] = true
	}
	return out, nil
}

// level gives where the level of an environment is kept.
func level(app *store.App, env Environment) (at *int, column string) {
	if env == Live {
		return &app.LiveLevel, "live_level"
	}
	return &app.DraftLevel, "draft_level"
}

// behind lists the environments of an app that are to be brought to the level.
func behind(app *store.App) []Environment {
	var out []Environment
	for _, env := range []Environment{Draft, Live} {
		if at, _ := level(app, env); *at < Level && (env == Draft || app.LiveVersion > 0) {
			out = append(out, env)
		}
	}
	return out
}

// ready makes sure that an app can be used by this version of the product.
func (a *Apps) ready(ctx context.Context, app *store.App) error {
	switch {
	case app.DraftLevel > Level || app.LiveLevel > Level:
		return fmt.Errorf("open app %s: %w", app.ID, ErrNewer)
	case app.Database != mainDatabase:
		return fmt.Errorf("open app %s: this server knows no database %q", app.ID, app.Database)
	case len(behind(app)) == 0:
		return nil
	}
	return a.Transaction(store.As(ctx, store.Back), func(tx *gorm.DB) error {
		now, err := Locked(tx, app.ID)
		app.DraftLevel, app.LiveLevel = now.DraftLevel, now.LiveLevel
		return err
	})
}

// upgrade brings the environments of an app, which is held, to the level.
func upgrade(tx *gorm.DB, app *store.App) error {
	for _, env := range behind(app) {
		at, column := level(app, env)
		b, err := blueprintOf(tx, *app, env)
		if err != nil {
			return err
		}
		if *at < 2 {
			if err := noteAside(tx, SchemaName(*app, env), b); err != nil {
				return err
			}
		}
		if *at < 3 {
			if err := noteWho(tx, SchemaName(*app, env)); err != nil {
				return err
			}
		}
		if *at < 4 {
			if err := Run(tx.Statement.Context, tx, schema.Plan{Steps: []schema.Step{{SQL: schema.Indexes(SchemaName(*app, env), b)}}}); err != nil {
				return err
			}
		}
		*at = Level
		if err := tx.Model(app).Update(column, Level).Error; err != nil {
			return fmt.Errorf("note the level of an environment: %w", err)
		}
	}
	return nil
}

// Upgrade brings all environments to the level, each by itself.
func (a *Apps) Upgrade(ctx context.Context) error {
	var ids []string
	err := a.db.WithContext(ctx).Raw("SELECT id FROM apps WHERE draft_level < ? OR live_version > 0 AND live_level < ? ORDER BY id",
		Level, Level).Scan(&ids).Error
	if err != nil {
		return fmt.Errorf("find apps of an earlier level: %w", err)
	}
	var errs []error
	for _, id := range ids {
		if _, err := a.Find(ctx, id); err != nil && !errors.Is(err, store.ErrNotFound) {
			errs = append(errs, fmt.Errorf("bring app %s to the level: %w", id, err))
		}
	}
	return errors.Join(errs...)
}
