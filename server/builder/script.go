package builder

import (
	"context"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/core/blueprint"
	"pinegate/core/sentence"
	"pinegate/store"
	"pinegate/store/apps"
)

// Script is the column of sentences of a stop of the trail.
type Script struct {
	Lines []sentence.Line `json:"lines"`
}

// SettingAsked says which setting is meant: one of a thing, by its name, or those
// of a thing that is being added. Values are what was entered so far.
type SettingAsked struct {
	Of     string           `json:"of,omitempty"`
	Name   string           `json:"name,omitempty"`
	Add    *sentence.Adds   `json:"add,omitempty"`
	Values blueprint.Values `json:"values,omitempty"`
}

// ClauseList lists what else can be said of a thing.
type ClauseList struct {
	Clauses []sentence.Clause `json:"clauses"`
}

// MergeList lists the choices into which one can be merged.
type MergeList struct {
	Choices []sentence.Option `json:"choices"`
}

// CountList says how many records the tables have in the draft; a table that has
// more than so many counts as that many and one.
type CountList struct {
	Counts map[string]int `json:"counts"`
	Most   int            `json:"most"`
}

// mostCounted is to how many records a table is counted for its heading.
const mostCounted = 10_000

func (h *Handlers) registerScript(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/script/{stop}", "The sentences of a stop of the trail",
		func(ctx context.Context, r request, in struct {
			Own
			Stop string `path:"stop" enum:"data,people,pages,workflows"`
			Open string `query:"open" doc:"Ids of the groups whose lines are wanted, with commas between"`
		}) (*output[Script], error) {
			b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
			if err != nil {
				return nil, err
			}
			open := strings.Split(in.Open, ",")
			return out(Script{sentence.Script(b, sentence.Stop(in.Stop), func(id string) bool { return slices.Contains(open, id) })}), nil
		})
	appRoute(h, api, store.Viewer, http.MethodGet, "/script/{stop}/whole", "All sentences of a stop, for printing and searching",
		func(ctx context.Context, r request, in struct {
			Own
			Stop string `path:"stop" enum:"data,people,pages,workflows"`
		}) (*output[Script], error) {
			b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
			if err != nil {
				return nil, err
			}
			return out(Script{sentence.Script(b, sentence.Stop(in.Stop), func(string) bool { return true })}), nil
		})
	appRoute(h, api, store.Viewer, http.MethodPost, "/setting", "A setting, as it is with what was entered so far", h.setting)
	appRoute(h, api, store.Viewer, http.MethodGet, "/clauses", "What else can be said of a thing",
		func(ctx context.Context, r request, in struct {
			Own
			Of string `query:"of"`
		}) (*output[ClauseList], error) {
			p, err := h.place(ctx, r, in.Of)
			if err != nil {
				return nil, err
			}
			return out(ClauseList{sentence.Clauses(p)}), nil
		})
	appRoute(h, api, store.Viewer, http.MethodGet, "/merges", "The choices into which one can be merged",
		func(ctx context.Context, r request, in struct {
			Own
			Of string `query:"of"`
		}) (*output[MergeList], error) {
			p, err := h.place(ctx, r, in.Of)
			if err != nil {
				return nil, err
			}
			return out(MergeList{sentence.Merges(p)}), nil
		})
	appRoute(h, api, store.Viewer, http.MethodGet, "/counts", "How many records the tables have",
		func(ctx context.Context, r request, _ Own) (*output[CountList], error) {
			counts, err := h.Apps.Counts(ctx, r.app, mostCounted)
			return out(CountList{counts, mostCounted}), err
		})
}

// place finds a thing of the draft.
func (h *Handlers) place(ctx context.Context, r request, id string) (blueprint.Place, error) {
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
	if err != nil {
		return blueprint.Place{}, err
	}
	p, ok := b.Place(id)
	if !ok {
		return p, store.ErrNotFound
	}
	return p, nil
}

func (h *Handlers) setting(ctx context.Context, r request, in struct {
	Own
	Body SettingAsked
}) (*output[sentence.Setting], error) {
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
	if err != nil {
		return nil, err
	}
	if in.Body.Add != nil {
		s, err := forNew(b, *in.Body.Add, in.Body.Values)
		return out(s), err
	}
	p, err := blueprint.Tried(b, &blueprint.Set{Of: in.Body.Of, Values: in.Body.Values})
	if err != nil {
		return nil, err
	}
	s, ok := sentence.Of(p, in.Body.Name)
	if !ok {
		return nil, store.ErrNotFound
	}
	return out(s), nil
}

// forNew gives what is asked for a thing that is being added.
func forNew(b *blueprint.Blueprint, add sentence.Adds, values blueprint.Values) (sentence.Setting, error) {
	if values == nil {
		values = blueprint.Values{}
	}
	c := &blueprint.AddThing{What: add.What, Into: add.Into, ID: apps.NewID(), Values: values}
	switch {
	case add.What == "workflow" && values.Text("kind") == "":
		return sentence.ForKind(blueprint.Context{}, c), nil
	case (add.What == "block" || add.What == "step") && values.Text("kind") == "":
		p, ok := b.Place(add.Into)
		if !ok {
			return sentence.Setting{}, store.ErrNotFound
		}
		return sentence.ForKind(p.Within(), c), nil
	case add.What == "rule" && values.Text("table") == "":
		table := b.Unruled(add.Into)
		if table == "" {
			return sentence.Setting{}, store.ErrNotFound
		}
		c.Values = blueprint.Vals("table", table, string(blueprint.See), blueprint.Permission{Extent: blueprint.AllRecords})
	}
	p, err := blueprint.Tried(b, c)
	if err != nil {
		return sentence.Setting{}, err
	}
	return sentence.ForNew(p, c), nil
}
