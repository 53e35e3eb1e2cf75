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
