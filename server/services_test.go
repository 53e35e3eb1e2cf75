package server_test

import (
	"encoding/json"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
	"pinegate/standin/harbour"
	"pinegate/store"
)

// TestCrewOrderPartsAgain presses a button that asks the harbour office for each part of an order: what it answers
// comes back as notes, one for each part, and as one order for each.
func TestCrewOrderPartsAgain(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	order := y.text("SELECT p.\"order\"::text FROM live.parts_used p WHERE p.part = 'Impeller' ORDER BY p.id LIMIT 1")
	parts := y.text("SELECT count(*)::text FROM live.parts_used WHERE \"order\" = ? AND deleted_at IS NULL", order)
	notes := func(like string) string {
		return y.text("SELECT count(*)::text FROM live.order_notes WHERE \"order\" = ? AND text LIKE ?", order, like)
	}
	before := notes("%")
	crew := y.Person(t, y.crew())
	status, answer := crew.Do(http.MethodPost, live+"/workflows/w_parts", pressed(order))
	require.Equal(t, http.StatusOK, status, answer)
	assert.Contains(t, answer, "The harbour office is asked")
	run := func() string { return y.text("SELECT status FROM runs WHERE workflow = 'w_parts'") }
	require.Eventually(t, func() bool { return run() == "done" }, 30*time.Second, 50*time.Millisecond, "it is %s", run())
	assert.NotEqual(t, "0", notes("Ordered Impeller: H-%"))
	assert.Equal(t, y.text("SELECT (?::int + ?::int)::text", before, parts), notes("%"), "one note for each part")
	assert.NotEmpty(t, y.Harbour.Orders())
	founder := y.Founder(t)
	_, list := founder.Do(http.MethodGet, "/api/apps/"+y.App.ID+"/runs?place=live&workflow=w_parts", nil)
	assert.Contains(t, list, `"status":"done"`)
	assert.NotContains(t, y.text("SELECT trace::text || input::text || coalesce(state::text, '') FROM runs WHERE workflow = 'w_parts'"),
		harbour.Key)
}

// TestASecretIsShownToNobody keeps the secret of a service: owners give it, nobody reads it, and whoever leads the
// service elsewhere has nothing to show there.
func TestASecretIsShownToNobody(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	base := "/api/apps/" + y.App.ID
	founder := y.Founder(t)
	editor := member(t, y.Site, "ed@aldercove.example", store.Editor)
	const secret = "a-new-secret-of-the-harbour"
	status, answer := editor.Do(http.MethodPut, base+"/services/harbour/secret", map[string]any{"secret": secret})
	assert.Equal(t, http.StatusForbidden, status, answer)
	status, answer = founder.Do(http.MethodPut, base+"/services/harbour/secret", map[string]any{"secret": "two\nlines"})
	assert.Equal(t, http.StatusUnprocessableEntity, status, answer)
	status, answer = founder.Do(http.MethodPut, base+"/services/harbour/secret", map[string]any{"secret": secret})
	require.Equal(t, http.StatusOK, status, answer)
	trial := func(real bool) (out struct {
		Asked, Answer, Problem string
		Rows                   [][]string
	}) {
		status, answer := editor.Do(http.MethodPost, base+"/calls/c_parts/trials",
			map[string]any{"values": map[string]string{"c_parts_search": "imp"}, "real": real})
		require.Equal(t, http.StatusOK, status, answer)
		require.NoError(t, json.Unmarshal([]byte(answer), &out))
		return out
	}
	assert.Equal(t, "Harbour office answered with an error (401).", trial(true).Problem, "it is the new secret that is shown")
	assert.NotEmpty(t, trial(false).Rows, "the sample answers")
	status, answer = founder.Do(http.MethodPut, base+"/services/harbour/secret", map[string]any{"secret": harbour.Key})
	require.Equal(t, http.StatusOK, status, answer)
	got := trial(true)
	assert.Equal(t, [][]string{{"IM-03", "Impeller", "32", "6"}}, got.Rows)
	assert.Equal(t, "GET /parts?search=imp", got.Asked)

	set := func(values map[string]any) {
		editor.Write(http.MethodPost, base+"/changes",
			map[string]any{"changes": []any{map[string]any{"kind": "set", "of": "harbour", "values": values}}})
	}
	set(map[string]any{"address": "http://127.0.0.1:9"})
	assert.Contains(t, trial(true).Problem, "none is kept", "not the old one either")
	for _, path := range []string{"", "/services", "/export", "/history", "/script/workflows", "/runs"} {
		_, answer := founder.Do(http.MethodGet, base+path, nil)
		assert.NotContains(t, answer, harbour.Key, path)
		assert.NotContains(t, answer, secret, path)
	}
	set(map[string]any{"proof": ""})
	assert.Contains(t, trial(true).Problem, "private network", "and the machine itself is out of reach")
}
