package runtime

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
)

// signedOutput carries the session cookie.
type signedOutput struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
}

// Asked is who wants to sign in.
type Asked struct {
	Email string `json:"email" maxLength:"254"`
}

// Entered is a code for an address.
type Entered struct {
	Email string `json:"email" maxLength:"254"`
	Code  string `json:"code" maxLength:"20"`
}

func (h *Handlers) registerGate(api huma.API) {
	handle(h, api, http.MethodPost, "/sign-in/code", "Have a code sent", func(ctx context.Context, p *Place, in *struct{ Body Asked }) (*struct{}, error) {
		return nil, h.Gate.Ask(ctx, p.App, in.Body.Email, p.Host)
	})
	handle(h, api, http.MethodPost, "/sign-in", "Sign in with a code", func(ctx context.Context, p *Place, in *struct{ Body Entered }) (*signedOutput, error) {
		token, err := h.Gate.Enter(ctx, p.App, in.Body.Email, in.Body.Code, p.Host)
		if err != nil {
			return nil, err
		}
		return &signedOutput{*h.Cookie(p, token)}, nil
	})
	handle(h, api, http.MethodPost, "/sign-out", "Sign out", func(ctx context.Context, p *Place, _ *struct{}) (*signedOutput, error) {
		if err := h.Gate.Leave(ctx, p.Token); err != nil {
			return nil, err
		}
		return &signedOutput{*h.Cookie(p, "")}, nil
	})
}
