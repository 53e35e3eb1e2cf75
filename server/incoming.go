package server

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"pinegate/core/words"
	"pinegate/server/gate"
	"pinegate/store"
	"pinegate/store/accounts"
)

// Limits of calls that come in: how large one is, and how many there can be at one address in a minute,
// and how many at none.
const (
	mostIncoming  = 1 << 20 // bytes
	callsAnHook   = 600
	callsAtNone   = 60
	callsAreSince = time.Minute
)

// pagesAsk is how often in a minute pages of an app can ask services.
const pagesAsk = 120

// incoming serves calls from elsewhere, which start workflows. The address is all that they show,
// unless they are signed.
func (s *Server) incoming() {
	s.engine.POST("/in/:secret", func(g *gin.Context) {
		body, err := io.ReadAll(http.MaxBytesReader(g.Writer, g.Request.Body, mostIncoming))
		if tooLarge := (*http.MaxBytesError)(nil); errors.As(err, &tooLarge) {
			problem(g, http.StatusRequestEntityTooLarge, words.Say("incoming-large", nil))
			return
		}
		if err != nil {
			problem(g, http.StatusBadRequest, words.Say("incoming-cut", nil))
			return
		}
		err = s.hear(g, g.Param("secret"), body)
		if err != nil {
			failed(g, "take a call from elsewhere", err)
			return
		}
		g.JSON(http.StatusAccepted, gin.H{"taken": true})
	})
}

// leaving serves mail programs by which people unsubscribe with a single request (RFC 8058). All that they
// show is what the link carries.
func (s *Server) leaving() {
	s.engine.POST(gate.LeavePath+":carried", func(g *gin.Context) {
		if err := s.Runs.Leave(g, g.Param("carried"), false); err != nil {
			failed(g, "unsubscribe an address", err)
			return
		}
		g.Status(http.StatusNoContent)
	})
}

func (s *Server) hear(g *gin.Context, secret string, body []byte) error {
	ctx := store.As(g, store.Back)
	// by its digest, as what is counted is no place for a secret
	key, most := fmt.Sprintf("incoming %x", sha256.Sum256([]byte(secret))), callsAnHook
	_, err := s.Runs.Book.HookAt(ctx, secret)
	if errors.Is(err, store.ErrNotFound) { // guesses are counted by where they come from, and leave nothing of their own
		key, most = "incoming none "+s.host(g), callsAtNone
	} else if err != nil {
		return err
	}
	ok, err := s.Accounts.Allow(g, key, most, callsAreSince)
	if err != nil {
		return err
	}
	if !ok {
		return accounts.ErrOften
	}
	return s.Runs.Incoming(ctx, secret, body, g.GetHeader)
}
