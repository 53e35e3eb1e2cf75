package accounts

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"

	"pinegate/store"
)

// PersonAccount is what somebody proves themselves with in an app, besides
// their address.
type PersonAccount struct {
	AppID      string
	Email      string
	Password   *string
	TotpSecret *string
	ClosedAt   *time.Time
}

// TableName is where these accounts are kept.
func (PersonAccount) TableName() string { return "people_accounts" }

// Of gives the account of an address in an app; an empty one where there is
// none.
func (a *Accounts) Of(ctx context.Context, app, email string) (PersonAccount, error) {
	var p PersonAccount
	err := a.db.WithContext(ctx).Where("app_id = ? AND email = ?", app, strings.ToLower(email)).Take(&p).Error
	if err != nil && !errors.Is(err, gorm.ErrRecordNotFound) {
		return p, fmt.Errorf("find the account of a person: %w", err)
	}
	return p, nil
}

// RightPassword tells whether the password is that of the address. It takes as
// long for one that nobody has.
func (a *Accounts) RightPassword(ctx context.Context, app, email, password string) (bool, error) {
	p, err := a.Of(ctx, app, email)
	if err != nil {
		return false, err
	}
	hash := ""
	if p.Password != nil {
		hash = *p.Password
	}
	return a.checkPassword(ctx, hash, password)
}

// keepAccount makes sure that there is an account, and sets a column of it.
func (a *Accounts) keepAccount(ctx context.Context, app, email, column string, value any) error {
	sql := fmt.Sprintf("INSERT INTO people_accounts (app_id, email, %[1]s) VALUES (?, ?, ?) ON CONFLICT (app_id, email) DO UPDATE SET %[1]s = excluded.%[1]s", column)
	if err := a.db.WithContext(ctx).Exec(sql, app, strings.ToLower(email), value).Error; err != nil {
		return fmt.Errorf("keep the account of a person: %w", err)
	}
	return nil
}

// HashOf checks that a password is good, and hashes it.
func (a *Accounts) HashOf(ctx context.Context, password string, about ...string) (string, error) {
	if err := GoodPassword(password, about...); err != nil {
		return "", err
	}
	return a.hashPassword(ctx, password)
}

// KeepPassword keeps the hash of somebody's password.
func (a *Accounts) KeepPassword(ctx context.Context, app, email, hash string) error {
	return a.keepAccount(ctx, app, email, "password", hash)
}

// Close keeps an address from signing in; Reopen lets it again.
func (a *Accounts) Close(ctx context.Context, app, email string) error {
	if err := a.keepAccount(ctx, app, email, "closed_at", time.Now()); err != nil {
		return err
	}
	if err := a.db.WithContext(ctx).Exec("UPDATE people_accounts SET password = NULL, totp_secret = NULL, recovery = '' WHERE app_id = ? AND email = ?", app, strings.ToLower(email)).Error; err != nil {
		return fmt.Errorf("close an account: %w", err)
	}
	return a.EndAll(ctx, app, email, "")
}

// Reopen lets an address sign in again.
func (a *Accounts) Reopen(ctx context.Context, app, email string) error {
	return a.keepAccount(ctx, app, email, "closed_at", nil)
}

// Move makes what was proved for an address that of another one. Sessions other
// than the one with the id end.
func (a *Accounts) Move(ctx context.Context, app, from, to, session string) error {
	from, to = strings.ToLower(from), strings.ToLower(to)
	return a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for _, x := range []struct {
			sql  string
			args []any
		}{
			{"DELETE FROM people_accounts WHERE app_id = ? AND email = ?", []any{app, to}},
			{"UPDATE people_accounts SET email = ? WHERE app_id = ? AND email = ?", []any{to, app, from}},
			{"DELETE FROM sessions WHERE app_id = ? AND email IN (?, ?) AND id::text <> ?", []any{app, from, to, session}},
			{"UPDATE sessions SET email = ? WHERE app_id = ? AND email = ?", []any{to, app, from}},
			{"UPDATE codes SET void = true WHERE app_id = ? AND split_part(subject, ' ', 1) IN (?, ?)", []any{app, from, to}},
			{"DELETE FROM devices WHERE app_id = ? AND who IN (?, ?)", []any{app, from, to}},
		} {
			if err := tx.Exec(x.sql, x.args...).Error; err != nil {
				return fmt.Errorf("change an address: %w", err)
			}
		}
		return nil
	})
}

// StartEnrolling remembers with an unfinished session the secret of the
// authenticator that is being set up.
func (a *Accounts) StartEnrolling(ctx context.Context, s Session) (string, error) {
	if s.Secret != "" {
		return s.Secret, nil
	}
	secret, err := NewSecret()
	if err != nil {
		return "", err
	}
	if err := a.db.WithContext(ctx).Exec("UPDATE sessions SET secret = ? WHERE id = ?", secret, s.ID).Error; err != nil {
		return "", fmt.Errorf("keep a secret: %w", err)
	}
	return secret, nil
}

const personWhere = "app_id = ? AND email = ?"

// EnrolPerson keeps the authenticator that the session set up, if the code is
// its, and gives recovery codes, which are shown once.
func (a *Accounts) EnrolPerson(ctx context.Context, app string, s Session, code string) ([]string, error) {
	if s.Secret == "" || !RightCode(s.Secret, code, time.Now()) {
		return nil, ErrRefused
	}
	if err := a.keepAccount(ctx, app, s.Email, "totp_last", 0); err != nil {
		return nil, err
	}
	return a.enrol(ctx, "people_accounts", personWhere, []any{app, s.Email}, s.Secret, code)
}

// UsePersonAuthenticator takes a code of a person's authenticator, or a recovery
// code, once.
func (a *Accounts) UsePersonAuthenticator(ctx context.Context, app, email, code string) error {
	return a.useAuthenticator(ctx, "people_accounts", personWhere, []any{app, strings.ToLower(email)}, code)
}

// ForgetAuthenticator makes somebody set up another one when they sign in next.
func (a *Accounts) ForgetAuthenticator(ctx context.Context, app, email string) error {
	if err := a.db.WithContext(ctx).Exec("UPDATE people_accounts SET totp_secret = NULL, recovery = '' WHERE "+personWhere, app,
		strings.ToLower(email)).Error; err != nil {
		return fmt.Errorf("forget an authenticator: %w", err)
	}
	return a.EndAll(ctx, app, email, "")
}

// AcceptTerms writes down that somebody accepted a version of the terms.
func (a *Accounts) AcceptTerms(ctx context.Context, app, email, version string) error {
	if err := a.db.WithContext(ctx).Exec("INSERT INTO accepted_terms (app_id, email, version) VALUES (?, ?, ?) ON CONFLICT DO NOTHING", app,
		strings.ToLower(email), version).Error; err != nil {
		return fmt.Errorf("note that terms were accepted: %w", err)
	}
	return nil
}

// Accepted is a version of the terms that somebody accepted.
type Accepted struct {
	Version string    `json:"version"`
	At      time.Time `json:"at"`
}

// AcceptedTerms lists what an address accepted.
func (a *Accounts) AcceptedTerms(ctx context.Context, app, email string) ([]Accepted, error) {
	out := []Accepted{}
	if err := a.db.WithContext(ctx).Raw("SELECT version, at FROM accepted_terms WHERE "+personWhere+" ORDER BY at", app,
		strings.ToLower(email)).Scan(&out).Error; err != nil {
		return nil, fmt.Errorf("list accepted terms: %w", err)
	}
	return out, nil
}

// Waiting is somebody who signed up and waits to be let in.
type Waiting struct {
	ID      string
	AppID   string
	RoleID  string
	Email   string
	Answers json.RawMessage
	AskedAt time.Time `gorm:"autoCreateTime"`
}

// TableName is where they are kept.
func (Waiting) TableName() string { return "waiting" }

// Wait keeps somebody waiting; who asks again gives other answers.
func (a *Accounts) Wait(ctx context.Context, app, role, email string, answers json.RawMessage) error {
	err := a.db.WithContext(ctx).Exec(`INSERT INTO waiting (id, app_id, role_id, email, answers) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (app_id, role_id, email) DO UPDATE SET answers = excluded.answers`, uuid.NewString(), app, role, strings.ToLower(email), string(answers)).Error
	if err != nil {
		return fmt.Errorf("keep somebody waiting: %w", err)
	}
	return nil
}

// WhoWaits lists those who wait, the first who asked first.
func (a *Accounts) WhoWaits(ctx context.Context, app string) ([]Waiting, error) {
	out := []Waiting{}
	if err := a.db.WithContext(ctx).Where("app_id = ?", app).Order("asked_at").Find(&out).Error; err != nil {
		return nil, fmt.Errorf("list who waits: %w", err)
	}
	return out, nil
}

// WaitingOne gives one who waits.
func (a *Accounts) WaitingOne(ctx context.Context, app, id string) (Waiting, error) {
	var w Waiting
	if _, err := uuid.Parse(id); err != nil {
		return w, store.ErrNotFound
	}
	err := a.db.WithContext(ctx).Where("app_id = ? AND id = ?", app, id).Take(&w).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return w, store.ErrNotFound
	}
	if err != nil {
		return w, fmt.Errorf("find who waits: %w", err)
	}
	return w, nil
}

// WaitsNoMore takes somebody off those who wait.
func (a *Accounts) WaitsNoMore(ctx context.Context, app, id string) error {
	if err := a.db.WithContext(ctx).Exec("DELETE FROM waiting WHERE app_id = ? AND id = ?", app, id).Error; err != nil {
		return fmt.Errorf("let somebody wait no more: %w", err)
	}
	return nil
}

// GateEvent is something that happened at the gate of an app.
type GateEvent struct {
	ID    int64
	AppID string
	At    time.Time `gorm:"autoCreateTime"`
	What  string
	Email string
	Host  string
}

// TableName is where these are kept.
func (GateEvent) TableName() string { return "gate_log" }

// Note writes down what happened at the gate of an app.
func (a *Accounts) Note(ctx context.Context, app, email, host, what string) error {
	if err := a.db.WithContext(ctx).Create(&GateEvent{AppID: app, What: what, Email: strings.ToLower(email),
		Host: host}).Error; err != nil {
		return fmt.Errorf("note what happened at the gate: %w", err)
	}
	return nil
}

// GateLog lists what happened at the gate of an app, the newest first.
func (a *Accounts) GateLog(ctx context.Context, app string, limit int) ([]GateEvent, error) {
	out := []GateEvent{}
	if err := a.db.WithContext(ctx).Where("app_id = ?", app).Order("id DESC").Limit(limit).Find(&out).Error; err != nil {
		return nil, fmt.Errorf("list what happened at the gate: %w", err)
	}
	return out, nil
}
