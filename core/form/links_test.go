package form_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"pinegate/core/blueprint"
	"pinegate/core/form"
)

func linkID(n int) string { return fmt.Sprintf("01a20887-9f15-75eb-b932-%012d", n) }

func TestAcceptLinks(t *testing.T) {
	b, f := &blueprint.Blueprint{}, &blueprint.Field{Name: "Boats", Type: blueprint.Links, Target: "boat"}
	one, two := linkID(1), linkID(2)
	for _, x := range []struct {
		entered string
		edit    form.LinksEdit
		wrong   string
	}{
		{`null`, form.LinksEdit{Whole: true}, ""},
		{`[]`, form.LinksEdit{Whole: true}, ""},
		{`["` + one + `","` + two + `","` + one + `"]`, form.LinksEdit{Whole: true, Added: []string{one, two}}, ""},
		{`{}`, form.LinksEdit{}, ""},
		{`{"added":["` + one + `"],"removed":["` + two + `"]}`, form.LinksEdit{Added: []string{one}, Removed: []string{two}}, ""},
		{`"` + one + `"`, form.LinksEdit{Whole: true, Added: []string{one}}, ""},
		{`{"removed":null}`, form.LinksEdit{}, ""},
		{`{"added":["x"]}`, form.LinksEdit{}, "read-choice"},
		{`{"kept":[]}`, form.LinksEdit{}, "read-kind"},
		{`["' OR true --"]`, form.LinksEdit{Whole: true}, "read-choice"},
		{`true`, form.LinksEdit{Whole: true}, "read-kind"},
	} {
		edit, wrong := form.AcceptLinks(b, f, json.RawMessage(x.entered))
		if x.wrong == "" {
			require.Nil(t, wrong, x.entered)
			assert.Equal(t, x.edit, edit, x.entered)
			continue
		}
		require.NotNil(t, wrong, x.entered)
		assert.Equal(t, x.wrong, wrong.Code, x.entered)
	}
}

// TestAnEditOfLinks holds what an edit does: what is not seen stays, what is added is
// there once, and nothing else comes or goes.
func TestAnEditOfLinks(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		some := rapid.SliceOfDistinct(rapid.IntRange(1, 12), func(n int) int { return n })
		list := func(label string) (out []string) {
			for _, n := range some.Draw(t, label) {
				out = append(out, linkID(n))
			}
			return out
		}
		had, hidden := list("had"), list("hidden")
		e := form.LinksEdit{Whole: rapid.Bool().Draw(t, "whole"), Added: list("added")}
		if !e.Whole {
			e.Removed = list("removed")
		}
		sees := func(id string) bool { return !slices.Contains(hidden, id) }
		now := e.On(had, sees)
		for n := range 13 {
			id := linkID(n)
			was, added, removed := slices.Contains(had, id), slices.Contains(e.Added, id), slices.Contains(e.Removed, id)
			wanted := added || was && (!sees(id) || !removed && !e.Whole)
			times := 0
			for _, x := range now {
				if x == id {
					times++
				}
			}
			if wanted != (times == 1) || times > 1 {
				t.Fatalf("%s: %d times in %v after %+v on %v, hidden %v", id, times, now, e, had, hidden)
			}
		}
	})
}
