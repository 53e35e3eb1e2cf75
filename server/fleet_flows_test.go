package server_test

import (
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/internal/fleet"
	"pinegate/server/servertest"
)

// startFlows lets it be eight o'clock for a workflow while all servers of a fleet look at the clock, and presses buttons at all
// of them at once. What it gives holds at last that all was done, and nothing twice, whichever server was killed meanwhile.
func startFlows(t *testing.T, f *fleet.Fleet, s *servertest.Site) (held func()) {
	y := yardAtWork{s, t}
	schema := strings.TrimSuffix(liveTable(s, "x"), "x")
	write := func(sql string, args ...any) {
		t.Helper()
		require.NoError(t, s.Store.DB.Exec(strings.ReplaceAll(sql, "live.", schema), args...).Error)
	}
	write("UPDATE live.invoices SET status = 'is_paid' WHERE status = 'is_sent'")
	write("UPDATE live.invoices SET status = 'is_sent', due = current_date - 7 WHERE id IN (SELECT id FROM live.invoices ORDER BY id LIMIT 20)")
	owners := y.text("SELECT count(DISTINCT o.email)::text FROM live.invoices i JOIN live.owners o ON o.id = i.owner WHERE i.status = 'is_sent'")
	since := time.Now().Add(-24 * time.Hour)
	write("UPDATE flow_clocks SET seen_at = ?, next_at = ? WHERE workflow = 'w_over'", since, since)

	crew := s.Person(t, y.crew())
	var orders []string
	require.NoError(t, s.Store.DB.Raw(strings.ReplaceAll("SELECT id::text FROM live.work_orders WHERE status = 'os_in_the_yard' ORDER BY id LIMIT 6",
		"live.", schema)).Scan(&orders).Error)
	var wait sync.WaitGroup
	for _, order := range orders {
		body := pressed(order)
		for _, server := range f.Servers { // one press, that reaches each of them
			wait.Go(func() {
				status, answer := crew.At(server.URL).Do(http.MethodPost, live+"/workflows/w_done", body)
				assert.Equal(t, http.StatusOK, status, answer)
			})
		}
	}
	wait.Wait()
	return func() {
		count := func(sql string) string { return y.text("SELECT count(*)::text FROM " + sql) }
		require.Eventually(t, func() bool {
			return count("letters l JOIN runs r ON r.id = l.run_id WHERE r.workflow = 'w_over' AND l.status = 'sent'") == owners &&
				count("river_job WHERE kind IN ('flow_letter', 'flow_started') AND finalized_at IS NULL") == "0"
		}, 2*time.Minute, 100*time.Millisecond, "each owner is reminded")
		assert.Equal(t, "1", count("runs WHERE workflow = 'w_over'"))
		assert.Equal(t, owners, count("mails WHERE subject = 'A reminder from Alder Cove Boatyard'"))
		assert.Equal(t, "6", count("runs WHERE workflow = 'w_done'"))
		assert.Equal(t, "6", count("runs WHERE workflow = 'w_tell'"), "what the change sets off")
		assert.Equal(t, "6", count("mails WHERE subject LIKE '% is done'"))
	}
}
