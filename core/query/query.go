// Package query turns what to read, and as whom, into one PostgreSQL
// statement. Values enter only as parameters, and every table is read through
// the rules of the viewer.
package query

import (
	"fmt"
	"strings"

	"pinegate/core/access"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
)

// Context says what is read and as whom.
type Context struct {
	Schema    string // PostgreSQL schema of the app's environment
	Blueprint *blueprint.Blueprint
	Catalog   *expr.Catalog
	Viewer    access.Viewer
	Today     string // ISO 8601, in the app's time zone
	Page      string // id of the page's record, which the viewer is known to see, or ""
}

// Statement is a SQL text with its parameters.
type Statement struct {
	SQL  string
	Args []any
}

// Quote gives a name as a PostgreSQL identifier.
func Quote(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

// TableName gives the qualified name of a table.
func (c Context) TableName(t *blueprint.Table) string {
	return Quote(c.Schema) + "." + Quote(t.Key)
}

// builder collects the parameters and joins of one statement.
type builder struct {
	Context
	args []any
	next int
}

func (b *builder) param(value any, sqlType string) string {
	b.args = append(b.args, value)
	return fmt.Sprintf("$%d::%s", len(b.args), sqlType)
}

func (b *builder) alias(prefix string) string {
	b.next++
	return fmt.Sprintf("%s%d", prefix, b.next)
}

// maxJoins is how many links one statement may follow.
const maxJoins = 64

// source is a FROM clause that grows by the links that expressions follow.
type source struct {
	b       *builder
	base    string // alias of the row, or ""
	joins   []string
	aliases map[string]string
	// relation gives what stands for a table: the table itself for rules,
	// which see everything, or its view for whatever is shown.
	relation func(t *blueprint.Table) (string, error)
	me       func(table string) string // id of the signed-in person's record
}

// column gives the SQL of the value at the end of a path and joins the tables
// on the way, each once.
func (s *source) column(root expr.Root, path []*expr.Field, of string) (string, error) {
	switch {
	case len(path) == 0 && root == expr.RootRow:
		return s.base + ".id", nil
	case len(path) == 0:
		return s.rootID(root, of), nil
	case path[0].Table == expr.PersonTable:
		return s.person(path[0]), nil
	}
	last := path[len(path)-1]
	alias, err := s.follow(root, path[:len(path)-1], last.Table)
	return alias + "." + Quote(last.Key), err
}

// follow gives the alias of the record, of the table given, to which the links
// of a path lead.
func (s *source) follow(root expr.Root, links []*expr.Field, of string) (string, error) {
	at, key := s.base, string(root)
	table := func(i int) *blueprint.Table { // of the record after i links
		if i < len(links) {
			return s.b.Blueprint.Table(links[i].Table)
		}
		return s.b.Blueprint.Table(of)
	}
	var err error
	if root != expr.RootRow {
		var known bool
		if at, known = s.aliases[key]; !known { // a parameter that no join uses would be one too many
			if at, err = s.join(key, table(0), s.rootID(root, table(0).ID)); err != nil {
				return "", err
			}
		}
	}
	for i, f := range links {
		key += "." + f.ID
		if at, err = s.join(key, table(i+1), at+"."+Quote(f.Key)); err != nil {
			return "", err
		}
	}
	return at, nil
}

// rootID gives the parameter that is the id of the root record.
func (s *source) rootID(root expr.Root, table string) string {
	if root == expr.RootPage {
		return s.uuid(s.b.Page)
	}
	return s.uuid(s.me(table))
}

// person gives the e-mail or the name of a person of no particular table.
func (s *source) person(f *expr.Field) string {
	value := s.b.Viewer.Name
	if f.ID == "email" {
		value = s.b.Viewer.Email
	}
	return "NULLIF(" + s.b.param(value, "text") + ", '')"
}

func (s *source) uuid(id string) string {
	if id == "" {
		return "NULL::uuid"
	}
	return s.b.param(id, "uuid")
}

// join adds the record of a table with the id, unless it is there already.
func (s *source) join(key string, t *blueprint.Table, id string) (string, error) {
	if alias, ok := s.aliases[key]; ok {
		return alias, nil
	}
	if t == nil {
		return "", fmt.Errorf("build statement: %q leads to no table", key)
	}
	if len(s.aliases) >= maxJoins {
		return "", &blueprint.Problem{Message: "One list or text may follow at most 64 links; use fewer."}
	}
	relation, err := s.relation(t)
	if err != nil {
		return "", err
	}
	alias := s.b.alias("j")
	s.aliases[key] = alias
	s.joins = append(s.joins, fmt.Sprintf("LEFT JOIN %s %s ON %s.id = %s AND %s.deleted_at IS NULL", relation, alias, alias, id, alias))
	return alias, nil
}

func (s *source) compiler() *expr.Compiler {
	return &expr.Compiler{Column: s.column, Param: s.b.param, Catalog: s.b.Catalog, Today: s.b.Today, MeKnown: s.b.Viewer.SignedIn() && s.knownMe()}
}

func (s *source) knownMe() bool {
	for _, m := range s.b.Viewer.Memberships {
		if m.Record != "" {
			return true
		}
	}
	return false
}

// trusted is the source in which rules are decided: it sees everything.
func (b *builder) trusted(base, me string) *source {
	return &source{b: b, base: base, aliases: map[string]string{}, me: func(string) string { return me },
		relation: func(t *blueprint.Table) (string, error) { return b.TableName(t), nil }}
}

// seen is the source of what is shown to the viewer.
func (b *builder) seen(base string) *source {
	return &source{b: b, base: base, aliases: map[string]string{}, relation: b.view,
		me: func(table string) string { return b.Viewer.Me(b.Blueprint, table) }}
}

// granted compiles grants over the row of an alias into one condition each,
// with the joins that they need. No grants give no conditions.
func (b *builder) granted(alias string, grants []access.Grant) (conditions []string, joins []string, err error) {
	for _, g := range grants {
		if g.Condition == nil {
			conditions = append(conditions, "true")
			continue
		}
		s := b.trusted(alias, g.Me)
		c := s.compiler()
		c.MeKnown = g.Me != ""
		sql, err := c.Condition(g.Condition.Root)
		if err != nil {
			return nil, nil, fmt.Errorf("compile the rule of %s: %w", g.Role, err)
		}
		conditions = append(conditions, sql)
		joins = append(joins, s.joins...)
	}
	return conditions, joins, nil
}

// view is a table as the viewer gets it: only the records that a rule shows,
// and in each only the fields that the rules which show it let be seen.
func (b *builder) view(t *blueprint.Table) (string, error) {
	if b.Viewer.Founder {
		return b.TableName(t), nil
	}
	grants, err := access.Grants(b.Blueprint, b.Catalog, b.Viewer, t.ID, blueprint.See)
	if err != nil {
		return "", err
	}
	x := b.alias("x")
	conditions, joins, err := b.granted(x, grants)
	if err != nil {
		return "", err
	}
	columns := []string{x + ".id", x + ".revision", x + ".deleted_at"}
	for _, f := range t.Fields {
		columns = append(columns, maskedColumn(x, &f, grants, conditions)+" AS "+Quote(f.Key))
	}
	where := "false"
	if len(conditions) > 0 {
		where = strings.Join(conditions, " OR ")
	}
	return fmt.Sprintf("(SELECT %s FROM %s %s %s WHERE %s.deleted_at IS NULL AND (%s))",
		strings.Join(columns, ", "), b.TableName(t), x, strings.Join(joins, " "), x, where), nil
}

// maskedColumn gives the column, NULL in the records that only show it by
// grants which hide it.
func maskedColumn(alias string, f *blueprint.Field, grants []access.Grant, conditions []string) string {
	column := alias + "." + Quote(f.Key)
	var showing []string
	for i, g := range grants {
		if g.Shows(f.ID) {
			showing = append(showing, conditions[i])
		}
	}
	switch len(showing) {
	case len(grants):
		return column
	case 0:
		return "NULL::" + ColumnType(f.Type)
	}
	return fmt.Sprintf("CASE WHEN %s THEN %s END", strings.Join(showing, " OR "), column)
}

// ColumnType gives the PostgreSQL type that holds a field.
func ColumnType(t blueprint.FieldType) string {
	switch t {
	case blueprint.Number:
		return "numeric"
	case blueprint.YesNo:
		return "boolean"
	case blueprint.Date:
		return "date"
	case blueprint.Link:
		return "uuid"
	}
	return "text"
}

// Permitted builds the statement that finds, locked, the record with the id if
// the viewer's grants reach it with all the fields given. It looks at the
// record as it is in the transaction that runs it.
func Permitted(c Context, t *blueprint.Table, id string, action blueprint.Action, fields []string) (Statement, error) {
	b := &builder{Context: c}
	where := []string{"r.id = " + b.param(id, "uuid"), "r.deleted_at IS NULL"}
	var joins []string
	if !c.Viewer.Founder {
		grants, err := access.Grants(c.Blueprint, c.Catalog, c.Viewer, t.ID, action)
		if err != nil {
			return Statement{}, err
		}
		var fitting []access.Grant
		for _, g := range grants {
			if setsAll(g, fields) {
				fitting = append(fitting, g)
			}
		}
		conditions, more, err := b.granted("r", fitting)
		if err != nil {
			return Statement{}, err
		}
		joins = more
		where = append(where, "("+strings.Join(append(conditions, "false"), " OR ")+")")
	}
	sql := fmt.Sprintf("SELECT r.revision FROM %s r %s WHERE %s FOR UPDATE OF r", c.TableName(t), strings.Join(joins, " "), strings.Join(where, " AND "))
	return Statement{sql, b.args}, nil
}

func setsAll(g access.Grant, fields []string) bool {
	for _, f := range fields {
		if !g.Sets(f) {
			return false
		}
	}
	return true
}
