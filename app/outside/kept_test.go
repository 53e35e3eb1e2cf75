package outside_test

import (
	"context"
	"net/http"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/app/outside"
	"pinegate/core/service"
)

// TestAnswersAreKept asks a service once however many ask at the same time, keeps its answer for a time, has an older
// one rather than none, and asks no more often than is allowed.
func TestAnswersAreKept(t *testing.T) {
	var asked, fails atomic.Int64
	p := newPort(t, func(w http.ResponseWriter, _ *http.Request) {
		asked.Add(1)
		if fails.Load() > 0 {
			http.Error(w, "no", http.StatusInternalServerError)
			return
		}
		time.Sleep(20 * time.Millisecond) // so that the others come meanwhile
		_, err := w.Write([]byte(`{"rows":[{}]}`))
		assert.NoError(t, err)
	}, here)
	allowed, broken := true, error(nil)
	kept := outside.NewKept(p.services, func(context.Context, string) (bool, error) { return allowed, broken })
	ask := func(path string, life time.Duration) error {
		rows, at, err := kept.Rows(t.Context(), p.app, p.x, p.call, service.Asked{Path: path}, life)
		if err == nil {
			assert.Len(t, rows, 1)
			assert.WithinDuration(t, time.Now(), at, time.Minute)
		}
		return err
	}
	var wait sync.WaitGroup
	for range 20 {
		wait.Go(func() { assert.NoError(t, ask("/a", time.Minute)) })
	}
	wait.Wait()
	assert.EqualValues(t, 1, asked.Load())
	require.NoError(t, ask("/b", time.Minute))
	assert.EqualValues(t, 2, asked.Load(), "another question is asked by itself")
	fails.Store(1)
	require.NoError(t, ask("/a", 0), "an older answer is better than none")
	assert.EqualValues(t, 3, asked.Load())
	require.Error(t, ask("/c", time.Minute))
	allowed = false
	require.NoError(t, ask("/a", 0))
	err := ask("/d", time.Minute)
	var failed *outside.Failed
	require.ErrorAs(t, err, &failed)
	assert.Equal(t, "service-often", failed.Words.Code)
	assert.EqualValues(t, 4, asked.Load())
	broken = assert.AnError
	require.ErrorIs(t, ask("/a", 0), assert.AnError, "what is wrong here is said, though there is an older answer")
	assert.EqualValues(t, 4, asked.Load())
	p.call.Rows = ""
	assert.Error(t, ask("/a", time.Minute), "what is taken otherwise is another question")
}
