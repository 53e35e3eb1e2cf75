package apps

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"gorm.io/gorm"

	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
)

// Quota bounds what a workspace may have. Zero is no bound.
type Quota struct {
	Apps  int
	Bytes int64 // of files of records, pictures, and files that are being imported
}

// Usage is what a workspace has, and may have.
type Usage struct {
	Apps      int   `json:"apps"`
	MostApps  int   `json:"mostApps" doc:"0 for as many as they like"`
	Bytes     int64 `json:"bytes"`
	MostBytes int64 `json:"mostBytes" doc:"0 for as many as they like"`
}

// Bound sets what workspaces may have. It is for the start of a server.
func (a *Apps) Bound(q Quota) { a.quota = q }

// Usage tells what a workspace has.
func (a *Apps) Usage(ctx context.Context, workspace string) (Usage, error) {
	var out Usage
	if err := a.db.WithContext(ctx).Raw(`SELECT count(*) AS apps, COALESCE(sum(file_bytes), 0)::bigint + (SELECT COALESCE(sum(GREATEST(u.size, 0)), 0)
		FROM uploads u JOIN apps x ON x.id = u.app_id WHERE x.workspace_id = @w)::bigint AS bytes FROM apps WHERE workspace_id = @w`,
		map[string]any{"w": workspace}).Scan(&out).Error; err != nil {
		return out, fmt.Errorf("see what a workspace has: %w", err)
	}
	out.MostApps, out.MostBytes = a.quota.Apps, a.quota.Bytes
	return out, nil
}

// Room tells how many bytes of files an app may get, at most so many; a problem in words
// where there is no room.
func (a *Apps) Room(ctx context.Context, app store.App, most int64) (int64, error) {
	if a.quota.Bytes == 0 {
		return most, nil
	}
	u, err := a.Usage(ctx, app.WorkspaceID)
	if err != nil {
		return 0, err
	}
	if u.Bytes >= u.MostBytes {
		return 0, a.Full()
	}
	return min(most, u.MostBytes-u.Bytes), nil
}

// Full says that there is no room for more files.
func (a *Apps) Full() *words.Problem { return words.New("quota-files", "most", a.quota.Bytes/1e9) }

// Took counts files that an app got.
func (a *Apps) Took(ctx context.Context, app string, bytes int64) error {
	if err := a.db.WithContext(ctx).Exec("UPDATE apps SET file_bytes = file_bytes + ? WHERE id = ?", bytes, app).Error; err != nil {
		return fmt.Errorf("count the files of an app: %w", err)
	}
	return nil
}

// roomForApp refuses a further app of a workspace that has as many as it may. Those who
// make one at once wait for each other.
func (a *Apps) roomForApp(tx *gorm.DB, workspace string) error {
	if a.quota.Apps == 0 {
		return nil
	}
	if err := tx.Exec("SELECT pg_advisory_xact_lock(hashtext(?))", "apps of "+workspace).Error; err != nil {
		return fmt.Errorf("wait for other new apps: %w", err)
	}
	var n int64
	if err := tx.Model(&store.App{}).Where("workspace_id = ?", workspace).Count(&n).Error; err != nil {
		return fmt.Errorf("count apps: %w", err)
	}
	if n >= int64(a.quota.Apps) {
		return words.New("quota-apps", "most", a.quota.Apps)
	}
	return nil
}

// Recount counts the files of all apps anew: those that were thrown away are no more.
func (a *Apps) Recount(ctx context.Context) error {
	var all []store.App
	if err := a.db.WithContext(ctx).Find(&all).Error; err != nil {
		return fmt.Errorf("list apps: %w", err)
	}
	var errs []error
	for _, app := range all {
		errs = append(errs, a.recount(ctx, app))
	}
	return errors.Join(errs...)
}

func (a *Apps) recount(ctx context.Context, app store.App) error {
	var parts []string
	environments := []Environment{Draft}
	if app.LiveVersion > 0 {
		environments = append(environments, Live)
	}
	for _, env := range environments { // a file that was brought along is in both, and kept once
		parts = append(parts, fmt.Sprintf("SELECT id, size FROM %s.%s", query.Quote(SchemaName(app, env)), query.Quote(query.FilesTable)))
	}
	sql := fmt.Sprintf(`UPDATE apps SET file_bytes = (SELECT COALESCE(sum(size), 0) FROM (%s) f)
		+ (SELECT COALESCE(sum(size), 0) FROM pictures WHERE app_id = $1) WHERE id = $1`, strings.Join(parts, " UNION "))
	if _, err := store.Conn(a.db).ExecContext(ctx, sql, app.ID); err != nil {
		return fmt.Errorf("count the files of %s: %w", app.Slug, err)
	}
	return nil
}
