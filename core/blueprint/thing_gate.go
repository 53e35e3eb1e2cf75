package blueprint

import (
	"net/mail"
	"slices"
	"strings"
	"unicode/utf8"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// The groups of the gate's settings that are summed up by a sentence.
const (
	GateWordsGroup = "Words of pages"
	GateMailsGroup = "Words of emails"
)

// Called says that it is the gate.
func (g *Gate) Called(Context) string { return words.Say("called-gate", nil) }

// Core is the sentence that tells the gate.
func (g *Gate) Core(Context) string { return "People sign in with {ways}" }

// Props lists the settings of the gate.
func (g *Gate) Props(Context) []prop.Prop {
	var ways []prop.Option
	for _, w := range waysIn {
		ways = append(ways, prop.Option{Value: string(w.Way), Words: w.words})
	}
	sender, version := prop.Text(&g.Sender), prop.Text(&g.Terms.Version)
	sender.Most, sender.Right, version.Most = maxName, senderRight, maxName
	address := prop.Text(&g.Address)
	address.Right = addressRight
	s := &g.Session
	const signIn, mailed, terms = "Staying signed in", "Emails", "Signing up"
	forHours := ". They stay signed in for {|" + hoursWords(s.Length()) + "}"
	if s.Prolonged { // told with the last visit
		forHours = ""
	}
	out := []prop.Prop{
		{
			Name:  "ways",
			Label: "Ways to sign in",
			Noun:  "the ways to sign in",
			Value: prop.Many(&g.Ways, prop.Of("", ways...)).Else(CodeWay).Joined(", or "),
		},
		{
			Name:  "session.hours",
			Label: "Hours (empty: 30 days, or 12 hours for each visit)",
			Noun:  "how long people stay signed in",
			Help:  "30 days unless you say",
			Group: signIn,
			Say:   forHours,
			Value: prop.Number(&s.Hours, 1, MostSessionHours),
		},
		{
			Name:  "session.prolonged",
			Label: "Counted from their last visit",
			Noun:  "how long people stay signed in",
			Help:  "People who keep coming stay signed in",
			Group: signIn,
			Say:   ". They stay signed in until {session.hours|" + hoursWords(s.Length()) + "} after {|their last visit}",
			Value: prop.Switch(&s.Prolonged),
		},
		{
			Name:  "session.each",
			Label: "Until they close the browser",
			Noun:  "how long people stay signed in",
			Help:  "Each visit needs a new sign-in",
			Group: signIn,
			Say:   ". They stay signed in until {|they close the browser}",
			Value: prop.Switch(&s.Each),
		},
		{
			Name:  "session.asks",
			Label: "Ask whether to stay signed in",
			Noun:  "whether people are asked to stay signed in",
			Help:  "Others stay signed in until they close the browser",
			Group: signIn,
			Say:   ". They are {|asked whether to stay signed in}",
			Value: prop.Switch(&s.Asks),
		},
		{
			Name:  "terms.version",
			Label: "Version of the terms, such as 2026-11",
			Noun:  "the terms",
			Help:  "What people accept when they sign up",
			Group: terms,
			Say:   ". Sign-up asks people to accept the terms, version {}",
			Value: version,
		},
		{Name: "terms.text", Label: "Terms", Noun: "the terms", With: "terms.version", Value: prop.Words(&g.Terms.Text)},
		{
			Name:  "terms.privacy",
			Label: "Privacy",
			Noun:  "the privacy notice",
			With:  "terms.version",
			Group: terms,
			Say:   ", and shows {|a privacy notice}",
			Value: prop.Words(&g.Terms.Privacy),
		},
		{
			Name:  "sender",
			Label: "Name",
			Noun:  "the sender of emails",
			Help:  "The name that emails come from, instead of the app’s",
			Group: mailed,
			Say:   ". Emails come from {}",
			Value: sender,
		},
		{
			Name:  "address",
			Label: "Address",
			Noun:  "the address of emails",
			Help:  "The address that emails come from, instead of the server’s, once it is confirmed",
			Group: mailed,
			Say:   ". Their address is {}",
			Value: address,
		},
	}
	for _, w := range wordsOfGate {
		out = append(out, g.wordsProp(w.GateWords, w.says, w.label, w.say))
	}
	for _, m := range mailsOfGate {
		out = append(out, g.mailProps(m)...)
	}
	return out
}

var waysIn = []struct {
	Way
	words string
}{
	{
		CodeWay,
		"an emailed code",
	}, {PasswordWay, "email and password"}, {LinkWay, "an emailed link"}, {FieldsWay, "details from their record, and an emailed code"},
}

// hoursWords tells a time as people count it.
func hoursWords(hours int) string {
	if hours%24 == 0 && hours >= 48 {
		return words.Say("days", words.Args{"n": hours / 24})
	}
	return words.Say("hours", words.Args{"n": hours})
}

func senderRight(s string) *words.Problem {
	if strings.ContainsAny(s, "\r\n\x00<>\"") {
		return words.New("sender-signs")
	}
	return nil
}

func addressRight(s string) *words.Problem {
	if a, err := mail.ParseAddress(s); err != nil || a.Address != s {
		return words.New("sender-address", "value", s)
	}
	return nil
}

// wordsOfGate are the rows of the texts on the gate's pages: what they say unless
// they are reworded, and how that is told.
var wordsOfGate = []struct {
	GateWords
	says, label, say string
}{
	{SignInTitle, "Sign in", "Title of the sign-in page", ". The sign-in page is titled {}"},
	{SignInText, "", "Text of the sign-in page", ". Its text says {}"},
	{
		SentText,
		"If you have access, an email is on its way. It can take a minute.",
		"After asking for an email",
		". After asking for an email, people see {}",
	},
	{SignUpTitle, "Sign up", "Title of the sign-up page", ". The sign-up page is titled {}"},
	{SignUpText, "", "Text of the sign-up page", ". The sign-up page says {}"},
	{
		WaitingText,
		"Thank you. We’ll email you once you are approved.",
		"While waiting for approval",
		". While waiting for approval, people see {}",
	},
	{RefusalTitle, "You can’t sign in", "Title of the page for refused sign-ins", ". The page for refused sign-ins is titled {}"},
}

func (g *Gate) wordsProp(name GateWords, says, label, say string) prop.Prop {
	return prop.Prop{Name: "words." + string(name), Label: label, Noun: "the words of a page", Help: says, Group: GateWordsGroup, Say: say,
		Value: prop.Held(prop.Control{Kind: prop.TextControl, Long: true}, func() string { return g.Words[name] }, func(text string) {
			if g.Words == nil {
				g.Words = map[GateWords]string{}
			}
			delete(g.Words, name)
			if text != "" && text != says {
				g.Words[name] = text
			}
			if len(g.Words) == 0 {
				g.Words = nil
			}
		}, textRight).Else(says).InQuotes()}
}

func textRight(text string) *words.Problem {
	if utf8.RuneCountInString(text) > prop.MostText || !utf8.ValidString(text) {
		return words.New("text-long", "n", prop.MostText)
	}
	return nil
}

// mailsOfGate are the rows of the gate's mails: what they are called, and what
// they say unless they are reworded.
var mailsOfGate = []mailRow{
	{
		CodeMail,
		"sign-in code",
		"code",
		"{{code}} is your code for {{app}}",
		"Hello {{name}},\n\nYour sign-in code for {{app}} is\n\n    {{code}}\n\n" + once,
	},
	{
		LinkMail,
		"sign-in link",
		"link",
		"Sign in to {{app}}",
		"Hello {{name}},\n\nOpen this link to sign in to {{app}}:\n\n{{link}}\n\n" + once,
	},
	{
		ConfirmMail,
		"sign-up",
		"code",
		"{{code}} confirms your email for {{app}}",
		"Hello {{name}},\n\nConfirm your email to finish signing up for {{app}}. The code is\n\n    {{code}}\n\n" + once,
	},
	{
		InvitationMail,
		"invitation",
		"link",
		"You are invited to {{app}}",
		"Hello {{name}},\n\nYou are invited to {{app}}. Open this link to accept:\n\n{{link}}\n\nIt works for 14 days.\n",
	},
	{
		ResetMail,
		"new password",
		"code",
		"{{code}} sets a new password for {{app}}",
		"Hello {{name}},\n\nThe code for setting a new password for {{app}} is\n\n    {{code}}\n\n" + once,
	},
	{
		AddressMail,
		"new email",
		"code",
		"{{code}} confirms your new email for {{app}}",
		"Hello {{name}},\n\nEnter this code to use this email for {{app}} from now on:\n\n    {{code}}\n\n" + once,
	},
	{
		ChangedMail,
		"account change",
		"what",
		"Your account for {{app}} was changed",
		"Hello {{name}},\n\n{{what}} If that was not you, tell us at once.\n",
	},
	{
		ApprovedMail,
		"approval",
		"link",
		"You can now sign in to {{app}}",
		"Hello {{name}},\n\nWelcome to {{app}}. You can now sign in:\n\n{{link}}\n",
	},
}

const once = "It works once, for 10 minutes. Didn’t ask for it? Ignore this email.\n"

type mailRow struct {
	GateMail
	words         string
	must          string // the placeholder without which nobody can go on
	subject, body string
}

// holds tells whether a text has a placeholder that is just the name.
func holds(text, name string) bool {
	for {
		_, after, more := strings.Cut(text, "{{")
		inside, behind, closed := strings.Cut(after, "}}")
		if !more || !closed {
			return false
		}
		if strings.TrimSpace(inside) == name {
			return true
		}
		text = behind
	}
}

func (g *Gate) mailProps(m mailRow) []prop.Prop {
	part := func(name, label, noun string, long bool, says string, at func(*Mail) *string, right func(string) *words.Problem) prop.Prop {
		return prop.Prop{Name: "mails." + string(m.GateMail) + "." + name, Label: label, Noun: noun, Group: GateMailsGroup,
			Value: prop.Held(prop.Control{Kind: prop.TextControl, Long: long}, func() string {
				own := g.Mails[m.GateMail]
				return *at(&own)
			}, func(text string) {
				g.setMail(m, func(own *Mail) { *at(own) = text })
			}, right).Else(says).InQuotes()}
	}
	args := words.Args{"mail": m.words}
	subject := part(
		"subject",
		words.Say("mail-subject", args),
		words.Say("mail-noun", args),
		false,
		m.subject,
		func(m *Mail) *string { return &m.Subject },
		m.subjectRight,
	)
	body := part(
		"body",
		"Text; it can use "+strings.Join(m.placeholders(), ", "),
		words.Say("mail-noun", args),
		true,
		m.body,
		func(m *Mail) *string { return &m.Body },
		m.bodyRight,
	)
	subject.Help, subject.Say = m.subject, words.Say("mail-say", args)
	body.With = subject.Name
	return []prop.Prop{subject, body}
}

// setMail changes a reworded mail; one that says what it does anyway is forgotten.
func (g *Gate) setMail(m mailRow, change func(*Mail)) {
	own := g.Mails[m.GateMail]
	change(&own)
	if own.Subject == m.subject {
		own.Subject = ""
	}
	if strings.TrimSpace(own.Body) == strings.TrimSpace(m.body) {
		own.Body = ""
	}
	if g.Mails == nil {
		g.Mails = map[GateMail]Mail{}
	}
	g.Mails[m.GateMail] = own
	if own == (Mail{}) {
		delete(g.Mails, m.GateMail)
	}
	if len(g.Mails) == 0 {
		g.Mails = nil
	}
}

func (m mailRow) placeholders() []string {
	var out []string
	for _, name := range mailFields(m.GateMail) {
		out = append(out, "{{"+name+"}}")
	}
	return out
}

func (m mailRow) subjectRight(text string) *words.Problem {
	if utf8.RuneCountInString(text) > 200 || strings.ContainsAny(text, "\r\n\x00") {
		return words.New("mail-subject-long")
	}
	return m.readable(text)
}

func (m mailRow) bodyRight(text string) *words.Problem {
	if p := textRight(text); p != nil {
		return p
	}
	return m.readable(text)
}

func (m mailRow) readable(text string) *words.Problem {
	if _, err := expr.CheckTemplate(text, MailScope(m.GateMail)); err != nil {
		return words.New("mail-unreadable", "error", err.Error()).With(err)
	}
	return nil
}

// Check tells what is wrong with the gate's settings together, or nil.
func (g *Gate) Check(Context) *words.Problem {
	if g.Terms.Version != "" && g.Terms.Text == "" {
		return words.New("terms-missing")
	}
	for _, m := range mailsOfGate {
		if says := g.MailOf(m.GateMail); !holds(says.Subject+says.Body, m.must) {
			return words.New("mail-needs", "placeholder", "{{"+m.must+"}}", "mail", m.words)
		}
	}
	return nil
}

// decidesRoles tells which fields of a table of people decide who has a role, or
// who can sign in as one, and gives the name of the role.
func (b *Blueprint) decidesRoles(t *Table) map[string]string {
	out := map[string]string{}
	if t == nil {
		return out
	}
	catalog := b.Catalog()
	for i := range b.Roles {
		r := &b.Roles[i]
		if r.People != t.ID {
			continue
		}
		for _, source := range []string{r.Where, r.Admit} {
			if strings.TrimSpace(source) == "" {
				continue
			}
			c, err := expr.CheckCondition(source, b.PeopleScope(r, catalog))
			if err != nil {
				continue // told with the other expressions
			}
			for _, ref := range c.Refs {
				if ref.Table == t.ID {
					out[ref.Field] = r.Name
				}
			}
		}
	}
	return out
}

// Decisive lists the fields of a table of people by which they are known, or
// which decide who they are: what nobody should change of themselves.
func (b *Blueprint) Decisive(t *Table) []string {
	decides := b.decidesRoles(t)
	var out []string
	for _, f := range t.Fields {
		known := slices.ContainsFunc(b.Roles, func(r Role) bool { return r.People == t.ID && r.Email == f.ID })
		if known || decides[f.ID] != "" {
			out = append(out, f.ID)
		}
	}
	return out
}
