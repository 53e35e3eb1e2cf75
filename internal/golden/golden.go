// Package golden holds what people read against files that were read by a person:
// sentences in testdata/NAME.golden, which scripts/golden writes anew.
package golden

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Check compares a text with that of a golden file of the package under test.
// With PINEGATE_GOLDEN=write in the environment the file is written instead.
func Check(t *testing.T, name, text string) {
	t.Helper()
	path := filepath.Join("testdata", name+".golden")
	if os.Getenv("PINEGATE_GOLDEN") == "write" {
		require.NoError(t, os.MkdirAll("testdata", 0o755))
		require.NoError(t, os.WriteFile(path, []byte(text), 0o644))
		return
	}
	want, err := os.ReadFile(path)
	require.NoError(t, err, "write it by scripts/golden, and read it")
	assert.Equal(t, string(want), text, "if this is right, write it by scripts/golden, and read the difference")
}
