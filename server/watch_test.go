package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.opentelemetry.io/otel"

	"pinegate/server/servertest"
	"pinegate/server/watch"
	"pinegate/store"
	"pinegate/store/apps"
)

// TestFiguresTellHowAServerIs asks for figures after some requests. They name routes
// and kinds of work, and nobody.
func TestFiguresTellHowAServerIs(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	person := s.Person(t, ines)
	person.Read(live+"/page", &struct{}{})
	s.Founder(t).Read("/api/apps/"+s.App.ID, &struct{}{})
	s.Watch.Statement(store.Work{Kind: store.Front}, 3*time.Millisecond, true)
	figures := httptest.NewServer(s.Watch.Handler())
	defer figures.Close()
	answer, err := http.Get(figures.URL + "/metrics")
	require.NoError(t, err)
	raw, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	require.NoError(t, answer.Body.Close())
	for _, want := range []string{
		`pinegate_request_seconds_count{answer="2xx",method="GET",route="/a/:app/-/page"} 1`,
		`pinegate_statement_seconds_bucket{kind="front",le="0.005"} 1`,
		`pinegate_statements_failed_total{kind="front"} 1`,
		`pinegate_connections{kind="front",state="most"} 14`,
		`pinegate_connections_waited_total{kind="heavy"} 0`,
		"go_memstats_heap_inuse_bytes ", "process_resident_memory_bytes ",
	} {
		assert.True(t, strings.Contains(string(raw), want), want)
	}
	for _, secret := range []string{ines, s.App.ID, s.App.Slug} {
		assert.NotContains(t, string(raw), secret)
	}
	status, _ := s.Client(t).Do(http.MethodGet, "/metrics", nil)
	assert.Equal(t, http.StatusOK, status, "the builder's page: figures have an address of their own")
	_, body := s.Client(t).Do(http.MethodGet, "/metrics", nil)
	assert.NotContains(t, body, "pinegate_")
}

// TestTracesGoWhereTheyAreWanted takes them in, and looks for a request with its
// statements.
func TestTracesGoWhereTheyAreWanted(t *testing.T) {
	t.Parallel()
	var mu sync.Mutex
	var got bytes.Buffer
	taker := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		mu.Lock()
		defer mu.Unlock()
		if assert.Equal(t, "/v1/traces", r.URL.Path) {
			_, err := io.Copy(&got, r.Body)
			assert.NoError(t, err)
		}
	}))
	defer taker.Close()
	before := otel.GetTracerProvider()
	defer otel.SetTracerProvider(before)
	end, err := watch.Traces(t.Context(), taker.URL)
	require.NoError(t, err)
	s := servertest.New(t)
	s.Person(t, ines).Read(live+"/page", &struct{}{})
	require.NoError(t, end(context.Background()))
	mu.Lock()
	defer mu.Unlock()
	for _, want := range []string{"GET /a/:app/-/page", "statement", "SELECT", s.App.ID} {
		assert.Contains(t, got.String(), want)
	}
	assert.NotContains(t, got.String(), ines, "values of statements are not told")
}

// TestWhatWentWrongStandsInTheLogUnderItsNumber breaks a table, as a mistake of ours
// would.
func TestWhatWentWrongStandsInTheLogUnderItsNumber(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	var log bytes.Buffer
	before := slog.Default()
	slog.SetDefault(slog.New(store.LogHandler(slog.NewJSONHandler(&log, &slog.HandlerOptions{Level: slog.LevelWarn}))))
	defer slog.SetDefault(before)
	founder := s.Founder(t)
	require.NoError(t, s.Store.DB.Exec("ALTER TABLE versions RENAME TO broken").Error)
	status, answer := founder.Do(http.MethodGet, "/api/apps/"+s.App.ID+"/versions", nil)
	require.Equal(t, http.StatusInternalServerError, status, answer)
	number := regexp.MustCompile(`number: ([a-z0-9]{10})`).FindStringSubmatch(answer)
	require.NotNil(t, number, answer)
	assert.NotContains(t, answer, "relation", "nobody learns how it is inside")
	found := false
	for line := range strings.Lines(log.String()) {
		var said struct{ Msg, Error, Request, App, Workspace string }
		require.NoError(t, json.Unmarshal([]byte(line), &said), line)
		if said.Msg == "request failed" {
			found = true
			assert.Equal(t, number[1], said.Request)
			assert.Equal(t, s.App.ID, said.App)
			assert.Equal(t, s.App.WorkspaceID, said.Workspace)
			assert.Contains(t, said.Error, `relation "versions" does not exist`)
		}
	}
	assert.True(t, found, log.String())
	require.NoError(t, s.Store.DB.Exec("ALTER TABLE broken RENAME TO versions").Error)
	person := s.Person(t, ines)
	require.NoError(t, s.Store.DB.Exec("ALTER TABLE "+apps.SchemaName(s.App, apps.Live)+".boats RENAME TO broken").Error)
	log.Reset()
	status, answer = person.Do(http.MethodGet, live+"/page?path=my-boats", nil)
	require.Equal(t, http.StatusInternalServerError, status, answer)
	assert.Contains(t, log.String(), `"page":"my-boats"`)
}
