package localpg

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestGroupIn reads what systems say of the groups of a process.
func TestGroupIn(t *testing.T) {
	const v1 = "24 23 0:20 / /sys/fs/cgroup/cpu,cpuacct rw,relatime shared:9 - cgroup cgroup rw,cpu,cpuacct\n" +
		"25 23 0:21 / /sys/fs/cgroup/memory rw - cgroup cgroup rw,memory\n" +
		"26 23 0:22 / /sys/fs/cgroup/unified rw - cgroup2 cgroup2 rw\n"
	const v2 = "26 23 0:22 / /sys/fs/cgroup rw,nosuid shared:4 - cgroup2 cgroup2 rw,nsdelegate\n"
	for _, x := range []struct {
		name, groups, mounts, dir string
		v2                        bool
	}{
		{"version 1", "2:memory:/other\n1:cpu,cpuacct:/a\n0::/b\n", v1, "/sys/fs/cgroup/cpu,cpuacct/a", false},
		{"version 2", "0::/system.slice/pinegate.service\n", v2, "/sys/fs/cgroup/system.slice/pinegate.service", true},
		{"a part of the tree, in a container", "0::/box/a\n",
			"26 23 0:22 /box /sys/fs/cgroup rw - cgroup2 cgroup2 rw\n", "/sys/fs/cgroup/a", true},
		{"outside of what is mounted", "0::/other\n", "26 23 0:22 /box /sys/fs/cgroup rw - cgroup2 cgroup2 rw\n", "", false},
		{"nothing mounted", "0::/\n", "1 0 0:1 / / rw - ext4 /dev/root rw\n", "", false},
		{"no groups", "", v2, "", false},
	} {
		dir, is2 := groupIn(x.groups, x.mounts)
		assert.Equal(t, x.dir, dir, x.name)
		assert.Equal(t, x.v2, is2, x.name)
	}
}
