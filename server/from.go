package server

import (
	"context"
	"fmt"
	"log/slog"
	"net/netip"
	"strings"
	"sync"

	"github.com/gin-gonic/gin"

	"pinegate/server/gate"
	"pinegate/store/accounts"
)

// The cookies by which a browser is known.
const (
	builderDevice = "pinegate_builder_device"
	personDevice  = "pinegate_device"
)

// networkBits is how much of an address of IPv6 is a network of somebody's own, who
// can take as many addresses in it as they like (RFC 6177).
const networkBits = 64

// Networks reads networks, as in 10.0.0.0/8, or single addresses.
func Networks(list []string) error {
	for _, x := range list {
		if _, err := netip.ParsePrefix(x); err == nil {
			continue
		}
		if _, err := netip.ParseAddr(x); err != nil {
			return fmt.Errorf("%q is no network such as 10.0.0.0/8, and no address", x)
		}
	}
	return nil
}

// trust has the proxies believed that are set, and no others.
func (s *Server) trust() {
	s.engine.RemoteIPHeaders = []string{forwarded}
	if err := s.engine.SetTrustedProxies(s.Proxies); err != nil {
		panic(err) // the command read them before
	}
	s.unproxied = sync.OnceFunc(func() {
		slog.Warn("requests come by way of a proxy that is not trusted; all who use it count as one: set --trusted-proxy")
	})
}

const forwarded = "X-Forwarded-For"

// host gives the network address that a request comes from; of IPv6, the network.
func (s *Server) host(g *gin.Context) string {
	ip := g.ClientIP()
	if ip == g.RemoteIP() && g.GetHeader(forwarded) != "" && len(s.Proxies) == 0 {
		s.unproxied()
	}
	at, err := netip.ParseAddr(ip)
	if err != nil || !at.Is6() || at.Is4In6() {
		return ip
	}
	network, err := at.Prefix(networkBits)
	if err != nil {
		return ip
	}
	return network.String()
}

// from tells where a request comes from. Whoever is about to prove who they are gets a
// browser that is known from then on.
func (s *Server) from(g *gin.Context, cookie, path string) gate.From {
	f := gate.From{Host: s.host(g)}
	if token, err := g.Cookie(cookie); err == nil && len(token) <= mostDevice {
		f.Device = token
	}
	if g.Request.Method != "POST" || !proving(g.FullPath()) {
		return f
	}
	if f.Device == "" {
		token, err := accounts.NewDevice()
		if err != nil {
			failed(g, "make the token of a browser", err)
			return f
		}
		f.Device = token
	}
	g.Writer.Header().Add("Set-Cookie", s.cookie(cookie, path, f.Device, accounts.DeviceLife).String())
	return f
}

// mostDevice is more than the token of a browser has.
const mostDevice = 100

// proving tells whether a route is one by which people prove who they are.
func proving(route string) bool {
	for _, x := range []string{"/sign-in", "/sign-up", "/reset", "/invitation"} {
		if _, after, is := strings.Cut(route, x); is && (after == "" || after[0] == '/') {
			return true
		}
	}
	return false
}

// from gives where the request comes from.
func from(ctx context.Context) gate.From {
	f, _ := ctx.Value(keyFrom).(gate.From)
	return f
}
