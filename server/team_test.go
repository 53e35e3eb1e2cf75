package server_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
	"pinegate/store"
	"pinegate/store/apps"
)

func TestLookingAtTheLiveApp(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	var people struct{ People []struct{ ID, Label string } }
	f.Read("/api/apps/"+s.App.ID+"/people?role=r_own&live=true&search=Ines+Calder", &people)
	as := "live.person.r_own." + people.People[0].ID
	stage := "/stage/" + s.App.ID + "/" + as + "/-"
	var p page
	f.Read(stage+"/page?path=my-boats", &p)
	assert.Len(t, p.Blocks[2].Rows, 2)
	_, own := foreign(t, s)
	send := func() (int, string) {
		return f.Do(http.MethodPost, stage+"/forms/p_ask_c", map[string]any{"key": servertest.Key(), "path": "ask-for-work",
			"values": map[string]any{"req_title": "By the founder", "req_boat": own["id"], "req_kind": "wk_hull"}})
	}
	status, _ := send()
	assert.Equal(t, http.StatusForbidden, status, "looking is not acting")
	f.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/acting", map[string]string{"as": as})
	status, body := send()
	require.Equal(t, http.StatusOK, status, body)
	var by, id string
	require.NoError(t, s.Store.DB.Raw(fmt.Sprintf(`SELECT made_by, made_by_id FROM "app_%s_live"._history ORDER BY id DESC LIMIT 1`,
		strings.ReplaceAll(s.App.ID, "-", ""))).Row().Scan(&by, &id))
	assert.Equal(t, "Marta Alder, acting as Ines Calder", by)
	assert.True(t, strings.HasPrefix(id, "builder:"), id)
	require.NoError(t,
		s.Store.DB.Exec(`UPDATE sessions SET acting = jsonb_set(acting, '{until}', '"2020-01-01T00:00:00Z"') WHERE acting IS NOT NULL`).Error)
	status, _ = send()
	assert.Equal(t, http.StatusForbidden, status, "it is over by itself")
	var team struct{ Log []struct{ What string } }
	f.Read("/api/workspaces/"+s.App.WorkspaceID, &team)
	assert.Contains(t, fmt.Sprint(team.Log), "Looked at the live app as Ines Calder")
	// viewers do not, and the founder of nothing here neither; the live grid is not handed out
	viewer := member(t, s, "vera@team.example", store.Viewer)
	for _, path := range []string{stage + "/page", "/api/apps/" + s.App.ID + "/people?role=r_own&live=true", "/api/apps/" + s.App.ID +
		"/why?as=" + as + "&table=boat&action=see"} {
		status, _ := viewer.Do(http.MethodGet, path, nil)
		assert.Equal(t, http.StatusForbidden, status, path)
	}
	status, _ = f.Do(http.MethodGet, "/api/apps/"+s.App.ID+"/tables/boat/records?as=live.founder", nil)
	assert.Equal(t, http.StatusNotFound, status)
	status, _ = f.Do(http.MethodGet, "/stage/"+s.App.ID+"/live.founder/-/page", nil)
	assert.Equal(t, http.StatusNotFound, status, "nobody looks at the live app as nobody")
}

// TestLooksAreWrittenDown looks at live values by other ways than pages.
func TestLooksAreWrittenDown(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	api := "/api/apps/" + s.App.ID
	log := func() string {
		var team struct{ Log []struct{ What, By string } }
		s.Founder(t).Read("/api/workspaces/"+s.App.WorkspaceID, &team)
		return fmt.Sprint(team.Log)
	}
	editor, viewer := member(t, s, "edda@team.example", store.Editor), member(t, s, "vera@team.example", store.Viewer)
	var people struct{ People []struct{ ID string } }
	editor.Read(api+"/people?role=r_own&live=true&search=Ines+Calder", &people)
	assert.Contains(t, log(), "Looked at the list of Boat owners of the live app")
	as := "live.person.r_own." + people.People[0].ID
	assert.NotContains(t, log(), "Looked at the live app as Ines Calder")
	editor.Read(api+"/why?as="+as+"&table=boat&action=see", &struct{}{})
	assert.Contains(t, log(), "Looked at the live app as Ines Calder")
	editor.Read(api+"/why/page?as=live.role.r_crew&page=p_orders", &struct{}{})
	assert.Contains(t, log(), "Looked at the live app as Crew")

	// who has the same name as another is another
	twins := func() int { return strings.Count(log(), "Looked at the live app as Ines Calder") }
	require.Equal(t, 1, twins())
	owners := apps.SchemaName(s.App, apps.Live) + ".owners"
	require.NoError(t, s.Store.DB.Exec("UPDATE "+owners+" SET name = 'Ines Calder' WHERE email = ?", tomas).Error)
	editor.Read(api+"/people?role=r_own&live=true&search=Ines+Calder", &people)
	require.Len(t, people.People, 2)
	for _, p := range people.People {
		editor.Read(api+"/why?as=live.person.r_own."+p.ID+"&table=boat&action=see", &struct{}{})
	}
	assert.Equal(t, 2, twins())

	// a plan shows values that would be lost
	editor.Write(http.MethodPost, api+"/changes", map[string]any{"changes": []any{set("boat_registration", "type", "number")}})
	var plan struct{ Steps []struct{ Samples []string } }
	samples := func() (n int) {
		for _, x := range plan.Steps {
			n += len(x.Samples)
		}
		return n
	}
	viewer.Read(api+"/plan", &plan)
	require.NotEmpty(t, plan.Steps)
	assert.Zero(t, samples())
	assert.NotContains(t, log(), "Saw values of live records")
	editor.Read(api+"/plan", &plan)
	assert.NotZero(t, samples())
	assert.Contains(t, log(), "Saw values of live records")
}

// TestActingEndsWithTheRole takes from somebody who acts what lets them.
func TestActingEndsWithTheRole(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	other := member(t, s, "otto@team.example", store.Owner)
	var people struct{ People []struct{ ID string } }
	other.Read("/api/apps/"+s.App.ID+"/people?role=r_own&live=true&search=Ines+Calder", &people)
	as := "live.person.r_own." + people.People[0].ID
	_, own := foreign(t, s)
	send := func() int {
		status, _ := other.Do(http.MethodPost, "/stage/"+s.App.ID+"/"+as+"/-/forms/p_ask_c", map[string]any{"key": servertest.Key(),
			"path": "ask-for-work", "values": map[string]any{"req_title": "By another", "req_boat": own["id"], "req_kind": "wk_hull"}})
		return status
	}
	other.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/acting", map[string]string{"as": as})
	assert.Equal(t, http.StatusOK, send())
	role := func(to store.MemberRole) {
		require.NoError(t, s.Store.DB.Exec(`UPDATE members SET role = ? FROM builders b WHERE b.id = builder_id AND b.email = 'otto@team.example'
			AND workspace_id = ?`, to, s.App.WorkspaceID).Error)
	}
	role(store.Editor)
	assert.Equal(t, http.StatusForbidden, send(), "an editor looks, and does not act")
	role(store.Viewer)
	assert.Equal(t, http.StatusForbidden, send())
	require.NoError(t, s.Store.DB.Exec("DELETE FROM members WHERE workspace_id = ? AND builder_id <> workspace_id", s.App.WorkspaceID).Error)
	assert.Equal(t, http.StatusNotFound, send())
}

func TestBuildersComeIn(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Client(t)
	const email = "noa@reed.example"
	sign := func(password string) (int, string) {
		return c.Do(http.MethodPost, "/api/sign-in", map[string]string{"email": email, "password": password})
	}
	status, _ := c.Do(http.MethodPost, "/api/sign-up", map[string]string{"email": email, "name": "Noa", "password": "password1234"})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	known, _ := c.Do(http.MethodPost, "/api/sign-up", map[string]string{"email": "marta@aldercove.example", "name": "Mallory",
		"password": goodPassword})
	fresh, answer := c.Do(http.MethodPost, "/api/sign-up", map[string]string{"email": email, "name": "Noa", "password": goodPassword})
	var ticket struct{ Ticket string }
	decode(t, answer, &ticket)
	assert.Equal(t, known, fresh, "whether there is an account is told by mail alone")
	mailTo(t, s, "marta@aldercove.example", "You already have an account")
	status, _ = sign(goodPassword)
	assert.Equal(t, http.StatusUnauthorized, status, "not before the address is confirmed")
	confirm := codeIn(mailTo(t, s, email, "confirms your email"))
	status, _ = c.Do(http.MethodPost, "/api/sign-up/confirm", map[string]string{"email": email, "code": confirm, "ticket": "another"})
	assert.Equal(t, http.StatusUnauthorized, status)
	c.Write(http.MethodPost, "/api/sign-up/confirm", map[string]string{"email": email, "code": confirm, "ticket": ticket.Ticket})
	status, _ = sign(goodPassword)
	require.Equal(t, http.StatusOK, status)
	status, _ = s.Client(t).Do(http.MethodPost, "/api/sign-in",
		map[string]string{"email": "marta@aldercove.example", "password": goodPassword})
	assert.Equal(t, http.StatusUnauthorized, status, "Mallory changed nothing")

	// a password that was forgotten
	c.Write(http.MethodPost, "/api/reset", map[string]string{"email": email})
	c.Write(http.MethodPost, "/api/reset/use", map[string]string{"email": email, "code": codeIn(mailTo(t, s, email, "sets a new password")),
		"password": "another-barnacle-in-tins"})
	status, _ = c.Do(http.MethodGet, "/api/apps", nil)
	assert.Equal(t, http.StatusUnauthorized, status, "all sessions ended")
	status, _ = sign("another-barnacle-in-tins")
	require.Equal(t, http.StatusOK, status)

	// an authenticator
	var setup struct{ Secret string }
	require.NoError(t, json.Unmarshal([]byte(c.Write(http.MethodPost, "/api/account/authenticator", nil)), &setup))
	code, err := totp.GenerateCode(setup.Secret, time.Now())
	require.NoError(t, err)
	var got struct{ Codes []string }
	require.NoError(t, json.Unmarshal([]byte(c.Write(http.MethodPost, "/api/account/authenticator/use", map[string]string{"code": code})),
		&got))
	require.Len(t, got.Codes, 10)
	c = s.Client(t)
	_, answer = sign("another-barnacle-in-tins")
	assert.Contains(t, answer, `"second"`)
	status, _ = c.Do(http.MethodGet, "/api/apps", nil)
	assert.Equal(t, http.StatusUnauthorized, status)
	status, _ = c.Do(http.MethodPost, "/api/sign-in/second", map[string]string{"code": code})
	assert.Equal(t, http.StatusUnauthorized, status, "it was used")
	c.Write(http.MethodPost, "/api/sign-in/second", map[string]string{"code": got.Codes[0]})
	status, _ = c.Do(http.MethodGet, "/api/apps", nil)
	assert.Equal(t, http.StatusOK, status)
}

func TestTeams(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	workspace := "/api/workspaces/" + s.App.WorkspaceID
	editor := member(t, s, "edda@team.example", store.Editor)
	var team struct {
		Members []struct{ ID, Email, Role string }
	}
	f.Read(workspace, &team)
	ids := map[string]string{}
	for _, m := range team.Members {
		ids[m.Email] = m.ID
	}
	status, _ := f.Do(http.MethodPatch, workspace+"/members/"+ids["marta@aldercove.example"], map[string]string{"role": "viewer"})
	assert.Equal(t, http.StatusUnprocessableEntity, status, "the last owner stays one")
	status, _ = editor.Do(http.MethodPatch, workspace+"/members/"+ids["edda@team.example"], map[string]string{"role": "owner"})
	assert.Equal(t, http.StatusForbidden, status)
	status, _ = editor.Do(http.MethodDelete, "/api/apps/"+s.App.ID+"?name=Alder+Cove+Boatyard", nil)
	assert.Equal(t, http.StatusForbidden, status)
	status, _ = f.Do(http.MethodDelete, "/api/apps/"+s.App.ID+"?name=alder", nil)
	assert.Equal(t, http.StatusUnprocessableEntity, status, "its name has to be typed")
	f.Write(http.MethodDelete, workspace+"/members/"+ids["edda@team.example"], nil)
	status, _ = editor.Do(http.MethodGet, "/api/apps/"+s.App.ID, nil)
	assert.Equal(t, http.StatusNotFound, status, "who was taken out is out at once")
	// an invitation is for the address to which it went
	token, err := s.Accounts.InviteBuilder(t.Context(), s.App.WorkspaceID, "vera@team.example", store.Viewer)
	require.NoError(t, err)
	status, _ = editor.Do(http.MethodPost, "/api/join", map[string]string{"token": token})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	f.Write(http.MethodDelete, "/api/apps/"+s.App.ID+"?name=Alder+Cove+Boatyard", nil)
	status, _ = f.Do(http.MethodGet, "/api/apps/"+s.App.ID, nil)
	assert.Equal(t, http.StatusNotFound, status)
}
