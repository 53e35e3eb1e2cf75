// Package backup writes all that a server keeps into one file, while it serves, and
// brings it back.
//
// The file is a tar archive (POSIX.1-2001): what it is, the database as pg_dump
// writes it, and then the files.
package backup

import (
	"archive/tar"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"

	"pinegate/store/files"
	"pinegate/store/localpg"
)

// format is the number of the way in which backups are written.
const format = 1

// Names in the archive.
const (
	aboutName    = "pinegate-backup.json"
	databaseName = "database.dump"
	filesPrefix  = "files/"
)

// about is what stands at the beginning of a backup.
type about struct {
	Format int       `json:"format"`
	Made   time.Time `json:"made"`
}

// Summary tells what a backup holds.
type Summary struct {
	Made  time.Time
	Apps  int
	Files int
	Bytes int64 // of the files
}

// Write writes a backup of a database and its files. What is written to them
// meanwhile is not in it: it is the state at one moment. No file that belongs to
// that state is thrown away before it is in the backup.
func Write(ctx context.Context, dsn string, kept *files.Store, to io.Writer) (Summary, error) {
	out := Summary{Made: time.Now().UTC()}
	conn, err := pgx.Connect(ctx, dsn)
	if err != nil {
		return out, fmt.Errorf("connect to database: %w", err)
	}
	defer func() { _ = conn.Close(context.WithoutCancel(ctx)) }() // the lock goes with it
	if _, err := conn.Exec(ctx, "SELECT pg_advisory_lock_shared($1)", files.SweepLock); err != nil {
		return out, fmt.Errorf("keep files from being thrown away: %w", err)
	}
	if err := conn.QueryRow(ctx, "SELECT count(*) FROM pinegate.apps").Scan(&out.Apps); err != nil {
		return out, fmt.Errorf("find apps: %w", err)
	}
	w := tar.NewWriter(to)
	head, err := json.Marshal(about{format, out.Made})
	if err == nil {
		err = entry(w, aboutName, "", int64(len(head)), out.Made, strings.NewReader(string(head)))
	}
	if err != nil {
		return out, fmt.Errorf("begin backup: %w", err)
	}
	if err := dump(ctx, dsn, w, out.Made); err != nil {
		return out, err
	}
	err = kept.Each(ctx, func(f files.Kept, r io.Reader) error {
		out.Files++
		out.Bytes += f.Size
		return entry(w, filesPrefix+f.Key, f.Type, f.Size, f.Changed, r)
	})
	return out, errors.Join(err, w.Close())
}

// typeRecord is under which name the media type of a file is kept.
const typeRecord = "PINEGATE.type"

func entry(w *tar.Writer, name, kind string, size int64, at time.Time, from io.Reader) error {
	h := &tar.Header{Name: name, Mode: 0o600, Size: size, ModTime: at, Format: tar.FormatPAX}
	if kind != "" {
		h.PAXRecords = map[string]string{typeRecord: kind}
	}
	if err := w.WriteHeader(h); err != nil {
		return fmt.Errorf("write %s: %w", name, err)
	}
	if _, err := io.Copy(w, from); err != nil {
		return fmt.Errorf("write %s: %w", name, err)
	}
	return nil
}

// dump writes the database. Its size is known only when it is there, so that it
// goes over a file.
func dump(ctx context.Context, dsn string, w *tar.Writer, at time.Time) error {
	f, err := os.CreateTemp("", "pinegate-backup-*")
	if err != nil {
		return fmt.Errorf("make room for the database: %w", err)
	}
	defer func() { _ = f.Close(); _ = os.Remove(f.Name()) }()
	// tables into which an import reads are made anew by it
	if err := run(ctx, dsn, f, "pg_dump", "--format=custom", "--no-owner", "--no-privileges",
		"--exclude-table=app_*._import_*"); err != nil {
		return err
	}
	size, err := f.Seek(0, io.SeekEnd)
	if err == nil {
		_, err = f.Seek(0, io.SeekStart)
	}
	if err != nil {
		return fmt.Errorf("read what pg_dump wrote: %w", err)
	}
	return entry(w, databaseName, "", size, at, f)
}

// run runs one of PostgreSQL's programs on a database.
func run(ctx context.Context, dsn string, out io.Writer, name string, args ...string) error {
	program, err := localpg.Program(name)
	if err != nil {
		return err
	}
	address, password, err := withoutPassword(dsn)
	if err != nil {
		return err
	}
	cmd := exec.CommandContext(ctx, program, append(args, "--dbname="+address)...)
	if password != "" {
		cmd.Env = append(os.Environ(), "PGPASSWORD="+password)
	}
	var said strings.Builder
	cmd.Stdout, cmd.Stderr = out, &said
	if err := cmd.Run(); err != nil {
		return fmt.Errorf("%s: %w: %s", name, err, strings.TrimSpace(said.String()))
	}
	return nil
}

// Errors of bringing a backup back, in words for whoever types the command.
var (
	ErrNotEmpty = errors.New("there is data already; a backup is restored into a new folder (--data) or an empty database (--database)")
	ErrNoBackup = errors.New("this is no backup of Pine Gate")
)

// Read brings a backup back into an empty database. The files come first and the
// database at once after them, so that what failed in the middle can be tried again.
func Read(ctx context.Context, dsn string, kept *files.Store, from io.Reader) (out Summary, err error) {
	if err := empty(ctx, dsn); err != nil {
		return out, err
	}
	r := tar.NewReader(from)
	if out.Made, err = begin(r); err != nil {
		return out, err
	}
	database, err := os.CreateTemp("", "pinegate-restore-*")
	if err != nil {
		return out, fmt.Errorf("make room for the database: %w", err)
	}
	defer func() { _ = database.Close(); _ = os.Remove(database.Name()) }()
	whole := false
	for {
		h, err := r.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return out, fmt.Errorf("read backup: %w", err)
		}
		key, isFile := strings.CutPrefix(h.Name, filesPrefix)
		switch {
		case h.Name == databaseName:
			if _, err := io.Copy(database, r); err != nil {
				return out, fmt.Errorf("read backup: %w", err)
			}
			whole = true
		case isFile:
			if err := kept.Restore(ctx, files.Kept{Key: key, Type: h.PAXRecords[typeRecord]}, r); err != nil {
				return out, err
			}
			out.Files++
			out.Bytes += h.Size
		}
	}
	if !whole {
		return out, fmt.Errorf("%w: the database is missing", ErrNoBackup)
	}
	if err := run(ctx, dsn, io.Discard, "pg_restore", "--exit-on-error", "--no-owner", "--no-privileges", database.Name()); err != nil {
		return out, err
	}
	return out, count(ctx, dsn, &out.Apps)
}

// begin reads what a backup says of itself.
func begin(r *tar.Reader) (time.Time, error) {
	h, err := r.Next()
	if err != nil || h.Name != aboutName {
		return time.Time{}, ErrNoBackup
	}
	var a about
	if err := json.NewDecoder(r).Decode(&a); err != nil {
		return time.Time{}, ErrNoBackup
	}
	if a.Format > format {
		return a.Made, fmt.Errorf("this backup was made by a newer version of Pine Gate (format %d, this one knows %d)", a.Format, format)
	}
	return a.Made, nil
}

// empty refuses a database in which there is something of ours.
func empty(ctx context.Context, dsn string) error {
	var there bool
	err := ask(ctx, dsn, "SELECT EXISTS (SELECT 1 FROM pg_namespace WHERE nspname = 'pinegate')", &there)
	if err == nil && there {
		return ErrNotEmpty
	}
	return err
}

func count(ctx context.Context, dsn string, apps *int) error {
	return ask(ctx, dsn, "SELECT count(*) FROM pinegate.apps", apps)
}

func ask(ctx context.Context, dsn, sql string, into any) error {
	conn, err := pgx.Connect(ctx, dsn)
	if err != nil {
		return fmt.Errorf("connect to database: %w", err)
	}
	return errors.Join(conn.QueryRow(ctx, sql).Scan(into), conn.Close(ctx))
}
