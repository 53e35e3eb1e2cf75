package paper

import (
	"regexp"
	"strings"

	"github.com/beevik/etree"
)

// pieces lists the texts of a paragraph or a row in their order, without those of boxes that stand in a paragraph.
func pieces(of *etree.Element) []*etree.Element {
	var out []*etree.Element
	for _, x := range of.ChildElements() {
		switch x.FullTag() {
		case "w:t":
			out = append(out, x)
		case "w:txbxContent":
		default:
			out = append(out, pieces(x)...)
		}
	}
	return out
}

func textOf(of *etree.Element) string {
	var b strings.Builder
	for _, t := range pieces(of) {
		b.WriteString(t.Text())
	}
	return b.String()
}

// replace puts texts in the place of what a pattern finds in a paragraph. What is found can begin in one piece and end
// in another: the text stands in the first, with its looks.
func replace(p *etree.Element, by func(found string) (string, error), pattern *regexp.Regexp) error {
	list := pieces(p)
	whole := textOf(p)
	found := pattern.FindAllStringIndex(whole, -1)
	if len(found) == 0 {
		return nil
	}
	texts := make([]strings.Builder, len(list))
	at, next, until := 0, 0, 0 // in the whole, in found, and up to where what was found is left out
	put := ""
	for i, t := range list {
		for _, c := range []byte(t.Text()) { // pieces are cut between characters, and patterns begin and end with braces
			if next < len(found) && at == found[next][0] {
				text, err := by(whole[found[next][0]:found[next][1]])
				if err != nil {
					return err
				}
				put, until = text, found[next][1]
				texts[i].WriteString(put)
				next++
			}
			if at >= until {
				texts[i].WriteByte(c)
			}
			at++
		}
	}
	for i, t := range list {
		set(t, texts[i].String())
	}
	return nil
}

// set gives a piece its text, whose lines are parted by breaks.
func set(t *etree.Element, text string) {
	if text == t.Text() {
		return
	}
	lines := strings.Split(text, "\n")
	t.SetText(printable(lines[0]))
	t.CreateAttr("xml:space", "preserve")
	parent, at := t.Parent(), t.Index()+1
	for _, line := range lines[1:] {
		parent.InsertChildAt(at, etree.NewElement("w:br"))
		more := t.Copy()
		more.SetText(printable(line))
		parent.InsertChildAt(at+1, more)
		at += 2
	}
}

// printable leaves out what XML cannot hold.
func printable(s string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' && r != '\t' || r == 0xFFFE || r == 0xFFFF {
			return -1
		}
		return r
	}, s)
}
