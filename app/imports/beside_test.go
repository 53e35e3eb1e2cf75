package imports_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"pinegate/app/imports"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/store/apps"
)

// moorings is a file that takes a while to be read.
func moorings(lines int) string {
	var b strings.Builder
	b.WriteString("Name,Number\n")
	for i := range lines {
		fmt.Fprintf(&b, "Mooring %d,%d\n", i, i)
	}
	return b.String()
}

// begin starts an import and gives its id.
func (h *harbour) begin(name, content string) string {
	uploads := h.upload(name, content)
	p, err := h.in.Propose(h.t.Context(), h.app, uploads)
	require.NoError(h.t, err)
	id, err := h.in.Start(h.t.Context(), h.jobs, h.app, "Ann", uploads, p)
	require.NoError(h.t, err)
	return id
}

func (h *harbour) status(id string) imports.Status {
	s, err := h.in.Status(h.t.Context(), h.app.ID, id)
	require.NoError(h.t, err)
	return s
}

// until waits for an import to be in a state.
func (h *harbour) until(id string, is func(imports.Status) bool) imports.Status {
	h.t.Helper()
	var s imports.Status
	require.Eventually(h.t, func() bool { s = h.status(id); return is(s) }, 30*time.Second, 5*time.Millisecond, "%+v", &s)
	return s
}

func reading(s imports.Status) bool { return s.Status == "running" && s.Done > 0 }
func placing(s imports.Status) bool {
	return s.Status == "running" && s.Message == words.Say("import-placing", nil)
}
func over(s imports.Status) bool { return s.Status != "waiting" && s.Status != "running" }

// hold holds the app, as another change does, until it is let go.
func (h *harbour) hold() (release func()) {
	held, done, over := make(chan struct{}), make(chan struct{}), make(chan error, 1)
	go func() {
		over <- h.a.Transaction(h.t.Context(), func(tx *gorm.DB) error {
			_, err := apps.Locked(tx, h.app.ID)
			close(held)
			<-done
			return err
		})
	}()
	<-held
	return func() { close(done); require.NoError(h.t, <-over) }
}

func (h *harbour) change(c ...blueprint.Change) error {
	app, err := h.acts.Apply(h.t.Context(), h.app.ID, "Ann", c...)
	if err == nil {
		h.app = app
	}
	return err
}

// leftBehind counts the tables into which imports read.
func (h *harbour) leftBehind() (n int) {
	require.NoError(h.t, h.s.DB.Raw("SELECT count(*) FROM pg_tables WHERE tablename LIKE '\\_import\\_%'").Scan(&n).Error)
	return n
}

// TestAnAppChangesWhileFilesAreRead changes the app between the first row and the
// last, and holds that both are there then.
func TestAnAppChangesWhileFilesAreRead(t *testing.T) {
	h := newHarbour(t)
	id := h.begin("moorings.csv", moorings(200_000))
	h.until(id, reading)
	require.NoError(t, h.change(blueprint.Adding("table", "", "crane", "name", "Cranes")))
	assert.Equal(t, "running", h.status(id).Status, "the change did not wait for the import")
	s := h.until(id, over)
	require.Equal(t, "done", s.Status, s.Message)
	assert.Equal(t, 200_000, s.Imported)
	app, err := h.a.BySlug(t.Context(), h.app.Slug)
	require.NoError(t, err)
	b, err := h.a.Blueprint(t.Context(), app, apps.Draft)
	require.NoError(t, err)
	assert.Len(t, b.Tables, 2)
	counts, err := h.a.Counts(t.Context(), app, 1_000_000)
	require.NoError(t, err)
	assert.Equal(t, 200_000, counts[b.Tables[1].ID])
	assert.Zero(t, h.leftBehind())
}

// TestFilesAreLookedAtWhileNamesChange gives a table another name again and again while it is looked whether files point to it
// and what would come of them.
func TestFilesAreLookedAtWhileNamesChange(t *testing.T) {
	h := newHarbour(t)
	h.bring("boats.csv", "Boat,Length\nAda,7\nBerta,9\nClara,11\n")
	b, err := h.a.Blueprint(t.Context(), h.app, apps.Draft)
	require.NoError(t, err)
	boats, before := b.Tables[0].ID, h.app
	require.NoError(t, h.change(blueprint.Setting(boats, "name", "Ships")))
	uploads := h.upload("stays.csv", "Boat,From,Nights\nAda,2026-03-14,3\nClara,2026-03-15,2\nAda,2026-04-20,1\n")
	p, err := h.in.Propose(t.Context(), before, uploads) // who asks has read the app before
	require.NoError(t, err)
	require.NotNil(t, p.Sheets[0].Columns[0].Link)
	assert.Equal(t, boats, p.Sheets[0].Columns[0].Link.Table)

	stop, ended := make(chan struct{}), make(chan error, 1)
	go func() {
		for n := 0; ; n++ {
			if _, err := h.acts.Apply(t.Context(), h.app.ID, "Ann", blueprint.Setting(boats, "name", fmt.Sprint("Ships ", n))); err != nil {
				ended <- err
				return
			}
			select {
			case <-stop:
				ended <- nil
				return
			case <-time.After(20 * time.Millisecond): // nobody is faster for long
			}
		}
	}()
	for range 20 {
		p, err := h.in.Propose(t.Context(), before, uploads)
		require.NoError(t, err)
		tally, err := h.in.Tally(t.Context(), before, uploads, p)
		require.NoError(t, err)
		assert.Equal(t, 3, tally.Sheets[0].Records)
		assert.Equal(t, 3, tally.Sheets[0].Links[0].Made)
	}
	close(stop)
	require.NoError(t, <-ended)
}

// TestWhatNoLongerFitsIsNotPutInPlace changes the type of a field while rows for it
// are read.
func TestWhatNoLongerFitsIsNotPutInPlace(t *testing.T) {
	h := newHarbour(t)
	h.bring("moorings.csv", moorings(20))
	b, err := h.a.Blueprint(t.Context(), h.app, apps.Draft)
	require.NoError(t, err)
	release := h.hold()
	id := h.begin("moorings.csv", moorings(30))
	h.until(id, placing)
	changed := make(chan error, 1)
	go func() { changed <- h.change(blueprint.Setting(b.Tables[0].Fields[1].ID, "type", blueprint.Text)) }()
	// the change waits for the app as the import does; whichever comes first, rows and fields fit
	release()
	require.NoError(t, <-changed)
	s := h.until(id, over)
	rows := h.rowsNow("Moorings")
	switch s.Status {
	case "done":
		assert.Len(t, rows, 50)
	case "failed":
		assert.Equal(t, words.Say("import-draft-changed", words.Args{"table": "Moorings"}), s.Message)
		assert.Len(t, rows, 20)
	default:
		t.Fatal(s)
	}
	assert.Zero(t, h.leftBehind())
}

func (h *harbour) rowsNow(table string) []map[string]any {
	var err error
	h.app, err = h.a.BySlug(h.t.Context(), h.app.Slug)
	require.NoError(h.t, err)
	return h.rows(table)
}

// TestARemovedTableIsNotBroughtBack removes the table while rows for it are read.
func TestARemovedTableIsNotBroughtBack(t *testing.T) {
	h := newHarbour(t)
	h.bring("moorings.csv", moorings(20))
	b, err := h.a.Blueprint(t.Context(), h.app, apps.Draft)
	require.NoError(t, err)
	id := h.begin("moorings.csv", moorings(200_000))
	h.until(id, reading)
	require.NoError(t, h.change(&blueprint.Remove{Of: b.Tables[0].ID}))
	s := h.until(id, over)
	assert.Equal(t, "failed", s.Status)
	assert.Equal(t, words.Say("import-draft-changed", words.Args{"table": "Moorings"}), s.Message)
	assert.Zero(t, h.leftBehind())
	_, err = h.acts.Undo(t.Context(), h.app.ID, "Ann")
	require.NoError(t, err)
	assert.Len(t, h.rowsNow("Moorings"), 20)
}

// TestARunThatIsTakenForDeadChangesNothing gives an import to another run in the
// midst of it, as another server does when it hears nothing.
func TestARunThatIsTakenForDeadChangesNothing(t *testing.T) {
	h := newHarbour(t)
	release := h.hold()
	id := h.begin("moorings.csv", moorings(500))
	h.until(id, placing)
	// of another claim, so that the first run can no longer say that it goes on
	const lost = "018f0000-0000-7000-8000-000000000000"
	require.NoError(t, h.s.DB.Exec("UPDATE imports SET claim = ?, alive_at = now() - interval '1 hour' WHERE id = ?", lost, id).Error)
	// the second run reads on its own, and waits for the app as the first does
	require.NoError(t, h.in.Resume(t.Context(), h.jobs))
	require.Eventually(t, func() bool {
		claim := ""
		err := h.s.DB.Raw("SELECT claim FROM imports WHERE id = ?", id).Scan(&claim).Error
		return err == nil && claim != lost
	}, 20*time.Second, 5*time.Millisecond)
	release()
	s := h.until(id, over)
	require.Equal(t, "done", s.Status, s.Message)
	assert.Len(t, h.rowsNow("Moorings"), 500)
	assert.Zero(t, h.leftBehind())
}

// TestARunThatWaitsSaysThatItGoesOn has a run wait, which nothing else writes down.
func TestARunThatWaitsSaysThatItGoesOn(t *testing.T) {
	h := newHarbour(t)
	release := h.hold()
	id := h.begin("moorings.csv", moorings(500))
	h.until(id, placing)
	require.NoError(t, h.s.DB.Exec("UPDATE imports SET alive_at = now() - interval '1 hour' WHERE id = ?", id).Error)
	require.Eventually(t, func() bool {
		alive := false
		err := h.s.DB.Raw("SELECT alive_at > now() - interval '1 minute' FROM imports WHERE id = ?", id).Scan(&alive).Error
		return err == nil && alive
	}, 20*time.Second, 50*time.Millisecond)
	release()
	assert.Equal(t, "done", h.until(id, over).Status)
}

// TestWhatWasReadAndLostIsReadAnew empties what was read before it is put in place,
// as PostgreSQL does when it was killed.
func TestWhatWasReadAndLostIsReadAnew(t *testing.T) {
	h := newHarbour(t)
	release := h.hold()
	id := h.begin("moorings.csv", moorings(500))
	h.until(id, placing)
	var table string
	require.NoError(t, h.s.DB.Raw("SELECT schemaname || '.' || tablename FROM pg_tables WHERE tablename LIKE '\\_import\\_%'").Scan(&table).Error)
	require.NoError(t, h.s.DB.Exec("TRUNCATE "+table).Error)
	release()
	s := h.until(id, over)
	require.Equal(t, "done", s.Status, s.Message)
	assert.Len(t, h.rowsNow("Moorings"), 500)
	assert.Zero(t, h.leftBehind())
}

// TestTroubleWithoutEndIsToldOf refuses what an import writes again and again, as
// trouble does that comes from the import itself.
func TestTroubleWithoutEndIsToldOf(t *testing.T) {
	h := newHarbour(t)
	require.NoError(t, h.jobs.QueuePause(t.Context(), imports.Queue, nil))
	id := h.begin("moorings.csv", moorings(5))
	for _, sql := range []string{
		"CREATE FUNCTION refuse() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN RAISE EXCEPTION 'held' USING ERRCODE = '55P03'; END $$",
		"CREATE TRIGGER refuse BEFORE INSERT ON imports_added FOR EACH STATEMENT EXECUTE FUNCTION refuse()",
		"CREATE TRIGGER refuse BEFORE INSERT ON activities FOR EACH STATEMENT EXECUTE FUNCTION refuse()",
		"UPDATE imports SET runs = 9",
	} {
		require.NoError(t, h.s.DB.Exec(sql).Error)
	}
	require.NoError(t, h.jobs.QueueResume(t.Context(), imports.Queue, nil))
	s := h.until(id, over)
	assert.Equal(t, "failed", s.Status)
	assert.Equal(t, words.Say("import-broken", nil), s.Message)
	assert.Zero(t, h.leftBehind())
}

// TestAWorkspaceImportsOneAfterTheOther leaves workers for others.
func TestAWorkspaceImportsOneAfterTheOther(t *testing.T) {
	h := newHarbour(t)
	release := h.hold()
	one := h.begin("moorings.csv", moorings(50))
	h.until(one, placing)
	two := h.begin("cranes.csv", "Crane,Carries\nNorth,12\nSouth,8\n")
	require.Eventually(t, func() bool { // it was tried, and put off
		var n int
		err := h.s.DB.Raw("SELECT count(*) FROM river_job WHERE args->>'import' = ? AND metadata->>'snoozes' = '1'", two).Scan(&n).Error
		return err == nil && n == 1
	}, 20*time.Second, 5*time.Millisecond)
	assert.Equal(t, "waiting", h.status(two).Status)
	release()
	assert.Equal(t, "done", h.until(one, over).Status)
	assert.Equal(t, "done", h.until(two, over).Status)
	assert.Len(t, h.rowsNow("Moorings"), 50)
	assert.Len(t, h.rowsNow("Cranes"), 2)
}

// TestWhatAKilledServerLeftIsSweptAway leaves a table of an import that is over.
func TestWhatAKilledServerLeftIsSweptAway(t *testing.T) {
	h := newHarbour(t)
	status, _ := h.bring("moorings.csv", moorings(5))
	table := fmt.Sprintf("%s._import_%s_0", apps.SchemaName(h.app, apps.Draft), strings.ReplaceAll(status.ID, "-", ""))
	require.NoError(t, h.s.DB.Exec("CREATE TABLE "+table+" (a int)").Error)
	require.NoError(t, h.in.Sweep(t.Context()))
	assert.Zero(t, h.leftBehind())
}
