package accounts_test

import (
	"context"
	"errors"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/storetest"
)

func TestMain(m *testing.M) { os.Exit(storetest.Main(m)) }

const password = "barnacle-and-orchard"

// house is a store with two builders, Ann and Ben.
type house struct {
	*accounts.Accounts
	t        *testing.T
	s        *store.Store
	ann, ben store.Builder
}

func newHouse(t *testing.T) *house {
	s := storetest.New(t)
	h := &house{Accounts: accounts.New(s), t: t, s: s}
	var err error
	h.ann, err = h.AddBuilder(t.Context(), "ann@yard.example", "Ann", password)
	require.NoError(t, err)
	h.ben, err = h.AddBuilder(t.Context(), "Ben@yard.example", "Ben", password)
	require.NoError(t, err)
	return h
}

func (h *house) sql(sql string, args ...any) {
	h.t.Helper()
	require.NoError(h.t, h.s.DB.Exec(sql, args...).Error)
}

func code(t *testing.T, err error) string {
	t.Helper()
	var p *words.Problem
	require.ErrorAs(t, err, &p)
	return p.Code
}

// another is a code that is certainly not the one.
func another(code string) string {
	if code == "000000" {
		return "000001"
	}
	return "000000"
}

func TestACodeWorksOnceForWhatItIs(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	c := accounts.Code{Purpose: accounts.ToRenew, Subject: "ann@yard.example"}
	made, err := h.MakeCode(ctx, c, map[string]string{"hello": "there"})
	require.NoError(t, err)
	require.Len(t, made, 6)
	for name, other := range map[string]accounts.Code{
		"another purpose": {Purpose: accounts.ToConfirm, Subject: c.Subject},
		"another address": {Purpose: c.Purpose, Subject: "ben@yard.example"},
		"an app":          {App: "01a00000-0000-7000-8000-000000000000", Purpose: c.Purpose, Subject: c.Subject},
	} {
		require.ErrorIs(t, h.UseCode(ctx, other, made, nil), accounts.ErrRefused, name)
	}
	require.ErrorIs(t, h.UseCode(ctx, c, another(made), nil), accounts.ErrRefused)
	var carried map[string]string
	require.NoError(t, h.UseCode(ctx, c, made, &carried))
	assert.Equal(t, map[string]string{"hello": "there"}, carried)
	require.ErrorIs(t, h.UseCode(ctx, c, made, nil), accounts.ErrRefused, "once")
}

// TestACodeIsUsedUpWithWhatFollows tries a right code, lets what follows fail, and has
// two use it at once.
func TestACodeIsUsedUpWithWhatFollows(t *testing.T) {
	h := newHouse(t)
	c := accounts.Code{Purpose: accounts.ToRenew, Subject: "ann@yard.example"}
	made, err := h.MakeCode(t.Context(), c, nil)
	require.NoError(t, err)
	first, err := h.TryCode(t.Context(), c, made, nil)
	require.NoError(t, err)
	fails := errors.New("what follows fails")
	require.ErrorIs(t, h.s.DB.Transaction(func(tx *gorm.DB) error {
		return errors.Join(h.In(tx).Spend(t.Context(), first), fails)
	}), fails)
	second, err := h.TryCode(t.Context(), c, made, nil)
	require.NoError(t, err, "it is still there")
	require.NoError(t, h.Spend(t.Context(), second))
	require.ErrorIs(t, h.Spend(t.Context(), first), accounts.ErrRefused, "the other was first")
	_, err = h.TryCode(t.Context(), c, made, nil)
	require.ErrorIs(t, err, accounts.ErrRefused)
}

func TestCodesWearOut(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	c := accounts.Code{Purpose: accounts.ToRenew, Subject: "ann@yard.example"}
	made, err := h.MakeCode(ctx, c, nil)
	require.NoError(t, err)
	for range accounts.CodeTries {
		require.ErrorIs(t, h.UseCode(ctx, c, another(made), nil), accounts.ErrRefused)
	}
	require.ErrorIs(t, h.UseCode(ctx, c, made, nil), accounts.ErrRefused, "after so many tries the right one is none")

	made, err = h.MakeCode(ctx, c, nil)
	require.NoError(t, err)
	require.NotEmpty(t, made, "a void code does not make wait")
	young, err := h.MakeCode(ctx, c, nil)
	require.NoError(t, err)
	assert.Empty(t, young, "a second one has to wait")
	h.sql("UPDATE codes SET created_at = now() - interval '1 minute'")
	newer, err := h.MakeCode(ctx, c, nil)
	require.NoError(t, err)
	if newer != made {
		require.ErrorIs(t, h.UseCode(ctx, c, made, nil), accounts.ErrRefused, "an older one is void")
	}
	h.sql("UPDATE codes SET expires_at = now() - interval '1 second'")
	require.ErrorIs(t, h.UseCode(ctx, c, newer, nil), accounts.ErrRefused, "too old")
}

// TestGuessesAtOnceCountOneByOne tries twenty wrong codes at once, and then the right one.
func TestGuessesAtOnceCountOneByOne(t *testing.T) {
	h := newHouse(t)
	c := accounts.Code{Purpose: accounts.ToRenew, Subject: "ann@yard.example"}
	made, err := h.MakeCode(t.Context(), c, nil)
	require.NoError(t, err)
	var wait sync.WaitGroup
	for range 20 {
		wait.Go(func() {
			assert.ErrorIs(t, h.UseCode(context.Background(), c, another(made), nil), accounts.ErrRefused)
		})
	}
	wait.Wait()
	require.ErrorIs(t, h.UseCode(t.Context(), c, made, nil), accounts.ErrRefused)
	var tries int
	require.NoError(t, h.s.DB.Raw("SELECT tries FROM codes").Scan(&tries).Error)
	assert.Equal(t, accounts.CodeTries, tries, "none was tried beside the others")
}

func TestLinksWorkOnceAndForTheirPurpose(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	link := accounts.Link{Purpose: accounts.ToJoin, Subject: "mo@yard.example", Workspace: &h.ann.ID}
	old, err := h.MakeLink(ctx, link, time.Hour)
	require.NoError(t, err)
	token, err := h.MakeLink(ctx, link, time.Hour)
	require.NoError(t, err)
	_, err = h.LookAtLink(ctx, "", accounts.ToJoin, old)
	require.ErrorIs(t, err, accounts.ErrRefused, "a newer one takes its place")
	_, err = h.UseLink(ctx, "", accounts.ToInvite, token)
	require.ErrorIs(t, err, accounts.ErrRefused, "it is for something else")
	_, err = h.UseLink(ctx, "01a00000-0000-7000-8000-000000000000", accounts.ToJoin, token)
	require.ErrorIs(t, err, accounts.ErrRefused, "and for somewhere else")
	l, err := h.LookAtLink(ctx, "", accounts.ToJoin, token)
	require.NoError(t, err)
	all, err := h.Links(ctx, "", h.ann.ID, accounts.ToJoin)
	require.NoError(t, err)
	require.Len(t, all, 1)
	assert.Equal(t, l.ID, all[0].ID)
	require.NoError(t, h.DropLink(ctx, "", h.ben.ID, l.ID), "of another workspace: nothing happens")
	_, err = h.LookAtLink(ctx, "", accounts.ToJoin, token)
	require.NoError(t, err)
	require.NoError(t, h.DropLink(ctx, "", h.ann.ID, l.ID))
	_, err = h.LookAtLink(ctx, "", accounts.ToJoin, token)
	require.ErrorIs(t, err, accounts.ErrRefused)
	require.ErrorIs(t, h.DropLink(ctx, "", h.ann.ID, "nothing"), accounts.ErrRefused)
}

// TestALinkOpenedTwiceAtOnceWorksOnce opens it from ten places.
func TestALinkOpenedTwiceAtOnceWorksOnce(t *testing.T) {
	h := newHouse(t)
	token, err := h.MakeLink(t.Context(), accounts.Link{Purpose: accounts.ToJoin, Subject: "mo@yard.example"}, time.Hour)
	require.NoError(t, err)
	var wait sync.WaitGroup
	done := make(chan error, 10)
	for range 10 {
		wait.Go(func() {
			_, err := h.UseLink(context.Background(), "", accounts.ToJoin, token)
			done <- err
		})
	}
	wait.Wait()
	close(done)
	worked := 0
	for err := range done {
		if err == nil {
			worked++
			continue
		}
		require.ErrorIs(t, err, accounts.ErrRefused)
	}
	assert.Equal(t, 1, worked)
}

func TestPasswordsThatAreTriedFirstAreRefused(t *testing.T) {
	for password, want := range map[string]string{
		"short":                    "password-short",
		"passwordpassword":         "password-common",
		"1234567890":               "password-common",
		"ines.calder":              "password-common",
		strings.Repeat("long", 60): "password-long",
		"bad\xffbad\xffbad":        "password-long",
		"barnacle-and-orchard":     "",
		"Ein Boot im Wind ":        "",
	} {
		err := accounts.GoodPassword(password, "ines.calder@sails.example", "Ines Calder")
		if want == "" {
			require.NoError(t, err, password)
			continue
		}
		assert.Equal(t, want, code(t, err), password)
	}
}

func TestBuildersSignIn(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	for name, x := range map[string]struct {
		email, password string
		right           bool
	}{
		"right":             {"ann@yard.example", password, true},
		"in other case":     {"ANN@yard.example", password, true},
		"a wrong password":  {"ann@yard.example", password + "!", false},
		"none":              {"ann@yard.example", "", false},
		"nobody":            {"mo@yard.example", password, false},
		"an attack by text": {"ann@yard.example' OR true --", password, false},
	} {
		token, state, err := h.SignInBuilder(ctx, x.email, x.password, "Browser")
		if !x.right {
			require.ErrorIs(t, err, accounts.ErrRefused, name)
			assert.Empty(t, token, name)
			continue
		}
		require.NoError(t, err, name)
		assert.Equal(t, accounts.In, state)
		b, s, err := h.Builder(ctx, token)
		require.NoError(t, err)
		assert.Equal(t, h.ann.ID, b.ID)
		assert.Equal(t, "Browser", s.Agent)
	}
	_, _, err := h.Builder(ctx, "nothing")
	require.ErrorIs(t, err, accounts.ErrRefused)
}

// TestAnAddressIsConfirmedInTheBrowserThatAsked confirms with another ticket, and twice.
func TestAnAddressIsConfirmedInTheBrowserThatAsked(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	n, err := h.PrepareBuilder(ctx, accounts.NewBuilder{Email: "mo@yard.example", Name: " Mo ", Password: password})
	require.NoError(t, err)
	assert.Equal(t, "Mo", n.Name)
	ticket, err := accounts.NewTicket()
	require.NoError(t, err)
	made, known, err := h.ConfirmationCode(ctx, n, ticket)
	require.NoError(t, err)
	require.False(t, known)
	require.ErrorIs(t, h.ConfirmBuilder(ctx, n.Email, "another ticket", made), accounts.ErrRefused)
	_, _, err = h.SignInBuilder(ctx, n.Email, password, "")
	require.ErrorIs(t, err, accounts.ErrRefused, "not yet")
	require.NoError(t, h.ConfirmBuilder(ctx, "MO@yard.example", ticket, " "+made+" "))
	_, _, err = h.SignInBuilder(ctx, n.Email, password, "")
	require.NoError(t, err)
	require.ErrorIs(t, h.ConfirmBuilder(ctx, n.Email, ticket, made), accounts.ErrRefused)
	made, known, err = h.ConfirmationCode(ctx, n, ticket)
	require.NoError(t, err)
	assert.True(t, known)
	assert.Empty(t, made)
	for _, name := range []string{"", "  ", strings.Repeat("n", 81), "two\nlines"} {
		_, err := h.PrepareBuilder(ctx, accounts.NewBuilder{Email: "mo@yard.example", Name: name, Password: password})
		assert.Equal(t, "account-name", code(t, err), name)
	}
}

// TestANewPasswordEndsSessions renews it by a code, and changes it.
func TestANewPasswordEndsSessions(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	open := func(password string) (string, accounts.Session) {
		token, _, err := h.SignInBuilder(ctx, h.ann.Email, password, "")
		require.NoError(t, err)
		_, s, err := h.Builder(ctx, token)
		require.NoError(t, err)
		return token, s
	}
	old, _ := open(password)
	made, name, err := h.RenewalCode(ctx, "ANN@yard.example", "a browser")
	require.NoError(t, err)
	assert.Equal(t, "Ann", name)
	assert.Equal(t, "password-short", code(t, h.RenewPassword(ctx, h.ann.Email, "a browser", made, "short")),
		"the code is not used up by this")
	const second, third = "driftwood-and-copper", "lantern-under-gravel"
	require.NoError(t, h.RenewPassword(ctx, h.ann.Email, "a browser", made, second))
	_, _, err = h.Builder(ctx, old)
	require.ErrorIs(t, err, accounts.ErrRefused)
	nobody, _, err := h.RenewalCode(ctx, "mo@yard.example", "a browser")
	require.NoError(t, err)
	assert.Empty(t, nobody)

	other, _ := open(second)
	mine, s := open(second)
	b, _, err := h.Builder(ctx, mine)
	require.NoError(t, err)
	assert.Equal(t, "gate-current-password", code(t, h.ChangePassword(ctx, b, s, "wrong", third)))
	require.NoError(t, h.ChangePassword(ctx, b, s, second, third))
	_, _, err = h.Builder(ctx, mine)
	require.NoError(t, err, "one's own session goes on")
	_, _, err = h.Builder(ctx, other)
	require.ErrorIs(t, err, accounts.ErrRefused)
}

// TestAnAuthenticatorIsASecondStep sets one up, signs in with it and with a recovery
// code, each once, and drops it.
func TestAnAuthenticatorIsASecondStep(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	token, _, err := h.SignInBuilder(ctx, h.ann.Email, password, "")
	require.NoError(t, err)
	_, s, err := h.Builder(ctx, token)
	require.NoError(t, err)
	_, err = h.EnrolBuilder(ctx, h.ann, s, "123456")
	require.ErrorIs(t, err, accounts.ErrRefused, "nothing was set up")
	s.Secret, err = h.StartEnrolling(ctx, s)
	require.NoError(t, err)
	again, err := h.StartEnrolling(ctx, s)
	require.NoError(t, err)
	assert.Equal(t, s.Secret, again, "a reload does not make another")
	setup, err := accounts.SetupOf(s.Secret, "Pine: Gate", h.ann.Email)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(setup.Image, "data:image/png;base64,"))
	right, err := totp.GenerateCode(s.Secret, time.Now())
	require.NoError(t, err)
	recovery, err := h.EnrolBuilder(ctx, h.ann, s, right)
	require.NoError(t, err)
	assert.Len(t, recovery, 10)

	halfway, state, err := h.SignInBuilder(ctx, h.ann.Email, password, "")
	require.NoError(t, err)
	assert.Equal(t, accounts.Second, state)
	b, _, err := h.Builder(ctx, halfway)
	require.NoError(t, err)
	require.ErrorIs(t, h.UseBuilderAuthenticator(ctx, b, right), accounts.ErrRefused, "the code that set it up was used")
	require.NoError(t, h.UseBuilderAuthenticator(ctx, b, strings.ToUpper(recovery[0])))
	require.ErrorIs(t, h.UseBuilderAuthenticator(ctx, b, recovery[0]), accounts.ErrRefused, "once")
	whole, session, err := h.Finish(ctx, halfway)
	require.NoError(t, err)
	assert.Equal(t, accounts.In, session.State)
	assert.NotEqual(t, halfway, whole, "another token")
	_, _, err = h.Builder(ctx, halfway)
	require.ErrorIs(t, err, accounts.ErrRefused)

	_, err = h.EnrolBuilder(ctx, b, s, right)
	assert.Equal(t, "account-authenticator", code(t, err), "it is not replaced by another")
	require.ErrorIs(t, h.DropAuthenticator(ctx, b, "000000"), accounts.ErrRefused)
	require.NoError(t, h.DropAuthenticator(ctx, b, recovery[1]))
	_, state, err = h.SignInBuilder(ctx, h.ann.Email, password, "")
	require.NoError(t, err)
	assert.Equal(t, accounts.In, state)
}

func TestSessionsAreListedAndEnded(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	var sessions []accounts.Session
	var tokens []string
	for _, agent := range []string{"One", "Two\x00", strings.Repeat("x", 300)} {
		token, _, err := h.SignInBuilder(ctx, h.ann.Email, password, agent)
		require.NoError(t, err)
		_, s, err := h.Builder(ctx, token)
		require.NoError(t, err)
		sessions, tokens = append(sessions, s), append(tokens, token)
	}
	bens, _, err := h.SignInBuilder(ctx, h.ben.Email, password, "")
	require.NoError(t, err)
	_, ben, err := h.Builder(ctx, bens)
	require.NoError(t, err)
	all, err := h.SessionsOf(ctx, sessions[0])
	require.NoError(t, err)
	assert.Len(t, all, 3, "only one's own")
	require.NoError(t, h.EndSessions(ctx, sessions[0], ben.ID))
	_, _, err = h.Builder(ctx, bens)
	require.NoError(t, err, "somebody else's does not end")
	require.ErrorIs(t, h.EndSessions(ctx, sessions[0], "x"), store.ErrNotFound)
	require.NoError(t, h.EndSessions(ctx, sessions[0], sessions[1].ID))
	_, _, err = h.Builder(ctx, tokens[1])
	require.ErrorIs(t, err, accounts.ErrRefused)
	require.NoError(t, h.EndSessions(ctx, sessions[0], ""))
	_, _, err = h.Builder(ctx, tokens[0])
	require.NoError(t, err, "all but this one")
	_, _, err = h.Builder(ctx, tokens[2])
	require.ErrorIs(t, err, accounts.ErrRefused)
	h.sql("UPDATE sessions SET expires_at = now() - interval '1 second'")
	_, _, err = h.Builder(ctx, tokens[0])
	require.ErrorIs(t, err, accounts.ErrRefused, "a session ends by itself")
}

func TestUsesAreCountedForAWhile(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	allowed := func(key string) bool {
		ok, err := h.Allow(ctx, key, 2, 24*time.Hour)
		require.NoError(t, err)
		return ok
	}
	assert.True(t, allowed("a"))
	assert.True(t, allowed("a"))
	assert.False(t, allowed("a"))
	assert.True(t, allowed("b"), "another key")
	require.NoError(t, h.Forgive(ctx, "a", 24*time.Hour))
	require.NoError(t, h.Forgive(ctx, "a", 24*time.Hour))
	assert.True(t, allowed("a"))
}

// TestSweepingTakesOnlyWhatHasRunOut makes one of everything that runs out.
func TestSweepingTakesOnlyWhatHasRunOut(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	count := func() map[string]int {
		out := map[string]int{}
		for _, table := range []string{"sessions", "codes", "tokens", "hits"} {
			var n int
			require.NoError(t, h.s.DB.Raw("SELECT count(*) FROM "+table).Scan(&n).Error)
			out[table] = n
		}
		return out
	}
	_, _, err := h.SignInBuilder(ctx, h.ann.Email, password, "")
	require.NoError(t, err)
	_, err = h.MakeCode(ctx, accounts.Code{Purpose: accounts.ToRenew, Subject: "x"}, nil)
	require.NoError(t, err)
	_, err = h.MakeLink(ctx, accounts.Link{Purpose: accounts.ToJoin, Subject: "x"}, time.Hour)
	require.NoError(t, err)
	_, err = h.Allow(ctx, "x", 1, time.Hour)
	require.NoError(t, err)
	before := count()
	require.NoError(t, h.Sweep(ctx))
	assert.Equal(t, before, count())
	for _, table := range []string{"sessions", "codes", "tokens"} {
		h.sql("UPDATE " + table + " SET expires_at = now() - interval '2 days'")
	}
	h.sql("UPDATE hits SET window_start = now() - interval '2 days'")
	require.NoError(t, h.Sweep(ctx))
	assert.Equal(t, map[string]int{"sessions": 0, "codes": 0, "tokens": 0, "hits": 0}, count())
	for _, b := range []store.Builder{h.ann, h.ben} {
		_, _, err := h.SignInBuilder(ctx, b.Email, password, "")
		require.NoError(t, err, "builders stay")
	}
}

// TestAWindowBeginsWithItsFirstUse counts uses, and goes on when their window is over.
func TestAWindowBeginsWithItsFirstUse(t *testing.T) {
	h := newHouse(t)
	use := func() bool {
		ok, err := h.Allow(t.Context(), "a key", 2, time.Hour)
		require.NoError(t, err)
		return ok
	}
	assert.Equal(t, []bool{true, true, false}, []bool{use(), use(), use()})
	h.sql("UPDATE hits SET window_start = now() - interval '59 minutes'")
	assert.False(t, use())
	h.sql("UPDATE hits SET window_start = now() - interval '61 minutes'")
	assert.Equal(t, []bool{true, true, false}, []bool{use(), use(), use()})
	require.NoError(t, h.Forgive(t.Context(), "a key", time.Hour))
	require.NoError(t, h.Forgive(t.Context(), "a key", time.Hour))
	assert.True(t, use())
}
