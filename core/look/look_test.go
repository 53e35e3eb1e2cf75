package look_test

import (
	"fmt"
	"math"
	"os"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/look"
)

// stylesheet gives the tokens of a theme as apps have them.
func stylesheet(t testing.TB, theme blueprint.Theme) map[string]string {
	raw, err := os.ReadFile("../../web/src/runtime/themes.css")
	require.NoError(t, err)
	block := regexp.MustCompile(`(?s)data-theme="` + string(theme) + `"\] \{(.*?)\n\}`).FindSubmatch(raw)
	require.NotNil(t, block, theme)
	out := map[string]string{}
	for _, m := range regexp.MustCompile(`--([a-z-]+): ([^;]+);`).FindAllSubmatch(block[1], -1) {
		out[string(m[1])] = string(m[2])
	}
	return out
}

// mix mixes a part of another colour into one.
func mix(of, with string, part float64) string {
	var a, b [3]int
	fmt.Sscanf(of, "#%02x%02x%02x", &a[0], &a[1], &a[2])
	fmt.Sscanf(with, "#%02x%02x%02x", &b[0], &b[1], &b[2])
	for i := range a {
		a[i] += int(math.Round(float64(b[i]-a[i]) * part))
	}
	return fmt.Sprintf("#%02x%02x%02x", a[0], a[1], a[2])
}

// TestEveryGroundBearsWords draws grounds and accents at random, for each theme. Bands are
// mixed of both, as the stylesheet says.
func TestEveryGroundBearsWords(t *testing.T) {
	for _, theme := range blueprint.Themes() {
		css := stylesheet(t, theme)
		for _, tone := range []string{"good", "attention", "bad"} {
			if css[tone] == "" {
				css[tone] = map[string]string{"good": "#2b7a4b", "attention": "#8a5a00", "bad": "#a6324a"}[tone]
			}
		}
		rapid.Check(t, func(t *rapid.T) {
			colour := rapid.Custom(func(t *rapid.T) string { return fmt.Sprintf("#%06x", rapid.IntRange(0, 0xffffff).Draw(t, "colour")) })
			got := look.Tokens(theme, blueprint.Look{Ground: colour.Draw(t, "ground"), Accent: colour.Draw(t, "accent")})
			for _, ink := range []string{css["ink"], css["soft"], css["main"], css["good"], css["attention"], css["bad"], got["main"]} {
				if c := look.Contrast(ink, got["ground"]); c < look.LeastContrast {
					t.Fatalf("%s: %s on %s has a contrast of %.2f", theme, ink, got["ground"], c)
				}
			}
			band := mix(got["ground"], got["main"], 0.12)
			for _, ink := range []string{css["ink"], mix(css["ink"], got["ground"], 0.2)} {
				if c := look.Contrast(ink, band); c < look.LeastContrast {
					t.Fatalf("%s: %s on the band %s of %s and %s has a contrast of %.2f", theme, ink, band, got["ground"], got["main"], c)
				}
			}
		})
		bar, ground := look.Bars(theme, blueprint.Look{Ground: css["ground"]})
		assert.Equal(t, []string{css["bar"], css["ground"]}, []string{bar, ground}, "the theme's own stays as it is")
	}
}

// TestEveryAccentCanBeRead draws accents at random, for each theme.
func TestEveryAccentCanBeRead(t *testing.T) {
	for _, theme := range blueprint.Themes() {
		css := stylesheet(t, theme)
		rapid.Check(t, func(t *rapid.T) {
			accent := fmt.Sprintf("#%06x", rapid.IntRange(0, 0xffffff).Draw(t, "accent"))
			got := look.Tokens(theme, blueprint.Look{Accent: accent})
			for _, pair := range [][2]string{{got["main"], css["ground"]}, {got["main"], css["surface"]}, {got["on-main"], got["main"]}} {
				if c := look.Contrast(pair[0], pair[1]); c < look.LeastContrast {
					t.Fatalf("%s, %s: %s on %s has a contrast of %.2f", theme, accent, pair[0], pair[1], c)
				}
			}
			if got["bar"] != "" && look.Contrast(got["on-bar"], got["bar"]) < look.LeastContrast {
				t.Fatalf("%s, %s: the bar %s", theme, accent, got["bar"])
			}
		})
	}
}

// TestThemesCanBeRead holds the same of the themes as they come.
func TestThemesCanBeRead(t *testing.T) {
	for _, theme := range blueprint.Themes() {
		css := stylesheet(t, theme)
		for _, pair := range [][2]string{{"main", "ground"}, {"main", "surface"}, {"on-main", "main"}, {"on-bar", "bar"}, {"ink", "ground"},
			{"ink", "surface"}, {"soft", "ground"}, {"soft", "surface"}} {
			assert.GreaterOrEqual(t, look.Contrast(css[pair[0]], css[pair[1]]), look.LeastContrast, "%s: %s on %s", theme, pair[0], pair[1])
		}
	}
}

func TestOnlyWhatIsChosenDiffers(t *testing.T) {
	assert.Empty(t, look.Tokens("Harbour", blueprint.Look{}))
	assert.Equal(t, map[string]string{"display": `"Fraunces Variable", system-ui, sans-serif`, "corner": "14px", "size": "15px"},
		look.Tokens("Clay", blueprint.Look{Heading: "Fraunces", Corners: blueprint.RoundCorners, Density: blueprint.Compact}))
	assert.Equal(t, "#1d5f86", look.Tokens("Harbour", blueprint.Look{Accent: "#1d5f86"})["main"], "what can be read stays as it is")
	assert.Zero(t, look.Contrast("red", "#ffffff"))
}
