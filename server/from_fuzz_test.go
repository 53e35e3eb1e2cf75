package server

import (
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"testing"

	"github.com/gin-gonic/gin"
	"github.com/stretchr/testify/require"
)

// FuzzFrom says where requests come from, by proxies and by what they tell: what is taken
// for networks of proxies is taken by what trusts them, and where a request comes from
// is an address or a network, whatever is told.
func FuzzFrom(f *testing.F) {
	for _, s := range [][2]string{{"10.0.0.0/8", "203.0.113.9"}, {"192.0.2.1", "203.0.113.9, 192.0.2.1"}, {"::/0", "2001:db8::1%eth0"},
		{"192.0.2.1", "x"},
		{"192.0.2.1/33", ","}, {"::ffff:192.0.2.1", "::ffff:203.0.113.9"}, {"", "[2001:db8::1]:80"}, {"192.0.2.1", "203.0.113.9:80"}} {
		f.Add(s[0], s[1])
	}
	f.Fuzz(func(t *testing.T, proxy, told string) {
		var list []string
		if proxy != "" {
			list = []string{proxy}
		}
		if Networks(list) != nil {
			return
		}
		s := &Server{engine: gin.New()}
		s.Proxies = list
		s.trust()
		g := gin.CreateTestContextOnly(httptest.NewRecorder(), s.engine)
		g.Request = httptest.NewRequest(http.MethodGet, "/", nil)
		g.Request.Header[forwarded] = []string{told}
		host := s.host(g)
		_, err := netip.ParseAddr(host)
		if strings.Contains(host, "/") {
			_, err = netip.ParsePrefix(host)
		}
		require.NoError(t, err, "%q of %q by %q", host, told, proxy)
	})
}
