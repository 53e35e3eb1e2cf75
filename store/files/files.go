// Package files keeps the bytes of files in a blob store, found by keys, and
// finds out what they are. Who may have them is decided by [records.Road].
package files

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/url"
	"path"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/gabriel-vasile/mimetype"
	"github.com/google/uuid"
	"gocloud.dev/blob"
	_ "gocloud.dev/blob/fileblob" // folders as blob stores
	_ "gocloud.dev/blob/s3blob"   // and buckets of stores that speak S3
	"gocloud.dev/gcerrors"
	"golang.org/x/sync/semaphore"

	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apart"
	"pinegate/store/records"
)

// Store keeps files. What they are is read from their bytes; what a browser
// says of them is not believed.
type Store struct {
	// Apart makes large pictures small in processes of their own, each of which does
	// [Store.Do]; without it they are made small here.
	Apart *apart.Runner

	bucket    *blob.Bucket
	unfolding *semaphore.Weighted // bytes of pictures that are unfolded now
}

// Open opens the blob store at an address, such as file:///srv/files.
func Open(ctx context.Context, address string) (*Store, error) {
	bucket, err := blob.OpenBucket(ctx, address)
	if err != nil {
		return nil, fmt.Errorf("open blob store: %w", err)
	}
	return &Store{bucket: bucket, unfolding: semaphore.NewWeighted(mostUnfolding)}, nil
}

// Folder gives the address of a folder of this machine, which is made when it is
// first used.
func Folder(dir string) string {
	return (&url.URL{Scheme: "file", Path: dir, RawQuery: "create_dir=true&no_tmp_dir=true"}).String()
}

// Close lets go of the blob store.
func (s *Store) Close() error { return s.bucket.Close() }

// head is how many bytes tell what a file is.
const head = 3072

// Wanted is what a file must be to be kept.
type Wanted struct {
	Name    string // as it is called by whoever sent it
	Largest int64  // bytes
	Picture bool   // only pictures that browsers show
}

// Put keeps a file in a folder of the blob store, with a small picture beside
// it where it is one, and tells what it is. A file that is not wanted is told
// of by a [words.Problem].
func (s *Store) Put(ctx context.Context, folder string, w Wanted, from io.Reader) (records.File, error) {
	id, err := uuid.NewRandom() // nobody can guess the id of another's file
	if err != nil {
		return records.File{}, fmt.Errorf("make file id: %w", err)
	}
	first := make([]byte, head)
	n, err := io.ReadFull(from, first)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		return records.File{}, fmt.Errorf("receive file: %w", err)
	}
	first = first[:n]
	if n == 0 {
		return records.File{}, words.New("file-empty")
	}
	kind := mimetype.Detect(first).String()
	f := records.File{ID: id.String(), Name: cleanName(w.Name), Type: kind, Picture: slices.Contains(shown(), kind)}
	if w.Picture && !f.Picture {
		return f, words.New("file-no-picture", "name", f.Name)
	}
	if f.Size, err = s.write(ctx, Key(folder, f.ID, false), kind, io.MultiReader(bytes.NewReader(first), from), w.Largest); err != nil {
		return f, err
	}
	if f.Picture {
		if err := s.shrink(ctx, folder, f); err != nil {
			return f, errors.Join(err, s.Drop(ctx, folder, f.ID))
		}
	}
	return f, nil
}

// shown lists the types of pictures that browsers show and that can hold no
// script.
func shown() []string { return []string{"image/png", "image/jpeg", "image/gif", "image/webp"} }

// write keeps at most so many bytes; a longer file is not kept at all.
func (s *Store) write(ctx context.Context, key, kind string, from io.Reader, largest int64) (int64, error) {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel() // a writer whose context ended keeps nothing
	w, err := s.bucket.NewWriter(ctx, key, &blob.WriterOptions{ContentType: kind})
	if err != nil {
		return 0, fmt.Errorf("keep file: %w", err)
	}
	size, err := io.Copy(w, io.LimitReader(from, largest+1))
	if err == nil && size > largest {
		err = words.New("file-large", "largest", int(largest>>20))
	}
	if err != nil {
		cancel()
		_ = w.Close() // it tells of the cancelling
		return 0, err
	}
	if err := w.Close(); err != nil {
		return 0, fmt.Errorf("keep file: %w", err)
	}
	return size, nil
}

// Get opens a file; with small set, the small picture of it. The caller closes
// it. [store.ErrNotFound] tells that its bytes are not there.
func (s *Store) Get(ctx context.Context, folder, id string, small bool) (*blob.Reader, error) {
	return s.part(ctx, Key(folder, id, small), 0, -1)
}

// Part opens a part of a file: so many bytes from a place, all that follow for -1.
func (s *Store) Part(ctx context.Context, folder, id string, from, length int64) (*blob.Reader, error) {
	return s.part(ctx, Key(folder, id, false), from, length)
}

func (s *Store) part(ctx context.Context, key string, from, length int64) (*blob.Reader, error) {
	r, err := s.bucket.NewRangeReader(ctx, key, from, length, nil)
	if gcerrors.Code(err) == gcerrors.NotFound {
		return nil, store.ErrNotFound
	}
	if err != nil {
		return nil, fmt.Errorf("open file: %w", err)
	}
	return r, nil
}

// Drop deletes a file and its small picture for good, as far as they are there.
func (s *Store) Drop(ctx context.Context, folder, id string) error {
	for _, small := range []bool{false, true} {
		if err := s.bucket.Delete(ctx, Key(folder, id, small)); err != nil && gcerrors.Code(err) != gcerrors.NotFound {
			return fmt.Errorf("delete file: %w", err)
		}
	}
	return nil
}

// Key gives where a file is in the blob store.
func Key(folder, id string, small bool) string {
	if small {
		id += ".small"
	}
	return path.Join(folder, id)
}

const longestName = 120

// cleanName gives a name that is safe to show and to save under: no folders, no
// characters that steer a line or turn its direction.
func cleanName(name string) string {
	name = name[strings.LastIndexAny(name, `/\`)+1:]
	name = strings.TrimLeft(strings.TrimSpace(strings.Map(func(r rune) rune {
		if r == utf8.RuneError || !unicode.IsPrint(r) || strings.ContainsRune(`<>:"|?*`, r) {
			return -1
		}
		return r
	}, name)), ".")
	if name == "" {
		return "file"
	}
	for utf8.RuneCountInString(name) > longestName { // the ending stays
		ending := path.Ext(name)
		if utf8.RuneCountInString(ending) > 10 {
			ending = ""
		}
		name = string([]rune(strings.TrimSuffix(name, ending))[:longestName-utf8.RuneCountInString(ending)]) + ending
	}
	return name
}

// Disposition gives the header by which a browser shows a picture in its place,
// and saves everything else.
func Disposition(f records.File) string {
	way := "attachment"
	if f.Picture {
		way = "inline"
	}
	return mime.FormatMediaType(way, map[string]string{"filename": f.Name})
}
