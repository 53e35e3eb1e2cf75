package blueprint

import (
	"errors"
	"regexp"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

const maxName = 80

// Ids are part of the names of what is set aside, which have to stay within
// PostgreSQL's 63 bytes.
var (
	idPattern      = regexp.MustCompile(`^[a-z][a-z0-9_]{0,23}$`)
	keyPattern     = regexp.MustCompile(`^[a-z][a-z0-9_]{0,47}$`)
	pathPattern    = regexp.MustCompile(`^[a-z][a-z0-9-]{0,47}$`)
	colourPattern  = regexp.MustCompile(`^#[0-9A-Fa-f]{6}$`)
	picturePattern = regexp.MustCompile(`^[0-9a-f-]{36}$`)
)

// Validate gives the first thing that is wrong with the blueprint, or nil.
func (b *Blueprint) Validate() error {
	if b.Format != Format {
		return words.New("format", "format", b.Format, "known", Format)
	}
	if b.Role(VisitorRole) == nil {
		return words.New("gone", "thing", "role of visitors")
	}
	if _, err := time.LoadLocation(b.Zone); err != nil || b.Zone == "Local" {
		return words.New("zone", "zone", b.Zone)
	}
	for _, check := range []func() error{b.checkIDs, b.checkNames, b.checkPlaces, b.checkTypes} {
		if err := check(); err != nil {
			return err
		}
	}
	return nil
}

// nameRight tells what is wrong with a name, or nil.
func nameRight(name string) *words.Problem {
	if strings.ContainsAny(name, "[]{}\x00\n\r") || !utf8.ValidString(name) {
		return words.New("name-signs")
	}
	return nil
}

func (b *Blueprint) checkIDs() error {
	seen := map[string]bool{}
	for p := range b.Places {
		switch p.What {
		case "app", "gate", "rule", "role form", "flow form": // they are not named by themselves
			continue
		}
		if !idPattern.MatchString(p.ID) {
			return words.New("id", "id", p.ID)
		}
		if seen[p.ID] {
			return words.New("id-twice", "id", p.ID)
		}
		seen[p.ID] = true
	}
	return nil
}

// checkNames refuses the second of two equal names, keys or addresses.
func (b *Blueprint) checkNames() error {
	seen := map[string]bool{}
	for p := range b.Places {
		name, key := "", ""
		switch x := p.Thing.(type) {
		case *Table:
			name, key = x.Name, x.Key
		case *Field:
			name, key = x.Name, x.Key
		case *ChoiceList:
			name = x.Name
		case *ListColumn:
			name, key = x.Name, x.Key
		case *Choice:
			name = x.Label
		case *Role:
			name = x.Name
		case *Page:
			name, key = x.Name, x.Path
		case *Part:
			name = x.Name
		case *Input:
			name, key = x.Name, x.Key
		case *OwnValue:
			name = x.Name
		case *Kept:
			name, key = x.Name, x.Key
		case *Workflow:
			name = x.Name
		case *Rule:
			name = x.Table
		default:
			continue
		}
		for kind, text := range map[string]string{"name": strings.ToLower(trim(name)), "key": key} {
			if text == "" {
				continue
			}
			at := kind + " " + p.What + " " + p.In + " " + text
			if seen[at] {
				return words.New("same-name", "name", name)
			}
			seen[at] = true
		}
	}
	return nil
}

// checkPlaces checks every setting of every thing.
func (b *Blueprint) checkPlaces() error {
	for p := range b.Places {
		if x, ok := p.Thing.(Block); ok && (p.Context.row != "" && !x.Row().InRows || !x.Row().fits(p.Context.form) ||
			p.Context.asks != nil && x.Row() == &withKind ||
			p.Context.flow != nil && (x.Row() == &withKind || x.Row() == &questionKind)) {
			return p.problem(words.New("block-not-here", "block", x.Row().Noun), prop.Prop{})
		}
		if x, ok := p.Thing.(Step); ok && !p.Context.TakesStep(x.Row()) {
			return p.problem(words.New("step-not-here", "step", x.Row().Noun), prop.Prop{})
		}
		for _, x := range p.Props() {
			if err := p.checkProp(x); err != nil {
				return err
			}
		}
		if c, ok := p.Thing.(checker); ok {
			if wrong := c.Check(p.Context); wrong != nil {
				return p.problem(wrong, prop.Prop{})
			}
		}
	}
	return nil
}

func (p Place) checkProp(x prop.Prop) error {
	if x.Must && x.Zero() {
		return p.problem(words.New("must"), x)
	}
	if wrong := x.Wrong(); wrong != nil {
		return p.problem(wrong, x)
	}
	for _, r := range x.Refs() {
		if _, ok := r.To.Find(r.ID); !ok {
			return p.problem(words.New("not-offered", "value", p.Context.nameAny(r.ID)), x)
		}
	}
	for _, e := range x.Exprs() {
		if _, err := e.Check(); err != nil {
			var mistake *expr.Error
			if !errors.As(err, &mistake) {
				return err
			}
			wrong := words.New("expression", "use", p.use(x, e.About), "error", mistake.Error()).With(mistake)
			wrong.Slot = x.Name
			return wrong
		}
	}
	return nil
}

// nameAny gives the name of whatever has the id, or the id.
func (c Context) nameAny(id string) string {
	if c.b == nil {
		return id
	}
	for p := range c.b.Places {
		if p.ID == id {
			return p.Called()
		}
	}
	return id
}

// checkTypes tells of computed fields whose type cannot be found.
func (b *Blueprint) checkTypes() error {
	catalog := b.Catalog()
	for _, t := range b.Tables {
		for _, f := range catalog.Tables[t.ID].Fields {
			if err := f.Err(); err != nil {
				var mistake *expr.Error
				errors.As(err, &mistake)
				return words.New("computed", "field", f.Name, "table", t.Name, "error", err.Error()).With(mistake)
			}
		}
	}
	return nil
}

func trim(s string) string { return strings.TrimSpace(s) }

// lower makes the first letter of a label small, unless it begins an abbreviation.
func lower(s string) string {
	first, size := utf8.DecodeRuneInString(s)
	if second, _ := utf8.DecodeRuneInString(s[size:]); unicode.IsUpper(second) {
		return s
	}
	return string(unicode.ToLower(first)) + s[size:]
}
