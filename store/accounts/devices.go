package accounts

import (
	"context"
	"encoding/hex"
	"fmt"
	"strings"
	"time"
)

// DeviceLife is how long a browser is known after somebody was let in there.
const DeviceLife = 180 * 24 * time.Hour

// NewDevice makes the token by which a browser is known.
func NewDevice() (string, error) { return randomToken() }

// Device names a browser without its token.
func Device(token string) string { return hex.EncodeToString(tokenHash(token)) }

// Knows tells whether somebody was let in before from a browser: into an app, or for
// "" as a builder.
func (a *Accounts) Knows(ctx context.Context, app, who, device string) (bool, error) {
	if device == "" {
		return false, nil
	}
	var known bool
	if err := a.db.WithContext(ctx).Raw(`SELECT EXISTS (SELECT FROM devices WHERE hash = ? AND who = ?
		AND app_id IS NOT DISTINCT FROM ?::uuid AND seen_at > ?)`, tokenHash(device), strings.ToLower(who), Code{App: app}.app(),
		time.Now().Add(-DeviceLife)).Scan(&known).Error; err != nil {
		return false, fmt.Errorf("look whether a browser is known: %w", err)
	}
	return known, nil
}

// Know remembers that somebody was let in from a browser.
func (a *Accounts) Know(ctx context.Context, app, who, device string) error {
	if device == "" || who == "" {
		return nil
	}
	if err := a.db.WithContext(ctx).Exec(`INSERT INTO devices (app_id, who, hash) VALUES (?, ?, ?)
		ON CONFLICT (hash, who, app_id) DO UPDATE SET seen_at = now()`, Code{App: app}.app(), strings.ToLower(who), tokenHash(device)).Error; err != nil {
		return fmt.Errorf("remember a browser: %w", err)
	}
	return nil
}
