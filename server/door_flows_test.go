package server_test

import (
	"encoding/json"
	"net/http"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
	"pinegate/store/kept"
)

// addFlow makes the changes that add a button of the crew, with steps.
func addFlow(id, name string, rights string, steps ...map[string]any) []map[string]any {
	out := []map[string]any{{"kind": "add", "what": "workflow", "id": id,
		"values": map[string]any{"kind": "press", "name": name, "roles": []string{"r_crew", "r_own"}, "rights": rights}}}
	for _, s := range steps {
		out = append(out, map[string]any{"kind": "add", "what": "step", "into": id, "values": s})
	}
	return out
}

// TestAWorkflowSeesToTheDoor invites, approves and signs out people, and keeps a value: for whoever presses, and in
// the live app alone.
func TestAWorkflowSeesToTheDoor(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	about := func(do, email string, role ...string) map[string]any {
		out := map[string]any{"kind": "person", "do": do, "email": email}
		if len(role) > 0 {
			out["role"] = role[0]
		}
		return out
	}
	changes := []map[string]any{set("r_own", "signUp.mode", "approved"), {"kind": "add", "what": "kept", "id": "k_mine",
		"values": map[string]any{"name": "Mine", "type": "text", "person": true}}}
	changes = append(changes, addFlow("d_in", "Invite", "app", about("invite", `"new@sails.example"`, "r_own"))...)
	changes = append(changes, addFlow("d_yes", "Approve", "app", about("approve", `"waits@sails.example"`, "r_own"))...)
	changes = append(changes, addFlow("d_out", "Sign out Ines", "app", about("out", `"`+ines+`"`))...)
	changes = append(changes, addFlow("d_self", "Sign out", "", about("out", `me.email`))...)
	changes = append(changes, addFlow("d_other", "Sign out others", "", about("out", `"`+ines+`"`))...)
	changes = append(changes, addFlow("d_keep", "Keep", "",
		map[string]any{"kind": "keep", "kept": "k_length", "value": "6 + 1"},
		map[string]any{"kind": "keep", "kept": "k_mine", "value": `"by " & me.email`},
		map[string]any{"kind": "message", "text": "Kept"})...)
	apply(t, y.Site, changes...)

	refused := addFlow("d_no", "Invite all", "", about("invite", `"x@sails.example"`, "r_own"))
	status, answer := y.Founder(t).Do(http.MethodPost, "/api/apps/"+y.App.ID+"/changes", map[string]any{"changes": refused})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, answer, "Only the app itself can invite and approve people.")

	crew, owner := y.Person(t, y.crew()), y.Person(t, ines)
	press := func(c *servertest.Client, flow string) (int, string) {
		return c.Do(http.MethodPost, live+"/workflows/"+flow, map[string]any{"key": servertest.Key()})
	}
	ok := func(c *servertest.Client, flow string) {
		t.Helper()
		status, answer := press(c, flow)
		require.Equal(t, http.StatusOK, status, answer)
	}

	ok(crew, "d_in")
	m := mailTo(t, y.Site, "new@sails.example", "invited")
	assert.Contains(t, m.Body, "/invitation#")
	assert.Equal(t, "0", y.text("SELECT count(*)::text FROM river_job WHERE kind = 'gate_mail' AND args::text LIKE '%token%'"))

	status, answer = press(crew, "d_yes")
	assert.Equal(t, http.StatusUnprocessableEntity, status, "there is no one: %s", answer)
	assert.Equal(t, "No one with the address waits@sails.example waits to become one of Boat owners.",
		y.text("SELECT error FROM runs WHERE workflow = 'd_yes' ORDER BY began_at DESC LIMIT 1"))
	require.NoError(t, y.Accounts.Wait(t.Context(), y.App.ID, "r_own", "waits@sails.example", json.RawMessage(`{"own_name":"Wim"}`)))
	ok(crew, "d_yes")
	assert.Equal(t, "Wim", y.text("SELECT name FROM live.owners WHERE email = 'waits@sails.example'"))
	mailTo(t, y.Site, "waits@sails.example", "can now sign in")
	status, _ = press(crew, "d_yes")
	assert.Equal(t, http.StatusUnprocessableEntity, status, "only once")

	status, answer = press(crew, "d_other")
	assert.Equal(t, http.StatusUnprocessableEntity, status, "with the rights of the person: %s", answer)
	ok(owner, "d_keep")
	assert.Equal(t, "7", kept.Decode(owner.Cookie(live, "pinegate_kept"))["k_length"].Text)
	assert.Equal(t, "by "+ines, y.text("SELECT kept->'k_mine'->>'v' FROM kept_values WHERE who = ?", ines))
	ok(crew, "d_out")
	status, _ = press(owner, "d_keep")
	assert.Equal(t, http.StatusNotFound, status, "she is signed out")
	ok(crew, "d_self")
	status, _ = press(crew, "d_keep")
	assert.Equal(t, http.StatusNotFound, status, "so is he")

	// in the draft nobody is let in or out
	y.Person(t, ines)
	founder := y.Founder(t)
	for _, flow := range []string{"d_in", "d_out"} {
		var got struct{ Steps []struct{ Text string } }
		require.NoError(t, json.Unmarshal([]byte(founder.Write(http.MethodPost, "/api/apps/"+y.App.ID+"/workflows/"+flow+"/rehearsals",
			map[string]any{"as": "founder"})), &got))
		require.Len(t, got.Steps, 1)
		assert.Contains(t, got.Steps[0].Text, "sail")
	}
	assert.Equal(t, "1", y.text("SELECT count(*)::text FROM sessions WHERE email = ? AND app_id IS NOT NULL", ines))
	assert.Equal(t, "1", y.text("SELECT count(*)::text FROM river_job WHERE kind = 'gate_mail' AND args->>'email' = 'new@sails.example'"))
}
