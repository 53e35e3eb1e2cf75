package server_test

import (
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/demo"
	"pinegate/server/servertest"
)

// TestTheDemoAccountIsShutOutsideTheDemo starts without the demo what was one, and with
// it again, and lets its founder choose a password that is a secret.
func TestTheDemoAccountIsShutOutsideTheDemo(t *testing.T) {
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
