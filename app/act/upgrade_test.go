package act_test

import (
	"compress/gzip"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/blueprint"
	"pinegate/core/prop"
	"pinegate/core/query"
	"pinegate/core/sentence"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/storetest"
)

// restored gives a store over the data of an older version, as it was dumped from
// there: an app that was made by changes of every kind that there was, published
// twice, with something undone; and the boatyard without its records.
func restored(t *testing.T, dump string) *store.Store {
	t.Helper()
	file, err := os.Open(dump)
	require.NoError(t, err)
	packed, err := gzip.NewReader(file)
	require.NoError(t, err)
	sql, err := io.ReadAll(packed)
	require.NoError(t, err)
	require.NoError(t, file.Close())
	dsn := storetest.Database(t)
	conn, err := pgx.Connect(t.Context(), dsn)
	require.NoError(t, err)
	_, err = conn.PgConn().Exec(t.Context(), string(sql)).ReadAll()
	require.NoError(t, err)
	require.NoError(t, conn.Close(t.Context()))
	s, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	return s
}

// TestDataOfFormat1Opens opens every revision and version that was stored in
// format 1, and goes back to the beginning and forth again by undo and redo.
func TestDataOfFormat1Opens(t *testing.T) {
	s := restored(t, "testdata/format1.sql.gz")
	var stored []struct {
		App       string
		Number    int
		Blueprint json.RawMessage
	}
	require.NoError(t,
		s.DB.Raw("SELECT app_id AS app, number, blueprint FROM revisions UNION ALL SELECT app_id, number, blueprint FROM versions").Scan(&stored).Error)
	require.Greater(t, len(stored), 70)
	for _, r := range stored {
		b, err := blueprint.Decode(r.Blueprint)
		require.NoError(t, err, "revision %d", r.Number)
		require.Equal(t, blueprint.Format, b.Format)
		require.NoError(t, b.Validate(), "revision %d", r.Number)
		require.NotEmpty(t, sentence.Everything(b))
	}
	a := apps.New(s)
	app, err := a.BySlug(t.Context(), "sail-loft")
	require.NoError(t, err)
	newest, err := a.Blueprint(t.Context(), app, apps.Draft)
	require.NoError(t, err)
	undone := 0
	for {
		if _, err := acttest.New(t, a).Undo(t.Context(), app.ID, "Ines"); err != nil {
			require.ErrorIs(t, err, act.ErrNothing)
			break
		}
		undone++
	}
	assert.Greater(t, undone, 65)
	at, err := a.BySlug(t.Context(), "sail-loft")
	require.NoError(t, err)
	first, err := a.Blueprint(t.Context(), at, apps.Draft)
	require.NoError(t, err)
	assert.Empty(t, first.Tables)
	for range undone {
		_, err := acttest.New(t, a).Redo(t.Context(), app.ID, "Ines")
		require.NoError(t, err)
	}
	at, err = a.BySlug(t.Context(), "sail-loft")
	require.NoError(t, err)
	again, err := a.Blueprint(t.Context(), at, apps.Draft)
	require.NoError(t, err)
	assert.Empty(t, sentence.Compare(newest, again))
	// the records are there, and what is live reads them
	live, err := a.Blueprint(t.Context(), app, apps.Live)
	require.NoError(t, err)
	n, err := a.Road(t.Context()).Count(t.Context(), apps.FounderSeat(app, apps.Live, live, ""),
		query.Selection{Table: live.Table("sails")})
	require.NoError(t, err)
	assert.Equal(t, 2, n)
}

// TestFormat1MeansTheSame holds what became of what the newer format says
// otherwise.
func TestFormat1MeansTheSame(t *testing.T) {
	s := restored(t, "testdata/format1.sql.gz")
	a := apps.New(s)
	app, err := a.BySlug(t.Context(), "sail-loft")
	require.NoError(t, err)
	b, err := a.Blueprint(t.Context(), app, apps.Draft)
	require.NoError(t, err)
	list := b.Page("pg1").Block("b1").(*blueprint.RecordsBlock)
	assert.Equal(t, blueprint.RecordsBlock{BlockHead: blueprint.BlockHead{ID: "b1", Kind: "records"}, Table: "sails", Filter: "owner = me",
		Sort: "s_name", Falling: true, Open: "pg2", Empty: "No sails.",
		Columns: list.Columns}, *list)
	form := b.Page("pg1").Block("b2").(*blueprint.FormBlock)
	assert.Equal(t, []prop.Question{{Field: "s_name", Required: true}, {Field: "s_cloth"}}, form.Fields())
	assert.Equal(t, []prop.Given{{Field: "s_own", Value: "me"}}, form.Presets)
	assert.Equal(t, []string{"Add it", "Added.", "pg2"}, []string{form.Submit, form.Thanks, form.Then})
	change := b.Page("pg2").Block("b5").(*blueprint.FormBlock)
	assert.True(t, change.Changes)
	assert.False(t,
		slices.ContainsFunc(change.Fields(), func(q prop.Question) bool { return !b.Table("sails").Field(q.Field).Type.Entered() }),
		"what nobody can fill in is not asked")
	assert.Equal(t, []string{"p_name", "p_sails.s_no"}, b.Role("r1").Match)
	assert.Equal(t, []prop.Path{{When: "member", Page: "pg1"}}, b.Role("r1").Homes)
	assert.True(t, b.Page("pg1").InMenu())
	assert.False(t, b.Page("pg2").InMenu(), "a menu cannot lead to a page about one record")
	assert.Equal(t, "{{code}} it is", b.Gate.MailOf(blueprint.CodeMail).Subject)
}

// TestEnvironmentsAreBroughtToTheLevelByThemselves opens one app of an older
// version, whose environments then know what stands set aside in them; the others
// stay as they are until their turn comes.
func TestEnvironmentsAreBroughtToTheLevelByThemselves(t *testing.T) {
	s := restored(t, "testdata/format1.sql.gz")
	a := apps.New(s)
	levels := func() (out map[string][2]int) {
		var rows []struct {
			Slug                  string
			DraftLevel, LiveLevel int
		}
		require.NoError(t, s.DB.Raw("SELECT slug, draft_level, live_level FROM apps").Scan(&rows).Error)
		out = map[string][2]int{}
		for _, r := range rows {
			out[r.Slug] = [2]int{r.DraftLevel, r.LiveLevel}
		}
		return out
	}
	before := levels()
	require.Len(t, before, 2)
	for slug, l := range before {
		assert.Equal(t, [2]int{1, 1}, l, slug)
	}
	app, err := a.BySlug(t.Context(), "sail-loft")
	require.NoError(t, err)
	for slug, l := range levels() {
		want := 1
		if slug == "sail-loft" {
			want = apps.Level
		}
		assert.Equal(t, [2]int{want, want}, l, slug)
	}
	for _, env := range []apps.Environment{apps.Draft, apps.Live} {
		name := apps.SchemaName(app, env)
		var gone []string
		require.NoError(t, s.DB.Raw(`SELECT DISTINCT table_name FROM information_schema.tables WHERE table_schema = ? AND table_name LIKE 'gone\_%'
			UNION SELECT column_name FROM information_schema.columns WHERE table_schema = ? AND column_name LIKE 'gone\_%'`, name, name).Scan(&gone).Error)
		require.NotEmpty(t, gone, env)
		known := map[string]bool{}
		require.NoError(t, a.Transaction(t.Context(), func(tx *gorm.DB) error {
			aside, err := apps.Aside(t.Context(), tx, name)
			for n := range aside {
				known[n[strings.Index(n, ".")+1:]] = true
			}
			return err
		}))
		assert.ElementsMatch(t, gone, slices.Collect(maps.Keys(known)), env)
		var unknown, all int
		require.NoError(t, s.DB.Raw("SELECT count(*) FILTER (WHERE made_by_id IS NULL), count(*) FROM "+name+"._history").Row().Scan(&unknown, &all))
		assert.Equal(t, all, unknown, "what was done before is kept, and of nobody whose id is known")
	}
	require.NoError(t, a.Upgrade(t.Context()))
	for slug, l := range levels() {
		assert.Equal(t, apps.Level, l[0], slug)
	}
}

// TestEnvironmentsOfLevel3GetTheIndexesOfTheirLists opens an app with a board that is from
// before boards had indexes.
func TestEnvironmentsOfLevel3GetTheIndexesOfTheirLists(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"list","values":{"ways":["board"],"board":"cl"}}`)
	name := apps.SchemaName(l.App, apps.Draft)
	db := l.Store.DB
	indexes := func() (out []string) {
		require.NoError(t, db.Raw("SELECT indexname FROM pg_indexes WHERE schemaname = ? AND indexname LIKE 'list\\_%'", name).Scan(&out).Error)
		return out
	}
	made := indexes()
	require.Len(t, made, 1)
	require.NoError(t, db.Exec("DROP INDEX "+name+"."+made[0]).Error)
	require.NoError(t, db.Exec("UPDATE apps SET draft_level = 3 WHERE id = ?", l.App.ID).Error)
	_, err := l.Apps.Find(t.Context(), l.App.ID)
	require.NoError(t, err)
	assert.Equal(t, made, indexes())
}

// TestAppsOfAnotherServerAreNotTouched opens apps that a newer version has been at,
// and one that lies elsewhere.
func TestAppsOfAnotherServerAreNotTouched(t *testing.T) {
	l := acttest.NewLoft(t)
	set := func(sql string) { require.NoError(t, l.Store.DB.Exec("UPDATE apps SET "+sql).Error) }
	set("draft_level = 1000")
	_, err := l.Apps.BySlug(t.Context(), l.App.Slug)
	require.ErrorIs(t, err, apps.ErrNewer)
	set(fmt.Sprintf("draft_level = %d, database = 'elsewhere'", apps.Level))
	_, err = l.Apps.Find(t.Context(), l.App.ID)
	require.ErrorContains(t, err, "elsewhere")
	set("database = 'main'")
	_, err = l.Apps.Find(t.Context(), l.App.ID)
	require.NoError(t, err)
}

// TestANameThatIsNotThereAnyMore tells what somebody else changed meanwhile from what is
// a mistake of ours.
func TestANameThatIsNotThereAnyMore(t *testing.T) {
	l := acttest.NewLoft(t)
	app, err := l.Apps.BySlug(t.Context(), l.App.Slug)
	require.NoError(t, err)
	missing := fmt.Errorf("read boats: %w", &pgconn.PgError{Code: "42P01"})
	require.NoError(t, l.Apps.Moved(t.Context(), app, nil))
	require.NotErrorIs(t, l.Apps.Moved(t.Context(), app, missing), store.ErrHeld, "nothing was changed")
	require.NoError(t, l.Store.DB.Exec("UPDATE apps SET revision = revision + 1").Error)
	moved := l.Apps.Moved(t.Context(), app, missing)
	require.ErrorIs(t, moved, missing)
	require.Equal(t, store.ErrHeld, store.Trouble(moved))
	other := errors.New("the mast is too tall")
	require.Equal(t, other, l.Apps.Moved(t.Context(), app, other))
}
