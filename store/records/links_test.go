package records_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/store/records"
)

// crewed is a loft in which sails have a crew, and members change sails and sailors
// but see only some of them.
func crewed(t *testing.T) *acttest.Loft {
	return acttest.NewLoft(t,
		`{"kind":"add","what":"field","into":"sail","id":"crew","values":{"name":"Crew","type":"links","target":"sailor"}}`,
		`{"kind":"set","of":"r.sailor","values":{"see":{"extent":"where","condition":"name <> \"Tomas\""},"change":{"extent":"all"}}}`,
		`{"kind":"set","of":"r.sail","values":{"see":{"extent":"where","condition":"price < 500"},"change":{"extent":"all"}}}`)
}

// save changes fields of a record as somebody, at its newest revision.
func save(l *acttest.Loft, seat *records.Seat, table, id string, values map[string]any) (w *records.Write, err error) {
	l.T.Helper()
	revision, ok := row(l, l.Founder(), table, id)["revision"].(float64)
	require.True(l.T, ok)
	return l.Acts.Edit(l.T.Context(), l.App, seat, "test", func(u *act.Unit) (*records.Write, error) {
		return u.Road.Change(l.T.Context(), seat, seat.Blueprint.Table(table), id, int(revision), acttest.Values(l.T, values), nil)
	})
}

// linkedTo gives the names of the first records to which a field of several links leads,
// and how many they are, whoever sees them.
func linkedTo(l *acttest.Loft, table, field, id string) (names []string, count int) {
	l.T.Helper()
	got := row(l, l.Founder(), table, id)
	list, ok := got[field].([]any)
	require.True(l.T, ok, "%v", got[field])
	for _, x := range list {
		names = append(names, x.(map[string]any)["label"].(string))
	}
	n, ok := got[field+"~"].(float64)
	require.True(l.T, ok, "%v", got)
	return names, int(n)
}

// TestLinksThatAreNotSeenStay saves links as somebody who sees some of them only.
func TestLinksThatAreNotSeenStay(t *testing.T) {
	l := crewed(t)
	ines, tomas, ruth := l.People["Ines"], l.People["Tomas"], l.People["Ruth"]
	genoa := l.Sails["Genoa"]
	_, err := save(l, l.Founder(), "sail", genoa, map[string]any{"crew": []string{ines, tomas, ruth}})
	require.NoError(t, err)
	member := l.Member("Ines")
	for _, x := range []struct {
		what  string
		crew  any
		wrong string
		now   []string
	}{
		{"all that is seen but Ruth", []string{ines}, "", []string{"Ines", "Tomas"}},
		{"one more", map[string]any{"added": []string{ruth}}, "", []string{"Ines", "Tomas", "Ruth"}},
		{"one less", map[string]any{"removed": []string{ines}}, "", []string{"Tomas", "Ruth"}},
		{"one less who is not seen", map[string]any{"removed": []string{tomas}}, "", []string{"Tomas", "Ruth"}},
		{"nobody", nil, "", []string{"Tomas"}},
		{"one who is not seen", map[string]any{"added": []string{tomas}}, "read-record", []string{"Tomas"}},
		{"one who is not there", []string{genoa}, "read-record", []string{"Tomas"}},
		{"nonsense", map[string]any{"added": "x"}, "read-record", []string{"Tomas"}},
	} {
		_, err := save(l, member, "sail", genoa, map[string]any{"crew": x.crew})
		if x.wrong == "" {
			require.NoError(t, err, x.what)
		} else {
			var wrong records.FieldErrors
			require.ErrorAs(t, err, &wrong, x.what)
			assert.Equal(t, x.wrong, wrong["crew"].Code, x.what)
		}
		now, _ := linkedTo(l, "sail", "crew", genoa)
		assert.ElementsMatch(t, x.now, now, x.what)
	}
}

// TestManyLinksStay renames a record with more links than anybody is shown, and adds
// one and removes one.
func TestManyLinksStay(t *testing.T) {
	l := crewed(t)
	var all []string
	for n := range 42 {
		all = append(all, l.Add("sailor", map[string]any{"s_name": fmt.Sprintf("Hand %d", n),
			"s_mail": fmt.Sprintf("%d@sails.example", n)}))
	}
	jib := l.Sails["Jib"]
	_, err := save(l, l.Founder(), "sail", jib, map[string]any{"crew": all})
	require.NoError(t, err)
	for _, values := range []map[string]any{
		{"name": "Storm jib"},
		{"name": "Jib", "crew": map[string]any{"added": []string{l.People["Ruth"]}, "removed": []string{all[30]}}},
	} {
		_, err := save(l, l.Member("Ines"), "sail", jib, values)
		require.NoError(t, err)
		_, count := linkedTo(l, "sail", "crew", jib)
		assert.Equal(t, 42, count, values)
	}
}

// TestTheOtherSideOfALinkWithWhatIsNotSeenIsSaved takes a sail from a sailor, and
// gives them one, as somebody who does not see one of the sailor's sails.
func TestTheOtherSideOfALinkWithWhatIsNotSeenIsSaved(t *testing.T) {
	l := crewed(t)
	_, err := save(l, l.Founder(), "sail", l.Sails["Jib"], map[string]any{"price": "900"})
	require.NoError(t, err)
	_, err = save(l, l.Member("Ruth"), "sailor", l.People["Ines"], map[string]any{"s_sails": []string{l.Sails["Spinnaker"]}})
	require.NoError(t, err)
	sails, _ := linkedTo(l, "sailor", "s_sails", l.People["Ines"])
	assert.ElementsMatch(t, []string{"Jib", "Spinnaker"}, sails)
}

// TestUndoingLinksLeavesThoseOfOthers links, lets somebody else link another, and undoes
// the first and does it again.
func TestUndoingLinksLeavesThoseOfOthers(t *testing.T) {
	l := crewed(t)
	genoa, seat := l.Sails["Genoa"], l.Founder()
	first, err := save(l, seat, "sail", genoa, map[string]any{"crew": []string{l.People["Ines"]}})
	require.NoError(t, err)
	raw, err := json.Marshal(first)
	require.NoError(t, err)
	var kept records.Write // as it is read from where it is kept
	require.NoError(t, json.Unmarshal(raw, &kept))
	_, err = save(l, seat, "sail", genoa, map[string]any{"crew": map[string]any{"added": []string{l.People["Ruth"]}}})
	require.NoError(t, err)
	for _, x := range []struct {
		forward bool
		now     []string
	}{{false, []string{"Ruth"}}, {true, []string{"Ines", "Ruth"}}} {
		_, err := l.Acts.Edit(t.Context(), l.App, seat, "test", func(u *act.Unit) (*records.Write, error) {
			return &kept, u.Road.Revert(t.Context(), seat, kept, x.forward)
		})
		require.NoError(t, err)
		now, _ := linkedTo(l, "sail", "crew", genoa)
		assert.ElementsMatch(t, x.now, now)
	}
}
