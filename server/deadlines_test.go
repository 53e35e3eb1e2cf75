package server

import (
	"bufio"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestConnectionsThatStandStillAreGivenUp sends a body that stops in the middle,
// one that comes in small pieces without end, and one as it should be, after which
// the answer takes its time.
func TestConnectionsThatStandStillAreGivenUp(t *testing.T) {
	t.Parallel()
	read := make(chan error, 1)
	p := patience{read: 60 * time.Millisecond, write: time.Second, small: 300 * time.Millisecond, slow: time.Minute, rate: 10_000}
	open := func(p patience) *httptest.Server {
		return httptest.NewServer(timed(p, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			_, err := io.Copy(io.Discard, r.Body)
			read <- err
			if err != nil {
				w.WriteHeader(http.StatusBadRequest)
				return
			}
			select {
			case <-r.Context().Done(): // standing still while an answer is made is no reason to be given up
				w.WriteHeader(http.StatusTeapot)
			case <-time.After(2 * p.read):
			}
		})))
	}
	dial := func(site *httptest.Server, length int) net.Conn {
		conn, err := net.Dial("tcp", strings.TrimPrefix(site.URL, "http://"))
		require.NoError(t, err)
		_, err = fmt.Fprintf(conn, "POST / HTTP/1.1\r\nHost: yard.example\r\nContent-Length: %d\r\n\r\nsome", length)
		require.NoError(t, err)
		return conn
	}
	status := func(conn net.Conn) int {
		answer, err := http.ReadResponse(bufio.NewReader(conn), nil)
		require.NoError(t, err)
		require.NoError(t, answer.Body.Close())
		require.NoError(t, conn.Close())
		return answer.StatusCode
	}
	drips := func(site *httptest.Server, length int, why string) {
		dripping := dial(site, length)
		for done := false; !done; {
			select {
			case err := <-read:
				require.ErrorContains(t, err, why)
				done = true
			case <-time.After(p.read / 6):
				_, err := dripping.Write([]byte("x"))
				require.NoError(t, err)
			}
		}
		assert.Equal(t, http.StatusBadRequest, status(dripping))
	}
	short := open(p)
	defer short.Close()
	stopped := dial(short, 100)
	require.ErrorContains(t, <-read, "timeout")
	assert.Equal(t, http.StatusBadRequest, status(stopped))
	drips(short, 1000, "timeout")

	patient := p
	patient.read, patient.slow = time.Minute, 100*time.Millisecond // of a large one it is the rate, however long this machine lets a drop wait
	long := open(patient)
	defer long.Close()
	drips(long, 100<<20, errSlow.Error())

	right := dial(short, 4)
	require.NoError(t, <-read)
	assert.Equal(t, http.StatusOK, status(right))
}

// TestAnswersThatNobodyTakesAreGivenUp asks for much and takes nothing of it, and
// for a stream that goes on for longer than a piece may take.
func TestAnswersThatNobodyTakesAreGivenUp(t *testing.T) {
	t.Parallel()
	written := make(chan error, 1)
	p := patience{read: time.Second, write: 100 * time.Millisecond, small: time.Second}
	site := httptest.NewServer(timed(p, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		piece := make([]byte, 1<<20)
		pause := time.Duration(0)
		if r.URL.Path == "/stream" {
			piece, pause = []byte("news\n"), p.write/2
		}
		var err error
		for i := 0; err == nil && (i < 200 && pause == 0 || i < 6); i++ {
			_, err = w.Write(piece)
			w.(http.Flusher).Flush()
			time.Sleep(pause)
		}
		written <- err
	})))
	defer site.Close()
	conn, err := net.Dial("tcp", strings.TrimPrefix(site.URL, "http://"))
	require.NoError(t, err)
	_, err = fmt.Fprint(conn, "GET /much HTTP/1.1\r\nHost: yard.example\r\n\r\n")
	require.NoError(t, err)
	require.ErrorContains(t, <-written, "timeout")
	require.NoError(t, conn.Close())

	answer, err := http.Get(site.URL + "/stream")
	require.NoError(t, err)
	all, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	require.NoError(t, answer.Body.Close())
	require.NoError(t, <-written)
	assert.Equal(t, 6, strings.Count(string(all), "news"))
}
