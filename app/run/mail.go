package run

import (
	"context"
	"fmt"
	"net/mail"
	"time"

	"github.com/google/uuid"
	"github.com/riverqueue/river"

	"pinegate/app/mark"
	"pinegate/core/flow"
	"pinegate/core/words"
	"pinegate/store/apps"
	"pinegate/store/runs"
)

// mostTo is to how many addresses one step can send.
const mostTo = 1000

// mail puts a mail among those that go out when the unit is done, one to each address.
func (d *doing) mail(e *flow.Mail) error {
	if len(e.To) > mostTo {
		return words.New("flow-mails", "n", mostTo)
	}
	if _, bad := mail.ParseAddress(e.ReplyTo); e.ReplyTo != "" && bad != nil { // as none could be sent with it
		d.log.now().Text = words.Say("flow-no-reply", words.Args{"address": e.ReplyTo})
		e.ReplyTo = ""
	}
	plain := e.Body.Plain()
	d.log.now().Mail = &Mail{To: e.To, Subject: e.Subject, Plain: cut(plain)}
	html, err := mark.HTML(mark.Reader(), e.Body.As(mark.Literal))
	if err != nil {
		return err
	}
	for _, to := range e.To {
		id, err := uuid.NewV7()
		if err != nil {
			return fmt.Errorf("make the id of a mail: %w", err)
		}
		l := runs.Letter{ID: id.String(), AppID: d.start.App.ID, Place: string(d.start.Env), RunID: &d.run0.ID, Step: d.log.now().Step,
			Recipient: to, ReplyTo: e.ReplyTo, Subject: e.Subject, Plain: plain, HTML: html, Status: runs.Waiting, MadeAt: time.Now()}
		switch _, bad := mail.ParseAddress(to); {
		case bad != nil:
			why := words.Say("flow-no-address", words.Args{"address": to})
			l.Status, l.Error = runs.Refused, &why
		case d.start.Env == apps.Draft:
			l.Status = runs.Caught
		}
		d.letters = append(d.letters, l)
	}
	return nil
}

// cut keeps what is written down of a run small.
func cut(s string) string {
	const most = 2000
	if r := []rune(s); len(r) > most {
		return string(r[:most]) + "…"
	}
	return s
}

// LetterJob is a job: a mail of a workflow goes out.
type LetterJob struct {
	Letter string `json:"letter"`
}

// Kind names the job.
func (LetterJob) Kind() string { return "flow_letter" }

// mostTries is how often a mail, or a call of a service, is tried.
const mostTries = 10

// InsertOpts says how often it is tried: with growing pauses, for some 14 hours.
func (LetterJob) InsertOpts() river.InsertOpts {
	return river.InsertOpts{MaxAttempts: mostTries, Queue: LetterQueue}
}

// LetterQueue is the queue of mails that workflows send.
const LetterQueue = "letters"

// post puts the mails in the queue.
func (d *doing) post(ctx context.Context) error {
	var jobs []river.JobArgs
	for _, l := range d.letters {
		if l.Status == runs.Waiting {
			jobs = append(jobs, LetterJob{l.ID})
		}
	}
	return d.unit.Enqueue(ctx, jobs...)
}
