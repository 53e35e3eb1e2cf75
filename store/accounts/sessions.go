package accounts

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"pinegate/core/blueprint"
	"pinegate/store"
)

// BuilderHours is how long builders stay signed in.
const BuilderHours = 12

// State says how far signing in went.
type State string

// The states of a session. Only [In] is being signed in.
const (
	In     State = "in"
	Second State = "second" // the second step is to be done
	Enrol  State = "enrol"  // an authenticator is to be set up
)

// Session is somebody's session: a builder's, or that of a person of an app.
type Session struct {
	ID          string
	BuilderID   *string
	AppID       *string
	Email       string
	PeopleTable string // and RecordID: who of those with the address, or ""
	RecordID    string
	State       State
	Hours       int
	Prolonged   bool // begins anew whenever it is used
	Visit       bool // ends with the browser
	Agent       string
	Secret      string // of the authenticator that is being set up
	Acting      json.RawMessage
	CreatedAt   time.Time
	SeenAt      time.Time
	ExpiresAt   time.Time
}

// Person is who of an app signs in.
type Person struct {
	App, Email    string
	Table, Record string // who of those with the address, or ""
}

// Stay says how long a session is to hold.
type Stay struct {
	Hours     int
	Prolonged bool
	Visit     bool
	Agent     string // what the browser says of itself
}

const mostAgent = 200

func (s Stay) fields() map[string]any {
	agent := strings.ToValidUTF8(strings.ReplaceAll(s.Agent, "\x00", ""), "")
	if len(agent) > mostAgent {
		agent = strings.ToValidUTF8(agent[:mostAgent], "")
	}
	return map[string]any{"hours": s.Hours, "prolonged": s.Prolonged, "visit": s.Visit, "agent": agent}
}

// unfinished is how long a session holds in which signing in is not done.
const unfinished = 15 * time.Minute

// SignInPerson starts a session for a person of an app who proved who they are,
// as far as the state says.
func (a *Accounts) SignInPerson(ctx context.Context, p Person, state State, stay Stay) (string, error) {
	of := stay.fields()
	of["app_id"], of["email"], of["people_table"], of["record_id"] = p.App, strings.ToLower(p.Email), p.Table, p.Record
	return a.startSession(ctx, state, stay.Hours, of)
}

func (a *Accounts) startSession(ctx context.Context, state State, hours int, of map[string]any) (string, error) {
	token, err := randomToken()
	if err != nil {
		return "", err
	}
	life := time.Duration(hours) * time.Hour
	if state != In {
		life = unfinished
	}
	of["token_hash"], of["expires_at"], of["state"] = tokenHash(token), time.Now().Add(life), state
	if err := a.db.WithContext(ctx).Table("sessions").Create(of).Error; err != nil {
		return "", fmt.Errorf("start session: %w", err)
	}
	return token, nil
}

// Finish ends an unfinished session and starts one in its place in which signing
// in is done, with another token.
func (a *Accounts) Finish(ctx context.Context, token string) (string, Session, error) {
	s, err := a.find(ctx, "token_hash = ?", tokenHash(token))
	if err != nil {
		return "", s, err
	}
	if err := a.SignOut(ctx, token); err != nil {
		return "", s, err
	}
	of := Stay{s.Hours, s.Prolonged, s.Visit, s.Agent}.fields()
	of["builder_id"], of["app_id"], of["people_table"], of["record_id"] = s.BuilderID, s.AppID, s.PeopleTable, s.RecordID
	if s.AppID != nil {
		of["email"] = s.Email
	}
	next, err := a.startSession(ctx, In, s.Hours, of)
	s.State = In
	return next, s, err
}

func tokenHash(token string) []byte {
	h := sha256.Sum256([]byte(token))
	return h[:]
}

func (a *Accounts) find(ctx context.Context, where string, args ...any) (Session, error) {
	var s Session
	r := a.db.WithContext(ctx).Raw("SELECT id, builder_id, app_id, COALESCE(email, '') AS email, people_table, record_id, state, hours, prolonged, visit, agent, secret, acting, created_at, seen_at, expires_at FROM sessions WHERE expires_at > now() AND "+where, args...).Scan(&s)
	if r.Error != nil {
		return s, fmt.Errorf("find session: %w", r.Error)
	}
	if r.RowsAffected == 0 {
		return s, ErrRefused
	}
	return s, nil
}

// seenEvery is how often it is written down that a session is used.
const seenEvery = time.Minute

// use writes down that a session is used, and prolongs it.
func (a *Accounts) use(ctx context.Context, s Session) error {
	if s.State != In || time.Since(s.SeenAt) < seenEvery {
		return nil
	}
	until := s.ExpiresAt
	if s.Prolonged { // but not for ever
		until = time.Now().Add(time.Duration(s.Hours) * time.Hour)
		if last := s.CreatedAt.Add(blueprint.MostSessionHours * time.Hour); until.After(last) {
			until = last
		}
	}
	// nobody waits for the disk: what a crash forgets of this is written down at the next use
	if err := a.db.WithContext(ctx).Exec(`UPDATE sessions SET seen_at = now(), expires_at = ?
		WHERE id = ? AND set_config('synchronous_commit', 'off', true) IS NOT NULL`, until, s.ID).Error; err != nil {
		return fmt.Errorf("note the use of a session: %w", err)
	}
	return nil
}

// Builder gives the builder whose session the token is, and how far signing in
// went.
func (a *Accounts) Builder(ctx context.Context, token string) (store.Builder, Session, error) {
	var b store.Builder
	s, err := a.find(ctx, "token_hash = ? AND builder_id IS NOT NULL", tokenHash(token))
	if err != nil {
		return b, s, err
	}
	if err := a.db.WithContext(ctx).Where("id = ?", s.BuilderID).Take(&b).Error; err != nil {
		return b, s, fmt.Errorf("find builder: %w", err)
	}
	return b, s, a.use(ctx, s)
}

// Session gives the session in the app that the token is.
func (a *Accounts) Session(ctx context.Context, app, token string) (Session, error) {
	s, err := a.find(ctx, "token_hash = ? AND app_id = ?", tokenHash(token), app)
	if err != nil {
		return s, err
	}
	return s, a.use(ctx, s)
}

// SignOut ends a session.
func (a *Accounts) SignOut(ctx context.Context, token string) error {
	if err := a.db.WithContext(ctx).Exec("DELETE FROM sessions WHERE token_hash = ?", tokenHash(token)).Error; err != nil {
		return fmt.Errorf("end session: %w", err)
	}
	return nil
}

// SessionsOf lists somebody's sessions in an app, the last used first.
func (a *Accounts) SessionsOf(ctx context.Context, s Session) ([]Session, error) {
	out := []Session{}
	where, args := ofSame(s)
	err := a.db.WithContext(ctx).Raw("SELECT id, agent, visit, created_at, seen_at, expires_at FROM sessions WHERE expires_at > now() AND state = 'in' AND "+where+" ORDER BY seen_at DESC", args...).Scan(&out).Error
	if err != nil {
		return nil, fmt.Errorf("list sessions: %w", err)
	}
	return out, nil
}

func ofSame(s Session) (string, []any) {
	if s.BuilderID != nil {
		return "builder_id = ?", []any{*s.BuilderID}
	}
	return "app_id = ? AND email = ? AND people_table = ? AND record_id = ?", []any{s.AppID, s.Email, s.PeopleTable, s.RecordID}
}

// EndSessions ends somebody's session with the id, or for "" all but the one
// given.
func (a *Accounts) EndSessions(ctx context.Context, s Session, id string) error {
	where, args := ofSame(s)
	if id == "" {
		where, args = where+" AND id <> ?", append(args, s.ID)
	} else if _, err := uuid.Parse(id); err != nil {
		return store.ErrNotFound
	} else {
		where, args = where+" AND id = ?", append(args, id)
	}
	if err := a.db.WithContext(ctx).Exec("DELETE FROM sessions WHERE "+where, args...).Error; err != nil {
		return fmt.Errorf("end sessions: %w", err)
	}
	return nil
}

// EndAll ends all sessions of an address in an app but the one with the id.
func (a *Accounts) EndAll(ctx context.Context, app, email, but string) error {
	if err := a.db.WithContext(ctx).Exec("DELETE FROM sessions WHERE app_id = ? AND email = ? AND id::text <> ?", app,
		strings.ToLower(email), but).Error; err != nil {
		return fmt.Errorf("end sessions: %w", err)
	}
	return nil
}

// Act remembers with a builder's session as whom they may act until when; nil
// ends it.
func (a *Accounts) Act(ctx context.Context, session string, acting json.RawMessage) error {
	var value any
	if acting != nil {
		value = string(acting)
	}
	if err := a.db.WithContext(ctx).Exec("UPDATE sessions SET acting = ?::jsonb WHERE id = ?", value, session).Error; err != nil {
		return fmt.Errorf("note as whom somebody acts: %w", err)
	}
	return nil
}
