package server_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
	"pinegate/store/kept"
)

// berths gives how many berths a page shows, and by how many kept values they are narrowed.
func berths(t *testing.T, c *servertest.Client, at string, headers ...string) (rows, narrowed int) {
	t.Helper()
	status, answer := c.Do(http.MethodGet, at+"/page?path=berths&view=p_berths_d.as%3Dtable", nil, headers...)
	require.Equal(t, http.StatusOK, status, answer)
	var p struct {
		Blocks []struct {
			ID, Next string
			Rows     []map[string]any
			Kept     []map[string]any
		}
	}
	decode(t, answer, &p)
	for _, b := range p.Blocks {
		if b.ID == "p_berths_d" {
			return len(b.Rows), len(b.Kept)
		}
	}
	require.Fail(t, "there is no list")
	return 0, 0
}

func keepLength(c *servertest.Client, at string, value any) (int, string) {
	return c.Do(http.MethodPost, at+"/kept", map[string]any{"values": map[string]any{"k_length": value}})
}

// TestWhatAVisitorChoseIsKept keeps a length in a browser, until it counts no more.
func TestWhatAVisitorChoseIsKept(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Client(t)
	all, narrowed := berths(t, c, live)
	assert.Zero(t, narrowed)
	status, answer := keepLength(c, live, "15.5")
	require.Equal(t, http.StatusNoContent, status, answer)
	few, narrowed := berths(t, c, live)
	assert.Equal(t, 1, narrowed)
	assert.Less(t, few, all)
	other, _ := berths(t, s.Client(t), live)
	assert.Equal(t, all, other, "it is kept for this browser alone")

	for name, want := range map[string]struct {
		text  string
		until time.Duration
		rows  int
	}{
		"a fortnight less a minute": {"15.5", time.Minute, few},
		"gone":                      {"15.5", -time.Minute, all},
		"nonsense":                  {"15.5; DROP", time.Hour, all},
		"nothing":                   {"", time.Hour, all},
	} {
		text, err := kept.Values{"k_length": {Text: want.text, Until: time.Now().Add(want.until).Unix()}, "gone": {Text: "1",
			Until: 1 << 60}}.Encode()
		require.NoError(t, err)
		rows, _ := berths(t, s.Client(t), live, "Cookie", "pinegate_kept="+text)
		assert.Equal(t, want.rows, rows, name)
	}
	for _, forged := range []string{"x", "bnVsbA", strings.Repeat("A", 3600), "eyJrX2xlbmd0aCI6MX0"} {
		rows, _ := berths(t, s.Client(t), live, "Cookie", "pinegate_kept="+forged)
		assert.Equal(t, all, rows, forged)
	}
	decoded := kept.Decode(c.Cookie(live, "pinegate_kept"))
	assert.InDelta(t, 14*24*time.Hour, time.Until(time.Unix(decoded["k_length"].Until, 0)), float64(time.Minute))

	for value, want := range map[string]int{"x": 422, "1e999999": 422, strings.Repeat("9", 300): 422} {
		status, answer := keepLength(c, live, value)
		assert.Equal(t, want, status, answer)
	}
	status, _ = c.Do(http.MethodPost, live+"/kept", map[string]any{"values": map[string]any{"own_name": "x"}})
	assert.Equal(t, 422, status)
	rows, _ := berths(t, c, live)
	assert.Equal(t, few, rows, "what is wrong leaves it as it was")
	status, _ = keepLength(c, live, nil)
	assert.Equal(t, http.StatusNoContent, status)
	rows, _ = berths(t, c, live)
	assert.Equal(t, all, rows)
}

// TestWhatIsKeptForAPersonIsThereInAllTheirBrowsers keeps it under who they are.
func TestWhatIsKeptForAPersonIsThereInAllTheirBrowsers(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	apply(t, s, set("k_length", "person", true))
	_, own := foreign(t, s)
	as := func(person string) string { return "/stage/" + s.App.ID + "/person.r_own." + person + "/-" }
	mine := as(fmt.Sprint(own["boat_owner"]))
	f := s.Founder(t)
	all, _ := berths(t, f, mine)
	status, answer := keepLength(f, mine, "15")
	require.Equal(t, http.StatusNoContent, status, answer)
	elsewhere := s.Founder(t)
	few, narrowed := berths(t, elsewhere, mine)
	assert.Less(t, few, all)
	assert.Equal(t, 1, narrowed)
	visitor, _ := berths(t, f, "/stage/"+s.App.ID+"/visitor/-")
	assert.Equal(t, all, visitor, "it is theirs")
	status, _ = keepLength(elsewhere, mine, nil)
	assert.Equal(t, http.StatusNoContent, status)
	again, _ := berths(t, f, mine)
	assert.Equal(t, all, again)
}
