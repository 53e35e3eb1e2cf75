package form_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"pinegate/core/blueprint/blueprinttest"
)

// TestChoicesAreNarrowedByAnswers offers the choices of a list that fit the answers above, by the
// columns of that list, and clears what does not fit any more; of several, too.
func TestChoicesAreNarrowedByAnswers(t *testing.T) {
	b := blueprinttest.After(t, blueprinttest.Loft(t), `{"kind":"set","of":"laminate","values":{"rate":"9"}}`,
		`{"kind":"add","what":"field","into":"sail","id":"more","values":{"name":"More","type":"several choices","list":"cloth"}}`)
	cloth, more := when("cl", ""), when("more", "")
	cloth.Narrow = `answers.area = "" or answers.cloth.rate <= answers.area`
	more.Narrow = `answers.more <> answers.cloth`
	f := checked(t, b, when("area", ""), cloth, more)
	for _, x := range []struct {
		answers map[string]any
		offered []string
		cleared bool
		others  []string
		lost    bool
	}{
		{map[string]any{}, []string{"dacron", "laminate"}, false, []string{"dacron", "laminate"}, false},
		{map[string]any{"area": "5"}, []string{"dacron"}, false, []string{"dacron", "laminate"}, false},
		{map[string]any{"area": "5", "cl": "dacron"}, []string{"dacron"}, false, []string{"laminate"}, false},
		{map[string]any{"area": "5", "cl": "laminate"}, []string{"dacron"}, true, []string{"dacron", "laminate"}, false},
		{map[string]any{"area": "9", "cl": "laminate"}, []string{"dacron", "laminate"}, false, []string{"dacron"}, false},
		{map[string]any{"area": "1", "cl": "gone"}, []string{}, false, []string{"dacron", "laminate"}, false},
		{map[string]any{"cl": "dacron", "more": []string{"laminate"}}, []string{"dacron", "laminate"}, false, []string{"laminate"}, false},
		{map[string]any{"cl": "dacron", "more": []string{"laminate", "dacron"}}, []string{"dacron", "laminate"}, false,
			[]string{"laminate"}, true},
	} {
		s := decided(f, loft{}, nil, given(x.answers))
		assert.Equal(t, x.offered, s["q_cl"].Choices, "%v", x.answers)
		assert.Equal(t, x.cleared, s["q_cl"].Cleared, "%v", x.answers)
		assert.Equal(t, x.others, s["q_more"].Choices, "%v", x.answers)
		assert.Equal(t, x.lost, s["q_more"].Cleared, "%v", x.answers)
		assert.Equal(t, x.cleared || x.lost || x.answers["cl"] == "gone", !s.Ready(), "%v", x.answers)
	}
}
