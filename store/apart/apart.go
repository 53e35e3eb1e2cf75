// Package apart does work in a process of its own, so that what takes much memory
// or many processors takes them from nobody who waits for a page, and so that its
// end is nobody else's.
//
// The process gets one line of JSON, and answers with one. It goes on as long as
// its input is open: whoever began it need only end, in whatever way, to end it.
package apart

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"os/exec"
	"time"

	"pinegate/core/words"
	"pinegate/store"
)

// ErrEnded is given when a process ended without an answer.
var ErrEnded = errors.New("the process that did this ended without an answer")

// patience is how long a process that is to stop has to tidy up.
const patience = 10 * time.Second

// Runner begins processes.
type Runner struct {
	command func() *exec.Cmd
	setting any
	places  chan struct{}
	turns   *store.Turns
	wait    time.Duration
}

// Limits bound how many processes there are at once.
type Limits struct {
	All   int           // processes
	Share int           // how many of them one workspace can have; 0 for all
	Wait  time.Duration // for one, and for a turn of the workspace
}

// New gives a runner. Each process gets the setting with its task.
func New(command func() *exec.Cmd, setting any, l Limits) *Runner {
	return &Runner{command, setting, make(chan struct{}, l.All), store.NewTurns(l.Share, l.Wait), l.Wait}
}

// question is what a process is asked.
type question struct {
	Setting json.RawMessage `json:"setting"`
	Task    json.RawMessage `json:"task"`
}

// answer is what it says, and only one of these.
type answer struct {
	Is      json.RawMessage `json:"is,omitempty"`
	Problem *problem        `json:"problem,omitempty"`
	Trouble string          `json:"trouble,omitempty"`
	Wrong   string          `json:"wrong,omitempty"`
}

// Do has a process do a task, and reads its answer. It is [store.ErrBusy] when too
// many others go on, and [ErrEnded] when the process did not live to answer.
// Problems and troubles are given as if nothing lay between.
func (r *Runner) Do(ctx context.Context, task, into any) error {
	leave, err := r.turns.Take(ctx, store.WorkOf(ctx).Workspace)
	if err != nil {
		return err
	}
	defer leave()
	waiting, cancel := context.WithTimeoutCause(ctx, r.wait, store.ErrBusy)
	defer cancel()
	select {
	case r.places <- struct{}{}:
		defer func() { <-r.places }()
	case <-waiting.Done():
		return context.Cause(waiting)
	}
	said, err := r.run(ctx, task)
	if errors.Is(err, ErrEnded) && ctx.Err() == nil { // whoever asked is told in other words
		slog.WarnContext(ctx, "a process apart ended", "error", err)
	}
	if err != nil {
		return err
	}
	var a answer
	if err := json.Unmarshal(said, &a); err != nil {
		return fmt.Errorf("%w: %w", ErrEnded, err)
	}
	switch {
	case a.Problem != nil:
		return a.Problem.words()
	case a.Trouble != "":
		return troubleOf(a.Trouble)
	case a.Wrong != "":
		return errors.New(a.Wrong)
	case into == nil:
		return nil
	}
	if err := json.Unmarshal(a.Is, into); err != nil {
		return fmt.Errorf("read what a process answered: %w", err)
	}
	return nil
}

// run runs a process until it ends, or until nobody waits for it.
func (r *Runner) run(ctx context.Context, task any) ([]byte, error) {
	line, err := asked(r.setting, task)
	if err != nil {
		return nil, err
	}
	in, keep, err := os.Pipe()
	if err != nil {
		return nil, fmt.Errorf("begin a process: %w", err)
	}
	var out bytes.Buffer
	c := r.command()
	c.Stdin, c.Stdout, c.Stderr = in, &out, os.Stderr
	err = c.Start()
	_ = in.Close() // the process has its own
	if err != nil {
		return nil, errors.Join(fmt.Errorf("begin a process: %w", err), keep.Close())
	}
	ended := make(chan error, 1)
	go func() { ended <- c.Wait() }()
	if _, err := keep.Write(line); err != nil { // it is gone; how it ended says more
		_ = keep.Close()
		return nil, fmt.Errorf("%w: %w", ErrEnded, errors.Join(err, <-ended))
	}
	select {
	case err = <-ended:
		_ = keep.Close() // nobody reads it any more
	case <-ctx.Done():
		_ = keep.Close() // which tells it to stop
		stop := time.AfterFunc(patience, func() { _ = c.Process.Kill() })
		<-ended
		stop.Stop()
		return nil, context.Cause(ctx)
	}
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrEnded, err)
	}
	return out.Bytes(), nil
}

func asked(setting, task any) ([]byte, error) {
	var q question
	var err, second error
	q.Setting, err = json.Marshal(setting)
	q.Task, second = json.Marshal(task)
	if err = errors.Join(err, second); err != nil {
		return nil, fmt.Errorf("write a task: %w", err)
	}
	line, err := json.Marshal(q)
	if err != nil {
		return nil, fmt.Errorf("write a task: %w", err)
	}
	return append(line, '\n'), nil
}

// Serve is the other side: it reads a task, does it until it is done or the input
// ends, and writes the answer.
func Serve[Setting, Task any](ctx context.Context, in io.Reader, out io.Writer,
	do func(context.Context, Setting, Task) (any, error)) error {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	d := json.NewDecoder(in)
	var q question
	var setting Setting
	var task Task
	if err := d.Decode(&q); err != nil {
		return fmt.Errorf("read a task: %w", err)
	}
	if err := errors.Join(json.Unmarshal(q.Setting, &setting), json.Unmarshal(q.Task, &task)); err != nil {
		return fmt.Errorf("read a task: %w", err)
	}
	go func() {
		_, _ = io.Copy(io.Discard, in) // until whoever asked does not want it any more, or is gone
		stop()
	}()
	is, err := do(ctx, setting, task)
	a, err := answerOf(is, err)
	if err != nil {
		return err
	}
	return json.NewEncoder(out).Encode(a)
}

func answerOf(is any, err error) (answer, error) {
	var told *words.Problem
	switch trouble := store.Trouble(err); {
	case errors.As(err, &told):
		return answer{Problem: problemOf(told)}, nil
	case trouble != nil:
		return answer{Trouble: trouble.Error()}, nil
	case err != nil:
		return answer{Wrong: err.Error()}, nil
	}
	raw, err := json.Marshal(is)
	if err != nil {
		return answer{}, fmt.Errorf("write an answer: %w", err)
	}
	return answer{Is: raw}, nil
}

func troubleOf(text string) error {
	for _, known := range store.Troubles() {
		if known.Error() == text {
			return known
		}
	}
	return errors.New(text)
}
