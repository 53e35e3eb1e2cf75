package accounts_test

import (
	"encoding/json"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/store"
	"pinegate/store/accounts"
)

// apps makes two apps, to which people sign in.
func (h *house) apps() (one, two string) {
	for _, slug := range []string{"one", "two"} {
		id := uuid.NewString()
		h.sql("INSERT INTO apps (id, workspace_id, slug, name) VALUES (?, ?, ?, ?)", id, h.ann.ID, slug, slug)
		one, two = two, id
	}
	return one, two
}

const ines = "ines@sails.example"

func (h *house) enter(app string) (string, accounts.Session) {
	h.t.Helper()
	token, err := h.SignInPerson(h.t.Context(), accounts.Person{App: app, Email: "INES@sails.example", Table: "sailor", Record: "r1"},
		accounts.In, accounts.Stay{Hours: 24, Agent: "Browser"})
	require.NoError(h.t, err)
	s, err := h.Session(h.t.Context(), app, token)
	require.NoError(h.t, err)
	return token, s
}

// TestPeopleAreOfTheirApp proves themselves in one of two apps with the same address.
func TestPeopleAreOfTheirApp(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	one, two := h.apps()
	hash, err := h.HashOf(ctx, password, ines)
	require.NoError(t, err)
	require.NoError(t, h.KeepPassword(ctx, one, "Ines@sails.example", hash))
	for app, want := range map[string]bool{one: true, two: false} {
		right, err := h.RightPassword(ctx, app, ines, password)
		require.NoError(t, err)
		assert.Equal(t, want, right)
	}
	right, err := h.RightPassword(ctx, one, ines, password+"!")
	require.NoError(t, err)
	assert.False(t, right)
	token, s := h.enter(one)
	assert.Equal(t, ines, s.Email)
	assert.Equal(t, "r1", s.RecordID)
	_, err = h.Session(ctx, two, token)
	require.ErrorIs(t, err, accounts.ErrRefused, "a session is of its app")
	_, _, err = h.Builder(ctx, token)
	require.ErrorIs(t, err, accounts.ErrRefused, "and no builder's")
	require.NoError(t, h.SignOut(ctx, token))
	_, err = h.Session(ctx, one, token)
	require.ErrorIs(t, err, accounts.ErrRefused)
}

// TestAClosedAccountKeepsNothing closes it in one app, and opens it again.
func TestAClosedAccountKeepsNothing(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	one, two := h.apps()
	hash, err := h.HashOf(ctx, password, ines)
	require.NoError(t, err)
	for _, app := range []string{one, two} {
		require.NoError(t, h.KeepPassword(ctx, app, ines, hash))
	}
	here, _ := h.enter(one)
	there, _ := h.enter(two)
	require.NoError(t, h.Close(ctx, one, "INES@sails.example"))
	p, err := h.Of(ctx, one, ines)
	require.NoError(t, err)
	assert.NotNil(t, p.ClosedAt)
	assert.Nil(t, p.Password)
	_, err = h.Session(ctx, one, here)
	require.ErrorIs(t, err, accounts.ErrRefused)
	_, err = h.Session(ctx, two, there)
	require.NoError(t, err, "elsewhere nothing changes")
	require.NoError(t, h.Reopen(ctx, one, ines))
	p, err = h.Of(ctx, one, ines)
	require.NoError(t, err)
	assert.Nil(t, p.ClosedAt)
	assert.Nil(t, p.Password, "what was forgotten does not come back")
}

// TestAnAddressMovesWithWhatWasProved changes it; the session at hand goes on, others end.
func TestAnAddressMovesWithWhatWasProved(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	one, two := h.apps()
	hash, err := h.HashOf(ctx, password, ines)
	require.NoError(t, err)
	require.NoError(t, h.KeepPassword(ctx, one, ines, hash))
	mine, s := h.enter(one)
	other, _ := h.enter(one)
	elsewhere, _ := h.enter(two)
	c := accounts.Code{App: one, Purpose: accounts.ToSignIn, Subject: ines}
	made, err := h.MakeCode(ctx, c, nil)
	require.NoError(t, err)
	require.NoError(t, h.Move(ctx, one, ines, "Calder@sails.example", s.ID))
	now, err := h.Session(ctx, one, mine)
	require.NoError(t, err)
	assert.Equal(t, "calder@sails.example", now.Email)
	_, err = h.Session(ctx, one, other)
	require.ErrorIs(t, err, accounts.ErrRefused)
	_, err = h.Session(ctx, two, elsewhere)
	require.NoError(t, err)
	right, err := h.RightPassword(ctx, one, "calder@sails.example", password)
	require.NoError(t, err)
	assert.True(t, right)
	right, err = h.RightPassword(ctx, one, ines, password)
	require.NoError(t, err)
	assert.False(t, right)
	require.ErrorIs(t, h.UseCode(ctx, c, made, nil), accounts.ErrRefused, "a code for the old address is void")
}

// TestPeopleSetAuthenticatorsUp sets one up, and has it forgotten by a founder.
func TestPeopleSetAuthenticatorsUp(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	one, _ := h.apps()
	token, s := h.enter(one)
	_, err := h.EnrolPerson(ctx, one, s, "123456")
	require.ErrorIs(t, err, accounts.ErrRefused)
	s.Secret, err = h.StartEnrolling(ctx, s)
	require.NoError(t, err)
	right, err := totp.GenerateCode(s.Secret, time.Now())
	require.NoError(t, err)
	recovery, err := h.EnrolPerson(ctx, one, s, right)
	require.NoError(t, err)
	require.ErrorIs(t, h.UsePersonAuthenticator(ctx, one, ines, right), accounts.ErrRefused, "it was used")
	require.NoError(t, h.UsePersonAuthenticator(ctx, one, "INES@sails.example", recovery[3]))
	require.ErrorIs(t, h.UsePersonAuthenticator(ctx, one, "tomas@sails.example", recovery[4]), accounts.ErrRefused)
	require.NoError(t, h.ForgetAuthenticator(ctx, one, ines))
	require.ErrorIs(t, h.UsePersonAuthenticator(ctx, one, ines, recovery[5]), accounts.ErrRefused)
	_, err = h.Session(ctx, one, token)
	require.ErrorIs(t, err, accounts.ErrRefused, "whoever had it is signed out")
}

func TestThoseWhoWaitAskAgainWithOtherAnswers(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	one, two := h.apps()
	require.NoError(t, h.Wait(ctx, one, "r", "Mo@sails.example", json.RawMessage(`{"boat": "Tern"}`)))
	require.NoError(t, h.Wait(ctx, one, "r", "mo@sails.example", json.RawMessage(`{"boat": "Auk"}`)))
	require.NoError(t, h.Wait(ctx, one, "j", "mo@sails.example", json.RawMessage(`{}`)))
	all, err := h.WhoWaits(ctx, one)
	require.NoError(t, err)
	require.Len(t, all, 2)
	assert.JSONEq(t, `{"boat": "Auk"}`, string(all[0].Answers))
	for app, id := range map[string]string{two: all[0].ID, one: "x"} {
		_, err := h.WaitingOne(ctx, app, id)
		require.ErrorIs(t, err, store.ErrNotFound)
	}
	require.NoError(t, h.WaitsNoMore(ctx, two, all[0].ID), "of another app: nothing happens")
	_, err = h.WaitingOne(ctx, one, all[0].ID)
	require.NoError(t, err)
	require.NoError(t, h.WaitsNoMore(ctx, one, all[0].ID))
	_, err = h.WaitingOne(ctx, one, all[0].ID)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestTermsAndTheLogAreKept(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	one, two := h.apps()
	for _, version := range []string{"1", "1", "2"} {
		require.NoError(t, h.AcceptTerms(ctx, one, ines, version))
	}
	accepted, err := h.AcceptedTerms(ctx, one, "INES@sails.example")
	require.NoError(t, err)
	assert.Len(t, accepted, 2)
	accepted, err = h.AcceptedTerms(ctx, two, ines)
	require.NoError(t, err)
	assert.Empty(t, accepted)
	for _, what := range []string{"first", "second", "third"} {
		require.NoError(t, h.Note(ctx, one, "INES@sails.example", "127.0.0.1", what))
	}
	log, err := h.GateLog(ctx, one, 2)
	require.NoError(t, err)
	require.Len(t, log, 2)
	assert.Equal(t, "third", log[0].What)
	assert.Equal(t, ines, log[0].Email)
}
