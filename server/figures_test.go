package server_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

// drawn is as much of a figure or a chart as is compared.
type drawn struct {
	ID     string
	Kind   string
	Values []*string
	Groups []struct{ Key, Label string }
	Series []struct {
		Part   *struct{ Key, Label string }
		Values []*string
	}
}

// TestTheYardsFiguresAreThoseOfPlainSQL holds all that the page of figures shows to a manager against statements that are written
// by hand over the tables, without views, rules, or anything that makes reports.
func TestTheYardsFiguresAreThoseOfPlainSQL(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	var page struct{ Blocks []drawn }
	s.Person(t, "jonas@aldercove.example").Read(live+"/page?path=figures", &page)
	blocks := map[string]drawn{}
	for _, b := range page.Blocks {
		blocks[strings.TrimPrefix(b.ID, "p_figures_")] = b
	}
	const (
		today  = `(now() AT TIME ZONE 'Europe/London')::date`
		first  = `date_trunc('month', ` + today + `)`
		year   = `BETWEEN ` + first + ` - interval '11 months' AND ` + first + ` + interval '1 month' - interval '1 day'`
		orders = ` FROM live.work_orders o WHERE o.deleted_at IS NULL AND o.start ` + year
		hours  = ` FROM live.time_entries e WHERE e.deleted_at IS NULL AND e.day ` + year
	)
	within := func(unit string) string {
		return fmt.Sprintf(`date_trunc('%s', day) = date_trunc('%s', %s)`, unit, unit, today)
	}
	month := func(day string) string { return "date_trunc('month', " + day + ")::date::text" }
	figures := map[string]string{
		"b": `SELECT count(*)::text, '' FROM live.work_orders WHERE deleted_at IS NULL AND status IS DISTINCT FROM 'os_done'`,
		"c": `SELECT sum(hours)::text, '' FROM live.time_entries WHERE deleted_at IS NULL AND ` + within("month"),
		"d": `SELECT sum(total)::text, '' FROM live.invoices WHERE deleted_at IS NULL AND status IS DISTINCT FROM 'is_draft' AND ` +
			within("quarter"),
		"e": `SELECT sum(total)::text, count(*)::text FROM live.invoices WHERE deleted_at IS NULL AND status = 'is_sent' AND due < ` + today,
	}
	charts := map[string]string{
		"g": `SELECT ` + month("day") + `, sum(total) FROM live.invoices WHERE deleted_at IS NULL AND status IS DISTINCT FROM 'is_draft'
			AND day ` + year + ` GROUP BY 1`,
		"h": `SELECT o.kind, count(*)` + orders + ` GROUP BY 1`,
		"i": `SELECT ` + month("o.start") + `, sum(o.hours), sum((SELECT coalesce(sum(e.hours), 0) FROM live.time_entries e
			WHERE e."order" = o.id AND e.deleted_at IS NULL))` + orders + ` GROUP BY 1`,
		"j": `SELECT ` + month("o.start") + ` || ' ' || o.kind, count(*)` + orders + ` GROUP BY 1`,
		"k": `SELECT e.crew::text, sum(e.hours)` + hours + ` GROUP BY 1 ORDER BY 2 DESC LIMIT 12`,
		"l": `SELECT o.kind, round(avg(o.price), 10)` + orders + ` GROUP BY 1`,
		"m": `SELECT (SELECT o.kind FROM live.work_orders o WHERE o.id = e."order"), sum(e.hours)` + hours + ` GROUP BY 1`,
		"n": `SELECT (floor((` + today + ` - due) / 30.0) * 30)::text, sum(total) FROM live.invoices
			WHERE deleted_at IS NULL AND status = 'is_sent' AND due < ` + today + ` GROUP BY 1`,
	}
	sql := func(text string) string {
		return strings.ReplaceAll(text, "live.", fmt.Sprintf(`"app_%s_live".`, strings.ReplaceAll(s.App.ID, "-", "")))
	}
	for id, by := range figures {
		var want []*string
		rows, err := s.Store.DB.Raw(sql(by)).Rows()
		require.NoError(t, err, id)
		require.True(t, rows.Next(), id)
		one, two := new(string), new(string)
		require.NoError(t, rows.Scan(one, two), id)
		require.NoError(t, rows.Close())
		if want = []*string{one}; *two != "" {
			want = append(want, two)
		}
		assert.Equal(t, plain(want), plain(blocks[id].Values), "figure %s", id)
	}
	for id, by := range charts {
		assert.Equal(t, byHand(t, s, sql(by)), byChart(blocks[id]), "chart %s", id)
	}
}

// plain are numbers as they are, whatever zeros stand behind them; those that are 0 or empty are alike.
func plain(list []*string) []string {
	var out []string
	for _, x := range list {
		d := decimal.Zero
		if x != nil {
			d = decimal.RequireFromString(*x)
		}
		out = append(out, d.Round(8).String())
	}
	return out
}

// byHand gives what a statement gives for each key, but for what is 0.
func byHand(t *testing.T, s *servertest.Site, sql string) map[string]string {
	t.Helper()
	rows, err := s.Store.DB.Raw(sql).Rows()
	require.NoError(t, err)
	columns, err := rows.Columns()
	require.NoError(t, err)
	out := map[string]string{}
	for rows.Next() {
		cells := make([]*string, len(columns))
		into := make([]any, len(columns))
		for i := range cells {
			into[i] = &cells[i]
		}
		require.NoError(t, rows.Scan(into...))
		if numbers := plain(cells[1:]); strings.Trim(strings.Join(numbers, ""), "0") != "" {
			out[*cells[0]] = strings.Join(numbers, " ")
		}
	}
	require.NoError(t, rows.Err())
	require.NoError(t, rows.Close())
	require.NotEmpty(t, out, "of nothing nothing is held")
	return out
}

// byChart gives what a chart shows for each key, but for what is 0; of groups that are parted again, for each part.
func byChart(c drawn) map[string]string {
	out := map[string]string{}
	for i, g := range c.Groups {
		var numbers []string
		for _, series := range c.Series {
			number := plain(series.Values[i : i+1])
			if series.Part == nil {
				numbers = append(numbers, number...)
			} else if number[0] != "0" {
				out[g.Key+" "+series.Part.Key] = number[0]
			}
		}
		if strings.Trim(strings.Join(numbers, ""), "0") != "" {
			out[g.Key] = strings.Join(numbers, " ")
		}
	}
	return out
}
