package accounts

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base32"
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"image/png"
	"slices"
	"strings"
	"time"

	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"
	"gorm.io/gorm"
)

// Setup is what somebody needs to set up an authenticator app.
type Setup struct {
	Secret string `json:"secret"`
	// Image is a PNG of the QR code, as a data: address.
	Image string `json:"image"`
}

// period is how long a code of an authenticator holds, in seconds, RFC 6238.
const period = 30

// NewSecret makes the secret of an authenticator.
func NewSecret() (string, error) {
	raw := make([]byte, 20)
	if _, err := rand.Read(raw); err != nil {
		return "", fmt.Errorf("make a secret: %w", err)
	}
	return base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString(raw), nil
}

// SetupOf gives the setup of a secret, known in the authenticator by who issues
// it and the account.
func SetupOf(secret, issuer, account string) (Setup, error) {
	raw, err := base32.StdEncoding.WithPadding(base32.NoPadding).DecodeString(secret)
	if err != nil {
		return Setup{}, fmt.Errorf("read a secret: %w", err)
	}
	key, err := totp.Generate(totp.GenerateOpts{Issuer: strings.ReplaceAll(issuer, ":", " "), AccountName: account, Secret: raw,
		Period: period})
	if err != nil {
		return Setup{}, fmt.Errorf("make the address of an authenticator: %w", err)
	}
	img, err := key.Image(200, 200)
	if err != nil {
		return Setup{}, fmt.Errorf("draw the code of an authenticator: %w", err)
	}
	var out bytes.Buffer
	if err := png.Encode(&out, img); err != nil {
		return Setup{}, fmt.Errorf("write the code of an authenticator: %w", err)
	}
	return Setup{secret, "data:image/png;base64," + base64.StdEncoding.EncodeToString(out.Bytes())}, nil
}

// step gives the time step at which the code of the secret holds, one before and
// one after now allowed; 0 where it does not.
func step(secret, code string, now time.Time) int64 {
	for _, ahead := range []int64{0, -1, 1} {
		at := now.Unix()/period + ahead
		ok, err := totp.ValidateCustom(strings.TrimSpace(code), secret, time.Unix(at*period, 0),
			totp.ValidateOpts{Period: period, Digits: otp.DigitsSix})
		if err == nil && ok {
			return at
		}
	}
	return 0
}

// RightCode tells whether a code is that of the secret now.
func RightCode(secret, code string, now time.Time) bool { return step(secret, code, now) != 0 }

const recoveryCodes = 10

// newRecovery makes recovery codes, and what is kept of them.
func newRecovery() (codes []string, kept string, err error) {
	var hashes []string
	for range recoveryCodes {
		raw := make([]byte, 10)
		if _, err := rand.Read(raw); err != nil {
			return nil, "", fmt.Errorf("make recovery codes: %w", err)
		}
		code := strings.ToLower(base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString(raw))
		code = strings.Join([]string{code[:4], code[4:8], code[8:12], code[12:16]}, "-")
		codes, hashes = append(codes, code), append(hashes, recoveryHash(code))
	}
	return codes, strings.Join(hashes, " "), nil
}

// recoveryHash needs no salt: the codes are 80 random bits.
func recoveryHash(code string) string {
	h := sha256.Sum256([]byte(strings.NewReplacer("-", "", " ", "").Replace(strings.ToLower(strings.TrimSpace(code)))))
	return hex.EncodeToString(h[:])
}

// authenticator is what is kept of somebody's.
type authenticator struct {
	TotpSecret *string
	TotpLast   int64
	Recovery   string // hashes
}

// useAuthenticator takes a code of an authenticator, or a recovery code, once.
// Where is the row of the account.
func (a *Accounts) useAuthenticator(ctx context.Context, table, where string, args []any, code string) error {
	return a.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var x authenticator
		r := tx.Raw("SELECT totp_secret, totp_last, recovery FROM "+table+" WHERE "+where+" FOR UPDATE", args...).Scan(&x)
		if r.Error != nil {
			return fmt.Errorf("find authenticator: %w", r.Error)
		}
		if r.RowsAffected == 0 || x.TotpSecret == nil {
			return ErrRefused
		}
		// a code that was used, or is older than that, is not taken again
		if at := step(*x.TotpSecret, code, time.Now()); at > x.TotpLast {
			return tx.Exec("UPDATE "+table+" SET totp_last = ? WHERE "+where, append([]any{at}, args...)...).Error
		}
		left := strings.Fields(x.Recovery)
		i := slices.Index(left, recoveryHash(code))
		if i < 0 {
			return ErrRefused
		}
		return tx.Exec("UPDATE "+table+" SET recovery = ? WHERE "+where,
			append([]any{strings.Join(slices.Delete(left, i, i+1), " ")}, args...)...).Error
	})
}

// enrol keeps the secret of an authenticator whose code was right, and gives new
// recovery codes.
func (a *Accounts) enrol(ctx context.Context, table, where string, args []any, secret, code string) ([]string, error) {
	at := step(secret, code, time.Now())
	if at == 0 {
		return nil, ErrRefused
	}
	codes, kept, err := newRecovery()
	if err != nil {
		return nil, err
	}
	if err := a.db.WithContext(ctx).Exec("UPDATE "+table+" SET totp_secret = ?, totp_last = ?, recovery = ? WHERE "+where,
		append([]any{secret, at, kept}, args...)...).Error; err != nil {
		return nil, fmt.Errorf("keep an authenticator: %w", err)
	}
	return codes, nil
}
