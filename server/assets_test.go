package server

import (
	"compress/gzip"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestBuiltFilesAreServedAsTheBrowserTakesThem asks for files with what browsers say of
// themselves, and for what is none.
func TestBuiltFilesAreServedAsTheBrowserTakesThem(t *testing.T) {
	t.Parallel()
	file := func(content string) *fstest.MapFile { return &fstest.MapFile{Data: []byte(content)} }
	s := &Server{Config: Config{Files: fstest.MapFS{"app.html": file("app"), "builder.html": file("builder"),
		"assets/a.js": file("plain"), "assets/a.js.br": file("br"), "assets/a.js.gz": file("gz"), "assets/b.css": file("b")}},
		engine: gin.New()}
	s.engine.NoRoute(s.files)
	const forever, anew = "public, max-age=31536000, immutable", "no-cache"
	for name, x := range map[string]struct {
		method, path, takes  string
		status               int
		body, encoding, kind string
		cache                string
	}{
		"the smallest": {"GET", "/assets/a.js", "gzip, deflate, br", 200, "br", "br", "text/javascript; charset=utf-8",
			forever},
		"an older browser":    {"GET", "/assets/a.js", "gzip", 200, "gz", "gzip", "text/javascript; charset=utf-8", forever},
		"one that takes none": {"GET", "/assets/a.js", "", 200, "plain", "", "text/javascript; charset=utf-8", forever},
		"one that refuses": {"GET", "/assets/a.js", "br;q=0, gzip;q=0.5", 200, "gz", "gzip", "text/javascript; charset=utf-8",
			forever},
		"another word in it":       {"GET", "/assets/a.js", "brr", 200, "plain", "", "text/javascript; charset=utf-8", forever},
		"what is not compressed":   {"GET", "/assets/b.css", "br", 200, "b", "", "text/css; charset=utf-8", forever},
		"only the head":            {"HEAD", "/assets/a.js", "br", 200, "", "br", "text/javascript; charset=utf-8", forever},
		"an app":                   {"GET", "/a/yard/boats", "br", 200, "app", "", "text/html; charset=utf-8", anew},
		"the stage":                {"GET", "/stage/1/founder/boats", "br", 200, "app", "", "text/html; charset=utf-8", anew},
		"the builder":              {"GET", "/apps/1/data", "br", 200, "builder", "", "text/html; charset=utf-8", anew},
		"nothing":                  {"GET", "/assets/c.js", "br", 404, "", "", "", ""},
		"the compressed one":       {"GET", "/assets/a.js.br", "br", 404, "", "", "", ""},
		"out of the folder":        {"GET", "/assets/../builder.html", "br", 404, "", "", "", ""},
		"no address of the API":    {"GET", "/api/nothing", "br", 404, "", "", "", ""},
		"no address of an app":     {"GET", "/a/yard/-/nothing", "br", 404, "", "", "", ""},
		"writing to what is built": {"POST", "/assets/a.js", "br", 404, "", "", "", ""},
	} {
		r := httptest.NewRequestWithContext(t.Context(), x.method, x.path, nil)
		r.Header.Set("Accept-Encoding", x.takes)
		w := httptest.NewRecorder()
		s.engine.ServeHTTP(w, r)
		got := w.Result()
		body, err := io.ReadAll(got.Body)
		require.NoError(t, err)
		assert.Equal(t, x.status, got.StatusCode, name)
		if x.status != http.StatusOK {
			assert.Equal(t, "application/problem+json", got.Header.Get("Content-Type"), name)
			continue
		}
		if x.method != http.MethodHead {
			assert.Equal(t, x.body, string(body), name)
		}
		assert.Equal(t, x.encoding, got.Header.Get("Content-Encoding"), name)
		assert.Equal(t, x.kind, got.Header.Get("Content-Type"), name)
		assert.Equal(t, x.cache, got.Header.Get("Cache-Control"), name)
		assert.Equal(t, "Accept-Encoding", got.Header.Get("Vary"), "%s: caches keep them apart", name)
	}
}

// TestLargeAnswersAreCompressed reads answers of several sizes and kinds.
func TestLargeAnswersAreCompressed(t *testing.T) {
	t.Parallel()
	long := strings.Repeat("Sandpiper ", 1000)
	engine := gin.New()
	engine.GET("/large", func(g *gin.Context) { g.JSON(http.StatusOK, long) })
	engine.GET("/small", func(g *gin.Context) { g.JSON(http.StatusOK, "short") })
	engine.GET("/file", func(g *gin.Context) { g.Data(http.StatusOK, "text/csv", []byte(long)) })
	engine.GET("/stream", func(g *gin.Context) {
		g.Header("Content-Type", "text/event-stream")
		for range 3 {
			_, err := g.Writer.WriteString("data: news\n\n")
			assert.NoError(t, err)
			g.Writer.Flush()
		}
	})
	h := compressing(engine)
	for path, x := range map[string]struct{ takes, encoding string }{
		"/large":        {"gzip", "gzip"},
		"/large?plain":  {"", ""},
		"/large?brotli": {"br", ""},
		"/small":        {"gzip", ""},
		"/file":         {"gzip", ""},
		"/stream":       {"gzip", ""},
	} {
		r := httptest.NewRequestWithContext(t.Context(), http.MethodGet, path, nil)
		r.Header.Set("Accept-Encoding", x.takes)
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		assert.Equal(t, x.encoding, w.Header().Get("Content-Encoding"), path)
		if x.encoding == "" {
			continue
		}
		assert.Less(t, w.Body.Len(), len(long)/10, path)
		small, err := gzip.NewReader(w.Body)
		require.NoError(t, err)
		raw, err := io.ReadAll(small)
		require.NoError(t, err)
		assert.Equal(t, `"`+long+`"`, string(raw), path)
	}
}
