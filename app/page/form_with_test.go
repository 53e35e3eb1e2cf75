package page_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/form"
	"pinegate/store/records"
)

// repairs are changes of the loft by which sails have repairs, of which each has an amount, and the
// sail their sum.
func repairs() []string {
	return []string{
		`{"kind":"add","what":"table","id":"rep","values":{"name":"Repairs","fields":[
			{"id":"what","name":"What","type":"text","required":true},{"id":"hours","name":"Hours","type":"number"},
			{"id":"per","name":"Rate","type":"number"}]}}`,
		`{"kind":"set","of":"per","values":{"default":"40"}}`,
		`{"kind":"add","what":"field","into":"rep","id":"of","values":{"name":"Sail","type":"link","target":"sail","back":"Repairs","backId":"reps"}}`,
		`{"kind":"add","what":"field","into":"rep","id":"amount","values":{"name":"Amount","type":"formula","formula":"hours * rate"}}`,
		`{"kind":"add","what":"field","into":"sail","id":"bill","values":{"name":"Bill","type":"formula","formula":"SUM(repairs.amount)"}}`,
		`{"kind":"add","what":"rule","into":"r","values":{"table":"rep"}}`,
		`{"kind":"set","of":"r.rep","values":{"see":{"extent":"where","condition":"sail.owner = me"},"add":{"extent":"where","condition":"sail.owner = me"},"change":{"extent":"where","condition":"sail.owner = me"},"delete":{"extent":"where","condition":"sail.owner = me"}}}`,
		`{"kind":"set","of":"r.sail","values":{"add":{"extent":"all"},"change":{"extent":"all"},"fixed":null,"given":null}}`,
		`{"kind":"set","of":"r.sailor","values":{"see":{"extent":"all"},"add":{"extent":"all"},"change":{"extent":"all"}}}`,
	}
}

// withLines is a loft whose forms about sails have their repairs as lines; amounts and the bill follow.
func withLines(t *testing.T, changes ...string) *acttest.Loft {
	all := repairs()
	for _, x := range []string{"form", "change"} {
		all = append(all,
			`{"kind":"set","of":"`+x+`","values":{"presets":null,"fields":[{"field":"name","required":true}]}}`,
			`{"kind":"add","what":"block","into":"`+x+`","id":"`+x+`_w","values":{"kind":"with","link":"of","lines":true,"fields":[{"field":"what"},{"field":"hours"},{"field":"per"}]}}`,
			`{"kind":"add","what":"block","into":"`+x+`_w","id":"`+x+`_a","values":{"kind":"question","field":"amount"}}`,
			`{"kind":"add","what":"block","into":"`+x+`","id":"`+x+`_b","values":{"kind":"question","field":"bill"}}`)
	}
	all = append(all, `{"kind":"set","of":"form","values":{"presets":[{"field":"owner","value":"me"}]}}`)
	return acttest.NewLoft(t, append(all, changes...)...)
}

type lines = map[string][]page.Line

func line(t *testing.T, record string, revision int, values map[string]any) page.Line {
	return page.Line{Line: form.Line{Record: record, Answers: form.Answers(acttest.Values(t, values))}, Revision: revision}
}

// sent sends a form, as a request does.
func sent(t *testing.T, l *acttest.Loft, u page.Use, s page.Sent) (string, error) {
	t.Helper()
	taken, err := u.Take(t.Context(), s)
	if err != nil {
		return "", err
	}
	presets, err := u.Presets(taken)
	require.NoError(t, err)
	record := ""
	return record, l.Acts.EditMany(t.Context(), l.App, u.Seat, func(unit *act.Unit) ([]*records.Write, string, error) {
		wrote, err := u.Write(t.Context(), unit.Road, taken, presets)
		record = wrote.Record
		return wrote.Writes, "test", err
	})
}

// values gives the values of a record as the founder sees it.
func values(t *testing.T, l *acttest.Loft, table, record string) map[string]any {
	t.Helper()
	raw, err := l.Road().Get(t.Context(), l.Founder(), l.Founder().Blueprint.Table(table), record)
	require.NoError(t, err)
	var out map[string]any
	require.NoError(t, json.Unmarshal(raw, &out))
	return out
}

// permit says what people may do with repairs.
func permit(t *testing.T, values string) blueprint.Change {
	t.Helper()
	c, err := blueprint.DecodeChange([]byte(`{"kind":"set","of":"r.rep","values":`+values+`}`), func() string { return "new" })
	require.NoError(t, err)
	return c
}

func codes(t *testing.T, err error) map[string]string {
	t.Helper()
	var wrong records.FieldErrors
	require.ErrorAs(t, err, &wrong)
	out := map[string]string{}
	for at, p := range wrong {
		out[at] = p.Code
	}
	return out
}

// TestLinesFollowAndAreSavedTogether shows amounts and the bill while lines are answered, and saves
// all of them with the sail or none.
func TestLinesFollowAndAreSavedTogether(t *testing.T) {
	l := withLines(t)
	ines := l.Member("Ines")
	u := use(t, l, "Ines", "my-sails", "", "form")
	first, err := u.State(t.Context(), page.StateAsked{})
	require.NoError(t, err)
	var asked []string
	for _, q := range first.Questions {
		asked = append(asked, q.Column.ID)
		assert.Equal(t, slices.Contains([]string{"amount", "bill"}, q.Column.ID), q.Shown, q.Column.ID)
		if q.Column.ID == "per" {
			assert.Equal(t, "40", q.Value, "it starts as its default")
		}
	}
	assert.Equal(t, []string{"name", "what", "hours", "per", "amount", "bill"}, asked)
	assert.Empty(t, first.Parts["form_w"].Lines)

	said := []page.Line{line(t, "", 0, map[string]any{"what": "Batten", "hours": "2", "per": "40"}),
		line(t, "", 0, map[string]any{"what": "Leech", "hours": "0.5", "per": "50"})}
	then, err := u.State(t.Context(), page.StateAsked{Answers: answers(t, map[string]any{"name": "Jib 3"}),
		With: lines{"form_w": said}})
	require.NoError(t, err)
	assert.Equal(t, "105", then.Parts["form_b"].Value)
	require.Len(t, then.Parts["form_w"].Lines, 2)
	for i, want := range []string{"80", "25"} {
		assert.Equal(t, want, then.Parts["form_w"].Lines[i].Parts["form_a"].Value)
	}

	before := l.Count(ines, "sail")
	_, err = sent(t, l, u, page.Sent{Values: acttest.Values(t, map[string]any{"name": "Jib 3"}),
		With: lines{"form_w": append(said, line(t, "", 0, map[string]any{"hours": "1"}))}})
	assert.Equal(t, map[string]string{"form_w/2/what": "read-missing"}, codes(t, err))
	assert.Equal(t, before, l.Count(ines, "sail"))
	_, err = sent(t, l, u, page.Sent{Values: acttest.Values(t, map[string]any{"name": "Jib 3"}), With: lines{"form_w": said}})
	require.NoError(t, err)
	assert.Equal(t, before+1, l.Count(ines, "sail"))
	assert.Equal(t, 2, l.Count(ines, "rep"))
}

// TestLinesThatAreThere are changed, removed and added to, as they were seen; those of others are
// not there.
func TestLinesThatAreThere(t *testing.T) {
	l := withLines(t)
	genoa, spinnaker := l.Sails["Genoa"], l.Sails["Spinnaker"]
	batten := l.Add("rep", map[string]any{"what": "Batten", "hours": "2", "of": genoa})
	leech := l.Add("rep", map[string]any{"what": "Leech", "hours": "1", "of": genoa})
	others := l.Add("rep", map[string]any{"what": "Sock", "hours": "9", "of": spinnaker})
	u := use(t, l, "Ines", "sail", genoa, "change")
	first, err := u.State(t.Context(), page.StateAsked{})
	require.NoError(t, err)
	there := first.Parts["change_w"].Lines
	require.Len(t, there, 2)
	assert.Equal(t, []string{batten, leech}, []string{there[0].Record, there[1].Record})
	assert.Equal(t, "Batten", there[0].Row["what"])
	assert.Equal(t, "120", first.Parts["change_b"].Value)

	removed := line(t, leech, there[1].Revision, nil)
	removed.Removed = true
	said := []page.Line{line(t, batten, there[0].Revision, map[string]any{"hours": "3"}), removed,
		line(t, "", 0, map[string]any{"what": "Patch", "hours": "1", "per": "10"})}
	then, err := u.State(t.Context(), page.StateAsked{Answers: form.Answers{}, With: lines{"change_w": said}})
	require.NoError(t, err)
	assert.Equal(t, "130", then.Parts["change_b"].Value)
	_, err = sent(t, l, u, page.Sent{Revision: 1, With: lines{"change_w": said}})
	require.NoError(t, err)
	assert.Equal(t, "130", values(t, l, "sail", genoa)["bill"])
	assert.Equal(t, "3", values(t, l, "rep", batten)["hours"])
	assert.Equal(t, 2, l.Count(l.Member("Ines"), "rep"))
	var history []string
	require.NoError(t, l.Store.DB.Raw(fmt.Sprintf(`SELECT coalesce(before->>'what', '-') || '>' || coalesce(after->>'what', '-') || ' by ' || made_by
		FROM "%s"._history WHERE table_id = 'rep' ORDER BY id OFFSET 3`, u.Seat.Schema)).Scan(&history).Error)
	assert.Len(t, history, 3, "a change, an addition and a removal: %v", history)
	for _, h := range history {
		assert.True(t, strings.HasSuffix(h, " by "+u.Seat.By), h)
	}

	u = use(t, l, "Ines", "sail", genoa, "change")
	for name, x := range map[string]page.Line{
		"somebody else's line": line(t, others, 1, map[string]any{"hours": "1"}),
		"one of no table":      line(t, "01a20887-9f15-75eb-b932-01cb220c615a", 1, map[string]any{"hours": "1"}),
	} {
		_, err = sent(t, l, u, page.Sent{Revision: 2, With: lines{"change_w": {x}}})
		assert.Equal(t, map[string]string{"change_w": "with-gone"}, codes(t, err), name)
	}
	_, err = sent(t, l, u, page.Sent{Revision: 2, With: lines{
		"change_w": {line(t, "", 0, map[string]any{"what": "x", "of": spinnaker})}}})
	assert.Equal(t, map[string]string{"change_w/0/of": "not-asked"}, codes(t, err), "a parent is not answered")
	_, err = sent(t, l, u, page.Sent{Revision: 2, With: lines{"change_w": {line(t, batten, 1, map[string]any{"hours": "5"})}}})
	require.ErrorIs(t, err, records.ErrChanged, "as it was seen before")
	_, err = sent(t, l, u, page.Sent{Revision: 2, With: lines{"change_x": {line(t, "", 0, nil)}}})
	assert.Equal(t, map[string]string{"change_x": "not-asked"}, codes(t, err))
	many := make([]page.Line, 101)
	for i := range many {
		many[i] = line(t, "", 0, map[string]any{"what": "x"})
	}
	_, err = sent(t, l, u, page.Sent{Revision: 2, With: lines{"change_w": many}})
	assert.Equal(t, map[string]string{"change_w": "with-many"}, codes(t, err))
	assert.Equal(t, 2, l.Count(l.Member("Ines"), "rep"), "nothing of that was written")
}

// withOwner is a loft whose form asks for the owner of a new sail, who is found by their address, and
// whose other form changes a sail with its owner and adds a repair where somebody wants one.
func withOwner(t *testing.T, changes ...string) *acttest.Loft {
	return acttest.NewLoft(t, append(append(repairs(),
		`{"kind":"set","of":"form","values":{"presets":null,"fields":[{"field":"name","required":true}]}}`,
		`{"kind":"add","what":"block","into":"form","id":"w_own","values":{"kind":"with","link":"owner","find":"s_mail","fields":[{"field":"s_name"},{"field":"s_mail"}]}}`,
		`{"kind":"set","of":"change","values":{"presets":null,"fields":[{"field":"name"}]}}`,
		`{"kind":"add","what":"block","into":"change","id":"c_own","values":{"kind":"with","link":"owner","fields":[{"field":"s_name"}]}}`,
		`{"kind":"add","what":"block","into":"change","id":"c_more","values":{"kind":"ask","name":"Something is torn","type":"yes/no"}}`,
		`{"kind":"add","what":"block","into":"change","id":"c_rep","values":{"kind":"with","link":"of","when":"answers.something_is_torn","fields":[{"field":"what"}]}}`,
	), changes...)...)
}

// TestWhoIsThereIsLinked links a person who exists and leaves them as they are, adds one who does
// not, and answers alike.
func TestWhoIsThereIsLinked(t *testing.T) {
	l := withOwner(t)
	u := use(t, l, "Ines", "my-sails", "", "form")
	send := func(name, mail string) string {
		record, err := sent(t, l, u, page.Sent{Values: acttest.Values(t, map[string]any{"name": "New"}),
			With: lines{"w_own": {line(t, "", 0, map[string]any{"s_name": name, "s_mail": mail})}}})
		require.NoError(t, err)
		return record
	}
	people := l.Count(l.Founder(), "sailor")
	_ = send("Somebody else", "TOMAS@sails.example")
	assert.Equal(t, people, l.Count(l.Founder(), "sailor"))
	assert.Equal(t, "Tomas", values(t, l, "sailor", l.People["Tomas"])["s_name"])
	assert.Len(t, values(t, l, "sailor", l.People["Tomas"])["s_sails"], 2)
	_ = send("Una", "una@sails.example")
	_ = send("Una", "una@sails.example")
	assert.Equal(t, people+1, l.Count(l.Founder(), "sailor"))
}

// TestAllOrNone changes a sail with its owner and adds a repair, or does none of it.
func TestAllOrNone(t *testing.T) {
	l := withOwner(t)
	genoa, ines := l.Sails["Genoa"], l.People["Ines"]
	u := use(t, l, "Ines", "sail", genoa, "change")
	with := func(what any) page.Sent {
		return page.Sent{Revision: 1, Values: acttest.Values(t, map[string]any{"name": "Genoa II", "c_more": true}),
			With: lines{"c_own": {line(t, ines, 1, map[string]any{"s_name": "Ines II"})},
				"c_rep": {line(t, "", 0, map[string]any{"what": what})}}}
	}
	_, err := sent(t, l, u, with(nil))
	assert.Equal(t, map[string]string{"c_rep/0/what": "read-missing"}, codes(t, err))
	t.Run("refused in the last", func(t *testing.T) {
		refusing := with("Batten")
		seat := u.Seat
		rule := seat.Blueprint.Role("r").Rule("rep")
		_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", permit(t, `{"add":{"extent":"where","condition":"hours > 1"}}`))
		require.NoError(t, err)
		_, err = sent(t, l, use(t, l, "Ines", "sail", genoa, "change"), refusing)
		require.ErrorIs(t, err, records.ErrForbidden)
		assert.Equal(t, "Genoa", values(t, l, "sail", genoa)["name"])
		assert.Equal(t, "Ines", values(t, l, "sailor", ines)["s_name"])
		assert.Zero(t, l.Count(l.Founder(), "rep"))
		raw, err := json.Marshal(rule.Add)
		require.NoError(t, err)
		_, err = l.Acts.Apply(t.Context(), l.App.ID, "Ann", permit(t, `{"add":`+string(raw)+`}`))
		require.NoError(t, err)
	})
	_, err = sent(t, l, use(t, l, "Ines", "sail", genoa, "change"), with("Batten"))
	require.NoError(t, err)
	assert.Equal(t, "Genoa II", values(t, l, "sail", genoa)["name"])
	assert.Equal(t, "Ines II", values(t, l, "sailor", ines)["s_name"])
	assert.Equal(t, 1, l.Count(l.Founder(), "rep"))

	hidden := with("Leech")
	hidden.Revision = 2
	delete(hidden.Values, "c_more")
	delete(hidden.With, "c_own")
	_, err = sent(t, l, use(t, l, "Ines", "sail", genoa, "change"), hidden)
	assert.Equal(t, map[string]string{"c_rep": "not-asked-now"}, codes(t, err), "of what is not shown")
}

// TestWhatGoesWithAFormIsAskedByTheRules leaves out what whoever looks may not write, and a record
// that they do not see.
func TestWhatGoesWithAFormIsAskedByTheRules(t *testing.T) {
	shown := func(l *acttest.Loft) []string {
		u := use(t, l, "Ines", "sail", l.Sails["Genoa"], "change")
		s, err := u.State(t.Context(), page.StateAsked{Answers: answers(t, map[string]any{"c_more": true})})
		require.NoError(t, err)
		return slices.Sorted(maps.Keys(s.Parts))
	}
	l := withOwner(t)
	assert.Subset(t, shown(l), []string{"c_own", "c_rep"})
	_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", permit(t, `{"add":{"extent":"none"}}`))
	require.NoError(t, err)
	assert.NotContains(t, shown(l), "c_rep")
	l = withOwner(t, `{"kind":"set","of":"r.sailor","values":{"see":{"extent":"where","condition":"name = \"Tomas\""}}}`)
	assert.NotContains(t, shown(l), "c_own", "she is linked already, and hidden")
}

// TestWhatIsKnownIsNotAsked saves what is known of whoever adds a record, asks others, and takes no
// other answer from who is known.
func TestWhatIsKnownIsNotAsked(t *testing.T) {
	l := asking(t)
	said(t, l, "form", "owner", "start", "me", "skip", true)
	u := use(t, l, "Ines", "my-sails", "", "form")
	shown, _, _ := parts(t, u, map[string]any{"name": "Jib"})
	assert.Equal(t, []string{"name", "cl", "area"}, shown)
	taken, err := take(t, u, map[string]any{"name": "Jib"})
	require.NoError(t, err)
	assert.JSONEq(t, `"`+l.People["Ines"]+`"`, string(taken["owner"]))
	_, err = take(t, u, map[string]any{"name": "Jib", "owner": l.People["Tomas"]})
	assert.Equal(t, map[string]string{"owner": "not-asked"}, codes(t, err))
	record, err := sent(t, l, u, page.Sent{Values: acttest.Values(t, map[string]any{"name": "Jib 7"})})
	require.NoError(t, err)
	owner, is := values(t, l, "sail", record)["owner"].(string)
	require.True(t, is)
	assert.Equal(t, l.People["Ines"], owner)
	shown, _, _ = parts(t, use(t, l, "", "my-sails", "", "form"), map[string]any{"name": "Jib"})
	assert.Equal(t, []string{"name", "cl", "area", "owner"}, shown, "a member without a record of their own is asked")
}

// TestThePagesRecordIsAsItIs compares answers with the record as it was saved, which they would change.
func TestThePagesRecordIsAsItIs(t *testing.T) {
	l := asking(t, `{"kind":"set","of":"change","values":{"fields":[{"field":"name"},{"field":"area"}]}}`)
	said(t, l, "change", "area", "rules", []map[string]string{{"holds": "answers.area <= page.record.area * 2", "says": "Too much."}})
	u := use(t, l, "Ines", "sail", l.Sails["Genoa"], "change")
	for area, wrong := range map[string]string{"40": "", "41": "answer-said"} {
		_, err := take(t, u, map[string]any{"area": area})
		if wrong == "" {
			require.NoError(t, err)
			continue
		}
		assert.Equal(t, map[string]string{"area": wrong}, codes(t, err))
	}
}

// TestWhatMayNotBeChangedStays adds lines to a record for somebody who may not change that itself, nor
// remove lines, and writes nothing to it.
func TestWhatMayNotBeChangedStays(t *testing.T) {
	l := withLines(t, `{"kind":"set","of":"r.sail","values":{"change":{"extent":"none"}}}`,
		`{"kind":"set","of":"r.rep","values":{"delete":{"extent":"none"}}}`)
	genoa := l.Sails["Genoa"]
	batten := l.Add("rep", map[string]any{"what": "Batten", "hours": "2", "of": genoa})
	u := use(t, l, "Ines", "sail", genoa, "change")
	s, err := u.State(t.Context(), page.StateAsked{})
	require.NoError(t, err)
	assert.True(t, s.Parts["change_w"].Adds)
	assert.False(t, s.Parts["change_w"].Removes)
	_, err = sent(t, l, u, page.Sent{Revision: 1, With: lines{"change_w": {line(t, "", 0, map[string]any{"what": "Patch", "hours": "1"})}}})
	require.NoError(t, err)
	after := values(t, l, "sail", genoa)
	assert.Equal(t, "120", after["bill"])
	assert.InDelta(t, 1, after["revision"], 0, "the sail itself was not written")
	gone := line(t, batten, 1, nil)
	gone.Removed = true
	_, err = sent(t, l, u, page.Sent{Revision: 1, With: lines{"change_w": {gone}}})
	require.ErrorIs(t, err, records.ErrForbidden)
}
