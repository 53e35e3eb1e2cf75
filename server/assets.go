package server

import (
	"io/fs"
	"mime"
	"net/http"
	"path"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"

	"pinegate/core/words"
)

// encodings are those in which built files lie beside themselves, the smallest
// first, with the endings of their names.
var encodings = []struct{ name, ending string }{{"br", ".br"}, {"gzip", ".gz"}}

// files serves what was built: the app's page, the builder's, and their parts.
func (s *Server) files(g *gin.Context) {
	at := strings.TrimPrefix(g.Request.URL.Path, "/")
	if strings.HasPrefix(at, "api/") || strings.Contains(at, "/-/") || g.Request.Method != http.MethodGet &&
		g.Request.Method != http.MethodHead {
		problem(g, http.StatusNotFound, words.Say("answer-no-address", nil))
		return
	}
	if strings.HasPrefix(at, "assets/") {
		name := path.Clean(at)
		if !strings.HasPrefix(name, "assets/") || !s.built(g, name, "public, max-age=31536000, immutable") {
			problem(g, http.StatusNotFound, words.Say("answer-no-file", nil))
		}
		return
	}
	page := "builder.html"
	if strings.HasPrefix(at, "a/") || strings.HasPrefix(at, "stage/") {
		page = "app.html"
	}
	if strings.HasPrefix(at, "a/") && s.Apps != nil && s.shell(g) {
		return
	}
	if !s.built(g, page, "no-cache") {
		problem(g, http.StatusServiceUnavailable, words.Say("answer-not-built", nil))
	}
}

// built serves a built file, in an encoding that the browser takes if it lies
// there in one. It tells whether there is such a file.
func (s *Server) built(g *gin.Context, name, cache string) bool {
	if path.Ext(name) == ".br" || path.Ext(name) == ".gz" { // of these only what they are of is asked for
		return false
	}
	if _, err := fs.Stat(s.Files, name); err != nil {
		return false
	}
	ending := ""
	for _, e := range encodings {
		if _, err := fs.Stat(s.Files, name+e.ending); err == nil && accepts(g.GetHeader("Accept-Encoding"), e.name) {
			g.Header("Content-Encoding", e.name)
			ending = e.ending
			break
		}
	}
	raw, err := fs.ReadFile(s.Files, name+ending)
	if err != nil {
		return false
	}
	kind := mime.TypeByExtension(path.Ext(name))
	if kind == "" { // fonts; what lies there compressed has a known one
		kind = http.DetectContentType(raw)
	}
	h := g.Writer.Header()
	h.Set("Cache-Control", cache)
	h.Add("Vary", "Accept-Encoding")
	h.Set("Content-Length", strconv.Itoa(len(raw)))
	g.Data(http.StatusOK, kind, raw)
	return true
}

// leastCompressed is from how many bytes on an answer of the API is compressed,
// and lengthNoise how many bytes are added at random to what is, so that its length
// does not tell what is in it to somebody who has a part of it sent along.
const (
	leastCompressed = 4 << 10
	lengthNoise     = 64
)

// compressing compresses large answers of the API. Streams and files pass as they
// are.
func compressing(h http.Handler) http.Handler {
	wrap, err := gzhttp.NewWrapper(gzhttp.MinSize(leastCompressed), gzhttp.RandomJitter(lengthNoise, 0, false),
		gzhttp.ContentTypes([]string{"application/json", "application/problem+json"}))
	if err != nil {
		panic(err) // the settings are those above
	}
	return wrap(h)
}

// accepts tells whether a browser takes an encoding, RFC 9110: it is named, and
// not with a weight of nothing.
func accepts(header, encoding string) bool {
	return slices.ContainsFunc(strings.Split(header, ","), func(one string) bool {
		name, weight, weighed := strings.Cut(one, ";")
		if !strings.EqualFold(strings.TrimSpace(name), encoding) {
			return false
		}
		q, err := strconv.ParseFloat(strings.TrimPrefix(strings.TrimSpace(weight), "q="), 64)
		return !weighed || err != nil || q > 0
	})
}
