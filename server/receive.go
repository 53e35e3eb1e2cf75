package server

import (
	"context"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"pinegate/server/runtime"
	"pinegate/store"
)

// How many files are received at once: of one who sends, and of all; and how long a
// further one waits. Each takes memory, and its connection, as long as it lasts.
const (
	receivesOne  = 3
	receivesAll  = 40
	receivesWait = 10 * time.Second
)

// receiver receives files.
type receiver struct {
	turns  *store.Turns
	places chan struct{}
}

func newReceiver() *receiver {
	return &receiver{store.NewTurns(receivesOne, receivesWait), make(chan struct{}, receivesAll)}
}

// take waits for a place to receive in, and gives what gives it back.
func (r *receiver) take(ctx context.Context, who string) (leave func(), err error) {
	turn, err := r.turns.Take(ctx, who)
	if err != nil {
		return nil, err
	}
	timeout := time.NewTimer(receivesWait)
	defer timeout.Stop()
	select {
	case r.places <- struct{}{}:
		return func() { <-r.places; turn() }, nil
	case <-ctx.Done():
		err = context.Cause(ctx)
	case <-timeout.C:
		err = store.ErrBusy
	}
	turn()
	return nil, err
}

// sender names who sends a file: a builder, a person of an app, or where they are.
func sender(ctx context.Context) string {
	if b, is := who(ctx); is {
		return "builder " + b.ID
	}
	p := place(ctx)
	if p == nil {
		return "host " + from(ctx).Host
	}
	if p.Session != nil {
		return "person " + p.App.ID + " " + p.Session.Email + " " + p.Session.RecordID
	}
	return "host " + p.From.Host
}

// raw answers a request whose body is a file.
func (s *Server) raw(do func(*gin.Context) (any, error)) gin.HandlerFunc {
	return func(g *gin.Context) {
		leave, err := s.receiver.take(g, sender(g.Request.Context()))
		if err != nil {
			failed(g, "receive a file", err)
			return
		}
		defer leave()
		answer, err := do(g)
		if err == nil {
			g.JSON(http.StatusOK, answer)
			return
		}
		failed(g, "receive a file", err)
	}
}

// formFiles receives files for the questions of forms.
func (s *Server) formFiles(group *gin.RouterGroup, h *runtime.Handlers) {
	group.POST("/files/:block/:field", s.raw(func(g *gin.Context) (any, error) {
		at := runtime.PageInput{Path: g.Query("path"), Record: g.Query("record")}
		return h.Upload(g.Request.Context(), g.Param("block"), g.Param("field"), at, g.Query("name"), g.Request.Body)
	}))
}
