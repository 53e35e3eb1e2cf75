package blueprint

import (
	"net/mail"
	"slices"
	"strings"
	"unicode/utf8"

	"pinegate/core/expr"
)

func (b *Blueprint) checkGate() error {
	g := b.Gate
	for i, w := range g.Ways {
		if !slices.Contains(Ways(), w) || slices.Contains(g.Ways[:i], w) {
			return problem("There is no way in called %q, or it is named twice.", w)
		}
	}
	if s := g.Session; s.Hours < 0 || s.Hours > MostSessionHours {
		return problem("People can stay signed in for at most %d hours.", MostSessionHours)
	}
	if strings.ContainsAny(g.Sender, "\r\n\x00<>\"") || utf8.RuneCountInString(g.Sender) > maxName {
		return problem("The name of the sender may have at most %d characters, and no quotation marks, angle brackets or line breaks.", maxName)
	}
	if a, err := mail.ParseAddress(g.Address); g.Address != "" && (err != nil || a.Address != g.Address) {
		return problem("%q is no mail address from which mail can come.", g.Address)
	}
	if utf8.RuneCountInString(g.Terms.Version) > maxName || len(g.Terms.Text) > maxText || len(g.Terms.Privacy) > maxText {
		return problem("The version of the terms may have at most %d characters, and their texts 20,000.", maxName)
	}
	if g.Terms.Version != "" && g.Terms.Text == "" {
		return problem("Write down the terms that people accept.")
	}
	if err := g.checkWords(); err != nil {
		return err
	}
	for i := range b.Roles {
		if err := b.checkRoleGate(&b.Roles[i]); err != nil {
			return err
		}
	}
	return nil
}

func (g Gate) checkWords() error {
	for name, text := range g.Words {
		known := slices.ContainsFunc(WordsOfGate(), func(w struct {
			Name GateWords
			Says string
		}) bool {
			return w.Name == name
		})
		if !known || len(text) > maxText || !utf8.ValidString(text) {
			return problem("There is no text %q on the screens of the gate, or it is too long.", name)
		}
	}
	for m, words := range g.Mails {
		if !slices.Contains(GateMails(), m) {
			return problem("There is no mail %q.", m)
		}
		if utf8.RuneCountInString(words.Subject) > 200 || strings.ContainsAny(words.Subject, "\r\n\x00") || len(words.Body) > maxText {
			return problem("The subject of a mail is one line of at most 200 characters, and its text has at most 20,000.")
		}
		must := "code"
		if fields := mailFields(m); !slices.Contains(fields, must) {
			must = fields[len(fields)-1]
		}
		if !strings.Contains(words.Subject+words.Body, "{{"+must+"}}") {
			return problem("This mail needs {{%s}} somewhere; without it nobody can go on.", must)
		}
		for _, src := range []string{words.Subject, words.Body} {
			if _, err := expr.CheckTemplate(src, MailScope(m)); err != nil {
				return &Problem{Message: "The mail cannot be read: " + err.Error()}
			}
		}
	}
	return nil
}

func (b *Blueprint) checkRoleGate(r *Role) error {
	t := b.Table(r.People)
	if t == nil {
		if r.Where != "" || r.Admit != "" || r.Second != "" || len(r.Match)+len(r.Homes)+len(r.SignUp.Questions)+len(r.Profile.Fields) > 0 || r.SignUp.Mode != "" {
			return problem("Say which table the people of %s are in.", r.Name)
		}
		return nil
	}
	if len(r.Refusal) > maxText {
		return problem("What people read who are not let in may have at most 20,000 characters.")
	}
	if !slices.Contains([]SecondStep{NoSecond, MailCode, Authentic}, r.Second) {
		return problem("There is no second step %q.", r.Second)
	}
	if !slices.Contains([]Closing{NoClosing, ClosingKeeps, ClosingBinned}, r.Profile.Closing) {
		return problem("Closing an account keeps the record or deletes it, not %q.", r.Profile.Closing)
	}
	for _, h := range r.Homes {
		if p := b.Page(h.Page); p == nil || p.Record != "" || !p.Admits([]string{r.ID}) {
			return problem("%s can only land on a page that is open to them and about no single record.", r.Name)
		}
	}
	for _, id := range r.Profile.Fields {
		if t.Field(id) == nil {
			return problem("The profile of %s shows what is no field of %s.", r.Name, t.Name)
		}
	}
	if err := b.checkMatch(r, t); err != nil {
		return err
	}
	return b.checkSignUp(r, t)
}

// Matches lists the types of fields by which somebody can be found.
func (t FieldType) Matches() bool {
	switch t {
	case Text, Email, Phone, AutoNumber, Date:
		return true
	}
	return false
}

func (b *Blueprint) checkMatch(r *Role, t *Table) error {
	for _, m := range r.Match {
		at := t
		if m.Via != "" {
			via := t.Field(m.Via)
			if via == nil || via.Type != Links || via.Of == "" {
				return problem("%s can only be found by their own fields, and by those of records that link to them.", r.Name)
			}
			at = b.Table(via.Target)
			if back := at.Field(via.Of); back == nil || back.Type != Link {
				return problem("%s can only be found by records that each link to one of them.", r.Name)
			}
		}
		if f := at.Field(m.Field); f == nil || !f.Type.Matches() {
			return problem("%s can only be found by texts, dates, numbers that count up, phone numbers and e-mail addresses.", r.Name)
		}
	}
	return nil
}

func (b *Blueprint) checkSignUp(r *Role, t *Table) error {
	s := r.SignUp
	if !slices.Contains([]SignUpMode{NoSignUp, Open, Invited, Approved}, s.Mode) {
		return problem("There is no way to sign up called %q.", s.Mode)
	}
	if err := checkPresets(t, s.Presets, "what is filled in for new "+r.Name); err != nil {
		return err
	}
	decides := b.decidesRoles(t)
	var asked []string
	for _, q := range s.Questions {
		f := t.Field(q.Field)
		switch {
		case f == nil || slices.Contains(asked, q.Field):
			return problem("New %s are asked for what is no field of %s, or twice.", r.Name, t.Name)
		case q.Field == r.Email:
			return problem("The e-mail is asked of everybody who signs up, so %s need not be among the questions.", f.Name)
		case !f.Type.Entered() || f.Type.Filed() || f.Type == Links || f.Type == Link:
			return problem("%s cannot be asked of somebody who is not signed in yet.", f.Name)
		case slices.ContainsFunc(s.Presets, func(p Preset) bool { return p.Field == q.Field }):
			return problem("%s is filled in for new %s, so they cannot be asked for it.", f.Name, r.Name)
		case decides[q.Field] != "":
			return problem("%s decides %s, so those who sign up cannot be asked for it: they would choose what they may do.", f.Name, decides[q.Field])
		}
		asked = append(asked, q.Field)
	}
	return nil
}

// decidesRoles tells which fields of a table of people decide who has a role or
// is let in, and what they decide.
func (b *Blueprint) decidesRoles(t *Table) map[string]string {
	out := map[string]string{}
	catalog := b.Catalog()
	for i := range b.Roles {
		r := &b.Roles[i]
		if r.People != t.ID {
			continue
		}
		for source, what := range map[string]string{r.Where: "who is one of " + r.Name, r.Admit: "who of " + r.Name + " is let in"} {
			if strings.TrimSpace(source) == "" {
				continue
			}
			c, err := expr.CheckCondition(source, b.PeopleScope(r, catalog))
			if err != nil {
				continue // told with the other expressions
			}
			for _, ref := range c.Refs {
				if ref.Table == t.ID {
					out[ref.Field] = what
				}
			}
		}
	}
	return out
}

// checkPresets checks what the server fills in.
func checkPresets(t *Table, presets []Preset, what string) error {
	var done []string
	for _, p := range presets {
		f := t.Field(p.Field)
		if f == nil || !f.Type.Entered() || slices.Contains(done, p.Field) || strings.TrimSpace(p.Value) == "" {
			return problem("In %s, a field is not in %s, is filled in twice, or with nothing.", what, t.Name)
		}
		done = append(done, p.Field)
	}
	return nil
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
