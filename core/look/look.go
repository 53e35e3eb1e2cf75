// Package look computes how an app looks from what its founder chose: colours of which
// every text can be read, whatever accent they are made of.
package look

import (
	"cmp"
	"fmt"
	"math"
	"strconv"
	"strings"

	"pinegate/core/blueprint"
)

// LeastContrast is the contrast that texts have with what is behind them, after WCAG 2.2,
// 1.4.3.
const LeastContrast = 4.5

// base is what a theme draws texts upon.
type base struct {
	ground, surface string
	dark            bool
	// barred tells that its bar takes the accent.
	barred bool
	bar    string
	// main is its accent, soft the palest of its texts, ink that of most.
	main, soft, ink string
}

// bases are the themes, as they stand in the stylesheet of apps.
func bases() map[blueprint.Theme]base {
	return map[blueprint.Theme]base{
		"Harbour":     {"#eef3f6", "#ffffff", false, true, "#123a54", "#1d5f86", "#506571", "#12242e"},
		"Meadow":      {"#f1f4ea", "#ffffff", false, true, "#36500f", "#4a6b14", "#5a6447", "#20290f"},
		"Slate":       {"#f0f1f3", "#ffffff", false, true, "#232a38", "#39455d", "#596070", "#1b1f27"},
		"Clay":        {"#f7f0ea", "#fffdfb", false, true, "#6d3115", "#9c4a22", "#74594a", "#2e1c12"},
		"Paper":       {"#ffffff", "#ffffff", false, false, "#ffffff", "#1a1a18", "#5e5e58", "#1a1a18"},
		"Night ferry": {"#0e141d", "#161f2b", true, false, "#0a0f16", "#f0b35a", "#9fb0c3", "#e4ebf3"},
	}
}

// tones are the colours of words that are good, or need attention, or are wrong.
func (b base) tones() []string {
	if b.dark {
		return []string{"#6fcf97", "#f0b35a", "#f08aa0"}
	}
	return []string{"#2b7a4b", "#8a5a00", "#a6324a"}
}

// Bars gives the colours of the app's bar and of the ground of its pages, as #rrggbb.
func Bars(theme blueprint.Theme, l blueprint.Look) (bar, ground string) {
	b, own := bases()[theme], Tokens(theme, l)
	return cmp.Or(own["bar"], b.bar), cmp.Or(own["ground"], b.ground)
}

// Tokens gives the custom properties of CSS, by their names, that differ from those of the
// theme. An accent that could not be read is made darker, or lighter, until it can; so is
// a ground on which words could not.
func Tokens(theme blueprint.Theme, l blueprint.Look) map[string]string {
	out := map[string]string{}
	b := bases()[theme]
	if chosen, ok := parse(l.Ground); ok {
		b.ground = b.bearing(chosen, l.Accent).hex()
		out["ground"] = b.ground
	}
	if accent, ok := parse(l.Accent); ok {
		main := readable(accent, b)
		out["main"], out["on-main"] = main.hex(), over(main).hex()
		if b.barred {
			bar := main.mix(colour{0, 0, 0}, 0.35)
			out["bar"], out["on-bar"] = bar.hex(), over(bar).hex()
		}
	}
	if l.Heading != "" {
		out["display"] = family(l.Heading)
	}
	if l.Text != "" {
		out["text"] = family(l.Text)
	}
	switch l.Corners {
	case blueprint.SquareCorners:
		out["corner"] = "0px"
	case blueprint.SoftCorners:
		out["corner"] = "6px"
	case blueprint.RoundCorners:
		out["corner"] = "14px"
	}
	switch l.Density {
	case blueprint.Compact:
		out["size"] = "15px"
	case blueprint.Roomy:
		out["size"] = "17.5px"
	}
	return out
}

func family(face blueprint.Face) string {
	return fmt.Sprintf("%q, system-ui, sans-serif", string(face)+" Variable")
}

// bearing moves a ground towards white, or black, until all words of the theme can be read on it, and on bands of it and
// the accent.
func (b base) bearing(ground colour, accent string) colour {
	away := colour{1, 1, 1}
	if b.dark {
		away = colour{0, 0, 0}
	}
	for part := 0.0; part < 1; part += 0.02 {
		x := ground.mix(away, part).rounded()
		if b.ground = x.hex(); b.bears(x) && b.bearsBand(x, accent) {
			return x
		}
	}
	return away
}

func (b base) bears(ground colour) bool {
	for _, ink := range append(b.tones(), b.main, b.soft) {
		if Contrast(ink, ground.hex()) < LeastContrast {
			return false
		}
	}
	return true
}

// bearsBand tells whether words can be read on a band, also the paler ones there. How bands are mixed stands in the
// stylesheet of apps.
func (b base) bearsBand(ground colour, accent string) bool {
	main, _ := parse(b.main)
	if chosen, ok := parse(accent); ok {
		main = readable(chosen, b)
	}
	ink, _ := parse(b.ink)
	return contrast(ink.mix(ground, 0.2).rounded(), ground.mix(main, 0.12).rounded()) >= LeastContrast
}

// readable moves a colour away from what is behind it until texts of it can be read there.
func readable(c colour, b base) colour {
	ground, _ := parse(b.ground)
	surface, _ := parse(b.surface)
	away := colour{0, 0, 0}
	if b.dark {
		away = colour{1, 1, 1}
	}
	for part := 0.0; part < 1; part += 0.02 {
		x := c.mix(away, part).rounded()
		if Contrast(x.hex(), ground.hex()) >= LeastContrast && Contrast(x.hex(), surface.hex()) >= LeastContrast {
			return x
		}
	}
	return away
}

// over gives the colour of texts upon another: white or nearly black, whichever is read
// better.
func over(c colour) colour {
	white, dark := colour{1, 1, 1}, colour{0.07, 0.07, 0.07}
	if contrast(white, c) >= contrast(dark, c) {
		return white
	}
	return dark
}

// colour has red, green and blue from 0 to 1, in sRGB.
type colour [3]float64

func parse(hex string) (colour, bool) {
	n, err := strconv.ParseUint(strings.TrimPrefix(hex, "#"), 16, 32)
	if err != nil || len(hex) != 7 {
		return colour{}, false
	}
	return colour{float64(n>>16&0xff) / 255, float64(n>>8&0xff) / 255, float64(n&0xff) / 255}, true
}

func (c colour) hex() string {
	at := func(i int) int { return int(math.Round(c[i] * 255)) }
	return fmt.Sprintf("#%02x%02x%02x", at(0), at(1), at(2))
}

// rounded gives the colour as it can be written.
func (c colour) rounded() colour {
	out, _ := parse(c.hex())
	return out
}

func (c colour) mix(other colour, part float64) colour {
	for i := range c {
		c[i] += (other[i] - c[i]) * part
	}
	return c
}

// luminance is the relative luminance, after WCAG 2.2.
func (c colour) luminance() float64 {
	linear := func(v float64) float64 {
		if v <= 0.04045 {
			return v / 12.92
		}
		return math.Pow((v+0.055)/1.055, 2.4)
	}
	return 0.2126*linear(c[0]) + 0.7152*linear(c[1]) + 0.0722*linear(c[2])
}

func contrast(a, b colour) float64 {
	x, y := a.luminance(), b.luminance()
	return (max(x, y) + 0.05) / (min(x, y) + 0.05)
}

// Contrast gives the contrast of two colours, written as #rrggbb, from 1 to 21; 0 where one
// is none.
func Contrast(a, b string) float64 {
	x, ok := parse(a)
	y, also := parse(b)
	if !ok || !also {
		return 0
	}
	return contrast(x, y)
}
