package page_test

import (
	"context"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act/acttest"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/form"
	"pinegate/core/prop"
	"pinegate/core/words"
	"pinegate/store/records"
)

func block(into, id, kind, values string) string {
	return fmt.Sprintf(`{"kind":"add","what":"block","into":%q,"id":%q,"values":{"kind":%q%s}}`, into, id, kind, values)
}

// sums is the loft with a calculator on the page of all sails.
func sums(t *testing.T) *acttest.Loft {
	return acttest.NewLoft(t,
		block("all", "calc", "calculator", ``),
		block("calc", "c_wide", "ask", `,"name":"Width","type":"number","unit":"m","required":true`),
		block("calc", "c_high", "ask", `,"name":"Height","type":"number","unit":"m"`),
		block("calc", "c_area", "result", `,"name":"Area","value":"answers.width * answers.height","unit":"m²","decimals":1`),
		block("calc", "c_each", "result", `,"name":"Share","value":"answers.area / (answers.width - 2)"`),
		block("calc", "c_line", "course", `,"results":["c_area","c_each"],"over":"c_high","from":"0","to":"2"`))
}

func calculated(t *testing.T, u page.Use, answers map[string]any) map[string]page.PartState {
	t.Helper()
	got, err := u.State(context.Background(), page.StateAsked{Answers: form.Answers(acttest.Values(t, answers))})
	require.NoError(t, err)
	return got.Parts
}

// TestACalculatorTellsHow shows results with their formula in names and in values, and a chart of them.
func TestACalculatorTellsHow(t *testing.T) {
	l := sums(t)
	u := use(t, l, "Ines", "my-sails", "", "calc")
	got := calculated(t, u, map[string]any{"c_wide": "3", "c_high": "4"})
	told := func(list []page.Told) (out string) {
		for _, x := range list {
			out += x.Words
			if x.Words == "" {
				out += fmt.Sprintf("<%v %s>", x.Value, x.Column.Unit)
			}
		}
		return out
	}
	area, each := got["c_area"].Result, got["c_each"].Result
	assert.Equal(t, []any{"12", "Width × Height", "<3 m> × <4 m>"}, []any{area.Value, told(area.Names), told(area.Values)})
	assert.Equal(t, "<12 m²> ÷ (<3 m> − <2 >)", told(each.Values), "a result is told by its value, as it is written")
	chart := got["c_line"].Chart
	assert.Equal(t, "Height", chart.By.Name)
	require.Len(t, chart.Series, 2)
	assert.Equal(t, "0 3 6", texts(chart.Series[0].Values))

	got = calculated(t, u, map[string]any{"c_wide": "2", "c_high": "1"})
	assert.Equal(t, "2", got["c_area"].Result.Value)
	assert.Nil(t, got["c_each"].Result.Value)
	assert.Equal(t, "It would be divided by 0: Width − 2 is 0.", got["c_each"].Result.Reason)
	assert.Empty(t, got["c_each"].Result.Values)

	_, err := u.Take(t.Context(), page.Sent{Values: acttest.Values(t, map[string]any{"c_wide": "3"})})
	assert.ErrorContains(t, err, "keeps no answers")
}

// TestResultsAreKept sends a calculator whose results are set in a record: as the server calculates them, whatever is
// sent, and not where something is missing.
func TestResultsAreKept(t *testing.T) {
	l := sums(t)
	require.NoError(t, apply(t, l,
		blueprint.Setting("r.sail", "add", map[string]string{"extent": "all"}, "fixed", nil, "given", nil),
		blueprint.Setting("calc", "table", "sail"),
		blueprint.Setting("calc", "presets", []prop.Given{{Field: "name", Value: `"Sail of " & answers.area & " m²"`},
			{Field: "area", Value: "answers.area"}})))
	u := use(t, l, "Ines", "my-sails", "", "calc")
	sends := func(values map[string]any) (page.Taken, error) {
		return u.Take(t.Context(), page.Sent{Values: acttest.Values(t, values)})
	}
	var fields records.FieldErrors
	_, err := sends(map[string]any{"c_high": "4"})
	require.ErrorAs(t, err, &fields)
	assert.Equal(t, "read-missing", fields["c_wide"].Code)
	_, err = sends(map[string]any{"c_wide": "3", "c_area": "1000"})
	require.ErrorAs(t, err, &fields)
	assert.Equal(t, "not-asked", fields["c_area"].Code, "a result is not what somebody sends")

	taken, err := sends(map[string]any{"c_wide": "3", "c_high": "4"})
	require.NoError(t, err)
	assert.Equal(t, "12", taken.Answers["c_area"].String(), "workflows are told results as well")
	presets, err := u.Presets(taken)
	require.NoError(t, err)
	assert.Equal(t, []string{"Sail of 12 m²", "12"}, []string{presets.Own["name"].String(), presets.Own["area"].String()})
	wrote, err := u.Write(t.Context(), l.Road(), taken, presets)
	require.NoError(t, err)
	assert.Len(t, wrote.Writes, 1)
}

// TestResultsSeeWhatTheirReaderSees calculates with records of the app: those that whoever looks sees.
func TestResultsSeeWhatTheirReaderSees(t *testing.T) {
	l := sums(t)
	require.NoError(t, apply(t, l, blueprint.Setting("c_area", "value", "answers.width * COUNT(RECORDS(sails))")))
	l.Add("sail", map[string]any{"name": "Hers", "owner": l.People["Ines"]})
	count := func(who string) any {
		return calculated(t, use(t, l, who, "my-sails", "", "calc"), map[string]any{"c_wide": "1"})["c_area"].Result.Value
	}
	assert.NotEqual(t, count("Ines"), count("Tomas"))
}

// TestACalculatorHoldsTogether refuses what cannot be, and goes along with what it names.
func TestACalculatorHoldsTogether(t *testing.T) {
	l := sums(t)
	refused := func(code string, c blueprint.Change) {
		t.Helper()
		var p *words.Problem
		require.ErrorAs(t, apply(t, l, c), &p, code)
		assert.Equal(t, code, p.Code)
	}
	refused("calculator-keeps", blueprint.Adding("block", "calc", "c_own", "kind", "question", "field", "name"))
	refused("course-points", blueprint.Setting("c_line", "to", "500"))
	require.NoError(t, apply(t, l, blueprint.Setting("c_area", "name", "Cloth")))
	x, _ := l.Blueprint().Place("c_each")
	assert.Equal(t, "answers.cloth / (answers.width - 2)", x.Thing.(*blueprint.ResultBlock).Value)
	require.NoError(t, apply(t, l, &blueprint.Remove{Of: "c_each", Mend: true}))
	x, _ = l.Blueprint().Place("c_line")
	assert.Equal(t, []string{"c_area"}, x.Thing.(*blueprint.CourseBlock).Results)
	require.NoError(t, apply(t, l, &blueprint.Remove{Of: "c_high", Mend: true}))
	_, there := l.Blueprint().Place("c_line")
	assert.False(t, there, "a chart goes with the question over which it is")
}
