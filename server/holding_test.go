package server_test

import (
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"pinegate/server"
	"pinegate/server/servertest"
)

// TestWhoIsRefusedAgainAndAgainWaits has a stranger and a customer at one network address
// be refused: only who was refused too often waits, and not for what is not refused.
func TestWhoIsRefusedAgainAndAgainWaits(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Config
	const held = 2 * time.Second
	c.Holding = server.Holding{After: 3, For: held, Most: 2}
	web := httptest.NewServer(server.New(c))
	t.Cleanup(web.Close)
	s.URL = web.URL
	person, stranger := s.Person(t, ines), s.Client(t)
	took := func(c *servertest.Client, path string, want int) time.Duration {
		began := time.Now()
		status, _ := c.Do(http.MethodGet, path, nil, "Cookie", "pinegate_person=nonsense")
		assert.Equal(t, want, status, path)
		return time.Since(began)
	}
	nothing := live + "/page?path=nothing"
	for range 3 {
		assert.Less(t, took(stranger, nothing, http.StatusNotFound), held)
	}
	assert.GreaterOrEqual(t, took(stranger, nothing, http.StatusNotFound), held)
	assert.Less(t, took(stranger, live+"/app", http.StatusOK), held, "what is not refused is not held back")
	before := time.Now()
	status, _ := person.Do(http.MethodGet, nothing, nil)
	assert.Equal(t, http.StatusNotFound, status)
	assert.Less(t, time.Since(before), held, "somebody else is at the same address")
}
