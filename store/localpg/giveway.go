package localpg

import (
	"errors"
	"fmt"
	"os"
	"strconv"

	"golang.org/x/sys/unix"
)

// GiveWay makes a process of this machine give way to the others: it gets what they
// leave of the processors, and whoever wakes up takes one from it at once
// (SCHED_IDLE of sched(7)). Somebody who asks for little so finds a processor as if it
// were not there.
func GiveWay(pid int) error {
	threads, err := os.ReadDir(fmt.Sprintf("/proc/%d/task", pid))
	if errors.Is(err, os.ErrNotExist) { // it has ended
		return nil
	}
	if err != nil {
		return fmt.Errorf("find the threads of process %d: %w", pid, err)
	}
	for _, t := range threads {
		id, err := strconv.Atoi(t.Name())
		if err != nil {
			return fmt.Errorf("find the threads of process %d: %w", pid, err)
		}
		err = unix.SchedSetAttr(id, &unix.SchedAttr{Size: unix.SizeofSchedAttr, Policy: unix.SCHED_IDLE}, 0)
		if err != nil && !errors.Is(err, unix.ESRCH) {
			return fmt.Errorf("make process %d give way: %w", pid, err)
		}
	}
	return groupGivesWay(pid)
}

// last is the niceness of who comes after all others, as in setpriority(2).
const last = "19"

// groupGivesWay makes the process give way to those of other sessions, where the
// system shares processors among sessions first (autogroups of sched(7)): between
// these it does not count what a process within one does.
func groupGivesWay(pid int) error {
	if leader, err := unix.Getsid(pid); err != nil || leader != pid { // it ended, or its session is others' as well
		return nil
	}
	err := os.WriteFile(fmt.Sprintf("/proc/%d/autogroup", pid), []byte(last), 0)
	if err != nil && !errors.Is(err, os.ErrNotExist) && !errors.Is(err, unix.ESRCH) {
		return fmt.Errorf("make the session of process %d give way: %w", pid, err)
	}
	return nil
}
