package schema_test

import (
	"fmt"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/core/schema"
	"pinegate/core/words"
	"pinegate/demo"
	"pinegate/internal/golden"
)

func told(p schema.Plan) []string {
	var out []string
	for _, s := range p.Steps {
		if s.Code != "" {
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
	assert.Less(t, strings.Index(sql, `CREATE TABLE "s"."boats"`), strings.Index(sql, `REFERENCES "s"."boats"`),
		"a table is there before links point to it")
}

// TestSteps holds what is said of steps, for none, one and many records.
func TestSteps(t *testing.T) {
	link := blueprint.Adding("field", "goal", "goal_boat", "name", "Boat", "type", blueprint.Link, "target", "boat")
	b, err := blueprint.Apply(demo.Blueprint(), link)
	require.NoError(t, err)
	remove := func(id string) blueprint.Change { return &blueprint.Remove{Of: id, Mend: true} }
	var out strings.Builder
	for _, changes := range [][]blueprint.Change{
		{blueprint.AddingTable("sail", "Sails", "sail_name")},
		{blueprint.Adding("field", "boat", "mast", "name", "Mast height", "type", blueprint.Number)},
		{remove("boat_note")},
		{remove("ord_left")},
		{remove("goal")},
		{blueprint.Setting("boat_length", "name", "Overall length")},
		{blueprint.Setting("boat", "name", "Vessels")},
		{blueprint.Setting("boat_registration", "type", blueprint.Number)},
		{blueprint.Setting("goal_boat", "type", blueprint.Links)},
		{blueprint.Setting("goal_boat", "type", blueprint.Text)},
		{blueprint.Setting("boat_registration", "required", true)},
		{blueprint.Setting("boat_registration", "unique", true)},
		{remove("bk_dinghy")},
		{&blueprint.MergeChoice{Of: "bk_dinghy", Into: "bk_trawler"}},
		{blueprint.Setting("ord_left", "formula", "hours * 2")},
	} {
		after, err := blueprint.Apply(b, changes...)
		require.NoError(t, err, "%+v", changes[0])
		for _, step := range schema.Compare("s", b, after, nil).Steps {
			for _, n := range []int{0, 1, 1234} {
				if step.Code != "" && (n == 0 || step.Count != "") {
					fmt.Fprintln(&out, step.Told(n))
				}
			}
		}
	}
	golden.Check(t, "steps", out.String())
}

// TestBoardsAndCalendarsHaveIndexes makes them with the blocks, in the order of the cards, and
// takes them away with them. One for which a field is held otherwise is another.
func TestBoardsAndCalendarsHaveIndexes(t *testing.T) {
	b, err := blueprint.Apply(demo.Blueprint(), blueprint.Adding("page", "", "p", "name", "Yard"))
	require.NoError(t, err)
	plan := func(before *blueprint.Blueprint, changes ...blueprint.Change) (*blueprint.Blueprint, string) {
		after, err := blueprint.Apply(before, changes...)
		require.NoError(t, err)
		var all []string
		for _, s := range schema.Compare("s", before, after, nil).Steps {
			assert.Empty(t, s.Code, "nothing that is told")
			all = append(all, s.SQL...)
		}
		return after, regexp.MustCompile(`list_\w+`).ReplaceAllString(strings.Join(all, "\n"), "list")
	}
	board, sql := plan(b, blueprint.Adding("block", "p", "x", "kind", "records", "table", "boat", "ways", []string{"board"}, "board",
		"boat_kind", "sort", "boat_length", "falling", true, "then", "boat_name"))
	assert.Equal(t, `CREATE INDEX IF NOT EXISTS "list" ON "s"."boats" ("kind", "length" DESC NULLS LAST, id DESC) WHERE deleted_at IS NULL`, sql)
	_, sql = plan(board, blueprint.Setting("x", "sort", "boat_kind", "then", "boat_length", "thenFalling", true))
	assert.Empty(t, sql, "cards of a column are equal in what makes the columns")
	other, sql := plan(board, blueprint.Setting("x", "sort", "boat_name"))
	assert.Equal(t, `DROP INDEX IF EXISTS "s"."list"
CREATE INDEX IF NOT EXISTS "list" ON "s"."boats" ("kind", id DESC) WHERE deleted_at IS NULL`, sql, "texts sort as people do")
	_, sql = plan(other, &blueprint.Remove{Of: "x"})
	assert.Equal(t, `DROP INDEX IF EXISTS "s"."list"`, sql)
	_, sql = plan(b, blueprint.Adding("block", "p", "x", "kind", "records", "table", "time",
		"ways", []string{"calendar"}, "from", "time_day"))
	assert.Equal(t, `CREATE INDEX IF NOT EXISTS "list" ON "s"."time_entries" ("day", id) WHERE deleted_at IS NULL`, sql)
	assert.Len(t, schema.Indexes("s", board), len(schema.Indexes("s", b))+1)
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
	s := schema.Step{Code: "step-add-field", Args: words.Args{"field": "F", "table": "T"}}
	assert.Equal(t, "Adds F to T. No records there yet.", s.Told(0))
	assert.Equal(t, "Adds F to T. 1 record keeps its values.", s.Told(1))
	assert.Equal(t, "Adds F to T. 1,021 records keep their values.", s.Told(1021))
}
