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
	"pinegate/store/apart"
	"pinegate/store/records"
)

// Bounds of pictures, so that a small file cannot unfold without end: the most bytes that
// one takes in memory, and all together that are unfolded at once; from which on another
// process does it, where there are such; and the sides of a small one.
const (
	mostUnfolded  = 160 << 20
	mostUnfolding = 160 << 20
	mostHere      = 4 << 20
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

// Task is a picture of which another process makes the small one.
type Task struct {
	Folder string       `json:"folder"`
	File   records.File `json:"file"`
}

// Do makes the small picture of a task, in this process.
func (s *Store) Do(ctx context.Context, t Task) error {
	head, _, err := s.measure(ctx, t)
	if err != nil {
		return err
	}
	return s.draw(ctx, t, head)
}

// shrink makes the small picture that stands in lists, elsewhere if it is a large one.
func (s *Store) shrink(ctx context.Context, folder string, f records.File) error {
	t := Task{folder, f}
	head, size, err := s.measure(ctx, t)
	if err != nil {
		return err
	}
	if s.Apart != nil && size > mostHere {
		err := s.Apart.Do(ctx, t, nil)
		if errors.Is(err, apart.ErrEnded) && ctx.Err() == nil {
			return errors.Join(words.New("file-broken", "name", f.Name), err)
		}
		return err
	}
	if err := s.unfolding.Acquire(ctx, size); err != nil {
		return fmt.Errorf("wait until other pictures are made small: %w", err)
	}
	defer s.unfolding.Release(size)
	return behind(func() error { return s.draw(ctx, t, head) })
}

// measure reads how large a picture becomes, which is refused when it is too much.
func (s *Store) measure(ctx context.Context, t Task) (head jpegHead, size int64, err error) {
	key := Key(t.Folder, t.File.ID, false)
	var config image.Config
	if err := s.look(ctx, key, func(r io.Reader) (err error) { config, _, err = image.DecodeConfig(r); return err }); err != nil {
		return head, 0, words.New("file-broken", "name", t.File.Name)
	}
	head = jpegHead{turned: 1}
	if t.File.Type == "image/jpeg" {
		if err := s.look(ctx, key, func(r io.Reader) (err error) { head, err = headOf(r); return err }); err != nil {
			return head, 0, err
		}
	}
	if size = unfolded(t.File.Type, config, head); size > mostUnfolded {
		return head, 0, words.New("file-points", "name", t.File.Name, "width", config.Width, "height", config.Height)
	}
	return head, size, nil
}

// draw makes the small picture and keeps it.
func (s *Store) draw(ctx context.Context, t Task, head jpegHead) error {
	var picture image.Image
	key := Key(t.Folder, t.File.ID, false)
	if err := s.look(ctx, key, func(r io.Reader) (err error) { picture, err = imaging.Decode(r); return err }); err != nil {
		return words.New("file-broken", "name", t.File.Name)
	}
	// made small first, so that it is turned in little memory
	small := turn(imaging.Fit(picture, smallSide, smallSide, imaging.Linear), head.turned)
	var out bytes.Buffer
	kind, err := "image/png", error(nil) // keeps what shines through
	if t.File.Type == "image/jpeg" {
		kind = t.File.Type
		err = jpeg.Encode(&out, small, &jpeg.Options{Quality: 80})
	} else {
		err = png.Encode(&out, small)
	}
	if err != nil {
		return fmt.Errorf("make small picture: %w", err)
	}
	_, err = s.write(ctx, Key(t.Folder, t.File.ID, true), kind, &out, mostUnfolded)
	return err
}
