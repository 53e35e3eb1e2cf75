package expr

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
)

// FuzzTemplate checks and fills in texts with values. Errors say where they are, what
// leads somewhere is found and can be renamed, and what is filled in is in the text.
func FuzzTemplate(f *testing.F) {
	for _, s := range []string{"Boat {{ name }}", "{{name}}{{owner.name}}", "{{", "}}", "{{ }}", "{{{name}}}",
		"a {{ IF(length > 1, \"}}\", name) }} b",
		"{{ [name] }}\n{{name}}", "{{name", "\\{{name}}", "\xff{{name}}"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, src string) {
		tpl, err := CheckTemplate(src, scope())
		if err != nil {
			var e *Error
			require.ErrorAs(t, err, &e)
			require.True(t, e.At.Start >= 0 && e.At.Start <= e.At.End && e.At.End <= len(src), "%v of %q", e.At, src)
			return
		}
		require.Equal(t, src, Rewrite(src, tpl.Refs(), func(Ref) string { return "" }))
		values := make([]string, len(tpl.Checked()))
		for i := range values {
			values[i] = "Q\u2603Q"
		}
		text := tpl.Text(values)
		require.Equal(t, len(values), strings.Count(text, "Q\u2603Q")-strings.Count(src, "Q\u2603Q"))
		tpl.Text(make([]string, len(values)))
		require.True(t, utf8.ValidString(text) || !utf8.ValidString(src))
	})
}
