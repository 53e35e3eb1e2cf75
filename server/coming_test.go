package server_test

import (
	"encoding/json"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

// TestWorkflowsStartAsPeopleComeIn starts workflows as people sign in and sign up: with their own record, under their
// own rules, and not for those who do not get in.
func TestWorkflowsStartAsPeopleComeIn(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	add := func(what, into, id string, values map[string]any) map[string]any {
		return map[string]any{"kind": "add", "what": what, "into": into, "id": id, "values": values}
	}
	given := func(value string) []map[string]string {
		return []map[string]string{{"field": "own_phone", "value": value}}
	}
	apply(t, y.Site,
		add("workflow", "", "w_in", map[string]any{"kind": "person", "name": "In", "role": "r_own", "on": "in"}),
		add("step", "w_in", "w_in_1", map[string]any{"kind": "change", "record": "this", "values": given("phone & \"!\"")}),
		add("workflow", "", "w_up", map[string]any{"kind": "person", "name": "Up", "role": "r_own", "on": "up"}),
		add("step", "w_up", "w_up_1", map[string]any{"kind": "change", "record": "this", "values": given("\"up\"")}))
	runs := func(flow string) string {
		return y.text("SELECT count(*)::text FROM runs WHERE workflow = ? AND status = 'done'", flow)
	}
	phone := func() string { return y.text("SELECT phone FROM live.owners WHERE email = ?", ines) }
	was := phone()
	y.Person(t, ines)
	require.Eventually(t, func() bool { return runs("w_in") == "1" }, 20*time.Second, 20*time.Millisecond)
	assert.Equal(t, was+"!", phone())
	y.Person(t, y.crew())
	status, _ := y.Client(t).Do(http.MethodPost, live+"/sign-in", map[string]string{"email": ines, "code": "000000"})
	assert.NotEqual(t, http.StatusOK, status)
	assert.Equal(t, "1", runs("w_in"), "not for other roles, and not for who does not get in")

	c := y.Client(t)
	var ticket struct{ Ticket string }
	require.NoError(t, json.Unmarshal([]byte(c.Write(http.MethodPost, live+"/sign-up", map[string]any{"role": "r_own",
		"email": "new@sailmail.example", "terms": "2026-10",
		"values": map[string]any{"own_name": "New", "own_phone": "0555 0909"}})), &ticket))
	c.Write(http.MethodPost, live+"/sign-up/confirm",
		map[string]string{"email": "new@sailmail.example", "code": y.Code(t, "new@sailmail.example", 0), "ticket": ticket.Ticket})
	require.Eventually(t, func() bool { return runs("w_up") == "1" && runs("w_in") == "2" }, 20*time.Second, 20*time.Millisecond)
	assert.Contains(t, []string{"up", "up!"}, y.text("SELECT phone FROM live.owners WHERE email = 'new@sailmail.example'"))
}
