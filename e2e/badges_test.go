package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestATargetIsReached celebrates what was reached once, writes to whoever reached it, keeps the badge in their collection, and takes
// it back when the number falls.
func TestATargetIsReached(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 1000)
	w.write(`UPDATE live.work_orders SET finished = current_date - 30 WHERE finished IS NOT NULL`)
	w.app("/targets")
	w.see("To be reached: Three in a week", "Not reached yet")
	assert.Zero(t, w.number(`SELECT count(*) FROM live.badges WHERE badge = 'Three in a week'`))

	w.write(`UPDATE live.work_orders SET finished = current_date WHERE id IN (SELECT id FROM live.work_orders
		WHERE status = 'os_done' AND deleted_at IS NULL ORDER BY id LIMIT 3)`)
	w.app("/targets")
	w.see("You reached the target.", "The badge “Three in a week” is yours")
	assert.Empty(t, serious(t, w))
	w.mail("jonas@aldercove.example", "You have the badge Three in a week")
	w.app("/targets")
	w.see("Your badges")
	w.must(w.Until("have the badge", `document.querySelector('.figure-badge[data-won="true"]')?.innerText === 'Three in a week'`))
	w.notSee("The badge “Three in a week” is yours")

	w.write(`UPDATE live.work_orders SET finished = current_date - 30 WHERE finished = current_date`)
	w.app("/targets")
	w.see("To be reached: Three in a week")
	w.must(w.Until("have it no more", `[...document.querySelectorAll('.award')].some(a => a.innerText.startsWith('Three in a week')
		&& a.innerText.includes('Not reached yet'))`))
	assert.Equal(t, 1, w.number(`SELECT count(*) FROM live.badges WHERE badge = 'Three in a week' AND reached IS NULL`))
}

// TestFounderGivesABadge lets a figure give one: a table for badges is there already, and is taken.
func TestFounderGivesABadge(t *testing.T) {
	w := start(t)
	w.page("p_figures")
	w.line("p_figures_c", "and…")
	w.press("Badge")
	w.fill("Badge", "Up and down")
	w.must(w.Until("have a table for it", `field("Badges are kept in")?.selectedOptions[0].text === "Badges"`))
	w.choose("Picture", "anchor")
	w.save()
	w.see("Whoever reaches its target gets the badge “Up and down” with the picture anchor")
	w.see("23 tables")
}

// TestManagersReadTheWeek lets it be Monday while no server was on: the summary tells what statements by hand say.
func TestManagersReadTheWeek(t *testing.T) {
	w := signedIn(t, "jonas@aldercove.example", 1280, 1000)
	since := time.Now().AddDate(0, 0, -7)
	require.NoError(t, w.site.Store.DB.Exec("UPDATE flow_clocks SET seen_at = ?, next_at = ? WHERE workflow = 'w_week'", since, since).Error)
	require.NoError(t, w.site.Config.Runs.Tick(t.Context(), time.Now()))
	text := w.mail("jonas@aldercove.example", "The week before").Body
	for words, sql := range map[string]string{
		"Orders finished: ": `SELECT count(*)::text FROM live.work_orders WHERE finished >= current_date - 7 AND finished < current_date`,
		"Hours worked: ": `SELECT trim_scale(round(coalesce(sum(hours), 0), 1))::text FROM live.time_entries
			WHERE day >= current_date - 7 AND day < current_date AND deleted_at IS NULL`,
		"Takings: ": `SELECT trim_scale(round(coalesce(sum(total), 0), 2))::text FROM live.invoices
			WHERE status <> 'is_draft' AND deleted_at IS NULL AND day >= current_date - 7 AND day < current_date`,
	} {
		assert.Contains(t, strings.ReplaceAll(text, "*", ""), words+read[string](w, sql), text)
	}
}
