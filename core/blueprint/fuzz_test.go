package blueprint_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/words"
)

// FuzzChange makes of whatever is sent as a change a valid blueprint, or refuses it in
// words; what it is made on stays as it was.
func FuzzChange(f *testing.F) {
	for _, s := range []string{
		`{"kind":"add","what":"field","into":"boat","values":{"name":"Draught","type":"number"}}`,
		`{"kind":"add","what":"block","into":"p","id":"x","values":{"kind":"records","table":"boat"}}`,
		`{"kind":"set","of":"boat","values":{"name":"Vessels","label":"{{name}}"}}`,
		`{"kind":"set","of":"boat","values":{"name":null}}`,
		`{"kind":"remove","of":"boat"}`, `{"kind":"move","id":"boat","to":-1}`, `{"kind":["add"]}`, `[]`, `{`, `null`,
	} {
		f.Add([]byte(s))
	}
	start := loft(f)
	before, err := json.Marshal(start)
	require.NoError(f, err)
	for p := range start.Places {
		raw, err := blueprint.Encode(&blueprint.Remove{Of: p.ID})
		require.NoError(f, err)
		f.Add([]byte(raw))
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		c, err := blueprint.DecodeChange(raw, func() string { return "new" })
		var told *words.Problem
		if err != nil {
			require.ErrorAs(t, err, &told)
			return
		}
		next, err := blueprint.Apply(start, c)
		left, merr := json.Marshal(start)
		require.NoError(t, merr)
		require.Equal(t, string(before), string(left))
		if err != nil {
			require.ErrorAs(t, err, &told)
			require.True(t, words.Known(told.Code), told.Code)
			return
		}
		require.NoError(t, next.Validate())
		written, err := json.Marshal(next)
		require.NoError(t, err)
		_, err = blueprint.Decode(written)
		require.NoError(t, err)
	})
}
