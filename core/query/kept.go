package query

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
)

// Lists are asked for again and again: when a page is opened, and by everybody
// who looks at it whenever something is written. So the statement of a list is
// kept with the blueprint, by all that it was built from. What differs from person
// to person is not among that: it is built with stands-in for their values, which
// are put into its parameters when it is used, so that one statement serves all
// people of a role. One that depends on the time of day is built each time.

// mostKept is how many statements are kept with a blueprint, those that were used
// last.
const mostKept = 512

// standIn is how the stands-in begin. They are ids as those of records, and no
// record has one.
const standIn = "00000000-5eed-4000-8000-0000000000"

// keep gives the statement that was built for the same list and viewers of the same
// kind before, or else builds it.
func (c Context) keep(l Selection, build func(Context, Selection) (Statement, bool, error)) (Statement, error) {
	memo := c.Blueprint.Statements()
	unnamed := l.FilterName == "" && (l.Filter != nil || len(l.Texts) > 0)
	if memo == nil || c.Catalog != c.Blueprint.Catalog() || unnamed || l.mentions(standIn) {
		stmt, _, err := build(c, l)
		return stmt, err
	}
	general, list, values := c.general(l)
	key := general.key(list)
	stmt, known := memo.Get(key).(Statement)
	if !known {
		var timed bool
		var err error
		if stmt, timed, err = build(general, list); err != nil {
			return stmt, err
		}
		if !timed {
			memo.Put(key, stmt, mostKept)
		}
	}
	return Statement{stmt.SQL, filledIn(stmt.Args, values)}, nil
}

// general gives the same context and list with stands-in for what is of a person,
// the page's record and the record asked for, and what they stand for. What is
// empty stays so, as statements differ by that.
func (c Context) general(l Selection) (Context, Selection, map[string]string) {
	values := map[string]string{}
	general := func(value string) string {
		if value == "" {
			return ""
		}
		name := fmt.Sprintf("%s%02x", standIn, len(values))
		values[name] = value
		return name
	}
	c.Page, l.ID = general(c.Page), general(l.ID)
	c.Viewer.Email, c.Viewer.Name = general(c.Viewer.Email), general(c.Viewer.Name)
	c.Viewer.Memberships = slices.Clone(c.Viewer.Memberships)
	for i := range c.Viewer.Memberships {
		c.Viewer.Memberships[i].Record = general(c.Viewer.Memberships[i].Record)
	}
	kept := map[string]string{}
	for _, id := range slices.Sorted(maps.Keys(c.Kept)) {
		kept[id] = general(c.Kept[id])
	}
	c.Kept = kept
	return c, l, values
}

// filledIn gives parameters with what stands-in stand for.
func filledIn(args []any, values map[string]string) []any {
	out := slices.Clone(args)
	for i, x := range out {
		if text, ok := x.(string); ok {
			if value, is := values[text]; is {
				out[i] = value
			}
		}
	}
	return out
}

// mentions tells whether somebody asks for a text in which another stands.
func (l Selection) mentions(text string) bool {
	for _, n := range l.Narrows {
		if strings.Contains(strings.Join(n.In, " ")+n.From+n.To+n.Since+n.Under, text) || n.Is != nil && strings.Contains(*n.Is, text) {
			return true
		}
	}
	return strings.Contains(l.Search, text) || strings.Contains(l.After, text)
}

// key writes down all that the statement of a list is built from. Each part
// stands behind its length, so that no part can be taken for another.
func (c Context) key(l Selection) string {
	var b strings.Builder
	part := func(parts ...string) {
		for _, s := range parts {
			b.WriteString(strconv.Itoa(len(s)))
			b.WriteByte(':')
			b.WriteString(s)
		}
		b.WriteByte(';')
	}
	v := c.Viewer
	part(c.Schema, c.Page, strconv.FormatBool(v.Founder), v.Email, v.Name, c.Clock.Zone.String())
	for _, m := range v.Memberships {
		part(m.Role, m.Record)
	}
	for _, id := range slices.Sorted(maps.Keys(c.Kept)) {
		part(id, c.Kept[id])
	}
	part(l.Table.ID, l.FilterName, l.Search, l.After, l.ID, strconv.Itoa(l.Limit), strconv.FormatBool(l.Bin), strconv.FormatBool(l.Newest))
	part(strconv.Itoa(len(l.Texts)), l.Each)
	part(l.Columns...)
	for _, s := range l.Sorts {
		part(s.Field, s.Column, strconv.FormatBool(s.Falling))
	}
	for _, n := range l.Narrows {
		part(n.Field, n.Or, n.From, n.To, n.Since, n.Under, strconv.FormatBool(n.None), strconv.FormatBool(n.Is != nil))
		if n.Is != nil {
			part(*n.Is)
		}
		part(n.In...)
	}
	return b.String()
}
