package files_test

import (
	"bytes"
	"context"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"io"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/demo"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apart"
	"pinegate/store/apps"
	"pinegate/store/files"
	"pinegate/store/files/filestest"
	"pinegate/store/records"
	"pinegate/store/storetest"
)

func TestMain(m *testing.M) {
	if os.Getenv(itself) != "" {
		if err := apart.Serve(context.Background(), os.Stdin, os.Stdout, doApart); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		return
	}
	os.Exit(storetest.Main(m))
}

// each tries something with every kind of store of files.
func each(t *testing.T, try func(*testing.T, *files.Store)) {
	for name, address := range map[string]func(*testing.T) string{
		"folder": func(t *testing.T) string { return files.Folder(t.TempDir()) },
		"S3":     filestest.S3,
	} {
		t.Run(name, func(t *testing.T) {
			s, err := files.Open(t.Context(), address(t))
			require.NoError(t, err)
			t.Cleanup(func() { assert.NoError(t, s.Close()) })
			try(t, s)
		})
	}
}

func TestWhatAFileIsIsReadFromItsBytes(t *testing.T) { each(t, readFromBytes) }

func readFromBytes(t *testing.T, s *files.Store) {
	for name, want := range map[string]struct {
		content, kept, kind string
		picture             bool
	}{
		"notes.png":                        {"just words", "notes.png", "text/plain; charset=utf-8", false},
		`C:\boats\hull.txt`:                {"%PDF-1.7\n", "hull.txt", "application/pdf", false},
		"../../etc/passwd":                 {"<html><body>x", "passwd", "text/html; charset=utf-8", false},
		"a\r\nSet-Cookie: x.txt":           {"x", "aSet-Cookie x.txt", "text/plain; charset=utf-8", false},
		"...":                              {"x", "file", "text/plain; charset=utf-8", false},
		"evil\u202Egnp.exe":                {"MZ", "evilgnp.exe", "application/vnd.microsoft.portable-executable", false},
		strings.Repeat("ä", 300) + ".jpeg": {photo(40, 30), strings.Repeat("ä", 115) + ".jpeg", "image/jpeg", true},
	} {
		f, err := s.Put(t.Context(), "app_x", files.Wanted{Name: name, Largest: 1 << 20}, strings.NewReader(want.content))
		require.NoError(t, err, name)
		assert.Equal(t, want.kept, f.Name)
		assert.Equal(t, want.kind, f.Type, name)
		assert.Equal(t, want.picture, f.Picture, name)
		assert.EqualValues(t, len(want.content), f.Size)
		assert.Equal(t, want.content, read(t, s, "app_x", f.ID))
	}
}

func photo(width, height int) string {
	picture := image.NewRGBA(image.Rect(0, 0, width, height))
	picture.Set(1, 1, color.White)
	var b bytes.Buffer
	if err := jpeg.Encode(&b, picture, nil); err != nil {
		panic(err)
	}
	return b.String()
}

func read(t *testing.T, s *files.Store, folder, id string) string {
	r, err := s.Get(t.Context(), folder, id, false)
	require.NoError(t, err)
	raw, err := io.ReadAll(r)
	require.NoError(t, err)
	require.NoError(t, r.Close())
	return string(raw)
}

// bomb is a small file that says it is a picture of 50,000 × 50,000 points.
func bomb() string {
	head := append([]byte("IHDR"), 0, 0, 0xC3, 0x50, 0, 0, 0xC3, 0x50, 8, 6, 0, 0, 0)
	out := append([]byte("\x89PNG\r\n\x1a\n\x00\x00\x00\x0d"), head...)
	return string(binary.BigEndian.AppendUint32(out, crc32.ChecksumIEEE(head)))
}

func TestFilesThatAreNotKept(t *testing.T) { each(t, notKept) }

func notKept(t *testing.T, s *files.Store) {
	for what, try := range map[string]struct {
		wanted  files.Wanted
		content string
		says    string
	}{
		"too large":  {files.Wanted{Name: "x", Largest: 1 << 20}, strings.Repeat("x", 1<<20+1), "larger than 1 MB"},
		"a bomb":     {files.Wanted{Name: "x.png", Largest: 1 << 20, Picture: true}, bomb(), "too many"},
		"no picture": {files.Wanted{Name: "x.png", Largest: 1 << 20, Picture: true}, "words", "not a picture that browsers show"},
		"cut off":    {files.Wanted{Name: "x.jpg", Largest: 1 << 20}, photo(400, 300)[:300], "not a whole picture"},
		"empty":      {files.Wanted{Name: "x", Largest: 1 << 20}, "", "empty"},
	} {
		f, err := s.Put(t.Context(), "app_y", try.wanted, strings.NewReader(try.content))
		var p *words.Problem
		if assert.ErrorAs(t, err, &p, what) {
			assert.Contains(t, p.Error(), try.says, what)
		}
		if f.ID != "" {
			_, err = s.Get(t.Context(), "app_y", f.ID, false)
			assert.ErrorIs(t, err, store.ErrNotFound, what)
		}
	}
}

// TestSweepKeepsWhatIsNeeded deletes what no record has, in each environment,
// and the files of apps that are gone.
func TestSweepKeepsWhatIsNeeded(t *testing.T) { each(t, sweeps) }

func sweeps(t *testing.T, s *files.Store) {
	db := storetest.New(t)
	a := apps.New(db)
	_, err := demo.Load(t.Context(), db, a, accounts.New(db), s, false)
	require.NoError(t, err)
	app, err := a.BySlug(t.Context(), demo.Slug)
	require.NoError(t, err)
	b, err := a.Blueprint(t.Context(), app, apps.Draft)
	require.NoError(t, err)
	seat := apps.FounderSeat(app, apps.Draft, b, "test")
	boats, photo := b.Table("boat"), b.Table("boat").Field("boat_photo")
	folder := seat.FilesFolder()
	put := func(age string) string {
		f, err := s.Put(t.Context(), folder, files.Wanted{Name: "x", Largest: 1000}, strings.NewReader("content"))
		require.NoError(t, err)
		require.NoError(t, a.Road(t.Context()).Receive(t.Context(), seat, boats, photo, f))
		require.NoError(t, db.DB.Exec(fmt.Sprintf("UPDATE %s._files SET added_at = now() - interval '%s' WHERE id = ?",
			query.Quote(seat.Schema), age), f.ID).Error)
		return f.ID
	}
	fresh, old := put("1 hour"), put("2 days")
	stray, err := s.Put(t.Context(), "app_00000000000000000000000000000000", files.Wanted{Name: "x", Largest: 1000},
		strings.NewReader("content"))
	require.NoError(t, err)

	rows, _, err := a.Road(t.Context()).List(t.Context(), seat, query.Selection{Table: boats, Columns: []string{photo.ID}, Limit: 1})
	require.NoError(t, err)
	var boat struct {
		ID       string
		Revision int
		Photo    []records.File `json:"boat_photo~"`
	}
	require.NoError(t, json.Unmarshal(rows[0], &boat))
	_, err = acttest.New(t, a).Edit(t.Context(), app, seat, "Deleted", func(u *act.Unit) (*records.Write, error) {
		r := u.Road
		return r.Delete(t.Context(), seat, boats, boat.ID, boat.Revision)
	})
	require.NoError(t, err)
	_, err = acttest.New(t, a).EmptyBin(t.Context(), app, seat, boats)
	require.NoError(t, err)

	require.NoError(t, s.Sweeper(db)(t.Context()))
	there := func(folder, id string) bool {
		r, err := s.Get(context.Background(), folder, id, false)
		if err != nil {
			assert.ErrorIs(t, err, store.ErrNotFound)
			return false
		}
		return assert.NoError(t, r.Close())
	}
	assert.True(t, there(folder, fresh), "somebody may still be filling in the form")
	assert.False(t, there(folder, old))
	assert.False(t, there("app_00000000000000000000000000000000", stray.ID))
	assert.True(t, there(folder, boat.Photo[0].ID), "the live boat still has it")
	require.NoError(t, db.DB.Exec(fmt.Sprintf("UPDATE %s._files SET gone = true WHERE id = ?",
		query.Quote(apps.SchemaName(app, apps.Live))), boat.Photo[0].ID).Error)
	require.NoError(t, s.Sweeper(db)(t.Context()))
	assert.False(t, there(folder, boat.Photo[0].ID))
}
