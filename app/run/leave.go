package run

import (
	"context"
	"encoding/json"
	"fmt"

	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/runs"
)

// leaving is what links by which people unsubscribe are covered for.
const leaving = "unsubscribe"

// wayOut gives what the link carries by which the recipient of a mail unsubscribes.
func (r *Runs) wayOut(l runs.Letter) (string, error) {
	raw, err := json.Marshal(runs.Leaving{App: l.AppID, Place: l.Place, Workflow: l.Workflow, Address: l.Recipient})
	if err != nil {
		return "", fmt.Errorf("write who can unsubscribe: %w", err)
	}
	return r.Seals.Cover(leaving, raw), nil
}

// Left is what somebody unsubscribes from.
type Left struct {
	Address string
	Name    string // of the workflow, "" where it is not there any more
}

// Leaves reads what such a link carries; [store.ErrNotFound] where it carries nothing of ours.
func (r *Runs) Leaves(ctx context.Context, carried string) (runs.Leaving, Left, error) {
	var l runs.Leaving
	raw, err := r.Seals.Uncover(leaving, carried)
	if err != nil {
		return l, Left{}, err
	}
	if err := json.Unmarshal(raw, &l); err != nil {
		return l, Left{}, fmt.Errorf("read who unsubscribes: %w", err)
	}
	app, err := r.Apps.Find(ctx, l.App)
	if err != nil {
		return l, Left{}, err
	}
	b, err := r.Apps.Blueprint(ctx, app, apps.Environment(l.Place))
	if err != nil {
		return l, Left{}, err
	}
	out := Left{Address: l.Address}
	if w := b.Workflow(l.Workflow); w != nil {
		out.Name = w.Name
	}
	return l, out, nil
}

// Leave has no more mails of a workflow go to whom a link was sent, or with back has them go there again.
func (r *Runs) Leave(ctx context.Context, carried string, back bool) error {
	l, _, err := r.Leaves(ctx, carried)
	if err != nil {
		return err
	}
	return r.Book.Leave(store.As(ctx, store.Back), l, back)
}
