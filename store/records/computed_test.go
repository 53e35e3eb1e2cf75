package records_test

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/records"
	"pinegate/store/storetest"
)

// shop is an app in which one role sees only its own bills, and no costs.
type shop struct {
	t       *testing.T
	a       *apps.Apps
	acts    *act.Acts
	app     store.App
	b       *blueprint.Blueprint
	founder *records.Seat
	guest   *records.Seat
}

func newShop(t *testing.T) *shop {
	s := storetest.New(t)
	builder, err := accounts.New(s).AddBuilder(t.Context(), "a@yard.example", "Ann", "long-enough-password")
	require.NoError(t, err)
	h := &shop{t: t, a: apps.New(s)}
	h.acts = acttest.New(t, h.a)
	h.app, err = h.a.Create(t.Context(), builder.ID, builder.Name, blueprint.New("Shop", apps.NewID))
	require.NoError(t, err)
	field := func(table, id, name string, kind blueprint.FieldType, more ...any) blueprint.Change {
		return blueprint.Adding("field", table, id, append([]any{"name", name, "type", kind}, more...)...)
	}
	h.apply(blueprint.AddingTable("per", "Persons", "per_name"), field("per", "mail", "Mail", blueprint.Email, "unique", true),
		blueprint.AddingTable("bill", "Bills", "bill_name"),
		field("bill", "who", "Who", blueprint.Link, "target", "per", "back", "Bills", "backId", "bills"),
		field("bill", "price", "Price", blueprint.Number), field("bill", "cost", "Cost", blueprint.Number),
		field("bill", "gain", "Gain", blueprint.Formula, "formula", "price - cost"),
		field("bill", "twice", "Twice", blueprint.Formula, "formula", "gain * 2"),
		field("bill", "all", "All of them", blueprint.Formula, "formula", "COUNT(RECORDS(bills)) & \" bills\""),
		field("bill", "number", "Number", blueprint.AutoNumber, "prefix", "B-", "width", 3, "first", 7),
		field("per", "total", "Total", blueprint.RollUp, "via", "bills", "take", "price", "total", blueprint.SumTotal),
		field("per", "big", "Big ones", blueprint.RollUp, "via", "bills", "total", blueprint.CountTotal, "where",
			"price > 10 and this.name <> empty"),
		field("bill", "name_of", "Name of who", blueprint.Lookup, "via", "who", "take", "per_name"),
		blueprint.Adding("role", "", "guest", "name", "Guests"), blueprint.Setting("guest", "people", "per", "email", "mail"),
		blueprint.Permit("guest", "per", "see", blueprint.Permission{Extent: blueprint.AllRecords}),
		blueprint.Permit("guest", "bill", "see", blueprint.Permission{Extent: blueprint.Where, Condition: "who = me"}),
		blueprint.Permit("guest", "bill", "hidden", []string{"cost"}))
	return h
}

func (h *shop) apply(changes ...blueprint.Change) {
	h.t.Helper()
	var err error
	h.app, err = h.acts.Apply(h.t.Context(), h.app.ID, "Ann", changes...)
	require.NoError(h.t, err)
	h.b, err = h.a.Blueprint(h.t.Context(), h.app, apps.Draft)
	require.NoError(h.t, err)
	h.founder = apps.FounderSeat(h.app, apps.Draft, h.b, "Ann")
}

func (h *shop) add(table string, values map[string]any) string {
	h.t.Helper()
	entered := records.Values{}
	for id, v := range values {
		raw, err := json.Marshal(v)
		require.NoError(h.t, err)
		entered[id] = raw
	}
	w, err := h.acts.Edit(h.t.Context(), h.app, h.founder, "test", func(u *act.Unit) (*records.Write, error) {
		r := u.Road
		return r.Add(h.t.Context(), h.founder, h.b.Table(table), entered, nil)
	})
	require.NoError(h.t, err)
	return w.Record
}

func (h *shop) row(seat *records.Seat, table, id string) map[string]any {
	h.t.Helper()
	raw, err := h.a.Road(h.t.Context()).Get(h.t.Context(), seat, h.b.Table(table), id)
	require.NoError(h.t, err)
	var out map[string]any
	require.NoError(h.t, json.Unmarshal(raw, &out))
	return out
}

func (h *shop) fill() (ines, bill string) {
	ines = h.add("per", map[string]any{"per_name": "Ines", "mail": "ines@sail.example"})
	tomas := h.add("per", map[string]any{"per_name": "Tomas", "mail": "tomas@sail.example"})
	bill = h.add("bill", map[string]any{"bill_name": "one", "who": ines, "price": "12", "cost": "5"})
	h.add("bill", map[string]any{"bill_name": "two", "who": ines, "price": "3"})
	h.add("bill", map[string]any{"bill_name": "three", "who": tomas, "price": "100", "cost": "1"})
	viewer := *h.founder
	viewer.Viewer = access.Viewer{Memberships: []access.Membership{{Role: "guest", Record: ines}}, Name: "Ines"}
	h.guest = &viewer
	return ines, bill
}

// TestComputedFieldsAreComputedAsTheViewerSees holds that nothing hidden comes
// out by a formula, a lookup, a total, a filter or a sort.
func TestComputedFieldsAreComputedAsTheViewerSees(t *testing.T) {
	h := newShop(t)
	ines, bill := h.fill()
	all, own := h.row(h.founder, "bill", bill), h.row(h.guest, "bill", bill)
	assert.Equal(t, []any{"7", "14", "3 bills", "Ines", "B-007"},
		[]any{all["gain"], all["twice"], all["all"], all["name_of"], all["number"]})
	assert.Equal(t, []any{"12", "24", "2 bills", "Ines"}, []any{own["gain"], own["twice"], own["all"], own["name_of"]},
		"what is hidden counts as empty")
	_, there := own["cost"]
	assert.False(t, there)
	people := h.row(h.founder, "per", ines)
	assert.Equal(t, []any{"15", "1"}, []any{people["total"], people["big"]})

	tomas := h.row(h.guest, "per", h.find("per", "Tomas"))
	assert.Equal(t, []any{"0", "0"}, []any{tomas["total"], tomas["big"]}, "bills that are not seen do not count")
	assert.Empty(t, tomas["bills"])
	for source, want := range map[string]int{"gain = 7": 0, "gain = 12": 1, "ANY(who.bills, price > 50)": 0,
		"COUNT(RECORDS(bills, cost > 0)) > 0": 0, "who.total > 15": 0} {
		c, err := expr.CheckCondition(source, expr.Scope{Catalog: h.guest.Catalog, Row: "bill"})
		require.NoError(t, err, source)
		n, err := h.a.Road(t.Context()).Count(t.Context(), h.guest, query.Selection{Table: h.b.Table("bill"), Filter: c})
		require.NoError(t, err, source)
		assert.Equal(t, want, n, source)
	}
	totals, err := h.a.Road(t.Context()).Totals(t.Context(), h.guest,
		query.Totals{Selection: query.Selection{Table: h.b.Table("bill")}, Sums: []string{"price", "cost", "gain"}})
	require.NoError(t, err)
	assert.JSONEq(t, `{"count":2,"price":"15","cost":null,"gain":"15"}`, string(totals[0]))
	_, err = h.a.Road(t.Context()).History(t.Context(), h.guest, h.b.Table("bill"), h.find("bill", "three"))
	require.ErrorIs(t, err, store.ErrNotFound)
	past, err := h.a.Road(t.Context()).History(t.Context(), h.guest, h.b.Table("bill"), bill)
	require.NoError(t, err)
	_, there = past[0].After["cost"]
	assert.False(t, there, "history hides what is hidden")
}

// TestHistoryHidesByRecord gives somebody two roles: as a guest they see all of
// their own bills, as a clerk those of all, but not what they cost.
func TestHistoryHidesByRecord(t *testing.T) {
	h := newShop(t)
	ines, own := h.fill()
	h.apply(blueprint.Permit("guest", "bill", "hidden", []string{}),
		blueprint.Adding("role", "", "clerk", "name", "Clerks"), blueprint.Setting("clerk", "people", "per", "email", "mail"),
		blueprint.Permit("clerk", "bill", "see", blueprint.Permission{Extent: blueprint.AllRecords}),
		blueprint.Permit("clerk", "bill", "hidden", []string{"cost"}))
	seat := *h.founder
	seat.Viewer = access.Viewer{Memberships: []access.Membership{{Role: "guest", Record: ines}, {Role: "clerk", Record: ines}},
		Name: "Ines"}
	for bill, shown := range map[string]bool{own: true, h.find("bill", "three"): false} {
		assert.Equal(t, shown, h.row(&seat, "bill", bill)["cost"] != nil)
		past, err := h.a.Road(t.Context()).History(t.Context(), &seat, h.b.Table("bill"), bill)
		require.NoError(t, err)
		_, there := past[0].After["cost"]
		assert.Equal(t, shown, there)
		assert.Contains(t, past[0].After, "price")
	}
}

func (h *shop) find(table, label string) string {
	pairs, err := h.a.Road(h.t.Context()).KeyedIDs(h.t.Context(), h.founder, h.b.Table(table), "")
	require.NoError(h.t, err)
	for _, p := range pairs {
		if p.Key == label {
			return p.ID
		}
	}
	h.t.Fatalf("no %s", label)
	return ""
}

func TestUniqueDefaultsAndLimits(t *testing.T) {
	h := newShop(t)
	h.apply(blueprint.Setting("price", "least", "0", "default", "1 + 1"))
	h.fill()
	add := func(table string, values records.Values) error {
		_, err := h.acts.Edit(t.Context(), h.app, h.founder, "test", func(u *act.Unit) (*records.Write, error) {
			r := u.Road
			return r.Add(t.Context(), h.founder, h.b.Table(table), values, nil)
		})
		return err
	}
	var wrong records.FieldErrors
	require.ErrorAs(t, add("per", records.Values{"per_name": json.RawMessage(`"X"`), "mail": json.RawMessage(`"INES@sail.example"`)}),
		&wrong)
	assert.Equal(t, "taken-alone", wrong["mail"].Code)
	require.ErrorAs(t, add("bill", records.Values{"bill_name": json.RawMessage(`"X"`), "price": json.RawMessage(`"-1"`)}), &wrong)
	assert.Equal(t, "read-least", wrong["price"].Code)
	require.ErrorAs(t, add("bill", records.Values{"bill_name": json.RawMessage(`"X"`), "gain": json.RawMessage(`"1"`)}), &wrong)
	assert.Equal(t, "read-set-by-app", wrong["gain"].Code)
	id := h.add("bill", map[string]any{"bill_name": "default"})
	assert.Equal(t, "2", h.row(h.founder, "bill", id)["price"])
	// what is unique must be so before it can be asked for
	unique := blueprint.Setting("bill_name", "unique", true)
	h.add("bill", map[string]any{"bill_name": "default"})
	_, err := h.acts.Apply(t.Context(), h.app.ID, "Ann", unique)
	require.ErrorContains(t, err, "1 value")
}

// TestBothSidesOfALinkCanBeEdited writes the other side, and undoes it.
func TestBothSidesOfALinkCanBeEdited(t *testing.T) {
	h := newShop(t)
	ines, bill := h.fill()
	three := h.find("bill", "three")
	revision := int(h.row(h.founder, "per", ines)["revision"].(float64))
	_, err := h.acts.Edit(t.Context(), h.app, h.founder, "test", func(u *act.Unit) (*records.Write, error) {
		r := u.Road
		return r.Change(t.Context(), h.founder, h.b.Table("per"), ines, revision,
			records.Values{"bills": json.RawMessage(fmt.Sprintf(`[%q, %q]`, bill, three))}, nil)
	})
	require.NoError(t, err)
	assert.Equal(t, "112", h.row(h.founder, "per", ines)["total"])
	assert.Equal(t, ines, h.row(h.founder, "bill", three)["who"])
	_, err = h.acts.Undo(t.Context(), h.app.ID, "Ann")
	require.NoError(t, err)
	assert.Equal(t, "15", h.row(h.founder, "per", ines)["total"])
	assert.Equal(t, "Tomas", h.row(h.founder, "bill", three)["who~"])
}

func TestMergedChoicesComeBackWithUndo(t *testing.T) {
	h := newShop(t)
	state := blueprint.Adding("field", "bill", "state", "name", "State", "type", blueprint.Choose, "list", "ss")
	h.apply(blueprint.Adding("list", "", "ss", "name", "States", "choices", "Open\nLate\nPaid", "ids", []string{"c1", "c2", "c3"}), state)
	a := h.add("bill", map[string]any{"bill_name": "a", "state": "c1"})
	b := h.add("bill", map[string]any{"bill_name": "b", "state": "c2"})
	h.apply(&blueprint.MergeChoice{Of: "c2", Into: "c1"})
	assert.Equal(t, "c1", h.row(h.founder, "bill", b)["state"])
	_, err := h.acts.Undo(t.Context(), h.app.ID, "Ann")
	require.NoError(t, err)
	h.app, err = h.a.BySlug(t.Context(), h.app.Slug)
	require.NoError(t, err)
	h.b, err = h.a.Blueprint(t.Context(), h.app, apps.Draft)
	require.NoError(t, err)
	h.founder = apps.FounderSeat(h.app, apps.Draft, h.b, "Ann")
	assert.Equal(t, "c2", h.row(h.founder, "bill", b)["state"])
	assert.Equal(t, "c1", h.row(h.founder, "bill", a)["state"])
}

// TestWritesAreTold hears of a write by what the database tells.
func TestWritesAreTold(t *testing.T) {
	s := storetest.New(t)
	live := s.Listen(t.Context())
	events, stop := live.Watch("yard")
	defer stop()
	require.Eventually(t, func() bool {
		if err := s.DB.Exec("SELECT pg_notify(?, 'yard boat own')", store.RecordsChannel).Error; err != nil {
			return false
		}
		select {
		case e := <-events:
			return assert.ObjectsAreEqual(store.Event{Tables: []string{"boat", "own"}}, e)
		case <-time.After(50 * time.Millisecond):
			return false
		}
	}, 10*time.Second, 10*time.Millisecond)
	// and whoever begins to watch later learns of it
	assert.ElementsMatch(t, []string{"boat", "own"}, live.Lately("yard", time.Minute))
	assert.Empty(t, live.Lately("elsewhere", time.Minute))
	assert.Empty(t, live.Lately("yard", 0))
}
