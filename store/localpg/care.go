package localpg

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"log/slog"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"time"
)

// glance is how often it is looked whether the server still runs.
const glance = time.Second

// Watch starts the server again, on its port, whenever it is gone, until the
// context ends or the server is stopped.
func (s *Server) Watch(ctx context.Context) {
	tick := time.NewTicker(glance)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		if s.alive() {
			continue
		}
		s.mu.Lock()
		if !s.stopping {
			slog.ErrorContext(ctx, "PostgreSQL is gone, and is started again", "folder", s.dir)
			if err := s.launch(ctx); err != nil && ctx.Err() == nil {
				slog.ErrorContext(ctx, "start PostgreSQL again", "error", err) // what it left behind may still be ending
			}
		}
		stopping := s.stopping
		s.mu.Unlock()
		if stopping {
			return
		}
	}
}

// alive tells whether the process of the server is there.
func (s *Server) alive() bool {
	raw, err := os.ReadFile(filepath.Join(s.dir, "postmaster.pid"))
	if err != nil {
		return false
	}
	first, _, _ := strings.Cut(string(raw), "\n")
	pid, err := strconv.Atoi(strings.TrimSpace(first))
	if err != nil {
		return false
	}
	err = syscall.Kill(pid, 0)
	return err == nil || errors.Is(err, syscall.EPERM)
}

// closed gives a folder above the data that the user whom the server runs as may
// not enter, or "".
func (s *Server) closed() string {
	if s.cred == nil {
		return ""
	}
	for dir := filepath.Dir(s.dir); ; dir = filepath.Dir(dir) {
		if info, err := os.Stat(dir); err == nil && !mayEnter(info, s.cred) { // what is not there yet is made open
			return dir
		}
		if dir == filepath.Dir(dir) {
			return ""
		}
	}
}

// mayEnter tells whether a user may enter a folder, by its permissions.
func mayEnter(info os.FileInfo, user *syscall.Credential) bool {
	of, ok := info.Sys().(*syscall.Stat_t)
	if !ok {
		return true
	}
	bit := os.FileMode(0o001)
	switch {
	case of.Uid == user.Uid:
		bit = 0o100
	case of.Gid == user.Gid:
		bit = 0o010
	}
	return info.Mode().Perm()&bit != 0
}

// home is where data lives that cannot be where it was asked for.
const home = "/var/lib/pinegate"

// elsewhere gives the folder there for the data of a folder: always the same, and
// another for each.
func elsewhere(dir string) string {
	sum := sha256.Sum256([]byte(dir))
	return filepath.Join(home, filepath.Base(filepath.Dir(dir))+"-"+hex.EncodeToString(sum[:4]), filepath.Base(dir))
}
