// Package outside calls services elsewhere. It reaches public addresses only, whatever a name
// resolves to and wherever a service leads on; what it is answered is bounded in time and size; and
// nothing that it says holds a secret.
package outside

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"time"

	"code.dny.dev/ssrf"

	"pinegate/core/blueprint"
	"pinegate/core/service"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/seal"
)

// Limits of a call.
const (
	mostAnswer    = 5 << 20 // bytes, unpacked
	mostRedirects = 3
)

// Options say where calls may go.
type Options struct {
	// Private are networks besides the public ones.
	Private []netip.Prefix
	// Names are stand-ins: addresses to which calls go, by the host:port of services.
	Names map[string]string
}

// Services calls services.
type Services struct {
	Seals  *seal.Book // with what services are shown
	client *http.Client
}

// New gives what calls services.
func New(seals *seal.Book, o Options) *Services {
	guard := ssrf.New(append([]ssrf.Option{ssrf.WithAnyPort()}, allowed(o.Private)...)...)
	plain := &net.Dialer{Timeout: 10 * time.Second}
	guarded := &net.Dialer{Timeout: 10 * time.Second, Control: guard.Safe} // of each address that is really connected to
	transport := &http.Transport{
		Proxy: nil, // which would connect in our place
		DialContext: func(ctx context.Context, network, address string) (net.Conn, error) {
			if to, is := o.Names[address]; is {
				return plain.DialContext(ctx, network, to)
			}
			return guarded.DialContext(ctx, network, address)
		},
		TLSHandshakeTimeout: 10 * time.Second, MaxIdleConnsPerHost: 4, IdleConnTimeout: time.Minute, MaxResponseHeaderBytes: 64 << 10,
		ForceAttemptHTTP2: true,
	}
	return &Services{seals, &http.Client{Transport: transport, CheckRedirect: follow}}
}

func allowed(list []netip.Prefix) []ssrf.Option {
	var four, six []netip.Prefix
	for _, p := range list {
		if p.Addr().Is4() {
			four = append(four, p)
		} else {
			six = append(six, p)
		}
	}
	var out []ssrf.Option
	if len(four) > 0 {
		out = append(out, ssrf.WithAllowedV4Prefixes(four...))
	}
	if len(six) > 0 {
		out = append(out, ssrf.WithAllowedV6Prefixes(six...))
	}
	return out
}

// follow goes where a service leads on, as long as that is the same service: another one is not shown
// the secret.
func follow(to *http.Request, via []*http.Request) error {
	if len(via) > mostRedirects || to.URL.Scheme != via[0].URL.Scheme || to.URL.Host != via[0].URL.Host {
		return http.ErrUseLastResponse
	}
	return nil
}

// Failed tells that there is no answer, in words.
type Failed struct {
	Words *words.Problem
	Final bool // to ask again would not help
}

func (f *Failed) Error() string { return f.Words.Error() }

// Unwrap gives the words.
func (f *Failed) Unwrap() error { return f.Words }

func final(code string, pairs ...any) error { return &Failed{words.New(code, pairs...), true} }
func passing(code string, pairs ...any) error {
	return &Failed{words.New(code, pairs...), false}
}

// Answer is what a service answered.
type Answer struct {
	Rows []service.Row
	Raw  []byte
}

// SecretOf says for what the secret of a service is kept: for the service at its address. Whoever
// gives it another address has nothing to show there, so that nobody is led to show a secret to others.
func SecretOf(x *blueprint.Connection) string {
	u, err := url.Parse(x.Address)
	if err != nil {
		return "service " + x.ID
	}
	return "service " + x.ID + " at " + u.Scheme + "://" + u.Host
}

// Ask asks a service of an app. The key is the same for the same question, however often it is asked, or ""
// for one that changes nothing. An error of type [*Failed] tells that there is no answer.
func (s *Services) Ask(ctx context.Context, app string, x *blueprint.Connection, call *blueprint.Call, what service.Asked, key string) (
	out Answer, err error,
) {
	seconds := x.Seconds
	if seconds == 0 {
		seconds = blueprint.CallSeconds
	}
	ctx, cancel := context.WithTimeout(ctx, time.Duration(seconds)*time.Second)
	defer cancel()
	request, err := s.request(ctx, app, x, call, what, key)
	if err != nil {
		return out, err
	}
	answer, err := s.client.Do(request)
	if err != nil {
		return out, unanswered(err, x, seconds)
	}
	defer func() { err = errors.Join(err, answer.Body.Close()) }()
	if err := refused(answer, x); err != nil {
		return out, err
	}
	out.Raw, err = io.ReadAll(io.LimitReader(answer.Body, mostAnswer+1))
	if err != nil {
		return out, unanswered(err, x, seconds)
	}
	if len(out.Raw) > mostAnswer {
		return out, final("service-large", "service", x.Name, "n", mostAnswer>>20)
	}
	if len(call.Takes) == 0 && call.Rows == "" { // nothing of it is used
		out.Rows = []service.Row{{}}
		return out, nil
	}
	out.Rows, err = service.Read(call, out.Raw)
	if told := (*words.Problem)(nil); errors.As(err, &told) {
		return out, &Failed{Words: words.New("service-said", "service", x.Name, "problem", told.Error())}
	}
	return out, err
}

// request makes the request, with what proves who calls.
func (s *Services) request(ctx context.Context, app string, x *blueprint.Connection, call *blueprint.Call, what service.Asked,
	key string) (*http.Request, error) {
	to, err := url.Parse(x.Address)
	if err != nil {
		return nil, final("service-address", "value", x.Address)
	}
	if to, err = url.Parse(strings.TrimRight(to.String(), "/") + what.Path); err != nil {
		return nil, final("service-path", "value", call.Path)
	}
	query := to.Query()
	for name, values := range what.Query {
		query[name] = values
	}
	secret := ""
	if x.Proof != blueprint.NoProof {
		secret, err = s.Seals.Open(ctx, app, SecretOf(x))
		if errors.Is(err, store.ErrNotFound) {
			return nil, final("service-no-secret", "service", x.Name)
		}
		if told := (*words.Problem)(nil); errors.As(err, &told) {
			return nil, &Failed{told, true}
		}
		if err != nil {
			return nil, err
		}
	}
	if x.Proof == blueprint.QueryProof {
		query.Set(x.ProofName, secret)
	}
	to.RawQuery = query.Encode()
	request, err := http.NewRequestWithContext(ctx, string(call.Method), to.String(), bytes.NewReader(what.Body))
	if err != nil {
		return nil, final("service-path", "value", call.Path)
	}
	request.Header.Set("Accept", "application/json")
	request.Header.Set("User-Agent", "Pine Gate")
	if key != "" {
		request.Header.Set("Idempotency-Key", key)
	}
	if what.Body != nil {
		request.Header.Set("Content-Type", "application/json")
	}
	switch x.Proof {
	case blueprint.HeaderProof:
		request.Header.Set(x.ProofName, secret)
	case blueprint.PasswordProof:
		request.SetBasicAuth(x.ProofName, secret)
	}
	return request, nil
}

// unanswered says why there is no answer, without the address that was called, which can hold a secret.
func unanswered(err error, x *blueprint.Connection, seconds int) error {
	var name *net.DNSError
	switch {
	case errors.Is(err, ssrf.ErrProhibitedIP) || errors.Is(err, ssrf.ErrProhibitedNetwork) || errors.Is(err, ssrf.ErrInvalidHostPort):
		return final("service-private", "service", x.Name)
	case errors.Is(err, context.DeadlineExceeded):
		return passing("service-slow", "service", x.Name, "n", seconds)
	case errors.As(err, &name):
		return passing("service-unfound", "service", x.Name, "host", name.Name)
	case errors.Is(err, context.Canceled):
		return fmt.Errorf("ask a service: %w", context.Canceled)
	}
	return passing("service-unreached", "service", x.Name)
}

// refused tells of an answer that is none.
func refused(answer *http.Response, x *blueprint.Connection) error {
	switch code := answer.StatusCode; {
	case code >= 200 && code < 300:
		return nil
	case code >= 300 && code < 400:
		return final("service-moved", "service", x.Name)
	case code == http.StatusRequestTimeout || code == http.StatusTooEarly || code == http.StatusTooManyRequests || code >= 500:
		return passing("service-status", "service", x.Name, "n", code)
	default:
		return final("service-status", "service", x.Name, "n", code)
	}
}
