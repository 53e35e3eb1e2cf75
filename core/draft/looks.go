package draft

import (
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// Bounds of what is proposed.
const (
	mostColumns = 6
	mostDetails = 12
	mostFilters = 3
)

// stateNames are what fields are called that say how far something is.
var stateNames = regexp.MustCompile(`(?i)\b(status|state|stage|phase|progress|step)s?\b`)

// state gives the field that says how far a record is, or nil.
func (p *pages) state(t *blueprint.Table) *blueprint.Field {
	for i := range t.Fields {
		f := &t.Fields[i]
		if f.Type != blueprint.Choose {
			continue
		}
		if l := p.b.List(f.List); stateNames.MatchString(f.Name) || l != nil && stateNames.MatchString(l.Name) {
			return f
		}
	}
	return nil
}

// pastNames are what dates are called that say what was once, which no calendar needs.
var pastNames = regexp.MustCompile(`(?i)\b(born|birth|birthday|since|joined|created|built|founded|registered)\b`)

// day gives the field that says when a record is, or nil; that of people is when they
// were born or came.
func (p *pages) day(t *blueprint.Table) *blueprint.Field {
	if slices.ContainsFunc(p.b.Roles, func(r blueprint.Role) bool { return r.People == t.ID }) {
		return nil
	}
	for i := range t.Fields {
		f := &t.Fields[i]
		if (f.Type == blueprint.Date || f.Type == blueprint.TimeStamp) && !pastNames.MatchString(f.Name) {
			return f
		}
	}
	return nil
}

// photo gives the first field of pictures, or nil.
func photo(t *blueprint.Table) *blueprint.Field {
	for i := range t.Fields {
		if t.Fields[i].Type == blueprint.Picture {
			return &t.Fields[i]
		}
	}
	return nil
}

// ways says how a list is shown: to those who see only what is theirs as cards or lines,
// to others as a board where there are states and a calendar where there are days.
func (p *pages) ways(t *blueprint.Table, own bool) []blueprint.ListWay {
	state, day := p.state(t), p.day(t)
	if own {
		if photo(t) != nil || state == nil {
			return []blueprint.ListWay{blueprint.CardsWay, blueprint.TableWay}
		}
		return []blueprint.ListWay{blueprint.LinesWay, blueprint.TableWay}
	}
	var out []blueprint.ListWay
	if state != nil {
		out = append(out, blueprint.BoardWay)
	}
	out = append(out, blueprint.TableWay)
	if day != nil {
		out = append(out, blueprint.CalendarWay)
	}
	if photo(t) != nil {
		out = append(out, blueprint.CardsWay)
	}
	return out
}

func wayNames(ways []blueprint.ListWay) string {
	var out []string
	for _, w := range ways {
		for _, o := range blueprint.ListWays() {
			if o.Value == string(w) {
				out = append(out, o.Words)
			}
		}
	}
	if len(out) < 2 {
		return strings.Join(out, "")
	}
	last := len(out) - 1
	return words.Say("made-ways", words.Args{"ways": strings.Join(out[:last], ", "), "last": out[last]})
}

// columns chooses what a list shows: what records are known by first, and no long texts.
func (p *pages) columns(t *blueprint.Table, except string) []string {
	var first, others []string
	known := labelFields(p.catalog, t)
	for i := range t.Fields {
		f := &t.Fields[i]
		switch f.Type {
		case blueprint.LongText, blueprint.RichText, blueprint.File, blueprint.Picture, blueprint.Links, blueprint.CreatedAt,
			blueprint.CreatedBy, blueprint.ChangedAt, blueprint.ChangedBy:
			continue
		}
		switch {
		case f.ID == except:
		case slices.Contains(known, f.ID):
			first = append(first, f.ID)
		default:
			others = append(others, f.ID)
		}
	}
	out := append(first, others...)
	return out[:min(len(out), mostColumns)]
}

// labelFields lists the fields of a table of which its label is made.
func labelFields(catalog *expr.Catalog, t *blueprint.Table) []string {
	c, err := expr.CheckAs(t.Label, expr.Scope{Catalog: catalog, Row: t.ID}, expr.Type{Kind: expr.Text})
	if err != nil {
		return nil // a label that cannot be read is told of elsewhere
	}
	var out []string
	for _, r := range c.Refs {
		if r.Table == t.ID && t.Field(r.Field) != nil {
			out = append(out, r.Field)
		}
	}
	return out
}

// details chooses what a page about a record shows.
func details(t *blueprint.Table) []string {
	var out []string
	for i := range t.Fields {
		if f := &t.Fields[i]; f.Type != blueprint.Links && len(out) < mostDetails {
			out = append(out, f.ID)
		}
	}
	return out
}

// filters chooses by what people can narrow a list.
func filters(t *blueprint.Table) []string {
	var out []string
	for _, types := range [][]blueprint.FieldType{{blueprint.Choose}, {blueprint.Link}, {blueprint.Date, blueprint.TimeStamp},
		{blueprint.YesNo}} {
		for i := range t.Fields {
			if f := &t.Fields[i]; slices.Contains(types, f.Type) && len(out) < mostFilters {
				out = append(out, f.ID)
			}
		}
	}
	return out
}

func lower(s string) string {
	first, size := utf8.DecodeRuneInString(s)
	if second, _ := utf8.DecodeRuneInString(s[size:]); unicode.IsUpper(second) {
		return s // an abbreviation
	}
	return string(unicode.ToLower(first)) + s[size:]
}
