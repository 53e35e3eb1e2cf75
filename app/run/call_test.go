package run_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/outside"
	"pinegate/app/run"
	"pinegate/standin/harbour"
	"pinegate/store/runs"
)

// asking works what the queue has for services, as the attempt that it is of so many, and tells how many there were.
func (b *busy) asking(attempt int) (n int, err error) {
	var raw []string
	require.NoError(b.t, b.Store.DB.Raw("SELECT args::text FROM river_job WHERE kind = 'flow_call'").Scan(&raw).Error)
	for _, x := range raw {
		var j run.CallJob
		require.NoError(b.t, json.Unmarshal([]byte(x), &j))
		if err := b.runs.Call(b.t.Context(), j, attempt, attempt >= 9); err != nil {
			return len(raw), err
		}
		require.NoError(b.t, b.Store.DB.Exec("DELETE FROM river_job WHERE kind = 'flow_call' AND args::text = ?", x).Error)
	}
	return len(raw), nil
}

// asks is the loft with a harbour that is really called, of which the jib asks.
func asks(t *testing.T) *busy {
	b := newBusy(t, `{"kind":"set","of":"port","values":{"address":"`+harbour.Address+`","proofName":"`+harbour.KeyHeader+`","real":true}}`,
		`{"kind":"set","of":"a_call","values":{"values":[{"field":"t_harbour","value":"name"},{"field":"t_day","value":"today()"}]}}`,
		`{"kind":"set","of":"a_order","values":{"values":[{"field":"o_part","value":"\"SH-25\""},{"field":"o_count","value":"2"}]}}`)
	b.jobs()
	connection := b.Blueprint().Connection("port")
	require.NoError(t, b.seals.Set(t.Context(), b.App.ID, outside.SecretOf(connection), harbour.Key, "Ann"))
	_, err := b.press(b.Founder(), "asks", b.Sails["Jib"])
	require.NoError(t, err)
	return b
}

func (b *busy) price() string {
	return b.value("SELECT trim_scale(price)::text FROM @sails WHERE id = ?", b.Sails["Jib"])
}

// TestAServiceIsAsked asks a service, and then another with what came of the first.
func TestAServiceIsAsked(t *testing.T) {
	b := asks(t)
	assert.Equal(t, "401", b.price(), "what came before the call is kept")
	assert.Empty(t, b.harbour.Requests(), "nothing goes out before that")
	r, trace := b.last()
	assert.Equal(t, runs.Waits, r.Status)
	assert.Equal(t, "a_before did, a_call asked", told(trace))
	n, err := b.asking(1)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	assert.Equal(t, "4", b.value("SELECT count(*)::text FROM @sails WHERE name LIKE 'Tide at %'"))
	n, err = b.asking(1)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	r, trace = b.last()
	require.Equal(t, runs.Done, r.Status)
	assert.Equal(t, "Jib H-0001", b.value("SELECT name FROM @sails WHERE id = ?", b.Sails["Jib"]))
	require.Len(t, b.harbour.Orders(), 1)
	require.Len(t, b.harbour.Requests(), 2)
	assert.True(t, strings.HasPrefix(b.harbour.Requests()[0], "GET /tides/Jib?day=20"), b.harbour.Requests()[0])
	assert.Equal(t, "Harbour", trace[1].Call.Service)
	assert.Contains(t, trace[1].Call.Answer, `"tides":[`)
	assert.Equal(t, `{"line":{"count":2,"part":"SH-25"}}`, trace[len(trace)-2].Call.Body)
	assert.NotContains(t, string(r.Trace)+string(r.Input), harbour.Key, "no secret is written down")
}

// TestAServiceThatFails is asked again, with the same key, and the run can be tried again where it gave up.
func TestAServiceThatFails(t *testing.T) {
	b := asks(t)
	for attempt, behaves := range []harbour.Behaviour{{Fails: 1}, {Nonsense: 1}, {Slow: 2 * time.Second}} {
		b.harbour.Behave(behaves)
		if behaves.Slow > 0 {
			b.apply(`{"kind":"set","of":"port","values":{"seconds":1}}`)
		}
		_, err := b.asking(attempt + 1)
		require.Error(t, err, "which has it asked again")
		r, _ := b.last()
		assert.Equal(t, runs.Waits, r.Status)
		want := []string{"answered with an error (503)", "is not JSON", "did not answer in a second"}[attempt]
		assert.Contains(t, *r.Error, want)
		assert.Contains(t, *r.Error, "asked again")
	}
	b.harbour.Behave(harbour.Behaviour{Fails: 1})
	_, err := b.asking(9)
	require.NoError(t, err)
	r, _ := b.last()
	assert.Equal(t, runs.Failed, r.Status)
	assert.Equal(t, "a_call", *r.Step)
	assert.Equal(t, "401", b.price())
	_, err = b.runs.Again(t.Context(), b.App, r)
	require.NoError(t, err)
	_, err = b.asking(1)
	require.NoError(t, err)
	_, err = b.asking(1)
	require.NoError(t, err)
	r, _ = b.last()
	assert.Equal(t, runs.Done, r.Status)
	assert.Nil(t, r.Error)
}

// TestAnAnswerCountsOnce gives the same answer twice, as a server does that was killed before it said so.
func TestAnAnswerCountsOnce(t *testing.T) {
	b := asks(t)
	_, err := b.asking(1)
	require.NoError(t, err)
	var raw string
	require.NoError(t, b.Store.DB.Raw("SELECT args::text FROM river_job WHERE kind = 'flow_call'").Row().Scan(&raw))
	var j run.CallJob
	require.NoError(t, json.Unmarshal([]byte(raw), &j))
	done := make(chan error)
	for range 4 {
		go func() { done <- b.runs.Call(t.Context(), j, 1, true) }()
	}
	for range 4 {
		require.NoError(t, <-done)
	}
	assert.Len(t, b.harbour.Orders(), 1, "the same key makes it the same order")
	assert.Equal(t, "Jib H-0001", b.value("SELECT name FROM @sails WHERE id = ?", b.Sails["Jib"]))
	r, _ := b.last()
	assert.Equal(t, runs.Done, r.Status)
}

// TestGoesOnWithoutAnAnswer goes on where the step says so, and says why there is none.
func TestGoesOnWithoutAnAnswer(t *testing.T) {
	b := asks(t)
	_, err := b.asking(1)
	require.NoError(t, err)
	b.harbour.Behave(harbour.Behaviour{Fails: 1})
	_, err = b.asking(9)
	require.NoError(t, err)
	r, trace := b.last()
	assert.Equal(t, runs.Done, r.Status)
	assert.Contains(t, trace[len(trace)-2].Call.Problem, "503")
	assert.Empty(t, b.harbour.Orders())
}

// TestNothingGoesOutOfADraft answers by the sample in drafts and rehearsals.
func TestNothingGoesOutOfADraft(t *testing.T) {
	b := newBusy(t)
	_, err := b.press(b.Founder(), "asks", b.Sails["Jib"])
	require.NoError(t, err)
	for range 2 {
		_, err := b.asking(1)
		require.NoError(t, err)
	}
	r, trace := b.last()
	assert.Equal(t, runs.Done, r.Status)
	assert.True(t, trace[1].Call.Sample)
	assert.Equal(t, "Jib H-1", b.value("SELECT name FROM @sails WHERE id = ?", b.Sails["Jib"]))

	seat := b.Founder()
	s := run.Start{App: b.App, Env: "draft", Person: seat, Workflow: seat.Blueprint.Workflow("asks")}
	s.Input.Record = b.Sails["Jib"]
	got, err := b.runs.Rehearse(t.Context(), s)
	require.NoError(t, err)
	assert.Equal(t, runs.Done, got.Status)
	assert.Equal(t, "GET /tides/Jib%20H-1", got.Steps[1].Call.Asked)
	assert.True(t, got.Steps[1].Call.Sample)
	assert.Empty(t, b.harbour.Requests())

	b.apply(`{"kind":"set","of":"tides","values":{"sample":""}}`)
	seat = b.Founder()
	s.Person, s.Workflow = seat, seat.Blueprint.Workflow("asks")
	got, err = b.runs.Rehearse(t.Context(), s)
	require.NoError(t, err)
	assert.Equal(t, runs.Failed, got.Status)
	assert.Contains(t, got.Error, "no sample")
}
