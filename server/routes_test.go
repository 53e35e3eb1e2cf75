package server_test

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
	"pinegate/store"
)

// builderRoutes declares every route of the builder and the stage, by who may
// use it: open to all, own for whoever is signed in and only about themselves,
// and else what a member of the workspace has to be.
var builderRoutes = map[string]string{
	"open": `POST /in/:secret; POST /leave/:carried; GET /healthz; GET /readyz; GET /robots.txt; GET /api/session; GET /api/mailbox; POST /api/sign-in; POST /api/sign-in/second; POST /api/sign-out; POST /api/sign-up; POST /api/sign-up/confirm;
		POST /api/reset; POST /api/reset/use; POST /api/join/look; POST /api/join/new`,
	"own": `GET /api/account; POST /api/account/authenticator; POST /api/account/authenticator/drop; POST /api/account/authenticator/use; POST /api/account/password; POST /api/account/sessions/end;
		GET /api/apps; POST /api/apps; GET /api/workspaces; POST /api/workspaces; POST /api/join`,
	"viewer": `GET /api/apps/:app; GET /api/apps/:app/access; GET /api/apps/:app/events; GET /api/apps/:app/expectations; GET /api/apps/:app/export; GET /api/apps/:app/history;
		GET /api/apps/:app/imports/:import; GET /api/apps/:app/imports/:import/aside; GET /api/apps/:app/leftovers; GET /api/apps/:app/leftovers/:import; GET /api/apps/:app/people;
		GET /api/apps/:app/pictures/:picture; GET /api/apps/:app/plan; GET /api/apps/:app/script/:stop; GET /api/apps/:app/script/:stop/whole; POST /api/apps/:app/setting; GET /api/apps/:app/clauses; GET /api/apps/:app/merges; GET /api/apps/:app/counts; GET /api/apps/:app/sees; GET /api/apps/:app/tables/:table/bin;
		GET /api/apps/:app/tables/:table/options; GET /api/apps/:app/tables/:table/records; GET /api/apps/:app/tables/:table/records/:record; GET /api/apps/:app/tables/:table/records/:record/files/:field/:file;
		GET /api/apps/:app/tables/:table/records/:record/history; GET /api/apps/:app/tables/:table/records/:record/who; GET /api/apps/:app/tables/:table/totals; GET /api/apps/:app/tables/:table/views;
		GET /api/apps/:app/services; GET /api/apps/:app/workflows/:flow/marks; PUT /api/apps/:app/workflows/:flow/marks; GET /api/apps/:app/runs; GET /api/apps/:app/watch; GET /api/apps/:app/could-run;
		GET /api/apps/:app/runs/:run;
		GET /api/apps/:app/versions; GET /api/apps/:app/why; GET /api/apps/:app/why/page; GET /api/apps/:app/proposal; GET /api/apps/:app/pages/proposal; GET /api/workspaces/:workspace; POST /api/apps/:app/effects; POST /api/apps/:app/expression; GET /stage/:app/:as/-/app; GET /stage/:app/:as/-/events;
		GET /stage/:app/:as/-/files/:table/:record/:field/:file; GET /stage/:app/:as/-/gate; GET /stage/:app/:as/-/services/:block; GET /stage/:app/:as/-/figures/:block; GET /stage/:app/:as/-/lists/:block; GET /stage/:app/:as/-/lists/:block/file; GET /stage/:app/:as/-/options/:block/:field;
		GET /stage/:app/:as/-/page; GET /stage/:app/:as/-/pictures/:picture; POST /stage/:app/:as/-/kept; POST /stage/:app/:as/-/forms/:block/state; GET /stage/:app/:as/-/standalone/:name`,
	"editor": `GET /api/apps/:app/workflow-expectations; POST /api/apps/:app/workflows/:flow/expectations; DELETE /api/apps/:app/workflow-expectations/:want; GET /api/apps/:app/gate; DELETE /api/apps/:app/imports/:import; DELETE /api/apps/:app/invitations/:invitation; DELETE /api/apps/:app/tables/:table/bin; DELETE /api/apps/:app/tables/:table/records/:record;
		DELETE /api/apps/:app/views/:view; PATCH /api/apps/:app/tables/:table/records/:record; POST /api/apps/:app/changes; POST /api/apps/:app/imports; POST /api/apps/:app/imports/propose; POST /api/apps/:app/imports/tally;
		POST /api/apps/:app/help; POST /api/apps/:app/invitations; POST /api/apps/:app/leftovers/:import/drop; POST /api/apps/:app/leftovers/:import/retry; POST /api/apps/:app/mail-trials; POST /api/apps/:app/pictures; POST /api/apps/:app/sender; POST /api/apps/:app/sender/confirm;
		POST /api/apps/:app/publish; POST /api/apps/:app/pages/proposal; POST /api/apps/:app/redo; POST /api/apps/:app/discard; POST /api/apps/:app/tables/:table/bulk; POST /api/apps/:app/tables/:table/fields/:field/files; POST /api/apps/:app/tables/:table/named;
		POST /api/apps/:app/tables/:table/records; POST /api/apps/:app/tables/:table/records/:record/bring-back; POST /api/apps/:app/tables/:table/records/:record/restore;
		POST /api/apps/:app/tables/:table/views; POST /api/apps/:app/undo; POST /api/apps/:app/uploads; POST /api/apps/:app/waiting/:waiting; PUT /api/apps/:app/views/:view;
		POST /api/apps/:app/workflows/:flow/rehearsals; POST /api/apps/:app/runs/:run/again; POST /api/apps/:app/runs/:run/ending; POST /api/apps/:app/calls/:call/trials; POST /api/apps/:app/runs/:run/rehearsals; POST /stage/:app/:as/-/workflows/:flow; POST /stage/:app/:as/-/files/:block/:field; POST /stage/:app/:as/-/forms/:block; POST /stage/:app/:as/-/lists/:block/rows/:record; POST /stage/:app/:as/-/badges/:block; POST /stage/:app/:as/-/timers/:block; POST /stage/:app/:as/-/checklists/:block; POST /stage/:app/:as/-/checklists/:block/ticks`,
	"owner": `DELETE /api/apps/:app; PUT /api/apps/:app/services/:service/secret; GET /api/apps/:app/workflows/:flow/address; POST /api/apps/:app/workflows/:flow/address; PUT /api/apps/:app/workflows/:flow/signature; DELETE /api/apps/:app/services/:service/secret; GET /api/apps/:app/letters; GET /api/apps/:app/letters/:letter; GET /api/apps/:app/mails; POST /api/apps/:app/acting; DELETE /api/workspaces/:workspace/invitations/:invitation; DELETE /api/workspaces/:workspace/members/:member;
		PATCH /api/workspaces/:workspace; PATCH /api/workspaces/:workspace/members/:member; POST /api/workspaces/:workspace/invitations`,
}

func declared(list string) []string {
	var out []string
	for _, r := range strings.Split(list, ";") {
		out = append(out, strings.TrimSpace(r))
	}
	return out
}

const missing = "01a00000-0000-7000-8000-000000000000"

// at fills in the places of a route.
func at(path, app, workspace string) string {
	return strings.NewReplacer(":app", app, ":as", "founder", ":stop", "data", ":table", "boat", ":record", missing, ":view", missing,
		":import", missing, ":run", missing, ":letter", missing, ":want", missing, ":flow", "w_done",
		":service", "harbour", ":call", "c_tides",
		":block", "p_home_h", ":field", "boat_photo", ":name", "enquiry",
		":file", "01a00000-0000-4000-8000-000000000000", ":picture", "01a00000-0000-4000-8000-000000000000", ":workspace", workspace,
		":invitation", missing, ":member", missing, ":waiting", missing).Replace(path)
}

// member gives a client that is signed in as one of the founder's team.
func member(t *testing.T, s *servertest.Site, email string, role store.MemberRole) *servertest.Client {
	t.Helper()
	const password = "barnacle-and-orchard"
	b, err := s.Accounts.AddBuilder(t.Context(), email, strings.Split(email, "@")[0], password)
	require.NoError(t, err)
	if role != "" {
		token, err := s.Accounts.InviteBuilder(t.Context(), s.App.WorkspaceID, email, role)
		require.NoError(t, err)
		_, err = s.Accounts.Join(t.Context(), b, token)
		require.NoError(t, err)
	}
	c := s.Client(t)
	c.Write(http.MethodPost, "/api/sign-in", map[string]string{"email": email, "password": password})
	return c
}

// TestEveryRouteKnowsItsCallers asks every route that the router knows as
// nobody, as people of an app, as the founder of other apps and as members of
// the team. A new route has to be declared above.
func TestEveryRouteKnowsItsCallers(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	strangers := map[string]*servertest.Client{"nobody": s.Client(t), "an owner": s.Person(t, ines),
		"crew": s.Person(t, "jonas@aldercove.example"), "rival": member(t, s, "rival@elsewhere.example", "")}
	team := map[store.MemberRole]*servertest.Client{store.Viewer: member(t, s, "vera@team.example", store.Viewer),
		store.Editor: member(t, s, "edda@team.example", store.Editor)}
	level := map[string]string{}
	for l, list := range builderRoutes {
		for _, r := range declared(list) {
			level[r] = l
		}
	}
	live := map[string]bool{}
	for _, x := range liveRoutes() {
		live[x.route] = true
	}
	for _, route := range s.Server.Routes() {
		if strings.Contains(route, " /a/:app/-/") {
			assert.True(t, live[route], "the route %s is not declared", route)
			continue
		}
		l := level[route]
		if !assert.NotEmpty(t, l, "the route %s is not declared", route) || l == "open" {
			continue
		}
		method, path, _ := strings.Cut(route, " ")
		for _, id := range []string{s.App.ID, missing, "x"} {
			for who, c := range strangers {
				workspace := s.App.WorkspaceID
				if id != s.App.ID {
					workspace = id
				}
				status, answer := c.Do(method, at(path, id, workspace), body(route))
				switch {
				case who != "rival":
					assert.Equal(t, http.StatusUnauthorized, status, "%s as %s: %s", route, who, answer)
				case l != "own":
					assert.Equal(t, http.StatusNotFound, status, "%s as %s: %s", route, who, answer)
				}
				assert.NotContains(t, answer, "Alder", "%s as %s", route, who)
			}
		}
		for role, c := range team {
			if l == "own" || strings.HasSuffix(route, "/events") {
				continue
			}
			status, answer := c.Do(method, at(path, s.App.ID, s.App.WorkspaceID), body(route))
			if role.May(store.MemberRole(l)) {
				assert.NotContains(t, []int{http.StatusUnauthorized, http.StatusForbidden, http.StatusInternalServerError}, status,
					"%s as %s: %s", route, role, answer)
			} else {
				assert.Equal(t, http.StatusForbidden, status, "%s as %s: %s", route, role, answer)
			}
		}
	}
}

// liveRoute is a route of a live app, and what each caller gets.
type liveRoute struct {
	route, path               string
	body                      any
	visitor, owner, elsewhere []int
	yard                      []int // crew, and those who run the yard
}

// liveRoutes declares every route of a live app with what a visitor gets, what
// a boat owner gets, what somebody gets who is signed in to another app, and what
// the yard's people get.
func liveRoutes() []liveRoute {
	const (
		ok, no, closed, gone, wrong = http.StatusOK, http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound,
			http.StatusUnprocessableEntity
		done = http.StatusNoContent
	)
	email := map[string]any{"email": "nobody@sailmail.example"}
	with := func(more ...string) map[string]any {
		out := map[string]any{"email": "nobody@sailmail.example"}
		for i := 0; i+1 < len(more); i += 2 {
			out[more[i]] = more[i+1]
		}
		return out
	}
	all := func(route, path string, body any, status int) liveRoute {
		return liveRoute{route, path, body, []int{status}, []int{status}, []int{status}, []int{status}}
	}
	self := func(route, path string, body any, owner int, yard ...int) liveRoute {
		return liveRoute{route, path, body, []int{no}, []int{owner}, []int{no}, append(yard, owner)}
	}
	return []liveRoute{
		all("GET /a/:app/-/app", "/app", nil, ok),
		all("GET /a/:app/-/gate", "/gate", nil, ok),
		all("GET /a/:app/-/events", "", nil, ok),
		all("GET /a/:app/-/page", "/page?path=welcome", nil, ok),
		{"GET /a/:app/-/page", "/page?path=orders", nil, []int{no}, []int{closed}, []int{no}, []int{ok}},
		{"GET /a/:app/-/page", "/page?path=owners", nil, []int{no}, []int{closed}, []int{no}, []int{ok, closed}},
		{"GET /a/:app/-/page", "/page?path=my-boats", nil, []int{no}, []int{ok}, []int{no}, []int{closed}},
		all("POST /a/:app/-/workflows/:flow", "/workflows/w_done", map[string]any{"key": servertest.Key(), "record": missing}, gone),
		{"GET /a/:app/-/services/:block", "/services/p_hauls_d?path=haul-outs", nil, []int{no}, []int{closed}, []int{no}, []int{ok}},
		{"GET /a/:app/-/figures/:block", "/figures/p_figures_i?path=figures", nil, []int{no}, []int{closed}, []int{no}, []int{ok}},
		{"GET /a/:app/-/figures/:block", "/figures/p_figures_h?path=figures&group=none", nil, []int{no}, []int{closed}, []int{no},
			[]int{gone}},
		all("GET /a/:app/-/lists/:block", "/lists/p_home_h?path=welcome", nil, ok),
		{"GET /a/:app/-/lists/:block", "/lists/p_orders_b?path=orders", nil, []int{no}, []int{closed}, []int{no}, []int{ok}},
		{"GET /a/:app/-/lists/:block/file", "/lists/p_orders_b/file?path=orders", nil, []int{no}, []int{closed}, []int{no}, []int{ok}},
		{"GET /a/:app/-/lists/:block/file", "/lists/p_boats_c/file?path=my-boats", nil, []int{no}, []int{gone}, []int{no}, []int{closed}},
		{"POST /a/:app/-/badges/:block", "/badges/p_targets_b", map[string]any{"path": "targets"}, []int{no}, []int{closed}, []int{no},
			[]int{ok}},
		{"POST /a/:app/-/timers/:block", "/timers/p_order_h", map[string]any{"path": "order", "record": missing, "do": "pause"},
			[]int{no}, []int{closed}, []int{no}, []int{gone}},
		{"POST /a/:app/-/checklists/:block", "/checklists/p_owner_c", map[string]any{"path": "owner", "record": missing, "round": 0,
			"key": servertest.Key()}, []int{no}, []int{gone}, []int{no}, []int{closed, gone}},
		{"POST /a/:app/-/checklists/:block/ticks", "/checklists/p_owner_c/ticks", map[string]any{"path": "owner", "record": missing,
			"item": missing, "revision": 1, "done": true}, []int{no}, []int{gone}, []int{no}, []int{closed, gone}},
		{"POST /a/:app/-/lists/:block/rows/:record", "/lists/p_orders_b/rows/" + missing, map[string]any{"path": "orders", "revision": 1,
			"values": map[string]any{"ord_status": "os_done"}}, []int{no}, []int{closed}, []int{no}, []int{gone}},
		{"POST /a/:app/-/lists/:block/rows/:record", "/lists/p_boats_c/rows/" + missing, map[string]any{"path": "my-boats", "revision": 1,
			"values": map[string]any{"boat_name": "Mine"}}, []int{no}, []int{wrong}, []int{no}, []int{closed}},
		{"GET /a/:app/-/options/:block/:field", "/options/p_ask_c/req_boat?path=ask-for-work", nil, []int{no}, []int{ok}, []int{no},
			[]int{closed}},
		{"POST /a/:app/-/forms/:block", "/forms/p_ask_c", map[string]any{"key": servertest.Key(), "path": "ask-for-work",
			"values": map[string]any{}}, []int{no},
			[]int{wrong}, []int{no}, []int{closed}},
		{"POST /a/:app/-/forms/:block/state", "/forms/p_ask_c/state", map[string]any{"path": "ask-for-work", "answers": map[string]any{}},
			[]int{no}, []int{ok}, []int{no}, []int{closed}},
		{"POST /a/:app/-/files/:block/:field", "/files/p_ask_c/req_photos?path=ask-for-work&name=a.txt", nil, []int{no}, []int{wrong},
			[]int{no}, []int{closed}},
		all("GET /a/:app/-/files/:table/:record/:field/:file", "/files/boat/"+missing+"/boat_photo/01a00000-0000-4000-8000-000000000000",
			nil, gone),
		all("GET /a/:app/-/pictures/:picture", "/pictures/01a00000-0000-4000-8000-000000000000", nil, gone),
		all("GET /a/:app/-/standalone/:name", "/standalone/enquiry", nil, ok),
		all("GET /a/:app/-/standalone/:name", "/standalone/none", nil, gone),
		all("GET /a/:app/-/manifest.webmanifest", "/manifest.webmanifest", nil, ok),
		all("GET /a/:app/-/sitemap.xml", "/sitemap.xml", nil, ok),
		all("GET /a/:app/-/offline", "/offline", nil, ok),
		all("GET /a/:app/-/offline.js", "/offline.js", nil, ok),
		all("GET /a/:app/-/icon/:size", "/icon/192", nil, ok),
		all("POST /a/:app/-/kept", "/kept", map[string]any{"values": map[string]any{"k_length": "9"}}, done),
		all("POST /a/:app/-/sign-in/code", "/sign-in/code", email, done),
		all("POST /a/:app/-/sign-in", "/sign-in", with("code", "000000"), no),
		all("POST /a/:app/-/sign-in/password", "/sign-in/password", with("password", "not-the-password"), no),
		all("POST /a/:app/-/sign-in/link", "/sign-in/link", email, wrong), // no way in of this app
		all("POST /a/:app/-/sign-in/link/use", "/sign-in/link/use", map[string]any{"token": "x"}, wrong),
		all("POST /a/:app/-/sign-in/fields", "/sign-in/fields", map[string]any{"role": "r_own", "answers": []string{"x"}}, wrong),
		all("POST /a/:app/-/sign-in/fields/use", "/sign-in/fields/use",
			map[string]any{"role": "r_own", "answers": []string{"x"}, "code": "000000"}, wrong),
		all("POST /a/:app/-/sign-in/second", "/sign-in/second", map[string]any{"code": "000000"}, no),
		all("POST /a/:app/-/sign-in/second/send", "/sign-in/second/send", nil, no),
		all("POST /a/:app/-/sign-in/authenticator", "/sign-in/authenticator", nil, no),
		all("POST /a/:app/-/sign-in/authenticator/use", "/sign-in/authenticator/use", map[string]any{"code": "000000"}, no),
		all("POST /a/:app/-/sign-up", "/sign-up", map[string]any{"role": "r_man", "email": "nobody@sailmail.example",
			"values": map[string]any{}}, wrong),
		all("POST /a/:app/-/sign-up/confirm", "/sign-up/confirm", with("code", "000000", "ticket", "x"), no),
		all("POST /a/:app/-/unsubscribe", "/unsubscribe", map[string]any{"token": "x"}, gone),
		all("POST /a/:app/-/unsubscribe/look", "/unsubscribe/look", map[string]any{"token": "x"}, gone),
		all("POST /a/:app/-/invitation", "/invitation", map[string]any{"token": "x"}, no),
		all("POST /a/:app/-/invitation/accept", "/invitation/accept", map[string]any{"token": "x", "values": map[string]any{}}, no),
		all("POST /a/:app/-/reset", "/reset", email, done),
		all("POST /a/:app/-/reset/use", "/reset/use", with("code", "000000", "password", "barnacle-and-orchard"), no),
		self("GET /a/:app/-/me", "/me", nil, ok),
		self("POST /a/:app/-/me/password", "/me/password", map[string]any{"new": "short"}, wrong),
		self("POST /a/:app/-/me/address", "/me/address", email, done),
		self("POST /a/:app/-/me/address/use", "/me/address/use", with("code", "000000"), no),
		self("POST /a/:app/-/me/sessions/end", "/me/sessions/end", map[string]any{"id": missing}, done),
		self("POST /a/:app/-/me/close", "/me/close", map[string]any{}, done, wrong),
		all("POST /a/:app/-/sign-out", "/sign-out", nil, done),
	}
}

// crewOf gives the address of one of the crew who does not run the yard.
func crewOf(t *testing.T, s *servertest.Site) (email string) {
	t.Helper()
	require.NoError(t, s.Store.DB.Raw(fmt.Sprintf(`SELECT email FROM "app_%s_live".crew WHERE active AND NOT manager ORDER BY id LIMIT 1`,
		strings.ReplaceAll(s.App.ID, "-", ""))).Scan(&email).Error)
	return email
}

func TestLiveRoutesKnowTheirCallers(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	f.Write(http.MethodPost, "/api/apps", map[string]string{"name": "Second"})
	callers := map[string]*servertest.Client{"visitor": s.Client(t), "owner": s.Person(t, ines),
		"elsewhere": s.Person(t, "tomas.lindqvist@sailmail.example"), "manager": s.Person(t, "jonas@aldercove.example"),
		"crew": s.Person(t, crewOf(t, s))}
	// the session of another app: a cookie of this one that names a session there
	var second string
	require.NoError(t, s.Store.DB.Raw("SELECT id::text FROM apps WHERE name = 'Second'").Scan(&second).Error)
	require.NoError(t, s.Store.DB.Exec("UPDATE sessions SET app_id = ? WHERE email = 'tomas.lindqvist@sailmail.example'", second).Error)
	for _, x := range liveRoutes() {
		if x.path == "" { // a stream
			continue
		}
		method, _, _ := strings.Cut(x.route, " ")
		require.NoError(t, s.Store.DB.Exec("DELETE FROM hits").Error) // so many callers are no attack
		for who, want := range map[string][]int{"visitor": x.visitor, "owner": x.owner, "elsewhere": x.elsewhere, "manager": x.yard,
			"crew": x.yard} {
			status, answer := callers[who].Do(method, live+x.path, x.body)
			assert.Contains(t, want, status, "%s %s as %s: %s", method, x.path, who, answer)
			if !slices.Contains([]int{http.StatusOK, http.StatusNoContent}, status) {
				for _, secret := range []string{"Sandpiper", "Ines", "Office note", "strop"} {
					assert.NotContains(t, answer, secret, fmt.Sprint(x.path, " as ", who))
				}
			}
		}
		// malformed ids of apps are no apps
		status, _ := callers["visitor"].Do(method, "/a/%27x/-"+x.path, x.body)
		assert.Equal(t, http.StatusNotFound, status, x.path)
	}
}

// body gives a well-formed body, so that it is the access that is asked about.
func body(route string) any {
	id := "01a00000-0000-7000-8000-000000000000"
	known := map[string]any{
		"/workflows/:flow":       map[string]any{"key": servertest.Key(), "record": id},
		"/expectations":          map[string]any{"name": "x", "asked": map[string]any{"as": "founder"}, "keys": []string{}},
		"/marks":                 map[string]any{"breakpoints": []string{}, "off": []string{}, "watches": []string{}},
		"/signature":             map[string]any{"secret": "long-enough"},
		"/secret":                map[string]any{"secret": "x"},
		"/trials":                map[string]any{},
		"/rehearsals":            map[string]any{"as": "founder", "record": id},
		"/changes":               map[string]any{"changes": []any{}},
		"/bulk":                  map[string]any{"edits": []any{}, "what": "change"},
		"/imports/propose":       map[string]any{"uploads": []string{id}},
		"/imports/tally":         map[string]any{"uploads": []string{id}, "proposal": map[string]any{"sheets": []any{}}},
		"/imports":               map[string]any{"uploads": []string{id}, "proposal": map[string]any{"sheets": []any{}}},
		"/effects":               map[string]any{"change": map[string]any{"kind": "remove", "of": "boat"}},
		"/badges/:block":         map[string]any{"path": "targets"},
		"/timers/:block":         map[string]any{"path": "order", "do": "pause"},
		"/checklists/:block":     map[string]any{"path": "owner", "round": 0, "key": servertest.Key()},
		"/ticks":                 map[string]any{"path": "owner", "item": id, "revision": 1, "done": true},
		"/rows/:record":          map[string]any{"path": "orders", "revision": 1, "values": map[string]any{}},
		"/discard":               map[string]any{"since": 1},
		"/kept":                  map[string]any{"values": map[string]any{}},
		"/pages/proposal":        map[string]any{"tables": []string{}, "roles": []string{}, "take": []string{}},
		"/named":                 map[string]any{"name": "x"},
		"/bring-back":            map[string]any{"version": 1, "revision": 1},
		"/expression":            map[string]any{"source": "1", "scope": map[string]string{"want": "text"}},
		"/publish":               map[string]any{"revision": 1, "liveVersion": 1, "accept": false, "bringRecords": false},
		"/help":                  map[string]any{"email": "nobody@sailmail.example", "do": "sign out"},
		"/acting":                map[string]any{"as": ""},
		"/mail-trials":           map[string]any{"mail": "none"},
		"/sender":                map[string]any{},
		"/sender/confirm":        map[string]any{"code": "000000"},
		"/waiting/:waiting":      map[string]any{"let": false},
		"/apps":                  map[string]any{"name": ""},
		"/workspaces":            map[string]any{"name": ""},
		"/join":                  map[string]any{"token": "x"},
		"/authenticator/use":     map[string]any{"code": "1"},
		"/authenticator/drop":    map[string]any{"code": "1"},
		"/account/password":      map[string]any{"old": "x", "new": "x"},
		"/sessions/end":          map[string]any{"id": id},
		"/members/:member":       map[string]any{"role": "viewer"},
		"/workspaces/:workspace": map[string]any{"name": "x"},
		"/account/authenticator": nil, "/undo": nil, "/redo": nil, "/restore": map[string]any{"values": map[string]any{}},
	}
	for suffix, b := range known {
		if strings.HasSuffix(route, suffix) && (suffix != "/imports" || !strings.Contains(route, "propose")) {
			return b
		}
	}
	switch {
	case strings.Contains(route, "/invitations"):
		return map[string]any{"email": "x@x.example", "role": "viewer"}
	case strings.Contains(route, "/views"):
		return map[string]any{"name": "x", "shared": false, "settings": map[string]any{"order": []string{}, "hidden": []string{},
			"widths": map[string]int{}, "frozen": 1, "sort": "", "group": "", "filter": ""}}
	case strings.Contains(route, "/leftovers/"):
		return map[string]any{"rows": []any{}}
	case strings.Contains(route, "/forms/"):
		return map[string]any{"key": servertest.Key(), "path": "welcome", "values": map[string]any{}}
	case strings.HasPrefix(route, "POST") || strings.HasPrefix(route, "PATCH"):
		return map[string]any{"values": map[string]any{}}
	}
	return nil
}
