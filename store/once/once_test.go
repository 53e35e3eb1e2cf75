package once_test

import (
	"errors"
	"os"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"pinegate/store"
	"pinegate/store/once"
	"pinegate/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

// TestOnce does something, or takes it back, and asks for it again.
func TestOnce(t *testing.T) {
	s := storetest.New(t)
	app := uuid.NewString()
	require.NoError(t, s.DB.Exec("INSERT INTO workspaces (id, name) VALUES (?, 'Cove')", app).Error)
	require.NoError(t, s.DB.Create(&store.App{ID: app, WorkspaceID: app, Slug: "cove"}).Error)
	book := once.In(s.DB)
	ask := func(who string, what any) once.Ask {
		a, err := book.Ask(app, "a key", who, what)
		require.NoError(t, err)
		return a
	}
	a := ask("Ines", 3)
	before := func() (bool, int) {
		answer := 0
		is, err := a.Before(t.Context(), &answer)
		require.NoError(t, err)
		return is, answer
	}
	did := func(failing error) error {
		return s.DB.Transaction(func(tx *gorm.DB) error {
			if err := a.Begin(t.Context(), tx); err != nil {
				return err
			}
			return errors.Join(a.End(t.Context(), tx, 42), failing)
		})
	}
	sank := errors.New("it sank")
	require.ErrorIs(t, did(sank), sank)
	is, _ := before()
	assert.False(t, is, "what was taken back was not done")
	require.NoError(t, did(nil))
	require.ErrorIs(t, did(nil), once.ErrBefore)
	is, answer := before()
	assert.True(t, is)
	assert.Equal(t, 42, answer)
	for _, other := range []once.Ask{ask("Tomas", 3), ask("Ines", 4)} {
		_, err := other.Before(t.Context(), &answer)
		assert.ErrorContains(t, err, "sent before")
	}
	require.NoError(t, book.Sweep(t.Context()))
	is, _ = before()
	assert.True(t, is)
	require.NoError(t, s.DB.Exec("UPDATE once SET at = at - interval '3 days'").Error)
	require.NoError(t, book.Sweep(t.Context()))
	is, _ = before()
	assert.False(t, is, "it is forgotten in time")
}
