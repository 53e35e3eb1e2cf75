package records_test

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// uniqueNames is a loft in which no two sails have the same name.
const uniqueNames = `{"kind":"set","of":"name","values":{"unique":true,"required":true}}`

// bulk makes several writes to the sails in one unit.
func bulk(l *acttest.Loft, seat *records.Seat, edits ...records.Edit) error {
	return l.Acts.EditMany(l.T.Context(), l.App, seat, func(u *act.Unit) ([]*records.Write, string, error) {
		writes, err := u.Road.Bulk(l.T.Context(), seat, seat.Blueprint.Table("sail"), edits)
		return writes, "test", err
	})
}

// row reads a record as somebody sees it.
func row(l *acttest.Loft, seat *records.Seat, table, id string) map[string]any {
	l.T.Helper()
	raw, err := l.Road().Get(l.T.Context(), seat, seat.Blueprint.Table(table), id)
	require.NoError(l.T, err)
	out := map[string]any{}
	require.NoError(l.T, json.Unmarshal(raw, &out))
	return out
}

// names lists the labels of a table as somebody sees them.
func names(l *acttest.Loft, seat *records.Seat, table string) []string {
	l.T.Helper()
	keys, err := l.Road().Keys(l.T.Context(), seat, seat.Blueprint.Table(table), "", 100)
	require.NoError(l.T, err)
	return keys
}

func TestSeveralWritesAreMadeTogether(t *testing.T) {
	l := acttest.NewLoft(t)
	seat := l.Founder()
	require.NoError(t, bulk(l, seat,
		records.Edit{Values: acttest.Values(t, map[string]any{"name": "Drifter"}),
			Texts: map[string]string{"cl": "laminate", "owner": "Ruth"}},
		records.Edit{Record: l.Sails["Genoa"], Revision: 1, Texts: map[string]string{"area": "1 250.5"}},
		records.Edit{Record: l.Sails["Jib"], Revision: 1, Delete: true}))
	assert.ElementsMatch(t, []string{"Genoa", "Spinnaker", "Drifter"}, names(l, seat, "sail"))
}

// TestValuesWinOverTexts enters both for the same field.
func TestValuesWinOverTexts(t *testing.T) {
	l := acttest.NewLoft(t)
	require.NoError(t, bulk(l, l.Founder(), records.Edit{Record: l.Sails["Genoa"], Revision: 1,
		Values: acttest.Values(t, map[string]any{"name": "Value"}), Texts: map[string]string{"name": "Text"}}))
	assert.Equal(t, "Value", row(l, l.Founder(), "sail", l.Sails["Genoa"])["name"])
}

// TestAllThatIsWrongIsToldAtOnce makes several writes of which one is right, and finds
// everything as it was.
func TestAllThatIsWrongIsToldAtOnce(t *testing.T) {
	l := acttest.NewLoft(t, uniqueNames)
	seat := l.Founder()
	genoa, jib := l.Sails["Genoa"], l.Sails["Jib"]
	err := bulk(l, seat,
		records.Edit{Record: genoa, Revision: 1, Values: acttest.Values(t, map[string]any{"area": "much"})},
		records.Edit{Record: jib, Revision: 7, Values: acttest.Values(t, map[string]any{"area": "1"})},
		records.Edit{Record: "0190a4a0-0000-7000-8000-000000000000", Revision: 1, Delete: true},
		records.Edit{Texts: map[string]string{"name": "Blade", "cl": "Paper"}},
		records.Edit{Values: acttest.Values(t, map[string]any{"area": "3"})},
		records.Edit{Values: acttest.Values(t, map[string]any{"name": "Right"})},
		records.Edit{Texts: map[string]string{"elsewhere": "x"}})
	var wrong records.BulkErrors
	require.ErrorAs(t, err, &wrong)
	type place struct {
		row   int
		field string
	}
	told := map[place]string{}
	for _, m := range wrong {
		told[place{m.Row, m.Field}] = m.Message
	}
	assert.Contains(t, told[place{0, "area"}], "number")
	assert.Equal(t, words.Say("record-changed", nil), told[place{1, ""}])
	assert.Equal(t, words.Say("gone", words.Args{"thing": "record"}), told[place{2, ""}])
	assert.Contains(t, told[place{3, "cl"}], "Paper")
	assert.NotEmpty(t, told[place{4, "name"}], "a name is needed")
	assert.Equal(t, words.Say("no-such-field", nil), told[place{6, "elsewhere"}])
	assert.Len(t, told, 6)
	assert.ElementsMatch(t, []string{"Genoa", "Jib", "Spinnaker"}, names(l, seat, "sail"))
	assert.Contains(t, wrong.Error(), "6 writes")
}

// TestTwoWithTheSameNameAreTold breaks off at what the database refuses, since nothing
// can be asked of it afterwards.
func TestTwoWithTheSameNameAreTold(t *testing.T) {
	l := acttest.NewLoft(t, uniqueNames)
	err := bulk(l, l.Founder(),
		records.Edit{Values: acttest.Values(t, map[string]any{"name": "Blade"})},
		records.Edit{Values: acttest.Values(t, map[string]any{"name": "Blade"})},
		records.Edit{Values: acttest.Values(t, map[string]any{"name": "Never reached"})})
	var wrong records.BulkErrors
	require.ErrorAs(t, err, &wrong)
	require.Len(t, wrong, 1)
	assert.Equal(t, 1, wrong[0].Row)
	assert.Equal(t, "name", wrong[0].Field)
	assert.NotContains(t, names(l, l.Founder(), "sail"), "Blade")
}

func TestTooManyWritesAreRefused(t *testing.T) {
	l := acttest.NewLoft(t)
	var p *words.Problem
	require.ErrorAs(t, bulk(l, l.Founder(), make([]records.Edit, records.MostEdits+1)...), &p)
	assert.Equal(t, "bulk-many", p.Code)
}

// TestNobodyWritesWhatTheyMayNot makes several writes as a member, who may see her own
// sails and change none, and as a visitor.
func TestNobodyWritesWhatTheyMayNot(t *testing.T) {
	l := acttest.NewLoft(t)
	for name, hers := range map[string]string{"Ines": words.Say("not-allowed", nil),
		"visitor": words.Say("gone", words.Args{"thing": "record"})} {
		seat := l.Member(name)
		err := bulk(l, seat,
			records.Edit{Record: l.Sails["Genoa"], Revision: 1, Values: acttest.Values(t, map[string]any{"area": "1"})},
			records.Edit{Record: l.Sails["Spinnaker"], Revision: 1, Delete: true},
			records.Edit{Values: acttest.Values(t, map[string]any{"name": "New"})})
		var wrong records.BulkErrors
		require.ErrorAs(t, err, &wrong, name)
		var told []string
		for _, m := range wrong {
			told = append(told, m.Message)
		}
		assert.Equal(t, []string{hers, words.Say("gone", words.Args{"thing": "record"}), words.Say("not-allowed", nil)}, told, name)
	}
	assert.Equal(t, 3, l.Count(l.Founder(), "sail"))
}

// TestTextsAreReadAsTheyAreShown enters what stands in a grid.
func TestTextsAreReadAsTheyAreShown(t *testing.T) {
	l := acttest.NewLoft(t,
		`{"kind":"add","what":"field","into":"sail","id":"cloths","values":{"name":"Cloths","type":"several choices","list":"cloth"}}`,
		`{"kind":"add","what":"field","into":"sail","id":"crew","values":{"name":"Crew","type":"links","target":"sailor","back":"Crews","backId":"crews"}}`)
	l.Add("sailor", map[string]any{"s_name": "Twin"})
	l.Add("sailor", map[string]any{"s_name": "Twin"})
	seat := l.Founder()
	for name, c := range map[string]struct {
		field, text string
		want        string // as JSON
		wrong       string // a code
	}{
		"nothing":                  {"name", "  ", `null`, ""},
		"text":                     {"name", " Genoa ", `"Genoa"`, ""},
		"a number with spaces":     {"area", "1 250", `"1250"`, ""},
		"no number":                {"area", "big", "", "read-number"},
		"a day of the standard":    {"cut", "2026-05-01", `"2026-05-01"`, ""},
		"a day with a month":       {"cut", "1 May 2026", `"2026-05-01"`, ""},
		"a day with a full month":  {"cut", "1 September 2026", `"2026-09-01"`, ""},
		"a day after its month":    {"cut", "May 1, 2026", `"2026-05-01"`, ""},
		"a day with dots":          {"cut", "01.05.2026", `"2026-05-01"`, ""},
		"no day":                   {"cut", "31.02.2026", "", "read-date"},
		"a choice":                 {"cl", "DACRON", `"dacron"`, ""},
		"no choice":                {"cl", "Paper", "", "not-in-list"},
		"several choices":          {"cloths", "Laminate, dacron", `["laminate","dacron"]`, ""},
		"one of them is none":      {"cloths", "Laminate, Paper", "", "not-in-list"},
		"a record":                 {"owner", "ines", `"` + l.People["Ines"] + `"`, ""},
		"no record":                {"owner", "Nobody", "", "no-record-named"},
		"more than one":            {"owner", "Twin", "", "several-named"},
		"several records":          {"crew", "Ines,Tomas", `["` + l.People["Ines"] + `","` + l.People["Tomas"] + `"]`, ""},
		"one of them is not there": {"crew", "Ines, Nobody", "", "no-record-named"},
	} {
		values, wrong, err := l.Road().ReadTexts(t.Context(), seat, seat.Blueprint.Table("sail"), map[string]string{c.field: c.text})
		require.NoError(t, err, name)
		if c.wrong != "" {
			require.Contains(t, wrong, c.field, name)
			assert.Equal(t, c.wrong, wrong[c.field].Code, name)
			continue
		}
		require.Empty(t, wrong, name)
		assert.JSONEq(t, c.want, string(values[c.field]), name)
	}
}

// TestNamesOfHiddenRecordsAreNotThere looks for a record that the person does not see.
func TestNamesOfHiddenRecordsAreNotThere(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"r.sailor","values":{"see":{"extent":"where","condition":"this = me"}}}`)
	seat := l.Member("Ines")
	read := func(name string) (records.Values, records.FieldErrors) {
		values, wrong, err := l.Road().ReadTexts(t.Context(), seat, seat.Blueprint.Table("sail"), map[string]string{"owner": name})
		require.NoError(t, err)
		return values, wrong
	}
	values, wrong := read("Ines")
	require.Empty(t, wrong)
	assert.JSONEq(t, `"`+l.People["Ines"]+`"`, string(values["owner"]))
	_, there := read("Tomas")
	_, never := read("Nobody")
	assert.Equal(t, never["owner"].Code, there["owner"].Code, "the answer does not tell that there is one")
}

// TestANameIsEnoughForARecord adds what a link should lead to.
func TestANameIsEnoughForARecord(t *testing.T) {
	l := acttest.NewLoft(t)
	named := func(seat *records.Seat, table, name string) (*records.Write, error) {
		return l.Acts.Edit(t.Context(), l.App, seat, "test", func(u *act.Unit) (*records.Write, error) {
			return u.Road.AddNamed(t.Context(), seat, seat.Blueprint.Table(table), name)
		})
	}
	w, err := named(l.Founder(), "sailor", "Mo")
	require.NoError(t, err)
	assert.Equal(t, "Mo", row(l, l.Founder(), "sailor", w.Record)["s_name"])
	_, err = named(l.Member("Ines"), "sailor", "Mo")
	require.ErrorIs(t, err, records.ErrForbidden)

	_, err = l.Acts.Apply(t.Context(), l.App.ID, "Ann", change(t, `{"kind":"set","of":"s_mail","values":{"required":true}}`))
	require.NoError(t, err)
	_, err = named(l.Founder(), "sailor", "Lu")
	var p *words.Problem
	require.ErrorAs(t, err, &p)
	assert.Equal(t, "link-needs-more", p.Code)
	assert.NotContains(t, names(l, l.Founder(), "sailor"), "Lu")
}

// TestKeysAreWhatSomebodySees reads what stands in a field, by which records that are
// brought find theirs.
func TestKeysAreWhatSomebodySees(t *testing.T) {
	l := acttest.NewLoft(t)
	sail := func(seat *records.Seat) []records.Keyed {
		keys, err := l.Road().KeyedIDs(t.Context(), seat, seat.Blueprint.Table("sail"), "name")
		require.NoError(t, err)
		return keys
	}
	l.Add("sail", map[string]any{"area": "1"})
	assert.ElementsMatch(t, []records.Keyed{{ID: l.Sails["Genoa"], Key: "Genoa"}, {ID: l.Sails["Jib"], Key: "Jib"},
		{ID: l.Sails["Spinnaker"], Key: "Spinnaker"}}, sail(l.Founder()), "one without a name is left out")
	assert.ElementsMatch(t, []records.Keyed{{ID: l.Sails["Genoa"], Key: "Genoa"}, {ID: l.Sails["Jib"], Key: "Jib"}},
		sail(l.Member("Ines")))
	assert.Empty(t, sail(l.Member("visitor")))
	two, err := l.Road().Keys(t.Context(), l.Founder(), l.Blueprint().Table("sail"), "name", 2)
	require.NoError(t, err)
	assert.Len(t, two, 2)
	prices, err := l.Road().Keys(t.Context(), l.Member("Ines"), l.Blueprint().Table("sail"), "price", 2)
	require.NoError(t, err)
	assert.Empty(t, prices, "the price is hidden from her")
}

// TestPutAddsOrChanges brings records by texts.
func TestPutAddsOrChanges(t *testing.T) {
	l := acttest.NewLoft(t)
	ctx, seat := t.Context(), l.Founder()
	put := func(id string, texts map[string]string) error {
		return l.Acts.Do(ctx, func(u *act.Unit) error { return u.Road.Put(ctx, seat, seat.Blueprint.Table("sail"), id, texts, nil) })
	}
	require.NoError(t, put("", map[string]string{"name": "Code zero", "cl": "Laminate"}))
	require.NoError(t, put(l.Sails["Jib"], map[string]string{"cut": "1.5.2026"}))
	assert.Equal(t, "2026-05-01", row(l, seat, "sail", l.Sails["Jib"])["cut"])
	assert.Contains(t, names(l, seat, "sail"), "Code zero")
	var wrong records.FieldErrors
	require.ErrorAs(t, put("", map[string]string{"cl": "Paper"}), &wrong)
	assert.Equal(t, "not-in-list", wrong["cl"].Code)
	require.ErrorIs(t, put("0190a4a0-0000-7000-8000-000000000000", map[string]string{"name": "x"}), store.ErrNotFound)
}

// TestLabelsOfLinksAreParted gives the labels of all records at a field of many.
func TestLabelsOfLinksAreParted(t *testing.T) {
	l := acttest.NewLoft(t)
	labels := func(seat *records.Seat, person string) string {
		all := seat.Catalog.Tables["sailor"].Fields
		f := all[slices.IndexFunc(all, func(f *expr.Field) bool { return f.ID == "s_sails" })]
		text, err := l.Road().LinkedLabels(t.Context(), seat, seat.Blueprint.Table("sailor"), f, l.People[person])
		require.NoError(t, err)
		return text
	}
	assert.Contains(t, []string{"Genoa, Jib", "Jib, Genoa"}, labels(l.Founder(), "Ines"))
	assert.Empty(t, labels(l.Founder(), "Ruth"))
	assert.Empty(t, labels(l.Member("Ines"), "Tomas"), "she does not see his sails")
}
