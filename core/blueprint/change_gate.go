package blueprint

import (
	"slices"
	"strings"
)

// roleToEdit gives the role with the id, which has people.
func (b *Blueprint) roleToEdit(id string) (*Role, error) {
	r := b.Role(id)
	if r == nil {
		return nil, gone("role")
	}
	if b.Table(r.People) == nil {
		return nil, problem("Say first which table the people of %s are in.", r.Name)
	}
	return r, nil
}

// SetRoleCondition says who of the people in a role's table has the role.
type SetRoleCondition struct {
	Role  string `json:"role"`
	Where string `json:"where"`
}

func (c *SetRoleCondition) apply(b *Blueprint) error {
	r, err := b.roleToEdit(c.Role)
	if err == nil {
		r.Where = strings.TrimSpace(c.Where)
	}
	return err
}

// SetAdmission says who of a role's people is let in, and what the others read.
type SetAdmission struct {
	Role    string  `json:"role"`
	Admit   string  `json:"admit"`
	Refusal *string `json:"refusal,omitempty"` // nil leaves it as it is
}

func (c *SetAdmission) apply(b *Blueprint) error {
	r, err := b.roleToEdit(c.Role)
	if err != nil {
		return err
	}
	r.Admit = strings.TrimSpace(c.Admit)
	if c.Refusal != nil {
		r.Refusal = strings.TrimSpace(*c.Refusal)
	}
	return nil
}

// SetSecondStep says what people of a role are asked for besides.
type SetSecondStep struct {
	Role   string     `json:"role"`
	Second SecondStep `json:"second"`
}

func (c *SetSecondStep) apply(b *Blueprint) error {
	r, err := b.roleToEdit(c.Role)
	if err == nil {
		r.Second = c.Second
	}
	return err
}

// SetMatch says by which fields together people of a role are found. Each names
// a field, or the other side of a link and a field there, parted by a dot.
type SetMatch struct {
	Role  string   `json:"role"`
	Match []string `json:"match"`
}

func (c *SetMatch) apply(b *Blueprint) error {
	r, err := b.roleToEdit(c.Role)
	if err != nil {
		return err
	}
	r.Match = nil
	for _, text := range c.Match {
		m := Match{Field: text}
		if via, field, there := strings.Cut(text, "."); there {
			m = Match{Via: via, Field: field}
		}
		r.Match = append(r.Match, m)
	}
	return nil
}

// SetHome says on which page people of a role land, at a place among others of
// which the first that fits counts; At behind the last adds one.
type SetHome struct {
	Role string `json:"role"`
	At   int    `json:"at"`
	Page string `json:"page"`
	When string `json:"when"`
}

func (c *SetHome) apply(b *Blueprint) error {
	r, err := b.roleToEdit(c.Role)
	if err != nil {
		return err
	}
	h := Home{When: strings.TrimSpace(c.When), Page: c.Page}
	switch {
	case c.At == len(r.Homes):
		r.Homes = append(r.Homes, h)
	case c.At >= 0 && c.At < len(r.Homes):
		r.Homes[c.At] = h
	default:
		return gone("landing page")
	}
	return nil
}

// RemoveHome takes one of the pages away on which people of a role land.
type RemoveHome struct {
	Role string `json:"role"`
	At   int    `json:"at"`
}

func (c *RemoveHome) apply(b *Blueprint) error {
	r, err := b.roleToEdit(c.Role)
	if err != nil {
		return err
	}
	if c.At < 0 || c.At >= len(r.Homes) {
		return gone("landing page")
	}
	r.Homes = slices.Delete(r.Homes, c.At, c.At+1)
	return nil
}

// SetSignUp says whether and how new people of a role sign up. What is nil
// stays as it is.
type SetSignUp struct {
	Role      string       `json:"role"`
	Mode      *SignUpMode  `json:"mode,omitempty"`
	Questions *[]FormField `json:"questions,omitempty"`
	Presets   *[]Preset    `json:"presets,omitempty"`
}

func (c *SetSignUp) apply(b *Blueprint) error {
	r, err := b.roleToEdit(c.Role)
	if err != nil {
		return err
	}
	if c.Mode != nil {
		r.SignUp.Mode = *c.Mode
	}
	if c.Questions != nil {
		r.SignUp.Questions = *c.Questions
	}
	if c.Presets != nil {
		r.SignUp.Presets = *c.Presets
	}
	return nil
}

// SetProfile says what people of a role find about themselves, and whether they
// can close their account. What is nil stays as it is.
type SetProfile struct {
	Role    string    `json:"role"`
	Fields  *[]string `json:"fields,omitempty"`
	Closing *Closing  `json:"closing,omitempty"`
}

func (c *SetProfile) apply(b *Blueprint) error {
	r, err := b.roleToEdit(c.Role)
	if err != nil {
		return err
	}
	if c.Fields != nil {
		r.Profile.Fields = *c.Fields
	}
	if c.Closing != nil {
		r.Profile.Closing = *c.Closing
	}
	return nil
}

// SetGiven says what the server fills in when a role adds to a table.
type SetGiven struct {
	Role  string   `json:"role"`
	Table string   `json:"table"`
	Given []Preset `json:"given"`
}

func (c *SetGiven) apply(b *Blueprint) error {
	rule, err := b.rule(c.Role, c.Table)
	if err == nil {
		rule.Given = c.Given
	}
	return err
}

// SetWays says in which ways people get in.
type SetWays struct {
	Ways []Way `json:"ways"`
}

func (c *SetWays) apply(b *Blueprint) error {
	b.Gate.Ways = c.Ways
	if len(c.Ways) == 0 {
		return problem("Leave at least one way in.")
	}
	return nil
}

// SetSession says how long people stay signed in.
type SetSession struct {
	Hours     *int `json:"hours"` // nil means the usual length
	Prolonged bool `json:"prolonged"`
	Each      bool `json:"each"`
	Asks      bool `json:"asks"`
}

func (c *SetSession) apply(b *Blueprint) error {
	s := SessionSettings{Prolonged: c.Prolonged, Each: c.Each, Asks: c.Asks}
	if c.Hours != nil {
		if *c.Hours < 1 || *c.Hours > MostSessionHours {
			return problem("People can stay signed in for 1 to %d hours, which is a year.", MostSessionHours)
		}
		s.Hours = *c.Hours
	}
	if s.Each {
		s.Asks, s.Prolonged = false, false
	}
	b.Gate.Session = s
	return nil
}

// SetSender says from whom mail comes.
type SetSender struct {
	Sender  string `json:"sender"`
	Address string `json:"address"`
}

func (c *SetSender) apply(b *Blueprint) error {
	b.Gate.Sender, b.Gate.Address = strings.TrimSpace(c.Sender), strings.TrimSpace(c.Address)
	return nil
}

// SetGateWords rewords a text of the gate's screens; "" brings back what it said.
type SetGateWords struct {
	Name GateWords `json:"name"`
	Text string    `json:"text"`
}

func (c *SetGateWords) apply(b *Blueprint) error {
	text := strings.TrimSpace(c.Text)
	if b.Gate.Words == nil {
		b.Gate.Words = map[GateWords]string{}
	}
	delete(b.Gate.Words, c.Name)
	if text != b.Gate.Says(c.Name) {
		b.Gate.Words[c.Name] = text
	}
	return nil
}

// SetGateMail rewords a mail of the gate; an empty one brings back what it said.
type SetGateMail struct {
	Mail    GateMail `json:"mail"`
	Subject string   `json:"subject"`
	Body    string   `json:"body"`
}

func (c *SetGateMail) apply(b *Blueprint) error {
	if b.Gate.Mails == nil {
		b.Gate.Mails = map[GateMail]Mail{}
	}
	delete(b.Gate.Mails, c.Mail)
	m := Mail{strings.TrimSpace(c.Subject), c.Body}
	if m.Subject != "" && strings.TrimSpace(m.Body) != "" && m != DefaultMail(c.Mail) {
		b.Gate.Mails[c.Mail] = m
	}
	return nil
}

// SetTerms says what people accept when they sign up.
type SetTerms Terms

func (c *SetTerms) apply(b *Blueprint) error {
	b.Gate.Terms = Terms{strings.TrimSpace(c.Version), strings.TrimSpace(c.Text), strings.TrimSpace(c.Privacy)}
	return nil
}

// forgetFieldOfGate takes a field out of what the gate asks for. A combination
// of fields that loses one would let in more easily, so all of it goes.
func (r *Role) forgetFieldOfGate(id string) {
	is := func(p Preset) bool { return p.Field == id }
	if slices.ContainsFunc(r.Match, func(m Match) bool { return m.Field == id || m.Via == id }) {
		r.Match = nil
	}
	r.SignUp.Questions = slices.DeleteFunc(r.SignUp.Questions, func(f FormField) bool { return f.Field == id })
	r.SignUp.Presets = slices.DeleteFunc(r.SignUp.Presets, is)
	r.Profile.Fields = slices.DeleteFunc(r.Profile.Fields, func(f string) bool { return f == id })
	for i := range r.Rules {
		r.Rules[i].Given = slices.DeleteFunc(r.Rules[i].Given, is)
	}
}

// forgetPeople leaves a role without people.
func (r *Role) forgetPeople() {
	r.People, r.Email, r.Where, r.Admit, r.Second = "", "", "", "", NoSecond
	r.Match, r.Homes, r.SignUp, r.Profile = nil, nil, SignUp{}, Profile{}
}
