package schema_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/core/schema"
	"pinegate/demo"
)

func told(p schema.Plan) []string {
	var out []string
	for _, s := range p.Steps {
		if s.Text != "" {
			out = append(out, s.Told(60))
		}
	}
	return out
}

func TestTheSameNeedsNoPlan(t *testing.T) {
	assert.Empty(t, schema.Compare("s", demo.Blueprint(), demo.Blueprint(), nil).Steps)
}

func TestAFirstPlanMakesEveryTable(t *testing.T) {
	p := schema.Compare("s", nil, demo.Blueprint(), nil)
	assert.Len(t, told(p), len(demo.Blueprint().Tables))
	assert.Equal(t, "Adds the table Owners.", told(p)[0])
	var all []string
	for _, s := range p.Steps {
		all = append(all, s.SQL...)
		assert.False(t, s.Loss)
	}
	sql := strings.Join(all, "\n")
	assert.Less(t, strings.Index(sql, `CREATE TABLE "s"."boats"`), strings.Index(sql, `REFERENCES "s"."boats"`), "a table is there before links point to it")
}

func TestSteps(t *testing.T) {
	for want, change := range map[string]blueprint.Change{
		"Adds the field Mast height to Boats; 60 records keep their values.":                                                    blueprint.Adding("field", "boat", "mast", "name", "Mast height", "type", blueprint.Number),
		"Removes the field Yard note from Boats; 60 records have a value in it, which is set aside.":                            &blueprint.Remove{Of: "boat_note"},
		"Renames the field Length of Boats to Overall length; all values stay.":                                                 blueprint.Setting("boat_length", "name", "Overall length"),
		"Renames the table Boats to Vessels; all records stay.":                                                                 blueprint.Setting("boat", "name", "Vessels"),
		"Removes the table Season targets; its 60 records are set aside.":                                                       &blueprint.Remove{Of: "goal"},
		"Turns Registration of Boats from text into number; 60 values cannot be converted (set aside).":                         blueprint.Setting("boat_registration", "type", blueprint.Number),
		"Registration of Boats must be filled in from now on; 60 records have it empty and are asked for it when next changed.": blueprint.Setting("boat_registration", "required", true),
		"Dinghy can no longer be chosen for Kind of Boats; 60 records keep it, shown as a removed choice.":                      &blueprint.Remove{Of: "bk_dinghy"},
	} {
		after, err := blueprint.Apply(demo.Blueprint(), change)
		require.NoError(t, err, want)
		assert.Contains(t, told(schema.Compare("s", demo.Blueprint(), after, nil)), want)
	}
}

func TestNothingIsDropped(t *testing.T) {
	before, after := demo.Blueprint(), blueprint.New("Empty", func() string { return "p" })
	computed := map[string]bool{} // what can be computed again
	for _, table := range before.Tables {
		for _, f := range table.Fields {
			if f.Type.Computed() {
				computed[fmt.Sprintf("ALTER TABLE %s.%s DROP COLUMN %s", `"s"`, query.Quote(table.Key), query.Quote(f.Key))] = true
			}
		}
	}
	for _, step := range schema.Compare("s", before, after, nil).Steps {
		for _, sql := range step.SQL {
			if !computed[sql] {
				if strings.HasPrefix(sql, "DROP INDEX ") { // which holds nothing that is not in its table
					continue
				}
				assert.NotContains(t, sql, "DROP")
			}
			assert.NotContains(t, sql, "DELETE")
		}
	}
}

// TestNamesCannotBreakOut puts quotes and backslashes where names and labels
// go into statements.
func TestNamesCannotBreakOut(t *testing.T) {
	b := demo.Blueprint()
	b, err := blueprint.Apply(b, blueprint.Setting("bk_dinghy", "label", `x'; DROP TABLE boats; --\`))
	require.NoError(t, err)
	after, err := blueprint.Apply(b, blueprint.Setting("boat_kind", "type", blueprint.Text))
	require.NoError(t, err)
	var all strings.Builder
	for _, s := range schema.Compare("s", b, after, nil).Steps {
		all.WriteString(strings.Join(s.SQL, "\n") + s.Count + s.Sample)
	}
	assert.Contains(t, all.String(), `E'x''; DROP TABLE boats; --\\'`)
	assert.NotContains(t, all.String(), `x'; DROP`)
}

func TestTold(t *testing.T) {
	s := schema.Step{Text: "Adds the field F to T; {n} records keep their values."}
	assert.Equal(t, "Adds the field F to T; 0 records keep their values.", s.Told(0))
	assert.Equal(t, "Adds the field F to T; 1 record keeps its values.", s.Told(1))
	assert.Equal(t, "Adds the field F to T; 21 records keep their values.", s.Told(21))
}
