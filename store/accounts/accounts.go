// Package accounts keeps who may come in: builders, the sessions of builders
// and of the people of apps, and the codes by which the latter sign in.
package accounts

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"math/big"
	"strings"
	"time"

	"github.com/google/uuid"
	"golang.org/x/crypto/argon2"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"pinegate/store"
)

// How long sessions and codes hold, and how often a code may be tried.
const (
	BuilderSession = 12 * time.Hour
	PersonSession  = 30 * 24 * time.Hour
	CodeLife       = 10 * time.Minute
	CodeTries      = 5
	CodeWait       = 30 * time.Second // between two codes for one address
)

// ErrRefused is given for whatever does not let somebody in, so that nobody
// learns what was wrong.
var ErrRefused = errors.New("refused")

// Accounts is the collection of accounts in a store.
type Accounts struct{ db *gorm.DB }

// New gives the accounts in the store.
func New(s *store.Store) *Accounts { return &Accounts{s.DB} }

// Parameters of argon2id: 19 MiB and 2 passes, the least that OWASP advises.
const (
	argonTime, argonMemory, argonThreads = 2, 19 * 1024, 1
	argonKey                             = 32
)

func hashPassword(password string) (string, error) {
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		return "", fmt.Errorf("make salt: %w", err)
	}
	key := argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, argonKey)
	e := base64.RawStdEncoding
	return fmt.Sprintf("$argon2id$v=19$m=%d,t=%d,p=%d$%s$%s", argonMemory, argonTime, argonThreads, e.EncodeToString(salt), e.EncodeToString(key)), nil
}

func checkPassword(hash, password string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 {
		return false
	}
	var memory, passes uint32
	var threads uint8
	if _, err := fmt.Sscanf(parts[3], "m=%d,t=%d,p=%d", &memory, &passes, &threads); err != nil {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[4])
	key, err2 := base64.RawStdEncoding.DecodeString(parts[5])
	if err1 != nil || err2 != nil {
		return false
	}
	got := argon2.IDKey([]byte(password), salt, passes, memory, threads, uint32(len(key)))
	return subtle.ConstantTimeCompare(got, key) == 1
}

// AddBuilder makes the account of a builder, or sets the name and password of
// the one with that e-mail.
func (a *Accounts) AddBuilder(ctx context.Context, email, name, password string) (store.Builder, error) {
	if len(password) < 10 {
		return store.Builder{}, errors.New("a password needs at least 10 characters")
	}
	hash, err := hashPassword(password)
	if err != nil {
		return store.Builder{}, err
	}
	b := store.Builder{ID: uuid.NewString(), Email: email, Name: name, Password: hash}
	err = a.db.WithContext(ctx).Raw(`INSERT INTO builders (id, email, name, password) VALUES (?, ?, ?, ?)
		ON CONFLICT (lower(email)) DO UPDATE SET name = excluded.name, password = excluded.password RETURNING id, email, name, password`,
		b.ID, b.Email, b.Name, b.Password).Scan(&b).Error
	if err != nil {
		return b, fmt.Errorf("add builder: %w", err)
	}
	return b, nil
}

// unknownHash is checked when there is no such builder, so that the time taken
// does not tell.
const unknownHash = "$argon2id$v=19$m=19456,t=2,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"

// SignInBuilder starts a session for the builder with the e-mail and password,
// and gives its token; [ErrRefused] otherwise.
func (a *Accounts) SignInBuilder(ctx context.Context, email, password string) (string, error) {
	var b store.Builder
	err := a.db.WithContext(ctx).Where("lower(email) = lower(?)", email).Take(&b).Error
	if err != nil && !errors.Is(err, gorm.ErrRecordNotFound) {
		return "", fmt.Errorf("find builder: %w", err)
	}
	if err != nil {
		b.Password = unknownHash
	}
	if !checkPassword(b.Password, password) || err != nil {
		return "", ErrRefused
	}
	return a.startSession(ctx, BuilderSession, map[string]any{"builder_id": b.ID})
}

// SignInPerson starts a session for a person of an app who proved to own the
// e-mail address.
func (a *Accounts) SignInPerson(ctx context.Context, app, email string) (string, error) {
	return a.startSession(ctx, PersonSession, map[string]any{"app_id": app, "email": strings.ToLower(email)})
}

func (a *Accounts) startSession(ctx context.Context, life time.Duration, of map[string]any) (string, error) {
	raw := make([]byte, 32)
	if _, err := rand.Read(raw); err != nil {
		return "", fmt.Errorf("make token: %w", err)
	}
	token := base64.RawURLEncoding.EncodeToString(raw)
	of["token_hash"], of["expires_at"] = tokenHash(token), time.Now().Add(life)
	if err := a.db.WithContext(ctx).Table("sessions").Create(of).Error; err != nil {
		return "", fmt.Errorf("start session: %w", err)
	}
	return token, nil
}

func tokenHash(token string) []byte {
	h := sha256.Sum256([]byte(token))
	return h[:]
}

// Builder gives the builder whose session the token is.
func (a *Accounts) Builder(ctx context.Context, token string) (store.Builder, error) {
	var b store.Builder
	r := a.db.WithContext(ctx).Raw(`SELECT b.* FROM sessions s JOIN builders b ON b.id = s.builder_id WHERE s.token_hash = ? AND s.expires_at > now()`, tokenHash(token)).Scan(&b)
	if r.Error != nil {
		return b, fmt.Errorf("find session: %w", r.Error)
	}
	if r.RowsAffected == 0 {
		return b, ErrRefused
	}
	return b, nil
}

// Person gives the e-mail address whose session in the app the token is.
func (a *Accounts) Person(ctx context.Context, app, token string) (string, error) {
	var email string
	r := a.db.WithContext(ctx).Raw(`SELECT email FROM sessions WHERE token_hash = ? AND app_id = ? AND expires_at > now()`, tokenHash(token), app).Scan(&email)
	if r.Error != nil {
		return "", fmt.Errorf("find session: %w", r.Error)
	}
	if r.RowsAffected == 0 {
		return "", ErrRefused
	}
	return email, nil
}

// SignOut ends a session.
func (a *Accounts) SignOut(ctx context.Context, token string) error {
	if err := a.db.WithContext(ctx).Exec("DELETE FROM sessions WHERE token_hash = ?", tokenHash(token)).Error; err != nil {
		return fmt.Errorf("end session: %w", err)
	}
	return nil
}

// MakeCode makes a six-digit code for the address and voids older ones. It
// gives "" when the last one is too young.
func (a *Accounts) MakeCode(ctx context.Context, app, email string) (string, error) {
	n, err := rand.Int(rand.Reader, big.NewInt(1_000_000))
	if err != nil {
		return "", fmt.Errorf("draw code: %w", err)
	}
	code := fmt.Sprintf("%06d", n)
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		return "", fmt.Errorf("make salt: %w", err)
	}
	err = a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("SELECT pg_advisory_xact_lock(hashtext(?))", app+email).Error; err != nil {
			return fmt.Errorf("lock address: %w", err)
		}
		var young int64
		if err := tx.Table("codes").Where("app_id = ? AND email = ? AND created_at > ?", app, email, time.Now().Add(-CodeWait)).Count(&young).Error; err != nil {
			return fmt.Errorf("look for a young code: %w", err)
		}
		if young > 0 {
			code = ""
			return nil
		}
		if err := tx.Exec("UPDATE codes SET void = true WHERE app_id = ? AND email = ?", app, email).Error; err != nil {
			return fmt.Errorf("void codes: %w", err)
		}
		return tx.Table("codes").Create(map[string]any{"app_id": app, "email": email, "salt": salt, "hash": codeHash(salt, code), "expires_at": time.Now().Add(CodeLife)}).Error
	})
	return code, err
}

func codeHash(salt []byte, code string) []byte {
	h := sha256.Sum256(append(append([]byte{}, salt...), code...))
	return h[:]
}

// UseCode takes the code for the address once; [ErrRefused] if it is wrong,
// used, too old, or was tried too often.
func (a *Accounts) UseCode(ctx context.Context, app, email, code string) error {
	refused := false
	err := a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var c struct {
			ID         int64
			Salt, Hash []byte
			Tries      int
		}
		// locked, so that guesses made at once count one by one
		r := tx.Table("codes").Clauses(clause.Locking{Strength: "UPDATE"}).
			Where("app_id = ? AND email = ? AND NOT void AND expires_at > now()", app, email).Order("id DESC").Limit(1).Find(&c)
		if r.Error != nil {
			return fmt.Errorf("find code: %w", r.Error)
		}
		if r.RowsAffected == 0 {
			refused = true
			return nil
		}
		right := subtle.ConstantTimeCompare(c.Hash, codeHash(c.Salt, code)) == 1
		refused = !right
		return tx.Table("codes").Where("id = ?", c.ID).Updates(map[string]any{"tries": c.Tries + 1, "void": right || c.Tries+1 >= CodeTries}).Error
	})
	if err == nil && refused {
		return ErrRefused
	}
	return err
}

// Allow counts a use of the key and tells whether it is among the first most
// in the current window of time.
func (a *Accounts) Allow(ctx context.Context, key string, most int, window time.Duration) (bool, error) {
	var count int
	err := a.db.WithContext(ctx).Raw(`INSERT INTO hits (key, window_start, count) VALUES (?, ?, 1)
		ON CONFLICT (key, window_start) DO UPDATE SET count = hits.count + 1 RETURNING count`, key, time.Now().Truncate(window)).Scan(&count).Error
	if err != nil {
		return false, fmt.Errorf("count uses: %w", err)
	}
	return count <= most, nil
}

// Sweep removes what has run out.
func (a *Accounts) Sweep(ctx context.Context) error {
	for _, sql := range []string{
		"DELETE FROM sessions WHERE expires_at < now()",
		"DELETE FROM codes WHERE expires_at < now() - interval '1 day'",
		"DELETE FROM hits WHERE window_start < now() - interval '1 day'",
	} {
		if err := a.db.WithContext(ctx).Exec(sql).Error; err != nil {
			return fmt.Errorf("sweep: %w", err)
		}
	}
	return nil
}
