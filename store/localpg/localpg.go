// Package localpg runs a private PostgreSQL server on loopback, for the start
// command and for tests.
package localpg

import (
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"sort"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"
)

// Server is a running PostgreSQL server.
type Server struct {
	Port int
	// Moved is the folder in which the data is where that is not the one that was
	// asked for, because the user that the server runs as may not enter it; or "".
	Moved string
	// Found tells that the server ran already.
	Found bool

	options  Options
	dir      string
	bin      string
	cred     *syscall.Credential
	key      key
	mu       sync.Mutex // held while the server is started again or stopped
	stopping bool
}

// Options say how a server runs. Throwaway trades safety for speed and removes
// the data when the server stops.
type Options struct {
	Dir       string
	Throwaway bool
}

// TestVariable names the environment variable that holds the address of a
// server for tests.
const TestVariable = "PINEGATE_TEST_DATABASE"

// stopTimeout is how long a server is given to end its connections.
const stopTimeout = 20 * time.Second

// Start starts the server whose data is in the folder, making the folder where
// it is missing. A server that still runs there, left over from a process that
// was killed, is taken over.
func Start(ctx context.Context, o Options) (*Server, error) {
	bin, err := binDir()
	if err != nil {
		return nil, err
	}
	dir, err := filepath.Abs(o.Dir)
	if err != nil {
		return nil, fmt.Errorf("find data folder: %w", err)
	}
	s := &Server{dir: dir, bin: bin, options: o}
	if s.cred, err = serverUser(); err != nil {
		return nil, err
	}
	if s.closed() != "" {
		s.dir = elsewhere(dir)
		s.Moved = s.dir
	}
	unlock, err := s.prepare()
	if err != nil {
		return nil, err
	}
	defer unlock()
	if err := s.readKey(); err != nil {
		return nil, err
	}
	if port, ok := s.running(ctx); ok {
		s.Port, s.Found = port, true
		return s, nil
	}
	if err := s.initialise(ctx); err != nil {
		return nil, err
	}
	if s.Port, err = FreePort(); err != nil {
		return nil, err
	}
	if err := s.launch(ctx); err != nil {
		return nil, err
	}
	if err := s.admit(ctx); err != nil {
		return nil, errors.Join(err, s.Stop(ctx))
	}
	return s, nil
}

// DSN gives the address of a database on the server.
func (s *Server) DSN(database string) string {
	return s.address(product, s.key.product, database)
}

// Stop ends the server and, if it was a throwaway, removes its data.
func (s *Server) Stop(ctx context.Context) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.stopping = true
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), stopTimeout)
	defer cancel()
	if err := s.run(ctx, "pg_ctl", "-D", s.dir, "-m", "fast", "-w", "stop"); err != nil {
		return fmt.Errorf("stop PostgreSQL: %w", err)
	}
	if !s.options.Throwaway {
		return nil
	}
	return errors.Join(os.RemoveAll(s.dir), os.Remove(s.keyFile()))
}

func binDir() (string, error) {
	found, err := filepath.Glob("/usr/lib/postgresql/*/bin/initdb")
	if err != nil || len(found) == 0 {
		return "", errors.New("PostgreSQL is not installed; install Debian's package postgresql")
	}
	sort.Slice(found, func(i, j int) bool { return version(found[i]) > version(found[j]) })
	return filepath.Dir(found[0]), nil
}

// Program finds one of PostgreSQL's programs.
func Program(name string) (string, error) {
	bin, err := binDir()
	return filepath.Join(bin, name), err
}

func version(path string) int {
	n, err := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(path))))
	if err != nil {
		return 0
	}
	return n
}

// serverUser gives the user that the server runs as when we are root, which
// PostgreSQL refuses to run as.
func serverUser() (*syscall.Credential, error) {
	if os.Geteuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, fmt.Errorf("find the user postgres: %w", err)
	}
	uid, err := strconv.ParseUint(u.Uid, 10, 32)
	if err != nil {
		return nil, fmt.Errorf("read user id: %w", err)
	}
	gid, err := strconv.ParseUint(u.Gid, 10, 32)
	if err != nil {
		return nil, fmt.Errorf("read group id: %w", err)
	}
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

// prepare makes the folder and holds a lock on it while the server starts.
func (s *Server) prepare() (unlock func(), err error) {
	// the folders above stay open for the user that the server runs as
	if err := os.MkdirAll(filepath.Dir(s.dir), 0o755); err != nil {
		return nil, fmt.Errorf("make data folder: %w", err)
	}
	if err := os.MkdirAll(s.dir, 0o700); err != nil {
		return nil, fmt.Errorf("make data folder: %w", err)
	}
	if s.cred != nil {
		if err := os.Chown(s.dir, int(s.cred.Uid), int(s.cred.Gid)); err != nil {
			return nil, fmt.Errorf("hand over data folder: %w", err)
		}
	}
	f, err := os.OpenFile(s.dir+".lock", os.O_CREATE|os.O_RDWR|syscall.O_CLOEXEC, 0o600)
	if err != nil {
		return nil, fmt.Errorf("open lock file: %w", err)
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX); err != nil {
		return nil, errors.Join(fmt.Errorf("lock data folder: %w", err), f.Close())
	}
	return func() { _ = f.Close() }, nil // closing gives up the lock; there is nothing to lose
}

// answerTime is how long a server that seems to run is given to answer.
const answerTime = 5 * time.Second

// running tells whether the server of this folder runs, and on which port. The number
// of a process that was killed stays in its file, and may be that of another one after
// a while, or of one that is just ending: only who answers runs.
func (s *Server) running(ctx context.Context) (int, bool) {
	for end := time.Now().Add(answerTime); ; time.Sleep(glance / 10) {
		port, seems := s.seemsRunning(ctx)
		if !seems {
			return 0, false
		}
		conn, err := net.DialTimeout("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)), answerTime)
		if err == nil {
			_ = conn.Close() // it answered, that is all
			return port, true
		}
		if time.Now().After(end) {
			return 0, false
		}
	}
}

func (s *Server) seemsRunning(ctx context.Context) (int, bool) {
	raw, err := os.ReadFile(filepath.Join(s.dir, "postmaster.pid"))
	if err != nil {
		return 0, false
	}
	lines := strings.Split(string(raw), "\n")
	if len(lines) < 4 || s.run(ctx, "pg_ctl", "-D", s.dir, "status") != nil {
		return 0, false
	}
	port, err := strconv.Atoi(strings.TrimSpace(lines[3]))
	return port, err == nil
}

func (s *Server) initialise(ctx context.Context) error {
	if _, err := os.Stat(filepath.Join(s.dir, "PG_VERSION")); err == nil {
		return nil
	}
	if err := s.writeKey(key{rand.Text(), rand.Text()}); err != nil {
		return err
	}
	password, remove, err := s.keeperFile()
	if err != nil {
		return err
	}
	defer remove()
	err = s.run(ctx, "initdb", "-D", s.dir, "-U", keeper, "-A", "scram-sha-256", "--pwfile", password, "-E", "UTF8", "--locale=C.UTF-8",
		"--no-sync")
	if err != nil {
		return fmt.Errorf("make the database in %s (the user postgres must be able to reach that folder): %w", s.dir, err)
	}
	return nil
}

// locks is how many locks there is room for, for each connection: a backup of many
// apps locks each of their tables at once.
const locks = 512

func (s *Server) launch(ctx context.Context) error {
	settings := fmt.Sprintf("-c listen_addresses=127.0.0.1 -c port=%d -c unix_socket_directories='' -c max_connections=200"+
		" -c max_locks_per_transaction=%d", s.Port, locks)
	if s.options.Throwaway {
		settings += " -c fsync=off -c synchronous_commit=off -c full_page_writes=off"
	}
	log := filepath.Join(s.dir, "server.log")
	for end := time.Now().Add(launchTime); ; time.Sleep(glance / 2) {
		from := sizeOf(log)
		err := s.run(ctx, "pg_ctl", "-D", s.dir, "-w", "-t", "60", "-l", log, "-o", settings, "start")
		if err == nil {
			return nil
		}
		said := saidSince(log, from)
		if ctx.Err() != nil || time.Now().After(end) || !lingers(said) {
			return fmt.Errorf("start PostgreSQL: %w: %s", err, said)
		}
	}
}

// launchTime is how long it is tried to start a server of whose folder processes are left that end by themselves.
const launchTime = 30 * time.Second

// lingers tells whether a server did not start because processes of one that was killed have not ended yet. It speaks English, as
// its language is set.
func lingers(said string) bool {
	return strings.Contains(said, "pre-existing shared memory block") || strings.Contains(said, `lock file "postmaster.pid" already exists`)
}

// sizeOf gives how long a file is, 0 where it is not there.
func sizeOf(name string) int64 {
	at, err := os.Stat(name)
	if err != nil {
		return 0
	}
	return at.Size()
}

// saidSince gives what was added to a log; what cannot be read is told in its place.
func saidSince(name string, from int64) string {
	raw, err := os.ReadFile(name)
	if err != nil {
		return err.Error()
	}
	return string(bytes.TrimSpace(raw[min(from, int64(len(raw))):]))
}

// run runs one of PostgreSQL's programs to its end. It stands outside our
// process group, so that Ctrl+C reaches us first and we stop it in order.
func (s *Server) run(ctx context.Context, program string, args ...string) error {
	cmd := exec.CommandContext(ctx, filepath.Join(s.bin, program), args...)
	cmd.Dir = "/"
	cmd.Env = append(os.Environ(), "LC_ALL=C.UTF-8")
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: s.cred, Setpgid: true}
	out, err := os.CreateTemp("", "pinegate-pg-*")
	if err != nil {
		return fmt.Errorf("make output file: %w", err)
	}
	defer func() { _ = out.Close(); _ = os.Remove(out.Name()) }()
	// a file, not a pipe: the server inherits it and would keep a pipe open
	cmd.Stdout, cmd.Stderr = out, out
	if err := cmd.Run(); err != nil {
		said, readErr := os.ReadFile(out.Name())
		return errors.Join(fmt.Errorf("%s: %w: %s", program, err, bytes.TrimSpace(said)), readErr)
	}
	return nil
}

// FreePort finds a port on loopback that nothing listens on.
func FreePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, fmt.Errorf("find a free port: %w", err)
	}
	defer func() { _ = l.Close() }()
	return l.Addr().(*net.TCPAddr).Port, nil
}
