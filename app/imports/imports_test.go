package imports_test

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/app/imports"
	"pinegate/core/blueprint"
	"pinegate/core/intake"
	"pinegate/core/query"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/storetest"
)

// checks is how many random exports are brought again, unless -rapid.checks
// says otherwise.
const checks = "12"

func TestMain(m *testing.M) {
	flag.Parse()
	if f := flag.Lookup("rapid.checks"); f.Value.String() == f.DefValue {
		if err := f.Value.Set(checks); err != nil {
			panic(err)
		}
	}
	os.Exit(storetest.Main(m))
}

type harbour struct {
	t    *testing.T
	s    *store.Store
	a    *apps.Apps
	acts *act.Acts
	app  store.App
	in   *imports.Service
	jobs *river.Client[pgx.Tx]
	by   string // id of whoever builds
}

func newHarbour(t *testing.T) *harbour {
	s := storetest.New(t)
	h := &harbour{t: t, s: s, a: apps.New(s)}
	h.acts = acttest.New(t, h.a)
	builder, err := accounts.New(s).AddBuilder(t.Context(), "a@yard.example", "Ann", "long-enough-password")
	require.NoError(t, err)
	h.by = builder.ID
	h.begins()
	h.in = imports.New(s, h.a, h.acts)
	workers := river.NewWorkers()
	h.in.Worker(workers)
	h.jobs, err = river.NewClient(riverpgxv5.New(s.Pool),
		&river.Config{Queues: map[string]river.QueueConfig{imports.Queue: {MaxWorkers: 2}}, Workers: workers, JobTimeout: -1,
			FetchPollInterval: 50 * time.Millisecond, FetchCooldown: 10 * time.Millisecond})
	require.NoError(t, err)
	require.NoError(t, h.jobs.Start(context.WithoutCancel(t.Context())))
	t.Cleanup(func() { require.NoError(t, h.jobs.Stop(context.Background())) })
	return h
}

// begins begins a new app, in which nothing is.
func (h *harbour) begins() {
	var err error
	h.app, err = h.a.Create(h.t.Context(), h.by, "Ann", blueprint.New("Harbour", apps.NewID))
	require.NoError(h.t, err)
}

func (h *harbour) upload(files ...string) []string {
	var ids []string
	for i := 0; i < len(files); i += 2 {
		id, err := h.in.Upload(h.t.Context(), h.app, files[i], strings.NewReader(files[i+1]))
		require.NoError(h.t, err)
		ids = append(ids, id)
	}
	return ids
}

func (h *harbour) run(uploads []string, p *intake.Proposal) imports.Status {
	id, err := h.in.Start(h.t.Context(), h.jobs, h.app, "Ann", uploads, p)
	require.NoError(h.t, err)
	var status imports.Status
	require.Eventually(h.t, func() bool {
		var err error
		status, err = h.in.Status(h.t.Context(), h.app.ID, id)
		require.NoError(h.t, err)
		return status.Status != "waiting" && status.Status != "running"
	}, 20*time.Second, 20*time.Millisecond)
	h.app, err = h.a.BySlug(h.t.Context(), h.app.Slug)
	require.NoError(h.t, err)
	return status
}

func (h *harbour) bring(files ...string) (imports.Status, *intake.Proposal) {
	uploads := h.upload(files...)
	p, err := h.in.Propose(h.t.Context(), h.app, uploads)
	require.NoError(h.t, err)
	status := h.run(uploads, p)
	require.Equal(h.t, "done", status.Status, status.Message)
	return status, p
}

// rows reads a table as texts: labels of links, by the names of fields.
func (h *harbour) rows(table string) []map[string]any {
	b, err := h.a.Blueprint(h.t.Context(), h.app, apps.Draft)
	require.NoError(h.t, err)
	i := slices.IndexFunc(b.Tables, func(t blueprint.Table) bool { return t.Name == table })
	require.GreaterOrEqual(h.t, i, 0, "no table %s", table)
	t := &b.Tables[i]
	q := query.Selection{Table: t, Limit: 1000}
	for _, f := range t.Fields {
		q.Columns = append(q.Columns, f.ID)
	}
	raw, _, err := h.a.Road(h.t.Context()).List(h.t.Context(), apps.FounderSeat(h.app, apps.Draft, b, ""), q)
	require.NoError(h.t, err)
	var out []map[string]any
	for _, r := range raw {
		var row map[string]any
		require.NoError(h.t, json.Unmarshal(r, &row))
		named := map[string]any{}
		for _, f := range t.Fields {
			v := row[f.ID]
			if label, ok := row[f.ID+"~"]; ok && f.Type == blueprint.Link {
				v = label
			}
			if list, ok := v.([]any); ok && f.Type == blueprint.Links {
				var labels []string
				for _, x := range list {
					labels = append(labels, fmt.Sprint(x.(map[string]any)["label"]))
				}
				slices.Sort(labels)
				v = strings.Join(labels, "+")
			}
			if list := b.List(f.List); list != nil && f.Type == blueprint.Choose && v != nil {
				v = list.Choice(fmt.Sprint(v)).Label
			}
			named[f.Name] = v
		}
		out = append(out, named)
	}
	return out
}

const (
	owners = "Name;E-mail;Customer since\nInes Calder;ines@sail.example;03.04.2020\nTomas Lind;tomas@sail.example;25.12.2021\nRuth Voss;ruth@sail.example;01.02.2022\n"
	boats  = "Boat,Owner,Length,Kind,Crew\nTern,Ines Calder,12.5,Yacht,\"Tomas Lind, Ruth Voss\"\nAuk,tomas lind,7,Yacht,Ruth Voss\nGull,Ruth Voss,9.25,Dinghy,\nSkua,Ines Calder,x12,Yacht,\nPetrel,Ines Calder,10,Dinghy,\"Ines Calder, Ruth Voss\"\n" +
		"B6,Ines Calder,1,Yacht,\nB7,Ines Calder,1,Yacht,\nB8,Ines Calder,1,Dinghy,\nB9,Ruth Voss,1,Yacht,\nB10,Ruth Voss,1,Yacht,\nB11,Ruth Voss,2,Yacht,\nB12,Ruth Voss,2,Yacht,\nB13,Ruth Voss,2,Yacht,\nB14,Ruth Voss,2,Yacht,\nB15,Ruth Voss,2,Yacht,\nB16,Ruth Voss,2,Yacht,\nB17,Ruth Voss,2,Yacht,\nB18,Ruth Voss,2,Yacht,\nB19,Ruth Voss,2,Yacht,\nB20,Ruth Voss,2,Yacht,\nB21,Ruth Voss,2,Yacht,\n"
	visits = "Boat\tDay\tPaid\tFee\nTern\t2026-01-02\tyes\t€ 12.50\nGull\t2026-01-03\tno\t€ 1,200.00\nTern\t2026-02-03\tyes\t€ 3.00\n"
)

// TestLinksAreFoundWhateverTheOrder brings the same three files in every order,
// together and one by one.
func TestLinksAreFoundWhateverTheOrder(t *testing.T) {
	files := map[string]string{"owners.csv": owners, "boats.csv": boats, "visits.tsv": visits}
	check := func(t *testing.T, h *harbour) {
		boats := h.rows("Boats")
		require.Len(t, boats, 20)
		assert.Equal(t, "Ines Calder", boats[0]["Owner"])
		assert.Equal(t, "Ruth Voss+Tomas Lind", boats[0]["Crew"])
		assert.Equal(t, "12.5", boats[0]["Length"])
		assert.Equal(t, "Tomas Lind", boats[1]["Owner"])
		visits := h.rows("Visits")
		require.Len(t, visits, 3)
		assert.Equal(t, "Tern", visits[0]["Boat"])
		assert.Equal(t, "1200", visits[1]["Fee"])
		owners := h.rows("Owners")
		assert.Equal(t, "2020-04-03", owners[0]["Customer since"])
	}
	for _, order := range [][]string{{"owners.csv", "boats.csv", "visits.tsv"}, {"visits.tsv", "boats.csv", "owners.csv"}} {
		t.Run(strings.Join(order, " "), func(t *testing.T) {
			h := newHarbour(t)
			var all []string
			for _, name := range order {
				all = append(all, name, files[name])
			}
			status, _ := h.bring(all...)
			assert.Equal(t, 27, status.Total)
			assert.Equal(t, status.Total, status.Imported+status.Aside, "no row is lost")
			assert.Equal(t, 1, status.Aside)
			aside, err := h.in.Aside(t.Context(), h.app.ID, status.ID, 10)
			require.NoError(t, err)
			assert.Equal(t, "Length: “x12” is not a number.", aside.Rows[0].Reason)
			assert.Equal(t, []string{"Skua", "Ines Calder", "x12", "Yacht", ""}, aside.Rows[0].Cells)
			check(t, h)
		})
	}
	t.Run("one by one", func(t *testing.T) {
		h := newHarbour(t)
		for _, name := range []string{"owners.csv", "boats.csv", "visits.tsv"} {
			h.bring(name, files[name])
		}
		check(t, h)
		_, err := h.acts.Undo(t.Context(), h.app.ID, "Ann")
		require.NoError(t, err)
		h.app, err = h.a.BySlug(t.Context(), h.app.Slug)
		require.NoError(t, err)
		b, err := h.a.Blueprint(t.Context(), h.app, apps.Draft)
		require.NoError(t, err)
		assert.Len(t, b.Tables, 2, "undo takes the last import back")
	})
}

func TestMissingTargetsCanBeCreated(t *testing.T) {
	h := newHarbour(t)
	h.bring("owners.csv", owners)
	uploads := h.upload("moorings.csv", "Mooring,Owner\nN1,Ines Calder\nN2,New Person\nN3,Tomas Lind\nN4,New Person\n")
	p, err := h.in.Propose(t.Context(), h.app, uploads)
	require.NoError(t, err)
	link := p.Sheets[0].Columns[1].Link
	require.NotNil(t, link)
	assert.Equal(t, []int{2, 1, 0}, []int{link.Matched, link.Missing, link.Ambiguous})
	assert.Equal(t, intake.LeaveOut, link.Unmatched, "one name may be written wrongly")
	link.Unmatched = intake.Create
	h.run(uploads, p)
	assert.Len(t, h.rows("Owners"), 4)
	assert.Equal(t, "New Person", h.rows("Moorings")[3]["Owner"])
}

func TestAppendAndUpdate(t *testing.T) {
	h := newHarbour(t)
	h.bring("owners.csv", owners)
	uploads := h.upload("owners.csv",
		"Name;E-mail;Customer since\nInes Calder-Holm;ines@sail.example;03.04.2020\nNew One;new@sail.example;13.04.2024\n")
	p, err := h.in.Propose(t.Context(), h.app, uploads)
	require.NoError(t, err)
	assert.Equal(t, intake.Append, p.Sheets[0].Mode, "a table of the name is there")
	p.Sheets[0].Mode, p.Sheets[0].Key = intake.Update, "E-mail"
	status := h.run(uploads, p)
	require.Equal(t, "done", status.Status, status.Message)
	rows := h.rows("Owners")
	require.Len(t, rows, 4)
	assert.Equal(t, "Ines Calder-Holm", rows[0]["Name"])
	p.Sheets[0].Mode = intake.Append
	uploads = h.upload("owners.csv",
		"Name;E-mail;Customer since\nInes Calder-Holm;ines@sail.example;03.04.2020\nNew One;new@sail.example;13.04.2024\n")
	h.run(uploads, p)
	assert.Len(t, h.rows("Owners"), 6)
	_, err = h.acts.Undo(t.Context(), h.app.ID, "Ann")
	require.NoError(t, err)
	assert.Len(t, h.rows("Owners"), 4, "undo takes appended records out again")
}

func TestAStoppedImportLeavesNothing(t *testing.T) {
	h := newHarbour(t)
	var many strings.Builder
	many.WriteString("Name,Number\n")
	for i := range 200_000 {
		fmt.Fprintf(&many, "Boat %d,%d\n", i, i)
	}
	uploads := h.upload("boats.csv", many.String())
	p, err := h.in.Propose(t.Context(), h.app, uploads)
	require.NoError(t, err)
	id, err := h.in.Start(t.Context(), h.jobs, h.app, "Ann", uploads, p)
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		s, err := h.in.Status(t.Context(), h.app.ID, id)
		return err == nil && s.Done > 0
	}, 20*time.Second, 5*time.Millisecond)
	require.NoError(t, h.in.Cancel(t.Context(), h.app.ID, id))
	var left int64
	require.Eventually(t, func() bool {
		return h.s.DB.Table("uploads").Count(&left).Error == nil && left == 0
	}, 20*time.Second, 20*time.Millisecond, "the run ends")
	b, err := h.a.Blueprint(t.Context(), h.app, apps.Draft)
	require.NoError(t, err)
	assert.Empty(t, b.Tables)
}

// TestAnImportSurvivesItsServer begins an import where no job runs, as if the
// server had been killed, and resumes it twice.
func TestAnImportSurvivesItsServer(t *testing.T) {
	h := newHarbour(t)
	uploads := h.upload("owners.csv", owners)
	p, err := h.in.Propose(t.Context(), h.app, uploads)
	require.NoError(t, err)
	require.NoError(t, h.jobs.QueuePause(t.Context(), imports.Queue, nil))
	id, err := h.in.Start(t.Context(), h.jobs, h.app, "Ann", uploads, p)
	require.NoError(t, err)
	require.NoError(t, h.s.DB.Exec("UPDATE imports SET status = 'running', alive_at = now() - interval '1 minute'").Error)
	require.NoError(t, h.in.Resume(t.Context(), h.jobs))
	require.NoError(t, h.in.Resume(t.Context(), h.jobs))
	require.NoError(t, h.jobs.QueueResume(t.Context(), imports.Queue, nil))
	require.Eventually(t, func() bool {
		s, err := h.in.Status(t.Context(), h.app.ID, id)
		return err == nil && s.Status == "done" && s.Imported == 3
	}, 20*time.Second, 20*time.Millisecond)
	h.app, err = h.a.BySlug(t.Context(), h.app.Slug)
	require.NoError(t, err)
	assert.Len(t, h.rows("Owners"), 3)
}

func TestBadFilesSayWhatIsWrong(t *testing.T) {
	h := newHarbour(t)
	for name, x := range map[string]struct{ content, want string }{
		"empty.csv":   {"", "intake-file-empty"},
		"picture.csv": {"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x01\x00", "intake-file-kind"},
		"book.xlsx":   {"PK\x03\x04 not really", "intake-file-broken-book"},
		"old.xls":     {"\xd0\xcf\x11\xe0\xa1\xb1", "intake-file-old-book"},
		"broken.json": {`[{"a": 1}, {"a": `, "intake-file-broken-json"},
		"behind.json": {`[{"a": 1}] [{"a": 2}]`, "intake-file-broken-json"},
		"deep.json":   {`{"a": 1}`, "intake-file-json-no-list"},
		"quoted.csv":  {"Name,Note\nTern,\"it never ends\nAuk,x\n", "intake-file-quote"},
	} {
		_, err := h.in.Propose(t.Context(), h.app, h.upload(name, x.content))
		var problem *words.Problem
		require.ErrorAs(t, err, &problem, name)
		assert.Equal(t, x.want, problem.Code, name)
	}
	p, err := h.in.Propose(t.Context(), h.app, h.upload("lie.xlsx", "a,b\n1,2\n"))
	require.NoError(t, err)
	assert.Contains(t, p.Sheets[0].Notes[0], "is called a workbook but is text")
	p, err = h.in.Propose(t.Context(), h.app, h.upload("old.csv", "Name;Harbour\nJ\xf6rg;Malm\xf6\n"))
	require.NoError(t, err)
	assert.Equal(t, []string{"Jörg"}, p.Sheets[0].Columns[0].Samples, "old encodings are found")
	_, err = h.in.Propose(t.Context(), h.app, []string{"01a00000-0000-7000-8000-000000000000"})
	require.ErrorIs(t, err, store.ErrNotFound)
}

// TestRowsKeptAsideAreMended mends a row in two steps, and holds that a row is
// either kept aside or a record, never both and never neither.
func TestRowsKeptAsideAreMended(t *testing.T) {
	h := newHarbour(t)
	status, _ := h.bring("boats.csv", boats, "owners.csv", owners)
	left := func() *imports.Aside {
		aside, err := h.in.Aside(t.Context(), h.app.ID, status.ID, 10)
		require.NoError(t, err)
		assert.Equal(t, 21, len(h.rows("Boats"))+len(aside.Rows))
		return aside
	}
	row := left().Rows[0]
	retry := func(cells ...string) (int, string) {
		n, err := h.in.Retry(t.Context(), h.app, "Ann", status.ID, []imports.MendedRow{{ID: row.ID, Cells: cells}})
		require.NoError(t, err)
		if aside := left(); len(aside.Rows) > 0 {
			return n, aside.Rows[0].Reason
		}
		return n, ""
	}
	for _, try := range []struct {
		cells []string
		says  string
	}{
		{[]string{"Skua", "Nobody", "12", "Yacht", ""}, "Owner: There is no “Nobody” in Owners."},
		{[]string{"Skua", "Ines Calder", "twelve", "Yacht", ""}, "Length: “twelve” is not a number."},
		{[]string{"Skua", "Ines Calder", "12", "Submarine", ""}, "Submarine"},
		{[]string{"Skua"}, "Submarine"}, // rows of another shape are not taken
	} {
		n, says := retry(try.cells...)
		assert.Zero(t, n)
		assert.Contains(t, says, try.says)
	}
	n, says := retry("Skua", "ines calder", "12.25", "Yacht", "Ruth Voss, Tomas Lind")
	assert.Equal(t, 1, n, says)
	skua := h.rows("Boats")[20]
	assert.Equal(t, map[string]any{"Boat": "Skua", "Owner": "Ines Calder", "Length": "12.25", "Kind": "Yacht",
		"Crew": "Ruth Voss+Tomas Lind"}, skua)
	n, _ = retry("Skua", "Ines Calder", "12", "Yacht", "")
	assert.Zero(t, n, "a row that is a record is not brought twice")
	list, err := h.in.Leftovers(t.Context(), h.app.ID)
	require.NoError(t, err)
	assert.Empty(t, list)
	_, err = h.in.Aside(t.Context(), "01a00000-0000-7000-8000-000000000000", status.ID, 10)
	assert.ErrorIs(t, err, store.ErrNotFound, "another app's import")
}

// TestRowsTriedTwiceAtOnceAreBroughtOnce presses the button in several windows.
func TestRowsTriedTwiceAtOnceAreBroughtOnce(t *testing.T) {
	h := newHarbour(t)
	status, _ := h.bring("boats.csv", boats, "owners.csv", owners)
	aside, err := h.in.Aside(t.Context(), h.app.ID, status.ID, 10)
	require.NoError(t, err)
	var wait sync.WaitGroup
	var brought atomic.Int64
	for range 6 {
		wait.Go(func() {
			n, err := h.in.Retry(t.Context(), h.app, "Ann", status.ID,
				[]imports.MendedRow{{ID: aside.Rows[0].ID, Cells: []string{"Skua", "Ines Calder", "12", "Yacht", ""}}})
			var p *words.Problem
			if err != nil {
				assert.ErrorAs(t, err, &p)
			}
			brought.Add(int64(n))
		})
	}
	wait.Wait()
	assert.EqualValues(t, 1, brought.Load())
	assert.Len(t, h.rows("Boats"), 21)
}

func TestRowsKeptAsideByAnUpdateChangeTheirRecord(t *testing.T) {
	h := newHarbour(t)
	h.bring("owners.csv", owners)
	uploads := h.upload("owners.csv",
		"Name;E-mail;Customer since\nInes Holm;ines@sail.example;31.02.2020\nNew;new@sail.example;32.01.2020\n")
	p, err := h.in.Propose(t.Context(), h.app, uploads)
	require.NoError(t, err)
	p.Sheets[0].Mode, p.Sheets[0].Key = intake.Update, "E-mail"
	status := h.run(uploads, p)
	require.Equal(t, 2, status.Aside, status.Message)
	aside, err := h.in.Aside(t.Context(), h.app.ID, status.ID, 10)
	require.NoError(t, err)
	var mended []imports.MendedRow
	for _, r := range aside.Rows {
		mended = append(mended, imports.MendedRow{ID: r.ID, Cells: []string{r.Cells[0], r.Cells[1], "28.02.2020"}})
	}
	n, err := h.in.Retry(t.Context(), h.app, "Ann", status.ID, mended)
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	rows := h.rows("Owners")
	require.Len(t, rows, 4)
	assert.Equal(t, "Ines Holm", rows[0]["Name"])
	assert.Equal(t, "2020-02-28", rows[0]["Customer since"])
	assert.Equal(t, "New", rows[3]["Name"])
}

// TestALargeFileIsReadInPieces brings a file of more than 50 MB, of which a few
// rows are not right.
func TestALargeFileIsReadInPieces(t *testing.T) {
	h := newHarbour(t)
	const lines = 60_000
	filler := strings.Repeat("the kettle is always on, ", 36)
	reader, writer := io.Pipe()
	go func() {
		w := bufio.NewWriter(writer)
		_, err := fmt.Fprintln(w, "Entry,Hours,Note")
		for i := range lines {
			hours := fmt.Sprint(i % 9)
			if i%20_000 == 777 {
				hours = "many"
			}
			_, err = fmt.Fprintf(w, "Entry %d,%s,\"%s\"\n", i, hours, filler)
		}
		writer.CloseWithError(errors.Join(err, w.Flush()))
	}()
	id, err := h.in.Upload(t.Context(), h.app, "log.csv", reader)
	require.NoError(t, err)
	var size int64
	require.NoError(t, h.s.DB.Raw("SELECT size FROM uploads WHERE id = ?", id).Scan(&size).Error)
	require.Greater(t, size, int64(50<<20))
	p, err := h.in.Propose(t.Context(), h.app, []string{id})
	require.NoError(t, err)
	id, err = h.in.Start(t.Context(), h.jobs, h.app, "Ann", []string{id}, p)
	require.NoError(t, err)
	var status imports.Status
	require.Eventually(t, func() bool {
		status, err = h.in.Status(t.Context(), h.app.ID, id)
		return err == nil && status.Status == "done"
	}, 60*time.Second, 50*time.Millisecond)
	assert.Equal(t, lines, status.Imported+status.Aside)
	assert.Equal(t, 3, status.Aside)
}
