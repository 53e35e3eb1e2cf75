package page

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"time"

	"pinegate/core/blueprint"
)

// Alone shows one block of the page, by itself.
func (v *View) Alone(ctx context.Context, x blueprint.Block) (Block, error) {
	shown, err := v.all(ctx, blueprint.Blocks{x})
	if err != nil {
		return nil, err
	}
	if len(shown) == 0 {
		return nil, ErrNotNow
	}
	switch f := shown[0].(type) {
	case *Form:
		f.Opens = ""
	case *Calculator:
		f.Opens = ""
	}
	return shown[0], nil
}

// stamp says when a form was shown to somebody, so that programs which send it at once can be told
// from people. It is made with what only the server knows of the app.
func (u Use) stamp() string { return u.stamped(u.Seat.Clock.Now) }

func (u Use) stamped(at time.Time) string {
	raw := binary.BigEndian.AppendUint64(nil, uint64(at.Unix()))
	mac := hmac.New(sha256.New, []byte(u.Seat.Schema))
	mac.Write(append(raw, u.Block.ID...)) // which cannot fail
	return base64.RawURLEncoding.EncodeToString(append(raw, mac.Sum(nil)[:16]...))
}

// Hasty tells whether a form was sent sooner than so long after it was shown, or never was.
func (u Use) Hasty(stamp string, least time.Duration) bool {
	raw, err := base64.RawURLEncoding.DecodeString(stamp)
	if err != nil || len(raw) != 24 {
		return true
	}
	at := time.Unix(int64(binary.BigEndian.Uint64(raw)), 0)
	return !hmac.Equal([]byte(u.stamped(at)), []byte(stamp)) || u.Seat.Clock.Now.Sub(at) < least
}
