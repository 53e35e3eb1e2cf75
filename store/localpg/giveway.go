package localpg

import (
	"errors"
	"fmt"
	"runtime"

	"golang.org/x/sys/unix"
)

// niceness is how far what gives way stands back, as in setpriority(2).
const niceness = 10

// GiveWay makes a process of a server on this machine give way to the others: it
// gets what they leave of the processors, and never more than half of those, so that
// somebody who asks for little finds one that is free.
func GiveWay(pid int) error {
	if err := unix.Setpriority(unix.PRIO_PROCESS, pid, niceness); err != nil && !errors.Is(err, unix.ESRCH) {
		return fmt.Errorf("make process %d give way: %w", pid, err)
	}
	var all, half unix.CPUSet
	if err := unix.SchedGetaffinity(pid, &all); err != nil {
		return fmt.Errorf("find the processors of process %d: %w", pid, err)
	}
	for cpu, left := len(all)*64-1, all.Count()/2; cpu >= 0 && left > 0; cpu-- { // the last ones: the first ones get interrupts
		if all.IsSet(cpu) {
			half.Set(cpu)
			left--
		}
	}
	if half.Count() == 0 || all.Count() < runtime.NumCPU() { // there is one only, or it was told already
		return nil
	}
	if err := unix.SchedSetaffinity(pid, &half); err != nil && !errors.Is(err, unix.ESRCH) {
		return fmt.Errorf("leave processors to others: %w", err)
	}
	return nil
}
