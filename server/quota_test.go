package server_test

import (
	"bytes"
	"image"
	"image/jpeg"
	"math/rand/v2"
	"net/http"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/server/servertest"
	"pinegate/store/apps"
)

// TestWorkspacesHaveBounds makes apps and brings files until there is no more room.
func TestWorkspacesHaveBounds(t *testing.T) {
	t.Parallel()
	s := servertest.New(t)
	f := s.Founder(t)
	api := "/api/apps/" + s.App.ID
	usage := func() apps.Usage {
		var team struct{ Usage apps.Usage }
		f.Read("/api/workspaces/"+s.App.WorkspaceID, &team)
		return team.Usage
	}
	require.NoError(t, s.Apps.Recount(t.Context()))
	before := usage()
	assert.Equal(t, 1, before.Apps)
	assert.Positive(t, before.Bytes, "the demo has pictures")
	s.Apps.Bound(apps.Quota{Apps: 4, Bytes: before.Bytes + 2_000_000})

	var made, refused atomic.Int64
	var wait sync.WaitGroup
	for range 8 {
		wait.Go(func() {
			status, body := f.Do(http.MethodPost, "/api/apps", map[string]string{"name": "More"})
			if status < 300 {
				made.Add(1)
				return
			}
			refused.Add(1)
			assert.Equal(t, http.StatusUnprocessableEntity, status)
			assert.Contains(t, body, "4 apps, as many as it can have")
		})
	}
	wait.Wait()
	assert.Equal(t, []int64{3, 5}, []int64{made.Load(), refused.Load()})

	upload := func(size int) (int, string) {
		return f.Send(api+"/uploads?name=x.csv", "Name\n"+strings.Repeat("x", size))
	}
	status, body := upload(3_000_000)
	assert.Equal(t, http.StatusUnprocessableEntity, status, "more than there is room for is not kept")
	assert.Contains(t, body, "as much as they can")
	assert.Equal(t, before.Bytes, usage().Bytes)
	status, body = upload(1_500_000)
	require.Equal(t, http.StatusOK, status, body)
	assert.Equal(t, before.Bytes+1_500_005, usage().Bytes)

	send := func() int {
		status, _ := f.Send(api+"/tables/boat/fields/boat_photo/files?name=x.jpg", halfPicture(t))
		return status
	}
	for range 40 { // until there is no room
		if status = send(); status != http.StatusOK {
			break
		}
	}
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.GreaterOrEqual(t, usage().Bytes, before.Bytes+2_000_000)
	// what no record has is thrown away, and then there is room again
	require.NoError(t, s.Store.DB.Exec("DELETE FROM uploads").Error)
	require.NoError(t, s.Apps.Recount(t.Context()))
	assert.Less(t, usage().Bytes, before.Bytes+2_000_000)
	assert.Equal(t, http.StatusOK, send())

	// nor has anybody workspaces without end
	last := 0
	for range 12 {
		last, body = f.Do(http.MethodPost, "/api/workspaces", map[string]string{"name": "Another"})
	}
	assert.Equal(t, http.StatusUnprocessableEntity, last)
	assert.Contains(t, body, "as many as one can have")
}

// halfPicture is a picture of some 100 kB.
func halfPicture(t *testing.T) string {
	p := image.NewRGBA(image.Rect(0, 0, 400, 400))
	r := rand.New(rand.NewPCG(1, 2))
	for i := range p.Pix {
		p.Pix[i] = uint8(r.UintN(256))
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, p, nil))
	return b.String()
}
