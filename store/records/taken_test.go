package records_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/store/records"
)

// TestWhatIsTakenIsToldToThoseWhoMayAdd adds a record with a value of which there may be
// one: what others have is told only where one may add the record at all.
func TestWhatIsTakenIsToldToThoseWhoMayAdd(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"s_name","values":{"unique":true}}`,
		`{"kind":"set","of":"r.sailor","values":{"see":{"extent":"where","condition":"this = me"},"add":{"extent":"where","condition":"member"}}}`)
	add := func(seat *records.Seat, name string, member bool) error {
		_, err := l.Acts.Edit(t.Context(), l.App, seat, "test", func(u *act.Unit) (*records.Write, error) {
			return u.Road.Add(t.Context(), seat, seat.Blueprint.Table("sailor"),
				acttest.Values(t, map[string]any{"s_name": name, "s_ok": member}), nil)
		})
		return err
	}
	ines := l.Member("Ines")
	for _, name := range []string{"Ruth", "Nobody yet"} {
		require.ErrorIs(t, add(ines, name, false), records.ErrForbidden, name)
	}
	assert.Equal(t, "taken-alone", wrongWith(t, add(ines, "Ruth", true), "s_name"))
	assert.Equal(t, "taken-alone", wrongWith(t, add(l.Founder(), "Ruth", false), "s_name"))
	require.ErrorIs(t, add(l.Member("visitor"), "Ruth", true), records.ErrForbidden)
	assert.Equal(t, 3, l.Count(l.Founder(), "sailor"), "nothing was added by being refused")
	require.NoError(t, add(ines, "Mo", true))
	assert.Equal(t, 4, l.Count(l.Founder(), "sailor"))
}

// TestWhoIsNotSeenHasNoID reads a record that leads to one which the reader does not
// see: not even its id is told.
func TestWhoIsNotSeenHasNoID(t *testing.T) {
	l := acttest.NewLoft(t, `{"kind":"set","of":"r.sail","values":{"see":{"extent":"all"},"change":{"extent":"all"}}}`,
		`{"kind":"set","of":"r.sailor","values":{"see":{"extent":"where","condition":"this = me"}}}`)
	const his = "Spinnaker"
	ines := l.Member("Ines")
	got := row(l, ines, "sail", l.Sails[his])
	assert.Nil(t, got["owner"])
	assert.Nil(t, got["owner~"])
	// what stands there stays when the record is changed, and nobody else is put there by it
	_, err := l.Acts.Edit(t.Context(), l.App, ines, "test", func(u *act.Unit) (*records.Write, error) {
		return u.Road.Change(t.Context(), ines, ines.Blueprint.Table("sail"), l.Sails[his], 1,
			acttest.Values(t, map[string]any{"name": "Renamed"}), nil)
	})
	require.NoError(t, err)
	assert.Equal(t, l.People["Tomas"], row(l, l.Founder(), "sail", l.Sails[his])["owner"])
}
