package apart_test

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apart"
)

// itself makes this program be the process that is begun.
const itself = "PINEGATE_APART"

type setting struct{ Greeting string }

type task struct {
	Do   string
	File string
}

func TestMain(m *testing.M) {
	if os.Getenv(itself) == "" {
		os.Exit(m.Run())
	}
	if err := apart.Serve(context.Background(), os.Stdin, os.Stdout, do); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func problem() *words.Problem {
	p := words.New("import-large", "n", 3, "name", "boats.csv", "list", []string{"a", "b"})
	p.Hint, p.Slot = "a hint", "a slot"
	return p
}

// do is what the process does.
func do(ctx context.Context, s setting, t task) (any, error) {
	switch t.Do {
	case "answer":
		return []string{s.Greeting, "from", fmt.Sprint(os.Getpid() != 0)}, nil
	case "problem":
		return nil, fmt.Errorf("look: %w", problem())
	case "trouble":
		return nil, fmt.Errorf("wait: %w", store.ErrHeld)
	case "wrong":
		return nil, errors.New("the mast is too tall")
	case "die":
		os.Exit(3)
	}
	if err := os.WriteFile(t.File+".begun", nil, 0o600); err != nil {
		return nil, err
	}
	<-ctx.Done()
	return nil, os.WriteFile(t.File, []byte("tidied up"), 0o600)
}

func runner(t *testing.T, most, share int) *apart.Runner {
	program, err := os.Executable()
	require.NoError(t, err)
	return apart.New(func() *exec.Cmd {
		c := exec.Command(program)
		c.Env = append(os.Environ(), itself+"=1")
		return c
	}, setting{"Hello"}, apart.Limits{All: most, Share: share, Wait: 50 * time.Millisecond})
}

// TestWhatAProcessAnswers holds that answers, problems and troubles come as if nothing
// lay between.
func TestWhatAProcessAnswers(t *testing.T) {
	r := runner(t, 1, 0)
	var said []string
	require.NoError(t, r.Do(t.Context(), task{Do: "answer"}, &said))
	assert.Equal(t, []string{"Hello", "from", "true"}, said)
	require.NoError(t, r.Do(t.Context(), task{Do: "answer"}, nil), "nobody need want the answer")

	var told *words.Problem
	require.ErrorAs(t, r.Do(t.Context(), task{Do: "problem"}, &said), &told)
	assert.Equal(t, problem(), told)
	require.ErrorIs(t, r.Do(t.Context(), task{Do: "trouble"}, &said), store.ErrHeld)
	require.EqualError(t, r.Do(t.Context(), task{Do: "wrong"}, &said), "the mast is too tall")
	require.ErrorIs(t, r.Do(t.Context(), task{Do: "die"}, &said), apart.ErrEnded)
}

// TestAProcessEndsWithItsAsker stops to want an answer, and finds that the process
// tidied up; meanwhile a second one does not get its turn.
func TestAProcessEndsWithItsAsker(t *testing.T) {
	r := runner(t, 1, 0)
	file := filepath.Join(t.TempDir(), "file")
	ctx, stop := context.WithCancelCause(t.Context())
	ended := make(chan error)
	go func() { ended <- r.Do(ctx, task{Do: "wait", File: file}, nil) }()
	require.Eventually(t, func() bool {
		_, err := os.Stat(file + ".begun")
		return err == nil
	}, 10*time.Second, 5*time.Millisecond)
	require.ErrorIs(t, r.Do(t.Context(), task{Do: "answer"}, nil), store.ErrBusy)
	enough := errors.New("enough")
	stop(enough)
	require.ErrorIs(t, <-ended, enough)
	said, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, "tidied up", string(said))
	require.NoError(t, r.Do(t.Context(), task{Do: "answer"}, nil), "its place is free again")
}

// TestAWorkspaceLeavesPlacesToOthers has one workspace do what lasts.
func TestAWorkspaceLeavesPlacesToOthers(t *testing.T) {
	r := runner(t, 2, 1)
	file := filepath.Join(t.TempDir(), "file")
	of := func(workspace string) context.Context {
		return store.With(t.Context(), store.Work{Workspace: workspace})
	}
	ctx, stop := context.WithCancel(of("cove"))
	ended := make(chan error)
	go func() { ended <- r.Do(ctx, task{Do: "wait", File: file}, nil) }()
	require.Eventually(t, func() bool {
		_, err := os.Stat(file + ".begun")
		return err == nil
	}, 10*time.Second, 5*time.Millisecond)
	require.ErrorIs(t, r.Do(of("cove"), task{Do: "answer"}, nil), store.ErrBusy)
	require.NoError(t, r.Do(of("mill"), task{Do: "answer"}, nil))
	stop()
	require.ErrorIs(t, <-ended, context.Canceled)
	require.NoError(t, r.Do(of("cove"), task{Do: "answer"}, nil))
}

// TestWhatIsNoTask says what is wrong with what a process reads.
func TestWhatIsNoTask(t *testing.T) {
	for _, in := range []string{"", "nonsense", `{"setting":{},"task":3}`} {
		var out strings.Builder
		require.ErrorContains(t, apart.Serve(t.Context(), strings.NewReader(in), &out, do), "read a task", in)
		assert.Empty(t, out.String())
	}
}
