// Package gate lets the people of an app in: it mails them a code and checks
// it. Whether an address is known shows neither in the answer nor in the time
// that it takes, because the search happens in a job.
package gate

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net"
	"strconv"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/wneessen/go-mail"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/form"
	"pinegate/server/seats"
	"pinegate/standin/mailbox"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
)

// Limits on asking for codes and trying them, per window.
const (
	window         = 15 * time.Minute
	codesPerPerson = 6
	codesPerHost   = 60
	triesPerPerson = 15
	triesPerHost   = 100
)

// ErrOften tells that somebody tried too often.
var ErrOften = &blueprint.Problem{Message: "That was tried too often. Wait a quarter of an hour and try again."}

// Gate lets people in.
type Gate struct {
	apps     *apps.Apps
	accounts *accounts.Accounts
	jobs     *river.Client[pgx.Tx]
}

// Mailer says where mail goes.
type Mailer struct {
	Address string // host:port of an SMTP server
	From    string
}

// Jobs are done in the background besides the gate's own.
type Jobs struct {
	Workers  []func(*river.Workers)
	Periodic []*river.PeriodicJob
}

// New gives the gate and starts the jobs, which run until the context ends.
func New(ctx context.Context, s *store.Store, a *apps.Apps, acc *accounts.Accounts, m Mailer, jobs Jobs) (*Gate, error) {
	workers := river.NewWorkers()
	for _, more := range jobs.Workers {
		more(workers)
	}
	river.AddWorker(workers, &codeWorker{apps: a, accounts: acc, mailer: m})
	client, err := river.NewClient(riverpgxv5.New(s.Pool), &river.Config{
		Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 8}}, Workers: workers, PeriodicJobs: jobs.Periodic,
		JobTimeout:    -1, // imports last as long as they last; the others have limits of their own
		FetchCooldown: 20 * time.Millisecond, FetchPollInterval: 500 * time.Millisecond,
		Logger: slog.New(slog.DiscardHandler), ErrorHandler: &jobErrors{},
	})
	if err != nil {
		return nil, fmt.Errorf("make job queue: %w", err)
	}
	if err := client.Start(ctx); err != nil {
		return nil, fmt.Errorf("start job queue: %w", err)
	}
	return &Gate{apps: a, accounts: acc, jobs: client}, nil
}

// Jobs gives the job queue, for what is to be done in the background.
func (g *Gate) Jobs() *river.Client[pgx.Tx] { return g.jobs }

// Stop waits for the jobs that run.
func (g *Gate) Stop(ctx context.Context) error { return g.jobs.Stop(ctx) }

// Ask has a code sent to the address, if it is that of a person of the live
// app.
func (g *Gate) Ask(ctx context.Context, app store.App, address, host string) error {
	email, err := g.address(address)
	if err != nil {
		return err
	}
	if err := g.limit(ctx, "code", app.ID+" "+email, host, codesPerPerson, codesPerHost); err != nil {
		return err
	}
	if _, err := g.jobs.Insert(ctx, codeJob{App: app.ID, Slug: app.Slug, Email: email}, nil); err != nil {
		return fmt.Errorf("ask for a code: %w", err)
	}
	return nil
}

// Enter takes a code and gives the token of a new session.
func (g *Gate) Enter(ctx context.Context, app store.App, address, code, host string) (string, error) {
	email, err := g.address(address)
	if err != nil {
		return "", err
	}
	if err := g.limit(ctx, "try", app.ID+" "+email, host, triesPerPerson, triesPerHost); err != nil {
		return "", err
	}
	if err := g.accounts.UseCode(ctx, app.ID, email, strings.TrimSpace(code)); err != nil {
		return "", err
	}
	seat, err := seats.Live(ctx, g.apps, app, email)
	if err != nil {
		return "", err
	}
	if !seat.Viewer.SignedIn() {
		return "", accounts.ErrRefused
	}
	return g.accounts.SignInPerson(ctx, app.ID, email)
}

// How many files may come from one network address in a window.
const (
	uploadsOfVisitor = 30
	uploadsOfPerson  = 300
)

// AllowUpload counts a file that somebody sends, and refuses those who send too
// many.
func (g *Gate) AllowUpload(ctx context.Context, app store.App, host string, signedIn bool) error {
	most := uploadsOfVisitor
	if signedIn {
		most = uploadsOfPerson
	}
	ok, err := g.accounts.Allow(ctx, "upload "+app.ID+" "+host, most, window)
	if err != nil {
		return err
	}
	if !ok {
		return &blueprint.Problem{Message: "Many files came from here already. Wait a quarter of an hour and try again."}
	}
	return nil
}

// Leave ends a session.
func (g *Gate) Leave(ctx context.Context, token string) error {
	return g.accounts.SignOut(ctx, token)
}

func (g *Gate) address(s string) (string, error) {
	raw, err := json.Marshal(s)
	if err != nil {
		return "", fmt.Errorf("read address: %w", err)
	}
	v, wrong := form.Accept(nil, &blueprint.Field{Type: blueprint.Email}, raw)
	if wrong != "" || v.IsEmpty() {
		return "", &blueprint.Problem{Message: "Enter an e-mail address, such as name@harbour.example."}
	}
	return strings.ToLower(v.Text), nil
}

func (g *Gate) limit(ctx context.Context, what, person, host string, perPerson, perHost int) error {
	for key, most := range map[string]int{what + " person " + person: perPerson, what + " host " + host: perHost} {
		ok, err := g.accounts.Allow(ctx, key, most, window)
		if err != nil {
			return err
		}
		if !ok {
			return ErrOften
		}
	}
	return nil
}

type codeJob struct {
	App   string `json:"app"`
	Slug  string `json:"slug"`
	Email string `json:"email"`
}

// Kind names the job in the queue.
func (codeJob) Kind() string { return "sign_in_code" }

// InsertOpts keeps a code that cannot be sent from being sent hours later.
func (codeJob) InsertOpts() river.InsertOpts { return river.InsertOpts{MaxAttempts: 4} }

// jobTime bounds how long the sending of a code may take.
const jobTime = time.Minute

// Timeout bounds the job.
func (*codeWorker) Timeout(*river.Job[codeJob]) time.Duration { return jobTime }

type codeWorker struct {
	river.WorkerDefaults[codeJob]
	apps     *apps.Apps
	accounts *accounts.Accounts
	mailer   Mailer
}

// Work makes a code and mails it, if somebody in the app has the address. Done
// twice it makes no second code, because the first is too young.
func (w *codeWorker) Work(ctx context.Context, job *river.Job[codeJob]) error {
	app, err := w.apps.BySlug(ctx, job.Args.Slug)
	if err != nil {
		return err
	}
	seat, err := seats.Live(ctx, w.apps, app, job.Args.Email)
	if err != nil {
		return err
	}
	if !seat.Viewer.SignedIn() {
		slog.InfoContext(ctx, "no code sent: nobody in the app has the address", "app", app.Slug)
		return nil
	}
	code, err := w.accounts.MakeCode(ctx, app.ID, job.Args.Email)
	if err != nil || code == "" {
		return err
	}
	return w.mailer.sendCode(ctx, app, seat.Viewer, job.Args.Email, code)
}

func (m Mailer) sendCode(ctx context.Context, app store.App, v access.Viewer, to, code string) error {
	message := mail.NewMsg()
	if err := message.FromFormat(app.Name, m.From); err != nil {
		return fmt.Errorf("set sender: %w", err)
	}
	if err := message.To(to); err != nil {
		return fmt.Errorf("set recipient: %w", err)
	}
	message.Subject(fmt.Sprintf("%s is your code for %s", code, app.Name))
	message.SetGenHeader(mail.Header(mailbox.AppHeader), app.ID)
	message.SetBodyString(mail.TypeTextPlain, fmt.Sprintf("Hello %s,\n\nyour code for signing in to %s is\n\n    %s\n\nIt holds for ten minutes and works once. If you did not ask for it, you need do nothing.\n", v.Name, app.Name, code))
	host, portText, err := net.SplitHostPort(m.Address)
	if err != nil {
		return fmt.Errorf("read mail server address: %w", err)
	}
	port, err := strconv.Atoi(portText)
	if err != nil {
		return fmt.Errorf("read mail server port: %w", err)
	}
	client, err := mail.NewClient(host, mail.WithPort(port), mail.WithTLSPolicy(mail.TLSOpportunistic), mail.WithTimeout(20*time.Second))
	if err != nil {
		return fmt.Errorf("make mail client: %w", err)
	}
	if err := client.DialAndSendWithContext(ctx, message); err != nil {
		return fmt.Errorf("send code: %w", err)
	}
	return nil
}
