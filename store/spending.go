package store

import (
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
)

// spending knows how much time of the database each workspace took of late, so that
// one that takes much of it by many small reads gives way as one with a heavy read
// does.
type spending struct {
	mu sync.Mutex
	of *lru.Cache[spender, *spent]
}

// spender is a workspace, with what it is busy with.
type spender struct {
	workspace string
	kind      Kind
}

// spent is what was taken in a span of time and in the one before.
type spent struct {
	span        int64
	now, before time.Duration
}

// The length of a span, and how many workspaces are remembered.
const (
	span        = time.Second
	mostSpender = 10_000
)

func newSpending() *spending {
	of, err := lru.New[spender, *spent](mostSpender)
	if err != nil {
		panic(err) // only for a size that is none
	}
	return &spending{of: of}
}

// at gives what a workspace spent, with its spans up to date.
func (s *spending) at(key spender, now time.Time) *spent {
	x, ok := s.of.Get(key)
	if !ok {
		x = &spent{}
		s.of.Add(key, x)
	}
	switch n := now.UnixNano() / int64(span); {
	case n == x.span:
	case n == x.span+1:
		x.span, x.now, x.before = n, 0, x.now
	default:
		x.span, x.now, x.before = n, 0, 0
	}
	return x
}

// add notes that a workspace took some time.
func (s *spending) add(key spender, took time.Duration) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.at(key, time.Now()).now += took
}

// rate tells how much of a second the workspace took, in the present span or the one
// before, whichever was more.
func (s *spending) rate(key spender) time.Duration {
	s.mu.Lock()
	defer s.mu.Unlock()
	x := s.at(key, time.Now())
	return max(x.now, x.before)
}
