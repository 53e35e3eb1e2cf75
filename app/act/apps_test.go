package act_test

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/app/publish"
	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/records"
	"pinegate/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

// yard is an app with two tables and some records, not published.
type yard struct {
	t    testing.TB
	s    *store.Store
	apps *apps.Apps
	acts *act.Acts
	app  store.App
}

func newYard(t testing.TB) *yard {
	s := storetest.New(t)
	b, err := accounts.New(s).AddBuilder(t.Context(), "a@yard.example", "Ann", "long-enough-password")
	require.NoError(t, err)
	y := &yard{t: t, s: s, apps: apps.New(s)}
	y.acts = acttest.New(t, y.apps)
	y.app, err = y.apps.Create(t.Context(), b.ID, b.Name, blueprint.New("Yard", apps.NewID))
	require.NoError(t, err)
	y.must(blueprint.AddingTable("own", "Owners", "own_name"), blueprint.AddingTable("boat", "Boats", "boat_name"),
		blueprint.Adding("field", "boat", "len", "name", "Length", "type", blueprint.Text),
		blueprint.Adding("field", "boat", "owner", "name", "Owner", "type", blueprint.Link, "target", "own"))
	return y
}

func (y *yard) apply(changes ...blueprint.Change) error {
	app, err := y.acts.Apply(context.Background(), y.app.ID, "Ann", changes...)
	if err == nil {
		y.app = app
	}
	return err
}

func (y *yard) must(changes ...blueprint.Change) { require.NoError(y.t, y.apply(changes...)) }

func (y *yard) reload() {
	app, err := y.apps.ByID(context.Background(), y.app.WorkspaceID, y.app.ID)
	require.NoError(y.t, err)
	y.app = app
}

func (y *yard) seat(env apps.Environment) *records.Seat {
	y.reload()
	b, err := y.apps.Blueprint(context.Background(), y.app, env)
	require.NoError(y.t, err)
	return apps.FounderSeat(y.app, env, b, "Ann")
}

func (y *yard) add(table string, values map[string]any) string {
	seat := y.seat(apps.Draft)
	w, err := y.acts.Edit(context.Background(), y.app, seat, "Added", func(u *act.Unit) (*records.Write, error) {
		r := u.Road
		return r.Add(context.Background(), seat, seat.Blueprint.Table(table), acttest.Values(y.t, values), nil)
	})
	require.NoError(y.t, err)
	return w.Record
}

// column gives the values of a field, in the order in which the records were made.
func (y *yard) column(env apps.Environment, table, field string) []any {
	seat := y.seat(env)
	rows, _, err := y.apps.Road(context.Background()).List(context.Background(), seat,
		query.Selection{Table: seat.Blueprint.Table(table), Columns: []string{field}, Limit: 100})
	require.NoError(y.t, err)
	out := []any{}
	for _, r := range rows {
		var row map[string]any
		require.NoError(y.t, json.Unmarshal(r, &row))
		out = append(out, row[field])
	}
	return out
}

func (y *yard) undo() {
	_, err := y.acts.Undo(context.Background(), y.app.ID, "Ann")
	require.NoError(y.t, err)
}

func (y *yard) redo() {
	_, err := y.acts.Redo(context.Background(), y.app.ID, "Ann")
	require.NoError(y.t, err)
}

func TestNothingIsLostByChangingTypesAndBack(t *testing.T) {
	y := newYard(t)
	for _, v := range []any{"12.50", "about nine", nil, " 7 "} {
		y.add("boat", map[string]any{"boat_name": "B", "len": v})
	}
	before := y.column(apps.Draft, "boat", "len")
	y.must(blueprint.Setting("len", "type", blueprint.Number))
	assert.Equal(t, []any{"12.5", nil, nil, "7"}, y.column(apps.Draft, "boat", "len"))
	y.must(blueprint.Setting("len", "type", blueprint.Text))
	assert.Equal(t, before, y.column(apps.Draft, "boat", "len"), "changing back gives the old texts")
	y.undo()
	y.undo()
	assert.Equal(t, before, y.column(apps.Draft, "boat", "len"))
	y.redo()
	assert.Equal(t, []any{"12.5", nil, nil, "7"}, y.column(apps.Draft, "boat", "len"))
	// what was edited meanwhile is not overwritten by the old value
	seat := y.seat(apps.Draft)
	rows, _, err := y.apps.Road(t.Context()).List(t.Context(), seat, query.Selection{Table: seat.Blueprint.Table("boat"), Limit: 1})
	require.NoError(t, err)
	var row struct {
		ID       string
		Revision int
	}
	require.NoError(t, json.Unmarshal(rows[0], &row))
	_, err = y.acts.Edit(t.Context(), y.app, seat, "Changed", func(u *act.Unit) (*records.Write, error) {
		r := u.Road
		return r.Change(t.Context(), seat, seat.Blueprint.Table("boat"), row.ID, row.Revision,
			acttest.Values(t, map[string]any{"len": "99"}), nil)
	})
	require.NoError(t, err)
	y.must(blueprint.Setting("len", "type", blueprint.Text))
	assert.Equal(t, []any{"99", before[1], before[2], before[3]}, y.column(apps.Draft, "boat", "len"))
}

func TestRemovedFieldsAndTablesComeBack(t *testing.T) {
	y := newYard(t)
	owner := y.add("own", map[string]any{"own_name": "Ines"})
	y.add("boat", map[string]any{"boat_name": "Tern", "len": "9", "owner": owner})
	y.must(&blueprint.Remove{Of: "len"})
	y.must(&blueprint.Remove{Of: "owner"})
	y.must(&blueprint.Remove{Of: "own"})
	for range 3 {
		y.undo()
	}
	assert.Equal(t, []any{"9"}, y.column(apps.Draft, "boat", "len"))
	assert.Equal(t, []any{owner}, y.column(apps.Draft, "boat", "owner"))
	assert.Equal(t, []any{"Ines"}, y.column(apps.Draft, "own", "own_name"))
	y.undo() // the boat itself
	assert.Empty(t, y.column(apps.Draft, "boat", "len"))
	y.redo()
	assert.Equal(t, []any{owner}, y.column(apps.Draft, "boat", "owner"))
}

func TestNamesCanBeSwapped(t *testing.T) {
	y := newYard(t)
	y.must(blueprint.Adding("field", "boat", "wid", "name", "Width", "type", blueprint.Text))
	y.add("boat", map[string]any{"boat_name": "Tern", "len": "long", "wid": "wide"})
	y.must(blueprint.Setting("len", "name", "X"), blueprint.Setting("wid", "name", "Length"), blueprint.Setting("len", "name", "Width"),
		blueprint.Setting("own", "name", "Y"), blueprint.Setting("boat", "name", "Owners"), blueprint.Setting("own", "name", "Boats"))
	assert.Equal(t, []any{"long"}, y.column(apps.Draft, "boat", "len"))
	assert.Equal(t, []any{"wide"}, y.column(apps.Draft, "boat", "wid"))
}

func (y *yard) publish(p publish.Publication) error {
	plan, err := publish.PlanOf(context.Background(), y.apps, y.app.ID, p.Version)
	require.NoError(y.t, err)
	p.Revision, p.LiveVersion = plan.Revision, plan.LiveVersion
	_, err = publish.Do(context.Background(), y.apps, y.app.ID, "Ann", p)
	return err
}

func TestPublish(t *testing.T) {
	y := newYard(t)
	owner := y.add("own", map[string]any{"own_name": "Ines"})
	y.add("boat", map[string]any{"boat_name": "Tern", "len": "nine", "owner": owner})
	require.NoError(t, y.publish(publish.Publication{BringRecords: true}))
	assert.Equal(t, []any{owner}, y.column(apps.Live, "boat", "owner"))

	y.must(blueprint.Setting("len", "type", blueprint.Number),
		blueprint.Adding("field", "boat", "mast", "name", "Mast height", "type", blueprint.Number))
	plan, err := publish.PlanOf(t.Context(), y.apps, y.app.ID, 0)
	require.NoError(t, err)
	var said []string
	for _, s := range plan.Steps {
		said = append(said, s.Text)
	}
	assert.Contains(t, said, "Adds Mast height to Boats. 1 record keeps its values.")
	assert.Contains(t, said, "Changes Length in Boats to a number. 1 value doesn’t convert and is hidden.")
	assert.True(t, plan.Loses())
	for _, s := range plan.Steps {
		if s.Loss {
			assert.Equal(t, []string{"nine"}, s.Samples)
		}
	}
	require.ErrorIs(t, y.publish(publish.Publication{}), publish.ErrLoss)
	assert.Equal(t, []any{"nine"}, y.column(apps.Live, "boat", "len"), "nothing happened")
	_, err = publish.Do(t.Context(), y.apps, y.app.ID, "Ann",
		publish.Publication{Revision: plan.Revision - 1, LiveVersion: 1, Accept: true})
	require.ErrorIs(t, err, publish.ErrStale)
	require.NoError(t, y.publish(publish.Publication{Accept: true}))
	assert.Equal(t, []any{nil}, y.column(apps.Live, "boat", "len"))
	require.NoError(t, y.publish(publish.Publication{Version: 1, Accept: true}))
	assert.Equal(t, []any{"nine"}, y.column(apps.Live, "boat", "len"), "going back brings the values back")
	versions, err := y.apps.Versions(t.Context(), y.app.ID)
	require.NoError(t, err)
	assert.Len(t, versions, 3)
}

// TestPublishIsWholeOrNotAtAll breaks a publish in its last step.
func TestPublishIsWholeOrNotAtAll(t *testing.T) {
	y := newYard(t)
	require.NoError(t, y.publish(publish.Publication{}))
	y.must(blueprint.Adding("field", "own", "one", "name", "One", "type", blueprint.Text),
		blueprint.Adding("field", "boat", "two", "name", "Two", "type", blueprint.Text))
	schema := query.Quote(apps.SchemaName(y.app, apps.Live))
	require.NoError(t, y.s.DB.Exec("ALTER TABLE "+schema+".boats ADD COLUMN two text").Error)
	require.Error(t, y.publish(publish.Publication{}))
	var columns int
	require.NoError(t, y.s.DB.Raw("SELECT count(*) FROM information_schema.columns WHERE table_schema = ? AND column_name = 'one'",
		apps.SchemaName(y.app, apps.Live)).Scan(&columns).Error)
	assert.Zero(t, columns)
	y.reload()
	assert.Equal(t, 1, y.app.LiveVersion)
}

func TestTwoBuildersAtOnce(t *testing.T) {
	y := newYard(t)
	var wait sync.WaitGroup
	for i := range 8 {
		wait.Go(func() {
			_, err := y.acts.Apply(context.Background(), y.app.ID, "Ann",
				blueprint.Adding("field", "boat", fmt.Sprintf("n%d", i), "name", fmt.Sprintf("Note %d", i), "type", blueprint.Text))
			assert.NoError(t, err)
		})
	}
	wait.Wait()
	assert.Len(t, y.seat(apps.Draft).Blueprint.Table("boat").Fields, 11)
	y.must(&blueprint.Remove{Of: "n1"})
	err := y.apply(blueprint.Setting("n1", "name", "Other"))
	require.ErrorContains(t, err, "no longer there")
}

// TestPagesOfAListMeetEveryRecordOnce reads lists by every kind of field, with
// many empties and equals, page by page.
func TestPagesOfAListMeetEveryRecordOnce(t *testing.T) {
	y := newYard(t)
	y.must(blueprint.Adding("field", "boat", "num", "name", "Num", "type", blueprint.Number),
		blueprint.Adding("field", "boat", "yes", "name", "Yes", "type", blueprint.YesNo),
		blueprint.Adding("field", "boat", "day", "name", "Day", "type", blueprint.Date),
		blueprint.Adding("list", "", "l", "name", "L", "choices", "One\nTwo", "ids", []string{"c1", "c2"}),
		blueprint.Adding("field", "boat", "cho", "name", "Cho", "type", blueprint.Choose, "list", "l"))
	owner := y.add("own", map[string]any{"own_name": "Ines"})
	for i := range 40 {
		v := map[string]any{"boat_name": "B"}
		if i%3 > 0 {
			v["len"], v["num"], v["yes"], v["day"], v["cho"], v["owner"] = fmt.Sprintf("ä%d", i%4), fmt.Sprint(i%5), i%2 == 0,
				fmt.Sprintf("2026-01-%02d", i%7+1), fmt.Sprintf("c%d", i%2+1), owner
		}
		y.add("boat", v)
	}
	seat := y.seat(apps.Draft)
	table := seat.Blueprint.Table("boat")
	rapid.Check(t, func(t *rapid.T) {
		l := query.Selection{Table: table, Limit: rapid.IntRange(1, 15).Draw(t, "limit")}
		for _, field := range rapid.SliceOfNDistinct(rapid.SampledFrom([]string{"len", "num", "yes", "day", "cho", "owner"}), 0, 3,
			rapid.ID[string]).Draw(t, "sorts") {
			l.Sorts = append(l.Sorts, query.Sort{Field: field, Falling: rapid.Bool().Draw(t, "falling")})
		}
		seen := map[string]bool{}
		for {
			rows, next, err := y.apps.Road(context.Background()).List(context.Background(), seat, l)
			require.NoError(t, err)
			for _, r := range rows {
				var row struct{ ID string }
				require.NoError(t, json.Unmarshal(r, &row))
				require.False(t, seen[row.ID], "%+v", l)
				seen[row.ID] = true
			}
			if next == "" {
				break
			}
			l.After = next
		}
		require.Len(t, seen, 40)
	})
}

func TestServersThatStartTogetherMigrateOnce(t *testing.T) {
	dsn := storetest.Database(t)
	var wait sync.WaitGroup
	for range 3 {
		wait.Go(func() {
			s, err := store.Open(context.Background(), dsn)
			if assert.NoError(t, err) {
				s.Close()
			}
		})
	}
	wait.Wait()
	s, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	defer s.Close()
	var twice int
	require.NoError(t, s.DB.Raw("SELECT count(*) - count(DISTINCT version_id) FROM goose_db_version").Scan(&twice).Error)
	assert.Zero(t, twice)
}

func TestEveryWriteIsInTheHistory(t *testing.T) {
	y := newYard(t)
	id := y.add("own", map[string]any{"own_name": "Ines"})
	y.undo()
	y.redo()
	var kept []string
	require.NoError(t,
		y.s.DB.Raw(fmt.Sprintf(`SELECT coalesce(before->>'own_name', '-') || '>' || coalesce(after->>'own_name', '-') FROM %s."_history" WHERE record_id = ? ORDER BY id`, query.Quote(apps.SchemaName(y.app, apps.Draft))), id).Scan(&kept).Error)
	assert.Equal(t, []string{"->Ines", "Ines>-", "->Ines"}, kept)
}
