package files

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	_ "image/gif" // pictures that browsers show
	"image/jpeg"
	"image/png"
	"io"
	"runtime"

	"github.com/disintegration/imaging"
	"gocloud.dev/blob"
	_ "golang.org/x/image/webp" // a picture that browsers show
	"golang.org/x/sys/unix"

	"pinegate/core/words"
	"pinegate/store/records"
)

// Bounds of pictures, so that a small file cannot unfold without end: the most bytes that
// one takes in memory, and all together that are unfolded at once; and the sides of a
// small one.
const (
	mostUnfolded  = 160 << 20
	mostUnfolding = 160 << 20
	smallSide     = 360
)

// unfolded gives how many bytes a picture takes while it is unfolded, at most.
func unfolded(kind string, c image.Config, head jpegHead) int64 {
	points := int64(c.Width) * int64(c.Height)
	switch {
	case c.Width <= 0 || c.Height <= 0 || points/int64(c.Width) != int64(c.Height):
		return mostUnfolded + 1
	case kind == "image/jpeg" && head.progressive:
		return points * 15 // three planes of bytes, and of coefficients of four bytes each
	case kind == "image/jpeg":
		return points * 4
	case c.ColorModel == color.RGBA64Model || c.ColorModel == color.NRGBA64Model:
		return points * 8
	case kind == "image/webp":
		return points * 8 // what it is made of, and what comes of it
	}
	return points * 4
}

// reader opens a file that was just kept.
func (s *Store) reader(ctx context.Context, key string) (*blob.Reader, error) {
	r, err := s.bucket.NewReader(ctx, key, nil)
	if err != nil {
		return nil, fmt.Errorf("read file: %w", err)
	}
	return r, nil
}

// look reads from a file that was just kept.
func (s *Store) look(ctx context.Context, key string, do func(io.Reader) error) error {
	r, err := s.reader(ctx, key)
	if err != nil {
		return err
	}
	return errors.Join(do(r), r.Close())
}

// behind does what takes a processor for long, in a thread that stands back behind all
// others of the server: whoever waits for a page has it first.
func behind(do func() error) error {
	done := make(chan error)
	go func() {
		runtime.LockOSThread() // for good: the thread ends with what it did, as its niceness cannot be taken back
		if err := unix.Setpriority(unix.PRIO_PROCESS, 0, 19); err != nil {
			done <- fmt.Errorf("stand back: %w", err)
			return
		}
		done <- do()
	}()
	return <-done
}

// shrink makes the small picture that stands in lists.
func (s *Store) shrink(ctx context.Context, folder string, f records.File) error {
	key := Key(folder, f.ID, false)
	broken := words.New("file-broken", "name", f.Name)
	var config image.Config
	if err := s.look(ctx, key, func(r io.Reader) (err error) { config, _, err = image.DecodeConfig(r); return err }); err != nil {
		return broken
	}
	head := jpegHead{turned: 1}
	if f.Type == "image/jpeg" {
		if err := s.look(ctx, key, func(r io.Reader) (err error) { head, err = headOf(r); return err }); err != nil {
			return err
		}
	}
	size := unfolded(f.Type, config, head)
	if size > mostUnfolded {
		return words.New("file-points", "name", f.Name, "width", config.Width, "height", config.Height)
	}
	if err := s.unfolding.Acquire(ctx, size); err != nil {
		return fmt.Errorf("wait until other pictures are made small: %w", err)
	}
	defer s.unfolding.Release(size)
	var out bytes.Buffer
	kind := "image/png" // keeps what shines through
	if f.Type == "image/jpeg" {
		kind = f.Type
	}
	err := behind(func() error {
		var picture image.Image
		if err := s.look(ctx, key, func(r io.Reader) (err error) { picture, err = imaging.Decode(r); return err }); err != nil {
			return broken
		}
		// made small first, so that it is turned in little memory
		small := turn(imaging.Fit(picture, smallSide, smallSide, imaging.Linear), head.turned)
		if kind == "image/jpeg" {
			return jpeg.Encode(&out, small, &jpeg.Options{Quality: 80})
		}
		return png.Encode(&out, small)
	})
	if err != nil {
		return fmt.Errorf("make small picture: %w", err)
	}
	_, err = s.write(ctx, Key(folder, f.ID, true), kind, &out, mostUnfolded)
	return err
}
