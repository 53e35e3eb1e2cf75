package files_test

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"io"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/disintegration/imaging"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/words"
	"pinegate/store/files"
)

// exif is a part of a JPEG that says how it is to be turned.
func exif(order binary.AppendByteOrder, mark string, turned uint16) string {
	tiff := order.AppendUint32(order.AppendUint16([]byte(mark), 42), 8)
	tiff = order.AppendUint16(tiff, 2)
	for _, tag := range []uint16{0x010f, 0x0112} { // who made it comes first
		tiff = order.AppendUint32(order.AppendUint16(order.AppendUint16(tiff, tag), 3), 1)
		tiff = order.AppendUint16(order.AppendUint16(tiff, turned), 0)
	}
	part := "Exif\x00\x00" + string(tiff)
	return "\xff\xe1" + string(binary.BigEndian.AppendUint16(nil, uint16(len(part)+2))) + part
}

// halves is a picture with a light corner, by which one sees how it is turned.
func halves(t testing.TB, width, height int) string {
	p := image.NewGray(image.Rect(0, 0, width, height))
	for x := range width / 2 {
		for y := range height / 2 {
			p.SetGray(x, y, color.Gray{250})
		}
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, p, nil))
	return b.String()
}

func folder(t testing.TB) *files.Store {
	s, err := files.Open(t.Context(), files.Folder(t.TempDir()))
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	return s
}

// TestSmallPicturesAreTurned compares the small picture with what a library makes of the
// whole, for each way in which one is turned.
func TestSmallPicturesAreTurned(t *testing.T) {
	s := folder(t)
	plain := halves(t, 800, 400)
	for n := range uint16(9) {
		for mark, order := range map[string]binary.AppendByteOrder{"II": binary.LittleEndian, "MM": binary.BigEndian} {
			content := plain[:2] + exif(order, mark, n) + plain[2:]
			f, err := s.Put(t.Context(), "a", files.Wanted{Name: "x.jpg", Largest: 1 << 20, Picture: true}, strings.NewReader(content))
			require.NoError(t, err)
			r, err := s.Get(t.Context(), "a", f.ID, true)
			require.NoError(t, err)
			got, err := jpeg.Decode(r)
			require.NoError(t, err)
			require.NoError(t, r.Close())
			whole, err := imaging.Decode(strings.NewReader(content), imaging.AutoOrientation(true))
			require.NoError(t, err)
			want := imaging.Fit(whole, 360, 360, imaging.Linear)
			assert.Equal(t, want.Bounds(), got.Bounds(), "%s %d", mark, n)
			for _, at := range [][2]int{{1, 4}, {3, 4}} {
				for _, up := range [][2]int{{1, 4}, {3, 4}} {
					x, y := got.Bounds().Dx()*at[0]/at[1], got.Bounds().Dy()*up[0]/up[1]
					a, _, _, _ := got.At(x, y).RGBA()
					b, _, _, _ := want.At(x, y).RGBA()
					assert.InDelta(t, a>>8, b>>8, 12, "%s %d at %d, %d", mark, n, x, y)
				}
			}
		}
	}
}

// blank is a picture of one colour, which is small whatever its sides.
func blank(t testing.TB, p image.Image) string {
	var b bytes.Buffer
	require.NoError(t, (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&b, p))
	return b.String()
}

// TestPicturesTakeLittleMemory sends what unfolds to very much, many at once, and
// watches how much memory is taken.
func TestPicturesTakeLittleMemory(t *testing.T) {
	s := folder(t)
	put := func(content string) error {
		_, err := s.Put(t.Context(), "a", files.Wanted{Name: "x.png", Largest: 64 << 20, Picture: true}, strings.NewReader(content))
		return err
	}
	var told *words.Problem
	require.ErrorAs(t, put(blank(t, image.NewRGBA64(image.Rect(0, 0, 6000, 6000)))), &told)
	assert.Equal(t, "file-points", told.Code)
	fine := blank(t, image.NewRGBA64(image.Rect(0, 0, 3000, 2500))) // 60 MB unfolded
	runtime.GC()
	var before, now runtime.MemStats
	runtime.ReadMemStats(&before)
	var most atomic.Uint64
	stop := make(chan struct{})
	var watching, sending sync.WaitGroup
	watching.Go(func() {
		for tick := time.Tick(5 * time.Millisecond); ; {
			select {
			case <-stop:
				return
			case <-tick:
				runtime.ReadMemStats(&now)
				most.Store(max(most.Load(), now.HeapAlloc))
			}
		}
	})
	for range 8 {
		sending.Go(func() { assert.NoError(t, put(fine)) })
	}
	sending.Wait()
	close(stop)
	watching.Wait()
	t.Logf("%d MB at most", (most.Load()-before.HeapAlloc)>>20)
	assert.Less(t, most.Load()-before.HeapAlloc, uint64(400<<20), "eight at once would take 480 MB, and as much garbage")
}

// FuzzPictures puts what may be a picture, and holds that it is kept or refused in words.
func FuzzPictures(f *testing.F) {
	plain := halves(f, 40, 20)
	f.Add(plain)
	f.Add(plain[:2] + exif(binary.LittleEndian, "II", 6) + plain[2:])
	f.Add(blank(f, image.NewRGBA(image.Rect(0, 0, 9, 9))))
	f.Add("\xff\xd8\xff\xe1\x00\x02\xff\xda")
	f.Add("GIF89a\x01\x00\x01\x00\x00\x00\x00,\x00\x00\x00\x00\x01\x00\x01\x00\x00\x02\x02L\x01\x00;")
	s := folder(f)
	f.Fuzz(func(t *testing.T, content string) {
		_, err := s.Put(t.Context(), "a", files.Wanted{Name: "x", Largest: 1 << 16}, io.LimitReader(strings.NewReader(content), 1<<17))
		var told *words.Problem
		if err != nil {
			require.ErrorAs(t, err, &told)
		}
	})
}
