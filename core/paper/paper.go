// Package paper fills in Word files (OOXML, ECMA-376): what stands in double braces is replaced by values,
// and rows or paragraphs between {{ each … }} and {{ end }} come once for each record of a list, between
// {{ if … }} and {{ end }} when a condition holds.
package paper

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"regexp"
	"strings"

	"github.com/beevik/etree"

	"pinegate/core/words"
)

// Values are what placeholders name.
type Values interface {
	// Text gives what a placeholder shows.
	Text(source string) (string, error)
	// Holds tells whether a condition holds.
	Holds(source string) (bool, error)
	// Each gives, for each record of a list, what placeholders name there.
	Each(source string) ([]Values, error)
}

// Limits of a template: bytes of it unfolded, parts of it, and how often something is repeated. What folds
// much into little is refused before it is unfolded.
const (
	mostUnfolded = 50 << 20
	mostParts    = 2000
	mostTimes    = 2000
)

// filled are the parts of a file in which placeholders are.
var filled = regexp.MustCompile(`^word/(document|header\d*|footer\d*|footnotes|endnotes)\.xml$`)

// Fill gives a Word file with its placeholders filled in. A problem in words tells that the file cannot be read, or
// which placeholder is wrong.
func Fill(template []byte, v Values) ([]byte, error) {
	in, err := zip.NewReader(bytes.NewReader(template), int64(len(template)))
	if err != nil {
		return nil, words.New("paper-file")
	}
	if len(in.File) > mostParts {
		return nil, words.New("paper-large", "mb", mostUnfolded>>20)
	}
	var out bytes.Buffer
	w, left, found := zip.NewWriter(&out), int64(mostUnfolded), false
	for _, part := range in.File {
		raw, err := unfolded(part, left)
		if err != nil {
			return nil, err
		}
		left -= int64(len(raw))
		if filled.MatchString(part.Name) {
			found = true
			if raw, err = fill(raw, v); err != nil {
				return nil, err
			}
		}
		to, err := w.CreateHeader(&zip.FileHeader{Name: part.Name, Method: zip.Deflate, Modified: part.Modified})
		if err != nil {
			return nil, fmt.Errorf("write a Word file: %w", err)
		}
		if _, err := to.Write(raw); err != nil {
			return nil, fmt.Errorf("write a Word file: %w", err)
		}
	}
	if !found {
		return nil, words.New("paper-file")
	}
	if err := w.Close(); err != nil {
		return nil, fmt.Errorf("write a Word file: %w", err)
	}
	return out.Bytes(), nil
}

// unfolded reads a part of so many bytes at most.
func unfolded(part *zip.File, most int64) ([]byte, error) {
	r, err := part.Open()
	if err != nil {
		return nil, words.New("paper-file")
	}
	raw, err := io.ReadAll(io.LimitReader(r, most+1))
	if closed := r.Close(); err != nil || closed != nil {
		return nil, words.New("paper-file")
	}
	if int64(len(raw)) > most {
		return nil, words.New("paper-large", "mb", mostUnfolded>>20)
	}
	return raw, nil
}

func fill(raw []byte, v Values) ([]byte, error) {
	doc := etree.NewDocument()
	if err := doc.ReadFromBytes(raw); err != nil || doc.Root() == nil {
		return nil, words.New("paper-file")
	}
	f := &filler{}
	if err := f.blocks(doc.Root(), v); err != nil {
		return nil, err
	}
	out, err := doc.WriteToBytes()
	if err != nil {
		return nil, fmt.Errorf("write a Word file: %w", err)
	}
	return out, nil
}

type filler struct{ times int }

// directive is what stands alone in a paragraph, or at the ends of a row.
var (
	begins = regexp.MustCompile(`^\{\{\s*(each|if)\s+([^{}]+?)\s*\}\}$`)
	ends   = regexp.MustCompile(`^\{\{\s*end\s*\}\}$`)
	row    = regexp.MustCompile(`\{\{\s*(each|if)\s+([^{}]+?)\s*\}\}`)
	rowEnd = regexp.MustCompile(`\{\{\s*end\s*\}\}`)
)

// blocks fills in what stands one after the other: paragraphs, rows, and what holds them.
func (f *filler) blocks(in *etree.Element, v Values) error {
	list := in.ChildElements()
	for i := 0; i < len(list); i++ {
		x := list[i]
		switch {
		case x.FullTag() == "w:p" && begins.MatchString(strings.TrimSpace(textOf(x))):
			end := closing(list, i)
			if end < 0 {
				return words.New("paper-end", "piece", strings.TrimSpace(textOf(x)))
			}
			m := begins.FindStringSubmatch(strings.TrimSpace(textOf(x)))
			if err := f.repeat(in, list[i:end+1], list[i+1:end], m[1], m[2], v); err != nil {
				return err
			}
			i = end
		case x.FullTag() == "w:tr" && row.MatchString(textOf(x)) && rowEnd.MatchString(textOf(x)):
			m := row.FindStringSubmatch(textOf(x))
			if err := f.strip(x); err != nil {
				return err
			}
			if err := f.repeat(in, list[i:i+1], list[i:i+1], m[1], m[2], v); err != nil {
				return err
			}
		case x.FullTag() == "w:p":
			if err := f.paragraph(x, v); err != nil {
				return err
			}
		default:
			if err := f.blocks(x, v); err != nil {
				return err
			}
		}
	}
	return nil
}

// closing finds the end that belongs to what begins at a place.
func closing(list []*etree.Element, at int) int {
	deep := 0
	for i := at; i < len(list); i++ {
		if list[i].FullTag() != "w:p" {
			continue
		}
		switch text := strings.TrimSpace(textOf(list[i])); {
		case begins.MatchString(text):
			deep++
		case ends.MatchString(text):
			if deep--; deep == 0 {
				return i
			}
		}
	}
	return -1
}

// repeat puts copies of some elements, each filled in, in the place of others.
func (f *filler) repeat(in *etree.Element, all, what []*etree.Element, how, source string, v Values) error {
	source = typed.Replace(source)
	var each []Values
	if how == "if" {
		holds, err := v.Holds(source)
		if err != nil {
			return err
		}
		if holds {
			each = []Values{v}
		}
	} else {
		var err error
		if each, err = v.Each(source); err != nil {
			return err
		}
	}
	if f.times += len(each); f.times > mostTimes {
		return words.New("paper-times", "n", mostTimes)
	}
	at := all[0].Index()
	holder := etree.NewElement("holder")
	for _, one := range each {
		for _, x := range what {
			holder.AddChild(x.Copy())
		}
		if err := f.last(holder, len(what), one); err != nil {
			return err
		}
	}
	for _, x := range all {
		in.RemoveChild(x)
	}
	for _, x := range holder.ChildElements() {
		in.InsertChildAt(at, x)
		at++
	}
	return nil
}

// last fills in the last so many elements of a holder, among themselves.
func (f *filler) last(holder *etree.Element, n int, v Values) error {
	list := holder.ChildElements()
	some := etree.NewElement("some")
	for _, x := range list[len(list)-n:] {
		some.AddChild(x)
	}
	if err := f.blocks(some, v); err != nil {
		return err
	}
	for _, x := range some.ChildElements() {
		holder.AddChild(x)
	}
	return nil
}

// strip takes what repeats a row out of its paragraphs.
func (f *filler) strip(of *etree.Element) error {
	done := [2]bool{}
	for _, p := range of.FindElements(".//w:p") {
		text := textOf(p)
		for i, pattern := range []*regexp.Regexp{row, rowEnd} {
			if at := pattern.FindStringIndex(text); at != nil && !done[i] {
				done[i] = true
				replace(p, func(string) (string, error) { return "", nil }, pattern)
				text = textOf(p)
			}
		}
	}
	if !done[0] || !done[1] {
		return words.New("paper-end", "piece", strings.TrimSpace(textOf(of)))
	}
	return nil
}

// typed puts plain signs in the place of those that Word makes of them while one types.
var typed = strings.NewReplacer("“", `"`, "”", `"`, "„", `"`, "–", "-", "\u00a0", " ")

var placeholder = regexp.MustCompile(`\{\{([^{}]*)\}\}`)

// paragraph fills in the placeholders of a paragraph, wherever Word has cut them into pieces.
func (f *filler) paragraph(p *etree.Element, v Values) error {
	if err := replace(p, func(found string) (string, error) {
		source := typed.Replace(strings.TrimSpace(placeholder.FindStringSubmatch(found)[1]))
		text, err := v.Text(source)
		if err != nil {
			return "", words.New("paper-placeholder", "piece", found, "problem", err.Error())
		}
		return text, nil
	}, placeholder); err != nil {
		return err
	}
	for _, x := range p.FindElements(".//w:txbxContent") { // a box of text that stands in it
		if err := f.blocks(x, v); err != nil {
			return err
		}
	}
	return nil
}
