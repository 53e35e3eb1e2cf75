package page_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act"
	"pinegate/app/act/acttest"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/records"
)

// todo is the loft with a checklist on the page about a sail, which made its tables by itself.
func todo(t *testing.T, changes ...string) *acttest.Loft {
	l := acttest.NewLoft(t, append([]string{block("one", "todo", "checklist", `,"title":"Ready, {{ name }}?"`)}, changes...)...)
	for i, step := range []string{"Look at the seams", "Wash it", "Fold it"} {
		l.Add("todo_s", map[string]any{"todo_sa": step, "todo_sb": fmt.Sprint(i * 3), "todo_sc": fmt.Sprint(3 - i)})
	}
	return l
}

func onPage(t *testing.T, l *acttest.Loft, seat *records.Seat, sail string) *page.View {
	t.Helper()
	v, err := page.Open(t.Context(), l.Road(), seat, "sail", l.Sails[sail])
	require.NoError(t, err)
	return v
}

func checklist(t *testing.T, l *acttest.Loft, seat *records.Seat, sail string) page.Checklist {
	t.Helper()
	blocks, err := onPage(t, l, seat, sail).Blocks(t.Context())
	require.NoError(t, err)
	for _, b := range blocks {
		if c, is := b.(*page.Checklist); is {
			return *c
		}
	}
	require.Fail(t, "there is no checklist")
	return page.Checklist{}
}

func begins(t *testing.T, l *acttest.Loft, seat *records.Seat, sail string, round int, gained bool) error {
	t.Helper()
	v := onPage(t, l, seat, sail)
	return l.Acts.EditMany(t.Context(), l.App, seat, func(u *act.Unit) ([]*records.Write, string, error) {
		return v.Begin(t.Context(), u.Road, "todo", round, gained)
	})
}

func ticks(t *testing.T, l *acttest.Loft, seat *records.Seat, sail string, item page.ChecklistItem, done bool) error {
	t.Helper()
	v := onPage(t, l, seat, sail)
	return l.Acts.EditMany(t.Context(), l.App, seat, func(u *act.Unit) ([]*records.Write, string, error) {
		w, sentence, err := v.Tick(t.Context(), u.Road, "todo", item.ID, done, item.Revision)
		if err != nil {
			return nil, "", err
		}
		return []*records.Write{w}, sentence, nil
	})
}

// items are those of a list in short.
func items(list []page.ChecklistItem) string {
	var out []string
	for _, x := range list {
		s := x.Text + " " + x.Due
		if x.Done {
			s += " by " + x.By
		}
		if x.Late {
			s += " late"
		}
		out = append(out, s)
	}
	return strings.Join(out, "; ")
}

// TestAChecklistIsMadeFromItsSteps begins one, ticks it off, begins another while the first stays, and takes over what
// the steps gained where that is asked for.
func TestAChecklistIsMadeFromItsSteps(t *testing.T) {
	l := todo(t)
	seat := l.Founder()
	got := checklist(t, l, seat, "Genoa")
	assert.Equal(t, page.Checklist{Head: got.Head, Title: "Ready, Genoa?", Items: []page.ChecklistItem{}, Ticks: true, Begins: true}, got)

	seat = l.Founder()
	seat.Clock = l.Member("Ines").Clock // 1 May 2026
	require.NoError(t, begins(t, l, seat, "Genoa", 0, false))
	got = checklist(t, l, seat, "Genoa")
	assert.Equal(t, "Fold it 2026-05-07; Wash it 2026-05-04; Look at the seams 2026-05-01", items(got.Items))
	assert.Equal(t, []any{1, true, false, 0}, []any{got.Round, got.Again, got.Begins, len(got.Gained)})
	assert.Empty(t, checklist(t, l, seat, "Jib").Items, "it is that of one record")

	require.NoError(t, ticks(t, l, seat, "Genoa", got.Items[1], true))
	got = checklist(t, l, seat, "Genoa")
	assert.Equal(t, "Fold it 2026-05-07; Wash it 2026-05-04 by Ann; Look at the seams 2026-05-01", items(got.Items))
	assert.Equal(t, "2026-05-01T12:00:00Z", got.Items[1].At)
	assert.ErrorIs(t, ticks(t, l, seat, "Genoa", page.ChecklistItem{ID: got.Items[1].ID, Revision: 1}, false), records.ErrChanged)
	assert.ErrorIs(t, ticks(t, l, seat, "Jib", got.Items[1], false), store.ErrNotFound, "it is on no list of that record")

	// other steps change nothing that was begun
	l.Add("todo_s", map[string]any{"todo_sa": "Label it", "todo_sc": "9"})
	got = checklist(t, l, seat, "Genoa")
	assert.Len(t, got.Items, 3)
	assert.Equal(t, []string{"Label it"}, got.Gained)
	require.NoError(t, begins(t, l, seat, "Genoa", 1, true))
	got = checklist(t, l, seat, "Genoa")
	assert.Len(t, got.Items, 4)
	assert.Empty(t, got.Gained)

	var p *words.Problem
	require.ErrorAs(t, begins(t, l, seat, "Genoa", 0, false), &p)
	assert.Equal(t, "checklist-begun", p.Code)
	require.NoError(t, begins(t, l, seat, "Genoa", 1, false))
	got = checklist(t, l, seat, "Genoa")
	assert.Equal(t, []any{2, 4, 1}, []any{got.Round, len(got.Items), len(got.Earlier)})
	assert.Contains(t, items(got.Earlier[0].Items), "Wash it 2026-05-04 by Ann", "the one before stays as it was")
	seat.Clock.Now = seat.Clock.Now.AddDate(0, 0, 5)
	assert.Equal(t, "Fold it 2026-05-07; Wash it 2026-05-04 late; Look at the seams 2026-05-01 late; Label it ",
		items(checklist(t, l, seat, "Genoa").Items))
}

// TestAChecklistKeepsToTheRules shows and ticks what the rules let, and writes down who it was in fields that they
// cannot set.
func TestAChecklistKeepsToTheRules(t *testing.T) {
	see := `{"kind":"set","of":"r.todo_i","values":{"see":{"extent":"where","condition":"sail.owner = me"}}}`
	l := todo(t, see)
	require.NoError(t, begins(t, l, l.Founder(), "Genoa", 0, false))
	ines := l.Member("Ines")
	got := checklist(t, l, ines, "Genoa")
	assert.Equal(t, []any{3, false, false, false}, []any{len(got.Items), got.Ticks, got.Begins, got.Again})
	assert.ErrorIs(t, ticks(t, l, ines, "Genoa", got.Items[0], true), records.ErrForbidden)
	assert.Error(t, begins(t, l, ines, "Genoa", 1, false))

	own := map[string]string{"extent": "where", "condition": "sail.owner = me"}
	require.NoError(t, apply(t, l, blueprint.Setting("r.todo_i", "change", own, "fixed", []string{"todo_id", "todo_ie"})))
	ines = l.Member("Ines")
	got = checklist(t, l, ines, "Genoa")
	assert.True(t, got.Ticks)
	require.NoError(t, ticks(t, l, ines, "Genoa", got.Items[0], true))
	got = checklist(t, l, ines, "Genoa")
	assert.Equal(t, "Ines", got.Items[0].By)
	require.NoError(t, ticks(t, l, ines, "Genoa", got.Items[0], false))
	got = checklist(t, l, ines, "Genoa")
	assert.Equal(t, []any{false, "", ""}, []any{got.Items[0].Done, got.Items[0].By, got.Items[0].At})

	all := map[string]string{"extent": "all"}
	require.NoError(t, apply(t, l, blueprint.Setting("r.todo_i", "add", all), blueprint.Setting("r.todo_s", "see", all)))
	assert.True(t, checklist(t, l, l.Member("Ines"), "Genoa").Again)
	for _, hidden := range []string{"todo_ih", "todo_ij"} { // the number of the list, and the step
		require.NoError(t, apply(t, l, blueprint.Setting("r.todo_i", "hidden", []string{hidden})))
		got = checklist(t, l, l.Member("Ines"), "Genoa")
		assert.Equal(t, []any{false, 0}, []any{got.Again, len(got.Gained)}, hidden)
		assert.ErrorIs(t, begins(t, l, l.Member("Ines"), "Genoa", 1, false), records.ErrForbidden, hidden)
	}
	require.NoError(t, apply(t, l, blueprint.Setting("r.todo_i", "hidden", []string{"todo_ic"})))
	got = checklist(t, l, l.Member("Ines"), "Genoa")
	assert.True(t, got.Hidden)
	assert.Empty(t, got.Items)
}

// TestTwoWhoBeginAtOnceMakeOneList lets one of them do so.
func TestTwoWhoBeginAtOnceMakeOneList(t *testing.T) {
	l := todo(t)
	seats := []*records.Seat{l.Founder(), l.Founder()}
	all := make(chan error)
	for _, seat := range seats {
		v := onPage(t, l, seat, "Genoa")
		go func() {
			all <- l.Acts.EditMany(t.Context(), l.App, seat, func(u *act.Unit) ([]*records.Write, string, error) {
				return v.Begin(t.Context(), u.Road, "todo", 0, false)
			})
		}()
	}
	first, second := <-all, <-all
	assert.True(t, (first == nil) != (second == nil), "%v, %v", first, second)
	assert.Len(t, checklist(t, l, l.Founder(), "Genoa").Items, 3)
}

// TestAListThatSomebodyDoesNotSeeKeepsItsNumber begins the next one after it.
func TestAListThatSomebodyDoesNotSeeKeepsItsNumber(t *testing.T) {
	all := `{"extent":"all"}`
	l := todo(t, `{"kind":"set","of":"r.todo_i","values":{"see":{"extent":"where","condition":"done"},"add":`+all+`}}`,
		`{"kind":"set","of":"r.todo_s","values":{"see":`+all+`}}`)
	require.NoError(t, begins(t, l, l.Founder(), "Genoa", 0, false))
	require.NoError(t, begins(t, l, l.Founder(), "Genoa", 1, false))
	ines := l.Member("Ines")
	require.Zero(t, checklist(t, l, ines, "Genoa").Round)
	require.NoError(t, begins(t, l, ines, "Genoa", 0, false))
	got := checklist(t, l, l.Founder(), "Genoa")
	assert.Equal(t, []int{3, 3, 2}, []int{got.Round, len(got.Items), len(got.Earlier)})
}

// TestAChecklistHasItsMost refuses more steps than it can have, and makes none of them.
func TestAChecklistHasItsMost(t *testing.T) {
	l := todo(t)
	seat := l.Founder()
	require.NoError(t, l.Acts.Do(t.Context(), func(u *act.Unit) error {
		var list []records.New
		for range blueprint.MostSteps - 2 {
			list = append(list, records.New{ID: uuid.NewString(), Values: map[string]expr.Value{"todo_sa": expr.TextOf("Another seam")}})
		}
		return u.Road.AddMany(t.Context(), seat, seat.Blueprint.Table("todo_s"), list)
	}))
	var p *words.Problem
	require.ErrorAs(t, begins(t, l, seat, "Genoa", 0, false), &p)
	assert.Equal(t, "checklist-many", p.Code)
	assert.Empty(t, checklist(t, l, seat, "Genoa").Items)
}
