package form_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/prop"
)

func input(key string, required bool) *blueprint.FreeBlock {
	return &blueprint.FreeBlock{BlockHead: blueprint.BlockHead{ID: "c_" + key, Kind: "ask"}, Key: key, Name: strings.ToUpper(key),
		Type: blueprint.Number, Unit: "m", Asking: blueprint.Asking{Required: required}}
}

func result(key, value string, bands ...prop.Rule) *blueprint.ResultBlock {
	return &blueprint.ResultBlock{BlockHead: blueprint.BlockHead{ID: "c_" + key, Kind: "result"}, Key: key, Name: strings.ToUpper(key),
		Value: value, Bands: bands}
}

// calculator is a form that keeps nothing.
func calculator(t require.TestingT, b *blueprint.Blueprint, blocks ...blueprint.Block) *form.Form {
	return formed(t, b,
		&blueprint.FormBlock{BlockHead: blueprint.BlockHead{ID: "calc", Kind: "calculator"}, Blocks: blocks})
}

// told is a result in short: its value or the reason for none, what is said of it, and its formula.
func told(r *form.Result) string {
	var b strings.Builder
	if r.Reason != nil {
		b.WriteString(r.Reason.Error())
	} else {
		b.WriteString(r.Value.String())
	}
	if r.Band >= 0 {
		b.WriteString(" #" + string(rune('0'+r.Band)))
	}
	return b.String()
}

// TestResultsAreCalculated holds what results are, and why there are none.
func TestResultsAreCalculated(t *testing.T) {
	b := result("b", "IF(answers.a > 5, answers.w / (answers.h - 2), answers.a)")
	b.When = "answers.h <> 9"
	const cannot, without = "It can’t be calculated with these answers.", "X is empty."
	f := calculator(t, blueprinttest.Loft(t), input("w", true), input("h", true), input("x", false),
		result("a", "answers.w * answers.h + answers.x", prop.Rule{Holds: "answers.a > 100", Says: "Large"},
			prop.Rule{Holds: "answers.a > 10", Says: "Medium"}), b,
		result("c", "COALESCE(answers.b, 1) + answers.w / answers.w"), result("d", "SQRT(answers.w - 10)"), result("e", "answers.x * 2"))
	for _, x := range []struct {
		answers    map[string]any
		a, b, c, d string
		e          string
	}{
		{nil, "It needs W and H.", "It needs W and H.", "It needs W.", "It needs W.", without},
		{map[string]any{"c_w": "4"}, "It needs H.", "It needs H.", "It needs H.", cannot, without},
		{map[string]any{"c_w": "4", "c_h": "1"}, "4", "4", "5", cannot, without},
		{map[string]any{"c_w": "14", "c_h": "1", "c_x": "0"}, "14 #1", "-14", "-13", "2", "0"},
		{map[string]any{"c_w": "26", "c_h": "4", "c_x": "1"}, "105 #0", "13", "14", "4", "2"},
		{map[string]any{"c_w": "4", "c_h": "2"}, "8", "It would be divided by 0: H − 2 is 0.", "It would be divided by 0: H − 2 is 0.",
			cannot, without},
		{map[string]any{"c_w": "0", "c_h": "2"}, "0", "0", "It would be divided by 0: W is 0.", cannot,
			without},
		{map[string]any{"c_w": "x", "c_h": "2"}, "It needs W.", "It needs W.", "It needs W.", "It needs W.", without},
		{map[string]any{"c_w": "11", "c_h": "9"}, "99 #1", "", "2", "1", without},
	} {
		s := decided(f, loft{}, nil, given(x.answers))
		for id, want := range map[string]string{"c_a": x.a, "c_b": x.b, "c_c": x.c, "c_d": x.d, "c_e": x.e} {
			if want == "" {
				assert.False(t, s[id].Shown, "%v %s", x.answers, id)
				continue
			}
			assert.Equal(t, want, told(s[id].Result), "%v %s", x.answers, id)
		}
		assert.Equal(t, x.answers["c_w"] != nil && x.answers["c_w"] != "x" && x.answers["c_h"] != nil, s.Ready(), "%v", x.answers)
	}
}

// TestAStepInBetweenIsNotShown is used by others all the same.
func TestAStepInBetweenIsNotShown(t *testing.T) {
	between := result("a", "answers.w * 2")
	between.Aside = true
	f := calculator(t, blueprinttest.Loft(t), input("w", true), between, result("b", "answers.a + 1"))
	s := decided(f, loft{}, nil, given(map[string]any{"c_w": "3"}))
	assert.False(t, s["c_a"].Shown)
	assert.Equal(t, "7", told(s["c_b"].Result))
}

// TestAChartOfResultsIsThatOfItsAnswers holds, for random formulas and answers, that each point of a chart is what the
// form would calculate if that were answered.
func TestAChartOfResultsIsThatOfItsAnswers(t *testing.T) {
	number := rapid.SampledFrom([]string{"", "0", "1", "2", "3.5", "-4"})
	formula := rapid.SampledFrom([]string{"answers.w * answers.h", "answers.w / answers.h", "answers.w - answers.x / answers.h",
		"IF(answers.h > 1, answers.w, answers.x)", "COALESCE(answers.h, 3) * 2", "answers.w"})
	app := blueprinttest.Loft(t)
	rapid.Check(t, func(t *rapid.T) {
		second := rapid.SampledFrom([]string{"answers.a + answers.h", "IF(answers.a > 2, answers.a / answers.x, answers.h)",
			"answers.a * answers.a"})
		course := &blueprint.CourseBlock{BlockHead: blueprint.BlockHead{ID: "c_line", Kind: "course"}, Over: "c_h", From: "-1", To: "2",
			Each: "0.5", Results: []string{"c_b", "c_a"}}
		hidden := result("a", formula.Draw(t, "a"))
		if rapid.Bool().Draw(t, "hidden") {
			hidden.When = "answers.x <> 1"
		}
		f := calculator(t, app, input("w", true), input("h", true), input("x", rapid.Bool().Draw(t, "needed")), hidden,
			result("b", second.Draw(t, "b")), course)
		answers := map[string]any{"c_w": number.Draw(t, "w"), "c_h": number.Draw(t, "h"), "c_x": number.Draw(t, "x")}
		points := decided(f, loft{}, nil, given(answers))["c_line"].Course
		require.Len(t, points, 7)
		for _, p := range points {
			answers["c_h"] = p.At
			s := decided(f, loft{}, nil, given(answers))
			for i, id := range course.Results {
				want := expr.Empty()
				if s[id].Result != nil {
					want = s[id].Result.Value
				}
				assert.Equal(t, want.String(), p.Values[i].String(), "%s at %s of %v", id, p.At, answers)
			}
		}
	})
}
