package run_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/publish"
	"pinegate/store/apps"
)

// publish makes the draft live, with its records, and is in the live app from then on.
func (b *busy) publish() {
	b.Blueprint()
	_, err := publish.Do(b.t.Context(), b.Apps, b.App.ID, "Ann", publish.Publication{Revision: b.App.Revision,
		LiveVersion: b.App.LiveVersion, Accept: true, BringRecords: true})
	require.NoError(b.t, err)
	b.Blueprint()
}

// strike lets the clock be looked at, as if it was so late then.
func (b *busy) strike(at string) int {
	when, err := time.ParseInLocation("2006-01-02 15:04", at, b.Blueprint().Location())
	require.NoError(b.t, err)
	require.NoError(b.t, b.runs.Strike(b.t.Context(), when))
	return b.jobs()
}

// since makes the clocks be looked at up to a time.
func (b *busy) since(at string) {
	when, err := time.ParseInLocation("2006-01-02 15:04", at, b.Blueprint().Location())
	require.NoError(b.t, err)
	require.NoError(b.t, b.Store.DB.Exec("UPDATE flow_clocks SET seen_at = ?, next_at = ?", when, when).Error)
}

const (
	daily = `{"kind":"add","what":"workflow","id":"daily","values":{"kind":"schedule","name":"Daily","every":"day","at":"08:00"}}`
	look  = `{"kind":"add","what":"step","into":"daily","id":"d1","values":{"kind":"mail","to":"\"ann@loft.example\"","subject":"Morning","body":"{{TODAY()}}"}}`
)

// TestTheClockStartsWorkflows lets it be eight o'clock, in the app's time zone, across a change of the clock, and with servers
// that were off at eight.
func TestTheClockStartsWorkflows(t *testing.T) {
	b := newBusy(t, daily, look, `{"kind":"set","of":"app","values":{"zone":"Europe/London"}}`)
	b.jobs()
	assert.Equal(t, 0, b.strike("2030-01-01 09:00"), "a draft has no clock")
	b.publish()
	b.since("2026-03-28 09:00")
	assert.Equal(t, 0, b.strike("2026-03-29 07:59"))
	assert.Equal(t, 1, b.strike("2026-03-29 08:00"), "on the day on which the clock is put forward")
	assert.Equal(t, 0, b.strike("2026-03-29 08:00"), "not twice")
	assert.Equal(t, 0, b.strike("2026-03-30 07:59"))
	assert.Equal(t, 1, b.strike("2026-03-30 08:20"), "a little late")
	assert.Equal(t, 1, b.strike("2026-04-04 12:00"), "after days without a server, once")
	assert.Equal(t, "3", b.value("SELECT count(*)::text FROM letters WHERE place = 'live' AND subject = 'Morning'"))

	for missed, want := range map[string]int{"all": 4, "none": 0} {
		set := `{"kind":"set","of":"daily","values":{"missed":"` + missed + `"}}`
		c := newBusy(t, daily, look, set)
		c.publish()
		c.jobs()
		c.since("2026-05-01 09:00")
		assert.Equal(t, want, c.strike("2026-05-05 12:00"), missed)
		assert.Equal(t, 1, c.strike("2026-05-06 08:00"), missed)
	}
}

// TestDatesStartWorkflows reminds of dates: of those that records hold when it is time.
func TestDatesStartWorkflows(t *testing.T) {
	b := newBusy(t,
		`{"kind":"add","what":"workflow","id":"remind","values":{"kind":"date","name":"Remind","table":"sail","field":"cut","days":3,"side":"before","at":"07:30"}}`,
		`{"kind":"set","of":"remind","values":{"when":"area > 1"}}`,
		`{"kind":"add","what":"step","into":"remind","id":"r1","values":{"kind":"mail","to":"owner.email","subject":"Soon","body":"{{name}}"}}`)
	b.publish()
	b.jobs()
	set := func(sail, day string) {
		sails := apps.SchemaName(b.App, apps.Live) + ".sails"
		require.NoError(t, b.Store.DB.Exec("UPDATE "+sails+" SET cut_on = ? WHERE id = ?", day, b.Sails[sail]).Error)
	}
	set("Jib", "2026-06-10")
	set("Genoa", "2026-06-10")
	b.since("2026-06-05 00:00")
	assert.Equal(t, 0, b.strike("2026-06-06 12:00"))
	set("Genoa", "2026-06-12") // it is moved
	assert.Equal(t, 0, b.strike("2026-06-07 07:29"))
	assert.Equal(t, 1, b.strike("2026-06-07 07:30"))
	assert.Equal(t, 0, b.strike("2026-06-07 07:31"))
	require.NoError(t, b.Store.DB.Exec("UPDATE "+apps.SchemaName(b.App, apps.Live)+".sails SET area = 0 WHERE name = 'Genoa'").Error)
	assert.Equal(t, 1, b.strike("2026-06-10 09:00"), "it is looked at all the same")
	assert.Equal(t, "Jib", b.value("SELECT string_agg(plain, ',') FROM letters WHERE subject = 'Soon'"), "but its condition does not hold")
}

// TestARunIsNotDoneTwice works the same job again, as after a server that was killed before it said that it was done.
func TestARunIsNotDoneTwice(t *testing.T) {
	b := newBusy(t, daily, look)
	b.publish()
	b.jobs()
	b.since("2026-05-01 09:00")
	when := time.Date(2026, 5, 2, 9, 0, 0, 0, time.UTC)
	require.NoError(t, b.runs.Strike(t.Context(), when))
	require.NoError(t, b.Store.DB.Exec("INSERT INTO river_job (kind, args, max_attempts, queue) SELECT kind, args, max_attempts, queue FROM river_job WHERE kind = 'flow_started'").Error)
	assert.Equal(t, 2, b.jobs())
	assert.Equal(t, "1", b.value("SELECT count(*)::text FROM letters WHERE subject = 'Morning'"))
}
