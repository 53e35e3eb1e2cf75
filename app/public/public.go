// Package public makes what an app tells those who only have its address: search engines,
// those to whom a link is sent, and devices on which it is installed.
package public

import (
	"encoding/json"
	"encoding/xml"
	"fmt"
	"html"
	"net/url"
	"strings"
	"unicode"

	"pinegate/core/blueprint"
	"pinegate/core/look"
)

// Site is an app at its address, such as https://apps.yard.example/a/alder-cove.
type Site struct {
	Blueprint *blueprint.Blueprint
	Address   string
	Path      string // of the address: /a/alder-cove
}

// Open tells whether everyone can be told of a page: it is open to everyone, always shown,
// and about no record.
func Open(p *blueprint.Page) bool {
	return p != nil && p.Audience == blueprint.Everyone && p.Record == "" && p.When == ""
}

// mostSaid is how many letters of a text stand for a page that has no description.
const mostSaid = 200

// Description gives what is said of a page: its description, or its first words.
func Description(p *blueprint.Page) string {
	if p.Description != "" {
		return p.Description
	}
	for x := range p.Blocks.Apart {
		t, is := x.(*blueprint.TextBlock)
		if !is || t.When != "" || strings.Contains(t.Text, "{{") {
			continue
		}
		said := []rune(strings.Join(strings.Fields(t.Text), " "))
		if len(said) > mostSaid {
			return strings.TrimSpace(string(said[:mostSaid-1])) + "…"
		}
		return string(said)
	}
	return ""
}

// Head gives what stands in the head of the app's document. Of a page that is not open to
// everyone nothing is said, not even its name.
func (s Site) Head(p *blueprint.Page) string {
	b := s.Blueprint
	bar, _ := look.Bars(b.Theme, b.Look)
	var out strings.Builder
	tag := func(format string, values ...string) {
		escaped := make([]any, len(values))
		for i, v := range values {
			escaped[i] = html.EscapeString(v)
		}
		fmt.Fprintf(&out, "\t\t"+format+"\n", escaped...)
	}
	title := b.Name
	if Open(p) {
		title = p.Name + " – " + b.Name
	}
	tag("<title>%s</title>", title)
	tag(`<link rel="manifest" href="%s/-/manifest.webmanifest" />`, s.Path)
	tag(`<link rel="icon" href="%s/-/icon/192" />`, s.Path)
	tag(`<link rel="apple-touch-icon" href="%s/-/icon/192" />`, s.Path)
	tag(`<meta name="theme-color" content="%s" />`, bar)
	if !Open(p) {
		tag(`<meta name="robots" content="noindex" />`)
		return out.String()
	}
	at := s.Address + "/" + p.Path
	tag(`<link rel="canonical" href="%s" />`, at)
	if said := Description(p); said != "" {
		tag(`<meta name="description" content="%s" />`, said)
		tag(`<meta property="og:description" content="%s" />`, said)
	}
	picture := s.Address + "/-/icon/512"
	if p.Preview != "" {
		picture = s.Address + "/-/pictures/" + p.Preview + "?whole=true"
	}
	tag(`<meta property="og:title" content="%s" />`, p.Name)
	tag(`<meta property="og:site_name" content="%s" />`, b.Name)
	tag(`<meta property="og:type" content="website" />`)
	tag(`<meta property="og:url" content="%s" />`, at)
	tag(`<meta property="og:image" content="%s" />`, picture)
	return out.String()
}

// Early has a browser ask for a page while it still loads the scripts that show it, in the
// words in which these ask; the parts are those of the address behind that of the app. Only
// what is an address of a page is asked for.
func (s Site) Early(parts []string) string {
	asked := url.Values{}
	if len(parts) == 3 && parts[0] == "~" && parts[1] == "form" {
		return early(s.Path + "/-/standalone/" + url.PathEscape(parts[2]))
	}
	for i, part := range parts {
		if i > 1 || strings.Trim(part, "abcdefghijklmnopqrstuvwxyz0123456789-") != "" {
			return ""
		}
		asked.Set([]string{"path", "record"}[i], part)
	}
	at := s.Path + "/-/page"
	if len(asked) > 0 {
		at += "?" + asked.Encode()
	}
	return early(at)
}

// early has a browser ask for something before the scripts do.
func early(at string) string {
	return fmt.Sprintf("\t\t<link rel=\"preload\" as=\"fetch\" crossorigin href=\"%s\" />\n", html.EscapeString(at))
}

// Manifest gives the manifest by which a browser installs the app, after the W3C's Web
// Application Manifest.
func (s Site) Manifest() ([]byte, error) {
	b := s.Blueprint
	bar, ground := look.Bars(b.Theme, b.Look)
	type icon struct {
		Src     string `json:"src"`
		Sizes   string `json:"sizes"`
		Type    string `json:"type"`
		Purpose string `json:"purpose"`
	}
	out := struct {
		ID         string `json:"id"`
		Name       string `json:"name"`
		Short      string `json:"short_name"`
		Start      string `json:"start_url"`
		Scope      string `json:"scope"`
		Display    string `json:"display"`
		Theme      string `json:"theme_color"`
		Background string `json:"background_color"`
		Icons      []icon `json:"icons"`
	}{s.Path, b.Name, short(b.Name), s.Path + "/", s.Path + "/", "standalone", bar, ground, nil}
	for _, size := range []string{"192", "512"} {
		for _, purpose := range []string{"any", "maskable"} {
			out.Icons = append(out.Icons, icon{s.Path + "/-/icon/" + size, size + "x" + size, "image/png", purpose})
		}
	}
	return json.Marshal(out)
}

// short gives as many words of a name as stand below an icon.
func short(name string) string {
	out := ""
	for _, word := range strings.Fields(name) {
		if out != "" && len([]rune(out+" "+word)) > 12 {
			break
		}
		out = strings.TrimSpace(out + " " + word)
	}
	return out
}

// Initials gives the first letters of a name, two at most.
func Initials(name string) string {
	out := ""
	for _, word := range strings.Fields(name) {
		if r := []rune(word)[0]; unicode.IsLetter(r) || unicode.IsDigit(r) {
			out += string(unicode.ToUpper(r))
		}
		if len([]rune(out)) == 2 {
			break
		}
	}
	return out
}

// Sitemap lists the pages that are open to everyone, after sitemaps.org.
func (s Site) Sitemap() ([]byte, error) {
	type entry struct {
		Loc string `xml:"loc"`
	}
	out := struct {
		XMLName xml.Name `xml:"urlset"`
		Space   string   `xml:"xmlns,attr"`
		URLs    []entry  `xml:"url"`
	}{Space: "http://www.sitemaps.org/schemas/sitemap/0.9"}
	for i := range s.Blueprint.Pages {
		if p := &s.Blueprint.Pages[i]; Open(p) {
			at, err := url.JoinPath(s.Address, p.Path)
			if err != nil {
				return nil, fmt.Errorf("list %s: %w", p.Name, err)
			}
			out.URLs = append(out.URLs, entry{at})
		}
	}
	raw, err := xml.Marshal(out)
	return append([]byte(xml.Header), raw...), err
}

// Offline gives the page that is shown where there is no network.
func (s Site) Offline() []byte {
	b := s.Blueprint
	bar, ground := look.Bars(b.Theme, b.Look)
	return fmt.Appendf(nil, `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>%[1]s</title><style>
body{margin:0;font-family:system-ui,sans-serif;background:%[3]s;color:#1c2733;min-height:100vh;display:grid;place-items:center}
main{max-width:26rem;margin:1rem;padding:2rem;background:#fff;border-radius:8px;border-top:6px solid %[4]s}
h1{font-size:1.4rem;margin:0 0 .5rem}a{display:inline-block;margin-top:1rem;font-weight:600;color:inherit}
</style></head><body><main><h1>You are offline</h1>
<p>%[1]s needs a connection. What you wrote in forms and did not send is not sent yet.</p>
<a href="%[2]s/">Try again</a></main></body></html>
`, html.EscapeString(b.Name), html.EscapeString(s.Path), ground, bar)
}

// Worker gives the script that shows the offline page where a page of the app cannot be
// reached. It keeps nothing else.
func (s Site) Worker() []byte {
	return fmt.Appendf(nil, `const page = %q;
const cache = "offline";
self.addEventListener("install", (e) => {
	e.waitUntil(caches.open(cache).then((c) => c.add(new Request(page, { cache: "reload" }))).then(() => self.skipWaiting()));
});
self.addEventListener("activate", (e) => e.waitUntil(self.clients.claim()));
self.addEventListener("fetch", (e) => {
	if (e.request.mode !== "navigate") return;
	e.respondWith(fetch(e.request).catch(() => caches.match(page)));
});
`, s.Path+"/-/offline")
}
