package builder

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/server/runtime"
	"pinegate/store/accounts"
)

// Newcomer is somebody who wants to build.
type Newcomer struct {
	Email    string `json:"email" maxLength:"254"`
	Name     string `json:"name" maxLength:"100"`
	Password string `json:"password" maxLength:"400"`
}

// Confirmation is the code that was mailed to an address; with a password where
// one is set.
type Confirmation struct {
	Email    string `json:"email" maxLength:"254"`
	Code     string `json:"code" maxLength:"40"`
	Password string `json:"password,omitempty" maxLength:"400"`
	Ticket   string `json:"ticket,omitempty" maxLength:"100" doc:"That of a new account"`
}

// AccountOut is a builder's own account.
type AccountOut struct {
	Name          string               `json:"name"`
	Email         string               `json:"email"`
	Authenticator bool                 `json:"authenticator"`
	Sessions      []runtime.SessionOut `json:"sessions"`
}

// Recovery are the codes that stand in for a lost authenticator, shown once.
type Recovery struct {
	Codes []string `json:"codes"`
}

// SignedIn says how far signing in went.
type SignedIn struct {
	Next string `json:"next" enum:"in,second"`
}

type signInOutput struct {
	SetCookie []http.Cookie `header:"Set-Cookie"`
	Body      SignedIn
}

func (h *Handlers) registerAccount(api huma.API) {
	openTo(h, api, http.MethodPost, "/sign-in", "Sign in", h.signIn)
	openTo(h, api, http.MethodPost, "/sign-in/second", "Do the second step of signing in", h.second)
	openTo(h, api, http.MethodPost, "/sign-up", "Make an account",
		func(ctx context.Context, in *struct{ Body Newcomer }) (*output[runtime.Ticket], error) {
			ticket, err := h.Gate.SignUpBuilder(ctx, accounts.NewBuilder(in.Body), h.From(ctx))
			return out(runtime.Ticket{Ticket: ticket}), err
		})
	openTo(h, api, http.MethodPost, "/sign-up/confirm", "Confirm the address of a new account",
		func(ctx context.Context, in *struct{ Body Confirmation }) (*struct{}, error) {
			return nil, h.Gate.WrongBuilder(ctx, in.Body.Email, h.From(ctx),
				h.Accounts.ConfirmBuilder(ctx, in.Body.Email, in.Body.Ticket, in.Body.Code))
		})
	openTo(h, api, http.MethodPost, "/reset", "Have a code sent that lets one set a password",
		func(ctx context.Context, in *struct{ Body runtime.WithEmail }) (*struct{}, error) {
			return nil, h.Gate.RenewBuilder(ctx, in.Body.Email, h.From(ctx))
		})
	openTo(h, api, http.MethodPost, "/reset/use", "Set a password",
		func(ctx context.Context, in *struct{ Body Confirmation }) (*struct{}, error) {
			return nil, h.Gate.WrongBuilder(ctx, in.Body.Email, h.From(ctx),
				h.Accounts.RenewPassword(ctx, in.Body.Email, h.From(ctx).Device, in.Body.Code, in.Body.Password))
		})
	register(api, http.MethodGet, "/account", "One's own account", h.account)
	register(api, http.MethodPost, "/account/password", "Change one's password",
		func(ctx context.Context, in *struct{ Body runtime.PasswordChange }) (*struct{}, error) {
			who, err := h.builder(ctx)
			if err != nil {
				return nil, err
			}
			if err := h.Gate.AllowBuilder(ctx, who.Email, h.From(ctx)); err != nil {
				return nil, err
			}
			return nil, h.Accounts.ChangePassword(ctx, who, h.Session(ctx), in.Body.Old, in.Body.New)
		})
	register(api, http.MethodPost, "/account/sessions/end", "End sessions of one's own",
		func(ctx context.Context, in *struct{ Body runtime.SessionToEnd }) (*struct{}, error) {
			if _, err := h.builder(ctx); err != nil {
				return nil, err
			}
			return nil, h.Accounts.EndSessions(ctx, h.Session(ctx), in.Body.ID)
		})
	h.registerAuthenticator(api)
}

func (h *Handlers) registerAuthenticator(api huma.API) {
	register(api, http.MethodPost, "/account/authenticator", "What is needed to set up an authenticator",
		func(ctx context.Context, _ *struct{}) (*output[accounts.Setup], error) {
			who, err := h.builder(ctx)
			if err != nil {
				return nil, err
			}
			secret, err := h.Accounts.StartEnrolling(ctx, h.Session(ctx))
			if err != nil {
				return nil, err
			}
			setup, err := accounts.SetupOf(secret, "Pine Gate", who.Email)
			return out(setup), err
		})
	coded := func(path, summary string, do func(ctx context.Context, code string) (*output[Recovery], error)) {
		register(api, http.MethodPost, path, summary, func(ctx context.Context, in *struct{ Body runtime.OneCode }) (*output[Recovery],
			error) {
			who, err := h.builder(ctx)
			if err != nil {
				return nil, err
			}
			if err := h.Gate.AllowBuilder(ctx, who.Email, h.From(ctx)); err != nil {
				return nil, err
			}
			return do(ctx, in.Body.Code)
		})
	}
	coded("/account/authenticator/use", "Set up an authenticator with its first code",
		func(ctx context.Context, code string) (*output[Recovery], error) {
			who, _ := h.Who(ctx)
			codes, err := h.Accounts.EnrolBuilder(ctx, who, h.Session(ctx), code)
			return out(Recovery{codes}), err
		})
	coded("/account/authenticator/drop", "Sign in without an authenticator again",
		func(ctx context.Context, code string) (*output[Recovery], error) {
			who, _ := h.Who(ctx)
			return out(Recovery{[]string{}}), h.Accounts.DropAuthenticator(ctx, who, code)
		})
}

func (h *Handlers) account(ctx context.Context, _ *struct{}) (*output[AccountOut], error) {
	who, err := h.builder(ctx)
	if err != nil {
		return nil, err
	}
	here := h.Session(ctx)
	list, err := h.Accounts.SessionsOf(ctx, here)
	if err != nil {
		return nil, err
	}
	return out(AccountOut{who.Name, who.Email, who.TotpSecret != nil, runtime.SessionsOut(list, here.ID)}), nil
}

func (h *Handlers) signIn(ctx context.Context, in *struct{ Body SignIn }) (*signInOutput, error) {
	if err := h.Gate.AllowBuilder(ctx, in.Body.Email, h.From(ctx)); err != nil {
		return nil, err
	}
	token, state, err := h.Accounts.SignInBuilder(ctx, in.Body.Email, in.Body.Password, h.Agent(ctx))
	if err != nil {
		return nil, err
	}
	return &signInOutput{[]http.Cookie{*h.Cookie(token)}, SignedIn{string(state)}},
		h.Gate.RightBuilder(ctx, in.Body.Email, h.From(ctx), state == accounts.In)
}

// second finishes signing in with a code of the authenticator, or a recovery
// code.
func (h *Handlers) second(ctx context.Context, in *struct{ Body runtime.OneCode }) (*signInOutput, error) {
	who, s, err := h.Accounts.Builder(ctx, h.Token(ctx))
	if err != nil {
		return nil, err
	}
	if s.State != accounts.Second {
		return nil, accounts.ErrRefused
	}
	if err := h.Gate.AllowBuilder(ctx, who.Email, h.From(ctx)); err != nil {
		return nil, err
	}
	if err := h.Accounts.UseBuilderAuthenticator(ctx, who, in.Body.Code); err != nil {
		return nil, err
	}
	token, _, err := h.Accounts.Finish(ctx, h.Token(ctx))
	if err != nil {
		return nil, err
	}
	return &signInOutput{[]http.Cookie{*h.Cookie(token)}, SignedIn{string(accounts.In)}}, h.Gate.RightBuilder(ctx, who.Email, h.From(ctx), true)
}
