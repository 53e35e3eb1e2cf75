package runtime

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestPartsOfFiles reads what players ask for.
func TestPartsOfFiles(t *testing.T) {
	for asked, want := range map[string]struct {
		from, to int64
		ok       bool
	}{
		"bytes=0-9": {0, 9, true}, "bytes=90-": {90, 99, true}, "bytes=90-500": {90, 99, true}, "bytes=99-99": {99, 99, true},
		"": {}, "bytes=100-": {}, "bytes=9-3": {}, "bytes=-5": {}, "bytes=0-1,5-6": {}, "lines=0-1": {}, "bytes=9999999999999999999-": {},
	} {
		from, to, ok := Wanted{Range: asked}.part(100)
		assert.Equal(t, want.ok, ok, asked)
		if ok {
			assert.Equal(t, []int64{want.from, want.to}, []int64{from, to}, asked)
		}
	}
	_, _, ok := Wanted{Small: true, Range: "bytes=0-9"}.part(100)
	assert.False(t, ok)
	_, _, ok = Wanted{Range: "bytes=0-"}.part(0)
	assert.False(t, ok, "nothing has no parts")
}
