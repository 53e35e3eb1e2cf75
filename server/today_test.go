package server_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
	"pinegate/store"
)

// TestHistoriesKeepWhoDidIt has two founders of one name do things, one of whom had
// another name before, and a customer whose name changes later.
func TestHistoriesKeepWhoDidIt(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	base := "/api/apps/" + s.App.ID
	other := member(t, s, "nora@team.example", store.Owner)
	var g grid
	f.Read(base+"/tables/boat/records?as=founder", &g)
	boat := fmt.Sprint(g.Rows[0]["id"])
	change := func(c *servertest.Client, note string) {
		c.Read(base+"/tables/boat/records?as=founder", &g)
		revision := g.Rows[0]["revision"]
		c.Write(http.MethodPatch, base+"/tables/boat/records/"+boat+"?as=founder",
			map[string]any{"revision": revision, "values": map[string]any{"boat_note": note}})
	}
	change(other, "by nora")
	past := func() (by []string) {
		var p struct{ Versions []struct{ MadeBy string } }
		f.Read(base+"/tables/boat/records/"+boat+"/history?as=founder", &p)
		for _, v := range p.Versions {
			by = append(by, v.MadeBy)
		}
		return by
	}
	assert.Equal(t, "nora", past()[0])
	require.NoError(t, s.Store.DB.Exec("UPDATE builders SET name = 'Marta Alder' WHERE email = 'nora@team.example'").Error)
	assert.Equal(t, "nora (today Marta Alder, nora@team.example)", past()[0])
	change(other, "by the second of that name")
	change(f, "by the first of that name")
	assert.Equal(t, []string{"Marta Alder (marta@aldercove.example)",
		"Marta Alder (nora@team.example)", "nora (today Marta Alder, nora@team.example)"}, past()[:3])

	var changes, versions []struct{ By string }
	f.Read(base+"/history", &changes)
	assert.Equal(t, "Marta Alder (marta@aldercove.example)", changes[0].By)
	assert.Equal(t, "nora (today Marta Alder, nora@team.example)", changes[2].By)
	apply(t, s, set("boat", "name", "Vessels"))
	f.Read(base+"/versions", &versions)
	assert.Equal(t, "Marta Alder", versions[0].By, "of those who published, one only is called so")
	require.NoError(t, s.Store.DB.Exec("UPDATE builders SET name = 'Marta Sund' WHERE email = 'marta@aldercove.example'").Error)
	f.Read(base+"/versions", &versions)
	assert.Equal(t, "Marta Alder (today Marta Sund, marta@aldercove.example)", versions[0].By)
	var team struct{ Log []struct{ By string } }
	f.Read("/api/workspaces/"+s.App.WorkspaceID, &team)
	assert.Equal(t, "Marta Alder (today Marta Sund, marta@aldercove.example)", team.Log[0].By)

	// of customers, the record is kept that says who they are
	person := s.Person(t, ines)
	_, own := foreign(t, s)
	person.Write(http.MethodPost, live+"/forms/p_ask_c", map[string]any{"key": servertest.Key(), "path": "ask-for-work",
		"values": map[string]any{"req_title": "Mine", "req_boat": own["id"], "req_kind": "wk_hull"}})
	history := fmt.Sprintf(`"app_%s_live"._history`, strings.ReplaceAll(s.App.ID, "-", ""))
	var by, id string
	require.NoError(t, s.Store.DB.Raw("SELECT made_by, made_by_id FROM "+history+" ORDER BY id DESC LIMIT 1").Row().Scan(&by, &id))
	assert.Equal(t, "Ines Calder", by)
	assert.Equal(t, store.ByPerson("own", fmt.Sprint(own["boat_owner"])), id)
}
