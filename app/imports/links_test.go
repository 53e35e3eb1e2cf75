package imports_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/intake"
	"pinegate/core/words"
	"pinegate/store/apps"
)

const crews = "Boat,Length,Owners\nTern,12,\"Ines Calder, Tomas Lind\"\nAuk,7,Ruth Voss\nGull,9,\"Ines Calder, Ruth Voss\"\n"

// proposed is what is proposed for files, with what a founder decides otherwise.
func (h *harbour) proposed(decide func(*intake.Proposal), files ...string) ([]string, *intake.Proposal) {
	uploads := h.upload(files...)
	p, err := h.in.Propose(h.t.Context(), h.app, uploads)
	require.NoError(h.t, err)
	decide(p)
	return uploads, p
}

func columnOf(t *testing.T, p *intake.Proposal, header string) *intake.ColumnPlan {
	t.Helper()
	for i := range p.Sheets[0].Columns {
		if p.Sheets[0].Columns[i].Header == header {
			return &p.Sheets[0].Columns[i]
		}
	}
	require.Fail(t, "no column "+header)
	return nil
}

// TestMissingTargetsOfLinksToManyAreCreatedOnce adds somebody who stands in several cells.
func TestMissingTargetsOfLinksToManyAreCreatedOnce(t *testing.T) {
	h := newHarbour(t)
	h.bring("owners.csv", owners)
	uploads, p := h.proposed(func(p *intake.Proposal) {
		require.NotNil(t, columnOf(t, p, "Owners").Link)
		columnOf(t, p, "Owners").Link.Unmatched = intake.Create
	}, "boats.csv", crews+"Skua,3,\"Mo Ray, Ines Calder\"\nPetrel,4,mo ray\n")
	status := h.run(uploads, p)
	require.Equal(t, "done", status.Status, status.Message)
	assert.Equal(t, 5, status.Imported)
	assert.Len(t, h.rows("Owners"), 4)
	boats := h.rows("Boats")
	assert.Equal(t, "Ines Calder+Mo Ray", boats[3]["Owners"])
	assert.Equal(t, "Mo Ray", boats[4]["Owners"])
}

// TestMissingTargetsCanBeLeftOut does not create them; the rows come without them.
func TestMissingTargetsCanBeLeftOut(t *testing.T) {
	h := newHarbour(t)
	h.bring("owners.csv", owners)
	uploads, p := h.proposed(func(p *intake.Proposal) { columnOf(t, p, "Owners").Link.Unmatched = intake.LeaveOut },
		"boats.csv", crews+"Skua,3,Mo Ray\n")
	status := h.run(uploads, p)
	require.Equal(t, "done", status.Status, status.Message)
	assert.Equal(t, 4, status.Imported, "no row is lost")
	assert.Len(t, h.rows("Owners"), 3)
	boats := h.rows("Boats")
	require.Len(t, boats, 4)
	assert.Equal(t, "Ines Calder+Tomas Lind", boats[0]["Owners"])
	assert.Empty(t, boats[3]["Owners"])
}

// TestTargetsAreKnownByWhatIsChosen points to people by their addresses.
func TestTargetsAreKnownByWhatIsChosen(t *testing.T) {
	h := newHarbour(t)
	h.bring("owners.csv", owners)
	uploads, p := h.proposed(func(p *intake.Proposal) {
		link := columnOf(t, p, "Owner").Link
		require.NotNil(t, link, "addresses are recognised")
		link.Unmatched = intake.Create
	}, "moorings.csv", "Mooring,Owner\nN1,ines@sail.example\nN2,ruth@sail.example\nN3,new@sail.example\nN4,TOMAS@sail.example\n")
	status := h.run(uploads, p)
	require.Equal(t, "done", status.Status, status.Message)
	moorings := h.rows("Moorings")
	require.Len(t, moorings, 4)
	assert.Equal(t, "Ines Calder", moorings[0]["Owner"])
	assert.Equal(t, "Tomas Lind", moorings[3]["Owner"])
	people := h.rows("Owners")
	require.Len(t, people, 4)
	assert.Equal(t, "new@sail.example", people[3]["E-mail"])
}

// TestAnUpdateSaysWhatItCannotDo updates by a column that several records have alike, by
// none, and with too many rows.
func TestAnUpdateSaysWhatItCannotDo(t *testing.T) {
	h := newHarbour(t)
	h.bring("owners.csv", owners+"Ines Again;ines@sail.example;01.01.2023\n")
	again := "Name;E-mail;Customer since\nInes C.;ines@sail.example;03.04.2020\nTomas L.;tomas@sail.example;25.12.2021\nNo Day;ruth@sail.example;31.02.2022\n"
	update := func(p *intake.Proposal) { p.Sheets[0].Mode, p.Sheets[0].Key = intake.Update, "E-mail" }
	uploads, p := h.proposed(update, "owners.csv", again)
	tally, err := h.in.Tally(t.Context(), h.app, uploads, p)
	require.NoError(t, err)
	assert.Equal(t, []int{1, 2}, []int{tally.Sheets[0].Records, tally.Sheets[0].Aside})
	assert.Len(t, h.rows("Owners"), 4, "counting changes nothing")
	status := h.run(uploads, p)
	require.Equal(t, "done", status.Status, status.Message)
	assert.Equal(t, 1, status.Imported)
	aside, err := h.in.Aside(t.Context(), h.app.ID, status.ID, 10)
	require.NoError(t, err)
	require.Len(t, aside.Rows, 2)
	assert.Contains(t, aside.Rows[0].Reason, "Several")
	assert.Contains(t, aside.Rows[1].Reason, "Customer since")
	var names []string
	for _, r := range h.rows("Owners") {
		names = append(names, fmt.Sprint(r["Name"]))
	}
	assert.ElementsMatch(t, []string{"Ines Calder", "Ines Again", "Tomas L.", "Ruth Voss"}, names)

	uploads, p = h.proposed(func(p *intake.Proposal) { update(p); p.Sheets[0].Key = "Shoe size" }, "owners.csv", again)
	assert.Equal(t, "failed", h.run(uploads, p).Status)
	many := strings.Builder{}
	many.WriteString("Name;E-mail;Customer since\n")
	for i := range 20_001 {
		fmt.Fprintf(&many, "Person %d;p%d@sail.example;03.04.2020\n", i, i)
	}
	uploads, p = h.proposed(update, "owners.csv", many.String())
	status = h.run(uploads, p)
	assert.Equal(t, "failed", status.Status)
	assert.Contains(t, status.Message, "20,000")
	assert.Len(t, h.rows("Owners"), 4, "nothing was changed")
}

// TestTablesThatPointToEachOther brings two sheets each of which points to the other, and one that points to itself: all links
// are there, whichever comes first.
func TestTablesThatPointToEachOther(t *testing.T) {
	teams := "Team,Captain,Ground\nGulls,Ada Brandt,North\nTerns,Ruth Voss,South\nAuks,Hugh Sorrel,North\n"
	players := "Player,Team,Helped by\nAda Brandt,Gulls,\nInes Vane,Gulls,Ada Brandt\nRuth Voss,Terns,\nTomas Quayle,Terns,Ruth Voss\n" +
		"Hugh Sorrel,Auks,Mira Iversen\nMira Iversen,Auks,\n"
	for _, files := range [][]string{{"teams.csv", teams, "players.csv", players}, {"players.csv", players, "teams.csv", teams}} {
		h := newHarbour(t)
		uploads, p := h.proposed(func(*intake.Proposal) {}, files...)
		status := h.run(uploads, p)
		require.Equal(t, "done", status.Status, status.Message)
		assert.Equal(t, 9, status.Imported)
		var captains, of, helped []string
		for _, r := range h.rows("Teams") {
			captains = append(captains, fmt.Sprint(r["Captain"]))
		}
		for _, r := range h.rows("Players") {
			of, helped = append(of, fmt.Sprint(r["Team"])), append(helped, fmt.Sprint(r["Helped by"]))
		}
		assert.Equal(t, "Ada Brandt, Ruth Voss, Hugh Sorrel", strings.Join(captains, ", "))
		assert.Equal(t, "Gulls, Gulls, Terns, Terns, Auks, Auks", strings.Join(of, ", "))
		assert.Equal(t, []string{"Ada Brandt", "Ruth Voss", "Mira Iversen"}, []string{helped[1], helped[3], helped[4]})
	}
}

// TestLinksWithinATable keeps aside a row that points to a name which two rows have, wherever they stand, adds what is missing
// where that is asked for, and says so in the end; a link to a row that is kept aside stays empty.
func TestLinksWithinATable(t *testing.T) {
	h := newHarbour(t)
	staff := "Name,Boss,Since\nMarta Alder,,2019-01-02\nMira Iversen,Hugh Sorrel,2021-06-15\nHugh Sorrel,Marta Alder,2020-03-01\n" +
		"Hugh Sorrel,Marta Alder,2020-05-01\nOdile Brandt,Mira Iversen,2021-07-01\nPiet Pascoe,Sanna Trevanion,2022-02-11\n" +
		"Lena Moor,Marta Alder,2022-05-11\nJonas Quay,Lena Moor,2022-06-11\nRuth Voss,Lena Moor,2022-07-11\nAda Brandt,Lena Moor,2022-08-01\n"
	uploads, p := h.proposed(func(p *intake.Proposal) {
		require.NotNil(t, columnOf(t, p, "Boss").Link)
		columnOf(t, p, "Boss").Link.Unmatched = intake.Create
	}, "staff.csv", staff)
	tally, err := h.in.Tally(t.Context(), h.app, uploads, p)
	require.NoError(t, err)
	counts := tally.Sheets[0]
	require.Len(t, counts.Rows, 5)
	assert.Equal(t, []string{"Hugh Sorrel", "Marta Alder", "2020-03-01"}, counts.Rows[1].Values)
	assert.Equal(t, intake.SampleRow{Row: 3, Cells: []string{"Mira Iversen", "Hugh Sorrel", "2021-06-15"},
		Wrong: "Boss: Several records in Staff are called “Hugh Sorrel”."}, counts.Rows[4])
	counts.Rows = nil
	assert.Equal(t, intake.SheetTally{Records: 9, Aside: 1, Links: []intake.LinkTally{{Column: "Boss", Made: 7, Empty: 1, Added: 1,
		Names: []string{"Sanna Trevanion"}}}}, counts)
	p.Tally = tally
	status := h.run(uploads, p)
	require.Equal(t, "done", status.Status, status.Message)
	assert.Equal(t, "Imported 9 rows. 1 row to fix. 1 record was added for values of Boss in Staff.", status.Message)
	aside, err := h.in.Aside(t.Context(), h.app.ID, status.ID, 10)
	require.NoError(t, err)
	require.Len(t, aside.Rows, 1)
	assert.Contains(t, aside.Rows[0].Reason, "Several")
	boss := map[string]string{}
	for _, r := range h.rows("Staff") {
		boss[fmt.Sprint(r["Name"])] = fmt.Sprint(r["Boss"])
	}
	assert.Equal(t, "Sanna Trevanion", boss["Piet Pascoe"])
	assert.Contains(t, boss, "Sanna Trevanion", "she was added")
	assert.Equal(t, "<nil>", boss["Odile Brandt"], "whom she points to is kept aside")
	assert.Equal(t, "Lena Moor", boss["Ruth Voss"])

	p.Tally.Sheets[0].Links[0].Made = 8
	h.begins()
	uploads = h.upload("staff.csv", staff)
	status = h.run(uploads, p)
	assert.Contains(t, status.Message, "Boss in Staff came out differently: 8 links were expected, 7 are there.")
}

// TestNumbersGoOn takes numbers that count up for automatic ones, which go on after the last; other columns point to them.
func TestNumbersGoOn(t *testing.T) {
	h := newHarbour(t)
	uploads, p := h.proposed(func(*intake.Proposal) {},
		"invoices.csv", "Invoice,Customer,Sum\nINV-0007,Ada,€ 12.50\nINV-0008,Ines,€ 7.00\nINV-0009,Ruth,€ 99.90\n",
		"payments.csv", "Payment,Invoice,Paid\nP1,INV-0008,€ 7.00\nP2,INV-0007,€ 12.50\n")
	require.Equal(t, blueprint.AutoNumber, columnOf(t, p, "Invoice").Type)
	status := h.run(uploads, p)
	require.Equal(t, "done", status.Status, status.Message)
	b, err := h.a.Blueprint(t.Context(), h.app, apps.Draft)
	require.NoError(t, err)
	seat := apps.FounderSeat(h.app, apps.Draft, b, "Ann")
	invoices := &b.Tables[0]
	require.Equal(t, "Invoices", invoices.Name)
	customer := invoices.Fields[0]
	require.Equal(t, "Customer", customer.Name, "what counts up is no label")
	require.NoError(t, h.a.Road(t.Context()).Put(t.Context(), seat, invoices, "", map[string]string{customer.ID: "Hugh"}, nil))
	var numbers []string
	for _, r := range h.rows("Invoices") {
		numbers = append(numbers, fmt.Sprint(r["Invoice"]))
	}
	assert.Equal(t, []string{"INV-0007", "INV-0008", "INV-0009", "INV-0010"}, numbers)
	assert.Equal(t, "Ines", h.rows("Payments")[0]["Invoice"])
}

// TestAFieldThatIsThereSaysWhatItHolds adds rows to a table whose field holds text: what its column seems to point to is nothing
// to it, whatever the browser says; and a link field takes records of its own table alone.
func TestAFieldThatIsThereSaysWhatItHolds(t *testing.T) {
	h := newHarbour(t)
	h.bring("boats.csv", "Boat,Owner\nTern,Ines Calder\nAuk,Ruth Voss\nGull,Tomas Lind\n")
	h.bring("owners.csv", owners)
	uploads, p := h.proposed(func(p *intake.Proposal) {
		c := columnOf(t, p, "Owner")
		require.Nil(t, c.Link, "the field holds text")
		c.Link = &intake.LinkPlan{Sheet: -1, Table: "owners", Unmatched: intake.Create}
	}, "boats.csv", "Boat,Owner\nSkua,Ines Calder\nPetrel,Nobody\n")
	tally, err := h.in.Tally(t.Context(), h.app, uploads, p)
	require.NoError(t, err)
	assert.Empty(t, tally.Sheets[0].Links)
	status := h.run(uploads, p)
	require.Equal(t, "done", status.Status, status.Message)
	assert.Equal(t, "Nobody", h.rows("Boats")[4]["Owner"])
	assert.Len(t, h.rows("Owners"), 3, "nobody was added")

	h.begins()
	h.bring("owners.csv", owners, "moorings.csv", "Mooring,Owner\nN1,Ines Calder\nN2,Tomas Lind\nN3,Ruth Voss\n")
	uploads, p = h.proposed(func(p *intake.Proposal) {
		columnOf(t, p, "Owner").Link = &intake.LinkPlan{Sheet: 1, By: "Club", Unmatched: intake.LeaveOut}
	}, "moorings.csv", "Mooring,Owner\nN4,Gulls\n", "clubs.csv", "Club,Gate\nGulls,north\nTerns,south\n")
	_, err = h.in.Tally(t.Context(), h.app, uploads, p)
	assert.ErrorContains(t, err, "Owner in Moorings fills Owner, which links to another table.")
}

// TestTheFounderSaysWhatNamesColumns brings a file whose first row was taken for names and is a record.
func TestTheFounderSaysWhatNamesColumns(t *testing.T) {
	h := newHarbour(t)
	uploads := h.upload("boats.csv", "Tern,blue\nAuk,red\nGull,green\n")
	_, err := h.in.Propose(t.Context(), h.app, uploads, 1)
	require.Error(t, err, "there is no second sheet")
	p, err := h.in.Propose(t.Context(), h.app, uploads, 0)
	require.NoError(t, err)
	assert.True(t, p.Sheets[0].Turned)
	assert.Equal(t, []int{3, 2}, []int{p.Sheets[0].Rows, len(p.Sheets[0].Columns)})
	p.Sheets[0].Columns[0].Name = "Boat"
	tally, err := h.in.Tally(t.Context(), h.app, uploads, p)
	require.NoError(t, err)
	assert.Equal(t, 3, tally.Sheets[0].Records)
	status := h.run(uploads, p)
	require.Equal(t, "done", status.Status, status.Message)
	assert.Equal(t, "Tern", h.rows("Boats")[0]["Boat"])
	p.Sheets[0].Columns = p.Sheets[0].Columns[:1]
	_, err = h.in.Tally(t.Context(), h.app, h.upload("boats.csv", "Tern,blue\nAuk,red\n"), p)
	require.EqualError(t, err, words.Say("import-files-changed", nil), "it is a proposal of other files")
}
