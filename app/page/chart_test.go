package page_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act/acttest"
	"pinegate/app/page"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// chartChanges put a chart, a chart of days and a figure on the page of all.
func chartChanges() []string {
	return []string{
		`{"kind":"add","what":"block","into":"all","id":"ch","values":{"kind":"chart","table":"sail","by":"cl","title":"By {{1 + 1}}"}}`,
		`{"kind":"add","what":"measure","into":"ch","id":"m_area","values":{"total":"sum","of":"area","name":"Area"}}`,
		`{"kind":"add","what":"measure","into":"ch","id":"m_price","values":{"total":"sum","of":"price","name":"Price","aside":true}}`,
		`{"kind":"add","what":"measure","into":"ch","id":"m_each","values":{"total":"formula","formula":"price / area","name":"Each","as":"money"}}`,
		`{"kind":"add","what":"block","into":"all","id":"days","values":{"kind":"chart","table":"sail","by":"cut","date":"cut","range":"this year",
			"ranges":true,"units":true,"compare":"year"}}`,
		`{"kind":"add","what":"block","into":"all","id":"fig","values":{"kind":"figure","table":"sail","date":"cut","range":"this month",
			"ranges":true,"compare":"before","course":"week","better":"higher"}}`,
		`{"kind":"add","what":"block","into":"all","id":"parted","values":{"kind":"chart","table":"sail","by":"owner","then":"cl","most":1}}`,
		`{"kind":"add","what":"block","into":"all","id":"priced","values":{"kind":"chart","table":"sail","by":"price","step":"100"}}`,
	}
}

// cuts gives sails days on which they were cut.
func cuts(l *acttest.Loft, days map[string]string) {
	for name, day := range days {
		sql := fmt.Sprintf(`UPDATE "%s".sails SET cut_on = ? WHERE name = ?`, apps.SchemaName(l.App, apps.Draft))
		require.NoError(l.T, l.Store.DB.Exec(sql, day, name).Error)
	}
}

// shownAs gives a block as it is shown to somebody.
func shownAs[T any](l *acttest.Loft, seat *records.Seat, id, asks string) T {
	raw, err := json.Marshal(asked(l.T.(*testing.T), l, seat, "my-sails", "", asks)[id])
	require.NoError(l.T, err)
	var out T
	require.NoError(l.T, json.Unmarshal(raw, &out))
	return out
}

func texts(list []*string) string {
	var out []string
	for _, x := range list {
		if x == nil {
			out = append(out, "–")
		} else {
			out = append(out, *x)
		}
	}
	return strings.Join(out, " ")
}

func groupsOf(c page.Chart) string {
	var out []string
	for _, g := range c.Groups {
		out = append(out, g.Label+g.Key)
	}
	return strings.Join(out, ", ")
}

// TestAChartIsOfWhatOneSees shows a chart to the founder and to somebody who sees their own sails, and no prices.
func TestAChartIsOfWhatOneSees(t *testing.T) {
	l := acttest.NewLoft(t, chartChanges()...)
	l.Add("sail", map[string]any{"name": "Storm", "cl": "laminate", "area": "4", "price": "90", "owner": l.People["Tomas"]})
	l.Add("sail", map[string]any{"name": "Odd", "area": "1.5"})
	c := shownAs[page.Chart](l, l.Founder(), "ch", "")
	assert.Equal(t, "Dacrondacron, Laminatelaminate, Without", groupsOf(c), "choices stand as in their list")
	require.Len(t, c.Series, 3, "what only formulas use is not shown")
	assert.Equal(t, "3 1 1", texts(c.Series[0].Values))
	assert.Equal(t, "60 4 1.5", texts(c.Series[1].Values))
	assert.Equal(t, "20 22.5 –", texts(c.Series[2].Values))
	assert.Equal(t, "5 65.5 19.69465648855", texts(c.Whole), "a ratio of all is none of ratios")
	assert.Equal(t, "money EUR", c.Measures[2].Column.Type+" "+c.Measures[2].Column.Currency)
	assert.Equal(t, "m²", c.Measures[1].Column.Unit)

	c = shownAs[page.Chart](l, l.Member("Ines"), "ch", "")
	assert.Equal(t, "By 2", c.Title)
	assert.Equal(t, "Dacrondacron", groupsOf(c))
	assert.Equal(t, "2 40 –", texts([]*string{c.Series[0].Values[0], c.Series[1].Values[0], c.Series[2].Values[0]}), "prices are not seen")
	c = shownAs[page.Chart](l, l.Member("Ines"), "priced", "")
	assert.True(t, c.Hidden, "groups by what is not seen would tell of it")
	assert.Empty(t, c.Series)
	c = shownAs[page.Chart](l, l.Founder(), "priced", "")
	assert.Equal(t, "00, 400400, Without", groupsOf(c))

	c = shownAs[page.Chart](l, l.Founder(), "parted", "")
	assert.Equal(t, "Ines"+l.People["Ines"]+", Others", groupsOf(c), "the largest, and what is left")
	require.Len(t, c.Series, 3)
	assert.Equal(t, "2 1; 0 1; 0 1", texts(c.Series[0].Values)+"; "+texts(c.Series[1].Values)+"; "+texts(c.Series[2].Values))
	c = shownAs[page.Chart](l, l.Member("Ines"), "parted", "")
	assert.Equal(t, "Without", groupsOf(c), "names of people whom one does not see are not told")
}

// TestChartsGoOverDays asks for days, units and what cannot be asked for.
func TestChartsGoOverDays(t *testing.T) {
	l := acttest.NewLoft(t, chartChanges()...)
	seat := l.Member("Ines") // whose day is the first of May 2026
	cuts(l, map[string]string{"Genoa": "2026-04-30", "Jib": "2026-05-01", "Spinnaker": "2026-05-02"})
	c := shownAs[page.Chart](l, seat, "days", "")
	assert.Len(t, c.Groups, 12, "months in which nothing is are there, too")
	assert.Equal(t, "0 0 0 1 1 0 0 0 0 0 0 0", texts(c.Series[0].Values))
	assert.Equal(t, "2026-01-01 2026-12-31", c.Days.From+" "+c.Days.To)
	assert.Equal(t, "2025-01-01 2025-05-01", c.Before.From+" "+c.Before.To, "as much of the year before as there is of this one")
	assert.Contains(t, c.Days.Offered, "last 30 days")
	assert.NotContains(t, c.Days.Offered, "last 24 hours", "there are no hours")

	c = shownAs[page.Chart](l, seat, "days", "days.days=2026-04-29..2026-05-01")
	assert.Equal(t, "day own", c.Unit+" "+c.Days.Range)
	assert.Equal(t, "0 1 1", texts(c.Series[0].Values))
	c = shownAs[page.Chart](l, seat, "days", "days.days=last-month&days.unit=week")
	assert.Equal(t, "2026-03-30, 2026-04-06, 2026-04-13, 2026-04-20, 2026-04-27", groupsOf(c))
	assert.Equal(t, "0 0 0 0 1", texts(c.Series[0].Values))
	c = shownAs[page.Chart](l, seat, "days", "days.days=all")
	assert.Equal(t, "1 1", texts(c.Series[0].Values), "without ends, what there is")
	assert.Nil(t, c.Before)
	for _, wrong := range []string{"ages", "2026-02-30..2026-03-01", "2026-05-02..2026-05-01", "..", "last-24-hours", "9999-01-01..x"} {
		c = shownAs[page.Chart](l, seat, "days", "days.days="+wrong)
		assert.Equal(t, "2026-01-01", c.Days.From, wrong)
		assert.Len(t, c.Notes, 1, wrong)
	}
	c = shownAs[page.Chart](l, seat, "days", "days.unit=age")
	assert.Equal(t, "month", c.Unit)
	assert.Len(t, c.Notes, 1)
	c = shownAs[page.Chart](l, seat, "days", "days.days=1000-01-01..2026-05-02&days.unit=day")
	assert.Equal(t, "year", c.Unit, "more than can be drawn are put together")
	c = shownAs[page.Chart](l, seat, "ch", "ch.days=last-month")
	assert.Empty(t, c.Days.From, "what is not offered is not asked for")

	f := shownAs[page.Figure](l, seat, "fig", "")
	assert.Equal(t, "1; 0; 1", texts(f.Values)+"; "+texts(f.Before)+"; "+texts(f.Course))
	assert.Equal(t, "2026-04-01 2026-04-01", f.BeforeDays.From+" "+f.BeforeDays.To)
	f = shownAs[page.Figure](l, seat, "fig", "fig.days=last-month")
	assert.Equal(t, "1; 0; 0 0 0 0 1", texts(f.Values)+"; "+texts(f.Before)+"; "+texts(f.Course))
}
