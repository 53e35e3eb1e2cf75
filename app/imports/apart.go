package imports

import (
	"context"
	"errors"
	"fmt"

	"pinegate/core/intake"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apart"
)

// Task is what a process of its own does for the service: it carries out an import
// that was claimed for it, or says what files seem to hold.
type Task struct {
	Import string `json:"import,omitempty"`
	Claim  string `json:"claim,omitempty"`

	App     string   `json:"app,omitempty"`
	Uploads []string `json:"uploads,omitempty"`
	Turned  []int    `json:"turned,omitempty"`
	// Proposal is one of which is to be counted what would come of it.
	Proposal *intake.Proposal `json:"proposal,omitempty"`
}

// Do does a task. It is for the process that has it.
func (s *Service) Do(ctx context.Context, t Task) (any, error) {
	if t.Import != "" {
		r, app, err := s.run(ctx, t.Import)
		if err != nil {
			return nil, err
		}
		r.claim = t.Claim
		return nil, r.work(ctx, app)
	}
	app, err := s.apps.Find(ctx, t.App)
	if err != nil {
		return nil, err
	}
	ctx = store.With(ctx, store.Work{Kind: store.Bulk, Workspace: app.WorkspaceID, App: app.ID})
	if t.Proposal != nil {
		return s.tally(ctx, app, t.Uploads, t.Proposal)
	}
	return s.propose(ctx, app, t.Uploads, t.Turned)
}

// mostEnds is how many runs of an import may end with their process.
const mostEnds = 3

// elsewhere has the import carried out in a process of its own. One that does not
// live to say how it ended may have needed more memory than there is.
func (r *run) elsewhere(ctx context.Context) error {
	err := r.service.Apart.Do(ctx, Task{Import: r.id, Claim: r.claim}, nil)
	switch {
	case err == nil:
		return nil
	case errors.Is(err, apart.ErrEnded) && ctx.Err() == nil && r.runs >= mostEnds:
		return r.failed(ctx, errors.Join(words.New("import-memory"), err))
	}
	return errors.Join(fmt.Errorf("import: %w", err), r.giveUp(context.WithoutCancel(ctx)))
}
