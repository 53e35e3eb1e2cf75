package page_test

import (
	"errors"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/core/expr"
	"pinegate/store/records"
)

// TestRecordsAreAddedTogetherAsOneByOne adds the same records in few statements and one by one: what
// is written, what is filled in and what is refused is the same.
func TestRecordsAreAddedTogetherAsOneByOne(t *testing.T) {
	l := acttest.NewLoft(t, append(repairs(),
		`{"kind":"add","what":"field","into":"rep","id":"no","values":{"name":"No","type":"auto number","prefix":"R-"}}`,
		`{"kind":"add","what":"field","into":"rep","id":"by","values":{"name":"By","type":"link","target":"sailor"}}`,
		`{"kind":"set","of":"r.rep","values":{"add":{"extent":"where","condition":"sail.owner = me and hours < 100"},"hidden":["amount"],
			"given":[{"field":"by","value":"me"}]}}`,
		`{"kind":"set","of":"r.sailor","values":{"see":{"extent":"where","condition":"this = me"}}}`)...)
	seat := l.Member("Ines")
	table := seat.Blueprint.Table("rep")
	type values = map[string]any
	one := values{"what": "A", "hours": "1"}
	mine, others := expr.RecordOf(l.Sails["Genoa"]), expr.RecordOf(l.Sails["Spinnaker"])
	for name, x := range map[string]struct {
		entered []values
		of      expr.Value
		wrong   string
	}{
		"all":                       {[]values{one, {"what": "B", "hours": "2", "per": "9"}, {"what": "C", "hours": "3"}}, mine, ""},
		"another's":                 {[]values{one, {"what": "B", "hours": "2"}}, others, "forbidden"},
		"one against the condition": {[]values{one, {"what": "B", "hours": "200"}}, mine, "forbidden"},
		"one without what it needs": {[]values{one, {"hours": "2"}}, mine, "1/what read-missing"},
		"one with a wrong number":   {[]values{one, {"what": "B", "hours": "many"}}, mine, "1/hours read-number"},
		"a field that is not there": {[]values{{"what": "A", "none": "x"}, {"what": "B", "hours": "1"}}, mine, "0/none no-such-field"},
		"a field that is hidden":    {[]values{one, {"what": "B", "amount": "1"}}, mine, "1/amount no-such-field"},
		"a link to what is hidden": {[]values{{"what": "A", "hours": "1", "of": l.Sails["Genoa"]},
			{"what": "B", "of": l.Sails["Spinnaker"]}}, expr.Value{}, "1/of read-record"},
	} {
		add := func(how func(records.Road, []records.Fresh) ([]*records.Write, error)) (string, []string) {
			before := l.Count(l.Founder(), "rep")
			var list []records.Fresh
			for _, v := range x.entered {
				presets := map[string]expr.Value{}
				if !x.of.IsEmpty() {
					presets["of"] = x.of
				}
				list = append(list, records.Fresh{Entered: acttest.Values(t, v), Presets: presets})
			}
			var said []string
			err := l.Acts.EditMany(t.Context(), l.App, seat, func(u *act.Unit) ([]*records.Write, string, error) {
				writes, err := how(u.Road, list)
				for i := 0; i < len(writes) && err == nil; i++ {
					w := writes[i]
					said = append(said, fmt.Sprint(w.After["what"], w.After["hours"], w.After["per"], w.After["of"], w.After["by"]))
				}
				return writes, "test", err
			})
			if err != nil {
				assert.Equal(t, before, l.Count(l.Founder(), "rep"), name)
				var wrong records.FieldErrors
				if errors.As(err, &wrong) {
					require.Len(t, wrong, 1, name)
					for at, p := range wrong {
						return at + " " + p.Code, nil
					}
				}
				require.ErrorIs(t, err, records.ErrForbidden, name)
				return "forbidden", nil
			}
			assert.Equal(t, before+len(list), l.Count(l.Founder(), "rep"), name)
			return "", said
		}
		place := func(i int) string { return fmt.Sprint(i, "/") }
		wrong, together := add(func(r records.Road, list []records.Fresh) ([]*records.Write, error) {
			return r.AddAll(t.Context(), seat, table, list, place)
		})
		other, each := add(func(r records.Road, list []records.Fresh) (out []*records.Write, err error) {
			for i := 0; i < len(list) && err == nil; i++ {
				var w *records.Write
				w, err = r.Add(t.Context(), seat, table, list[i].Entered, list[i].Presets)
				out, err = append(out, w), records.At(place(i), err)
			}
			return out, err
		})
		assert.Equal(t, x.wrong, wrong, name)
		assert.Equal(t, other, wrong, name)
		assert.Equal(t, each, together, name)
	}
	var numbers []string
	require.NoError(t, l.Store.DB.Raw(fmt.Sprintf(`SELECT no FROM "%s".repairs ORDER BY id`, seat.Schema)).Scan(&numbers).Error)
	assert.Len(t, numbers, 6)
	seen := map[string]bool{}
	for _, n := range numbers {
		assert.False(t, seen[n], "%s is given twice", n)
		seen[n] = true
	}
	history := 0
	sql := fmt.Sprintf(`SELECT count(*) FROM "%s"._history WHERE table_id = 'rep'`, seat.Schema)
	require.NoError(t, l.Store.DB.Raw(sql).Scan(&history).Error)
	assert.Equal(t, 6, history)
}
