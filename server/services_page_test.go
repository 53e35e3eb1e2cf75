package server_test

import (
	"encoding/json"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
	"pinegate/standin/harbour"
)

// TestAPageShowsWhatAServiceAnswers shows tides to those who may open the page, asks the service once however many
// look, and shows an older answer when there is no new one.
func TestAPageShowsWhatAServiceAnswers(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	crew := y.Person(t, y.crew())
	var page struct{ Blocks []struct{ ID, Kind string } }
	crew.Read(live+"/page?path=haul-outs", &page)
	block := ""
	for _, b := range page.Blocks {
		if b.Kind == "service" {
			block = b.ID
		}
	}
	require.NotEmpty(t, block)
	rows := func(c *servertest.Client, at string) (out struct {
		Rows    [][]any
		At      *string
		Problem string
	}) {
		status, answer := c.Do(http.MethodGet, at+"/services/"+block+"?path=haul-outs", nil)
		require.Equal(t, http.StatusOK, status, answer)
		require.NoError(t, json.Unmarshal([]byte(answer), &out))
		return out
	}
	for range 5 {
		got := rows(crew, live)
		require.Len(t, got.Rows, 4)
		assert.Len(t, got.Rows[0], 3)
		assert.Equal(t, true, got.Rows[0][2])
		assert.NotNil(t, got.At)
	}
	assert.Len(t, y.Harbour.Requests(), 1)
	for who, c := range map[string]*servertest.Client{"a visitor": y.Client(t), "an owner": y.Person(t, ines)} {
		status, answer := c.Do(http.MethodGet, live+"/services/"+block+"?path=haul-outs", nil)
		assert.Contains(t, []int{http.StatusNotFound, http.StatusForbidden, http.StatusUnauthorized}, status, "%s: %s", who, answer)
	}
	status, _ := crew.Do(http.MethodGet, live+"/services/none?path=haul-outs", nil)
	assert.Equal(t, http.StatusNotFound, status)

	founder := y.Founder(t)
	stage := "/stage/" + y.App.ID + "/founder/-"
	got := rows(founder, stage)
	assert.Len(t, got.Rows, 3, "nothing goes out of a draft: the sample answers")
	assert.Nil(t, got.At)
	set := func(of string, values map[string]any) {
		founder.Write(http.MethodPost, "/api/apps/"+y.App.ID+"/changes",
			map[string]any{"changes": []any{map[string]any{"kind": "set", "of": of, "values": values}}})
	}
	set("harbour", map[string]any{"real": true})
	y.Harbour.Behave(harbour.Behaviour{Fails: 1})
	assert.Len(t, rows(founder, stage).Rows, 4, "it is the same question, whose answer is known")
	set("c_tides", map[string]any{"path": "/tides/{harbour}/now"})
	assert.Contains(t, rows(founder, stage).Problem, "503", "builders are told why")
	set(block, map[string]any{"when": "false"})
	status, answer := founder.Do(http.MethodGet, stage+"/services/"+block+"?path=haul-outs", nil)
	assert.Equal(t, http.StatusNotFound, status, "what is not shown answers nothing: %s", answer)
}
