package server_test

import (
	"encoding/json"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
	"pinegate/store"
)

// yardAtWork is the demo with what tests of its workflows need.
type yardAtWork struct {
	*servertest.Site
	t *testing.T
}

func (y yardAtWork) text(sql string, args ...any) (out string) {
	y.t.Helper()
	schema := strings.TrimSuffix(liveTable(y.Site, "x"), "x")
	require.NoError(y.t, y.Store.DB.Raw(strings.ReplaceAll(sql, "live.", schema), args...).Row().Scan(&out))
	return out
}

// order gives the id of an order in a state.
func (y yardAtWork) order(status string) string {
	return y.text("SELECT id::text FROM live.work_orders WHERE status = ? AND deleted_at IS NULL ORDER BY id DESC LIMIT 1", status)
}

func (y yardAtWork) crew() string {
	return y.text("SELECT email FROM live.crew WHERE active AND NOT manager ORDER BY id LIMIT 1")
}

func pressed(record string) map[string]any {
	return map[string]any{"key": servertest.Key(), "record": record}
}

// TestAButtonIsPressedOnce runs a workflow for whoever may, once for each press, and tells its mail.
func TestAButtonIsPressedOnce(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	crew, order := y.Person(t, y.crew()), y.order("os_in_the_yard")
	body := pressed(order)
	var wait sync.WaitGroup
	answers := make([]string, 4)
	for i := range answers { // a double press, a retry, two tabs
		wait.Add(1)
		go func() {
			defer wait.Done()
			_, answers[i] = crew.Do(http.MethodPost, live+"/workflows/w_done", body)
		}()
	}
	wait.Wait()
	for _, a := range answers {
		assert.Contains(t, a, "is done. Well done!")
	}
	assert.Equal(t, "os_done", y.text("SELECT status FROM live.work_orders WHERE id = ?", order))
	assert.Equal(t, "1", y.text("SELECT count(*)::text FROM runs WHERE workflow = 'w_done'"))
	status, answer := crew.Do(http.MethodPost, live+"/workflows/w_done", pressed(order))
	assert.Equal(t, http.StatusUnprocessableEntity, status, answer)
	assert.Contains(t, answer, "not possible now")

	// the change set off the mail to the owner, which is sent by and by
	require.Eventually(t, func() bool { return y.text("SELECT count(*)::text FROM letters WHERE status = 'sent'") == "1" },
		20*time.Second, 20*time.Millisecond)
	owner := y.text(`SELECT o.email FROM live.work_orders w JOIN live.boats b ON b.id = w.boat JOIN live.owners o ON o.id = b.owner
		WHERE w.id = ?`, order)
	assert.Equal(t, owner, y.text("SELECT recipients FROM mails WHERE subject LIKE '%is done' ORDER BY id DESC LIMIT 1"))
	assert.Equal(t, "1", y.text("SELECT count(*)::text FROM mails WHERE subject LIKE '%is done'"))
}

// TestOthersButtonsAreNotThere presses buttons of other roles, for records of other people, with answers
// that were not asked for, and reads what is not for everybody.
func TestOthersButtonsAreNotThere(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	order := y.order("os_in_the_yard")
	for who, c := range map[string]*servertest.Client{"a visitor": y.Client(t), "an owner": y.Person(t, ines)} {
		for _, flow := range []string{"w_done", "w_invoice", "w_wait", "w_tell", "none"} {
			status, answer := c.Do(http.MethodPost, live+"/workflows/"+flow, pressed(order))
			assert.Equal(t, http.StatusNotFound, status, "%s presses %s: %s", who, flow, answer)
		}
	}
	crew := y.Person(t, y.crew())
	for flow, record := range map[string]string{"w_invoice": order, "w_done": missing, "w_wait": order} { // the last one asks first
		status, answer := crew.Do(http.MethodPost, live+"/workflows/"+flow, pressed(record))
		assert.Equal(t, http.StatusNotFound, status, "%s: %s", flow, answer)
	}
	ask := func(c *servertest.Client, values map[string]any) (int, string) {
		return c.Do(http.MethodPost, live+"/forms/w_wait:asks", map[string]any{"key": servertest.Key(), "path": "w_wait:asks",
			"record": order,
			"values": values})
	}
	status, answer := ask(y.Person(t, ines), map[string]any{"w_wait_q1": "Mine"})
	assert.Contains(t, []int{http.StatusForbidden, http.StatusNotFound}, status, answer)
	status, answer = ask(crew, map[string]any{"w_wait_q1": nil})
	assert.Equal(t, http.StatusUnprocessableEntity, status, answer)
	status, answer = ask(crew, map[string]any{"w_wait_q1": "x", "ord_price": "1"})
	assert.Equal(t, http.StatusUnprocessableEntity, status, "a field that is not asked for: %s", answer)
	assert.Equal(t, "os_in_the_yard", y.text("SELECT status FROM live.work_orders WHERE id = ?", order))
	status, answer = ask(crew, map[string]any{"w_wait_q1": "No keel\r\nBcc: all@example.example"})
	assert.Equal(t, http.StatusOK, status, answer)
	assert.Equal(t, "os_waiting_for_parts", y.text("SELECT status FROM live.work_orders WHERE id = ?", order))
	require.Eventually(t, func() bool { return y.text("SELECT count(*)::text FROM letters WHERE status = 'sent'") != "0" },
		20*time.Second, 20*time.Millisecond)
	assert.Equal(t, "0", y.text("SELECT count(*)::text FROM mails WHERE recipients LIKE '%all@example%'"))
}

// TestAManagerRaisesAnInvoice runs a workflow as somebody with two roles, of which one hides what a formula is
// made of.
func TestAManagerRaisesAnInvoice(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	order := y.text(`SELECT w.id::text FROM live.work_orders w WHERE status = 'os_done'
		AND EXISTS (SELECT FROM live.parts_used p WHERE p."order" = w.id) ORDER BY id LIMIT 1`)
	answer := y.Person(t, "jonas@aldercove.example").Write(http.MethodPost, live+"/workflows/w_invoice", pressed(order))
	assert.Contains(t, answer, "is on its way")
	assert.Equal(t, "t", y.text(`SELECT CASE WHEN i.total = (SELECT sum(quantity * price) FROM live.invoice_lines l WHERE l.invoice = i.id)
		THEN 't' ELSE 'f' END FROM live.invoices i ORDER BY id DESC LIMIT 1`))
}

// TestRunsAreForWhoBuilds reads runs: those of the live app tell of people's records.
func TestRunsAreForWhoBuilds(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	y.Person(t, y.crew()).Write(http.MethodPost, live+"/workflows/w_done", pressed(y.order("os_in_the_yard")))
	at := "/api/apps/" + y.App.ID
	var list struct{ Runs []struct{ ID, Status string } }
	founder := y.Founder(t)
	founder.Read(at+"/runs?place=live", &list)
	require.NotEmpty(t, list.Runs)
	run := at + "/runs/" + list.Runs[len(list.Runs)-1].ID
	var whole struct {
		Name  string
		Steps []struct{ Sentence string }
	}
	founder.Read(run, &whole)
	assert.Equal(t, "Mark as done", whole.Name)
	assert.Contains(t, whole.Steps[0].Sentence, "Change this record")
	editor, viewer := member(t, y.Site, "edda@team.example", store.Editor), member(t, y.Site, "vera@team.example", store.Viewer)
	for path, want := range map[string][2]int{run: {http.StatusForbidden, http.StatusForbidden},
		at + "/runs?place=live": {http.StatusOK, http.StatusForbidden}, at + "/runs?place=draft": {http.StatusOK, http.StatusOK}} {
		for i, c := range []*servertest.Client{editor, viewer} {
			status, answer := c.Do(http.MethodGet, path, nil)
			assert.Equal(t, want[i], status, "%s: %s", path, answer)
		}
	}
	status, _ := founder.Do(http.MethodGet, at+"/runs/"+missing, nil)
	assert.Equal(t, http.StatusNotFound, status)
}

// TestARehearsalLeavesNothing rehearses all workflows of the demo, and holds that nothing is written,
// queued or sent by that.
func TestARehearsalLeavesNothing(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	founder, at := y.Founder(t), "/api/apps/"+y.App.ID
	draft := strings.Replace(strings.TrimSuffix(liveTable(y.Site, "x"), "x"), "_live", "_draft", 1)
	state := func() string {
		return y.text("SELECT concat_ws(' ', (SELECT count(*) FROM " + draft + "_history), (SELECT count(*) FROM " + draft + "invoices)," +
			" (SELECT count(*) FROM runs), (SELECT count(*) FROM letters), (SELECT count(*) FROM mails)," +
			" (SELECT count(*) FROM river_job WHERE kind LIKE 'flow%'))")
	}
	pick := func(sql string) string { return y.text(strings.ReplaceAll(sql, "live.", draft)) }
	done := pick("SELECT w.id::text FROM live.work_orders w WHERE status = 'os_done' AND EXISTS (SELECT FROM live.parts_used p WHERE p.\"order\" = w.id) LIMIT 1")
	yard := pick("SELECT id::text FROM live.work_orders WHERE status = 'os_in_the_yard' LIMIT 1")
	asked := pick("SELECT id::text FROM live.work_requests WHERE status = 'rs_new' LIMIT 1")
	before := state()
	for flow, c := range map[string]struct{ record, says string }{
		"w_invoice": {done, "Invoice A-"}, "w_done": {yard, "Well done!"}, "w_tell": {done, ""}, "w_accept": {asked, ""},
		"w_over": {"", ""},
		"w_wait": {yard, "The managers are told: No keel."},
	} {
		var got struct {
			Status   string
			Starts   bool
			Error    string
			Shows    struct{ Message string }
			Steps    []struct{ Watched []string }
			Followed []struct {
				Workflow string
				Starts   bool
			}
		}
		answer := founder.Write(http.MethodPost, at+"/workflows/"+flow+"/rehearsals", map[string]any{"as": "founder", "record": c.record,
			"answers": map[string]any{"w_wait_q1": "No keel"}, "watches": []string{"TODAY()"}})
		require.NoError(t, json.Unmarshal([]byte(answer), &got))
		assert.True(t, got.Starts, "%s: %s", flow, answer)
		assert.Equal(t, "done", got.Status, "%s: %s", flow, got.Error)
		assert.Contains(t, got.Shows.Message, c.says, flow)
		require.NotEmpty(t, got.Steps)
		assert.NotEmpty(t, got.Steps[0].Watched[0], flow)
		if flow == "w_done" {
			require.Len(t, got.Followed, 1)
			assert.Equal(t, "w_tell", got.Followed[0].Workflow, "it tells what it would set off")
			assert.True(t, got.Followed[0].Starts)
		}
	}
	assert.Equal(t, before, state())
	status, answer := founder.Do(http.MethodPost, at+"/workflows/w_done/rehearsals", map[string]any{"as": "founder"})
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, answer, "Choose a work order first.")
}

// TestWhyAWorkflowDidNotRun asks of records why workflows ran for them, or did not.
func TestWhyAWorkflowDidNotRun(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	order := y.order("os_in_the_yard")
	y.Person(t, y.crew()).Write(http.MethodPost, live+"/workflows/w_done", pressed(order))
	y.text("UPDATE live.haul_outs SET day = '2026-12-24', done = true WHERE id = (SELECT id FROM live.haul_outs ORDER BY id LIMIT 1) RETURNING 'x'")
	haul := y.text("SELECT id::text FROM live.haul_outs WHERE day = '2026-12-24' ORDER BY id LIMIT 1")
	type could struct {
		Workflows []struct {
			Workflow string
			Starts   bool
			Due      string
			Looked   []struct{ Name, Shown string }
			Ran      []struct{ Status string }
		}
	}
	at, founder := "/api/apps/"+y.App.ID+"/could-run?place=live&table=", y.Founder(t)
	var orders, hauls could
	founder.Read(at+"ord&record="+order, &orders)
	found := map[string]bool{}
	for _, w := range orders.Workflows {
		found[w.Workflow] = true
		if w.Workflow == "w_done" {
			assert.False(t, w.Starts, "it is done already")
			assert.Equal(t, "Done", w.Looked[0].Shown)
			require.Len(t, w.Ran, 1)
			assert.Equal(t, "done", w.Ran[0].Status)
		}
	}
	assert.Equal(t, map[string]bool{"w_done": true, "w_tell": true, "w_invoice": true, "w_wait": true, "w_parts": true}, found)
	founder.Read(at+"haul&record="+haul, &hauls)
	require.Len(t, hauls.Workflows, 1)
	assert.False(t, hauls.Workflows[0].Starts)
	assert.Equal(t, "yes", hauls.Workflows[0].Looked[0].Shown, "it did not go as it is done")
	assert.Contains(t, hauls.Workflows[0].Due, "2026-12-21T09:00:00")
	editor := member(t, y.Site, "edda@team.example", store.Editor)
	for _, path := range []string{at + "ord&record=" + order, "/api/apps/" + y.App.ID + "/tables/ord/options?as=founder&live=true"} {
		status, answer := editor.Do(http.MethodGet, path, nil)
		assert.Equal(t, http.StatusForbidden, status, "%s: %s", path, answer)
	}
}

// TestWhyIsToldOfEveryPage tells of each page of the yard why people get what they get, also of buttons that start
// workflows.
func TestWhyIsToldOfEveryPage(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	founder := y.Founder(t)
	base := "/api/apps/" + y.App.ID
	var app struct{ Pages []struct{ ID, Name string } }
	founder.Read(base, &app)
	require.NotEmpty(t, app.Pages)
	for _, page := range app.Pages {
		for _, as := range []string{"role.r_crew", "role.r_own", "visitor", "founder"} {
			status, answer := founder.Do(http.MethodGet, base+"/why/page?as="+as+"&page="+page.ID, nil)
			require.Equal(t, http.StatusOK, status, "%s as %s: %s", page.Name, as, answer)
			if page.ID == "p_order" && as == "role.r_crew" {
				assert.Contains(t, answer, "starts “Ask for a decision”")
				assert.Contains(t, answer, "starts “Raise the invoice”. It is not there")
			}
		}
	}
}
