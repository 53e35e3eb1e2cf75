package main

import (
	"context"
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"pinegate/store/backup"
	"pinegate/store/files"
)

// where adds the flags that say where the data is.
func (o *options) where(c *cobra.Command) *cobra.Command {
	c.Flags().StringVar(&o.data, "data", "data", "folder that holds all data")
	c.Flags().StringVar(&o.database, "database", "", "address of a PostgreSQL database; empty for the private one in the data folder")
	c.Flags().StringVar(&o.files, "files", "", "address of the store of files; empty for a folder in the data folder")
	return c
}

// backupCommand writes a backup, also while the server serves.
func backupCommand() *cobra.Command {
	var o options
	return o.where(&cobra.Command{Use: "backup FILE", Short: "Write all data into a file, also while the server runs",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return o.moving(c.Context(), func(ctx context.Context, dsn string, kept *files.Store) error {
				// who reads it reads everything; what was there is not overwritten
				f, err := os.OpenFile(args[0], os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
				if err != nil {
					return fmt.Errorf("make the backup: %w", err)
				}
				done, err := backup.Write(ctx, dsn, kept, f)
				if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
					return errors.Join(err, os.Remove(args[0]))
				}
				fmt.Printf("%d apps and %d files are in %s.\n", done.Apps, done.Files, args[0])
				return nil
			})
		}})
}

// restoreCommand brings a backup back.
func restoreCommand() *cobra.Command {
	var o options
	return o.where(&cobra.Command{Use: "restore FILE", Short: "Bring a backup back into an empty folder or database",
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			return o.moving(c.Context(), func(ctx context.Context, dsn string, kept *files.Store) error {
				f, err := os.Open(args[0])
				if err != nil {
					return fmt.Errorf("open the backup: %w", err)
				}
				done, err := backup.Read(ctx, dsn, kept, f)
				if err = errors.Join(err, f.Close()); err != nil {
					return err
				}
				fmt.Printf("%d apps and %d files are back, as they were at %s.\n", done.Apps, done.Files,
					done.Made.Format("15:04 on 2 January 2006 UTC"))
				return nil
			})
		}})
}

// moving does something with the database and the files.
func (o options) moving(ctx context.Context, do func(ctx context.Context, dsn string, kept *files.Store) error) error {
	pg, stop, err := o.postgres(ctx)
	if err != nil {
		return err
	}
	kept, err := o.blobs(ctx, pg.pictures)
	if err != nil {
		return errors.Join(err, stop())
	}
	return errors.Join(do(ctx, pg.Database, kept), kept.Close(), stop())
}
