package accounts

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math/big"
	"strings"
	"time"

	"github.com/google/uuid"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Purpose says what a code or a link is for; one for something else is none.
type Purpose string

// The purposes of codes and links.
const (
	ToSignIn     Purpose = "sign in"
	ToGoOn       Purpose = "second step"
	ToSignUp     Purpose = "sign up"
	ToReset      Purpose = "reset"
	ToMove       Purpose = "change address"
	ToInvite     Purpose = "invitation"
	ToConfirm    Purpose = "builder confirms"
	ToRenew      Purpose = "builder resets"
	ToJoin       Purpose = "builder joins"
	ToSignInLink Purpose = "sign-in link"
	ToSend       Purpose = "sender of mail"
)

// How long codes hold, and how often one may be tried.
const (
	CodeLife  = 10 * time.Minute
	CodeTries = 5
	CodeWait  = 30 * time.Second // between two codes for the same
)

// Code says for whom and what a code is. App is "" for builders.
type Code struct {
	App     string
	Purpose Purpose
	Subject string // whom it proves, such as an e-mail address
}

func (c Code) app() any {
	if c.App == "" {
		return nil
	}
	return c.App
}

const sameCode = "app_id IS NOT DISTINCT FROM ?::uuid AND purpose = ? AND subject = ?"

func (c Code) args() []any { return []any{c.app(), c.Purpose, c.Subject} }

// MakeCode makes a six-digit code and voids older ones. Data is given back when
// it is used. It gives "" when the last one is too young.
func (a *Accounts) MakeCode(ctx context.Context, c Code, data any) (string, error) {
	n, err := rand.Int(rand.Reader, big.NewInt(1_000_000))
	if err != nil {
		return "", fmt.Errorf("draw code: %w", err)
	}
	code := fmt.Sprintf("%06d", n)
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		return "", fmt.Errorf("make salt: %w", err)
	}
	raw, err := json.Marshal(data)
	if err != nil {
		return "", fmt.Errorf("write what a code carries: %w", err)
	}
	err = a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("SELECT pg_advisory_xact_lock(hashtext(?))", c.App+string(c.Purpose)+c.Subject).Error; err != nil {
			return fmt.Errorf("lock address: %w", err)
		}
		var young int64
		if err := tx.Table("codes").Where(sameCode, c.args()...).Where("created_at > ? AND NOT void",
			time.Now().Add(-CodeWait)).Count(&young).Error; err != nil {
			return fmt.Errorf("look for a young code: %w", err)
		}
		if young > 0 {
			code = ""
			return nil
		}
		if err := tx.Table("codes").Where(sameCode, c.args()...).Update("void", true).Error; err != nil {
			return fmt.Errorf("void codes: %w", err)
		}
		return tx.Table("codes").Create(map[string]any{"app_id": c.app(), "purpose": c.Purpose, "subject": c.Subject, "salt": salt,
			"hash": codeHash(salt, code), "data": string(raw), "expires_at": time.Now().Add(CodeLife)}).Error
	})
	return code, err
}

func codeHash(salt []byte, code string) []byte {
	h := sha256.Sum256(append(append([]byte{}, salt...), code...))
	return h[:]
}

// Proof is a code that was right. It is used up by [Accounts.Spend].
type Proof int64

// UseCode takes a code once and reads what it carries; [ErrRefused] if it is
// wrong, used, too old, or was tried too often. It is for what cannot fail after it;
// all else is [Accounts.TryCode].
func (a *Accounts) UseCode(ctx context.Context, c Code, code string, data any) error {
	p, err := a.TryCode(ctx, c, code, data)
	if err != nil {
		return err
	}
	return a.Spend(ctx, p)
}

// Spend uses a code up, in the transaction of what it was for: where that fails, the
// code is still there. It is [ErrRefused] when somebody else used it meanwhile.
func (a *Accounts) Spend(ctx context.Context, p Proof) error {
	r := a.db.WithContext(ctx).Exec("UPDATE codes SET void = true WHERE id = ? AND NOT void", p)
	if r.Error != nil {
		return fmt.Errorf("use a code: %w", r.Error)
	}
	if r.RowsAffected == 0 {
		return ErrRefused
	}
	return nil
}

// TryCode looks whether a code is right and reads what it carries; [ErrRefused] if it
// is wrong, used, too old, or was tried too often. A wrong one counts as a try whatever
// else becomes of the request.
func (a *Accounts) TryCode(ctx context.Context, c Code, code string, data any) (Proof, error) {
	refused := false
	var proof Proof
	err := a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var found struct {
			ID         int64
			Salt, Hash []byte
			Tries      int
			Data       []byte
		}
		// locked, so that guesses made at once count one by one
		r := tx.Table("codes").Clauses(clause.Locking{Strength: "UPDATE"}).
			Where(sameCode, c.args()...).Where("NOT void AND expires_at > now()").Order("id DESC").Limit(1).Find(&found)
		if r.Error != nil {
			return fmt.Errorf("find code: %w", r.Error)
		}
		if r.RowsAffected == 0 {
			refused = true
			return nil
		}
		right := subtle.ConstantTimeCompare(found.Hash, codeHash(found.Salt, code)) == 1
		refused, proof = !right, Proof(found.ID)
		if right && data != nil {
			if err := json.Unmarshal(found.Data, data); err != nil {
				return fmt.Errorf("read what a code carries: %w", err)
			}
		}
		if right {
			return nil
		}
		return tx.Table("codes").Where("id = ?", found.ID).Updates(map[string]any{"tries": found.Tries + 1,
			"void": found.Tries+1 >= CodeTries}).Error
	})
	if err == nil && refused {
		err = ErrRefused
	}
	return proof, err
}

// Link is what stands in a mail as an address to open.
type Link struct {
	ID        string
	AppID     *string
	Workspace *string `gorm:"column:workspace_id"`
	Purpose   Purpose
	Subject   string
	Data      json.RawMessage
	CreatedAt time.Time
	ExpiresAt time.Time
}

// TableName is where links are kept.
func (Link) TableName() string { return "tokens" }

// randomToken makes a token of 256 random bits.
func randomToken() (string, error) {
	raw := make([]byte, 32)
	if _, err := rand.Read(raw); err != nil {
		return "", fmt.Errorf("make token: %w", err)
	}
	return base64.RawURLEncoding.EncodeToString(raw), nil
}

// NewTicket makes a ticket: what a browser has to show besides a code, so that a
// code which somebody else asked for is of no use there.
func NewTicket() (string, error) { return randomToken() }

// Ticketed is the subject of a code that goes with a ticket.
func Ticketed(email, ticket string) string {
	return strings.ToLower(email) + " " + hex.EncodeToString(tokenHash(ticket))
}

// MakeLink makes a link and gives its token. Older ones for the same are void.
func (a *Accounts) MakeLink(ctx context.Context, l Link, life time.Duration) (string, error) {
	token, err := randomToken()
	if err != nil {
		return "", err
	}
	if l.Data == nil {
		l.Data = json.RawMessage("null")
	}
	err = a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("DELETE FROM tokens WHERE app_id IS NOT DISTINCT FROM ?::uuid AND workspace_id IS NOT DISTINCT FROM ?::uuid AND purpose = ? AND subject = ?", l.AppID, l.Workspace, l.Purpose, l.Subject).Error; err != nil {
			return fmt.Errorf("void links: %w", err)
		}
		return tx.Table("tokens").Create(map[string]any{"id": uuid.NewString(), "hash": tokenHash(token), "app_id": l.AppID,
			"workspace_id": l.Workspace, "purpose": l.Purpose, "subject": l.Subject, "data": string(l.Data),
			"expires_at": time.Now().Add(life)}).Error
	})
	if err != nil {
		return "", fmt.Errorf("make link: %w", err)
	}
	return token, nil
}

// LookAtLink gives the link with the token without using it; [ErrRefused] where
// there is none.
func (a *Accounts) LookAtLink(ctx context.Context, app string, purpose Purpose, token string) (Link, error) {
	return a.link(a.db.WithContext(ctx), app, purpose, token)
}

func (a *Accounts) link(tx *gorm.DB, app string, purpose Purpose, token string) (Link, error) {
	var l Link
	err := tx.Where("hash = ? AND purpose = ? AND app_id IS NOT DISTINCT FROM ?::uuid AND expires_at > now()", tokenHash(token), purpose,
		Code{App: app}.app()).Take(&l).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return l, ErrRefused
	}
	if err != nil {
		return l, fmt.Errorf("find link: %w", err)
	}
	return l, nil
}

// UseLink takes a link once.
func (a *Accounts) UseLink(ctx context.Context, app string, purpose Purpose, token string) (Link, error) {
	var l Link
	err := a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) (err error) {
		if l, err = a.link(tx.Clauses(clause.Locking{Strength: "UPDATE"}), app, purpose, token); err != nil {
			return err
		}
		return tx.Exec("DELETE FROM tokens WHERE id = ?", l.ID).Error
	})
	return l, err
}

// Links lists the links of a purpose, the newest first: of an app, or of a
// workspace.
func (a *Accounts) Links(ctx context.Context, app, workspace string, purpose Purpose) ([]Link, error) {
	out := []Link{}
	err := a.db.WithContext(ctx).Where("purpose = ? AND app_id IS NOT DISTINCT FROM ?::uuid AND workspace_id IS NOT DISTINCT FROM ?::uuid AND expires_at > now()", purpose, Code{App: app}.app(), Code{App: workspace}.app()).
		Order("created_at DESC").Find(&out).Error
	if err != nil {
		return nil, fmt.Errorf("list links: %w", err)
	}
	return out, nil
}

// DropLink voids the link with the id.
func (a *Accounts) DropLink(ctx context.Context, app, workspace, id string) error {
	if _, err := uuid.Parse(id); err != nil {
		return ErrRefused
	}
	err := a.db.WithContext(ctx).Exec("DELETE FROM tokens WHERE id = ? AND app_id IS NOT DISTINCT FROM ?::uuid AND workspace_id IS NOT DISTINCT FROM ?::uuid", id, Code{App: app}.app(), Code{App: workspace}.app()).Error
	if err != nil {
		return fmt.Errorf("void a link: %w", err)
	}
	return nil
}
