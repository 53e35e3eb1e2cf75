package gate

import (
	"context"
	"errors"
	"time"

	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/accounts"
)

// window is the span of time in which is counted.
const window = 15 * time.Minute

// Most of each in a window. What is wrong from one network address so bounds what
// strangers there may do to one person, and what all of them may do at one app; what is
// wrong from everywhere bounds what is guessed by many together.
const (
	asksHere   = 6   // mails for one person, asked for at one network address
	asksAll    = 24  // for one person, from everywhere
	asksHost   = 200 // from one network address at one app
	triesHere  = 15  // of what is wrong, for one person at one network address
	triesAll   = 60  // for one person, from everywhere
	triesHost  = 100 // from one network address at one app
	asksKnown  = 12  // from a browser in which the person was let in before: others' do not count there
	triesKnown = 30
)

// From is where a request comes from.
type From struct {
	Host   string // network address
	Device string // token by which the browser is known, or ""
}

// caller is who asks for something or tries something, and for whom.
type caller struct {
	From
	app string // id, or "" for builders
	who string // the address, or by what else somebody is found; "" where it is not told
}

// of gives the caller of a visit, for somebody.
func (v Visit) of(who string) caller { return caller{v.From, v.App.ID, who} }

// builder gives the caller who says to be a builder.
func (f From) builder(email string) caller { return caller{f, "", email} }

// day is the span of time in which mails are counted that go to whomever somebody likes.
const day = 24 * time.Hour

// Most mails in a day that one builder has sent to addresses that they enter, and that go
// to people who are not known yet, of all apps of a workspace.
const (
	mailsOfBuilder   = 100
	mailsOfWorkspace = 1000
)

// allowMail counts a mail that a builder has sent to an address.
func (g *Gate) allowMail(ctx context.Context, workspace string, by store.Builder) error {
	counts := []count{{"mail builder " + by.ID, mailsOfBuilder, day}, {"mail workspace " + workspace, mailsOfWorkspace, day}}
	return often(g.limit(ctx, counts, nil), "gate-many-mails")
}

// allowNew counts a mail to somebody who is not known in an app yet.
func (g *Gate) allowNew(ctx context.Context, app store.App) error {
	return often(g.limit(ctx, []count{{"mail workspace " + app.WorkspaceID, mailsOfWorkspace, day}}, nil), "gate-many-new")
}

// often says in words what there was too much of.
func often(err error, code string) error {
	if errors.Is(err, accounts.ErrOften) {
		err = errors.Join(err, words.New(code))
	}
	return err
}

// count is one thing that is counted, and how often it may be in a span of time.
type count struct {
	key    string
	most   int
	window time.Duration
}

// counts gives what is counted of a caller.
func (g *Gate) counts(ctx context.Context, what string, c caller, here, all, host, known int) ([]count, error) {
	is, err := g.accounts.Knows(ctx, c.app, c.who, c.Device)
	if err != nil {
		return nil, err
	}
	if at := what + " " + c.app + " "; is {
		return []count{{at + "device " + accounts.Device(c.Device) + " " + c.who, known, window}}, nil
	} else if c.who == "" {
		return []count{{at + "host " + c.Host, host, window}}, nil
	} else { // what is counted first holds those off who would use up what is counted next
		list := []count{{at + "here " + c.Host + " " + c.who, here, window}, {at + "host " + c.Host, host, window}}
		if all > 0 {
			list = append(list, count{at + "person " + c.who, all, window})
		}
		return list, nil
	}
}

func (g *Gate) asks(ctx context.Context, c caller) ([]count, error) {
	return g.counts(ctx, "code", c, asksHere, asksAll, asksHost, asksKnown)
}

func (g *Gate) tries(ctx context.Context, c caller) ([]count, error) {
	return g.counts(ctx, "try", c, triesHere, triesAll, triesHost, triesKnown)
}

func (g *Gate) limit(ctx context.Context, counts []count, err error) error {
	if err != nil {
		return err
	}
	for _, x := range counts {
		ok, err := g.accounts.Allow(ctx, x.key, x.most, x.window)
		if err != nil {
			return err
		}
		if !ok {
			return accounts.ErrOften
		}
	}
	return nil
}

// limitAsking limits how often mail is asked for.
func (g *Gate) limitAsking(ctx context.Context, c caller) error {
	counts, err := g.asks(ctx, c)
	return g.limit(ctx, counts, err)
}

// limitTrying limits how often codes and passwords are tried.
func (g *Gate) limitTrying(ctx context.Context, c caller) error {
	counts, err := g.tries(ctx, c)
	return g.limit(ctx, counts, err)
}

// wrong counts a code that was refused. It is counted once it was: the tries of a code
// count on that code, which only the browser that asked for it has, so that what is
// right is let in whatever others do.
func (g *Gate) wrong(ctx context.Context, c caller, refused error) error {
	if !errors.Is(refused, accounts.ErrRefused) {
		return refused
	}
	counts, err := g.counts(ctx, "wrong", c, triesHere, 0, triesHost, triesKnown)
	if err := g.limit(ctx, counts, err); err != nil {
		return err
	}
	return refused
}

// right takes back that a try was counted which was right.
func (g *Gate) right(ctx context.Context, c caller) error {
	counts, err := g.tries(ctx, c)
	for _, x := range counts {
		err = errors.Join(err, g.accounts.Forgive(ctx, x.key, x.window))
	}
	return err
}

// How many files and forms may come in a window: from one network address of those who
// are not signed in, from all of these together at one app, and from a person.
const (
	uploadsOfVisitor  = 30
	uploadsOfVisitors = 600
	uploadsOfPerson   = 300
	formsOfVisitor    = 60
	formsOfVisitors   = 1200
	formsOfPerson     = 600
)

// AllowUpload counts a file that somebody sends, and refuses those who send too
// many. Person is who is signed in, or "".
func (g *Gate) AllowUpload(ctx context.Context, app store.App, from From, person string) error {
	return g.allow(ctx, "upload", app, from, person, uploadsOfVisitor, uploadsOfVisitors, uploadsOfPerson, "gate-many-files")
}

// AllowForm is [Gate.AllowUpload] for a form that is sent.
func (g *Gate) AllowForm(ctx context.Context, app store.App, from From, person string) error {
	return g.allow(ctx, "form", app, from, person, formsOfVisitor, formsOfVisitors, formsOfPerson, "gate-many-forms")
}

func (g *Gate) allow(ctx context.Context, what string, app store.App, from From, person string, one, all, signedIn int, told string) error {
	at := what + " " + app.ID + " "
	counts := []count{{at + "host " + from.Host, one, window}, {at + "visitors", all, window}}
	if person != "" {
		counts = []count{{at + "person " + person, signedIn, window}}
	}
	return often(g.limit(ctx, counts, nil), told)
}
