package server_test

import (
	"net/http"
	"net/http/httptest"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/demo"
	"pinegate/server"
	"pinegate/server/servertest"
)

// TestCodesAreForTheirRecipientsAlone reads the mail of an app as the owner of its
// workspace, where there is no mail server and no demo.
func TestCodesAreForTheirRecipientsAlone(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	s.Person(t, "marta@aldercove.example")
	path := "/api/apps/" + s.App.ID + "/mails"
	code := regexp.MustCompile(`\b\d{6}\b`)
	_, inDemo := s.Founder(t).Do(http.MethodGet, path, nil)
	require.Regexp(t, code, inDemo, "in the demo everybody reads them")

	config := s.Config
	config.Demo = nil
	web := httptest.NewServer(server.New(config))
	t.Cleanup(web.Close)
	outside := *s
	outside.URL = web.URL
	status, mails := outside.Founder(t).Do(http.MethodGet, path, nil)
	require.Equal(t, http.StatusOK, status)
	assert.Contains(t, mails, "marta@aldercove.example")
	assert.NotRegexp(t, code, mails)
	assert.Contains(t, mails, "only they can read it")
}

// TestTheDemoAccountIsShutOutsideTheDemo starts without the demo what was one, and with
// it again, and lets its founder choose a password that is a secret.
func TestTheDemoAccountIsShutOutsideTheDemo(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	founder, account := s.Founder(t), demo.Founder()
	signIn := func(password string) int {
		status, _ := s.Client(t).Do(http.MethodPost, "/api/sign-in", map[string]string{"email": account.Email, "password": password})
		return status
	}
	status, _ := founder.Do(http.MethodGet, "/api/apps", nil)
	require.Equal(t, http.StatusOK, status)

	require.NoError(t, demo.Shut(t.Context(), s.Accounts))
	status, _ = founder.Do(http.MethodGet, "/api/apps", nil)
	assert.Equal(t, http.StatusUnauthorized, status, "who was in is out")
	assert.Equal(t, http.StatusUnauthorized, signIn(account.Password))
	assert.Equal(t, http.StatusUnauthorized, signIn(""))

	_, err := demo.Load(t.Context(), s.Store, s.Apps, s.Accounts, nil, false)
	require.NoError(t, err)
	assert.Less(t, signIn(account.Password), 300)

	const secret = "nine-herons-over-the-slip"
	s.Founder(t).Write(http.MethodPost, "/api/account/password", map[string]string{"old": account.Password, "new": secret})
	require.NoError(t, demo.Shut(t.Context(), s.Accounts))
	assert.Less(t, signIn(secret), 300, "an account of one's own stays")
}
