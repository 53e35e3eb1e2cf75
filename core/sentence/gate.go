package sentence

import (
	"fmt"
	"slices"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// GateID is the id of the heading under which the gate is told.
const GateID = "~gate"

var wayWords = map[blueprint.Way]string{
	blueprint.CodeWay:     "a code that is mailed to them",
	blueprint.PasswordWay: "their e-mail and a password",
	blueprint.LinkWay:     "a link that is mailed to them",
	blueprint.FieldsWay:   "what only they know, and a code that is mailed to them",
}

// gateLines tells how people get in.
func gateLines(b *blueprint.Blueprint) []Line {
	g := b.Gate
	var ways []Option
	for _, w := range blueprint.Ways() {
		ways = append(ways, Option{Value: string(w), Label: wayWords[w]})
	}
	var open, said []string
	for _, w := range g.WaysIn() {
		open, said = append(open, string(w)), append(said, wayWords[w])
	}
	out := []Line{
		newLine(Heading, GateID, GateID).say("The gate").Line,
		newLine(Plain, GateID+"ways", GateID).say("People get in with ").set(strings.Join(said, ", or "), "How do people get in?", &blueprint.SetWays{},
			Slot{Name: "ways", Label: "Ways in", Control: ManyControl, Value: open, Options: ways}).say(".").Line,
		sessionLine(g.Session),
		newLine(Plain, GateID+"sender", GateID).say("Their mail comes from ").set(orElse(g.Sender, "the app’s name"), "From whom does mail come?", &blueprint.SetSender{}, senderSlots(g)...).
			say(" at ").set(orElse(g.Address, "the server’s address"), "From whom does mail come?", &blueprint.SetSender{}, senderSlots(g)...).say(".").Line,
		termsLine(g.Terms),
	}
	return append(append(out, screenLines(g)...), mailLines(b)...)
}

func senderSlots(g blueprint.Gate) []Slot {
	return []Slot{textSlot("sender", "Name; empty for the app’s name", g.Sender), textSlot("address", "Mail address; empty for that of the server", g.Address)}
}

func sessionLine(s blueprint.SessionSettings) Line {
	words := "for " + duration(s.Length())
	switch {
	case s.Each:
		words = "until they close the browser, for " + duration(s.Length()) + " at most"
	case s.Prolonged:
		words = "until they do not come for " + duration(s.Length())
	}
	if s.Asks {
		words += " if they wish to be remembered, and else until they close the browser"
	}
	var hours any
	if s.Hours > 0 {
		hours = s.Hours
	}
	return newLine(Plain, GateID+"session", GateID).say("They stay signed in ").set(words, "How long do people stay signed in?", &blueprint.SetSession{},
		Slot{Name: "hours", Label: fmt.Sprintf("Hours; empty for %s", duration(blueprint.SessionSettings{Each: s.Each}.Length())), Control: NumberControl, Value: hours},
		Slot{Name: "each", Label: "Each visit signs in anew", Control: SwitchControl, Value: s.Each},
		Slot{Name: "prolonged", Label: "Whoever uses the app stays signed in longer", Control: SwitchControl, Value: s.Prolonged}.when("each", "false"),
		Slot{Name: "asks", Label: "They are asked whether to be remembered", Control: SwitchControl, Value: s.Asks}.when("each", "false")).say(".").Line
}

func duration(hours int) string {
	switch {
	case hours == 1:
		return "one hour"
	case hours%24 != 0 || hours < 48:
		return fmt.Sprintf("%d hours", hours)
	}
	return fmt.Sprintf("%d days", hours/24)
}

func termsLine(t blueprint.Terms) Line {
	words := "nothing in particular"
	if t.Version != "" {
		words = "the terms of version " + t.Version
		if t.Privacy != "" {
			words += " and what is said of privacy"
		}
	}
	return newLine(Plain, GateID+"terms", GateID).say("Those who sign up accept ").set(words, "What do people accept when they sign up?", &blueprint.SetTerms{},
		textSlot("version", "Version, such as 2026-11; empty for no terms", t.Version),
		Slot{Name: "text", Label: "Terms", Control: LongTextControl, Value: t.Text},
		Slot{Name: "privacy", Label: "Privacy", Control: LongTextControl, Value: t.Privacy}).say(".").Line
}

var screenWords = map[blueprint.GateWords]string{
	blueprint.SignInTitle:  "Signing in is headed",
	blueprint.SignInText:   "Under that stands",
	blueprint.SentText:     "When mail was asked for, people read",
	blueprint.SignUpTitle:  "Signing up is headed",
	blueprint.SignUpText:   "Under that stands",
	blueprint.WaitingText:  "Who waits to be let in reads",
	blueprint.RefusalTitle: "Who is not let in reads, above the reason,",
}

func screenLines(g blueprint.Gate) []Line {
	var out []Line
	for _, w := range blueprint.WordsOfGate() {
		says := g.Says(w.Name)
		words := "nothing"
		if says != "" {
			words = "“" + says + "”"
		}
		out = append(out, newLine(Plain, GateID+string(w.Name), GateID).say(screenWords[w.Name]+" ").
			set(words, "Words of the screen", &blueprint.SetGateWords{Name: w.Name}, Slot{Name: "text", Label: "Words; empty for those that come with the product", Control: LongTextControl, Value: says}).say(stop(says)).Line)
	}
	return out
}

// stop ends a sentence that ends with words in quotation marks.
func stop(quoted string) string {
	if strings.HasSuffix(quoted, ".") || strings.HasSuffix(quoted, "!") || strings.HasSuffix(quoted, "?") {
		return ""
	}
	return "."
}

// MailWords says what the mails of the gate are for.
func MailWords(m blueprint.GateMail) string {
	return map[blueprint.GateMail]string{
		blueprint.CodeMail: "The mail with a code", blueprint.LinkMail: "The mail with a link to sign in", blueprint.ConfirmMail: "The mail that confirms an address",
		blueprint.InvitationMail: "The invitation", blueprint.ResetMail: "The mail for a new password", blueprint.AddressMail: "The mail for a new address",
		blueprint.ChangedMail: "The mail about a change of access", blueprint.ApprovedMail: "The mail to those who are let in",
	}[m]
}

func mailLines(b *blueprint.Blueprint) []Line {
	var out []Line
	for _, m := range blueprint.GateMails() {
		words := b.Gate.MailOf(m)
		var names []string
		for _, f := range blueprint.MailScope(m).Catalog.Tables {
			for _, x := range f.Fields {
				names = append(names, "{{"+x.Key+"}}")
			}
		}
		out = append(out, newLine(Plain, GateID+"mail "+string(m), GateID).say(MailWords(m)+" is called ").
			set("“"+words.Subject+"”", MailWords(m), &blueprint.SetGateMail{Mail: m}, textSlot("subject", "Subject", words.Subject),
				Slot{Name: "body", Label: "Text; it can name " + strings.Join(names, ", "), Control: LongTextControl, Value: words.Body}).say(".").Line)
	}
	return out
}

// roleGateLines tells who of a table has the role, and how they get in.
func roleGateLines(b *blueprint.Blueprint, r *blueprint.Role, catalog *expr.Catalog) []Line {
	t := b.Table(r.People)
	if t == nil {
		return nil
	}
	out := []Line{admissionLine(b, r, catalog)}
	if b.Gate.Lets(blueprint.FieldsWay) {
		out = append(out, matchLine(b, r, t))
	}
	out = append(out, homeLines(b, r, catalog)...)
	return append(out, signUpLine(b, r, t), profileLine(r, t))
}

func admissionLine(b *blueprint.Blueprint, r *blueprint.Role, catalog *expr.Catalog) Line {
	scope := &Scope{Row: r.People, Want: WantCondition}
	l := newLine(Plain, r.ID+"_admit", r.ID).say("They are let in ")
	words := []Part{{Text: "always"}}
	if r.Admit != "" {
		words = append([]Part{{Text: "where "}}, conditionWords(r.Admit, b.PeopleScope(r, catalog))...)
	}
	l.setParts(words, "Who of "+r.Name+" is let in?", &blueprint.SetAdmission{Role: r.ID},
		Slot{Name: "admit", Label: "Condition over their record; empty for all", Control: ExpressionControl, Value: r.Admit, Scope: scope})
	if r.Admit != "" {
		refusal := orElse(r.Refusal, blueprint.DefaultRefusal)
		l.say("; the others read ").set("“"+refusal+"”", "What those read who are not let in", &blueprint.SetAdmission{Role: r.ID, Admit: r.Admit},
			Slot{Name: "refusal", Label: "Words", Control: LongTextControl, Value: refusal})
	}
	second := map[blueprint.SecondStep]string{blueprint.NoSecond: "nothing else", blueprint.MailCode: "a code by mail after a password", blueprint.Authentic: "a code of their authenticator app"}
	return l.say(", and are asked for ").set(second[r.Second], "What else are "+r.Name+" asked for?", &blueprint.SetSecondStep{Role: r.ID},
		pickSlot("second", "Besides the way in", string(r.Second), []Option{{Value: "", Label: second[blueprint.NoSecond]}, {Value: "mail", Label: second[blueprint.MailCode]}, {Value: "app", Label: second[blueprint.Authentic]}})).say(".").Line
}

func matchLine(b *blueprint.Blueprint, r *blueprint.Role, t *blueprint.Table) Line {
	var options []Option
	for _, f := range t.Fields {
		if f.Type.Matches() {
			options = append(options, Option{Value: f.ID, Label: f.Name})
		}
		at := b.Table(f.Target)
		if f.Type != blueprint.Links || f.Of == "" || at == nil {
			continue
		}
		for _, x := range at.Fields {
			if x.Type.Matches() {
				options = append(options, Option{Value: f.ID + "." + x.ID, Label: x.Name + " of one of their " + at.Name})
			}
		}
	}
	now, said := []string{}, []string{}
	for _, m := range r.Match {
		id := m.Field
		if m.Via != "" {
			id = m.Via + "." + m.Field
		}
		now = append(now, id)
		if i := slices.IndexFunc(options, func(o Option) bool { return o.Value == id }); i >= 0 {
			said = append(said, "the "+options[i].Label)
		}
	}
	words := "nothing, so this way is closed to them"
	if len(said) > 0 {
		words = strings.Join(said, " and ")
	}
	return newLine(Plain, r.ID+"_match", r.ID).say("What only they know is ").set(words, "By what are "+r.Name+" found?", &blueprint.SetMatch{Role: r.ID},
		Slot{Name: "match", Label: "All of these together must point to one record", Control: ManyControl, Value: now, Options: options}).say(".").Line
}

func homeLines(b *blueprint.Blueprint, r *blueprint.Role, catalog *expr.Catalog) []Line {
	pages := []Option{}
	for i := range b.Pages {
		if p := &b.Pages[i]; p.Record == "" && p.Admits([]string{r.ID}) {
			pages = append(pages, Option{Value: p.ID, Label: p.Name})
		}
	}
	scope := &Scope{Row: r.People, Want: WantCondition}
	slots := func(h blueprint.Home) []Slot {
		return []Slot{pickSlot("page", "Page", h.Page, pages), {Name: "when", Label: "Only if; empty for all", Control: ExpressionControl, Value: h.When, Scope: scope}}
	}
	title := "Where do " + r.Name + " land?"
	var out []Line
	for i, h := range r.Homes {
		p := b.Page(h.Page)
		change := &blueprint.SetHome{Role: r.ID, At: i}
		l := newLine(Plain, fmt.Sprintf("%s_home%d", r.ID, i), r.ID).say("After signing in they land on ").setName(p.Name, p.ID, title, change, slots(h)...)
		if h.When != "" {
			l.say(" where ").setParts(conditionWords(h.When, b.PeopleScope(r, catalog)), title, change, slots(h)...)
		}
		out = append(out, l.say(".").act("Remove", "", &blueprint.RemoveHome{Role: r.ID, At: i}).Line)
	}
	if len(pages) > 0 {
		out = append(out, newLine(Offer, r.ID+"_home", r.ID).set("Say where they land after signing in", title, &blueprint.SetHome{Role: r.ID, At: len(r.Homes)}, slots(blueprint.Home{Page: pages[0].Value})...).Line)
	}
	return out
}

var signUpWords = map[blueprint.SignUpMode]string{
	blueprint.NoSignUp: "cannot sign up", blueprint.Open: "sign up by themselves", blueprint.Invited: "come by invitation", blueprint.Approved: "sign up and wait until somebody lets them in",
}

func signUpLine(b *blueprint.Blueprint, r *blueprint.Role, t *blueprint.Table) Line {
	var modes, options []Option
	for _, m := range []blueprint.SignUpMode{blueprint.NoSignUp, blueprint.Open, blueprint.Invited, blueprint.Approved} {
		modes = append(modes, Option{Value: string(m), Label: signUpWords[m]})
	}
	l := newLine(Plain, r.ID+"_signup", r.ID).say("New ones ").set(signUpWords[r.SignUp.Mode], "How do new "+r.Name+" come?", &blueprint.SetSignUp{Role: r.ID}, pickSlot("mode", "New ones", string(r.SignUp.Mode), modes))
	if r.SignUp.Mode == blueprint.NoSignUp {
		return l.say(".").Line
	}
	for _, f := range t.Fields {
		if f.Type.Entered() && f.ID != r.Email && !f.Type.Filed() && f.Type != blueprint.Link && f.Type != blueprint.Links {
			options = append(options, Option{Value: f.ID, Label: f.Name})
		}
	}
	asked, presets := r.SignUp.Questions, r.SignUp.Presets
	if asked == nil {
		asked = []blueprint.FormField{}
	}
	if presets == nil {
		presets = []blueprint.Preset{}
	}
	var ids, filled []string
	for _, q := range asked {
		ids = append(ids, q.Field)
	}
	for _, p := range presets {
		filled = append(filled, p.Field)
	}
	return l.say(". Besides their e-mail they are asked for ").
		setParts(fieldNames(t, ids, "nothing"), "What are new "+r.Name+" asked?", &blueprint.SetSignUp{Role: r.ID}, Slot{Name: "questions", Label: "Questions, in their order", Control: QuestionsControl, Value: asked, Options: options}).
		say("; the app fills in ").
		setParts(fieldNames(t, filled, "nothing"), "What does the app fill in for new "+r.Name+"?", &blueprint.SetSignUp{Role: r.ID},
			Slot{Name: "presets", Label: "Fields", Control: PresetsControl, Value: presets, Options: options, Scope: &Scope{Want: WantValue}}).say(".").Line
}

func profileLine(r *blueprint.Role, t *blueprint.Table) Line {
	fields := r.Profile.Fields
	if fields == nil {
		fields = []string{}
	}
	words := map[blueprint.Closing]string{blueprint.NoClosing: "cannot close their account", blueprint.ClosingKeeps: "can close their account, and their record stays", blueprint.ClosingBinned: "can close their account, and their record is deleted"}
	return newLine(Plain, r.ID+"_profile", r.ID).say("Of themselves they find ").
		setParts(fieldNames(t, fields, "their e-mail alone"), "What do "+r.Name+" find about themselves?", &blueprint.SetProfile{Role: r.ID}, fieldsSlot("fields", "Fields; what they see and change of these their rules decide", t, fields)).
		say(" in their profile. They ").set(words[r.Profile.Closing], "Can "+r.Name+" close their account?", &blueprint.SetProfile{Role: r.ID},
		pickSlot("closing", "They", string(r.Profile.Closing), []Option{{Value: "", Label: words[""]}, {Value: "keep", Label: words["keep"]}, {Value: "delete", Label: words["delete"]}})).say(".").Line
}

// givenLine tells what the server fills in when a role adds to a table.
func givenLine(b *blueprint.Blueprint, r *blueprint.Role, rule blueprint.Rule, t *blueprint.Table) Line {
	var options []Option
	for _, f := range t.Fields {
		if f.Type.Entered() && f.Of == "" && !f.Type.Filed() {
			options = append(options, Option{Value: f.ID, Label: f.Name})
		}
	}
	given := rule.Given
	if given == nil {
		given = []blueprint.Preset{}
	}
	words := []Part{{Text: "nothing"}}
	for i, g := range given {
		if i == 0 {
			words = nil
		} else {
			words = append(words, Part{Text: ", "})
		}
		f := t.Field(g.Field)
		words = append(append(words, Part{Text: f.Name, Ref: f.ID}, Part{Text: " as "}), expressionWords(g.Value, r.GivenScope(b.Catalog()))...)
	}
	return newLine(Plain, r.ID+"_"+t.ID+"_given", r.ID).say("When they add one, the app fills in ").
		setParts(words, "What does the app fill in when "+r.Name+" add to "+t.Name+"?", &blueprint.SetGiven{Role: r.ID, Table: t.ID},
			Slot{Name: "given", Label: "Fields, whatever the browser says", Control: PresetsControl, Value: given, Options: options, Scope: &Scope{Me: r.People, Want: WantValue}}).say(".").Line
}
