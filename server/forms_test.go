package server_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server"
	"pinegate/server/servertest"
)

// standalone is a form that stands by itself, as a browser gets it.
type standalone struct {
	Path  string
	Block struct {
		ID, Stamp string
		State     struct {
			Parts map[string]struct{ Title string }
		}
	}
}

// with is the id of what goes with the demo's enquiry, and who is its question about the address.
const enquiry, with = "p_enquire_c", "p_enquire_c_q3"

// asks makes what a visitor sends of the enquiry.
func asks(subject, email, stamp string) map[string]any {
	return map[string]any{"key": servertest.Key(), "path": "ask-us", "stamp": stamp,
		"values": map[string]any{"enq_subject": subject, "enq_message": "How much?"},
		"with":   map[string]any{with: []any{map[string]any{"answers": map[string]any{"own_name": "Pia", "own_email": email}}}}}
}

// TestAFormStandsInListedSitesAlone lets a browser show it in pages of the sites that are listed, and
// nothing else of the app.
func TestAFormStandsInListedSitesAlone(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Client(t)
	form := c.Header("/a/alder-cove/~/form/enquiry")
	assert.True(t, strings.HasSuffix(form.Get("Content-Security-Policy"), "frame-ancestors 'self' https://sailing-club.example"))
	assert.Empty(t, form.Get("X-Frame-Options"), "which knows no sites")
	for _, path := range []string{"/a/alder-cove/ask-us", "/a/alder-cove/~/form/none", "/a/alder-cove/~/form/enquiry/more",
		"/a/alder-cove/~/sign-in", "/a/alder-cove", "/"} {
		header := c.Header(path)
		assert.NotContains(t, header.Get("Content-Security-Policy"), "sailing-club", path)
		assert.Equal(t, "SAMEORIGIN", header.Get("X-Frame-Options"), path)
	}
	apply(t, s, set(enquiry, "sites", nil))
	assert.NotContains(t, c.Header("/a/alder-cove/~/form/enquiry").Get("Content-Security-Policy"), "sailing-club")
	f := s.Founder(t)
	for _, sites := range []string{"http://sailing-club.example", "https://sailing-club.example; script-src *", "*",
		"https://*.example", "'self'", "https://a@b.example", "javascript:alert(1)"} {
		status, body := f.Do(http.MethodPost, "/api/apps/"+s.App.ID+"/changes",
			map[string]any{"changes": []any{set(enquiry, "sites", sites)}})
		assert.Equal(t, http.StatusUnprocessableEntity, status, "%s: %s", sites, body)
	}
}

// TestProgramsAreTold tells programs from people who see a form before they send it. Somebody who is
// signed in is known.
func TestProgramsAreTold(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	config := s.Config
	config.FormTime = time.Hour
	strict := httptest.NewServer(server.New(config))
	t.Cleanup(strict.Close)
	var form standalone
	s.Client(t).Read(live+"/standalone/enquiry", &form)
	require.NotEmpty(t, form.Block.Stamp)
	send := func(base string, body map[string]any) (int, string) {
		raw, err := json.Marshal(body)
		require.NoError(t, err)
		got, err := http.Post(base+live+"/forms/"+enquiry, "application/json", strings.NewReader(string(raw)))
		require.NoError(t, err)
		defer func() { require.NoError(t, got.Body.Close()) }()
		var said struct{ Detail, Thanks string }
		require.NoError(t, json.NewDecoder(got.Body).Decode(&said))
		return got.StatusCode, said.Detail + said.Thanks
	}
	filled := asks("Filled", "pia@holm.example", form.Block.Stamp)
	filled["website"] = "https://cheap.example"
	for name, x := range map[string]struct {
		body map[string]any
		said string
	}{
		"at once":                   {asks("Fast", "pia@holm.example", form.Block.Stamp), "too fast"},
		"without a stamp":           {asks("None", "pia@holm.example", ""), "too fast"},
		"with one of its own":       {asks("Own", "pia@holm.example", "AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"), "too fast"},
		"with what no person sees":  {filled, "as only programs do"},
		"with another form's stamp": {asks("Other", "pia@holm.example", strings.ToUpper(form.Block.Stamp)), "too fast"},
	} {
		status, said := send(strict.URL, x.body)
		assert.Equal(t, http.StatusUnprocessableEntity, status, name)
		assert.Contains(t, said, x.said, name)
	}
	status, said := send(s.URL, asks("By a person", "pia@holm.example", form.Block.Stamp))
	assert.Equal(t, http.StatusOK, status, said)
	var n int
	require.NoError(t, s.Store.DB.Raw(`SELECT count(*) FROM `+liveTable(s, "enquiries")+` WHERE message = 'How much?'`).Scan(&n).Error)
	assert.Equal(t, 1, n)
}

func liveTable(s *servertest.Site, name string) string {
	return fmt.Sprintf(`"app_%s_live".%s`, strings.ReplaceAll(s.App.ID, "-", ""), name)
}

// TestTheSameEnquiryAtOnce sends one several times with one key, and others for one new address at
// the same time: one enquiry, and one person.
func TestTheSameEnquiryAtOnce(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	once := asks("Once", "una@person.example", "")
	var all sync.WaitGroup
	for i := range 12 {
		all.Go(func() {
			body := once
			if i >= 6 {
				body = asks(fmt.Sprint("Another ", i), "una@person.example", "")
			}
			status, said := s.Client(t).Do(http.MethodPost, live+"/forms/"+enquiry, body)
			assert.Equal(t, http.StatusOK, status, said)
		})
	}
	all.Wait()
	count := func(what string) (n int) {
		require.NoError(t, s.Store.DB.Raw(`SELECT count(*) FROM `+what).Scan(&n).Error)
		return n
	}
	assert.Equal(t, 7, count(liveTable(s, "enquiries")+` WHERE message = 'How much?'`))
	assert.Equal(t, 1, count(liveTable(s, "owners")+` WHERE email = 'una@person.example'`))
}

// TestWhatIsForgedIsRefused sends what the form does not ask for, and leaves everything as it was.
func TestWhatIsForgedIsRefused(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Client(t)
	line := func(values map[string]any) []any { return []any{map[string]any{"answers": values}} }
	who := map[string]any{"own_name": "Pia", "own_email": "pia@holm.example"}
	person := func(id string, v any) map[string]any {
		return map[string]any{with: line(map[string]any{"own_name": "P", "own_email": "p@p.example", id: v})}
	}
	many := make([]any, 1000)
	for i := range many {
		many[i] = map[string]any{"answers": who}
	}
	for name, x := range map[string]struct {
		values, with map[string]any
		at           string
	}{
		"a field that it sets":            {map[string]any{"enq_day": "2020-01-01"}, nil, "enq_day"},
		"a link":                          {map[string]any{"enq_owner": missing}, nil, "enq_owner"},
		"a field of the other record":     {map[string]any{"own_name": "Pia"}, nil, "own_name"},
		"a field that is hidden":          {nil, person("own_note", "x"), with + "/0/own_note"},
		"a file for a field that is none": {nil, person("own_name", []string{missing}), with + "/0/own_name"},
		"a record that is there":          {nil, map[string]any{with: []any{map[string]any{"record": missing, "answers": who}}}, with},
		"several":                         {nil, map[string]any{with: append(line(who), line(who)...)}, with},
		"a thousand":                      {nil, map[string]any{with: many}, with},
		"what goes with no form":          {nil, map[string]any{with: line(who), "p_home_h": line(who)}, "p_home_h"},
		"nobody":                          {nil, nil, with + "/0/own_name"},
	} {
		body := asks("Forged", "pia@holm.example", "")
		for id, v := range x.values {
			body["values"].(map[string]any)[id] = v
		}
		if x.values == nil {
			body["with"] = x.with
		}
		status, said := c.Do(http.MethodPost, live+"/forms/"+enquiry, body)
		assert.Equal(t, http.StatusUnprocessableEntity, status, "%s: %s", name, said)
		assert.Contains(t, said, `"location":"`+x.at+`"`, name)
	}
	var n int
	require.NoError(t, s.Store.DB.Raw(`SELECT (SELECT count(*) FROM `+liveTable(s, "enquiries")+
		` WHERE message = 'How much?') + (SELECT count(*) FROM `+liveTable(s, "owners")+` WHERE email LIKE 'p%@holm.example' OR name = 'P')`).Scan(&n).Error)
	assert.Zero(t, n)
}

// TestSendingIsRehearsedOnTheStageAlone tells a builder what sending would do, and does nothing; in the
// live app nobody rehearses.
func TestSendingIsRehearsedOnTheStageAlone(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	count := func() (n int) {
		for _, env := range []string{"live", "draft"} {
			var in int
			table := strings.Replace(liveTable(s, "enquiries"), "_live", "_"+env, 1)
			require.NoError(t, s.Store.DB.Raw(`SELECT count(*) FROM `+table+` WHERE message = 'How much?'`).Scan(&in).Error)
			n += in
		}
		return n
	}
	rehearsal := asks("Tried", "pia@holm.example", "")
	rehearsal["rehearse"] = true
	stage := "/stage/" + s.App.ID + "/visitor/-"
	status, body := s.Founder(t).Do(http.MethodPost, stage+"/forms/"+enquiry, rehearsal)
	assert.Equal(t, http.StatusOK, status, body)
	assert.Contains(t, body, "1 in Enquiries would be added.")
	assert.Contains(t, body, "1 in Owners would be added.")
	status, body = s.Client(t).Do(http.MethodPost, live+"/forms/"+enquiry, rehearsal)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, body, "on the stage only")
	assert.Zero(t, count())
	rehearsal["rehearse"] = false // its key was not used up
	status, body = s.Founder(t).Do(http.MethodPost, stage+"/forms/"+enquiry, rehearsal)
	assert.Equal(t, http.StatusOK, status, body)
	assert.Equal(t, 1, count())
}

// TestAnEnquiryTellsNobodyWhoIsKnown answers alike whoever's address it has: of an owner it is linked,
// of somebody of the crew it leads to nobody, and of a new person there is one record.
func TestAnEnquiryTellsNobodyWhoIsKnown(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	c := s.Client(t)
	answered := map[string]string{}
	for _, email := range []string{strings.ToUpper(ines), "jonas@aldercove.example", "una@person.example", "Una@Person.example"} {
		status, body := c.Do(http.MethodPost, live+"/forms/"+enquiry, asks(email, email, ""))
		assert.Equal(t, http.StatusOK, status, body)
		answered[body] = email
	}
	assert.Len(t, answered, 1, "all are answered with the same words")
	var found []struct{ Subject, Name string }
	require.NoError(t, s.Store.DB.Raw(`SELECT e.subject, coalesce(o.name, '-') AS name FROM `+liveTable(s, "enquiries")+` e LEFT JOIN `+
		liveTable(s, "owners")+` o ON o.id = e.owner WHERE e.message = 'How much?' ORDER BY e.id`).Scan(&found).Error)
	names := []string{}
	for _, f := range found {
		names = append(names, f.Name)
	}
	assert.Equal(t, []string{"Ines Calder", "-", "Pia", "Pia"}, names)
	var n int
	require.NoError(t, s.Store.DB.Raw(`SELECT count(*) FROM `+liveTable(s, "owners")+
		` WHERE lower(email) IN ('una@person.example', 'jonas@aldercove.example')`).Scan(&n).Error)
	assert.Equal(t, 1, n)
}

// TestAFormHoldsWhatIsThrownAtIt sends more than any person would, and an answer for which a pattern
// that goes back and forth would take longer than anybody lives.
func TestAFormHoldsWhatIsThrownAtIt(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	apply(t, s, set("p_enquire_c_q1", "rules", []any{map[string]any{"holds": `MATCHES(answers.subject, "^(a+)+$")`, "says": "Only a."}}))
	c := s.Client(t)
	many := func(n int, is func(int) any) map[string]any {
		out := map[string]any{}
		for i := range n {
			out[fmt.Sprintf("x%d", i)] = is(i)
		}
		return out
	}
	ids := make([]string, 100_000)
	for i := range ids {
		ids[i] = fmt.Sprintf("x%d", i)
	}
	state := live + "/forms/" + enquiry + "/state"
	for name, body := range map[string]map[string]any{
		"a million answers": {"answers": many(1_000_000, func(int) any { return 1 })},
		"many searches":     {"answers": map[string]any{}, "search": many(20_000, func(int) any { return "e" })},
		"many ids":          {"answers": map[string]any{}, "have": ids},
		"many answers":      {"answers": many(20_000, func(i int) any { return strings.Repeat("y", i%100) })},
		"many lines": {"answers": map[string]any{}, "with": map[string]any{with: make([]map[string]any, 50_000),
			"none": make([]map[string]any, 50_000)}},
		"deep": {"answers": map[string]any{"enq_subject": json.RawMessage(strings.Repeat("[", 9_000) + strings.Repeat("]", 9_000))}},
	} {
		body["path"] = "ask-us"
		status, said := c.Do(http.MethodPost, state, body)
		assert.Less(t, status, 500, "%s: %.300s", name, said)
		assert.NotContains(t, said, "unknown field", name)
		body["key"], body["values"] = servertest.Key(), body["answers"]
		delete(body, "answers")
		status, said = c.Do(http.MethodPost, live+"/forms/"+enquiry, body)
		refused := []int{http.StatusBadRequest, http.StatusRequestEntityTooLarge, http.StatusUnprocessableEntity}
		assert.Contains(t, refused, status, "%s: %.300s", name, said)
	}
	as := strings.Repeat("a", 200)
	for answer, status := range map[string]int{as: http.StatusOK, as + "!": http.StatusUnprocessableEntity} {
		got, said := c.Do(http.MethodPost, live+"/forms/"+enquiry, asks(answer, "pia@holm.example", ""))
		assert.Equal(t, status, got, "%.300s", said)
	}
	var n int
	require.NoError(t, s.Store.DB.Raw(`SELECT count(*) FROM `+liveTable(s, "enquiries")+` WHERE message = 'How much?'`).Scan(&n).Error)
	assert.Equal(t, 1, n)
}
