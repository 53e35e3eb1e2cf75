// Package house holds the order of the house: who may import whom.
package house

import (
	"encoding/json"
	"errors"
	"io"
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// floors lists the packages from the lowest floor up; a package may import
// only from floors below its own, or from the same folder.
var floors = []string{
	"core/words", "core/report", "core/expr", "core/prop", "core/blueprint", "core/blueprint/blueprinttest", "core/look",
	"core/form", "core/paper", "core/service", "core/flow", "core/access", "core/query",
	"core/schema", "core/sentence", "core/draft",
	"core/intake",
	"store", "store/apart", "store/localpg", "store/records", "store/files", "store/backup", "store/chores", "store/once",
	"store/kept", "store/runs", "store/seal",
	"store/apps", "store/accounts",
	"app/mark", "app/why", "app/publish", "app/act", "app/outside", "app/run", "app/page", "app/imports", "app/public",
	"standin", "web", "demo", "server/reply", "server/watch", "server/seats", "server/gate", "server/runtime", "server/builder", "server",
	"cmd",
	"store/storetest", "store/files/filestest",
	"app/act/acttest", "store/agree", "server/servertest", "e2e/browser", "e2e", "bench", "internal", "bench/crowd", "bench/attack",
}

// forbidden are imports that the core does without.
var forbidden = []string{"database/sql", "net/http", "gorm.io/", "github.com/jackc/", "github.com/gin-gonic/", "github.com/danielgtaylor/",
	"os", "math/rand", "crypto/rand"}

type pkg struct {
	ImportPath string
	Imports    []string
}

func packages(t *testing.T) []pkg {
	out, err := exec.Command("go", "list", "-json=ImportPath,Imports", "pinegate/...").Output()
	require.NoError(t, err)
	var all []pkg
	d := json.NewDecoder(strings.NewReader(string(out)))
	for {
		var p pkg
		err := d.Decode(&p)
		if errors.Is(err, io.EOF) {
			return all
		}
		require.NoError(t, err)
		all = append(all, p)
	}
}

func floor(path string) int {
	best, length := -1, -1
	for i, f := range floors {
		if (path == f || strings.HasPrefix(path, f+"/")) && len(f) > length {
			best, length = i, len(f)
		}
	}
	return best
}

func TestImportsRunDownwards(t *testing.T) {
	all := packages(t)
	require.Greater(t, len(all), 15)
	for _, p := range all {
		own := strings.TrimPrefix(p.ImportPath, "pinegate/")
		at := floor(own)
		if !assert.GreaterOrEqual(t, at, 0, "%s has no floor", own) {
			continue
		}
		for _, i := range p.Imports {
			if other, ours := strings.CutPrefix(i, "pinegate/"); ours {
				assert.Less(t, floor(other), at, "%s must not import %s", own, other)
			} else if strings.HasPrefix(own, "core/") {
				for _, f := range forbidden {
					assert.False(t, i == f || strings.HasSuffix(f, "/") && strings.HasPrefix(i, f), "%s must not import %s", own, i)
				}
			}
		}
	}
}

// TestTheCoreHasNoClock looks for calls that read the time.
func TestTheCoreHasNoClock(t *testing.T) {
	out, err := exec.Command("grep", "-rnE", `time\.(Now|Since|Until|After|Sleep)\b`, "--include=*.go", "../../core").Output()
	var exit *exec.ExitError
	if !errors.As(err, &exit) || exit.ExitCode() != 1 {
		t.Errorf("the core reads the clock, or could not be searched (%v):\n%s", err, out)
	}
}
