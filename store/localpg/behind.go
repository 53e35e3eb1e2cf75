package localpg

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/sys/unix"
)

// Behind is a group of processes (cgroups(7)) that get what others leave of the
// processors, and give one up at the moment at which another process wants it. Without
// such a group the system lets them go on until its next tick, which is longer than a
// page takes. The zero value is none: then [GiveWay] is all that is done.
type Behind struct{ dir string }

// The names of a group of ours, and the share of it while it is let in: in version 2
// and in version 1 a tenth of the usual.
const (
	behindName    = "pinegate-behind"
	mainName      = "pinegate"
	behindWeight  = "10"
	behindShares  = "102"
	groupProcs    = "cgroup.procs"
	groupIdle     = "cpu.idle"
	groupChildren = "cgroup.subtree_control"
)

// OpenBehind makes the group below the one that this process is in, or finds it. It
// gives none where the system or its administrator does not let this process do so:
// version 1 asks for the right to write, version 2 for a group delegated to us (as by
// Delegate= of systemd.resource-control(5)), since its processes move to a group below.
func OpenBehind() (Behind, error) {
	own, v2, err := ownGroup()
	if err != nil || own == "" {
		return Behind{}, err
	}
	if v2 {
		if own, err = makeRoom(own); err != nil || own == "" {
			return Behind{}, err
		}
	}
	b := Behind{filepath.Join(own, behindName)}
	if err = os.Mkdir(b.dir, 0o755); err != nil && !errors.Is(err, fs.ErrExist) {
		return Behind{}, notLet(err)
	}
	if err = b.tighten(); err != nil {
		return Behind{}, notLet(err)
	}
	return b, nil
}

// BehindAt gives the group whose folder another process opened, or none for "".
func BehindAt(dir string) Behind { return Behind{dir} }

// Dir is the folder of the group, or "".
func (b Behind) Dir() string { return b.dir }

// notLet drops the errors that only say that this system has no such thing for us.
func notLet(err error) error {
	for _, usual := range []error{fs.ErrPermission, fs.ErrNotExist, unix.EROFS, unix.EBUSY, unix.EOPNOTSUPP} {
		if errors.Is(err, usual) {
			return nil
		}
	}
	return fmt.Errorf("make a group for what gives way: %w", err)
}

// GiveWay is [GiveWay], and puts the process into the group, unless that would take it
// out of one that is not ours to take from, such as that of PostgreSQL's own service.
func (b Behind) GiveWay(pid int, far bool) error {
	if b.dir != "" {
		err := os.WriteFile(filepath.Join(b.dir, groupProcs), []byte(strconv.Itoa(pid)), 0)
		if err != nil && !errors.Is(err, unix.ESRCH) && !errors.Is(err, fs.ErrPermission) { // it has ended, or stays where it is
			return fmt.Errorf("make process %d give way: %w", pid, err)
		}
	}
	return GiveWay(pid, far)
}

// ownGroup finds the folder of the group that shares processors to this process, and
// whether it is of version 2; "" where there is none.
func ownGroup() (dir string, v2 bool, err error) {
	groups, err := os.ReadFile("/proc/self/cgroup")
	if errors.Is(err, fs.ErrNotExist) {
		return "", false, nil
	}
	if err != nil {
		return "", false, fmt.Errorf("find the group of this process: %w", err)
	}
	mounts, err := os.ReadFile("/proc/self/mountinfo")
	if err != nil {
		return "", false, fmt.Errorf("find the groups of this system: %w", err)
	}
	dir, v2 = groupIn(string(groups), string(mounts))
	return dir, v2, nil
}

// groupIn reads what the system says of a process's groups (cgroups(7)) and of its
// mounts (proc_pid_mountinfo(5)).
func groupIn(groups, mounts string) (dir string, v2 bool) {
	v2 = true
	var path string
	for line := range strings.Lines(groups) {
		part := strings.SplitN(strings.TrimSpace(line), ":", 3)
		switch {
		case len(part) < 3:
		case slices.Contains(strings.Split(part[1], ","), "cpu"):
			v2, path = false, part[2]
		case part[0] == "0" && v2:
			path = part[2]
		}
	}
	if path == "" {
		return "", false
	}
	for line := range strings.Lines(mounts) {
		mount, kind, ok := strings.Cut(strings.TrimSpace(line), " - ")
		at, how := strings.Fields(mount), strings.Fields(kind)
		if !ok || len(at) < 5 || len(how) < 3 {
			continue
		}
		cpu := how[0] == "cgroup" && slices.Contains(strings.Split(how[2], ","), "cpu")
		if inside, ok := below(at[3], path); ok && (cpu && !v2 || how[0] == "cgroup2" && v2) {
			return filepath.Join(at[4], inside), v2
		}
	}
	return "", false
}

// below gives a path as seen from a root.
func below(root, path string) (string, bool) {
	inside, err := filepath.Rel(root, path)
	return inside, err == nil && !strings.HasPrefix(inside, "..")
}

// makeRoom moves the processes of a delegated group of version 2 into one below it, as
// only groups without processes of their own share processors among those below them.
// A server that is in such a one already gets the one above.
func makeRoom(own string) (string, error) {
	if filepath.Base(own) == mainName {
		return filepath.Dir(own), nil
	}
	var mark [8]byte
	if n, err := unix.Getxattr(own, "user.delegate", mark[:]); err != nil || string(mark[:n]) != "1" {
		return "", nil
	}
	inside := filepath.Join(own, mainName)
	if err := os.Mkdir(inside, 0o755); err != nil && !errors.Is(err, fs.ErrExist) {
		return "", notLet(err)
	}
	procs, err := os.ReadFile(filepath.Join(own, groupProcs))
	if err != nil {
		return "", notLet(err)
	}
	for _, pid := range bytes.Fields(procs) {
		err := os.WriteFile(filepath.Join(inside, groupProcs), pid, 0)
		if err != nil && !errors.Is(err, unix.ESRCH) {
			return "", notLet(err)
		}
	}
	if err := os.WriteFile(filepath.Join(own, groupChildren), []byte("+cpu"), 0); err != nil {
		return "", notLet(err)
	}
	return own, nil
}

func (b Behind) tighten() error { return os.WriteFile(filepath.Join(b.dir, groupIdle), []byte("1"), 0) }

// loosen lets those of the group have a small share beside the others.
func (b Behind) loosen() error {
	if err := os.WriteFile(filepath.Join(b.dir, groupIdle), []byte("0"), 0); err != nil {
		return err
	}
	err := os.WriteFile(filepath.Join(b.dir, "cpu.weight"), []byte(behindWeight), 0)
	if errors.Is(err, fs.ErrNotExist) || errors.Is(err, fs.ErrPermission) { // version 1; a new name cannot be made there
		err = os.WriteFile(filepath.Join(b.dir, "cpu.shares"), []byte(behindShares), 0)
	}
	return err
}

// How often is looked whether those who give way get anything.
const looking = time.Second

// Watch lets those of the group have a small share for a second whenever others left
// them nothing for one, until the context ends. So what they do comes to its end, and
// what they hold meanwhile is not held for ever. It gives what troubled it.
func (b Behind) Watch(ctx context.Context) error {
	if b.dir == "" {
		return nil
	}
	tick := time.NewTicker(looking)
	defer tick.Stop()
	last, loose := spent{}, false
	for {
		select {
		case <-ctx.Done():
			return b.tighten()
		case <-tick.C:
		}
		now, err := b.spent()
		if err != nil {
			return fmt.Errorf("look after what gives way: %w", err)
		}
		starved := now.waited-last.waited > looking/2 && now.ran-last.ran < (now.waited-last.waited)/20
		last = now
		switch {
		case starved && !loose:
			err = b.loosen()
		case loose:
			err = b.tighten()
		}
		if err != nil {
			return fmt.Errorf("look after what gives way: %w", err)
		}
		loose = starved && !loose
	}
}

// spent is how long processes had a processor, and waited for one.
type spent struct{ ran, waited time.Duration }

func (b Behind) spent() (sum spent, err error) {
	procs, err := os.ReadFile(filepath.Join(b.dir, groupProcs))
	if err != nil {
		return spent{}, err
	}
	for _, pid := range bytes.Fields(procs) {
		threads, err := filepath.Glob(fmt.Sprintf("/proc/%s/task/*/schedstat", pid))
		if err != nil {
			return spent{}, err
		}
		for _, file := range threads {
			said, err := os.ReadFile(file)
			if errors.Is(err, fs.ErrNotExist) || errors.Is(err, unix.ESRCH) { // it has ended
				continue
			}
			var ran, waited, times int64
			if err == nil {
				_, err = fmt.Sscan(string(said), &ran, &waited, &times)
			}
			if err != nil {
				return spent{}, err
			}
			sum.ran += time.Duration(ran)
			sum.waited += time.Duration(waited)
		}
	}
	return sum, nil
}
