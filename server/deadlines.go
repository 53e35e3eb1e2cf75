package server

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"time"
)

// patience is how long a connection may stand still, while a body is received and
// an answer sent, and how long receiving may take in all where the body is small. A
// large one may take its time, but comes with so many bytes a second after a while.
// Between requests the server itself closes what is idle.
type patience struct {
	read, write, small, slow time.Duration
	rate                     int64
}

func usualPatience() patience {
	return patience{read: 20 * time.Second, write: 30 * time.Second, small: 30 * time.Second, slow: time.Minute, rate: 4 << 10}
}

// smallBody is up to how many bytes a body is small.
const smallBody = 1 << 20

// timed gives up on connections that stand still. A stream goes on as long as
// whoever listens takes what is sent.
func timed(p patience, h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		connection := http.NewResponseController(w)
		if r.Body != nil && r.Body != http.NoBody {
			body := &timedBody{ReadCloser: r.Body, connection: connection, patience: p, began: time.Now()}
			if r.ContentLength >= 0 && r.ContentLength <= smallBody {
				body.end = time.Now().Add(p.small)
			}
			r.Body = body
		}
		h.ServeHTTP(&timedWriter{w, connection, p.write}, r)
	})
}

var errSlow = errors.New("it comes too slowly")

// timedBody gives every piece of a body its time. Of connections that know no
// times, such as those of tests, nothing is asked.
type timedBody struct {
	io.ReadCloser
	connection *http.ResponseController
	patience   patience
	began, end time.Time // end of all of it, or zero
	got        int64
}

// Read receives a piece.
func (b *timedBody) Read(into []byte) (int, error) {
	until := time.Now().Add(b.patience.read)
	if !b.end.IsZero() && b.end.Before(until) {
		until = b.end
	}
	if err := b.connection.SetReadDeadline(until); err != nil && !errors.Is(err, http.ErrNotSupported) {
		return 0, err
	}
	n, err := b.ReadCloser.Read(into)
	b.got += int64(n)
	if took := time.Since(b.began) - b.patience.slow; took > 0 && float64(b.got) < took.Seconds()*float64(b.patience.rate) && err == nil {
		err = errSlow
	}
	if errors.Is(err, io.EOF) {
		if wrong := b.rest(); wrong != nil {
			return n, wrong
		}
	}
	if err != nil && !errors.Is(err, io.EOF) { // whoever sent it went away, or is too slow; nothing of ours is wrong
		_ = b.connection.SetReadDeadline(time.Now()) // the answer does not wait for the rest; whoever went away gets none
		return n, fmt.Errorf("%w: receive the body: %v", context.Canceled, err)
	}
	return n, err // io.EOF as it is: readers compare it
}

// Close ends the body.
func (b *timedBody) Close() error { return errors.Join(b.ReadCloser.Close(), b.rest()) }

// rest lets the connection stand still while the answer is made.
func (b *timedBody) rest() error {
	if err := b.connection.SetReadDeadline(time.Time{}); err != nil && !errors.Is(err, http.ErrNotSupported) {
		return err
	}
	return nil
}

// timedWriter gives every piece of an answer its time.
type timedWriter struct {
	http.ResponseWriter
	connection *http.ResponseController
	still      time.Duration
}

// Write sends a piece.
func (w *timedWriter) Write(piece []byte) (int, error) {
	if err := w.connection.SetWriteDeadline(time.Now().Add(w.still)); err != nil && !errors.Is(err, http.ErrNotSupported) {
		return 0, err
	}
	return w.ResponseWriter.Write(piece)
}

// Flush sends what was written so far.
func (w *timedWriter) Flush() { _ = w.connection.Flush() } // a writer that is gone is told by the next piece

// Unwrap gives the writer behind it.
func (w *timedWriter) Unwrap() http.ResponseWriter { return w.ResponseWriter }
