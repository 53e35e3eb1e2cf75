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
	"pinegate/store/apps"
)

// TestARehearsalIsToldWhatNoRecordHolds rehearses a form with an answer that is not kept, and a change with what was there
// before: as without them, what they decide is not to be seen.
func TestARehearsalIsToldWhatNoRecordHolds(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	founder := y.Founder(t)
	base := "/api/apps/" + y.App.ID
	draft := func(sql string) string {
		return y.text(strings.ReplaceAll(sql, "draft.", apps.SchemaName(y.App, apps.Draft)+"."))
	}
	founder.Write(http.MethodPost, base+"/changes", map[string]any{"changes": []any{
		map[string]any{"kind": "add", "what": "workflow", "id": "w_price",
			"values": map[string]any{"kind": "changed", "name": "Tell of a raise", "table": "ord", "fields": []string{"ord_price"}}},
		set("w_price", "when", "price > was.price and was.status <> status"),
		map[string]any{"kind": "add", "what": "step", "into": "w_price",
			"values": map[string]any{"kind": "message", "text": "From {{was.price}}"}},
	}})
	type ask struct {
		ID, Name string
		Was      bool
	}
	var app struct {
		Workflows []struct {
			ID   string
			Asks []ask
		}
	}
	founder.Read(base, &app)
	asks := map[string][]ask{}
	for _, w := range app.Workflows {
		asks[w.ID] = w.Asks
	}
	assert.Equal(t, []ask{{"was.ord_status", "Status before", true}, {"was.ord_price", "Price before", true}}, asks["w_price"])
	require.Len(t, asks["w_enq"], 1)
	type step struct{ Step, What, Text string }
	rehearse := func(flow, record string, answers map[string]any) (starts bool, steps []step) {
		var got struct {
			Starts bool
			Steps  []step
		}
		require.NoError(t, json.Unmarshal([]byte(founder.Write(http.MethodPost, base+"/workflows/"+flow+"/rehearsals",
			map[string]any{"as": "founder", "record": record, "answers": answers})), &got))
		return got.Starts, got.Steps
	}
	order := draft(`SELECT id::text FROM draft.work_orders WHERE price > 100 AND status = 'os_done' ORDER BY id LIMIT 1`)
	starts, _ := rehearse("w_price", order, nil)
	assert.False(t, starts, "it was as it is")
	starts, steps := rehearse("w_price", order, map[string]any{"was.ord_price": "12.5", "was.ord_status": "os_planned"})
	assert.True(t, starts)
	assert.Equal(t, "From 12.5", steps[0].Text)
	status, answer := founder.Do(http.MethodPost, base+"/workflows/w_price/rehearsals",
		map[string]any{"as": "founder", "record": order, "answers": map[string]any{"was.ord_price": "much"}})
	assert.Equal(t, http.StatusUnprocessableEntity, status, answer)

	enquiry := draft("SELECT id::text FROM draft.enquiries ORDER BY id LIMIT 1")
	what := func(answers map[string]any) string {
		_, steps := rehearse("w_enq", enquiry, answers)
		i := slices.IndexFunc(steps, func(s step) bool { return s.Step == "w_enq_5" })
		require.GreaterOrEqual(t, i, 0)
		return steps[i].What
	}
	assert.Equal(t, "passed over", what(nil))
	assert.Equal(t, "did", what(map[string]any{asks["w_enq"][0].ID: true}))
}
