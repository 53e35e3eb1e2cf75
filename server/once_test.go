package server_test

import (
	"fmt"
	"net/http"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
	"pinegate/store/apps"
)

// enquiries opens a form to everybody, signed in or not.
func enquiries(t *testing.T, s *servertest.Site) {
	add := func(what, into, id string, more ...any) map[string]any {
		return map[string]any{"kind": "add", "what": what, "into": into, "id": id, "values": pairs(more)}
	}
	apply(t, s,
		add("table", "", "qu", "name", "Questions"),
		add("rule", "visitor", "visitor.qu", "table", "qu", "add", map[string]any{"extent": "all"}),
		add("rule", "r_own", "r_own.qu", "table", "qu", "add", map[string]any{"extent": "all"}),
		add("page", "", "p_qu", "name", "Enquire", "audience", "everyone"),
		add("block", "p_qu", "p_qu_f", "kind", "form", "table", "qu", "fields", []map[string]any{{"field": "qu_1"}}))
}

// enquire sends an enquiry.
func enquire(c *servertest.Client, key, words string) (int, string) {
	return c.Do(http.MethodPost, live+"/forms/p_qu_f",
		map[string]any{"key": key, "path": "enquire", "values": map[string]any{"qu_1": words}})
}

func enquired(t *testing.T, s *servertest.Site) (n int) {
	require.NoError(t, s.Store.DB.Raw("SELECT count(*) FROM "+apps.SchemaName(s.App, apps.Live)+".questions").Scan(&n).Error)
	return n
}

// TestAFormIsSentOnce sends one again and again, also at the same time.
func TestAFormIsSentOnce(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	enquiries(t, s)
	c, key := s.Client(t), servertest.Key()
	var wait sync.WaitGroup
	for range 5 {
		wait.Go(func() {
			status, body := enquire(c, key, "Is the slip free in May?")
			assert.Equal(t, http.StatusOK, status, body)
			assert.Contains(t, body, "Thank you")
		})
	}
	wait.Wait()
	assert.Equal(t, 1, enquired(t, s))
	// with other words, or by somebody else, it is another form
	status, body := enquire(c, key, "And in June?")
	assert.Equal(t, http.StatusUnprocessableEntity, status, body)
	assert.Contains(t, body, "sent before")
	status, _ = enquire(s.Person(t, ines), key, "Is the slip free in May?")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Equal(t, 1, enquired(t, s))
	// without a key there is no form
	for _, odd := range []string{"", "short", "with a space in it"} {
		status, _ = enquire(c, odd, "Is the slip free in May?")
		assert.Equal(t, http.StatusUnprocessableEntity, status, odd)
	}
	// what was refused was not sent, and its key is as good as before
	other := servertest.Key()
	status, _ = c.Do(http.MethodPost, live+"/forms/p_qu_f",
		map[string]any{"key": other, "path": "enquire", "values": map[string]any{"qu_1": []int{3}}})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	status, body = enquire(c, other, "And in June?")
	assert.Equal(t, http.StatusOK, status, body)
	assert.Equal(t, 2, enquired(t, s))

	// a change that was sent twice is no conflict
	p := s.Person(t, ines)
	own := profileOf(t, p).Parts[0]
	change := map[string]any{"key": servertest.Key(), "path": "owner", "record": own.Record, "revision": own.Form.Revision,
		"values": map[string]any{"own_phone": "0555 777"}}
	for range 2 {
		status, body = p.Do(http.MethodPost, live+"/forms/p_owner_b", change)
		assert.Equal(t, http.StatusOK, status, body)
	}
}

// TestFormsAreLimited has one at an address send what they like, and others still sent
// theirs.
func TestFormsAreLimited(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	behind(t, s)
	enquiries(t, s)
	sent := map[int]int{}
	for i := range 100 {
		status, body := s.Client(t).Do(http.MethodPost, live+"/forms/p_qu_f", map[string]any{"key": servertest.Key(), "path": "enquire",
			"values": map[string]any{"qu_1": fmt.Sprint(i)}}, via(stranger)...)
		sent[status]++
		if status != http.StatusOK {
			assert.Contains(t, body, "Too many answers came from here")
		}
	}
	assert.Equal(t, map[int]int{http.StatusOK: 60, http.StatusTooManyRequests: 40}, sent)
	status, body := enquire(s.Client(t), servertest.Key(), "From elsewhere")
	assert.Equal(t, http.StatusOK, status, body)
	status, body = s.Person(t, ines).Do(http.MethodPost, live+"/forms/p_qu_f", map[string]any{"key": servertest.Key(), "path": "enquire",
		"values": map[string]any{"qu_1": "By somebody who is known"}}, via(stranger)...)
	assert.Equal(t, http.StatusOK, status, body)
	assert.Equal(t, 62, enquired(t, s))
}
