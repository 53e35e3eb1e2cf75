package run_test

import (
	"context"
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/run"
	"pinegate/core/words"
	"pinegate/store/records"
	"pinegate/store/runs"
)

// woken works what the queue has for runs that wait, and tells how many there were.
func (b *busy) woken() int {
	var raw []string
	require.NoError(b.t, b.Store.DB.Raw("DELETE FROM river_job WHERE kind = 'flow_woken' RETURNING args::text").Scan(&raw).Error)
	for _, x := range raw {
		var j act.Woken
		require.NoError(b.t, json.Unmarshal([]byte(x), &j))
		require.NoError(b.t, b.runs.Wake(b.t.Context(), j.Run, true))
	}
	return len(raw)
}

// later lets time pass for all runs that wait.
func (b *busy) later(d time.Duration) {
	require.NoError(b.t, b.Store.DB.Exec(`UPDATE runs SET wake_at = wake_at - ?::interval, state = jsonb_set(state, '{state,since}',
		to_jsonb((state->'state'->>'since')::timestamptz - ?::interval)) WHERE status = 'waiting'`, d.String(), d.String()).Error)
	require.NoError(b.t, b.runs.Tick(b.t.Context(), time.Now()))
	b.woken()
}

func (b *busy) set(values string) {
	var entered records.Values
	require.NoError(b.t, json.Unmarshal([]byte(values), &entered))
	require.NoError(b.t, b.Acts.Do(b.t.Context(), func(u *act.Unit) error {
		_, err := u.Road.Change(b.t.Context(), b.Founder(), b.Blueprint().Table("sail"), b.Sails["Jib"], records.AnyRevision, entered, nil)
		return err
	}))
}

func (b *busy) letters() string {
	return b.value("SELECT coalesce(string_agg(subject, ', ' ORDER BY id), '') FROM letters")
}

// chased has the owner of the jib chased, who has not said when it is cut.
func chased(t *testing.T) *busy {
	b := newBusy(t)
	b.jobs()
	b.set(`{"cut":null}`)
	_, err := b.press(b.Founder(), "chase", b.Sails["Jib"])
	require.NoError(t, err)
	r, trace := b.last()
	require.Equal(t, runs.Waits, r.Status)
	assert.Equal(t, "c_each did, c_each round, c_wait asked", told(trace))
	assert.Equal(t, "c_wait", *r.Step)
	assert.Equal(t, 1, b.woken(), "it is looked at once more, as the answer could have come meanwhile")
	return b
}

// TestARunWaitsAndReminds waits for an answer that does not come, and reminds three times.
func TestARunWaitsAndReminds(t *testing.T) {
	b := chased(t)
	before := b.letters()
	b.later(24 * time.Hour)
	assert.Equal(t, before, b.letters(), "after a day there is no reminder")
	b.later(25 * time.Hour)
	assert.Equal(t, before+", Reminder 1", b.letters())
	b.later(49 * time.Hour)
	b.later(49 * time.Hour)
	assert.Equal(t, before+", Reminder 1, Reminder 2, Reminder 3", b.letters())
	r, trace := b.last()
	assert.Equal(t, runs.Waits, r.Status)
	assert.Equal(t, "c_each did, c_each round, c_wait did, c_mail did, c_each round, c_wait did, c_mail did, c_each round, c_wait did, "+
		"c_mail did, c_day asked", told(trace), "now it waits for the date")
	b.woken()
	b.set(`{"cut":"2020-01-01"}`)
	assert.Equal(t, 1, b.woken())
	r, _ = b.last()
	assert.Equal(t, runs.Done, r.Status)
	assert.Equal(t, "401", b.value("SELECT trim_scale(price)::text FROM @sails WHERE id = ?", b.Sails["Jib"]))
}

// TestAnAnswerEndsAWait goes on as soon as a record says what was waited for, and moves with its date.
func TestAnAnswerEndsAWait(t *testing.T) {
	b := chased(t)
	before := b.letters()
	b.set(`{"area":"21"}`)
	assert.Equal(t, 1, b.woken(), "it is looked at")
	r, _ := b.last()
	assert.Equal(t, runs.Waits, r.Status)
	day := time.Now().AddDate(0, 0, 10).UTC().Format(time.DateOnly)
	b.set(`{"cut":"` + day + `"}`)
	require.Equal(t, 1, b.woken())
	r, trace := b.last()
	assert.Equal(t, "c_each did, c_each round, c_wait did, c_mail passed over, c_each ended, c_day asked", told(trace))
	assert.Equal(t, before, b.letters())
	assert.Equal(t, day+" 08:00", trace[5].Until.UTC().Format("2006-01-02 15:04"))
	assert.Equal(t, runs.Waits, r.Status)
	b.woken()
	assert.Zero(t, b.woken(), "nothing is looked at for ever")
}

// TestARunThatWaitsIsDoneOnce has several servers wake the same run at the same time.
func TestARunThatWaitsIsDoneOnce(t *testing.T) {
	b := chased(t)
	r, _ := b.last()
	b.set(`{"cut":"2020-01-01"}`)
	done := make(chan error)
	for range 6 {
		go func() { done <- b.runs.Wake(context.WithoutCancel(t.Context()), r.ID, true) }()
	}
	for range 6 {
		require.NoError(t, <-done)
	}
	assert.Equal(t, "401", b.value("SELECT trim_scale(price)::text FROM @sails WHERE id = ?", b.Sails["Jib"]))
	r.Status = runs.Failed
	require.NoError(t, b.runs.Book.Keep(t.Context(), &r, []runs.Letter{{ID: "01"}}))
	now, _ := b.last()
	assert.Equal(t, runs.Done, now.Status, "what was read before it went on is not kept over it")
}

// TestALaterPartIsTriedAgain fails in the second part, and goes on from there: the first one is not done twice.
func TestALaterPartIsTriedAgain(t *testing.T) {
	b := newBusy(t,
		`{"kind":"add","what":"workflow","id":"two","values":{"kind":"press","name":"Two","roles":["r"],"record":"sail"}}`,
		`{"kind":"add","what":"step","into":"two","id":"t1","values":{"kind":"change","record":"this","values":[{"field":"price","value":"price + 1"}]}}`,
		`{"kind":"add","what":"step","into":"two","id":"t2","values":{"kind":"wait","for":"time","n":1,"unit":"hours"}}`,
		`{"kind":"add","what":"step","into":"two","id":"t3","values":{"kind":"change","record":"this","values":[{"field":"price","value":"price + 10"}]}}`,
		`{"kind":"add","what":"step","into":"two","id":"t4","values":{"kind":"stop","text":"Not yet"}}`,
		`{"kind":"set","of":"t4","values":{"when":"area < 21"}}`)
	_, err := b.press(b.Founder(), "two", b.Sails["Jib"])
	require.NoError(t, err)
	price := func() string {
		return b.value("SELECT trim_scale(price)::text FROM @sails WHERE id = ?", b.Sails["Jib"])
	}
	assert.Equal(t, "401", price())
	b.later(2 * time.Hour)
	r, trace := b.last()
	assert.Equal(t, runs.Stopped, r.Status)
	assert.Equal(t, "t1 did, t2 did, t3 did, t4 asked", told(trace))
	assert.Equal(t, "401", price(), "what the part did is taken back, and what the one before did stays")
	id, err := b.runs.Again(t.Context(), b.App, r)
	require.NoError(t, err)
	assert.Equal(t, r.ID, id)
	r, _ = b.last()
	assert.Equal(t, runs.Stopped, r.Status)
	b.set(`{"area":"30"}`)
	b.jobs()
	r, err = b.runs.Book.Run(t.Context(), b.App.ID, id)
	require.NoError(t, err)
	_, err = b.runs.Again(t.Context(), b.App, r)
	require.NoError(t, err)
	assert.Equal(t, "411", price())
	r, err = b.runs.Book.Run(t.Context(), b.App.ID, id)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(r.Trace, &trace))
	assert.Equal(t, runs.Done, r.Status)
	assert.Equal(t, "t1 did, t2 did, t3 did, t4 passed over", told(trace))
}

// TestWhatEndsAWaitForGood ends runs that wait: by hand, as their record is deleted, or as the workflow is switched off.
func TestWhatEndsAWaitForGood(t *testing.T) {
	b := chased(t)
	r, _ := b.last()
	require.NoError(t, b.runs.End(t.Context(), r, "Ann"))
	now, _ := b.last()
	assert.Equal(t, runs.Stopped, now.Status)
	assert.Equal(t, "Ann ended it while it waited.", *now.Error)
	var said *words.Problem
	require.ErrorAs(t, b.runs.End(t.Context(), r, "Ann"), &said)
	assert.Equal(t, "flow-waits-not", said.Code)
	b.later(99 * time.Hour)
	now, _ = b.last()
	assert.Equal(t, runs.Stopped, now.Status)

	b = chased(t)
	require.NoError(t, b.Acts.Do(t.Context(), func(u *act.Unit) error {
		_, err := u.Road.Delete(t.Context(), b.Founder(), b.Blueprint().Table("sail"), b.Sails["Jib"], records.AnyRevision)
		return err
	}))
	assert.Equal(t, 1, b.woken())
	now, _ = b.last()
	assert.Equal(t, runs.Stopped, now.Status)
	assert.Equal(t, "The record that set it off was deleted while this run waited.", *now.Error)

	b = chased(t)
	b.apply(`{"kind":"set","of":"chase","values":{"off":true}}`)
	b.later(49 * time.Hour)
	now, _ = b.last()
	assert.Equal(t, runs.Failed, now.Status)
	assert.Contains(t, *now.Error, "switched off")
	b.apply(`{"kind":"set","of":"chase","values":{"off":false}}`)
	_, err := b.runs.Again(t.Context(), b.App, now)
	require.NoError(t, err)
	now, _ = b.last()
	assert.Equal(t, runs.Waits, now.Status, "it goes on from where it was")
}

// TestARehearsalPassesWaits moves the clock, and keeps nothing.
func TestARehearsalPassesWaits(t *testing.T) {
	b := newBusy(t)
	b.set(`{"cut":null}`)
	seat := b.Founder()
	s := run.Start{App: b.App, Env: "draft", Person: seat, Workflow: seat.Blueprint.Workflow("chase")}
	s.Input.Record = b.Sails["Jib"]
	got, err := b.runs.Rehearse(t.Context(), s)
	require.NoError(t, err)
	assert.Equal(t, runs.Failed, got.Status)
	assert.Contains(t, got.Error, "It waited 366 days for a date")
	var mails []string
	for _, x := range got.Steps {
		if x.Mail != nil {
			mails = append(mails, x.Mail.Subject)
		}
	}
	assert.Equal(t, []string{"Reminder 1", "Reminder 2", "Reminder 3"}, mails)
	assert.Equal(t, "0", b.value("SELECT count(*)::text FROM runs WHERE workflow = 'chase'"))
}

// TestARehearsalAsksWhoMay says that somebody cannot press the button, or does not see the record.
func TestARehearsalAsksWhoMay(t *testing.T) {
	b := newBusy(t, `{"kind":"add","what":"role","id":"guest","values":{"name":"Guests","people":"sailor"}}`)
	rehearse := func(seat *records.Seat, sail string) run.Rehearsal {
		s := run.Start{App: b.App, Env: "draft", Person: seat, Workflow: seat.Blueprint.Workflow("mend")}
		s.Input.Record = b.Sails[sail]
		got, err := b.runs.Rehearse(t.Context(), s)
		require.NoError(t, err)
		return got
	}
	got := rehearse(b.Member("Ines"), "Jib")
	assert.True(t, got.Starts)
	got = rehearse(b.Member("Ines"), "Spinnaker")
	assert.False(t, got.Starts)
	assert.Equal(t, "It would not start: Ines can’t see this sail.", got.Refused)
	assert.Empty(t, got.Steps)
	guest := *b.Member("Ines")
	guest.Viewer.Memberships = nil
	assert.Equal(t, "It would not start: Ines can’t press its button.", rehearse(&guest, "Jib").Refused)
}
