package blueprint_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
)

// TestCirclesOfTriggersAreFound looks for workflows that set each other off, by what their steps write.
func TestCirclesOfTriggersAreFound(t *testing.T) {
	add, set := blueprint.Adding, blueprint.Setting
	given := func(field, value string) []map[string]string {
		return []map[string]string{{"field": field, "value": value}}
	}
	flow := func(id, name, kind string, pairs ...any) blueprint.Change {
		return add("workflow", "", id, append([]any{"kind", kind, "name", name}, pairs...)...)
	}
	step := func(into, id, kind string, pairs ...any) blueprint.Change {
		return add("step", into, id, append([]any{"kind", kind}, pairs...)...)
	}
	prices := flow("p", "Price", "changed", "table", "sail", "fields", []string{"price"})
	area := flow("a", "Area", "changed", "table", "sail", "fields", []string{"area"})
	setsPrice := func(into string) blueprint.Change {
		return step(into, into+"_p", "change", "record", "this", "values", given("price", "price + 1"))
	}
	setsArea := func(into string) blueprint.Change {
		return step(into, into+"_a", "change", "record", "this", "values", given("area", "area + 1"))
	}
	adds := func(into string) blueprint.Change {
		return step(into, into+"_n", "add", "table", "sail", "values", given("name", `"Jib"`))
	}
	for name, c := range map[string]struct {
		changes []blueprint.Change
		want    string
	}{
		"one that changes what starts it":   {[]blueprint.Change{prices, setsPrice("p")}, "Price"},
		"one that changes something else":   {[]blueprint.Change{prices, setsArea("p")}, ""},
		"two that change each other":        {[]blueprint.Change{prices, area, setsArea("p"), setsPrice("a")}, "Price > Area"},
		"two, one of which is switched off": {[]blueprint.Change{prices, area, setsArea("p"), setsPrice("a"), set("a", "off", true)}, ""},
		"any field, by all records": {[]blueprint.Change{
			flow("x", "Any", "changed", "table", "sail"),
			step("x", "x1", "change", "all", true, "table", "sail", "where", "area > 1", "values", given("price", "1")),
		}, "Any"},
		"one that adds what starts it": {[]blueprint.Change{flow("n", "New", "added", "table", "sail"), adds("n")}, "New"},
		"one that adds, and another changes": {[]blueprint.Change{
			flow("n", "New", "added", "table", "sail"),
			setsPrice("n"),
			prices,
			adds("p"),
		}, "New > Price"},
		"one that deletes others": {[]blueprint.Change{
			flow("d", "Gone", "deleted", "table", "sail"),
			step("d", "d1", "delete", "all", true, "table", "sail", "where", "area > 1"),
		}, "Gone"},
		"by a routine": {[]blueprint.Change{
			flow("r1", "Routine", "routine", "record", "sail"),
			setsPrice("r1"),
			prices,
			step("p", "p1", "routine", "routine", "r1", "record", "this"),
		}, "Price"},
		"inside of a path, and of a loop": {[]blueprint.Change{
			prices,
			step("p", "w", "branch"),
			step("w", "w1", "path", "when", "area > 1"),
			step("w1", "e", "repeat", "most", 2),
			setsPrice("e"),
		}, "Price"},
		"a button that starts, but is itself": {[]blueprint.Change{
			flow("b", "Press", "press", "record", "sail", "roles", []string{"r"}),
			setsPrice("b"),
			prices,
		}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			b, err := blueprint.Apply(blueprinttest.Loft(t), c.changes...)
			require.NoError(t, err)
			var got []string
			for _, circle := range b.FlowCircles(b.Catalog()) {
				var names []string
				for _, w := range circle {
					names = append(names, w.Name)
				}
				got = append(got, strings.Join(names, " > "))
			}
			assert.Equal(t, c.want, strings.Join(got, "; "))
		})
	}
}
