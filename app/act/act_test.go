package act_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// note is a job for tests; nobody works it.
type note struct {
	Text string `json:"text"`
}

func (note) Kind() string { return "test_note" }

func jobs(t *testing.T, s *store.Store) int {
	t.Helper()
	n := 0
	require.NoError(t, s.DB.Raw("SELECT count(*) FROM river_job WHERE kind = 'test_note'").Row().Scan(&n))
	return n
}

// TestAJobIsThereExactlyWhenItsUnitIs puts jobs in the queue with writes that
// succeed, that are refused, and that are given up.
func TestAJobIsThereExactlyWhenItsUnitIs(t *testing.T) {
	l := acttest.NewLoft(t)
	ctx, seat := t.Context(), l.Founder()
	table := seat.Blueprint.Table("sail")
	try := func(values map[string]any, then error) error {
		_, err := l.Acts.Edit(ctx, l.App, seat, "test", func(u *act.Unit) (*records.Write, error) {
			if err := u.Enqueue(ctx, note{"hello"}); err != nil {
				return nil, err
			}
			w, err := u.Road.Add(ctx, seat, table, acttest.Values(t, values), nil)
			return w, errors.Join(err, then)
		})
		return err
	}
	require.NoError(t, try(map[string]any{"name": "Storm jib"}, nil))
	assert.Equal(t, 1, jobs(t, l.Store))
	var wrong records.FieldErrors
	require.ErrorAs(t, try(map[string]any{"name": "Storm jib", "area": "much"}, nil), &wrong)
	require.ErrorIs(t, try(map[string]any{"name": "Storm jib"}, assert.AnError), assert.AnError)
	assert.Equal(t, 1, jobs(t, l.Store))
	assert.Equal(t, 4, l.Count(seat, "sail"), "what was given up is not there either")
}

// TestAUnitIsOnePieceOfNews writes to two tables many times, and hears once.
func TestAUnitIsOnePieceOfNews(t *testing.T) {
	l := acttest.NewLoft(t)
	ctx, seat := t.Context(), l.Founder()
	conn, err := pgx.ConnectConfig(ctx, l.Store.Pool.Config().ConnConfig)
	require.NoError(t, err)
	defer func() { assert.NoError(t, conn.Close(context.Background())) }()
	_, err = conn.Exec(ctx, "LISTEN "+store.RecordsChannel)
	require.NoError(t, err)
	require.NoError(t, l.Acts.EditMany(ctx, l.App, seat, func(u *act.Unit) ([]*records.Write, string, error) {
		var writes []*records.Write
		for i := range 20 {
			w, err := u.Road.Add(ctx, seat, seat.Blueprint.Table("sail"), acttest.Values(t, map[string]any{"name": fmt.Sprint(i)}), nil)
			if err != nil {
				return nil, "", err
			}
			writes = append(writes, w)
		}
		w, err := u.Road.Add(ctx, seat, seat.Blueprint.Table("sailor"), acttest.Values(t, map[string]any{"s_name": "Mo"}), nil)
		return append(writes, w), "test", err
	}))
	require.NoError(t, l.Store.DB.Exec("SELECT pg_notify(?, 'the end')", store.RecordsChannel).Error)
	var heard []string
	for {
		wait, cancel := context.WithTimeout(ctx, 10*time.Second)
		n, err := conn.WaitForNotification(wait)
		cancel()
		require.NoError(t, err)
		if n.Payload == "the end" {
			break
		}
		heard = append(heard, n.Payload)
	}
	assert.Equal(t, []string{apps.SchemaName(l.App, apps.Draft) + " sail sailor"}, heard)
}

// TestAWriteOfSeveralIsUndoneTogether undoes and redoes what was done in one unit.
func TestAWriteOfSeveralIsUndoneTogether(t *testing.T) {
	l := acttest.NewLoft(t)
	ctx, seat := t.Context(), l.Founder()
	require.NoError(t, l.Acts.EditMany(ctx, l.App, seat, func(u *act.Unit) ([]*records.Write, string, error) {
		writes, err := u.Road.Bulk(ctx, seat, seat.Blueprint.Table("sail"), []records.Edit{
			{Record: l.Sails["Genoa"], Revision: 1, Texts: map[string]string{"name": "Big genoa"}},
			{Record: l.Sails["Jib"], Revision: 1, Delete: true}})
		return writes, "Changed two", err
	}))
	names := func() []string {
		var out []string
		rows, _, err := l.Road().List(ctx, seat, listOf(seat, "sail"))
		require.NoError(t, err)
		for _, r := range rows {
			var row struct{ Label string }
			require.NoError(t, json.Unmarshal(r, &row))
			out = append(out, row.Label)
		}
		return out
	}
	assert.ElementsMatch(t, []string{"Big genoa", "Spinnaker"}, names())
	said, err := l.Acts.Undo(ctx, l.App.ID, "Ann")
	require.NoError(t, err)
	assert.Equal(t, []string{"Changed two"}, said)
	assert.ElementsMatch(t, []string{"Genoa", "Jib", "Spinnaker"}, names())
	_, err = l.Acts.Redo(ctx, l.App.ID, "Ann")
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"Big genoa", "Spinnaker"}, names())
	_, err = l.Acts.Redo(ctx, l.App.ID, "Ann")
	var p *words.Problem
	require.ErrorAs(t, err, &p)
	assert.Equal(t, act.ErrNothing.Code, p.Code)
}

// TestWritesOfPeopleAreNotUndoneByFounders writes as a member, and as a founder to
// nothing.
func TestWritesOfPeopleAreNotUndoneByFounders(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"r.sail","values":{"change":{"extent":"where","condition":"owner = me"}}}`)
	ctx, ines := t.Context(), l.Member("Ines")
	before, err := l.Apps.History(ctx, l.App.ID, 100)
	require.NoError(t, err)
	_, err = l.Acts.Edit(ctx, l.App, ines, "test", func(u *act.Unit) (*records.Write, error) {
		return u.Road.Change(ctx, ines, ines.Blueprint.Table("sail"), l.Sails["Genoa"], 1, acttest.Values(t, map[string]any{"area": "21"}),
			nil)
	})
	require.NoError(t, err)
	after, err := l.Apps.History(ctx, l.App.ID, 100)
	require.NoError(t, err)
	assert.Len(t, after, len(before))
	_, err = l.Acts.Edit(ctx, l.App, ines, "test", func(u *act.Unit) (*records.Write, error) {
		return u.Road.Change(ctx, ines, ines.Blueprint.Table("sail"), l.Sails["Spinnaker"], 1,
			acttest.Values(t, map[string]any{"area": "1"}), nil)
	})
	require.ErrorIs(t, err, store.ErrNotFound, "what is not hers is not there")
}

// TestManyWriteToOneRecordAtOnce lets twenty change the same record: one after
// another they are told that it changed, and nothing is lost.
func TestManyWriteToOneRecordAtOnce(t *testing.T) {
	l := acttest.NewLoft(t)
	seat := l.Founder()
	var wait sync.WaitGroup
	results := make(chan error, 20)
	for i := range 20 {
		wait.Go(func() {
			_, err := l.Acts.Edit(context.Background(), l.App, seat, "test", func(u *act.Unit) (*records.Write, error) {
				return u.Road.Change(context.Background(), seat, seat.Blueprint.Table("sail"), l.Sails["Genoa"], 1,
					acttest.Values(t, map[string]any{"area": fmt.Sprint(i)}), nil)
			})
			results <- err
		})
	}
	wait.Wait()
	close(results)
	done := 0
	for err := range results {
		if err == nil {
			done++
			continue
		}
		require.ErrorIs(t, err, records.ErrChanged)
	}
	assert.Equal(t, 1, done)
	past, err := l.Road().History(t.Context(), seat, seat.Blueprint.Table("sail"), l.Sails["Genoa"])
	require.NoError(t, err)
	assert.Len(t, past, 2)
	assert.Equal(t, "changed", past[0].Did)
	assert.Equal(t, "added", past[1].Did)
}

// TestChangesAndWritesTakeTurns changes the app while records are written.
func TestChangesAndWritesTakeTurns(t *testing.T) {
	l := acttest.NewLoft(t)
	seat := l.Founder()
	var wait sync.WaitGroup
	errs := make(chan error, 40)
	for i := range 10 {
		wait.Go(func() {
			_, err := l.Acts.Apply(context.Background(), l.App.ID, "Ann",
				blueprint.Adding("field", "sail", fmt.Sprintf("f%d", i), "name", fmt.Sprintf("Field %d", i), "type", blueprint.Number))
			errs <- err
		})
		wait.Go(func() {
			_, err := l.Acts.Edit(context.Background(), l.App, seat, "test", func(u *act.Unit) (*records.Write, error) {
				return u.Road.Add(context.Background(), seat, seat.Blueprint.Table("sail"),
					acttest.Values(t, map[string]any{"name": fmt.Sprint(i)}), nil)
			})
			errs <- err
		})
	}
	wait.Wait()
	close(errs)
	for err := range errs {
		require.NoError(t, err)
	}
	b := l.Blueprint()
	assert.Len(t, b.Table("sail").Fields, 18)
	assert.Equal(t, 13, l.Count(l.Founder(), "sail"))
}

// TestRestoredIsTold deletes a record and restores it.
func TestRestoredIsTold(t *testing.T) {
	l := acttest.NewLoft(t)
	ctx, seat := t.Context(), l.Founder()
	table := seat.Blueprint.Table("sail")
	for _, do := range []func(u *act.Unit) (*records.Write, error){
		func(u *act.Unit) (*records.Write, error) { return u.Road.Delete(ctx, seat, table, l.Sails["Jib"], 1) },
		func(u *act.Unit) (*records.Write, error) { return u.Road.Restore(ctx, seat, table, l.Sails["Jib"]) },
	} {
		_, err := l.Acts.Edit(ctx, l.App, seat, "test", do)
		require.NoError(t, err)
	}
	past, err := l.Road().History(ctx, seat, table, l.Sails["Jib"])
	require.NoError(t, err)
	var did []string
	for _, v := range past {
		did = append(did, v.Did)
	}
	assert.Equal(t, []string{"restored", "deleted", "added"}, did)
}

func listOf(seat *records.Seat, table string) query.Selection {
	return query.Selection{Table: seat.Blueprint.Table(table), Limit: 50}
}

// TestAHeldAppLetsPeopleIn holds an app as an import does, and one of its records as a
// change does: somebody signs in meanwhile, asks for a code, and what links to the record
// is added.
func TestAHeldAppLetsPeopleIn(t *testing.T) {
	l := acttest.NewLoft(t)
	ctx, cancel := context.WithTimeout(t.Context(), 10*time.Second)
	defer cancel()
	a, seat := accounts.New(l.Store), l.Founder()
	require.NoError(t, l.Acts.Do(ctx, func(u *act.Unit) error {
		_, err := apps.Locked(u.Tx, l.App.ID)
		require.NoError(t, err)
		_, err = u.Road.Change(ctx, seat, seat.Blueprint.Table("sailor"), l.People["Ines"], 1,
			acttest.Values(t, map[string]any{"s_name": "Ines C."}), nil)
		require.NoError(t, err)

		_, err = a.SignInPerson(ctx, accounts.Person{App: l.App.ID, Email: "ines@sails.example"}, accounts.In, accounts.Stay{Hours: 1})
		require.NoError(t, err, "a session refers to the app")
		code, err := a.MakeCode(ctx, accounts.Code{App: l.App.ID, Purpose: accounts.ToSignIn, Subject: "tomas@sails.example"}, nil)
		require.NoError(t, err)
		assert.NotEmpty(t, code)
		return l.Acts.Do(ctx, func(other *act.Unit) error {
			ines := l.Member("Ines")
			ines.Viewer.Founder = true
			_, err := other.Road.Add(ctx, ines, ines.Blueprint.Table("sail"),
				acttest.Values(t, map[string]any{"name": "Blade", "owner": l.People["Ines"]}), nil)
			return err
		})
	}))
	assert.Equal(t, 4, l.Count(l.Founder(), "sail"))
}

// TestDiscardTakesBackOnesOwn takes back what one did since a revision, and stops at what
// another did.
func TestDiscardTakesBackOnesOwn(t *testing.T) {
	l := acttest.NewLoft(t)
	name := func(name, by string) int64 {
		_, err := l.Acts.Apply(t.Context(), l.App.ID, by, blueprint.Setting("all", "name", name))
		require.NoError(t, err)
		walk, err := l.Apps.CanWalk(t.Context(), l.App.ID)
		require.NoError(t, err)
		return walk.Newest
	}
	since := name("First", "Ann")
	name("Second", "Ann")
	name("Third", "Ann")
	said, err := l.Acts.Discard(t.Context(), l.App.ID, "Ann", since)
	require.NoError(t, err)
	assert.Len(t, said, 2)
	assert.Equal(t, "First", l.Blueprint().Page("all").Name)
	said, err = l.Acts.Discard(t.Context(), l.App.ID, "Ann", since)
	require.NoError(t, err)
	assert.Empty(t, said, "there is nothing more")
	name("Second", "Ann")
	name("Third", "Ben")
	name("Fourth", "Ann")
	said, err = l.Acts.Discard(t.Context(), l.App.ID, "Ann", since)
	var problem *words.Problem
	require.ErrorAs(t, err, &problem)
	assert.Equal(t, "discard-others", problem.Code)
	assert.Len(t, said, 1)
	assert.Equal(t, "Third", l.Blueprint().Page("all").Name, "what another did stays")
}
