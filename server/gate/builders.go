package gate

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/riverqueue/river"

	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/accounts"
)

// product is whose name mail to builders comes from.
const product = "Pine Gate"

// builderJob asks for mail to somebody who builds.
type builderJob struct {
	Purpose accounts.Purpose    `json:"purpose"`
	New     accounts.NewBuilder `json:"new"`
	Ticket  string              `json:"ticket,omitempty"`
}

// Kind names the job in the queue.
func (builderJob) Kind() string { return "builder_mail" }

// InsertOpts keeps mail that cannot be sent from being sent hours later.
func (builderJob) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: 4, Queue: mailQueue}
}

type builderWorker struct {
	river.WorkerDefaults[builderJob]
	gate *Gate
}

// Timeout bounds the job.
func (*builderWorker) Timeout(*river.Job[builderJob]) time.Duration { return jobTime }

// Work makes a code and mails it. Whether an address is known is told to its
// owner alone.
func (w *builderWorker) Work(ctx context.Context, job *river.Job[builderJob]) error {
	n := job.Args.New
	if job.Args.Purpose == accounts.ToRenew {
		code, name, err := w.gate.accounts.RenewalCode(ctx, n.Email, job.Args.Ticket)
		if err != nil || code == "" {
			return err
		}
		return w.gate.toBuilder(ctx, n.Email, "mail-renew", words.Args{"code": code, "name": name})
	}
	code, known, err := w.gate.accounts.ConfirmationCode(ctx, n, job.Args.Ticket)
	switch {
	case err != nil:
		return err
	case known:
		return w.gate.toBuilder(ctx, n.Email, "mail-known", words.Args{"address": w.gate.mailer.Base})
	case code == "":
		return nil
	}
	return w.gate.toBuilder(ctx, n.Email, "mail-confirm", words.Args{"code": code, "name": n.Name})
}

// toBuilder sends one of our own mails, by its code in the catalog of messages.
func (g *Gate) toBuilder(ctx context.Context, to, code string, args words.Args) error {
	for _, name := range []string{"name", "by", "workspace", "app"} {
		if s, ok := args[name].(string); ok {
			args[name] = blueprint.Plain(s)
		}
	}
	args["product"] = product
	m := blueprint.Mail{Subject: words.Say(code+"-subject", args), Body: words.Say(code, args)}
	return g.mailer.send(ctx, letter{name: product, to: to, mail: m, secret: true})
}

// SignUpBuilder has a code sent that confirms the address of somebody who wants
// to build, and gives the ticket that belongs to it.
func (g *Gate) SignUpBuilder(ctx context.Context, n accounts.NewBuilder, from From) (ticket string, err error) {
	if n.Email, err = address(n.Email); err != nil {
		return "", err
	}
	if err := g.limitAsking(ctx, from.builder(n.Email)); err != nil {
		return "", err
	}
	if n, err = g.accounts.PrepareBuilder(ctx, n); err != nil {
		return "", err
	}
	if ticket, err = accounts.NewTicket(); err != nil {
		return "", err
	}
	return ticket, g.askBuilder(ctx, builderJob{accounts.ToConfirm, n, ticket})
}

// RenewBuilder has a code sent by which a builder sets another password.
func (g *Gate) RenewBuilder(ctx context.Context, entered string, from From) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	if err := g.limitAsking(ctx, from.builder(email)); err != nil {
		return err
	}
	return g.askBuilder(ctx, builderJob{accounts.ToRenew, accounts.NewBuilder{Email: email}, from.Device})
}

func (g *Gate) askBuilder(ctx context.Context, job builderJob) error {
	if _, err := g.jobs.Insert(ctx, job, nil); err != nil {
		return fmt.Errorf("ask for mail: %w", err)
	}
	return nil
}

// AllowBuilder limits how often builders try codes and passwords.
func (g *Gate) AllowBuilder(ctx context.Context, entered string, from From) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	return g.limitTrying(ctx, from.builder(email))
}

// WrongBuilder counts a code of a builder that was refused.
func (g *Gate) WrongBuilder(ctx context.Context, entered string, from From, refused error) error {
	return g.wrong(ctx, from.builder(strings.ToLower(entered)), refused)
}

// RightBuilder takes back that a try was counted which was right, and where that let
// the builder in, knows the browser from now on.
func (g *Gate) RightBuilder(ctx context.Context, entered string, from From, in bool) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	if err := g.right(ctx, from.builder(email)); err != nil || !in {
		return err
	}
	return g.accounts.Know(ctx, "", email, from.Device)
}

// InviteBuilder mails an invitation to a workspace.
func (g *Gate) InviteBuilder(ctx context.Context, w accounts.Workspace, entered string, role store.MemberRole, by store.Builder) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	if err := g.limitAsking(ctx, From{Host: "workspace " + w.ID}.builder("workspace "+w.ID+" "+email)); err != nil {
		return err
	}
	if err := g.allowMail(ctx, w.ID, by); err != nil {
		return err
	}
	token, err := g.accounts.InviteBuilder(ctx, w.ID, email, role)
	if err != nil {
		return err
	}
	link := g.mailer.Base + "/join" + fragment(token, "")
	return g.toBuilder(ctx, email, "mail-invite", words.Args{"by": by.Name, "workspace": w.Name, "role": string(role), "link": link})
}
