package records_test

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"gorm.io/gorm"
	"pgregory.net/rapid"

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

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

// world is an app with people and things, some of which are theirs.
type world struct {
	s      *store.Store
	app    store.App
	b      *blueprint.Blueprint
	people []string
	things []thing
}

type thing struct {
	id     string
	values map[string]expr.Value
}

// conditions are what rules are drawn from, each with what it means in Go.
var conditions = map[string]func(t thing, me string) bool{
	"owner = me":                    func(t thing, me string) bool { return t.values["owner"].Text == me },
	"owner = me and open":           func(t thing, me string) bool { return t.values["owner"].Text == me && t.values["open"].True() },
	"not open":                      func(t thing, _ string) bool { return !t.values["open"].True() },
	`name < "m"`:                    func(t thing, _ string) bool { return t.values["name"].Text != "" && t.values["name"].Text < "m" },
	"owner = empty":                 func(t thing, _ string) bool { return t.values["owner"].IsEmpty() },
	"owner <> me or ISBLANK(owner)": func(t thing, me string) bool { return t.values["owner"].Text != me },
	"owner.name = me.name":          func(t thing, me string) bool { return t.values["owner"].Text == me },
}

func newWorld(t *testing.T) *world {
	s := storetest.New(t)
	builder, err := accounts.New(s).AddBuilder(t.Context(), "a@yard.example", "Ann", "long-enough-password")
	require.NoError(t, err)
	a := apps.New(s)
	w := &world{s: s}
	w.app, err = a.Create(t.Context(), builder.ID, builder.Name, blueprint.New("World", apps.NewID))
	require.NoError(t, err)
	w.app, err = acttest.New(t, a).Apply(t.Context(), w.app.ID, "Ann", blueprint.AddingTable("per", "Persons", "per_name"),
		blueprint.Adding("field", "per", "mail", "name", "Mail", "type", blueprint.Email),
		blueprint.AddingTable("thing", "Things", "name"), blueprint.Adding("field", "thing", "owner", "name", "Owner", "type",
			blueprint.Link, "target", "per"),
		blueprint.Adding("field", "thing", "open", "name", "Open", "type", blueprint.YesNo),
		blueprint.Adding("field", "thing", "secret", "name", "Secret", "type", blueprint.Text),
		blueprint.Adding("role", "", "one", "name", "One"), blueprint.Adding("role", "", "two", "name", "Two"),
		blueprint.Setting("one", "people", "per"), blueprint.Setting("two", "people", "per"))
	require.NoError(t, err)
	w.b, err = a.Blueprint(t.Context(), w.app, apps.Draft)
	require.NoError(t, err)
	w.fill(t)
	return w
}

func (w *world) fill(t *testing.T) {
	seat := w.seat(w.b, access.Viewer{Founder: true})
	add := func(table string, values map[string]any) string {
		made, err := w.road().Add(t.Context(), seat, w.b.Table(table), entered(t, values), nil)
		require.NoError(t, err)
		return made.Record
	}
	for i := range 3 {
		w.people = append(w.people, add("per", map[string]any{"per_name": fmt.Sprintf("P%d", i),
			"mail": fmt.Sprintf("p%d@yard.example", i)}))
	}
	for i := range 24 {
		name := string(rune('a'+i)) + "x"
		values := map[string]any{"name": name, "secret": "s" + name}
		v := map[string]expr.Value{"name": expr.TextOf(name), "secret": expr.TextOf("s" + name)}
		if i%4 > 0 {
			values["owner"], v["owner"] = w.people[i%3], expr.RecordOf(w.people[i%3])
		}
		if i%5 > 0 {
			values["open"], v["open"] = i%2 == 0, expr.YesNoOf(i%2 == 0)
		}
		w.things = append(w.things, thing{add("thing", values), v})
	}
}

func entered(t require.TestingT, values map[string]any) records.Values {
	out := records.Values{}
	for k, v := range values {
		raw, err := json.Marshal(v)
		require.NoError(t, err)
		out[k] = raw
	}
	return out
}

func (w *world) road() records.Road { return records.On(w.s.DB) }

func (w *world) seat(b *blueprint.Blueprint, v access.Viewer) *records.Seat {
	return &records.Seat{Schema: apps.SchemaName(w.app, apps.Draft), Blueprint: b, Catalog: b.Catalog(), Viewer: v, By: "test",
		Clock: expr.Clock{Now: time.Date(2026, 3, 1, 10, 0, 0, 0, time.UTC)}}
}

// rule is a drawn rule of a role.
type rule struct {
	condition string // "" for all
	hides     bool   // whether it hides the secret
}

func drawRule(t *rapid.T, name string) rule {
	var all []string
	for c := range conditions {
		all = append(all, c)
	}
	slices.Sort(all) // a map has no order, but drawing needs one
	return rule{rapid.SampledFrom(append(all, "")).Draw(t, name), rapid.Bool().Draw(t, name+" hides")}
}

func (r rule) reaches(t thing, me string) bool {
	return r.condition == "" || conditions[r.condition](t, me)
}

// with gives the blueprint in which the roles have the rules, for an action.
func (w *world) with(t require.TestingT, action blueprint.Action, rules ...rule) *blueprint.Blueprint {
	b := w.b
	for i, r := range rules {
		role := []string{"one", "two"}[i]
		extent := blueprint.AllRecords
		if r.condition != "" {
			extent = blueprint.Where
		}
		hidden := []string{}
		if r.hides {
			hidden = []string{"secret"}
		}
		var err error
		b, err = blueprint.Apply(b, blueprint.Permit(role, "thing", string(action),
			blueprint.Permission{Extent: extent, Condition: r.condition}), blueprint.Permit(role, "thing", "hidden", hidden))
		require.NoError(t, err)
	}
	return b
}

// TestReadsAreWhatTheRulesSay draws rules of two roles and compares what
// somebody who has both is shown, counted and found with what the rules mean.
func TestReadsAreWhatTheRulesSay(t *testing.T) {
	w := newWorld(t)
	rapid.Check(t, func(t *rapid.T) {
		rules := []rule{drawRule(t, "one"), drawRule(t, "two")}
		b := w.with(t, blueprint.See, rules...)
		me := rapid.SampledFrom(w.people).Draw(t, "me")
		seat := w.seat(b, access.Viewer{Memberships: []access.Membership{{Role: "one", Record: me}, {Role: "two", Record: me}}})
		want := map[string]bool{} // by id, whether the secret is shown
		for _, x := range w.things {
			for _, r := range rules {
				if r.reaches(x, me) {
					want[x.id] = want[x.id] || !r.hides
				}
			}
		}
		l := query.Selection{Table: b.Table("thing"), Columns: []string{"name", "secret"}, Limit: 100}
		if sort := rapid.SampledFrom([]string{"", "name", "secret"}).Draw(t, "sort"); sort != "" {
			l.Sorts = []query.Sort{{Field: sort}}
		}
		rows, _, err := w.road().List(context.Background(), seat, l)
		require.NoError(t, err)
		require.Len(t, rows, len(want))
		found := 0
		for _, raw := range rows {
			var row struct{ ID, Name, Secret string }
			require.NoError(t, json.Unmarshal(raw, &row))
			shown, ok := want[row.ID]
			require.True(t, ok, "%s is shown against the rules %v", row.Name, rules)
			require.Equal(t, shown, row.Secret != "", "secret of %s with %v", row.Name, rules)
			if shown && row.Name < "f" {
				found++
			}
		}
		n, err := w.road().Count(context.Background(), seat, l)
		require.NoError(t, err)
		require.Equal(t, len(want), n)
		// a condition over the secret learns nothing that is not shown
		c, err := expr.CheckCondition(`secret < "sf"`, expr.Scope{Catalog: seat.Catalog, Row: "thing"})
		require.NoError(t, err)
		l.Filter = c
		n, err = w.road().Count(context.Background(), seat, l)
		require.NoError(t, err)
		require.Equal(t, found, n)
	})
}

var errRollBack = fmt.Errorf("roll back")

// TestWritesAreWhatTheRulesSay draws a rule and changes a record: it must
// hold before and after, and a refusal must leave the record as it was.
func TestWritesAreWhatTheRulesSay(t *testing.T) {
	w := newWorld(t)
	rapid.Check(t, func(t *rapid.T) {
		r := drawRule(t, "one")
		b := w.with(t, blueprint.Modify, r)
		b, err := blueprint.Apply(b, blueprint.Permit("one", "per", "see", blueprint.Permission{Extent: blueprint.AllRecords}))
		require.NoError(t, err)
		me := rapid.SampledFrom(w.people).Draw(t, "me")
		seat := w.seat(b, access.Viewer{Memberships: []access.Membership{{Role: "one", Record: me}}})
		x := rapid.SampledFrom(w.things).Draw(t, "thing")
		after := thing{x.id, map[string]expr.Value{}}
		for k, v := range x.values {
			after.values[k] = v
		}
		values := map[string]any{}
		switch rapid.SampledFrom([]string{"owner", "open", "name", "secret"}).Draw(t, "field") {
		case "owner":
			owner := rapid.SampledFrom(w.people).Draw(t, "owner")
			values["owner"], after.values["owner"] = owner, expr.RecordOf(owner)
		case "open":
			values["open"], after.values["open"] = true, expr.YesNoOf(true)
		case "name":
			values["name"], after.values["name"] = "zz", expr.TextOf("zz")
		case "secret":
			values["secret"] = "new"
		}
		_, secret := values["secret"]
		allowed := r.reaches(x, me) && r.reaches(after, me) && !(secret && r.hides)
		err = w.s.DB.Transaction(func(tx *gorm.DB) error {
			_, err := records.On(tx).Change(context.Background(), seat, b.Table("thing"), x.id, 1, entered(t, values), nil)
			if err != nil {
				return err
			}
			return errRollBack
		})
		if allowed {
			require.ErrorIs(t, err, errRollBack, "%v %v", r, values)
		} else {
			require.Error(t, err, "%v %v", r, values)
			require.NotErrorIs(t, err, errRollBack, "%v %v", r, values)
		}
	})
}

// TestNobodyInParticularGetsNothingOfOnesOwn looks as a role without a person.
func TestNobodyInParticularGetsNothingOfOnesOwn(t *testing.T) {
	w := newWorld(t)
	for condition := range conditions {
		b := w.with(t, blueprint.See, rule{condition: condition})
		seat := w.seat(b, access.Viewer{Memberships: []access.Membership{{Role: "one"}}})
		n, err := w.road().Count(t.Context(), seat, query.Selection{Table: b.Table("thing")})
		require.NoError(t, err)
		want := 0
		c, err := expr.CheckCondition(condition, b.Role("one").RuleScope("thing", seat.Catalog))
		require.NoError(t, err)
		if !c.UsesMe {
			for _, x := range w.things {
				if conditions[condition](x, "") {
					want++
				}
			}
		}
		require.Equal(t, want, n, condition)
	}
	for _, v := range []access.Viewer{{}, access.Visitor(), {Memberships: []access.Membership{{Role: "gone", Record: w.people[0]}}}} {
		n, err := w.road().Count(t.Context(), w.seat(w.b, v), query.Selection{Table: w.b.Table("thing")})
		require.NoError(t, err)
		require.Zero(t, n, "without a rule nothing is allowed")
	}
}

func TestOnlyFoundersAddManyAndRevert(t *testing.T) {
	w := newWorld(t)
	seat := w.seat(w.b, access.Visitor())
	require.ErrorIs(t, w.road().AddMany(t.Context(), seat, w.b.Table("thing"), nil), records.ErrForbidden)
	require.ErrorIs(t, w.road().Revert(t.Context(), seat, records.Write{Table: "thing", Record: w.things[0].id}, false),
		records.ErrForbidden)
	_, err := w.road().Add(t.Context(), seat, w.b.Table("thing"), entered(t, map[string]any{"name": "x"}), nil)
	require.Error(t, err)
	_, err = w.road().Delete(t.Context(), seat, w.b.Table("thing"), w.things[0].id, 1)
	require.ErrorIs(t, err, store.ErrNotFound, "what is not seen is not there")
}
