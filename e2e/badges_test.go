package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
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
