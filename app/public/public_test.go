package public_test

import (
	"encoding/json"
	"image"
	"image/color"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/public"
	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
)

func loft(t *testing.T, changes ...string) public.Site {
	b := blueprinttest.After(t, blueprinttest.Loft(t), changes...)
	return public.Site{Blueprint: b, Address: "https://apps.example/a/loft", Path: "/a/loft"}
}

// TestOnlyWhatIsOpenIsTold says nothing of pages that are not open to everyone.
func TestOnlyWhatIsOpenIsTold(t *testing.T) {
	s := loft(t, `{"kind":"set","of":"n1","values":{"name":"Wel\"come <b>","description":"Sails & more"}}`)
	b := s.Blueprint
	head := s.Head(b.Page("n1"))
	assert.Contains(t, head, `<title>Wel&#34;come &lt;b&gt; – Loft</title>`)
	assert.Contains(t, head, `<meta name="description" content="Sails &amp; more" />`)
	assert.Contains(t, head, `<meta property="og:image" content="https://apps.example/a/loft/-/icon/512" />`)
	assert.NotContains(t, head, "noindex")
	for name, p := range map[string]*blueprint.Page{"for people": b.Page("all"), "of a record": b.Page("one"), "none": nil} {
		head := s.Head(p)
		assert.Contains(t, head, `<title>Loft</title>`, name)
		assert.Contains(t, head, "noindex", name)
		assert.NotContains(t, head, "sails", name)
	}
	site, err := s.Sitemap()
	require.NoError(t, err)
	assert.Equal(t, 1, strings.Count(string(site), "<loc>"))
	hidden := loft(t, `{"kind":"set","of":"n1","values":{"when":"1 = 1"}}`)
	assert.False(t, public.Open(hidden.Blueprint.Page("n1")), "what is shown only when is not told of")
}

func TestAPageIsDescribedByItsFirstWords(t *testing.T) {
	s := loft(t, `{"kind":"add","what":"block","into":"n1","id":"t1","values":{"kind":"text","text":"Hello {{ me.name }}"}}`,
		`{"kind":"add","what":"block","into":"n1","id":"t2","values":{"kind":"text","text":"`+strings.Repeat("Sails  of all sizes. ", 20)+`"}}`)
	said := public.Description(s.Blueprint.Page("n1"))
	assert.True(t, strings.HasPrefix(said, "Sails of all sizes. Sails"), said)
	assert.True(t, strings.HasSuffix(said, "…"))
	assert.LessOrEqual(t, len([]rune(said)), 200)
}

func TestAPageIsAskedForEarly(t *testing.T) {
	s := loft(t)
	for parts, want := range map[string]string{"": `href="/a/loft/-/page"`, "my-sails": `href="/a/loft/-/page?path=my-sails"`,
		"sail 01a0-7": `href="/a/loft/-/page?path=sail&amp;record=01a0-7"`, "~ sign-in": "", "a b c": "", `x"><b>`: "", "Sails": ""} {
		got := s.Early(strings.Fields(parts))
		if want == "" {
			assert.Empty(t, got, parts)
			continue
		}
		assert.Contains(t, got, want, parts)
	}
}

func TestItCanBeInstalled(t *testing.T) {
	s := loft(t, `{"kind":"set","of":"app","values":{"name":"Alder Cove Boatyard","look.accent":"#884400"}}`)
	raw, err := s.Manifest()
	require.NoError(t, err)
	var m map[string]any
	require.NoError(t, json.Unmarshal(raw, &m))
	assert.Equal(t, "Alder Cove", m["short_name"])
	assert.Equal(t, "/a/loft/", m["scope"])
	assert.Regexp(t, "^#[0-9a-f]{6}$", m["theme_color"])
	assert.Len(t, m["icons"], 4)
	assert.Contains(t, string(s.Offline()), "Alder Cove Boatyard needs a connection.")
	assert.Contains(t, string(s.Worker()), `"/a/loft/-/offline"`)
	for name, want := range map[string]string{"Alder Cove Boatyard": "AC", "loft": "L", "  7 seas ": "7S", "– & Co": "C", "…": ""} {
		assert.Equal(t, want, public.Initials(name), name)
	}
}

// TestIcons draws initials, and logos of odd sizes.
func TestIcons(t *testing.T) {
	s := loft(t)
	for _, logo := range []image.Image{nil, image.NewRGBA(image.Rect(0, 0, 400, 3)), image.NewRGBA(image.Rect(0, 0, 1, 90)), image.NewRGBA(image.Rectangle{})} {
		got, err := s.Icon(192, logo)
		require.NoError(t, err)
		assert.Equal(t, image.Rect(0, 0, 192, 192), got.Bounds())
	}
	drawn, err := s.Icon(192, nil)
	require.NoError(t, err)
	colours := map[color.Color]bool{}
	for x := range 192 {
		colours[drawn.At(x, 96)] = true
	}
	assert.Greater(t, len(colours), 1, "the initials are there")
}
