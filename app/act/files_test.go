package act_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/query"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// TestFilesComeBack takes a photo out of a boat, and gets it again by the
// history and by undo; and so when the field holds something else meanwhile.
func TestFilesComeBack(t *testing.T) {
	y := newBoatyard(t)
	ctx := t.Context()
	type boat struct {
		ID       string
		Revision int
		Photo    []records.File `json:"boat_photo~"`
	}
	read := func() (out boat) {
		b, err := y.apps.Blueprint(ctx, y.app, apps.Draft)
		require.NoError(t, err)
		rows, _, err := y.apps.Road(ctx).List(ctx, apps.FounderSeat(y.app, apps.Draft, b, "Marta"),
			query.Selection{Table: b.Table("boat"), Columns: []string{"boat_photo"}, Limit: 1})
		require.NoError(t, err)
		require.NoError(t, json.Unmarshal(rows[0], &out))
		return out
	}
	b, err := y.apps.Blueprint(ctx, y.app, apps.Draft)
	require.NoError(t, err)
	seat, table := apps.FounderSeat(y.app, apps.Draft, b, "Marta"), b.Table("boat")
	edit := func(do func(*act.Unit) (*records.Write, error)) error {
		_, err := y.acts.Edit(ctx, y.app, seat, "test", do)
		return err
	}
	first := read()
	require.Len(t, first.Photo, 1)
	empty := func(u *act.Unit) (*records.Write, error) {
		r := u.Road
		return r.Change(ctx, seat, table, first.ID, read().Revision, acttest.Values(t, map[string]any{"boat_photo": nil}), nil)
	}

	require.NoError(t, edit(empty))
	assert.Empty(t, read().Photo)
	past, err := y.apps.Road(ctx).History(ctx, seat, table, first.ID)
	require.NoError(t, err)
	require.NoError(t, edit(func(u *act.Unit) (*records.Write, error) {
		r := u.Road
		return r.BringBack(ctx, seat, table, first.ID, read().Revision, past[1].ID)
	}))
	assert.Equal(t, first.Photo, read().Photo, "the history brings it back")

	require.NoError(t, edit(empty))
	_, err = y.acts.Undo(ctx, y.app.ID, "Marta")
	require.NoError(t, err)
	assert.Equal(t, first.Photo, read().Photo, "undo brings it back")

	y.change(`{"kind":"set","of":"boat_photo","values":{"type":"text"}}`)
	_, err = y.acts.Undo(ctx, y.app.ID, "Marta")
	require.NoError(t, err)
	y.app, err = y.apps.ByID(ctx, y.app.WorkspaceID, y.app.ID)
	require.NoError(t, err)
	assert.Equal(t, first.Photo, read().Photo, "so does undoing another type")

	// a photo of one boat is no photo of another
	rows, _, err := y.apps.Road(ctx).List(ctx, seat, query.Selection{Table: table, Limit: 2})
	require.NoError(t, err)
	var other boat
	require.NoError(t, json.Unmarshal(rows[1], &other))
	var wrong records.FieldErrors
	require.ErrorAs(t, edit(func(u *act.Unit) (*records.Write, error) {
		r := u.Road
		return r.Change(ctx, seat, table, other.ID, other.Revision,
			acttest.Values(t, map[string]any{"boat_photo": []string{first.Photo[0].ID}}), nil)
	}), &wrong)
	assert.Equal(t, "read-lost-file", wrong["boat_photo"].Code)
}
