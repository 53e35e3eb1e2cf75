package builder

import (
	"context"
	"encoding/json"
	"fmt"

	"pinegate/store"
	"pinegate/store/apps"
)

// Marks are what a builder marked in a workflow for their rehearsals.
type Marks struct {
	Breakpoints []string `json:"breakpoints" maxItems:"200" doc:"Ids of steps"`
	Off         []string `json:"off" maxItems:"200" doc:"Breakpoints that are switched off, for now"`
	Watches     []string `json:"watches" maxItems:"20" doc:"Expressions"`
}

// OfFlow names a workflow of an app.
type OfFlow struct {
	Own
	Flow string `path:"flow" maxLength:"24"`
}

// flow finds a workflow of the draft.
func (h *Handlers) flow(ctx context.Context, r request, id string) error {
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
	if err == nil && b.Workflow(id) == nil {
		err = store.ErrNotFound
	}
	return err
}

func (h *Handlers) marks(ctx context.Context, r request, in OfFlow) (*output[Marks], error) {
	if err := h.flow(ctx, r, in.Flow); err != nil {
		return nil, err
	}
	body := Marks{Breakpoints: []string{}, Off: []string{}, Watches: []string{}}
	raw, err := h.Runs.Book.Marks(ctx, r.app.ID, r.builder.ID, in.Flow)
	if err != nil || raw == nil {
		return out(body), err
	}
	if err := json.Unmarshal(raw, &body); err != nil {
		return nil, fmt.Errorf("read what is marked in a workflow: %w", err)
	}
	return out(body), nil
}

func (h *Handlers) mark(ctx context.Context, r request, in struct {
	OfFlow
	Body Marks
}) (*output[Marks], error) {
	if err := h.flow(ctx, r, in.Flow); err != nil {
		return nil, err
	}
	raw, err := json.Marshal(in.Body)
	if err != nil {
		return nil, fmt.Errorf("keep what is marked in a workflow: %w", err)
	}
	return out(in.Body), h.Runs.Book.Mark(ctx, r.app.ID, r.builder.ID, in.Flow, raw)
}
