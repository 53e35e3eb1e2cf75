package localpg_test

import (
	"fmt"
	"os"
	"os/exec"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"pinegate/store/localpg"
)

// TestWhatGivesWay asks the system how a process that gives way, and its session,
// stand to others.
func TestWhatGivesWay(t *testing.T) {
	for _, x := range []struct {
		far    bool
		policy uint32
		nice   string
	}{{false, unix.SCHED_BATCH, "nice 10"}, {true, unix.SCHED_IDLE, "nice 19"}} {
		c := exec.CommandContext(t.Context(), "sleep", "60")
		c.SysProcAttr = &syscall.SysProcAttr{Setsid: true}
		require.NoError(t, c.Start())
		require.NoError(t, localpg.GiveWay(c.Process.Pid, x.far))
		attr, err := unix.SchedGetAttr(c.Process.Pid, 0)
		require.NoError(t, err)
		assert.Equal(t, x.policy, attr.Policy)
		said, err := os.ReadFile(fmt.Sprintf("/proc/%d/autogroup", c.Process.Pid))
		if err == nil && len(said) > 0 { // where the system has such groups
			assert.Contains(t, string(said), x.nice)
		}
		require.NoError(t, c.Process.Kill())
		require.Error(t, c.Wait())
		require.NoError(t, localpg.GiveWay(c.Process.Pid, x.far), "one that has ended is left alone")
	}
}

// TestASessionOfOthersStays makes a process give way that does not lead its session.
func TestASessionOfOthersStays(t *testing.T) {
	c := exec.CommandContext(t.Context(), "sleep", "60")
	require.NoError(t, c.Start())
	before, err := os.ReadFile(fmt.Sprintf("/proc/%d/autogroup", c.Process.Pid))
	if os.IsNotExist(err) {
		t.Skip("this system has no groups by session")
	}
	require.NoError(t, err)
	require.NoError(t, localpg.GiveWay(c.Process.Pid, true))
	after, err := os.ReadFile(fmt.Sprintf("/proc/%d/autogroup", c.Process.Pid))
	require.NoError(t, err)
	assert.Equal(t, string(before), string(after))
	require.NoError(t, c.Process.Kill())
	require.Error(t, c.Wait())
}
