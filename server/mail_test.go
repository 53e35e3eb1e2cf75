package server_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

// TestSendersAreConfirmed has mail come from an address of others, and of one's own.
func TestSendersAreConfirmed(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	api := "/api/apps/" + s.App.ID
	const office = "office@aldercove.example"
	trial := func() (from, replyTo string) {
		var before int64
		require.NoError(t, s.Store.DB.Raw("SELECT COALESCE(max(id), 0) FROM mails").Scan(&before).Error)
		f.Write(http.MethodPost, api+"/mail-trials", map[string]string{"mail": "code"})
		var m struct{ Sender, ReplyTo string }
		require.NoError(t, s.Store.DB.Raw("SELECT sender, reply_to FROM mails WHERE id > ?", before).Scan(&m).Error)
		return m.Sender, m.ReplyTo
	}
	status, body := f.Do(http.MethodPost, api+"/sender", map[string]string{})
	assert.Equal(t, http.StatusUnprocessableEntity, status, body)
	f.Write(http.MethodPost, api+"/changes", map[string]any{"changes": []any{set("gate", "address", office)}})
	from, replyTo := trial()
	assert.Equal(t, "no-reply@pinegate.example", from)
	assert.Equal(t, "marta@aldercove.example", replyTo)

	f.Write(http.MethodPost, api+"/sender", map[string]string{})
	m := mailTo(t, s, office, "confirms the sender")
	status, _ = f.Do(http.MethodPost, api+"/sender/confirm", map[string]string{"code": "000000"})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	from, _ = trial()
	assert.Equal(t, "no-reply@pinegate.example", from)
	f.Write(http.MethodPost, api+"/sender/confirm", map[string]string{"code": codeIn(m)})
	from, replyTo = trial()
	assert.Equal(t, office, from)
	assert.Empty(t, replyTo)
	var state struct {
		Sender struct{ Name, Address, Asked string }
	}
	f.Read(api+"/gate", &state)
	assert.Equal(t, "Alder Cove Boatyard "+office, strings.TrimSpace(state.Sender.Name+" "+state.Sender.Address+" "+state.Sender.Asked))

	// it is that workspace's alone, and one's own address needs no code
	f.Write(http.MethodPost, api+"/changes", map[string]any{"changes": []any{set("gate", "address", "Marta@AlderCove.example")}})
	from, _ = trial()
	assert.Equal(t, "Marta@AlderCove.example", from)
	is, err := s.Accounts.ConfirmedSender(t.Context(), "01a00000-0000-7000-8000-000000000000", office)
	require.NoError(t, err)
	assert.False(t, is)
}

// TestBuildersSendMailInBounds invites until there is no more of it.
func TestBuildersSendMailInBounds(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	counts := map[int]int{}
	invite := func(path string, body map[string]string) string {
		status, told := f.Do(http.MethodPost, path, body)
		counts[status]++
		return told
	}
	told := ""
	for i := range 60 {
		told = invite("/api/apps/"+s.App.ID+"/invitations", map[string]string{"role": "r_crew",
			"email": fmt.Sprintf("p%d@sails.example", i)})
		invite("/api/workspaces/"+s.App.WorkspaceID+"/invitations", map[string]string{"role": "viewer",
			"email": fmt.Sprintf("b%d@sails.example", i)})
	}
	assert.Equal(t, map[int]int{http.StatusNoContent: 100, http.StatusTooManyRequests: 20}, counts)
	assert.Contains(t, told, "You sent many emails today")
	// the people of the app are let in all the same
	s.Person(t, ines)
}

// TestNamesInMailAreNoMailOfOthers has names bring lines and addresses into mail.
func TestNamesInMailAreNoMailOfOthers(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	const victim = "victim@elsewhere.example"
	s.Client(t).Write(http.MethodPost, "/api/sign-up", map[string]string{"email": victim, "password": goodPassword,
		"name": "winner. Visit https://evil.example/now"})
	m := mailTo(t, s, victim, "confirms your email")
	assert.Contains(t, m.Body, "Hello winner. Visit https evil example/now,")
	f := s.Founder(t)
	f.Write(http.MethodPatch, "/api/workspaces/"+s.App.WorkspaceID, map[string]string{"name": "www.evil.example"})
	f.Write(http.MethodPost, "/api/workspaces/"+s.App.WorkspaceID+"/invitations", map[string]string{"role": "viewer", "email": victim})
	assert.Equal(t, "Marta Alder invites you to www evil example", mailTo(t, s, victim, "invites you").Subject)
	apply(t, s, set("app", "name", "evil.example"), set("gate", "mails.invitation.body", "{{name}} {{app}} {{link}}"))
	f.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/invitations", map[string]string{"role": "r_crew", "email": victim,
		"name": "One\r\n\r\nTwo evil.example"})
	m = mailTo(t, s, victim, "invited")
	assert.Contains(t, m.Body, "One Two evil example evil example http://127.0.0.1")
}
