package blueprint

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"pinegate/core/expr"
)

// Problem is a reason, in words for the founder, why a blueprint or a change
// cannot be accepted. Slot names the setting that is wrong, where one is.
type Problem struct {
	Message string
	Slot    string
	Cause   *expr.Error
}

func (p *Problem) Error() string { return p.Message }

// Unwrap gives the mistake in an expression, where that is the problem.
func (p *Problem) Unwrap() error {
	if p.Cause == nil {
		return nil
	}
	return p.Cause
}

func problem(format string, args ...any) error {
	return &Problem{Message: fmt.Sprintf(format, args...)}
}

const maxName = 80

// Ids are part of the names of what is set aside, which have to stay within
// PostgreSQL's 63 bytes.
var idPattern = regexp.MustCompile(`^[a-z][a-z0-9_]{0,23}$`)
var keyPattern = regexp.MustCompile(`^[a-z][a-z0-9_]{0,47}$`)
var pathPattern = regexp.MustCompile(`^[a-z][a-z0-9-]{0,47}$`)

// Validate gives the first thing that is wrong with the blueprint, or nil.
func (b *Blueprint) Validate() error {
	if b.Format != Format {
		return problem("This app is written in format %d; this version reads format %d.", b.Format, Format)
	}
	if err := checkName("The app", b.Name); err != nil {
		return err
	}
	if !slices.Contains(Themes(), b.Theme) {
		return problem("There is no theme %q.", b.Theme)
	}
	if _, err := time.LoadLocation(b.Zone); err != nil || b.Zone == "Local" {
		return problem("%q is no time zone; choose one such as Europe/Lisbon.", b.Zone)
	}
	for _, check := range []func() error{b.checkIDs, b.checkLists, b.checkTables, b.checkTypes, b.checkRoles, b.checkGate, b.checkExpectations, b.checkPages, b.checkExpressions} {
		if err := check(); err != nil {
			return err
		}
	}
	return nil
}

func checkName(what, name string) error {
	switch {
	case strings.TrimSpace(name) == "":
		return problem("%s needs a name.", what)
	case utf8.RuneCountInString(name) > maxName:
		return problem("A name may have at most %d characters.", maxName)
	case strings.ContainsAny(name, "[]{}\x00\n\r") || !utf8.ValidString(name):
		return problem("A name may not contain brackets, braces or line breaks.")
	}
	return nil
}

// unique refuses the second of two equal names.
func unique(what string, names []string) error {
	seen := map[string]bool{}
	for _, n := range names {
		low := strings.ToLower(strings.TrimSpace(n))
		if seen[low] {
			return problem("There are two %s named %q; give one another name.", what, n)
		}
		seen[low] = true
	}
	return nil
}

func (b *Blueprint) checkIDs() error {
	seen := map[string]bool{}
	for _, id := range b.ids() {
		if !idPattern.MatchString(id) {
			return problem("%q is not an id.", id)
		}
		if seen[id] {
			return problem("The id %q is used twice.", id)
		}
		seen[id] = true
	}
	return nil
}

func (b *Blueprint) ids() []string {
	var out []string
	for _, l := range b.Lists {
		out = append(out, l.ID)
		for _, c := range l.Choices {
			out = append(out, c.ID)
		}
		for _, c := range l.Columns {
			out = append(out, c.ID)
		}
	}
	for _, t := range b.Tables {
		out = append(out, t.ID)
		for _, f := range t.Fields {
			out = append(out, f.ID)
		}
	}
	for _, r := range b.Roles {
		out = append(out, r.ID)
	}
	for _, e := range b.Expectations {
		out = append(out, e.ID)
	}
	for _, p := range b.Pages {
		out = append(out, p.ID)
		for _, x := range p.Blocks {
			out = append(out, x.ID)
		}
	}
	return out
}

func (b *Blueprint) checkTables() error {
	var names, keys []string
	for i := range b.Tables {
		t := &b.Tables[i]
		if err := checkName("A table", t.Name); err != nil {
			return err
		}
		if !keyPattern.MatchString(t.Key) {
			return problem("%q cannot be the key of a table.", t.Key)
		}
		names, keys = append(names, t.Name), append(keys, t.Key)
		if err := b.checkFields(t); err != nil {
			return err
		}
	}
	if err := unique("tables", names); err != nil {
		return err
	}
	return unique("table keys", keys)
}

func (b *Blueprint) checkRoles() error {
	if b.Role(VisitorRole) == nil {
		return problem("An app needs a role for visitors.")
	}
	var names []string
	for i := range b.Roles {
		r := &b.Roles[i]
		if err := checkName("A role", r.Name); err != nil {
			return err
		}
		names = append(names, r.Name)
		if err := b.checkPeople(r); err != nil {
			return err
		}
		for _, rule := range r.Rules {
			if err := b.checkRule(r, rule); err != nil {
				return err
			}
		}
	}
	return unique("roles", names)
}

func (b *Blueprint) checkPeople(r *Role) error {
	if r.People == "" && r.Email == "" {
		return nil
	}
	if r.ID == VisitorRole {
		return problem("Visitors are not signed in, so no table holds them.")
	}
	t := b.Table(r.People)
	if t == nil {
		return problem("Say which table the people of %s are in.", r.Name)
	}
	if f := t.Field(r.Email); f == nil || f.Type != Email {
		return problem("Say which e-mail field of %s holds the e-mail of %s. If there is none, add a field of the type e-mail first.", t.Name, r.Name)
	}
	return nil
}

func (b *Blueprint) checkRule(r *Role, rule Rule) error {
	t := b.Table(rule.Table)
	if t == nil {
		return problem("A rule of %s is about a table that is not there.", r.Name)
	}
	for _, a := range Actions() {
		p := rule.Permission(a)
		switch p.Extent {
		case "", NoRecords, AllRecords:
		case Where:
			if strings.TrimSpace(p.Condition) == "" {
				return problem("Say which records of %s %s may %s.", t.Name, r.Name, a)
			}
		default:
			return problem("A permission is none, all or where, not %q.", p.Extent)
		}
	}
	for _, id := range append(slices.Clone(rule.Hidden), rule.Fixed...) {
		if t.Field(id) == nil {
			return problem("A rule of %s is about a field that %s does not have.", r.Name, t.Name)
		}
	}
	return checkPresets(t, rule.Given, "what is filled in for "+r.Name)
}

func (b *Blueprint) checkExpressions() error {
	for _, u := range b.uses() {
		if _, err := u.check(); err != nil {
			var e *expr.Error
			if !errors.As(err, &e) {
				return err
			}
			return &Problem{Message: fmt.Sprintf("%s%s: %s", strings.ToUpper(u.where[:1]), u.where[1:], e.Error()), Cause: e}
		}
	}
	return nil
}
