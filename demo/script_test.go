package demo_test

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/sentence"
	"pinegate/demo"
	"pinegate/internal/golden"
)

// TestTheBoatyardReadsWell holds the whole script of the demo. It is what founders
// read first: look at the difference.
func TestTheBoatyardReadsWell(t *testing.T) {
	var out strings.Builder
	var walk func(lines []sentence.Line, indent string)
	walk = func(lines []sentence.Line, indent string) {
		for _, l := range lines {
			if l.Kind != sentence.Offer {
				out.WriteString(indent + l.Text() + "\n")
			}
			walk(l.Lines, indent+"  ")
		}
	}
	walk(sentence.Everything(demo.Blueprint()), "")
	golden.Check(t, "script", out.String())
}

// TestItsSentencesAreShort bounds what is sent of a stop, with one group open, in
// bytes.
func TestItsSentencesAreShort(t *testing.T) {
	b := demo.Blueprint()
	for stop, open := range map[sentence.Stop]string{sentence.DataStop: "ord", sentence.PeopleStop: "r_own", sentence.PagesStop: "p_boat"} {
		raw, err := json.Marshal(sentence.Script(b, stop, func(id string) bool { return id == open }))
		require.NoError(t, err)
		assert.Less(t, len(raw), 12_000, string(stop))
	}
}
