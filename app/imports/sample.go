package imports

import (
	"slices"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/intake"
)

// mostSamples is how many rows of a sheet are shown as they come, and how many of those that are kept aside.
const mostSamples = 4

// sampleOf gives room for what is read of a row; nil where it is not shown.
func (b *bringer) sampleOf(cells []string) []string {
	if !b.dry || len(b.samples) >= mostSamples {
		return nil
	}
	return make([]string, len(cells))
}

// sample keeps a row beside what was read of it.
func (b *bringer) sample(n int, cells, values []string) {
	if values != nil {
		b.samples = append(b.samples, intake.SampleRow{Row: n, Cells: slices.Clone(cells), Values: values})
	}
}

// sampleAside keeps a row that is kept aside, with the reason.
func (b *bringer) sampleAside(n int, cells []string, wrong string) {
	if b.dry && len(b.wrong) < mostSamples {
		b.wrong = append(b.wrong, intake.SampleRow{Row: n, Cells: slices.Clone(cells), Wrong: wrong})
	}
}

// found gives the values of a cell that point to something.
func (c *cell) found(text string) []string {
	return slices.DeleteFunc(c.parts(text), func(part string) bool { return c.links[intake.Fold(part)] == "" })
}

// noteMissing keeps some of the values of a cell that point to nothing, where it only counts.
func (b *bringer) noteMissing(c *cell, text string) {
	if !b.dry || len(c.names) >= mostSamples {
		return
	}
	for _, part := range c.parts(text) {
		part = strings.TrimSpace(part)
		if c.links[intake.Fold(part)] == "" && !slices.Contains(c.names, part) {
			c.names = append(c.names, part)
		}
	}
}

// told gives a value as people read it: choices by what they are called.
func (c *cell) told(v expr.Value) string {
	switch {
	case v.IsEmpty():
		return ""
	case c.field.Type == blueprint.YesNo:
		return map[bool]string{true: "yes", false: "no"}[v.Yes]
	case len(v.Items) > 0:
		var out []string
		for _, x := range v.Items {
			out = append(out, c.reader.Label(x.Text))
		}
		return strings.Join(out, ", ")
	case c.field.Type == blueprint.Choose:
		return c.reader.Label(v.Text)
	}
	return v.String()
}
