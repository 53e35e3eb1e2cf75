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
	c := exec.CommandContext(t.Context(), "sleep", "60")
	c.SysProcAttr = &syscall.SysProcAttr{Setsid: true}
	require.NoError(t, c.Start())
	group := fmt.Sprintf("/proc/%d/autogroup", c.Process.Pid)
	require.NoError(t, localpg.GiveWay(c.Process.Pid))
	attr, err := unix.SchedGetAttr(c.Process.Pid, 0)
	require.NoError(t, err)
	assert.EqualValues(t, unix.SCHED_IDLE, attr.Policy)
	if said, err := os.ReadFile(group); err == nil && len(said) > 0 { // where the system has such groups
		assert.Contains(t, string(said), "nice 19")
	}
	require.NoError(t, c.Process.Kill())
	require.Error(t, c.Wait())
	require.NoError(t, localpg.GiveWay(c.Process.Pid), "one that has ended stands in nobody's way")
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
	require.NoError(t, localpg.GiveWay(c.Process.Pid))
	after, err := os.ReadFile(fmt.Sprintf("/proc/%d/autogroup", c.Process.Pid))
	require.NoError(t, err)
	assert.Equal(t, string(before), string(after))
	require.NoError(t, c.Process.Kill())
	require.Error(t, c.Wait())
}
