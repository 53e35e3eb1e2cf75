// Package mark reads the Markdown in which texts and mails of apps are written.
package mark

import (
	"bytes"
	"fmt"
	"strings"
	"unicode"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/renderer/html"
)

// Literal writes a value so that Markdown takes it as it is, CommonMark 2.4.
func Literal(text string) string {
	var b strings.Builder
	for _, r := range text {
		if r < 128 && unicode.IsOneOf([]*unicode.RangeTable{unicode.Punct, unicode.Symbol}, r) {
			b.WriteByte('\\')
		}
		b.WriteRune(r)
	}
	return b.String()
}

// Reader reads texts: HTML in them is left out, and so are links that would run something.
func Reader() goldmark.Markdown {
	return goldmark.New(goldmark.WithRendererOptions(html.WithHardWraps()))
}

// HTML makes HTML of Markdown.
func HTML(reader goldmark.Markdown, text string) (string, error) {
	var out bytes.Buffer
	if err := reader.Convert([]byte(text), &out); err != nil {
		return "", fmt.Errorf("make HTML of a text: %w", err)
	}
	return out.String(), nil
}
