package blueprint_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
)

func adds(into, id, values string) string {
	return fmt.Sprintf(`{"kind":"add","what":"block","into":%q,"id":%q,"values":{%s}}`, into, id, values)
}

func sets(id, values string) string {
	return fmt.Sprintf(`{"kind":"set","of":%q,"values":{%s}}`, id, values)
}

// blockOf gives a block of the app, which has to be of that kind.
func blockOf[T blueprint.Block](t *testing.T, b *blueprint.Blueprint, id string) T {
	t.Helper()
	for i := range b.Pages {
		for x := range b.Pages[i].Blocks.All {
			if x.Self().ID == id {
				out, is := x.(T)
				require.True(t, is)
				return out
			}
		}
	}
	require.Fail(t, "there is no block "+id)
	panic("unreachable")
}

// TestTargetsAreWhole refuses those that are none, and keeps nothing of what another kind of target has.
func TestTargetsAreWhole(t *testing.T) {
	b := after(t, loft(t), adds("all", "f", `"kind":"figure","table":"sail"`),
		`{"kind":"add","what":"table","id":"aim","values":{"name":"Aims","fields":[
			{"id":"aim_n","name":"Number","type":"number"},{"id":"aim_d","name":"Day","type":"date"}]}}`)
	for values, code := range map[string]string{
		`"goal":"least"`:                          "goal-number",
		`"goal":"least","at":"many"`:              "goal-number",
		`"goal":"between","at":"3"`:               "goal-between",
		`"goal":"between","at":"3","to":"2"`:      "goal-between",
		`"goal":"least","goals":"cloth"`:          "not-offered",
		`"goal":"least","goals":"sailor"`:         "goal-table",
		`"goal":"least","at":"2","goalsOf":"aim"`: "no-setting",
	} {
		refused(t, b, sets("f_1", values), code)
	}
	goal := func(b *blueprint.Blueprint) blueprint.Goal {
		return blockOf[*blueprint.FigureBlock](t, b, "f").Measures[0].Goal
	}
	b = after(t, b, sets("f_1", `"goal":"between","at":"1","to":"2.5"`))
	assert.Equal(t, blueprint.Goal{Goal: blueprint.BetweenGoal, At: "1", To: "2.5"}, goal(b))
	b = after(t, b, sets("f_1", `"goal":"least"`))
	assert.Equal(t, blueprint.Goal{Goal: blueprint.AtLeast, At: "1"}, goal(b))
	b = after(t, b, sets("f_1", `"goals":"aim"`))
	assert.Equal(t, blueprint.Goal{Goal: blueprint.AtLeast, Goals: "aim", GoalsOf: "aim_n", GoalsBy: "aim_d"}, goal(b),
		"its fields are found")
	b = after(t, b, `{"kind":"remove","of":"aim","mend":true}`)
	assert.Equal(t, blueprint.Goal{}, goal(b), "without its table there is no target")
}

// TestBadgesLieTogether makes a table for the first badge, which others take, and that a collection shows.
func TestBadgesLieTogether(t *testing.T) {
	b := loft(t)
	refused(t, b, adds("all", "c", `"kind":"badges"`), "must")
	refused(t, b, adds("one", "f", `"kind":"figure","table":"sail","badge":"First"`), "badge-where")
	refused(t, after(t, b, sets("all", `"audience":"everyone"`), `{"kind":"remove","of":"r","mend":true}`),
		adds("all", "f", `"kind":"figure","table":"sail","badge":"First"`), "must")

	b = after(t, b, adds("all", "f", `"kind":"figure","table":"sail","badge":"First","picture":"star"`),
		adds("all", "g", `"kind":"figure","table":"sail"`), sets("g", `"badge":"Second"`), adds("all", "c", `"kind":"badges"`))
	first, second := blockOf[*blueprint.FigureBlock](t, b, "f"), blockOf[*blueprint.FigureBlock](t, b, "g")
	assert.Equal(t, "f_b", first.Badges)
	assert.Equal(t, "Second", second.Badge)
	second.Badged.Badge, second.Badged.Picture = first.Badge, first.Picture
	assert.Equal(t, first.Badged, second.Badged)
	assert.Equal(t, "f_b", blockOf[*blueprint.BadgesBlock](t, b, "c").From)
	rule := b.Role("r").Rule("f_b")
	assert.Equal(t, blueprint.Rule{Table: "f_b", See: blueprinttest.Where("who = me")}, rule, "nobody gives one by hand")

	refused(t, b, sets("g", `"badgeName":"f_be"`), "badge-twice")
	assert.Equal(t, blueprint.Badged{}, blockOf[*blueprint.FigureBlock](t, after(t, b, sets("g", `"badge":""`)), "g").Badged)
	for _, gone := range []string{"f_b", "f_bd"} {
		b := after(t, b, fmt.Sprintf(`{"kind":"remove","of":%q,"mend":true}`, gone))
		assert.Equal(t, blueprint.Badged{}, blockOf[*blueprint.FigureBlock](t, b, "f").Badged, "without %s there is no badge", gone)
	}
}

// TestTimersAndChecklistsMakeTheirTables makes them with the block, takes one that is there, and lets the block go with them.
func TestTimersAndChecklistsMakeTheirTables(t *testing.T) {
	refused(t, loft(t), adds("all", "tm", `"kind":"timer"`), "must")
	b := after(t, loft(t), adds("one", "tm", `"kind":"timer"`), adds("one", "todo", `"kind":"checklist"`))
	timer, list := blockOf[*blueprint.TimerBlock](t, b, "tm"), blockOf[*blueprint.ChecklistBlock](t, b, "todo")
	assert.Equal(t, "tm_e", timer.Entries)
	assert.Equal(t, blueprint.Link, b.Table("tm_e").Field(timer.By).Type, "who works are people who sign in")
	assert.Equal(t, []string{"todo_i", "todo_s"}, []string{list.Items, list.Steps})
	refused(t, b, sets("tm", `"ended":"tm_ef"`), "timer-times")
	refused(t, b, sets("todo", `"values":[{"field":"todo_ic","value":"true"}]`), "checklist-sets")
	again := after(t, b, adds("one", "tm2", `"kind":"timer","entries":"tm_e"`))
	other := blockOf[*blueprint.TimerBlock](t, again, "tm2")
	other.BlockHead = timer.BlockHead
	assert.Equal(t, timer, other, "fields of a table that is there are found")
	gone := after(t, b, `{"kind":"remove","of":"tm_e","mend":true}`, `{"kind":"remove","of":"todo_s","mend":true}`)
	assert.Empty(t, blockOf[*blueprint.ChecklistBlock](t, gone, "todo").Steps, "no list is begun any more")
	for x := range gone.Page("one").Blocks.All {
		assert.NotEqual(t, "tm", x.Self().ID)
	}
}

// TestPeopleAreOfferedOtherGroups keeps what people can group by apart from what a chart begins with and from its parts, and
// takes off it what is deleted.
func TestPeopleAreOfferedOtherGroups(t *testing.T) {
	b := after(t, loft(t), `{"kind":"add","what":"field","into":"sail","id":"made","values":{"name":"Made on","type":"date"}}`,
		adds("all", "ch", `"kind":"chart","table":"sail","by":"cl","bys":["owner","made"]`))
	chart := func(b *blueprint.Blueprint) *blueprint.ChartBlock { return blockOf[*blueprint.ChartBlock](t, b, "ch") }
	assert.Equal(t, []string{"owner", "made"}, chart(b).Bys)
	refused(t, b, sets("ch", `"bys":["owner","cl"]`), "chart-bys-same")
	refused(t, b, sets("ch", `"then":"owner"`), "chart-parts-same")
	refused(t, b, sets("ch", `"bys":["area"]`), "not-offered")
	refused(t, b, sets("ch", `"bys":["owner","owner"]`), "twice")
	assert.Equal(t, []string{"owner"}, chart(after(t, b, `{"kind":"remove","of":"made"}`)).Bys)
	assert.Empty(t, chart(after(t, b, sets("ch", `"table":"sailor"`))).Bys, "another table has other fields")
	assert.Equal(t, "name", chart(after(t, b, sets("ch", `"by":"name"`))).By)
}
