package page_test

import (
	"encoding/json"
	"maps"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/act/acttest"
	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/blueprint/blueprinttest"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/store/records"
)

// asking is a loft whose form asks for a name, a cloth and an owner, of which the owner is
// narrowed by the name and the area is asked for one cloth only.
func asking(t *testing.T, changes ...string) *acttest.Loft {
	return acttest.NewLoft(t, append([]string{
		`{"kind":"set","of":"r.sail","values":{"add":{"extent":"all"},"change":{"extent":"all"},"fixed":null,"given":null}}`,
		`{"kind":"set","of":"r.sailor","values":{"see":{"extent":"all"}}}`,
		`{"kind":"set","of":"form","values":{"presets":null,"fields":[{"field":"name","required":true},{"field":"cl"},{"field":"area"},{"field":"owner"}]}}`,
	}, changes...)...)
}

// said sets what the question about a field says in a form.
func said(t *testing.T, l *acttest.Loft, block, field string, pairs ...any) {
	t.Helper()
	for x := range l.Blueprint().Blocks {
		if f, ok := x.(*blueprint.FormBlock); ok && f.ID == block {
			_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", blueprint.Setting(f.Question(field).ID, pairs...))
			require.NoError(t, err)
		}
	}
}

func apply(t *testing.T, l *acttest.Loft, changes ...blueprint.Change) error {
	_, err := l.Acts.Apply(t.Context(), l.App.ID, "Ann", changes...)
	return err
}

func use(t *testing.T, l *acttest.Loft, who, path, record, block string) page.Use {
	t.Helper()
	v, err := page.Open(t.Context(), l.Road(), l.Member(who), path, record)
	require.NoError(t, err)
	u, err := v.Use(block)
	require.NoError(t, err)
	return u
}

// take takes answers to questions about the form's own record.
func take(t *testing.T, u page.Use, values map[string]any) (records.Values, error) {
	t.Helper()
	taken, err := u.Take(t.Context(), page.Sent{Values: acttest.Values(t, values)})
	return taken.Values, err
}

func answers(t *testing.T, values map[string]any) form.Answers {
	return form.Answers(acttest.Values(t, values))
}

// parts gives the fields that are shown, in order of their names, and what is offered for the owner.
func parts(t *testing.T, u page.Use, values map[string]any, have ...string) (shown, offered []string, s page.FormState) {
	t.Helper()
	s, err := u.State(t.Context(), page.StateAsked{Answers: answers(t, values), Have: have})
	require.NoError(t, err)
	for q := range u.Block.Questions {
		part, there := s.Parts[q.ID]
		if !there {
			continue
		}
		shown = append(shown, q.Field)
		for _, o := range part.Options {
			offered = append(offered, o.Label)
		}
	}
	return shown, offered, s
}

// TestAFormFollowsWhatIsAnswered shows, offers and takes by the answers, as whoever looks sees.
func TestAFormFollowsWhatIsAnswered(t *testing.T) {
	l := asking(t)
	said(t, l, "form", "area", "when", `answers.cloth = "Laminate"`, "requiredWhen", `answers.cloth = "Laminate"`)
	said(t, l, "form", "owner", "narrow", `name = answers.name or answers.name = "Any"`)
	u := use(t, l, "Ines", "my-sails", "", "form")
	shown, offered, first := parts(t, u, map[string]any{"name": "Tomas"})
	assert.Equal(t, []string{"name", "cl", "owner"}, shown)
	assert.Equal(t, []string{"Tomas"}, offered)
	assert.Len(t, first.Questions, 3)
	shown, offered, then := parts(t, u, map[string]any{"name": "Any", "cl": "laminate"}, slices.Collect(maps.Keys(first.Parts))...)
	assert.Equal(t, []string{"name", "cl", "area", "owner"}, shown)
	assert.Equal(t, []string{"Ines", "Ruth", "Tomas"}, slices.Sorted(slices.Values(offered)))
	require.Len(t, then.Questions, 1, "what one has is not sent again")
	assert.Equal(t, "area", then.Questions[0].Column.ID)

	ines, tomas := l.People["Ines"], l.People["Tomas"]
	for _, x := range []struct {
		answers map[string]any
		wrong   map[string]string
	}{
		{map[string]any{"name": "Tomas", "owner": tomas}, nil},
		{map[string]any{"name": "Tomas", "owner": ines}, map[string]string{"owner": "answer-cleared"}},
		{map[string]any{"name": "Jib 3", "area": "4"}, map[string]string{"area": "not-asked-now"}},
		{map[string]any{"name": "Jib 3", "area": nil}, nil},
		{map[string]any{"name": "Jib 3", "cl": "laminate"}, map[string]string{"area": "read-missing"}},
		{map[string]any{"cl": "laminate", "price": "3"},
			map[string]string{"name": "read-missing", "area": "read-missing", "price": "not-asked"}},
	} {
		taken, err := take(t, u, x.answers)
		if x.wrong == nil {
			require.NoError(t, err, "%v", x.answers)
			_, kept := taken["area"]
			assert.False(t, kept, "what is hidden is not written")
			continue
		}
		var wrong records.FieldErrors
		require.ErrorAs(t, err, &wrong, "%v", x.answers)
		got := map[string]string{}
		for field, p := range wrong {
			got[field] = p.Code
		}
		assert.Equal(t, x.wrong, got, "%v", x.answers)
	}
}

// TestWhatIsNotAskedIsKept decides by what the record has where whoever looks is not asked, and
// leaves alone what was hidden before they answered.
func TestWhatIsNotAskedIsKept(t *testing.T) {
	l := asking(t, `{"kind":"set","of":"change","values":{"fields":[{"field":"name"},{"field":"cl"},{"field":"area"},{"field":"cut"}]}}`,
		`{"kind":"set","of":"r.sail","values":{"fixed":["cl"]}}`)
	said(t, l, "change", "area", "when", `answers.cloth = "Dacron"`)
	said(t, l, "change", "cut", "when", `answers.cloth = "Laminate"`)
	u := use(t, l, "Ines", "sail", l.Sails["Genoa"], "change")
	shown, _, _ := parts(t, u, map[string]any{})
	assert.Equal(t, []string{"name", "area"}, shown, "the cloth is known, though she may not set it")
	taken, err := take(t, u, map[string]any{"name": "Genoa II"})
	require.NoError(t, err)
	assert.Len(t, taken, 1, "neither the area nor the day on which it was cut is emptied")
	_, err = take(t, u, map[string]any{"cl": "laminate"})
	var wrong records.FieldErrors
	require.ErrorAs(t, err, &wrong)
	assert.Equal(t, "not-asked", wrong["cl"].Code)
}

// TestNarrowingOffersNothingThatIsNotSeen keeps to the rules, and so does what is searched for.
func TestNarrowingOffersNothingThatIsNotSeen(t *testing.T) {
	l := asking(t, `{"kind":"set","of":"r.sailor","values":{"see":{"extent":"where","condition":"this = me"}}}`)
	said(t, l, "form", "owner", "narrow", `answers.name <> "x"`)
	u := use(t, l, "Tomas", "my-sails", "", "form")
	_, offered, _ := parts(t, u, map[string]any{"name": "a"})
	assert.Equal(t, []string{"Tomas"}, offered)
	owner := u.Block.Question("owner").ID
	s, err := u.State(t.Context(), page.StateAsked{Answers: answers(t, map[string]any{"name": "a"}),
		Search: map[string]string{owner: "ines"}})
	require.NoError(t, err)
	assert.Empty(t, s.Parts[owner].Options)
}

// TestNarrowingNeverOffersWhatIsHidden: whatever the rule, the condition, the answers and what is
// searched for, what is offered is seen, and is what a list would show.
func TestNarrowingNeverOffersWhatIsHidden(t *testing.T) {
	l := asking(t)
	conditions := map[string]string{`answers.name <> "x"`: "true", `name <> answers.name`: `name <> "a"`, `member`: "member",
		`answers.name = "x" or CONTAINS(name, "e")`: `CONTAINS(name, "e")`, `true`: "true"}
	for _, rule := range []string{"this = me", "member", `name <> "Tomas"`, "false", "true"} {
		require.NoError(t, apply(t, l, blueprint.Permit("r", "sailor", "see", blueprinttest.Where(rule))))
		for condition, alike := range conditions {
			said(t, l, "form", "owner", "narrow", condition)
			for _, who := range []string{"Ines", "Tomas"} {
				u := use(t, l, who, "my-sails", "", "form")
				owner := u.Block.Question("owner").ID
				table := u.Seat.Blueprint.Table("sailor")
				where, err := expr.CheckCondition(alike, expr.Scope{Catalog: u.Seat.Catalog, Row: "sailor"})
				require.NoError(t, err)
				for _, search := range []string{"", "ines", "tomas", "e", "%", "nobody"} {
					s, err := u.State(t.Context(), page.StateAsked{Answers: answers(t, map[string]any{"name": "a"}),
						Search: map[string]string{owner: search}})
					require.NoError(t, err)
					seen, _, err := page.OptionsWhere(t.Context(), l.Road(), l.Member(who), table, search, where)
					require.NoError(t, err)
					assert.Equal(t, seen, append([]page.RecordOption{}, s.Parts[owner].Options...), "%s, %s, %s", rule, condition, who)
				}
			}
		}
	}
}

// TestWhatIsHiddenBecomesEmpty: of a record that is changed, and what is not sent stays.
func TestWhatIsHiddenBecomesEmpty(t *testing.T) {
	l := asking(t, `{"kind":"set","of":"change","values":{"fields":[{"field":"name"},{"field":"cl"},{"field":"area"}]}}`)
	said(t, l, "change", "area", "when", `answers.cloth = "Dacron"`)
	u := use(t, l, "Ines", "sail", l.Sails["Genoa"], "change")
	taken, err := take(t, u, map[string]any{"name": "Genoa II"})
	require.NoError(t, err)
	assert.Len(t, taken, 1, "the cloth is Dacron still, as it is known")
	taken, err = take(t, u, map[string]any{"cl": "laminate"})
	require.NoError(t, err)
	assert.Equal(t, json.RawMessage("null"), taken["area"])
}

// TestQuestionsStartWithWhatTheySay fills in what is known, which can be changed.
func TestQuestionsStartWithWhatTheySay(t *testing.T) {
	l := asking(t)
	said(t, l, "form", "owner", "start", "me")
	said(t, l, "form", "area", "start", "20 / 2")
	said(t, l, "form", "name", "words", "What is it called?", "example", "Genoa", "help", "As it is sewn in")
	got := blocks(t, l, l.Member("Ines"), "my-sails", "")["form"]
	at := map[string]map[string]any{}
	for _, q := range got["state"].(map[string]any)["questions"].([]any) {
		q := q.(map[string]any)
		at[q["column"].(map[string]any)["id"].(string)] = q
	}
	assert.Equal(t, []any{l.People["Ines"], "Ines"}, []any{at["owner"]["value"], at["owner"]["label"]})
	assert.Equal(t, "10", at["area"]["value"])
	name := at["name"]
	assert.Equal(t, []any{"What is it called?", "Genoa", "As it is sewn in"}, []any{name["words"], name["example"], name["help"]})
	assert.Equal(t, false, got["live"])
}

// TestWordsBetweenQuestionsComeWhenTheyAreShown does not send what is left out.
func TestWordsBetweenQuestionsComeWhenTheyAreShown(t *testing.T) {
	l := asking(t, `{"kind":"add","what":"block","into":"form","id":"note","values":{"kind":"text","text":"Sewn for {{ me.name }}","when":"answers.cloth = \"Laminate\""},"at":0}`)
	u := use(t, l, "Ines", "my-sails", "", "form")
	_, _, s := parts(t, u, map[string]any{"name": "a"})
	assert.Empty(t, s.Blocks)
	_, _, s = parts(t, u, map[string]any{"cl": "laminate"})
	require.Len(t, s.Blocks, 1)
	raw, err := json.Marshal(s.Blocks[0])
	require.NoError(t, err)
	assert.Contains(t, string(raw), "Sewn for Ines")
}

// TestWordsInAFormKnowTheRecordOfThePage decides by it, and by what is answered.
func TestWordsInAFormKnowTheRecordOfThePage(t *testing.T) {
	l := asking(t, `{"kind":"add","what":"block","into":"change","id":"note","values":{"kind":"text","text":"Careful","when":"name = \"Genoa\" and answers.cloth = \"Laminate\""}}`)
	for name, want := range map[string]int{"Genoa": 1, "Jib": 0} {
		u := use(t, l, "Ines", "sail", l.Sails[name], "change")
		_, _, s := parts(t, u, map[string]any{"cl": "laminate"})
		assert.Len(t, s.Blocks, want, name)
		_, _, s = parts(t, u, map[string]any{})
		assert.Empty(t, s.Blocks, name)
	}
}
