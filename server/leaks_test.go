package server_test

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

// asInes gives how the draft is seen as Ines Calder, and one of her boats and one
// of another's.
func asInes(t *testing.T, s *servertest.Site) (as string, own, other map[string]any) {
	t.Helper()
	f := s.Founder(t)
	var people struct{ People []struct{ ID string } }
	f.Read("/api/apps/"+s.App.ID+"/people?role=r_own&search=Ines+Calder", &people)
	require.Len(t, people.People, 1)
	var g grid
	f.Read("/api/apps/"+s.App.ID+"/tables/boat/records?as=founder", &g)
	for _, r := range g.Rows {
		switch {
		case r["boat_owner~"] == "Ines Calder" && own == nil:
			own = r
		case r["boat_note"] != nil && r["boat_owner~"] != "Ines Calder":
			other = r
		}
	}
	require.NotNil(t, own)
	require.NotNil(t, other)
	return "person.r_own." + people.People[0].ID, own, other
}

// TestNoSideRoadLeaks reads as a boat owner along every road that could tell of
// the boats of others, or of the yard's notes on her own.
func TestNoSideRoadLeaks(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	as, own, other := asInes(t, s)
	api := "/api/apps/" + s.App.ID
	amend := func(changes ...map[string]any) {
		f.Write(http.MethodPost, api+"/changes", map[string]any{"changes": changes})
	}
	secret := "Watch the port strop"
	for _, r := range []map[string]any{own, other} {
		f.Write(http.MethodPatch, api+"/tables/boat/records/"+fmt.Sprint(r["id"]),
			map[string]any{"revision": r["revision"], "values": map[string]any{"boat_note": secret + " of " + fmt.Sprint(r["boat_name"])}})
	}
	get := func(path string, more ...string) (int, string) {
		q := url.Values{"as": {as}}
		for i := 0; i+1 < len(more); i += 2 {
			q.Set(more[i], more[i+1])
		}
		return f.Do(http.MethodGet, api+path+"?"+q.Encode(), nil)
	}
	silent := func(what, answer string) {
		t.Helper()
		assert.NotContains(t, answer, "strop", what)
		assert.NotContains(t, answer, fmt.Sprint(other["boat_registration"]), what)
	}
	rows := func(path string, more ...string) (g grid) {
		t.Helper()
		status, answer := get(path, more...)
		require.Equal(t, http.StatusOK, status, answer)
		silent(path+fmt.Sprint(more), answer)
		decode(t, answer, &g)
		return g
	}
	t.Run("count", func(t *testing.T) {
		assert.Equal(t, 2, rows("/tables/boat/records").Total)
		_, answer := get("/sees")
		assert.Contains(t, answer, `"name":"Boats","seen":2`)
	})
	t.Run("total and group", func(t *testing.T) {
		status, answer := get("/tables/boat/totals", "group", "boat_kind")
		require.Equal(t, http.StatusOK, status, answer)
		var g struct{ Groups []struct{ Count int } }
		decode(t, answer, &g)
		n := 0
		for _, x := range g.Groups {
			n += x.Count
		}
		assert.Equal(t, 2, n, answer)
		status, answer = get("/tables/boat/totals", "group", "boat_note")
		assert.Equal(t, http.StatusUnprocessableEntity, status)
		silent("grouping by a hidden field", answer)
	})
	t.Run("search", func(t *testing.T) {
		assert.Zero(t, rows("/tables/boat/records", "search", "strop").Total)
		assert.Zero(t, rows("/tables/boat/records", "search", fmt.Sprint(other["boat_name"])+" ").Total)
	})
	t.Run("sort", func(t *testing.T) {
		status, answer := get("/tables/boat/records", "sort", "boat_note")
		assert.Equal(t, http.StatusUnprocessableEntity, status)
		silent("sorting by a hidden field", answer)
	})
	t.Run("filter by a hidden field", func(t *testing.T) {
		assert.Zero(t, rows("/tables/boat/records", "filter", `CONTAINS(note, "strop")`).Total)
		assert.Equal(t, 2, rows("/tables/boat/records", "filter", `ISBLANK(note)`).Total, "for her, the field is empty everywhere")
		assert.Zero(t, rows("/tables/boat/records", "filter", `owner.note <> empty`).Total, "also at the end of a path")
	})
	t.Run("link label", func(t *testing.T) {
		amend(set("boat", "label", `name & note`))
		answer := fmt.Sprint(rows("/tables/haul/records"))
		assert.NotContains(t, answer, "strop")
		f.Write(http.MethodPost, api+"/undo", nil)
	})
	t.Run("lookup and roll-up over what is hidden", func(t *testing.T) {
		amend(addField("req", "req_note", "name", "Note of the boat", "type", "lookup", "via", "req_boat", "take", "boat_note"),
			addField("boat", "boat_open", "name", "Number of orders", "type", "roll-up", "via", "boat_orders", "total", "count"),
			addField("boat", "boat_said", "name", "Said", "type", "formula", "formula", `"Note: " & note`))
		for _, r := range rows("/tables/req/records").Rows {
			assert.Nil(t, r["req_note"])
		}
		for _, r := range rows("/tables/boat/records").Rows {
			assert.Contains(t, []any{nil, float64(0), "0"}, r["boat_open"], "no rule shows her any order")
			assert.NotContains(t, fmt.Sprint(r["boat_said"]), "strop")
		}
	})
	t.Run("uniqueness error", func(t *testing.T) {
		amend(set("boat_registration", "unique", true))
		var g grid
		f.Read(api+"/tables/boat/records?as="+as, &g)
		status, answer := f.Do(http.MethodPatch, api+"/tables/boat/records/"+fmt.Sprint(g.Rows[0]["id"])+"?as="+as,
			map[string]any{"revision": g.Rows[0]["revision"], "values": map[string]any{"boat_registration": other["boat_registration"]}})
		assert.Equal(t, http.StatusUnprocessableEntity, status, answer)
		assert.NotContains(t, answer, fmt.Sprint(other["boat_name"]), "it says that it is taken, and not by what")
		assert.NotContains(t, answer, fmt.Sprint(other["id"]))
	})
	t.Run("export", func(t *testing.T) {
		status, answer := get("/export", "table", "boat", "format", "csv")
		require.Equal(t, http.StatusOK, status, answer)
		silent("export", answer)
		assert.Contains(t, answer, "Sandpiper")
	})
	t.Run("history and bin", func(t *testing.T) {
		status, answer := get("/tables/boat/records/" + fmt.Sprint(own["id"]) + "/history")
		assert.Equal(t, http.StatusOK, status)
		silent("history of her own", answer)
		status, answer = get("/tables/boat/records/" + fmt.Sprint(other["id"]) + "/history")
		assert.Equal(t, http.StatusNotFound, status)
		silent("history of another's", answer)
		status, answer = get("/tables/boat/bin")
		assert.NotEqual(t, http.StatusInternalServerError, status)
		silent("bin", answer)
	})
	t.Run("error text and options", func(t *testing.T) {
		for _, path := range []string{"/tables/boat/records/" + fmt.Sprint(other["id"]), "/tables/boat/options"} {
			_, answer := get(path, "search", "")
			silent(path, answer)
		}
		status, answer := f.Do(http.MethodPost, api+"/expression",
			map[string]any{"source": "note", "scope": map[string]string{"row": "boat", "want": "text"}, "as": as})
		assert.Equal(t, http.StatusOK, status, answer)
		silent("trying an expression", answer)
	})
	t.Run("placeholder in a text", func(t *testing.T) {
		amend(set("p_boat_a", "text", `{{ name }} {{ note }} {{ COUNT(RECORDS(boats, true)) }} {{ JOIN(RECORDS(boats, true).note) }}`))
		status, answer := f.Do(http.MethodGet, "/stage/"+s.App.ID+"/"+as+"/-/page?path=boat&record="+fmt.Sprint(own["id"]), nil)
		require.Equal(t, http.StatusOK, status, answer)
		// the text as it is written stands beside, for editing; what it gives must not
		var p page
		decode(t, answer, &p)
		assert.NotContains(t, p.Blocks[0].Text, "strop")
		assert.Contains(t, p.Blocks[0].Text, " 2", "she counts her own")
	})
}

// TestNewsTellsNoMoreThanTheTable listens as crew to what an owner writes.
func TestNewsTellsNoMoreThanTheTable(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	ctx, cancel := context.WithTimeout(t.Context(), 15*time.Second)
	defer cancel()
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, s.URL+live+"/events", nil)
	require.NoError(t, err)
	crew := s.Person(t, "jonas@aldercove.example")
	request.AddCookie(&http.Cookie{Name: "pinegate_person", Value: crew.Cookie(live, "pinegate_person")})
	response, err := http.DefaultClient.Do(request)
	require.NoError(t, err)
	defer func() { require.NoError(t, response.Body.Close()) }()
	c := s.Person(t, ines)
	_, own := foreign(t, s)
	c.Write(http.MethodPost, live+"/forms/p_ask_c", map[string]any{"key": servertest.Key(), "path": "ask-for-work",
		"values": map[string]any{"req_title": "Whisper", "req_boat": own["id"], "req_kind": "wk_hull"}})
	lines := bufio.NewScanner(response.Body)
	var heard []string
	for lines.Scan() {
		if text := lines.Text(); strings.HasPrefix(text, "data:") {
			heard = append(heard, text)
			if strings.Contains(text, "req") {
				break
			}
		}
	}
	require.NotEmpty(t, heard)
	assert.NotContains(t, fmt.Sprint(heard), "Whisper")
	assert.NotContains(t, fmt.Sprint(heard), "Ines")
	assert.NotContains(t, fmt.Sprint(heard), fmt.Sprint(own["id"]))
}

// TestWhoBeginsToWatchHearsWhatCameBetween reads a page, has somebody write, and then watches: they
// are told that there may be something.
func TestWhoBeginsToWatchHearsWhatCameBetween(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	first := func(email string) string {
		ctx, cancel := context.WithTimeout(t.Context(), 15*time.Second)
		defer cancel()
		request, err := http.NewRequestWithContext(ctx, http.MethodGet, s.URL+live+"/events?age=900000000000", nil)
		require.NoError(t, err)
		request.AddCookie(&http.Cookie{Name: "pinegate_person", Value: s.Person(t, email).Cookie(live, "pinegate_person")})
		response, err := http.DefaultClient.Do(request)
		require.NoError(t, err)
		defer func() { require.NoError(t, response.Body.Close()) }()
		line, err := bufio.NewReader(response.Body).ReadString('\n')
		require.NoError(t, err)
		return line
	}
	_, own := foreign(t, s)
	s.Person(t, ines).Write(http.MethodPost, live+"/forms/p_ask_c", map[string]any{"key": servertest.Key(), "path": "ask-for-work",
		"values": map[string]any{"req_title": "Whisper", "req_boat": own["id"], "req_kind": "wk_hull"}})
	assert.Eventually(t, func() bool { return first("jonas@aldercove.example") == "data: \n" }, 5*time.Second, 20*time.Millisecond)
}

func decode(t *testing.T, answer string, into any) {
	t.Helper()
	require.NoError(t, json.Unmarshal([]byte(answer), into), answer)
}
