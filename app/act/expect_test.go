package act_test

import (
	"fmt"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/app/publish"
	"pinegate/app/why"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/demo"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/files"
	"pinegate/store/records"
	"pinegate/store/storetest"
)

// boatyard is the demo, with a way to change it.
type boatyard struct {
	t    *testing.T
	s    *store.Store
	apps *apps.Apps
	acts *act.Acts
	app  store.App
}

func newBoatyard(t *testing.T) *boatyard {
	s := storetest.New(t)
	kept, err := files.Open(t.Context(), files.Folder(t.TempDir()))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, kept.Close()) })
	y := &boatyard{t: t, s: s, apps: apps.New(s)}
	y.acts = acttest.New(t, y.apps)
	_, err = demo.Load(t.Context(), s, y.apps, accounts.New(s), kept, false)
	require.NoError(t, err)
	y.app, err = y.apps.BySlug(t.Context(), demo.Slug)
	require.NoError(t, err)
	for _, e := range demo.Blueprint().Expectations { // the tests have their own
		y.change(`{"kind":"remove","of":"%s"}`, e.ID)
	}
	return y
}

// founder gives the seat of the founder in the draft.
func (y *boatyard) founder() *records.Seat {
	y.t.Helper()
	b, err := y.apps.Blueprint(y.t.Context(), y.app, apps.Draft)
	require.NoError(y.t, err)
	return apps.FounderSeat(y.app, apps.Draft, b, "Marta")
}

// builder adds another account and gives its id.
func (y *boatyard) builder(email string) string {
	y.t.Helper()
	b, err := accounts.New(y.s).AddBuilder(y.t.Context(), email, "Ben", "long-enough-password")
	require.NoError(y.t, err)
	return b.ID
}

func (y *boatyard) change(source string, args ...any) {
	y.t.Helper()
	c, err := blueprint.DecodeChange(fmt.Appendf(nil, source, args...), apps.NewID)
	require.NoError(y.t, err)
	y.app, err = y.acts.Apply(y.t.Context(), y.app.ID, "Marta", c)
	require.NoError(y.t, err)
}

func (y *boatyard) publish() error {
	_, err := publish.Do(y.t.Context(), y.apps, y.app.ID, "Marta",
		publish.Publication{Revision: y.app.Revision, LiveVersion: y.app.LiveVersion, Accept: true})
	if err == nil {
		y.app.LiveVersion++
	}
	return err
}

func TestExpectationsAreTried(t *testing.T) {
	y := newBoatyard(t)
	for _, try := range []struct {
		change string // the expectation
		reason string // why it does not hold, or ""
	}{
		{`"into":"r_own","values":{"action":"see","table":"boat","except":"owner = me"`, ""},
		{`"into":"r_own","values":{"action":"see","table":"boat","except":"berth.name = \"N1\""`, " in Boats."},
		{`"into":"r_own","values":{"action":"see","table":"boat"`, "A rule lets Boat owners see some Boats."},
		{`"into":"visitor","values":{"action":"see","table":"own"`, ""},
		{`"into":"visitor","values":{"action":"see","table":"news"`, "A rule lets Visitors see some Notices."},
		{`"into":"r_own","values":{"action":"see","table":"boat","field":"boat_note"`, ""},
		{`"into":"r_own","values":{"action":"see","table":"boat","field":"boat_length"`, "No rule hides Length from Boat owners."},
		{`"into":"r_own","values":{"action":"delete","table":"boat"`, ""},
		{`"into":"r_own","values":{"action":"add","table":"req"`, "A rule lets Boat owners add some Work requests."},
	} {
		y.change(`{"kind":"add","what":"expectation","id":"must",%s}}`, try.change)
		held, err := why.Expectations(t.Context(), y.apps.Road(t.Context()), y.founder())
		require.NoError(t, err, try.change)
		require.Len(t, held, 1)
		assert.Equal(t, try.reason == "", held[0].Holds, "%s: %s", try.change, held[0].Reason)
		assert.Contains(t, held[0].Reason, try.reason)
		y.change(`{"kind":"remove","of":"must"}`)
	}
}

// TestEverybodyIsTried has one of many people see what the others do not, by a rule that
// looks at who one is in each of its ways.
func TestEverybodyIsTried(t *testing.T) {
	for rule, expect := range map[string]string{
		`owner = me or me.name = "Mo 77"`:                 "Mo 77 can see",
		`owner = me or me.email = "Mo77@sails.example"`:   "Mo 77 can see",
		`owner = me or me.member and owner.name = "Jo"`:   "can see",
		`owner = me or COUNT(me.sails) > 1`:               "Ines can see",
		`owner = me`:                                      "",
		`owner = me or me.name = "Mo 78"`:                 "", // who cannot sign in
		`owner = me and me.member`:                        "",
		`owner.name = me.name and owner.email = me.email`: "",
	} {
		l := acttest.NewLoft(t)
		seat := l.Founder()
		var more []records.New
		for i := range 80 {
			more = append(more, records.New{ID: uuid.NewString(), Values: map[string]expr.Value{
				"s_name": expr.TextOf(fmt.Sprintf("Mo %d", i)),
				"s_mail": expr.TextOf(fmt.Sprintf("Mo%d@sails.example", i)), "s_ok": expr.YesNoOf(i != 78)}})
		}
		require.NoError(t, l.Acts.Do(t.Context(), func(u *act.Unit) error {
			return u.Road.AddMany(t.Context(), seat, seat.Blueprint.Table("sailor"), more)
		}))
		jo := l.Add("sailor", map[string]any{"s_name": "Jo"})
		l.Add("sail", map[string]any{"name": "Drifter", "cl": "dacron", "area": "20", "price": "400", "owner": jo})
		change := func(source string) {
			c, err := blueprint.DecodeChange([]byte(source), apps.NewID)
			require.NoError(t, err)
			_, err = l.Acts.Apply(t.Context(), l.App.ID, "Ann", c)
			require.NoError(t, err, source)
		}
		change(`{"kind":"add","what":"expectation","into":"r","id":"never","values":{"action":"see","table":"sail","except":"owner = me"}}`)
		change(fmt.Sprintf(`{"kind":"set","of":"r.sail","values":{"see":{"extent":"where","condition":%q}}}`, rule))
		held, err := why.Expectations(t.Context(), l.Road(), l.Founder())
		require.NoError(t, err, rule)
		never := held[len(held)-1]
		require.Equal(t, "never", never.ID)
		assert.Equal(t, expect == "", never.Holds, "%s: %s", rule, never.Reason)
		assert.Contains(t, never.Reason, expect, rule)
	}
}

func TestWhatMustHoldStopsAPublish(t *testing.T) {
	y := newBoatyard(t)
	y.change(`{"kind":"add","what":"expectation","into":"r_own","id":"must","values":{"action":"see","table":"boat","except":"owner = me"}}`)
	require.NoError(t, y.publish())
	y.change(`{"kind":"set","of":"r_own.boat","values":{"see":{"extent":"all"}}}`)
	plan, err := publish.PlanOf(t.Context(), y.apps, y.app.ID, 0)
	require.NoError(t, err)
	last := plan.Steps[len(plan.Steps)-1]
	assert.True(t, last.Stop)
	assert.Contains(t, last.Text, "Boat owners must never see Boats, except where Owner is the signed-in person. Not met: ")
	err = y.publish()
	var p *words.Problem
	require.ErrorAs(t, err, &p)
	assert.Contains(t, p.Error(), "Nothing was published.")
	app, err := y.apps.BySlug(t.Context(), demo.Slug)
	require.NoError(t, err)
	assert.Equal(t, y.app.LiveVersion, app.LiveVersion)
	b, err := y.apps.Blueprint(t.Context(), app, apps.Live)
	require.NoError(t, err)
	assert.Equal(t, blueprint.Where, b.Role("r_own").Rule("boat").See.Extent, "the live rule stays")

	// it is enough that it does not hold with live records
	y.change(`{"kind":"set","of":"r_own.boat","values":{"see":{"extent":"where","condition":"owner = me or name = \"Only in live\""}}}`)
	live, err := y.apps.Blueprint(t.Context(), app, apps.Live)
	require.NoError(t, err)
	seat := apps.FounderSeat(app, apps.Live, live, "test")
	_, err = y.acts.Edit(t.Context(), app, seat, "test", func(u *act.Unit) (*records.Write, error) {
		r := u.Road
		return r.Add(t.Context(), seat, live.Table("boat"), acttest.Values(t, map[string]any{"boat_name": "Only in live"}), nil)
	})
	require.NoError(t, err)
	require.ErrorAs(t, y.publish(), &p)
	assert.Contains(t, p.Error(), "Only in live")

	// expectations go with what they are about, and are told before
	mends, err := blueprint.Mends(b, &blueprint.Remove{Of: "boat"})
	require.NoError(t, err)
	assert.NotEmpty(t, mends)
	y.change(`{"kind":"remove","of":"boat_owner","mend":true}`)
	held, err := why.Expectations(t.Context(), y.apps.Road(t.Context()), y.founder())
	require.NoError(t, err)
	assert.Empty(t, held)
}

func TestWhoSeesARecordIsTold(t *testing.T) {
	y := newBoatyard(t)
	b, err := y.apps.Blueprint(t.Context(), y.app, apps.Draft)
	require.NoError(t, err)
	seat := apps.FounderSeat(y.app, apps.Draft, b, "test")
	boat := b.Table("boat")
	pairs, err := y.apps.Road(t.Context()).KeyedIDs(t.Context(), seat, boat, "")
	require.NoError(t, err)
	var sandpiper string
	for _, p := range pairs {
		if p.Key == "Sandpiper (AC 1200)" {
			sandpiper = p.ID
		}
	}
	roles, err := why.WhoSees(t.Context(), y.apps.Road(t.Context()), y.founder(), "boat", sandpiper)
	require.NoError(t, err)
	byName := map[string]why.RoleSees{}
	for _, r := range roles {
		byName[r.Name] = r
	}
	assert.Equal(t, blueprint.NoRecords, byName["Visitors"].Reach)
	assert.Equal(t, blueprint.AllRecords, byName["Crew"].Reach)
	owners := byName["Boat owners"]
	assert.Equal(t, "Owner is the signed-in person", owners.Rule)
	assert.Equal(t, []why.NamedValue{{Name: "Owner", Value: "Ines Calder"}}, owners.Values)
	assert.Equal(t, []string{"Ines Calder"}, owners.People)
	assert.Equal(t, 40, owners.Tried)
	assert.False(t, owners.More)
	_, err = why.WhoSees(t.Context(), y.apps.Road(t.Context()), y.founder(), "boat", "01a00000-0000-7000-8000-000000000000")
	require.ErrorIs(t, err, store.ErrNotFound)
}
