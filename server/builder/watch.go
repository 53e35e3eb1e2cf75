package builder

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/runs"
)

// watched is the span of time of which is counted.
const watched = 7 * 24 * time.Hour

// WatchOut is how an app fares: what its workflows did in the last seven days.
type WatchOut struct {
	Flows   []FlowTally       `json:"flows"`
	Failed  int               `json:"failed" doc:"Runs that failed"`
	Letters map[runs.Fate]int `json:"letters" doc:"Emails of workflows, by what became of them"`
}

// FlowTally is how the runs of a workflow ended.
type FlowTally struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Done    int    `json:"done"`
	Failed  int    `json:"failed"`
	Stopped int    `json:"stopped"`
	Waiting int    `json:"waiting"`
}

func (h *Handlers) registerWatch(api huma.API) {
	appRoute(h, api, store.Viewer, http.MethodGet, "/watch", "What workflows did in the last seven days", h.watch)
}

func (h *Handlers) watch(ctx context.Context, r request, in struct {
	Own
	Place string `query:"place" enum:"live,draft" default:"draft"`
}) (*output[WatchOut], error) {
	if in.Place == string(apps.Live) && !r.app.Member.May(store.Editor) {
		return nil, errLevel(store.Editor)
	}
	since := time.Now().Add(-watched)
	list, err := h.Runs.Book.Tallies(ctx, r.app.ID, in.Place, since)
	if err != nil {
		return nil, err
	}
	body := WatchOut{Flows: []FlowTally{}}
	for _, t := range list {
		body.Flows = append(body.Flows, FlowTally{t.Workflow, t.Name, t.Done, t.Failed, t.Stopped, t.Waiting})
		body.Failed += t.Failed
	}
	body.Letters, err = h.Runs.Book.Fates(ctx, r.app.ID, in.Place, since)
	return out(body), err
}
