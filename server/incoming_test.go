package server_test

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"io"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

// caller calls the yard from elsewhere.
type caller struct {
	yardAtWork
	address string
}

const signing = "the-crane-swings-at-noon"

// newCaller gives the workflow that hears of haul-outs an address, and the secret with which calls are signed.
func newCaller(t *testing.T) *caller {
	y := yardAtWork{servertest.New(t), t}
	founder := y.Founder(t)
	at := "/api/apps/" + y.App.ID + "/workflows/w_slot/"
	var got struct{ Address, Signed string }
	founder.Read(at+"address?place=live", &got)
	assert.Empty(t, got.Address)
	assert.Equal(t, "X-Harbour-Signature", got.Signed)
	founder.Write(http.MethodPost, at+"address?place=live", nil)
	founder.Write(http.MethodPut, at+"signature", map[string]any{"secret": signing})
	founder.Read(at+"address?place=live", &got)
	require.True(t, strings.HasPrefix(got.Address, y.URL+"/in/"), got.Address)
	return &caller{y, got.Address}
}

// call sends a body with a signature, or with the right one where it is given none.
func (c *caller) call(body string, signature ...string) (status int, answer string) {
	mac := hmac.New(sha256.New, []byte(signing))
	mac.Write([]byte(body))
	right := hex.EncodeToString(mac.Sum(nil))
	if len(signature) > 0 {
		right = signature[0]
	}
	r, err := http.NewRequestWithContext(c.t.Context(), http.MethodPost, c.address, strings.NewReader(body))
	require.NoError(c.t, err)
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("X-Harbour-Signature", right)
	got, err := http.DefaultClient.Do(r)
	require.NoError(c.t, err)
	raw, err := io.ReadAll(got.Body)
	require.NoError(c.t, err)
	require.NoError(c.t, got.Body.Close())
	return got.StatusCode, string(raw)
}

func (c *caller) hauls(day string) string {
	return c.text("SELECT count(*)::text FROM live.haul_outs WHERE day = ?::date", day)
}

func (c *caller) ended(status string, n string) {
	c.t.Helper()
	require.Eventually(c.t, func() bool {
		return c.text("SELECT count(*)::text FROM runs WHERE workflow = 'w_slot' AND status = ?", status) == n
	}, 20*time.Second, 20*time.Millisecond)
}

// TestACallComesInTwice takes a signed call, which comes several times, at once and later: it books one haul-out.
func TestACallComesInTwice(t *testing.T) {
	t.Parallel()
	c := newCaller(t)
	boat := c.text("SELECT name FROM live.boats ORDER BY id LIMIT 1")
	body := `{"id":"crane-1","boat":"` + boat + `","day":"2031-03-04"}`
	var wait sync.WaitGroup
	for range 5 {
		wait.Go(func() {
			status, answer := c.call(body)
			assert.Equal(t, http.StatusAccepted, status, answer)
		})
	}
	wait.Wait()
	c.ended("done", "1")
	status, answer := c.call(`{"id":"crane-1","boat":"` + boat + `","day":"2031-03-05"}`)
	assert.Equal(t, http.StatusAccepted, status, answer)
	status, answer = c.call(`{"id":2,"boat":"` + boat + `","day":"2031-03-06"}`)
	assert.Equal(t, http.StatusAccepted, status, answer)
	c.ended("done", "2")
	assert.Equal(t, []string{"1", "0", "1"}, []string{c.hauls("2031-03-04"), c.hauls("2031-03-05"), c.hauls("2031-03-06")})
	assert.Equal(t, "a call from elsewhere", c.text("SELECT DISTINCT made_by FROM runs WHERE workflow = 'w_slot'"))

	status, answer = c.call(`{"id":"crane-3","boat":"Flying Dutchman","day":"2031-03-07"}`)
	assert.Equal(t, http.StatusAccepted, status, answer)
	c.ended("stopped", "1")
	assert.Equal(t, "0", c.hauls("2031-03-07"))
}

// TestCallsThatAreRefused sends what is not signed, or signed otherwise, or none that can be taken.
func TestCallsThatAreRefused(t *testing.T) {
	t.Parallel()
	c := newCaller(t)
	const good = `{"id":"crane-9","boat":"x","day":"2031-03-04"}`
	mac := hmac.New(sha256.New, []byte("another"))
	mac.Write([]byte(good))
	for _, signature := range []string{"", "00", "zz", hex.EncodeToString(mac.Sum(nil)), strings.Repeat("0", 64)} {
		status, answer := c.call(good, signature)
		assert.Equal(t, http.StatusUnprocessableEntity, status, signature)
		assert.Contains(t, answer, "signature is not right")
	}
	for body, want := range map[string]int{"": 422, "<html>": 422, `{"boat":"x"}`: 422, `{"id":{}}`: 422, `[]`: 422, `{"id":""}`: 422,
		`{"id":"` + strings.Repeat("x", 1<<20) + `"}`: 413} {
		status, answer := c.call(body)
		assert.Equal(t, want, status, "%.30s: %s", body, answer)
	}
	assert.Equal(t, "0", c.text("SELECT count(*)::text FROM runs WHERE workflow = 'w_slot'"))
	assert.Equal(t, "0", c.text("SELECT count(*)::text FROM river_job WHERE args->>'workflow' = 'w_slot'"))

	was := c.address
	founder := c.Founder(t)
	founder.Write(http.MethodPost, "/api/apps/"+c.App.ID+"/workflows/w_slot/address?place=live", nil)
	status, _ := c.call(good)
	assert.Equal(t, http.StatusNotFound, status, "the address that it had opens nothing")
	c.address = c.URL + "/in/" + strings.Repeat("a", 26)
	for range 60 {
		status, _ = c.call(good)
	}
	assert.Equal(t, http.StatusTooManyRequests, status, "addresses are not to be guessed")
	c.address = was
	_, list := founder.Do(http.MethodGet, "/api/apps/"+c.App.ID+"/export", nil)
	assert.NotContains(t, list, strings.TrimPrefix(was, c.URL+"/in/"))
	assert.NotContains(t, list, signing)
}

// TestACallDoesNotReachADraft holds that the addresses of the live app and of the draft are two.
func TestACallDoesNotReachADraft(t *testing.T) {
	t.Parallel()
	c := newCaller(t)
	founder := c.Founder(t)
	var draft struct{ Address string }
	founder.Write(http.MethodPost, "/api/apps/"+c.App.ID+"/workflows/w_slot/address?place=draft", nil)
	founder.Read("/api/apps/"+c.App.ID+"/workflows/w_slot/address?place=draft", &draft)
	require.NotEqual(t, c.address, draft.Address)
	c.address = draft.Address
	boat := c.text("SELECT name FROM live.boats ORDER BY id LIMIT 1")
	status, answer := c.call(`{"id":"crane-1","boat":"` + boat + `","day":"2031-03-04"}`)
	require.Equal(t, http.StatusAccepted, status, answer)
	c.ended("done", "1")
	assert.Equal(t, "draft", c.text("SELECT place FROM runs WHERE workflow = 'w_slot'"))
	assert.Equal(t, "0", c.hauls("2031-03-04"))
}
