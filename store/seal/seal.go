// Package seal keeps secrets of apps, sealed with a key that only the servers have: whoever reads
// the database, or a backup of it, reads none.
package seal

import (
	"context"
	"crypto/aes"
	"crypto/cipher"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"gorm.io/gorm"

	"pinegate/core/words"
	"pinegate/store"
)

// Key is what secrets are sealed with.
type Key [32]byte

// KeyIn gives the key that a file holds, in Base64. A file that is not there yet is made, with a new
// key, for nobody but who runs the server to read.
func KeyIn(path string) (key Key, err error) {
	raw, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return newKey(path)
	}
	if err != nil {
		return key, fmt.Errorf("read the key of the server: %w", err)
	}
	found, err := base64.StdEncoding.DecodeString(strings.TrimSpace(string(raw)))
	if err != nil || len(found) != len(key) {
		return key, fmt.Errorf("read the key of the server: %s holds no key of %d bytes in Base64", path, len(key))
	}
	return Key(found), nil
}

func newKey(path string) (key Key, err error) {
	if _, err := rand.Read(key[:]); err != nil {
		return key, fmt.Errorf("make a key of the server: %w", err)
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return key, fmt.Errorf("make a key of the server: %w", err)
	}
	f, err := os.OpenFile(path, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o600)
	if errors.Is(err, fs.ErrExist) { // by another server, meanwhile
		return KeyIn(path)
	}
	if err != nil {
		return key, fmt.Errorf("make a key of the server: %w", err)
	}
	_, err = fmt.Fprintln(f, base64.StdEncoding.EncodeToString(key[:]))
	if err = errors.Join(err, f.Sync(), f.Close()); err != nil {
		return key, fmt.Errorf("make a key of the server: %w", err)
	}
	return key, nil
}

// Book keeps secrets.
type Book struct {
	db   *gorm.DB
	aead cipher.AEAD
}

// In gives the book of a database, with the key of the server.
func In(db *gorm.DB, key Key) (*Book, error) {
	block, err := aes.NewCipher(key[:])
	if err != nil {
		return nil, fmt.Errorf("use the key of the server: %w", err)
	}
	aead, err := cipher.NewGCMWithRandomNonce(block)
	if err != nil {
		return nil, fmt.Errorf("use the key of the server: %w", err)
	}
	return &Book{db, aead}, nil
}

// Kept tells that there is a secret, and who gave it.
type Kept struct {
	Of     string
	MadeBy string
	MadeAt time.Time
}

// bound is what a secret is sealed together with, so that none can be put in the place of another.
func bound(app, of string) []byte { return []byte(app + "\n" + of) }

// Set keeps a secret of an app, instead of one that there was.
func (b *Book) Set(ctx context.Context, app, of, secret, by string) error {
	sealed := b.aead.Seal(nil, nil, []byte(secret), bound(app, of))
	err := b.db.WithContext(ctx).Exec(`INSERT INTO secrets (app_id, of, sealed, made_by) VALUES (?, ?, ?, ?)
		ON CONFLICT (app_id, of) DO UPDATE SET sealed = excluded.sealed, made_by = excluded.made_by, made_at = now()`,
		app, of, sealed, by).Error
	if err != nil {
		return fmt.Errorf("keep a secret: %w", err)
	}
	return nil
}

// Cover makes of data a text that only the servers can read, or could have made; it is fit for an address.
func (b *Book) Cover(purpose string, data []byte) string {
	return base64.RawURLEncoding.EncodeToString(b.aead.Seal(nil, nil, data, bound("", purpose)))
}

// Uncover gives the data of a text that [Book.Cover] made for the purpose; [store.ErrNotFound] for any other.
func (b *Book) Uncover(purpose, text string) ([]byte, error) {
	sealed, err := base64.RawURLEncoding.DecodeString(text)
	if err != nil {
		return nil, store.ErrNotFound
	}
	data, err := b.aead.Open(nil, nil, sealed, bound("", purpose))
	if err != nil {
		return nil, store.ErrNotFound
	}
	return data, nil
}

// Forget forgets a secret.
func (b *Book) Forget(ctx context.Context, app, of string) error {
	if err := b.db.WithContext(ctx).Exec("DELETE FROM secrets WHERE app_id = ? AND of = ?", app, of).Error; err != nil {
		return fmt.Errorf("forget a secret: %w", err)
	}
	return nil
}

// Open gives a secret; [store.ErrNotFound] where there is none. One that was sealed with another key
// is told in words.
func (b *Book) Open(ctx context.Context, app, of string) (string, error) {
	var rows [][]byte
	if err := b.db.WithContext(ctx).Raw("SELECT sealed FROM secrets WHERE app_id = ? AND of = ?", app, of).Scan(&rows).Error; err != nil {
		return "", fmt.Errorf("read a secret: %w", err)
	}
	if len(rows) == 0 {
		return "", store.ErrNotFound
	}
	secret, err := b.aead.Open(nil, nil, rows[0], bound(app, of))
	if err != nil {
		return "", words.New("secret-other-key")
	}
	return string(secret), nil
}

// Of tells which secrets of an app are kept.
func (b *Book) Of(ctx context.Context, app string) (map[string]Kept, error) {
	var rows []Kept
	err := b.db.WithContext(ctx).Raw("SELECT of, made_by, made_at FROM secrets WHERE app_id = ?", app).Scan(&rows).Error
	if err != nil {
		return nil, fmt.Errorf("list secrets: %w", err)
	}
	out := map[string]Kept{}
	for _, x := range rows {
		out[x.Of] = x
	}
	return out, nil
}
