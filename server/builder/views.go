package builder

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/store"
)

// ViewOut is a view of a table's grid.
type ViewOut struct {
	ID       string             `json:"id"`
	Name     string             `json:"name"`
	Shared   bool               `json:"shared"`
	Settings store.ViewSettings `json:"settings"`
}

// ViewIn is a view that is to be kept.
type ViewIn struct {
	Name     string             `json:"name" maxLength:"200"`
	Shared   bool               `json:"shared"`
	Settings store.ViewSettings `json:"settings"`
}

// ViewList lists the views that can be chosen.
type ViewList struct {
	Views []ViewOut `json:"views"`
}

// ViewInput is the path of a view.
type ViewInput struct {
	Own
	View string `path:"view"`
}

func viewOut(v store.View) ViewOut {
	return ViewOut{ID: v.ID, Name: v.Name, Shared: v.BuilderID == nil, Settings: v.Settings}
}

// of gives the view as a builder keeps it.
func (in ViewIn) of(builder store.Builder) store.View {
	v := store.View{Name: in.Name, Settings: in.Settings}
	if !in.Shared {
		v.BuilderID = &builder.ID
	}
	return v
}

func (h *Handlers) registerViews(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/tables/{table}/views", "The views of a table",
		func(ctx context.Context, r request, in OfTable) (*output[ViewList], error) {
			list, err := h.Apps.Views(ctx, r.app, in.Table, r.builder.ID)
			all := ViewList{Views: []ViewOut{}}
			for _, v := range list {
				all.Views = append(all.Views, viewOut(v))
			}
			return out(all), err
		})
	appRoute(h, api, store.Editor, http.MethodPost, "/tables/{table}/views", "Keep a new view",
		func(ctx context.Context, r request, in struct {
			OfTable
			Body ViewIn
		}) (*output[ViewOut], error) {
			_, t, err := h.seated(ctx, r, in.OfTable)
			if err != nil {
				return nil, err
			}
			v := in.Body.of(r.builder)
			v.TableID = t.ID
			v, err = h.Apps.SaveView(ctx, r.app, r.builder.ID, v)
			return out(viewOut(v)), err
		})
	appRoute(h, api, store.Editor, http.MethodPut, "/views/{view}", "Change a view", func(ctx context.Context, r request, in struct {
		ViewInput
		Body ViewIn
	}) (*output[ViewOut], error) {
		if err := areIDs(in.View); err != nil {
			return nil, err
		}
		v := in.Body.of(r.builder)
		v.ID = in.View
		v, err := h.Apps.SaveView(ctx, r.app, r.builder.ID, v)
		return out(viewOut(v)), err
	})
	appRoute(h, api, store.Editor, http.MethodDelete, "/views/{view}", "Delete a view",
		func(ctx context.Context, r request, in ViewInput) (*struct{}, error) {
			if err := areIDs(in.View); err != nil {
				return nil, err
			}
			return nil, h.Apps.DeleteView(ctx, r.app, r.builder.ID, in.View)
		})
}
