package blueprint

import (
	"strings"

	"pinegate/core/expr"
	"pinegate/core/prop"
)

// Gate is how people get into the app. The zero value lets them in with a code
// by mail.
type Gate struct {
	Ways    []Way           `json:"ways,omitempty"` // none means [CodeWay] alone
	Session SessionSettings `json:"session,omitzero"`
	// Sender is the name from which mail comes, Address the mail address; empty
	// for the app's name and the server's address.
	Sender  string `json:"sender,omitempty"`
	Address string `json:"address,omitempty"`
	// Words and Mails replace what the screens and mails of the gate say.
	Words map[GateWords]string `json:"words,omitempty"`
	Mails map[GateMail]Mail    `json:"mails,omitempty"`
	Terms Terms                `json:"terms,omitzero"`
}

// Way is a way to prove who one is.
type Way string

// The ways in.
const (
	CodeWay     Way = "code"     // a six-digit code by mail
	PasswordWay Way = "password" // e-mail and password
	LinkWay     Way = "link"     // a link by mail
	FieldsWay   Way = "fields"   // fields that point to one record, and then a code by mail
)

// WaysIn lists the ways that are open.
func (g Gate) WaysIn() []Way {
	if len(g.Ways) == 0 {
		return []Way{CodeWay}
	}
	return g.Ways
}

// Lets tells whether a way is open.
func (g Gate) Lets(w Way) bool {
	for _, x := range g.WaysIn() {
		if x == w {
			return true
		}
	}
	return false
}

// SessionSettings say how long somebody stays signed in.
type SessionSettings struct {
	Hours int `json:"hours,omitempty"` // 0 means [DefaultSessionHours]
	// Prolonged sessions begin anew whenever they are used.
	Prolonged bool `json:"prolonged,omitempty"`
	// Each visit signs in anew: the session ends with the browser.
	Each bool `json:"each,omitempty"`
	// Asks lets people say whether to be remembered; who is not, signs in anew
	// at each visit.
	Asks bool `json:"asks,omitempty"`
}

// How long a session holds unless the founder says otherwise, how long it can,
// and how long one does that ends with the browser.
const (
	DefaultSessionHours = 30 * 24
	MostSessionHours    = 365 * 24
	VisitHours          = 12
)

// Length is how many hours a session holds.
func (s SessionSettings) Length() int {
	switch {
	case s.Each && (s.Hours == 0 || s.Hours > VisitHours):
		return VisitHours
	case s.Hours == 0:
		return DefaultSessionHours
	}
	return s.Hours
}

// Terms are what people accept when they sign up. Without a version there are
// none.
type Terms struct {
	Version string `json:"version,omitempty"`
	Text    string `json:"text,omitempty"`
	Privacy string `json:"privacy,omitempty"`
}

// SecondStep is what is asked after a password, or after any other way for an
// authenticator.
type SecondStep string

// The second steps.
const (
	NoSecond  SecondStep = ""
	MailCode  SecondStep = "mail" // a code by mail, after a password
	Authentic SecondStep = "app"  // a code of an authenticator app, RFC 6238
)

// Stronger gives the one of two second steps that asks for more.
func (s SecondStep) Stronger(t SecondStep) SecondStep {
	if s == Authentic || t == NoSecond {
		return s
	}
	return t
}

// SignUpMode says who may sign up.
type SignUpMode string

// The modes of signing up.
const (
	NoSignUp SignUpMode = ""
	Open     SignUpMode = "open"
	Invited  SignUpMode = "invited"
	Approved SignUpMode = "approved" // open, and let in when somebody approved of it
)

// SignUp is how new people come to a role. Blocks are what it asks for, Presets what the
// server fills in.
type SignUp struct {
	Mode    SignUpMode   `json:"mode,omitempty"`
	Blocks  Blocks       `json:"blocks,omitempty"`
	Presets []prop.Given `json:"presets,omitempty"`
}

// Profile is what people of a role find about themselves. What of it they see
// and change is decided by their rules.
type Profile struct {
	Blocks  Blocks  `json:"blocks,omitempty"`
	Closing Closing `json:"closing,omitempty"`
}

// Closing says what becomes of somebody's record when they close their account.
type Closing string

// What closing an account does.
const (
	NoClosing     Closing = ""
	ClosingKeeps  Closing = "keep"   // the record stays
	ClosingBinned Closing = "delete" // it goes to the bin
)

// GateWords names a text on a screen of the gate.
type GateWords string

// The texts on the screens of the gate.
const (
	SignInTitle  GateWords = "sign-in title"
	SignInText   GateWords = "sign-in text"
	SentText     GateWords = "sent text"
	SignUpTitle  GateWords = "sign-up title"
	SignUpText   GateWords = "sign-up text"
	WaitingText  GateWords = "waiting text"
	RefusalTitle GateWords = "refusal title"
)

// WordsOfGate lists the texts on the pages of the gate.
func WordsOfGate() []GateWords {
	var out []GateWords
	for _, w := range wordsOfGate {
		out = append(out, w.GateWords)
	}
	return out
}

// Says gives a text of a screen.
func (g Gate) Says(name GateWords) string {
	if own := g.Words[name]; own != "" {
		return own
	}
	for _, w := range wordsOfGate {
		if w.GateWords == name {
			return w.says
		}
	}
	return ""
}

// DefaultRefusal is what somebody reads who is not let in, unless the role says
// otherwise.
const DefaultRefusal = "You have an account, but you can’t sign in at the moment. Please get in touch with us."

// GateMail names a mail of the gate.
type GateMail string

// The mails of the gate.
const (
	CodeMail       GateMail = "code"
	LinkMail       GateMail = "link"
	ConfirmMail    GateMail = "confirm"
	InvitationMail GateMail = "invitation"
	ResetMail      GateMail = "reset"
	AddressMail    GateMail = "address"
	ChangedMail    GateMail = "changed"
	ApprovedMail   GateMail = "approved"
)

// Mail is a mail with placeholders; what is empty in it says what it does anyway.
type Mail struct {
	Subject string `json:"subject,omitempty"`
	Body    string `json:"body,omitempty"`
}

// GateMails lists the mails of the gate in the order in which they are shown.
func GateMails() []GateMail {
	var out []GateMail
	for _, m := range mailsOfGate {
		out = append(out, m.GateMail)
	}
	return out
}

// MailCalled says what a mail of the gate is about, for choosing one.
func MailCalled(m GateMail) string {
	for _, row := range mailsOfGate {
		if row.GateMail == m {
			return strings.ToUpper(row.words[:1]) + row.words[1:]
		}
	}
	return ""
}

// MailOf gives a mail of the gate, as far as it is reworded.
func (g Gate) MailOf(m GateMail) Mail {
	out := g.Mails[m]
	for _, row := range mailsOfGate {
		if row.GateMail == m && out.Subject == "" {
			out.Subject = row.subject
		}
		if row.GateMail == m && strings.TrimSpace(out.Body) == "" {
			out.Body = row.body
		}
	}
	return out
}

// mailTable is the id of the table that stands for what mails can name.
const mailTable = "mail"

// mailFields lists what a mail can name besides the app and the person.
func mailFields(m GateMail) []string {
	switch m {
	case LinkMail, InvitationMail, ApprovedMail:
		return []string{"app", "name", "link"}
	case ChangedMail:
		return []string{"app", "name", "what"}
	}
	return []string{"app", "name", "code"}
}

// MailScope is the scope of the placeholders of a mail of the gate.
func MailScope(m GateMail) expr.Scope {
	t := &expr.Table{ID: mailTable, Key: mailTable, Name: "Mail"}
	for _, key := range mailFields(m) {
		t.Fields = append(t.Fields, &expr.Field{ID: key, Key: key, Name: strings.ToUpper(key[:1]) + key[1:], Table: mailTable,
			Type: expr.Type{Kind: expr.Text}})
	}
	return expr.Scope{Catalog: &expr.Catalog{Tables: map[string]*expr.Table{mailTable: t}, Lists: map[string]*expr.ChoiceList{}}, Row: mailTable}
}

// mailEnv answers placeholders of a mail.
type mailEnv struct {
	values map[string]string
	clock  expr.Clock
}

func (e mailEnv) Start(expr.Root) expr.Value { return expr.RecordOf(mailTable) }
func (e mailEnv) Field(_ expr.Value, f *expr.Field) expr.Value {
	if e.values[f.ID] == "" {
		return expr.Empty()
	}
	if f.ID == "app" || f.ID == "name" {
		return expr.TextOf(Plain(e.values[f.ID]))
	}
	return expr.TextOf(e.values[f.ID])
}
func (e mailEnv) Records(string) []expr.Value         { return nil }
func (e mailEnv) Label(string, expr.Value) expr.Value { return expr.Empty() }
func (e mailEnv) Clock() expr.Clock                   { return e.clock }

// Fill writes a mail of the gate: the values by the names of the placeholders. Names are
// made [Plain].
func (g Gate) Fill(m GateMail, values map[string]string, clock expr.Clock) (Mail, error) {
	words := g.MailOf(m)
	scope := MailScope(m)
	fill := func(src string) (string, error) {
		t, err := expr.CheckTemplate(src, scope)
		if err != nil {
			return "", err
		}
		var texts []string
		for _, c := range t.Checked() {
			texts = append(texts, expr.Eval(c, scope.Catalog, mailEnv{values, clock}).String())
		}
		return t.Text(texts), nil
	}
	subject, err := fill(words.Subject)
	if err != nil {
		return Mail{}, err
	}
	body, err := fill(words.Body)
	return Mail{strings.Join(strings.Fields(subject), " "), body}, err
}

// PeopleScope is the scope of conditions over the record of a person.
func (b *Blueprint) PeopleScope(r *Role, catalog *expr.Catalog) expr.Scope {
	return expr.Scope{Catalog: catalog, Row: r.People}
}

// SignUpScope is the scope of what the server fills in for those who sign up.
func (b *Blueprint) SignUpScope(catalog *expr.Catalog) expr.Scope {
	return expr.Scope{Catalog: catalog}
}

// IsZero tells whether nothing is said of the gate.
func (g Gate) IsZero() bool {
	return len(g.Ways)+len(g.Words)+len(g.Mails) == 0 && g.Session == (SessionSettings{}) && g.Sender+g.Address == "" &&
		g.Terms == (Terms{})
}

// IsZero tells whether nothing is said of signing up.
func (s SignUp) IsZero() bool {
	return s.Mode == NoSignUp && len(s.Blocks)+len(s.Presets) == 0
}

// IsZero tells whether nothing is said of the profile.
func (p Profile) IsZero() bool { return len(p.Blocks) == 0 && p.Closing == NoClosing }
