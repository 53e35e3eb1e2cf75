package e2e

import (
	"fmt"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/e2e/browser"
	"pinegate/server/servertest"
)

// TestAManagerReadsTheFigures chooses days and a kind of work for all charts, reads what is behind a bar, takes a chart as a
// table and as files, and sees a number change when one of the crew books hours.
func TestAManagerReadsTheFigures(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 1000)
	w.app("/figures")
	drawn := `document.querySelectorAll('.plot-svg, .donut-svg').length === 8`
	w.must(w.Until("see all charts", drawn))
	assert.Empty(t, serious(t, w))
	w.press("Kind of work")
	w.press("Engine")
	w.must(w.Until("have it in the address", `location.search.includes('is.ord_kind')`))
	w.see("It has no Kind of work: all of it is shown.")
	w.must(w.Type("\x1b"))
	w.press("Show all")
	w.notSee("It has no Kind of work")
	w.choose("Days", "this year")
	w.must(w.Until("have the days in the address", `location.search.includes('days=this-year')`))
	w.must(w.Until("see all charts", drawn))

	// other groups, among those that are offered
	w.choose("Grouped by", "by Boat")
	w.must(w.Until("have the groups in the address", `location.search.includes('.by=ord_boat')`))
	dearest := read[string](w, `SELECT b.name FROM live.work_orders o JOIN live.boats b ON b.id = o.boat WHERE o.deleted_at IS NULL
		AND date_trunc('year', o.start) = date_trunc('year', current_date) AND o.price IS NOT NULL
		GROUP BY b.id, b.name ORDER BY avg(o.price) DESC LIMIT 1`)
	w.must(w.Until("see boats", fmt.Sprintf(`[...document.querySelectorAll('.plot-group')].some(g => g.getAttribute('aria-label').startsWith(%q))`,
		dearest+" (")))
	w.choose("Grouped by", "by Starts on")
	w.must(w.Until("choose among units, too", `document.querySelectorAll('[aria-label="For each"]').length === 2`))
	w.choose("Grouped by", "by Kind of work")
	w.must(w.Until("see all charts", drawn))

	// the bar of a month, by its keys
	month := read[string](w, "SELECT to_char(current_date, 'FMMonth YYYY')")
	w.must(w.Until("focus the month", fmt.Sprintf(`(() => { const g = [...document.querySelectorAll('.plot-group')].find(e =>
		e.getAttribute('aria-label').startsWith(%q)); g?.focus(); return g && document.activeElement === g; })()`, month+": Takings")))
	w.must(w.Type("\r"))
	w.see(fmt.Sprintf("%s: %d record", month, w.number(`SELECT count(*) FROM live.invoices WHERE status <> 'is_draft' AND deleted_at IS NULL
		AND date_trunc('month', day) = date_trunc('month', current_date)`)))
	w.press("Close")
	w.pressIn(".chart", "Table")
	w.see("All together")
	w.pressIn(".chart", "Drawing")
	w.must(w.Until("draw again", drawn))
	_, err := browser.Eval[bool](w.Person, `(() => { const make = URL.createObjectURL; window.made = [];
		URL.createObjectURL = b => { window.made.push(b); return make(b); }; return true; })()`)
	w.must(err)
	w.pressIn(".chart", "Take as PNG")
	w.must(w.Until("have a picture", `window.made.some(b => b.type === 'image/png' && b.size > 5000)`))

	// one of the crew books hours, and the number follows
	const hours = `[...document.querySelectorAll('.figure')].find(f => f.innerText.startsWith('Hours this month'))
		.querySelector('.figure-number').innerText`
	was, err := browser.Eval[string](w.Person, hours)
	w.must(err)
	order := read[string](w, "SELECT id FROM live.work_orders WHERE deleted_at IS NULL ORDER BY id LIMIT 1")
	w.site.Person(t, w.crew()).Write(http.MethodPost, "/a/alder-cove/-/forms/p_log_b", map[string]any{"key": servertest.Key(),
		"path":   "log-hours",
		"values": map[string]any{"time_order": order, "time_day": time.Now().Format(time.DateOnly), "time_hours": "3.5"}})
	w.must(w.Until("see more hours", fmt.Sprintf(`%s !== %q`, hours, was)))
}

// TestTheCrewSeeTheirOwnHours shows the dashboard of the managers to one of the crew, once a rule lets them see their own hours alone:
// all numbers, groups and records behind them are of those.
func TestTheCrewSeeTheirOwnHours(t *testing.T) {
	w := start(t)
	w.live(map[string]any{"kind": "set", "of": "r_crew.time", "values": map[string]any{
		"see": map[string]any{"extent": "where", "condition": "crew = me"}}})
	email := w.crew()
	own := func(what string) string {
		return fmt.Sprintf(`SELECT %s FROM live.time_entries t JOIN live.crew c ON c.id = t.crew WHERE c.email = '%s' AND t.deleted_at IS NULL
			AND date_trunc('month', t.day) = date_trunc('month', current_date)`, what, email)
	}
	name := read[string](w, fmt.Sprintf(`SELECT name FROM live.crew WHERE email = '%s'`, email))
	hours := read[float64](w, own("coalesce(sum(t.hours), 0)::float8"))
	require.Less(t, hours, read[float64](w, `SELECT sum(hours)::float8 FROM live.time_entries WHERE deleted_at IS NULL
		AND date_trunc('month', day) = date_trunc('month', current_date)`))
	c := w.beside(email)
	c.app("/figures")
	const figure = `[...document.querySelectorAll('.figure')].find(f => f.innerText.startsWith('Hours this month'))`
	c.must(c.Until("see their hours", fmt.Sprintf(`Math.abs(Number(%s?.querySelector('.figure-number').innerText.replace(/,/g, '')) - %f) < 0.001`,
		figure, hours)))
	c.must(c.Until("see themselves alone", fmt.Sprintf(`(() => { const c = [...document.querySelectorAll('.chart')].find(c =>
		c.innerText.startsWith('Hours of each of the crew')); const g = [...(c?.querySelectorAll('.plot-group') ?? [])];
		return g.length === 1 && g[0].getAttribute('aria-label').startsWith(%q); })()`, name)))
	c.must(c.Until("open what is behind", fmt.Sprintf(`(() => { const b = [...(%s?.querySelectorAll('button') ?? [])].find(b =>
		b.innerText === 'See the records'); b?.click(); return !!b; })()`, figure)))
	c.see(fmt.Sprintf("Hours this month: %d record", w.number(own("count(*)"))))
}

// TestFounderMakesAChart puts a chart on a page, adds a number to it, and sees it drawn.
func TestFounderMakesAChart(t *testing.T) {
	w := start(t)
	w.page("p_due")
	w.press("Add a block")
	w.choose("Kind", "A chart")
	w.must(w.Until("be asked for records", `!!field("Records of")`))
	w.choose("Records of", "Invoices")
	w.must(w.Until("be asked for groups", `!!field("Grouped by")?.options?.length`))
	w.choose("Grouped by", "Date")
	w.must(w.Until("be asked for the unit", `!!field("For each")`))
	w.choose("For each", "quarter")
	w.save()
	w.see("A chart of Invoices by quarter of Date", "It shows the number of records")
	w.must(w.Until("see it drawn", `documents().slice(1).some(d => d.querySelector('.plot-svg'))`))
	w.press("Add a number")
	w.choose("It shows", "The sum")
	w.must(w.Until("be asked of what", `!!field("Of")`))
	w.fill("Name", "Takings")
	w.pressIn(".pop", "total")
	w.save()
	w.see("It shows the sum of Total, called “Takings”.")
	w.must(w.Until("see both", `documents().slice(1).some(d => d.querySelector('.chart-legend')?.innerText.includes('Takings'))`))
}
