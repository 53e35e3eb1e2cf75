package blueprint

import (
	"slices"
	"strconv"
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"pinegate/core/expr"
)

const maxKey = 40

// systemColumns are the columns that every table has besides its fields: ours, and
// those of PostgreSQL (section 5.5 of its manual).
func systemColumns() []string {
	return []string{"id", "created_at", "created_by", "changed_at", "changed_by", "revision", "deleted_at",
		"tableoid", "xmin", "cmin", "xmax", "cmax", "ctid"}
}

// keyFor makes a key from a name: lower-case ASCII letters, digits and
// underscores, starting with a letter, not among those taken.
func keyFor(name, fallback string, taken func(string) bool) string {
	var b strings.Builder
	for _, r := range norm.NFD.String(strings.ReplaceAll(strings.ToLower(name), "ß", "ss")) {
		switch {
		case r < 128 && (unicode.IsLetter(r) || unicode.IsDigit(r)):
			b.WriteRune(r)
		case unicode.Is(unicode.Mn, r):
		default:
			if s := b.String(); s != "" && !strings.HasSuffix(s, "_") {
				b.WriteByte('_')
			}
		}
	}
	base := strings.Trim(b.String(), "_")
	if base == "" || !unicode.IsLetter(rune(base[0])) {
		base = strings.Trim(fallback+"_"+base, "_")
	}
	if len(base) > maxKey {
		base = strings.TrimRight(base[:maxKey], "_")
	}
	key := base
	for n := 2; taken(key) || expr.Reserved(key) || slices.Contains(systemColumns(), key); n++ {
		key = base + "_" + strconv.Itoa(n)
	}
	return key
}

func (b *Blueprint) tableKey(name, self string) string {
	return keyFor(name, "table", func(k string) bool {
		return slices.ContainsFunc(b.Tables, func(t Table) bool { return t.Key == k && t.ID != self })
	})
}

func (t *Table) fieldKey(name, self string) string {
	return keyFor(name, "field", func(k string) bool {
		return slices.ContainsFunc(t.Fields, func(f Field) bool { return f.Key == k && f.ID != self })
	})
}

func (l *ChoiceList) columnKey(name, self string) string {
	return keyFor(name, "column", func(k string) bool {
		return slices.ContainsFunc(l.Columns, func(c ListColumn) bool { return c.Key == k && c.ID != self })
	})
}

func (b *Blueprint) pagePath(name, self string) string {
	return strings.ReplaceAll(keyFor(name, "page", func(k string) bool {
		k = strings.ReplaceAll(k, "_", "-")
		return slices.ContainsFunc(b.Pages, func(p Page) bool { return p.Path == k && p.ID != self })
	}), "_", "-")
}
