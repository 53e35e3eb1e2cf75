package builder

import (
	"context"
	"fmt"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/core/sentence"
	"pinegate/store"
	"pinegate/store/apps"
)

// VersionOut is a published version.
type VersionOut struct {
	Number      int                   `json:"number"`
	At          time.Time             `json:"at"`
	By          string                `json:"by"`
	Live        bool                  `json:"live"`
	Differences []sentence.Difference `json:"differences"`
}

// Publish asks for a version to be made live.
type Publish struct {
	Revision     int  `json:"revision" doc:"The draft's revision that the plan was read for"`
	LiveVersion  int  `json:"liveVersion" doc:"The live version that the plan was read for"`
	Version      int  `json:"version,omitempty" doc:"The version to go back to"`
	Accept       bool `json:"accept" doc:"Values that would no longer be seen are accepted"`
	BringRecords bool `json:"bringRecords" doc:"Copy the draft's records, at the first publish"`
}

// Published tells the number of the new version.
type Published struct {
	Version int `json:"version"`
}

// ExpectationList tells whether what is expected holds in the draft.
type ExpectationList struct {
	Expectations []apps.Held `json:"expectations"`
}

func (h *Handlers) registerPublish(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/expectations", "Whether what is expected holds in the draft", func(ctx context.Context, r request, _ Own) (*output[ExpectationList], error) {
		held, err := h.Apps.Expectations(ctx, r.app)
		return out(ExpectationList{held}), err
	})
	appRoute(h, api, store.Viewer, http.MethodGet, "/plan", "What publishing would do", func(ctx context.Context, r request, in struct {
		Own
		Version int `query:"version" doc:"The version to go back to; 0 for the draft"`
	}) (*output[apps.Plan], error) {
		plan, err := h.Apps.Plan(ctx, r.app.ID, in.Version)
		return out(plan), err
	})
	appRoute(h, api, store.Editor, http.MethodPost, "/publish", "Publish", func(ctx context.Context, r request, in struct {
		Own
		Body Publish
	}) (*output[Published], error) {
		p := in.Body
		number, err := h.Apps.Publish(ctx, r.app.ID, r.builder.Name, apps.Publication{Revision: p.Revision, LiveVersion: p.LiveVersion, Version: p.Version, Accept: p.Accept, BringRecords: p.BringRecords})
		if err != nil {
			return nil, err
		}
		return out(Published{number}), h.noteApp(ctx, r, fmt.Sprintf("Published version %d of %s", number, r.app.Name))
	})
	appRoute(h, api, store.Viewer, http.MethodGet, "/versions", "What was published", func(ctx context.Context, r request, _ Own) (*output[[]VersionOut], error) {
		list, err := h.Apps.Versions(ctx, r.app.ID)
		if err != nil {
			return nil, err
		}
		all := []VersionOut{}
		for _, v := range list {
			all = append(all, VersionOut{v.Number, v.MadeAt, v.MadeBy, v.Number == r.app.LiveVersion, v.Differences})
		}
		return out(all), nil
	})
}
