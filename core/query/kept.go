package query

import (
	"slices"
	"strconv"
	"strings"
)

// Lists are asked for again and again: when a page is opened, and by everybody
// who looks at it whenever something is written. So the statement of a list is
// kept with the blueprint, by all that it was built from. One that depends on
// the time of day is built each time.

// mostKept is how many statements are kept with a blueprint.
const mostKept = 512

// keep gives the statement that was built for the same list and viewer before,
// or else builds it.
func (c Context) keep(l Selection, build func() (Statement, bool, error)) (Statement, error) {
	memo := c.Blueprint.Statements()
	if memo == nil || c.Catalog != c.Blueprint.Catalog() || l.Filter != nil && l.FilterName == "" {
		stmt, _, err := build()
		return stmt, err
	}
	key := c.key(l)
	if stmt, ok := memo.Get(key).(Statement); ok {
		return Statement{stmt.SQL, slices.Clone(stmt.Args)}, nil
	}
	stmt, timed, err := build()
	if err == nil && !timed {
		memo.Put(key, Statement{stmt.SQL, slices.Clone(stmt.Args)}, mostKept)
	}
	return stmt, err
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
	part(l.Table.ID, l.FilterName, l.Search, l.After, l.ID, strconv.Itoa(l.Limit), strconv.FormatBool(l.Bin), strconv.FormatBool(l.Newest))
	part(l.Columns...)
	for _, s := range l.Sorts {
		part(s.Field, s.Column, strconv.FormatBool(s.Falling))
	}
	equals := make([]string, 0, len(l.Equals))
	for id := range l.Equals {
		equals = append(equals, id)
	}
	slices.Sort(equals)
	for _, id := range equals {
		part(id, l.Equals[id])
	}
	return b.String()
}
