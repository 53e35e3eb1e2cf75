package run_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"strings"
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/app/outside"
	"pinegate/app/run"
	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/words"
	"pinegate/standin/harbour"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
	"pinegate/store/runs"
	"pinegate/store/seal"
	"pinegate/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

// busy is the loft with workflows, and what runs them.
type busy struct {
	*acttest.Loft
	runs    *run.Runs
	t       *testing.T
	harbour *harbour.Harbour
	seals   *seal.Book
}

func newBusy(t *testing.T, changes ...string) *busy {
	var all []string
	for _, c := range blueprinttest.FlowChanges() {
		raw, err := blueprint.Encode(c)
		require.NoError(t, err)
		all = append(all, string(raw))
	}
	l := acttest.NewLoft(t, append(all, changes...)...)
	office := harbour.New()
	address, err := office.Serve(t.Context())
	require.NoError(t, err)
	seals, err := seal.In(l.Store.DB, seal.Key{1})
	require.NoError(t, err)
	services := outside.New(seals, outside.Options{Names: map[string]string{harbour.Name: address}})
	return &busy{l, &run.Runs{Acts: l.Acts, Apps: l.Apps, Book: runs.In(l.Store.DB), Services: services}, t, office, seals}
}

// press presses the button of a workflow.
func (b *busy) press(seat *records.Seat, flow, record string) (run.Result, error) {
	var out run.Result
	err := b.Acts.Do(b.t.Context(), func(u *act.Unit) (err error) {
		out, err = b.runs.Press(b.t.Context(), u, b.App, seat, flow, record, nil)
		return err
	})
	return out, b.runs.Keep(b.t.Context(), err)
}

// apply changes the blueprint of the draft.
func (b *busy) apply(change string) {
	c, err := blueprint.DecodeChange([]byte(change), nil)
	require.NoError(b.t, err)
	_, err = b.Acts.Apply(b.t.Context(), b.App.ID, "Ann", c)
	require.NoError(b.t, err)
	b.Blueprint()
}

// last gives the newest run, with what its steps did.
func (b *busy) last() (runs.Run, []run.Entry) {
	list, err := b.runs.Book.Of(b.t.Context(), runs.Page{App: b.App.ID, Place: string(apps.Draft), Limit: 1})
	require.NoError(b.t, err)
	require.Len(b.t, list, 1)
	r, err := b.runs.Book.Run(b.t.Context(), b.App.ID, list[0].ID)
	require.NoError(b.t, err)
	var trace []run.Entry
	require.NoError(b.t, json.Unmarshal(r.Trace, &trace))
	return r, trace
}

func told(trace []run.Entry) string {
	var out []string
	for _, e := range trace {
		out = append(out, strings.TrimSpace(fmt.Sprintf("%s %s", e.Step, e.What)))
	}
	return strings.Join(out, ", ")
}

func (b *busy) value(sql string, args ...any) string {
	var out string
	sql = strings.ReplaceAll(sql, "@", apps.SchemaName(b.App, apps.Draft)+".")
	require.NoError(b.t, b.Store.DB.Raw(sql, args...).Row().Scan(&out))
	return out
}

// jobs works what the queue has for workflows, and tells how many there were.
func (b *busy) jobs() int {
	var raw []string
	require.NoError(b.t, b.Store.DB.Raw("DELETE FROM river_job WHERE kind = 'flow_started' RETURNING args::text").Scan(&raw).Error)
	for _, x := range raw {
		var j act.Started
		require.NoError(b.t, json.Unmarshal([]byte(x), &j))
		require.NoError(b.t, b.runs.Begin(b.t.Context(), j, true))
	}
	return len(raw)
}

// TestAPressRunsTheWhole runs a workflow with one of everything, and reads what is there afterwards.
func TestAPressRunsTheWhole(t *testing.T) {
	b := newBusy(t)
	got, err := b.press(b.Founder(), "mend", b.Sails["Jib"])
	require.NoError(t, err)
	assert.Equal(t, "2 sailors know of it", got.Message)
	assert.Equal(t, "sail", got.Page)
	assert.Equal(t, "Patch of Jib", b.value("SELECT name FROM @sails WHERE id = ?", got.Record))
	assert.Equal(t, "2", b.value("SELECT trim_scale(area)::text FROM @sails WHERE id = ?", got.Record))
	assert.Equal(t, "Ines,Tomas", b.value("SELECT string_agg(name, ',' ORDER BY name) FROM @sails WHERE name IN ('Ines', 'Tomas')"))
	r, trace := b.last()
	assert.Equal(t, runs.Done, r.Status)
	assert.Equal(t, "m_let did, m_sew did, m_stop passed over, m_way did, m_big took, m_add did, m_small left, m_else left, m_each did, "+
		"m_each round, m_mail did, m_each round, m_mail did, m_many did, m_gone did, m_say did, m_open did", told(trace))
	assert.Equal(t, "the found sailors", trace[2].Looked[0].Name, "it is told what a condition looked at")
	letters, err := b.runs.Book.Letters(t.Context(), runs.Page{App: b.App.ID, Place: "draft", Limit: 9})
	require.NoError(t, err)
	require.Len(t, letters, 2)
	assert.Equal(t, runs.Caught, letters[0].Status, "nothing goes out of a draft")
	l, err := b.runs.Book.Letter(t.Context(), letters[1].ID)
	require.NoError(t, err)
	assert.Equal(t, "Ines@sails.example", l.Recipient)
	assert.Equal(t, "Dear Ines,\n\nJib needs *2* m².", l.Plain)
	assert.Equal(t, "<p>Dear Ines,</p>\n<p>Jib needs <em>2</em> m².</p>\n", l.HTML)
}

// TestWhatStopsTakesAllBack holds that a run which does not come to its end leaves nothing but the
// run itself.
func TestWhatStopsTakesAllBack(t *testing.T) {
	b := newBusy(t, `{"kind":"add","what":"step","into":"mend","id":"late","values":{"kind":"stop","text":"Not {{name}}!"}}`)
	before := b.value("SELECT count(*)::text FROM @sails")
	_, err := b.press(b.Founder(), "mend", b.Sails["Jib"])
	var said *words.Problem
	require.ErrorAs(t, err, &said)
	assert.Equal(t, "Not Jib! Nothing was changed.", said.Error())
	assert.Equal(t, before, b.value("SELECT count(*)::text FROM @sails"))
	assert.Equal(t, "0", b.value("SELECT count(*)::text FROM letters"))
	r, trace := b.last()
	assert.Equal(t, runs.Stopped, r.Status)
	assert.Equal(t, "late", *r.Step)
	assert.Equal(t, "Not Jib!", *r.Error)
	assert.Len(t, trace, 18, "what the steps did is written down all the same")
}

// TestRightsOfARun holds that steps can do what the person can who set it off, and all where that is said.
func TestRightsOfARun(t *testing.T) {
	b := newBusy(t, `{"kind":"add","what":"workflow","id":"markup","values":{"kind":"press","name":"Mark up","roles":["r"],"record":"sail"}}`,
		`{"kind":"add","what":"step","into":"markup","id":"p1","values":{"kind":"change","record":"this","values":[{"field":"price","value":"1"}]}}`)
	ines := b.Member("Ines")
	_, err := b.press(ines, "mend", b.Sails["Spinnaker"])
	assert.ErrorIs(t, err, store.ErrNotFound, "a record that she does not see is not there")
	_, err = b.press(ines, "w_added", "")
	assert.ErrorIs(t, err, store.ErrNotFound, "what no button starts")
	visitor := *ines
	visitor.Viewer.Memberships = nil
	_, err = b.press(&visitor, "mend", b.Sails["Jib"])
	assert.ErrorIs(t, err, store.ErrNotFound, "another role's button")

	_, err = b.press(ines, "markup", b.Sails["Jib"])
	var said *words.Problem
	require.ErrorAs(t, err, &said)
	assert.Equal(t, "flow-failed", said.Code, "she is told no more than that")
	r, _ := b.last()
	assert.Equal(t, runs.Failed, r.Status)
	assert.Contains(t, *r.Error, "Sails")

	b = newBusy(t, `{"kind":"set","of":"mend","values":{"rights":"app"}}`)
	_, err = b.press(b.Member("Ines"), "mend", b.Sails["Jib"])
	require.NoError(t, err)
	assert.Equal(t, "the workflow Mend a sail", b.value("SELECT made_by FROM @_history ORDER BY id DESC LIMIT 1"))
	r, _ = b.last()
	assert.Equal(t, "Ines", r.MadeBy, "who set it off is kept")
}

// TestAButtonThatMakesNoSense refuses it where its condition does not hold.
func TestAButtonThatMakesNoSense(t *testing.T) {
	b := newBusy(t, `{"kind":"set","of":"mend","values":{"when":"area > 20"}}`)
	_, err := b.press(b.Founder(), "mend", b.Sails["Jib"])
	var said *words.Problem
	require.ErrorAs(t, err, &said)
	assert.Equal(t, "flow-not-now", said.Code)
}

// TestWritesStartWorkflows adds, changes and deletes records, and works what that starts.
func TestWritesStartWorkflows(t *testing.T) {
	b := newBusy(t)
	b.jobs() // those of the records with which it began
	sail, seat := b.Blueprint().Table("sail"), b.Founder()
	do := func(what func(ctx context.Context, u *act.Unit) error) {
		require.NoError(t, b.Acts.Do(t.Context(), func(u *act.Unit) error { return what(t.Context(), u) }))
	}
	change := func(values string) func(context.Context, *act.Unit) error {
		return func(ctx context.Context, u *act.Unit) error {
			var entered records.Values
			require.NoError(t, json.Unmarshal([]byte(values), &entered))
			_, err := u.Road.Change(ctx, seat, sail, b.Sails["Jib"], records.AnyRevision, entered, nil)
			return err
		}
	}
	letters := func() string { return b.value("SELECT coalesce(string_agg(plain, '|' ORDER BY id), '') FROM letters") }
	was := letters()
	do(change(`{"area":"22"}`))
	assert.Equal(t, 0, b.jobs(), "another field")
	do(change(`{"price":"400","area":"21"}`))
	assert.Equal(t, 0, b.jobs(), "it is as it was")
	do(change(`{"price":"350"}`))
	assert.Equal(t, 1, b.jobs())
	assert.Equal(t, was, letters(), "it went down, so the condition does not hold")
	do(change(`{"price":"500"}`))
	assert.Equal(t, 1, b.jobs())
	assert.True(t, strings.HasSuffix(letters(), "From 350 to 500"), letters())

	failed := errors.New("no")
	require.ErrorIs(t, b.Acts.Do(t.Context(), func(u *act.Unit) error {
		return errors.Join(change(`{"price":"900"}`)(t.Context(), u), failed)
	}), failed)
	assert.Equal(t, 0, b.jobs(), "what was taken back starts nothing")

	do(func(ctx context.Context, u *act.Unit) error {
		_, err := u.Road.Delete(ctx, seat, sail, b.Sails["Spinnaker"], records.AnyRevision)
		return err
	})
	assert.Equal(t, 1, b.jobs())
	assert.Equal(t, "t", b.value("SELECT CASE WHEN deleted_at IS NULL THEN 'f' ELSE 't' END FROM @sailors WHERE id = ?", b.People["Tomas"]))
}

// TestCirclesEnd lets two workflows set each other off, which is stopped and written down.
func TestCirclesEnd(t *testing.T) {
	b := newBusy(t,
		`{"kind":"add","what":"workflow","id":"round","values":{"kind":"changed","name":"Round","table":"sail","fields":["area"]}}`,
		`{"kind":"add","what":"step","into":"round","id":"and","values":{"kind":"change","record":"this","values":[{"field":"area","value":"area + 1"}]}}`)
	b.jobs()
	require.NoError(t, b.Acts.Do(t.Context(), func(u *act.Unit) error {
		_, err := u.Road.Change(t.Context(), b.Founder(), b.Blueprint().Table("sail"), b.Sails["Jib"], records.AnyRevision,
			records.Values{"area": json.RawMessage(`"30"`)}, nil)
		return err
	}))
	n := 0
	for b.jobs() > 0 {
		n++
		require.Less(t, n, 50, "it ends")
	}
	assert.Equal(t, act.MostDeep+2, n)
	r, _ := b.last()
	assert.Equal(t, runs.Failed, r.Status)
	assert.Contains(t, *r.Error, "Round → Round")
}

// TestARunIsTriedAgain mends what kept a run from its end, and tries it again with what set it off, as who set it off.
func TestARunIsTriedAgain(t *testing.T) {
	b := newBusy(t, `{"kind":"add","what":"workflow","id":"markup","values":{"kind":"press","name":"Mark up","roles":["r"],"record":"sail"}}`,
		`{"kind":"add","what":"step","into":"markup","id":"p1","values":{"kind":"change","record":"this","values":[{"field":"price","value":"1"}]}}`)
	_, err := b.press(b.Member("Ines"), "markup", b.Sails["Jib"])
	require.Error(t, err)
	was, _ := b.last()
	b.Blueprint()
	_, err = b.runs.Again(t.Context(), b.App, was)
	require.NoError(t, err)
	again, _ := b.last()
	assert.NotEqual(t, was.ID, again.ID)
	assert.Equal(t, runs.Failed, again.Status, "nothing is mended yet")
	assert.Equal(t, "Ines", again.MadeBy)

	b.apply(`{"kind":"set","of":"markup","values":{"rights":"app"}}`)
	rehearsed, err := b.runs.Of(t.Context(), b.App, was)
	require.NoError(t, err)
	got, err := b.runs.Rehearse(t.Context(), rehearsed)
	require.NoError(t, err)
	assert.Equal(t, runs.Done, got.Status)
	price := func() string {
		return b.value("SELECT trim_scale(price)::text FROM @sails WHERE id = ?", b.Sails["Jib"])
	}
	assert.Equal(t, "400", price(), "a rehearsal changes nothing")
	id, err := b.runs.Again(t.Context(), b.App, was)
	require.NoError(t, err)
	assert.Equal(t, "1", price())
	done, err := b.runs.Book.Run(t.Context(), b.App.ID, id)
	require.NoError(t, err)
	_, err = b.runs.Again(t.Context(), b.App, done)
	var said *words.Problem
	require.ErrorAs(t, err, &said)
	assert.Equal(t, "flow-ran-well", said.Code)
}

// TestARoutineRuns presses a button whose workflow runs a routine, and rehearses it into the routine.
func TestARoutineRuns(t *testing.T) {
	b := newBusy(t)
	got, err := b.press(b.Member("Ines"), "count", b.Sails["Jib"])
	require.NoError(t, err)
	assert.Equal(t, "Jib: 2", got.Message, "she sees no sailors, and so none of their sails")
	seat := b.Founder()
	s := run.Start{App: b.App, Env: apps.Draft, Person: seat, Workflow: seat.Blueprint.Workflow("count")}
	s.Input.Record = b.Sails["Jib"]
	rehearsed, err := b.runs.Rehearse(t.Context(), s)
	require.NoError(t, err)
	var told []string
	for _, x := range rehearsed.Steps {
		if x.What == "back" {
			told = append(told, fmt.Sprint(x.Made.Name, " ", x.Made.Shown, " ", x.Rounds))
		}
	}
	assert.Equal(t, []string{"result of Tally 4 [1]"}, told)
}

// TestAJobIsDoneOnce has several servers work the same job at the same time.
func TestAJobIsDoneOnce(t *testing.T) {
	b := newBusy(t)
	b.jobs()
	before := b.value("SELECT count(*)::text FROM letters")
	who := act.Person{Founder: true, By: "Ann"}
	job := act.Started{ID: uuid.NewString(), Schema: apps.SchemaName(b.App, apps.Draft), Workflow: "w_added", Record: b.People["Ines"],
		Person: who}
	done := make(chan error)
	const servers = 6
	for range servers {
		go func() { done <- b.runs.Begin(context.WithoutCancel(t.Context()), job, false) }()
	}
	well := 0
	for range servers {
		if err := <-done; err == nil {
			well++
		}
	}
	assert.Positive(t, well)
	assert.Equal(t, "1", b.value("SELECT (count(*) - ?::int)::text FROM letters", before))
}

// TestRightsAreNotHandedOn lets a workflow with the app's own rights set another off that has those of the person.
func TestRightsAreNotHandedOn(t *testing.T) {
	b := newBusy(t, `{"kind":"add","what":"workflow","id":"markup","values":{"kind":"press","name":"Mark up","roles":["r"],"record":"sail"}}`,
		`{"kind":"set","of":"markup","values":{"rights":"app"}}`,
		`{"kind":"add","what":"step","into":"markup","id":"p1","values":{"kind":"change","record":"this","values":[{"field":"price","value":"1"}]}}`,
		`{"kind":"add","what":"workflow","id":"next","values":{"kind":"changed","name":"Next","table":"sail","fields":["price"]}}`,
		`{"kind":"add","what":"step","into":"next","id":"next_1","values":{"kind":"change","record":"this","values":[{"field":"area","value":"99"}]}}`)
	b.jobs()
	_, err := b.press(b.Member("Ines"), "markup", b.Sails["Jib"])
	require.NoError(t, err)
	assert.Equal(t, 2, b.jobs(), "what it set off, and what tells of prices")
	assert.Equal(t, "20", b.value("SELECT trim_scale(area)::text FROM @sails WHERE id = ?", b.Sails["Jib"]), "Ines may not change it")
	var failed runs.Run
	list, err := b.runs.Book.Of(t.Context(), runs.Page{App: b.App.ID, Place: "draft", Workflow: "next", Limit: 1})
	require.NoError(t, err)
	require.Len(t, list, 1)
	failed = list[0]
	assert.Equal(t, runs.Failed, failed.Status)
	assert.Equal(t, "Ines", failed.MadeBy)
}

// TestTwoWhoCountAreBothCounted presses buttons at once that count up the record in hand, and another one: of each press
// one more is counted.
func TestTwoWhoCountAreBothCounted(t *testing.T) {
	b := newBusy(t,
		`{"kind": "add", "what": "workflow", "id": "own", "values": {"kind": "press", "name": "Count it", "record": "sail", "roles": ["r"], "rights": "app"}}`,
		`{"kind": "add", "what": "step", "into": "own", "id": "own_1", "values": {"kind": "change", "record": "this",
			"values": [{"field": "area", "value": "area + 1"}]}}`,
		`{"kind": "add", "what": "workflow", "id": "other", "values": {"kind": "press", "name": "Count others", "record": "sail", "roles": ["r"], "rights": "app"}}`,
		`{"kind": "add", "what": "step", "into": "other", "id": "oth_1", "values": {"kind": "change", "all": true, "table": "sail", "where": "name = \"Genoa\"",
			"values": [{"field": "area", "value": "area + 1"}]}}`,
		`{"kind": "add", "what": "step", "into": "other", "id": "oth_2", "values": {"kind": "change", "record": "this", "when": "area < 30",
			"values": [{"field": "area", "value": "area + 1"}]}}`)
	require.NoError(t, b.Store.DB.Exec("UPDATE "+apps.SchemaName(b.App, apps.Draft)+".sails SET area = 10").Error)
	const hands, times = 4, 10
	var wait sync.WaitGroup
	for range hands {
		wait.Go(func() {
			for range times {
				_, err := b.press(b.Founder(), "own", b.Sails["Genoa"])
				assert.NoError(t, err)
				_, err = b.press(b.Founder(), "other", b.Sails["Jib"])
				assert.NoError(t, err)
			}
		})
	}
	wait.Wait()
	area := func(name string) string {
		return b.value("SELECT trim_scale(area)::text FROM @sails WHERE name = ?", name)
	}
	assert.Equal(t, fmt.Sprint(10+2*hands*times), area("Genoa"))
	assert.Equal(t, "30", area("Jib"), "what is asked before holds when it is written")
}
