// Package filestest gives tests a store of files that speaks S3.
package filestest

import (
	"net/http/httptest"
	"net/url"
	"testing"

	"github.com/johannesboyne/gofakes3"
	"github.com/johannesboyne/gofakes3/backend/s3mem"
	"github.com/stretchr/testify/require"
)

// bucket is the one that there is.
const bucket = "pinegate"

// S3 starts a store that goes with the test, and gives its address. Who may use it
// is said in the environment, as it is for any such store.
func S3(t *testing.T) string {
	t.Helper()
	for name, value := range map[string]string{"AWS_ACCESS_KEY_ID": "yard", "AWS_SECRET_ACCESS_KEY": "not-a-secret"} {
		t.Setenv(name, value)
	}
	backend := s3mem.New()
	require.NoError(t, backend.CreateBucket(bucket))
	site := httptest.NewServer(gofakes3.New(backend).Server())
	t.Cleanup(site.Close)
	q := url.Values{"endpoint": {site.URL}, "region": {"eu-1"}, "use_path_style": {"true"}}
	return (&url.URL{Scheme: "s3", Host: bucket, RawQuery: q.Encode()}).String()
}
