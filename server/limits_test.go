package server_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/demo"
	"pinegate/server"
	"pinegate/server/servertest"
)

// behind has a site reached by way of a proxy that is trusted.
func behind(t *testing.T, s *servertest.Site) {
	c := s.Config
	c.Proxies = []string{"127.0.0.1"}
	web := httptest.NewServer(server.New(c))
	t.Cleanup(web.Close)
	s.URL = web.URL
}

// via is where a request comes from, as the proxy tells.
func via(host string) []string { return []string{"X-Forwarded-For", host} }

const (
	tomas    = "tomas.lindqvist@sailmail.example"
	stranger = "198.51.100.7"
	home     = "203.0.113.9"
)

// TestStrangersShutNobodyOut has a stranger ask for codes and be wrong until there is
// no more of it, at one address and then at many.
func TestStrangersShutNobodyOut(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	behind(t, s)
	known := s.Person(t, ines)
	latest := func() (last int64) {
		require.Eventually(t, func() bool { // all that was asked for is mailed
			var left int64
			err := s.Store.DB.Raw("SELECT count(*) FROM river_job WHERE state <> 'completed'").Scan(&left).Error
			return err == nil && left == 0
		}, 20*time.Second, 10*time.Millisecond)
		require.NoError(t, s.Store.DB.Raw("SELECT COALESCE(max(id), 0) FROM mails").Scan(&last).Error)
		return last
	}
	enter := func(c *servertest.Client, email, host string) int {
		after := latest()
		status, _ := c.Do(http.MethodPost, live+"/sign-in/code", map[string]string{"email": email}, via(host)...)
		if status >= 300 {
			return status
		}
		code := s.Code(t, email, after)
		status, body := c.Do(http.MethodPost, live+"/sign-in", map[string]string{"email": email, "code": code}, via(host)...)
		assert.Less(t, status, 300, body)
		return status
	}
	// the owner has just asked for a code when a stranger begins
	owner := s.Client(t)
	after := latest()
	owner.Write(http.MethodPost, live+"/sign-in/code", map[string]string{"email": tomas})
	code := s.Code(t, tomas, after)
	guess := func(email, host string) (last int) {
		c := s.Client(t)
		for i := range 25 {
			c.Do(http.MethodPost, live+"/sign-in/code", map[string]string{"email": email}, via(host)...)
			tried := map[string]string{"email": email, "code": fmt.Sprintf("%06d", i)}
			last, _ = c.Do(http.MethodPost, live+"/sign-in", tried, via(host)...)
		}
		return last
	}
	assert.Equal(t, http.StatusTooManyRequests, guess(tomas, stranger))
	owner.Write(http.MethodPost, live+"/sign-in", map[string]string{"email": tomas, "code": code})

	// at another address the stranger's tries do not count, not even for a new browser
	assert.Equal(t, http.StatusTooManyRequests, guess(ines, stranger))
	assert.Less(t, enter(s.Client(t), ines, home), 300)
	// a new browser at the stranger's address is held off; one that is known is not
	assert.Equal(t, http.StatusTooManyRequests, enter(s.Client(t), ines, stranger))
	assert.Less(t, enter(known, ines, stranger), 300)
	// nor when they come from everywhere
	for i := range 8 {
		guess(ines, fmt.Sprintf("198.51.100.%d", 20+i))
	}
	assert.Equal(t, http.StatusTooManyRequests, enter(s.Client(t), ines, home))
	require.NoError(t, s.Store.DB.Exec("UPDATE codes SET created_at = created_at - interval '1 minute'").Error)
	assert.Less(t, enter(known, ines, home), 300)
	// and another person at the stranger's address is let in
	assert.Less(t, enter(s.Client(t), "marta@aldercove.example", stranger), 300)
}

// TestStrangersShutNoBuilderOut is the same where one builds.
func TestStrangersShutNoBuilderOut(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	behind(t, s)
	f := demo.Founder()
	enter := func(c *servertest.Client, password, host string) int {
		status, _ := c.Do(http.MethodPost, "/api/sign-in", map[string]string{"email": f.Email, "password": password}, via(host)...)
		return status
	}
	known := s.Client(t)
	require.Less(t, enter(known, f.Password, home), 300)
	for i := range 7 {
		host, last := fmt.Sprintf("198.51.100.%d", i), 0
		for range 16 {
			last = enter(s.Client(t), "wrong-password", host)
		}
		assert.Equal(t, http.StatusTooManyRequests, last, host)
	}
	assert.Equal(t, http.StatusTooManyRequests, enter(s.Client(t), f.Password, home), "from everywhere it was too much")
	assert.Less(t, enter(known, f.Password, home), 300)
	other := 0
	for range 40 { // what is wrong in a browser that is known is counted, too
		other = enter(known, "wrong-password", home)
	}
	assert.Equal(t, http.StatusTooManyRequests, other)

	// a code for a new password is worth nothing elsewhere
	status, body := s.Client(t).Do(http.MethodPost, "/api/reset", map[string]string{"email": "nobody@aldercove.example"})
	require.Less(t, status, 300, body)
	asked := s.Client(t)
	asked.Write(http.MethodPost, "/api/reset", map[string]string{"email": f.Email})
	renewed := map[string]string{"email": f.Email, "code": s.Code(t, f.Email, 0), "password": goodPassword}
	status, _ = s.Client(t).Do(http.MethodPost, "/api/reset/use", renewed)
	assert.Equal(t, http.StatusUnauthorized, status)
	asked.Write(http.MethodPost, "/api/reset/use", renewed)
}

// TestAppsCountApart has a stranger at one app, where another app's people come from the
// same network.
func TestAppsCountApart(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	founder := s.Founder(t)
	founder.Write(http.MethodPost, "/api/apps", map[string]string{"name": "Second"})
	var second struct {
		ID    string
		Route string
	}
	require.NoError(t, s.Store.DB.Raw("SELECT id, slug AS route FROM apps WHERE name = 'Second'").Scan(&second).Error)
	founder.Write(http.MethodPost, "/api/apps/"+second.ID+"/publish",
		map[string]any{"revision": 1, "liveVersion": 0, "accept": false, "bringRecords": false})
	last := 0
	for i := range 130 {
		last, _ = s.Client(t).Do(http.MethodPost, "/a/"+second.Route+"/-/sign-in",
			map[string]string{"email": fmt.Sprintf("stranger%d@sailmail.example", i), "code": "000000"})
	}
	assert.Equal(t, http.StatusTooManyRequests, last)
	s.Person(t, ines)
}

// TestWhereRequestsComeFrom looks at the address that is written down.
func TestWhereRequestsComeFrom(t *testing.T) {
	t.Parallel()
	for _, x := range []struct {
		name, says, is string
		proxies        []string
	}{
		{"nobody is believed", home, "127.0.0.1", nil},
		{"another proxy is trusted", home, "127.0.0.1", []string{"10.0.0.0/8"}},
		{"the proxy is trusted", home, home, []string{"127.0.0.0/8"}},
		{"what was sent to the proxy is not", "192.0.2.1, " + home, home, []string{"127.0.0.1"}},
		{"several proxies", home + ", 10.1.2.3", home, []string{"127.0.0.1", "10.0.0.0/8"}},
		{"nonsense", "the harbour", "127.0.0.1", []string{"127.0.0.1"}},
		{"a network of IPv6", "2001:db8:1:2:3:4:5:6", "2001:db8:1:2::/64", []string{"127.0.0.1"}},
	} {
		t.Run(x.name, func(t *testing.T) {
			s := servertest.New(t)
			c := s.Config
			c.Proxies = x.proxies
			web := httptest.NewServer(server.New(c))
			t.Cleanup(web.Close)
			s.URL = web.URL
			s.Client(t).Do(http.MethodPost, live+"/sign-in", map[string]string{"email": ines, "code": "000000"}, via(x.says)...)
			var noted string
			require.NoError(t, s.Store.DB.Raw("SELECT host FROM gate_log ORDER BY id DESC LIMIT 1").Scan(&noted).Error)
			assert.Equal(t, x.is, noted)
		})
	}
	require.NoError(t, server.Networks([]string{"10.0.0.0/8", "127.0.0.1", "2001:db8::/32"}))
	require.ErrorContains(t, server.Networks([]string{"the harbour"}), "no network")
}
