package server_test

import (
	"encoding/json"
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

// TestARehearsalStopsABadPublish keeps a rehearsal as an expectation, breaks the workflow, and cannot publish.
func TestARehearsalStopsABadPublish(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	founder := y.Founder(t)
	base := "/api/apps/" + y.App.ID
	draft := strings.ReplaceAll(liveTable(y.Site, "work_orders"), "_live", "_draft")
	order := y.text("SELECT id::text FROM " + draft + " WHERE status = 'os_in_the_yard' ORDER BY id LIMIT 1")
	asked := map[string]any{"as": "founder", "record": order}
	type outcome struct{ Key, Text string }
	var got struct {
		Outcomes []outcome
		Followed []struct{ Outcomes []outcome }
	}
	require.NoError(t, json.Unmarshal([]byte(founder.Write(http.MethodPost, base+"/workflows/w_done/rehearsals", asked)), &got))
	var keys, texts []string
	for _, o := range got.Outcomes {
		keys, texts = append(keys, o.Key), append(texts, o.Text)
	}
	assert.Equal(t, "It comes to its end.", texts[0])
	assert.True(t, slices.ContainsFunc(texts, func(s string) bool { return strings.HasSuffix(s, "becomes Done.") }), "%v", texts)
	require.Len(t, got.Followed, 1)
	mail := slices.IndexFunc(got.Followed[0].Outcomes, func(o outcome) bool { return strings.Contains(o.Text, "is done” goes to") })
	require.GreaterOrEqual(t, mail, 0)
	keys = append(keys, "then w_tell "+got.Followed[0].Outcomes[mail].Key)

	keep := map[string]any{"name": "Owners are told", "asked": asked, "keys": keys}
	founder.Write(http.MethodPost, base+"/workflows/w_done/expectations", keep)
	status, answer := founder.Do(http.MethodPost, base+"/workflows/w_done/expectations",
		map[string]any{"name": "Nothing", "asked": asked, "keys": []string{"no such thing"}})
	assert.Equal(t, http.StatusUnprocessableEntity, status, answer)
	var list struct {
		Wants []struct {
			ID, Problem string
			Met         bool
		}
	}
	read := func() {
		list.Wants = nil
		founder.Read(base+"/workflow-expectations", &list)
		require.Len(t, list.Wants, 1)
	}
	read()
	assert.True(t, list.Wants[0].Met, list.Wants[0].Problem)

	set := func(of string, values map[string]any) {
		founder.Write(http.MethodPost, base+"/changes",
			map[string]any{"changes": []any{map[string]any{"kind": "set", "of": of, "values": values}}})
	}
	set("w_tell", map[string]any{"off": true})
	read()
	assert.False(t, list.Wants[0].Met)
	assert.Contains(t, list.Wants[0].Problem, "Then “Tell the owner that the work is done”: An email")
	var plan struct {
		Revision, LiveVersion int
		Steps                 []struct {
			Text string
			Stop bool
		}
	}
	founder.Read(base+"/plan", &plan)
	assert.True(t, slices.ContainsFunc(plan.Steps, func(s struct {
		Text string
		Stop bool
	}) bool {
		return s.Stop && strings.Contains(s.Text, "“Owners are told”")
	}), "%v", plan.Steps)
	publish := func() (int, string) {
		founder.Read(base+"/plan", &plan)
		return founder.Do(http.MethodPost, base+"/publish",
			map[string]any{"revision": plan.Revision, "liveVersion": plan.LiveVersion, "accept": true, "bringRecords": false})
	}
	status, answer = publish()
	assert.Equal(t, http.StatusUnprocessableEntity, status, answer)
	assert.Contains(t, answer, "Nothing was published. “Owners are told”")

	set("w_tell", map[string]any{"off": false})
	status, answer = publish()
	assert.Equal(t, http.StatusOK, status, answer)
	founder.Write(http.MethodDelete, base+"/workflow-expectations/"+list.Wants[0].ID, nil)
	founder.Read(base+"/workflow-expectations", &list)
	assert.Empty(t, list.Wants)
}

// TestThePlanTellsOfCircles lets a workflow change what starts it: it says so, the plan does, and it can be published.
func TestThePlanTellsOfCircles(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	founder := y.Founder(t)
	base := "/api/apps/" + y.App.ID
	founder.Write(http.MethodPost, base+"/changes", map[string]any{"changes": []any{
		map[string]any{"kind": "add", "what": "workflow", "id": "w_round",
			"values": map[string]any{"kind": "changed", "name": "Keep hours whole", "table": "ord", "fields": []string{"ord_hours"}}},
		map[string]any{"kind": "add", "what": "step", "into": "w_round", "id": "w_round_1",
			"values": map[string]any{"kind": "change", "record": "this",
				"values": []any{map[string]any{"field": "ord_hours", "value": "1"}}}},
	}})
	const said = "The workflow Keep hours whole can set itself off without end."
	var app struct {
		Workflows []struct{ Name, Circle string }
	}
	founder.Read(base, &app)
	for _, w := range app.Workflows {
		if w.Name == "Keep hours whole" {
			assert.Contains(t, w.Circle, said)
		} else {
			assert.Empty(t, w.Circle, "none of the demo does: %s", w.Name)
		}
	}
	type step struct {
		Text       string
		Stop, Care bool
	}
	var plan struct{ Steps []step }
	founder.Read(base+"/plan", &plan)
	told := func(s step) bool { return s.Care && !s.Stop && strings.Contains(s.Text, said) }
	assert.True(t, slices.ContainsFunc(plan.Steps, told), "%v", plan.Steps)
}
