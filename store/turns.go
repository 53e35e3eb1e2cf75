package store

import (
	"context"
	"sync"
	"time"
)

// Turns bound how much is done at once for each of those who do it, so that one can fill
// neither the connections nor the processors that are there for all.
type Turns struct {
	places int
	wait   time.Duration

	mu      sync.Mutex
	waiting map[string]*line
}

// line is where those of one wait for their turn.
type line struct {
	places chan struct{}
	users  int
}

// NewTurns gives so many at once to each, each within a time; zero is no limit.
func NewTurns(places int, wait time.Duration) *Turns {
	return &Turns{places: places, wait: wait, waiting: map[string]*line{}}
}

// Take waits for the turn of somebody, such as a workspace, [ErrBusy] when there is none
// in time, and gives what ends it. What is for nobody in particular has its turn at once.
func (t *Turns) Take(ctx context.Context, whose string) (leave func(), err error) {
	if whose == "" || t.places == 0 {
		return func() {}, nil
	}
	at := t.join(whose)
	timeout := time.NewTimer(t.wait)
	defer timeout.Stop()
	select {
	case at.places <- struct{}{}:
		return sync.OnceFunc(func() { <-at.places; t.leave(whose, at) }), nil
	case <-ctx.Done():
		err = context.Cause(ctx)
	case <-timeout.C:
		err = ErrBusy
	}
	t.leave(whose, at)
	return nil, err
}

// Try takes the turn of somebody where it is free now.
func (t *Turns) Try(whose string) (leave func(), free bool) {
	if whose == "" || t.places == 0 {
		return func() {}, true
	}
	at := t.join(whose)
	select {
	case at.places <- struct{}{}:
		return sync.OnceFunc(func() { <-at.places; t.leave(whose, at) }), true
	default:
	}
	t.leave(whose, at)
	return nil, false
}

func (t *Turns) join(whose string) *line {
	t.mu.Lock()
	defer t.mu.Unlock()
	at := t.waiting[whose]
	if at == nil {
		at = &line{places: make(chan struct{}, t.places)}
		t.waiting[whose] = at
	}
	at.users++
	return at
}

func (t *Turns) leave(whose string, at *line) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if at.users--; at.users == 0 {
		delete(t.waiting, whose)
	}
}
