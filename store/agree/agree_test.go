// Package agree holds the two back ends of the expression language equal: what
// Go evaluates is what PostgreSQL computes.
package agree

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/app/act/acttest"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/records"
	"pinegate/store/storetest"
)

// checks is how many cases are drawn unless -rapid.checks says otherwise.
const checks = "2000"

func TestMain(m *testing.M) {
	flag.Parse()
	if f := flag.Lookup("rapid.checks"); f.Value.String() == f.DefValue {
		if err := f.Value.Set(checks); err != nil {
			panic(err)
		}
	}
	os.Exit(storetest.Main(m))
}

// world is an app with things that have lines and friends, in the database and
// in memory.
type world struct {
	db      *store.Store
	b       *blueprint.Blueprint
	catalog *expr.Catalog
	context query.Context
	tables  map[string][]string              // ids of the records by table
	values  map[string]map[string]expr.Value // by record and field
	lines   map[string][]expr.Value          // of a thing
}

var clock = expr.Clock{Now: time.Date(2026, 3, 1, 10, 30, 15, 0, time.UTC), Zone: zone()}

func zone() *time.Location {
	l, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		panic(err)
	}
	return l
}

// kinds are the types that fields have; both tables have two fields of each,
// named after the type.
var kinds = map[string]blueprint.FieldType{"t": blueprint.Text, "n": blueprint.Number, "y": blueprint.YesNo, "d": blueprint.Date,
	"s": blueprint.TimeStamp, "c": blueprint.Choose}

func newWorld(t *testing.T) *world {
	s := storetest.New(t)
	ctx := t.Context()
	builder, err := accounts.New(s).AddBuilder(ctx, "a@yard.example", "Ann", "long-enough-password")
	require.NoError(t, err)
	a := apps.New(s)
	app, err := a.Create(ctx, builder.ID, builder.Name, blueprint.New("World", apps.NewID))
	require.NoError(t, err)
	changes := []blueprint.Change{blueprint.Setting("app", "zone", "Europe/Lisbon"),
		blueprint.Adding("list", "", "l", "name", "L", "choices", "One\ntwo \"2\"\nÄnderung", "ids", []string{"c1", "c2", "c3"}),
		blueprint.Adding("column", "l", "rate", "name", "Rate", "type", blueprint.NumberColumn),
		blueprint.AddingTable("tt", "Things", "tt_name"), blueprint.AddingTable("uu", "Pieces", "uu_name")}
	for id, value := range map[string]string{"c1": "1.5", "c2": "-2"} {
		changes = append(changes, blueprint.Setting(id, "rate", value))
	}
	for _, table := range []string{"tt", "uu"} {
		for _, k := range []string{"t", "n", "y", "d", "s", "c"} {
			for _, which := range []string{"a", "b"} {
				f := blueprint.Adding("field", table, table+k+which, "name", "f"+k+which, "type", kinds[k])
				if k == "c" {
					f.Values.Put("list", "l")
				}
				changes = append(changes, f)
			}
		}
	}
	changes = append(changes, blueprint.Adding("field", "uu", "parent", "name", "parent", "type", blueprint.Link, "target", "tt", "back",
		"lines", "backId", "lines"),
		blueprint.Adding("field", "tt", "best", "name", "best", "type", blueprint.Link, "target", "uu"),
		blueprint.Adding("field", "tt", "friends", "name", "friends", "type", blueprint.Links, "target", "tt", "back", "fans", "backId",
			"fans"),
		blueprint.Adding("field", "tt", "tags", "name", "tags", "type", blueprint.ChooseMany, "list", "l"))
	app, err = acttest.New(t, a).Apply(ctx, app.ID, "Ann", changes...)
	require.NoError(t, err)
	w := &world{db: s, tables: map[string][]string{}, values: map[string]map[string]expr.Value{}, lines: map[string][]expr.Value{}}
	w.b, err = a.Blueprint(ctx, app, apps.Draft)
	require.NoError(t, err)
	seat := apps.FounderSeat(app, apps.Draft, w.b, "Ann")
	w.catalog = seat.Catalog
	w.context = query.Context{Schema: seat.Schema, Blueprint: w.b, Catalog: w.catalog, Viewer: seat.Viewer, Clock: clock}
	w.fill(t, records.On(s.DB), seat)
	return w
}

// fill makes records of random values, many of them awkward.
func (w *world) fill(t *testing.T, road records.Road, seat *records.Seat) {
	r := rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 7))
	for table, n := range map[string]int{"tt": 24, "uu": 60} {
		for range n {
			id, err := uuid.NewV7()
			require.NoError(t, err)
			w.tables[table] = append(w.tables[table], id.String())
			w.values[id.String()] = map[string]expr.Value{}
			for k := range kinds {
				for _, which := range []string{"a", "b"} {
					if r.IntN(4) > 0 {
						w.values[id.String()][table+k+which] = some(r, k)
					}
				}
			}
		}
	}
	pick := func(table string) expr.Value {
		return expr.RecordOf(w.tables[table][r.IntN(len(w.tables[table]))])
	}
	for _, id := range w.tables["uu"] {
		if r.IntN(6) > 0 {
			parent := pick("tt")
			w.values[id]["parent"] = parent
			w.lines[parent.Text] = append(w.lines[parent.Text], expr.RecordOf(id))
		}
	}
	for _, id := range w.tables["tt"] {
		if r.IntN(3) > 0 {
			w.values[id]["best"] = pick("uu")
		}
		var friends, tags []expr.Value
		for range r.IntN(4) {
			friends = append(friends, pick("tt"))
			tags = append(tags, some(r, "c"))
		}
		slices.SortFunc(friends, func(a, b expr.Value) int { return strings.Compare(a.Text, b.Text) })
		w.values[id]["friends"] = expr.ListValue(slices.CompactFunc(friends, expr.Equal))
		w.values[id]["tags"] = expr.ListValue(tags)
	}
	for _, id := range w.tables["tt"] {
		var fans []expr.Value
		for _, other := range w.tables["tt"] {
			if slices.ContainsFunc(w.values[other]["friends"].Items, func(v expr.Value) bool { return v.Text == id }) {
				fans = append(fans, expr.RecordOf(other))
			}
		}
		w.values[id]["fans"] = expr.ListValue(fans)
		w.values[id]["lines"] = expr.ListValue(w.lines[id])
	}
	for _, pass := range []bool{false, true} { // links need both tables
		for _, table := range []string{"tt", "uu"} {
			var list []records.New
			for _, id := range w.tables[table] {
				list = append(list, records.New{ID: id, Values: w.values[id]})
			}
			if !pass {
				bare := slices.Clone(list)
				for i := range bare {
					values := map[string]expr.Value{}
					for f, v := range bare[i].Values {
						if f != "parent" && f != "best" && f != "friends" {
							values[f] = v
						}
					}
					bare[i].Values = values
				}
				require.NoError(t, road.AddMany(t.Context(), seat, w.b.Table(table), bare))
				continue
			}
			w.link(t, table)
		}
	}
}

func (w *world) link(t *testing.T, table string) {
	db, err := w.db.DB.DB()
	require.NoError(t, err)
	schema := query.Quote(w.context.Schema)
	for _, id := range w.tables[table] {
		for field, column := range map[string]string{"parent": "pieces", "best": "things"} {
			if v := w.values[id][field]; !v.IsEmpty() {
				_, err := db.Exec(fmt.Sprintf("UPDATE %s.%s SET %s = $1 WHERE id = $2", schema, column, field), v.Text, id)
				require.NoError(t, err)
			}
		}
		for _, v := range w.values[id]["friends"].Items {
			_, err := db.Exec(fmt.Sprintf("INSERT INTO %s.%s VALUES ($1, $2)", schema, query.Quote(query.LinkTable("friends"))), id, v.Text)
			require.NoError(t, err)
		}
	}
}

func some(r *rand.Rand, kind string) expr.Value {
	pick := func(list ...string) string { return list[r.IntN(len(list))] }
	switch kind {
	case "n":
		return expr.NumberOf(decimal.RequireFromString(pick("0", "1", "-1", "0.1", "2.50", "3", "12", "0.000000000001", "-0.0000000000005",
			"1e19", "-99999999999999999999", "12345.678901234567", "1e-30", "7", "0.3333333333333333333", "0.05", "-0.5", "100")))
	case "y":
		return expr.YesNoOf(r.IntN(2) == 0)
	case "d":
		return expr.DateOf(pick("2024-02-29", "2026-03-01", "0001-01-01", "9999-12-31", "1999-12-31", "2026-01-31", "2023-10-29",
			"2025-03-30"))
	case "s":
		return expr.TimeOf(time.Date(1995+r.IntN(40), time.Month(1+r.IntN(12)), 1+r.IntN(28), r.IntN(24), r.IntN(60), r.IntN(60), 0,
			time.UTC))
	case "c":
		return expr.ChoiceOf(pick("c1", "c2", "c3"))
	}
	return expr.TextOf(pick("a", "A", "b", "ä", "Z", " ", "2", "%_\\'\"", "\u00df", "long "+strings.Repeat("x", 300), "日本", "ΑΣ", "İi",
		"o'neil  MC x", "12.5", "-7", "+351 21", "line\nbreak", "ǆ ﬁ"))
}

// The world is the environment of one of its things.
type thing struct {
	*world
	id string
}

func (t thing) Start(expr.Root) expr.Value { return expr.RecordOf(t.id) }
func (t thing) Field(record expr.Value, f *expr.Field) expr.Value {
	return t.values[record.Text][f.ID]
}
func (t thing) Records(table string) []expr.Value {
	var out []expr.Value
	for _, id := range t.tables[table] {
		out = append(out, expr.RecordOf(id))
	}
	return out
}
func (t thing) Label(string, expr.Value) expr.Value { return expr.Empty() } // no record has a name
func (thing) Clock() expr.Clock                     { return clock }

// TestBackEndsAgree draws expressions, and compares for every thing the value
// in Go with that on the server, both as a value and as a condition.
func TestBackEndsAgree(t *testing.T) {
	w := newWorld(t)
	rapid.Check(t, func(t *rapid.T) {
		kind := rapid.SampledFrom([]string{"t", "n", "y", "d", "s", "c"}).Draw(t, "kind")
		g := generator{t}
		src := g.write(kind, rapid.IntRange(0, 4).Draw(t, "depth"), 0)
		checked, err := expr.Check(src, expr.Scope{Catalog: w.catalog, Row: "tt"})
		require.NoError(t, err, src)
		w.compareValues(t, checked)
		if kind == "y" {
			w.compareCondition(t, checked)
		}
	})
}

func (w *world) compareValues(t require.TestingT, checked *expr.Checked) {
	stmt, err := query.BuildPreview(w.context, w.b.Table("tt"), checked, true, 1000)
	if _, tooMany := err.(*words.Problem); tooMany {
		return
	}
	src := checked.Source
	require.NoError(t, err, src)
	db, err := w.db.DB.DB()
	require.NoError(t, err)
	rows, err := db.QueryContext(context.Background(), stmt.SQL, stmt.Args...)
	require.NoError(t, err, "%s\n%s", src, stmt.SQL)
	defer rows.Close() // where they are not all read, as something is wrong
	n := 0
	for rows.Next() {
		var raw []byte
		var got struct {
			ID    string
			Value *string
		}
		require.NoError(t, rows.Scan(&raw))
		require.NoError(t, json.Unmarshal(raw, &got))
		text := ""
		if got.Value != nil {
			text = *got.Value
		}
		want := expr.Eval(checked, w.catalog, thing{w, got.ID})
		require.Equal(t, want.String(), text, "%s\nof %v", src, w.values[got.ID])
		n++
	}
	require.NoError(t, rows.Err(), src)
	require.NoError(t, rows.Close())
	require.Equal(t, len(w.tables["tt"]), n)
}

// TestConditionsAgree keeps conditions over which the two once did not agree.
func TestConditionsAgree(t *testing.T) {
	w := newWorld(t)
	for _, src := range []string{
		// an equality of both sides of two outer joins, which the planner checked below them too
		`EXACT(((best.parent.fnb * fna) & EDATE(fda, best.fna)), (TIME(DATE(2025, 3, 30), 1, fna) & COALESCE(fca, fca)))`,
		`((best.parent.fnb * fna) & EDATE(fda, best.fna)) = "7"`,
		`ENDSWITH(best.parent.fta & fta & best.fta, fta & best.parent.ftb)`,
	} {
		checked, err := expr.Check(src, expr.Scope{Catalog: w.catalog, Row: "tt"})
		require.NoError(t, err, src)
		w.compareCondition(t, checked)
	}
}

// TestValuesAgree keeps values over which the two once did not agree.
func TestValuesAgree(t *testing.T) {
	w := newWorld(t)
	for _, src := range []string{
		// before the first day of the calendar, in the app's time zone
		`TEXT(ADDHOURS(TIME(DATE(1, 1, 1), 0, 30), -1), "dddd, dd.mm.yy h:mm am/pm")`,
		`TEXT(ADDHOURS(TIME(DATE(1, 1, 2), 0, 30), -1), "dddd, dd.mm.yy h:mm am/pm")`,
		`TEXT(ADDHOURS(TIME(DATE(9999, 12, 30), 23, 30), 1), "dd.mm.yyyy h:mm")`,
		`TIME(DATE(9999, 12, 31), 23, 30) & "x"`,
	} {
		checked, err := expr.Check(src, expr.Scope{Catalog: w.catalog, Row: "tt"})
		require.NoError(t, err, src)
		w.compareValues(t, checked)
	}
}

func (w *world) compareCondition(t require.TestingT, checked *expr.Checked) {
	want := 0
	for _, id := range w.tables["tt"] {
		if expr.Eval(checked, w.catalog, thing{w, id}).True() {
			want++
		}
	}
	stmt, err := query.BuildCount(w.context, query.Selection{Table: w.b.Table("tt"), Filter: checked})
	require.NoError(t, err)
	db, err := w.db.DB.DB()
	require.NoError(t, err)
	var got int
	require.NoError(t, db.QueryRow(stmt.SQL, stmt.Args...).Scan(&got), checked.Source)
	require.Equal(t, want, got, "condition %s", checked.Source)
}
