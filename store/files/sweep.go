package files

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/jackc/pgx/v5"
	"gocloud.dev/blob"

	"pinegate/core/query"
	"pinegate/store"
	"pinegate/store/records"
)

// waiting is how long a file that was received waits to be written into a
// record.
const waiting = "1 day"

// Sweeper gives the chore that deletes the files which no record has: those
// that were never kept, and those of records and apps that were deleted for
// good.
func (s *Store) Sweeper(db *store.Store) func(context.Context) error {
	return func(ctx context.Context) error {
		conn, err := db.Hold(ctx)
		if err != nil {
			return err
		}
		defer conn.Release()
		var free bool
		if err := conn.QueryRow(ctx, "SELECT pg_try_advisory_lock($1)", SweepLock).Scan(&free); err != nil {
			return fmt.Errorf("look for backups: %w", err)
		}
		if !free { // a backup is being made, or another server sweeps
			return nil
		}
		err = s.sweepAll(ctx, db)
		_, unlocked := conn.Exec(context.WithoutCancel(ctx), "SELECT pg_advisory_unlock($1)", SweepLock)
		return errors.Join(err, unlocked)
	}
}

// SweepLock is the number of the advisory lock under which files are thrown away;
// who shares it keeps them from that.
const SweepLock = 727276

func (s *Store) sweepAll(ctx context.Context, db *store.Store) error {
	folders, err := s.folders(ctx) // before the environments, so that a new app's folder has one
	if err != nil {
		return err
	}
	environments, err := texts(ctx, db, "SELECT schemaname::text FROM pg_tables WHERE tablename = $1", query.FilesTable)
	if err != nil {
		return err
	}
	var errs []error
	known := map[string][]string{}
	for _, schema := range environments {
		folder := records.FilesFolder(schema)
		known[folder] = append(known[folder], schema)
	}
	for _, folder := range folders {
		if strings.HasPrefix(folder, "app_") && known[folder] == nil {
			errs = append(errs, s.dropFolder(ctx, folder))
		}
	}
	for folder, schemas := range known {
		for _, schema := range schemas {
			errs = append(errs, s.sweep(ctx, db, folder, schema, schemas))
		}
	}
	return errors.Join(errs...)
}

// folders lists the folders of the blob store.
func (s *Store) folders(ctx context.Context) ([]string, error) {
	var out []string
	list := s.bucket.List(&blob.ListOptions{Delimiter: "/"})
	for {
		x, err := list.Next(ctx)
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, fmt.Errorf("list folders of files: %w", err)
		}
		if x.IsDir {
			out = append(out, strings.TrimSuffix(x.Key, "/"))
		}
	}
}

// dropFolder deletes the files of an app that is no longer there.
func (s *Store) dropFolder(ctx context.Context, folder string) error {
	list := s.bucket.List(&blob.ListOptions{Prefix: folder + "/"})
	for {
		x, err := list.Next(ctx)
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("list files: %w", err)
		}
		if err := s.bucket.Delete(ctx, x.Key); err != nil {
			return fmt.Errorf("delete file: %w", err)
		}
	}
}

func texts(ctx context.Context, db *store.Store, sql string, args ...any) ([]string, error) {
	rows, err := db.Pool.Query(ctx, sql, args...)
	if err != nil {
		return nil, fmt.Errorf("find files: %w", err)
	}
	out, err := pgx.CollectRows(rows, pgx.RowTo[string])
	if err != nil {
		return nil, fmt.Errorf("find files: %w", err)
	}
	return out, nil
}

func tableOf(schema string) string { return query.Quote(schema) + "." + query.Quote(query.FilesTable) }

// sweep deletes the bytes first, so that what is not known is not kept either.
// The rows stay locked meanwhile, so that no record takes such a file. Bytes
// that another environment of the app has stay.
func (s *Store) sweep(ctx context.Context, db *store.Store, folder, schema string, schemas []string) error {
	return pgx.BeginFunc(ctx, db.Pool, func(tx pgx.Tx) error {
		elsewhere := "false"
		for _, other := range schemas {
			if other != schema {
				elsewhere = fmt.Sprintf("EXISTS (SELECT 1 FROM %s o WHERE o.id = f.id)", tableOf(other))
			}
		}
		rows, err := tx.Query(ctx, fmt.Sprintf(`SELECT id, %s FROM %s f WHERE gone OR record_id IS NULL AND added_at < now() - interval '%s'
			FOR UPDATE OF f SKIP LOCKED LIMIT 1000`, elsewhere, tableOf(schema), waiting))
		if err != nil {
			return fmt.Errorf("find files to delete: %w", err)
		}
		var ids []string
		var id string
		var needed bool
		if _, err = pgx.ForEachRow(rows, []any{&id, &needed}, func() error {
			ids = append(ids, id)
			if needed {
				return nil
			}
			return s.Drop(ctx, folder, id)
		}); err != nil {
			return fmt.Errorf("delete files: %w", err)
		}
		if _, err := tx.Exec(ctx, fmt.Sprintf("DELETE FROM %s WHERE id = ANY ($1)", tableOf(schema)), ids); err != nil {
			return fmt.Errorf("forget files: %w", err)
		}
		return nil
	})
}
