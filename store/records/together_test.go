package records_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act/acttest"
	"pinegate/store/apps"
	"pinegate/store/records"
	"pinegate/store/storetest"
)

// numbered gives sails a number and a default.
const (
	numbered = `{"kind":"add","what":"field","into":"sail","id":"no","values":{"name":"No","type":"auto number","prefix":"S-","width":4}}`
	usual    = `{"kind":"set","of":"area","values":{"default":"4 * 5"}}`
)

// mixed are writes of every kind that can be made together.
func mixed(t *testing.T, l *acttest.Loft) []records.Edit {
	values := func(v map[string]any) records.Values { return acttest.Values(t, v) }
	return []records.Edit{
		{Values: values(map[string]any{"name": "Drifter", "price": "12.50"}),
			Texts: map[string]string{"cl": "laminate", "owner": " ruth "}},
		{Record: l.Sails["Genoa"], Revision: 1, Texts: map[string]string{"area": "1 250.5", "owner": "Ruth"}},
		{Record: l.Sails["Jib"], Revision: 1, Delete: true},
		{Values: values(map[string]any{"name": "Blade", "area": nil})},
		{Record: l.Sails["Spinnaker"], Revision: 1, Values: values(map[string]any{"owner": nil, "name": "“Kite”, ö \\ \""})},
		{Texts: map[string]string{"name": "Storm", "cut": "3 May 2026"}},
	}
}

// state gives the records of the sails with what was written to them, without what
// differs from run to run, such as the numbers of the three that the loft begins with.
func state(t *testing.T, l *acttest.Loft) (rows []string, history []string) {
	schema := apps.SchemaName(l.App, apps.Draft)
	require.NoError(t, l.Store.DB.Raw(`SELECT to_jsonb(s)::jsonb - 'id' - CASE WHEN no < 'S-0003' THEN 'no' ELSE '' END - 'owner' - 'created_at' - 'changed_at' - 'deleted_at'
		|| jsonb_build_object('gone', deleted_at IS NOT NULL, 'owner', (SELECT name FROM `+schema+`.sailors o WHERE o.id = s.owner))
		FROM `+schema+`.sails s ORDER BY name`).Scan(&rows).Error)
	require.NoError(t, l.Store.DB.Raw(`SELECT concat_ws(' ', table_id, made_by, NULLIF(before, 'null') - 'owner' - 'no', NULLIF(after, 'null') - 'owner', jsonb_typeof(before), jsonb_typeof(before->'owner'), jsonb_typeof(after), jsonb_typeof(after->'owner'))
		FROM `+schema+`._history WHERE table_id = 'sail' ORDER BY id OFFSET 3`).Scan(&history).Error)
	return rows, history
}

// TestWritesTogetherAreThoseOneByOne makes the same writes in one go and in threes,
// which are too few for that.
func TestWritesTogetherAreThoseOneByOne(t *testing.T) {
	one, many := acttest.NewLoft(t, numbered, usual), acttest.NewLoft(t, numbered, usual)
	edits := mixed(t, one)
	require.NoError(t, bulk(one, one.Founder(), edits[:3]...))
	require.NoError(t, bulk(one, one.Founder(), edits[3:]...))
	require.NoError(t, bulk(many, many.Founder(), mixed(t, many)...))
	wantRows, wantHistory := state(t, one)
	rows, history := state(t, many)
	assert.Equal(t, wantRows, rows)
	assert.Equal(t, wantHistory, history)
	assert.Contains(t, fmt.Sprint(rows), `"area": 20`, "a default is filled in")

	_, err := many.Acts.Undo(t.Context(), many.App.ID, "Ann")
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"Genoa", "Jib", "Spinnaker"}, names(many, many.Founder(), "sail"))
}

// TestManyWritesTakeFewStatements changes as many records as may be at once. One by
// one that takes some thirty thousand statements.
func TestManyWritesTakeFewStatements(t *testing.T) {
	l := acttest.NewLoft(t)
	seat := l.Founder()
	var edits []records.Edit
	for i := range records.MostEdits {
		edits = append(edits, records.Edit{Texts: map[string]string{"name": fmt.Sprintf("Sail %d", i), "owner": "Ruth", "cl": "dacron"}})
	}
	before := storetest.Statements(l.Store)
	began := time.Now()
	require.NoError(t, bulk(l, seat, edits...))
	n := storetest.Statements(l.Store) - before
	t.Logf("%d records in %s and %d statements", len(edits), time.Since(began).Round(time.Millisecond), n)
	assert.Less(t, n, int64(20))
	assert.Equal(t, records.MostEdits+3, l.Count(seat, "sail"))
}
