package server_test

import (
	"fmt"
	"net/http"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
	"pinegate/store"
	"pinegate/store/apps"
)

// presses has the parts of orders ordered again, which asks a service for each and notes what it answers; and marks
// orders as done, which mails their owners.
func (b *busyTown) presses(c *servertest.Client, founder *servertest.Client) {
	var page struct{ Rows []map[string]any }
	founder.Read("/api/apps/"+b.App.ID+"/tables/part/records?as=founder", &page)
	for n := 0; b.ctx.Err() == nil; n++ {
		order := fmt.Sprint(page.Rows[n%20]["part_order"])
		if _, ok := b.insist(c, http.MethodPost, live+"/workflows/w_parts", map[string]any{"key": servertest.Key(), "record": order}); ok {
			b.note("run", order)
		}
		for range 14 {
			pause(b.ctx)
		}
	}
}

// drained waits until all runs have come to their ends.
func (b *busyTown) drained(s *store.Store) {
	var left int
	require.Eventually(b.t, func() bool {
		err := s.DB.Raw(`SELECT (SELECT count(*) FROM runs WHERE workflow = 'w_parts' AND status = 'waiting') + (SELECT count(*) FROM river_job
			WHERE kind LIKE 'flow_%' AND kind <> 'flow_tick' AND finalized_at IS NULL)`).Row().Scan(&left)
		return err == nil && left == 0
	}, 6*time.Minute, 100*time.Millisecond, "%d are left", left)
}

// heldRuns holds that each press that was answered has its run, and that no part of a run was done twice; where all have
// come to their ends, that none was lost either.
func (b *busyTown) heldRuns(s *store.Store, drained bool) {
	t, public := b.t, apps.SchemaName(b.App, apps.Live)
	var runs []struct {
		Order              string
		Runs, Done, Failed int
		Notes              int
		Parts              int
	}
	require.NoError(t, s.DB.Raw(fmt.Sprintf(`SELECT r.record_id AS "order", count(*) AS runs, count(*) FILTER (WHERE r.status = 'done') AS done,
		count(*) FILTER (WHERE r.status NOT IN ('done', 'waiting')) AS failed,
		(SELECT count(*) FROM %[1]s.order_notes n WHERE n."order" = r.record_id AND (n.text LIKE 'Ordered %%' OR
			n.text LIKE 'The harbour office %%')) AS notes,
		(SELECT count(*) FROM %[1]s.parts_used p WHERE p."order" = r.record_id AND p.deleted_at IS NULL) AS parts
		FROM runs r WHERE r.workflow = 'w_parts' GROUP BY r.record_id`, public)).Scan(&runs).Error)
	answered := map[string]int{}
	for _, order := range b.done["run"] {
		answered[order]++
	}
	for _, r := range runs {
		assert.Zero(t, r.Failed, r.Order)
		assert.GreaterOrEqual(t, r.Runs, answered[r.Order], r.Order)
		assert.LessOrEqual(t, r.Runs, answered[r.Order]+1, "%s: one at most was not answered", r.Order)
		if drained {
			assert.Equal(t, r.Runs*r.Parts, r.Notes, "%s: a note for each part of each run", r.Order)
		}
		assert.GreaterOrEqual(t, r.Notes, r.Done*r.Parts, r.Order)
		assert.LessOrEqual(t, r.Notes, r.Runs*r.Parts, r.Order)
		delete(answered, r.Order)
	}
	assert.Empty(t, answered, "each press that was answered has its run")
}
