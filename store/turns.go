package store

import (
	"context"
	"sync"
	"time"
)

// turns bounds how much is done at once for each workspace, so that one can fill
// neither the connections nor the processors that are there for all.
type turns struct {
	mu      sync.Mutex
	waiting map[turn]*line
}

type turn struct {
	workspace string
	kind      Kind
}

// line is where those of one workspace wait for their turn.
type line struct {
	places chan struct{}
	users  int
}

func newTurns() *turns { return &turns{waiting: map[turn]*line{}} }

// take waits for a turn, [ErrBusy] when there is none in time, and gives what ends
// it. What is for nobody in particular, or of a kind without limit, has its turn
// at once.
func (t *turns) take(ctx context.Context, workspace string, k Kind) (leave func(), err error) {
	l := limitsOf(k)
	if workspace == "" || l.share == 0 {
		return func() {}, nil
	}
	key := turn{workspace, k}
	at := t.join(key, l.share)
	timeout := time.NewTimer(l.wait)
	defer timeout.Stop()
	select {
	case at.places <- struct{}{}:
		return sync.OnceFunc(func() { <-at.places; t.leave(key, at) }), nil
	case <-ctx.Done():
		err = context.Cause(ctx)
	case <-timeout.C:
		err = ErrBusy
	}
	t.leave(key, at)
	return nil, err
}

func (t *turns) join(key turn, places int) *line {
	t.mu.Lock()
	defer t.mu.Unlock()
	at := t.waiting[key]
	if at == nil {
		at = &line{places: make(chan struct{}, places)}
		t.waiting[key] = at
	}
	at.users++
	return at
}

func (t *turns) leave(key turn, at *line) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if at.users--; at.users == 0 {
		delete(t.waiting, key)
	}
}
