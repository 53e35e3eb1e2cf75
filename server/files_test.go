package server_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
)

func dot(t *testing.T) string {
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, image.NewRGBA(image.Rect(0, 0, 800, 500))))
	return b.String()
}

// upload sends a file and gives its id.
func upload(t *testing.T, c *servertest.Client, path, name, content string) string {
	t.Helper()
	status, answer := c.Send(path+"name="+url.QueryEscape(name), content)
	require.Equal(t, http.StatusOK, status, answer)
	var f struct{ ID string }
	require.NoError(t, json.Unmarshal([]byte(answer), &f))
	return f.ID
}

const askFile = live + "/files/p_ask_c/req_photos?path=ask-for-work&"

// asked sends a request for work with photos, and gives what was answered.
func asked(c *servertest.Client, boat any, photos ...string) (int, string) {
	return c.Do(http.MethodPost, live+"/forms/p_ask_c", map[string]any{"key": servertest.Key(), "path": "ask-for-work",
		"values": map[string]any{"req_title": "Look at this", "req_boat": boat, "req_kind": "wk_hull", "req_photos": photos}})
}

func TestFilesBelongToWhomeverTheirRecordDoes(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	_, own := foreign(t, s)
	c, other := s.Person(t, ines), s.Person(t, "tomas.lindqvist@sailmail.example")
	id := upload(t, c, askFile, `../<script>alert(1)</script>.png`, dot(t))
	status, answer := asked(other, own["id"], id)
	assert.Equal(t, http.StatusUnprocessableEntity, status, "another's file and another's boat: %s", answer)
	status, answer = asked(c, own["id"], "01a00000-0000-4000-8000-000000000000")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, answer, "This file is no longer there")
	status, answer = asked(c, own["id"], id)
	require.Equal(t, http.StatusOK, status, answer)
	status, _ = asked(c, own["id"], id)
	assert.Equal(t, http.StatusUnprocessableEntity, status, "a file has one record")

	var p page
	c.Read(live+"/page?path=my-requests", &p)
	record := ""
	for _, r := range p.Blocks[1].Rows {
		if r["req_title"] == "Look at this" {
			record = fmt.Sprint(r["id"])
		}
	}
	require.NotEmpty(t, record)
	file := live + "/files/req/" + record + "/req_photos/" + id
	status, content := c.Do(http.MethodGet, file, nil)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, dot(t), content)
	status, small := c.Do(http.MethodGet, file+"?small=true", nil)
	assert.Equal(t, http.StatusOK, status)
	picture, err := png.Decode(strings.NewReader(small))
	require.NoError(t, err)
	assert.Equal(t, 360, picture.Bounds().Dx())
	_, missing := c.Do(http.MethodGet, live+"/files/req/01a00000-0000-7000-8000-000000000000/req_photos/"+id, nil)
	for who, asks := range map[string]*servertest.Client{"another owner": other, "a visitor": s.Client(t)} {
		status, answer := asks.Do(http.MethodGet, file, nil)
		assert.Equal(t, http.StatusNotFound, status, who)
		assert.Equal(t, missing, answer, "%s hears the same as of what is not there", who)
	}
	for what, path := range map[string]string{
		"another field":   live + "/files/req/" + record + "/req_wish/" + id,
		"another table":   live + "/files/boat/" + record + "/boat_photo/" + id,
		"another file":    live + "/files/req/" + record + "/req_photos/01a00000-0000-4000-8000-000000000000",
		"no record":       live + "/files/req/x/req_photos/" + id,
		"a table unknown": live + "/files/x/" + record + "/req_photos/" + id,
	} {
		status, _ := c.Do(http.MethodGet, path, nil)
		assert.Equal(t, http.StatusNotFound, status, what)
	}
	header := c.Header(file)
	assert.Equal(t, "image/png", header.Get("Content-Type"))
	assert.Equal(t, `inline; filename=script.png`, strings.ReplaceAll(header.Get("Content-Disposition"), `"`, ""))
	assert.Contains(t, header.Get("Content-Security-Policy"), "sandbox")
	assert.Equal(t, "nosniff", header.Get("X-Content-Type-Options"))
}

func TestFilesThatAreNotTaken(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Person(t, ines)
	for what, try := range map[string]struct{ path, name, content, says string }{
		"a page as a picture": {askFile, "x.png", "<html><script>alert(1)</script></html>", "not a picture that browsers show"},
		"a drawing with scripts": {askFile, "x.svg", `<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>`,
			"not a picture that browsers show"},
		"half a picture":            {askFile, "x.png", dot(t)[:60], "not a whole picture"},
		"nothing":                   {askFile, "x.png", "", "empty"},
		"more than is allowed":      {askFile, "x.png", dot(t) + strings.Repeat("x", 11<<20), "larger than 10 MB"},
		"what is not asked for":     {live + "/files/p_ask_c/req_answer?path=ask-for-work&", "x.png", dot(t), "This doesn’t exist"},
		"a form of another page":    {live + "/files/p_ask_c/req_photos?path=my-boats&", "x.png", dot(t), "This doesn’t exist"},
		"a page that is not open":   {live + "/files/p_log_b/time_note?path=log-hours&", "x.png", dot(t), "no access to this page"},
		"a block that is not there": {live + "/files/x/req_photos?path=ask-for-work&", "x.png", dot(t), "This doesn’t exist"},
	} {
		status, answer := c.Send(try.path+"name="+try.name, try.content)
		assert.GreaterOrEqual(t, status, 400, what)
		assert.Contains(t, answer, try.says, what)
	}
	var kept int64
	require.NoError(t, s.Store.DB.Raw(fmt.Sprintf(`SELECT count(*) FROM "app_%s_live"._files WHERE record_id IS NULL`,
		strings.ReplaceAll(s.App.ID, "-", ""))).Scan(&kept).Error)
	assert.Zero(t, kept)
	status, answer := s.Client(t).Send(askFile+"name=x.png", dot(t))
	assert.Equal(t, http.StatusUnauthorized, status, answer)
}

func TestHiddenFilesAreNotThere(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	var g grid
	api := "/api/apps/" + s.App.ID
	f.Read(api+"/tables/boat/records?as=founder", &g)
	boat := fmt.Sprint(g.Rows[0]["id"])
	files, ok := g.Rows[0]["boat_photo~"].([]any)
	require.True(t, ok)
	path := api + "/tables/boat/records/" + boat + "/files/boat_photo/" + fmt.Sprint(files[0].(map[string]any)["id"])
	status, _ := f.Do(http.MethodGet, path+"?as=founder", nil)
	assert.Equal(t, http.StatusOK, status)
	var people struct{ People []struct{ ID, Label string } }
	f.Read(api+"/people?role=r_own&search=Ines+Calder", &people)
	as := "?as=person.r_own." + people.People[0].ID
	status, _ = f.Do(http.MethodGet, path+as, nil)
	require.Equal(t, http.StatusOK, status, "it is her boat")
	f.Write(http.MethodPost, api+"/changes", map[string]any{"changes": []any{set("r_own.boat", "hidden", []string{"boat_photo"})}})
	status, _ = f.Do(http.MethodGet, path+as, nil)
	assert.Equal(t, http.StatusNotFound, status)
	status, _ = f.Send(api+"/tables/boat/fields/boat_photo/files"+as+"&name=x.png", dot(t))
	assert.Equal(t, http.StatusForbidden, status)
}

func TestPicturesOfChoicesStayInTheirApp(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	id := upload(t, f, "/api/apps/"+s.App.ID+"/pictures?", "hull.png", dot(t))
	status, _ := s.Client(t).Do(http.MethodGet, live+"/pictures/"+id, nil)
	assert.Equal(t, http.StatusOK, status, "choices are no secret")
	f.Write(http.MethodPost, "/api/apps", map[string]string{"name": "Second"})
	var all []struct{ ID string }
	f.Read("/api/apps", &all)
	status, _ = f.Do(http.MethodGet, "/api/apps/"+all[1].ID+"/pictures/"+id, nil)
	assert.Equal(t, http.StatusNotFound, status)
	status, answer := f.Send("/api/apps/"+s.App.ID+"/pictures?name=x.png", "no picture")
	assert.Equal(t, http.StatusUnprocessableEntity, status, answer)
}

func TestSendingFilesIsLimitedForVisitors(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	api := "/api/apps/" + s.App.ID
	f.Write(http.MethodPost, api+"/changes", map[string]any{"changes": []any{
		set("p_ask_c", "presets", []any{}),
		set("p_ask", "audience", "everyone"),
		set("visitor.req", "add", map[string]any{"extent": "all"})}})
	var app struct{ Revision, LiveVersion int }
	f.Read(api, &app)
	f.Write(http.MethodPost, api+"/publish", map[string]any{"revision": app.Revision, "liveVersion": app.LiveVersion, "accept": true,
		"bringRecords": false})
	c := s.Client(t)
	refused := ""
	for range 40 {
		if status, answer := c.Send(askFile+"name=x.png", dot(t)); status != http.StatusOK {
			refused = answer
			break
		}
	}
	assert.Contains(t, refused, "Too many files came from here")
}
