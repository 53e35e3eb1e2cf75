package page_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act/acttest"
	"pinegate/app/page"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// chartChanges put a chart, a chart of days and a figure on the page of all.
func chartChanges() []string {
	return []string{
		`{"kind":"add","what":"block","into":"all","id":"ch","values":{"kind":"chart","table":"sail","by":"cl","title":"By {{1 + 1}}"}}`,
		`{"kind":"add","what":"measure","into":"ch","id":"m_area","values":{"total":"sum","of":"[Area]","name":"Area"}}`,
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

// TestPeopleGroupByWhatIsOffered asks for other groups: those that are offered and seen, and no others.
func TestPeopleGroupByWhatIsOffered(t *testing.T) {
	l := acttest.NewLoft(t, append(chartChanges(),
		block("all", "gr", "chart", `,"table":"sail","by":"cl","bys":["owner","cut","name"],"shape":"sideways"`),
		`{"kind":"set","of":"gr_1","values":{"goal":"least","at":"3"}}`,
		block("all", "dear", "chart", `,"table":"sail","by":"price","step":"100","bys":["cl"]`))...)
	cuts(l, map[string]string{"Genoa": "2026-04-30", "Jib": "2026-05-01", "Spinnaker": "2026-05-02"})
	founder, ines := l.Founder(), l.Member("Ines")
	offered := func(c page.Chart) string {
		var out []string
		for _, f := range c.Bys {
			out = append(out, f.ID)
		}
		return strings.Join(out, " ")
	}
	c := shownAs[page.Chart](l, founder, "gr", "")
	assert.Equal(t, "cl; cl owner cut name; dacron", c.By.ID+"; "+offered(c)+"; "+c.Groups[0].Key)
	assert.NotNil(t, c.Series[0].Goal, "it is for each cloth")
	assert.False(t, c.Units)
	c = shownAs[page.Chart](l, founder, "gr", "gr.by=owner")
	assert.Equal(t, "owner: Ines"+l.People["Ines"]+", Tomas"+l.People["Tomas"], c.By.ID+": "+groupsOf(c))
	assert.Equal(t, "2 1", texts(c.Series[0].Values))
	assert.Nil(t, c.Series[0].Goal[0], "what is to be reached by each cloth is not what each person is to reach")
	c = shownAs[page.Chart](l, founder, "gr", "gr.by=cut")
	assert.Equal(t, "month true; 1 2", fmt.Sprint(c.Unit, " ", c.Units, "; ", texts(c.Series[0].Values)))
	c = shownAs[page.Chart](l, founder, "gr", "gr.by=cut&gr.unit=year")
	assert.Equal(t, "year 3", c.Unit+" "+texts(c.Series[0].Values), "who may choose days may choose how many of them are put together")
	c = shownAs[page.Chart](l, founder, "gr", "gr.unit=year")
	assert.Empty(t, c.Unit)
	for _, wrong := range []string{"price", "area", "nothing", "owner.name"} {
		c = shownAs[page.Chart](l, founder, "gr", "gr.by="+wrong)
		assert.Equal(t, "cl", c.By.ID, wrong)
		assert.Len(t, c.Notes, 1, wrong)
	}
	c = shownAs[page.Chart](l, founder, "ch", "ch.by=owner")
	assert.Equal(t, "cl", c.By.ID, "where nothing is offered, nothing is chosen")

	c = shownAs[page.Chart](l, ines, "dear", "")
	assert.True(t, c.Hidden)
	assert.Equal(t, "cl", offered(c), "prices are not seen, and not offered")
	c = shownAs[page.Chart](l, ines, "dear", "dear.by=cl")
	assert.Equal(t, "Dacrondacron; 2", groupsOf(c)+"; "+texts(c.Series[0].Values))
	assert.Empty(t, c.Step)
	c = shownAs[page.Chart](l, ines, "dear", "dear.by=price")
	assert.True(t, c.Hidden)
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

// TestWhatIsBehindAGroupIsRead reads the records of pieces of charts: those that are counted there, and no others.
func TestWhatIsBehindAGroupIsRead(t *testing.T) {
	l := acttest.NewLoft(t, append(chartChanges(), block("all", "named", "chart", `,"table":"sail","by":"name","most":2`),
		block("all", "gr", "chart", `,"table":"sail","by":"price","bys":["cut","cl","name"],"most":2`))...)
	l.Add("sail", map[string]any{"name": "Odd, {one}", "area": "20", "price": "450", "owner": l.People["Ines"]})
	cuts(l, map[string]string{"Genoa": "2026-04-30", "Jib": "2026-05-01", "Spinnaker": "2026-05-02"})
	behind := func(seat *records.Seat, id, asks string, keys ...string) (string, *page.Behind) {
		v, err := page.Open(t.Context(), l.Road(), seat, "my-sails", "")
		require.NoError(t, err)
		values, err := url.ParseQuery(asks)
		require.NoError(t, err)
		v.Asks = page.Asks(values)
		var piece page.Piece
		switch {
		case len(keys) > 0 && keys[0] == "others":
			piece.Others = true
		case len(keys) > 0:
			piece.Group = &keys[0]
		}
		if len(keys) > 1 {
			piece.Part = &keys[1]
		}
		b, err := v.Behind(t.Context(), id, piece)
		if errors.Is(err, store.ErrNotFound) {
			return "none", nil
		}
		require.NoError(t, err)
		assert.Equal(t, len(b.Rows), b.Count)
		var names []string
		for _, r := range b.Rows {
			names = append(names, fmt.Sprint(r["label"]))
		}
		slices.Sort(names)
		return strings.Join(names, "; "), b
	}
	founder, ines := l.Founder(), l.Member("Ines")
	for _, c := range []struct {
		seat     *records.Seat
		id, asks string
		keys     []string
		want     string
	}{
		{founder, "ch", "", nil, "Genoa; Jib; Odd, {one}; Spinnaker"},
		{founder, "ch", "", []string{"dacron"}, "Genoa; Jib; Spinnaker"},
		{founder, "ch", "", []string{""}, "Odd, {one}"},
		{ines, "ch", "", []string{"dacron"}, "Genoa; Jib"},
		{founder, "ch", "", []string{"silk"}, "none"},
		{founder, "ch", "", []string{"dacron,laminate"}, "none"},
		{ines, "priced", "", []string{"400"}, "none"},
		{founder, "priced", "", []string{"400"}, "Genoa; Jib; Odd, {one}; Spinnaker"},
		{founder, "priced", "", []string{"500"}, ""},
		{founder, "priced", "", []string{"x"}, "none"},
		{ines, "days", "", nil, "Genoa; Jib"},
		{ines, "days", "", []string{"2026-05-01"}, "Jib"},
		{ines, "days", "", []string{"2026-05-02"}, "none"}, // on which no month begins
		{ines, "days", "days.days=2026-04-29..2026-05-01&days.unit=day", []string{"2026-04-30"}, "Genoa"},
		{ines, "days", "days.days=2026-05-01..2026-05-01", []string{"2026-04-30"}, ""},
		{ines, "fig", "", nil, "Jib"},
		{founder, "parted", "", []string{l.People["Ines"], "dacron"}, "Genoa; Jib"},
		{founder, "parted", "", []string{l.People["Ines"], ""}, "Odd, {one}"},
		{founder, "parted", "", []string{"others"}, "Spinnaker"},
		{ines, "parted", "", []string{"others"}, "none"}, // hers are all that she sees
		{founder, "parted", "", []string{"others", "laminate"}, ""},
		{founder, "named", "", []string{"others"}, "Odd, {one}; Spinnaker"},
		{founder, "named", "", []string{"Genoa"}, "Genoa"},
		{ines, "named", "", []string{"others"}, "Odd, {one}"},
		{founder, "gr", "gr.by=cut", []string{"2026-05-01"}, "Jib; Spinnaker"},
		{founder, "gr", "gr.by=cut&gr.unit=day", []string{"2026-05-01"}, "Jib"},
		{founder, "gr", "gr.by=name", []string{"others"}, "Odd, {one}; Spinnaker"},
		{founder, "gr", "gr.by=owner", []string{l.People["Ines"]}, "none"}, // which is not offered
		{ines, "gr", "", []string{"400"}, "none"},
		{ines, "gr", "gr.by=price", []string{"400"}, "none"},
		{ines, "gr", "gr.by=cl", []string{"dacron"}, "Genoa; Jib"},
		{ines, "gr", "gr.by=cl", []string{"400"}, "none"},
		{founder, "ch", "", []string{"others"}, "none"}, // of cloths nothing is left
		{founder, "fig", "", []string{"others"}, "none"},
		{founder, "list", "", nil, "none"},
		{founder, "nothing", "", nil, "none"},
	} {
		got, _ := behind(c.seat, c.id, c.asks, c.keys...)
		assert.Equal(t, c.want, got, "%s %s %v", c.id, c.asks, c.keys)
	}
	_, b := behind(founder, "ch", "", "dacron")
	assert.Equal(t, "sail", b.Open)
	require.Len(t, b.Columns, 3)
	assert.Equal(t, "Cloth Area Price", b.Columns[0].Name+" "+b.Columns[1].Name+" "+b.Columns[2].Name)
	_, b = behind(ines, "ch", "", "dacron")
	assert.Len(t, b.Columns, 2, "no prices")
}

// TestABarIsFollowed chooses days and cloths once: what follows the bar is of these, what has nothing alike says so, and
// nobody filters by what they do not see.
func TestABarIsFollowed(t *testing.T) {
	l := acttest.NewLoft(t,
		`{"kind":"add","what":"block","into":"all","id":"bar","values":{"kind":"bar","range":"this year","table":"sail","fields":["cl","owner"]}}`,
		`{"kind":"add","what":"block","into":"all","id":"ch","values":{"kind":"chart","table":"sail","by":"cl","date":"cut","bar":"bar"}}`,
		`{"kind":"add","what":"block","into":"all","id":"fig","values":{"kind":"figure","table":"sailor","bar":"bar"}}`,
		`{"kind":"add","what":"block","into":"all","id":"lst","values":{"kind":"records","table":"sail","bar":"bar","dated":"cut"}}`)
	l.Add("sail", map[string]any{"name": "Storm", "cl": "laminate", "area": "4", "price": "90", "owner": l.People["Tomas"]})
	cuts(l, map[string]string{"Genoa": "2026-04-30", "Jib": "2025-05-01", "Spinnaker": "2026-05-02", "Storm": "2026-01-01"})
	founder := l.Founder()
	founder.Clock = l.Member("Ines").Clock
	shown := func(asks string) string {
		c, f := shownAs[page.Chart](l, founder, "ch", asks), shownAs[page.Figure](l, founder, "fig", asks)
		list := shownAs[page.Records](l, founder, "lst", asks)
		return fmt.Sprintf("%s: %s; %s %v; %d", groupsOf(c), texts(c.Series[0].Values), texts(f.Values), f.Notes, len(list.Rows))
	}
	assert.Equal(t, "Dacrondacron, Laminatelaminate: 2 1; 3 []; 3", shown(""))
	assert.Equal(t, "Laminatelaminate: 1; 3 [It has no Cloth: all of it is shown.]; 1", shown("bar.is.cl=laminate"))
	assert.Equal(t, "Dacrondacron: 1; 3 []; 1", shown("bar.days=last-year"))
	assert.Equal(t, "Dacrondacron, Laminatelaminate: 3 1; 3 []; 4", shown("bar.days=all"))
	assert.Equal(t, "Dacrondacron: 1; 3 [It has no Cloth: all of it is shown. It has no Owner: all of it is shown.]; 1",
		shown("bar.days=all&bar.is.cl=dacron&bar.is.owner="+l.People["Tomas"]))
	assert.Equal(t, shown(""), shown("ch.days=last-year"), "what follows a bar has no days of its own")
	bar := shownAs[page.Bar](l, founder, "bar", "bar.days=x&bar.is.price=4&bar.is.cl=silk")
	assert.Len(t, bar.Notes, 2)
	assert.Equal(t, "this year", bar.Days.Range)
	require.Len(t, bar.Filters, 2)
	assert.Len(t, bar.Filters[1].Options, 3)

	ines := l.Member("Ines") // who sees her own sails, and no people
	assert.Empty(t, shownAs[page.Bar](l, ines, "bar", "").Filters[1].Options)
	c := shownAs[page.Chart](l, ines, "ch", "bar.days=all&bar.is.owner="+l.People["Ines"])
	assert.Empty(t, c.Groups, "who one does not see is not filtered by")
}

// TestTargetsAreOfTheSameDays aims at a number, and at what a table of targets says for each month; who does not see the
// targets is told of none.
func TestTargetsAreOfTheSameDays(t *testing.T) {
	l := acttest.NewLoft(t,
		`{"kind":"add","what":"table","id":"aim","values":{"name":"Aims","fields":[{"id":"aim_day","name":"For","type":"date"},
			{"id":"aim_n","name":"Sails","type":"number"}]}}`,
		`{"kind":"add","what":"block","into":"all","id":"ch","values":{"kind":"chart","table":"sail","by":"cut","date":"cut","range":"this quarter"}}`,
		`{"kind":"set","of":"ch_1","values":{"goal":"least","goals":"aim"}}`,
		`{"kind":"add","what":"measure","into":"ch","id":"m2","values":{"total":"sum","of":"area","name":"Area","goal":"most","at":"50"}}`,
		`{"kind":"add","what":"block","into":"all","id":"fig","values":{"kind":"figure","table":"sail","date":"cut","range":"this month"}}`,
		`{"kind":"set","of":"fig_1","values":{"goal":"least","goals":"aim"}}`)
	for day, n := range map[string]string{"2026-04-01": "5", "2026-05-01": "7", "2026-05-15": "1", "2027-01-01": "9"} {
		l.Add("aim", map[string]any{"aim_day": day, "aim_n": n})
	}
	l.Add("aim", map[string]any{"aim_n": "100"})
	founder := l.Founder()
	founder.Clock = l.Member("Ines").Clock
	c := shownAs[page.Chart](l, founder, "ch", "")
	assert.Equal(t, "5 8 –; 50 50 50", texts(c.Series[0].Goal)+"; "+texts(c.Series[1].Goal))
	f := shownAs[page.Figure](l, founder, "fig", "")
	assert.Equal(t, "least 8 30", fmt.Sprint(f.Measures[0].Goal.Kind, " ", *f.Measures[0].Goal.At, " ", f.Measures[0].Goal.Left))
	f = shownAs[page.Figure](l, l.Member("Ines"), "fig", "")
	assert.Nil(t, f.Measures[0].Goal.At)
	c = shownAs[page.Chart](l, l.Member("Ines"), "ch", "")
	assert.Equal(t, "– – –", texts(c.Series[0].Goal))
}

// TestTooManyGroupsAreCut draws the first of very many groups, and says so.
func TestTooManyGroupsAreCut(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"add","what":"block","into":"all","id":"ch","values":{"kind":"chart","table":"sail","by":"area"}}`)
	require.NoError(t, l.Store.DB.Exec(fmt.Sprintf(`INSERT INTO "%s".sails (id, name, area, created_by, changed_by)
		SELECT gen_random_uuid(), 'Small', n, 'x', 'x' FROM generate_series(1, 6000) n`, apps.SchemaName(l.App, apps.Draft))).Error)
	c := shownAs[page.Chart](l, l.Founder(), "ch", "")
	require.Len(t, c.Groups, 1000)
	assert.Len(t, c.Series[0].Values, 1000)
	assert.Equal(t, "1", c.Groups[0].Key)
	assert.Len(t, c.Notes, 1)
	assert.Equal(t, "6003", *c.Whole[0], "all are counted all the same")
}
