package files_test

import (
	"context"
	"errors"
	"image"
	"io"
	"os"
	"os/exec"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/words"
	"pinegate/store/apart"
	"pinegate/store/files"
)

// itself makes this program be the process that makes a picture small.
const itself = "PINEGATE_APART_PICTURES"

// deadly is the name of a picture of which that process dies.
const deadly = "deadly.png"

func doApart(ctx context.Context, address string, t files.Task) (any, error) {
	if t.File.Name == deadly {
		os.Exit(3)
	}
	s, err := files.Open(ctx, address)
	if err != nil {
		return nil, err
	}
	return nil, errors.Join(s.Do(ctx, t), s.Close())
}

// TestLargePicturesAreMadeSmallApart compares what a process of its own makes with what
// is made here, and has one die of a picture.
func TestLargePicturesAreMadeSmallApart(t *testing.T) {
	program, err := os.Executable()
	require.NoError(t, err)
	dir := t.TempDir()
	address := files.Folder(dir)
	s, err := files.Open(t.Context(), address)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	put := func(name, content string) (string, error) {
		f, err := s.Put(t.Context(), "a", files.Wanted{Name: name, Largest: 64 << 20, Picture: true}, strings.NewReader(content))
		if err != nil {
			return "", err
		}
		r, err := s.Get(t.Context(), "a", f.ID, true)
		require.NoError(t, err)
		small, err := io.ReadAll(r)
		require.NoError(t, err)
		require.NoError(t, r.Close())
		return string(small), nil
	}
	large := halves(t, 2000, 1500)
	here, err := put("x.jpg", large)
	require.NoError(t, err)

	var begun atomic.Int32
	s.Apart = apart.New(func() *exec.Cmd {
		begun.Add(1)
		c := exec.Command(program)
		c.Env = append(os.Environ(), itself+"=1")
		return c
	}, address, apart.Limits{All: 1, Share: 1, Wait: time.Minute})
	there, err := put("x.jpg", large)
	require.NoError(t, err)
	assert.Equal(t, here, there)
	assert.EqualValues(t, 1, begun.Load())
	_, err = put("y.jpg", halves(t, 800, 600))
	require.NoError(t, err)
	assert.EqualValues(t, 1, begun.Load(), "a small one is not worth a process")

	var told *words.Problem
	_, err = put("broken.jpg", large[:len(large)/2])
	require.ErrorAs(t, err, &told)
	assert.Equal(t, "file-broken", told.Code)
	before := kept(t, dir)
	_, err = put(deadly, blank(t, image.NewRGBA64(image.Rect(0, 0, 1500, 1500))))
	require.ErrorAs(t, err, &told)
	assert.Equal(t, "file-broken", told.Code)
	require.ErrorIs(t, err, apart.ErrEnded, "what happened is told to who runs the server")
	assert.Equal(t, before, kept(t, dir), "nothing of it stays")
	assert.EqualValues(t, 3, begun.Load())
}

// kept counts the files of a folder.
func kept(t *testing.T, dir string) int {
	found, err := os.ReadDir(dir + "/a")
	require.NoError(t, err)
	return len(found)
}
