package sentence_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/blueprint"
	"pinegate/core/prop"
	"pinegate/core/sentence"
)

// grown gives an app with so many tables of twelve fields, two roles that can do
// something with each, and so many pages.
func grown(t testing.TB, tables, pages int) *blueprint.Blueprint {
	n := 0
	b := blueprint.New("Grown", func() string { n++; return fmt.Sprintf("new%d", n) })
	see := func(table int, p blueprint.Permission) blueprint.Rule {
		return blueprint.Rule{Table: fmt.Sprintf("t%d", table), See: p}
	}
	owners := blueprint.Role{ID: "r1", Name: "Owners"}
	crew := blueprint.Role{ID: "r2", Name: "Crew"}
	for i := range tables {
		id := fmt.Sprintf("t%d", i)
		t := blueprint.Table{ID: id, Key: id, Name: fmt.Sprintf("Table %d", i), Label: "name"}
		t.Fields = append(t.Fields, blueprint.Field{ID: id + "_name", Key: "name", Name: "Name", Type: blueprint.Text})
		for j := range 10 {
			f := blueprint.Field{ID: fmt.Sprintf("%s_f%d", id, j), Key: fmt.Sprintf("field_%d", j), Name: fmt.Sprintf("Field %d", j)}
			f.Type = blueprint.Number
			t.Fields = append(t.Fields, f)
		}
		if i > 0 {
			link := blueprint.Field{ID: id + "_link", Key: "link", Name: "Link", Type: blueprint.Link, Target: fmt.Sprintf("t%d", i-1)}
			t.Fields = append(t.Fields, link)
		}
		b.Tables = append(b.Tables, t)
		owners.Rules = append(owners.Rules, see(i, blueprint.Permission{Extent: blueprint.Where, Condition: "field_1 > 2 and field_2 < 9"}))
		crew.Rules = append(crew.Rules, see(i, blueprint.Permission{Extent: blueprint.AllRecords}))
	}
	b.Roles = append(b.Roles, owners, crew)
	for i := range pages {
		id, table := fmt.Sprintf("p%d", i), fmt.Sprintf("t%d", i%tables)
		list := &blueprint.RecordsBlock{BlockHead: blueprint.BlockHead{ID: id + "_l", Kind: "records"}, Table: table, Sort: table + "_f1"}
		list.Filter, list.Columns = "field_1 > 2", []string{table + "_name", table + "_f1"}
		form := &blueprint.FormBlock{BlockHead: blueprint.BlockHead{ID: id + "_f", Kind: "form"}, Table: table}
		form.Ask([]prop.Question{{Field: table + "_name", Required: true}})
		b.Pages = append(b.Pages, blueprint.Page{ID: id, Path: id, Name: fmt.Sprintf("Page %d", i), Audience: blueprint.SignedIn,
			Blocks: blueprint.Blocks{list, form}})
	}
	require.NoError(t, b.Validate())
	b.Freeze()
	return b
}

// TestTheScriptOfALargeAppIsSmall bounds what is sent of an app with 60 tables and
// 100 pages, in bytes.
func TestTheScriptOfALargeAppIsSmall(t *testing.T) {
	b := grown(t, 60, 100)
	for stop, open := range map[sentence.Stop]string{sentence.DataStop: "t1", sentence.PeopleStop: "r1", sentence.PagesStop: "p1"} {
		raw, err := json.Marshal(sentence.Script(b, stop, func(id string) bool { return id == open }))
		require.NoError(t, err)
		assert.Less(t, len(raw), 60_000, string(stop))
	}
}

func BenchmarkScriptOfALargeApp(b *testing.B) {
	app := grown(b, 60, 100)
	for _, stop := range []sentence.Stop{sentence.DataStop, sentence.PeopleStop, sentence.PagesStop} {
		open := map[sentence.Stop]string{sentence.DataStop: "t1", sentence.PeopleStop: "r1", sentence.PagesStop: "p1"}[stop]
		b.Run(string(stop), func(b *testing.B) {
			size := 0
			for b.Loop() {
				raw, err := json.Marshal(sentence.Script(app, stop, func(id string) bool { return id == open }))
				require.NoError(b, err)
				size = len(raw)
			}
			b.ReportMetric(float64(size), "bytes")
		})
	}
	b.Run("compare", func(b *testing.B) {
		for b.Loop() {
			sentence.Compare(app, app)
		}
	})
}
