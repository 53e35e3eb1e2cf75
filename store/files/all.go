package files

import (
	"context"
	"errors"
	"fmt"
	"io"
	"time"

	"gocloud.dev/blob"
	"gocloud.dev/gcerrors"
)

// Kept is a file as it lies in the blob store.
type Kept struct {
	Key     string
	Type    string // media type
	Size    int64  // bytes
	Changed time.Time
}

// Each hands out every file of the store, for backups.
func (s *Store) Each(ctx context.Context, use func(Kept, io.Reader) error) error {
	list := s.bucket.List(nil)
	for {
		x, err := list.Next(ctx)
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("list files: %w", err)
		}
		r, err := s.bucket.NewReader(ctx, x.Key, nil)
		if gcerrors.Code(err) == gcerrors.NotFound { // it was received meanwhile, and given up
			continue
		}
		if err != nil {
			return fmt.Errorf("read %s: %w", x.Key, err)
		}
		err = use(Kept{x.Key, r.ContentType(), r.Size(), r.ModTime()}, r)
		if err = errors.Join(err, r.Close()); err != nil {
			return err
		}
	}
}

// Restore puts a file where it was.
func (s *Store) Restore(ctx context.Context, f Kept, from io.Reader) error {
	w, err := s.bucket.NewWriter(ctx, f.Key, &blob.WriterOptions{ContentType: f.Type})
	if err != nil {
		return fmt.Errorf("restore %s: %w", f.Key, err)
	}
	_, err = io.Copy(w, from)
	if err = errors.Join(err, w.Close()); err != nil {
		return fmt.Errorf("restore %s: %w", f.Key, err)
	}
	return nil
}
