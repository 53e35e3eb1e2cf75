// Package kept keeps values for people of apps for a time: in their browsers as a text that
// these send back, and for people who are signed in under who they are.
package kept

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// Value is a value as PostgreSQL reads it, and until when it counts, in seconds since 1970.
type Value struct {
	Text  string `json:"v"`
	Until int64  `json:"u"`
}

// Values are what is kept, by the ids of kept values.
type Values map[string]Value

// Now gives the texts that still count.
func (v Values) Now(now time.Time) map[string]string {
	out := map[string]string{}
	for id, x := range v {
		if x.Until > now.Unix() && x.Text != "" {
			out[id] = x.Text
		}
	}
	return out
}

// Longest is how long the text of what is kept in a browser can be: browsers keep some
// 4,000 bytes of a cookie.
const Longest = 3500

// MostText is how many bytes of a text are kept at most.
const MostText = 200

// Encode writes what is kept as a text for a browser; "" for nothing.
func (v Values) Encode() (string, error) {
	if len(v) == 0 {
		return "", nil
	}
	raw, err := json.Marshal(v)
	if err != nil {
		return "", fmt.Errorf("write what is kept: %w", err)
	}
	return base64.RawURLEncoding.EncodeToString(raw), nil
}

// Decode reads what a browser sent. What cannot be read is nothing: people can send what
// they like, so whoever uses a value checks it.
func Decode(text string) Values {
	out := Values{}
	raw, err := base64.RawURLEncoding.DecodeString(text)
	if err != nil || len(text) > Longest || json.Unmarshal(raw, &out) != nil || out == nil {
		return Values{}
	}
	return out
}

// Book is where it is kept for people who are signed in.
type Book struct{ db *gorm.DB }

// In gives the book of a database.
func In(db *gorm.DB) *Book { return &Book{db} }

// Of gives what is kept for somebody in a place of an app.
func (b *Book) Of(ctx context.Context, app, place, who string) (Values, error) {
	raw := ""
	r := b.db.WithContext(ctx).Raw("SELECT kept::text FROM kept_values WHERE app_id = ? AND place = ? AND who = ?", app, place, who).Scan(&raw)
	if r.Error != nil {
		return nil, fmt.Errorf("read what is kept for somebody: %w", r.Error)
	}
	out := Values{}
	if raw == "" {
		return out, nil
	}
	if err := json.Unmarshal([]byte(raw), &out); err != nil {
		return nil, fmt.Errorf("read what is kept for somebody: %w", err)
	}
	return out, nil
}

// Put keeps values for somebody beside those that are kept; one without a text is forgotten.
func (b *Book) Put(ctx context.Context, app, place, who string, values Values) error {
	set, gone := Values{}, []string{}
	for id, v := range values {
		if v.Text == "" {
			gone = append(gone, id)
		} else {
			set[id] = v
		}
	}
	raw, err := json.Marshal(set)
	if err != nil {
		return fmt.Errorf("write what is kept: %w", err)
	}
	names, err := json.Marshal(gone)
	if err != nil {
		return fmt.Errorf("write what is forgotten: %w", err)
	}
	r := b.db.WithContext(ctx).Exec(`INSERT INTO kept_values AS k (app_id, place, who, kept) VALUES (?, ?, ?, ?::jsonb)
		ON CONFLICT (app_id, place, who) DO UPDATE SET changed_at = now(),
			kept = (k.kept || excluded.kept) - ARRAY(SELECT jsonb_array_elements_text(?::jsonb))`,
		app, place, who, string(raw), string(names))
	if r.Error != nil {
		return fmt.Errorf("keep values for somebody: %w", r.Error)
	}
	return nil
}

// Sweep forgets what can count no more.
func (b *Book) Sweep(ctx context.Context) error {
	r := b.db.WithContext(ctx).Exec("DELETE FROM kept_values WHERE changed_at < now() - interval '401 days'")
	if r.Error != nil {
		return fmt.Errorf("forget what was kept: %w", r.Error)
	}
	return nil
}
