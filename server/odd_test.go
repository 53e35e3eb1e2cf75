package server_test

import (
	"net/http"
	"net/url"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

// odd are texts that are none, or that mean something to what lies behind.
func odd() []string {
	return []string{"\x00", "a\x00b", "\xff\xfe", "'", `"`, "%", `\`, "x", "-1", "null", "ctid", "1e999", "..", "[]",
		"00000000-0000-0000-0000-000000000000", "eyJhIjoxfQ", "eyJhIjoxfQ==", "WzFd"}
}

// TestOddTextsAreRefusedOrFound sends odd texts wherever a route takes some, and holds
// that none of them breaks anything.
func TestOddTextsAreRefusedOrFound(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f, p := s.Founder(t), s.Person(t, ines)
	at := "/api/apps/" + s.App.ID
	ask := func(c *servertest.Client, method, path string, body any) {
		t.Helper()
		status, answer := c.Do(method, path, body)
		assert.Less(t, status, 500, "%s %s %v: %s", method, path, body, answer)
	}
	for path, c := range map[string]*servertest.Client{at + "/tables/boat/records?search=": f, at + "/people?role=r_own&search=": f,
		at + "/export?format=csv&table=boat&search=":                f,
		live + "/lists/p_home_h?path=welcome&view=p_home_h.find%3D": p, live + "/page?path=": p} {
		status, answer := c.Do(http.MethodGet, path, nil)
		require.Equal(t, http.StatusOK, status, "%s: %s", path, answer) // what follows asks where something is
	}
	for _, text := range odd() {
		q := url.QueryEscape(text)
		for _, name := range []string{"search", "after", "sort", "filter", "as", "group", "view", "limit"} {
			ask(f, http.MethodGet, at+"/tables/boat/records?"+name+"="+q, nil)
			ask(f, http.MethodGet, at+"/people?role=r_own&"+name+"="+q, nil)
			ask(p, http.MethodGet, live+"/lists/p_home_h?path=welcome&"+name+"="+q, nil)
			ask(p, http.MethodGet, live+"/page?"+name+"="+q, nil)
		}
		for _, name := range []string{"path", "record"} {
			ask(p, http.MethodGet, live+"/page?path=boat&"+name+"="+q, nil)
		}
		for _, path := range []string{"/export?format=csv&table=boat&search=", "/export?table=", "/why?role=",
			"/why?as=founder&table=boat&action=see&record=", "/why?table=boat&action=see&field=boat_name&as=",
			"/tables/boat/groups?group="} {
			ask(f, http.MethodGet, at+path+q, nil)
		}
		where := url.PathEscape(text)
		record := "/tables/boat/records/" + where
		for _, path := range []string{"/tables/" + where + "/records", record, record + "/history"} {
			ask(f, http.MethodGet, at+path, nil)
		}
		for _, edit := range []map[string]any{{"record": text, "revision": 1, "delete": true},
			{"record": text, "texts": map[string]string{"boat_name": text}},
			{"texts": map[string]string{"boat_name": text, "boat_owner": text, "boat_length": text}},
			{"texts": map[string]string{text: text}},
			{"values": map[string]any{text: text}}, {"values": map[string]any{"boat_name": text, "boat_owner": text}}} {
			ask(f, http.MethodPost, at+"/tables/boat/bulk", map[string]any{"what": "paste", "edits": []any{edit}})
			ask(f, http.MethodPost, at+"/tables/boat/bulk", map[string]any{"what": "paste", "edits": []any{edit, edit, edit, edit, edit}})
		}
		ask(p, http.MethodPost, live+"/forms/p_ask_c", map[string]any{"key": servertest.Key(), "path": "ask-for-work",
			"values": map[string]any{
				"req_title": text, "req_boat": text, "req_kind": text}})
		ask(p, http.MethodPost, live+"/forms/"+where, map[string]any{"key": servertest.Key(), "path": text, "record": text})
	}
}

// TestFieldsNamedLikeTheDatabasesOwn adds fields of the names that every table of the
// database has already.
func TestFieldsNamedLikeTheDatabasesOwn(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	at := "/api/apps/" + s.App.ID
	for _, name := range []string{"ctid", "xmin", "xmax", "cmin", "cmax", "tableoid", "oid", "id", "revision", "label", "deleted_at",
		"select", "user"} {
		f.Write(http.MethodPost, at+"/changes", map[string]any{"changes": []any{map[string]any{"kind": "add", "what": "field",
			"into": "boat", "id": "odd_" + name, "values": map[string]any{"name": name, "type": "text"}}}})
		f.Write(http.MethodPost, at+"/tables/boat/bulk", map[string]any{"what": "paste", "edits": []any{
			map[string]any{"texts": map[string]string{"boat_name": "Named " + name, "odd_" + name: "kept"}}}})
	}
	status, answer := f.Do(http.MethodGet, at+"/tables/boat/records?search=Named", nil)
	require.Equal(t, http.StatusOK, status)
	assert.Contains(t, answer, "kept")
}

// TestAppsOfOneNameAreMadeTogether makes several apps of one name at once.
func TestAppsOfOneNameAreMadeTogether(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	var wait sync.WaitGroup
	statuses := make([]int, 8)
	for i := range statuses {
		wait.Go(func() { statuses[i], _ = f.Do(http.MethodPost, "/api/apps", map[string]string{"name": "Regatta"}) })
	}
	wait.Wait()
	for _, status := range statuses {
		assert.Less(t, status, 300)
	}
	var all []struct{ Slug string }
	f.Read("/api/apps", &all)
	slugs := map[string]bool{}
	for _, a := range all {
		slugs[a.Slug] = true
	}
	assert.Len(t, slugs, 9)
}
