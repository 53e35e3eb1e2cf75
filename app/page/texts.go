package page

import (
	"bytes"
	"fmt"
	"strings"
	"unicode"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/renderer/html"

	"pinegate/core/blueprint"
	"pinegate/store/records"
)

// Heading is a heading as it is shown.
type Heading struct {
	Head
	Words
	Size string `json:"size,omitempty"`
}

func headingReads(v *View, x *blueprint.HeadingBlock) ([]records.Read, error) {
	return v.reading(x.Text)
}

func showHeading(v *View, x *blueprint.HeadingBlock, got []records.Result) (*Heading, error) {
	w, err := v.filled(x.Text, got)
	return &Heading{Words: w, Size: string(x.Size)}, err
}

// Text is a text as it is shown.
type Text struct {
	Head
	Words
	HTML string `json:"html"` // made of Markdown; what values hold is no Markdown
	Size string `json:"size,omitempty"`
}

func textReads(v *View, x *blueprint.TextBlock) ([]records.Read, error) { return v.reading(x.Text) }

func showText(v *View, x *blueprint.TextBlock, got []records.Result) (*Text, error) {
	w, err := v.filled(x.Text, got)
	if err != nil {
		return nil, err
	}
	marked, err := v.filledBy(x.Text, got, literal)
	if err != nil {
		return nil, err
	}
	out := &Text{Words: w, Size: string(x.Size)}
	out.HTML, err = v.inHTML(marked.Text)
	return out, err
}

// literal writes a value so that Markdown takes it as it is, CommonMark 2.4.
func literal(text string) string {
	var b strings.Builder
	for _, r := range text {
		if r < 128 && unicode.IsOneOf([]*unicode.RangeTable{unicode.Punct, unicode.Symbol}, r) {
			b.WriteByte('\\')
		}
		b.WriteRune(r)
	}
	return b.String()
}

// markdown reads texts: HTML in them is left out, and so are links that would run something.
func markdown() goldmark.Markdown {
	return goldmark.New(goldmark.WithRendererOptions(html.WithHardWraps()))
}

// inHTML makes HTML of Markdown.
func (v *View) inHTML(text string) (string, error) {
	var out bytes.Buffer
	if err := v.markdown().Convert([]byte(text), &out); err != nil {
		return "", fmt.Errorf("read a text as Markdown: %w", err)
	}
	return out.String(), nil
}

// Button is a button as it is shown; without a target it is not.
type Button struct {
	Head
	Words
	To   *Target `json:"to,omitempty"`
	Hint string  `json:"hint,omitempty"` // shown while it is pointed at
}

func buttonReads(v *View, x *blueprint.ButtonBlock) ([]records.Read, error) { return v.reading(x.Text) }

func showButton(v *View, x *blueprint.ButtonBlock, got []records.Result) (*Button, error) {
	w, err := v.filled(x.Text, got)
	return &Button{Words: w, To: v.target(x.Page), Hint: x.Hint}, err
}

// Group is a group of blocks as it is shown.
type Group struct {
	Head
	Look    string  `json:"look,omitempty"`
	Title   string  `json:"title"`
	Picture string  `json:"picture,omitempty"`
	Blocks  []Block `json:"blocks"`
}

func (g *Group) hold(inside []Block) { g.Blocks = inside }

func groupReads(v *View, x *blueprint.GroupBlock) ([]records.Read, error) { return v.reading(x.Title) }

func showGroup(v *View, x *blueprint.GroupBlock, got []records.Result) (*Group, error) {
	w, err := v.filled(x.Title, got)
	return &Group{Look: string(x.Look), Title: w.Text, Picture: x.Picture}, err
}
