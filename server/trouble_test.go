package server_test

import (
	"net/http"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/gorm"

	"pinegate/core/words"
	"pinegate/server/servertest"
	"pinegate/store/apps"
)

// TestWhoWaitsTooLongIsTold holds an app, as something that hangs would: changes
// are refused with words after a while, what only looks goes on, and nothing was
// changed.
func TestWhoWaitsTooLongIsTold(t *testing.T) {
	s := servertest.New(t)
	founder := s.Founder(t)
	held, release := make(chan struct{}), make(chan struct{})
	var wait sync.WaitGroup
	wait.Go(func() {
		assert.NoError(t, s.Apps.Transaction(t.Context(), func(tx *gorm.DB) error {
			_, err := apps.Locked(tx, s.App.ID)
			close(held)
			<-release
			return err
		}))
	})
	<-held
	began := time.Now()
	status, answer := founder.Do(http.MethodPost, "/api/apps/"+s.App.ID+"/undo", map[string]any{})
	assert.Equal(t, http.StatusServiceUnavailable, status, answer)
	assert.Contains(t, answer, words.Say("answer-held", nil))
	assert.Less(t, time.Since(began), 15*time.Second)
	founder.Read("/api/apps/"+s.App.ID, &struct{}{})
	close(release)
	wait.Wait()
	now, err := s.Apps.BySlug(t.Context(), s.App.Slug)
	require.NoError(t, err)
	assert.Equal(t, s.App.Revision, now.Revision)
	assert.Regexp(t, "^[a-z0-9]{10}$", founder.Header("/healthz").Get("X-Request-Id"))
}
