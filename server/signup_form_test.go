package server_test

import (
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/server/servertest"
)

// formState is how a form is, as a browser gets it.
type formState struct {
	Parts map[string]struct {
		Missing, Wrong string
		Options        []struct{ ID, Label string }
	}
}

// TestSignUpFollowsItsAnswers asks for more after an answer, and takes nothing that is not asked.
func TestSignUpFollowsItsAnswers(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	q := func(field string) map[string]any { return map[string]any{"field": field} }
	apply(t, s, set("r_own:sign-up", "fields", []any{q("own_name"), q("own_news"), q("own_address")}))
	const address = "r_own_s3" // the id of its question
	apply(t, s, set(address, "when", "answers.news", "requiredWhen", `answers.name <> "Sam"`))
	c := s.Client(t)
	ask := func(answers map[string]any) formState {
		var got formState
		decode(t, c.Write(http.MethodPost, live+"/forms/r_own:sign-up/state",
			map[string]any{"path": "r_own:sign-up", "answers": answers}), &got)
		return got
	}
	assert.NotContains(t, ask(map[string]any{"own_name": "Pia"}).Parts, address)
	assert.NotEmpty(t, ask(map[string]any{"own_name": "Pia", "own_news": true}).Parts[address].Missing)
	sign := func(values map[string]any) (int, string) {
		return c.Do(http.MethodPost, live+"/sign-up", map[string]any{"role": "r_own", "email": "pia@sailmail.example", "values": values,
			"terms": "2026-10"})
	}
	status, body := sign(map[string]any{"own_name": "Pia", "own_news": true})
	assert.Equal(t, http.StatusUnprocessableEntity, status, body)
	status, body = sign(map[string]any{"own_name": "Pia", "own_address": "Quay 1"})
	assert.Equal(t, http.StatusUnprocessableEntity, status, body)
	assert.Contains(t, body, "not asked any more")
	status, body = sign(map[string]any{"own_name": "Pia", "own_news": true, "own_address": "Quay 1"})
	assert.Equal(t, http.StatusOK, status, body)
}

// TestSignUpOffersWhatVisitorsSee lets those who sign up choose among records that everyone sees, and
// no others, whatever they send.
func TestSignUpOffersWhatVisitorsSee(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	apply(t, s, addField("own", "own_berth", "name", "Wished berth", "type", blueprint.Link, "target", "ber"),
		addField("own", "own_by", "name", "Brought by", "type", blueprint.Link, "target", "own"),
		set("r_own:sign-up", "fields", []any{map[string]any{"field": "own_name"}, map[string]any{"field": "own_berth"},
			map[string]any{"field": "own_by"}}))
	c := s.Client(t)
	var gate struct {
		SignUps []struct{ Form struct{ State formState } }
	}
	c.Read(live+"/gate", &gate)
	var berth string
	for _, p := range gate.SignUps[0].Form.State.Parts {
		for _, o := range p.Options {
			assert.NotEqual(t, "Ines Calder", o.Label, "whom no visitor sees")
			berth = o.ID
		}
	}
	require.NotEmpty(t, berth)
	own := profileOf(t, s.Person(t, ines)).Parts[0].Record
	sign := func(field, id string) (int, string) {
		return c.Do(http.MethodPost, live+"/sign-up", map[string]any{"role": "r_own", "email": "pia@sailmail.example", "terms": "2026-10",
			"values": map[string]any{"own_name": "Pia", field: id}})
	}
	for _, odd := range []string{own, "00000000-0000-0000-0000-000000000001", "x"} {
		status, body := sign("own_by", odd)
		assert.Equal(t, http.StatusUnprocessableEntity, status, "%s: %s", odd, body)
	}
	status, body := sign("own_berth", berth)
	assert.Equal(t, http.StatusOK, status, body)
}

// TestWhatTheInvitedAreAskedIsTheirs tells what a role asks those who are invited to nobody else.
func TestWhatTheInvitedAreAskedIsTheirs(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	const email = "rosa.lind@aldercove.example"
	s.Founder(t).Write(http.MethodPost, "/api/apps/"+s.App.ID+"/invitations", map[string]string{"role": "r_crew", "email": email})
	token := tokenIn(t, mailTo(t, s, email, "invited"))
	c := s.Client(t)
	ask := func(path, token string) int {
		status, _ := c.Do(http.MethodPost, live+"/forms/"+path+"/state",
			map[string]any{"path": path, "invitation": token, "answers": map[string]any{"crew_name": "Rosa"}})
		return status
	}
	assert.Equal(t, http.StatusOK, ask("r_crew:sign-up", token))
	assert.Equal(t, http.StatusUnauthorized, ask("r_crew:sign-up", "x"))
	assert.Equal(t, http.StatusUnauthorized, ask("r_crew:sign-up", ""))
	assert.Equal(t, http.StatusNotFound, ask("r_man:sign-up", token), "for which nobody signs up")
	assert.Equal(t, http.StatusUnauthorized, ask("r_own:profile", token), "which is for those who are in")
	status, body := c.Do(http.MethodPost, live+"/invitation/accept", map[string]any{"token": token, "terms": "2026-10",
		"values": map[string]any{"crew_name": ""}})
	assert.Equal(t, http.StatusUnprocessableEntity, status, body)
	c.Write(http.MethodPost, live+"/invitation/accept", map[string]any{"token": token, "terms": "2026-10",
		"values": map[string]any{"crew_name": "Rosa Lind"}})
	assert.True(t, signedIn(c))
}
