package outside

import (
	"context"
	"errors"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/sync/singleflight"

	"pinegate/core/blueprint"
	"pinegate/core/service"
)

// Kept keeps what services answer for a time, so that they are asked seldom however many people look.
type Kept struct {
	// allow tells whether pages of an app may ask once more now: people can have them ask for whatever
	// they like, as what is sent can depend on them.
	allow    func(ctx context.Context, app string) (bool, error)
	services *Services
	answers  *lru.Cache[string, kept]
	asking   singleflight.Group
}

type kept struct {
	rows []service.Row
	at   time.Time
}

// mostKept is how many answers are kept, and stale for how long one is shown for want of a newer one.
const (
	mostKept = 500
	stale    = 24 * time.Hour
)

// NewKept gives what keeps the answers of services. It asks allow whether pages of an app may ask once more now.
func NewKept(s *Services, allow func(ctx context.Context, app string) (bool, error)) *Kept {
	answers, err := lru.New[string, kept](mostKept)
	if err != nil {
		panic(err) // only for a size that is none
	}
	return &Kept{allow: allow, services: s, answers: answers}
}

// Rows gives what a service answers, and since when that is known: an answer that is not older than a
// time, or a new one. Where there is none, an older one is better than nothing.
func (k *Kept) Rows(ctx context.Context, app string, x *blueprint.Connection, call *blueprint.Call, what service.Asked,
	life time.Duration) ([]service.Row, time.Time, error) {
	// what is taken belongs to it, as rows are kept as they were read
	key := app + " " + SecretOf(x) + " " + x.Address + " " + call.ID + " " + call.Rows + " " + what.Path + "?" + what.Query.Encode()
	for _, t := range call.Takes {
		key += " " + t.ID + string(t.Type) + t.From
	}
	known, is := k.answers.Get(key)
	if is && time.Since(known.at) < life {
		return known.rows, known.at, nil
	}
	got, err, _ := k.asking.Do(key, func() (any, error) {
		switch ok, err := k.allow(ctx, app); {
		case err != nil: // ours, for which no older answer makes up
			return nil, err
		case !ok:
			return nil, passing("service-often", "service", x.Name)
		}
		answer, err := k.services.Ask(context.WithoutCancel(ctx), app, x, call, what, "")
		if err != nil {
			return nil, err
		}
		out := kept{answer.Rows, time.Now()}
		k.answers.Add(key, out)
		return out, nil
	})
	var failed *Failed
	switch {
	case errors.As(err, &failed) && is && time.Since(known.at) < stale:
		return known.rows, known.at, nil
	case err != nil:
		return nil, time.Time{}, err
	}
	out := got.(kept)
	return out.rows, out.at, nil
}
