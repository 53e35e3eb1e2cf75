package run

import (
	"context"
	"fmt"
	"net/mail"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/riverqueue/river"

	"pinegate/app/mark"
	"pinegate/core/flow"
	"pinegate/core/words"
	"pinegate/store/apps"
	"pinegate/store/records"
	"pinegate/store/runs"
)

// mostTo is to how many addresses one step can send.
const mostTo = 1000

// mail puts a mail among those that go out when the unit is done, one to each address.
func (d *doing) mail(ctx context.Context, e *flow.Mail) error {
	if len(e.To) > mostTo {
		return words.New("flow-mails", "n", mostTo)
	}
	if _, bad := mail.ParseAddress(e.ReplyTo); e.ReplyTo != "" && bad != nil { // as none could be sent with it
		d.log.now().Text = words.Say("flow-no-reply", words.Args{"address": e.ReplyTo})
		e.ReplyTo = ""
	}
	attached, shown, err := d.attached(ctx, e)
	if err != nil {
		return err
	}
	left := map[string]bool{}
	if e.Leave {
		left, err = runs.In(d.unit.Tx).Left(ctx, d.start.App.ID, string(d.start.Env), d.start.Workflow.ID, e.To)
		if err != nil {
			return err
		}
	}
	plain := e.Whole(func(s string) string { return s })
	told := &Mail{To: e.To, Subject: e.Subject, Plain: cut(plain), Files: records.Names(attached), Shown: records.Names(shown)}
	d.log.now().Mail = told
	html, err := mark.HTML(mark.Reader(), e.Whole(mark.Literal))
	if err != nil {
		return err
	}
	for _, to := range e.To {
		id, err := uuid.NewV7()
		if err != nil {
			return fmt.Errorf("make the id of a mail: %w", err)
		}
		l := runs.Letter{ID: id.String(), AppID: d.start.App.ID, Place: string(d.start.Env), RunID: &d.run0.ID, Step: d.log.now().Step,
			Workflow: d.start.Workflow.ID, Files: attached, Head: e.Head, Pictures: shown, WayOut: e.Leave, Recipient: to, ReplyTo: e.ReplyTo,
			Subject: e.Subject, Plain: plain, HTML: html, Status: runs.Waiting, MadeAt: time.Now()}
		switch _, bad := mail.ParseAddress(to); {
		case bad != nil:
			why := words.Say("flow-no-address", words.Args{"address": to})
			l.Status, l.Error = runs.Refused, &why
		case left[strings.ToLower(to)]:
			l.Status = runs.Unwanted
			told.Left = append(told.Left, to)
		case d.start.Env == apps.Draft:
			l.Status = runs.Caught
		}
		d.letters = append(d.letters, l)
	}
	return nil
}

// How many files go with a mail at most, those that it shows among them, and how many bytes of them.
const (
	mostAttached     = 10
	mostAttachedSize = 20 << 20
)

// attached gives what is known of the files that go with a mail, and of those that are shown in it: what is no picture
// is attached instead.
func (d *doing) attached(ctx context.Context, e *flow.Mail) (files, shown []records.File, err error) {
	ids := slices.Concat(e.Files, e.Pictures)
	if len(ids) == 0 {
		return nil, nil, nil
	}
	list, err := d.road.FilesOf(ctx, d.seat, ids)
	if err != nil {
		return nil, nil, err
	}
	size := int64(0)
	for _, f := range list {
		picture := f.Picture && slices.Contains(e.Pictures, f.ID)
		if picture {
			shown = append(shown, f)
		}
		if !picture || slices.Contains(e.Files, f.ID) {
			files, size = append(files, f), size+f.Size
		}
	}
	if len(list) > mostAttached || size > mostAttachedSize {
		return nil, nil, words.New("flow-attached", "n", mostAttached, "mb", mostAttachedSize>>20)
	}
	return files, shown, nil
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
