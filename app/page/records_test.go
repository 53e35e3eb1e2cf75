package page_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act/acttest"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/store/records"
)

// sailing is a loft whose list has no condition, and is set so.
func sailing(t *testing.T, values string) *acttest.Loft {
	return acttest.NewLoft(t, `{"kind":"set","of":"list","values":{"filter":null,"sort":"name","falling":null,"columns":["name","price","cl"]}}`,
		`{"kind":"set","of":"list","values":`+values+`}`)
}

func notes(list map[string]any) []any { return list["notes"].([]any) }

// TestAListIsAskedOnlyAboutWhatItShows sorts, filters and searches by fields that are not
// offered, or hidden, and by values that there are not.
func TestAListIsAskedOnlyAboutWhatItShows(t *testing.T) {
	l := sailing(t, `{"filters":["cl","price","owner","cut"]}`)
	for _, asks := range []string{"list.by=price", "list.by=area", "list.by=gone", "list.is.price=400..", "list.is.price=400",
		"list.is.area=1..", "list.is.cl=gone", "list.is.cl=dacron%27", "list.is.owner=x", "list.is.cut=2026-13-01..", "list.is.cut=a..b",
		"list.is.cut=..", "list.is.cut=0000-01-01..", "list.day=0001-01-01", "list.day=9999-12-31",
		"list.as=board", "list.as=x", "list.day=2026-02-30"} {
		got := asked(t, l, l.Member("Ines"), "my-sails", "", asks)["list"]
		assert.Len(t, notes(got), 1, asks)
		assert.Equal(t, []string{"Genoa", "Jib"}, names(got["rows"]), asks)
	}
	got := asked(t, l, l.Member("Ines"), "my-sails", "", "list.find=geno&list.by=-name&list.is.cl=dacron")["list"]
	assert.Empty(t, notes(got))
	assert.Equal(t, []string{"Genoa"}, names(got["rows"]))
	assert.Equal(t, true, got["falling"])
	assert.Empty(t, names(asked(t, l, l.Member("Ines"), "my-sails", "", "list.find=400")["list"]["rows"]), "what is hidden is not searched")
	offered := []string{}
	for _, f := range got["filters"].([]any) {
		offered = append(offered, f.(map[string]any)["column"].(map[string]any)["id"].(string))
	}
	assert.Equal(t, []string{"cl", "owner", "cut"}, offered, "nobody filters by what is hidden from them")
}

func TestAListIsNarrowed(t *testing.T) {
	l := sailing(t, `{"filters":["cl","price","owner","cut","area"]}`)
	l.Add("sail", map[string]any{"name": "Storm jib", "cl": "laminate", "area": "6.5", "cut": "2026-04-30", "owner": l.People["Ruth"]})
	l.Add("sail", map[string]any{"name": "Trysail", "area": "9"})
	for asks, want := range map[string][]string{
		"list.is.cl=laminate":                                 {"Storm jib"},
		"list.is.cl=laminate,-":                               {"Storm jib", "Trysail"},
		"list.is.cl=-":                                        {"Trysail"},
		"list.is.area=6.5..9":                                 {"Storm jib", "Trysail"},
		"list.is.area=..6.4":                                  {},
		"list.is.cut=2026-04-30..2026-04-30":                  {"Storm jib"},
		"list.is.cut=2026-05-01..":                            {},
		"list.is.price=..400":                                 {"Genoa", "Jib", "Spinnaker"},
		"list.is.owner=" + l.People["Tomas"]:                  {"Spinnaker"},
		"list.is.owner=" + l.People["Tomas"] + ",-":           {"Spinnaker", "Trysail"},
		"list.is.cl=laminate&list.is.area=7..":                {},
		"list.is.cl=dacron&list.is.owner=" + l.People["Ruth"]: {},
	} {
		got := asked(t, l, l.Founder(), "my-sails", "", asks)["list"]
		assert.Empty(t, notes(got), asks)
		assert.Equal(t, want, names(got["rows"]), asks)
	}
}

// TestHiddenLinksAreNotFilteredBy holds that whoever does not see a person does not learn
// by a filter whose a sail is.
func TestHiddenLinksAreNotFilteredBy(t *testing.T) {
	l := sailing(t, `{"filters":["owner"]}`)
	seat := l.Member("Ines") // no rule shows her any sailor
	assert.Empty(t, names(asked(t, l, seat, "my-sails", "", "list.is.owner="+l.People["Ines"])["list"]["rows"]))
	assert.Len(t, names(asked(t, l, seat, "my-sails", "", "list.is.owner=-")["list"]["rows"]), 2)
}

func TestABoard(t *testing.T) {
	l := sailing(t, `{"ways":["board","table"],"totals":["area","price"],"size":1}`)
	l.Add("sail", map[string]any{"name": "Trysail", "area": "9"})
	got := blocks(t, l, l.Founder(), "my-sails", "")["list"]
	assert.Equal(t, "board", got["as"])
	board := got["board"].(map[string]any)
	assert.Equal(t, "cl", board["field"])
	said := []string{}
	for _, c := range board["columns"].([]any) {
		c := c.(map[string]any)
		said = append(said, fmt.Sprint(c["label"], " ", c["count"], " ", c["sums"], " ", names(c["rows"]), " ", c["next"] != ""))
	}
	assert.Equal(t, []string{"Dacron 3 map[area:60 price:1200] [Genoa] true", "Laminate 0 map[] [] false",
		" 1 map[area:9] [Trysail] false"}, said)
	assert.Equal(t, []any{"cl"}, got["moves"])
	assert.Empty(t, got["edits"])
	v, err := page.Open(t.Context(), l.Road(), l.Founder(), "my-sails", "")
	require.NoError(t, err)
	_, x, err := page.At[*blueprint.RecordsBlock](v, "list")
	require.NoError(t, err)
	next := board["columns"].([]any)[0].(map[string]any)["next"].(string)
	more, err := v.More(t.Context(), x, next, "dacron")
	require.NoError(t, err)
	assert.Equal(t, "Jib", more.Rows[0]["name"])
	_, err = v.More(t.Context(), x, "", "gone")
	var told *words.Problem
	require.ErrorAs(t, err, &told)
	assert.Equal(t, "no-such-column", told.Code)

	_, err = l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Setting("dacron", "retired", true))
	require.NoError(t, err)
	retired := blocks(t, l, l.Founder(), "my-sails", "")["list"]["board"].(map[string]any)["columns"].([]any)
	assert.Equal(t, "Dacron", retired[0].(map[string]any)["label"], "records keep a choice that is not offered any more, and their column")

	seat := l.Member("Ines")
	mine := blocks(t, l, seat, "my-sails", "")["list"]["board"].(map[string]any)["columns"].([]any)[0].(map[string]any)
	assert.EqualValues(t, 2, mine["count"], "others are not counted")
	assert.Equal(t, map[string]any{"area": "40"}, mine["sums"], "what is hidden is not summed")
	_, err = l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Permit("r", "sail", "hidden", []string{"price", "cl"}))
	require.NoError(t, err)
	_, err = l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Setting("list", "size", nil))
	require.NoError(t, err)
	hidden := blocks(t, l, l.Member("Ines"), "my-sails", "")["list"]
	assert.Equal(t, "table", hidden["as"])
	assert.Nil(t, hidden["board"], "nobody gets a board by what is hidden")
	assert.Equal(t, []string{"Genoa", "Jib"}, names(hidden["rows"]))
	assert.NotContains(t, fmt.Sprint(hidden), "dacron")
}

func TestACalendar(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"list","values":{"filter":null,"columns":["name"],"ways":["calendar"]}}`,
		`{"kind":"add","what":"field","into":"sail","id":"until","values":{"name":"Until","type":"date"}}`,
		`{"kind":"set","of":"list","values":{"until":"until"}}`)
	for name, days := range map[string][2]string{"Before": {"2026-04-26", ""}, "First": {"2026-04-27", ""}, "Last": {"2026-05-31", ""},
		"After": {"2026-06-01", ""}, "Into": {"2026-04-01", "2026-04-27"}, "Gone": {"2026-04-01", "2026-04-26"},
		"Through":   {"2026-01-01", "2027-01-01"},
		"Backwards": {"2026-05-10", "2026-05-01"}} {
		values := map[string]any{"name": name, "cut": days[0]}
		if days[1] != "" {
			values["until"] = days[1]
		}
		l.Add("sail", values)
	}
	seat := l.Founder()
	seat.Clock = l.Member("Ines").Clock // the first of May
	got := blocks(t, l, seat, "my-sails", "")["list"]
	calendar := got["calendar"].(map[string]any)
	assert.Equal(t, "2026-04-27 2026-05-31 2026-05-01 month", fmt.Sprint(calendar["first"], " ", calendar["last"], " ",
		calendar["day"], " ",
		calendar["span"]), "whole weeks, from Monday, around the month of today")
	assert.Equal(t, []string{"Through", "Into", "First", "Backwards", "Last"}, names(got["rows"]))
	v, err := page.Open(t.Context(), l.Road(), seat, "my-sails", "")
	require.NoError(t, err)
	_, x, err := page.At[*blueprint.RecordsBlock](v, "list")
	require.NoError(t, err)
	more, err := v.More(t.Context(), x, "", "")
	require.NoError(t, err)
	assert.Len(t, more.Rows, 5, "what is read on is on these days, too")
	_, err = l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Setting("app", "look.region", "en-US"))
	require.NoError(t, err)
	american := l.Founder()
	american.Clock = seat.Clock
	calendar = blocks(t, l, american, "my-sails", "")["list"]["calendar"].(map[string]any)
	assert.Equal(t, "2026-04-26", calendar["first"], "weeks begin on Sunday there")
	for asks, want := range map[string][]string{
		"list.span=day&list.day=2026-05-31":    {"Through", "Last"},
		"list.span=week&list.day=2026-06-03":   {"Through", "After"},
		"list.span=agenda&list.day=2026-05-05": {"Through", "Backwards", "Last", "After"},
		"list.span=x&list.day=2026-06-30":      {"Through", "After"},
	} {
		assert.Equal(t, want, names(asked(t, l, seat, "my-sails", "", asks)["list"]["rows"]), asks)
	}
}

func TestGroupsHaveTotals(t *testing.T) {
	l := sailing(t, `{"group":"cl","totals":["area"],"sort":"name"}`)
	l.Add("sail", map[string]any{"name": "Ace", "cl": "laminate", "area": "1.5"})
	got := blocks(t, l, l.Founder(), "my-sails", "")["list"]
	assert.Equal(t, []string{"Genoa", "Jib", "Spinnaker", "Ace"}, names(got["rows"]), "in the order of the list of choices")
	assert.Equal(t, "cl", got["group"])
	said := []string{}
	for _, x := range got["totals"].([]any) {
		x := x.(map[string]any)
		said = append(said, fmt.Sprint(x["value"], " ", x["count"], " ", x["sums"]))
	}
	assert.Equal(t, []string{"dacron 3 map[area:60]", "laminate 1 map[area:1.5]"}, said)
	_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Permit("r", "sail", "hidden", []string{"price", "cl"}))
	require.NoError(t, err)
	mine := blocks(t, l, l.Member("Ines"), "my-sails", "")["list"]
	assert.Nil(t, mine["group"])
	assert.Equal(t, []any{map[string]any{"value": "", "label": "", "count": 2.0, "sums": map[string]any{"area": "40"}}}, mine["totals"])
}

// TestBlocksAreShownWhen holds that what a condition leaves out is not sent, whatever it
// holds itself, and that all others get their own.
func TestBlocksAreShownWhen(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"add","what":"block","into":"all","id":"g","values":{"kind":"group","look":"card","title":"Of {{ me.name }}"}}`,
		`{"kind":"add","what":"block","into":"g","id":"inner","values":{"kind":"text","text":"Within"}}`,
		`{"kind":"add","what":"block","into":"g","id":"deep","values":{"kind":"group"}}`,
		`{"kind":"move","of":"list","into":"deep","to":0}`,
		`{"kind":"add","what":"block","into":"all","id":"after","values":{"kind":"text","text":"Behind {{ me.name }}"}}`,
		`{"kind":"set","of":"g","values":{"when":"me.name = \"Ines\"","width":"half","tone":"quiet"}}`)
	_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Permit("r", "sailor", "see", map[string]string{"extent": "all"}))
	require.NoError(t, err)
	got := blocks(t, l, l.Member("Ines"), "my-sails", "")
	assert.Equal(t, "Of Ines", got["g"]["title"])
	assert.Equal(t, "half quiet card", fmt.Sprint(got["g"]["width"], " ", got["g"]["tone"], " ", got["g"]["look"]))
	assert.Equal(t, "Within", got["inner"]["text"])
	assert.Len(t, got["list"]["rows"], 2)
	assert.Equal(t, "Behind Ines", got["after"]["text"])
	got = blocks(t, l, l.Member("Tomas"), "my-sails", "")
	for _, id := range []string{"g", "inner", "deep", "list"} {
		assert.Nil(t, got[id], id)
	}
	assert.Equal(t, "Behind Tomas", got["after"]["text"])
}

// TestRowsHoldBlocks shows blocks in each row, with what each person sees of its record.
func TestRowsHoldBlocks(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"list","values":{"filter":null,"sort":"name","falling":null,"size":1,"unfold":"one"}}`,
		`{"kind":"add","what":"block","into":"list","id":"group","values":{"kind":"group","title":"{{ name }}: {{ price }}"}}`,
		`{"kind":"add","what":"block","into":"group","id":"go","values":{"kind":"button","text":"Open {{ name }}","page":"one","when":"name <> \"Jib\""}}`,
		`{"kind":"add","what":"block","into":"list","id":"home","values":{"kind":"button","text":"Home","page":"n1","when":"name = \"Genoa\""}}`,
		`{"kind":"add","what":"block","into":"all","id":"after","values":{"kind":"text","text":"Behind"}}`)
	got := blocks(t, l, l.Member("Ines"), "my-sails", "")
	list := got["list"]
	row := list["rows"].([]any)[0].(map[string]any)
	assert.Equal(t, "Genoa", row["name"])
	assert.NotContains(t, row, "~texts")
	inside := list["inside"].(map[string]any)[row["id"].(string)].([]any)
	group := inside[0].(map[string]any)
	assert.Equal(t, "Genoa:", strings.TrimSpace(group["title"].(string)), "what is hidden is not said in rows")
	button := group["blocks"].([]any)[0].(map[string]any)
	assert.Equal(t, "Open Genoa", button["text"])
	assert.Equal(t, map[string]any{"path": "sail", "record": row["id"]}, button["to"])
	assert.Len(t, inside, 2, "of the blocks in it each has its own condition")
	assert.Equal(t, "sail", list["unfold"])
	assert.Nil(t, got["go"], "they are not on the page")
	assert.Equal(t, "Behind", got["after"]["text"])

	v, err := page.Open(t.Context(), l.Road(), l.Member("Ines"), "my-sails", "")
	require.NoError(t, err)
	_, x, err := page.At[*blueprint.RecordsBlock](v, "list")
	require.NoError(t, err)
	more, err := v.More(t.Context(), x, list["next"].(string), "")
	require.NoError(t, err)
	id, _ := more.Rows[0]["id"].(string)
	assert.Empty(t, more.Inside[id][0].(*page.Group).Blocks, "the button is not there for the jib")
	assert.Len(t, more.Inside[id], 1)
	q, err := v.Selection(t.Context(), x)
	require.NoError(t, err)
	assert.Empty(t, q.Texts, "a file has the columns alone")

	founder := blocks(t, l, l.Founder(), "my-sails", "")["list"]
	for _, x := range founder["inside"].(map[string]any) {
		assert.Contains(t, x.([]any)[0].(map[string]any)["title"], "Genoa: 4")
	}
}

// TestABoardHasBlocksInItsCards shows them on a board, and not on a calendar.
func TestABoardHasBlocksInItsCards(t *testing.T) {
	l := sailing(t, `{"ways":["board","calendar"],"board":"cl","from":"cut"}`)
	_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann",
		blueprint.Adding("block", "list", "words", "kind", "text", "text", "Cut {{ cut_on }}"))
	require.NoError(t, err)
	board := asked(t, l, l.Founder(), "my-sails", "", "")["list"]
	assert.Len(t, board["inside"], 3)
	calendar := asked(t, l, l.Founder(), "my-sails", "", "list.as=calendar&list.day=2026-05-01")["list"]
	assert.Nil(t, calendar["inside"])
}

// TestRecordsAreToned gives records the first tone that fits, by what each person sees.
func TestRecordsAreToned(t *testing.T) {
	l := sailing(t, `{"tones":[{"field":"danger","value":"price > 0"},{"field":"good","value":"name = \"Jib\""}],"whole":true}`)
	tones := func(seat *records.Seat) map[string]any {
		got, _ := asked(t, l, seat, "my-sails", "", "")["list"]["tones"].(map[string]any)
		return got
	}
	assert.Equal(t, "danger", tones(l.Founder())[l.Sails["Jib"]])
	assert.Equal(t, map[string]any{l.Sails["Jib"]: "good"}, tones(l.Member("Ines")), "a hidden field colours nothing")
}

// TestRecordsHaveTheColourOfAChoice names the field for those who see it, also where it is no column.
func TestRecordsHaveTheColourOfAChoice(t *testing.T) {
	l := sailing(t, `{"columns":["name"],"tint":"cl"}`)
	for _, way := range []string{"table", "board", "cards"} {
		_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann",
			blueprint.Setting("list", "ways", []string{way}))
		require.NoError(t, err, way)
		got := blocks(t, l, l.Member("Ines"), "my-sails", "")["list"]
		require.Equal(t, way, got["as"])
		assert.Equal(t, "cl", got["tint"], way)
		assert.Equal(t, "cl", got["fields"].([]any)[0].(map[string]any)["id"], way)
	}
	_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Permit("r", "sail", "hidden", []string{"price", "cl"}))
	require.NoError(t, err)
	got := blocks(t, l, l.Member("Ines"), "my-sails", "")["list"]
	assert.Nil(t, got["tint"])
	assert.Empty(t, got["fields"])
	_, err = l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Setting("list", "tint", "name"))
	assert.ErrorContains(t, err, "the colour of its records", "texts have no colour")
}

// TestOrdersCountOneAfterTheOther sorts by three fields, and by what somebody asked for before those.
func TestOrdersCountOneAfterTheOther(t *testing.T) {
	l := sailing(t, `{"columns":["name"],"sort":"cl","then":"area","thenFalling":true,"last":"name","lastFalling":true}`)
	for _, name := range []string{"Asym", "Staysail", "Mizzen"} {
		l.Add("sail", map[string]any{"name": name, "cl": "laminate", "area": map[string]string{"Mizzen": "12"}[name]})
	}
	at := func(asks string) []string {
		return names(asked(t, l, l.Founder(), "my-sails", "", asks)["list"]["rows"])
	}
	assert.Equal(t, []string{"Mizzen", "Staysail", "Asym"}, at("")[3:])
	assert.Equal(t, []string{"Asym", "Genoa"}, at("list.by=name")[:2])
}

// TestColumnsAreShownWhen leaves columns out, their values, and their sums.
func TestColumnsAreShownWhen(t *testing.T) {
	l := sailing(t, `{"shown":[{"field":"cl","value":"me.name = \"Tomas\""}],"totals":["area"],"export":true}`)
	_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Permit("r", "sailor", "see", map[string]string{"extent": "all"}))
	require.NoError(t, err)
	for name, want := range map[string]int{"Ines": 1, "Tomas": 2} {
		seat := l.Member(name)
		list := asked(t, l, seat, "my-sails", "", "")["list"]
		assert.Len(t, list["columns"], want, name)
		_, there := list["rows"].([]any)[0].(map[string]any)["cl"]
		assert.Equal(t, want == 2, there, name)
		v, err := page.Open(t.Context(), l.Road(), seat, "my-sails", "")
		require.NoError(t, err)
		_, x, err := page.At[*blueprint.RecordsBlock](v, "list")
		require.NoError(t, err)
		q, err := v.Selection(t.Context(), x)
		require.NoError(t, err)
		assert.Len(t, q.Columns, want, name)
		more, err := v.More(t.Context(), x, "", "")
		require.NoError(t, err)
		assert.Len(t, more.Columns, want, name)
	}
}

// TestDetailsAreOfALinkedRecord shows the owner of a sail, to those who see owners.
func TestDetailsAreOfALinkedRecord(t *testing.T) {
	l := acttest.NewLoft(t,
		`{"kind":"add","what":"block","into":"one","id":"d","values":{"kind":"details","via":"owner","fields":["s_name","s_mail"],"edit":["s_name"],"title":"Of {{ name }}"}}`)
	details := func(seat *records.Seat) map[string]any { return blocks(t, l, seat, "sail", l.Sails["Jib"])["d"] }
	got := details(l.Founder())
	assert.Equal(t, "Of Jib", got["title"])
	assert.Equal(t, "Ines", got["row"].(map[string]any)["s_name"])
	assert.Equal(t, []any{"s_name"}, got["edits"])
	got = details(l.Member("Ines"))
	assert.Empty(t, got["row"], "she sees no sailor")
	assert.Empty(t, got["columns"])
	assert.Empty(t, got["edits"])

	v, err := page.Open(t.Context(), l.Road(), l.Founder(), "sail", l.Sails["Jib"])
	require.NoError(t, err)
	table, fields, err := v.Changes("d", l.People["Ines"])
	require.NoError(t, err)
	assert.Equal(t, "sailor", table.ID)
	assert.Equal(t, []string{"s_name"}, fields)
	for block, record := range map[string]string{"d": l.People["Tomas"], "one_2": l.Sails["Genoa"], "gone": l.Sails["Jib"]} {
		_, _, err = v.Changes(block, record)
		assert.Error(t, err, block)
	}
}

// TestABoardByALink has a column for each person, with cards read so many of each, and reads
// each on.
func TestABoardByALink(t *testing.T) {
	l := sailing(t, `{"ways":["board"],"board":"owner","size":1,"totals":["area"]}`)
	l.Add("sail", map[string]any{"name": "Trysail", "area": "9"})
	got := asked(t, l, l.Founder(), "my-sails", "", "")["list"]
	assert.Equal(t, []any{"owner"}, got["moves"])
	columns := map[string]map[string]any{}
	for _, c := range got["board"].(map[string]any)["columns"].([]any) {
		columns[c.(map[string]any)["label"].(string)] = c.(map[string]any)
	}
	assert.Len(t, columns, 4, "also who has none, and those of no one")
	assert.Equal(t, []string{"Genoa"}, names(columns["Ines"]["rows"]))
	assert.Equal(t, 2, int(columns["Ines"]["count"].(float64)))
	assert.Empty(t, names(columns["Ruth"]["rows"]))
	assert.Empty(t, columns["Ruth"]["next"])
	assert.Equal(t, []string{"Trysail"}, names(columns[""]["rows"]))
	assert.Equal(t, "40", columns["Ines"]["sums"].(map[string]any)["area"])
	v, err := page.Open(t.Context(), l.Road(), l.Founder(), "my-sails", "")
	require.NoError(t, err)
	_, x, err := page.At[*blueprint.RecordsBlock](v, "list")
	require.NoError(t, err)
	more, err := v.More(t.Context(), x, columns["Ines"]["next"].(string), l.People["Ines"])
	require.NoError(t, err)
	assert.Len(t, more.Rows, 1)
	assert.Equal(t, "Jib", more.Rows[0]["name"])

	mine := asked(t, l, l.Member("Ines"), "my-sails", "", "")["list"]["board"].(map[string]any)["columns"].([]any)
	assert.Len(t, mine, 1, "who sees no person sees none as a column")
	assert.Empty(t, mine[0].(map[string]any)["label"])
	assert.Equal(t, float64(2), mine[0].(map[string]any)["count"])
}

// TestGroupsOfHiddenRecordsAreOne holds that totals do not tell by whom records are parted
// that somebody does not see.
func TestGroupsOfHiddenRecordsAreOne(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"list","values":{"filter":null,"sort":"name","falling":null,"group":"owner","totals":["area"]}}`,
		`{"kind":"set","of":"r.sail","values":{"see":{"extent":"all"}}}`)
	totals := func(seat *records.Seat) []any { return asked(t, l, seat, "my-sails", "", "")["list"]["totals"].([]any) }
	assert.Len(t, totals(l.Founder()), 2)
	mine := totals(l.Member("Ines")) // she sees all sails and no sailor
	assert.Equal(t, []any{map[string]any{"value": "", "label": "", "count": float64(3), "sums": map[string]any{"area": "60"}}}, mine)
}
