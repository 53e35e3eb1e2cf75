package records_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"sort"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/report"
	"pinegate/store/records"
)

// sewn is a sail as the model knows it; nil for what is empty.
type sewn struct {
	cut, cloth, owner *string
	area, price       *decimal.Decimal
}

// modelled totals sails in Go.
type modelled struct {
	r     query.Report
	price bool // is seen, and so are the records of owners
	first time.Weekday
}

func (m *modelled) key(g query.Grouping, s sewn) string {
	text := func(x *string) string {
		if x == nil {
			return "null"
		}
		raw, _ := json.Marshal(*x)
		return string(raw)
	}
	switch g.Field {
	case "cl":
		return text(s.cloth)
	case "owner":
		if !m.price {
			return "null"
		}
		return text(s.owner)
	case "cut":
		if s.cut == nil {
			return "null"
		}
		d, _ := time.Parse(time.DateOnly, *s.cut)
		start := report.Calendar{First: m.first}.Start(g.Unit, d).Format(time.DateOnly)
		return text(&start)
	}
	if s.area == nil {
		return "null"
	}
	step := decimal.RequireFromString(g.Step)
	at := s.area.Div(step).Floor().Mul(step).String()
	return text(&at)
}

// total gives a total over sails, nil for empty.
func (m *modelled) total(x query.Measure, list []sewn) *decimal.Decimal {
	if x.Total == report.Count {
		n := decimal.NewFromInt(int64(len(list)))
		return &n
	}
	var values, weights []decimal.Decimal
	for _, s := range list {
		if s.area == nil {
			continue
		}
		values = append(values, *s.area)
		w := decimal.Zero
		if s.price != nil && m.price {
			w = *s.price
		}
		weights = append(weights, w)
	}
	if len(values) == 0 {
		return nil
	}
	out := decimal.Zero
	switch x.Total {
	case report.Sum:
		out = decimal.Sum(decimal.Zero, values...)
	case report.Average:
		out = decimal.Sum(decimal.Zero, values...).DivRound(decimal.NewFromInt(int64(len(values))), report.Digits)
	case report.Least:
		out = decimal.Min(values[0], values...)
	case report.Greatest:
		out = decimal.Max(values[0], values...)
	case report.Median:
		sort.Slice(values, func(i, j int) bool { return values[i].LessThan(values[j]) })
		n := len(values)
		out = values[(n-1)/2].Add(values[n/2]).DivRound(decimal.NewFromInt(2), report.Digits)
	case report.Weighted:
		all, sum := decimal.Sum(decimal.Zero, weights...), decimal.Zero
		if all.IsZero() {
			return nil
		}
		for i, v := range values {
			sum = sum.Add(v.Mul(weights[i]))
		}
		out = sum.DivRound(all, report.Digits)
	}
	return &out
}

// groups gives the groups as they are to be, by their keys.
func (m *modelled) groups(list []sewn) map[string][]*decimal.Decimal {
	tops := make([]map[string]bool, len(m.r.Groups))
	for i, g := range m.r.Groups {
		if g.Most == 0 {
			continue
		}
		by := map[string][]sewn{}
		for _, s := range list {
			by[m.key(g, s)] = append(by[m.key(g, s)], s)
		}
		keys := []string{}
		for k := range by {
			keys = append(keys, k)
		}
		slices.SortFunc(keys, func(a, b string) int {
			x, y := m.total(m.r.Measures[0], by[a]), m.total(m.r.Measures[0], by[b])
			switch {
			case x == nil && y == nil || x != nil && y != nil && x.Equal(*y):
				return before(a, b)
			case x == nil:
				return 1
			case y == nil:
				return -1
			}
			return y.Cmp(*x)
		})
		tops[i] = map[string]bool{}
		for _, k := range keys[:min(g.Most, len(keys))] {
			tops[i][k] = true
		}
	}
	in := map[string][]sewn{}
	if len(m.r.Groups) == 0 || m.r.Whole {
		in["whole"] = list
	}
	for _, s := range list {
		var at []string
		for i, g := range m.r.Groups {
			k := m.key(g, s)
			if tops[i] != nil && !tops[i][k] {
				k = "others"
			}
			at = append(at, k)
		}
		if len(at) > 0 {
			in[strings.Join(at, " ")] = append(in[strings.Join(at, " ")], s)
		}
	}
	out := map[string][]*decimal.Decimal{}
	for k, of := range in {
		for _, x := range m.r.Measures {
			out[k] = append(out[k], m.total(x, of))
		}
	}
	return out
}

// before tells which of two keys comes first: numbers by their size, and nothing last.
func before(a, b string) int {
	x, y := strings.Trim(a, `"`), strings.Trim(b, `"`)
	m, notOne := decimal.NewFromString(x)
	n, nor := decimal.NewFromString(y)
	switch {
	case a == "null":
		return 1
	case b == "null":
		return -1
	case notOne == nil && nor == nil:
		return m.Cmp(n)
	}
	return strings.Compare(x, y)
}

// TestReportsAgreeWithAModel totals random sails by random reports, as the founder and as somebody who sees their own ones
// without their prices, and compares with a plain computation.
func TestReportsAgreeWithAModel(t *testing.T) {
	l := acttest.NewLoft(t)
	founder := l.Founder()
	sails := founder.Blueprint.Table("sail")
	check := func(source string) *expr.Checked {
		c, err := expr.Check(source, expr.Scope{Catalog: founder.Catalog, Row: "sail"})
		require.NoError(t, err)
		return c
	}
	area, price := check("area"), check("price")
	people := []string{l.People["Ines"], l.People["Tomas"]}
	rapid.Check(t, func(rt *rapid.T) {
		number := rapid.Custom(func(rt *rapid.T) *decimal.Decimal {
			if rapid.IntRange(0, 5).Draw(rt, "empty") == 0 {
				return nil
			}
			d := decimal.New(rapid.Int64Range(-1_000_000, 1_000_000).Draw(rt, "n"), int32(rapid.IntRange(-3, 9).Draw(rt, "exponent")))
			return &d
		})
		optional := func(label string, of ...string) *string {
			i := rapid.IntRange(0, len(of)).Draw(rt, label)
			if i == len(of) {
				return nil
			}
			return &of[i]
		}
		var list []sewn
		for range rapid.IntRange(0, 14).Draw(rt, "sails") {
			day := time.Date(2023, 12, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, rapid.IntRange(0, 500).Draw(rt, "day")).Format(time.DateOnly)
			list = append(list, sewn{optional("cut", day, day, day), optional("cloth", "dacron", "laminate"), optional("owner", people...),
				number.Draw(rt, "area"), number.Draw(rt, "price")})
		}
		r := query.Report{Selection: query.Selection{Table: sails}, Whole: rapid.Bool().Draw(rt, "whole")}
		for range rapid.IntRange(1, 3).Draw(rt, "measures") {
			total := rapid.SampledFrom([]report.Total{report.Count, report.Sum, report.Average, report.Weighted, report.Least, report.Greatest,
				report.Median}).Draw(rt, "total")
			r.Measures = append(r.Measures, query.Measure{Total: total, Of: area, Weight: price})
		}
		fields := rapid.SampledFrom([]string{"cl", "owner", "cut", "area"})
		for _, field := range rapid.SliceOfNDistinct(fields, 0, 2, rapid.ID).Draw(rt, "by") {
			g := query.Grouping{Field: field}
			switch field {
			case "cut":
				g.Unit = rapid.SampledFrom(report.Units()).Draw(rt, "unit")
			case "area":
				g.Step = rapid.SampledFrom([]string{"1", "0.5", "250", "1000000"}).Draw(rt, "step")
			}
			r.Groups = append(r.Groups, g)
		}
		seat, own := founder, rapid.Bool().Draw(rt, "as Ines")
		if own {
			seat = l.Member("Ines")
		}
		var got []query.Group
		err := l.Acts.Do(t.Context(), func(u *act.Unit) error {
			require.NoError(rt, u.Tx.Exec(fmt.Sprintf(`DELETE FROM "%s".sails`, seat.Schema)).Error)
			for _, s := range list {
				require.NoError(rt, u.Tx.Exec(fmt.Sprintf(`INSERT INTO "%s".sails (id, cut_on, cloth, owner, area, price, created_by, changed_by)
					VALUES (?, ?, ?, ?, ?, ?, 'x', 'x')`, seat.Schema), uuid.NewString(), s.cut, s.cloth, s.owner, s.area, s.price).Error)
			}
			found, err := u.Road.Batch(t.Context(), seat, []records.Read{{Report: &r}})
			require.NoError(rt, err)
			for _, raw := range found[0].Rows {
				var g query.Group
				require.NoError(rt, json.Unmarshal(raw, &g))
				got = append(got, g)
			}
			return errTakenBack
		})
		require.ErrorIs(rt, err, errTakenBack)
		m := &modelled{r: r, price: !own, first: time.Weekday(founder.Blueprint.FirstDay())}
		seen := list
		if own {
			seen = nil
			for _, s := range list {
				if s.owner != nil && *s.owner == people[0] {
					seen = append(seen, s)
				}
			}
		}
		want := m.groups(seen)
		said := map[string]bool{}
		for _, g := range got {
			k := "whole"
			if !g.Whole {
				var at []string
				for i, key := range g.Keys {
					if g.Others[i] {
						key = json.RawMessage("others")
					}
					at = append(at, string(key))
				}
				k = strings.Join(at, " ")
			}
			said[k] = true
			require.Contains(rt, want, k)
			for i, v := range g.Values {
				w := want[k][i]
				if w == nil {
					require.Nil(rt, v, "%s: %s", k, r.Measures[i].Total)
					continue
				}
				require.NotNil(rt, v, "%s: %s", k, r.Measures[i].Total)
				require.True(rt, w.Equal(decimal.RequireFromString(*v)), "%s: %s is %s and not %s", k, r.Measures[i].Total, *v, w)
			}
		}
		assert.Len(rt, said, len(want))
	})
}

// TestMomentsBelongToDaysOfTheZone counts moments around midnights, ends of months and changes of the clock, by days and months
// as the clocks of the app show them, and since a moment.
func TestMomentsBelongToDaysOfTheZone(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"add","what":"field","into":"sail","id":"at","values":{"name":"Washed at","type":"time stamp"}}`)
	seat := l.Founder()
	london, err := time.LoadLocation("Europe/London")
	require.NoError(t, err)
	seat.Clock = expr.Clock{Now: time.Date(2026, 10, 25, 12, 0, 0, 0, time.UTC), Zone: london}
	moments := []string{
		"2026-03-28T23:59:59Z", "2026-03-29T00:00:00Z", "2026-03-29T22:59:59Z", // the clocks go forward on the 29th, which has 23 hours
		"2026-03-29T23:00:00Z", "2026-03-31T22:59:59Z", "2026-03-31T23:00:00Z",
		"2026-10-24T22:59:59Z", "2026-10-24T23:00:00Z", "2026-10-25T23:59:59Z", "2026-10-26T00:00:00Z", // and back on the 25th
		"2024-02-28T12:00:00Z", "2024-02-29T12:00:00Z", "2024-12-31T23:59:59Z", "2025-01-01T00:00:00Z",
	}
	sails := seat.Blueprint.Table("sail")
	count := func(g query.Grouping, also func(*query.Report)) map[string]int {
		r := query.Report{Selection: query.Selection{Table: sails}, Groups: []query.Grouping{g}}
		if also != nil {
			also(&r)
		}
		out := map[string]int{}
		err := l.Acts.Do(t.Context(), func(u *act.Unit) error {
			require.NoError(t, u.Tx.Exec(fmt.Sprintf(`DELETE FROM "%s".sails`, seat.Schema)).Error)
			for _, at := range moments {
				require.NoError(t, u.Tx.Exec(fmt.Sprintf(`INSERT INTO "%s".sails (id, washed_at, created_by, changed_by) VALUES (?, ?, 'x', 'x')`,
					seat.Schema), uuid.NewString(), at).Error)
			}
			found, err := u.Road.Batch(t.Context(), seat, []records.Read{{Report: &r}})
			require.NoError(t, err)
			for _, raw := range found[0].Rows {
				var g query.Group
				require.NoError(t, json.Unmarshal(raw, &g))
				out[strings.Trim(string(g.Keys[0]), `"`)] = g.Count
			}
			return errTakenBack
		})
		require.ErrorIs(t, err, errTakenBack)
		return out
	}
	days := count(query.Grouping{Field: "at", Unit: report.Day}, nil)
	assert.Equal(t, map[string]int{"2026-03-28": 1, "2026-03-29": 2, "2026-03-30": 1, "2026-03-31": 1, "2026-04-01": 1, "2026-10-24": 1,
		"2026-10-25": 2, "2026-10-26": 1, "2024-02-28": 1, "2024-02-29": 1, "2024-12-31": 1, "2025-01-01": 1}, days)
	assert.Equal(t, map[string]int{"2026-03-01": 5, "2026-04-01": 1, "2026-10-01": 4, "2024-02-01": 2, "2024-12-01": 1, "2025-01-01": 1},
		count(query.Grouping{Field: "at", Unit: report.Month}, nil))
	assert.Equal(t, map[string]int{"2026-01-01": 10, "2024-01-01": 3, "2025-01-01": 1},
		count(query.Grouping{Field: "at", Unit: report.Year}, nil))
	assert.Equal(t, map[string]int{"2024-12-30": 2, "2026-03-23": 3, "2026-03-30": 3, "2026-10-19": 3, "2026-10-26": 1, "2024-02-26": 2},
		count(query.Grouping{Field: "at", Unit: report.Week}, nil), "weeks go on over the end of a year")
	narrowed := count(query.Grouping{Field: "at", Unit: report.Day}, func(r *query.Report) {
		r.Narrows = []query.Narrow{{Field: "at", From: "2026-03-29", To: "2026-03-29"}}
	})
	assert.Equal(t, map[string]int{"2026-03-29": 2}, narrowed, "a day of 23 hours is a day")
	hours := count(query.Grouping{Field: "at", Unit: report.Day}, func(r *query.Report) {
		r.Since = &query.Since{Field: "at", At: "2026-10-24T23:00:00Z", Until: "2026-10-26T00:00:00Z"}
	})
	assert.Equal(t, map[string]int{"2026-10-25": 2}, hours)
}

// TestLargeAmountsAreExact sums amounts of 10^15 in cents.
func TestLargeAmountsAreExact(t *testing.T) {
	l := acttest.NewLoft(t)
	seat := l.Founder()
	price, err := expr.Check("price", expr.Scope{Catalog: seat.Catalog, Row: "sail"})
	require.NoError(t, err)
	for _, amount := range []string{"1000000000000000.01", "2000000000000000.02", "0.07"} {
		l.Add("sail", map[string]any{"name": "Dear", "price": amount})
	}
	r := query.Report{Selection: query.Selection{Table: seat.Blueprint.Table("sail")}, Whole: true}
	for _, total := range []report.Total{report.Sum, report.Average, report.Median} {
		r.Measures = append(r.Measures, query.Measure{Total: total, Of: price})
	}
	found, err := l.Road().Batch(t.Context(), seat, []records.Read{{Report: &r}})
	require.NoError(t, err)
	require.Len(t, found[0].Rows, 1)
	var g query.Group
	require.NoError(t, json.Unmarshal(found[0].Rows[0], &g))
	assert.Equal(t, "3000000000001200.1", *g.Values[0])
	assert.Equal(t, "500000000000200.0166666667", *g.Values[1])
	assert.Equal(t, "400", *g.Values[2])
}
