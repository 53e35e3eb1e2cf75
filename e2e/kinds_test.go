package e2e

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/e2e/browser"
)

// calculated is what stands in a calculator.
func calculated(in string, add func(what, into, id string, values map[string]any) map[string]any) []any {
	return []any{
		add("block", in, "sum_wide", map[string]any{"kind": "ask", "name": "Width", "type": "number", "unit": "m", "least": "0",
			"most": "9", "ask": "slider", "start": "3", "required": true}),
		add("block", in, "sum_high", map[string]any{"kind": "ask", "name": "Height", "type": "number", "unit": "m", "start": "2"}),
		add("block", in, "sum_area", map[string]any{"kind": "result", "name": "Sail", "value": "answers.width * answers.height",
			"bands": []map[string]string{{"holds": "answers.sail > 5", "says": "Large", "tone": "attention"}}}),
		add("block", in, "sum_cost", map[string]any{"kind": "result", "name": "Her price", "value": "answers.sail * 80", "as": "money"}),
		add("block", in, "sum_line", map[string]any{"kind": "course", "results": []string{"sum_cost"}, "over": "sum_wide", "from": "0",
			"to": "9"}),
	}
}

// TestEveryKindOfBlockIsAccessible has a page about a boat with a block of each kind, light and
// dark, wide and on a phone.
func TestEveryKindOfBlockIsAccessible(t *testing.T) {
	w := start(t)
	f, at := w.site.Founder(t), "/api/apps/"+w.site.App.ID
	change := func(changes ...any) { f.Write(http.MethodPost, at+"/changes", map[string]any{"changes": changes}) }
	set := func(of string, values map[string]any) map[string]any {
		return map[string]any{"kind": "set", "of": of, "values": values}
	}
	add := func(what, into, id string, values map[string]any) map[string]any {
		return map[string]any{"kind": "add", "what": what, "into": into, "id": id, "values": values}
	}
	change(add("field", "boat", "boat_clip", map[string]any{"name": "Clip", "type": "file"}),
		add("field", "boat", "boat_stars", map[string]any{"name": "State", "type": "number", "most": "5", "show": "rating"}),
		add("field", "boat", "boat_full", map[string]any{"name": "Tank", "type": "number", "most": "100", "show": "bar"}),
		add("field", "boat", "boat_launched", map[string]any{"name": "Launched", "type": "number", "show": "year"}))
	w.live()
	schema := fmt.Sprintf(`"app_%s_live"`, strings.ReplaceAll(w.site.App.ID, "-", ""))
	var boat struct {
		ID       string
		Revision int
	}
	require.NoError(t, w.site.Store.DB.Raw("UPDATE "+schema+".boats SET state = 4, tank = 65, launched = 1987 WHERE name = 'Sandpiper' RETURNING id, revision").
		Scan(&boat).Error)
	// as the manager, who may see all of her
	w.byCode("jonas@aldercove.example")
	w.see("Sign out")
	blocks := []map[string]any{
		{"kind": "heading", "text": "{{ name }}", "size": "display"},
		{"kind": "text", "text": "Of **{{ owner.name }}**, with [a link](https://charts.example)."},
		{"kind": "steps", "field": "boat_kind"},
		{"kind": "picture", "field": "boat_photo", "width": "half"},
		{"kind": "video", "field": "boat_clip", "width": "half"},
		{"kind": "details", "fields": []string{"boat_name", "boat_stars", "boat_full", "boat_launched", "boat_length", "boat_owner"},
			"edit": []string{"boat_length"}},
		{"kind": "embed", "address": "https://charts.example/map", "title": "The chart of the cove", "height": 120},
		{"kind": "keep", "values": []string{"k_length"}},
		{"kind": "divider"},
		{"kind": "service", "call": "c_tides", "values": []map[string]string{{"field": "c_tides_harbour", "value": `"Alder Cove"`},
			{"field": "c_tides_day", "value": "TODAY()"}}},
		{"kind": "bar", "range": "last 12 months", "table": "ord", "fields": []string{"ord_kind", "ord_boat"}},
		{"kind": "calculator", "compare": true},
		{"kind": "checklist", "title": "To do"},
		{"kind": "timer", "title": "Time on her"},
		{"kind": "figure", "table": "ord", "title": "Orders", "date": "ord_start", "range": "this year", "compare": "year",
			"better": "higher", "course": "month"},
		{"kind": "badges", "title": "Badges"},
		{"kind": "chart", "table": "ord", "title": "Kinds", "by": "ord_kind", "shape": "donut"},
		{"kind": "chart", "table": "ord", "title": "By month", "by": "ord_start", "date": "ord_start", "range": "this year",
			"then": "ord_kind", "stack": "stacked", "ranges": true},
		{"kind": "form", "table": "boat", "changes": true, "fields": []map[string]any{{"field": "boat_name", "required": true},
			{"field": "boat_kind"}, {"field": "boat_photo"}, {"field": "boat_owner"}}},
		{"kind": "button", "text": "To the berths", "page": "p_berths"},
		{"kind": "records", "table": "req", "filter": "boat = page.record", "title": "Requests",
			"columns": []string{"req_title", "req_status"}},
	}
	all := []any{add("page", "", "p_all", map[string]any{"name": "All kinds", "record": "boat", "audience": "signed in"})}
	kinds := map[string]bool{"group": true, "part": true} // which have journeys of their own
	for i, b := range blocks {
		kinds[b["kind"].(string)] = true
		all = append(all, add("block", "p_all", fmt.Sprintf("all_%d", i), b))
		if b["kind"] == "calculator" {
			all = append(all, calculated(fmt.Sprintf("all_%d", i), add)...)
		}
	}
	for _, k := range blueprint.BlockKinds() {
		assert.True(t, kinds[k.Name] || k.Forms == blueprint.OnlyInForms, "there is no %s on the page", k.Name)
	}
	change(all...)
	for _, theme := range []string{"Clay", "Night ferry"} {
		change(set("app", map[string]any{"theme": theme}))
		w.live()
		for _, width := range []int64{1280, 390} {
			w.must(w.Size(width, 900))
			w.app("/all-kinds/" + boat.ID)
			w.see("Sandpiper", "To the berths", "Requests", "By month")
			w.must(w.Until("see the charts", `document.querySelectorAll(".plot-svg, .donut-svg").length === 3`))
			fits, err := browser.Eval[bool](w.Person, `document.documentElement.scrollWidth <= innerWidth`)
			require.NoError(t, err)
			assert.True(t, fits, "%s at %d", theme, width)
			assert.Empty(t, serious(t, w), "%s at %d", theme, width)
		}
	}
}
