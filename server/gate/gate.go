// Package gate lets the people of an app in: by codes and links that are mailed
// to them, by passwords, and by what only they know. Whether an address is known
// shows neither in the answer nor in the time that it takes, because the search
// happens in a job.
package gate

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"

	"pinegate/app/act"
	"pinegate/app/run"
	"pinegate/core/blueprint"
	"pinegate/core/form"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
)

// Refusal tells somebody who proved who they are that they are not let in.
type Refusal struct{ Title, Text string }

func (r *Refusal) Error() string { return r.Text }

// Gate lets people in.
type Gate struct {
	apps     *apps.Apps
	acts     *act.Acts
	accounts *accounts.Accounts
	mailer   Mailer
	jobs     *river.Client[pgx.Tx]
}

// Jobs are done in the background besides the gate's own.
type Jobs struct {
	Queues   map[string]int // how many of each are worked at once, besides the gate's own
	Workers  []func(*river.Workers)
	Flows    *run.Runs // whose mails the gate sends, or nil
	Periodic []*river.PeriodicJob
}

// mailQueue is the queue of mail that lets somebody go on. It has workers of its
// own, so that nothing that lasts keeps people from signing in.
const mailQueue = "mail"

// How many jobs are worked at once by one server.
const (
	mailWorkers  = 6
	otherWorkers = 4
)

// keptDone is how long jobs that are done stay in the database: they tell who
// asked for what.
const keptDone = 5 * time.Minute

// New gives the gate and starts the jobs, which run until the context ends.
func New(ctx context.Context, s *store.Store, a *apps.Apps, acts *act.Acts, acc *accounts.Accounts, m Mailer, jobs Jobs) (*Gate, error) {
	workers := river.NewWorkers()
	for _, more := range jobs.Workers {
		more(workers)
	}
	g := &Gate{apps: a, acts: acts, accounts: acc, mailer: m}
	if jobs.Flows != nil {
		jobs.Flows.Gate = g
		jobs.Flows.Workers(workers, g)
	}
	river.AddWorker(workers, &mailWorker{gate: g})
	river.AddWorker(workers, &builderWorker{gate: g})
	queues := map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: otherWorkers}, mailQueue: {MaxWorkers: mailWorkers}}
	for name, most := range jobs.Queues {
		queues[name] = river.QueueConfig{MaxWorkers: most}
	}
	client, err := river.NewClient(riverpgxv5.New(s.Pool), &river.Config{
		Queues:  queues,
		Workers: workers, PeriodicJobs: jobs.Periodic,
		JobTimeout:           -1, // imports last as long as they last; the others have limits of their own
		RescueStuckJobsAfter: rescueTime,
		FetchCooldown:        20 * time.Millisecond, FetchPollInterval: 500 * time.Millisecond, CompletedJobRetentionPeriod: keptDone,
		Logger: slog.New(slog.DiscardHandler), ErrorHandler: &jobErrors{},
	})
	if err != nil {
		return nil, fmt.Errorf("make job queue: %w", err)
	}
	if err := client.Start(ctx); err != nil {
		return nil, fmt.Errorf("start job queue: %w", err)
	}
	g.jobs = client
	return g, nil
}

// rescueTime is how long a job of mail goes on before it is taken for one whose server
// died, and is done by another one.
const rescueTime = jobTime + 30*time.Second

// Jobs gives the job queue, for what is to be done in the background.
func (g *Gate) Jobs() *river.Client[pgx.Tx] { return g.jobs }

// lastWords is how long jobs that run are given to end by themselves.
const lastWords = 3 * time.Second

// Stop waits a moment for the jobs that run, and then stops them: what is left is
// done by another server, or after the next start.
func (g *Gate) Stop(ctx context.Context) error {
	soon, cancel := context.WithTimeout(ctx, lastWords)
	defer cancel()
	if err := g.jobs.Stop(soon); err == nil || ctx.Err() != nil {
		return err
	}
	return g.jobs.StopAndCancel(ctx)
}

// Leave ends a session.
func (g *Gate) Leave(ctx context.Context, token string) error {
	return g.accounts.SignOut(ctx, token)
}

// address reads an e-mail address, in small letters.
func address(s string) (string, error) {
	raw, err := json.Marshal(s)
	if err != nil {
		return "", fmt.Errorf("read address: %w", err)
	}
	v, wrong := form.Accept(nil, &blueprint.Field{Type: blueprint.Email}, raw)
	if wrong != nil || v.IsEmpty() {
		return "", words.New("read-email")
	}
	return strings.ToLower(v.Text), nil
}

// open refuses a way in that the founder did not open.
func open(b *blueprint.Blueprint, w blueprint.Way) error {
	if !b.Gate.Lets(w) {
		return words.New("gate-way-closed")
	}
	return nil
}
