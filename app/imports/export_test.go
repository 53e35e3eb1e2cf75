package imports_test

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/app/imports"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/store/apps"
	"pinegate/store/records"
)

// yardChanges make boats with owners and crews.
func yardChanges() []blueprint.Change {
	add := func(table, id, name string, t blueprint.FieldType) *blueprint.AddThing {
		return blueprint.Adding("field", table, id, "name", name, "type", t)
	}
	kind := add("boat", "kind", "Kind", blueprint.Choose)
	kind.Values.Put("list", "kinds")
	owner, crew := add("boat", "owner", "Owner", blueprint.Link), add("boat", "crew", "Crew", blueprint.Links)
	owner.Values.Put("target", "own")
	crew.Values.Put("target", "own")
	return []blueprint.Change{blueprint.Adding("list", "", "kinds", "name", "Kinds", "choices", "Yacht\nDinghy", "ids",
		[]string{"k1", "k2"}),
		blueprint.AddingTable("own", "Owners", "o_name"), add("own", "mail", "Mail", blueprint.Email),
		add("own", "since", "Since", blueprint.Date), add("own", "note", "Note", blueprint.LongText),
		blueprint.AddingTable("boat", "Boats", "b_name"), owner, crew, kind, add("boat", "length", "Length", blueprint.Number),
		add("boat", "sold", "Sold", blueprint.YesNo), add("boat", "seen", "Seen", blueprint.TimeStamp)}
}

// TestAnExportCanBeBroughtAgain exports random records in each format and
// brings them into another app: the same records and links are there.
func TestAnExportCanBeBroughtAgain(t *testing.T) {
	h := newHarbour(t)
	app, err := h.acts.Apply(t.Context(), h.app.ID, "Ann", yardChanges()...)
	require.NoError(t, err)
	h.app = app
	rapid.Check(t, func(rt *rapid.T) {
		h.clear(t)
		h.randomYard(t, rt)
		owners, boats := h.rows("Owners"), h.rows("Boats")
		kind := rapid.SampledFrom([]imports.Kind{imports.CSV, imports.XLSX, imports.JSON}).Draw(rt, "kind")
		files := h.export(t, kind)
		other := *h
		builder := h.app.WorkspaceID
		other.app, err = h.a.Create(t.Context(), builder, "Ann", blueprint.New("Again", apps.NewID))
		require.NoError(t, err)
		var uploads []string
		for _, name := range slices.Sorted(mapKeys(files)) {
			uploads = append(uploads, other.upload(name, files[name])...)
		}
		p, err := h.in.Propose(t.Context(), other.app, uploads)
		require.NoError(t, err)
		status := other.run(uploads, p)
		require.Equal(rt, "done", status.Status, status.Message)
		require.Zero(rt, status.Aside)
		sameRows(rt, owners, other.rows("Owners"))
		sameRows(rt, boats, other.rows("Boats"))
		require.NoError(t, h.a.Remove(t.Context(), other.app))
	})
}

func mapKeys(m map[string]string) func(func(string) bool) {
	return func(yield func(string) bool) {
		for k := range m {
			if !yield(k) {
				return
			}
		}
	}
}

// sameRows compares what both have, by the names of fields, as texts.
func sameRows(t *rapid.T, want, got []map[string]any) {
	require.Len(t, got, len(want))
	for i := range want {
		for name, v := range want[i] {
			text := fmt.Sprint(v)
			if v == nil || v == "" {
				text = "<nil>"
			}
			other := fmt.Sprint(got[i][name])
			if got[i][name] == nil || other == "" {
				other = "<nil>"
			}
			require.Equal(t, text, other, "row %d, %s", i, name)
		}
	}
}

func (h *harbour) clear(t *testing.T) {
	for _, table := range []string{"boats", "owners"} {
		require.NoError(t, h.s.DB.Exec(fmt.Sprintf("DELETE FROM %s.%s", query.Quote(apps.SchemaName(h.app, apps.Draft)), table)).Error)
	}
}

func (h *harbour) randomYard(t *testing.T, rt *rapid.T) {
	b, err := h.a.Blueprint(t.Context(), h.app, apps.Draft)
	require.NoError(t, err)
	seat := apps.FounderSeat(h.app, apps.Draft, b, "Ann")
	var owners, boats []records.New
	text := rapid.SampledFrom([]string{"plain", "with, comma", `with "quotes"`, "two\nlines", "Ünïcode ß", "= not a formula",
		"semi; colon"})
	for i := range 12 {
		id := uuid.Must(uuid.NewV7()).String()
		v := map[string]expr.Value{"o_name": expr.TextOf(fmt.Sprintf("Owner %c %s", 'A'+i,
			rapid.SampledFrom([]string{"Holm", "de Voss", "O'Neil"}).Draw(rt, "name"))),
			"mail":  expr.TextOf(fmt.Sprintf("o%d@sail.example", i)),
			"since": expr.DateOf(time.Date(1990+i*3, time.Month(1+i), 13+i, 0, 0, 0, 0, time.UTC).Format(time.DateOnly))}
		if rapid.Bool().Draw(rt, "noted") {
			v["note"] = expr.TextOf(text.Draw(rt, "note"))
		}
		owners = append(owners, records.New{ID: id, Values: v})
	}
	for i := range 25 {
		v := map[string]expr.Value{"b_name": expr.TextOf(fmt.Sprintf("Boat %d %s", i,
			strings.ReplaceAll(text.Draw(rt, "boat"), "\n", " "))), "kind": expr.ChoiceOf([]string{"k1", "k2"}[i%2]),
			"sold":   expr.YesNoOf(i%3 == 0),
			"length": expr.NumberOf(decimal.New(rapid.Int64Range(-99999, 99999).Draw(rt, "length"), int32(-i%4))),
			"seen":   expr.TimeOf(time.Date(2024, 1, 1+i, i%24, i*2, i, 0, time.UTC)),
			"owner":  expr.RecordOf(owners[rapid.IntRange(0, 11).Draw(rt, "owner")].ID)}
		var crew []expr.Value
		for _, n := range rapid.SliceOfNDistinct(rapid.IntRange(0, 11), 1, 3, rapid.ID[int]).Draw(rt, "crew") {
			crew = append(crew, expr.RecordOf(owners[n].ID))
		}
		v["crew"] = expr.ListValue(crew)
		boats = append(boats, records.New{ID: uuid.Must(uuid.NewV7()).String(), Values: v})
	}
	require.NoError(t, records.On(h.s.DB).AddMany(t.Context(), seat, b.Table("own"), owners))
	require.NoError(t, records.On(h.s.DB).AddMany(t.Context(), seat, b.Table("boat"), boats))
}

func (h *harbour) export(t *testing.T, kind imports.Kind) map[string]string {
	b, err := h.a.Blueprint(t.Context(), h.app, apps.Draft)
	require.NoError(t, err)
	seat := apps.FounderSeat(h.app, apps.Draft, b, "Ann")
	var lists []query.Selection
	for i := range b.Tables {
		l := query.Selection{Table: &b.Tables[i]}
		for _, f := range b.Tables[i].Fields {
			l.Columns = append(l.Columns, f.ID)
		}
		lists = append(lists, l)
	}
	if kind != imports.CSV {
		var out bytes.Buffer
		require.NoError(t, imports.Export(t.Context(), records.On(h.s.DB), seat, kind, lists, &out))
		return map[string]string{"yard." + string(kind): out.String()}
	}
	files := map[string]string{}
	for _, l := range lists {
		var out bytes.Buffer
		require.NoError(t, imports.Export(t.Context(), records.On(h.s.DB), seat, kind, []query.Selection{l}, &out))
		files[l.Table.Name+".csv"] = out.String()
	}
	return files
}
