package act_test

import (
	"fmt"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/publish"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/store"
)

func TestViewsAreForThoseWhoMayHaveThem(t *testing.T) {
	y := newBoatyard(t)
	ctx := t.Context()
	ann, ben := y.app.WorkspaceID, y.builder("ben@yard.example")
	save := func(who string, v store.View) (store.View, error) {
		v.TableID = "boat"
		v.Settings.Filter = "length > 5"
		return y.apps.SaveView(ctx, y.app, who, v)
	}
	mine, err := save(ann, store.View{Name: " Long boats ", BuilderID: &ann})
	require.NoError(t, err)
	assert.Equal(t, "Long boats", mine.Name)
	shared, err := save(ann, store.View{Name: "Shared"})
	require.NoError(t, err)
	names := func(who string) (out []string) {
		list, err := y.apps.Views(ctx, y.app, "boat", who)
		require.NoError(t, err)
		for _, v := range list {
			out = append(out, v.Name)
		}
		return out
	}
	assert.Equal(t, []string{"Shared", "Long boats"}, names(ann))
	assert.Equal(t, []string{"Shared"}, names(ben))

	// another's view cannot be reached, by any way
	_, err = save(ben, store.View{ID: mine.ID, Name: "Stolen", BuilderID: &ben})
	require.ErrorIs(t, err, store.ErrNotFound)
	require.ErrorIs(t, y.apps.DeleteView(ctx, y.app, ben, mine.ID), store.ErrNotFound)
	elsewhere := y.app
	elsewhere.ID = uuid.NewString()
	require.ErrorIs(t, y.apps.DeleteView(ctx, elsewhere, ann, shared.ID), store.ErrNotFound, "a view of another app")

	var p *words.Problem
	for _, name := range []string{"", "   ", string(make([]rune, 61)), "Shared"} {
		_, err = save(ann, store.View{Name: name})
		require.ErrorAs(t, err, &p, "%q", name)
	}
	for i := range 98 {
		_, err = save(ann, store.View{Name: fmt.Sprint("View ", i)})
		require.NoError(t, err)
	}
	_, err = save(ann, store.View{Name: "One too many"})
	require.ErrorAs(t, err, &p)
	assert.Contains(t, p.Error(), "100 views")
	require.NoError(t, y.apps.DeleteView(ctx, y.app, ben, shared.ID), "what is shared belongs to all")

	// names that conditions use are followed, and back again by undo
	y.change(`{"kind":"set","of":"boat_length","values":{"name":"Overall"}}`)
	filter := func() string {
		list, err := y.apps.Views(ctx, y.app, "boat", ann)
		require.NoError(t, err)
		return list[len(list)-1].Settings.Filter
	}
	assert.Equal(t, "overall > 5", filter())
	_, err = y.acts.Undo(ctx, y.app.ID, "Marta")
	require.NoError(t, err)
	assert.Equal(t, "length > 5", filter())
}

func TestEffectsAreToldAndNotMade(t *testing.T) {
	y := newBoatyard(t)
	decode := func(source string) blueprint.Change {
		c, err := blueprint.DecodeChange([]byte(source), func() string { return "fresh" })
		require.NoError(t, err)
		return c
	}
	for source, want := range map[string]struct {
		mends, losses int
		says          string
	}{
		`{"kind":"set","of":"boat_draught","values":{"type":"text"}}`:        {0, 0, ""},
		`{"kind":"set","of":"boat_registration","values":{"type":"number"}}`: {0, 1, "60 values don’t convert"},
		`{"kind":"set","of":"boat_photo","values":{"type":"text"}}`:          {0, 1, "8 values don’t convert"},
		`{"kind":"remove","of":"boat_note"}`:                                 {0, 1, "records have values in it"},
		`{"kind":"remove","of":"ord_hours"}`:                                 {3, 1, "400 records have values in it"},
		`{"kind":"set","of":"boat_note","values":{"name":"Notes"}}`:          {0, 0, ""},
	} {
		effects, err := publish.EffectsOf(t.Context(), y.apps, y.app, decode(source))
		require.NoError(t, err, source)
		assert.Len(t, effects.Mends, want.mends, source)
		if assert.Len(t, effects.Losses, want.losses, source) && want.losses > 0 {
			assert.Contains(t, effects.Losses[0].Text, want.says)
		}
	}
	effects, err := publish.EffectsOf(t.Context(), y.apps, y.app,
		decode(`{"kind":"set","of":"visitor.crew","values":{"add":{"extent":"all"}}}`))
	require.NoError(t, err)
	assert.Equal(t, []string{"Visitors can add to Crew without signing in. Anyone added there with an email can then sign in as: Crew and Yard managers."},
		effects.Openings)
	app, err := y.apps.ByID(t.Context(), y.app.WorkspaceID, y.app.ID)
	require.NoError(t, err)
	assert.Equal(t, y.app.Revision, app.Revision, "telling changes nothing")
	_, err = publish.EffectsOf(t.Context(), y.apps, y.app, decode(`{"kind":"remove","of":"gone"}`))
	var p *words.Problem
	require.ErrorAs(t, err, &p)
}
