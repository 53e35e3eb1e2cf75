package run

import (
	"context"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/riverqueue/river"

	"pinegate/app/act"
	"pinegate/core/blueprint"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/records"
	"pinegate/store/runs"
)

// Poster sends mails of apps.
type Poster interface {
	// Post sends a mail of an app, from the sender that its blueprint names.
	Post(ctx context.Context, app store.App, b *blueprint.Blueprint, s Sending) error
}

// Sending is a mail that goes out.
type Sending struct {
	runs.Letter
	Attached []Attached
	Shown    []Shown
	// WayOut is what the link carries by which its recipient unsubscribes, or "".
	WayOut string
}

// Attached is a file that goes with a mail.
type Attached struct {
	records.File
	Bytes []byte
}

// Shown is a picture that a mail shows, small.
type Shown struct {
	Attached
	Above bool // the text, as that of the app; others stand below it
}

// How many jobs of each queue a server works at once.
const (
	FlowWorkers   = 4
	LetterWorkers = 4
	CallWorkers   = 8
)

// Queues adds the queues of workflows to those of others.
func Queues(with map[string]int) map[string]int {
	with[act.FlowQueue], with[LetterQueue], with[CallQueue] = FlowWorkers, LetterWorkers, CallWorkers
	return with
}

// Workers adds what works the jobs of workflows.
func (r *Runs) Workers(workers *river.Workers, post Poster) {
	river.AddWorker(workers, &starter{runs: r})
	river.AddWorker(workers, &waker{runs: r})
	river.AddWorker(workers, &ticker{runs: r})
	river.AddWorker(workers, &asker{runs: r})
	river.AddWorker(workers, &postman{runs: r, post: post})
}

type starter struct {
	river.WorkerDefaults[act.Started]
	runs *Runs
}

// Timeout is how long a run can take, with what goes before and after it.
func (*starter) Timeout(*river.Job[act.Started]) time.Duration { return 2 * timeLimit }

// Work runs a workflow that a write started.
func (w *starter) Work(ctx context.Context, j *river.Job[act.Started]) error {
	return w.runs.Begin(store.As(ctx, store.Back), j.Args, j.Attempt >= j.MaxAttempts)
}

type postman struct {
	river.WorkerDefaults[LetterJob]
	runs *Runs
	post Poster
}

// Timeout is how long sending a mail can take.
func (*postman) Timeout(*river.Job[LetterJob]) time.Duration { return timeLimit }

// NextRetry makes the pauses grow, from 5 seconds to 9 hours.
func (*postman) NextRetry(j *river.Job[LetterJob]) time.Time { return growing(j.Attempt) }

// growing gives when something is tried again that was tried so often.
func growing(attempt int) time.Time {
	pause := 5 * time.Second
	for range attempt - 1 {
		pause *= 3
	}
	return time.Now().Add(pause)
}

// Work sends a mail that is not sent yet.
func (w *postman) Work(ctx context.Context, j *river.Job[LetterJob]) error {
	ctx = store.As(ctx, store.Back)
	l, err := w.runs.Book.Letter(ctx, j.Args.Letter)
	if errors.Is(err, store.ErrNotFound) || err == nil && l.Status != runs.Waiting {
		return nil
	}
	if err != nil {
		return err
	}
	app, err := w.runs.Apps.Find(ctx, l.AppID)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	b, err := w.runs.Apps.Blueprint(ctx, app, apps.Environment(l.Place))
	if err != nil {
		return err
	}
	sent := w.send(ctx, app, b, l)
	if sent == nil {
		return w.runs.Book.Became(ctx, l.ID, runs.Sent, nil)
	}
	fate, why := runs.Waiting, sent.Error()
	if j.Attempt >= j.MaxAttempts {
		fate = runs.Refused
	}
	return errors.Join(sent, w.runs.Book.Became(ctx, l.ID, fate, &why))
}

// send sends a mail with its files.
func (w *postman) send(ctx context.Context, app store.App, b *blueprint.Blueprint, l runs.Letter) (err error) {
	out := Sending{Letter: l}
	folder := records.FilesFolder(apps.SchemaName(app, apps.Environment(l.Place)))
	for _, f := range l.Files {
		a, err := w.read(ctx, folder, f, false)
		if err != nil {
			return err
		}
		out.Attached = append(out.Attached, a)
	}
	if out.Shown, err = w.shown(ctx, app, l, folder); err != nil {
		return err
	}
	if l.WayOut {
		if out.WayOut, err = w.runs.wayOut(l); err != nil {
			return err
		}
	}
	return w.post.Post(ctx, app, b, out)
}

// shown gives the pictures that stand in a mail.
func (w *postman) shown(ctx context.Context, app store.App, l runs.Letter, folder string) ([]Shown, error) {
	var out []Shown
	if l.Head != "" {
		f, err := w.runs.Apps.Picture(ctx, app, l.Head)
		if err != nil && !errors.Is(err, store.ErrNotFound) { // without one that is not there, as pages do
			return nil, err
		}
		if err == nil {
			a, err := w.read(ctx, apps.PicturesFolder(app), f, true)
			if err != nil {
				return nil, err
			}
			out = append(out, Shown{a, true})
		}
	}
	for _, f := range l.Pictures {
		a, err := w.read(ctx, folder, f, true)
		if err != nil {
			return nil, err
		}
		out = append(out, Shown{a, false})
	}
	return out, nil
}

// read reads a file, or the small picture of it where there is one.
func (w *postman) read(ctx context.Context, folder string, f records.File, small bool) (Attached, error) {
	r, err := w.runs.Files.Get(ctx, folder, f.ID, small)
	if small && errors.Is(err, store.ErrNotFound) { // it is small already
		r, err = w.runs.Files.Get(ctx, folder, f.ID, false)
	}
	if err != nil {
		return Attached{}, fmt.Errorf("attach %s: %w", f.Name, err)
	}
	raw, err := io.ReadAll(r)
	if err = errors.Join(err, r.Close()); err != nil {
		return Attached{}, fmt.Errorf("attach %s: %w", f.Name, err)
	}
	return Attached{f, raw}, nil
}
