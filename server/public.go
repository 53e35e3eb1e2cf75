package server

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	_ "image/jpeg" // logos are made small as one of these
	"image/png"
	"io/fs"
	"log/slog"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"pinegate/app/page"
	"pinegate/app/public"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/server/runtime"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// contentPolicy is what documents may load; frames of other sites are added by apps that
// show some.
const contentPolicy = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'self'"

func (s *Server) site(app store.App, seat *records.Seat) public.Site {
	path := "/a/" + app.Slug
	return public.Site{Blueprint: seat.Blueprint, Address: s.Base + path, Path: path}
}

// publicRoutes serve what devices and search engines ask of a live app.
func (s *Server) publicRoutes(group *gin.RouterGroup) {
	answer := func(path, kind string, give func(public.Site) ([]byte, error)) {
		group.GET(path, func(g *gin.Context) {
			p := place(g.Request.Context())
			raw, err := give(s.site(p.App, p.Seat))
			if err != nil {
				failed(g, "make "+path, err)
				return
			}
			g.Header("Cache-Control", "no-cache")
			g.Data(http.StatusOK, kind, raw)
		})
	}
	answer("/manifest.webmanifest", "application/manifest+json", public.Site.Manifest)
	answer("/sitemap.xml", "application/xml; charset=utf-8", public.Site.Sitemap)
	answer("/offline", "text/html; charset=utf-8", func(at public.Site) ([]byte, error) { return at.Offline(), nil })
	group.GET("/offline.js", func(g *gin.Context) {
		p := place(g.Request.Context())
		at := s.site(p.App, p.Seat)
		g.Header("Service-Worker-Allowed", at.Path+"/")
		g.Header("Cache-Control", "no-cache")
		g.Data(http.StatusOK, "text/javascript; charset=utf-8", at.Worker())
	})
	group.GET("/icon/:size", s.icon)
}

// icon answers with the icon of an app, in one of two sizes.
func (s *Server) icon(g *gin.Context) {
	size, err := strconv.Atoi(g.Param("size"))
	if err != nil || size != 192 && size != 512 {
		problem(g, http.StatusNotFound, words.Say("answer-no-file", nil))
		return
	}
	p := place(g.Request.Context())
	key := fmt.Sprint(p.App.ID, " ", p.App.LiveVersion, " ", size)
	raw, drawn := s.icons.Get(key)
	if !drawn {
		if raw, err = s.draw(g, p, size); err != nil {
			failed(g, "draw the icon", err)
			return
		}
		s.icons.Add(key, raw)
	}
	g.Header("Cache-Control", "public, max-age=3600")
	g.Data(http.StatusOK, "image/png", raw)
}

// mostIcons is how many icons are kept.
const mostIcons = 256

func (s *Server) draw(g *gin.Context, p *runtime.Place, size int) ([]byte, error) {
	logo, err := s.logo(g, p.App, p.Seat.Blueprint.Look.Logo)
	if err != nil {
		return nil, err
	}
	drawn, err := s.site(p.App, p.Seat).Icon(size, logo)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	err = png.Encode(&out, drawn)
	return out.Bytes(), err
}

// logo reads the small picture that was made of a logo; nil where there is none.
func (s *Server) logo(g *gin.Context, app store.App, id string) (image.Image, error) {
	if id == "" {
		return nil, nil
	}
	file, err := s.Apps.Picture(g, app, id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	r, err := s.Blobs.Get(g, apps.PicturesFolder(app), file.ID, true)
	if errors.Is(err, store.ErrNotFound) { // one that is small already
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	picture, _, err := image.Decode(r)
	return picture, errors.Join(err, r.Close())
}

// framing lists the sites in whose pages the document with the path may stand: those of a form
// that stands by itself.
func (s *Server) framing(parts []string, b *blueprint.Blueprint) []string {
	if len(parts) != 4 || parts[1] != "~" || parts[2] != "form" {
		return nil
	}
	if _, x := b.PublicForm(parts[3]); x != nil {
		return x.MayStandIn()
	}
	return nil
}

// robots tells search engines where there is nothing for them.
func robots(g *gin.Context) {
	g.String(http.StatusOK, "User-agent: *\nDisallow: /api/\nDisallow: /stage/\n")
}

// shell serves the document of an app, with what it says of the page that is asked for. It
// tells whether there is such an app.
func (s *Server) shell(g *gin.Context) bool {
	parts := strings.Split(strings.Trim(strings.TrimPrefix(g.Request.URL.Path, "/a/"), "/"), "/")
	app, err := s.Apps.BySlug(g, parts[0])
	if err != nil || app.LiveVersion == 0 {
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			slog.ErrorContext(g, "find the app of a document", "error", err) // the app itself says so in words
		}
		return false
	}
	seat, err := seats.Empty(g, s.Apps, app)
	if err != nil {
		slog.ErrorContext(g, "read the app of a document", "error", err)
		return false
	}
	raw, err := fs.ReadFile(s.Files, "app.html")
	if err != nil {
		return false
	}
	path := ""
	if len(parts) > 1 {
		path = parts[1]
	}
	at := seat.Blueprint.PageAt(path)
	if path == "" {
		if at, err = page.Home(g, s.Apps.Road(g), seat); err != nil {
			slog.ErrorContext(g, "find the home page of a document", "error", err)
		}
	}
	if len(parts) > 2 {
		at = nil // about a record
	}
	h := g.Writer.Header()
	if public.Open(at) {
		h.Del("X-Robots-Tag")
	}
	policy := contentPolicy
	if sites := s.framing(parts, seat.Blueprint); len(sites) > 0 {
		policy += " " + strings.Join(sites, " ") // after frame-ancestors, with which it ends
		h.Del("X-Frame-Options")
	}
	if frames := seat.Blueprint.Frames(); len(frames) > 0 {
		policy += "; frame-src " + strings.Join(frames, " ")
	}
	h.Set("Content-Security-Policy", policy)
	h.Set("Cache-Control", "no-cache")
	site := s.site(app, seat)
	head := site.Head(at)
	if g.Request.URL.RawQuery == "" {
		head += site.Early(parts[1:])
	}
	body := strings.Replace(string(raw), "<title>App</title>", strings.TrimSpace(head), 1)
	g.Data(http.StatusOK, "text/html; charset=utf-8", []byte(body))
	return true
}
