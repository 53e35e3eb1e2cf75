// Package chores does, every hour and on one server at a time, what nobody
// waits for: it throws away what has run out.
package chores

import (
	"context"
	"errors"
	"time"

	"github.com/riverqueue/river"

	"pinegate/store"
)

// Chore is something that is done every hour.
type Chore func(context.Context) error

type job struct{}

// Kind names the job in the queue.
func (job) Kind() string { return "chores" }

type worker struct {
	river.WorkerDefaults[job]
	chores []Chore
}

// Work does all chores; one that fails does not keep the others from being
// done.
func (w *worker) Work(ctx context.Context, _ *river.Job[job]) error {
	ctx, cancel := context.WithTimeout(ctx, every/2)
	defer cancel()
	ctx = store.As(ctx, store.Bulk) // nobody waits for them
	var errs []error
	for _, do := range w.chores {
		errs = append(errs, do(ctx))
	}
	return errors.Join(errs...)
}

const every = time.Hour

// Worker gives what adds the chores to a job queue.
func Worker(list ...Chore) func(*river.Workers) {
	return func(to *river.Workers) { river.AddWorker(to, &worker{chores: list}) }
}

// Hourly is when they are done: at the start, and then every hour.
func Hourly() *river.PeriodicJob {
	return river.NewPeriodicJob(river.PeriodicInterval(every), func() (river.JobArgs, *river.InsertOpts) {
		return job{}, &river.InsertOpts{UniqueOpts: river.UniqueOpts{ByPeriod: every / 2}}
	}, &river.PeriodicJobOpts{RunOnStart: true})
}
