package localpg_test

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"pinegate/store/localpg"
)

// busy starts a process that only counts, on the first processor.
func busy(t *testing.T) int {
	t.Helper()
	c := exec.CommandContext(t.Context(), "sh", "-c", "while :; do :; done")
	c.SysProcAttr = &syscall.SysProcAttr{Setsid: true}
	require.NoError(t, c.Start())
	t.Cleanup(func() {
		assert.NoError(t, c.Process.Kill())
		assert.Error(t, c.Wait())
	})
	var one unix.CPUSet
	require.NoError(t, unix.SchedGetaffinity(0, &one))
	for i, found := 0, false; i < len(one)*64; i++ {
		if one.IsSet(i) && found {
			one.Clear(i)
		}
		found = found || one.IsSet(i)
	}
	require.NoError(t, unix.SchedSetaffinity(c.Process.Pid, &one))
	return c.Process.Pid
}

func ran(t *testing.T, pid int) time.Duration {
	t.Helper()
	said, err := os.ReadFile(fmt.Sprintf("/proc/%d/schedstat", pid))
	require.NoError(t, err)
	var d int64
	_, err = fmt.Sscan(string(said), &d)
	require.NoError(t, err)
	return time.Duration(d)
}

// TestWhoIsBehindIsNotForgotten has one process take what another in the group would
// have, for as long as that is not looked after.
func TestWhoIsBehindIsNotForgotten(t *testing.T) {
	b, err := localpg.OpenBehind()
	require.NoError(t, err)
	if b.Dir() == "" {
		t.Skip("this system lets no group be made")
	}
	waits, takes := busy(t), busy(t)
	require.NoError(t, b.GiveWay(waits, true))
	listed, err := os.ReadFile(filepath.Join(b.Dir(), "cgroup.procs"))
	require.NoError(t, err)
	require.Contains(t, strings.Fields(string(listed)), fmt.Sprint(waits))
	before, taken := ran(t, waits), ran(t, takes)
	require.Eventually(t, func() bool { return ran(t, takes)-taken > time.Second }, 20*time.Second, 50*time.Millisecond)
	assert.Less(t, ran(t, waits)-before, 200*time.Millisecond, "it gets next to nothing beside one who does not give way")

	ctx, stop := context.WithCancel(t.Context())
	ended := make(chan error, 1)
	go func() { ended <- b.Watch(ctx) }()
	before = ran(t, waits)
	assert.Eventually(t, func() bool { return ran(t, waits)-before > 250*time.Millisecond }, 60*time.Second, 100*time.Millisecond)
	stop()
	require.NoError(t, <-ended)
	idle, err := os.ReadFile(filepath.Join(b.Dir(), "cpu.idle"))
	require.NoError(t, err)
	assert.Equal(t, "1", strings.TrimSpace(string(idle)))
}
