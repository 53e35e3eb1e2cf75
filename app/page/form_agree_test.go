package page_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/app/page"
	"pinegate/core/form"
	"pinegate/store/records"
)

// TestWhatIsShownIsWhatIsTaken: for any answers, those are taken of which nothing is said, and the
// others are refused where it is said; what is not shown is never taken, and what is needed always is.
func TestWhatIsShownIsWhatIsTaken(t *testing.T) {
	l := asking(t)
	said(t, l, "form", "cl", "requiredWhen", `answers.name = "Genoa"`, "narrow", `answers.name <> "Jib" or answers.cloth.rate > 1`)
	said(t, l, "form", "area", "when", `answers.cloth = "Dacron"`, "rules", []map[string]string{{"holds": "answers.area > 5"}})
	said(t, l, "form", "owner", "when", `answers.area <> "" or answers.name = "Any"`, "narrow", "name <> answers.name", "required", true)
	u := use(t, l, "Ines", "my-sails", "", "form")
	field := map[string]string{}
	for q := range u.Block.Questions {
		field[q.ID] = q.Field
	}
	values := map[string][]any{"name": {nil, "Jib", "Genoa", "Any", "Ines", "Tomas"}, "cl": {nil, "dacron", "laminate", "gone"},
		"area": {nil, "3", "9", "x"}, "owner": {nil, l.People["Ines"], l.People["Tomas"]}}
	rapid.Check(t, func(rt *rapid.T) {
		answered := map[string]any{}
		for f, of := range values {
			if v := rapid.SampledFrom(of).Draw(rt, f); v != nil {
				answered[f] = v
			}
		}
		state, err := u.State(t.Context(), page.StateAsked{Answers: answers(t, answered)})
		require.NoError(rt, err)
		wrong := map[string]bool{}
		shown := map[string]bool{}
		for id, p := range state.Parts {
			shown[field[id]] = true
			if p.Wrong != "" || p.Missing != "" || p.Cleared != "" {
				wrong[field[id]] = true
			}
			if p.Required && answered[field[id]] == nil && p.Missing == "" {
				rt.Fatalf("%s is needed, and nothing is said", field[id])
			}
		}
		sent := map[string]any{} // as the browser sends it, which leaves out what is not shown
		for f, v := range answered {
			if shown[f] {
				sent[f] = v
			}
		}
		taken, err := u.Take(t.Context(), page.Sent{Values: records.Values(form.Answers(answers(t, sent)))})
		var refused records.FieldErrors
		if err != nil && !errors.As(err, &refused) {
			rt.Fatalf("%v", err)
		}
		for f := range values {
			if _, is := refused[f]; is != wrong[f] {
				rt.Fatalf("%s is said to be wrong: %v, and is refused: %v (%v)", f, wrong[f], refused[f], answered)
			}
			if _, is := taken.Values[f]; is && !shown[f] {
				rt.Fatalf("%s is not shown, and is taken", f)
			}
		}
		for f := range answered { // and one that is not shown is refused, where it is sent all the same
			if shown[f] || len(wrong) > 0 {
				continue
			}
			_, err := u.Take(t.Context(), page.Sent{Values: records.Values(form.Answers(answers(t, answered)))})
			require.ErrorAs(rt, err, &refused)
			require.Contains(rt, refused, f)
		}
	})
}
