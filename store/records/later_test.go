package records_test

import (
	"context"
	"errors"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/query"
	"pinegate/store"
	"pinegate/store/records"
)

// TestWhatIsGatheredIsReadAndKept adds records by and by: whoever reads in between finds them, and all
// of it is there in the end, with its history in its order; unless the unit fails.
func TestWhatIsGatheredIsReadAndKept(t *testing.T) {
	l := acttest.NewLoft(t)
	s := l.Founder()
	sails := s.Blueprint.Table("sail")
	before := l.Count(s, "sail")
	failed := errors.New("on purpose")
	add := func(fail error, names ...string) error {
		return l.Acts.EditMany(t.Context(), l.App, s, func(u *act.Unit) (out []*records.Write, _ string, err error) {
			var later records.Later
			road := u.Road.Later(&later)
			for i, name := range names {
				w, err := road.Add(t.Context(), s, sails, acttest.Values(t, map[string]any{"name": name}), nil)
				require.NoError(t, err)
				out = append(out, w)
				if i == 1 {
					n, err := road.Count(t.Context(), s, query.Selection{Table: sails})
					require.NoError(t, err)
					assert.Equal(t, before+2, n, "what was added is found")
				}
			}
			w, err := road.Change(t.Context(), s, sails, out[0].Record, 1, acttest.Values(t, map[string]any{"name": "Renamed"}), nil)
			require.NoError(t, err)
			out = append(out, w)
			return out, "test", errors.Join(later.Keep(t.Context(), u.Road, s), fail)
		})
	}
	require.ErrorIs(t, add(failed, "A", "B", "C"), failed)
	assert.Equal(t, before, l.Count(s, "sail"))
	require.NoError(t, add(nil, "A", "B", "C"))
	assert.Equal(t, before+3, l.Count(s, "sail"))
	var history []string
	require.NoError(t, l.Store.DB.Raw(fmt.Sprintf(`SELECT coalesce(before->>'name', '-') || '>' || (after->>'name') FROM "%s"._history
		WHERE table_id = 'sail' ORDER BY id OFFSET %d`, s.Schema, before)).Scan(&history).Error)
	assert.Equal(t, []string{"->A", "->B", "->C", "A>Renamed"}, history)
}

// TestWhatIsFoundIsNotThereOnceDeleted links to a record that was found before, and deleted since: by who
// may do everything, who is asked for it once, and by somebody to whom it is not shown.
func TestWhatIsFoundIsNotThereOnceDeleted(t *testing.T) {
	l := acttest.NewLoft(t)
	s := l.Founder()
	sails, sailors := s.Blueprint.Table("sail"), s.Blueprint.Table("sailor")
	require.NoError(t, l.Acts.Do(t.Context(), func(u *act.Unit) error {
		var later records.Later
		road := u.Road.Later(&later)
		add := func() error {
			_, err := road.Add(t.Context(), s, sails, acttest.Values(t, map[string]any{"name": "Jib", "owner": l.People["Ines"]}), nil)
			return err
		}
		for range 2 {
			require.NoError(t, add())
		}
		_, err := road.Delete(t.Context(), s, sailors, l.People["Ines"], records.AnyRevision)
		require.NoError(t, err)
		var wrong records.FieldErrors
		require.ErrorAs(t, add(), &wrong)
		assert.Equal(t, "read-record", wrong["owner"].Code)
		return later.Keep(t.Context(), u.Road, s)
	}))
}

// TestWhoMayDoEverythingIsHeldToRevisions changes records as the founder: one that somebody changed since, one in
// the bin, one that never was, and with a field that is none.
func TestWhoMayDoEverythingIsHeldToRevisions(t *testing.T) {
	l := acttest.NewLoft(t)
	s := l.Founder()
	sails := s.Blueprint.Table("sail")
	change := func(id string, revision int, values map[string]any) error {
		_, err := l.Acts.Edit(t.Context(), l.App, s, "test", func(u *act.Unit) (*records.Write, error) {
			return u.Road.Change(t.Context(), s, sails, id, revision, acttest.Values(t, values), nil)
		})
		return err
	}
	require.NoError(t, change(l.Sails["Genoa"], 1, map[string]any{"area": "21"}))
	require.ErrorIs(t, change(l.Sails["Genoa"], 1, map[string]any{"area": "22"}), records.ErrChanged)
	require.NoError(t, change(l.Sails["Genoa"], records.AnyRevision, map[string]any{"area": "23"}))
	require.ErrorIs(t, change("01900000-0000-7000-8000-000000000000", records.AnyRevision, map[string]any{"area": "1"}), store.ErrNotFound)
	require.ErrorIs(t, change("none", records.AnyRevision, map[string]any{"area": "1"}), store.ErrNotFound)
	var wrong records.FieldErrors
	require.ErrorAs(t, change(l.Sails["Genoa"], records.AnyRevision, map[string]any{"none": "1"}), &wrong)
	_, err := l.Acts.Edit(t.Context(), l.App, s, "test", func(u *act.Unit) (*records.Write, error) {
		return u.Road.Delete(t.Context(), s, sails, l.Sails["Genoa"], records.AnyRevision)
	})
	require.NoError(t, err)
	require.ErrorIs(t, change(l.Sails["Genoa"], records.AnyRevision, map[string]any{"area": "1"}), store.ErrNotFound)
}

// TestStatementsTogether are done in their order, and none of them where one fails.
func TestStatementsTogether(t *testing.T) {
	l := acttest.NewLoft(t)
	sailors := fmt.Sprintf(`"%s".sailors`, l.Founder().Schema)
	named := func(name, to string) store.Statement {
		return store.Statement{SQL: "UPDATE " + sailors + " SET name = $2 WHERE name = $1", Args: []any{name, to}}
	}
	together := func(ctx context.Context, list ...store.Statement) error {
		return l.Acts.Do(ctx, func(u *act.Unit) error { return store.Together(ctx, u.Tx, list) })
	}
	names := func() (out []string) {
		require.NoError(t, l.Store.DB.Raw("SELECT name FROM "+sailors+" WHERE deleted_at IS NULL ORDER BY name").Scan(&out).Error)
		return out
	}
	was := names()
	require.NoError(t, together(t.Context(), named("Ines", "A"), named("A", "B"), named("B", "Ines")))
	assert.Equal(t, was, names())
	require.Error(t, together(t.Context(), named("Ines", "A"), store.Statement{SQL: "SELECT 1 / 0"}, named("Tomas", "C")))
	assert.Equal(t, was, names())
	ended, end := context.WithCancel(t.Context())
	end()
	require.Error(t, together(ended, named("Ines", "A")))
	require.Error(t, store.Together(t.Context(), l.Store.DB, nil), "which is in no transaction")
	require.NoError(t, together(t.Context(), named("Nobody", "A")), "the connection is as good as before")
	assert.Equal(t, was, names())
}
