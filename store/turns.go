package store

import (
	"context"
	"sync"
	"time"
)

// Turns bound how much is done at once for each workspace, so that one can fill
// neither the connections nor the processors that are there for all.
type Turns struct {
	places int
	wait   time.Duration

	mu      sync.Mutex
	waiting map[string]*line
}

// line is where those of one workspace wait for their turn.
type line struct {
	places chan struct{}
	users  int
}

// NewTurns gives so many at once to each workspace, each within a time; zero is no limit.
func NewTurns(places int, wait time.Duration) *Turns {
	return &Turns{places: places, wait: wait, waiting: map[string]*line{}}
}

// Take waits for the turn of a workspace, [ErrBusy] when there is none in time, and
// gives what ends it. What is for nobody in particular has its turn at once.
func (t *Turns) Take(ctx context.Context, workspace string) (leave func(), err error) {
	if workspace == "" || t.places == 0 {
		return func() {}, nil
	}
	at := t.join(workspace)
	timeout := time.NewTimer(t.wait)
	defer timeout.Stop()
	select {
	case at.places <- struct{}{}:
		return sync.OnceFunc(func() { <-at.places; t.leave(workspace, at) }), nil
	case <-ctx.Done():
		err = context.Cause(ctx)
	case <-timeout.C:
		err = ErrBusy
	}
	t.leave(workspace, at)
	return nil, err
}

func (t *Turns) join(workspace string) *line {
	t.mu.Lock()
	defer t.mu.Unlock()
	at := t.waiting[workspace]
	if at == nil {
		at = &line{places: make(chan struct{}, t.places)}
		t.waiting[workspace] = at
	}
	at.users++
	return at
}

func (t *Turns) leave(workspace string, at *line) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if at.users--; at.users == 0 {
		delete(t.waiting, workspace)
	}
}
