package imports

import (
	"slices"
	"strings"
	"time"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/intake"
)

// mostSamples is how many rows of a sheet are shown as they come, and how many of those that are kept aside.
const mostSamples = 4

// sample keeps one of the first rows beside what was read of it, where it only counts.
func (b *bringer) sample(row *read) {
	if !b.dry || len(b.samples) >= mostSamples {
		return
	}
	values := make([]string, len(row.cells))
	for _, c := range b.cells {
		text := strings.TrimSpace(row.cells[c.at])
		if c.field.Type == blueprint.Link || c.field.Type == blueprint.Links {
			values[c.at] = strings.Join(c.found(text), ", ")
		} else if v, wrong := c.reader.Read(text); wrong == nil {
			values[c.at] = c.told(v, b.seat.Blueprint.Location())
		}
	}
	b.samples = append(b.samples, intake.SampleRow{Row: row.n, Cells: slices.Clone(row.cells), Values: values})
}

// sampleAside keeps a row that is kept aside, with the reason.
func (b *bringer) sampleAside(row *read) {
	if b.dry && len(b.wrong) < mostSamples {
		b.wrong = append(b.wrong, intake.SampleRow{Row: row.n, Cells: slices.Clone(row.cells), Wrong: row.wrong})
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

// told gives a value as people read it: choices by what they are called, moments as clocks in the zone of the app show them.
func (c *cell) told(v expr.Value, zone *time.Location) string {
	if at, err := time.Parse(time.RFC3339, v.String()); err == nil && c.field.Type == blueprint.TimeStamp {
		return at.In(zone).Format("2006-01-02T15:04")
	}
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
