package query_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/expr"
	"pinegate/core/query"
)

// fieldOf gives a field as the language sees it.
func fieldOf(t *testing.T, b *blueprint.Blueprint, table, field string) *expr.Field {
	t.Helper()
	for _, f := range b.Catalog().Tables[table].Fields {
		if f.ID == field {
			return f
		}
	}
	require.Fail(t, "no field "+field)
	return nil
}

// TestStoredFieldsAreComputedFromTheirOwnRecord writes out what is computed where it is
// kept, and refuses what needs other records.
func TestStoredFieldsAreComputedFromTheirOwnRecord(t *testing.T) {
	b := blueprinttest.After(t, blueprinttest.Loft(t),
		`{"kind":"add","what":"field","into":"sail","id":"twice","values":{"name":"Twice","type":"formula","formula":"each * 2"}}`,
		`{"kind":"add","what":"field","into":"sail","id":"hers","values":{"name":"Hers","type":"formula","formula":"owner.name"}}`)
	c := b.Catalog()
	sql, column, err := query.StoredColumn(c, fieldOf(t, b, "sail", "each"))
	require.NoError(t, err)
	assert.Equal(t, "numeric", column)
	assert.Contains(t, sql, query.Quote(b.Table("sail").Field("price").Key))
	assert.NotContains(t, sql, "$", "a definition takes no parameters")
	twice, _, err := query.StoredColumn(c, fieldOf(t, b, "sail", "twice"))
	require.NoError(t, err)
	assert.Contains(t, twice, sql, "one that is computed from another is written out")
	_, _, err = query.StoredColumn(c, fieldOf(t, b, "sail", "hers"))
	require.Error(t, err)
}

// TestLabelsOverTheirOwnColumns are known without a look at other records.
func TestLabelsOverTheirOwnColumns(t *testing.T) {
	b := blueprinttest.Loft(t)
	assert.NotEmpty(t, query.PlainLabel(b.Catalog(), "sailor"))
	b = blueprinttest.After(t, b, `{"kind":"set","of":"sail","values":{"label":"name & \", \" & owner.name"}}`)
	assert.Empty(t, query.PlainLabel(b.Catalog(), "sail"))
}

// TestTotalsAreOfNumbersAndByOneValue refuses others.
func TestTotalsAreOfNumbersAndByOneValue(t *testing.T) {
	b := blueprinttest.Loft(t)
	c := query.Context{Schema: "s", Blueprint: b, Catalog: b.Catalog(), Viewer: owner("")}
	c.Viewer.Founder = true
	for name, x := range map[string]struct {
		table, group string
		sums         []string
		right        bool
	}{
		"by a choice":     {"sail", "cl", []string{"area", "price"}, true},
		"by a record":     {"sail", "owner", nil, true},
		"of all":          {"sail", "", []string{"each"}, true},
		"of texts":        {"sail", "", []string{"name"}, false},
		"of nothing":      {"sail", "", []string{"gone"}, false},
		"by many":         {"sailor", "s_sails", nil, false},
		"by nothing":      {"sail", "gone", nil, false},
		"of what is many": {"sailor", "", []string{"s_sails"}, false},
	} {
		stmt, err := query.BuildTotals(c, query.Totals{Selection: query.Selection{Table: b.Table(x.table)}, Group: x.group, Sums: x.sums})
		if !x.right {
			require.Error(t, err, name)
			continue
		}
		require.NoError(t, err, name)
		assert.Equal(t, x.group != "", strings.Contains(stmt.SQL, "GROUP BY"), name)
	}
}

// TestLiteralsCannotBeLeft quotes whatever somebody calls something: outside of quotes
// nothing of it is left.
func TestLiteralsCannotBeLeft(t *testing.T) {
	for text, want := range map[string]string{
		"":            "''",
		"Tern":        "'Tern'",
		"O'Hara":      "'O''Hara'",
		`back\slash`:  `E'back\\slash'`,
		`\'; DROP --`: `E'\\''; DROP --'`,
		"two\nlines":  "'two\nlines'",
	} {
		assert.Equal(t, want, query.Literal(text))
	}
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOf(rapid.RuneFrom([]rune(`ab'\" ;-$`))).Draw(t, "text")
		got := query.Literal(text)
		escaped := strings.HasPrefix(got, "E")
		body := strings.TrimSuffix(strings.TrimPrefix(strings.TrimPrefix(got, "E"), "'"), "'")
		back := strings.ReplaceAll(body, "''", "'")
		if escaped {
			back = strings.ReplaceAll(back, `\\`, `\`)
		}
		assert.Equal(t, text, back)
		assert.Zero(t, strings.Count(strings.ReplaceAll(body, "''", ""), "'"), "no quote stands alone")
	})
}
