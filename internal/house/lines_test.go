package house

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const (
	mostColumns = 140 // a tab counts as four
	mostLines   = 500
)

// longText is a text that is better not broken: a message, a pattern, a statement.
var longText = regexp.MustCompile(`"(?:[^"\\]|\\.){60,}"|` + "`[^`]{60,}|^[^`\"]{90,}`?[,)]*$" + `|'[^']{60,}'|className=`)

// TestLinesAndFilesAreShort looks for what nobody wants to read. Lines may be longer
// for one long text.
func TestLinesAndFilesAreShort(t *testing.T) {
	for _, file := range sources(t) {
		raw, err := os.ReadFile(file)
		require.NoError(t, err)
		lines := strings.Split(string(raw), "\n")
		assert.LessOrEqual(t, len(lines), mostLines+1, "%s is too long", file)
		inText := false // of several lines, between backticks
		for i, line := range lines {
			was := inText
			inText = inText != (strings.Count(line, "`")%2 == 1)
			if was || inText || utf8.RuneCountInString(strings.ReplaceAll(line, "\t", "    ")) <= mostColumns {
				continue
			}
			assert.Regexp(t, longText, line, "%s:%d has more than %d columns", file, i+1, mostColumns)
		}
	}
}

// sources lists the files that people write.
func sources(t *testing.T) []string {
	var out []string
	require.NoError(t, filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (slices.Contains([]string{"node_modules", "dist", "data", "bin"}, d.Name()) || strings.HasPrefix(d.Name(), ".git")) {
			return filepath.SkipDir
		}
		if slices.Contains([]string{".go", ".ts", ".tsx", ".css"}, filepath.Ext(path)) && !strings.HasSuffix(path, ".gen.ts") {
			out = append(out, path)
		}
		return nil
	}))
	require.Greater(t, len(out), 200)
	return out
}
