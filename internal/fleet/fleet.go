// Package fleet runs several servers on one database behind a small balancer, for
// tests and for measuring.
package fleet

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"pinegate/store/localpg"
)

// Options say which servers run.
type Options struct {
	Binary   string // the product
	Database string // its address
	Files    string // address of the store of files
	Dir      string // folder for what the servers say, one file each, and for the key that they share
	Servers  int
	Flags    []string // further ones
}

// Fleet is several servers, to which requests go in turns.
type Fleet struct {
	URL     string // of the balancer
	Servers []*Server

	options Options
	mu      sync.RWMutex // of Servers, once others use the balancer
	next    atomic.Uint64
	site    *httptest.Server
}

// Server is one of them.
type Server struct {
	URL  string
	host string
	cmd  *exec.Cmd
	out  *os.File
	gone chan struct{}
}

// Build builds the product and gives where it is.
func Build(ctx context.Context, dir string) (string, error) {
	binary := filepath.Join(dir, "pinegate")
	if out, err := exec.CommandContext(ctx, "go", "build", "-o", binary, "pinegate/cmd/pinegate").CombinedOutput(); err != nil {
		return "", fmt.Errorf("build: %w: %s", err, out)
	}
	return binary, nil
}

// Start starts the servers, one after the other. They are to be stopped.
func Start(ctx context.Context, o Options) (*Fleet, error) {
	f := &Fleet{options: o}
	for i := range o.Servers {
		s, err := start(ctx, o, i)
		if s != nil {
			f.Servers = append(f.Servers, s)
		}
		if err != nil {
			return nil, errors.Join(err, f.Stop())
		}
	}
	f.site = httptest.NewServer(&httputil.ReverseProxy{
		Rewrite:       func(r *httputil.ProxyRequest) { r.Out.URL.Scheme, r.Out.Host = "http", r.In.Host },
		Transport:     f,
		FlushInterval: -1, // news are passed on at once
	})
	f.URL = f.site.URL
	return f, nil
}

// Restart starts a server again that was killed.
func (f *Fleet) Restart(ctx context.Context, number int) error {
	if err := f.Servers[number].out.Close(); err != nil {
		return fmt.Errorf("close log: %w", err)
	}
	s, err := start(ctx, f.options, number)
	if s == nil {
		return err
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	f.Servers[number] = s
	return err
}

// readyTime is how long a server is given to start.
const readyTime = 2 * time.Minute

func start(ctx context.Context, o Options, number int) (*Server, error) {
	port, err := localpg.FreePort()
	if err != nil {
		return nil, err
	}
	s := &Server{host: net.JoinHostPort("127.0.0.1", strconv.Itoa(port)), gone: make(chan struct{})}
	s.URL = "http://" + s.host
	if s.out, err = os.OpenFile(filepath.Join(o.Dir, fmt.Sprintf("server-%d.log", number)),
		os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o600); err != nil {
		return nil, fmt.Errorf("make log: %w", err)
	}
	args := []string{"serve", "--port", strconv.Itoa(port), "--database", o.Database, "--files", o.Files,
		"--key", filepath.Join(o.Dir, "server.key")}
	args = append(args, o.Flags...)
	s.cmd = exec.Command(o.Binary, args...)
	s.cmd.Stdout, s.cmd.Stderr = s.out, s.out
	s.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGKILL}
	if err := s.cmd.Start(); err != nil {
		return nil, fmt.Errorf("start server: %w", err)
	}
	go func() { _ = s.cmd.Wait(); close(s.gone) }() // how it ended shows in its log
	return s, s.ready(ctx)
}

// ready waits until the server answers.
func (s *Server) ready(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, readyTime)
	defer cancel()
	for {
		r, err := http.NewRequestWithContext(ctx, http.MethodGet, s.URL+"/readyz", nil)
		if err != nil {
			return err
		}
		if answer, err := http.DefaultClient.Do(r); err == nil {
			if err := answer.Body.Close(); err != nil {
				return err
			}
			if answer.StatusCode == http.StatusOK {
				return nil
			}
		}
		select {
		case <-s.gone:
			said, err := os.ReadFile(s.out.Name())
			return errors.Join(fmt.Errorf("the server ended: %s", said), err)
		case <-ctx.Done():
			return fmt.Errorf("wait for the server: %w", ctx.Err())
		case <-time.After(20 * time.Millisecond):
		}
	}
}

// PID gives the number of the server's process.
func (s *Server) PID() int { return s.cmd.Process.Pid }

// Kill ends the server at once, as when its machine loses power.
func (s *Server) Kill() {
	_ = s.cmd.Process.Kill() // it may be gone already
	<-s.gone
}

// Stop ends all servers in order, and the balancer.
func (f *Fleet) Stop() error {
	if f.site != nil {
		f.site.CloseClientConnections()
		f.site.Close()
	}
	var errs []error
	for _, s := range f.Servers {
		_ = s.cmd.Process.Signal(syscall.SIGTERM) // it may be gone already
	}
	for _, s := range f.Servers {
		select {
		case <-s.gone:
		case <-time.After(30 * time.Second):
			s.Kill()
			errs = append(errs, errors.New("a server did not stop"))
		}
		errs = append(errs, s.out.Close())
	}
	return errors.Join(errs...)
}

// RoundTrip sends a request to the next server. One that cannot be reached has got
// nothing of it, so that the one after it is asked.
func (f *Fleet) RoundTrip(r *http.Request) (*http.Response, error) {
	first := f.next.Add(1)
	var last error
	f.mu.RLock()
	servers := slices.Clone(f.Servers)
	f.mu.RUnlock()
	for i := range servers {
		s := servers[(first+uint64(i))%uint64(len(servers))]
		select {
		case <-s.gone:
			continue
		default:
		}
		r.URL = &url.URL{Scheme: "http", Host: s.host, Path: r.URL.Path, RawPath: r.URL.RawPath, RawQuery: r.URL.RawQuery}
		answer, err := http.DefaultTransport.RoundTrip(r)
		var dialing *net.OpError
		if err == nil || !errors.As(err, &dialing) || dialing.Op != "dial" {
			return answer, err
		}
		last = err
	}
	return nil, errors.Join(errors.New("no server is there"), last)
}
