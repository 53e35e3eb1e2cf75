package server_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
	"pinegate/store"
)

const goodPassword = "barnacle-and-orchard"

// apply changes the draft and publishes it.
func apply(t *testing.T, s *servertest.Site, changes ...map[string]any) {
	t.Helper()
	f := s.Founder(t)
	f.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/changes", map[string]any{"changes": changes})
	var app struct{ Revision, LiveVersion int }
	f.Read("/api/apps/"+s.App.ID, &app)
	f.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/publish",
		map[string]any{"revision": app.Revision, "liveVersion": app.LiveVersion, "accept": true, "bringRecords": false})
}

// set makes the change that sets settings of a thing.
func set(of string, more ...any) map[string]any {
	return map[string]any{"kind": "set", "of": of, "values": pairs(more)}
}

// addField makes the change that adds a field.
func addField(table, id string, more ...any) map[string]any {
	return map[string]any{"kind": "add", "what": "field", "into": table, "id": id, "values": pairs(more)}
}

func pairs(list []any) map[string]any {
	out := map[string]any{}
	for i := 0; i+1 < len(list); i += 2 {
		out[list[i].(string)] = list[i+1]
	}
	return out
}

// mailTo waits for a mail whose subject has the words.
func mailTo(t *testing.T, s *servertest.Site, email, words string) store.Mail {
	t.Helper()
	var m store.Mail
	require.Eventually(t, func() bool {
		return s.Store.DB.Raw("SELECT * FROM mails WHERE recipients = ? AND subject LIKE ? ORDER BY id DESC LIMIT 1", email,
			"%"+words+"%").Scan(&m).Error == nil && m.ID > 0
	}, 10*time.Second, 20*time.Millisecond, "no mail to %s about %s", email, words)
	return m
}

var sixDigits = regexp.MustCompile(`\d{6}`)

func codeIn(m store.Mail) string { return sixDigits.FindString(m.Subject) }

// tokenIn gives the token of the link in a mail.
func tokenIn(t *testing.T, m store.Mail) string {
	t.Helper()
	found := regexp.MustCompile(`token=([\w-]+)`).FindStringSubmatch(m.Body)
	require.NotNil(t, found, m.Body)
	return found[1]
}

// signUp signs somebody up for the demo, and gives the ticket.
func signUp(t *testing.T, c *servertest.Client, email string, values map[string]any) string {
	t.Helper()
	var got struct{ Ticket string }
	decode(t, c.Write(http.MethodPost, live+"/sign-up", map[string]any{"role": "r_own", "email": email, "values": values,
		"terms": "2026-10"}), &got)
	return got.Ticket
}

func signedIn(c *servertest.Client) bool {
	var app struct{ SignedIn bool }
	c.Read(live+"/app", &app)
	return app.SignedIn
}

// withPassword gives somebody a password by the reset.
func withPassword(t *testing.T, s *servertest.Site, email string) {
	t.Helper()
	c := s.Client(t)
	c.Write(http.MethodPost, live+"/reset", map[string]string{"email": email})
	c.Write(http.MethodPost, live+"/reset/use", map[string]string{"email": email,
		"code": codeIn(mailTo(t, s, email, "sets a new password")), "password": goodPassword})
}

func TestPasswords(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Client(t)
	// unknown addresses are answered alike
	known, knownBody := c.Do(http.MethodPost, live+"/reset", map[string]string{"email": ines})
	unknown, unknownBody := c.Do(http.MethodPost, live+"/reset", map[string]string{"email": "nobody@sailmail.example"})
	assert.Equal(t, []any{known, knownBody}, []any{unknown, unknownBody})
	code := codeIn(mailTo(t, s, ines, "sets a new password"))
	// a code for one thing is none for another
	status, _ := c.Do(http.MethodPost, live+"/sign-in", map[string]string{"email": ines, "code": code})
	assert.Equal(t, http.StatusUnauthorized, status)
	for _, bad := range []string{"short", "password1234", "qwertyuiop12", "ines.calder1", strings.Repeat("x", 201)} {
		status, body := c.Do(http.MethodPost, live+"/reset/use", map[string]string{"email": ines, "code": code, "password": bad})
		assert.Equal(t, http.StatusUnprocessableEntity, status, "%s: %s", bad, body)
	}
	before := s.Person(t, ines)
	require.True(t, signedIn(before))
	c.Write(http.MethodPost, live+"/reset/use", map[string]string{"email": ines, "code": code, "password": goodPassword})
	assert.False(t, signedIn(before), "a new password ends the sessions that there are")
	mailTo(t, s, ines, "was changed")
	wrong, wrongBody := c.Do(http.MethodPost, live+"/sign-in/password", map[string]string{"email": ines, "password": "not-her-password"})
	nobody, nobodyBody := c.Do(http.MethodPost, live+"/sign-in/password",
		map[string]string{"email": "nobody@sailmail.example", "password": "not-her-password"})
	assert.Equal(t, []any{http.StatusUnauthorized, wrongBody}, []any{nobody, nobodyBody})
	assert.Equal(t, http.StatusUnauthorized, wrong)
	c.Write(http.MethodPost, live+"/sign-in/password", map[string]string{"email": strings.ToUpper(ines), "password": goodPassword})
	assert.True(t, signedIn(c))
	var hash string
	require.NoError(t, s.Store.DB.Raw("SELECT password FROM people_accounts WHERE email = ?", ines).Scan(&hash).Error)
	assert.True(t, strings.HasPrefix(hash, "$argon2id$"), hash)
}

func TestUnknownPeopleTakeAsLong(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	withPassword(t, s, ines)
	took := func(path string, body map[string]string) time.Duration {
		best := time.Hour
		for range 4 {
			start := time.Now()
			s.Client(t).Do(http.MethodPost, live+path, body)
			best = min(best, time.Since(start))
		}
		return best
	}
	known := took("/sign-in/password", map[string]string{"email": ines, "password": "not-her-password"})
	unknown := took("/sign-in/password", map[string]string{"email": "nobody@sailmail.example", "password": "not-her-password"})
	assert.Greater(t, unknown, known/3, "an unknown address costs a password check, too")
	assert.Greater(t, known, unknown/3)
}

func TestLinksWorkOnceAndOnlyHere(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	apply(t, s, set("gate", "ways", []string{"link"}))
	c := s.Client(t)
	status, _ := c.Do(http.MethodPost, live+"/sign-in/code", map[string]string{"email": ines})
	assert.Equal(t, http.StatusUnprocessableEntity, status, "a way that is not open is closed on the server")
	c.Write(http.MethodPost, live+"/sign-in/link", map[string]string{"email": ines, "to": "/my-boats"})
	m := mailTo(t, s, ines, "Sign in to")
	assert.Contains(t, m.Body, s.URL+"/a/alder-cove/~/link#", "the address comes from the settings, never from the request")
	token := tokenIn(t, m)
	c.Write(http.MethodPost, live+"/sign-in/link/use", map[string]string{"token": token})
	assert.True(t, signedIn(c))
	status, _ = s.Client(t).Do(http.MethodPost, live+"/sign-in/link/use", map[string]string{"token": token})
	assert.Equal(t, http.StatusUnauthorized, status)
	var kept int64
	require.NoError(t, s.Store.DB.Raw("SELECT count(*) FROM tokens WHERE encode(hash, 'escape') LIKE ?", "%"+token+"%").Scan(&kept).Error)
	assert.Zero(t, kept)
}

func TestFieldsPointToOnePerson(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	apply(t, s, addField("own", "own_boats", "name", "Boats", "type", "links", "target", "boat", "of", "boat_owner"),
		set("gate", "ways", []string{"fields"}), set("r_own", "match", []string{"own_email", "own_boats.boat_registration"}))
	ask := func(c *servertest.Client, answers ...string) (int, string) {
		return c.Do(http.MethodPost, live+"/sign-in/fields", map[string]any{"role": "r_own", "answers": answers})
	}
	c := s.Client(t)
	status, right := ask(c, ines, "ac 1200")
	require.Equal(t, http.StatusNoContent, status, right)
	_, wrong := ask(c, ines, "AC 1207") // another's boat
	assert.Equal(t, right, wrong)
	code := codeIn(mailTo(t, s, ines, "is your code"))
	// the code belongs to the answers
	status, _ = c.Do(http.MethodPost, live+"/sign-in/fields/use",
		map[string]any{"role": "r_own", "answers": []string{ines, "AC 1207"}, "code": code})
	assert.Equal(t, http.StatusUnauthorized, status)
	c.Write(http.MethodPost, live+"/sign-in/fields/use", map[string]any{"role": "r_own", "answers": []string{ines, "AC 1200"},
		"code": code})
	assert.True(t, signedIn(c))
	status, _ = ask(c, ines, "")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	var log struct{ Log []struct{ What string } }
	require.Eventually(t, func() bool {
		s.Founder(t).Read("/api/apps/"+s.App.ID+"/gate", &log)
		return strings.Contains(fmt.Sprint(log), "No email was sent: no record matches")
	}, 10*time.Second, 50*time.Millisecond, "the founder is told what the outside is not")
}

// Two people share an address, as couples do.
func TestSharedAddresses(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	apply(t, s, addField("own", "own_boats", "name", "Boats", "type", "links", "target", "boat", "of", "boat_owner"),
		set("gate", "ways", []string{"code", "fields"}), set("r_own", "match", []string{"own_email", "own_boats.boat_registration"}))
	require.NoError(t, s.Store.DB.Exec(fmt.Sprintf(`UPDATE "app_%s_live".owners SET email = ? WHERE name = 'Tomas Lindqvist'`,
		strings.ReplaceAll(s.App.ID, "-", "")), ines).Error)
	c := s.Client(t)
	c.Write(http.MethodPost, live+"/sign-in/code", map[string]string{"email": ines})
	var log struct{ Log []struct{ What string } }
	require.Eventually(t, func() bool {
		s.Founder(t).Read("/api/apps/"+s.App.ID+"/gate", &log)
		return strings.Contains(fmt.Sprint(log), "several records match")
	}, 10*time.Second, 50*time.Millisecond)
	var mails int64
	require.NoError(t, s.Store.DB.Raw("SELECT count(*) FROM mails WHERE recipients = ?", ines).Scan(&mails).Error)
	assert.Zero(t, mails, "nobody knows whose it would be")
	// what only she knows tells them apart, and the session is hers alone
	answers := map[string]any{"role": "r_own", "answers": []string{ines, "AC 1200"}}
	c.Write(http.MethodPost, live+"/sign-in/fields", answers)
	answers["code"] = codeIn(mailTo(t, s, ines, "is your code"))
	c.Write(http.MethodPost, live+"/sign-in/fields/use", answers)
	var boats page
	c.Read(live+"/page?path=my-boats", &boats)
	assert.Equal(t, "Good to see you, Ines Calder", boats.Blocks[0].Text)
	assert.Len(t, boats.Blocks[2].Rows, 2)
	// when the record gets another address, the session ends
	require.NoError(t,
		s.Store.DB.Exec(fmt.Sprintf(`UPDATE "app_%s_live".owners SET email = 'elsewhere@sailmail.example' WHERE name = 'Ines Calder'`,
			strings.ReplaceAll(s.App.ID, "-", ""))).Error)
	assert.False(t, signedIn(c))
}

func TestSecondStepByAuthenticator(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	apply(t, s, set("r_own", "second", "app"))
	withPassword(t, s, ines)
	c := s.Client(t)
	enter := func(c *servertest.Client) string {
		return c.Write(http.MethodPost, live+"/sign-in/password", map[string]string{"email": ines, "password": goodPassword})
	}
	assert.Contains(t, enter(c), `"enrol"`)
	assert.False(t, signedIn(c), "half way in is not in")
	status, _ := c.Do(http.MethodGet, live+"/page?path=my-boats", nil)
	assert.Equal(t, http.StatusUnauthorized, status)
	status, _ = c.Do(http.MethodPost, live+"/sign-in/second", map[string]string{"code": "000000"})
	assert.Equal(t, http.StatusUnauthorized, status, "who has to set it up cannot skip that")
	var setup struct{ Secret string }
	require.NoError(t, json.Unmarshal([]byte(c.Write(http.MethodPost, live+"/sign-in/authenticator", nil)), &setup))
	status, _ = c.Do(http.MethodPost, live+"/sign-in/authenticator/use", map[string]string{"code": "000000"})
	assert.Equal(t, http.StatusUnauthorized, status)
	code, err := totp.GenerateCode(setup.Secret, time.Now())
	require.NoError(t, err)
	before := c.Cookie(live, "pinegate_person")
	var got struct{ Recovery []string }
	require.NoError(t, json.Unmarshal([]byte(c.Write(http.MethodPost, live+"/sign-in/authenticator/use", map[string]string{"code": code})),
		&got))
	assert.Len(t, got.Recovery, 10)
	assert.True(t, signedIn(c))
	assert.NotEqual(t, before, c.Cookie(live, "pinegate_person"), "a session that is done has another token than one that was not")

	// a code that was used, an old one and a made-up one do not work; a recovery code does, once
	second := s.Client(t)
	assert.Contains(t, enter(second), `"second"`)
	for _, bad := range []string{code, "123456", "", "aaaa-bbbb-cccc-dddd"} {
		status, _ := second.Do(http.MethodPost, live+"/sign-in/second", map[string]string{"code": bad})
		assert.Equal(t, http.StatusUnauthorized, status, bad)
	}
	assert.False(t, signedIn(second))
	second.Write(http.MethodPost, live+"/sign-in/second", map[string]string{"code": strings.ToUpper(got.Recovery[3])})
	assert.True(t, signedIn(second))
	third := s.Client(t)
	enter(third)
	status, _ = third.Do(http.MethodPost, live+"/sign-in/second", map[string]string{"code": got.Recovery[3]})
	assert.Equal(t, http.StatusUnauthorized, status)
	// the secret is not told again
	status, _ = third.Do(http.MethodPost, live+"/sign-in/authenticator", nil)
	assert.Equal(t, http.StatusUnauthorized, status)
	var kept string
	require.NoError(t, s.Store.DB.Raw("SELECT recovery FROM people_accounts WHERE email = ?", ines).Scan(&kept).Error)
	assert.NotContains(t, kept, got.Recovery[0])
}

func TestSecondStepByMail(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	apply(t, s, set("r_own", "second", "mail"))
	withPassword(t, s, ines)
	c := s.Client(t)
	assert.Contains(t, c.Write(http.MethodPost, live+"/sign-in/password", map[string]string{"email": ines, "password": goodPassword}),
		`"second"`)
	code := codeIn(mailTo(t, s, ines, "is your code"))
	status, _ := s.Client(t).Do(http.MethodPost, live+"/sign-in", map[string]string{"email": ines, "code": code})
	assert.Equal(t, http.StatusUnauthorized, status, "it goes with the password alone")
	c.Write(http.MethodPost, live+"/sign-in/second", map[string]string{"code": code})
	assert.True(t, signedIn(c))
}
