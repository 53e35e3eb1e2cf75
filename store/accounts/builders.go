package accounts

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"pinegate/core/words"
	"pinegate/store"
)

// AddBuilder makes the confirmed account of a builder with an own workspace, or
// sets the name and password of the one with that e-mail.
func (a *Accounts) AddBuilder(ctx context.Context, email, name, password string) (store.Builder, error) {
	hash, err := a.HashOf(ctx, password)
	if err != nil {
		return store.Builder{}, err
	}
	var b store.Builder
	err = a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Raw(`INSERT INTO builders (id, email, name, password, confirmed_at) VALUES (?, ?, ?, ?, now())
			ON CONFLICT (lower(email)) DO UPDATE SET name = excluded.name, password = excluded.password RETURNING *`, uuid.NewString(), email, name, hash).Scan(&b).Error; err != nil {
			return fmt.Errorf("add builder: %w", err)
		}
		return ownWorkspace(tx, b)
	})
	return b, err
}

// ownWorkspace makes the workspace that a builder has alone, which has the
// builder's id.
func ownWorkspace(tx *gorm.DB, b store.Builder) error {
	if err := tx.Exec("INSERT INTO workspaces (id, name) VALUES (?, ?) ON CONFLICT DO NOTHING", b.ID,
		b.Name+"’s workspace").Error; err != nil {
		return fmt.Errorf("make a workspace: %w", err)
	}
	if err := tx.Exec("INSERT INTO members (workspace_id, builder_id, role) VALUES (?, ?, 'owner') ON CONFLICT DO NOTHING", b.ID,
		b.ID).Error; err != nil {
		return fmt.Errorf("make a workspace: %w", err)
	}
	return nil
}

// Called gives what builders are called now, and their addresses, by their ids.
func (a *Accounts) Called(ctx context.Context, ids []string) (map[string]store.Builder, error) {
	var list []store.Builder
	if err := a.db.WithContext(ctx).Select("id", "name", "email").Where("id IN ?", ids).Find(&list).Error; err != nil {
		return nil, fmt.Errorf("find what builders are called: %w", err)
	}
	out := map[string]store.Builder{}
	for _, b := range list {
		out[b.ID] = b
	}
	return out, nil
}

func (a *Accounts) builderWith(ctx context.Context, email string) (store.Builder, bool, error) {
	var b store.Builder
	err := a.db.WithContext(ctx).Where("lower(email) = lower(?)", email).Take(&b).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return b, false, nil
	}
	if err != nil {
		return b, false, fmt.Errorf("find builder: %w", err)
	}
	return b, true, nil
}

// SignInBuilder starts a session for the builder with the e-mail and password,
// and gives its token and how far signing in went; [ErrRefused] otherwise.
func (a *Accounts) SignInBuilder(ctx context.Context, email, password, agent string) (string, State, error) {
	b, _, err := a.builderWith(ctx, email)
	if err != nil {
		return "", "", err
	}
	right, err := a.checkPassword(ctx, b.Password, password)
	if err != nil {
		return "", "", err
	}
	if !right || b.ConfirmedAt == nil {
		return "", "", ErrRefused
	}
	state := In
	if b.TotpSecret != nil {
		state = Second
	}
	of := Stay{Hours: BuilderHours, Agent: agent}.fields()
	of["builder_id"] = b.ID
	token, err := a.startSession(ctx, state, BuilderHours, of)
	return token, state, err
}

// NewBuilder is somebody who wants to build.
type NewBuilder struct {
	Email, Name string
	Password    string // once it is prepared, its hash
}

// PrepareBuilder checks what somebody sent who wants to build, and hashes their
// password.
func (a *Accounts) PrepareBuilder(ctx context.Context, n NewBuilder) (NewBuilder, error) {
	n.Name = strings.TrimSpace(n.Name)
	if n.Name == "" || len(n.Name) > 80 || strings.ContainsAny(n.Name, "\r\n\x00") {
		return n, words.New("account-name")
	}
	var err error
	n.Password, err = a.HashOf(ctx, n.Password, n.Email, n.Name)
	return n, err
}

// ConfirmationCode gives the code that confirms the address of somebody who
// wants to build; what is to become the account travels with it, and it goes
// with a ticket, so that nobody can choose a password for an address before its
// owner does. Where the address
// has an account, known tells, and that stays as it is.
func (a *Accounts) ConfirmationCode(ctx context.Context, n NewBuilder, ticket string) (code string, known bool, err error) {
	_, known, err = a.builderWith(ctx, n.Email)
	if err != nil || known {
		return "", known, err
	}
	code, err = a.MakeCode(ctx, Code{Purpose: ToConfirm, Subject: Ticketed(n.Email, ticket)}, n)
	return code, false, err
}

// ConfirmBuilder makes the account whose address the code confirms.
func (a *Accounts) ConfirmBuilder(ctx context.Context, email, ticket, code string) error {
	var n NewBuilder
	proof, err := a.TryCode(ctx, Code{Purpose: ToConfirm, Subject: Ticketed(email, ticket)}, strings.TrimSpace(code), &n)
	if err != nil {
		return err
	}
	return a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := a.In(tx).Spend(ctx, proof); err != nil {
			return err
		}
		var b store.Builder
		r := tx.Raw("INSERT INTO builders (id, email, name, password, confirmed_at) VALUES (?, ?, ?, ?, now()) ON CONFLICT (lower(email)) DO NOTHING RETURNING *", uuid.NewString(), n.Email, n.Name, n.Password).Scan(&b)
		if r.Error != nil {
			return fmt.Errorf("add builder: %w", r.Error)
		}
		if r.RowsAffected == 0 {
			return ErrRefused
		}
		return ownWorkspace(tx, b)
	})
}

// RenewalCode gives the code by which a builder sets another password in the browser
// with the ticket; "" where there is no such builder.
func (a *Accounts) RenewalCode(ctx context.Context, email, ticket string) (code, name string, err error) {
	b, there, err := a.builderWith(ctx, email)
	if err != nil || !there || b.ConfirmedAt == nil {
		return "", "", err
	}
	code, err = a.MakeCode(ctx, Code{Purpose: ToRenew, Subject: Ticketed(email, ticket)}, nil)
	return code, b.Name, err
}

// RenewPassword sets a builder's password by a code, and ends all their
// sessions.
func (a *Accounts) RenewPassword(ctx context.Context, email, ticket, code, password string) error {
	proof, err := a.TryCode(ctx, Code{Purpose: ToRenew, Subject: Ticketed(email, ticket)}, strings.TrimSpace(code), nil)
	if err != nil {
		return err
	}
	hash, err := a.HashOf(ctx, password, email)
	if err != nil {
		return err
	}
	return a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		acc := a.In(tx)
		if err := acc.Spend(ctx, proof); err != nil {
			return err
		}
		return acc.setBuilderPassword(ctx, "lower(email) = lower(?)", email, hash, "")
	})
}

func (a *Accounts) setBuilderPassword(ctx context.Context, where, arg, hash, but string) error {
	return a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var id string
		if err := tx.Raw("UPDATE builders SET password = ? WHERE "+where+" RETURNING id", hash, arg).Scan(&id).Error; err != nil {
			return fmt.Errorf("set password: %w", err)
		}
		if id == "" {
			return ErrRefused
		}
		if err := tx.Exec("DELETE FROM sessions WHERE builder_id = ? AND id::text <> ?", id, but).Error; err != nil {
			return fmt.Errorf("end sessions: %w", err)
		}
		return nil
	})
}

// Shut takes the password from the builder with the e-mail, if it is the one that is
// given, and ends their sessions. It is for a password that is no secret.
func (a *Accounts) Shut(ctx context.Context, email, password string) error {
	b, known, err := a.builderWith(ctx, email)
	if err != nil || !known {
		return err
	}
	if theirs, err := a.checkPassword(ctx, b.Password, password); err != nil || !theirs {
		return err
	}
	return a.setBuilderPassword(ctx, "id = ?", b.ID, "", "")
}

// ChangePassword sets another password for a builder who knows the old one. All
// other sessions end.
func (a *Accounts) ChangePassword(ctx context.Context, b store.Builder, s Session, old, next string) error {
	right, err := a.checkPassword(ctx, b.Password, old)
	if err != nil {
		return err
	}
	if !right {
		return words.New("gate-current-password")
	}
	hash, err := a.HashOf(ctx, next, b.Email, b.Name)
	if err != nil {
		return err
	}
	return a.setBuilderPassword(ctx, "id = ?", b.ID, hash, s.ID)
}

// EnrolBuilder keeps the authenticator that the session set up, if the code is
// its, and gives recovery codes, which are shown once.
func (a *Accounts) EnrolBuilder(ctx context.Context, b store.Builder, s Session, code string) ([]string, error) {
	if b.TotpSecret != nil { // or whoever finds a session open could put theirs in its place
		return nil, words.New("account-authenticator")
	}
	if s.Secret == "" || !RightCode(s.Secret, code, time.Now()) {
		return nil, ErrRefused
	}
	codes, err := a.enrol(ctx, "builders", "id = ?", []any{b.ID}, s.Secret, code)
	if err != nil {
		return nil, err
	}
	if err := a.db.WithContext(ctx).Exec("UPDATE sessions SET secret = '' WHERE id = ?", s.ID).Error; err != nil {
		return nil, fmt.Errorf("forget a secret: %w", err)
	}
	return codes, nil
}

// UseBuilderAuthenticator takes a code of a builder's authenticator, or a
// recovery code, once.
func (a *Accounts) UseBuilderAuthenticator(ctx context.Context, b store.Builder, code string) error {
	return a.useAuthenticator(ctx, "builders", "id = ?", []any{b.ID}, code)
}

// DropAuthenticator lets a builder sign in by password alone again.
func (a *Accounts) DropAuthenticator(ctx context.Context, b store.Builder, code string) error {
	if err := a.UseBuilderAuthenticator(ctx, b, code); err != nil {
		return err
	}
	if err := a.db.WithContext(ctx).Exec("UPDATE builders SET totp_secret = NULL, recovery = '' WHERE id = ?", b.ID).Error; err != nil {
		return fmt.Errorf("forget an authenticator: %w", err)
	}
	return nil
}
