// Package imports carries out what is proposed for files that people bring: it
// keeps the files, runs the import as a job, and keeps aside what cannot be
// read.
package imports

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"

	"pinegate/core/intake"
	"pinegate/core/words"
	"pinegate/store"
)

// piece is how many bytes of a file are kept in one row.
const piece = 1 << 20

// receiving is the size of a file of which not everything is there yet.
const receiving = -1

// Upload keeps a file and gives its id. However slowly it comes, nothing is held
// meanwhile: each piece is written when it is there.
func (s *Service) Upload(ctx context.Context, app store.App, name string, from io.Reader) (string, error) {
	most, err := s.apps.Room(ctx, app, intake.MaxFile)
	if err != nil {
		return "", err
	}
	made, err := uuid.NewV7()
	if err != nil {
		return "", fmt.Errorf("make upload id: %w", err)
	}
	id := made.String()
	if err := s.keep(ctx, "INSERT INTO uploads (id, app_id, name, size) VALUES ($1, $2, $3, $4)", id, app.ID, name, receiving); err != nil {
		return "", err
	}
	size, err := s.receive(ctx, id, most, from)
	if err != nil {
		return "", errors.Join(err, s.forget(context.WithoutCancel(ctx), []string{id}))
	}
	return id, s.keep(ctx, "UPDATE uploads SET size = $2 WHERE id = $1", id, size)
}

// receive keeps at most so many bytes.
func (s *Service) receive(ctx context.Context, id string, most int64, from io.Reader) (size int64, err error) {
	buffer := make([]byte, piece)
	for n := 0; ; n++ {
		got, err := io.ReadFull(from, buffer)
		size += int64(got)
		ended := errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF)
		switch {
		case err != nil && !ended:
			return size, fmt.Errorf("receive upload: %w", err)
		case size > intake.MaxFile:
			return size, words.New("import-large")
		case size > most:
			return size, s.apps.Full()
		case got > 0:
			// what comes as fast as it can gives way to those who wait for a page
			behind := s.store.DB.WithContext(store.As(ctx, store.Bulk))
			if err := behind.Exec("INSERT INTO upload_pieces VALUES (?, ?, ?)", id, n, buffer[:got]).Error; err != nil {
				return size, fmt.Errorf("keep upload: %w", err)
			}
		}
		if ended {
			return size, nil
		}
	}
}

func (s *Service) keep(ctx context.Context, sql string, args ...any) error {
	if _, err := s.store.Pool.Exec(ctx, sql, args...); err != nil {
		return fmt.Errorf("keep upload: %w", err)
	}
	return nil
}

// files gives the files of an app with the ids.
func (s *Service) files(ctx context.Context, app string, ids []string) ([]intake.File, error) {
	var out []intake.File
	for _, id := range ids {
		f := intake.File{Open: func() (io.ReadCloser, error) {
			return &pieces{ctx: store.As(ctx, store.Bulk), db: s.store.DB, id: id}, nil
		}}
		err := s.store.Pool.QueryRow(ctx, "SELECT name, size FROM uploads WHERE id = $1 AND app_id = $2 AND size >= 0", id, app).Scan(&f.Name, &f.Size)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil, store.ErrNotFound
		}
		if err != nil {
			return nil, fmt.Errorf("find upload: %w", err)
		}
		out = append(out, f)
	}
	return out, nil
}

// sheets gives the tables in the files.
func (s *Service) sheets(ctx context.Context, app string, ids []string) ([]*intake.Sheet, error) {
	files, err := s.files(ctx, app, ids)
	if err != nil {
		return nil, err
	}
	return Sheets(files)
}

// planned gives the tables of all the files as a proposal of them has it.
func (s *Service) planned(ctx context.Context, app string, ids []string, p *intake.Proposal) ([]*intake.Sheet, error) {
	sheets, err := s.sheets(ctx, app, ids)
	if err != nil {
		return nil, err
	}
	if len(sheets) != len(p.Sheets) {
		return nil, words.New("import-files-changed")
	}
	for i, plan := range p.Sheets {
		if plan.Turned {
			if err := sheets[i].Turn(); err != nil {
				return nil, err
			}
		}
		if len(sheets[i].Header) != len(plan.Columns) {
			return nil, words.New("import-files-changed")
		}
	}
	return sheets, nil
}

// Sheets gives the tables of all the files.
func Sheets(files []intake.File) ([]*intake.Sheet, error) {
	var out []*intake.Sheet
	for _, f := range files {
		sheets, err := intake.Sheets(f)
		if err != nil {
			return nil, err
		}
		out = append(out, sheets...)
	}
	return out, nil
}

// pieces reads a file piece by piece, each on a connection of its own for a
// moment only.
type pieces struct {
	ctx  context.Context
	db   *gorm.DB
	id   string
	n    int
	rest []byte
	end  bool
}

func (p *pieces) Read(into []byte) (int, error) {
	if len(p.rest) == 0 && !p.end {
		var data []byte
		err := p.db.WithContext(p.ctx).Raw("SELECT data FROM upload_pieces WHERE upload_id = ? AND number = ?", p.id, p.n).Row().Scan(&data)
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return 0, fmt.Errorf("read upload: %w", err)
		}
		p.rest, p.end = data, err != nil
		p.n++
	}
	if len(p.rest) == 0 {
		return 0, io.EOF
	}
	n := copy(into, p.rest)
	p.rest = p.rest[n:]
	return n, nil
}

func (*pieces) Close() error { return nil }
