package records_test

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/expr"
	"pinegate/store/records"
)

// TestWhatIsHeldIsKnown changes records at random in one unit: one that was added in it, and one that is held. What the
// environment gives of them, and what the history says they held before, is always what they hold then.
func TestWhatIsHeldIsKnown(t *testing.T) {
	l := acttest.NewLoft(t)
	s := l.Founder()
	sails := s.Blueprint.Table("sail")
	fields := s.Catalog.Tables["sail"].Fields
	area := fields[slices.IndexFunc(fields, func(f *expr.Field) bool { return f.ID == "area" })]
	rapid.Check(t, func(rt *rapid.T) {
		err := l.Acts.Do(t.Context(), func(u *act.Unit) error {
			var later records.Later
			road := u.Road.Later(&later)
			given := map[string]any{"name": "New"}
			if rapid.Bool().Draw(rt, "with an area") {
				given["area"] = "7"
			}
			added, err := road.Add(t.Context(), s, sails, acttest.Values(t, given), nil)
			require.NoError(rt, err)
			ids := []string{added.Record, l.Sails["Genoa"]}
			model := map[string]string{} // areas
			for _, id := range ids {
				if v := u.Road.Later(&later).Env(t.Context(), s, nil, nil).Field(expr.RecordOf(id), area); !v.IsEmpty() {
					model[id] = v.String()
				}
			}
			for i := range rapid.IntRange(1, 8).Draw(rt, "steps") {
				id := ids[rapid.IntRange(0, 1).Draw(rt, "which")]
				env := road.Env(t.Context(), s, nil, nil).Reading(map[string][]string{"sail": {"area"}})
				if rapid.Bool().Draw(rt, "held") {
					env.Hold("sail", id)
				}
				if rapid.Bool().Draw(rt, "forgotten") {
					later.Forget()
				}
				v := env.Field(expr.RecordOf(id), area)
				require.Equal(rt, model[id], v.String())
				require.NoError(rt, env.Err())
				to := strconv.Itoa(rapid.IntRange(1, 99).Draw(rt, "area"))
				w, err := road.Change(t.Context(), s, sails, id, records.AnyRevision,
					acttest.Values(t, map[string]any{"area": to}), nil)
				require.NoError(rt, err)
				if model[id] == "" {
					require.Nil(rt, w.Before["area"])
				} else {
					require.Equal(rt, model[id], fmt.Sprint(w.Before["area"]), "step %d", i)
				}
				model[id] = to
			}
			require.NoError(rt, later.Keep(t.Context(), u.Road, s))
			for _, id := range ids {
				var is string
				require.NoError(rt, u.Tx.Raw(fmt.Sprintf(`SELECT coalesce(trim_scale(area)::text, '') FROM "%s".sails WHERE id = ?`, s.Schema), id).
					Row().Scan(&is))
				require.Equal(rt, model[id], is)
			}
			return errTakenBack
		})
		assert.ErrorIs(rt, err, errTakenBack)
	})
}

var errTakenBack = errors.New("taken back")
