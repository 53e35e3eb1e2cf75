package builder

import (
	"context"
	"errors"

	"pinegate/app/run"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
)

// AddressOut is where calls come in that start a workflow.
type AddressOut struct {
	Address string     `json:"address,omitempty" doc:"None where there is none yet"`
	Signed  string     `json:"signed,omitempty" doc:"The header with the signature"`
	Secret  *SecretOut `json:"secret,omitempty" doc:"Of the secret with which calls are signed, where one is kept"`
}

// OfIncoming names a workflow that calls start.
type OfIncoming struct {
	Own
	Flow  string `path:"flow" maxLength:"24"`
	Place string `query:"place" enum:"live,draft" default:"draft"`
}

// incoming finds a workflow of the draft that calls start, and gives the header with their signature.
func (h *Handlers) incoming(ctx context.Context, r request, flow string) (signed string, err error) {
	b, err := h.Apps.Blueprint(ctx, r.app, apps.Draft)
	if err != nil {
		return "", err
	}
	w := b.Workflow(flow)
	if w == nil || w.Incoming() == nil {
		return "", store.ErrNotFound
	}
	return w.Incoming().Signed, nil
}

func (h *Handlers) addressOf(ctx context.Context, r request, in OfIncoming) (*output[AddressOut], error) {
	body := AddressOut{}
	var err error
	if body.Signed, err = h.incoming(ctx, r, in.Flow); err != nil {
		return nil, err
	}
	seals := h.Runs.Services.Seals
	secret, err := seals.Open(ctx, r.app.ID, run.HookSecret(apps.Environment(in.Place), in.Flow))
	switch {
	case err == nil:
		body.Address = h.Base + "/in/" + secret
	case !errors.Is(err, store.ErrNotFound):
		return nil, err
	}
	kept, err := seals.Of(ctx, r.app.ID)
	if err != nil {
		return nil, err
	}
	if k, is := kept[run.SignSecret(in.Flow)]; is {
		body.Secret = &SecretOut{k.MadeBy, k.MadeAt}
	}
	return out(body), nil
}

func (h *Handlers) newAddress(ctx context.Context, r request, in OfIncoming) (*output[AddressOut], error) {
	if _, err := h.incoming(ctx, r, in.Flow); err != nil {
		return nil, err
	}
	if _, err := h.Runs.Address(ctx, r.app, apps.Environment(in.Place), in.Flow, r.builder.Name); err != nil {
		return nil, err
	}
	return h.addressOf(ctx, r, in)
}

func (h *Handlers) setSignature(ctx context.Context, r request, in struct {
	OfIncoming
	Body struct {
		Secret string `json:"secret" minLength:"8" maxLength:"4000"`
	}
}) (*output[AddressOut], error) {
	if _, err := h.incoming(ctx, r, in.Flow); err != nil {
		return nil, err
	}
	if !printable(in.Body.Secret) {
		return nil, words.New("secret-lines")
	}
	if err := h.Runs.Services.Seals.Set(ctx, r.app.ID, run.SignSecret(in.Flow), in.Body.Secret, r.builder.Name); err != nil {
		return nil, err
	}
	return h.addressOf(ctx, r, in.OfIncoming)
}
