package intake

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/words"
)

// TestNamesSpeakOfTables compares names of columns with those of tables.
func TestNamesSpeakOfTables(t *testing.T) {
	for _, c := range []struct {
		header, table, by string
		want              nearness
	}{
		{"Boat", "Boats", "Name", nearness{table: true}},
		{"boat_id", "Boats", "Id", nearness{table: true, key: true}},
		{"BoatID", "Boats", "Id", nearness{table: true, key: true}},
		{"category_id", "Categories", "id", nearness{table: true, key: true}},
		{"shelf_id", "Shelves", "id", nearness{table: true, key: true}},
		{"Order", "Work orders", "No", nearness{table: true}},
		{"Work order no.", "Work orders", "No", nearness{table: true, key: true}},
		{"From port", "Ports", "Port", nearness{last: true}},
		{"Course fee", "Courses", "Id", nearness{other: true}},
		{"Room nights", "Rooms", "Room", nearness{other: true}},
		{"Age", "Packages", "Package", nearness{}},
		{"Card", "Members", "Card", nearness{same: true}},
		{"Name", "Members", "Name", nearness{}}, // which says nothing of what it is the name of
		{"manager_id", "Employees", "id", nearness{key: true, lead: true}},
		{"Part of", "Areas", "Area", nearness{lead: true, key: true}},
		{"reports_to", "People", "id", nearness{lead: true, key: true}},
		{"Ski", "Skis", "Code", nearness{table: true}},
		{"Kunde", "Kunden", "Name", nearness{table: true}},
		{"Altes Boot", "Boote", "Name", nearness{last: true}},
		{"Menu", "Menus", "Dish", nearness{table: true}},
		{"Status", "States", "Name", nearness{}},
		{"Cane", "Can", "Name", nearness{}},
		{"People", "Persons", "Name", nearness{table: true}},
		{"Owner email", "Owners", "E-mail", nearness{table: true, key: true}},
	} {
		assert.Equal(t, c.want, near(c.header, c.table, c.by), "%s in %s", c.header, c.table)
	}
}

// TestLinksAreScored weighs what speaks for links and against them, case by case.
func TestLinksAreScored(t *testing.T) {
	base := func(change func(*features)) features {
		f := features{found: 1, values: 12, unique: 1, along: true}
		change(&f)
		return f
	}
	for name, c := range map[string]struct {
		f    features
		link bool
	}{
		"words that are all found":         {base(func(f *features) { f.words = true }), true},
		"codes that are all found":         {base(func(f *features) { f.codes = true }), true},
		"numbers without a name":           {base(func(f *features) { f.numbers, f.small = true, true }), false},
		"large numbers without a name":     {base(func(f *features) { f.numbers = true }), false},
		"small numbers named so":           {base(func(f *features) { f.numbers, f.small, f.near.table = true, true, true }), true},
		"small numbers of something of it": {base(func(f *features) { f.numbers, f.small, f.near.other = true, true, true }), false},
		"words of something of it":         {base(func(f *features) { f.words, f.near.other = true, true }), false},
		"a key whose name says no more":    {base(func(f *features) { f.numbers, f.small, f.near.key = true, true, true }), false},
		"half of it, without a name":       {base(func(f *features) { f.words, f.found = true, 0.6 }), false},
		"half of it, named so":             {base(func(f *features) { f.words, f.found, f.near.table = true, 0.6, true }), true},
		"less than half, named so":         {base(func(f *features) { f.words, f.found, f.near.table = true, 0.4, true }), false},
		"all clear, though some share it":  {base(func(f *features) { f.words, f.unique = true, 0.75 }), true},
		"some of it is shared": {base(func(f *features) {
			f.words, f.unique, f.found, f.ambiguous = true, 0.75, 0.9, 0.1
		}), false},
		"a quality that both tables have": {base(func(f *features) {
			f.codes, f.found, f.unique, f.near.same = true, 0.6, 0.5, true
		}), false},
		"what both tables know rows by": {base(func(f *features) {
			f.codes, f.found, f.near.same, f.first = true, 0.6, true, true
		}), true},
		"names that many share": {base(func(f *features) { f.words, f.unique = true, 0.4 }), false},
		"one name twice among many": {base(func(f *features) {
			f.words, f.unique, f.near.same, f.label = true, 0.95, true, true
		}), true},
		"a word for both, that calls none": {base(func(f *features) { f.words, f.near.same = true, true }), false},
		"what its own rows are called":     {base(func(f *features) { f.words, f.ownKey, f.first = true, true, true }), false},
		"its own rows, named so":           {base(func(f *features) { f.words, f.ownKey, f.near.table = true, true, true }), true},
		"whoever leads, by a number": {base(func(f *features) {
			f.numbers, f.small, f.self, f.near = true, true, true, nearness{lead: true, key: true}
		}), true},
		"a sibling in the same row":          {base(func(f *features) { f.words, f.self, f.values = true, true, 2 }), false},
		"a self link by what rows are known": {base(func(f *features) { f.words, f.self, f.first = true, true, true }), true},
	} {
		assert.Equal(t, c.link, c.f.score() >= scoreLink, "%s: %.2f", name, c.f.score())
	}
}

// TestCloseTargetsAreAsked asks where a column could be meant to point to two tables alike.
func TestCloseTargetsAreAsked(t *testing.T) {
	var sheets []*Sheet
	for _, f := range [][2]string{
		{"visits.csv", "Visit,Where\n1,Dock\n2,Shed\n3,Quay\n4,Dock\n"},
		{"sheds.csv", "Called,Size\nDock,4\nShed,9\nQuay,2\n"},
		{"yards.csv", "Called,Gate\nDock,north\nShed,south\nQuay,west\n"},
	} {
		found, err := Sheets(file(f[0], []byte(f[1])))
		require.NoError(t, err)
		sheets = append(sheets, found...)
	}
	p, err := Propose(sheets, nil)
	require.NoError(t, err)
	c := p.Sheets[0].Columns[1]
	require.NotNil(t, c.Link)
	require.NotNil(t, c.Ask)
	assert.Equal(t, "link", c.Ask.About)
	var texts []string
	for _, a := range c.Ask.Answers {
		require.NotNil(t, a.Link)
		texts = append(texts, a.Text)
	}
	assert.Equal(t, "Called in Sheds; Called in Yards", strings.Join(texts, "; "))
}

// TestLinksToNowhereAreRefused carries out nothing of a proposal whose links lead out of it.
func TestLinksToNowhereAreRefused(t *testing.T) {
	for code, change := range map[string]func(*Proposal){
		"import-sheet-left-out": func(p *Proposal) { p.Sheets[0].Columns[1].Link.Sheet = 7 },
		"import-field-gone":     func(p *Proposal) { p.Sheets[0].Columns[1].Link.By = "Nothing" },
		"import-mode":           func(p *Proposal) { p.Sheets[1].Mode = "steal" },
	} {
		visits, err := Sheets(file("visits.csv", []byte("Visit,Boat\n1,Tern\n2,Auk\n3,Gull\n")))
		require.NoError(t, err)
		boats, err := Sheets(file("boats.csv", []byte("Boat,Length\nTern,9\nAuk,8\nGull,7\n")))
		require.NoError(t, err)
		p, err := Propose(append(visits, boats...), nil)
		require.NoError(t, err)
		require.NotNil(t, p.Sheets[0].Columns[1].Link)
		change(p)
		_, err = Carry(p, blueprint.New("Set", func() string { return "n" }), func() string { return "m" })
		var told *words.Problem
		require.ErrorAs(t, err, &told)
		assert.Equal(t, code, told.Code)
	}
}

// TestLinksAreFoundAmongVeryMany proposes links between files of more values than are remembered: to many, from many, and none
// where only a share would be found.
func TestLinksAreFoundAmongVeryMany(t *testing.T) {
	const most = 3*mostDistinct + 1
	var boats, visits, logs strings.Builder
	boats.WriteString("Code,Boat\n")
	visits.WriteString("Visit,Code,Note\n")
	logs.WriteString("Entry,At\n")
	for i := range most {
		fmt.Fprintf(&boats, "B%07d,Tern %d\n", i, i)
		fmt.Fprintf(&visits, "%d,B%07d,n\n", i, most-1-i/2) // half of the boats, twice each
	}
	for i := range 400 {
		fmt.Fprintf(&logs, "%d,B%07d\n", i, i*700)
	}
	var sheets []*Sheet
	for name, text := range map[string]string{"boats.csv": boats.String(), "visits.csv": visits.String(), "logs.csv": logs.String()} {
		found, err := Sheets(file(name, []byte(text)))
		require.NoError(t, err)
		sheets = append(sheets, found...)
	}
	p, err := Propose(sheets, nil)
	require.NoError(t, err)
	at := map[string]int{}
	for i, s := range p.Sheets {
		at[s.Sheet] = i
	}
	assert.True(t, p.Sheets[at["Boats"]].Columns[0].Unique)
	assert.Nil(t, p.Sheets[at["Boats"]].Columns[0].Link, "half of the boats are visited")
	for sheet, values := range map[string]int{"Visits": (most + 1) / 2, "Logs": 400} {
		c := p.Sheets[at[sheet]].Columns[1]
		if assert.NotNil(t, c.Link, sheet) {
			assert.Equal(t, []any{at["Boats"], "Code", true}, []any{c.Link.Sheet, c.Link.By, c.Link.Sampled}, sheet)
			assert.InDelta(t, values, c.Link.Matched, float64(values)/3, sheet)
			assert.Zero(t, c.Link.Missing)
		}
	}
}
