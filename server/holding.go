package server

import (
	"net/http"
	"sync/atomic"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/hashicorp/golang-lru/v2/expirable"

	"pinegate/server/runtime"
)

// Holding holds answers back from who is refused again and again, as nobody is who uses
// a browser: so programs that try what they may not take no more than a little from
// the others. What is not refused is never held back. The zero value holds nothing.
type Holding struct {
	After int           // how many refusals in a minute are answered at once
	For   time.Duration // how long each further one is held back
	Most  int           // how many answers are held at once; beyond, none is
}

// UsualHolding is what servers do.
func UsualHolding() Holding { return Holding{After: 100, For: 250 * time.Millisecond, Most: 500} }

const (
	refusedFor    = time.Minute
	mostRefused   = 10_000 // of whom refusals are counted
	stoppedByUser = 499
)

// holding is the middleware that does so.
func (s *Server) holding(h Holding) gin.HandlerFunc {
	counts := expirable.NewLRU[string, *atomic.Int64](mostRefused, nil, refusedFor)
	held := make(chan struct{}, h.Most)
	return func(g *gin.Context) {
		g.Next()
		status := g.Writer.Status()
		if h.After == 0 || status < http.StatusBadRequest || status >= stoppedByUser {
			return
		}
		who := s.refused(g)
		count, known := counts.Get(who)
		if !known {
			count = new(atomic.Int64)
			counts.Add(who, count)
		}
		if count.Add(1) <= int64(h.After) {
			return
		}
		select {
		case held <- struct{}{}:
		default:
			return
		}
		defer func() { <-held }()
		select {
		case <-g.Request.Context().Done():
		case <-time.After(h.For):
		}
	}
}

// refused says who is refused: who is signed in, by the session, and else where the
// request comes from. A session that is none does not make one somebody else.
func (s *Server) refused(g *gin.Context) string {
	ctx := g.Request.Context()
	if here := session(ctx); here.ID != "" {
		return "session " + here.ID
	}
	if p, ok := ctx.Value(keyPlace).(*runtime.Place); ok && p.Session != nil {
		return "session " + p.Session.ID
	}
	return "host " + s.host(g)
}
