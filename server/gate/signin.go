package gate

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"pinegate/app/act"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/records"
)

// Visit is what every request to the gate comes with.
type Visit struct {
	App  store.App
	Seat *records.Seat // a visitor's, in the live app
	From
	Agent    string // what the browser says of itself
	Remember bool   // where people are asked
}

// Admission is how far somebody got.
type Admission struct {
	Token string // of the session, or ""
	Visit bool   // the session ends with the browser
	Hours int
	// Next is what comes now: in, second, enrol, or waiting.
	Next     string
	Second   blueprint.SecondStep
	Recovery []string // recovery codes, shown once
}

// Waiting is what comes next for those who have to be let in.
const Waiting = "waiting"

// tell has a mail sent, when a unit of work is done, that tells what it did.
func tell(ctx context.Context, u *act.Unit, app store.App, which blueprint.GateMail, to string, values map[string]string) error {
	raw, err := json.Marshal(told{which, values})
	if err != nil {
		return fmt.Errorf("write what is told: %w", err)
	}
	return u.Enqueue(ctx, mailJob{Slug: app.Slug, Purpose: toTell, Email: to, Data: raw})
}

func (v Visit) blueprint() *blueprint.Blueprint { return v.Seat.Blueprint }

func (g *Gate) ask(ctx context.Context, v Visit, job mailJob) error {
	job.Slug, job.Host = v.App.Slug, v.Host
	if _, err := g.jobs.Insert(ctx, job, nil); err != nil {
		return fmt.Errorf("ask for mail: %w", err)
	}
	return nil
}

// Ask has a code or a link sent to an address, if it is that of somebody.
func (g *Gate) Ask(ctx context.Context, v Visit, entered string, way blueprint.Way, to string) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	if err := open(v.blueprint(), way); err != nil {
		return err
	}
	if err := g.limitAsking(ctx, v.of(email)); err != nil {
		return err
	}
	if way == blueprint.CodeWay {
		return g.ask(ctx, v, mailJob{Purpose: accounts.ToSignIn, Email: email, Subject: accounts.Ticketed(email, v.Device)})
	}
	raw, err := json.Marshal(map[string]string{"to": to})
	if err != nil {
		return fmt.Errorf("write where a link leads: %w", err)
	}
	return g.ask(ctx, v, mailJob{Purpose: accounts.ToSignInLink, Email: email, Data: raw})
}

// Enter lets somebody in by a code.
func (g *Gate) Enter(ctx context.Context, v Visit, entered, code string) (Admission, error) {
	email, err := address(entered)
	if err != nil {
		return Admission{}, err
	}
	if err := open(v.blueprint(), blueprint.CodeWay); err != nil {
		return Admission{}, err
	}
	return g.enter(ctx, v, email, email, code)
}

// enter takes a code that was mailed to whoever the browser asked for. Only there it is
// worth something: a stranger's guesses count on the codes that the stranger asked for.
func (g *Gate) enter(ctx context.Context, v Visit, who, email, code string) (Admission, error) {
	var c carried
	if err := g.accounts.UseCode(ctx, accounts.Code{App: v.App.ID, Purpose: accounts.ToSignIn,
		Subject: accounts.Ticketed(who, v.Device)}, strings.TrimSpace(code), &c); err != nil {
		return Admission{}, g.refused(ctx, v, email, words.Say("note-code", nil), g.wrong(ctx, v.of(who), err))
	}
	return g.admit(ctx, v, accounts.Person{App: v.App.ID, Email: c.Email, Table: c.Table, Record: c.Record}, blueprint.CodeWay)
}

// refused notes that somebody was not let in; not each time, where it is too often.
func (g *Gate) refused(ctx context.Context, v Visit, email, what string, err error) error {
	if errors.Is(err, accounts.ErrOften) {
		return err
	}
	if err := g.accounts.Note(ctx, v.App.ID, email, v.Host, what); err != nil {
		return err
	}
	return err
}

// EnterByPassword lets somebody in by their password.
func (g *Gate) EnterByPassword(ctx context.Context, v Visit, entered, password string) (Admission, error) {
	email, err := address(entered)
	if err != nil {
		return Admission{}, err
	}
	if err := open(v.blueprint(), blueprint.PasswordWay); err != nil {
		return Admission{}, err
	}
	if err := g.limitTrying(ctx, v.of(email)); err != nil {
		return Admission{}, err
	}
	right, err := g.accounts.RightPassword(ctx, v.App.ID, email, password)
	if err != nil {
		return Admission{}, err
	}
	if !right {
		return Admission{}, g.refused(ctx, v, email, words.Say("note-password", nil), accounts.ErrRefused)
	}
	if err := g.right(ctx, v.of(email)); err != nil {
		return Admission{}, err
	}
	return g.admit(ctx, v, accounts.Person{App: v.App.ID, Email: email}, blueprint.PasswordWay)
}

// EnterByLink lets somebody in by a link that was mailed to them.
func (g *Gate) EnterByLink(ctx context.Context, v Visit, token string) (Admission, error) {
	if err := open(v.blueprint(), blueprint.LinkWay); err != nil {
		return Admission{}, err
	}
	l, err := g.accounts.UseLink(ctx, v.App.ID, accounts.ToSignInLink, token)
	if err != nil {
		return Admission{}, g.refused(ctx, v, "", words.Say("note-link", nil), g.wrong(ctx, v.of(""), err))
	}
	return g.admit(ctx, v, accounts.Person{App: v.App.ID, Email: l.Subject}, blueprint.LinkWay)
}

// Answers is what somebody gives who is found by fields.
type Answers struct {
	Role    string
	Answers []string
}

// subject stands for the answers, so that the code that follows is theirs.
func (a Answers) subject() (string, error) {
	var lower []string
	for _, x := range a.Answers {
		lower = append(lower, strings.ToLower(strings.TrimSpace(x)))
	}
	raw, err := json.Marshal([]any{a.Role, lower})
	if err != nil {
		return "", fmt.Errorf("read answers: %w", err)
	}
	h := sha256.Sum256(raw)
	return "answers " + hex.EncodeToString(h[:]), nil
}

// matched gives the role that is found by fields.
func matched(b *blueprint.Blueprint, a Answers) error {
	if err := open(b, blueprint.FieldsWay); err != nil {
		return err
	}
	r := b.Role(a.Role)
	if r == nil || len(r.Match) == 0 || len(a.Answers) != len(r.Match) {
		return words.New("gate-fill-in")
	}
	for _, x := range a.Answers {
		if strings.TrimSpace(x) == "" || len(x) > 500 || strings.ContainsRune(x, 0) {
			return words.New("gate-fill-in")
		}
	}
	return nil
}

// AskByFields has a code sent to whoever gives the right answers.
func (g *Gate) AskByFields(ctx context.Context, v Visit, a Answers) error {
	if err := matched(v.blueprint(), a); err != nil {
		return err
	}
	subject, err := a.subject()
	if err != nil {
		return err
	}
	if err := g.limitAsking(ctx, v.of(subject)); err != nil {
		return err
	}
	return g.ask(ctx, v, mailJob{Purpose: accounts.ToSignIn, Subject: accounts.Ticketed(subject, v.Device), Role: a.Role, Answers: a.Answers})
}

// EnterByFields lets somebody in by answers and the code that followed.
func (g *Gate) EnterByFields(ctx context.Context, v Visit, a Answers, code string) (Admission, error) {
	if err := matched(v.blueprint(), a); err != nil {
		return Admission{}, err
	}
	subject, err := a.subject()
	if err != nil {
		return Admission{}, err
	}
	in, err := g.enter(ctx, v, subject, "", code)
	if err != nil {
		return in, err
	}
	return in, g.accounts.Know(ctx, v.App.ID, subject, v.Device)
}

// stay says how long a session is to hold.
func stay(v Visit) accounts.Stay {
	s := v.blueprint().Gate.Session
	out := accounts.Stay{Hours: s.Length(), Prolonged: s.Prolonged, Visit: s.Each, Agent: v.Agent}
	if s.Asks && !v.Remember {
		out.Visit, out.Hours, out.Prolonged = true, min(out.Hours, blueprint.VisitHours), false
	}
	return out
}

// admit lets somebody in who proved who they are in a way, or says why not.
func (g *Gate) admit(ctx context.Context, v Visit, p accounts.Person, way blueprint.Way) (Admission, error) {
	b := v.blueprint()
	id, err := seats.Identify(ctx, g.apps.Road(ctx), v.Seat, &accounts.Session{Email: p.Email, PeopleTable: p.Table, RecordID: p.Record})
	if err != nil {
		return Admission{}, err
	}
	account, err := g.accounts.Of(ctx, v.App.ID, p.Email)
	if err != nil {
		return Admission{}, err
	}
	if err := g.keptOut(ctx, v, p, id, account); err != nil {
		return Admission{}, err
	}
	state, second := accounts.In, id.Second(b)
	switch {
	case second == blueprint.Authentic && account.TotpSecret == nil:
		state = accounts.Enrol
	case second == blueprint.Authentic, second == blueprint.MailCode && way == blueprint.PasswordWay:
		state = accounts.Second
	}
	how := stay(v)
	token, err := g.accounts.SignInPerson(ctx, p, state, how)
	if err != nil {
		return Admission{}, err
	}
	a := Admission{Token: token, Visit: how.Visit, Hours: how.Hours, Next: string(state), Second: second}
	switch {
	case state == accounts.In:
		err = g.isIn(ctx, v, &accounts.Session{Email: p.Email, PeopleTable: p.Table, RecordID: p.Record})
	case second == blueprint.MailCode:
		err = g.SendSecond(ctx, v, token)
	}
	return a, err
}

// keptOut says why somebody who proved who they are does not get in.
func (g *Gate) keptOut(ctx context.Context, v Visit, p accounts.Person, id records.Identity, account accounts.PersonAccount) error {
	title := v.blueprint().Gate.Says(blueprint.RefusalTitle)
	switch {
	case account.ClosedAt != nil:
		return g.refused(ctx, v, p.Email, words.Say("note-refused-closed", nil), &Refusal{title, words.Say("gate-closed", nil)})
	case id.In():
		return nil
	case len(id.Refused) > 0:
		role := v.blueprint().Role(id.Refused[0])
		text := role.Refusal
		if text == "" {
			text = blueprint.DefaultRefusal
		}
		return g.refused(ctx, v, p.Email, words.Say("note-refused-if", words.Args{"role": role.Name}), &Refusal{title, text})
	case len(id.Several) > 0:
		return g.refused(ctx, v, p.Email, words.Say("note-refused-several", nil), accounts.ErrRefused)
	}
	return g.refused(ctx, v, p.Email, words.Say("note-refused-none", nil), accounts.ErrRefused)
}

// unfinished gives the session of somebody whose signing in is not done.
func (g *Gate) unfinished(ctx context.Context, v Visit, token string, state accounts.State) (accounts.Session, error) {
	s, err := g.accounts.Session(ctx, v.App.ID, token)
	if err == nil && s.State != state {
		err = accounts.ErrRefused
	}
	return s, err
}

// SendSecond mails the code of the second step.
func (g *Gate) SendSecond(ctx context.Context, v Visit, token string) error {
	s, err := g.unfinished(ctx, v, token, accounts.Second)
	if err != nil {
		return err
	}
	if err := g.limitAsking(ctx, v.of(s.Email)); err != nil {
		return err
	}
	return g.ask(ctx, v, mailJob{Purpose: accounts.ToGoOn, Email: s.Email, Subject: s.ID})
}

// GoOn does the second step.
func (g *Gate) GoOn(ctx context.Context, v Visit, token, code string) (Admission, error) {
	s, err := g.unfinished(ctx, v, token, accounts.Second)
	if err != nil {
		return Admission{}, err
	}
	if err := g.limitTrying(ctx, v.of(s.Email)); err != nil {
		return Admission{}, err
	}
	id, err := seats.Identify(ctx, g.apps.Road(ctx), v.Seat, &s)
	if err != nil {
		return Admission{}, err
	}
	if id.Second(v.blueprint()) == blueprint.Authentic {
		err = g.accounts.UsePersonAuthenticator(ctx, v.App.ID, s.Email, code)
	} else {
		err = g.accounts.UseCode(ctx, accounts.Code{App: v.App.ID, Purpose: accounts.ToGoOn, Subject: s.ID}, strings.TrimSpace(code), nil)
	}
	if err != nil {
		return Admission{}, g.refused(ctx, v, s.Email, words.Say("note-second", nil), err)
	}
	return g.finish(ctx, v, token)
}

func (g *Gate) finish(ctx context.Context, v Visit, token string) (Admission, error) {
	next, s, err := g.accounts.Finish(ctx, token)
	if err != nil {
		return Admission{}, err
	}
	if err := g.right(ctx, v.of(s.Email)); err != nil {
		return Admission{}, err
	}
	return Admission{Token: next, Visit: s.Visit, Hours: s.Hours, Next: string(accounts.In)}, g.isIn(ctx, v, &s)
}

// isIn notes that somebody got in, knows the browser from now on, and starts what workflows start then.
func (g *Gate) isIn(ctx context.Context, v Visit, s *accounts.Session) error {
	if err := g.accounts.Know(ctx, v.App.ID, s.Email, v.Device); err != nil {
		return err
	}
	if err := g.accounts.Note(ctx, v.App.ID, s.Email, v.Host, words.Say("note-in", nil)); err != nil {
		return err
	}
	if !v.blueprint().FlowsOn(blueprint.SignsIn) {
		return nil
	}
	id, err := seats.Identify(ctx, g.apps.Road(ctx), v.Seat, s)
	if err != nil {
		return err
	}
	return g.acts.Do(ctx, func(u *act.Unit) error {
		u.Came(v.Seat, blueprint.SignsIn, act.Person{In: id.Viewer.Memberships, Email: s.Email, Name: id.Viewer.Name, By: s.Email})
		return nil
	})
}

// Setup gives what somebody needs to set up their authenticator.
func (g *Gate) Setup(ctx context.Context, v Visit, token string) (accounts.Setup, error) {
	s, err := g.unfinished(ctx, v, token, accounts.Enrol)
	if err != nil {
		return accounts.Setup{}, err
	}
	secret, err := g.accounts.StartEnrolling(ctx, s)
	if err != nil {
		return accounts.Setup{}, err
	}
	return accounts.SetupOf(secret, v.blueprint().Name, s.Email)
}

// Enrol ends the setting up of an authenticator with its first code.
func (g *Gate) Enrol(ctx context.Context, v Visit, token, code string) (Admission, error) {
	s, err := g.unfinished(ctx, v, token, accounts.Enrol)
	if err != nil {
		return Admission{}, err
	}
	if err := g.limitTrying(ctx, v.of(s.Email)); err != nil {
		return Admission{}, err
	}
	recovery, err := g.accounts.EnrolPerson(ctx, v.App.ID, s, code)
	if err != nil {
		return Admission{}, g.refused(ctx, v, s.Email, words.Say("note-enrol", nil), err)
	}
	a, err := g.finish(ctx, v, token)
	a.Recovery = recovery
	return a, err
}

// AskReset has a code sent by which a password is set.
func (g *Gate) AskReset(ctx context.Context, v Visit, entered string) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	if err := open(v.blueprint(), blueprint.PasswordWay); err != nil {
		return err
	}
	if err := g.limitAsking(ctx, v.of(email)); err != nil {
		return err
	}
	return g.ask(ctx, v, mailJob{Purpose: accounts.ToReset, Email: email, Subject: accounts.Ticketed(email, v.Device)})
}

// Reset sets a password by a code. All sessions end, and one signs in as always.
func (g *Gate) Reset(ctx context.Context, v Visit, entered, code, password string) error {
	email, err := address(entered)
	if err != nil {
		return err
	}
	if err := open(v.blueprint(), blueprint.PasswordWay); err != nil {
		return err
	}
	var c carried
	proof, err := g.accounts.TryCode(ctx, accounts.Code{App: v.App.ID, Purpose: accounts.ToReset,
		Subject: accounts.Ticketed(email, v.Device)}, strings.TrimSpace(code), &c)
	if err != nil {
		return g.refused(ctx, v, email, words.Say("note-reset", nil), g.wrong(ctx, v.of(email), err))
	}
	hash, err := g.accounts.HashOf(ctx, password, email, v.blueprint().Name)
	if err != nil {
		return err
	}
	return g.acts.Do(ctx, func(u *act.Unit) error {
		if err := g.accounts.In(u.Tx).Spend(ctx, proof); err != nil {
			return err
		}
		return g.keepPasswordIn(ctx, u, v, email, c.Name, hash, "")
	})
}

// keepPassword keeps a new password, ends other sessions, and tells the person.
func (g *Gate) keepPassword(ctx context.Context, v Visit, email, name, hash, session string) error {
	return g.acts.Do(ctx, func(u *act.Unit) error { return g.keepPasswordIn(ctx, u, v, email, name, hash, session) })
}

func (g *Gate) keepPasswordIn(ctx context.Context, u *act.Unit, v Visit, email, name, hash, session string) error {
	acc := g.accounts.In(u.Tx)
	if err := acc.KeepPassword(ctx, v.App.ID, email, hash); err != nil {
		return err
	}
	if err := acc.EndAll(ctx, v.App.ID, email, session); err != nil {
		return err
	}
	if err := acc.Note(ctx, v.App.ID, email, v.Host, words.Say("note-new-password", nil)); err != nil {
		return err
	}
	what := words.Say("account-password-changed", words.Args{"app": blueprint.Plain(v.blueprint().Name)})
	return tell(ctx, u, v.App, blueprint.ChangedMail, email, map[string]string{"name": name, "what": what})
}
