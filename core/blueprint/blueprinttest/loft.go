// Package blueprinttest has a small app for tests.
package blueprinttest

import (
	"testing"

	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
)

// Loft is a small app that has one of everything: two tables of which one holds
// people, a choice list with a column, a role with a rule, a page in the menu and
// one about a record, with a block of each kind.
func Loft(t testing.TB) *blueprint.Blueprint {
	t.Helper()
	b, err := blueprint.Apply(blueprint.New("Loft", IDs()), loftChanges()...)
	require.NoError(t, err)
	return b
}

func loftChanges() []blueprint.Change {
	add, set := blueprint.Adding, blueprint.Setting
	return []blueprint.Change{
		add("list", "", "cloth", "name", "Cloths", "choices", "Dacron\nLaminate", "ids", []string{"dacron", "laminate"}),
		add("column", "cloth", "rate", "name", "Rate", "type", blueprint.NumberColumn), set("dacron", "rate", "1.5"),
		add("table", "", "sailor", "name", "Sailors", "fields", []blueprint.Values{
			blueprint.Vals("id", "s_name", "name", "Name", "type", blueprint.Text, "required", true),
			blueprint.Vals("id", "s_mail", "name", "Email", "type", blueprint.Email),
			blueprint.Vals("id", "s_ok", "name", "Member", "type", blueprint.YesNo)}),
		add("table", "", "sail", "name", "Sails", "fields", []blueprint.Values{
			blueprint.Vals("id", "name", "name", "Name", "type", blueprint.Text),
			blueprint.Vals("id", "cut", "name", "Cut on", "type", blueprint.Date),
			blueprint.Vals("id", "cl", "name", "Cloth", "type", blueprint.Choose, "list", "cloth"),
			blueprint.Vals("id", "area", "name", "Area", "type", blueprint.Number, "unit", "m²"),
			blueprint.Vals("id", "price", "name", "Price", "type", blueprint.Money)}),
		add("field", "sail", "owner", "name", "Owner", "type", blueprint.Link, "target", "sailor", "back", "Sails", "backId", "s_sails"),
		add("field", "sail", "each", "name", "Each", "type", blueprint.Formula, "formula", "price / area"),
		add("field", "sail", "mail", "name", "Mail", "type", blueprint.Lookup, "via", "owner", "take", "s_mail"),
		add("field", "sailor", "s_area", "name", "All area", "type", blueprint.RollUp, "via", "s_sails", "take", "area", "total",
			blueprint.SumTotal, "where", "price > 10"),
		add("role", "", "r", "name", "Sailors", "people", "sailor", "admit", "member"),
		set("r:profile", "fields", []map[string]any{{"field": "s_name"}}),
		blueprint.Permit("r", "sail", "see", Where("owner = me"), "hidden", []string{"price"}, "given",
			[]map[string]string{{"field": "owner", "value": "me"}}),
		add("page", "", "one", "name", "Sail", "record", "sail"), add("page", "", "all", "name", "My sails"),
		add("block", "all", "list", "kind", "records", "table", "sail", "filter", `owner = me and cloth = "Dacron"`, "columns",
			[]string{"name", "cut"}, "sort", "cut", "falling", true),
		add("block", "all", "text", "kind", "text", "text", "Hello {{ me.name }}"),
		add("block", "all", "button", "kind", "button", "text", "Home", "page", "n1"),
		add("block", "all", "form", "kind", "form", "table", "sail", "fields",
			[]map[string]any{{"field": "name", "required": true}, {"field": "cl"}}, "presets",
			[]map[string]string{{"field": "owner", "value": "me"}}),
		add("block", "one", "change", "kind", "form", "table", "sail", "changes", true),
		set("r", "homes", []map[string]string{{"page": "all", "when": "member"}}),
		add("expectation", "r", "must", "action", "see", "table", "sail", "except", "owner = me"),
	}
}

// Where lets see the records for which a condition holds.
func Where(condition string) blueprint.Permission {
	return blueprint.Permission{Extent: blueprint.Where, Condition: condition}
}

// IDs gives ids that count up.
func IDs() func() string {
	n := 0
	return func() string {
		n++
		return "n" + string(rune('0'+n))
	}
}

// After applies changes that are written as JSON.
func After(t testing.TB, b *blueprint.Blueprint, changes ...string) *blueprint.Blueprint {
	t.Helper()
	for _, source := range changes {
		c, err := blueprint.DecodeChange([]byte(source), func() string { return "new" })
		require.NoError(t, err, source)
		b, err = blueprint.Apply(b, c)
		require.NoError(t, err, source)
	}
	return b
}
