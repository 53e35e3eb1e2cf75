package server_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/sentence"
	"pinegate/server/servertest"
	"pinegate/store"
)

// said is a script as the interface gets it.
type said struct{ Lines []sentence.Line }

func (s said) group(id string) *sentence.Line {
	for i := range s.Lines {
		if s.Lines[i].ID == id {
			return &s.Lines[i]
		}
	}
	return nil
}

// TestTheScriptGivesTheLinesOfOpenGroups reads the sentences of the demo, at first only
// the headings.
func TestTheScriptGivesTheLinesOfOpenGroups(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	at := "/api/apps/" + s.App.ID + "/script/"
	for stop, group := range map[string]string{"data": "boat", "people": "r_own", "pages": "p_boats"} {
		var closed, open, whole said
		f.Read(at+stop, &closed)
		f.Read(at+stop+"?open="+group+",nothing", &open)
		f.Read(at+stop+"/whole", &whole)
		require.NotNil(t, closed.group(group), stop)
		assert.Empty(t, closed.group(group).Lines, "%s: a closed group has no lines", stop)
		require.NotNil(t, open.group(group), stop)
		assert.NotEmpty(t, open.group(group).Lines, stop)
		assert.Len(t, whole.Lines, len(closed.Lines), stop)
		assert.Equal(t, open.group(group), whole.group(group), "%s: the whole says what its parts say", stop)
	}
	status, answer := f.Do(http.MethodGet, at+"elsewhere", nil)
	assert.Equal(t, http.StatusUnprocessableEntity, status, answer)
}

// settingOf reads a setting, as it is with what was entered so far.
func settingOf(t *testing.T, c *servertest.Client, app string, what map[string]any) (s sentence.Setting) {
	t.Helper()
	require.NoError(t, json.Unmarshal([]byte(c.Write(http.MethodPost, "/api/apps/"+app+"/setting", what)), &s))
	return s
}

func slotNames(s sentence.Setting) []string {
	var out []string
	for _, e := range s.Slots {
		out = append(out, e.Name)
	}
	return out
}

// TestASettingFollowsWhatIsEntered asks for a type, and then as if another had been
// chosen, without that anything changes.
func TestASettingFollowsWhatIsEntered(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	type_ := map[string]any{"of": "boat_note", "name": "type"}
	as := func(values map[string]any) sentence.Setting {
		out := map[string]any{"values": values}
		for k, v := range type_ {
			out[k] = v
		}
		return settingOf(t, f, s.App.ID, out)
	}
	assert.NotContains(t, slotNames(settingOf(t, f, s.App.ID, type_)), "target")
	assert.Contains(t, slotNames(as(map[string]any{"type": "link"})), "target", "a link asks to what")
	assert.Contains(t, slotNames(as(map[string]any{"type": "choice"})), "list")
	assert.NotContains(t, slotNames(settingOf(t, f, s.App.ID, type_)), "target", "nothing was changed")

	for name, wrong := range map[string]map[string]any{
		"no such thing":   {"of": "gone", "name": "type"},
		"no such setting": {"of": "boat_note", "name": "gone"},
		"no such kind":    {"add": map[string]any{"what": "planet"}},
	} {
		status, answer := f.Do(http.MethodPost, "/api/apps/"+s.App.ID+"/setting", wrong)
		assert.Contains(t, []int{http.StatusNotFound, http.StatusUnprocessableEntity}, status, "%s: %s", name, answer)
	}
}

// TestWhatIsAddedIsAskedFor asks for what there is to say of new things.
func TestWhatIsAddedIsAskedFor(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	adding := func(what, into string, values map[string]any) sentence.Setting {
		return settingOf(t, f, s.App.ID, map[string]any{"add": map[string]any{"what": what, "into": into}, "values": values})
	}
	assert.Contains(t, slotNames(adding("table", "", nil)), "fields", "a table is asked for with its fields")
	assert.Contains(t, slotNames(adding("role", "", nil)), "people")
	kinds := adding("block", "p_boats", nil)
	require.Len(t, kinds.Slots, 1, "of a block its kind is asked for first")
	assert.Equal(t, "kind", kinds.Slots[0].Name)
	assert.Contains(t, slotNames(adding("block", "p_boats", map[string]any{"kind": "records"})), "table")
	assert.NotContains(t, slotNames(adding("block", "p_boats", map[string]any{"kind": "text"})), "table")
	status, _ := f.Do(http.MethodPost, "/api/apps/"+s.App.ID+"/setting",
		map[string]any{"add": map[string]any{"what": "block", "into": "gone"}})
	assert.Equal(t, http.StatusNotFound, status)
}

// TestClausesAndMergesAreOfTheirThing asks what else can be said, and into what a choice
// can be merged.
func TestClausesAndMergesAreOfTheirThing(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	app := "/api/apps/" + s.App.ID
	var clauses struct{ Clauses []sentence.Clause }
	f.Read(app+"/clauses?of=boat_note", &clauses)
	var names []string
	for _, c := range clauses.Clauses {
		names = append(names, c.Name)
	}
	assert.Contains(t, names, "required")
	var b struct {
		Lists []struct {
			ID      string
			Choices []struct{ ID, Label string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(blueprintOf(t, s)), &b))
	require.NotEmpty(t, b.Lists)
	list := b.Lists[0]
	var merges struct{ Choices []sentence.Option }
	f.Read(app+"/merges?of="+url.QueryEscape(list.Choices[0].ID), &merges)
	assert.Len(t, merges.Choices, len(list.Choices)-1, "a choice is not merged into itself")
	for _, path := range []string{"/clauses?of=gone", "/merges?of=gone"} {
		status, _ := f.Do(http.MethodGet, app+path, nil)
		assert.Equal(t, http.StatusNotFound, status, path)
	}
}

func blueprintOf(t *testing.T, s *servertest.Site) string {
	t.Helper()
	var document string
	require.NoError(t, s.Store.DB.Raw("SELECT blueprint::text FROM revisions WHERE app_id = ? ORDER BY number DESC LIMIT 1",
		s.App.ID).Scan(&document).Error)
	return document
}

// TestRecordsAreCounted counts what stands beside the names of tables.
func TestRecordsAreCounted(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	var counts struct {
		Counts map[string]int
		Most   int
	}
	s.Founder(t).Read("/api/apps/"+s.App.ID+"/counts", &counts)
	assert.Equal(t, 60, counts.Counts["boat"])
	assert.Equal(t, 10_000, counts.Most)
}

// verdict is what is told of an expression that is being written.
type verdict struct {
	Error, Type string
	Plain       any
	Start, End  int
	Names       []struct{ Name, Kind string }
	Results     []map[string]any
}

// TestExpressionsAreJudgedAsTheyAreWritten checks some, with their results for the first
// records, as the founder and as somebody who sees less.
func TestExpressionsAreJudgedAsTheyAreWritten(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	as, _, _ := asInes(t, s)
	judge := func(source, want, as string, scope map[string]any) (v verdict) {
		scope["want"] = want
		require.NoError(t, json.Unmarshal([]byte(f.Write(http.MethodPost, "/api/apps/"+s.App.ID+"/expression",
			map[string]any{"source": source, "scope": scope, "as": as})), &v))
		return v
	}
	boat := func() map[string]any { return map[string]any{"row": "boat"} }

	v := judge("length * 2", "", "", boat())
	assert.Equal(t, "a number", v.Type)
	assert.Len(t, v.Results, 3)
	v = judge("lenght * 2", "", "", boat())
	assert.Contains(t, v.Error, "length")
	assert.Equal(t, []int{0, 6}, []int{v.Start, v.End}, "it says where")
	assert.Empty(t, v.Results)
	v = judge("length > 10", "condition", "", boat())
	assert.Empty(t, v.Error)
	assert.NotEmpty(t, v.Plain, "a condition is told in words")
	v = judge("length", "condition", "", boat())
	assert.NotEmpty(t, v.Error, "a number is no condition")
	v = judge("Hello {{ name", "template", "", boat())
	assert.NotEmpty(t, v.Error)
	v = judge("", "condition", "", boat())
	assert.Empty(t, v.Error, "nothing is nothing wrong")

	var names []string
	for _, n := range judge("", "", "", map[string]any{"row": "boat", "me": "own", "page": "ord"}).Names {
		names = append(names, n.Name)
	}
	assert.Subset(t, names, []string{"length", "owner.name", "me", "me.name", "page.record"})
	hers := judge("name", "", as, boat())
	assert.Len(t, hers.Results, 2, "with the eyes of an owner there are her boats")

	status, answer := f.Do(http.MethodPost, "/api/apps/"+s.App.ID+"/expression",
		map[string]any{"source": strings.Repeat("1+", 11_000) + "1", "scope": boat()})
	assert.Equal(t, http.StatusUnprocessableEntity, status, answer)
}

// TestChangesAreRefusedWhole sends two changes of which the second is wrong.
func TestChangesAreRefusedWhole(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	before := blueprintOf(t, s)
	for name, wrong := range map[string]map[string]any{
		"no such thing":         set("gone", "name", "x"),
		"no such setting":       set("boat_note", "colour", "red"),
		"a wrong type of value": set("boat_note", "required", "perhaps"),
		"a name that is taken":  set("boat_note", "name", "Name"),
		"no such kind":          {"kind": "explode", "of": "boat"},
	} {
		status, answer := f.Do(http.MethodPost, "/api/apps/"+s.App.ID+"/changes",
			map[string]any{"changes": []any{set("boat", "name", "Vessels"), wrong}})
		assert.Equal(t, http.StatusUnprocessableEntity, status, "%s: %s", name, answer)
		assert.Equal(t, before, blueprintOf(t, s), name)
	}
}

// TestEverythingASentenceNamesCanBeAskedFor walks all sentences of the demo, as somebody
// who may only look.
func TestEverythingASentenceNamesCanBeAskedFor(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	viewer := member(t, s, "vera@team.example", store.Viewer)
	asks := 0
	var walk func(lines []sentence.Line)
	walk = func(lines []sentence.Line) {
		for _, l := range lines {
			for _, p := range l.Parts {
				if p.Set == "" {
					continue
				}
				setting := settingOf(t, viewer, s.App.ID, map[string]any{"of": l.Of, "name": p.Set})
				assert.NotEmpty(t, setting.Slots, fmt.Sprint(l.Of, " ", p.Set))
				asks++
			}
			walk(l.Lines)
		}
	}
	for _, stop := range []string{"data", "people", "pages"} {
		var whole said
		viewer.Read("/api/apps/"+s.App.ID+"/script/"+stop+"/whole", &whole)
		walk(whole.Lines)
	}
	assert.Greater(t, asks, 100)
}
