package query_test

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"
	"unsafe"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/demo"
)

// asked is a list as somebody asks for it.
type asked struct {
	c query.Context
	l query.Selection
}

func owner(record string) access.Viewer {
	return access.Viewer{Email: "a@sail.example", Name: "A", Memberships: []access.Membership{{Role: "r_own", Record: record}}}
}

// variants gives a list and, by name, the same with one thing changed each.
func variants(t *testing.T, b *blueprint.Blueprint) map[string]asked {
	const one, two = "01a00000-0000-7000-8000-000000000001", "01a00000-0000-7000-8000-000000000002"
	condition := func(source string) *expr.Checked {
		c, err := expr.CheckCondition(source, expr.Scope{Catalog: b.Catalog(), Row: "boat"})
		require.NoError(t, err)
		return c
	}
	cursor, err := query.Cursor([]byte(`{"id": "` + one + `", "~sort0": "Tern"}`))
	require.NoError(t, err)
	first := asked{
		query.Context{Schema: "s", Blueprint: b, Catalog: b.Catalog(), Viewer: owner(one),
			Clock: expr.Clock{Now: time.Date(2026, 3, 1, 12, 0, 0, 0, time.UTC), Zone: time.UTC}, Page: one},
		query.Selection{Table: b.Table("boat"), Columns: []string{"boat_name", "boat_owner"}, Filter: condition("length > 5"),
			FilterName: "p one", Sorts: []query.Sort{{Field: "boat_name"}}, Limit: 25},
	}
	out := map[string]asked{"as it is": first}
	for name, edit := range map[string]func(*asked){
		"environment": func(a *asked) { a.c.Schema = "s2" },
		"page":        func(a *asked) { a.c.Page = two },
		"person":      func(a *asked) { a.c.Viewer = owner(two) },
		"nobody":      func(a *asked) { a.c.Viewer = access.Visitor() },
		"no record":   func(a *asked) { a.c.Viewer = owner("") },
		"other role":  func(a *asked) { a.c.Viewer.Memberships = []access.Membership{{Role: "r_crew", Record: one}} },
		"two roles": func(a *asked) {
			a.c.Viewer.Memberships = append(owner(one).Memberships, access.Membership{Role: "r_crew", Record: two})
		},
		"founder": func(a *asked) { a.c.Viewer = access.Viewer{Founder: true} },
		"mail":    func(a *asked) { a.c.Viewer.Email = "b@sail.example" },
		"name":    func(a *asked) { a.c.Viewer.Name = "B" },
		"zone":    func(a *asked) { a.c.Clock.Zone = time.FixedZone("Somewhere", 3600) },
		"table": func(a *asked) {
			a.l.Table, a.l.Columns, a.l.Sorts, a.l.Filter, a.l.FilterName = b.Table("req"), nil, nil, nil, ""
		},
		"columns":          func(a *asked) { a.l.Columns = []string{"boat_name"} },
		"order of columns": func(a *asked) { a.l.Columns = []string{"boat_owner", "boat_name"} },
		"filter":           func(a *asked) { a.l.Filter, a.l.FilterName = condition("length > 6"), "p two" },
		"no filter":        func(a *asked) { a.l.Filter, a.l.FilterName = nil, "" },
		"filter of today":  func(a *asked) { a.l.Filter, a.l.FilterName = condition("insured > TODAY()"), "p three" },
		"filter unnamed":   func(a *asked) { a.l.Filter, a.l.FilterName = condition("length > 7"), "" },
		"one choice":       func(a *asked) { a.l.Narrows = []query.Narrow{{Field: "boat_kind", In: []string{"bk_dinghy"}}} },
		"another choice":   func(a *asked) { a.l.Narrows = []query.Narrow{{Field: "boat_kind", In: []string{"bk_trawler"}}} },
		"two choices": func(a *asked) {
			a.l.Narrows = []query.Narrow{{Field: "boat_kind", In: []string{"bk_dinghy", "bk_trawler"}}}
		},
		"a choice or none": func(a *asked) {
			a.l.Narrows = []query.Narrow{{Field: "boat_kind", In: []string{"bk_dinghy"}, None: true}}
		},
		"from":       func(a *asked) { a.l.Narrows = []query.Narrow{{Field: "boat_length", From: "7"}} },
		"to":         func(a *asked) { a.l.Narrows = []query.Narrow{{Field: "boat_length", To: "7"}} },
		"search":     func(a *asked) { a.l.Search = "tern" },
		"falling":    func(a *asked) { a.l.Sorts = []query.Sort{{Field: "boat_name", Falling: true}} },
		"two sorts":  func(a *asked) { a.l.Sorts = []query.Sort{{Field: "boat_name"}, {Field: "boat_length"}} },
		"place":      func(a *asked) { a.l.After = cursor },
		"limit":      func(a *asked) { a.l.Limit = 26 },
		"one record": func(a *asked) { a.l.ID = two },
		"bin":        func(a *asked) { a.c.Viewer, a.l.Bin = access.Viewer{Founder: true}, true },
		"parts run together": func(a *asked) {
			a.c.Viewer.Email, a.c.Viewer.Name = "a@sail.example1:A", ""
		},
	} {
		changed := first
		edit(&changed)
		out[name] = changed
	}
	return out
}

// spelled writes a statement down with its parameters in their places: a statement
// that is kept has one for each of a person's values, also where two are the same.
func spelled(s query.Statement) string {
	return parameter.ReplaceAllStringFunc(s.SQL, func(place string) string {
		n, err := strconv.Atoi(strings.Trim(place, "$:"))
		if err != nil || n > len(s.Args) {
			return place
		}
		return fmt.Sprintf("%q::", fmt.Sprint(s.Args[n-1]))
	})
}

var parameter = regexp.MustCompile(`\$[0-9]+::`)

// TestOneStatementServesAllPeopleOfARole asks as many people, of whom some are known
// in two ways, and holds that each gets their own values in a statement that was
// built once.
func TestOneStatementServesAllPeopleOfARole(t *testing.T) {
	frozen := demo.Blueprint()
	frozen.Freeze()
	for _, two := range []bool{false, true} {
		var first *byte
		for n := range 50 {
			v := owner(fmt.Sprintf("01a00000-0000-7000-8000-%012d", n))
			v.Email, v.Name = fmt.Sprintf("p%d@sail.example", n), fmt.Sprintf("Person %d", n)
			if two { // the same record and another one, in turns
				also := fmt.Sprintf("01a00000-0000-7000-8000-%012d", n-n%2)
				v.Memberships = append(v.Memberships, access.Membership{Role: "r_own", Record: also})
			}
			a := asked{query.Context{Schema: "s", Blueprint: frozen, Catalog: frozen.Catalog(), Viewer: v,
				Clock: expr.Clock{Zone: time.UTC}},
				query.Selection{Table: frozen.Table("boat"), Columns: []string{"boat_name", "boat_owner"}, Limit: 25}}
			got, err := query.BuildSelection(a.c, a.l)
			require.NoError(t, err)
			if first == nil {
				first = unsafe.StringData(got.SQL)
			}
			assert.Same(t, first, unsafe.StringData(got.SQL), "person %d", n)
			plain := demo.Blueprint()
			a.c.Blueprint, a.c.Catalog, a.l.Table = plain, plain.Catalog(), plain.Table("boat")
			want, err := query.BuildSelection(a.c, a.l)
			require.NoError(t, err)
			assert.Equal(t, spelled(want), spelled(got), "person %d", n)
		}
	}
}

// TestKeptStatementsAreThoseOfTheirViewer holds that a statement that was kept
// is never given to another viewer, nor for another list: with all variants
// asked for twice, in turns, each gets what is built for it alone.
func TestKeptStatementsAreThoseOfTheirViewer(t *testing.T) {
	frozen := demo.Blueprint()
	frozen.Freeze()
	mine := variants(t, frozen)
	alone := variants(t, demo.Blueprint())
	for round := range 3 {
		for name, a := range mine {
			want, wrong := query.BuildSelection(alone[name].c, alone[name].l)
			got, err := query.BuildSelection(a.c, a.l)
			assert.Equal(t, fmt.Sprint(wrong), fmt.Sprint(err), name)
			assert.Equal(t, spelled(want), spelled(got), "%s, round %d", name, round)
			for i := range got.Args {
				got.Args[i] = "changed by whoever got it"
			}
		}
	}
	late := mine["filter of today"]
	late.c.Clock.Now = late.c.Clock.Now.AddDate(0, 0, 1)
	got, err := query.BuildSelection(late.c, late.l)
	require.NoError(t, err)
	assert.Contains(t, got.Args, "2026-03-02", "what depends on the day is built each day")
}

// TestConditionsAndStatementsAreKeptApart fills one, which must not push out the
// other.
func TestConditionsAndStatementsAreKeptApart(t *testing.T) {
	b := demo.Blueprint()
	b.Freeze()
	role := b.Role("r_own")
	first, err := b.Condition(role, "boat", blueprint.See, b.Catalog())
	require.NoError(t, err)
	a := variants(t, b)["as it is"]
	for i := range 1200 {
		a.l.Search = fmt.Sprint(i)
		_, err := query.BuildSelection(a.c, a.l)
		require.NoError(t, err)
	}
	again, err := b.Condition(role, "boat", blueprint.See, b.Catalog())
	require.NoError(t, err)
	assert.Same(t, first, again)
}
