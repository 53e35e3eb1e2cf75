package localpg

import (
	"errors"
	"fmt"
	"os"
	"strconv"
	"time"

	"golang.org/x/sys/unix"
)

// How far a process stands back: a niceness, as in setpriority(2).
const (
	back    = 10 // it gets about a tenth of what others get, where all want processors
	farBack = 19 // the last: it gets what others leave
)

// GiveWay makes a process of this machine give way to the others. One that does so far
// back gets what they leave of the processors, and whoever wakes up takes one from it
// at once (SCHED_IDLE of sched(7)): somebody who asks for little so finds a processor
// as if it were not there.
func GiveWay(pid int, far bool) error {
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
		how := &unix.SchedAttr{Size: unix.SizeofSchedAttr, Policy: unix.SCHED_BATCH, Nice: back}
		if far {
			how.Policy = unix.SCHED_IDLE
		}
		if err = unix.SchedSetAttr(id, how, 0); err != nil && !errors.Is(err, unix.ESRCH) {
			return fmt.Errorf("make process %d give way: %w", pid, err)
		}
	}
	if far {
		return groupGivesWay(pid, farBack)
	}
	return groupGivesWay(pid, back)
}

// Who is not root may do this once in a tenth of a second, on the whole machine.
const (
	tries = 20
	pause = 100 * time.Millisecond
)

// groupGivesWay makes the process give way to those of other sessions, where the
// system shares processors among sessions first (autogroups of sched(7)): between
// these it does not count what a process within one does.
func groupGivesWay(pid, niceness int) error {
	if leader, err := unix.Getsid(pid); err != nil || leader != pid { // it ended, or its session is others' as well
		return nil
	}
	var err error
	for range tries {
		err = os.WriteFile(fmt.Sprintf("/proc/%d/autogroup", pid), []byte(strconv.Itoa(niceness)), 0)
		if !errors.Is(err, unix.EAGAIN) {
			break
		}
		time.Sleep(pause)
	}
	if err != nil && !errors.Is(err, os.ErrNotExist) && !errors.Is(err, unix.ESRCH) {
		return fmt.Errorf("make the session of process %d give way: %w", pid, err)
	}
	return nil
}
