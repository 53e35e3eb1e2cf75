package server_test

import (
	"fmt"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

type summary struct {
	ID            string
	Tables, Pages int
	LiveVersion   int
	Changed       bool
	Theme         string
}

// TestTheWorkshopCountsOnce asks for the workshop before and after a change, and
// whether what it tells is kept.
func TestTheWorkshopCountsOnce(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	workshop := func() summary {
		var all []summary
		f.Read("/api/apps", &all)
		require.Len(t, all, 1)
		return all[0]
	}
	first := workshop()
	assert.False(t, first.Changed)
	assert.Equal(t, []int{23, 37, 1}, []int{first.Tables, first.Pages, first.LiveVersion})
	kept := func() string {
		var raw string
		require.NoError(t, s.Store.DB.Raw("SELECT summary::text FROM apps WHERE id = ?", s.App.ID).Row().Scan(&raw))
		return raw
	}
	before := kept()
	workshop()
	assert.Equal(t, before, kept())
	f.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/changes", map[string]any{"changes": []any{addField("boat", "mast", "name", "Mast")}})
	assert.True(t, workshop().Changed)
	assert.Contains(t, kept(), fmt.Sprintf(`"Unpublished": %d`, 1))
	f.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/undo", nil)
	assert.False(t, workshop().Changed)
}

// BenchmarkWorkshop asks for a workshop of 120 apps, which were counted before.
func BenchmarkWorkshop(b *testing.B) {
	s := servertest.New(b)
	f := s.Founder(b)
	for i := range 119 {
		f.Write(http.MethodPost, "/api/apps", map[string]string{"name": fmt.Sprintf("App %d", i)})
	}
	// as large as the demo, each of them
	require.NoError(b, s.Store.DB.Exec(`UPDATE revisions r SET blueprint = (SELECT blueprint FROM revisions d JOIN apps a ON a.id = d.app_id
		AND a.revision = d.number WHERE a.id = ?)`, s.App.ID).Error)
	var all []summary
	f.Read("/api/apps", &all)
	for b.Loop() {
		f.Read("/api/apps", &all)
	}
	assert.Len(b, all, 120)
}
