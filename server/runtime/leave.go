package runtime

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/store"
)

// LeaveSent is what a link carries by which somebody unsubscribes. What is carried is no secret of
// anybody else: it was mailed to the address that it is about.
type LeaveSent struct {
	Token string `json:"token" maxLength:"600"`
	Back  bool   `json:"back,omitempty" doc:"Have emails go there again"`
}

// Leaves is what somebody unsubscribes from.
type Leaves struct {
	Address string `json:"address"`
	Name    string `json:"name,omitempty"`
}

type leaveInput struct{ Body LeaveSent }

func (h *Handlers) registerLeave(api huma.API) {
	handle(h, api, http.MethodPost, "/unsubscribe/look", "What a link to unsubscribe is about",
		func(ctx context.Context, p *Place, in *leaveInput) (*output[Leaves], error) {
			l, left, err := h.Runs.Leaves(ctx, in.Body.Token)
			if err == nil && l.App != p.App.ID {
				err = store.ErrNotFound
			}
			return &output[Leaves]{Leaves{left.Address, left.Name}}, err
		})
	handle(h, api, http.MethodPost, "/unsubscribe", "Unsubscribe from emails, or have them go there again",
		func(ctx context.Context, p *Place, in *leaveInput) (*struct{}, error) {
			l, _, err := h.Runs.Leaves(ctx, in.Body.Token)
			if err == nil && l.App != p.App.ID {
				err = store.ErrNotFound
			}
			if err != nil {
				return nil, err
			}
			return nil, h.Runs.Leave(ctx, in.Body.Token, in.Body.Back)
		})
}
