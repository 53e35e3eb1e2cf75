package server_test

import (
	"bytes"
	"fmt"
	"image/png"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

// TestWhatSearchEnginesGet reads documents as search engines do: those of pages that are open
// to everyone say what they are, all others nothing.
func TestWhatSearchEnginesGet(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Client(t)
	for path, open := range map[string]bool{"": true, "/": true, "/welcome": true, "/berths": true, "/orders": false, "/my-boats": false,
		"/boat/" + missing: false, "/gone": false, "/~/sign-in": false} {
		status, body := c.Do(http.MethodGet, "/a/alder-cove"+path, nil)
		assert.Equal(t, http.StatusOK, status, path)
		header := c.Header("/a/alder-cove" + path)
		assert.Equal(t, !open, header.Get("X-Robots-Tag") == "noindex", path)
		if open {
			assert.Contains(t, body, " – Alder Cove Boatyard</title>", path)
			assert.Contains(t, body, `<meta property="og:url" content="`+s.URL+"/a/alder-cove/", path)
			continue
		}
		assert.Contains(t, body, "<title>Alder Cove Boatyard</title>", path)
		assert.NotContains(t, body, "Work orders", path)
	}
	_, body := c.Do(http.MethodGet, "/a/no-such-app/welcome", nil)
	assert.Contains(t, body, "<title>App</title>")
	_, site := c.Do(http.MethodGet, live+"/sitemap.xml", nil)
	assert.Contains(t, site, s.URL+"/a/alder-cove/berths</loc>")
	assert.NotContains(t, site, "orders")
	_, robots := c.Do(http.MethodGet, "/robots.txt", nil)
	assert.Contains(t, robots, "Disallow: /api/")
	for _, path := range []string{live + "/page?path=welcome", "/api/session", "/"} {
		assert.Equal(t, "noindex", c.Header(path).Get("X-Robots-Tag"), path)
	}
}

func TestAnAppCanBeInstalled(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Client(t)
	for _, size := range []int{192, 512} {
		_, raw := c.Do(http.MethodGet, live+"/icon/"+fmt.Sprint(size), nil)
		drawn, err := png.Decode(bytes.NewReader([]byte(raw)))
		require.NoError(t, err)
		assert.Equal(t, size, drawn.Bounds().Dx())
	}
	for _, size := range []string{"0", "99999", "x"} {
		status, _ := c.Do(http.MethodGet, live+"/icon/"+size, nil)
		assert.Equal(t, http.StatusNotFound, status)
	}
	header := c.Header(live + "/offline.js")
	assert.Equal(t, "/a/alder-cove/", header.Get("Service-Worker-Allowed"))
	status, _ := c.Do(http.MethodGet, "/a/no-such-app/-/manifest.webmanifest", nil)
	assert.Equal(t, http.StatusNotFound, status)
}

// TestFramesOfOtherSitesAreAllowedWhereTheyAreShown lets a browser show those alone.
func TestFramesOfOtherSitesAreAllowedWhereTheyAreShown(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Client(t)
	policy := func(path string) string { return c.Header(path).Get("Content-Security-Policy") }
	assert.NotContains(t, policy("/a/alder-cove/welcome"), "frame-src")
	apply(t, s, map[string]any{"kind": "add", "what": "block", "into": "p_home", "id": "map", "values": map[string]any{"kind": "embed",
		"address": "https://map.example/cove", "title": "Where we are"}})
	assert.Contains(t, policy("/a/alder-cove/welcome"), "; frame-src https://map.example")
	assert.NotContains(t, policy("/"), "frame-src")
	assert.NotContains(t, policy(live+"/page?path=welcome"), "frame-src")
}
