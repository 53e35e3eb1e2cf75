package backup_test

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"os"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/demo"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/backup"
	"pinegate/store/files"
	"pinegate/store/records"
	"pinegate/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

func folder(t *testing.T) *files.Store {
	s, err := files.Open(t.Context(), files.Folder(t.TempDir()))
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, s.Close()) })
	return s
}

func open(t *testing.T, dsn string) *store.Store {
	s, err := store.Open(t.Context(), dsn)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	return s
}

// contents gives what all tables of a database hold, by their names, but for those
// that change by themselves.
func contents(t *testing.T, s *store.Store) map[string]string {
	var tables []string
	require.NoError(t, s.DB.Raw(`SELECT format('%I.%I', schemaname, tablename) FROM pg_tables
		WHERE schemaname NOT IN ('pg_catalog', 'information_schema') AND tablename NOT LIKE 'river%'`).Scan(&tables).Error)
	out := map[string]string{}
	for _, table := range tables {
		var sum string
		require.NoError(t, s.DB.Raw("SELECT count(*) || ' ' || COALESCE(md5(string_agg(t::text, '|' ORDER BY t::text)), '') FROM "+
			table+" t").Row().Scan(&sum), table)
		out[table] = sum
	}
	return out
}

func bytesOf(t *testing.T, kept *files.Store) map[string]string {
	out := map[string]string{}
	require.NoError(t, kept.Each(t.Context(), func(f files.Kept, r io.Reader) error {
		raw, err := io.ReadAll(r)
		out[f.Key] = f.Type + " " + string(raw)
		return err
	}))
	return out
}

// TestABackupBringsEverythingBack takes the demo away and brings it back elsewhere.
func TestABackupBringsEverythingBack(t *testing.T) {
	dsn, kept := storetest.Database(t), folder(t)
	s := open(t, dsn)
	_, err := demo.Load(t.Context(), s, apps.New(s), accounts.New(s), kept, false)
	require.NoError(t, err)
	var tar bytes.Buffer
	written, err := backup.Write(t.Context(), dsn, kept, &tar)
	require.NoError(t, err)
	assert.Equal(t, 1, written.Apps)
	assert.Positive(t, written.Files)

	elsewhere, there := storetest.Database(t), folder(t)
	read, err := backup.Read(t.Context(), elsewhere, there, bytes.NewReader(tar.Bytes()))
	require.NoError(t, err)
	assert.Equal(t, []any{written.Apps, written.Files, written.Bytes}, []any{read.Apps, read.Files, read.Bytes})
	back := open(t, elsewhere)
	assert.Equal(t, contents(t, s), contents(t, back))
	assert.Equal(t, bytesOf(t, kept), bytesOf(t, there))

	// what is back is used as before
	a := apps.New(back)
	app, err := a.BySlug(t.Context(), demo.Slug)
	require.NoError(t, err)
	_, err = acttest.New(t, a).Apply(t.Context(), app.ID, "Ann", blueprint.Setting("boat", "name", "Vessels"))
	require.NoError(t, err)
	_, err = backup.Read(t.Context(), elsewhere, there, bytes.NewReader(tar.Bytes()))
	require.ErrorIs(t, err, backup.ErrNotEmpty)
}

// TestABackupIsOfOneMoment writes pairs of records in one transaction each while
// backups are made: none holds half a pair. Files are not swept meanwhile.
func TestABackupIsOfOneMoment(t *testing.T) {
	l := acttest.NewLoft(t)
	kept := folder(t)
	dsn := l.Store.Pool.Config().ConnConfig
	address := fmt.Sprintf("host=%s port=%d user=%s password=%s dbname=%s sslmode=disable", dsn.Host, dsn.Port, dsn.User, dsn.Password, dsn.Database)
	seat := l.Founder()
	sails := seat.Blueprint.Table("sail")
	before, err := l.Road().Count(t.Context(), seat, query.Selection{Table: sails})
	require.NoError(t, err)
	writing, stop := context.WithCancel(t.Context())
	var wait sync.WaitGroup
	acts := acttest.New(t, l.Apps)
	wait.Go(func() {
		for writing.Err() == nil {
			assert.NoError(t, acts.EditMany(t.Context(), l.App, seat, func(u *act.Unit) (out []*records.Write, _ string, err error) {
				for range 2 {
					w, err := u.Road.Add(t.Context(), seat, sails, acttest.Values(t, map[string]any{"name": "Pair"}), nil)
					if err != nil {
						return nil, "", err
					}
					out = append(out, w)
				}
				return out, "Added a pair", nil
			}))
		}
	})
	for range 3 {
		var tar bytes.Buffer
		_, err := backup.Write(t.Context(), address, kept, &tar)
		require.NoError(t, err)
		elsewhere := storetest.Database(t)
		_, err = backup.Read(t.Context(), elsewhere, folder(t), &tar)
		require.NoError(t, err)
		back := open(t, elsewhere)
		n, err := records.On(back.DB).Count(t.Context(), seat, query.Selection{Table: sails})
		require.NoError(t, err)
		var noted int
		require.NoError(t, back.DB.Raw("SELECT count(*) FROM activities WHERE sentences->>0 = 'Added a pair'").Scan(&noted).Error)
		assert.Equal(t, n-before, 2*noted, "the list of changes fits the records")
	}
	stop()
	wait.Wait()
}

func TestWhatIsNoBackupIsRefused(t *testing.T) {
	dsn, kept := storetest.Database(t), folder(t)
	s := open(t, dsn)
	var tar bytes.Buffer
	_, err := backup.Write(t.Context(), dsn, kept, &tar)
	require.NoError(t, err)
	elsewhere := storetest.Database(t)
	for what, content := range map[string]string{
		"words":       "just words",
		"nothing":     "",
		"a half":      tar.String()[:tar.Len()/2],
		"a beginning": tar.String()[:1536],
		"newer":       strings.Replace(tar.String(), `{"format":1`, `{"format":9`, 1),
	} {
		_, err := backup.Read(t.Context(), elsewhere, folder(t), strings.NewReader(content))
		assert.Error(t, err, what)
	}
	_, err = backup.Read(t.Context(), elsewhere, folder(t), &tar)
	require.NoError(t, err, "what was refused left nothing behind")
	assert.NotEmpty(t, contents(t, s))
}
