package gate

import (
	"context"
	"encoding/json"
	"errors"
	"log/slog"
	"net/url"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"

	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/records"
)

// jobErrors logs jobs that fail; the queue tries them again.
type jobErrors struct{}

// HandleError logs an error.
func (*jobErrors) HandleError(ctx context.Context, job *rivertype.JobRow, err error) *river.ErrorHandlerResult {
	slog.ErrorContext(ctx, "job failed", "kind", job.Kind, "attempt", job.Attempt, "error", err)
	return nil
}

// HandlePanic logs a panic.
func (*jobErrors) HandlePanic(ctx context.Context, job *rivertype.JobRow, value any, trace string) *river.ErrorHandlerResult {
	slog.ErrorContext(ctx, "job panicked", "kind", job.Kind, "value", value, "trace", trace)
	return nil
}

// mailJob asks for mail that lets somebody go on. Who that is, is found out when
// it is done.
type mailJob struct {
	Slug    string           `json:"slug"`
	Purpose accounts.Purpose `json:"purpose"`
	Email   string           `json:"email,omitempty"`
	Subject string           `json:"subject,omitempty"` // of the code, where it is not the address
	Role    string           `json:"role,omitempty"`
	Answers []string         `json:"answers,omitempty"`
	Data    json.RawMessage  `json:"data,omitempty"` // that the code carries
	Host    string           `json:"host"`
}

// toTell is the purpose of mail that proves nothing.
const toTell accounts.Purpose = "tell"

// told is a mail that only tells something.
type told struct {
	Which  blueprint.GateMail `json:"which"`
	Values map[string]string  `json:"values"`
}

// Kind names the job in the queue.
func (mailJob) Kind() string { return "gate_mail" }

// InsertOpts keeps mail that cannot be sent from being sent hours later.
func (mailJob) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: 4, Queue: mailQueue}
}

// jobTime bounds how long the sending of a mail may take.
const jobTime = time.Minute

type mailWorker struct {
	river.WorkerDefaults[mailJob]
	gate *Gate
}

// Timeout bounds the job.
func (*mailWorker) Timeout(*river.Job[mailJob]) time.Duration { return jobTime }

// Work finds whom the job is about, makes a code or a link and mails it. Done
// twice it makes no second code, because the first is too young.
func (w *mailWorker) Work(ctx context.Context, job *river.Job[mailJob]) error {
	app, err := w.gate.apps.BySlug(ctx, job.Args.Slug)
	if errors.Is(err, store.ErrNotFound) { // removed meanwhile
		return nil
	}
	if err != nil {
		return err
	}
	seat, err := seats.Empty(ctx, w.gate.apps, app)
	if err != nil {
		return err
	}
	d := delivery{w.gate, app, seat, job.Args}
	switch job.Args.Purpose {
	case accounts.ToSignIn, accounts.ToReset, accounts.ToGoOn, accounts.ToSignInLink:
		return d.toSomebody(ctx)
	case accounts.ToSignUp:
		return d.code(ctx, blueprint.ConfirmMail, d.Email, "", d.Data)
	case accounts.ToMove:
		return d.move(ctx)
	case accounts.ToInvite:
		var to invited
		if err := json.Unmarshal(d.Data, &to); err != nil {
			return err
		}
		return w.gate.sendInvitation(ctx, app, seat.Blueprint, d.Email, to)
	case toTell:
		var t told
		if err := json.Unmarshal(d.Data, &t); err != nil {
			return err
		}
		return w.gate.sendOf(ctx, app, seat.Blueprint, t.Which, d.Email, t.Values)
	}
	return nil
}

// delivery is a job that is being done.
type delivery struct {
	gate *Gate
	app  store.App
	seat *records.Seat
	mailJob
}

func (d delivery) note(ctx context.Context, what string) error {
	return d.gate.accounts.Note(ctx, d.app.ID, d.Email, d.Host, what)
}

// carried is what a code or link to sign in carries.
type carried struct {
	Email  string `json:"email"`
	Table  string `json:"table,omitempty"`
	Record string `json:"record,omitempty"`
	Name   string `json:"name,omitempty"`
}

// find finds whom mail is asked for.
func (d delivery) find(ctx context.Context) (records.Identity, carried, error) {
	road := d.gate.apps.Road(ctx)
	role := d.seat.Blueprint.Role(d.Role)
	if role == nil {
		id, err := road.PeopleWith(ctx, d.seat, d.Email)
		return id, carried{Email: d.Email}, err
	}
	id, err := road.PersonAnswering(ctx, d.seat, role, d.Answers)
	c := carried{Email: id.Email}
	for _, m := range id.Found {
		if m.Role == role.ID {
			c.Table, c.Record = role.People, m.Record
		}
	}
	return id, c, err
}

// toSomebody mails somebody who has to be known.
func (d delivery) toSomebody(ctx context.Context) error {
	id, c, err := d.find(ctx)
	if err != nil {
		return err
	}
	switch {
	case len(id.Found) == 0 && len(id.Several) > 0:
		return d.note(ctx, words.Say("note-several-answers", nil))
	case len(id.Found) == 0 || id.Email == "":
		return d.note(ctx, words.Say("note-no-answers", nil))
	}
	c.Name = id.Viewer.Name
	if d.Purpose == accounts.ToSignInLink {
		return d.link(ctx, c)
	}
	raw, err := json.Marshal(c)
	if err != nil {
		return err
	}
	if d.Purpose == accounts.ToReset {
		return d.code(ctx, blueprint.ResetMail, c.Email, c.Name, raw)
	}
	return d.code(ctx, blueprint.CodeMail, c.Email, c.Name, raw)
}

// code mails a code.
func (d delivery) code(ctx context.Context, which blueprint.GateMail, to, name string, data json.RawMessage) error {
	subject := d.Subject
	if subject == "" {
		subject = d.Email
	}
	code, err := d.gate.accounts.MakeCode(ctx, accounts.Code{App: d.app.ID, Purpose: d.Purpose, Subject: subject}, data)
	if err != nil || code == "" {
		return err
	}
	return d.gate.sendOf(ctx, d.app, d.seat.Blueprint, which, to, map[string]string{"name": name, "code": code})
}

// fragment is the end of an address that carries a token. What stands behind the
// # is not sent to servers, so that it does not get into their logs.
func fragment(token, to string) string {
	v := url.Values{"token": {token}}
	if to != "" {
		v.Set("to", to)
	}
	return "#" + v.Encode()
}

// linkLife is how long a link to sign in holds.
const linkLife = 10 * time.Minute

// link mails a link to sign in.
func (d delivery) link(ctx context.Context, c carried) error {
	var to struct{ To string }
	if len(d.Data) > 0 {
		if err := json.Unmarshal(d.Data, &to); err != nil {
			return err
		}
	}
	raw, err := json.Marshal(c)
	if err != nil {
		return err
	}
	token, err := d.gate.accounts.MakeLink(ctx, accounts.Link{AppID: &d.app.ID, Purpose: accounts.ToSignInLink, Subject: c.Email,
		Data: raw}, linkLife)
	if err != nil {
		return err
	}
	return d.gate.sendOf(ctx, d.app, d.seat.Blueprint, blueprint.LinkMail, c.Email,
		map[string]string{"name": c.Name, "link": d.gate.mailer.link(d.app, "link") + fragment(token, to.To)})
}

// move mails a code to an address that somebody wants to be known by, unless it
// is somebody's.
func (d delivery) move(ctx context.Context) error {
	id, err := d.gate.apps.Road(ctx).PeopleWith(ctx, d.seat, d.Email)
	if err != nil {
		return err
	}
	if len(id.Found) > 0 || len(id.Several) > 0 {
		return d.note(ctx, words.Say("note-move-taken", nil))
	}
	return d.code(ctx, blueprint.AddressMail, d.Email, "", d.Data)
}
