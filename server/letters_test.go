package server_test

import (
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/server/servertest"
	"pinegate/store/apps"
)

// TestFilesGoWithAMail sends a request with photos, of which one is called like a path: they reach the manager, and
// whoever builds the app reads their names.
func TestFilesGoWithAMail(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	_, own := foreign(t, y.Site)
	owner := y.Person(t, ines)
	first := upload(t, owner, askFile, `../../etc/hull.png`, dot(t))
	second := upload(t, owner, askFile, "keel.png", dot(t))
	status, answer := asked(owner, own["id"], first, second)
	require.Equal(t, http.StatusOK, status, answer)
	manager := y.text("SELECT email FROM live.crew WHERE manager AND active ORDER BY name, id LIMIT 1")
	m := mailTo(t, y.Site, manager, "New request: Look at this")
	assert.Regexp(t, `^hull\.png \(\d+ bytes, shown in it\), keel\.png \(\d+ bytes, shown in it\), hull\.png \(\d+ bytes\), keel\.png \(\d+ bytes\)$`,
		m.Files)
	assert.Equal(t, ines, m.ReplyTo)
	assert.NotContains(t, m.Body, "Unsubscribe", "it goes to one")
	var list struct{ Letters []struct{ ID string } }
	founder := y.Founder(t)
	founder.Read("/api/apps/"+y.App.ID+"/letters", &list)
	var letter struct{ Files, Shown []string }
	founder.Read("/api/apps/"+y.App.ID+"/letters/"+list.Letters[0].ID, &letter)
	assert.Equal(t, []string{"hull.png", "keel.png"}, letter.Files)
	assert.Equal(t, letter.Files, letter.Shown)
}

// TestPeopleUnsubscribe leaves the newsletter by the link at its end and by a single request of a mail program, and comes
// back; links that are another's, of another app, or made up do nothing.
func TestPeopleUnsubscribe(t *testing.T) {
	t.Parallel()
	y := yardAtWork{servertest.New(t), t}
	require.NoError(t, y.Store.DB.Exec(strings.ReplaceAll("UPDATE live.owners SET news = email IN (?, ?)", "live.",
		strings.TrimSuffix(liveTable(y.Site, "x"), "x")), ines, "tomas.lindqvist@sailmail.example").Error)
	n := 0
	// tell adds a notice, and gives what became of the mails of it, by addresses
	tell := func() map[string]string {
		n++
		title := fmt.Sprintf("Notice %d", n)
		b, err := y.Apps.Blueprint(t.Context(), y.App, apps.Live)
		require.NoError(t, err)
		seat := apps.FounderSeat(y.App, apps.Live, b, "test")
		require.NoError(t, y.Config.Acts.Do(t.Context(), func(u *act.Unit) error {
			_, err := u.Road.Add(t.Context(), seat, b.Table("news"), acttest.Values(t, map[string]any{"news_title": title,
				"news_text": "All is *well*.", "news_day": "2026-05-02"}), nil)
			return err
		}))
		out := map[string]string{}
		require.Eventually(t, func() bool {
			var rows []struct{ Recipient, Status string }
			require.NoError(t, y.Store.DB.Raw("SELECT recipient, status FROM letters WHERE subject = ? AND status <> 'waiting'", title).
				Scan(&rows).Error)
			for _, r := range rows {
				out[r.Recipient] = r.Status
			}
			return len(out) == 2
		}, 20*time.Second, 20*time.Millisecond)
		return out
	}
	const tomas = "tomas.lindqvist@sailmail.example"
	assert.Equal(t, map[string]string{ines: "sent", tomas: "sent"}, tell())
	m := mailTo(t, y.Site, ines, "Notice 1")
	assert.Contains(t, m.Body, "You get this from Alder Cove Boatyard. Unsubscribe: "+y.URL+"/a/alder-cove/~/unsubscribe#token=")
	assert.NotContains(t, m.Body, "sailmail", "the link does not tell whose it is")
	token := regexp.MustCompile(`#token=(\S+)`).FindStringSubmatch(m.Body)[1]
	visitor := y.Client(t)
	post := func(path string, body any) int {
		status, _ := visitor.Do(http.MethodPost, live+path, body)
		return status
	}
	status, answer := visitor.Do(http.MethodPost, live+"/unsubscribe/look", map[string]any{"token": token})
	require.Equal(t, http.StatusOK, status, answer)
	assert.JSONEq(t, `{"address":"`+ines+`","name":"Yard news"}`, answer)
	for _, wrong := range []string{"", "x", token[1:], token + "A", strings.Repeat("A", 90)} {
		assert.Equal(t, http.StatusNotFound, post("/unsubscribe/look", map[string]any{"token": wrong}), wrong)
		assert.Equal(t, http.StatusNotFound, post("/unsubscribe", map[string]any{"token": wrong}), wrong)
	}
	assert.Equal(t, http.StatusNoContent, post("/unsubscribe", map[string]any{"token": token}))
	assert.Equal(t, http.StatusNoContent, post("/unsubscribe", map[string]any{"token": token}), "twice is once")
	assert.Equal(t, map[string]string{ines: "unwanted", tomas: "sent"}, tell())
	assert.Equal(t, http.StatusNoContent, post("/unsubscribe", map[string]any{"token": token, "back": true}))
	assert.Equal(t, map[string]string{ines: "sent", tomas: "sent"}, tell())

	// as a mail program does, without anything of ours
	r, err := http.Post(y.URL+"/leave/"+token, "application/x-www-form-urlencoded", strings.NewReader("List-Unsubscribe=One-Click"))
	require.NoError(t, err)
	require.NoError(t, r.Body.Close())
	assert.Equal(t, http.StatusNoContent, r.StatusCode)
	assert.Equal(t, map[string]string{ines: "unwanted", tomas: "sent"}, tell())
	r, err = http.Post(y.URL+"/leave/none", "application/x-www-form-urlencoded", strings.NewReader("List-Unsubscribe=One-Click"))
	require.NoError(t, err)
	require.NoError(t, r.Body.Close())
	assert.Equal(t, http.StatusNotFound, r.StatusCode)
	assert.Equal(t, "0", y.text("SELECT count(*)::text FROM mails WHERE body LIKE '%unsubscribe%' AND recipients NOT IN (?, ?)", ines, tomas))
}
