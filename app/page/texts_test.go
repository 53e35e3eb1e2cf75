package page_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act/acttest"
	"pinegate/core/blueprint"
)

// TestTextsAreMarkdown makes HTML of a text, and of no value in it.
func TestTextsAreMarkdown(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"add","what":"block","into":"one","id":"words","values":{"kind":"text","size":"large"}}`)
	for source, want := range map[string]string{
		"A **bold** word\nand a line":          "<p>A <strong>bold</strong> word<br>\nand a line</p>\n",
		"- one\n- two":                         "<ul>\n<li>one</li>\n<li>two</li>\n</ul>\n",
		"[Map](https://map.example)":           "<p><a href=\"https://map.example\">Map</a></p>\n",
		"[x](javascript:alert(1))":             "<p><a href=\"\">x</a></p>\n",
		"<script>alert(1)</script>":            "<!-- raw HTML omitted -->\n",
		"<img src=x onerror=alert(1)> & words": "<p><!-- raw HTML omitted --> &amp; words</p>\n",
		"The {{ name }}.":                      "<p>The *Jib* &lt;b&gt; [x](y) # 1.</p>\n",
		"**{{ name }}**":                       "<p><strong>*Jib* &lt;b&gt; [x](y) # 1</strong></p>\n",
	} {
		_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Setting("words", "text", source))
		require.NoError(t, err)
		id := l.Add("sail", map[string]any{"name": "*Jib* <b> [x](y) # 1"})
		got := blocks(t, l, l.Founder(), "sail", id)
		assert.Equal(t, want, got["words"]["html"], source)
	}
}
