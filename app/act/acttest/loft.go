package acttest

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/records"
	"pinegate/store/storetest"
)

// Loft is the small app in a store, with two members, Ines and Tomas, another who
// is none, Ruth, and a few sails of theirs. It is not published.
type Loft struct {
	T      testing.TB
	Store  *store.Store
	Apps   *apps.Apps
	Acts   *act.Acts
	App    store.App
	People map[string]string // ids by names
	Sails  map[string]string
}

// NewLoft makes the app in a database of its own, with changes that are written as
// JSON.
func NewLoft(t testing.TB, changes ...string) *Loft {
	t.Helper()
	s := storetest.New(t)
	b, err := accounts.New(s).AddBuilder(t.Context(), "a@loft.example", "Ann", "long-enough-password")
	require.NoError(t, err)
	l := &Loft{T: t, Store: s, Apps: apps.New(s), People: map[string]string{}, Sails: map[string]string{}}
	l.Acts = New(t, l.Apps)
	l.App, err = l.Apps.Create(t.Context(), b.ID, b.Name, blueprinttest.After(t, blueprinttest.Loft(t), changes...))
	require.NoError(t, err)
	for _, name := range []string{"Ines", "Tomas", "Ruth"} {
		l.People[name] = l.Add("sailor", map[string]any{"s_name": name, "s_mail": name + "@sails.example", "s_ok": name != "Ruth"})
	}
	for name, owner := range map[string]string{"Genoa": "Ines", "Jib": "Ines", "Spinnaker": "Tomas"} {
		l.Sails[name] = l.Add("sail", map[string]any{"name": name, "cl": "dacron", "area": "20", "price": "400", "owner": l.People[owner]})
	}
	return l
}

// Blueprint gives the draft as it is now.
func (l *Loft) Blueprint() *blueprint.Blueprint {
	l.T.Helper()
	var err error
	l.App, err = l.Apps.ByID(l.T.Context(), l.App.WorkspaceID, l.App.ID)
	require.NoError(l.T, err)
	b, err := l.Apps.Blueprint(l.T.Context(), l.App, apps.Draft)
	require.NoError(l.T, err)
	return b
}

// Founder gives the seat of the founder in the draft.
func (l *Loft) Founder() *records.Seat {
	return apps.FounderSeat(l.App, apps.Draft, l.Blueprint(), "Ann")
}

// Member gives the seat of somebody who has the role Sailors in the draft; of nobody
// in particular for "", and of a visitor for "visitor".
func (l *Loft) Member(name string) *records.Seat {
	b := l.Blueprint()
	v := access.Viewer{Name: name, Memberships: []access.Membership{{Role: "r", Record: l.People[name]}}}
	if name == blueprint.VisitorRole {
		v = access.Viewer{Memberships: []access.Membership{{Role: blueprint.VisitorRole}}}
	}
	return &records.Seat{Schema: apps.SchemaName(l.App, apps.Draft), Blueprint: b, Catalog: b.Catalog(), Viewer: v, By: name,
		Clock: expr.Clock{Now: time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC), Zone: time.UTC}}
}

// Road gives the way to the records for reading.
func (l *Loft) Road() records.Road { return l.Apps.Road(l.T.Context()) }

// Values writes values as they are entered.
func Values(t testing.TB, values map[string]any) records.Values {
	t.Helper()
	out := records.Values{}
	for k, v := range values {
		raw, err := json.Marshal(v)
		require.NoError(t, err)
		out[k] = raw
	}
	return out
}

// Add adds a record as the founder, and gives its id.
func (l *Loft) Add(table string, values map[string]any) string {
	l.T.Helper()
	seat := l.Founder()
	w, err := l.Acts.Edit(l.T.Context(), l.App, seat, "Added", func(u *act.Unit) (*records.Write, error) {
		return u.Road.Add(l.T.Context(), seat, seat.Blueprint.Table(table), Values(l.T, values), nil)
	})
	require.NoError(l.T, err)
	return w.Record
}

// Count counts what somebody sees of a table.
func (l *Loft) Count(seat *records.Seat, table string) int {
	l.T.Helper()
	n, err := l.Road().Count(l.T.Context(), seat, query.Selection{Table: seat.Blueprint.Table(table)})
	require.NoError(l.T, err)
	return n
}
