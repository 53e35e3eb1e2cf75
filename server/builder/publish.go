package builder

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/publish"
	"pinegate/app/why"
	"pinegate/core/sentence"
	"pinegate/core/words"
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
	Expectations []why.Held `json:"expectations"`
}

func (h *Handlers) registerPublish(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/expectations", "Whether what is expected holds in the draft",
		func(ctx context.Context, r request, _ Own) (*output[ExpectationList], error) {
			b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
			if err != nil {
				return nil, err
			}
			held, err := why.Expectations(ctx, h.Apps.Road(ctx), apps.FounderSeat(r.app, apps.Draft, b, r.builder.Name))
			return out(ExpectationList{held}), err
		})
	appRoute(h, api, store.Viewer, http.MethodGet, "/plan", "What publishing would do", func(ctx context.Context, r request, in struct {
		Own
		Version int `query:"version" doc:"The version to go back to; 0 for the draft"`
	}) (*output[publish.Plan], error) {
		plan, err := publish.PlanOf(ctx, h.Apps, r.app.ID, in.Version)
		if err == nil && in.Version == 0 {
			err = h.planned(ctx, r, &plan)
		}
		if err != nil || !plan.Samples() {
			return out(plan), err
		}
		// values of live records are for those who may look at them, and that is written down
		if !r.app.Member.May(store.Editor) {
			return out(plan.WithoutSamples()), nil
		}
		return out(plan), h.noteLook(ctx, r, "plan", words.Say("team-looked-plan", nil))
	})
	appRoute(h, api, store.Editor, http.MethodPost, "/publish", "Publish", func(ctx context.Context, r request, in struct {
		Own
		Body Publish
	}) (*output[Published], error) {
		p := in.Body
		if p.Version == 0 {
			if err := h.met(ctx, r); err != nil {
				return nil, err
			}
		}
		number, err := publish.Do(ctx, h.Apps, r.app.ID, r.builder.Name, publish.Publication{
			Revision: p.Revision, LiveVersion: p.LiveVersion, Version: p.Version, Accept: p.Accept, BringRecords: p.BringRecords,
		})
		var told *words.Problem
		if errors.As(err, &told) && told.Code == "publish-expectation" { // it names people of the live app
			err = errors.Join(err, h.noteLook(ctx, r, "plan", words.Say("team-looked-plan", nil)))
		}
		if err != nil {
			return nil, err
		}
		return out(Published{number}), h.noteApp(ctx, r, words.Say("team-published", words.Args{"version": number, "app": r.app.Name}))
	})
	appRoute(h, api, store.Viewer, http.MethodGet, "/versions", "What was published",
		func(ctx context.Context, r request, _ Own) (*output[[]VersionOut], error) {
			list, err := h.Apps.Versions(ctx, r.app.ID)
			if err != nil {
				return nil, err
			}
			all := []VersionOut{}
			for _, v := range list {
				all = append(all, VersionOut{v.Number, v.MadeAt, v.MadeBy, v.Number == r.app.LiveVersion, v.Differences})
			}
			deeds := make([]deed, len(list))
			for i, v := range list {
				deeds[i] = deed{&all[i].By, v.MadeByID}
			}
			return out(all), h.today(ctx, deeds)
		})
}
