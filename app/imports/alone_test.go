package imports_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/imports"
	"pinegate/core/blueprint"
	"pinegate/core/intake"
	"pinegate/core/words"
	"pinegate/store/apps"
)

// people is a table whose records differ in their addresses, in their numbers, and in name and berth together; Since must be
// filled, and Kind is filled by itself. A field can have the name of anything.
func people(t *testing.T) *harbour {
	h := newHarbour(t)
	h.bring("people.csv", "Name,Mail,Number,Berth,Since,Kind,N\nAda,ada@sail.example,1.5,A1,2020-01-13,guest,1\n"+
		"Berta,berta@sail.example,2,A2,2020-02-14,guest,2\nClara,,,A3,2020-02-15,guest,3\n")
	p := h.table("People")
	id := func(name string) string {
		for _, f := range p.Fields {
			if f.Name == name {
				return f.ID
			}
		}
		t.Fatal("no field ", name)
		return ""
	}
	require.NoError(t, h.change(blueprint.Setting(id("Mail"), "unique", true), blueprint.Setting(id("Number"), "unique", true),
		blueprint.Setting(id("Since"), "required", true), blueprint.Setting(id("Kind"), "default", `"new"`),
		blueprint.Setting(p.ID, "uniques", [][]string{{id("Name"), id("Berth")}})))
	return h
}

// table gives a table of the draft by its name.
func (h *harbour) table(name string) *blueprint.Table {
	b, err := h.a.Blueprint(h.t.Context(), h.app, apps.Draft)
	require.NoError(h.t, err)
	for i := range b.Tables {
		if b.Tables[i].Name == name {
			return &b.Tables[i]
		}
	}
	h.t.Fatal("no table ", name)
	return nil
}

// counted counts what would come of files, imports them, and holds that both agree. It gives what was kept aside, by row.
func (h *harbour) counted(decide func(*intake.Proposal), files ...string) map[int]string {
	t := h.t
	uploads, p := h.proposed(decide, files...)
	tally, err := h.in.Tally(t.Context(), h.app, uploads, p)
	require.NoError(t, err)
	status := h.run(uploads, p)
	require.Equal(t, "done", status.Status, status.Message)
	told, toldAside := 0, 0
	for _, s := range tally.Sheets {
		told, toldAside = told+s.Records, toldAside+s.Aside
	}
	assert.Equal(t, []int{told, toldAside}, []int{status.Imported, status.Aside}, "what was counted is what came")
	aside, err := h.in.Aside(t.Context(), h.app.ID, status.ID, 100)
	require.NoError(t, err)
	out := map[int]string{}
	for _, row := range aside.Rows {
		out[row.Row] = row.Reason
	}
	return out
}

func TestWhatMustDifferIsKeptAside(t *testing.T) {
	alone, together, twice := words.Say("taken-alone", nil), words.Say("taken-together", nil), words.Say("import-twice", nil)
	rows := "Name,Mail,Number,Berth,Since\n" +
		"Dora,ADA@sail.example,10,B1,2021-03-04\n" + // another's address
		"Erna,erna@sail.example,1.50,B2,2021-03-15\n" + // another's number
		"Clara,clara@sail.example,11,A3,2021-03-16\n" + // name and berth
		"Clara,c2@sail.example,12,A1,2021-03-16\n" +
		"Fran,fran@sail.example,13,B3,2021-03-16\n" +
		"Gerd,Fran@sail.example,14,B4,2021-03-16\n" + // an address of the row before
		"Hans,,,B5,2021-03-17\n" + // nothing is not alike
		"Ida,,,B6,2021-03-18\n" +
		"Jan,jan@sail.example,15,B7,\n" + // Since is missing
		"Kurt,kurt@sail.example,13.00,B8,2021-03-19\n"
	t.Run("new records", func(t *testing.T) {
		h := people(t)
		wrong := h.counted(func(p *intake.Proposal) { require.Equal(t, intake.Append, p.Sheets[0].Mode) }, "people.csv", rows)
		assert.Equal(t, map[int]string{2: "Mail: " + alone, 3: "Number: " + alone, 4: "Name, Berth: " + together, 7: "Mail: " + twice,
			10: "Since: " + words.Say("read-missing", words.Args{"field": "Since"}), 11: "Number: " + twice}, wrong)
		kinds := map[string]int{}
		for _, r := range h.rows("People") {
			kinds[fmt.Sprint(r["Kind"])]++
		}
		assert.Equal(t, map[string]int{"guest": 3, "new": 4}, kinds, "what no column says is as it is by itself")
	})
	t.Run("by a key", func(t *testing.T) {
		h := people(t)
		wrong := h.counted(func(p *intake.Proposal) { p.Sheets[0].Mode, p.Sheets[0].Key = intake.Update, "Name" }, "people.csv", rows+
			"Ada,ada@sail.example,1.5,A1,2020-01-14\n"+ // its own values
			"Berta,ada@sail.example,2,A2,2020-01-14\n")
		assert.Equal(t, map[int]string{2: "Mail: " + alone, 3: "Number: " + alone, 7: "Mail: " + alone,
			10: "Since: " + words.Say("read-missing", words.Args{"field": "Since"}), 11: "Number: " + alone, 13: "Mail: " + alone}, wrong)
		assert.Len(t, h.rows("People"), 6)
	})
}

// TestRowsThatDidNotDifferAreMended tries rows again whose values another record has: as they are, and mended.
func TestRowsThatDidNotDifferAreMended(t *testing.T) {
	h := people(t)
	uploads, p := h.proposed(func(*intake.Proposal) {}, "people.csv", "Name,Mail,Number,Berth,Since\n"+
		"Dora,ada@sail.example,10,B1,2021-03-14\nErna,berta@sail.example,11,B2,2021-03-15\n")
	status := h.run(uploads, p)
	require.Equal(t, []int{0, 2}, []int{status.Imported, status.Aside}, status.Message)
	aside, err := h.in.Aside(t.Context(), h.app.ID, status.ID, 10)
	require.NoError(t, err)
	mended := []imports.MendedRow{{ID: aside.Rows[0].ID, Cells: aside.Rows[0].Cells}, {ID: aside.Rows[1].ID, Cells: aside.Rows[1].Cells}}
	mended[1].Cells[1] = "erna@sail.example"
	n, err := h.in.Retry(t.Context(), h.app, "Ann", status.ID, mended)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	aside, err = h.in.Aside(t.Context(), h.app.ID, status.ID, 10)
	require.NoError(t, err)
	require.Len(t, aside.Rows, 1)
	assert.Contains(t, aside.Rows[0].Reason, "Mail")
	rows := h.rows("People")
	require.Len(t, rows, 4)
	assert.Equal(t, []string{"Erna", "new"}, []string{shown(rows[3]["Name"]), shown(rows[3]["Kind"])})
}

// TestWhatIsNeededIsAskedFor brings rows without what each record must have.
func TestWhatIsNeededIsAskedFor(t *testing.T) {
	h := people(t)
	uploads, p := h.proposed(func(*intake.Proposal) {}, "people.csv", "Name,Mail,Number,Berth\nDora,dora@sail.example,10,B1\nEmil,,,B2\n")
	said := words.Say("import-lacks", words.Args{"field": "Since", "table": "People", "sheet": "People"})
	_, err := h.in.Tally(t.Context(), h.app, uploads, p)
	assert.EqualError(t, err, said)
	status := h.run(uploads, p)
	assert.Equal(t, []string{"failed", said}, []string{status.Status, status.Message})
	wrong := h.counted(func(p *intake.Proposal) { p.Sheets[0].Mode, p.Sheets[0].Key = intake.Update, "Name" }, "people.csv",
		"Name,Mail\nAda,a2@sail.example\nDora,dora@sail.example\n")
	assert.Equal(t, map[int]string{3: "Since: " + words.Say("read-missing", words.Args{"field": "Since"})}, wrong)
	assert.Len(t, h.rows("People"), 3)
}

// TestASampleSaysTimesAsTheAppDoes shows moments as clocks show them where the app is.
func TestASampleSaysTimesAsTheAppDoes(t *testing.T) {
	h := newHarbour(t)
	require.NoError(t, h.change(blueprint.Setting("app", "zone", "Asia/Tokyo")))
	uploads, p := h.proposed(func(*intake.Proposal) {}, "visits.csv", "Boat,At\nTern,2025-03-14 13:15\nAuk,2025-03-15T09:00:00Z\n")
	tally, err := h.in.Tally(t.Context(), h.app, uploads, p)
	require.NoError(t, err)
	rows := tally.Sheets[0].Rows
	assert.Equal(t, []string{"2025-03-14T13:15", "2025-03-15T18:00"}, []string{rows[0].Values[1], rows[1].Values[1]})
}
