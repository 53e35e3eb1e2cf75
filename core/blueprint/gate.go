package blueprint

import (
	"strings"

	"pinegate/core/expr"
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

// Ways lists the ways in, in the order in which they are offered.
func Ways() []Way { return []Way{CodeWay, PasswordWay, LinkWay, FieldsWay} }

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

// Match is a field by which a person is found when they sign in with fields: one
// of the role's table, or with Via, the other side of a link, one of any record
// there.
type Match struct {
	Via   string `json:"via,omitempty"`
	Field string `json:"field"`
}

// Home is a page on which people of a role land, those of whose record When
// holds; all for "".
type Home struct {
	When string `json:"when,omitempty"`
	Page string `json:"page"`
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

// SignUp is how new people come to a role. Questions are fields of its table,
// Presets what the server fills in.
type SignUp struct {
	Mode      SignUpMode  `json:"mode,omitempty"`
	Questions []FormField `json:"questions,omitempty"`
	Presets   []Preset    `json:"presets,omitempty"`
}

// Profile is what people of a role find about themselves. What of it they see
// and change is decided by their rules.
type Profile struct {
	Fields  []string `json:"fields,omitempty"`
	Closing Closing  `json:"closing,omitempty"`
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

// WordsOfGate lists the texts with what they say unless they are reworded.
func WordsOfGate() []struct {
	Name GateWords
	Says string
} {
	type words = struct {
		Name GateWords
		Says string
	}
	return []words{
		{SignInTitle, "Sign in"},
		{SignInText, ""},
		{SentText, "If we know you, mail is on its way. It can take a minute."},
		{SignUpTitle, "Sign up"},
		{SignUpText, ""},
		{WaitingText, "Thank you. Somebody looks at your request, and you get mail when you are let in."},
		{RefusalTitle, "You are not let in"},
	}
}

// Says gives a text of a screen.
func (g Gate) Says(name GateWords) string {
	if own := g.Words[name]; own != "" {
		return own
	}
	for _, w := range WordsOfGate() {
		if w.Name == name {
			return w.Says
		}
	}
	return ""
}

// DefaultRefusal is what somebody reads who is not let in, unless the role says
// otherwise.
const DefaultRefusal = "We know you, but you are not let in at the moment. Please get in touch with us."

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

// Mail is a mail with placeholders.
type Mail struct {
	Subject string `json:"subject"`
	Body    string `json:"body"`
}

// GateMails lists the mails of the gate in the order in which they are shown.
func GateMails() []GateMail {
	return []GateMail{CodeMail, LinkMail, ConfirmMail, InvitationMail, ResetMail, AddressMail, ChangedMail, ApprovedMail}
}

// DefaultMail gives what a mail of the gate says unless it is reworded.
func DefaultMail(m GateMail) Mail {
	const once = "It holds for ten minutes and works once. If you did not ask for it, you need do nothing.\n"
	return map[GateMail]Mail{
		CodeMail:       {"{{code}} is your code for {{app}}", "Hello {{name}},\n\nyour code for signing in to {{app}} is\n\n    {{code}}\n\n" + once},
		LinkMail:       {"Sign in to {{app}}", "Hello {{name}},\n\nopen this address to sign in to {{app}}:\n\n{{link}}\n\n" + once},
		ConfirmMail:    {"{{code}} confirms your address for {{app}}", "Hello {{name}},\n\nsomebody, you we hope, signed up for {{app}} with this address. The code that confirms it is\n\n    {{code}}\n\n" + once},
		InvitationMail: {"You are invited to {{app}}", "Hello {{name}},\n\nyou are invited to {{app}}. Open this address to come in:\n\n{{link}}\n\nIt works for fourteen days.\n"},
		ResetMail:      {"{{code}} lets you set a password for {{app}}", "Hello {{name}},\n\nthe code with which you set a new password for {{app}} is\n\n    {{code}}\n\n" + once},
		AddressMail:    {"{{code}} confirms your new address for {{app}}", "Hello {{name}},\n\nthe code that makes this the address by which {{app}} knows you is\n\n    {{code}}\n\n" + once},
		ChangedMail:    {"Your access to {{app}} was changed", "Hello {{name}},\n\n{{what}} at {{app}}. If that was not you, tell us at once.\n"},
		ApprovedMail:   {"You are let in to {{app}}", "Hello {{name}},\n\nwelcome to {{app}}. From now on you can sign in:\n\n{{link}}\n"},
	}[m]
}

// MailOf gives a mail of the gate, as it is reworded.
func (g Gate) MailOf(m GateMail) Mail {
	if own, ok := g.Mails[m]; ok {
		return own
	}
	return DefaultMail(m)
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
		t.Fields = append(t.Fields, &expr.Field{ID: key, Key: key, Name: strings.ToUpper(key[:1]) + key[1:], Table: mailTable, Type: expr.Type{Kind: expr.Text}})
	}
	return expr.Scope{Catalog: &expr.Catalog{Tables: map[string]*expr.Table{mailTable: t}, Lists: map[string]*expr.List{}}, Row: mailTable}
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
	return expr.TextOf(e.values[f.ID])
}
func (e mailEnv) Records(string) []expr.Value         { return nil }
func (e mailEnv) Label(string, expr.Value) expr.Value { return expr.Empty() }
func (e mailEnv) Clock() expr.Clock                   { return e.clock }

// Fill writes a mail of the gate: the values by the names of the placeholders.
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
