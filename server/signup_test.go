package server_test

import (
	"fmt"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

func TestSigningUp(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Client(t)
	const email = "petra.holm@sailmail.example"
	send := func(role string, values map[string]any, terms string) (int, string) {
		return c.Do(http.MethodPost, live+"/sign-up", map[string]any{"role": role, "email": email, "values": values, "terms": terms})
	}
	fine := map[string]any{"own_name": "Petra Holm", "own_phone": "0555 0909"}
	for what, x := range map[string]struct {
		role   string
		values map[string]any
		terms  string
	}{
		"a role that nobody signs up for": {"r_man", map[string]any{}, "2026-10"},
		"a role by invitation":            {"r_crew", map[string]any{"crew_name": "x"}, "2026-10"},
		"a role that is not there":        {"visitor", map[string]any{}, "2026-10"},
		"no terms":                        {"r_own", fine, ""},
		"the terms of before":             {"r_own", fine, "2025-01"},
		"a missing answer":                {"r_own", map[string]any{"own_name": "Petra Holm"}, "2026-10"},
		"a field that is not asked":       {"r_own", map[string]any{"own_name": "P", "own_phone": "1", "own_note": "x"}, "2026-10"},
		"what the app fills in": {"r_own", map[string]any{"own_name": "P", "own_phone": "1", "own_since": "2020-01-01"},
			"2026-10"},
		"another address than that to prove": {"r_own", map[string]any{"own_name": "P", "own_phone": "1", "own_email": ines}, "2026-10"},
	} {
		status, body := send(x.role, x.values, x.terms)
		assert.Equal(t, http.StatusUnprocessableEntity, status, "%s: %s", what, body)
	}
	require.NoError(t, s.Store.DB.Exec("DELETE FROM hits").Error)
	// somebody who knows the address signs up with it at the same time, and a password of theirs
	var mallory struct{ Ticket string }
	decode(t, s.Client(t).Write(http.MethodPost, live+"/sign-up",
		map[string]any{"role": "r_own", "email": email, "values": map[string]any{"own_name": "Mallory", "own_phone": "1"},
			"terms": "2026-10", "password": goodPassword}), &mallory)
	theirs := codeIn(mailTo(t, s, email, "confirms your email"))
	var last int64
	require.NoError(t, s.Store.DB.Raw("SELECT max(id) FROM mails").Scan(&last).Error)
	ticket := signUp(t, c, email, fine)
	code := s.Code(t, email, last)
	status, _ := c.Do(http.MethodPost, live+"/sign-up/confirm", map[string]string{"email": email, "code": theirs, "ticket": ticket})
	assert.Equal(t, http.StatusUnauthorized, status, "a code that another asked for confirms nothing here")
	count := func() (n int64) {
		require.NoError(t, s.Store.DB.Raw(fmt.Sprintf(`SELECT count(*) FROM "app_%s_live".owners WHERE lower(email) = ?`,
			strings.ReplaceAll(s.App.ID, "-", "")), email).Scan(&n).Error)
		return n
	}
	assert.Zero(t, count(), "nothing is kept before the address is confirmed")
	// confirmed at once from several windows, it is one record
	var wait sync.WaitGroup
	for range 4 {
		wait.Go(func() {
			s.Client(t).Do(http.MethodPost, live+"/sign-up/confirm", map[string]string{"email": email, "code": code, "ticket": ticket})
		})
	}
	wait.Wait()
	assert.EqualValues(t, 1, count())
	status, _ = c.Do(http.MethodPost, live+"/sign-in/password", map[string]string{"email": email, "password": goodPassword})
	assert.Equal(t, http.StatusUnauthorized, status, "the password of the other is none")
	var terms struct{ Version string }
	require.NoError(t, s.Store.DB.Raw("SELECT version FROM accepted_terms WHERE email = ?", email).Scan(&terms).Error)
	assert.Equal(t, "2026-10", terms.Version)
}

func TestWhoIsKnownBecomesThatPerson(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Client(t)
	ticket := signUp(t, c, ines, map[string]any{"own_name": "Somebody Else", "own_phone": "1", "own_address": "Elsewhere"})
	c.Write(http.MethodPost, live+"/sign-up/confirm", map[string]string{"email": ines, "ticket": ticket,
		"code": codeIn(mailTo(t, s, ines, "confirms your email"))})
	var boats page
	c.Read(live+"/page?path=my-boats", &boats)
	assert.Equal(t, "Good to see you, Ines Calder", boats.Blocks[0].Text, "what was known of her stays")
	assert.Len(t, boats.Blocks[2].Rows, 2, "what was entered before is hers")
}

func TestApproval(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	apply(t, s, set("r_own", "signUp.mode", "approved"))
	const email = "petra.holm@sailmail.example"
	c, f := s.Client(t), s.Founder(t)
	ticket := signUp(t, c, email, map[string]any{"own_name": "Petra Holm", "own_phone": "1"})
	assert.Contains(t, c.Write(http.MethodPost, live+"/sign-up/confirm",
		map[string]string{"email": email, "ticket": ticket, "code": codeIn(mailTo(t, s, email, "confirms your email"))}), `"waiting"`)
	assert.False(t, signedIn(c))
	var gate struct {
		Waiting []struct {
			ID      string
			Email   string
			Answers []struct{ Name, Value string }
		}
	}
	f.Read("/api/apps/"+s.App.ID+"/gate", &gate)
	require.Len(t, gate.Waiting, 1)
	assert.Equal(t, "Petra Holm", gate.Waiting[0].Answers[0].Value)
	f.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/waiting/"+gate.Waiting[0].ID, map[string]bool{"let": true})
	mailTo(t, s, email, "You can now sign in")
	assert.True(t, signedIn(s.Person(t, email)))
}

func TestNobodySignsUpForMore(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	for _, q := range []string{"crew_manager", "crew_active", "crew_email"} {
		status, body := f.Do(http.MethodPost, "/api/apps/"+s.App.ID+"/changes",
			map[string]any{"changes": []any{set("r_crew:sign-up", "fields", []any{map[string]any{"field": q}})}})
		assert.Equal(t, http.StatusUnprocessableEntity, status, "%s: %s", q, body)
	}
}

func TestOneIsKnownByAConfirmedAddress(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	other := "tomas.lindqvist@sailmail.example"
	// even where a rule lets people set it, nobody becomes somebody else by a form
	apply(t, s, set("r_own.own", "fixed", []string{"own_since"}),
		set("r_own:profile", "fields", []any{map[string]any{"field": "own_name"}, map[string]any{"field": "own_email"},
			map[string]any{"field": "own_phone"}}))
	c := s.Person(t, ines)
	me := profileOf(t, c)
	part := me.Parts[0]
	require.Len(t, part.Form.State.Questions, 3)
	for _, q := range part.Form.State.Questions {
		assert.Equal(t, q.Column.ID == "own_email", q.Shown, "%s: the address is only shown", q.Column.ID)
	}
	for form, path := range map[string]string{part.Form.ID: part.Path, "p_owner_b": "owner"} {
		status, body := c.Do(http.MethodPost, live+"/forms/"+form, map[string]any{"key": servertest.Key(), "path": path,
			"record": part.Record, "revision": part.Form.Revision, "values": map[string]any{"own_email": other, "own_name": "Ines Calder"}})
		assert.Equal(t, http.StatusUnprocessableEntity, status, body)
	}

	// another's address is answered like a free one, and gets no code
	before := time.Now()
	c.Write(http.MethodPost, live+"/me/address", map[string]string{"email": other})
	c.Write(http.MethodPost, live+"/me/address", map[string]string{"email": "ines@elsewhere.example"})
	code := codeIn(mailTo(t, s, "ines@elsewhere.example", "confirms your new email"))
	var toOther int64
	require.NoError(t, s.Store.DB.Raw("SELECT count(*) FROM mails WHERE recipients = ? AND received_at > ?", other,
		before).Scan(&toOther).Error)
	assert.Zero(t, toOther)
	status, _ := c.Do(http.MethodPost, live+"/me/address/use", map[string]string{"email": other, "code": code})
	assert.Equal(t, http.StatusUnauthorized, status, "a code is for the address to which it went")
	elsewhere := s.Person(t, ines)
	c.Write(http.MethodPost, live+"/me/address/use", map[string]string{"email": "ines@elsewhere.example", "code": code})
	assert.True(t, signedIn(c))
	assert.False(t, signedIn(elsewhere), "other sessions end")
	mailTo(t, s, ines, "was changed")
	assert.Equal(t, "ines@elsewhere.example", profileOf(t, c).Email)
}

// profile is what somebody finds about themselves.
type profile struct {
	Email string
	Parts []struct {
		Path, Record string
		Form         struct {
			ID       string
			Revision int
			State    struct{ Questions []question }
		}
	}
}

func profileOf(t *testing.T, c *servertest.Client) profile {
	var me profile
	c.Read(live+"/me", &me)
	require.NotEmpty(t, me.Parts)
	return me
}

// TestAProfileIsOnesOwn has somebody look at, and change, the profile of another.
func TestAProfileIsOnesOwn(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	theirs := profileOf(t, s.Person(t, "tomas.lindqvist@sailmail.example")).Parts[0]
	c := s.Person(t, ines)
	own := profileOf(t, c).Parts[0]
	send := func(record, path string, values map[string]any) int {
		status, _ := c.Do(http.MethodPost, live+"/forms/"+own.Form.ID, map[string]any{"key": servertest.Key(), "path": path,
			"record": record, "revision": own.Form.Revision, "values": values})
		return status
	}
	name := map[string]any{"own_phone": "0555 0101"}
	assert.Equal(t, http.StatusNotFound, send(theirs.Record, own.Path, name), "which is another's")
	assert.Equal(t, http.StatusForbidden, send(own.Record, "r_crew:profile", name), "which is of another role")
	assert.Equal(t, http.StatusNotFound, send(own.Record, "r_own:sign-up", name), "which is no page")
	assert.Equal(t, http.StatusUnprocessableEntity, send(own.Record, own.Path, map[string]any{"own_since": "2001-01-01"}), "which is shown")
	assert.Equal(t, http.StatusUnprocessableEntity, send(own.Record, own.Path, map[string]any{"own_note": "x"}), "which is not asked")
	assert.Equal(t, http.StatusOK, send(own.Record, own.Path, name))
	assert.Equal(t, own.Form.Revision+1, profileOf(t, c).Parts[0].Form.Revision)
	// the founder, who may change everybody, is nobody here
	apply(t, s, set("r_own.own", "see", map[string]string{"extent": "all"}), set("r_own.own", "change", map[string]string{"extent": "all"}))
	assert.Equal(t, http.StatusNotFound, send(theirs.Record, own.Path, name), "also where rules let them change it elsewhere")
}

func TestSessionsOfOnesOwn(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	here, there := s.Person(t, ines), s.Person(t, ines)
	stranger := s.Person(t, "tomas.lindqvist@sailmail.example")
	var me struct {
		Sessions []struct {
			ID   string
			Here bool
		}
	}
	here.Read(live+"/me", &me)
	require.Len(t, me.Sessions, 2)
	stranger.Write(http.MethodPost, live+"/me/sessions/end", map[string]string{"id": me.Sessions[0].ID})
	here.Read(live+"/me", &me)
	require.Len(t, me.Sessions, 2, "nobody ends another's sessions")
	here.Write(http.MethodPost, live+"/me/sessions/end", map[string]string{})
	assert.True(t, signedIn(here))
	assert.False(t, signedIn(there))
	assert.True(t, signedIn(stranger))
	// closing the account ends all, and keeps out
	here.Write(http.MethodPost, live+"/me/close", map[string]string{})
	assert.False(t, signedIn(here))
	again := s.Client(t)
	require.NoError(t, s.Store.DB.Exec("UPDATE codes SET void = true").Error)
	var last int64
	require.NoError(t, s.Store.DB.Raw("SELECT max(id) FROM mails").Scan(&last).Error)
	again.Write(http.MethodPost, live+"/sign-in/code", map[string]string{"email": ines})
	status, body := again.Do(http.MethodPost, live+"/sign-in", map[string]string{"email": ines, "code": s.Code(t, ines, last)})
	assert.Equal(t, http.StatusForbidden, status)
	assert.Contains(t, body, "closed")
}

func TestSessionsFollowTheSettings(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	apply(t, s, set("gate", "session.hours", 2, "session.prolonged", false, "session.asks", true))
	expires := func() time.Duration {
		var at time.Time
		require.NoError(t, s.Store.DB.Raw("SELECT expires_at FROM sessions WHERE email = ? ORDER BY created_at DESC LIMIT 1",
			ines).Scan(&at).Error)
		return time.Until(at).Round(time.Minute)
	}
	c := s.Person(t, ines)
	assert.Equal(t, 2*time.Hour, expires())
	assert.True(t, signedIn(c))
	require.NoError(t, s.Store.DB.Exec("UPDATE sessions SET expires_at = now() - interval '1 second' WHERE email = ?", ines).Error)
	assert.False(t, signedIn(c), "it ends when it is over, used or not")
	// who is deactivated is out with the next request
	crew := s.Person(t, "jonas@aldercove.example")
	require.True(t, signedIn(crew))
	require.NoError(t, s.Store.DB.Exec(fmt.Sprintf(`UPDATE "app_%s_live".crew SET active = false WHERE email = 'jonas@aldercove.example'`,
		strings.ReplaceAll(s.App.ID, "-", ""))).Error)
	assert.False(t, signedIn(crew))
}

func TestRoleByACondition(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Person(t, "jonas@aldercove.example")
	status, _ := c.Do(http.MethodGet, live+"/page?path=owners", nil)
	assert.Equal(t, http.StatusOK, status, "he runs the yard")
	require.NoError(t, s.Store.DB.Exec(fmt.Sprintf(`UPDATE "app_%s_live".crew SET manager = false WHERE email = 'jonas@aldercove.example'`,
		strings.ReplaceAll(s.App.ID, "-", ""))).Error)
	status, _ = c.Do(http.MethodGet, live+"/page?path=owners", nil)
	assert.Equal(t, http.StatusForbidden, status, "and now he does not")
	status, _ = c.Do(http.MethodGet, live+"/page?path=orders", nil)
	assert.Equal(t, http.StatusOK, status)
	// and he does not make himself one
	part := profileOf(t, c).Parts[0]
	status, _ = c.Do(http.MethodPost, live+"/forms/"+part.Form.ID, map[string]any{"key": servertest.Key(), "path": part.Path,
		"record": part.Record, "revision": part.Form.Revision, "values": map[string]any{"crew_manager": true}})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
}

func TestTheRuleFillsIn(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	apply(t, s, set("r_own.req", "given", []any{map[string]string{"field": "req_owner", "value": "me"},
		map[string]string{"field": "req_status", "value": `"New"`}}),
		set("p_ask_c", "fields", []any{map[string]any{"field": "req_title"}, map[string]any{"field": "req_boat"},
			map[string]any{"field": "req_owner"}}, "presets", []any{}))
	other, own := foreign(t, s)
	c := s.Person(t, ines)
	var p page
	c.Read(live+"/page?path=ask-for-work", &p)
	require.NotEmpty(t, p.Blocks[2].State.Questions)
	assert.NotContains(t, fmt.Sprint(p.Blocks[2].State.Questions), "req_owner", "what is filled in is not asked")
	status, _ := c.Do(http.MethodPost, live+"/forms/p_ask_c",
		map[string]any{"key": servertest.Key(), "path": "ask-for-work",
			"values": map[string]any{"req_title": "Mine", "req_boat": own["id"],
				"req_owner": other["boat_owner"]}})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	status, body := c.Do(http.MethodPost, live+"/forms/p_ask_c",
		map[string]any{"key": servertest.Key(), "path": "ask-for-work",
			"values": map[string]any{"req_title": "Mine", "req_boat": own["id"]}})
	require.Equal(t, http.StatusOK, status, body)
	var reqs page
	c.Read(live+"/page?path=my-requests", &reqs)
	assert.Contains(t, fmt.Sprint(reqs.Blocks[1].Rows), "Mine")
}

func TestInvitations(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f, c := s.Founder(t), s.Client(t)
	const email = "rowan.pike@aldercove.example"
	status, _ := f.Do(http.MethodPost, "/api/apps/"+s.App.ID+"/invitations", map[string]string{"role": "r_man", "email": email})
	assert.Equal(t, http.StatusUnprocessableEntity, status, "nobody comes to this role by invitation")
	// names do not get into the headers of mails
	f.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/invitations",
		map[string]string{"role": "r_crew", "email": email, "name": "Rowan\r\nBcc: all@elsewhere.example"})
	m := mailTo(t, s, email, "You are invited")
	assert.Equal(t, email, m.Recipients)
	token := tokenIn(t, m)
	c.Write(http.MethodPost, live+"/invitation", map[string]string{"token": token})
	status, _ = c.Do(http.MethodPost, live+"/invitation/accept",
		map[string]any{"token": token, "values": map[string]any{"crew_name": "Rowan", "crew_manager": true}, "terms": "2026-10"})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	c.Write(http.MethodPost, live+"/invitation/accept", map[string]any{"token": token, "values": map[string]any{"crew_name": "Rowan"},
		"terms": "2026-10"})
	assert.True(t, signedIn(c))
	status, _ = s.Client(t).Do(http.MethodPost, live+"/invitation/accept",
		map[string]any{"token": token, "values": map[string]any{"crew_name": "Again"}, "terms": "2026-10"})
	assert.Equal(t, http.StatusUnauthorized, status)
	// one that was taken back does not work
	f.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/invitations", map[string]string{"role": "r_crew", "email": "other@aldercove.example"})
	var gate struct{ Invited []struct{ ID, Email string } }
	f.Read("/api/apps/"+s.App.ID+"/gate", &gate)
	require.Len(t, gate.Invited, 1)
	f.Write(http.MethodDelete, "/api/apps/"+s.App.ID+"/invitations/"+gate.Invited[0].ID, nil)
	status, _ = c.Do(http.MethodPost, live+"/invitation", map[string]string{"token": tokenIn(t,
		mailTo(t, s, "other@aldercove.example", "You are invited"))})
	assert.Equal(t, http.StatusUnauthorized, status)
}

func TestMailSaysWhatItShould(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	try := func(c map[string]any) int {
		status, _ := f.Do(http.MethodPost, "/api/apps/"+s.App.ID+"/changes", map[string]any{"changes": []any{c}})
		return status
	}
	for what, c := range map[string]map[string]any{
		"no code":             set("gate", "mails.code.subject", "Hello", "mails.code.body", "No code"),
		"an unknown name":     set("gate", "mails.code.subject", "{{code}}", "mails.code.body", "{{password}}"),
		"a second header":     set("gate", "mails.code.subject", "{{code}}\r\nBcc: all@elsewhere.example", "mails.code.body", "{{code}}"),
		"a sender of lines":   set("gate", "sender", "Yard\r\nBcc: x", "address", ""),
		"an address of lines": set("gate", "sender", "", "address", "a@b.example\r\nBcc: x@y.example"),
		"an unknown mail":     set("gate", "mails.none.subject", "x", "mails.none.body", "y"),
	} {
		assert.Equal(t, http.StatusUnprocessableEntity, try(c), what)
	}
	apply(t, s, set("gate", "mails.code.subject", "{{UPPER(app)}}: {{code}}", "mails.code.body", "For {{name}}: {{code}}"),
		set("gate", "sender", "The yard", "address", "yard@aldercove.example"))
	s.Client(t).Write(http.MethodPost, live+"/sign-in/code", map[string]string{"email": ines})
	m := mailTo(t, s, ines, "ALDER COVE BOATYARD: ")
	assert.Equal(t, "no-reply@pinegate.example", m.Sender)
	assert.Equal(t, "marta@aldercove.example", m.ReplyTo)
	assert.Contains(t, m.Body, "For Ines Calder: "+codeIn(m))
}

// broken has every write to a table of the live app fail, and gives what mends that.
func broken(t *testing.T, s *servertest.Site, table string) (mend func()) {
	name := fmt.Sprintf(`"app_%s_live".%s`, strings.ReplaceAll(s.App.ID, "-", ""), table)
	require.NoError(t, s.Store.DB.Exec("ALTER TABLE "+name+" ADD CONSTRAINT broken CHECK (false) NOT VALID").Error)
	return func() { require.NoError(t, s.Store.DB.Exec("ALTER TABLE "+name+" DROP CONSTRAINT broken").Error) }
}

// TestWhatFailsUsesNothingUp confirms a sign-up and accepts an invitation while nothing
// can be written, and then again with the same code and link.
func TestWhatFailsUsesNothingUp(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	const email, crew = "petra.holm@sailmail.example", "rowan.pike@aldercove.example"
	c, invited := s.Client(t), s.Client(t)
	ticket := signUp(t, c, email, map[string]any{"own_name": "Petra Holm", "own_phone": "0555 0909"})
	code := codeIn(mailTo(t, s, email, "confirms your email"))
	confirm := func() (int, string) {
		return c.Do(http.MethodPost, live+"/sign-up/confirm", map[string]string{"email": email, "code": code, "ticket": ticket})
	}
	s.Founder(t).Write(http.MethodPost, "/api/apps/"+s.App.ID+"/invitations", map[string]string{"role": "r_crew", "email": crew})
	token := tokenIn(t, mailTo(t, s, crew, "You are invited"))
	accept := func() (int, string) {
		return invited.Do(http.MethodPost, live+"/invitation/accept",
			map[string]any{"token": token, "values": map[string]any{"crew_name": "Rowan"}, "terms": "2026-10"})
	}
	accepted := func() (n int64) {
		require.NoError(t, s.Store.DB.Raw("SELECT count(*) FROM accepted_terms WHERE email IN (?, ?)", email, crew).Scan(&n).Error)
		return n
	}
	before := accepted()
	for table, do := range map[string]func() (int, string){"owners": confirm, "crew": accept} {
		mend := broken(t, s, table)
		status, answer := do()
		assert.Equal(t, http.StatusInternalServerError, status, answer)
		assert.Equal(t, before, accepted(), "nor are terms accepted")
		mend()
		status, answer = do()
		assert.Less(t, status, 300, answer)
		status, _ = do()
		assert.Equal(t, http.StatusUnauthorized, status, "once")
		before = accepted()
	}
	assert.True(t, signedIn(c))
	assert.True(t, signedIn(invited))
}
